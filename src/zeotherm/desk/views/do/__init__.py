"""Do: the work order, step by step."""

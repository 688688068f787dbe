"""The workshop's own file, and the one thread that has it."""

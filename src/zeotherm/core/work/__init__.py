"""Work in order: what comes next, how hot, how long to wait, and what proves it."""

"""Further toolheads on the screen."""

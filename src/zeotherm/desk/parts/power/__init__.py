"""The power path on the screen."""

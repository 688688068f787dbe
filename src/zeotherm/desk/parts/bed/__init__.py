"""The bed on the screen."""

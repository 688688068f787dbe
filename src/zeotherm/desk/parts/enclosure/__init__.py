"""The enclosure on the screen."""

"""The hotend on the screen."""

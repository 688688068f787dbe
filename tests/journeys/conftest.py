"""The window fixture."""

from tests.window import open_window

__all__ = ["open_window"]

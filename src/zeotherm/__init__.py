"""Zeotherm: heat flow in 3D printer hotends, for the repair bench."""

__version__ = "0.27.0"

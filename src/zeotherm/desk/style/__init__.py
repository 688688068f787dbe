"""Colours, type and shapes."""

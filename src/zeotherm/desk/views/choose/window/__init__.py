"""The window: temperature against flow, what widens it, and settings to copy."""

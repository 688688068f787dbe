"""Widgets: each takes a frozen view-model, paints it, and emits what the person means."""

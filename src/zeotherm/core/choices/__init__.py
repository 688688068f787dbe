"""Options side by side."""

"""Views: one a step of the work."""

"""A face for each part of a machine."""

"""The hotend: shape, parts, air, field and stations."""

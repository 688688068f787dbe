"""The hotend."""

"""The heated bed."""

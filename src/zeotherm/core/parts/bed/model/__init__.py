"""The heated bed: its stack through the thickness, its field over the plane, and both in time."""

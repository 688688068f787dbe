"""The heated bed judged: its limits, how sure, what would help, and how large a change must be."""

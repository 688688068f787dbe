"""The enclosure: its air in two heights, its walls, what heats it and what lets heat out."""

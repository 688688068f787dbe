"""The enclosure and what sits in it."""

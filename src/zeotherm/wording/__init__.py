"""Sentences, numbers and units for people: the same for window, report and command line."""

"""Intake: what was told, and what may cause it."""

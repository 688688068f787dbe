"""Explain: one part of the machine at a time."""

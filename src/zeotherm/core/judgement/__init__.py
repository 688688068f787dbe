"""Limits and margins with their bands, and the verdict they add up to."""

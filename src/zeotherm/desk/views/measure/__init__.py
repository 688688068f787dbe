"""Measure: runs and pictures."""

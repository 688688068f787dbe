"""Measured series, and how they stand to the model."""

"""Turns a machine into solver models and reads results back as named stations."""

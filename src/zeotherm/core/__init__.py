"""Computation: no window, no files, no clocks, no network."""

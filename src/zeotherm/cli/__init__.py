"""The command line: the same answers without a screen."""

from zeotherm.cli import beds, building, chambers, jobs, measuring, power, shelf, working, workshop
from zeotherm.cli.group import main

__all__ = ["beds", "building", "chambers", "jobs", "main", "measuring", "power", "shelf", "working", "workshop"]

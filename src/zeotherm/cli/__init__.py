"""The command line: the same answers without a screen."""

from zeotherm.cli import beds, chambers, jobs, measuring, power, shelf, working, workshop
from zeotherm.cli.group import main

__all__ = ["beds", "chambers", "jobs", "main", "measuring", "power", "shelf", "working", "workshop"]

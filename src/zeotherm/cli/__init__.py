"""The command line: the same answers without a screen."""

from zeotherm.cli import jobs, measuring, working
from zeotherm.cli.group import main

__all__ = ["jobs", "main", "measuring", "working"]

"""The command line: the same answers without a screen."""

from zeotherm.cli import jobs, measuring
from zeotherm.cli.group import main

__all__ = ["jobs", "main", "measuring"]

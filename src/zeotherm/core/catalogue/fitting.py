"""Which entries of a shelf go into a choice of a machine."""

from __future__ import annotations

from typing import Any

from zeotherm.core.catalogue.shelves import Catalogue
from zeotherm.core.machine.documents import Setup
from zeotherm.core.machine.patches import value_at
from zeotherm.core.machine.quantity import Choice
from zeotherm.core.machine.supplies import FIRST, MAINS, SUPPLIES


def fitting(item: Choice, setup: Setup, catalogue: Catalogue) -> dict[str, Any]:
    """Those that go with what is there: breaks of the hotend's bore, supplies that the machine has; all of anything
    else."""
    shelf = catalogue.shelf(item.shelf)
    if item.shelf == "power_sources":
        return {key: entry for key, entry in shelf.items() if key in _sources(item.path, setup)}
    hotend = catalogue.hotends.get(setup.hotend.template)
    if item.shelf == "hotends" or hotend is None:
        return shelf
    return {key: entry for key, entry in shelf.items() if getattr(entry, "bore", hotend.bore) == hotend.bore}


def offering(item: Choice, setup: Setup, catalogue: Catalogue) -> dict[str, Any]:
    """Those of them that anybody would choose, with what is fitted now."""
    now, fits = str(value_at(setup, item.path)), fitting(item, setup, catalogue)
    return {key: entry for key, entry in fits.items() if getattr(entry, "offered", True) or key == now}


def _sources(path: str, setup: Setup) -> set[str]:
    """What may feed a load, or a further supply: not itself, and loads are not fed from the outlet."""
    there = {FIRST, *setup.supplies}
    head, _dot, rest = path.partition(".")
    return {MAINS, *there} - {rest.partition(".")[0]} if head == SUPPLIES else there

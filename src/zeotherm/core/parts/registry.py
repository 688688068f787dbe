"""The parts of a machine besides its hotend, in the order in which they are shown: the one list of them."""

from __future__ import annotations

from typing import Any

from zeotherm.core.catalogue.shelves import plug, unplug
from zeotherm.core.catalogue.stations import STATIONS
from zeotherm.core.machine.documents import Setup, declare, undeclare
from zeotherm.core.parts.bed.part import PART as BED
from zeotherm.core.parts.enclosure.part import PART as ENCLOSURE
from zeotherm.core.parts.part import Part
from zeotherm.core.parts.power.part import PART as POWER
from zeotherm.core.parts.toolheads.part import PART as TOOLHEADS

PARTS: dict[str, Part[Any]] = {}


def add(part: Part[Any]) -> None:
    """Take up a part: where a setup has no field for it, it is given one; its stations, limits and levers count.

    Raises ValueError for a key that another part has.
    """
    if part.key in PARTS:
        raise ValueError(f"there is a part '{part.key}' already")
    if part.key not in Setup.model_fields:
        declare(part.key, part.declares)
    STATIONS.update(part.stations)
    if part.shelf:
        plug(part.key, dict(part.shelf))
    PARTS[part.key] = part


def remove(part: Part[Any]) -> None:
    """Take a part out again that was added beyond those that ship."""
    del PARTS[part.key]
    undeclare(part.key)
    for key in part.stations:
        del STATIONS[key]
    unplug(part.key)


for one in (BED, ENCLOSURE, POWER, TOOLHEADS):
    add(one)

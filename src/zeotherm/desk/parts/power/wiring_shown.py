"""A way of wiring as it is drawn: parts with their end points, wires between them, and where it is wrong."""

from __future__ import annotations

from dataclasses import dataclass

from zeotherm.core.catalogue import Catalogue
from zeotherm.core.machine.wiring import Wiring
from zeotherm.core.parts.power.judge.nets import BrokenRule, points_of

# Where each part stands, as shares of the sheet: middle across, middle down.
PLACES = {
    "module": {"supply": (0.0, 0.36), "fuse": (0.30, 0.06), "module": (0.54, 0.38), "cutoff": (0.80, 0.06),
               "bed": (1.0, 0.52), "board": (0.28, 0.84)},
    "mains": {"wall": (0.0, 0.18), "inlet_fuse": (0.32, 0.0), "inlet_switch": (0.34, 0.46), "fuse": (0.55, 0.0),
              "switch": (0.62, 0.46), "cutoff": (0.79, 0.0), "bed": (1.0, 0.58), "supply": (0.0, 0.82),
              "board": (0.52, 1.0)},
}  # fmt: skip


@dataclass(frozen=True, slots=True)
class PartBox:
    """A part with its end points."""

    key: str
    label: str
    x: float
    y: float
    points: tuple[tuple[str, str], ...]  # end, label


@dataclass(frozen=True, slots=True)
class WireLine:
    """A wire, its number, and whether a fault speaks of one of its ends."""

    number: int
    ends: tuple[str, str]
    mm2: float
    wrong: bool


@dataclass(frozen=True, slots=True)
class WiringView:
    """Everything that is drawn of a way of wiring."""

    parts: tuple[PartBox, ...]
    wires: tuple[WireLine, ...]
    wrong_ends: frozenset[str]
    spoken: str


def wiring_view(wiring: Wiring, faults: list[BrokenRule], catalogue: Catalogue, spoken: str) -> WiringView:
    """A way of wiring as it is drawn."""
    places = PLACES[wiring.kind]
    wrong = frozenset(end for one in faults for end in one.ends)
    parts = tuple(
        PartBox(key, entry.label, *places[key], points_of(key, entry, wiring.kind))
        for key, entry in catalogue.terminals.items()
        if wiring.kind in entry.kinds and key in places
    )
    wires = tuple(
        WireLine(n, (link.ends[0], link.ends[1]), link.mm2, bool(wrong.intersection(link.ends)))
        for n, link in enumerate(wiring.links, 1)
    )
    return WiringView(parts, wires, wrong, spoken)

"""How hot a step may make the block: what the plastic asks for, capped by the weakest fitted part."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from zeotherm.core.catalogue.entry import Figure
from zeotherm.core.catalogue.procedures import HeatRule
from zeotherm.core.catalogue.shelves import Catalogue
from zeotherm.core.machine.documents import Setup

LINER = "liner_end"  # the limit of a PTFE liner


@dataclass(frozen=True, slots=True)
class Cap:
    """What one fitted part stands [°C], the lower edge of its limit's band."""

    part: str
    value: float
    source: str


@dataclass(frozen=True, slots=True)
class Target:
    """The temperature of a step [°C]."""

    value: float  # what is offered: the wish, or the cap
    wish: float
    least: float
    cap: Cap | None  # the weakest part; None where nothing that is warmed has a limit

    @property
    def offered(self) -> bool:
        """Whether the step does at this temperature what it is for."""
        return self.value >= self.least

    @property
    def capped(self) -> bool:
        """Whether a part holds it below the wish."""
        return self.value < self.wish


def has_liner(setup: Setup, catalogue: Catalogue) -> bool:
    """Whether a PTFE liner reaches down to where the block may warm it."""
    return catalogue.hotends[setup.hotend.template].tube_end != "break"


def caps(setup: Setup, catalogue: Catalogue, *, liner: bool = True) -> list[Cap]:
    """What each part at the block stands, weakest first; liner: whether it is in the hotend now.

    The lower edge of the catalogue's figure, value less tolerance: what is known to hold, not what mostly holds.
    """
    shape = catalogue.hotends[setup.hotend.template]
    sleeve = catalogue.sleeves[setup.hotend.sleeve]
    block, nozzle = catalogue.materials[shape.block_material], catalogue.materials[shape.nozzle_material]
    found = [_cap(catalogue.sensors[setup.hotend.sensor].label, catalogue.sensors[setup.hotend.sensor].service_c)]
    if sleeve.thickness_mm.value > 0.0:
        found.append(_cap(sleeve.label, sleeve.service_c))
    for label, material in (("block", block), ("nozzle", nozzle)):
        if material.service_c is not None:
            found.append(_cap(f"{label}, {material.label}", material.service_c))
    if liner and has_liner(setup, catalogue):
        limit = catalogue.limits[LINER]
        assert limit.value is not None
        found.append(Cap("PTFE liner", limit.value - limit.tolerance, limit.source))
    return sorted(found, key=lambda cap: cap.value)


def target(rule: HeatRule, setup: Setup, catalogue: Catalogue, *, liner: bool = True, source: bool = False) -> Target:
    """The temperature of a step by its rule.

    source: it is a body off the machine that is warmed, by a gun or a flame, not the block: nothing of the block caps
    it. A sensor that reads low lets the block run hotter than shown by so much: that much is kept off the cap.
    """
    wish = max(_figure(name, setup, catalogue) + add for name, add in rule.of.items())
    least = max(_figure(name, setup, catalogue) + add for name, add in rule.least.items())
    if source:
        return Target(wish, wish, least, None)
    weakest = caps(setup, catalogue, liner=liner)[0]
    most = weakest.value + min(setup.hotend.sensor_offset_k, 0.0)
    return Target(min(wish, most), wish, least, weakest)


def _figure(name: str, setup: Setup, catalogue: Catalogue) -> float:
    figures: Mapping[str, float] = {"nozzle": setup.printing.nozzle_c, "degrees": 0.0}
    if name in figures:
        return figures[name]
    figure: Figure = getattr(catalogue.filaments[setup.printing.filament], name)
    return figure.value


def _cap(label: str, figure: Figure) -> Cap:
    return Cap(label, figure.value - figure.tolerance, figure.source)

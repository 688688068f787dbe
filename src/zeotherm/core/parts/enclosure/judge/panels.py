"""Panels of an enclosure to cut and drill: outlines with every hole, and the list of holes."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

from zeotherm.core.catalogue.shelves import Catalogue
from zeotherm.core.machine.documents import Setup
from zeotherm.core.parts.bed.judge.cutting import Outline

SCREW_MM, VENT_MM, LEADS_MM, FAN_MM, FAN_SCREW_MM = 4.5, 30.0, 40.0, 76.0, 4.5  # diameters
EDGE_MM = 12.0  # of screws and holes from a panel's edge
SCREWS_APART_MM = 200.0  # at most, along an edge
FAN_PITCH_MM = 71.5  # between the screws of a fan of 80 mm
APART_MM = 8.0  # between vent holes


@dataclass(frozen=True, slots=True)
class Hole:
    """One hole: what it is for, where its middle is from the panel's middle, and its diameter [mm]."""

    kind: str  # screw, vent, leads, fan, fan_screw
    x: float
    y: float
    diameter: float


@dataclass(frozen=True, slots=True)
class Panel:
    """One panel, seen from outside."""

    name: str  # floor, roof, left, right, front, back
    width: float
    height: float
    opening: tuple[float, float] | None  # for the window, in the middle
    holes: tuple[Hole, ...]

    @property
    def outline(self) -> Outline:
        """What is cut."""
        drilled = tuple((one.x, one.y, one.diameter) for one in self.holes)
        return Outline(self.width, self.height, False, self.opening, drilled, None)

    def count(self, kind: str) -> int:
        """Holes of a kind."""
        return sum(one.kind == kind for one in self.holes)


def panels_of(setup: Setup, catalogue: Catalogue) -> list[Panel]:
    """Every panel of a case with its holes: screws about the edge, vents low at the left and high at the right, the
    leads' opening low at the back, a fan's there, high where it blows out and low where it blows in. Raises ValueError
    where nothing encloses.

    Vent holes are as many as give the case's openings; what does not go on its wall at `APART_MM` is left out, which
    `count` shows.
    """
    case = setup.case
    shape = catalogue.cases[case.part]
    if shape.walls is None:
        raise ValueError("nothing encloses this machine")
    wide, deep, high = case.width_mm, case.depth_mm, case.height_mm
    window = None
    if shape.window is not None and shape.window_pct > 0.0:
        share = math.sqrt(0.01 * shape.window_pct)
        window = (share * wide, share * high)
    vents = math.ceil(shape.vent_cm2.value * 100.0 / (math.pi / 4.0 * VENT_MM**2)) if case.vents_open_pct > 0.0 else 0
    fans = (*(_fan(high, 1) if case.exhaust_m3h > 0.0 else ()), *(_fan(high, -1) if case.intake_m3h > 0.0 else ()))
    leads = (Hole("leads", 0.5 * wide - 2.0 * LEADS_MM, -0.5 * high + LEADS_MM + EDGE_MM, LEADS_MM),)
    return [
        Panel("floor", wide, deep, None, _screws(wide, deep)),
        Panel("roof", wide, deep, None, _screws(wide, deep)),
        Panel("left", deep, high, None, (*_screws(deep, high), *_vents(deep, high, vents, low=True))),
        Panel("right", deep, high, None, (*_screws(deep, high), *_vents(deep, high, vents, low=False))),
        Panel("front", wide, high, window, _screws(wide, high)),
        Panel("back", wide, high, None, (*_screws(wide, high), *leads, *fans)),
    ]


def _screws(width: float, height: float) -> tuple[Hole, ...]:
    """About the edge, in the corners and evenly between."""
    x, y = 0.5 * width - EDGE_MM, 0.5 * height - EDGE_MM
    across, up = math.ceil(2.0 * x / SCREWS_APART_MM), math.ceil(2.0 * y / SCREWS_APART_MM)
    row = [-x + 2.0 * x * n / across for n in range(across + 1)]
    column = [-y + 2.0 * y * n / up for n in range(1, up)]
    places = [(at, side) for side in (-y, y) for at in row] + [(side, at) for side in (-x, x) for at in column]
    return tuple(Hole("screw", px, py, SCREW_MM) for px, py in places)


def _vents(width: float, height: float, count: int, *, low: bool) -> tuple[Hole, ...]:
    """Rows of round holes from the edge inward, on the lower or the upper half."""
    pitch = VENT_MM + APART_MM
    clear = EDGE_MM + SCREW_MM + APART_MM + 0.5 * VENT_MM
    a_row = max(int((width - 2.0 * clear) // pitch) + 1, 0) if width > 2.0 * clear else 0
    rows = max(int((0.5 * height - clear - 0.5 * VENT_MM) // pitch) + 1, 0)
    made = []
    for n in range(min(count, a_row * rows)):
        row, at = divmod(n, a_row)
        in_row = min(a_row, count - row * a_row)
        y = 0.5 * height - clear - row * pitch
        made.append(Hole("vent", (at - 0.5 * (in_row - 1)) * pitch, -y if low else y, VENT_MM))
    return tuple(made)


def _fan(height: float, side: int) -> tuple[Hole, ...]:
    """A fan at the back with its screws; side: 1 high, -1 low."""
    y = 0.5 * height - EDGE_MM - SCREW_MM - APART_MM - 0.5 * FAN_MM
    half = 0.5 * FAN_PITCH_MM
    corners = tuple(Hole("fan_screw", sx * half, y + sy * half, FAN_SCREW_MM) for sx in (-1, 1) for sy in (-1, 1))
    return tuple(replace(one, y=side * one.y) for one in (Hole("fan", 0.0, y, FAN_MM), *corners))

"""Whether an enclosure lets its machine move: inner size against frame, sweep, cable loops and the door's swing."""

from __future__ import annotations

import math
from dataclasses import dataclass

from zeotherm.core.machine.documents import Setup
from zeotherm.core.machine.numbers import doubt_of
from zeotherm.core.machine.patches import value_at

GAP_MM = 10.0  # about everything that moves, so that no wall wears a wire: an estimate, 5 to 20
WAYS = {  # what a machine takes that way, by field; how often the gap comes besides; what there is of it
    "width": (("frame.width_mm",), 2.0, "case.width_mm"),
    "depth": (("frame.depth_mm", "frame.sweep_mm", "frame.behind_mm"), 2.0, "case.depth_mm"),
    "height": (("frame.height_mm", "frame.loop_mm"), 1.0, "case.height_mm"),
    "door": (("case.width_mm",), 0.0, "case.door_room_mm"),  # a leaf as wide as the case swings on its side
}


@dataclass(frozen=True, slots=True)
class FitCheck:
    """One way in which a machine has to fit."""

    way: str  # width, depth, height, door
    needs: float  # mm
    has: float | None  # mm; None: not measured
    parts: tuple[tuple[str, float], ...]  # what makes up the need, by field
    band: float  # 95 % half-width of what is left: of all that was measured for it [mm]

    @property
    def spare(self) -> float | None:
        """What is left [mm], negative where it lacks."""
        return self.has - self.needs if self.has is not None else None


def fits(setup: Setup) -> list[FitCheck]:
    """Every way that can be judged by what was measured; nothing of a machine that was not."""
    found: list[FitCheck] = []
    for way, (fields, gaps, room) in WAYS.items():
        parts = [(name, float(value_at(setup, name))) for name in fields]
        has = float(value_at(setup, room)) or None
        if parts[0][1] <= 0.0 or (way == "door" and not found):
            continue
        read = [name for name, mm in parts if mm > 0.0] + ([room] if has is not None else [])
        told = [part for part in (*parts, ("gap", gaps * GAP_MM)) if part[1] > 0.0]
        band = math.hypot(*(doubt_of(setup, name, {}) for name in read))
        found.append(FitCheck(way, sum(mm for _name, mm in told), has, tuple(told), band))
    return found

"""Whether an enclosure lets its machine move: inner size against frame, sweep, cable loops and the door's swing."""

from __future__ import annotations

from dataclasses import dataclass

from zeotherm.core.machine.documents import Setup

GAP_MM = 10.0  # about everything that moves, so that no wall wears a wire: an estimate, 5 to 20


@dataclass(frozen=True, slots=True)
class Fit:
    """One way in which a machine has to fit."""

    way: str  # width, depth, height, door
    needs: float  # mm
    has: float | None  # mm; None: not measured
    parts: tuple[tuple[str, float], ...]  # what makes up the need, by field

    @property
    def spare(self) -> float | None:
        """What is left [mm], negative where it lacks."""
        return self.has - self.needs if self.has is not None else None


def fits(setup: Setup) -> list[Fit]:
    """Every way that can be judged by what was measured; nothing of a machine that was not."""
    case, frame = setup.case, setup.frame
    found = []
    for way, has, parts in (
        ("width", case.width_mm, (("frame.width_mm", frame.width_mm), ("gap", 2.0 * GAP_MM))),
        ("depth", case.depth_mm, (("frame.depth_mm", frame.depth_mm), ("frame.sweep_mm", frame.sweep_mm),
                                  ("frame.behind_mm", frame.behind_mm), ("gap", 2.0 * GAP_MM))),
        ("height", case.height_mm, (("frame.height_mm", frame.height_mm), ("frame.loop_mm", frame.loop_mm),
                                    ("gap", GAP_MM))),
    ):  # fmt: skip
        if parts[0][1] > 0.0:
            told = tuple(part for part in parts if part[1] > 0.0)
            found.append(Fit(way, sum(mm for _name, mm in told), has, told))
    if found:  # a leaf as wide as the case swings on its side
        room = case.door_room_mm if case.door_room_mm > 0.0 else None
        found.append(Fit("door", case.width_mm, room, (("case.width_mm", case.width_mm),)))
    return found

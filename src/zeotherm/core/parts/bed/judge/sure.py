"""How far a bed's figures may be off, and how much each lever gains, by solving it again with one thing changed.

On a grid of few cells: what a change does is far less in doubt than what there is, and the difference is laid on the
fine field's figures.
"""

from __future__ import annotations

from collections.abc import Callable, Collection
from dataclasses import dataclass, replace

from zeotherm.core.catalogue.lookup import DoesNotFitError
from zeotherm.core.judgement.bands import Outcome, outcome, summed_doubts
from zeotherm.core.judgement.findings import Strength
from zeotherm.core.judgement.levers import levers_of, steps_of
from zeotherm.core.judgement.limits import Held
from zeotherm.core.judgement.margins import margins_with
from zeotherm.core.machine.documents import Setup, patched
from zeotherm.core.machine.patches import patch_at
from zeotherm.core.parts.bed.judge.answer import (
    MINUTE,
    Airs,
    BedAnswer,
    held_bed,
    room_air,
    spare_room,
)
from zeotherm.core.parts.bed.model.in_time import run_bed
from zeotherm.core.parts.bed.model.inputs import BedAir, BedInputs, resolve_bed, with_bed_number
from zeotherm.core.parts.bed.model.model import FEW, BedModel, solve_bed
from zeotherm.core.parts.bed.model.readout import course_of, read_bed
from zeotherm.core.solver.axisymmetric import CancelledError
from zeotherm.core.solver.plate import NotSettledError

READY = ("value:bed_ready", "room:bed_ready")
DOMINANT = ("film", "heater", "mass", "target", "up_factor", "insulation_conductivity")
AFTER = 1800.0  # s at the set value after which the middle of a face is as warm as it gets
Cancelled = Callable[[], bool]


@dataclass(frozen=True)
class BedFigures:
    """A bed's figures on the small grid, in the air of its print and of its start."""

    late: BedAir
    start: BedAir

    def values(self, inputs: BedInputs, *, course: bool = True) -> dict[str, float]:
        """By station; course: with the time until it is ready. Raises NotSettledError."""
        solved = solve_bed(BedModel(inputs, self.late, FEW))
        values = dict(read_bed(solved).values)
        if inputs.insulated:
            values["bed_clearance"] = 1e3 * spare_room(inputs)
        ready = course_of(run_bed(BedModel(inputs, self.start, FEW), AFTER)).ready if course else None
        if ready is not None:
            values["bed_ready"] = ready / MINUTE
        values["available"] = solved.available
        return values


def asked_of(answer: BedAnswer, airs: Airs | None = None) -> BedFigures:
    """The airs that an answer's bed is asked in."""
    given = airs or room_air(answer.setup)
    plan = answer.setup.schedule
    return BedFigures(given((plan.soak_min + plan.print_min) * MINUTE), given(0.0))


def with_doubts(
    answer: BedAnswer,
    airs: Airs | None = None,
    cancelled: Cancelled = lambda: False,
    names: Collection[str] | None = None,
) -> BedAnswer:
    """The answer with 95 % bands, its margins ordered by them; names: of the doubts that count, else all.

    Raises CancelledError.
    """
    asked, inputs = asked_of(answer, airs), answer.resolved.inputs
    base = _figures(asked.values(inputs), answer.limits)
    changes: dict[str, list[Outcome]] = {}
    for name, width in answer.resolved.doubts.items():
        if cancelled():
            raise CancelledError
        if names is not None and name not in names:
            continue
        sides: list[Outcome] = []
        for sign in (1.0, -1.0):  # the time until it is ready goes as far one way as the other
            up = sides[0] if sides else None
            moved = with_bed_number(inputs, name, getattr(inputs, name) + sign * width)
            here = replace(asked, late=_by(asked.late, sign * width), start=_by(asked.start, sign * width))
            try:
                values = (here if name == "room" else asked).values(moved, course=up is None)
            except NotSettledError:
                continue
            after = _figures(values, answer.limits)
            mirrored = {key: -up.get(key, 0.0) for key in READY} if up is not None else {}
            side = {key: after.get(key, value) - value for key, value in base.items()}
            sides.append({**side, **{key: by for key, by in mirrored.items() if key in base}})
        changes[name] = sides or [{}, {}]
    for limit in answer.limits:
        if limit.limit.tolerance:
            sides = [{f"room:{limit.key}": sign * limit.limit.tolerance} for sign in (1.0, -1.0)]
            changes[f"limit:{limit.key}"] = sides
    bands = summed_doubts(base, changes)
    return replace(answer, bands=bands, margins=margins_with(answer.limits, answer.readout.values, bands))


def _by(air: BedAir, width: float) -> BedAir:
    return BedAir(air.above + width, air.below + width, air.around + width)


def _figures(values: dict[str, float], limits: list[Held]) -> Outcome:
    found = outcome(None, values, limits)
    if "room:bed_watts" in found:  # of this limit the ceiling moves, too
        found["room:bed_watts"] = values["available"] - values["bed_watts"]
    return found


def with_strengths(answer: BedAnswer, airs: Airs | None = None, cancelled: Cancelled = lambda: False) -> BedAnswer:
    """The answer with what every lever gains of the worst margin, strongest first. Raises CancelledError."""
    tried = Trials(answer, asked_of(answer, airs), cancelled)
    found = []
    for path, lever in levers_of(answer.setup, answer.catalogue, "bed").items():
        steps = [
            (to, rooms)
            for to in steps_of(answer.setup, answer.catalogue, path, lever)
            if (rooms := tried.rooms(path, to)) is not None
        ]
        key = answer.worst.key
        gains = [
            (rooms[key] - tried.base[key], to, rooms)
            for to, rooms in steps
            if key in rooms and key in tried.base and tried.allows(rooms)
        ]
        if not gains:
            continue
        gain, best, _rooms = max(gains, key=lambda one: one[0])
        suffice = [(by, to) for by, to, rooms in gains if by > 0.0 and tried.holds(rooms)]
        enough = min(suffice, key=lambda one: one[0])[1] if suffice and lever.advice else None
        found.append(Strength(path, best, gain, enough))
    return replace(answer, strengths=sorted(found, key=lambda one: -one.gain))


class Trials:
    """Rooms of a bed to all its limits, with one thing changed."""

    def __init__(self, answer: BedAnswer, asked: BedFigures, cancelled: Cancelled = lambda: False) -> None:
        self._answer, self._asked, self._cancelled = answer, asked, cancelled
        self.base = self._rooms(answer.setup) or {}

    def rooms(self, path: str, to: float | str) -> dict[str, float] | None:
        """By limit, laid on the fine field's; None where it does not fit or settle. Raises CancelledError."""
        if self._cancelled():
            raise CancelledError
        return self._rooms(patched(self._answer.setup, patch_at(path, to)))

    def allows(self, rooms: dict[str, float]) -> bool:
        """Whether what a change brings with it, as an insulation, stands its place."""
        return all(room >= 0.0 for key, room in rooms.items() if key not in self.base)

    def holds(self, rooms: dict[str, float]) -> bool:
        """Whether every limit would hold."""
        fine = {margin.key: margin.room for margin in self._answer.margins if margin.room is not None}
        return all(fine.get(key, room) + room - self.base.get(key, room) >= 0.0 for key, room in rooms.items())

    def _rooms(self, setup: Setup) -> dict[str, float] | None:
        try:
            resolved = resolve_bed(setup, self._answer.catalogue)
            by = setup.room.mean_c - self._answer.setup.room.mean_c
            asked = replace(self._asked, late=_by(self._asked.late, by), start=_by(self._asked.start, by))
            values = asked.values(resolved.inputs)
        except (DoesNotFitError, NotSettledError):
            return None
        limits = held_bed(resolved, self._answer.catalogue, values["available"])
        figures = _figures(values, limits)
        return {key.removeprefix("room:"): room for key, room in figures.items() if key.startswith("room:")}


def full_bed(answer: BedAnswer, airs: Airs | None = None, cancelled: Cancelled = lambda: False) -> BedAnswer:
    """The answer with bands and strengths. Raises CancelledError."""
    return with_strengths(with_doubts(answer, airs, cancelled), airs, cancelled)

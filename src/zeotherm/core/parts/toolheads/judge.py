"""Each further toolhead of a machine judged twice, late in its print: as if it printed itself, and while it stands by;
and the way of its heater's power as if it printed.

It stands in the air that the machine's own hours have late in the print. What a toolhead does over hours of its own is
asked by turning to it (`machine.toolheads`); here it is told whether that is worth it.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, replace
from typing import Literal

from zeotherm.core.catalogue.fitting import described
from zeotherm.core.catalogue.seats import in_one_block
from zeotherm.core.catalogue.shelves import Catalogue
from zeotherm.core.catalogue.stations import OF_A_TOOLHEAD
from zeotherm.core.judgement.findings import Strength
from zeotherm.core.judgement.limits import counts
from zeotherm.core.judgement.margins import Margin, Ordered, worst_first
from zeotherm.core.machine.documents import Setup
from zeotherm.core.machine.toolheads import keys_turned, others_in_front, station_of
from zeotherm.core.parts.hotend.judge.answer import Answer
from zeotherm.core.parts.hotend.judge.ask import first_answer, with_bands
from zeotherm.core.parts.hotend.judge.course import Course, run_of
from zeotherm.core.parts.hotend.judge.limits import held, margins
from zeotherm.core.parts.hotend.model.inputs import HotendAir
from zeotherm.core.parts.hotend.model.solved import Solved, solve_hotend
from zeotherm.core.parts.power.judge.answer import PowerAnswer, first_power, late_air
from zeotherm.core.parts.power.judge.sure import DOMINANT, with_power_bands
from zeotherm.core.parts.power.judge.voltage import Mismatch, mismatches
from zeotherm.core.parts.whole.run import FINENESS
from zeotherm.core.parts.whole.standby import COLDEST_K, held_at

BEFORE_THE_END = 1.0  # s
Does = Literal["prints", "stands by"]


@dataclass(frozen=True)
class FurtherToolhead:
    """One further toolhead: as if it printed, and while it stands by."""

    number: str
    prints: Answer
    stands_by: Answer | None  # None: its heater is off meanwhile
    held_c: float  # what it is held at while it stands by [°C]
    way: PowerAnswer | None  # of its heater's power, as if it printed; None: not described, or in the block of another

    @property
    def judged(self) -> tuple[tuple[Does, list[Margin]], ...]:
        """The margins of its own places: as it prints with its way, and as it stands by where it is hot then."""
        both: list[tuple[Does, list[Margin]]] = [("prints", self.prints.margins)]
        if self.way is not None:
            both.append(("prints", self.way.margins))
        if self.stands_by is not None:
            both.append(("stands by", self.stands_by.margins))
        return tuple((does, [one for one in found if one.station in OF_A_TOOLHEAD]) for does, found in both)

    def worst_of(self, key: str) -> tuple[Does, Margin] | None:
        """A limit's margin where it has the least room, and what the toolhead does then; None: it has none."""
        found = [(does, one) for does, its in self.judged for one in its if one.key == key]
        known = [one for one in found if one[1].room is not None] or found
        return min(known, key=lambda one: _order(one[1]), default=None)


def _order(margin: Margin) -> tuple[float, float]:
    return (margin.holds if margin.holds is not None else 0.0), margin.room if margin.room is not None else 0.0


@dataclass(frozen=True)
class ToolheadsAnswer(Ordered):
    """What the model says of a machine's further toolheads."""

    setup: Setup
    catalogue: Catalogue
    each: tuple[FurtherToolhead, ...]
    margins: list[Margin]
    strengths: list[Strength] = field(default_factory=list)

    @property
    def values(self) -> dict[str, float]:
        """Stations of each as if it printed."""
        found: dict[str, float] = {}
        for one in self.each:
            own = one.prints.solved.readout.values | (one.way.values if one.way is not None else {})
            found |= _named(one.number, own)
        return found

    @property
    def meanwhile(self) -> dict[str, float]:
        """Stations of each while it stands by; none of one that is not heated then."""
        found: dict[str, float] = {}
        for one in self.each:
            if one.stands_by is not None:
                found |= _named(one.number, one.stands_by.solved.readout.values)
        return found

    @property
    def wrong(self) -> tuple[Mismatch, ...]:
        """Parts of the machine that get other volts than they are made for, worst first."""
        return mismatches(self.setup, self.catalogue)

    @property
    def facts(self) -> set[str]:
        """What cautions look for."""
        return {fact for one in self.each for fact in one.prints.facts}

    def of(self, margin: Margin) -> tuple[FurtherToolhead, Does]:
        """Which toolhead a margin is of, and what it does where that limit has the least room."""
        number, _dot, key = margin.key.partition(".")
        one = next(one for one in self.each if one.number == number)
        found = one.worst_of(key)
        return one, found[0] if found is not None else "prints"


def _named(number: str, values: Mapping[str, float | None]) -> dict[str, float]:
    """What a toolhead has at its own places, by station of a further one."""
    known = ((key, value) for key, value in values.items() if value is not None and key in OF_A_TOOLHEAD)
    return {station_of(number, key): value for key, value in known}


def first_toolheads(
    setup: Setup,
    catalogue: Catalogue,
    tolerances: dict[str, float],
    course: Course | None,
    cancelled: Callable[[], bool] = lambda: False,
) -> ToolheadsAnswer:
    """Every further toolhead at rest, without bands. Raises DoesNotFitError, NotConvergedError or CancelledError."""
    front, run = _in_front(course), run_of(course)
    like = Answer(setup, catalogue, front, [], []) if front is not None else None  # whose doubts of the air are theirs
    air = front.air if front is not None else None
    found = []
    for number, other in others_in_front(setup):
        known = keys_turned(tolerances, setup.toolhead, number)
        way = None
        if described(other, catalogue) and not in_one_block(setup, number, catalogue):
            way = first_power(other, catalogue, known, air=late_air(other, catalogue, run))
        found.append(
            FurtherToolhead(
                number,
                first_answer(other, catalogue, known, like, cancelled, air=air, fineness=FINENESS),
                _standing_by(number, other, setup, catalogue, known, front, cancelled),
                held_at(setup, number, catalogue),
                way,
            )
        )
    return _judged(setup, catalogue, tuple(found))


def sure_toolheads(answer: ToolheadsAnswer, cancelled: Callable[[], bool] = lambda: False) -> ToolheadsAnswer:
    """The same with bands. Raises CancelledError."""
    found = tuple(
        replace(
            one,
            prints=with_bands(one.prints, cancelled),
            stands_by=with_bands(one.stands_by, cancelled) if one.stands_by is not None else None,
            way=with_power_bands(one.way, cancelled, DOMINANT) if one.way is not None else None,
        )
        for one in answer.each
    )
    return _judged(answer.setup, answer.catalogue, found)


def _judged(setup: Setup, catalogue: Catalogue, each: tuple[FurtherToolhead, ...]) -> ToolheadsAnswer:
    told = []
    for one in each:
        for key in dict.fromkeys(margin.key for _does, its in one.judged for margin in its):
            found = one.worst_of(key)
            if found is not None:
                margin = found[1]
                key, station = station_of(one.number, margin.key), station_of(one.number, margin.station)
                told.append(replace(margin, key=key, station=station))
    return ToolheadsAnswer(setup, catalogue, each, worst_first(told))


def _in_front(course: Course | None) -> Solved | None:
    """The toolhead in front late in the print, with the doubts of its air; None where the hours are not known."""
    if course is None:
        return None
    return course.answer(max(course.run.off - BEFORE_THE_END, 0.0)).solved


def _standing_by(
    number: str, other: Setup, setup: Setup, catalogue: Catalogue, known: dict[str, float], front: Solved | None,
    cancelled: Callable[[], bool],
) -> Answer | None:  # fmt: skip
    """A toolhead hot and still; None where it is not heated."""
    temperature = held_at(setup, number, catalogue)
    air: HotendAir | None = front.air if front is not None else None
    if temperature < (air.block if air is not None else other.surroundings.block_air_c) + COLDEST_K:
        return None
    held_so = other.model_copy(update={"printing": other.printing.model_copy(update={"nozzle_c": temperature})})
    solved = solve_hotend(held_so, catalogue, known, front, cancelled, air=air, idle=True, fineness=FINENESS)
    limits = [one for one in held(solved.resolved, catalogue) if counts(one, "pause")]
    return Answer(held_so, catalogue, solved, limits, margins(solved, limits, None))

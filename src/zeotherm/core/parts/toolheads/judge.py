"""Each further toolhead of a machine judged twice, late in its print: as if it printed itself, and while it stands by.

It stands in the air that the machine's own hours have late in the print. What a toolhead does over hours of its own is
asked by turning to it (`machine.toolheads`); here it is told whether that is worth it.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass, field, replace
from typing import Literal

from zeotherm.core.catalogue.shelves import Catalogue
from zeotherm.core.catalogue.stations import OF_A_HOTEND, station_of
from zeotherm.core.judgement.findings import Strength
from zeotherm.core.judgement.limits import counts
from zeotherm.core.judgement.margins import Margin, Ordered, worst_first
from zeotherm.core.machine.documents import Setup
from zeotherm.core.machine.toolheads import keys_turned, others_in_front
from zeotherm.core.parts.hotend.judge.answer import Answer
from zeotherm.core.parts.hotend.judge.ask import first_answer, with_bands
from zeotherm.core.parts.hotend.judge.course import Course
from zeotherm.core.parts.hotend.judge.limits import held, margins
from zeotherm.core.parts.hotend.model.inputs import HotendAir
from zeotherm.core.parts.hotend.model.solved import Solved, solve_hotend
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

    @property
    def judged(self) -> tuple[tuple[Does, Answer], ...]:
        """Both, as far as it is hot."""
        both: tuple[tuple[Does, Answer], ...] = (("prints", self.prints),)
        return (*both, ("stands by", self.stands_by)) if self.stands_by is not None else both

    def worst_of(self, key: str) -> tuple[Does, Margin] | None:
        """A limit's margin where it has the least room, and what the toolhead does then; None: it has none."""
        found = [(does, one) for does, answer in self.judged for one in answer.margins if one.key == key]
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
        return {
            station_of(one.number, key): value
            for one in self.each
            for key, value in one.prints.solved.readout.values.items()
            if value is not None and key in OF_A_HOTEND
        }

    @property
    def meanwhile(self) -> dict[str, float]:
        """Stations of each while it stands by; none of one that is not heated then."""
        return {
            station_of(one.number, key): value
            for one in self.each
            if one.stands_by is not None
            for key, value in one.stands_by.solved.readout.values.items()
            if value is not None and key in OF_A_HOTEND
        }

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


def first_toolheads(
    setup: Setup,
    catalogue: Catalogue,
    tolerances: dict[str, float],
    course: Course | None,
    cancelled: Callable[[], bool] = lambda: False,
) -> ToolheadsAnswer:
    """Every further toolhead at rest, without bands. Raises DoesNotFitError, NotConvergedError or CancelledError."""
    front = _in_front(course)
    air = front.air if front is not None else None
    found = tuple(
        FurtherToolhead(
            number,
            first_answer(other, catalogue, known, front_answer(front, setup, catalogue), cancelled, air=air,
                         fineness=FINENESS),
            _standing_by(number, other, setup, catalogue, known, front, cancelled),
            held_at(setup, number, catalogue),
        )
        for number, other, known in _others(setup, tolerances)
    )  # fmt: skip
    return _judged(setup, catalogue, found)


def sure_toolheads(answer: ToolheadsAnswer, cancelled: Callable[[], bool] = lambda: False) -> ToolheadsAnswer:
    """The same with bands. Raises CancelledError."""
    found = tuple(
        replace(
            one,
            prints=with_bands(one.prints, cancelled),
            stands_by=_while_hot(with_bands(one.stands_by, cancelled)) if one.stands_by is not None else None,
        )
        for one in answer.each
    )
    return _judged(answer.setup, answer.catalogue, found)


def _judged(setup: Setup, catalogue: Catalogue, each: tuple[FurtherToolhead, ...]) -> ToolheadsAnswer:
    told = []
    for one in each:
        for key in dict.fromkeys(margin.key for _does, answer in one.judged for margin in answer.margins):
            found = one.worst_of(key)
            if found is not None and found[1].station in OF_A_HOTEND:
                margin = found[1]
                key, station = station_of(one.number, margin.key), station_of(one.number, margin.station)
                told.append(replace(margin, key=key, station=station))
    return ToolheadsAnswer(setup, catalogue, each, worst_first(told))


def _others(setup: Setup, tolerances: dict[str, float]) -> Iterator[tuple[str, Setup, dict[str, float]]]:
    """Each further toolhead: number, the machine with it in front, and what is better known of that."""
    for number, other in others_in_front(setup):
        yield number, other, keys_turned(tolerances, setup.toolhead, number)


def _in_front(course: Course | None) -> Solved | None:
    """The toolhead in front late in the print, with the doubts of its air; None where the hours are not known."""
    if course is None:
        return None
    return course.answer(max(course.run.off - BEFORE_THE_END, 0.0)).solved


def front_answer(front: Solved | None, setup: Setup, catalogue: Catalogue) -> Answer | None:
    """What a further toolhead is solved from: the doubts of the air are those of the toolhead in front."""
    return Answer(setup, catalogue, front, [], []) if front is not None else None


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
    return _while_hot(Answer(held_so, catalogue, solved, limits, margins(solved, limits, None)))


def _while_hot(answer: Answer) -> Answer:
    """The same without what only counts while something is pushed or melted."""
    return replace(answer, margins=[one for one in answer.margins if one.key not in ONLY_PRINTING])


ONLY_PRINTING = ("feed", "strand", "exit_core")  # limits of what flows

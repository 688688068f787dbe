"""Sizes of the heating of an enclosure: filaments, heater, air, parts to help, what goes wrong."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace

from zeotherm.answers.executor import Until
from zeotherm.answers.hotend import hours
from zeotherm.answers.store import Store
from zeotherm.core.catalogue import Catalogue, shipped
from zeotherm.core.guard.fitted import Assumed, assumed_of
from zeotherm.core.machine.documents import Job, Setup
from zeotherm.core.machine.patches import Patch
from zeotherm.core.parts.enclosure.judge.answer import ChamberAnswer
from zeotherm.core.parts.enclosure.judge.protecting import printed_anew
from zeotherm.core.parts.enclosure.judge.sized import SizedEnclosure, sizing
from zeotherm.core.parts.enclosure.judge.warmth import Warmth, on_machine, warmths
from zeotherm.core.parts.enclosure.part import PART
from zeotherm.core.parts.hotend.judge.course import Course
from zeotherm.core.questions import Cancelled, Question, Stage


@dataclass(frozen=True)
class CaseWish:
    """What the heating of an enclosure is asked for."""

    wanted_c: float = 50.0
    minutes: float = 45.0
    coldest_c: float = 15.0
    spread_k: float = 5.0  # between print and roof


@dataclass(frozen=True)
class CaseSizeFound:
    """What is known by now."""

    job: Job
    wish: CaseWish
    catalogue: Catalogue
    answer: ChamberAnswer
    sized: SizedEnclosure | None = None
    filaments: tuple[Warmth, ...] = ()
    elsewhere: tuple[tuple[str, Warmth], ...] = ()  # plastics to print anew on the shop's other machines

    @property
    def done(self) -> bool:
        """Whether all of it is known."""
        return self.sized is not None and self.sized.done


def _warm(rest: ChamberAnswer, course: Course, tolerances: dict[str, float], *, cancelled: Cancelled
          ) -> tuple[Warmth, ...]:  # fmt: skip
    return tuple(warmths(rest.setup, rest.catalogue, course.run, rest.solved.low, tolerances, cancelled))


def _sized(
    rest: ChamberAnswer, course: Course, wanted: float, within: float, coldest: float, spread: float,
    assumed: Assumed, *, cancelled: Cancelled,
) -> SizedEnclosure:  # fmt: skip
    *_growing, found = sizing(rest, course.run, wanted, within, coldest, spread, assumed, cancelled)
    return found


def _elsewhere(
    setup: Setup, own: Patch, tolerances: dict[str, float], plastic: str, *, cancelled: Cancelled
) -> Warmth | None:
    """A plastic on another machine; None: it cannot, or nothing is known of it."""
    return on_machine(Job(found=setup, catalogue=own, tolerances=tolerances), shipped(), plastic, cancelled)


WARM = Stage("enclosure for every filament", _warm)  # of the enclosure at rest, in hours, with tolerances
SIZED = Stage(
    "enclosure's sizes", _sized
)  # of the enclosure at rest, in hours; wanted [°C], s, coldest [°C], spread [K], assumed
ELSEWHERE = Stage("plastic on another machine", _elsewhere)  # of its setup, own entries, tolerances


def elsewhere(other: Job, plastic: str) -> Question[Warmth | None]:
    """A plastic on another machine, as it stands."""
    return ELSEWHERE.of(other.setup(), other.catalogue, other.tolerances, plastic)


def enclosure_sizes(
    store: Store, job: Job, catalogue: Catalogue, wish: CaseWish, others: Callable[[], tuple[Job, ...]] = tuple
) -> Callable[[Cancelled], Iterator[CaseSizeFound | Until]]:
    """A task: sizes of a job's enclosure, as they are known; others: the shop's machines that may print parts anew."""
    setup = job.setup()
    course = hours(setup, job, catalogue)
    rest = PART.at_rest(setup, job, catalogue, course)
    asked = (wish.wanted_c, 60.0 * wish.minutes, wish.coldest_c, wish.spread_k, assumed_of(job))
    sizes = SIZED.of(rest, course, *asked)

    def task(cancelled: Cancelled) -> Iterator[CaseSizeFound | Until]:
        begun = store.under_way(course)
        if begun is not None:
            yield Until((begun,))
        answer = store.ask(rest, cancelled)
        warm = store.ask(WARM.of(rest, course, job.tolerances), cancelled)
        found = CaseSizeFound(job, wish, catalogue, answer, filaments=warm)
        yield found
        if not store.knows(sizes):
            run, sized = store.ask(course, cancelled).run, None
            for sized in sizing(answer, run, *asked, cancelled):
                yield replace(found, sized=sized)
            assert sized is not None
            store.keep(sizes, sized)
        found = replace(found, sized=store.ask(sizes, cancelled))
        yield found
        assert found.sized is not None
        for plastic in sorted(printed_anew(found.sized.parts)):
            for other in others():
                there = store.ask(elsewhere(other, plastic), cancelled)
                told = ((other.machine, there),) if there is not None else ()
                found = replace(found, elsewhere=(*found.elsewhere, *told))
                yield found

    return task

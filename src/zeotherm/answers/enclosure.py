"""What is known of the enclosure over its job: at rest at once, then its course, then how sure and what would help."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace

from zeotherm.answers.executor import REST, Rest, Until
from zeotherm.answers.hotend import answered_hours, hours, run_of
from zeotherm.answers.moments import Scrubbed
from zeotherm.answers.store import Store
from zeotherm.core.catalogue import Catalogue
from zeotherm.core.machine.documents import Job, Setup
from zeotherm.core.parts.enclosure.judge.answer import (
    ChamberAnswer,
    around_of,
    encloses,
    first_case,
    stations,
    with_case_course,
)
from zeotherm.core.parts.enclosure.judge.sizing import CutOut, Gone, Tried, cut_out, gone_wrong, tried
from zeotherm.core.parts.enclosure.judge.sure import full_case
from zeotherm.core.parts.enclosure.judge.warmth import Warmth, warmths
from zeotherm.core.parts.enclosure.model.solved import SolvedChamber
from zeotherm.core.parts.hotend.judge.course import Course
from zeotherm.core.questions import Cancelled, Question, Stage, Start


@dataclass(frozen=True)
class CaseFound(Scrubbed[SolvedChamber]):
    """What the model says of the enclosure of the job on the bench."""

    job: Job
    answer: ChamberAnswer | None  # None: nothing encloses the machine
    as_found: ChamberAnswer | None = None  # while something is on trial
    tried: tuple[Tried, ...] = ()
    cut: CutOut | None = None
    gone: tuple[Gone, ...] = ()
    own: Warmth | None = None  # what the filament on the machine may have
    time: float | None = None  # of the moment that is shown [s]; None: at rest, late in the print

    @property
    def values(self) -> dict[str, float]:
        """Stations at the moment that is shown."""
        assert self.answer is not None
        if self.time is None:
            return self.answer.values
        return stations(self.answer.setup, self.answer.catalogue, self.shown)


def _at_rest(
    setup: Setup, catalogue: Catalogue, tolerances: dict[str, float], course: Course | None, *, cancelled: Cancelled
) -> ChamberAnswer:
    return first_case(setup, catalogue, tolerances, arounds=around_of(setup, catalogue, run_of(course)))


def _over_its_course(rest: ChamberAnswer, course: Course, *, cancelled: Cancelled) -> ChamberAnswer:
    run = course.run
    return with_case_course(rest, around_of(rest.setup, rest.catalogue, run), run.end, run.off, cancelled)


def _in_full(answer: ChamberAnswer, course: Course | None, *, cancelled: Cancelled) -> ChamberAnswer:
    return full_case(answer, run_of(course), cancelled)


def _own(rest: ChamberAnswer, course: Course, tolerances: dict[str, float], *, cancelled: Cancelled) -> Warmth | None:
    """What the filament on the machine may have; None where its nozzle is not reached."""
    told = warmths(rest.setup, rest.catalogue, course.run, rest.solved.low, tolerances, cancelled, own_only=True)
    return told[0] if told else None


def _tried(answer: ChamberAnswer, course: Course | None, *, cancelled: Cancelled) -> tuple[Tried, ...]:
    return tuple(tried(answer, run_of(course), cancelled))


def _gone(answer: ChamberAnswer, *, cancelled: Cancelled) -> tuple[Gone, ...]:
    return tuple(gone_wrong(answer, cancelled))


AT_REST = Stage("enclosure at rest", _at_rest)  # of a setup, by a catalogue, with tolerances, in hours or None
COURSE = Stage("enclosure over its course", _over_its_course)  # of the enclosure at rest, in hours
FULL = Stage("enclosure in full", _in_full)  # of either, in hours or None
OWN = Stage("enclosure for its filament", _own)
TRIED = Stage("enclosure, what would help", _tried)
GONE = Stage("enclosure, what goes wrong", _gone)


def at_rest(setup: Setup, job: Job, catalogue: Catalogue, course: Question[Course] | None) -> Question[ChamberAnswer]:
    """The enclosure of a setup of a job, as found or on trial, about what hours of the machine put into it."""
    return AT_REST.of(setup, catalogue, job.tolerances, course)


def in_full(setup: Setup, job: Job, catalogue: Catalogue, course: Question[Course] | None) -> Question[ChamberAnswer]:
    """The same over its course, where the hours are known, with bands and strengths."""
    rest = at_rest(setup, job, catalogue, course)
    return FULL.of(COURSE.of(rest, course) if course is not None else rest, course)


def enclosure(
    store: Store, job: Job, catalogue: Catalogue, start: Start[ChamberAnswer]
) -> Callable[[Cancelled], Iterator[CaseFound | Rest | Until]]:
    """A task: a job's enclosure at once by itself, then about what the machine's hours put into it."""
    setup = job.setup()

    def growing(course: Question[Course] | None, cancelled: Cancelled) -> Iterator[CaseFound | Rest]:
        rest, full = (ask(setup, job, catalogue, course) for ask in (at_rest, in_full))
        answer = store.ask(rest, cancelled)
        found = CaseFound(job, answer, before(course, cancelled), cut=cut_out(answer))
        yield found
        if course is not None:
            found = replace(found, answer=store.ask(COURSE.of(rest, course), cancelled))
            yield found
        yield REST
        found = replace(found, answer=store.ask(full, cancelled))
        yield found
        yield replace(found, own=own(rest, course, cancelled))

    def before(course: Question[Course] | None, cancelled: Cancelled) -> ChamberAnswer | None:
        """The enclosure as found, in the same hours, while something is on trial."""
        if not job.trial or not encloses(job.found, catalogue):
            return None
        return store.ask(at_rest(job.found, job, catalogue, course), cancelled)

    def own(
        rest: Question[ChamberAnswer], course: Question[Course] | None, cancelled: Cancelled
    ) -> Warmth | None:  # fmt: skip
        return store.ask(OWN.of(rest, course, job.tolerances), cancelled) if course is not None else None

    def task(cancelled: Cancelled) -> Iterator[CaseFound | Rest | Until]:
        if not encloses(setup, catalogue):
            yield CaseFound(job, None)
            return
        expected = hours(setup, job, catalogue)
        if not store.knows(at_rest(setup, job, catalogue, expected)):
            arounds = around_of(setup, catalogue, run_of(store.ask(expected) if store.knows(expected) else None))
            start.like = first_case(setup, catalogue, job.tolerances, arounds=arounds, like=start.like)
            yield CaseFound(job, start.like, cut=cut_out(start.like))
            yield REST
        course = yield from answered_hours(store, setup, job, catalogue, cancelled)
        rest, full = (ask(setup, job, catalogue, course) for ask in (at_rest, in_full))
        wrong = GONE.of(full)
        if not store.knows(wrong):
            yield from growing(course, cancelled)
        yield CaseFound(
            job, store.ask(full, cancelled), before(course, cancelled), store.ask(TRIED.of(full, course), cancelled),
            cut_out(store.ask(rest, cancelled)), store.ask(wrong, cancelled), own(rest, course, cancelled),
        )  # fmt: skip

    return task

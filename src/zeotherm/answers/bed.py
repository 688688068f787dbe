"""What is known of the bed over its job: at once at rest, then its course, then how sure and what would help."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace

from zeotherm.answers.executor import REST, Rest, Until
from zeotherm.answers.hotend import answered_hours, hours
from zeotherm.answers.store import Store
from zeotherm.core.catalogue import Catalogue
from zeotherm.core.judgement.margins import margins_with
from zeotherm.core.machine.documents import Job, Setup
from zeotherm.core.parts.bed.judge.answer import (
    Airs,
    BedAnswer,
    airs_of,
    first_bed,
    heated,
    moment,
    small,
    with_control,
    with_course,
)
from zeotherm.core.parts.bed.judge.rivals import Rival, rivals
from zeotherm.core.parts.bed.judge.sure import asked_of, full_bed
from zeotherm.core.parts.bed.judge.tuning import Tuned, relay
from zeotherm.core.parts.bed.model.readout import BedReadout
from zeotherm.core.parts.hotend.judge.course import Course
from zeotherm.core.questions import Cancelled, Question, Stage, Start
from zeotherm.core.solver.plate import NotSettledError

OF_ALL = ("bed_ready", "bed_clearance")  # stations of the whole course, the same at every moment of it
ABOUT = 0.02  # K of the sensor, meanwhile
WHILE_DRAGGED = 16  # cells along the longer side: within half a kelvin of the working grid


@dataclass(frozen=True)
class BedFound:
    """What the model says of the bed of the job on the bench."""

    job: Job
    answer: BedAnswer | None  # None: no heated bed
    as_found: BedAnswer | None = None  # while something is on trial
    rivals: tuple[Rival, ...] = ()
    tuned: Tuned | None = None  # its controller, by a relay test on the model
    time: float | None = None  # of the moment that is shown [s]; None: late in the print
    readout: BedReadout | None = None  # of that moment

    @property
    def shown(self) -> BedReadout:
        """What is read at the moment that is shown."""
        assert self.answer is not None
        return self.readout or self.answer.readout

    @property
    def judged(self) -> BedAnswer:
        """The answer with its margins at the moment that is shown."""
        assert self.answer is not None
        if self.readout is None:
            return self.answer
        values = {**self.readout.values, **{key: self.answer.readout.values[key] for key in OF_ALL
                                            if key in self.answer.readout.values}}  # fmt: skip
        return replace(self.answer, margins=margins_with(self.answer.limits, values, self.answer.bands))

    def at(self, time: float | None) -> BedFound:
        """The same at another moment of its course."""
        if time is None or self.answer is None or self.answer.run is None:
            return replace(self, time=None, readout=None)
        end = float(self.answer.run.times[-1])
        time = min(max(time, 0.0), end)
        return replace(self, time=time, readout=moment(self.answer, time))


def _at_rest(
    setup: Setup, catalogue: Catalogue, tolerances: dict[str, float], course: Course | None, *, cancelled: Cancelled
) -> BedAnswer:
    return first_bed(setup, catalogue, tolerances, airs=bed_airs(course))


def _over_its_course(answer: BedAnswer, course: Course | None, *, cancelled: Cancelled) -> BedAnswer:
    return with_course(answer, bed_airs(course), cancelled)


def _under_control(answer: BedAnswer, course: Course | None, *, cancelled: Cancelled) -> BedAnswer:
    return with_control(answer, bed_airs(course))


def _in_full(answer: BedAnswer, course: Course | None, *, cancelled: Cancelled) -> BedAnswer:
    return full_bed(answer, bed_airs(course), cancelled)


def _both_ways(answer: BedAnswer, course: Course | None, *, cancelled: Cancelled) -> tuple[Rival, ...]:
    """What is computed of the bed both ways; nothing where one of them finds no rest."""
    try:
        return tuple(rivals(answer.setup, answer.catalogue, asked_of(answer, bed_airs(course))))
    except NotSettledError:
        return ()


def _tuned(answer: BedAnswer, course: Course | None, *, cancelled: Cancelled) -> Tuned | None:
    """Controller values; none where the heater does not bring the bed about its set value."""
    try:
        return relay(small(answer, bed_airs(course)), answer.setup.bed.sensor_lag_s)
    except ValueError:
        return None


def bed_airs(course: Course | None) -> Airs | None:
    """What the bed stands in along the hours of its machine; None where they are not known."""
    return airs_of(course.run) if course is not None else None


AT_REST = Stage("bed at rest", _at_rest)  # of a setup, by a catalogue, with tolerances, in hours or None
COURSE = Stage("bed over its course", _over_its_course)  # of the bed at rest, in hours or None
CONTROLLED = Stage("bed under its control", _under_control)  # of the bed over its course; the following, of this
FULL = Stage("bed in full", _in_full)
RIVALS = Stage("bed both ways", _both_ways)
TUNED = Stage("bed's controller", _tuned)


def at_rest(setup: Setup, job: Job, catalogue: Catalogue, course: Question[Course] | None) -> Question[BedAnswer]:
    """The bed of a setup of a job, as found or on trial, in what hours of the machine put about it."""
    return AT_REST.of(setup, catalogue, job.tolerances, course)


def in_full(setup: Setup, job: Job, catalogue: Catalogue, course: Question[Course] | None) -> Question[BedAnswer]:
    """The same over its course and under its control, with bands and strengths."""
    return FULL.of(controlled(setup, job, catalogue, course), course)


def controlled(setup: Setup, job: Job, catalogue: Catalogue, course: Question[Course] | None) -> Question[BedAnswer]:
    """The same over its course and under its control, without bands."""
    return CONTROLLED.of(COURSE.of(at_rest(setup, job, catalogue, course), course), course)


def bed(
    store: Store, job: Job, catalogue: Catalogue, start: Start[BedAnswer], *, wholly: bool
) -> Callable[[Cancelled], Iterator[BedFound | Rest | Until]]:
    """A task: a job's bed at once in its room, then in what the machine's hours put about it; wholly: with bands and
    strengths."""
    setup = job.setup()

    def before(course: Question[Course] | None, cancelled: Cancelled) -> BedAnswer | None:
        """The bed as found, in the same hours, while something is on trial."""
        if not job.trial or not heated(job.found, catalogue):
            return None
        return store.ask(at_rest(job.found, job, catalogue, course), cancelled)

    def task(cancelled: Cancelled) -> Iterator[BedFound | Rest | Until]:
        if not heated(setup, catalogue):
            yield BedFound(job, None)
            return
        expected = hours(setup, job, catalogue)
        if not store.knows(controlled(setup, job, catalogue, expected)):
            known = expected if store.knows(expected) else None
            airs = bed_airs(store.ask(known) if known is not None else None)
            start.like = first_bed(setup, catalogue, job.tolerances, airs=airs, last=start.like, cells=WHILE_DRAGGED,
                                   settled=ABOUT)  # fmt: skip
            yield BedFound(job, start.like, before(known, cancelled))
            yield REST
        course = yield from answered_hours(store, setup, job, catalogue, cancelled)
        ruled, full = (ask(setup, job, catalogue, course) for ask in (controlled, in_full))
        was = before(course, cancelled)
        if not store.knows(ruled):
            moving = COURSE.of(at_rest(setup, job, catalogue, course), course)
            yield BedFound(job, store.ask(moving, cancelled), was)
            yield REST
        found = BedFound(job, store.ask(ruled, cancelled), was)
        if not (wholly or store.knows(full)):
            yield found
            return
        if not store.knows(full):
            yield found
        why, tuned = RIVALS.of(ruled, course), TUNED.of(ruled, course)
        found = replace(found, rivals=store.ask(why, cancelled), tuned=store.ask(tuned, cancelled))
        if not store.knows(full):
            yield found
        yield replace(found, answer=store.ask(full, cancelled))

    return task

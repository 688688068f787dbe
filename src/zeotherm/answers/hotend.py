"""What is known of the hotend over its job: at once about, then the whole job, then how sure and why."""

from __future__ import annotations

from collections.abc import Callable, Generator, Iterator, Mapping
from dataclasses import dataclass, replace
from functools import cached_property

from zeotherm.answers.executor import REST, Rest, Until
from zeotherm.answers.store import Store
from zeotherm.core.catalogue import Catalogue
from zeotherm.core.catalogue.lookup import DoesNotFitError
from zeotherm.core.judgement.standing import ALL_KNOWN, Deciding, Standing, not_told, standing, told_paths
from zeotherm.core.machine.documents import Job, Setup
from zeotherm.core.parts.hotend.judge.answer import Answer
from zeotherm.core.parts.hotend.judge.ask import first_answer, full_answer, with_bands
from zeotherm.core.parts.hotend.judge.course import Course, plan
from zeotherm.core.parts.hotend.judge.deciding import deciding
from zeotherm.core.parts.hotend.judge.over_time import OverTime, over_time
from zeotherm.core.parts.whole.run import FINENESS
from zeotherm.core.questions import Cancelled, Question, Stage, never
from zeotherm.core.solver.axisymmetric import NotConvergedError
from zeotherm.core.solver.stepping import TooSmallError


def _worst(course: Course, *, cancelled: Cancelled) -> Answer:
    """The job's worst moment, in full."""
    at = course.worst_time
    return full_answer(course.answer(at), cancelled, course=course, time=at)


def _deciding(
    course: Course, worst: Answer, facts: tuple[str, ...], known: tuple[str, ...], *, cancelled: Cancelled
) -> Deciding | None:
    """Which facts decide the verdict at that moment, of those that nobody told, by key."""
    about = course.run.catalogue.facts
    return deciding(worst, course, {key: about[key] for key in facts}, frozenset(known), cancelled)


COURSE = Stage("hours of a job", plan, kept=16)  # of a setup, by a catalogue, with tolerances
WORST = Stage("hotend at its worst", _worst, kept=16)  # of its hours
DECIDING = Stage("facts that decide", _deciding, kept=16)  # of hours, their worst moment; facts not told; paths told
SURE = Stage("hotend over its hours, how sure", over_time, kept=16)  # of its hours


def hours(setup: Setup, job: Job, catalogue: Catalogue) -> Question[Course]:
    """How a setup of a job goes, hour by hour: as found, or on trial."""
    return COURSE.of(setup, catalogue, job.tolerances)


def answered_hours(
    store: Store, setup: Setup, job: Job, catalogue: Catalogue, cancelled: Cancelled
) -> Generator[Until, None, Question[Course] | None]:
    """Part of a task: a setup's hours, answered by whoever is at it first; None where they have no answer.

    Raises CancelledError.
    """
    question = hours(setup, job, catalogue)
    other = store.under_way(question)
    if other is not None:
        yield Until((other,))
    try:
        store.ask(question, cancelled)
    except (NotConvergedError, DoesNotFitError, TooSmallError):
        return None
    return question


def worst(setup: Setup, job: Job, catalogue: Catalogue) -> Question[Answer]:
    """The worst moment of a setup's hours."""
    return WORST.of(hours(setup, job, catalogue))


def decides(setup: Setup, job: Job, catalogue: Catalogue) -> Question[Deciding | None]:
    """Which of the facts that nobody told decide the verdict on a setup."""
    facts = tuple(not_told(job, "hotend", catalogue))
    return DECIDING.of(hours(setup, job, catalogue), worst(setup, job, catalogue), facts, told_paths(job))


def sure(setup: Setup, job: Job, catalogue: Catalogue) -> Question[OverTime]:
    """Bands over a setup's hours."""
    return SURE.of(hours(setup, job, catalogue))


@dataclass(frozen=True)
class Found:
    """What the model says of the job on the bench, and of the machine as found."""

    job: Job
    answer: Answer  # at the moment that is shown
    about_before: Answer | None  # as found, until that was run; None while nothing is on trial
    course: Course | None = None  # the whole job; None until it is run
    course_found: Course | None = None
    time: float = 0.0  # of the moment that is shown [s]
    worst: Answer | None = None  # at the job's worst moment, in full
    sure: OverTime | None = None  # bands over the hours; the last to come
    deciding: Deciding | None = None  # which facts decide the verdict on the worst moment
    decided: bool = False  # whether that was looked into

    @cached_property
    def as_found(self) -> Answer | None:
        """The machine as found at the same moment; None while nothing is on trial."""
        was = self.course_found
        return was.answer(min(self.time, was.run.end), doubts=False) if was is not None else self.about_before

    @cached_property
    def was(self) -> Mapping[str, float | None]:
        """The stations of `as_found`, by key, at a fifth of its cost; without those of the feed, which nobody reads."""
        if self.course_found is not None:
            run = self.course_found.run
            return run.stations(min(self.time, run.end), fed=False)
        return self.about_before.solved.readout.values if self.about_before is not None else {}

    @cached_property
    def standing(self) -> Standing:
        """What the verdict stands on."""
        return standing(self.job, "hotend", self.answer.catalogue, self.deciding)

    @property
    def judged(self) -> Answer:
        """What the verdict speaks of: the worst moment, or what there is until it is known."""
        return self.worst or self.answer

    @property
    def about(self) -> bool:
        """Whether the whole job has yet to be run: what is shown stands in the air of before."""
        return self.course is None

    @property
    def complete(self) -> bool:
        """Whether bands and reasons are there, of the worst moment and of the one shown, and what stands beside."""
        beside = not self.job.trial or self.course_found is not None
        known = self.decided or not self.standing.assumed
        return beside and known and self.worst is not None and self.worst.complete and self.answer.complete


@dataclass(frozen=True)
class OtherJob:
    """A job of the workshop with its answer, for the list."""

    key: int
    job: Job
    answer: Answer | None

    @property
    def standing(self) -> Standing:
        """What its verdict stands on; which facts decide is not reckoned for a list."""
        return standing(self.job, "hotend", self.answer.catalogue) if self.answer is not None else ALL_KNOWN


def hotend(
    store: Store, job: Job, catalogue: Catalogue, last: Found | None, wish: float | None
) -> Callable[[Cancelled], Iterator[Found | Rest | Until]]:
    """A task: at once what the job would be in the air of before, then the job run, then how sure and why.

    last: what was shown before; wish: the moment to show [s], None: the worst.
    """
    setup = job.setup()
    question = hours(setup, job, catalogue)

    def task(cancelled: Cancelled) -> Iterator[Found | Rest | Until]:
        if not store.knows(question):
            yield _about(job, setup, catalogue, last, cancelled)
            yield REST
        other = store.under_way(question)
        if other is not None:
            yield Until((other,))
        course = store.ask(question, cancelled)
        full, over = worst(setup, job, catalogue), sure(setup, job, catalogue)
        facts = decides(setup, job, catalogue)
        beside = hours(job.found, job, catalogue)
        known = Found(
            job, course.answer(course.worst_time), None, course, worst=store.ask(full) if store.knows(full) else None,
            course_found=store.ask(beside) if job.trial and store.knows(beside) else None,
            sure=store.ask(over) if store.knows(over) else None,
            deciding=store.ask(facts) if store.knows(facts) else None, decided=store.knows(facts),
        )  # fmt: skip
        if last is not None and last.job == job and last.course is course:
            found = last  # scrubbed: what is missing is another moment, or its bands
            if found.time != moment_of(course, wish):
                found = at_moment(found, wish)
                yield found
        else:
            found = at_moment(known, wish)
            course.reckon(found.judged.bands)
            yield found
        if job.trial and found.course_found is None:
            was = store.ask(beside, cancelled)
            found = at_moment(replace(found, course_found=was), wish)
            yield found
        found = replace(found, worst=store.ask(full, cancelled))
        assert found.worst is not None
        course.reckon(found.worst.bands)
        yield REST
        if abs(found.time - course.worst_time) < 1e-6:
            found = replace(found, answer=found.worst)
        else:
            found = replace(found, answer=with_bands(course.answer(found.time), cancelled))
        yield found
        if found.standing.assumed and not found.decided:
            found = replace(found, deciding=store.ask(facts, cancelled), decided=True)
            yield found
        if found.sure is None:
            yield replace(found, sure=store.ask(over, cancelled))

    return task


def _about(job: Job, setup: Setup, catalogue: Catalogue, last: Found | None, cancelled: Cancelled) -> Found:
    """The hotend settled in the air of the moment that was shown last."""
    stated = catalogue.air_sources[setup.surroundings.air_from].stated
    air = None if stated or last is None else last.answer.solved.air
    before = last.answer if last is not None else None
    answer = first_answer(setup, catalogue, job.tolerances, before, cancelled, air=air, fineness=FINENESS)
    if last is None or last.job.found != job.found:
        return Found(job, answer, None)
    return Found(job, answer, last.as_found or last.answer if job.trial else None)


def moment_of(course: Course, wish: float | None) -> float:
    """The moment that is wished for, within the run [s]; None: the worst."""
    return course.worst_time if wish is None else min(max(wish, 0.0), course.run.end)


def at_moment(found: Found, wish: float | None) -> Found:
    """The same job at another moment: the one wished for, within the run, or the worst."""
    course = found.course
    assert course is not None
    time = moment_of(course, wish)
    answer = found.worst if found.worst is not None and wish is None else course.answer(time, doubts=False)
    return replace(found, time=time, answer=answer)


def listed(
    store: Store, read: Callable[[], Iterator[tuple[int, Job, Catalogue]]]
) -> Callable[[Cancelled], Iterator[list[OtherJob]]]:
    """A task: the jobs of a list, each with its worst moment, as they are known; read: gives them."""

    def task(cancelled: Cancelled) -> Iterator[list[OtherJob]]:
        others: list[OtherJob] = []
        for key, job, catalogue in read():
            if cancelled():
                return
            others.append(OtherJob(key, job, worst_moment(store, job, catalogue, cancelled)))
            yield list(others)

    return task


def worst_moment(store: Store, job: Job, catalogue: Catalogue, cancelled: Cancelled = never) -> Answer | None:
    """A job's worst moment, in full where that is at hand; None where there is no answer. Raises CancelledError."""
    setup = job.setup()
    try:
        course = store.ask(hours(setup, job, catalogue), cancelled)
    except (NotConvergedError, DoesNotFitError):
        return None
    full = worst(setup, job, catalogue)
    return store.ask(full) if store.knows(full) else course.answer(course.worst_time)

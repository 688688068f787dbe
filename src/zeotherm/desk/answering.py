"""What the bench has answered in the background: at once about, then the whole job, then how sure and why."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from functools import cached_property

from zeotherm.core.catalogue import Catalogue
from zeotherm.core.catalogue.lookup import DoesNotFitError
from zeotherm.core.judgement.answer import Answer
from zeotherm.core.judgement.ask import first_answer, full_answer, with_bands
from zeotherm.core.judgement.course import Course, plan
from zeotherm.core.judgement.over_time import OverTime, over_time
from zeotherm.core.machine.documents import Job, Setup
from zeotherm.core.solver.axisymmetric import NotConvergedError
from zeotherm.core.twin.whole.run import FINENESS
from zeotherm.desk.room import Kept, name_of
from zeotherm.desk.scheduler import Cancelled, Emit, rest

MOST_KEPT = 16


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
        """Whether bands and reasons are there, of the worst moment and of the one shown."""
        return self.worst is not None and self.worst.complete and self.answer.complete


@dataclass
class Ran:
    """A job that was run, kept for as long as the bench may come back to it."""

    course: Course
    worst: Answer | None = None
    sure: OverTime | None = None


@dataclass(frozen=True)
class OtherJob:
    """A job of the workshop with its answer, for the list."""

    key: int
    job: Job
    answer: Answer | None


class KeptRuns:
    """The jobs that were run last, by what went in: shared by the bench and the list of jobs."""

    def __init__(self) -> None:
        self._ran: Kept[Ran] = Kept(MOST_KEPT)

    def get(self, setup: Setup, job: Job, catalogue: Catalogue) -> Ran | None:
        """The run of a setup, if it is still here; readings count, for they sharpen what it says."""
        return self._ran.get(name_of(setup, job.tolerances, job.readings, catalogue))

    def put(self, setup: Setup, job: Job, catalogue: Catalogue, ran: Ran) -> Ran:
        """Keep a run; the oldest goes."""
        return self._ran.keep(name_of(setup, job.tolerances, job.readings, catalogue), ran)


@dataclass(frozen=True)
class Work:
    """All that one state of the bench asks for; what is known already is not asked again."""

    job: Job
    catalogue: Catalogue
    last: Found | None
    ran: KeptRuns
    wish: float | None
    patient: bool = False  # whether another part of the machine is looked at, which goes first

    def run(self, emit: Emit, cancelled: Cancelled) -> None:
        """At once what the job would be in the air of before, then the job run, then how sure and why."""
        setup = self.job.setup()
        known = self.ran.get(setup, self.job, self.catalogue)
        if known is None:
            if self.patient:
                rest(cancelled)
            emit(self._about(setup, cancelled))
            rest(cancelled)
            known = self._run(setup, cancelled)
        if self.last is not None and self.last.job == self.job and self.last.course is known.course:
            found = self.last  # scrubbed: what is missing is the moment's bands
        else:
            found = at_moment(
                Found(self.job, known.course.answer(known.course.worst_time), None, known.course), self.wish
            )
            found = replace(found, worst=known.worst, sure=known.sure)
            emit(found)
        if self.job.trial and found.course_found is None:
            was = self.ran.get(self.job.found, self.job, self.catalogue) or self._run(self.job.found, cancelled)
            found = at_moment(replace(found, course_found=was.course), self.wish)
            emit(found)
        if known.worst is None:
            course = known.course
            known.worst = full_answer(
                course.answer(course.worst_time), cancelled, course=course, time=course.worst_time,
                taken=self.job.readings,
            )  # fmt: skip
        found = replace(found, worst=known.worst)
        rest(cancelled)
        if abs(found.time - known.course.worst_time) < 1e-6:
            found = replace(found, answer=known.worst)
        else:
            found = replace(found, answer=with_bands(known.course.answer(found.time), cancelled))
        emit(found)
        if known.sure is None:
            known.sure = over_time(known.course, cancelled)
        if found.sure is not known.sure:
            emit(replace(found, sure=known.sure))

    def _run(self, setup: Setup, cancelled: Cancelled) -> Ran:
        course = plan(setup, self.catalogue, self.job.tolerances, cancelled)
        return self.ran.put(setup, self.job, self.catalogue, Ran(course))

    def _about(self, setup: Setup, cancelled: Cancelled) -> Found:
        """The hotend settled in the air of the moment that was shown last."""
        last = self.last
        stated = self.catalogue.air_sources[setup.surroundings.air_from].stated
        air = None if stated or last is None else last.answer.solved.air
        before = last.answer if last is not None else None
        answer = first_answer(setup, self.catalogue, self.job.tolerances, before, cancelled, air=air, fineness=FINENESS)
        if last is None or last.job.found != self.job.found:
            return Found(self.job, answer, None)
        return Found(self.job, answer, last.as_found or last.answer if self.job.trial else None)


def at_moment(found: Found, wish: float | None) -> Found:
    """The same job at another moment: the one wished for, within the run, or the worst."""
    course = found.course
    assert course is not None
    time = course.worst_time if wish is None else min(max(wish, 0.0), course.run.end)
    answer = found.worst if found.worst is not None and wish is None else course.answer(time, doubts=False)
    return replace(found, time=time, answer=answer)


def listed_job(key: int, job: Job, catalogue: Catalogue, ran: KeptRuns, cancelled: Cancelled) -> OtherJob:
    """A job of the list with its worst moment; without an answer where none is found. Raises CancelledError."""
    try:
        setup = job.setup()
        known = ran.get(setup, job, catalogue)
        if known is None:
            known = ran.put(setup, job, catalogue, Ran(plan(setup, catalogue, job.tolerances, cancelled)))
        return OtherJob(key, job, known.worst or known.course.answer(known.course.worst_time))
    except (NotConvergedError, DoesNotFitError):
        return OtherJob(key, job, None)

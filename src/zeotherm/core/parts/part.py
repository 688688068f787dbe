"""What every part of a machine gives beside its model: what is asked of it, step by step, and what is known by now."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, replace
from functools import cached_property, partial
from typing import Any, Generic, Literal, Self, TypeVar

from pydantic import JsonValue

from zeotherm.core.catalogue.shelves import Catalogue
from zeotherm.core.catalogue.stations import Station
from zeotherm.core.judgement.standing import Deciding, not_told, told_paths
from zeotherm.core.machine.documents import Job, Setup
from zeotherm.core.machine.patches import sets
from zeotherm.core.machine.quantity import Document
from zeotherm.core.parts.deciding import deciding_at_rest
from zeotherm.core.parts.hotend.judge.course import Course
from zeotherm.core.questions import Question, Stage

A = TypeVar("A")  # the answer of a part: setup and catalogue, margins worst first, values by station, facts
Hours = Question[Course] | None  # how the machine's job goes, hour by hour; None where that has no answer
Told = tuple[Any, ...]  # what the bench tells beyond the job, as contacts seen in thermal pictures


@dataclass(frozen=True)
class PartFound(Generic[A]):
    """What is known of a part of the job on the bench by now."""

    job: Job
    answer: A | None  # None: the machine has no such part
    as_found: A | None = None  # while something is on trial
    beside: Mapping[str, Any] = field(default_factory=dict)  # what is said beside the answer, by the name of its aside
    time: float | None = None  # of the moment that is shown [s]; None: late in the print
    deciding: Deciding | None = None  # which facts decide its verdict; None: not reckoned

    @property
    def run(self) -> Any:
        """Its course, once it is known; None for a part without one."""
        return getattr(self.answer, "run", None)

    def at(self, time: float | None) -> Self:
        """The same at another moment of its course, within it; None: late in the print."""
        if time is None or self.run is None:
            return replace(self, time=None)
        return replace(self, time=min(max(time, 0.0), float(self.run.times[-1])))

    def with_aside(self, name: str, said: Any) -> Self:
        """The same with one more thing said beside the answer."""
        return replace(self, beside={**self.beside, name: said})

    @property
    def shown(self) -> Any:
        """The solved part at the moment that is shown."""
        assert self.answer is not None
        if self.time is None or self.run is None:
            return getattr(self.answer, "solved")  # noqa: B009  # the answer is of any part
        return self.run.moment(self.time)

    @property
    def values(self) -> Mapping[str, float]:
        """Stations at the moment that is shown; a part without a course has those of its print."""
        found: Mapping[str, float] = getattr(self.answer, "values")  # noqa: B009
        return found


def nothing_more(_job: Job, _told: Told) -> tuple[Any, ...]:
    """For what is said by the answer alone."""
    return ()


@dataclass(frozen=True)
class Aside:
    """Something that is said beside an answer. stage: of the answer, the hours, and what `given` takes from the job."""

    name: str
    stage: Stage[Any]
    of: Literal["rest", "found", "course", "full"]  # found: at rest as found while something is on trial, else course
    given: Callable[[Job, Told], tuple[Any, ...]] = nothing_more


@dataclass(frozen=True)
class Part(Generic[A]):
    """A part of a machine besides the hotend, which has the hours: whether it is there, and what is asked of it.

    rest: of a setup, by a catalogue, with tolerances, in hours or None; then and full: each of what was before it, in
    the same hours. meanwhile: of the same as rest, from what it was before: soon, while a lever is dragged. Its words
    are the module `wording.<module>` of `home`, its face `desk.parts.<module>`; they are loaded when they are needed.
    """

    key: str  # its field of a setup, its tab, and the part of its limits and levers
    module: str  # what its folders are called
    command: str  # of the command line
    declares: type[Document]
    present: Callable[[Setup, Catalogue], bool]
    rest: Stage[A]
    then: tuple[Stage[A], ...]  # over its course
    full: Stage[A]  # with bands and strengths
    meanwhile: Callable[[Setup, Catalogue, dict[str, float], Course | None, A | None], A]
    asides: tuple[Aside, ...] = ()
    found: Callable[..., PartFound[A]] = PartFound
    home: str = "zeotherm"
    stations: Mapping[str, Station] = field(default_factory=dict)  # that the shipped ones do not have
    shelf: Mapping[str, JsonValue] = field(default_factory=dict)  # limits, levers: a merge patch over the catalogue
    absent_by: tuple[str, ...] | None = None  # paths; any that is known tells that a machine has none; (): all have one

    def counts(self, setup: Setup, catalogue: Catalogue) -> bool:
        """Whether it is spoken of with a machine: an extra only where there is one. Raises DoesNotFitError."""
        return self.absent_by is not None or self.present(setup, catalogue)

    def may_be(self, job: Job, catalogue: Catalogue) -> bool:
        """Whether a job's machine has one, or nobody entered that it has none; without `absent_by` it is an extra, and
        only there where it is entered. Raises DoesNotFitError."""
        known = self.absent_by is None or any(path in job.known or sets(job.trial, path) for path in self.absent_by)
        return not known or self.present(job.setup(), catalogue)

    def steps(self, setup: Setup, job: Job, catalogue: Catalogue, hours: Hours) -> tuple[Question[A], ...]:
        """The questions of a setup of a job, as found or on trial: at rest, over its course, and in full at last."""
        found = [self.rest.of(setup, catalogue, job.tolerances, hours)]
        for stage in (*self.then, self.full):
            found.append(stage.of(found[-1], hours))
        return tuple(found)

    def at_rest(self, setup: Setup, job: Job, catalogue: Catalogue, hours: Hours) -> Question[A]:
        """Late in the print, in what the machine's hours put about it."""
        return self.steps(setup, job, catalogue, hours)[0]

    def over_its_course(self, setup: Setup, job: Job, catalogue: Catalogue, hours: Hours) -> Question[A]:
        """The same over the job, without bands."""
        return self.steps(setup, job, catalogue, hours)[-2]

    def in_full(self, setup: Setup, job: Job, catalogue: Catalogue, hours: Hours) -> Question[A]:
        """The same with bands and strengths."""
        return self.steps(setup, job, catalogue, hours)[-1]

    @cached_property
    def decides(self) -> Stage[Deciding | None]:
        """Which facts decide its verdict: of what `deciding_at_rest` is given, its hours and its full answer asked."""
        return Stage(f"facts that decide, {self.key}", partial(deciding_at_rest, self.rest.work), kept=6)

    def deciding(self, setup: Setup, job: Job, catalogue: Catalogue, hours: Hours) -> Question[Deciding | None]:
        """Which of the facts that nobody told decide the verdict on it."""
        facts, full = tuple(not_told(job, self.key, catalogue)), self.in_full(setup, job, catalogue, hours)
        return self.decides.of(setup, catalogue, job.tolerances, hours, full, facts, told_paths(job))

    def aside(
        self, name: str, setup: Setup, job: Job, catalogue: Catalogue, hours: Hours, told: Told = (),
        of_found: Hours = None,
    ) -> Question[Any]:  # fmt: skip
        """What is said beside the answer under a name; of_found: the hours of the machine as found. StopIteration for
        a name that there is not."""
        one = next(one for one in self.asides if one.name == name)
        steps = self.steps(setup, job, catalogue, hours)
        of = {"rest": steps[0], "course": steps[-2], "full": steps[-1], "found": steps[-2]}[one.of]
        if one.of == "found" and job.trial and self.present(job.found, catalogue):
            of = self.at_rest(job.found, job, catalogue, of_found)
        return one.stage.of(of, hours, *one.given(job, told))

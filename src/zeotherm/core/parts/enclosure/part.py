"""The enclosure as a part: at rest late in the print, over its course, with bands and strengths."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from zeotherm.core.catalogue.shelves import Catalogue
from zeotherm.core.machine.documents import Job, Setup
from zeotherm.core.machine.surroundings import Case
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
from zeotherm.core.parts.hotend.judge.course import Course, run_of
from zeotherm.core.parts.part import Aside, Part, PartFound, Told
from zeotherm.core.questions import Cancelled, Stage


@dataclass(frozen=True)
class CaseFound(PartFound[ChamberAnswer]):
    """What is known of the enclosure of the job on the bench."""

    @property
    def tried(self) -> tuple[Tried, ...]:
        """What each change alone would do."""
        found: tuple[Tried, ...] = self.beside.get("tried", ())
        return found

    @property
    def cut(self) -> CutOut | None:
        """Where a cut-out may stand."""
        return self.beside.get("cut")

    @property
    def gone(self) -> tuple[Gone, ...]:
        """What happens when something fails."""
        found: tuple[Gone, ...] = self.beside.get("gone", ())
        return found

    @property
    def own(self) -> Warmth | None:
        """What the filament on the machine may have."""
        return self.beside.get("own")

    @property
    def values(self) -> Mapping[str, float]:
        """Stations at the moment that is shown."""
        assert self.answer is not None
        if self.time is None:
            return self.answer.values
        return stations(self.answer.setup, self.answer.catalogue, self.shown)


def _at_rest(
    setup: Setup, catalogue: Catalogue, tolerances: dict[str, float], course: Course | None, *, cancelled: Cancelled
) -> ChamberAnswer:
    return _meanwhile(setup, catalogue, tolerances, course, None)


def _meanwhile(
    setup: Setup, catalogue: Catalogue, tolerances: dict[str, float], course: Course | None, last: ChamberAnswer | None
) -> ChamberAnswer:
    return first_case(setup, catalogue, tolerances, arounds=around_of(setup, catalogue, run_of(course)), like=last)


def _over_its_course(rest: ChamberAnswer, course: Course | None, *, cancelled: Cancelled) -> ChamberAnswer:
    """At rest as it is where the hours are not known."""
    run = run_of(course)
    if run is None:
        return rest
    return with_case_course(rest, around_of(rest.setup, rest.catalogue, run), run.end, run.off, cancelled)


def _in_full(answer: ChamberAnswer, course: Course | None, *, cancelled: Cancelled) -> ChamberAnswer:
    return full_case(answer, run_of(course), cancelled)


def _cut(rest: ChamberAnswer, course: Course | None, *, cancelled: Cancelled) -> CutOut | None:
    return cut_out(rest)


def _own(
    rest: ChamberAnswer, course: Course | None, tolerances: dict[str, float], *, cancelled: Cancelled
) -> Warmth | None:
    """What the filament on the machine may have; None where its nozzle is not reached or the hours are not known."""
    if course is None:
        return None
    told = warmths(rest.setup, rest.catalogue, course.run, rest.solved.low, tolerances, cancelled, own_only=True)
    return told[0] if told else None


def _tried(answer: ChamberAnswer, course: Course | None, *, cancelled: Cancelled) -> tuple[Tried, ...]:
    return tuple(tried(answer, run_of(course), cancelled))


def _gone(answer: ChamberAnswer, course: Course | None, *, cancelled: Cancelled) -> tuple[Gone, ...]:
    return tuple(gone_wrong(answer, cancelled))


def _tolerances(job: Job, _told: Told) -> tuple[dict[str, float]]:
    return (job.tolerances,)


PART: Part[ChamberAnswer] = Part(
    key="case",
    module="enclosure",
    command="chamber",
    declares=Case,
    present=encloses,
    absent_by=("case.part",),
    rest=Stage("enclosure at rest", _at_rest),
    then=(Stage("enclosure over its course", _over_its_course),),
    full=Stage("enclosure in full", _in_full),
    meanwhile=_meanwhile,
    asides=(
        Aside("cut", Stage("enclosure's cut-out", _cut), "rest"),
        Aside("own", Stage("enclosure for its filament", _own), "rest", _tolerances),
        Aside("tried", Stage("enclosure, what would help", _tried), "full"),
        Aside("gone", Stage("enclosure, what goes wrong", _gone), "full"),
    ),
    found=CaseFound,
)

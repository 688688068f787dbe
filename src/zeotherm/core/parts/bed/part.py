"""The bed as a part: at rest, over its warm-up and print, under its controller, with bands and strengths."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from functools import cached_property

from zeotherm.core.catalogue.shelves import Catalogue
from zeotherm.core.judgement.margins import margins_with
from zeotherm.core.machine.bed import Bed
from zeotherm.core.machine.documents import Setup
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
from zeotherm.core.parts.part import Aside, Part, PartFound
from zeotherm.core.questions import Cancelled, Stage
from zeotherm.core.solver.plate import NotSettledError

OF_ALL = ("bed_ready", "bed_clearance")  # stations of the whole course, the same at every moment of it
ABOUT = 0.02  # K of the sensor, meanwhile
WHILE_DRAGGED = 16  # cells along the longer side: within half a kelvin of the working grid


@dataclass(frozen=True)
class BedFound(PartFound[BedAnswer]):
    """What is known of the bed of the job on the bench."""

    @property
    def rivals(self) -> tuple[Rival, ...]:
        """What is computed of it both ways."""
        found: tuple[Rival, ...] = self.beside.get("rivals", ())
        return found

    @property
    def tuned(self) -> Tuned | None:
        """Its controller, by a relay test on the model."""
        return self.beside.get("tuned")

    @cached_property
    def shown(self) -> BedReadout:
        """What is read at the moment that is shown."""
        assert self.answer is not None
        return self.answer.readout if self.time is None else moment(self.answer, self.time)

    @property
    def values(self) -> Mapping[str, float]:
        """Stations at the moment that is shown; those of the whole course are the same at every moment."""
        assert self.answer is not None
        whole = self.answer.readout.values
        return {**self.shown.values, **{key: whole[key] for key in OF_ALL if key in whole}}

    @property
    def judged(self) -> BedAnswer:
        """The answer with its margins at the moment that is shown."""
        assert self.answer is not None
        if self.time is None:
            return self.answer
        return replace(self.answer, margins=margins_with(self.answer.limits, self.values, self.answer.bands))


def bed_airs(course: Course | None) -> Airs | None:
    """What the bed stands in along the hours of its machine; None where they are not known."""
    return airs_of(course.run) if course is not None else None


def _at_rest(
    setup: Setup, catalogue: Catalogue, tolerances: dict[str, float], course: Course | None, *, cancelled: Cancelled
) -> BedAnswer:
    return first_bed(setup, catalogue, tolerances, airs=bed_airs(course))


def _meanwhile(
    setup: Setup, catalogue: Catalogue, tolerances: dict[str, float], course: Course | None, last: BedAnswer | None
) -> BedAnswer:
    return first_bed(setup, catalogue, tolerances, airs=bed_airs(course), last=last, cells=WHILE_DRAGGED, settled=ABOUT)


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


PART: Part[BedAnswer] = Part(
    key="bed",
    module="bed",
    command="bed",
    declares=Bed,
    present=heated,
    absent_by=("bed.part", "bed.heater_w", "bed.target_c"),
    rest=Stage("bed at rest", _at_rest),
    then=(Stage("bed over its course", _over_its_course), Stage("bed under its control", _under_control)),
    full=Stage("bed in full", _in_full),
    meanwhile=_meanwhile,
    asides=(
        Aside("rivals", Stage("bed both ways", _both_ways), "course"),
        Aside("tuned", Stage("bed's controller", _tuned), "course"),
    ),
    found=BedFound,
)

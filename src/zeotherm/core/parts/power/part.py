"""The power path as a part: at rest at its worst current, over its course, with bands and strengths, and as read."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from zeotherm.core.catalogue.fitting import described
from zeotherm.core.catalogue.shelves import Catalogue
from zeotherm.core.machine.documents import Job, Reading, Setup
from zeotherm.core.machine.power import Power
from zeotherm.core.parts.hotend.judge.course import Course, run_of
from zeotherm.core.parts.part import Aside, Part, PartFound, Told
from zeotherm.core.parts.power.judge.ageing import Lasting, lasting
from zeotherm.core.parts.power.judge.answer import (
    PowerAnswer,
    first_power,
    late_air,
    stations,
    with_power_course,
    worst_duty,
)
from zeotherm.core.parts.power.judge.readings import ContactReading, ReadContacts, Seen, read_contacts
from zeotherm.core.parts.power.judge.sure import full_power
from zeotherm.core.questions import Cancelled, Stage

NOT_READ = ReadContacts()


@dataclass(frozen=True)
class PowerFound(PartFound[PowerAnswer]):
    """What is known of the power path of the job on the bench."""

    @property
    def told(self) -> tuple[tuple[str, ContactReading], ...]:
        """What readings tell of contacts."""
        return self._read.told

    @property
    def refused(self) -> tuple[str, ...]:
        """And why others tell nothing."""
        return self._read.refused

    @property
    def _read(self) -> ReadContacts:
        found: ReadContacts = self.beside.get("read", NOT_READ)
        return found

    @property
    def lasting(self) -> Lasting | None:
        """The joint that comes to its limit first as it ages, once bands are known."""
        return self.beside.get("lasting")

    @property
    def values(self) -> Mapping[str, float]:
        """Stations at the moment that is shown."""
        assert self.answer is not None
        if self.time is None:
            return self.answer.values
        shown = self.shown
        return stations(shown, self.answer.full, shown.air, self.answer.setup.room.mean_c)


def _at_rest(
    setup: Setup, catalogue: Catalogue, tolerances: dict[str, float], course: Course | None, *, cancelled: Cancelled
) -> PowerAnswer:
    return _meanwhile(setup, catalogue, tolerances, course, None)


def _meanwhile(
    setup: Setup, catalogue: Catalogue, tolerances: dict[str, float], course: Course | None, last: PowerAnswer | None
) -> PowerAnswer:
    run = run_of(course)
    air, duty = late_air(setup, catalogue, run), worst_duty(run)
    return first_power(setup, catalogue, tolerances, air=air, duty=duty, like=last)


def _over_its_course(rest: PowerAnswer, course: Course | None, *, cancelled: Cancelled) -> PowerAnswer:
    """Wires and joints are sized by the warmest air of the hours; at rest as it is where they are not known."""
    return with_power_course(rest, course.run, cancelled) if course is not None else rest


def _in_full(answer: PowerAnswer, course: Course | None, *, cancelled: Cancelled) -> PowerAnswer:
    return full_power(answer, cancelled)


def _read(
    answer: PowerAnswer, course: Course | None, readings: dict[str, Reading], seen: Told, *, cancelled: Cancelled
) -> ReadContacts:
    return read_contacts(answer, readings, seen)


def _lasting(answer: PowerAnswer, course: Course | None, *, cancelled: Cancelled) -> Lasting | None:
    return lasting(answer)


def _readings(job: Job, seen: tuple[Seen, ...]) -> tuple[dict[str, Reading], tuple[Seen, ...]]:
    return {key: one for key, one in job.readings.items() if key.startswith("power_")}, seen


PART: Part[PowerAnswer] = Part(
    key="power",
    module="power",
    command="power",
    declares=Power,
    present=described,
    absent_by=(),
    rest=Stage("power path at rest", _at_rest),
    then=(Stage("power path over its course", _over_its_course),),
    full=Stage("power path in full", _in_full),
    meanwhile=_meanwhile,
    asides=(
        Aside("read", Stage("power path as read", _read), "found", _readings),
        Aside("lasting", Stage("power path, how long it lasts", _lasting), "full"),
    ),
    found=PowerFound,
)

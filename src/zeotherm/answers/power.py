"""What is known of the power path over its job: at rest, then its course, then how sure and what would help."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace

from zeotherm.answers.executor import REST, Rest, Until
from zeotherm.answers.hotend import answered_hours, hours, run_of
from zeotherm.answers.moments import Scrubbed
from zeotherm.answers.store import Store
from zeotherm.core.catalogue import Catalogue
from zeotherm.core.machine.documents import Job, Setup
from zeotherm.core.parts.hotend.judge.course import Course
from zeotherm.core.parts.power.judge.ageing import Lasting, lasting
from zeotherm.core.parts.power.judge.answer import (
    PowerAnswer,
    first_power,
    late_air,
    stations,
    with_power_course,
    worst_duty,
)
from zeotherm.core.parts.power.judge.readings import ContactReading, from_drop, from_warmth
from zeotherm.core.parts.power.judge.sure import full_power
from zeotherm.core.parts.power.model.inputs import CONTACTS, described
from zeotherm.core.parts.power.model.model import SolvedPath
from zeotherm.core.questions import Cancelled, Question, Stage, Start

AMPS_DOUBT = 0.03  # of the current through a joint where it is the model's


@dataclass(frozen=True, slots=True)
class Seen:
    """A contact as a thermal picture shows it."""

    contact: str
    warm: float  # °C
    doubt: float  # 95 % half-width [K]
    picture: str  # what it is called


@dataclass(frozen=True)
class PowerFound(Scrubbed[SolvedPath]):
    """What the model says of the power path of the job on the bench."""

    job: Job
    answer: PowerAnswer | None  # None: it is not described
    as_found: PowerAnswer | None = None  # while something is on trial
    told: tuple[tuple[str, ContactReading], ...] = ()  # what readings tell of contacts
    refused: tuple[str, ...] = ()  # and why others tell nothing
    lasting: Lasting | None = None  # the joint that comes to its limit first as it ages, once bands are known
    time: float | None = None  # of the moment that is shown [s]; None: at rest, at its worst current

    @property
    def values(self) -> dict[str, float]:
        """Stations at the moment that is shown."""
        assert self.answer is not None
        if self.time is None:
            return self.answer.values
        shown = self.shown
        return stations(shown, self.answer.full, shown.air, self.answer.setup.room.mean_c)


def _at_rest(
    setup: Setup, catalogue: Catalogue, tolerances: dict[str, float], course: Course | None, *, cancelled: Cancelled
) -> PowerAnswer:
    run = run_of(course)
    return first_power(setup, catalogue, tolerances, air=late_air(setup, catalogue, run), duty=worst_duty(run))


def _over_its_course(rest: PowerAnswer, course: Course, *, cancelled: Cancelled) -> PowerAnswer:
    return with_power_course(rest, course.run, cancelled)


AT_REST = Stage("power path at rest", _at_rest)  # of a setup, by a catalogue, with tolerances, in hours or None
COURSE = Stage("power path over its course", _over_its_course)  # of the path at rest, in hours
FULL = Stage("power path in full", full_power)  # of either


def at_rest(setup: Setup, job: Job, catalogue: Catalogue, course: Question[Course] | None) -> Question[PowerAnswer]:
    """The power path of a setup of a job, as found or on trial, in what hours of the machine put about it."""
    return AT_REST.of(setup, catalogue, job.tolerances, course)


def over_its_course(
    setup: Setup, job: Job, catalogue: Catalogue, course: Question[Course] | None
) -> Question[PowerAnswer]:
    """The same over its course, where the hours are known: wires and joints are sized by the warmest air of it."""
    rest = at_rest(setup, job, catalogue, course)
    return COURSE.of(rest, course) if course is not None else rest


def in_full(setup: Setup, job: Job, catalogue: Catalogue, course: Question[Course] | None) -> Question[PowerAnswer]:
    """The same with bands and strengths."""
    return FULL.of(over_its_course(setup, job, catalogue, course))


def power(
    store: Store, job: Job, catalogue: Catalogue, start: Start[PowerAnswer], seen: tuple[Seen, ...] = ()
) -> Callable[[Cancelled], Iterator[PowerFound | Rest | Until]]:
    """A task: a job's power path at once by itself, then in what the machine's hours put about it; seen: in thermal
    pictures."""
    setup = job.setup()

    def before(course: Question[Course] | None, cancelled: Cancelled) -> PowerAnswer | None:
        """The path as found, in the same hours, while something is on trial."""
        if not job.trial or not described(job.found, catalogue):
            return None
        return store.ask(at_rest(job.found, job, catalogue, course), cancelled)

    def task(cancelled: Cancelled) -> Iterator[PowerFound | Rest | Until]:
        if not described(setup, catalogue):
            yield PowerFound(job, None)
            return
        expected = hours(setup, job, catalogue)
        if not store.knows(at_rest(setup, job, catalogue, expected)):
            run = run_of(store.ask(expected) if store.knows(expected) else None)
            air, duty = late_air(setup, catalogue, run), worst_duty(run)
            start.like = first_power(setup, catalogue, job.tolerances, air=air, duty=duty, like=start.like)
            yield PowerFound(job, start.like)
            yield REST
        course = yield from answered_hours(store, setup, job, catalogue, cancelled)
        full, was = in_full(setup, job, catalogue, course), before(course, cancelled)
        if not store.knows(full):
            yield PowerFound(job, store.ask(at_rest(setup, job, catalogue, course), cancelled), was)
            found = PowerFound(job, store.ask(over_its_course(setup, job, catalogue, course), cancelled), was)
            yield found
            yield REST
            yield _with_readings(found, seen)
        answer = store.ask(full, cancelled)
        yield _with_readings(PowerFound(job, answer, was, lasting=lasting(answer)), seen)

    return task


def _with_readings(found: PowerFound, seen: tuple[Seen, ...]) -> PowerFound:
    """What the readings tell of the contacts of the machine as it was found."""
    answer = found.as_found or found.answer
    assert answer is not None
    told: list[tuple[str, ContactReading]] = []
    refused: list[str] = []
    for name in CONTACTS:
        reading = found.job.readings.get(f"power_{name}")
        if reading is None:
            continue
        try:
            told.append((name, from_warmth(answer, name, reading.value, reading.tolerance)))
        except ValueError as wrong:
            refused.append(str(wrong))
    for one in seen:
        try:
            told.append((one.contact, from_warmth(answer, one.contact, one.warm, one.doubt)))
        except ValueError as wrong:
            refused.append(f"{one.picture}: {wrong}")
    drop = found.job.readings.get("power_plug_drop")
    if drop is not None:
        amps, good = answer.full.amps.bed, answer.resolved.inputs.plug.good
        try:
            told.append(("plug", from_drop(drop.value, amps, drop.tolerance, AMPS_DOUBT * amps, good)))
        except ValueError as wrong:
            refused.append(str(wrong))
    return replace(found, told=tuple(told), refused=tuple(refused))

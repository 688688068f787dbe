"""Options side by side: each solved as the whole job, and the cheapest set of them that meets every limit."""

from __future__ import annotations

import itertools
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, replace

import numpy as np

from zeotherm.core.catalogue.fitting import described
from zeotherm.core.catalogue.lookup import DoesNotFitError
from zeotherm.core.catalogue.shelves import Catalogue
from zeotherm.core.judgement.limits import counts
from zeotherm.core.judgement.margins import Margin, margin_at
from zeotherm.core.machine.documents import Setup, Variant, patched
from zeotherm.core.machine.patches import ClashError, Patch, together
from zeotherm.core.parts.bed.judge.answer import airs_of, first_bed, heated, with_course
from zeotherm.core.parts.bed.judge.sure import DOMINANT, with_doubts
from zeotherm.core.parts.bed.model.model import FEW
from zeotherm.core.parts.enclosure.judge.answer import around_of, encloses, first_case
from zeotherm.core.parts.enclosure.judge.sure import DOMINANT as DOUBTS_OF_CASES
from zeotherm.core.parts.enclosure.judge.sure import with_case_bands
from zeotherm.core.parts.hotend.judge.answer import Answer
from zeotherm.core.parts.hotend.judge.bands import bands
from zeotherm.core.parts.hotend.judge.course import Course, Failure, course_of
from zeotherm.core.parts.hotend.judge.probe import WhatIf, room
from zeotherm.core.parts.power.judge.answer import PowerAnswer, first_power, late_air, worst_duty
from zeotherm.core.parts.power.judge.sure import DOMINANT as DOUBTS_OF_POWER
from zeotherm.core.parts.power.judge.sure import with_power_bands
from zeotherm.core.parts.whole.run import simulate
from zeotherm.core.solver.axisymmetric import CancelledError, NotConvergedError
from zeotherm.core.solver.plate import NotSettledError
from zeotherm.core.solver.stepping import TooSmallError

TOLERANCE = 0.5  # K a step may be off on the board; every limit's least room is then within 0.2 K
LARGEST_SET = 3
MOST_TRIED = 60  # sets that are looked at before the search says so and stops
SURE = 0.95
NEAR = 300.0  # s within which two worst moments are asked for as one


@dataclass(frozen=True)
class Column:
    """One option, or a set of them, solved as the whole job."""

    keys: tuple[str, ...]  # of the options; none: as found
    course: Course
    answer: Answer  # at its worst moment, with bands of first order
    margins: dict[str, Margin]  # each limit at its own worst moment
    sure: float  # that all limits hold at once [-]
    cost: float
    minutes: float

    def price(self, hourly: float) -> float:
        """Its parts and its work; hourly: what an hour of work costs."""
        return self.cost + hourly * self.minutes / 60.0

    @property
    def passes(self) -> bool:
        """Whether every limit is met, and every part gets the volts it is made for."""
        return not self.answer.wrong and all(
            margin.room is None or margin.room >= 0.0 for margin in self.margins.values()
        )

    @property
    def warm_up(self) -> float | None:
        """From switching on to the set values [s]; None where they are not reached."""
        run = self.course.run
        return None if run.not_reached else run.stretches[0].end

    @property
    def energy(self) -> float:
        """Through heaters, motor and board over the job [J]."""
        joules = self.course.run.joules
        return sum(joules[name] for name in ("heater", "bed", "case", "motor", "board"))

    @property
    def failure(self) -> Failure | None:
        """What stops the feed first, if anything does."""
        assert self.answer.bands is not None
        found = self.course.failures(self.answer.bands)
        return found[0] if found else None

    @property
    def rank(self) -> tuple[float, float]:
        """The least room over what counts as clear, and how sure: for saying what makes it worse."""
        course = self.course
        given = course.run.printing.resolved.inputs
        clear = next(limit.clear_from(given) for limit in course.limits if limit.key == course.worst_key)
        return course.worst[course.worst_key][0] / (clear or 1.0), self.sure


def change_of(variants: Mapping[str, Variant], keys: tuple[str, ...]) -> Patch:
    """The change that a set of options makes; raises ClashError where two of them want different values."""
    return together(*(variants[key].change for key in keys))


def column(
    found: Setup,
    variants: Mapping[str, Variant],
    keys: tuple[str, ...],
    catalogue: Catalogue,
    tolerances: dict[str, float] | None = None,
    cancelled: Callable[[], bool] = lambda: False,
) -> Column:
    """A set of a board's options, solved together; raises as `column_of`."""
    picked = {key: variants[key] for key in keys}
    return column_of(found, picked, subjects(variants), catalogue, tolerances, cancelled)


def column_of(
    found: Setup,
    picked: Mapping[str, Variant],
    speaks: Subjects,
    catalogue: Catalogue,
    tolerances: dict[str, float] | None = None,
    cancelled: Callable[[], bool] = lambda: False,
) -> Column:
    """Options solved together; speaks: what their board speaks of.

    Raises ClashError, DoesNotFitError, NotConvergedError or CancelledError.
    """
    setup = patched(found, change_of(picked, tuple(picked)))
    run = simulate(setup, catalogue, tolerances, cancelled=cancelled, tolerance=TOLERANCE)
    return judged_column(course_of(run), picked, speaks, cancelled)


@dataclass(frozen=True, slots=True)
class Subjects:
    """What the columns of a board speak of besides the hotend, by what its options change."""

    bed: bool = False
    case: bool = False
    wanted: float | None = None  # the warmest that any option wants the case [°C]: every column is judged by it
    power: bool = False


def subjects(variants: Mapping[str, Variant]) -> Subjects:
    """What a board of these options speaks of: of the case where one changes more than how far its vents are open."""
    changes = [one.change for one in variants.values()]
    cases = [change["case"] for change in changes if isinstance(change.get("case"), dict)]
    wanted = [float(one.get("target_c") or 0.0) for one in cases]  # type: ignore[union-attr, arg-type]
    return Subjects(
        any("bed" in change for change in changes), any(set(one) - {"vents_open_pct"} for one in cases),  # type: ignore[arg-type]
        max(wanted, default=0.0) or None, any("power" in change for change in changes),
    )  # fmt: skip


def _wanted(setup: Setup, speaks: Subjects) -> float | None:
    """What a case is wanted at by the machine or by any option [°C]."""
    return max(setup.case.target_c, speaks.wanted or 0.0) or None


def _bed_margins(course: Course, cancelled: Callable[[], bool]) -> dict[str, Margin]:
    """The bed's margins in what it stands in over a run; bands of its dominant doubts."""
    airs = airs_of(course.run)
    try:
        answer = first_bed(course.setup, course.run.catalogue, airs=airs, cells=FEW)
        judged = with_doubts(with_course(answer, airs, cancelled), airs, cancelled, DOMINANT)
    except (NotSettledError, TooSmallError) as wrong:
        raise NotConvergedError(f"the bed: {wrong}") from None
    return {margin.key: margin for margin in judged.margins if margin.room is not None}


def _case_margins(course: Course, wanted: float | None, cancelled: Callable[[], bool]) -> dict[str, Margin]:
    """The case's margins late in a run; bands of its dominant doubts."""
    setup, catalogue = course.setup, course.run.catalogue
    try:
        arounds = around_of(setup, catalogue, course.run)
        answer = with_case_bands(
            first_case(setup, catalogue, arounds=arounds, wanted=wanted), cancelled, DOUBTS_OF_CASES
        )
    except NotSettledError as wrong:
        raise NotConvergedError(f"the case: {wrong}") from None
    return {margin.key: margin for margin in answer.margins if margin.room is not None}


def _power_at(setup: Setup, course: Course) -> PowerAnswer:
    """A power path late in a run, with the bed as often on as it ever was."""
    catalogue, run = course.run.catalogue, course.run
    return first_power(setup, catalogue, air=late_air(setup, catalogue, run), duty=worst_duty(run))


def _power_margins(course: Course, cancelled: Callable[[], bool]) -> dict[str, Margin]:
    """The power path's margins; bands of its dominant doubts."""
    answer = with_power_bands(_power_at(course.setup, course), cancelled, DOUBTS_OF_POWER)
    return {margin.key: margin for margin in answer.margins if margin.room is not None}


def judged_column(
    course: Course, picked: Mapping[str, Variant], speaks: Subjects, cancelled: Callable[[], bool] = lambda: False
) -> Column:
    """The column of a run with these options in it. Raises CancelledError."""
    setup, catalogue = course.setup, course.run.catalogue
    answer = course.answer(course.worst_time)
    answer = replace(answer, bands=bands(answer.solved, answer.limits, cancelled, in_full=0))
    judged = _each_at_its_worst(course, answer)
    assert answer.bands is not None
    rooms = {key: margin.room for key, margin in judged.items() if margin.room is not None}
    known = {key: room for key, room in rooms.items() if key in answer.bands.rooms}
    around = _bed_margins(course, cancelled) if speaks.bed and heated(setup, catalogue) else {}
    if speaks.case and encloses(setup, catalogue):
        around |= _case_margins(course, _wanted(setup, speaks), cancelled)
    if speaks.power and described(setup, catalogue):
        around |= _power_margins(course, cancelled)
    holds = min((margin.holds for margin in around.values() if margin.holds is not None), default=1.0)
    return Column(
        keys=tuple(picked),
        course=course,
        answer=answer,
        margins={**judged, **around},
        sure=answer.bands.sure_of_all(known) * holds,
        cost=sum(one.cost for one in picked.values()),
        minutes=sum(one.minutes for one in picked.values()),
    )


def shorter(column: Column) -> Column:
    """A column that is judged, for another process: without what single doubts do to it, most of what would be packed
    piece by piece, and without what its course makes itself when asked."""
    assert column.answer.bands is not None
    answer = replace(column.answer, bands=replace(column.answer.bands, changes={}))
    return replace(column, course=replace(column.course), answer=answer)


def _each_at_its_worst(course: Course, answer: Answer) -> dict[str, Margin]:
    """Every limit's margin at its own worst moment, in the bands of the worst of all."""
    given, times = answer.solved.resolved.inputs, course.run.times
    found = {}
    for limit in course.limits:
        if limit.key in course.worst:
            at = int(np.searchsorted(times, course.worst[limit.key][1]))
            value = float(course.series[limit.limit.station][at])
            found[limit.key] = margin_at(given, limit, value, answer.bands)
    return found


def cheapest_set(
    found: Setup,
    variants: Mapping[str, Variant],
    base: Column,
    catalogue: Catalogue,
    tolerances: dict[str, float] | None = None,
    hourly: float = 0.0,
    cancelled: Callable[[], bool] = lambda: False,
) -> Column | None:
    """The cheapest set among the options that meets every limit, solved in full; None where no set does.

    hourly: what an hour of work costs. Sets of at most three, by cost with the work and then minutes. Each is first
    asked for settled in the air of the worst moments, replayed for its surroundings; what looks good is then solved as
    the whole job. Raises CancelledError.
    """
    probes = _probes(base, cancelled)
    best: Column | None = None
    for keys in itertools.islice(_sets(variants, hourly), MOST_TRIED):
        if cancelled():
            raise CancelledError
        change = change_of(variants, keys)
        if not all(_looks_good(probe, base, change) for probe in probes):
            continue
        if not _bed_looks_good(base, change) or not _case_looks_good(base, change, _wanted(found, subjects(variants))):
            continue
        if not _power_looks_good(base, change):
            continue
        solved = column(found, variants, keys, catalogue, tolerances, cancelled)
        if solved.passes and (best is None or solved.sure > best.sure):
            best = solved
        if best is not None and (best.sure >= SURE or solved.price(hourly) > best.price(hourly)):
            break
    return best


def _sets(variants: Mapping[str, Variant], hourly: float) -> Iterator[tuple[str, ...]]:
    """Sets that do not clash, cheapest first, then quickest, then smallest."""
    sizes = range(1, min(LARGEST_SET, len(variants)) + 1)
    every = [keys for size in sizes for keys in itertools.combinations(variants, size)]

    def price(keys: tuple[str, ...]) -> tuple[float, float, int]:
        parts, minutes = (sum(getattr(variants[k], name) for k in keys) for name in ("cost", "minutes"))
        return parts + hourly * minutes / 60.0, minutes, len(keys)

    for keys in sorted(every, key=price):
        try:
            change_of(variants, keys)
        except ClashError:
            continue
        yield keys


def _probes(base: Column, cancelled: Callable[[], bool]) -> list[WhatIf]:
    """One at each moment of the print at which some limit is worst."""
    course = base.course
    times = {time for _room, time in course.worst.values() if course.run.at(time)[1].kind == "print"}
    kept = [course.worst_time]
    for time in sorted(times):
        if all(abs(time - other) > NEAR for other in kept):
            kept.append(time)
    answers = [(course.answer(time), time) for time in kept]
    return [WhatIf(course.setup, answer.catalogue, answer.solved, course, time, cancelled) for answer, time in answers]


def _looks_good(probe: WhatIf, base: Column, change: Patch) -> bool:
    solved = probe.with_change(change)
    if solved is None:
        return False
    kind = base.course.run.at(probe.time)[1].kind
    slack = {limit.key: 0.1 * limit.clear_from(solved.resolved.inputs) for limit in base.course.limits}
    return all(room(solved, limit) > -slack[limit.key] for limit in base.course.limits if counts(limit, kind))


def _bed_looks_good(base: Column, change: Patch) -> bool:
    """Whether the bed at rest meets what it did not, where the board speaks of it."""
    if "bed_corner" not in base.margins:
        return True
    try:
        setup = patched(base.course.setup, change)
        answer = first_bed(setup, base.course.run.catalogue, airs=airs_of(base.course.run), cells=FEW)
    except (NotSettledError, DoesNotFitError):
        return False
    return all(one.room is None or one.room > -0.1 * one.clear_from for one in answer.margins)


def _case_looks_good(base: Column, change: Patch, wanted: float | None) -> bool:
    """Whether the case at rest meets what it did not, where the board speaks of it."""
    if "case_face" not in base.margins:
        return True
    catalogue, run = base.course.run.catalogue, base.course.run
    try:
        setup = patched(base.course.setup, change)
        answer = first_case(setup, catalogue, arounds=around_of(setup, catalogue, run), wanted=wanted)
    except (NotSettledError, DoesNotFitError, ValueError):
        return False
    return all(one.room is None or one.room > -0.1 * one.clear_from for one in answer.margins)


def _power_looks_good(base: Column, change: Patch) -> bool:
    """Whether the power path meets what it did not, where the board speaks of it."""
    if "power_load" not in base.margins:
        return True
    try:
        answer = _power_at(patched(base.course.setup, change), base.course)
    except (DoesNotFitError, NotSettledError, ValueError):
        return False
    return all(one.room is None or one.room > -0.1 * one.clear_from for one in answer.margins)


def worse(columns: list[Column]) -> list[Column]:
    """Options that leave the worst limit less room than the machine as found has."""
    base = next((one for one in columns if not one.keys), None)
    if base is None:
        return []
    return [one for one in columns if one.keys and one.rank[0] < base.rank[0] - 0.02]


def _powered(setup: Setup, catalogue: Catalogue) -> bool:
    """Whether there is a described low-voltage path to a bed, for the usual changes of one."""
    return (
        described(setup, catalogue) and heated(setup, catalogue) and not catalogue.power_paths[setup.power.path].mains
    )


def offered(setup: Setup, catalogue: Catalogue) -> dict[str, Variant]:
    """The catalogue's remedies that fit a machine and change something on it, as options."""
    stated = catalogue.air_sources[setup.surroundings.air_from].stated
    bore = catalogue.hotends[setup.hotend.template].bore
    found = {}
    for key, remedy in catalogue.remedies.items():
        fits = remedy.bore in ("any", bore) and not (remedy.air == "computed" and stated)
        fits = fits and not ("bed" in remedy.change and not heated(setup, catalogue))
        fits = fits and not ("power" in remedy.change and not _powered(setup, catalogue))
        if fits and patched(setup, remedy.change) != setup:
            found[key] = Variant(label=remedy.label, change=remedy.change, cost=remedy.cost, minutes=remedy.minutes)
    return found

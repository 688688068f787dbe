"""What a machine does in which one cause is at work: when it fails, what cures it, what is read on it."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np
import numpy.typing as npt

from zeotherm.core.catalogue.knowledge import Check
from zeotherm.core.catalogue.shelves import Catalogue
from zeotherm.core.judgement.answer import Answer
from zeotherm.core.judgement.bands import Bands, bands
from zeotherm.core.judgement.course import Course, Failure, course_of
from zeotherm.core.judgement.margins import probability_positive
from zeotherm.core.judgement.probe import Probe, room
from zeotherm.core.machine.documents import Setup
from zeotherm.core.machine.patches import Patch, composed, patch_at, value_at
from zeotherm.core.twin.whole.run import simulate

Array = npt.NDArray[np.float64]
TOLERANCE = 0.5  # K a step may be off: the doubt of a cause is wider by far
AT_ONCE, MINUTES = 5.0 * 60.0, 40.0 * 60.0  # s of printing that part the answers of "when"
NEVER = 0.03  # probability of a failure that the model does not see coming
DRIVERS = {"soft_draw": "creep_retracted", "soft_stand": "creep", "coupler": "seat", "liner_heat": "liner_end"}
SETS = (240.0, 720.0, 2400.0)  # s from a cold end above softening to a stop: tenth, half, ninth; an estimate
READ = ("block", "sink_base", "fan_inlet", "motor", "carriage", "case_air", "bed", "bore", "sink_top", "fan_outlet")


@dataclass(frozen=True, slots=True)
class Way:
    """One way to fail: quantiles of its time, s of printing, and the limit that drives it."""

    tenth: float
    half: float
    ninth: float
    limit: str
    most: float = 1.0

    def by(self, time: float) -> float:
        """Probability that it has come by a time: straight in the time's logarithm between the quantiles."""
        points = [self.tenth / 3.0, self.tenth, self.half, self.ninth, 3.0 * self.ninth]
        logs = np.maximum.accumulate(np.log(np.maximum(points, 1.0)) + np.arange(len(points)) * 1e-9)
        return self.most * float(np.interp(math.log(max(time, 1.0)), logs, [0.0, 0.1, 0.5, 0.9, 1.0]))


@dataclass(frozen=True)
class Risk:
    """Several ways to fail, each independent of the others."""

    ways: tuple[Way, ...]

    def by(self, time: float) -> float:
        """Probability of a failure by a time of printing [s]."""
        return 1.0 - math.prod(1.0 - way.by(time) for way in self.ways)


@dataclass(frozen=True)
class Outcome:
    """One world, run for the whole job; failures that a sound machine would have as well are not counted."""

    fails: float  # probability that the feed stops within the job [-]
    when: dict[str, float]  # at_once, minutes, soak: probabilities, given that it fails
    typical: float | None  # s of printing until it fails, likely
    span: tuple[float, float] | None  # the same, from when to when in four cases of five
    risk: Risk
    cures: dict[str, float]  # check -> probability that it cures, given that it fails
    times: Array  # s since switching on
    start_h: float
    stations: dict[str, Array]  # °C over the times
    widths: dict[str, float]  # 95 % half-widths [K]

    def reading(self, station: str, clock_h: float | None) -> tuple[float, float] | None:
        """What a station should show at a clock time, or late in the print: value and 95 % half-width [°C, K]."""
        if station not in self.stations:
            return None
        time = self.times[-1] if clock_h is None else (clock_h - self.start_h) * 3600.0
        value = float(np.interp(time, self.times, self.stations[station]))
        return (value, self.widths[station]) if math.isfinite(value) else None


def outcome(
    setup: Setup,
    catalogue: Catalogue,
    tolerances: dict[str, float] | None = None,
    anyway: Risk | None = None,
    cancelled: Callable[[], bool] = lambda: False,
) -> Outcome:
    """Run a world and judge it; anyway: how likely the sound machine fails, which no cause is blamed for.

    Raises DoesNotFitError, NotConvergedError, TooSmallError or CancelledError.
    """
    course = course_of(simulate(setup, catalogue, tolerances, cancelled=cancelled, tolerance=TOLERANCE))
    answer = course.answer(course.worst_time)
    sure = bands(answer.solved, answer.limits, cancelled, in_full=0)
    start = course.run.printing_from or 0.0
    risk = Risk(tuple(_ways(course, sure, start)))
    fails, when, times, driver = _when(risk, anyway or Risk(()), course.run.end - start)
    cures = _cures(course, answer, sure, driver, catalogue, cancelled) if fails > NEVER else {}
    kept = {key: course.series[key] for key in READ if key in course.series and key in sure.values}
    widths = {key: max(sure.values[key].down, sure.values[key].up) for key in kept}
    typical, span = (times[1], (times[0], times[2])) if times is not None else (None, None)
    return Outcome(fails, when, typical, span, risk, cures, course.run.times, course.run.clock(0.0), kept, widths)


def _ways(course: Course, sure: Bands, start: float) -> list[Way]:
    found = [_of_failure(course, failure, start) for failure in course.failures(sure.rooms)]
    short = course.worst.get("exit_core")
    band = sure.rooms.get("exit_core")
    if short is not None and band is not None:
        likely = 1.0 - probability_positive(short[0], band)
        if likely > 0.05:
            found.append(Way(30.0, 90.0, 300.0, "exit_core", likely))
    warm = course.worst.get("sink_base")
    band = sure.rooms.get("sink_base")
    if warm is not None and band is not None:
        likely = 1.0 - probability_positive(warm[0], band)
        if likely > 0.05:
            known = np.nan_to_num(course.rooms["sink_base"], nan=np.inf)
            passed = float(course.run.times[int(np.argmax(known < max(0.0, warm[0] + 1e-6)))]) - start
            begin = max(passed, 0.0)
            found.append(Way(begin + SETS[0], begin + SETS[1], begin + SETS[2], "sink_base", likely))
    return found


def _of_failure(course: Course, failure: Failure, start: float) -> Way:
    end = course.run.end - start
    assert failure.earliest is not None
    tenth = max(failure.earliest - start, 20.0)
    half = max(failure.likely - start, tenth) if failure.likely is not None else max(1.6 * end, 2.0 * tenth)
    ninth = max(failure.latest - start, half) if failure.latest is not None else max(1.6 * end, 2.0 * half)
    driver = course.run.catalogue.accumulations[failure.key].driver
    return Way(tenth, half, ninth, DRIVERS[driver])


def _when(risk: Risk, anyway: Risk, end: float) -> tuple[float, dict[str, float], list[float] | None, str]:
    """Probability of a failure, its spread over the answers of "when", its early, likely and late times (tenth, half,
    ninth of those within the job), and the limit that drives it."""

    def by(time: float) -> float:
        return max(1.0 - (1.0 - risk.by(time)) / max(1.0 - anyway.by(time), 1e-3), 0.0)

    so_far = np.maximum.accumulate([by(AT_ONCE), by(MINUTES), by(end)])
    parts = dict(zip(("at_once", "minutes", "soak"), np.diff(so_far, prepend=0.0).tolist(), strict=True))
    fails = float(so_far[-1])
    if fails < NEVER:
        return NEVER, {"at_once": 0.2, "minutes": 0.3, "soak": 0.5}, None, ""
    first = max(risk.ways, key=lambda way: way.by(end))
    grid = np.geomspace(30.0, end, 60)
    shares = np.maximum.accumulate([by(float(time)) / fails for time in grid])
    times = [float(grid[min(int(np.searchsorted(shares, share)), len(grid) - 1)]) for share in (0.1, 0.5, 0.9)]
    return min(fails, 1.0 - NEVER), {key: part / fails for key, part in parts.items()}, times, first.limit


def _cures(
    course: Course,
    answer: Answer,
    sure: Bands,
    driver: str,
    catalogue: Catalogue,
    cancelled: Callable[[], bool],
) -> dict[str, float]:
    """How likely each check with a computed effect would cure the failure: by what it does for the limit behind it."""
    limit = next((one for one in answer.limits if one.key == driver), None)
    band = sure.rooms.get(driver)
    if limit is None or band is None:
        return {}
    probe = Probe(course.setup, catalogue, answer.solved, course, course.worst_time, cancelled)
    before = probability_positive(room(probe.rest, limit), band)
    found = {}
    for key, check in catalogue.checks.items():
        change = change_of(check, course.setup)
        solved = probe.with_change(change) if change else None
        if solved is None:
            continue
        after = probability_positive(room(solved, limit), band)
        gained = (after - before) / (1.0 - before) if before < 0.9 else 0.0
        found[key] = min(max(gained, 0.04), 0.96)
    return found


def change_of(check: Check, setup: Setup) -> Patch:
    """What a check changes in the machine; nothing where its effect is not computed."""
    change: Patch = dict(check.simulated or {})
    for path, by in check.adds.items():
        change = composed(change, patch_at(path, float(value_at(setup, path)) + by))
    if check.without_heats and setup.heats:
        change = {**change, "heats": dict.fromkeys(setup.heats)}
    return change


def shorter(found: Outcome) -> Outcome:
    """An outcome with the times that a reading needs, not every step."""
    grid = np.linspace(found.times[0], found.times[-1], 120)
    return replace(
        found,
        times=grid,
        stations={key: np.interp(grid, found.times, values) for key, values in found.stations.items()},
    )

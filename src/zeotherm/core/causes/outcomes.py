"""What a machine does in which one cause is at work: when it fails, what cures it, what is read on it."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np
import numpy.typing as npt

from zeotherm.core.catalogue.knowledge import Check
from zeotherm.core.catalogue.shelves import Catalogue
from zeotherm.core.guard.heat import target
from zeotherm.core.judgement.margins import probability_positive
from zeotherm.core.machine.documents import Setup
from zeotherm.core.machine.patches import Patch, composed, patch_at
from zeotherm.core.parts.hotend.judge.answer import Answer
from zeotherm.core.parts.hotend.judge.bands import Bands, bands
from zeotherm.core.parts.hotend.judge.course import Course, course_of
from zeotherm.core.parts.hotend.judge.probe import WhatIf, room
from zeotherm.core.parts.hotend.judge.risk import Risk, risk_of
from zeotherm.core.parts.whole.run import simulate

Array = npt.NDArray[np.float64]
TOLERANCE = 0.5  # K a step may be off: the doubt of a cause is wider by far
MINUTE = 60.0
GRID = np.geomspace(10.0, 2.0e5, 160)  # s of printing at which failures are counted
SURELY = 1e-3  # chance that is left where both fail for certain
NEVER = 0.03  # probability of a failure that the model does not see coming
READ = ("block", "sink_base", "fan_inlet", "motor", "carriage", "case_air", "bed", "bore", "sink_top", "fan_outlet")


@dataclass(frozen=True)
class Outcome:
    """One world, run for the whole job; failures that a sound machine would have as well are not counted."""

    fails: float  # probability that the feed stops within the job [-]
    failed: Array  # probability that it has failed by each time of `GRID`, given that it fails within the job
    risk: Risk
    cures: dict[str, float]  # check -> probability that it cures, given that it fails
    times: Array  # s since switching on
    start_h: float
    stations: dict[str, Array]  # °C over the times
    widths: dict[str, float]  # 95 % half-widths [K]

    def between(self, from_min: float, until_min: float | None) -> float:
        """Probability that it fails between two minutes of printing, given that it fails."""
        early, late = (from_min * MINUTE, math.inf if until_min is None else until_min * MINUTE)
        return self._by(late) - self._by(early)

    def _by(self, time: float) -> float:
        return 0.0 if time <= 0.0 else float(np.interp(math.log(min(time, GRID[-1])), np.log(GRID), self.failed))

    def time(self, share: float) -> float | None:
        """Seconds of printing by which this share of the failures has come; none where it hardly fails."""
        at = min(int(np.searchsorted(self.failed, share)), len(GRID) - 1)
        return float(GRID[at]) if self.fails > NEVER else None

    @property
    def span(self) -> tuple[float, float] | None:
        """From when to when it fails in four cases of five [s of printing]."""
        early, late = self.time(0.1), self.time(0.9)
        return None if early is None or late is None else (early, late)

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
    risk = risk_of(course, sure)
    end = course.run.end - start
    fails, failed = _failing(risk, anyway or Risk(()), end)
    driver = max(risk.ways, key=lambda way: way.by(end)).limit if risk.ways else ""
    cures = _cures(course, answer, sure, driver, catalogue, cancelled) if fails > NEVER else {}
    kept = {key: course.series[key] for key in READ if key in course.series and key in sure.values}
    widths = {key: max(sure.values[key].down, sure.values[key].up) for key in kept}
    return Outcome(fails, failed, risk, cures, course.run.times, course.run.clock(0.0), kept, widths)


def _failing(risk: Risk, anyway: Risk, end: float) -> tuple[float, Array]:
    """Probability of a failure within the job, and the share of those that have come by each time of `GRID`.

    What the sound machine would do as well is divided out: 1 - (1 - world)/(1 - sound).
    """
    times = np.minimum(GRID, end)
    alone = [
        1.0 - max(1.0 - risk.by(float(time)), SURELY) / max(1.0 - anyway.by(float(time)), SURELY) for time in times
    ]
    by = np.maximum.accumulate(np.maximum(alone, 0.0))
    fails = float(by[-1])
    if fails < NEVER:
        return NEVER, np.clip(np.log(GRID / GRID[0]) / math.log(end / GRID[0]), 0.0, 1.0)
    return min(fails, 1.0 - NEVER), by / fails


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
    probe = WhatIf(course.setup, catalogue, answer.solved, course, course.worst_time, cancelled)
    before = probability_positive(room(probe.rest, limit), band)
    found = {}
    for key, check in catalogue.checks.items():
        change = change_of(check, course.setup, catalogue)
        solved = probe.with_change(change) if change else None
        if solved is None:
            continue
        after = probability_positive(room(solved, limit), band)
        gained = (after - before) / (1.0 - before) if before < 0.9 else 0.0
        found[key] = min(max(gained, 0.04), 0.96)
    return found


TRIAL = "trial"  # the heat rule of a check whose effect is computed


def change_of(check: Check, setup: Setup, catalogue: Catalogue) -> Patch:
    """What a check changes in the machine; nothing where its effect is not computed."""
    change: Patch = dict(check.simulated or {})
    if check.heat == TRIAL:
        hotter = target(catalogue.heat_rules[check.heat], setup, catalogue).value
        change = composed(change, patch_at("printing.nozzle_c", hotter))
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

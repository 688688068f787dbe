"""A measured series: parted into traces, bucketed for keeping, and held against a run of the model."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from zeotherm.core.catalogue.stations import STATIONS
from zeotherm.core.machine.measured import Run
from zeotherm.core.parts.hotend.judge.course import Course

Array = npt.NDArray[np.float64]
DROPPED_K = 25.0
STEADY_MAY_JUMP = ("target", "duty", "power", "voltage", "current", "energy", "fan_speed")  # what may jump truly


@dataclass(frozen=True)
class Series:
    """Values by channel over time; nan where a cell is missing."""

    time: Array  # s from its first row, never falling
    values: dict[str, Array]  # by channel, in the unit of its kind
    start_h: float | None  # clock time of the first row, where the series knows it

    @property
    def rows(self) -> int:
        """How many rows there are."""
        return len(self.time)

    def trace(self, key: str) -> Trace | None:
        """One channel without its gaps; None where there is nothing of it."""
        column = self.values.get(key)
        if column is None:
            return None
        known = np.isfinite(column)
        return Trace.of(self.time[known], column[known]) if known.any() else None

    def moved(self, by: float) -> Series:
        """The same on a clock that begins earlier by so many seconds."""
        return Series(self.time + by, self.values, None if self.start_h is None else (self.start_h - by / 3600.0) % 24)


@dataclass(frozen=True)
class Trace:
    """One channel where it is known."""

    time: Array  # s
    values: Array
    resolution: float = 0.0  # the smallest step that the whole channel shows

    @staticmethod
    def of(time: Array, values: Array) -> Trace:
        """A whole channel."""
        steps = np.abs(np.diff(values))
        steps = steps[steps > 1e-9]
        return Trace(time, values, float(steps.min()) if len(steps) else 0.0)

    def within(self, begin: float, end: float) -> Trace:
        """Only what lies between two times, both included."""
        first, last = np.searchsorted(self.time, begin, "left"), np.searchsorted(self.time, end, "right")
        return Trace(self.time[first:last], self.values[first:last], self.resolution)

    @property
    def interval(self) -> float:
        """The usual time between two samples [s]; zero for a single one."""
        return float(np.median(np.diff(self.time))) if len(self.time) > 1 else 0.0

    @property
    def slope(self) -> float:
        """Slope of the straight line through the samples by least squares [1/s]; zero where time stands still."""
        if len(self.time) < 2:
            return 0.0
        apart = self.time - self.time.mean()
        spread = float(apart @ apart)
        return float(apart @ self.values) / spread if spread > 0.0 else 0.0

    @property
    def noise(self) -> float:
        """Standard deviation of what differs from one sample to the next, rounding included.

        From second differences, which are blind to level and slope: their standard deviation is √6 times that of
        white noise. Held up by the rounding's own step / √12. Median-based, so that jumps do not count.
        """
        if len(self.values) < 3:
            return float(self.resolution / np.sqrt(12.0))
        apart = self.values[2:] - 2.0 * self.values[1:-1] + self.values[:-2]
        white = 1.4826 * float(np.median(np.abs(apart))) / np.sqrt(6.0)
        return float(max(white, self.resolution / np.sqrt(12.0)))


@dataclass(frozen=True, slots=True)
class Difference:
    """Measured less model at one station, over the time both have [K]."""

    station: str
    mean: float
    spread: float  # root mean square about the mean
    most: float  # the greatest, with its sign
    at: float  # when that is [s of the run]
    share: float  # of the series' time that the run covers [-]


def as_series(run: Run) -> Series:
    """What a job keeps of a run, as numbers."""
    values = {
        key: np.array([np.nan if value is None else value for value in column]) for key, column in run.values.items()
    }
    return Series(np.array(run.time_s), values, run.start_h)


def merged(one: Series, other: Series) -> Series:
    """Two series in one, each with its own samples; `other` is on the clock of `one`.

    Raises ValueError where both have a channel: two truths are not averaged.
    """
    both = sorted(set(one.values) & set(other.values))
    if both:
        raise ValueError(f"both hold {', '.join(both)}")
    times = np.concatenate([one.time, other.time])
    order = np.argsort(times, kind="stable")
    blank = {1: np.full(one.rows, np.nan), 2: np.full(other.rows, np.nan)}
    values = {key: np.concatenate([column, blank[2]])[order] for key, column in one.values.items()}
    values |= {key: np.concatenate([blank[1], column])[order] for key, column in other.values.items()}
    begin = float(times[order[0]])
    return Series(times[order], values, one.start_h).moved(-begin)


def without_dropouts(series: Series) -> tuple[Series, int]:
    """Temperatures without the single samples that no body can follow, and how many those were.

    A sample counts as one when it lies more than 25 K and twenty times the noise off the median of five about it.
    """
    values, count = {}, 0
    for key, column in series.values.items():
        known = np.flatnonzero(np.isfinite(column))
        if key.startswith(STEADY_MAY_JUMP) or len(known) < 7:
            values[key] = column
            continue
        trace = Trace.of(series.time[known], column[known])
        windows = np.lib.stride_tricks.sliding_window_view(np.pad(trace.values, 2, mode="edge"), 5)
        off = np.abs(trace.values - np.median(windows, axis=1)) > max(DROPPED_K, 20.0 * trace.noise)
        count += int(off.sum())
        kept = column.copy()
        kept[known[off]] = np.nan
        values[key] = kept if off.any() else column
    return Series(series.time, values, series.start_h), count


def bucketed(series: Series, most: int) -> Series:
    """At most so many rows: means over equal spans of time, which keep the integral; gaps stay gaps."""
    if series.rows <= most:
        return series
    edges = np.linspace(series.time[0], series.time[-1], most + 1)
    at = np.clip(np.searchsorted(edges, series.time, side="right") - 1, 0, most - 1)
    time = _means(series.time, at, most)
    kept = np.isfinite(time)
    values = {key: _means(column, at, most)[kept] for key, column in series.values.items()}
    return Series(time[kept], values, series.start_h)


def _means(column: Array, at: npt.NDArray[np.intp], count: int) -> Array:
    known = np.isfinite(column)
    sums = np.bincount(at[known], weights=column[known], minlength=count)
    counts = np.bincount(at[known], minlength=count)
    with np.errstate(invalid="ignore", divide="ignore"):
        return np.where(counts > 0, sums / counts, np.nan)


def on_run(series: Series, course: Course) -> Array:
    """Times of the series on the run's clock [s]; a series without a clock begins with the run."""
    begin = 0.0 if series.start_h is None else (series.start_h - course.run.clock(0.0)) * 3600.0
    return np.asarray(series.time + begin)


def differences(series: Series, course: Course) -> list[Difference]:
    """How each station of a series differs from the model's run, where the model has that station."""
    times = on_run(series, course)
    inside = (times >= 0.0) & (times <= course.run.end)
    found = []
    for key, column in series.values.items():
        model = course.series.get(key) if key in STATIONS else None
        known = inside & np.isfinite(column)
        if model is None or not known.any():
            continue
        apart = column[known] - np.interp(times[known], course.run.times, model)
        worst = int(np.argmax(np.abs(apart)))
        share = float(inside.mean())
        mean = float(apart.mean())
        spread = float(np.sqrt(((apart - mean) ** 2).mean()))
        found.append(Difference(key, mean, spread, float(apart[worst]), float(times[known][worst]), share))
    return found

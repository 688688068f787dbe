"""A measured series: bucketed for keeping, and held against a run of the model."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from zeotherm.core.judgement.course import Course

Array = npt.NDArray[np.float64]


@dataclass(frozen=True)
class Series:
    """Values by station over time; nan where a cell is missing."""

    time: Array  # s from its first row, rising
    values: dict[str, Array]  # by station [°C]
    start_h: float | None  # clock time of the first row, where the series knows it

    @property
    def rows(self) -> int:
        """How many rows there are."""
        return len(self.time)


@dataclass(frozen=True, slots=True)
class Difference:
    """Measured less model at one station, over the time both have [K]."""

    station: str
    mean: float
    spread: float  # root mean square about the mean
    most: float  # the greatest, with its sign
    at: float  # when that is [s of the run]
    share: float  # of the series' time that the run covers [-]


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
        model = course.series.get(key)
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

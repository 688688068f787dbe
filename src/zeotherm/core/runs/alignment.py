"""Lining runs up: which moment of each is the same moment, and how surely."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from enum import Enum

import numpy as np

from zeotherm.core.runs.phases import Moment, crossing, switched_on
from zeotherm.core.runs.series import Array, Series, Trace

REACH = 3600.0  # s within which a likeness is looked for
LAGS = 200  # shifts tried across the reach of a likeness
STRETCHES = (0.8, 0.9, 1.0, 1.12, 1.25)
STEPS = 12
GRID, COARSE = 2000, 240  # samples a likeness is judged on, and searched with
LEVEL_STRETCH = 0.1  # of a curve's variance; a stretch with less tells nothing


class AlignedBy(Enum):
    """How a run was lined up."""

    SWITCHED_ON = "switched_on"
    LEVEL = "level"
    LIKENESS = "likeness"
    FIRST_ROW = "first_row"
    GIVEN = "given"


@dataclass(frozen=True, slots=True)
class Origin:
    """The moment of a run that is zero for all: its time, its doubt, and what told it."""

    zero: float  # s on the run's own clock
    doubt: float  # standard deviation [s]
    way: AlignedBy
    channel: str
    level: float | None = None  # °C


def by_switching_on(series: Series) -> Origin:
    """By the moment at which heating began."""
    found = switched_on(series)
    return Origin(found.time, found.doubt, AlignedBy.SWITCHED_ON, found.channel)


def by_first_row(series: Series) -> Origin:
    """By the first row: loggers that were started together."""
    interval = float(np.median(np.diff(series.time))) if series.rows > 1 else 0.0
    return Origin(float(series.time[0]), interval / float(np.sqrt(12.0)), AlignedBy.FIRST_ROW, "")


def by_level(series: Series, channel: str, level: float) -> Origin | None:
    """By the moment at which a channel first rises past a level; None where it never does."""
    trace = series.trace(channel)
    if trace is None or trace.values[0] >= level:
        return None
    found: Moment | None = crossing(trace, level)
    return None if found is None else Origin(found.time, found.doubt, AlignedBy.LEVEL, channel, level)


def by_likeness(series: Series, against: Series, zero: float, channel: str, reach: float) -> Origin | None:
    """By the moment from which a channel is most like another run's, whose own zero is known.

    Its curve may be higher, larger and quicker or slower than the other's, all counted from the two noughts: a weak
    supply climbs the same curve later, which a plain correlation would take for a shift. Best of `LAGS` shifts and
    `STRETCHES`, then Gauss and Newton's steps. Doubt: from their curvature, the samples cut to those they are worth.
    None without an overlap of half the shorter run that holds more than a level stretch.
    """
    mine, theirs = series.trace(channel), against.trace(channel)
    if mine is None or theirs is None or min(len(mine.values), len(theirs.values)) < 8:
        return None
    likeness = _Likeness(mine, theirs, zero)
    tried = [(zero + lag, stretch) for stretch in STRETCHES for lag in np.linspace(-reach, reach, LAGS)]
    misfits = np.array([likeness.misfit(*one) for one in tried])
    if not np.isfinite(misfits).any():
        return None
    found = likeness.refined(*tried[int(np.nanargmin(misfits))])
    return Origin(float(found[0]), likeness.doubt(*found), AlignedBy.LIKENESS, channel)


@dataclass(frozen=True)
class _Likeness:
    """One curve held against another by its zero and its stretch."""

    mine: Trace
    theirs: Trace
    zero: float

    def pair(self, zero: float, stretch: float, most: int = GRID) -> tuple[Array, Array] | None:
        """Both curves at the times after zero that both have, on the other's clock; None for too little."""
        begin = max((self.mine.time[0] - zero) * stretch, self.theirs.time[0] - self.zero)
        end = min((self.mine.time[-1] - zero) * stretch, self.theirs.time[-1] - self.zero)
        shorter = min(self.mine.time[-1] - self.mine.time[0], self.theirs.time[-1] - self.theirs.time[0])
        if end - begin < 0.5 * shorter:
            return None
        step = max(min(self.mine.interval, self.theirs.interval), (end - begin) / most, 1e-6)
        at = np.arange(begin, end, step)
        own = np.interp(at / stretch + zero, self.mine.time, self.mine.values)
        other = np.interp(at + self.zero, self.theirs.time, self.theirs.values)
        level = other.var() < LEVEL_STRETCH * self.theirs.values.var() or float(np.ptp(own)) == 0.0
        return None if level or len(at) < 8 else (own, other)

    def left(self, zero: float, stretch: float, most: int = GRID) -> Array | None:
        """What is left of the other curve once mine is laid over it as well as can be."""
        pair = self.pair(zero, stretch, most)
        if pair is None:
            return None
        own = pair[0] - pair[0].mean()
        other = pair[1] - pair[1].mean()
        return np.asarray(other - own * float(own @ other) / float(own @ own))

    def misfit(self, zero: float, stretch: float) -> float:
        """Share of the other's variance that is left over."""
        pair, left = self.pair(zero, stretch, COARSE), self.left(zero, stretch, COARSE)
        return float(left.var() / pair[1].var()) if pair is not None and left is not None else float("nan")

    def refined(self, zero: float, stretch: float) -> tuple[float, float]:
        """Nearer to the best, by steps that only go downhill."""
        best = (zero, stretch)
        for _step in range(STEPS):
            slopes = self._slopes(*best)
            if slopes is None:
                break
            left, matrix = slopes
            by, *_rest = np.linalg.lstsq(matrix, -left, rcond=None)
            ahead = (best[0] + float(np.clip(by[0], -60.0, 60.0)), float(np.clip(best[1] + by[1], 0.5, 2.0)))
            new = self.left(*ahead)
            if new is None or float(new.var()) >= float(left.var()):
                break
            best = ahead
        return best

    def doubt(self, zero: float, stretch: float) -> float:
        """Standard deviation of zero [s]."""
        sampled = max(self.mine.interval, self.theirs.interval) / np.sqrt(12.0)
        slopes = self._slopes(zero, stretch)
        if slopes is None:
            return float(sampled)
        left, matrix = slopes
        total = float(left @ left)
        along = float(np.clip((left[1:] @ left[:-1]) / total, 0.0, 0.999)) if total > 0.0 else 0.0
        spread = np.linalg.pinv(matrix.T @ matrix) * total / len(left) * (1.0 + along) / (1.0 - along)
        return float(np.hypot(sampled, np.sqrt(max(spread[0, 0], 0.0))))

    def _slopes(self, zero: float, stretch: float) -> tuple[Array, Array] | None:
        """What is left, and how it moves with zero and stretch; None at the edge of what both have."""
        here = self.left(zero, stretch)
        columns = []
        for by, (one, other) in (
            (1.0, ((zero - 0.5, stretch), (zero + 0.5, stretch))),
            (0.004, ((zero, stretch - 0.002), (zero, stretch + 0.002))),
        ):
            low, high = self.left(*one), self.left(*other)
            if here is None or low is None or high is None:
                return None
            size = min(len(here), len(low), len(high))
            here = here[:size]
            columns.append((high[:size] - low[:size]) / by)
        if here is None:
            return None
        return here, np.stack([column[: len(here)] for column in columns], axis=1)


def automatic(runs: Sequence[Series], reach: float = REACH) -> list[Origin]:
    """Each run by the sharpest moment that all of them have.

    First switching on, where each tells it; else a level on the way up of a shared channel; else likeness to the
    first; else the first row of each.
    """
    origins = [by_switching_on(series) for series in runs]
    if all(origin.channel for origin in origins):
        return origins
    for channel in ("bed", "block", "case_air"):
        traces = [series.trace(channel) for series in runs]
        known = [trace for trace in traces if trace is not None]
        if len(known) < len(runs):
            continue
        low, high = max(float(one.values[0]) for one in known), min(float(one.values.max()) for one in known)
        by = [by_level(series, channel, low + 0.2 * (high - low)) for series in runs] if high - low > 6.0 else []
        if by and all(origin is not None for origin in by):
            return [origin for origin in by if origin is not None]
        alike = [by_likeness(series, runs[0], origins[0].zero, channel, reach) for series in runs[1:]]
        if alike and all(origin is not None for origin in alike):
            return [origins[0], *(origin for origin in alike if origin is not None)]
    return origins

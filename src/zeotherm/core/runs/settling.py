"""Where a curve would settle, from what was measured of it, even when it was stopped early."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from zeotherm.core.runs.series import Array, Trace

GRID = 240  # time constants tried
MOST = 25.0  # spans of the record that a time constant may have
F95_ONE = 3.84  # chi-square, one freedom
DEPARTURE = 0.012  # of the rise that a real machine's curve may leave a single exponential by; an estimate


@dataclass(frozen=True, slots=True)
class Settling:
    """T(t) = end + (T0 - end) exp(-t / tau), with 95 % bounds of each by the profile of the misfit."""

    end: float
    end_low: float
    end_high: float
    tau: float  # s
    tau_low: float
    tau_high: float
    start: float  # value at the beginning of the record
    bounded: bool  # whether the record tells an end at all

    @property
    def half(self) -> float:
        """The wider side of the end value's bounds."""
        return max(self.end_high - self.end, self.end - self.end_low)

    @property
    def tau_half(self) -> float:
        """The wider side of the time constant's bounds [s]."""
        return max(self.tau_high - self.tau, self.tau - self.tau_low)


def settle(trace: Trace) -> Settling | None:
    """The exponential that fits a record best; None with fewer than eight samples or no change beyond the noise.

    For each time constant the end value and the start follow by linear least squares (variable projection; Golub and
    Pereyra 1973). Bounds: every end value whose misfit is within chi-square of the best, the count of samples cut to
    those that are worth it for the first-order correlation of what is left over (n (1 - r) / (1 + r)), widened by what
    a machine of many masses leaves a single exponential by, drawn on from the record's end to the end value.
    """
    if len(trace.values) < 8:
        return None
    time, values = _thinned(trace)
    span = float(time[-1] - time[0])
    swing = float(values.max() - values.min())
    if span <= 0.0 or swing < 6.0 * trace.noise:
        return None
    taus = np.geomspace(span / 40.0, span * MOST, GRID)
    for _finer in range(2):
        ends, starts, misfits = _profile(time - time[0], values, taus)
        best = int(np.argmin(misfits))
        worth = _worth(time - time[0], values, taus[best], ends[best], starts[best])
        floor = misfits[best] if worth > len(values) / 2 else max(misfits[best], trace.noise**2 * len(values) / 4.0)
        near = misfits <= misfits[best] + F95_ONE * floor / max(worth - 3.0, 1.0)
        edges = np.flatnonzero(near)
        bounded = bool(taus[min(edges[-1] + 1, GRID - 1)] < span * MOST * 0.999)
        tried, taus = taus, np.geomspace(taus[max(edges[0] - 1, 0)], taus[min(edges[-1] + 1, GRID - 1)], GRID)
    gone = np.exp(-span / tried[best])
    slack = DEPARTURE * abs(ends[best] - starts[best]) * gone / max(1.0 - gone, 0.02)
    level = np.sqrt(max(misfits[best], floor) / len(values) / max(worth, 1.0)) * 2.0
    wide = float(np.hypot(slack, level))
    return Settling(
        end=float(ends[best]), end_low=float(ends[near].min()) - wide, end_high=float(ends[near].max()) + wide,
        tau=float(tried[best]), tau_low=float(tried[near].min()), tau_high=float(tried[near].max()),
        start=float(starts[best]), bounded=bounded,
    )  # fmt: skip


def _thinned(trace: Trace, most: int = 1200) -> tuple[Array, Array]:
    """At most so many samples, means over neighbours."""
    every = -(-len(trace.values) // most)
    if every == 1:
        return trace.time, trace.values
    whole = len(trace.values) // every * every
    return trace.time[:whole].reshape(-1, every).mean(1), trace.values[:whole].reshape(-1, every).mean(1)


def _profile(time: Array, values: Array, taus: Array) -> tuple[Array, Array, Array]:
    """End, start and summed squares for each time constant, by linear least squares in both."""
    decay = np.exp(-time[None, :] / taus[:, None])
    centre, mean = decay.mean(1, keepdims=True), values.mean()
    apart = decay - centre
    slope = (apart * (values - mean)).sum(1) / np.maximum((apart**2).sum(1), 1e-30)
    ends = mean - slope * centre[:, 0]
    left = values - ends[:, None] - slope[:, None] * decay
    return ends, ends + slope, (left**2).sum(1)


def _worth(time: Array, values: Array, tau: float, end: float, start: float) -> float:
    """How many independent samples the record is worth."""
    left = values - end - (start - end) * np.exp(-time / tau)
    total = float((left**2).sum())
    if total <= 0.0:
        return float(len(values))
    along = float(np.clip((left[1:] * left[:-1]).sum() / total, 0.0, 0.98))
    return len(values) * (1.0 - along) / (1.0 + along)

"""Figures with their doubt, and whether two of them differ."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

Z95 = 1.96
USUAL_WORTH = 4.0  # runs' worth of the usual scatter, set against the scatter that is seen
STUDENT_95 = {
    1: 12.706, 2: 4.303, 3: 3.182, 4: 2.776, 5: 2.571, 6: 2.447, 7: 2.365, 8: 2.306, 9: 2.262, 10: 2.228, 12: 2.179,
    15: 2.131, 20: 2.086, 30: 2.042,
}  # fmt: skip


@dataclass(frozen=True, slots=True)
class Estimate:
    """A figure; every doubt is one standard deviation."""

    value: float
    scatter: float  # differs from run to run: sampling, noise, rounding
    offset: float = 0.0  # adds, the same in every run of one instrument
    gain: float = 0.0  # multiplies, as a share of the value, the same in every run of one instrument

    @property
    def half(self) -> float:
        """95 % half-width of the figure itself."""
        return Z95 * math.sqrt(self.scatter**2 + self.offset**2 + (self.gain * self.value) ** 2)


@dataclass(frozen=True, slots=True)
class Mean:
    """A figure over the runs of one kind."""

    estimate: Estimate  # its scatter is that of the mean, the machine's own from run to run included
    runs: int
    factor: float  # by which the scatter is to be multiplied for 95 %
    seen: float | None  # standard deviation that the runs themselves show; None for a single one

    @property
    def half(self) -> float:
        """95 % half-width of the figure itself."""
        one = self.estimate
        return math.sqrt((self.factor * one.scatter) ** 2 + Z95**2 * (one.offset**2 + (one.gain * one.value) ** 2))


@dataclass(frozen=True, slots=True)
class Change:
    """What one kind of run has more than another."""

    value: float
    half: float  # 95 %

    @property
    def real(self) -> bool:
        """Whether it is more than its doubt; else it is too close to call."""
        return abs(self.value) > self.half


def student(freedom: float) -> float:
    """Student's factor of a two-sided 95 % interval, rounded up to the next tabled freedom below."""
    return STUDENT_95[max((known for known in STUDENT_95 if known <= freedom), default=1)] if freedom < 40 else Z95


def over_runs(estimates: Sequence[Estimate], usual: float) -> Mean:
    """The mean of equal runs.

    estimates: at least one. usual: standard deviation from run to run that is usual for such a figure. One run takes
    the usual scatter as it is; several pool it, as four runs' worth, with the scatter they show (a scaled inverse
    chi-square prior; Gelman and others, Bayesian Data Analysis, 3rd ed., section 2.6), with Student's factor for the
    freedom there is. What the samples of each run leave open is added.
    """
    count = len(estimates)
    value = sum(one.value for one in estimates) / count
    within = math.sqrt(sum(one.scatter**2 for one in estimates)) / count
    first = estimates[0]
    offset, gain = max(one.offset for one in estimates), max(one.gain for one in estimates)
    if count == 1:
        return Mean(Estimate(first.value, math.hypot(first.scatter, usual), offset, gain), 1, Z95, None)
    seen = math.sqrt(sum((one.value - value) ** 2 for one in estimates) / (count - 1))
    freedom = USUAL_WORTH + count - 1
    pooled = math.sqrt((USUAL_WORTH * usual**2 + (count - 1) * seen**2) / freedom)
    scatter = math.hypot(pooled / math.sqrt(count), within)
    return Mean(Estimate(value, scatter, offset, gain), count, student(freedom), seen)


def change(before: Mean, after: Mean, *, same_instruments: bool = True) -> Change:
    """After less before.

    Of one instrument the offset falls out and the gain acts on the change alone; of two, both act on each figure.
    """
    one, other = before.estimate, after.estimate
    value = other.value - one.value
    varied = (before.factor * one.scatter) ** 2 + (after.factor * other.scatter) ** 2
    if same_instruments:
        shared = (max(one.gain, other.gain) * value) ** 2
    else:
        shared = one.offset**2 + other.offset**2 + (one.gain * one.value) ** 2 + (other.gain * other.value) ** 2
    return Change(value, math.sqrt(varied + Z95**2 * shared))


def share_saved(before: Mean, after: Mean, *, same_instruments: bool = True) -> Estimate | None:
    """(before - after) / before with its doubt by first order; of one instrument the gain falls out. None at zero."""
    one, other = before.estimate, after.estimate
    if one.value == 0.0:
        return None
    ratio = other.value / one.value
    relative = (before.factor * one.scatter / one.value) ** 2
    varied = (after.factor * other.scatter / one.value) ** 2 + (ratio**2) * relative
    gains = 0.0 if same_instruments else (Z95 * ratio) ** 2 * (one.gain**2 + other.gain**2)
    return Estimate(1.0 - ratio, math.sqrt(varied + gains) / Z95)

"""A hold: the forecast of a wait, sharpened by what is read meanwhile, and what opens it.

A hold is never opened by the forecast alone: where a hand will touch, a contact reading opens it. A reading that a
camera took of bare metal does not, nor one that is lower than it can be by then.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from enum import Enum

import numpy as np
import numpy.typing as npt

from zeotherm.core.machine.doing import HoldReading
from zeotherm.core.work.waits import CoolingCurve

Array = npt.NDArray[np.float64]
WIDE = 1.96  # standard deviations of a 95 % half-width
FRESH_S = 120.0  # for which a reading speaks for now
CAMERA_K = 25.0  # that a camera may be off on bare metal
COLDEST, HOTTEST = -20.0, 650.0
SHARE = 0.02  # of the time gone by, that the curve's shape may be off
REACH = np.linspace(0.0, 5.0, 2001)  # of the likely wait, over which its earliest and latest are looked for
SHORT_K = 2.0  # below its target that a reading counts as reached


class Said(Enum):
    """What a reading is worth."""

    GOOD = "good"
    CAMERA = "camera"  # not by contact
    TOO_LOW = "too_low"  # lower than it can be by now
    TOO_HIGH = "too_high"  # hotter than it was, with the heat off
    IMPOSSIBLE = "impossible"


@dataclass(frozen=True)
class Forecast:
    """A curve lined up with what was read: model time is `lag + rate x time`, both with their doubt."""

    curve: CoolingCurve
    lag: float  # s
    rate: float
    doubt: Array  # covariance of lag and rate

    def at(self, time: float) -> tuple[float, float, float]:
        """Lowest, likely and highest temperature at a time after the heat went off, or on [°C]."""
        along, wide = self._along(time)
        ends = sorted((self.curve.at(max(along - wide, 0.0)), self.curve.at(along + wide)))
        return ends[0], self.curve.at(along), ends[1]

    def when(self, value: float) -> tuple[float, float, float] | None:
        """Earliest, likely and latest time at which it meets a temperature [s]; None where it never does."""
        met = self.curve.when(value)
        if met is None:
            return None
        likely = max((met - self.lag) / self.rate, 0.0)
        times = likely * REACH
        along = self.lag + self.rate * times
        wide = self._wide(times)
        early, late = (float(np.interp(met, np.maximum.accumulate(one), times)) for one in (along + wide, along - wide))
        return early, likely, late

    def _along(self, time: float) -> tuple[float, float]:
        """Model time, and its 95 % half-width [s]."""
        return max(self.lag + self.rate * time, 0.0), float(self._wide(np.asarray(time)))

    def _wide(self, time: Array) -> Array:
        """95 % half-width of the model time at times [s]: of lag and rate, and of the curve's shape."""
        (lag, both), (_both, rate) = self.doubt
        spread = lag + 2.0 * both * time + rate * time**2 + (SHARE * self.rate * time / WIDE) ** 2
        return np.asarray(WIDE * np.sqrt(np.maximum(spread, 0.0)))


def forecast(curve: CoolingCurve, readings: Sequence[HoldReading] = ()) -> Forecast:
    """Line a curve up with contact readings, by weighted least squares on lag and rate with their doubt beforehand."""
    start = curve.start_doubt / abs(curve.slope(0.0)) / WIDE
    about = np.diag([1.0 / start**2, 1.0 / (curve.rate_doubt * curve.rate / WIDE) ** 2])
    pull = about @ np.array([0.0, curve.rate])
    for one in readings:
        met = curve.when(one.value)
        if met is None:  # below where the curve ends: at its end, loosely
            met = float(curve.times[-1])
        wide = one.tolerance / abs(curve.slope(met)) / WIDE + SHARE * met / WIDE
        row = np.array([1.0, one.after_s])
        about = about + np.outer(row, row) / wide**2
        pull = pull + row * met / wide**2
    doubt = np.linalg.inv(about)
    lag, rate = doubt @ pull
    return Forecast(curve, float(lag), max(float(rate), 0.05), doubt)


def weigh(reading: HoldReading, so_far: Forecast) -> Said:
    """What a reading is worth, by the forecast as it was without it."""
    if not COLDEST <= reading.value <= HOTTEST:
        return Said.IMPOSSIBLE
    low, _likely, high = so_far.at(reading.after_s)
    if reading.way == "camera":
        return Said.CAMERA
    if so_far.curve.rises:
        return Said.GOOD
    first = float(so_far.curve.values[0]) + 2.5 * so_far.curve.start_doubt
    if reading.value > max(first, high) + reading.tolerance:
        return Said.TOO_HIGH
    return Said.TOO_LOW if reading.value < low - reading.tolerance else Said.GOOD


@dataclass(frozen=True)
class HoldState:
    """How a hold stands."""

    open: bool
    forecast: Forecast
    said: tuple[Said, ...]  # of each reading
    last: HoldReading | None  # the last that counts
    stale: bool  # the last that counts is too old to speak for now
    goal: float

    @property
    def met(self) -> float:
        """The reading that counts as the goal met [°C]."""
        return self.goal - SHORT_K if self.forecast.curve.rises else self.goal

    @property
    def counted(self) -> bool:
        """Whether any reading counts."""
        return self.last is not None


def held(curve: CoolingCurve, readings: Sequence[HoldReading], now_s: float, goal: float) -> HoldState:
    """How a hold stands at a time after the heat went off, or on [s]; goal: the temperature to be met [°C].

    It is open when the last reading that counts is by contact or by the machine's own sensor, fresh, and at the goal.
    """
    good: list[HoldReading] = []
    said = []
    for one in readings:
        worth = weigh(one, forecast(curve, good))
        said.append(worth)
        if worth is Said.GOOD:
            good.append(one)
    last = good[-1] if good else None
    stale = last is None or now_s - last.after_s > FRESH_S or last.after_s > now_s + 1.0
    met = last is not None and (
        last.value >= goal - SHORT_K if curve.rises else last.value <= goal and last.way == "probe"
    )
    spoilt = bool(said) and said[-1] in (Said.TOO_LOW, Said.TOO_HIGH, Said.IMPOSSIBLE)
    return HoldState(bool(met and not stale and not spoilt), forecast(curve, good), tuple(said), last, stale, goal)

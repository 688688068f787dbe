"""How fast a machine was seen to warm or cool, against the model: the next wait is known from the last print."""

from __future__ import annotations

from collections.abc import Callable, Iterable

import numpy as np
import numpy.typing as npt

from zeotherm.core.catalogue import Catalogue
from zeotherm.core.machine.documents import Setup
from zeotherm.core.machine.measured import Run
from zeotherm.core.runs.phases import switched_off, switched_on
from zeotherm.core.runs.series import Series, Trace, as_series
from zeotherm.core.work.waits import CoolingCurve, cooling

Array = npt.NDArray[np.float64]
LEAST_SAMPLES = 4
TOP_SHARE, FOOT_SHARE = 0.9, 0.25  # of the fall that is compared
BEGUN_SHARE, DONE_SHARE = 0.1, 0.85  # of the rise
LEAST_DOUBT = 0.06  # 95 %: fans, flow of air and where the head stands differ from one day to the next
SLOWEST, FASTEST = 0.2, 3.0
AIRS = ("case_air", "fan_inlet", "room")


def own_pace(curve: CoolingCurve, runs: Iterable[Run]) -> tuple[float, float] | None:
    """How fast the block warmed or cooled in a job's runs, over the model's rate; as for `seen_rate`."""
    return seen_rate(curve, [as_series(run) for run in runs])


def block_cooling(
    found: Setup, runs: Iterable[Run], catalogue: Catalogue, start_c: float, *, fan: bool,
    cancelled: Callable[[], bool] = lambda: False,
) -> tuple[CoolingCurve, bool]:  # fmt: skip
    """The block after the heat is off, and whether it goes by the machine's own runs.

    Runs tell while the sink fan runs, as it does in them. Arguments and errors as for `waits.cooling`.
    """
    curve = cooling(found, catalogue, start_c, fan=fan, cancelled=cancelled)
    seen = own_pace(curve, runs) if fan else None
    return (curve, False) if seen is None else (curve.known(*seen), True)


def seen_rate(curve: CoolingCurve, runs: Iterable[Series], channel: str = "block") -> tuple[float, float] | None:
    """How fast a place warmed or cooled in runs, over the model's rate, with its 95 % half-width; None: none tells.

    The slope of the model's time over the run's time, for equal temperatures on the way up and for equal excess over
    the air each stood in on the way down. A run tells when it goes through most of the way.
    """
    law = _warming if curve.rises else _cooling
    found = []
    for series in runs:
        trace = series.trace(channel)
        rate = law(curve, trace, series) if trace is not None else None
        if rate is not None and SLOWEST < rate < FASTEST:
            found.append(rate)
    if not found:
        return None
    apart = 2.0 * float(np.std(found)) if len(found) > 1 else 0.0
    return float(np.mean(found)), max(apart, LEAST_DOUBT)


def _warming(curve: CoolingCurve, trace: Trace, series: Series) -> float | None:
    part = trace.within(switched_on(series).time, float(trace.time[-1]))
    if len(part.time) < LEAST_SAMPLES:
        return None
    start, span = float(part.values[0]), float(curve.values[-1]) - float(part.values[0])
    done = np.flatnonzero(part.values >= start + DONE_SHARE * span)
    if not len(done) or span <= 0.0:
        return None
    last = int(done[0]) + 1
    inside = part.values[:last] >= start + BEGUN_SHARE * span
    return _slope(curve, part.time[:last][inside], part.values[:last][inside])


def _cooling(curve: CoolingCurve, trace: Trace, series: Series) -> float | None:
    off = switched_off(series, switched_on(series).time)
    part = trace.within(off, float(trace.time[-1]))
    if len(part.time) < LEAST_SAMPLES:
        return None
    foot = float(curve.values[-1])
    over = part.values - _air(series, part)
    span = min(float(over[0]), float(curve.values[0]) - foot)
    inside = (over <= TOP_SHARE * span) & (over >= FOOT_SHARE * span)
    if float(over.min()) > FOOT_SHARE * span + 5.0:
        return None
    return _slope(curve, part.time[inside], foot + over[inside])


def _slope(curve: CoolingCurve, time: Array, values: Array) -> float | None:
    if len(time) < LEAST_SAMPLES:
        return None
    model = np.array([curve.when(float(value)) for value in values], dtype=float)
    return Trace.of(time, model).slope


def _air(series: Series, part: Trace) -> Array:
    """The air a place stood in, by the nearest channel there is; else what it fell to."""
    for channel in AIRS:
        air = series.trace(channel)
        if air is not None:
            return np.interp(part.time, air.time, air.values)
    return np.full(len(part.time), float(part.values.min()))

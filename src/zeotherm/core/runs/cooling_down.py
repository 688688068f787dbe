"""How fast a machine was seen to cool, against the model: the wait of the next repair is known from the last print."""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np
import numpy.typing as npt

from zeotherm.core.judgement.procedures.waits import Curve
from zeotherm.core.runs.phases import switched_off, switched_on
from zeotherm.core.runs.series import Series, Trace

LEAST_SAMPLES = 6
TOP_SHARE, FOOT_SHARE = 0.9, 0.25  # of the fall that is compared
LEAST_DOUBT = 0.06  # 95 %: fans, flow of air and where the head stands differ from one day to the next
AIRS = ("case_air", "fan_inlet", "room")
SLOWEST, FASTEST = 0.4, 2.5


def seen_rate(curve: Curve, runs: Iterable[Series], channel: str = "block") -> tuple[float, float] | None:
    """How fast a place cooled in runs, over the model's rate, with its 95 % half-width; None where none tells.

    A run tells when its heat goes off and the place falls through most of the way to the room within it.
    """
    found = []
    for series in runs:
        trace = series.trace(channel)
        rate = _rate(curve, trace, series) if trace is not None else None
        if rate is not None and SLOWEST < rate < FASTEST:
            found.append(rate)
    if not found:
        return None
    apart = 2.0 * float(np.std(found)) if len(found) > 1 else 0.0
    return float(np.mean(found)), max(apart, LEAST_DOUBT)


def _rate(curve: Curve, trace: Trace, series: Series) -> float | None:
    """The slope of the model's time over the run's, for equal excess over the air each stood in."""
    off = switched_off(series, switched_on(series).time)
    part = trace.within(off, float(trace.time[-1]))
    if len(part.time) < LEAST_SAMPLES:
        return None
    foot = float(curve.values[-1])
    over = part.values - _air(series, part)
    span = min(float(over[0]), float(curve.values[0]) - foot)
    inside = (over <= TOP_SHARE * span) & (over >= FOOT_SHARE * span)
    if inside.sum() < LEAST_SAMPLES or float(over.min()) > FOOT_SHARE * span + 5.0:
        return None
    model = np.array([curve.when(foot + float(value)) for value in over[inside]], dtype=float)
    return Trace.of(part.time[inside], model).slope


def _air(series: Series, part: Trace) -> npt.NDArray[np.float64]:
    """The air a place stood in, by the nearest channel there is; else what it fell to."""
    for channel in AIRS:
        air = series.trace(channel)
        if air is not None:
            return np.interp(part.time, air.time, air.values)
    return np.full(len(part.time), float(part.values.min()))

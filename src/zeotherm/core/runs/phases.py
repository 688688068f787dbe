"""When a run's heating begins and ends, and when a curve passes a level."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from zeotherm.core.runs.series import Array, Series, Trace

SWITCHES = ("target_bed", "target_block", "duty_bed", "duty_block")  # steps at the moment of switching on
STEP_OF: Mapping[str, float] = {"target": 25.0, "duty": 4.0}  # °C and % that count as on
HEATED = ("bed", "block", "case_air", "near_bed")  # curves whose bend tells switching on, the slowest lag first
LEAST_RISE = 6.0  # K; less is no heating
LEAST_WATTS = 12.0
BETWEEN = 0.12  # of a sampling interval by which a straight line between samples misses a bent curve
BENT = 1.3  # by which a curve that is not straight widens the doubt of its bend
FALLEN = 0.25  # of its rise that a heated part has lost when its heater counts as off


@dataclass(frozen=True, slots=True)
class Moment:
    """A time with its doubt, and what it was read from."""

    time: float  # s
    doubt: float  # standard deviation [s]
    channel: str = ""
    read: float = 0.0  # the part of the doubt that is not the logger's clock, which two moments of a run share [s]


@dataclass(frozen=True, slots=True)
class Phases:
    """The heated stretch of a run."""

    on: Moment
    off: float  # s; the end of the run where it was never switched off


def crossing(trace: Trace, level: float, *, after: float = -np.inf) -> Moment | None:
    """First time a curve rises past a level for good enough: a median of five samples has passed it.

    The time is where a straight line through the nine samples about it meets the level; its doubt is the noise over
    the slope, and the sampling interval / √12, since a logger's clock may be anywhere within it. None if never.
    """
    part = trace.within(after, np.inf)
    if len(part.values) < 2:
        return None
    passed = np.flatnonzero(_smoothed(part.values) >= level)
    if not len(passed):
        return None
    at = int(passed[0])
    if at == 0:
        return Moment(float(part.time[0]), part.interval, read=part.interval)
    first, last = max(0, at - 4), min(len(part.values), at + 5)
    about = Trace(part.time[first:last], part.values[first:last], part.resolution)
    met = _meets(about, level)
    time = float(part.time[at]) if met is None else float(np.clip(met, about.time[0], about.time[-1]))
    step = max(float(part.time[at] - part.time[at - 1]), part.interval)
    most = float(part.time[-1] - part.time[0])
    read = min(float(np.hypot(BETWEEN * step, part.noise / np.sqrt(last - first) / max(abs(about.slope), 1e-9))), most)
    return Moment(time, min(float(np.hypot(step / np.sqrt(12.0), read)), most), read=read)


def _meets(part: Trace, level: float) -> float | None:
    """Where the straight line through samples meets a level; None where it runs level."""
    slope = part.slope
    return float(part.time.mean()) + (level - float(part.values.mean())) / slope if slope != 0.0 else None


def _smoothed(values: Array) -> Array:
    """Medians of five, of fewer at the ends."""
    if len(values) < 5:
        return values
    windows = np.lib.stride_tricks.sliding_window_view(np.pad(values, 2, mode="edge"), 5)
    return np.asarray(np.median(windows, axis=1))


def step_on(trace: Trace, level: float, channel: str) -> Moment | None:
    """When a target or a duty first stood above a level: half-way between the samples about it."""
    above = np.flatnonzero(trace.values > level)
    if not len(above) or above[0] == 0:
        return None
    before, at = trace.time[above[0] - 1], trace.time[above[0]]
    return Moment(float(0.5 * (before + at)), float((at - before) / np.sqrt(12.0)), channel)


def bend(trace: Trace, channel: str) -> Moment | None:
    """When a curve leaves its level: a straight line through 8 to 30 % of its first rise, drawn back to the level.

    The lag of a sensor delays it; in two runs of one sensor alike, so it falls out of their shift. Doubt: of the line's
    own scatter and of the level. None for a curve that hardly rises or has no level before.
    """
    smooth = _smoothed(trace.values)
    top = int(np.argmax(smooth >= smooth.min() + 0.9 * (smooth.max() - smooth.min())))
    if top < 4:
        return None
    low = float(smooth[:top].min())
    rise = float(smooth[top]) - low
    if rise < max(LEAST_RISE, 8.0 * trace.noise):
        return None
    last_low = int(np.flatnonzero(smooth[:top] <= low + 0.08 * rise)[-1])
    upper = int(np.flatnonzero(smooth >= low + 0.30 * rise)[0])
    flat = trace.values[: max(1, last_low)][trace.values[: max(1, last_low)] <= low + 0.02 * rise + 3.0 * trace.noise]
    level = float(flat.mean()) if len(flat) else low
    first = max(0, min(last_low, upper - 3))
    climb = Trace(trace.time[first : upper + 1], trace.values[first : upper + 1], trace.resolution)
    time = _meets(climb, level)
    if time is None or climb.slope <= 0.0:
        return None
    scatter = trace.noise / climb.slope * np.sqrt(4.0 / len(climb.time) + 1.0 / max(1, len(flat)))
    doubt = BENT * float(np.hypot(scatter, trace.interval / np.sqrt(12.0)))
    return Moment(float(max(time, trace.time[0])), doubt, channel)


def idle_watts(series: Series, before: float) -> tuple[float, float] | None:
    """Mean power before a time and its standard deviation [W]; None where less than three samples lie there."""
    trace = series.trace("power")
    if trace is None:
        return None
    part = trace.within(-np.inf, before)
    if len(part.values) < 3:
        return None
    calm = part.values[part.values <= np.median(part.values) + LEAST_WATTS]
    return float(calm.mean()), float(max(calm.std(), trace.noise) / np.sqrt(len(calm)))


def switched_on(series: Series) -> Moment:
    """When heating began, by the sharpest sign there is; the first row where there is none."""
    for channel in SWITCHES:
        trace = series.trace(channel)
        found = step_on(trace, STEP_OF[channel.partition("_")[0]], channel) if trace is not None else None
        if found is not None:
            return found
    power = series.trace("power")
    found = step_on(power, _quiet(power) + LEAST_WATTS, "power") if power is not None else None
    if found is not None:
        return found
    for channel in HEATED:
        trace = series.trace(channel)
        found = bend(trace, channel) if trace is not None and len(trace.values) > 8 else None
        if found is not None:
            return found
    return Moment(float(series.time[0]), float(np.median(np.diff(series.time))) if series.rows > 1 else 0.0, "")


def _quiet(power: Trace) -> float:
    """What the meter shows before anything is switched on."""
    return float(np.median(power.values[: max(3, min(len(power.values), 5))]))


def switched_off(series: Series, on: float) -> float:
    """When the last heater was switched off; the last row where it never was."""
    end = float(series.time[-1])
    for channel in SWITCHES:
        trace = series.trace(channel)
        level = STEP_OF[channel.partition("_")[0]]
        if trace is not None and (held := np.flatnonzero(trace.values > level)).size:
            last = float(trace.time[held[-1]])
            return last if last > on else end
    for channel in ("bed", "block"):
        trace = series.trace(channel)
        if trace is None:
            continue
        smooth = _smoothed(trace.values)
        level = float(np.percentile(smooth, 80))
        if level - float(smooth.min()) <= LEAST_RISE:
            continue
        last = int(np.flatnonzero(smooth > level - FALLEN * (level - float(smooth.min())))[-1])
        if last < len(smooth) - 3:
            return _last_held(trace, smooth, level, last)
    return end


def _last_held(trace: Trace, smooth: Array, level: float, last: int) -> float:
    """Back from where a part has cooled to where it was last held."""
    near: npt.NDArray[np.intp] = np.flatnonzero(smooth[: last + 1] > level - 1.5 - 2.0 * trace.noise)
    return float(trace.time[max(near[-1] - 2, 0)]) if len(near) else float(trace.time[last])


def phases(series: Series) -> Phases:
    """The heated stretch of a run."""
    on = switched_on(series)
    return Phases(on, max(switched_off(series, on.time), on.time))

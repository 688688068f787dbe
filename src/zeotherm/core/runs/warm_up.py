"""The warm-up of a bed, or of a case, out of a log: from when the heater came on."""

from __future__ import annotations

import numpy as np

from zeotherm.core.parts.bed.judge.fit import LoggedWarmUp
from zeotherm.core.parts.bed.judge.sizing import EFFICIENCY
from zeotherm.core.parts.enclosure.judge.fit import MeasuredCase
from zeotherm.core.runs.series import Series

AIRS = ("near_bed", "case_air")  # of a case, the one at the print first
RISE_K = 1.5  # above its start from which a bed counts as heated
JUMP_W, NEAR_S = 30.0, 180.0  # of a meter when a heater comes on, and how near the bed's first rise that is
SETTLED_S, LATE_S = 600.0, 1800.0  # after the set value is reached: when holding begins, and how long it is read


def warm_up_of(series: Series, room: float, target: float) -> LoggedWarmUp:
    """The bed's warm-up in a log; room [°C] where the log has none; target: the set value [°C].

    The bed's own watts are told where the log has a meter's: the wall's, less what was drawn before it came on, as far
    as a supply passes them on. Raises ValueError where there is no bed in it.
    """
    bed = series.trace("bed")
    if bed is None:
        raise ValueError("the log has no column of the bed")
    start = float(bed.values[:3].mean())
    on = _switched_on(series)
    known = series.trace("room")
    around = float(known.within(0.0, on + 60.0).values.mean()) if known is not None and len(known.values) else room
    kept = bed.time >= on
    full, hold = _watts(series, on, target)
    return LoggedWarmUp(bed.time[kept] - on, bed.values[kept], around, start, hold, full)


def case_of(series: Series) -> MeasuredCase:
    """The warm-up of a case in a log: the air near its bed, else in the case; the room and the bed where they are
    there. Raises ValueError where there is no air of a case in it."""
    air = next((found for name in AIRS if (found := series.trace(name)) is not None), None)
    if air is None or len(air.values) < 5:
        raise ValueError("the log has no column of the case's air")
    on = _switched_on(series) if series.trace("bed") is not None else float(air.time[0])
    kept = air.time >= on
    room = series.trace("room")
    times = air.time[kept] - on
    known = np.interp(air.time[kept], room.time, room.values) if room is not None and len(room.values) > 1 else None
    clock = series.start_h + on / 3600.0 if series.start_h is not None else None
    bed = series.trace("bed")
    late = bed.time >= on if bed is not None else None
    plate = (bed.time[late] - on, bed.values[late]) if bed is not None and late is not None and late.any() else None
    return MeasuredCase(times, air.values[kept], known, clock, plate)


def _switched_on(series: Series) -> float:
    """When the bed's heater came on: its first rise, or a meter's jump near it."""
    bed, power = series.trace("bed"), series.trace("power")
    assert bed is not None
    rising = np.flatnonzero(bed.values > float(bed.values[:3].mean()) + RISE_K)
    on = float(bed.time[max(int(rising[0]) - 1, 0)]) if len(rising) else float(bed.time[0])
    if power is not None:
        jumps = power.time[np.flatnonzero(np.diff(power.values) > JUMP_W)]
        on = next((float(time) for time in jumps if abs(time - on) < NEAR_S), on)
    return on


def _watts(series: Series, on: float, target: float) -> tuple[float | None, float | None]:
    power, bed = series.trace("power"), series.trace("bed")
    if power is None or bed is None:
        return None, None
    before = power.within(0.0, on - 5.0).values
    idle = float(np.median(before)) if len(before) else 0.0
    warm = np.flatnonzero((bed.time > on) & (bed.values >= target - 1.0))
    reached = float(bed.time[warm[0]]) if len(warm) else float(bed.time[-1])
    rise = power.within(on + 0.15 * (reached - on), on + 0.85 * (reached - on)).values
    held = power.within(reached + SETTLED_S, reached + SETTLED_S + LATE_S)
    full = EFFICIENCY * (float(np.mean(rise)) - idle) if len(rise) > 3 else None
    hold = EFFICIENCY * (float(held.values.mean()) - idle) if len(warm) and len(held.values) > 10 else None
    return full, hold

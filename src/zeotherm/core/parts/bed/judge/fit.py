"""The few things that decide a bed's warm-up, estimated from its own curve: heater, heat capacity, loss to the air."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace

import numpy as np
import numpy.typing as npt

from zeotherm.core.judgement.estimate import POINTS, Fit, Predicted, estimate
from zeotherm.core.parts.bed.model.in_time import run_bed
from zeotherm.core.parts.bed.model.inputs import BedAir, BedInputs, ResolvedBed, with_bed_number
from zeotherm.core.parts.bed.model.model import BedModel
from zeotherm.core.parts.bed.model.readout import course_of
from zeotherm.core.solver.axisymmetric import CancelledError

Array = npt.NDArray[np.float64]
UNKNOWNS = ("heater", "mass", "film")
READING_K = 1.0  # standard deviation of model and sensor together, over a warm-up
METER_SHARE = 0.04  # standard deviation of the bed's watts by a meter at the wall, as a share: supply and meter
FEW = 14
AFTER = 900.0  # s at the set value that are compared
Cancelled = Callable[[], bool]
BedFit = Fit[BedInputs]


@dataclass(frozen=True)
class LoggedWarmUp:
    """A warm-up as it was logged."""

    times: Array  # s since the heater came on
    bed: Array  # °C
    room: float  # °C
    start: float  # °C, of the bed
    hold_w: float | None = None  # what the bed's heater takes to hold, where a meter tells
    full_w: float | None = None  # and on its way up


def fit_bed(resolved: ResolvedBed, measured: LoggedWarmUp, cancelled: Cancelled = lambda: False) -> BedFit:
    """The unknowns of a bed from its warm-up. Raises ValueError where the log holds none, and CancelledError."""
    rising = measured.bed > measured.start + 2.0
    if int(rising.sum()) < 5 or float(measured.bed.max()) < measured.start + 15.0:
        raise ValueError("the log holds no warm-up of the bed: it needs its rise from cold, by 15 K at the least")
    inputs = resolved.inputs
    air = BedAir(measured.room, measured.room, measured.room)
    end = min(float(measured.times[-1]), _held_from(measured, inputs.target) + AFTER)
    at = np.linspace(0.0, end, POINTS)

    def predicted(values: Mapping[str, float]) -> Predicted[tuple[float, float]]:
        if cancelled():
            raise CancelledError
        tried = replace(_with(inputs, values), room=measured.room)
        run = run_bed(BedModel(tried, air, FEW), end, start=measured.start, longest=end)
        course = course_of(run)
        curve = course.series["bed_sensor"]
        return Predicted(
            np.interp(at, course.times, curve), (course.times, curve), (float(run.powers[-1]), course.peak)
        )

    def told(watts: tuple[float, float]) -> list[float]:
        metered = zip(watts, (measured.hold_w, measured.full_w), strict=True)
        return [(one / meter - 1.0) / METER_SHARE for one, meter in metered if meter is not None]

    believed = {name: (getattr(inputs, name), resolved.doubts[name]) for name in UNKNOWNS if name in resolved.doubts}
    seen = np.interp(at, measured.times, measured.bed)
    found, before, misfit, curve = estimate(predicted, seen, believed, READING_K, told)
    return Fit(_with(inputs, {one.name: one.after for one in found}), found, before, misfit, curve)


def _with(inputs: BedInputs, values: Mapping[str, float]) -> BedInputs:
    for name, value in values.items():
        inputs = with_bed_number(inputs, name, value)
    return inputs


def _held_from(measured: LoggedWarmUp, target: float) -> float:
    """When the log comes near the set value; its end where it never does."""
    near = np.flatnonzero(measured.bed >= target - 2.0)
    return float(measured.times[near[0]]) if len(near) else float(measured.times[-1])

"""The few things that decide a bed's warm-up, estimated from its own curve: heater, heat capacity, loss to the air.

Least squares with what was believed before as further observations (Bayesian; Gelman et al., Bayesian Data Analysis,
3rd ed., section 14.8): what a curve does not tell stays where it was, with the band that it had. Gauss-Newton steps by
finite differences. Readings of one run are not independent of each other: all of them together count as `WORTH`.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np
import numpy.typing as npt

from zeotherm.core.judgement.bands import Band
from zeotherm.core.solver.axisymmetric import CancelledError
from zeotherm.core.twin.bed.in_time import run_bed
from zeotherm.core.twin.bed.inputs import BedAir, BedInputs, ResolvedBed, with_bed_number
from zeotherm.core.twin.bed.model import BedModel
from zeotherm.core.twin.bed.readout import course_of

Array = npt.NDArray[np.float64]
UNKNOWNS = ("heater", "mass", "film")
READING_K = 1.0  # standard deviation of model and sensor together, over a warm-up
METER_SHARE = 0.04  # standard deviation of the bed's watts by a meter at the wall, as a share: supply and meter
WORTH, POINTS = 8, 40  # independent readings that a curve counts as, and the points it is read at
TURNS, MOVED, STEP = 6, 2e-3, 0.02
FEW = 14
AFTER = 900.0  # s at the set value that are compared
Cancelled = Callable[[], bool]


@dataclass(frozen=True)
class Measured:
    """A warm-up as it was logged."""

    times: Array  # s since the heater came on
    bed: Array  # °C
    room: float  # °C
    start: float  # °C, of the bed
    hold_w: float | None = None  # what the bed's heater takes to hold, where a meter tells
    full_w: float | None = None  # and on its way up


@dataclass(frozen=True, slots=True)
class Fitted:
    """One unknown, before and after."""

    name: str
    before: float
    after: float
    band_before: float  # 95 % half-width
    band: Band


@dataclass(frozen=True)
class BedFit:
    """What a warm-up tells of a bed."""

    inputs: BedInputs
    found: tuple[Fitted, ...]
    misfit_before: float  # root mean square, K
    misfit: float
    curve: tuple[Array, Array]  # of the fitted model: s, °C

    def value(self, name: str) -> float:
        """One of the unknowns."""
        return next(one.after for one in self.found if one.name == name)


def fit_bed(resolved: ResolvedBed, measured: Measured, cancelled: Cancelled = lambda: False) -> BedFit:
    """The unknowns of a bed from its warm-up. Raises ValueError where the log holds none, and CancelledError."""
    rising = measured.bed > measured.start + 2.0
    if int(rising.sum()) < 5 or float(measured.bed.max()) < measured.start + 15.0:
        raise ValueError("the log holds no warm-up of the bed: it needs its rise from cold, by 15 K at the least")
    inputs, names = resolved.inputs, [name for name in UNKNOWNS if name in resolved.doubts]
    air = BedAir(measured.room, measured.room, measured.room)
    end = min(float(measured.times[-1]), _held_from(measured, inputs.target) + AFTER)
    at = np.linspace(0.0, end, POINTS)
    seen = np.interp(at, measured.times, measured.bed)
    scales = np.array([getattr(inputs, name) for name in names])
    widths = np.array([resolved.doubts[name] for name in names]) / 1.96 / scales
    weight = math.sqrt(WORTH / POINTS) / READING_K

    def predicted(shares: Array) -> tuple[Array, tuple[float, float], tuple[Array, Array]]:
        if cancelled():
            raise CancelledError
        tried = inputs
        for name, share, scale in zip(names, shares, scales, strict=True):
            tried = with_bed_number(tried, name, share * scale)
        run = run_bed(BedModel(replace(tried, room=measured.room), air, FEW), end, start=measured.start, longest=end)
        course = course_of(run)
        curve = course.series["bed_sensor"]
        return np.interp(at, course.times, curve), (float(run.powers[-1]), course.peak), (course.times, curve)

    def off(shares: Array, read: Array, watts: tuple[float, float]) -> Array:
        metered = zip(watts, (measured.hold_w, measured.full_w), strict=True)
        told = [(one / meter - 1.0) / METER_SHARE for one, meter in metered if meter is not None]
        return np.concatenate([weight * (read - seen), (shares - 1.0) / widths, np.array(told)])

    shares = np.ones(len(names))
    read, hold, curve = predicted(shares)
    before = float(np.sqrt(np.mean((read - seen) ** 2)))
    slopes = np.zeros((len(off(shares, read, hold)), len(names)))
    for _turn in range(TURNS):
        now = off(shares, read, hold)
        for n in range(len(names)):
            moved = shares.copy()
            moved[n] += STEP
            other, other_hold, _curve = predicted(moved)
            slopes[:, n] = (off(moved, other, other_hold) - now) / STEP
        step = np.linalg.lstsq(slopes, -now, rcond=None)[0]
        shares = np.clip(shares + np.clip(step, -0.3, 0.3), 0.3, 3.0)
        read, hold, curve = predicted(shares)
        if float(np.abs(step).max()) < MOVED:
            break
    spread = 1.96 * np.sqrt(np.diag(np.linalg.inv(slopes.T @ slopes)))
    found = tuple(
        Fitted(name, float(scale), float(share * scale), float(1.96 * width * scale),
               Band(float(by * scale), float(by * scale)))
        for name, share, scale, width, by in zip(names, shares, scales, widths, spread, strict=True)
    )  # fmt: skip
    fitted = inputs
    for one in found:
        fitted = with_bed_number(fitted, one.name, one.after)
    return BedFit(fitted, found, before, float(np.sqrt(np.mean((read - seen) ** 2))), curve)


def _held_from(measured: Measured, target: float) -> float:
    """When the log comes near the set value; its end where it never does."""
    near = np.flatnonzero(measured.bed >= target - 2.0)
    return float(measured.times[near[0]]) if len(near) else float(measured.times[-1])

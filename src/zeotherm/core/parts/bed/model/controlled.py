"""A bed under its controller as it is: a sensor that lags, and a heater switched or dosed by what it reads.

The course of `in_time` has a control that holds without fault; this one follows the real one second by second on a
coarse grid, by linearly implicit Euler steps (Hairer & Wanner, Solving ODEs II, IV.7, one stage): good where the step
is below the sensor's lag and far below the plate's own times, which the verification record shows.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np
import numpy.typing as npt

from zeotherm.core.catalogue.lookup import take
from zeotherm.core.catalogue.shelves import Catalogue
from zeotherm.core.machine.documents import Setup
from zeotherm.core.parts.bed.model.model import BedModel
from zeotherm.core.parts.bed.model.readout import at_place

Array = npt.NDArray[np.float64]
STEP = 1.0  # s
RENEWED = 2.0  # K that the plate moves before films and slopes are taken anew
PWM = 255.0  # steps of full power, in which gains are stated
HELD_FOR = 1800.0  # s that are followed once the sensor came to its set value
LONGEST = 7200.0
Law = Literal["relay", "proportional", "pid"]


@dataclass(frozen=True, slots=True)
class Controller:
    """How a bed's heater follows its sensor.

    relay: on below the set value less the band, off above it plus the band. proportional: full power a band below the
    set value, none at it. pid: gains in steps of 255 a kelvin, a second, seconds; the integral stands while the output
    is at a bound and the error pushes it further.
    """

    law: Law
    lag: float  # of the sensor in its pocket [s]
    band: float = 0.0  # K
    p: float = 0.0
    i: float = 0.0
    d: float = 0.0


class Ticking:
    """A bed step by step, from one temperature all over, at the watts it is given.

    The heater under its plate takes up heat of its own as it grows warmer than the plate: what it passes on follows
    what it is given with its capacity times its resistance as time constant.
    """

    def __init__(self, model: BedModel, lag: float, start: float | None = None, step: float = STEP) -> None:
        self.model, self.lag, self.width = model, lag, step
        self.passed = 0.0  # by the heater to the plate [W]
        first = model.air.above if start is None else start
        self.plate = np.full(model.grid.inside.shape, first)
        self.time, self.read = 0.0, first
        self._inside = model.grid.inside.ravel()
        units = np.eye(self._inside.size).reshape(-1, *model.grid.inside.shape)
        spread = np.array([model.plate.spreading(unit).ravel() for unit in units])
        self._spread = spread[np.ix_(self._inside, self._inside)]
        self._films = model.films(first, first)
        self._renew()

    @property
    def true(self) -> float:
        """What the sensor would read without its lag [°C]."""
        return self.model.reading(self.plate, self.heater)

    @property
    def heater(self) -> Array:
        """The heater's field [°C]."""
        model, at = self.model, self._at
        down = at.down + at.slope_down * self._by + self._by_watt * (self.passed - self._passed)
        return np.asarray(self.plate + model.heater_resistance * (self.passed * model.pattern - down))

    @property
    def most(self) -> float:
        """What the heater can give as warm as it is [W]."""
        return self.model.available(self.heater)

    def face(self, name: str) -> float:
        """The print face at a named place [°C]."""
        at = self._at
        up = at.up + at.slope_up * self._by
        return at_place(self.model, name, at.face + self._by - self.model.up_resistance * (up - at.up))

    @property
    def _by(self) -> Array:
        return np.asarray(self.plate - self._plate)

    def step(self, watts: float) -> None:
        """One step at these watts."""
        model = self.model
        by = self._by
        if float(np.abs(by).max()) > RENEWED:
            self._renew()
            by = self._by
        self.passed += (watts - self.passed) * self.width / (self.model.heater_lag + self.width)
        more = self._by_watt * (self.passed - self._passed) * model.grid.area
        wrong = self.passed * model.pattern * model.grid.area - self._lost - self._own * by - more
        wrong = wrong - model.plate.spreading(self.plate)
        self.plate.ravel()[self._inside] += self._inverse @ wrong.ravel()[self._inside]
        self.read += (self.true - self.read) * self.width / (self.lag + self.width)
        self.time += self.width

    def _renew(self) -> None:
        """Take what leaves the plate anew, with its slopes: linear until the plate has moved on."""
        model, inside = self.model, self.model.grid.inside
        at = model.through(self.plate, self.passed, self._films)
        self._films = model.films(float(at.face[inside].mean()), float(at.lower[inside].mean()))
        self._at = at = model.through(self.plate, self.passed, self._films)
        self._plate, self._passed = self.plate.copy(), self.passed
        self._by_watt = at.slope_down * model.heater_resistance * model.pattern
        apart, area = self.plate - model.air.below, model.grid.area
        self._lost = (at.up + at.down + model.mounts * apart) * area + model.plate.edge * apart
        self._own = (at.slope_up + at.slope_down + model.mounts) * area + model.plate.edge
        inertia = (self._own + model.capacity / self.width).ravel()[self._inside]
        self._inverse = np.linalg.inv(self._spread + np.diag(inertia))


@dataclass(frozen=True)
class Controlled:
    """A bed's course under its controller, second by second."""

    controller: Controller
    target: float
    times: Array  # s
    reads: Array  # what the sensor says [°C]
    there: Array  # and what it would say without its lag
    centre: Array  # of the print face
    shares: Array  # of the power that there is [-]

    @property
    def reached(self) -> float | None:
        """When the sensor first says its set value, less a band or a kelvin [s]."""
        near = max(self.controller.band, 1.0)
        found = np.flatnonzero(self.reads >= self.target - near)
        return float(self.times[found[0]]) if len(found) else None

    @property
    def over(self) -> float:
        """How far the bed at its sensor passes the set value at most [K]; zero where it does not."""
        return max(float(self.there.max()) - self.target, 0.0)

    @property
    def late(self) -> npt.NDArray[np.bool_]:
        """The last third of the hold."""
        start = self.reached or 0.0
        return np.asarray(self.times >= start + 0.667 * (float(self.times[-1]) - start))

    @property
    def swing(self) -> tuple[float, float]:
        """Lowest and highest reading in the end [°C]."""
        late = self.reads[self.late]
        return float(late.min()), float(late.max())

    @property
    def face_swing(self) -> float:
        """Half height of the swing in the middle of the print face in the end [K]."""
        late = self.centre[self.late]
        return 0.5 * float(late.max() - late.min())

    @property
    def period(self) -> float | None:
        """From one switching on to the next, in the end [s]; None where nothing is switched."""
        if self.controller.law != "relay":
            return None
        ons = self.times[1:][np.diff(self.shares) > 0.5]
        return float(np.diff(ons[-4:]).mean()) if len(ons) > 1 else None


def controlled(model: BedModel, controller: Controller, *, held_for: float = HELD_FOR) -> Controlled:
    """A bed from cold under its controller, until it was held so long [s]; at most two hours of warm-up."""
    ticking, target = Ticking(model, controller.lag), model.inputs.target
    times, reads, there, centre, shares = [0.0], [ticking.read], [ticking.true], [ticking.face("centre")], [0.0]
    share, total, last = 0.0, 0.0, ticking.read
    end = LONGEST
    while ticking.time < end:
        wrong = target - ticking.read
        if controller.law == "relay":
            share = 1.0 if wrong > controller.band else 0.0 if wrong < -controller.band else share
        elif controller.law == "proportional":
            share = min(max(wrong / max(controller.band, 1e-6), 0.0), 1.0)
        else:
            slope = (ticking.read - last) / STEP
            wish = controller.p * wrong + total - controller.d * slope
            out = min(max(wish, 0.0), PWM)
            if wish == out or wrong * (wish - out) < 0.0:
                total += controller.i * wrong * STEP
            share = out / PWM
        last = ticking.read
        ticking.step(share * ticking.most)
        if end == LONGEST and ticking.read >= target - max(controller.band, 1.0):
            end = min(ticking.time + held_for, LONGEST)
        times.append(ticking.time)
        reads.append(ticking.read)
        there.append(ticking.true)
        centre.append(ticking.face("centre"))
        shares.append(share)
    series = (np.array(one) for one in (times, reads, there, centre, shares))
    return Controlled(controller, target, *series)


def controller_of(setup: Setup, catalogue: Catalogue) -> Controller | None:
    """A setup's controller; None where its bed is held without fault. Raises DoesNotFitError."""
    bed = setup.bed
    law = take(catalogue, "controls", bed.control, "bed.control").law
    if law is None:
        return None
    return Controller(law, bed.sensor_lag_s, bed.band_k, bed.gain_p, bed.gain_i, bed.gain_d)

"""A bed's controller tuned on its model: the relay test simulated, values proposed from it, the held bed shown.

The bed is taken as three bodies in a row, heater, plate and sensor, with its own capacities, resistances and loss at
its set value. A relay about the set value makes it swing; from the swing's height and period come the ultimate gain
and period (Åström & Hägglund, Automatica 20 (1984) 645: Ku = 4d/(π·√(a² - ε²)) with d half the relay's step, a the
swing's half height, ε its hysteresis), and from these the values of Tyreus & Luyben (Ind. Eng. Chem. Res. 31 (1992)
2625, for processes that mostly store: Kp = Ku/3.2, Ti = 2.2 Tu), with the derivative left at Td = Tu/6.3.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from zeotherm.core.twin.bed.model import SolvedBed

Array = npt.NDArray[np.float64]
STEP = 0.25  # s
HYSTERESIS = 0.3  # K
SWINGS = 6  # that are simulated; the last ones count
SENSOR_LAG = 6.0  # s, of a bead in its pocket; estimate, 3 to 12
PWM = 255.0
LONGEST = 5400.0


@dataclass(frozen=True, slots=True)
class Bodies:
    """A bed as three bodies: capacities [J/K], conductances [W/K], watts, and the air [°C]."""

    heater: float
    plate: float
    between: float
    off_plate: float
    off_heater: float
    power: float
    air: float
    target: float
    depth: float  # of the sensor: 0 in the plate, 1 at the heater
    lag: float = SENSOR_LAG


@dataclass(frozen=True, slots=True)
class Tuned:
    """What a relay test tells, and the values proposed; gains in PWM steps of 255 a kelvin."""

    swing: float  # K, half height
    period: float  # s
    p: float
    i: float  # a second
    d: float  # seconds

    @property
    def line(self) -> str:
        """As a console takes it."""
        return f"M304 P{self.p:.2f} I{self.i:.3f} D{self.d:.1f}"


def bodies_of(solved: SolvedBed, lag: float = SENSOR_LAG) -> Bodies:
    """A solved bed as three bodies."""
    model, at = solved.model, solved.through
    given, inside, area = model.inputs, model.grid.inside, model.grid.area
    whole = float(model.capacity.sum())
    share = given.slabs[0].capacity * given.slabs[0].thickness * model.grid.whole if given.plate_at > 0 else 0.2 * whole
    heater = min(max(share, 0.02 * whole), 0.6 * whole)
    between = model.grid.whole / max(model.heater_resistance, 1e-4)
    return Bodies(
        heater, whole - heater, between, float((at.slope_up * area)[inside].sum() + model.plate.edge.sum()),
        float((at.slope_down * area)[inside].sum()), solved.available, model.air.above, given.target,
        given.sensor_depth, lag,
    )  # fmt: skip


def relay(bodies: Bodies, hysteresis: float = HYSTERESIS) -> Tuned:
    """The relay test on a bed, and what it proposes. Raises ValueError where the heater does not bring it up."""
    run = _Run(bodies)
    on, high, low = True, -math.inf, math.inf
    peaks: list[float] = []
    crossings: list[float] = []
    while run.time < LONGEST and len(crossings) <= SWINGS:
        run.step(bodies.power if on else 0.0)
        by = run.read - bodies.target
        high, low = max(high, by), min(low, by)
        if on and by > hysteresis:
            on = False
        elif not on and by < -hysteresis:
            on = True
            crossings.append(run.time)
            peaks.append(0.5 * (high - low))
            high, low = -math.inf, math.inf
    if len(crossings) < 4:
        raise ValueError("the heater does not bring this bed about its set value: no relay test on it")
    period = float(np.mean(np.diff(crossings[-3:])))
    swing = float(np.mean(peaks[-2:]))
    gain = 4.0 * 0.5 * PWM / (math.pi * math.sqrt(max(swing**2 - hysteresis**2, (0.2 * swing) ** 2)))
    p = gain / 3.2
    return Tuned(swing, period, p, p / (2.2 * period), p * period / 6.3)


def held(bodies: Bodies, tuned: Tuned, seconds: float = 3600.0) -> tuple[Array, Array]:
    """A bed from cold under these values: times [s] and what its sensor reads [°C].

    Anti-windup by clamping: the integral stands while the output is at a bound and the error pushes it further.
    """
    run = _Run(bodies)
    total, last = 0.0, bodies.air
    times, reads = [], []
    for count in range(round(seconds / STEP)):
        wrong = bodies.target - run.read
        slope = (run.read - last) / STEP
        last = run.read
        wish = tuned.p * wrong + total - tuned.d * slope
        out = min(max(wish, 0.0), PWM)
        if wish == out or wrong * (wish - out) < 0.0:
            total += tuned.i * wrong * STEP
        run.step(bodies.power * out / PWM)
        if count % 8 == 0:
            times.append(run.time)
            reads.append(run.read)
    return np.array(times), np.array(reads)


class _Run:
    """Three bodies in time, from the air's temperature; explicit, at a step far below their own times."""

    def __init__(self, bodies: Bodies) -> None:
        self._b = bodies
        self.heater = self.plate = self.read = bodies.air
        self.time = 0.0

    def step(self, watts: float) -> None:
        b = self._b
        flow = b.between * (self.heater - self.plate)
        self.heater += STEP / b.heater * (watts - flow - b.off_heater * (self.heater - b.air))
        self.plate += STEP / b.plate * (flow - b.off_plate * (self.plate - b.air))
        true = self.plate + b.depth * (self.heater - self.plate)
        self.read += STEP / b.lag * (true - self.read)
        self.time += STEP

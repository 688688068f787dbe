"""A bed's controller tuned on its model: the relay test simulated, values proposed from it, the held bed shown.

A relay about the set value makes the bed swing; from the swing's height and period come the ultimate gain and period
(Åström & Hägglund, Automatica 20 (1984) 645: Ku = 4d/(π·√(a² - ε²)) with d half the relay's step, a the swing's half
height, ε its hysteresis), and from these the values of Tyreus & Luyben (Ind. Eng. Chem. Res. 31 (1992) 2625, for
processes that mostly store: Kp = Ku/3.2, Ti = 2.2 Tu), with the derivative left at Td = Tu/6.3.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from zeotherm.core.parts.bed.model.controlled import PWM, Controlled, Controller, Ticking, controlled
from zeotherm.core.parts.bed.model.model import BedModel

STEP = 0.5  # s
HYSTERESIS = 0.3  # K
SWINGS = 6  # that are simulated; the last ones count
LONGEST = 1800.0  # s


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

    def controller(self, lag: float) -> Controller:
        """A controller with these values."""
        return Controller("pid", lag, p=self.p, i=self.i, d=self.d)


def relay(model: BedModel, lag: float, hysteresis: float = HYSTERESIS) -> Tuned:
    """The relay test on a bed that starts at its set value, and what it proposes; lag: of its sensor [s].

    Raises ValueError where the heater does not hold the bed about its set value.
    """
    target = model.inputs.target
    ticking = Ticking(model, lag, target, STEP)
    on, high, low = True, -math.inf, math.inf
    peaks: list[float] = []
    crossings: list[float] = []
    while ticking.time < LONGEST and len(crossings) <= SWINGS:
        ticking.step(ticking.most if on else 0.0)
        by = ticking.read - target
        high, low = max(high, by), min(low, by)
        if on and by > hysteresis:
            on = False
        elif not on and by < -hysteresis:
            on = True
            crossings.append(ticking.time)
            peaks.append(0.5 * (high - low))
            high, low = -math.inf, math.inf
    if len(crossings) < 4:
        raise ValueError("the heater does not bring this bed about its set value: no relay test on it")
    period = float(np.mean(np.diff(crossings[-4:])))
    swing = float(np.mean(peaks[-3:]))
    gain = 4.0 * 0.5 * PWM / (math.pi * math.sqrt(max(swing**2 - hysteresis**2, (0.2 * swing) ** 2)))
    p = gain / 3.2
    return Tuned(swing, period, p, p / (2.2 * period), p * period / 6.3)


def held(model: BedModel, tuned: Tuned, lag: float) -> Controlled:
    """A bed from cold under these values."""
    return controlled(model, tuned.controller(lag))

"""Air that moves through openings because it is warm."""

from __future__ import annotations

import math

import numpy as np

from zeotherm.core.physics.air import KELVIN, Number, air
from zeotherm.core.physics.convection import GRAVITY

SMOOTH = 0.05  # K, below which the square root is rounded off


def stack_conductance(
    inside: Number, outside: Number, area: Number, rise: Number, discharge: Number, pressure: Number
) -> tuple[Number, Number]:
    """Heat that warm air carries out through openings, per kelvin [W/K], and the slope of the heat [W/K].

    All arguments of one shape. inside, outside [°C]; area: of the low openings, equal to that of the high ones [m²];
    rise: height between them [m]; discharge: coefficient [-]; pressure [Pa]. ASHRAE Handbook, Fundamentals (2009),
    ch. 16, eq. 38: Q = C A sqrt(2 g ΔH (Ti - To)/Ti), the neutral level half-way, ΔH = rise/2; for Ti > To, and taken
    alike for cold air inside. The heat is ρ c Q (Ti - To); its slope by Ti is three halves of the conductance but near
    equality.
    """
    by = inside - outside
    root = np.sqrt(np.hypot(by, SMOOTH))
    state = air(outside, pressure)
    flow = discharge * area * np.sqrt(GRAVITY * rise / (inside + KELVIN)) * root
    conductance = state.density * state.heat_capacity * flow
    return conductance, conductance * (1.0 + 0.5 * by * by / (by * by + SMOOTH * SMOOTH))


def daily_course(clock_h: Number, mean: float, swing: float, warmest_h: float) -> Number:
    """Temperature of a room by the clock [°C]: a cosine about its mean, warmest at one hour of the day.

    clock_h, warmest_h [h]; mean [°C]; swing: above the mean at the warmest hour [K]. A convention, not a law.

    >>> float(daily_course(15.0, 20.0, 2.0, 15.0)), float(daily_course(3.0, 20.0, 2.0, 15.0))
    (22.0, 18.0)
    """
    return mean + swing * np.cos(2.0 * math.pi * (clock_h - warmest_h) / 24.0)

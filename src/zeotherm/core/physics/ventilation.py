"""Air that moves through openings because it is warm."""

from __future__ import annotations

import math

import numpy as np

from zeotherm.core.physics.air import KELVIN, Number, air
from zeotherm.core.physics.convection import GRAVITY

ENTRAINMENT = 0.12  # of a plume of even speed across it
SMOOTH = 0.05  # K, below which the square root is rounded off


def stack_strength(outside: Number, area: Number, rise: Number, discharge: Number, pressure: Number) -> Number:
    """What of `stack_conductance` the openings and the air outside settle: ρ c C A sqrt(g rise) [W/K].

    All arguments of one shape. outside [°C]; area: of the low openings, equal to that of the high ones [m²]; rise:
    height between them [m]; discharge: coefficient [-]; pressure [Pa].

    >>> round(float(stack_strength(20.0, 2e-3, 0.4, 0.6, 101_325.0)), 4)
    2.8735
    """
    state = air(outside, pressure)
    return state.density * state.heat_capacity * discharge * area * np.sqrt(GRAVITY * rise)


def stack_conductance(inside: Number, outside: Number, strength: Number) -> tuple[Number, Number]:
    """Heat that warm air carries out through openings, per kelvin [W/K], and the slope of the heat [W/K].

    All arguments of one shape. inside, outside [°C]; strength: of `stack_strength` [W/K]. ASHRAE Handbook, Fundamentals
    (2009), ch. 16, eq. 38: Q = C A sqrt(2 g ΔH (Ti - To)/Ti), the neutral level half-way, ΔH = rise/2; for Ti > To, and
    taken alike for cold air inside. The heat is ρ c Q (Ti - To); its slope by Ti is three halves of the conductance but
    near equality.

    >>> [round(float(one), 5) for one in stack_conductance(45.0, 20.0, 2.8)]
    [0.7849, 1.17734]
    >>> [round(float(one), 5) for one in stack_conductance(20.03, 20.0, 2.8)]
    [0.03949, 0.04471]
    """
    by = inside - outside
    conductance = strength * np.sqrt(np.hypot(by, SMOOTH) / (inside + KELVIN))
    return conductance, conductance * (1.0 + 0.5 * by * by / (by * by + SMOOTH * SMOOTH))


def superposed(stack: float, exhaust: float, intake: float) -> tuple[float, float]:
    """Air through an enclosure, and what of it goes through its openings [m³/s].

    stack: that its openings would pass on their own; exhaust, intake: of its fans [m³/s]. Sherman, Indoor Air 2 (1992)
    101: what the fans have in common adds, what one of them moves more is pushed through the openings and goes with
    the stack's flow as the root of squares. Within about a tenth for openings spread over the height.

    >>> superposed(3.0, 4.0, 0.0), superposed(3.0, 4.0, 4.0)
    ((5.0, 5.0), (7.0, 3.0))
    """
    leaky = math.hypot(stack, exhaust - intake)
    return min(exhaust, intake) + leaky, leaky


def falling_flow(cooler: float, height: float) -> float:
    """Air that falls along a metre of an upright wall that is cooler, at a depth below its top [m³/s].

    cooler: wall below air [K]; height: depth below the top of the wall [m]. The boundary layer of Eckert's integral
    solution for air, V = 2.87 l/s · ΔT^¼ · z^¾ (Jaluria, Natural Convection Heat and Mass Transfer, 1980, ch. 3);
    laminar, Ra < 1e9, of air that is not layered.

    >>> round(1e3 * falling_flow(10.0, 0.4), 4), falling_flow(-5.0, 0.4)
    (2.567, 0.0)
    """
    return float(2.87e-3 * max(cooler, 0.0) ** 0.25 * height**0.75)


def plume_flow(watts: float, size: float, height: float, air_c: float, pressure: float) -> float:
    """Air that a plume draws in between its source and a height above it [m³/s].

    watts: by convection [W]; size: side of a square source [m]; height [m]; air_c [°C]; pressure [Pa]. Morton, Taylor &
    Turner, Proc. R. Soc. A 234 (1956) 1: V = 6α/5 (9α/10)^⅓ π^⅔ B^⅓ z^5/3 with B = g Q/(ρ c T) and α = 0.12, from a
    virtual origin at which the plume is as wide as its source; less what it would hold there. Fully turbulent; close to
    a wide source within a half.

    >>> round(1e3 * plume_flow(60.0, 0.2, 0.3, 30.0, 101_325.0), 4), plume_flow(0.0, 0.2, 0.3, 30.0, 101_325.0)
    (8.3096, 0.0)
    """
    if watts <= 0.0 or height <= 0.0:
        return 0.0
    state = air(air_c, pressure)
    buoyancy = GRAVITY * watts / (state.density * state.heat_capacity * (air_c + KELVIN))
    factor = 1.2 * ENTRAINMENT * (0.9 * ENTRAINMENT) ** (1 / 3) * math.pi ** (2 / 3) * buoyancy ** (1 / 3)
    origin = size / math.sqrt(math.pi) / (1.2 * ENTRAINMENT)
    return float(factor * ((height + origin) ** (5 / 3) - origin ** (5 / 3)))


def exchange_of_unstable_air(by: float, area: float, air_c: float) -> float:
    """Air that warm air below and cold air above exchange through a level [m³/s]; zero where the upper is warmer.

    by: lower less upper [K]; area of the level [m²]; air_c [°C]. Epstein, J. Heat Transfer 110 (1988) 885, for openings
    as wide as they are short: V = 0.055 √(g D⁵ ΔT/T), D of a circle of that area.

    >>> round(1e3 * exchange_of_unstable_air(5.0, 0.16, 30.0), 4), exchange_of_unstable_air(-1.0, 0.16, 30.0)
    (3.0274, 0.0)
    """
    if by <= 0.0:
        return 0.0
    diameter = math.sqrt(4.0 * area / math.pi)
    return 0.055 * math.sqrt(GRAVITY * diameter**5 * by / (air_c + KELVIN))


def daily_course(clock_h: Number, mean: float, swing: float, warmest_h: float) -> Number:
    """Temperature of a room by the clock [°C]: a cosine about its mean, warmest at one hour of the day.

    clock_h, warmest_h [h]; mean [°C]; swing: above the mean at the warmest hour [K]. A convention, not a law.

    >>> float(daily_course(15.0, 20.0, 2.0, 15.0)), float(daily_course(3.0, 20.0, 2.0, 15.0))
    (22.0, 18.0)
    """
    return mean + swing * np.cos(2.0 * math.pi * (clock_h - warmest_h) / 24.0)

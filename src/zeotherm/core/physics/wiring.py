"""Wires and contacts that carry current: their resistance, what warms them and what cools them."""

from __future__ import annotations

import math

import numpy as np

from zeotherm.core.physics.air import Number
from zeotherm.core.physics.convection import film_state

CONTACT_PER_COPPER = 2.0 / 3.0
GROUPING = 0.65


def gauge_area(gauge: float) -> float:
    """Cross-section of a wire by its gauge number [m²]; gauge: 0 to 40.

    ASTM B258-18: d = 0.127 mm · 92^((36 - n)/39). Raises ValueError off the table.

    >>> round(gauge_area(16) * 1e6, 2), round(gauge_area(22) * 1e6, 3)
    (1.31, 0.326)
    """
    if not 0.0 <= gauge <= 40.0:
        raise ValueError(f"gauge {gauge:g} is off the table, which goes from 0 to 40")
    diameter = 0.127e-3 * 92.0 ** ((36.0 - gauge) / 39.0)
    return float(0.25 * math.pi * diameter**2)


def nearest_gauge(area: float) -> int:
    """The gauge number whose cross-section [m²] comes nearest, from 0 to 40.

    >>> nearest_gauge(1.5e-6), nearest_gauge(gauge_area(22))
    (15, 22)
    """
    diameter = 2.0 * math.sqrt(area / math.pi)
    return min(max(round(36.0 - 39.0 * math.log(diameter / 0.127e-3, 92.0)), 0), 40)


def warm_resistance(ohms_20: Number, temperature: Number, per_kelvin: Number) -> Number:
    """Resistance of a metal at a temperature [Ω]; ohms_20: at 20 °C [Ω]; temperature [°C]; per_kelvin: at 20 °C [1/K].

    Linear, within 1 % for copper and aluminium from -20 to 200 °C.

    >>> warm_resistance(1.0, 120.0, 0.00393)
    1.393
    """
    return ohms_20 * (1.0 + per_kelvin * (temperature - 20.0))


def nusselt_horizontal_cylinder(ra: Number, pr: Number) -> Number:
    """Mean Nusselt number of natural convection about a long horizontal cylinder, length = diameter [-].

    Churchill & Chu, Int. J. Heat Mass Transfer 18 (1975) 1049, eq. 9:
    Nu = (0.60 + 0.387 (Ra / (1 + (0.559/Pr)^(9/16))^(16/9))^(1/6))². Valid for 1e-5 < Ra < 1e12.

    >>> round(nusselt_horizontal_cylinder(100.0, 0.7), 4)
    1.6677
    """
    return (0.60 + 0.387 * (ra / (1.0 + (0.559 / pr) ** (9 / 16)) ** (16 / 9)) ** (1 / 6)) ** 2


def wire_film(surface: Number, ambient: float, diameter: float, pressure: float) -> Number:
    """Natural-convection coefficient about a wire [W/m²K], of the shape of surface.

    surface, ambient [°C]; diameter over its insulation [m]; pressure [Pa]. From `nusselt_horizontal_cylinder`; wires of
    1 to 6 mm a few kelvin above their air have Ra of 0.1 to 1000. In still air it gives 10 to 30 W/m²K.

    >>> round(float(wire_film(60.0, 25.0, 3e-3, 101_325.0)), 3)
    14.335
    """
    ra, pr, conductivity = film_state(surface, ambient, diameter, pressure)
    return nusselt_horizontal_cylinder(np.maximum(ra, 1e-5), pr) * conductivity / diameter


def grouped_share(wires: float) -> float:
    """Heat that a wire gives off in a bundle, of what a pair on its own does [-]; wires: that carry current in it.

    (n/2)^-0.65 of n wires: a fit to the square of the current factors for circuits bunched in air, IEC 60364-5-52:2009,
    table B.52.17, item 1 (1, 0.80, 0.70, 0.65, 0.57, 0.50, 0.45, 0.38 of 1, 2, 3, 4, 6, 9, 12, 20 circuits), within
    4 % of the square. All wires loaded alike; fewer are cooler.

    >>> round(grouped_share(2.0), 2), round(grouped_share(8.0) ** 0.5, 2)
    (1.0, 0.64)
    """
    return float(max(0.5 * wires, 1.0) ** -GROUPING)


def fin_conductance(metal_k: float, area: float, per_metre: float) -> float:
    """Heat that a long wire takes from a warm end for a kelvin [W/K].

    metal_k [W/mK]; area [m²]; per_metre: what it gives to the air [W/mK]. The infinitely long fin, √(k A G'):
    Incropera & DeWitt, 6th ed., table 3.4, case D. Of a wire that carries current G' is less by I² r α.

    >>> round(fin_conductance(390.0, 1.5e-6, 0.12), 4)
    0.0084
    """
    return math.sqrt(metal_k * area * per_metre)


def carried_current(per_metre: float, ohms_metre: float, rise: float, per_kelvin: float, ambient: float) -> float:
    """Current that warms a long wire by so much [A]: I = √(G' ΔT / r(T)), Neher & McGrath, AIEE Trans. 76 (1957) 752,
    eq. 8, without dielectric loss.

    per_metre: to the air [W/mK]; ohms_metre: at 20 °C [Ω/m]; rise [K]; per_kelvin [1/K]; ambient [°C].

    >>> round(carried_current(0.2, 0.0121, 40.0, 0.00393, 30.0), 1)
    23.5
    """
    return math.sqrt(per_metre * rise / float(warm_resistance(ohms_metre, ambient + rise, per_kelvin)))


def runaway_current(per_metre: float, ohms_metre: float, per_kelvin: float) -> float:
    """Current above which a long wire finds no rest [A], at a constant film: I² r α = G'.

    Arguments as for `carried_current`. The wire's heat then grows with its temperature faster than what it gives off.

    >>> round(runaway_current(0.2, 0.0121, 0.00393), 2)
    64.85
    """
    return math.sqrt(per_metre / (ohms_metre * per_kelvin))


def runaway_contact(current: float, metal_k: float, area: float, per_metre: float, ohms_metre: float,
                    per_kelvin: float, contact_per_kelvin: float) -> float:  # fmt: skip
    """Resistance at 20 °C above which a contact between two long wires finds no rest [Ω], at a constant film.

    current [A]; metal_k [W/mK], area [m²], per_metre [W/mK], ohms_metre [Ω/m] and per_kelvin [1/K] of the wires;
    contact_per_kelvin: of the contact [1/K]. I² R β = 2 √(k A (G' - I² r α)); zero where the wire itself runs away.

    >>> round(1e3 * runaway_contact(12.0, 390.0, 1.5e-6, 0.12, 0.0121, 0.00393, 0.0026), 3)
    43.461
    >>> runaway_contact(90.0, 390.0, 1.5e-6, 0.12, 0.0121, 0.00393, 0.0026)
    0.0
    """
    left = per_metre - current**2 * ohms_metre * per_kelvin
    if left <= 0.0:
        return 0.0
    return 2.0 * fin_conductance(metal_k, area, left) / (current**2 * contact_per_kelvin)


def contact_per_kelvin(metal_per_kelvin: float) -> float:
    """How the resistance of a sound metal contact grows [1/K]: two thirds of its metal's coefficient.

    Holm, Electric Contacts, 4th ed. (1967), §13: the constriction's own warmth spreads over it.

    >>> round(contact_per_kelvin(0.00393), 5)
    0.00262
    """
    return CONTACT_PER_COPPER * metal_per_kelvin

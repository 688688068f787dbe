"""Conduction through rings, films and fins."""

from __future__ import annotations

import math

import numpy as np

from zeotherm.core.physics.air import Number


def ring_resistance(inner: Number, outer: Number, conductivity: Number, height: Number) -> Number:
    """Radial resistance of a cylindrical shell [K/W].

    inner, outer radius and height [m]; conductivity [W/mK]. Exact, Incropera & DeWitt, 6th ed., eq. 3.28.

    >>> round(float(ring_resistance(0.01, 0.02, 16.0, 0.05)), 5)
    0.1379
    """
    return np.log(outer / inner) / (2.0 * math.pi * conductivity * height)


def annular_fin_efficiency(inner: float, outer: float, thickness: float, film: Number, conductivity: float) -> Number:
    """Efficiency of a flat annular fin [-], of the shape of film.

    inner, outer radius and thickness [m]; film: heat-transfer coefficient [W/m²K]; conductivity [W/mK].
    Schmidt, Refrig. Eng. 57 (1949) 351: η = tanh(mΦ)/(mΦ), Φ = (R - r)(1 + 0.35 ln(R/r)), with the outer radius
    lengthened by half the thickness for the tip. Within 1 % of the exact Bessel solution (Gardner, Trans. ASME 67
    (1945) 621) for η > 0.5 and R/r < 3.

    >>> round(float(annular_fin_efficiency(4e-3, 11e-3, 1e-3, 30.0, 160.0)), 4)
    0.987
    """
    reach = outer + thickness / 2.0
    m = np.sqrt(2.0 * film / (conductivity * thickness))
    argument = np.maximum(m * (reach - inner) * (1.0 + 0.35 * math.log(reach / inner)), 1e-9)
    return np.tanh(argument) / argument


def annular_fin_area(inner: float, outer: float, thickness: float) -> float:
    """Surface that one annular fin shows to the air, both faces and the tip [m²]; radii and thickness [m].

    >>> round(1e6 * annular_fin_area(4e-3, 11e-3, 1e-3), 1)
    728.8
    """
    return math.pi * (2.0 * (outer**2 - inner**2) + 2.0 * outer * thickness)

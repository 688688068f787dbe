"""Radiation between grey surfaces. Only here do temperatures become kelvin."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

from zeotherm.core.physics.air import KELVIN, Number

Array = npt.NDArray[np.float64]

STEFAN_BOLTZMANN = 5.670374419e-8


def flux_to_surroundings(surface: Number, surroundings: float, emissivity: float) -> Number:
    """Net radiated flux of a small grey body in large surroundings [W/m²], of the shape of surface.

    surface, surroundings [°C]; emissivity [-]. Incropera & DeWitt, 6th ed., eq. 13.27: q = εσ(T⁴ - Ts⁴).

    >>> round(flux_to_surroundings(200.0, 25.0, 0.9), 2)
    2154.43
    """
    return emissivity * STEFAN_BOLTZMANN * ((surface + KELVIN) ** 4 - (surroundings + KELVIN) ** 4)


def slope_to_surroundings(surface: Number, emissivity: float) -> Number:
    """Derivative of `flux_to_surroundings` by the surface temperature [W/m²K].

    >>> round(slope_to_surroundings(200.0, 0.9), 4)
    21.6227
    """
    return 4.0 * emissivity * STEFAN_BOLTZMANN * (surface + KELVIN) ** 3


def flux_and_slope(surface: Number, surroundings: float, emissivity: Number) -> tuple[Number, Number]:
    """`flux_to_surroundings` and `slope_to_surroundings` at once [W/m², W/m²K], of the shape of surface.

    >>> tuple(round(one, 4) for one in flux_and_slope(200.0, 25.0, 0.9))
    (2154.4324, 21.6227)
    """
    kelvin = surface + KELVIN
    cubed = (emissivity * STEFAN_BOLTZMANN) * (kelvin * kelvin * kelvin)
    return cubed * kelvin - emissivity * STEFAN_BOLTZMANN * (surroundings + KELVIN) ** 4, 4.0 * cubed


def flux_between_plates(hot: float, cold: float, emissivity_hot: float, emissivity_cold: float) -> float:
    """Net flux between two large parallel grey plates [W/m²].

    hot, cold [°C]; emissivities [-]. Incropera & DeWitt, 6th ed., eq. 13.24.

    >>> round(flux_between_plates(110.0, 30.0, 0.9, 0.05), 3)
    36.952
    """
    exchange = 1.0 / (1.0 / emissivity_hot + 1.0 / emissivity_cold - 1.0)
    return float(flux_to_surroundings(hot, cold, exchange))


def film_between(one: Number, other: float) -> Number:
    """Conductance of black radiation between two temperatures [W/m²K]: σ (T₁² + T₂²)(T₁ + T₂), exactly.

    one, of any shape, and other [°C].

    >>> round(film_between(60.0, 20.0), 4)
    6.9935
    """
    a, b = one + KELVIN, other + KELVIN
    return STEFAN_BOLTZMANN * (a * a + b * b) * (a + b)


def to_mean(areas: Array, emissivities: Array) -> Array:
    """Black area by which each surface of an enclosure exchanges with one radiant mean [m²], shape (n,).

    areas (n,) [m²], zero for what is not there; emissivities (n,) [-]. Carroll's mean-radiant-temperature network
    (ASHRAE Trans. 86 (1980)): 1/((1 - ε)/(ε A) + 1/(A F)), with F = 1/(1 - A F/Σ A F) so that a surface does not see
    itself. Convex enclosures; against exact exchange in a box within a few per cent, see the verification record. A
    surface that takes half of the whole or more is taken as seeing all the others.

    >>> to_mean(np.array([0.16, 0.16, 0.2]), np.array([0.9, 0.9, 0.5])).round(4).tolist()
    [0.1908, 0.1908, 0.1294]
    >>> to_mean(np.array([1.0, 0.2]), np.array([1.0, 1.0])).round(4).tolist()
    [4.0, 0.2105]
    """
    factors = np.ones_like(areas)
    for _turn in range(60):
        seen = areas * factors
        factors = 1.0 / np.maximum(1.0 - seen / max(float(seen.sum()), 1e-12), 0.25)
    resistance = (1.0 - emissivities) / emissivities + 1.0 / factors
    return np.asarray(areas / resistance)

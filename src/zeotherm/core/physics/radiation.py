"""Radiation between grey surfaces. Only here do temperatures become kelvin."""

from __future__ import annotations

from zeotherm.core.physics.air import KELVIN, Number

STEFAN_BOLTZMANN = 5.670374419e-8


def flux_to_surroundings(surface: Number, surroundings: float, emissivity: float) -> Number:
    """Net radiated flux of a small grey body in large surroundings [W/m²], of the shape of surface.

    surface, surroundings [°C]; emissivity [-]. Incropera & DeWitt, 6th ed., eq. 13.27: q = εσ(T⁴ - Ts⁴).
    """
    return emissivity * STEFAN_BOLTZMANN * ((surface + KELVIN) ** 4 - (surroundings + KELVIN) ** 4)


def slope_to_surroundings(surface: Number, emissivity: float) -> Number:
    """Derivative of `flux_to_surroundings` by the surface temperature [W/m²K]."""
    return 4.0 * emissivity * STEFAN_BOLTZMANN * (surface + KELVIN) ** 3


def flux_and_slope(surface: Number, surroundings: float, emissivity: Number) -> tuple[Number, Number]:
    """`flux_to_surroundings` and `slope_to_surroundings` at once [W/m², W/m²K], of the shape of surface."""
    kelvin = surface + KELVIN
    cubed = (emissivity * STEFAN_BOLTZMANN) * (kelvin * kelvin * kelvin)
    return cubed * kelvin - emissivity * STEFAN_BOLTZMANN * (surroundings + KELVIN) ** 4, 4.0 * cubed


def flux_between_plates(hot: float, cold: float, emissivity_hot: float, emissivity_cold: float) -> float:
    """Net flux between two large parallel grey plates [W/m²].

    hot, cold [°C]; emissivities [-]. Incropera & DeWitt, 6th ed., eq. 13.24.
    """
    exchange = 1.0 / (1.0 / emissivity_hot + 1.0 / emissivity_cold - 1.0)
    return float(flux_to_surroundings(hot, cold, exchange))

"""Dry air as an ideal gas."""

from __future__ import annotations

from typing import Any, NamedTuple

KELVIN = 273.15
STANDARD_PRESSURE = 101_325.0
GAS_CONSTANT = 287.05
VALID_C = (-40.0, 500.0)

Number = Any  # float or array of floats: the laws hold element by element


class Air(NamedTuple):
    """Properties of dry air, each of the shape of the temperature asked for."""

    density: Number  # kg/m³
    conductivity: Number  # W/mK
    viscosity: Number  # Pa s
    heat_capacity: Number  # J/kgK
    expansion: Number  # 1/K

    @property
    def prandtl(self) -> Number:
        """Prandtl number [-]."""
        return self.viscosity * self.heat_capacity / self.conductivity


def air(temperature: Number, pressure: Number = STANDARD_PRESSURE) -> Air:
    """Properties of dry air.

    temperature: film temperature, any shape [°C]; pressure: absolute [Pa]. Returns `Air` of the same shape.
    Sources: density and expansion, ideal gas; viscosity and conductivity, Sutherland's law with the constants of
    White, Viscous Fluid Flow, 3rd ed., eqs. 1-36 and 1-44b; heat capacity, Moran & Shapiro, Fundamentals of
    Engineering Thermodynamics, 6th ed., table A-21. Valid from -40 to 500 °C within 2 %.

    >>> round(air(26.85).density, 3), round(air(26.85).conductivity, 4)
    (1.177, 0.0262)
    """
    kelvin = temperature + KELVIN
    ratio = kelvin / 273.15
    warmer = ratio * ratio**0.5
    return Air(
        density=pressure / (GAS_CONSTANT * kelvin),
        conductivity=0.0241 * warmer * (273.15 + 194.0) / (kelvin + 194.0),
        viscosity=1.716e-5 * warmer * (273.15 + 110.6) / (kelvin + 110.6),
        heat_capacity=GAS_CONSTANT
        * (3.653 + kelvin * (-1.337e-3 + kelvin * (3.294e-6 + kelvin * (-1.913e-9 + kelvin * 0.2763e-12)))),
        expansion=1.0 / kelvin,
    )

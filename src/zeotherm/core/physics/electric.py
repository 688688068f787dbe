"""Resistive heaters."""

from __future__ import annotations

import math


def heater_power(rated_power: float, rated_voltage: float, supply_voltage: float) -> float:
    """Power of a resistive heater at another voltage [W]; rated power [W], voltages [V].

    Joule's law at constant resistance, P = P_r (V/V_r)². A 12 V cartridge on 24 V gives four times its power.

    >>> heater_power(40, 12, 24)
    160.0
    """
    return rated_power * (supply_voltage / rated_voltage) ** 2


def heater_resistance(rated_power: float, rated_voltage: float) -> float:
    """Resistance of a heater [Ω]; rated power [W], rated voltage [V].

    Joule's law, R = V²/P. Heater wire changes by a few per cent up to its working heat, which is left out.

    >>> heater_resistance(40, 24)
    14.4
    """
    return rated_voltage**2 / rated_power


def thermistor_resistance(temperature: float, ohms_25: float, beta: float) -> float:
    """Resistance of a thermistor [Ω]; temperature [°C], resistance at 25 °C [Ω], beta constant [K].

    R = R₂₅ exp(β (1/T - 1/298.15 K)), the beta form of the Steinhart-Hart equation (Steinhart & Hart, Deep-Sea Res. 15
    (1968) 497, with the cubic term left out); within 1 K between 0 and 50 °C.

    >>> round(thermistor_resistance(22.0, 100e3, 3950.0) / 1e3)
    114
    """
    return ohms_25 * math.exp(beta * (1.0 / (temperature + 273.15) - 1.0 / 298.15))


def metal_resistance(temperature: float, ohms_25: float, slope: float) -> float:
    """Resistance of a metal element [Ω]; temperature [°C], resistance at 25 °C [Ω], slope there [1/K].

    Linear, after IEC 60751 between 0 and 60 °C within 0.1 %.

    >>> round(metal_resistance(0.0, 1097.3, 0.00351))
    1001
    """
    return ohms_25 * (1.0 + slope * (temperature - 25.0))

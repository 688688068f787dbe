"""Resistive heaters."""

from __future__ import annotations


def heater_power(rated_power: float, rated_voltage: float, supply_voltage: float) -> float:
    """Power of a resistive heater at another voltage [W]; rated power [W], voltages [V].

    Joule's law at constant resistance, P = P_r (V/V_r)². A 12 V cartridge on 24 V gives four times its power.

    >>> heater_power(40, 12, 24)
    160.0
    """
    return rated_power * (supply_voltage / rated_voltage) ** 2

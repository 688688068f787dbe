"""A small axial fan against the flow resistance it meets."""

from __future__ import annotations

from collections.abc import Callable, Sequence

import numpy as np

from zeotherm.core.physics.air import Air

OVERSPEED = 1.15  # of its rated speed that a fan is counted with at most
DRAG_SHARE = 0.15  # of its rated volts that turn nothing: bearing and commutation
CURVE_DENSITY = 1.20  # kg/m³ of the air in which a data sheet's curve is measured
LAMINAR_PLATES = 96.0  # Darcy friction factor times Reynolds number, fully developed, parallel plates


def speed_ratio(voltage: float, rated: float, start: float) -> float:
    """Speed as a share of the rated speed [-]; voltage, rated and start voltage [V].

    A direct-current fan turns by what its volts leave over what turns nothing, n = (V/V_r - 0.15)/0.85, and stands
    still below its start voltage (typical of small fans; engineering estimate, ±8 % of speed). Above 1.15 of its rated
    speed it gains no more that could be counted on: it burns out, which is told wherever volts are judged.

    >>> round(speed_ratio(12.0, 24.0, 9.0), 2)
    0.41
    """
    return 0.0 if voltage < start else min((voltage / rated - DRAG_SHARE) / (1.0 - DRAG_SHARE), OVERSPEED)


def screen_loss(open_share: float) -> float:
    """Pressure-loss coefficient of a guard or screen, referred to the duct velocity [-].

    open_share: free area / duct area, 0 < open_share <= 1 [-]. Idelchik, Handbook of Hydraulic Resistance, 3rd ed.,
    diagram 8-6: K = 1.3 (1 - φ) + (1/φ - 1)². Wire screens at Re > 1000; below that it is a lower bound.

    >>> round(screen_loss(0.6), 4), screen_loss(1.0)
    (0.9644, 0.0)
    """
    return 1.3 * (1.0 - open_share) + (1.0 / open_share - 1.0) ** 2


def channel_pressure_drop(velocity: float, spacing: float, length: float, entry_loss: float, state: Air) -> float:
    """Pressure drop of air between parallel plates [Pa].

    velocity: mean, between the plates [m/s]; spacing and length [m]; entry_loss: coefficient of entry and exit [-].
    Laminar, White, Viscous Fluid Flow, 3rd ed., sect. 3-3: Δp = (K + 96/Re · L/D_h) ρV²/2, D_h = 2 x spacing.
    Valid for Re_Dh < 2300.

    >>> from zeotherm.core.physics.air import air
    >>> round(channel_pressure_drop(3.0, 2e-3, 0.025, 1.5, air(30.0)), 3)
    12.047
    >>> channel_pressure_drop(0.0, 2e-3, 0.025, 1.5, air(30.0))
    0.0
    """
    if velocity <= 0.0:
        return 0.0
    diameter = 2.0 * spacing
    reynolds = float(state.density) * velocity * diameter / float(state.viscosity)
    return 0.5 * float(state.density) * velocity**2 * (entry_loss + LAMINAR_PLATES / reynolds * length / diameter)


def operating_flow(
    curve_flow: Sequence[float],
    curve_pressure: Sequence[float],
    speed: float,
    density: float,
    resistance: Callable[[float], float],
) -> float:
    """Flow at which the fan's pressure equals the resistance [m³/s].

    curve_flow [m³/s], rising from zero, and curve_pressure [Pa], falling to zero: the fan at rated speed;
    speed: share of the rated speed [-]; density of the air [kg/m³]; resistance: pressure drop [Pa] of a flow [m³/s],
    rising. Affinity laws: flow ~ speed, pressure ~ speed² and density (Bleier, Fan Handbook, ch. 5). Found by bisection
    to 1e-12 of the free flow.

    >>> round(1e3 * operating_flow([0.0, 4e-3], [40.0, 0.0], 1.0, 1.2, lambda flow: 1e4 * flow), 4)
    2.0
    >>> round(1e3 * operating_flow([0.0, 4e-3], [40.0, 0.0], 0.5, 1.0, lambda flow: 1e4 * flow), 4)
    0.5882
    >>> operating_flow([0.0, 4e-3], [40.0, 0.0], 0.0, 1.2, lambda flow: 1e4 * flow)
    0.0
    """
    if speed <= 0.0:
        return 0.0
    low, high = 0.0, curve_flow[-1] * speed
    for _ in range(40):
        flow = 0.5 * (low + high)
        pressure = speed**2 * density / CURVE_DENSITY * float(np.interp(flow / speed, curve_flow, curve_pressure))
        low, high = (flow, high) if pressure > resistance(flow) else (low, flow)
    return 0.5 * (low + high)

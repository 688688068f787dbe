"""Bodies small enough to have one temperature."""

from __future__ import annotations

import math

import numpy as np
import numpy.typing as npt

Array = npt.NDArray[np.float64]


def warming_time(start: float, goal: float, around: float, capacity: float, conductance: float) -> float | None:
    """Time for a lumped body to reach a temperature [s]; None where what is around does not take it there.

    start, goal, around: temperatures [°C]; capacity [J/K]; conductance to what is around [W/K].
    t = C/G ln((around - start)/(around - goal)); Incropera & DeWitt, 6th ed., eq. 5.5. Valid for Bi < 0.1.

    >>> round(warming_time(20.0, 170.0, 480.0, 12.0, 0.2), 1)
    23.7
    >>> warming_time(20.0, 500.0, 480.0, 12.0, 0.2) is None
    True
    """
    share = (around - goal) / (around - start) if around != start else 0.0
    if not share > 0.0:
        return None
    return max(-capacity / conductance * math.log(share), 0.0)


def time_along(temperatures: Array, watts: Array, capacity: float) -> Array:
    """Time at which a lumped body passes each of a row of temperatures [s], zero at the first; shape of the row.

    temperatures (n,) [°C], rising or falling; watts (n - 1,) [W]: what it takes up in the middle between two of them,
    of the same sign as their difference; capacity [J/K]. C dT/dt = P(T) by the midpoint rule, of second order in the
    spacing. Valid for Bi < 0.1. Raises ValueError where the watts do not lead from one to the next.

    >>> time_along(np.array([20.0, 30.0, 50.0]), np.array([40.0, 20.0]), 12.0).tolist()
    [0.0, 3.0, 15.0]
    """
    steps = np.diff(temperatures)
    if np.any(watts * steps <= 0.0):
        raise ValueError("the body does not get there: its balance turns round on the way")
    return np.asarray(np.concatenate([[0.0], np.cumsum(capacity * steps / watts)]))


def biot(film: float, volume: float, area: float, conductivity: float) -> float:
    """Biot number of a body [-]: h V / (A k); below 0.1 it has one temperature.

    film [W/m²K]; volume [m³]; area [m²]; conductivity [W/mK]. Incropera & DeWitt, 6th ed., eq. 5.9.

    >>> round(biot(20.0, 4.5e-6, 1.6e-3, 150.0), 6)
    0.000375
    """
    return film * volume / (area * conductivity)

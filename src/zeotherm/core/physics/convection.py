"""Heat-transfer coefficients of air: natural around bodies and plates, forced between plates."""

from __future__ import annotations

import numpy as np

from zeotherm.core.physics.air import Number, air

GRAVITY = 9.80665
TURBULENT = 1e7  # Ra above a warm plate


def rayleigh(surface: Number, ambient: float, length: float, pressure: float) -> tuple[Number, Number]:
    """Rayleigh and Prandtl numbers at the film temperature.

    surface: wall temperature, any shape [°C]; ambient: air [°C]; length: characteristic length [m]; pressure [Pa].
    Returns (Ra, Pr) of the shape of surface [-]. The sign of the difference is dropped.

    >>> [round(float(one), 3) for one in rayleigh(60.0, 20.0, 0.02, 101_325.0)]
    [24618.726, 0.704]
    >>> [round(float(one), 3) for one in rayleigh(-20.0, 20.0, 0.02, 101_325.0)]
    [46558.017, 0.715]
    """
    ra, pr, _conductivity = film_state(surface, ambient, length, pressure)
    return ra, pr


def film_state(surface: Number, ambient: Number, length: Number, pressure: float) -> tuple[Number, Number, Number]:
    """`rayleigh` and the conductivity of the air at the film temperature besides [W/mK], each of the shape of
    surface, to which ambient and length are broadcast.

    >>> [round(float(one), 4) for one in film_state(60.0, 20.0, 0.02, 101_325.0)]
    [24618.7265, 0.7036, 0.0272]
    """
    state = air(0.5 * (surface + ambient), pressure)
    by_volume = state.density * state.heat_capacity
    ra = (GRAVITY * length**3) * state.expansion * abs(surface - ambient) * (state.density * by_volume)
    return ra / (state.viscosity * state.conductivity), state.prandtl, state.conductivity


def nusselt_sphere(ra: Number, pr: Number) -> Number:
    """Mean Nusselt number of natural convection about a compact body, length = diameter [-].

    Churchill (1983), Heat Exchanger Design Handbook, sect. 2.5.7:
    Nu = 2 + 0.589 Ra^¼ / f^(4/9) · (1 + 7.44e-8 Ra / f^(16/9))^(1/12), f = 1 + (0.469/Pr)^(9/16).
    Valid for Ra < 1e13 and Pr > 0.5; used for blocks through the sphere of the same surface, within about 20 %.

    >>> round(nusselt_sphere(1e6, 0.7), 3)
    16.381
    """
    f = 1.0 + (0.469 / pr) ** (9 / 16)
    return 2.0 + 0.589 * ra**0.25 / f ** (4 / 9) * (1.0 + 7.44e-8 * ra / f ** (16 / 9)) ** (1 / 12)


def nusselt_vertical_plate(ra: Number, pr: Number) -> Number:
    """Mean Nusselt number of natural convection on a vertical plate, length = height [-].

    Churchill & Chu, Int. J. Heat Mass Transfer 18 (1975) 1323, eq. 9, laminar: Ra < 1e9.

    >>> round(nusselt_vertical_plate(1e6, 0.7), 3)
    16.916
    """
    return 0.68 + 0.670 * ra**0.25 / (1.0 + (0.492 / pr) ** (9 / 16)) ** (4 / 9)


def nusselt_plate_up(ra: Number, pr: Number) -> Number:
    """Mean Nusselt number above a warm horizontal plate [-], length = area over perimeter.

    Lloyd & Moran, J. Heat Transfer 96 (1974) 443, as in Incropera & DeWitt, 6th ed., eqs. 9.30 and 9.31:
    0.54 Ra^¼ for 1e4 < Ra < 1e7, 0.15 Ra^⅓ for 1e7 < Ra < 1e11. Below 1e4 the first is kept, which then gives less than
    conduction in still air would; the Prandtl number plays no part.

    >>> [round(float(nusselt_plate_up(ra, 0.7)), 3) for ra in (1e6, 1e8)]
    [17.076, 69.624]
    """
    return np.where(ra < TURBULENT, 0.54 * ra**0.25, 0.15 * np.cbrt(ra)) + 0.0 * pr


def nusselt_plate_down(ra: Number, pr: Number) -> Number:
    """Mean Nusselt number below a warm horizontal plate [-], length = area over perimeter.

    Incropera & DeWitt, 6th ed., eq. 9.32: 0.27 Ra^¼ for 1e5 < Ra < 1e10.

    >>> round(nusselt_plate_down(1e6, 0.7), 3)
    8.538
    """
    return 0.27 * ra**0.25 + 0.0 * pr


def forced_film_plate(speed: float, length: float, film: float, pressure: float) -> float:
    """Mean coefficient of air that blows along a plate [W/m²K].

    speed [m/s]; length along the stream [m]; film temperature [°C]; pressure [Pa].
    Nu = 0.664 Re^½ Pr^⅓, Incropera & DeWitt, 6th ed., eq. 7.30; laminar, Re < 5e5, Pr > 0.6.

    >>> round(forced_film_plate(2.0, 0.1, 40.0, 101_325.0), 3)
    17.495
    """
    state = air(film, pressure)
    reynolds = state.density * speed * length / state.viscosity
    return float(0.664 * np.sqrt(reynolds) * np.cbrt(state.prandtl) * state.conductivity / length)


def mixed_film(natural: float, forced: float) -> float:
    """Natural and forced convection across each other [W/m²K]: (n³ + f³)^⅓, Incropera & DeWitt, 6th ed., eq. 9.64.

    >>> round(mixed_film(5.0, 8.0), 3)
    8.604
    """
    return float(np.cbrt(natural**3 + forced**3))


def natural_film_methods(surface: float, ambient: float, length: float, pressure: float) -> dict[str, float]:
    """Coefficients that the published correlations give for one compact body [W/m²K], by name of the correlation.

    Arguments as for `rayleigh`, scalars. Their spread is the model uncertainty that `block_film_factor` carries.

    >>> {name: round(film, 3) for name, film in natural_film_methods(210.0, 25.0, 0.02, 101_325.0).items()}
    {'sphere of equal surface': 13.943, 'vertical plate': 13.168}
    """
    ra, pr, conductivity = film_state(surface, ambient, length, pressure)
    return {
        "sphere of equal surface": float(nusselt_sphere(ra, pr) * conductivity / length),
        "vertical plate": float(nusselt_vertical_plate(ra, pr) * conductivity / length),
    }


def natural_film_body(surface: Number, ambient: float, diameter: float, pressure: float) -> Number:
    """Natural-convection coefficient about a compact body [W/m²K], of the shape of surface.

    surface, ambient [°C]; diameter of the sphere of equal surface [m]; pressure [Pa]. From `nusselt_sphere`.

    >>> round(natural_film_body(210.0, 25.0, 0.02, 101_325.0), 3)
    13.943
    """
    ra, pr, conductivity = film_state(surface, ambient, diameter, pressure)
    return nusselt_sphere(ra, pr) * conductivity / diameter


def natural_film_wall(surface: Number, ambient: float, height: float, pressure: float) -> Number:
    """Natural-convection coefficient on a vertical wall [W/m²K], of the shape of surface.

    surface, ambient [°C]; height [m]; pressure [Pa]. From `nusselt_vertical_plate`.

    >>> round(natural_film_wall(60.0, 25.0, 0.4, 101_325.0), 3)
    4.047
    """
    ra, pr, conductivity = film_state(surface, ambient, height, pressure)
    return nusselt_vertical_plate(ra, pr) * conductivity / height


def nusselt_parallel_plates(graetz_length: float, pr: float) -> float:
    """Mean Nusselt number of laminar flow developing between isothermal parallel plates [-], length = 2 x spacing.

    graetz_length: x / (D_h Re Pr) [-]; pr: Prandtl number [-].
    Stephan (1959), in Shah & London, Laminar Flow Forced Convection in Ducts (1978), eq. 346:
    Nu = 7.55 + 0.024 x*^-1.14 / (1 + 0.0358 Pr^0.17 x*^-0.64). Valid for 0.1 < Pr < 1000, Re_Dh < 2300.

    >>> round(nusselt_parallel_plates(0.01, 0.7), 3), round(nusselt_parallel_plates(10.0, 0.7), 2)
    (10.335, 7.55)
    """
    return float(7.55 + 0.024 * graetz_length**-1.14 / (1.0 + 0.0358 * pr**0.17 * graetz_length**-0.64))


def channel_effectiveness(transfer: float, capacity: float) -> float:
    """Share of the greatest possible heat that air takes up while it passes a wall of one temperature [-].

    transfer: h·A·η [W/K]; capacity: mass flow times heat capacity [W/K]. Incropera & DeWitt, 6th ed., eq. 11.35a:
    ε = 1 - exp(-NTU). Without flow the effectiveness is 1 and the capacity zero.

    >>> round(channel_effectiveness(0.3, 0.2), 4), channel_effectiveness(0.3, 0.0)
    (0.7769, 1.0)
    """
    return 1.0 if capacity <= 0.0 else float(-np.expm1(-transfer / capacity))

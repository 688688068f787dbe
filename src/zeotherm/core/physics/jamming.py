"""Why a hot end stops feeding: softened filament in the cold end, what the drive must push, what stays behind.

Engineering estimates throughout, chosen so that machines do what they are known to do (`tests/bench_facts`); newtons
are ordinal until somebody measures them. Temperatures in °C, lengths in m, forces in N.
"""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

import numpy as np
import numpy.typing as npt

from zeotherm.core.physics.filament import cubic_step

Array = npt.NDArray[np.float64]
Number = Array | float
BEGINS, FULL = -4.0, 8.0  # K about softening between which a strand comes to swell and hold to its wall
STIFF_PA, STIFF_K = 3e6, 4.0  # shear of a strand that just gives way, and its fall
RUBBER_PA, RUBBER_K = 0.4e6, 22.0  # of a rubbery one, and over how many kelvin it halves
COLDEST_K = -5.0  # below softening, from where the shear is not extrapolated
LEAST_N, USUAL_N = 1.5, 5.0  # push into a melt zone: at least, and at the usual flow
USUAL_FLOW, USUAL_ORIFICE, USUAL_STRAND = 4e-9, 0.4e-3, 1.75e-3  # m³/s, m, m
FLOW_POWER, ORIFICE_POWER, COOLER_K = 0.4, 3.2, 45.0
BOW = np.pi**2 * np.pi / 64.0  # of a round strand's buckling load, by E d⁴/L²
STANDING = 0.5  # retractions a minute whose residue filament leaves that only stands there


def soft_share(over: Array) -> Array:
    """How far a strand swells and holds to its wall [-]; over: its contact temperature less softening [K].

    A cubic step from 4 K below to 8 K above. Estimate, ±3 K.

    >>> soft_share(np.array([-4.0, 2.0, 8.0])).tolist()
    [0.0, 0.5, 1.0]
    """
    return cubic_step((over - BEGINS) / (FULL - BEGINS))


def shear(over: Array) -> Array:
    """Shear at which softened filament slides along its wall [Pa]; over: its temperature less softening [K].

    0.40 MPa · 2^(-x/22 K) + 3 MPa · e^(-x/4 K): a glass that gives way, then a rubber. Estimate, ×/÷ 2; below 5 K under
    softening nothing slides.

    >>> (1e-6 * shear(np.array([-10.0, 0.0, 22.0]))).round(4).tolist()
    [10.871, 3.4, 0.2123]
    """
    glassy = STIFF_PA * np.exp(-np.maximum(over, COLDEST_K) / STIFF_K)
    return np.asarray(RUBBER_PA * np.exp2(-np.maximum(over, 0.0) / RUBBER_K) + glassy)


def melt_push(flow: Number, orifice: Number, strand: Number, cooler: Number) -> Array:
    """Push that the melt zone itself takes [N].

    flow [m³/s]; orifice, strand: diameters [m]; cooler: what the core leaves below the usual [K]. Power law of a
    shear-thinning melt: 5 N (Q/4 mm³/s)^0.4 (0.4 mm/d)^3.2 (strand/1.75 mm)² e^(ΔT/45 K), at least 1.5 N by the
    strand's area. An orifice of one length asks for a power of 2.2; small ones are longer by their width, and a drive
    clicks at 0.2 mm where it asks for 3.2. Estimate, ×/÷ 2.

    >>> round(float(melt_push(4e-9, 0.4e-3, 1.75e-3, 0.0)), 3)
    5.0
    >>> round(float(melt_push(12e-9, 0.3e-3, 2.85e-3, 10.0)), 3), float(melt_push(0.0, 0.4e-3, 1.75e-3, 0.0))
    (64.528, 1.5)
    """
    area = (strand / USUAL_STRAND) ** 2
    by_flow = (np.maximum(flow, 0.0) / USUAL_FLOW) ** FLOW_POWER * (USUAL_ORIFICE / orifice) ** ORIFICE_POWER
    return np.asarray(np.maximum(USUAL_N * by_flow * np.exp(np.minimum(cooler, 400.0) / COOLER_K), LEAST_N) * area)


def buckling_load(stiffness: Number, strand: Number, open_path: Number) -> Array:
    """Push under which a straight strand gives way sideways [N].

    stiffness: modulus of the plastic [Pa]; strand: diameter [m]; open_path: length that nothing guides [m]. Euler's
    load of a bar whose ends may turn: π² E I / L² with I = π d⁴/64 (Timoshenko and Gere, Theory of Elastic Stability,
    2nd ed., ch. 2); for lengths of some diameters and more. A strand off the spool is bowed and bears less.

    >>> round(float(buckling_load(60e6, 1.75e-3, 5e-3)), 1)
    10.9
    """
    return np.asarray(BOW * stiffness * strand**4 / open_path**2)


def pushes(
    push: Array,
    wall: Array,
    touched: Array,
    friction: Array,
    lengths: Array,
    softening: Number,
    bore: Number,
    scale: Number,
) -> Iterator[tuple[int, Array]]:
    """Each softened row from below upwards, with the push above it [N], of the leading shape; push: below all.

    wall, touched (..., rows): the bore's, and where retracted filament has touched it [°C], from below upwards;
    friction (..., rows) [-]; lengths (rows,) [m]; softening [°C], diameter of the bore [m], scale of the shear [-]: of
    the last of the leading axes, or of all. dF/dz = π D max s · min(μ F/A, τ) with A = π D²/4, the larger of both
    temperatures' holds. Row by row, since what lies above is pressed on by what holds below.

    >>> wall, lengths = np.array([55.0, 58.0, 62.0, 66.0]), np.full(4, 1e-3)
    >>> rows = pushes(np.array(6.0), wall, wall, np.full(4, 0.3), lengths, 60.0, 2e-3, 1.0)
    >>> [(n, round(float(push), 4)) for n, push in rows]
    [(1, 6.2667), (2, 8.1467), (3, 12.6726)]
    """
    softens, scaled, bores = (np.asarray(number)[..., None] for number in (softening, scale, bore))
    over = np.max(touched - softens, axis=tuple(range(touched.ndim - 1)))  # touched is the warmer
    soft = np.flatnonzero(over > BEGINS)
    around = np.pi * bores * lengths[soft]
    pressed = friction[..., soft] * around * 4.0 / (np.pi * bores**2)
    rows: list[Array] = []
    for surface in (wall, touched):
        x = surface[..., soft] - softens
        holds = soft_share(x)
        rows += [np.moveaxis(one, -1, 0).copy() for one in (holds * pressed, holds * shear(x) * scaled * around)]
    for n, cold, cold_slides, warm, warm_slides in zip(soft.tolist(), *rows, strict=True):
        push = push + np.maximum(np.minimum(cold * push, cold_slides), np.minimum(warm * push, warm_slides))
        yield n, push


def push_through(push: Array, *stretch: Any) -> Array:
    """Push above a whole stretch of softened filament [N]; arguments as for `pushes`.

    >>> wall, lengths = np.array([55.0, 62.0, 66.0]), np.full(3, 1e-3)
    >>> round(float(push_through(np.array(6.0), wall, wall + 2.0, np.full(3, 0.3), lengths, 60.0, 2e-3, 1.0)), 4)
    13.6406
    """
    for _row, above in pushes(push, *stretch):
        push = above
    return push

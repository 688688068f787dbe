"""The solver and the laws against exact solutions."""

from __future__ import annotations

import itertools

import numpy as np
import pytest
from scipy.optimize import brentq
from scipy.special import iv, j0, j1, jn_zeros, kv

from tests.verification.simple import Tied, order, solved
from zeotherm.core.physics.conduction import annular_fin_efficiency, ring_resistance
from zeotherm.core.physics.radiation import flux_between_plates, flux_to_surroundings

ONLY_WALL = 2  # column of the wall where stream and skin are idle


def _wall_only(rows):
    active = np.zeros((rows, 3), dtype=bool)
    active[:, ONLY_WALL] = True
    return active


def _fin_error(rows: int) -> float:
    """A rod of 30 mm, hot at its base, losing heat along its side and at its tip."""
    length, k, radius, h, base = 0.03, 16.0, 2e-3, 60.0, 100.0
    area, rim = np.pi * radius**2, 2 * np.pi * radius
    faces = np.linspace(0, length, rows + 1)
    dz = length / rows
    axial = np.zeros((rows - 1, 3))
    axial[:, ONLY_WALL] = k * area / dz
    cells = np.arange(rows) * 3 + ONLY_WALL
    tip = 1 / (dz / 2 / (k * area) + 1 / (h * area))
    exchanges = (
        Tied(cells, np.full(rows, h * rim * dz), 0.0),
        Tied(cells[:1], np.array([k * area / (dz / 2)]), base),
        Tied(cells[-1:], np.array([tip]), 0.0),
    )
    found = solved(faces, np.zeros((rows, 2)), axial, exchanges, active=_wall_only(rows))[:, ONLY_WALL]
    x = 0.5 * (faces[1:] + faces[:-1])
    m = np.sqrt(h * rim / (k * area))
    tip_term = h / (m * k)
    exact = base * (np.cosh(m * (length - x)) + tip_term * np.sinh(m * (length - x)))
    exact /= np.cosh(m * length) + tip_term * np.sinh(m * length)
    return float(np.abs(found - exact).max())


def test_fin_with_convective_tip(record):
    errors = [_fin_error(rows) for rows in (20, 40, 80)]
    record(
        "Fin with convective tip",
        "exact (Incropera 3.75)",
        f"{errors[-1]:.1e} K of 100 K, order {order(errors):.2f}",
        "order ≥ 1.9",
    )
    assert order(errors) > 1.9
    assert errors[-1] < 0.02


def test_composite_cylinder_with_contact(record):
    """Two shells and a contact between: the radial conductances are exact."""
    radii = np.array([1.0, 1.4, 2.0, 3.0, 3.6, 4.5]) * 1e-3
    k = np.array([16.0, 16.0, 160.0, 160.0, 160.0])
    height, contact = 5e-3, 4000.0
    centres = 0.5 * (radii[1:] + radii[:-1])
    half_out = ring_resistance(centres, radii[1:], k, height)
    half_in = ring_resistance(radii[:-1], centres, k, height)
    faces = half_out[:-1] + half_in[1:]
    faces[1] += 1 / (contact * 2 * np.pi * radii[2] * height)
    radial = np.zeros((2, 6))
    radial[:, 2:] = np.append(1 / faces, 0.0)[: radial.shape[1] - 2]
    active = np.zeros((2, 7), dtype=bool)
    active[:, 2:] = True
    inner, outer = np.array([2, 9]), np.array([6, 13])
    exchanges = (Tied(inner, np.full(2, 1 / half_in[0]), 200.0), Tied(outer, np.full(2, 1 / half_out[-1]), 40.0))
    found = solved(np.array([0.0, height, 2 * height]), radial, np.zeros((1, 7)), exchanges, active=active)
    resistance = (
        np.log(2.0 / 1.0) / (2 * np.pi * 16 * height)
        + 1 / (contact * 2 * np.pi * 2e-3 * height)
        + np.log(4.5 / 2.0) / (2 * np.pi * 160 * height)
    )
    watts = (200.0 - found[0, 2]) / half_in[0]
    record(
        "Composite cylinder with a contact",
        "exact series of resistances",
        f"{abs(watts * resistance / 160 - 1):.1e}",
        "1e-10",
    )
    assert watts == pytest.approx(160.0 / resistance, rel=1e-10)


def _rod_error(rows: int, side: float, hot_end: float | None) -> float:
    """A moving rod: inlet by advection alone, outlet free or held hot; losing heat to its side or not."""
    length, ka, rate, t_in = 0.02, 4e-6, 8e-4, 30.0
    faces = np.linspace(0, length, rows + 1)
    dz = length / rows
    axial = np.zeros((rows - 1, 3))
    axial[:, 0] = ka / dz
    cells = np.arange(rows) * 3
    exchanges = [Tied(cells, np.full(rows, side * dz), 200.0)]
    if hot_end is not None:
        exchanges.append(Tied(cells[-1:], np.array([ka / (dz / 2)]), hot_end))
    active = np.zeros((rows, 3), dtype=bool)
    active[:, 0] = True
    found = solved(faces, np.zeros((rows, 2)), axial, tuple(exchanges), mass_flow=rate, inlet=t_in, active=active)[:, 0]
    x = 0.5 * (faces[1:] + faces[:-1])
    root = np.sqrt(rate**2 + 4 * ka * side)
    up, down = (rate + root) / (2 * ka), (rate - root) / (2 * ka)
    far = 200.0 if side else 0.0
    first = [rate - ka * up, rate - ka * down]
    grow = np.exp(-up * length)  # written from the outlet, so that nothing overflows
    last = [1.0, np.exp(down * length)] if hot_end is not None else [up, down * np.exp(down * length)]
    right = [rate * (t_in - far), (hot_end - far) if hot_end is not None else 0.0]
    a, b = np.linalg.solve([[first[0] * grow, first[1]], last], right)
    exact = far + a * np.exp(up * (x - length)) + b * np.exp(down * x)
    return float(np.abs(found - exact).max())


@pytest.mark.parametrize(
    ("name", "side", "hot", "rows"),
    [("with side exchange", 0.05, None, (40, 80, 160)), ("without side exchange", 0.0, 200.0, (160, 320, 640))],
)
def test_moving_rod(record, name, side, hot, rows):
    errors = [_rod_error(count, side, hot) for count in rows]
    record(f"Moving rod {name}", "exact", f"{errors[-1]:.1e} K of 170 K, order {order(errors):.2f}", "order ≥ 1.7")
    assert order(errors) > 1.7
    assert errors[-1] < 0.6


def _graetz(columns: int, rows: int, biot: float | None) -> tuple[float, float]:
    """Plug flow in a tube: centre and mean at the outlet; wall isothermal, or through a film of this Biot number."""
    radius, length, k, rate = 0.875e-3, 3e-3, 0.18, 8e-3
    r = radius * np.linspace(0, 1, columns + 1)
    faces = np.linspace(0, length, rows + 1)
    dz = length / rows
    centres = 0.5 * (r[1:] + r[:-1])
    radial = np.zeros((rows, columns + 1))
    half_out, half_in = (
        ring_resistance(centres, r[1:], k, dz),
        ring_resistance(np.maximum(r[:-1], 1e-12), centres, k, dz),
    )
    radial[:, : columns - 1] = 1 / (half_out[:-1] + half_in[1:])
    radial[:, columns - 1] = 1 / half_out[-1]
    film = 10.0 if biot is None else biot * k / radius * 2 * np.pi * radius * dz
    wall = np.arange(rows) * (columns + 2) + columns + 1
    gap = (np.full(rows, film), np.full(rows, film))
    found = solved(
        faces,
        radial,
        np.zeros((rows - 1, columns + 2)),
        (Tied(wall, np.full(rows, 10.0), 1.0),),
        moving=columns,
        mass_flow=rate,
        inlet=0.0,
        shares=np.diff(r**2) / radius**2,
        gap=gap,
    )
    fourier = np.pi * k * length / rate
    z = length - dz / 2
    fourier *= z / length
    if biot is None:
        roots = jn_zeros(0, 60)
        weight = 2 / (roots * j1(roots))
    else:
        edges = np.concatenate([[1e-9], jn_zeros(1, 60)])
        roots = np.array(
            [brentq(lambda x: x * j1(x) - biot * j0(x), a + 1e-9, b - 1e-9) for a, b in itertools.pairwise(edges)]
        )
        weight = 2 * j1(roots) / (roots * (j0(roots) ** 2 + j1(roots) ** 2))
    mean = 1 - float((weight * np.exp(-(roots**2) * fourier) * 2 * j1(roots) / roots).sum())
    average = float(found[-1, :columns] @ (np.diff(r**2) / radius**2))
    return average, mean


@pytest.mark.parametrize(("name", "biot"), [("isothermal wall", None), ("convective wall, Bi = 4", 4.0)])
def test_graetz_plug_flow(record, name, biot):
    errors = []
    for columns, rows in ((5, 40), (10, 80), (20, 160)):
        found, exact = _graetz(columns, rows, biot)
        errors.append(abs(found - exact))
    record(
        f"Graetz plug flow, {name}",
        "exact series of Bessel functions",
        f"{errors[-1]:.1e} of 1, order {order(errors):.2f}",
        "order ≥ 1.5",
    )
    assert order(errors) > 1.5
    assert errors[-1] < 2e-3


def test_grey_plates(record):
    hot, cold = 210.0, 50.0
    black = 5.670374419e-8 * ((hot + 273.15) ** 4 - (cold + 273.15) ** 4)
    found = flux_between_plates(hot, cold, 0.3, 0.6)
    record(
        "Radiation between grey plates", "exact", f"{abs(found / (black / (1 / 0.3 + 1 / 0.6 - 1)) - 1):.1e}", "1e-12"
    )
    assert found == pytest.approx(black / (1 / 0.3 + 1 / 0.6 - 1), rel=1e-12)
    assert flux_to_surroundings(hot, cold, 1.0) == pytest.approx(black, rel=1e-12)


@pytest.mark.parametrize(("film", "bound"), [(30.0, 0.003), (150.0, 0.01), (600.0, 0.03)])
def test_annular_fin_efficiency_against_bessel(record, film, bound):
    inner, outer, thickness, k = 6.25e-3, 11e-3, 1e-3, 160.0
    reach = outer + thickness / 2
    m = np.sqrt(2 * film / (k * thickness))
    a, b = m * inner, m * reach
    exact = 2 * inner / (m * (reach**2 - inner**2)) * (kv(1, a) * iv(1, b) - iv(1, a) * kv(1, b))
    exact /= iv(0, a) * kv(1, b) + kv(0, a) * iv(1, b)
    found = float(annular_fin_efficiency(inner, outer, thickness, film, k))
    record(f"Annular fin efficiency, {film:.0f} W/m²K", "exact (Gardner)", f"{abs(found / exact - 1):.1e}", f"{bound}")
    assert found == pytest.approx(exact, rel=bound)

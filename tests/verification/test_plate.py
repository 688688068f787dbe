"""The plate's field: against series resistances, a fin, symmetry, its balance, a finer grid, and elimination."""

from __future__ import annotations

import numpy as np
import pytest

from tests.verification.plates import eliminated, radiating, rounded, straight
from zeotherm.core.solver.plate import NotSettledError, Plate, settle

AIR, SPREAD = 20.0, 0.48  # °C; W/K, of 3 mm of aluminium
FULL = np.ones((100, 100), dtype=bool)


def heated(shape: tuple[int, int], watts: float, border: int = 0) -> np.ndarray:
    source = np.zeros(shape)
    source[border : shape[0] - border, border : shape[1] - border] = watts
    return source


def test_a_uniform_bed_is_its_series_resistances(record):
    up, board, gap = 1.0 / 11.0, 0.0016 / 0.3, 0.010 / 0.026  # m²K/W: film above; board and still air below
    below = 1.0 / (board + gap + 1.0 / 9.0)
    film = 1.0 / up + below
    field = settle(Plate(0.3, 0.3, FULL, SPREAD), heated((100, 100), 900.0), straight(film, AIR), AIR)
    error = float(np.abs(field.temperature - (AIR + 900.0 / film)).max())
    record("uniform plate", "series resistances", f"{error:.1e} K", "1e-6 K")
    assert error < 1e-6
    assert field.steps == 0


def fin(cells: int) -> float:
    """Error of a strip that is heated throughout and loses over its two ends, along its middle [K]; a fin by halves."""
    long, film, rim, watts = 0.12, 22.0, 1.5, 1100.0  # m, W/m²K, W/mK, W/m²
    plate = Plate(long, 10.0 * long / cells, np.ones((10, cells), dtype=bool), SPREAD)
    films = np.full((10, cells), film)
    over = rim / (1.0 + 0.5 * rim * long / cells / SPREAD)  # the rim of these two sides alone, as the plate has it
    films[:, [0, -1]] += over * cells / long
    field = settle(plate, np.full((10, cells), watts), straight(films, AIR), AIR, tolerance=1e-7)
    m, half, far = np.sqrt(film / SPREAD), 0.5 * long, AIR + watts / film
    # θ = A cosh mx about the far value, -K θ' = rim (T - air) at the end
    a = -rim * (far - AIR) / (SPREAD * m * np.sinh(m * half) + rim * np.cosh(m * half))
    x = (np.arange(cells) + 0.5) * long / cells - half
    return float(np.abs(field.temperature[5] - far - a * np.cosh(m * x)).max())


def test_the_rims_loss_is_a_fins(record):
    errors = [fin(cells) for cells in (60, 120, 240)]
    order = float(np.log2(errors[1] / errors[2]))
    record("strip that loses over its ends", "fin with a convective end",
           f"{errors[0]:.1e} K at 2 mm, order {order:.2f}", "0.01 K; order 2")  # fmt: skip
    assert errors[0] < 0.01
    assert order == pytest.approx(2.0, abs=0.1)


@pytest.mark.parametrize("inside", [FULL, rounded(100), rounded(63)], ids=["square", "round", "odd"])
def test_the_balance_closes(inside, record):
    plate = Plate(0.3, 0.3, inside, SPREAD, 0.05)
    field = settle(plate, heated(inside.shape, 1200.0, 6), radiating(8.0, 0.9, AIR), AIR)
    record(f"plate of {int(inside.sum())} cells, radiating", "its own balance", f"{field.closure:.0e}", "1e-6")
    assert field.closure < 1e-6


def test_a_symmetric_plate_has_a_symmetric_field():
    plate = Plate(0.24, 0.24, rounded(80, void=False), SPREAD, 0.04)
    field = settle(plate, heated((80, 80), 1000.0, 10), radiating(9.0, 0.9, AIR), AIR).temperature
    for other in (field[::-1], field[:, ::-1], field.T):
        assert np.nanmax(np.abs(field - other)) < 1e-4
    assert np.nanargmax(field) // 80 in (39, 40)


@pytest.mark.parametrize("inside", [FULL, rounded(100)], ids=["square", "round with voids"])
def test_it_agrees_with_elimination(inside, record):
    plate = Plate(0.3, 0.3, inside, SPREAD, 0.05)
    source = heated(inside.shape, 1500.0, 8)
    law = radiating(8.0, 0.9, AIR)
    field = settle(plate, source, law, AIR)
    apart = float(np.nanmax(np.abs(field.temperature - eliminated(plate, source, law, AIR))))
    what = "square plate" if inside is FULL else "round plate with voids"
    record(f"{what}, radiating, 100 x 100", "sparse elimination", f"{apart:.1e} K", "1e-3 K")
    assert apart < 1e-3


def test_a_finer_grid_changes_little(record):
    def drop(cells: int) -> tuple[float, float]:
        plate = Plate(0.3, 0.3, np.ones((cells, cells), dtype=bool), SPREAD, 0.06)
        border = round(cells * 0.05)
        source = heated((cells, cells), 1.0, border)
        source *= 80.0 / (source.sum() * plate.area)
        field = settle(plate, source, radiating(8.0, 0.9, AIR), AIR)
        middle = field.temperature[cells // 2, cells // 2]
        return field.off_faces + field.off_rim, float(middle - field.temperature[0, 0])

    working, fine = drop(60), drop(240)
    power, corner = abs(working[0] / fine[0] - 1.0), abs(working[1] / fine[1] - 1.0)
    record("working grid, 60 x 60: power; corner's drop", "four times as fine",
           f"{100 * power:.3f} %; {100 * corner:.2f} %", "0.1 %; 3 %")  # fmt: skip
    assert power < 1e-3
    assert corner < 0.03


def test_a_warm_start_is_cheaper_and_the_same():
    plate = Plate(0.3, 0.3, rounded(100), SPREAD, 0.05)
    source, law = heated((100, 100), 1500.0, 8), radiating(8.0, 0.9, AIR)
    cold = settle(plate, source, law, AIR)
    warm = settle(plate, 1.02 * source, law, AIR, start=cold.temperature)
    again = settle(plate, 1.02 * source, law, AIR)
    assert warm.steps <= again.steps
    assert np.nanmax(np.abs(warm.temperature - again.temperature)) < 1e-4


@pytest.mark.parametrize(
    "wrong",
    [{"width": 0.0}, {"depth": -1.0}, {"spread": float("nan")}, {"rim": -0.1}, {"inside": np.zeros((4, 4), bool)}],
)
def test_a_plate_that_cannot_be_is_refused(wrong):
    with pytest.raises(ValueError, match="a plate has"):
        Plate(**{"width": 0.3, "depth": 0.3, "inside": FULL, "spread": SPREAD, "rim": 0.0, **wrong})


def test_a_plate_that_nothing_holds_is_told():
    plate = Plate(0.3, 0.3, FULL, SPREAD)
    with pytest.raises(NotSettledError):
        settle(plate, heated((100, 100), 500.0), straight(0.0, AIR), AIR)
    with pytest.raises(NotSettledError):
        settle(plate, heated((100, 100), 500.0), straight(-3.0, AIR), AIR)

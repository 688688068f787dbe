"""The published correlations against independent libraries."""

from __future__ import annotations

import fluids
import ht
import numpy as np
import pytest

from zeotherm.core.physics import convection, fan
from zeotherm.core.physics.air import air
from zeotherm.core.physics.filament import Enthalpy, touching_share


@pytest.mark.parametrize("temperature", [-20.0, 25.0, 80.0, 200.0])
def test_air_properties(record, temperature):
    kelvin = temperature + 273.15
    state = air(temperature)
    pairs = {
        "viscosity": (state.viscosity, fluids.ATMOSPHERE_1976.viscosity(kelvin)),
        "conductivity": (state.conductivity, fluids.ATMOSPHERE_1976.thermal_conductivity(kelvin)),
        "density": (state.density, 101325 * 28.9645e-3 / (8.31446 * kelvin)),
    }
    worst = max(abs(a / b - 1) for a, b in pairs.values())
    record(f"Air at {temperature:.0f} °C", "fluids, standard atmosphere", f"{worst:.1%}", "2.5 %")
    assert worst < 0.025


@pytest.mark.parametrize("ra", [1e2, 1e4, 1e6])
def test_natural_convection(record, ra):
    found = float(convection.nusselt_sphere(ra, 0.71))
    reference = ht.Nu_sphere_Churchill(0.71, ra / 0.71)
    record(f"Natural convection, sphere, Ra = {ra:.0e}", "ht", f"{abs(found / reference - 1):.1e}", "1e-6")
    assert found == pytest.approx(reference, rel=1e-6)
    plate = float(convection.nusselt_vertical_plate(ra, 0.71))
    assert plate == pytest.approx(ht.Nu_vertical_plate_Churchill(0.71, ra / 0.71), rel=0.2)


def test_parallel_plates_reach_the_developed_value(record):
    found = convection.nusselt_parallel_plates(50.0, 0.71)
    record("Parallel plates, developed", "exact limit 7.541", f"{abs(found / 7.541 - 1):.1e}", "0.2 %")
    assert found == pytest.approx(7.541, rel=0.002)
    assert convection.nusselt_parallel_plates(0.01, 0.71) > found


def test_spread_of_published_films_is_covered():
    """The block's correction carries a tolerance as wide as the correlations differ from their mean."""
    films = list(convection.natural_film_methods(210.0, 30.0, 0.0216, 101325.0).values())
    assert max(films) / np.mean(films) - 1 < 0.25


def test_fan_meets_resistance_and_affinity():
    flows, pressures = (0.0, 5e-4, 1e-3, 2e-3), (34.0, 24.0, 17.0, 0.0)

    def resistance(flow):
        return 1.2e7 * flow**2

    full = fan.operating_flow(flows, pressures, 1.0, fan.CURVE_DENSITY, resistance)
    assert np.interp(full, flows, pressures) == pytest.approx(resistance(full), rel=1e-6)
    half = fan.operating_flow(flows, pressures, 0.5, fan.CURVE_DENSITY, resistance)
    assert half == pytest.approx(0.5 * full, rel=1e-6)  # a quadratic resistance follows the affinity laws exactly
    assert fan.operating_flow(flows, pressures, 0.0, fan.CURVE_DENSITY, resistance) == 0.0
    assert fan.speed_ratio(3.9, 12.0, 4.5) == 0.0
    assert (fan.speed_ratio(12.0, 12.0, 4.5), fan.speed_ratio(99.0, 12.0, 4.5)) == (1.0, fan.OVERSPEED)
    thin = 0.7 * fan.CURVE_DENSITY  # some three kilometres up: pressure falls with density, and so does a loss
    high = fan.operating_flow(flows, pressures, 1.0, thin, lambda flow: 0.7 * resistance(flow))
    assert high == pytest.approx(full, rel=1e-6)


def test_screen_loss_against_library(record):
    """Guards with 40 to 70 % open area; tables for round wires differ by the shape of the wire."""
    ratios = [fan.screen_loss(share) / fluids.filters.round_edge_screen(share, 2000.0) for share in (0.4, 0.55, 0.7)]
    record(
        "Loss of a guard", "fluids, round-edged screen", f"{min(ratios):.2f} to {max(ratios):.2f} times", "0.6 to 1.7"
    )
    assert min(ratios) > 0.6
    assert max(ratios) < 1.7


def test_enthalpy_rises_and_its_slope_is_the_capacity():
    law = Enthalpy(1600.0, 2050.0, 57.0, 155.0, 30e3)
    t = np.linspace(-20, 300, 641)
    slope = np.gradient(law(t), t)
    assert (np.diff(law(t)) > 0).all()
    assert law.capacity(t)[1:-1] == pytest.approx(slope[1:-1], rel=5e-3)
    assert law(np.array([280.0]))[0] - law(np.array([20.0]))[0] == pytest.approx(
        30e3 + 1600 * 37 + 2050 * 223, rel=0.02
    )


def test_strand_touches_after_softening():
    share, slope = touching_share(np.array([20.0, 57.0, 72.0, 87.0, 200.0]), 57.0, 30.0)
    assert share == pytest.approx([0, 0, 0.5, 1, 1])
    assert slope[2] == pytest.approx(0.05)

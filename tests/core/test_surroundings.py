"""The bodies around a hotend: laws, limits and balances of their own."""

from __future__ import annotations

import itertools
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from zeotherm.core.catalogue import shipped
from zeotherm.core.catalogue.lookup import DoesNotFitError
from zeotherm.core.machine.documents import Setup, patched
from zeotherm.core.parts.hotend.model.in_time import HotendFlows
from zeotherm.core.parts.whole.around import resolve_around, with_number
from zeotherm.core.parts.whole.network import AIR, BED, BODIES, ROOF, WALL, Load, Network, Outside
from zeotherm.core.parts.whole.run import check
from zeotherm.core.physics.ventilation import daily_course, stack_conductance, stack_strength

NOTHING = HotendFlows(0.0, 0.0, 0.0, 0.0, 0.0, 0.0)
ALL_OFF = Load(bed=False, motor=False, board=False)


def network(patch: dict | None = None, load: Load = ALL_OFF) -> Network:
    base = {
        "surroundings": {"air_from": "case"},
        "case": {"part": "side_vented", "vents_open_pct": 0.0},
        "bed": {"part": "small_bed", "target_c": 60.0},
    }
    setup = patched(patched(Setup(), base), patch or {})
    return Network(resolve_around(setup, shipped()).around, load)


def outside(room: float = 20.0, **watts: float) -> Outside:
    sun_wall, sun_air = watts.get("sun_wall", 0.0), watts.get("sun_air", 0.0)
    return Outside(room, sun_wall, sun_air, NOTHING, watts.get("duct", 0.0))


def settled(one: Network, around: Outside) -> tuple[np.ndarray, object]:
    """One stage so long that it ends at rest."""
    start = np.full(len(BODIES), around.room)
    bodies, flows, _heating = one.stage(around, one.heat * start, np.zeros(len(BODIES)), 1e9, start, {})
    return bodies, flows


@given(st.floats(0.1, 60.0), st.floats(0.001, 0.1), st.floats(0.05, 1.0))
def test_a_warm_case_vents_more_the_warmer_and_the_wider(rise_k, area, height):
    narrow, twice = (stack_strength(20.0, one, height, 0.6, 101_325.0) for one in (area, 2 * area))
    cool, _slope = stack_conductance(20.0 + 0.5 * rise_k, 20.0, narrow)
    warm, slope = stack_conductance(20.0 + rise_k, 20.0, narrow)
    wide, _slope = stack_conductance(20.0 + rise_k, 20.0, twice)
    assert 0.0 < cool < warm < slope <= 1.5 * warm + 1e-12
    assert wide == pytest.approx(2 * warm)


def test_the_slope_of_the_vents_heat_is_its_derivative():
    strength = stack_strength(20.0, 0.006, 0.2, 0.6, 101_325.0)

    def heat(inside: float) -> float:
        return float(stack_conductance(inside, 20.0, strength)[0]) * (inside - 20.0)

    _conductance, slope = stack_conductance(35.0, 20.0, strength)
    assert slope == pytest.approx((heat(35.01) - heat(34.99)) / 0.02, rel=0.03)


def test_a_room_is_warmest_at_its_hour():
    hours = np.linspace(0.0, 24.0, 97)
    course = daily_course(hours, 20.0, 3.0, 15.5)
    assert hours[int(np.argmax(course))] == pytest.approx(15.5, abs=0.25)
    assert course.max() - course.min() == pytest.approx(6.0, abs=0.02)


def test_bodies_without_heat_stay_at_the_rooms_temperature():
    bodies, flows = settled(network(), outside(room=17.0))
    assert bodies == pytest.approx(17.0, abs=1e-6)
    assert flows.to_room == pytest.approx(0.0, abs=1e-6)


@pytest.mark.parametrize("vents", [0.0, 40.0, 100.0])
def test_what_the_sun_brings_leaves_for_the_room(vents):
    one = network({"case": {"vents_open_pct": vents}})
    _bodies, flows = settled(one, outside(sun_wall=50.0, sun_air=20.0))
    assert flows.to_room == pytest.approx(70.0, rel=1e-6)


def test_open_vents_cool_the_case():
    air = [settled(network({"case": {"vents_open_pct": v}}), outside(sun_wall=80.0))[0][AIR] for v in (0, 25, 50, 100)]
    assert all(a > b + 0.3 for a, b in itertools.pairwise(air))


def test_a_bed_out_of_reach_runs_flat_out_and_one_in_reach_is_held():
    load = Load(bed=True, motor=False, board=False)
    bodies, flows = settled(network({}, load), outside())
    there = network({}, load)
    assert there.bed_reading(bodies[BED], flows.bed) == pytest.approx(60.0)
    assert 0.5 < 60.0 - bodies[BED] < 8.0  # the sensor sits at the heater, above the plate
    assert 0.0 < flows.bed < 70.0
    weak = Network(replace(network({}, load).around, bed_power=8.0), load)
    bodies, flows = settled(weak, outside())
    assert flows.bed == 8.0
    assert bodies[BED] < 60.0
    bodies, flows = settled(network({"bed": {"target_c": 25.0}}, load), outside(room=40.0))
    assert flows.bed == 0.0


def test_what_leaves_one_body_enters_another_and_nothing_flows_where_all_are_alike():
    matrix = network().conductance
    assert matrix.sum(axis=0) == pytest.approx(0.0, abs=1e-12)
    assert matrix.sum(axis=1) == pytest.approx(0.0, abs=1e-12)


def test_the_fans_air_is_where_it_is_taken():
    bodies = np.array([40.0, 55.0, 35.0, 60.0, 38.0, 50.0, 40.0])
    airs = {
        source: network({"surroundings": {"air_from": source, "fan_air_c": 33.0}}).air_at(bodies, 20.0)
        for source in ("stated", "case", "duct", "room", "liquid")
    }
    assert airs["stated"].fan == 33.0
    assert airs["case"].fan == pytest.approx(42.75)  # it stands above the print, toward the roof
    assert airs["duct"].fan == pytest.approx(23.25)
    assert airs["room"].fan == pytest.approx(21.0)
    assert airs["case"].block == pytest.approx(43.0)
    assert airs["case"].mount == 38.0


def test_a_doubted_number_stays_within_what_is_possible():
    around = network().around
    assert with_number(around, "vents_open", 1.7).vents_open == 1.0
    assert with_number(around, "vents_open", -0.2).vents_open == 0.0
    assert with_number(around, "inner", -5.0).inner == pytest.approx(0.15 * around.inner)


def test_parts_that_do_not_exist_are_named():
    for path, patch in (
        ("case.part", {"case": {"part": "hat_box"}}),
        ("bed.part", {"bed": {"part": "water_bed"}}),
        ("surroundings.air_from", {"surroundings": {"air_from": "attic"}}),
        ("schedule.fan_after", {"schedule": {"fan_after": "sings"}}),
    ):
        with pytest.raises(DoesNotFitError) as wrong:
            check(patched(Setup(), patch), shipped())
        assert wrong.value.path == path


def test_a_fault_that_does_not_fit_is_found_when_the_job_is_checked():
    fault = {"faults": {"f": {"label": "Wrong", "at_min": 5.0, "change": {"hotend": {"break_part": "glass"}}}}}
    with pytest.raises(DoesNotFitError, match="glass"):
        check(patched(Setup(), fault), shipped())


def test_heat_from_outside_comes_and_goes_by_the_clock():
    setup = patched(Setup(), {"heats": {"sun": {"label": "Sun", "watts": 90.0, "from_h": 12.0, "to_h": 15.0}}})
    around = resolve_around(setup, shipped()).around
    assert around.extra(11.99) == (0.0, 0.0)
    assert around.extra(12.0) == (90.0, 0.0)
    assert around.extra(36.5) == (90.0, 0.0)  # the next day too
    assert around.hours_of_note == [12.0, 15.0]


def test_the_walls_part_of_the_loss_follows_its_conductance():
    one = network()
    bodies, flows = settled(one, outside(sun_wall=30.0))
    through_wall = one.around.outer * (bodies[WALL] - 20.0)
    by, mean = bodies[ROOF] - 20.0, 0.5 * (bodies[AIR] + bodies[ROOF])
    strength = stack_strength(
        20.0, one.around.openings, one.around.vent_rise, one.around.vent_discharge, one.around.pressure
    )
    carried, _slope = stack_conductance(mean, 20.0, strength)
    assert through_wall + (one.around.leak + carried) * by == pytest.approx(flows.to_room, rel=1e-9)

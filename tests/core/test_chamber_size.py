"""Heating an enclosure: heaters with caps and curves, filaments, fit, parts to help, lines, panels, its own curve."""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np
import pytest
from pydantic import ValidationError

from tests.core.test_chamber import CATALOGUE, PRINTING, setup_of
from zeotherm.core.catalogue.lookup import DoesNotFitError
from zeotherm.core.catalogue.procedures import Procedure
from zeotherm.core.choices.board import cheapest_set, column, subjects
from zeotherm.core.machine.documents import Job, Setup, Variant, patched
from zeotherm.core.machine.doing import Doing
from zeotherm.core.parts.enclosure.judge.answer import around_of, first_case
from zeotherm.core.parts.enclosure.judge.control_lines import control_lines
from zeotherm.core.parts.enclosure.judge.fit import MeasuredCase, clocked, fit_case
from zeotherm.core.parts.enclosure.judge.fitting import fits
from zeotherm.core.parts.enclosure.judge.guarding import heater_guard
from zeotherm.core.parts.enclosure.judge.leads import lead_schedule
from zeotherm.core.parts.enclosure.judge.panels import VENT_MM, panels_of
from zeotherm.core.parts.enclosure.judge.protecting import life_factor, protected
from zeotherm.core.parts.enclosure.judge.sized import size_case
from zeotherm.core.parts.enclosure.judge.sizing import mixing_for, places_for, with_heater
from zeotherm.core.parts.enclosure.judge.warmth import airs_of, on_machine, warmths
from zeotherm.core.parts.enclosure.model.inputs import resolve_chamber
from zeotherm.core.parts.enclosure.model.model import CAP_K, ChamberModel
from zeotherm.core.parts.enclosure.model.solved import run_chamber, solve_chamber
from zeotherm.core.parts.whole.run import History, simulate
from zeotherm.core.runs.series import Series
from zeotherm.core.runs.warm_up import case_of
from zeotherm.core.solver.axisymmetric import CancelledError
from zeotherm.core.work.planning import order, refusal


@pytest.fixture(scope="module")
def gannet() -> tuple[Setup, History]:
    from zeotherm.shop.files.job_files import read_job
    from zeotherm.shop.places import demo_jobs

    job: Job = next(one for one in map(read_job, demo_jobs()) if one.machine.startswith("Gannet"))
    return job.found, simulate(job.found, CATALOGUE)


def solved(**case: float | str):
    return solve_chamber(ChamberModel(resolve_chamber(setup_of(**case), CATALOGUE).inputs), PRINTING)


# heaters


def test_a_self_regulating_element_rests_on_its_own_curve():
    found = solved(heater_w=300.0, heater_fades_c=80.0, target_c=150.0)
    assert found.power == pytest.approx(300.0 * (80.0 - found.low) / 60.0, rel=1e-6)
    assert found.power < 0.6 * 300.0
    assert solved(heater_w=300.0, target_c=150.0).low > found.low


def test_two_heaters_meet_their_target_and_neither_passes_its_cap():
    both = {"heater_w": 150.0, "heater2_w": 150.0, "heater2_at": "floor", "target_c": 48.0}
    held = solved(**both, heater_cap_c=55.0, heater2_cap_c=60.0)
    assert held.holds
    assert held.reading == pytest.approx(48.0, abs=1e-6)
    capped = solved(**{**both, "target_c": 70.0}, heater_cap_c=40.0, heater2_cap_c=50.0)
    assert not capped.holds
    assert 50.0 - CAP_K <= capped.low <= 50.0
    alone = solved(heater_w=300.0, target_c=70.0, heater_cap_c=45.0)
    assert 45.0 - CAP_K <= alone.low <= 45.0


def test_capped_heaters_keep_their_energy_over_hours():
    case = {"heater_w": 150.0, "heater_cap_c": 40.0, "heater2_w": 150.0, "heater2_cap_c": 60.0, "target_c": 70.0}
    model = ChamberModel(resolve_chamber(setup_of(**case), CATALOGUE).inputs)
    run = run_chamber(model, lambda _time: PRINTING, 6 * 3600.0)
    assert run.closure < 1e-6
    assert run.moment(6 * 3600.0).low == pytest.approx(solve_chamber(model, PRINTING).low, abs=0.1)


# what a filament may have


def test_how_warm_each_filament_may_be_kept(gannet):
    setup, run = gannet
    found = {one.filament: one for one in warmths(setup, CATALOGUE, run, 33.0)}
    assert set(found) == {key for key, one in CATALOGUE.filaments.items() if one.compared}
    assert next(iter(found)) == setup.printing.filament
    limits = {key: one.creeps_from for key, one in found.items()}
    assert limits["pla"] < limits["petg"] < limits["abs"] < limits["pc"]
    assert all(0.5 < one.band < 30.0 for one in found.values())
    assert found["petg"].holds
    assert not replace(found["petg"], air=70.0).holds
    assert not found["abs"].warm_enough
    at = airs_of(setup, run)
    assert at(50.0).fan - at(40.0).fan == pytest.approx(10.0)
    with pytest.raises(CancelledError):
        warmths(setup, CATALOGUE, run, 33.0, cancelled=lambda: True)


def test_a_fan_that_breathes_the_room_stands_a_warmer_case(gannet):
    setup, run = gannet
    ducted = patched(setup, {"surroundings": {"air_from": "room"}})
    free = next(one for one in warmths(ducted, CATALOGUE, simulate(ducted, CATALOGUE), 33.0) if one.filament == "petg")
    own = next(one for one in warmths(setup, CATALOGUE, run, 33.0) if one.filament == "petg")
    assert free.creeps_from is None or free.creeps_from > own.creeps_from + 10.0


# fit


def test_the_fit_adds_up_and_lacks_where_it_lacks(gannet):
    setup, _run = gannet
    ways = {one.way: one for one in fits(setup)}
    assert ways["depth"].needs == 410.0 + 30.0 + 55.0 + 20.0
    assert ways["depth"].spare == pytest.approx(5.0)
    assert 1.0 < ways["depth"].band < 30.0
    assert ways["door"].spare == pytest.approx(160.0)
    assert fits(patched(setup, {"case": {"depth_mm": 500.0}}))[1].spare == pytest.approx(-15.0)
    assert next(one for one in fits(patched(setup, {"case": {"door_room_mm": 0.0}})) if one.way == "door").spare is None
    assert fits(Setup()) == []


def test_a_box_smaller_than_the_machines_travel_is_refused(gannet):
    setup, _run = gannet
    with pytest.raises(
        DoesNotFitError, match=r"400 mm inside is less than the machine moves in: 410 \+ 30 mm"
    ) as wrong:
        resolve_chamber(patched(setup, {"case": {"depth_mm": 400.0}}), CATALOGUE)
    assert wrong.value.path == "case.depth_mm"


# parts


def test_parts_that_do_not_stand_it_are_helped_cheapest_first(gannet):
    setup, run = gannet
    answer = first_case(setup, CATALOGUE, arounds=around_of(setup, CATALOGUE, run))
    found = protected(answer, 60.0, run)
    assert found.weakest.station == "case_supply"
    assert [way.key for way in found.weakest.ways][:2] == ["supply_out", "supply_bay"]
    assert all(way.enough for way in found.weakest.ways)
    motors = next(one for one in found.parts if one.station == "case_motor")
    enough = [way.protection.cost for way in motors.ways if way.enough]
    assert enough == sorted(enough)
    near = protected(answer, 35.0, run).weakest  # stands it, but a cut-out would not fit between
    assert near.station == "case_supply"
    assert not near.lacks
    assert {"case_board", "case_spool"} <= set(found.stand)
    assert found.change["case"]["supply_at"] == "outside"
    assert found.toolhead_c is None
    with_board = patched(setup, {"carriage": {"board_w": 6.0}})
    hot = protected(first_case(with_board, CATALOGUE, arounds=around_of(with_board, CATALOGUE, run)), 60.0, run)
    assert hot.toolhead_c > 80.0
    assert 0.5 < hot.toolhead_m3h < 5.0


def test_motors_and_printed_parts_sit_where_they_are_told_to(gannet):
    setup, run = gannet
    warm = patched(setup, {"case": {"heater_w": 300.0, "target_c": 60.0, "heater_at": "roof", "sensor_pct": 25.0}})

    def values(**case: str):
        tried = patched(warm, {"case": case})
        return first_case(tried, CATALOGUE, arounds=around_of(tried, CATALOGUE, run)).values

    inside, out = values(), values(motors_at="outside", printed_at="inside_low")
    assert out["case_motor"] == pytest.approx(setup.room.mean_c + 20.0, abs=4.0)  # by the hour
    assert inside["case_motor"] > out["case_motor"] + 20.0
    assert inside["case_printed"] > out["case_printed"] + 5.0
    found = protected(first_case(warm, CATALOGUE, arounds=around_of(warm, CATALOGUE, run)), 60.0, run)
    motors = next(one for one in found.parts if one.station == "case_motor")
    assert any(way.key == "motors_out" and way.enough for way in motors.ways)


def test_which_machine_can_print_a_plastic(gannet):
    setup, _run = gannet
    found = on_machine(Job(found=setup), CATALOGUE, "asa")
    assert (found.filament, found.warm_enough) == ("asa", False)
    assert found.air == pytest.approx(34.8, abs=2.0)
    own = on_machine(Job(found=setup), CATALOGUE, setup.printing.filament)
    assert own.nozzle == setup.printing.nozzle_c
    heater = {"heater_w": 400.0, "target_c": 60.0, "sensor_pct": 25.0, "cutout_c": 75.0}
    heated = patched(setup, {"case": heater, "surroundings": {"air_from": "room"}})
    warm = on_machine(Job(found=heated), CATALOGUE, "asa")
    assert warm.holds
    assert warm.warm_enough
    with pytest.raises(CancelledError):
        on_machine(Job(found=setup), CATALOGUE, "asa", lambda: True)
    assert on_machine(Job(found=setup), CATALOGUE, "cheese") is None


def test_a_wall_may_be_built_unlike_the_others():
    plain, clear = solved(), solved(roof_panel="acrylic", front_panel="acrylic")
    assert clear.lost["roof"] > 1.1 * plain.lost["roof"]
    assert clear.low < plain.low
    assert next(one for one in clear.model.inputs.walls if one.name == "roof").resistance < 0.04
    with pytest.raises(DoesNotFitError) as wrong:
        resolve_chamber(setup_of(roof_panel="glass_wool"), CATALOGUE)
    assert wrong.value.path == "case.roof_panel"
    with pytest.raises(ValidationError, match="without layers"):
        CATALOGUE.with_own({"panels": {"air": {"label": "Air", "layers": []}}})


def test_a_bay_lives_of_its_own_air(gannet):
    setup, run = gannet
    warm = patched(setup, {"case": {"heater_w": 300.0, "target_c": 60.0, "sensor_pct": 25.0}})

    def supply(**case: float | str) -> float:
        tried = patched(warm, {"case": case})
        return first_case(tried, CATALOGUE, arounds=around_of(tried, CATALOGUE, run)).values["case_supply"]

    inside, bay, blown, outside = (
        supply(supply_at="inside_low"), supply(supply_at="bay"), supply(supply_at="bay", bay_m3h=30.0),
        supply(supply_at="outside"),
    )  # fmt: skip
    assert inside > bay + 20.0
    assert bay > blown + 3.0
    assert blown > outside - 0.1


def test_a_boards_life_halves_by_ten_kelvin():
    assert life_factor(40.0) == 1.0
    assert life_factor(60.0) == pytest.approx(0.25)


# sizes


def test_places_mixing_and_all_sizes_at_once(gannet):
    setup, run = gannet
    setup = patched(setup, {"case": {"sensor_pct": 25.0}})
    answer = first_case(setup, CATALOGUE, arounds=around_of(setup, CATALOGUE, run))
    places = places_for(answer, 50.0, 250.0)
    low, high = (next(one for one in places if one.place == place) for place in ("floor", "roof"))
    assert places[-1] is high
    assert low.minutes is not None
    assert high.minutes is None
    assert 0.5 < low.minutes.band < low.minutes.value
    assert min(high.band, low.band) > 0.5
    roof = first_case(patched(setup, {"case": {"heater_w": 300.0, "heater_at": "roof", "target_c": 50.0}}), CATALOGUE)
    flow = mixing_for(roof, 50.0, 4.0)
    mixed = first_case(patched(roof.setup, {"case": {"recirculation_m3h": 3600.0 * flow.value}}), CATALOGUE)
    assert mixed.solved.high - mixed.solved.low == pytest.approx(4.0, abs=0.2)
    assert 0.0 < flow.band < flow.value
    assert mixing_for(roof, 50.0, 60.0).value == 0.0
    found = size_case(answer, run, 50.0, 2700.0, 15.5, 5.0)
    assert found.done
    assert found.watts > found.heater.hold.value
    assert found.outlet.value > found.watts + 200.0
    assert found.count == math.ceil(found.watts / 300.0)
    assert 10.0 < found.outlet.band < 100.0
    assert found.parts.life[0] < found.parts.life[1] < found.parts.life[2]
    assert found.cut_helped.band > 3.0
    for part in found.parts.parts:
        assert part.margin.band is not None
        assert all(1.0 < way.band < 30.0 for way in part.ways)
    assert {one.key for one in found.gone} == {"sticks", "door"}
    assert with_heater(answer, 50.0, found.watts).solved.low == pytest.approx(50.0, abs=0.6)


def test_lines_wait_only_for_what_is_reached():
    heated = first_case(setup_of(heater_w=300.0, target_c=55.0, sensor_pct=25.0, heater_cap_c=70.0), CATALOGUE)
    told = [one.command for one in control_lines(heated, 55.0, 55.0, 900.0)]
    assert told == ["M140 S80", "M141 S55", "M191 S55", "", "M190 S80", "M141 S0"]
    never = control_lines(heated, 55.0, 48.0, 900.0)
    assert not any(one.command.startswith("M191") for one in never)
    assert next(one for one in never if one.why == "never").value == 48.0
    passive = control_lines(first_case(setup_of(), CATALOGUE), 40.0, 36.0, 1800.0)
    assert "G4 S1800" in [one.command for one in passive]
    assert passive[0].written("why") == "M140 S80 ; why"
    assert never[2].written("why") == "; why"


def test_panels_have_their_openings():
    setup = setup_of("panelled_frame", vents_open_pct=50.0, exhaust_m3h=25.0)
    panels = {one.name: one for one in panels_of(setup, CATALOGUE)}
    area = panels["left"].count("vent") * np.pi / 4.0 * VENT_MM**2 / 100.0
    assert area >= CATALOGUE.cases["panelled_frame"].vent_cm2.value
    assert all(hole.y < 0.0 for hole in panels["left"].holes if hole.kind == "vent")
    assert all(hole.y > 0.0 for hole in panels["right"].holes if hole.kind == "vent")
    assert (panels["back"].count("leads"), panels["back"].count("fan"), panels["back"].count("fan_screw")) == (1, 1, 4)
    for panel in panels.values():
        for hole in panel.holes:
            assert abs(hole.x) + 0.5 * hole.diameter < 0.5 * panel.width
            assert abs(hole.y) + 0.5 * hole.diameter < 0.5 * panel.height
    with pytest.raises(ValueError, match="nothing encloses"):
        panels_of(Setup(), CATALOGUE)


def test_leads_go_along_the_walls_to_one_opening():
    found = {one.key: one.length for one in lead_schedule(setup_of(width_mm=600.0, depth_mm=500.0, height_mm=700.0))}
    assert set(found) == {"bed", "motor"}
    assert found["motor"] == pytest.approx(520.0 + 500.0 + (688.0 - 52.0) + 300.0 + 450.0)
    heated = lead_schedule(setup_of(heater_w=200.0, heater_at="roof", exhaust_m3h=20.0, supply_at="inside_low"))
    assert {one.key for one in heated} == {"heater", "sensor", "cutout", "fan", "motor"}
    assert [one.length for one in heated] == sorted((one.length for one in heated), reverse=True)


# its own curve


def test_a_log_goes_with_its_clock_and_its_room():
    times = np.linspace(0.0, 3600.0, 60)
    bed = np.where(times < 600.0, 20.0, np.minimum(20.0 + 0.1 * (times - 600.0), 80.0))
    series = Series(times, {"bed": bed, "case_air": 20.0 + times / 400.0, "room": np.full(60, 18.0)}, 9.0)
    found = case_of(series)
    assert found.clock_h == pytest.approx(9.0 + 600.0 / 3600.0, abs=0.05)
    assert found.times[0] < 70.0
    assert found.room[0] == 18.0
    assert found.bed[1][-1] == bed[-1]
    assert found.bed[0][-1] == pytest.approx(3600.0 - (found.clock_h - 9.0) * 3600.0, abs=1.0)
    assert clocked(Setup(), found).schedule.start_h == pytest.approx(found.clock_h, abs=1e-3)
    with pytest.raises(ValueError, match="no column of the case"):
        case_of(Series(times, {"bed": bed}, None))
    assert case_of(Series(times, {"case_air": 20.0 + times / 400.0}, None)).bed is None
    flat = MeasuredCase(times, np.full(60, 20.0), None)
    with pytest.raises(ValueError, match="no warm-up of the case"):
        fit_case(resolve_chamber(setup_of(), CATALOGUE), lambda _time: PRINTING, flat)


def test_a_logged_bed_takes_the_place_of_the_runs_own():
    setup = patched(setup_of(), {"schedule": {"print_min": 60.0}})
    run = simulate(setup, CATALOGUE, tolerance=0.3)
    times, read = run.times, run.series["bed"]
    own, same = around_of(setup, CATALOGUE, run), around_of(setup, CATALOGUE, run, (times, read))
    late = around_of(setup, CATALOGUE, run, (times, read - 10.0))
    for time in (300.0, 1200.0, 3000.0):
        assert same(time).bed == pytest.approx(own(time).bed, abs=1e-9)
        assert late(time).bed == pytest.approx(own(time).bed - 10.0, abs=1e-9)
    short = around_of(setup, CATALOGUE, run, (times[:3], read[:3]))
    assert short(3000.0).bed == own(3000.0).bed  # after the log's end, as the model has it


# the order, and the board


HEATER: Procedure = CATALOGUE.procedures["case_heater"]


@pytest.mark.parametrize(
    ("case", "told"),
    [
        ({}, "No heater for the case"),
        ({"heater_w": 200.0}, "how warm the case is wanted"),
        ({"heater_w": 200.0, "target_c": 45.0, "sensor_pct": 25.0, "printed_plastic": "asa"}, "no cut-out of its own"),
        ({"heater_w": 200.0, "target_c": 45.0, "sensor_pct": 25.0, "printed_plastic": "asa", "cutout_c": 120.0},
         "lets the weakest part pass"),
        ({"heater_w": 200.0, "target_c": 60.0, "sensor_pct": 25.0, "supply_at": "inside_low", "cutout_c": 75.0},
         "Move, shield or replace"),
        ({"heater_w": 200.0, "target_c": 45.0, "sensor_pct": 25.0, "cutout_c": 57.0, "printed_plastic": "asa"}, ""),
    ],
)  # fmt: skip
def test_no_heater_is_fitted_without_a_cut_out_that_protects(case, told):
    setup = setup_of(**case)
    why = refusal(HEATER, Doing(), Setup(), CATALOGUE, setup)
    assert (told in why) if told else not why
    found = order(Doing(procedures=["case_heater"]), setup, CATALOGUE)
    assert any(line.bar == "refused" for line in found.lines) == bool(told)
    assert bool(heater_guard(setup, CATALOGUE)[0]) == bool(told)


def test_the_board_judges_the_case_and_finds_the_set(gannet):
    setup, _run = gannet
    wished = patched(setup, {"printing": {"nozzle_c": 232.0, "filament": "abs"}})
    case = {"heater_w": 200.0, "target_c": 50.0, "sensor_pct": 25.0}
    variants = {
        "heater": Variant(label="Heater", change={"case": case}, cost=60.0, minutes=150.0),
        "out": Variant(label="Supply outside", change={"case": {"supply_at": "outside"}}, cost=15.0, minutes=90.0),
    }
    assert subjects(variants).case
    assert not subjects({"v": Variant(label="V", change={"case": {"vents_open_pct": 40.0}})}).case
    base = column(wished, variants, (), CATALOGUE)
    assert base.margins["case_wanted"].room < -10.0
    both = column(wished, variants, ("heater", "out"), CATALOGUE)
    assert both.margins["case_wanted"].room >= 0.0
    assert both.margins["case_supply"].room > 15.0
    alone = column(wished, variants, ("heater",), CATALOGUE)
    assert alone.margins["case_supply"].room < 0.0
    best = cheapest_set(wished, variants, base, CATALOGUE)
    assert best is None or set(best.keys) == {"heater", "out"}

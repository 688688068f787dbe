"""Hotends, as every bench knows them."""

from __future__ import annotations

import math

import numpy as np
import pytest

from tests.bench_facts.machines import (
    LINED,
    TUBE_FED,
    air_that_jams,
    course,
    fan_dies,
    hours,
    jams,
    machine,
    settled,
)
from zeotherm.core.catalogue import shipped
from zeotherm.core.machine.documents import Setup, patched
from zeotherm.core.parts.hotend.judge.jams import sticking
from zeotherm.core.parts.hotend.model.solved import solve_hotend
from zeotherm.core.physics.jamming import melt_push

MIN, HOUR = 60.0, 3600.0
NEVER = math.inf


def base(setup: Setup) -> float:
    return settled(setup).readout.values["sink_base"]


def test_heat_up_an_ordinary_neck(fact):
    fact("heat up a steel neck, 205 °C", settled(machine()).readout.watts.up_break, 1.5, 5.0, "W")


def test_a_sink_above_its_air(fact):
    fact("sink base over its air, sound 30 mm fan", base(machine()) - 25.0, 5.0, 18.0, "K")


@pytest.mark.parametrize("air", [25.0, 30.0, 35.0])
def test_what_works_for_years_is_not_condemned(fact, air):
    setup = machine(air)
    assert not any(room < 0.0 for room, _when in course(setup).worst.values())
    fact(f"sound all-metal, {air:.0f} °C air: eight hours", jams(setup).chance(8.0), 0.85, 1.0, "chance")


@pytest.mark.parametrize(("air", "low", "high"), [(40.0, 4.0, NEVER), (45.0, 0.5, 24.0), (50.0, 5.0 / 60.0, 3.0)])
def test_warm_air_jams_a_steel_neck(fact, air, low, high):
    fact(f"steel neck, {air:.0f} °C air", hours(machine(air)), low, high, "h")


@pytest.mark.parametrize(("filament", "nozzle"), [("pla", 200.0), ("petg", 235.0)])
@pytest.mark.parametrize("air", [25.0, 30.0])
def test_lined_hotends_print(fact, filament, nozzle, air):
    setup = machine(air, **LINED, printing__filament=filament, printing__nozzle_c=nozzle)
    assert not any(room < 0.0 for room, _when in course(setup).worst.values())
    fact(
        f"lined, {filament.upper()} {nozzle:.0f} °C, {air:.0f} °C air: eight hours",
        jams(setup).chance(8.0),
        0.85,
        1,
        "chance",
    )


def test_a_liner_too_hot_is_named_first(fact):
    found = course(machine(**LINED, printing__filament="petg", printing__nozzle_c=255.0))
    assert found.worst_key == "liner_end"
    fact("liner at 255 °C, over", -found.worst["liner_end"][0], 5.0, 25.0, "K")


def test_long_retraction_through_a_tube(fact):
    five = {air: machine(air, **TUBE_FED, printing__retraction_mm=5.0) for air in (25.0, 35.0)}
    fact("5 mm through a tube, 25 °C air", hours(five[25.0]), 3.0, NEVER, "h")
    fact("5 mm through a tube, 35 °C air", hours(five[35.0]), 1.0, 12.0, "h")
    short, long = (jams(machine(35.0, **TUBE_FED, printing__retraction_mm=mm)).chance(8.0) for mm in (0.8, 8.0))
    assert short > jams(five[35.0]).chance(8.0) > long


@pytest.mark.parametrize(("filament", "nozzle", "air"), [
    ("petg", 240.0, 35.0), ("petg", 240.0, 45.0), ("abs", 245.0, 55.0), ("abs", 245.0, 65.0), ("pa", 265.0, 60.0),
    ("pc", 275.0, 60.0),
])  # fmt: skip
def test_warmer_plastics_stand_warmer_air(fact, filament, nozzle, air):
    setup = machine(air, printing__filament=filament, printing__nozzle_c=nozzle)
    assert course(setup).worst["feed"][0] >= 0.0
    fact(f"{filament.upper()} {nozzle:.0f} °C, {air:.0f} °C air", hours(setup), 8.0, NEVER, "h")


FAULTS = {
    "fan reversed": ({"fan__direction": "pull"}, 0.0, 8.0),
    "fan on half its volts": ({"fan__voltage_v": 12.0}, 4.0, 9.0),
    "guard 80 % shut": ({"fan__guard_blocked_pct": 80.0}, 1.0, 6.0),
}


@pytest.mark.parametrize("name", FAULTS)
def test_a_weak_fan_matters_in_warm_air(fact, name):
    change, low, high = FAULTS[name]
    fact(f"{name}, base over a sound fan's", base(machine(**change)) - base(machine()), low, high, "K")
    fact(f"{name}, 40 °C air", hours(machine(40.0, **change)), 0.0, 6.0, "h")
    fact(f"{name}, 25 °C air", hours(machine(25.0, **change)), 8.0, NEVER, "h")


def test_a_dead_fan_is_never_excused(fact):
    found = {}
    for neck, low, high in (("steel", 65.0, 110.0), ("titanium", 50.0, 85.0)):
        job = course(fan_dies(machine(hotend__break_part=neck)))
        printing = job.printing_marks
        fact(f"dead fan, {neck} neck: base settles", float(job.series["sink_base"][printing][-1]), low, high, "°C")
        found[neck] = job, job.jams().stated - 60.0 * MIN
    job, jam = found["steel"]
    hot = job.run.times[(job.series["sink_base"] > 60.0) & (job.run.times > 60.0 * MIN)]
    fact("dead fan, steel neck: base above 60 °C", float(hot[0]) / MIN - 60.0, 3.0, 15.0, "min")
    fact("dead fan, steel neck: jam", jam / MIN, 3.0, 20.0, "min")
    assert jam < found["titanium"][1] < 120.0 * MIN, "later, and surely"


def test_warm_air_at_the_block_reaches_a_sink_without_a_stream(fact):
    for name, change, low, high in (("dead", {"fan__voltage_v": 0.0}, 2.0, 12.0), ("running", {}, -0.5, 1.5)):
        warm = base(machine(surroundings__block_air_c=60.0, **change))
        fact(f"block's air 30 K warmer, fan {name}: base", warm - base(machine(**change)), low, high, "K")


def test_the_air_that_jams_in_four_hours_by_build(fact):
    steel = air_that_jams()
    titanium, bimetal = (air_that_jams(hotend__break_part=neck) for neck in ("titanium", "bimetal"))
    fact("air that jams in 4 h, titanium over steel", titanium - steel, 0.5, 15.0, "K")
    fact("air that jams in 4 h, bimetal beside titanium", abs(bimetal - titanium), 0.0, 4.0, "K")
    fact("air that jams in 4 h, dry joint below pasted", steel - air_that_jams(hotend__sink_joint="dry"), 2.0, 7.0, "K")
    shut = [air_that_jams(fan__guard_blocked_pct=share) for share in (80.0, 90.0)]
    fact("air that jams in 4 h, guard 90 % below 80 %", shut[0] - shut[1], 0.3, 10.0, "K")


def test_air_from_the_room_mends_a_warm_case(fact):
    case = {"part": "side_vented", "heater_w": 300.0, "target_c": 47.0, "sensor_pct": 25.0, "vents_open_pct": 0.0}
    warm = {"case": case, "surroundings": {"air_from": "duct"}, "room": {"mean_c": 22.0}}
    setup = patched(machine(), warm)
    found = course(setup)
    assert 45.0 < found.series["case_air"][found.printing_marks][-1] < 50.0
    fact("duct from the room in a warm case, chance of eight hours", jams(setup).chance(8.0), 0.85, 1.0, "chance")
    assert found.worst["feed"][0] >= 0.0


@pytest.mark.parametrize(("sleeve", "low", "high"), [("none", 60.0, 90.0), ("silicone", 60.0, 130.0)])
def test_forty_watts_warm_an_aluminium_block(fact, sleeve, low, high):
    run = course(machine(hotend__sleeve=sleeve, schedule__soak_min=0.0, schedule__print_min=10.0)).run
    fact(f"40 W, aluminium block to 203 °C, sleeve {sleeve}", float(run.printing_from), low, high, "s")


def test_a_plug_that_freezes(fact):
    cut = {"schedule__fan_after": "stops", "schedule__cool_min": 60.0, "schedule__print_min": 60.0}
    left = course(machine(**cut)).plug
    fact("fan cut with the block hot, next start: sticks", left.sticks if left else 0.0, 0.0, 0.5, "chance")
    dead = course(machine(fan__voltage_v=0.0, **cut)).plug
    assert dead is not None
    fact("dead fan for an hour, then cold: plug", dead.length, 10.0, 40.0, "mm")
    fact("the same, next start: sticks", dead.sticks, 0.2, 1.0, "chance")
    for length, low, high in ((3.0, 0.0, 0.1), (12.0, 0.2, 1.0)):
        sticks = sticking(length, dead.drive, dead.melt, shipped())
        fact(f"{length:.0f} mm frozen, next start: sticks", sticks, low, high, "chance")
    assert course(machine(schedule__print_min=60.0, schedule__cool_min=60.0)).plug is None


def test_standby_does_no_harm(fact):
    found = solve_hotend(machine(printing__nozzle_c=160.0), shipped(), idle=True).readout.values["soft_length"]
    fact("standby at 160 °C for good: soft length", found, 0.0, 0.73, "mm")


def test_a_pause_at_standby_goes_on_hot(fact):
    stands = {"one": {"after_min": 60.0, "minutes": 60.0, "nozzle_c": 160.0}}
    setup = patched(machine(), {"schedule": {"pauses": stands, "print_min": 120.0}})
    job = course(setup)
    fact("hour at 160 °C, then on: chance of eight hours", jams(setup).chance(8.0), 0.85, 1.0, "chance")
    paused = np.array([job.run.stretches[mark.stretch].kind == "pause" for mark in job.run.marks])
    block = job.series["block"]
    assert block[paused].min() == pytest.approx(160.0, abs=1.0)
    resumed = int(np.flatnonzero(paused)[-1])
    assert block[resumed] == pytest.approx(205.0, abs=2.5), "hot again before filament flows"
    again = [stretch for stretch in job.run.stretches if stretch.kind == "pause"][-1]
    assert not job.run.not_reached
    fact("back to 205 °C after standby", again.end - again.start, 15.0, 120.0, "s")
    assert job.series["soft_length"][paused].min() < 0.73


def test_a_hot_pause_starts_again(fact):
    setup = patched(machine(), {"schedule": {"pauses": {"one": {"after_min": 60.0, "minutes": 15.0}}}})
    fact("hot pause of 15 min, 25 °C air, fan on: feeds for", hours(setup), 8.0, NEVER, "h")


def test_a_fan_cut_with_the_block_hot(fact):
    job = course(machine(schedule__fan_after="stops", schedule__cool_min=30.0, schedule__print_min=60.0))
    after = job.run.times > job.run.off
    rise = job.series["sink_base"][after] - job.series["sink_base"][~after][-1]
    fact("fan cut with the block hot: base", float(rise.max()), 10.0, 35.0, "K")
    fact(
        "fan cut with the block hot: warmest after",
        (job.run.times[after][int(np.argmax(rise))] - job.run.off) / MIN,
        2.0,
        8.0,
        "min",
    )


def flow_that_buckles(filament: str, **change: object) -> float:
    """Flow at which flexible filament buckles between drive and hotend [mm³/s]."""
    low, high = 0.05, 30.0
    for _turn in range(12):
        flow = 0.5 * (low + high)
        solved = settled(machine(printing__filament=filament, printing__nozzle_c=225.0,
                                 printing__flow_mm3_s=flow, **change))  # fmt: skip
        low, high = (flow, high) if solved.readout.values["push"] < solved.resolved.inputs.buckles else (low, flow)
    return low


def test_flexible_filament_buckles_before_the_drive_slips(fact):
    for name, key, low, high in (("TPU 95A", "tpu_95a", 1.0, 5.0), ("TPU 85A", "tpu_85a", 0.5, 2.0)):
        fact(f"{name}, plain drive: filament buckles from", flow_that_buckles(key), low, high, "mm³/s")
        soft = {"printing__filament": key, "printing__nozzle_c": 225.0}
        for air in (20.0, 40.0):
            setup = machine(air, **soft, hotend__open_path_mm=7.0)
            assert course(setup).worst["strand"][0] < 0.0
            fact(f"{name}, 7 mm open path, {air:.0f} °C air: eight hours", jams(setup).chance(8.0), 0.0, 0.4, "chance")
            assert hours(setup) < 0.1
        guided = machine(**soft, hotend__open_path_mm=1.5, printing__flow_mm3_s=low)
        fact(f"{name}, guided to 1.5 mm, {low:g} mm³/s: eight hours", jams(guided).chance(8.0), 0.85, 1.0, "chance")
    assert "strand" not in course(machine()).worst, "a rigid strand grinds first"
    assert course(machine(hotend__open_path_mm=20.0)).worst["strand"][0] > 0.0


def flow_that_clicks(**change: object) -> float:
    """Flow at which a plain drive grinds [mm³/s]: where the melt zone takes all its push."""
    low, high = 0.5, 60.0
    for _turn in range(12):
        flow = 0.5 * (low + high)
        solved = settled(machine(printing__flow_mm3_s=flow, **change))
        given, core = solved.resolved.inputs, solved.readout.values["exit_core"]
        push = float(melt_push(flow * 1e-9, given.orifice, 1.75e-3, given.usual_core - core))
        low, high = (flow, high) if push < given.drive else (low, flow)
    return low


def test_the_flow_at_which_a_drive_clicks(fact):
    usual = flow_that_clicks()
    fact("0.4 mm nozzle, ordinary melt zone, PLA: drive clicks", usual, 10.0, 20.0, "mm³/s")
    fine = flow_that_clicks(hotend__nozzle_mm=0.2)
    fact("0.2 mm nozzle, ordinary melt zone, PLA: drive clicks", fine, 1.0, 4.0, "mm³/s")
    longer = flow_that_clicks(hotend__template="long_melt_all_metal")
    fact("long melt zone, over that", 100.0 * (longer / usual - 1.0), 30.0, 100.0, "%")
    insert = flow_that_clicks(hotend__nozzle="brass_insert")
    fact("flow insert, over that", 100.0 * (insert / usual - 1.0), 30.0, 100.0, "%")


def test_a_heater_gives_no_less_the_faster_it_is_fed(fact):
    change = {"hotend__heater_power_w": 80.0, "printing__nozzle_c": 205.0}
    watts = [settled(machine(printing__flow_mm3_s=flow, **change)).readout.watts.heater
             for flow in (5.0, 10.0, 15.0, 20.0, 30.0, 40.0)]  # fmt: skip
    fact("heater's watts from one flow to the next, up to 40 mm³/s", min(np.diff(watts)), 0.0, 5.0, "W")


def test_a_gap_at_a_liner_jams_in_cool_air_too(fact):
    job = course(machine(**LINED, printing__nozzle_c=200.0, hotend__liner_short_mm=0.35, schedule__print_min=1380.0))
    first = next(one for one in job.failures() if one.key == "coupler_gap")
    fact("liner 0.35 mm short, 25 °C air: jam", first.likely / HOUR, 2.0, 72.0, "h")


def test_a_part_fan_cools_the_block_not_the_sink(fact):
    still, blown = (settled(machine(printing__part_fan_pct=share)) for share in (0.0, 100.0))
    fact(
        "part fan on a bare block",
        100.0 * (blown.readout.watts.heater / still.readout.watts.heater - 1.0),
        10.0,
        60.0,
        "%",
    )
    bases = [one.readout.values["sink_base"] for one in (still, blown)]
    fact("part fan, sink base", abs(bases[1] - bases[0]), 0.0, 2.0, "K")

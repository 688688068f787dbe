"""The power path's twin and what is judged of it: temperatures, volts, sizes, readings, wrong voltages, wirings."""

from __future__ import annotations

import math
import re
from dataclasses import replace
from datetime import date, timedelta

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from zeotherm.core.catalogue import shipped
from zeotherm.core.catalogue.lookup import DoesNotFitError
from zeotherm.core.judgement.margins import State
from zeotherm.core.machine.documents import Setup, patched
from zeotherm.core.machine.patches import value_at
from zeotherm.core.machine.quantity import Quantity, declared
from zeotherm.core.parts.enclosure.judge.answer import own_rise
from zeotherm.core.parts.hotend.model.inputs import resolve
from zeotherm.core.parts.power.judge.ageing import lasting, retorque_hours, retorque_jobs, runs_away
from zeotherm.core.parts.power.judge.answer import (
    STANDING,
    Loads,
    PowerAnswer,
    first_power,
    mean_watts,
    path_air,
    with_power_course,
)
from zeotherm.core.parts.power.judge.changes import goes_with, path_of_bed, with_company
from zeotherm.core.parts.power.judge.readings import at_wall, compare, from_drop, from_warmth
from zeotherm.core.parts.power.judge.sizing import size_power
from zeotherm.core.parts.power.judge.sure import full_power
from zeotherm.core.parts.power.judge.voltage import matrix, mismatches
from zeotherm.core.parts.power.model import supply
from zeotherm.core.parts.power.model.in_time import PathMoment, time_to
from zeotherm.core.parts.power.model.inputs import resolve_path
from zeotherm.core.parts.power.model.model import FULL, Duty, PathAir, PathModel, solve_path
from zeotherm.core.parts.power.model.volts import heater_volts, lost_late, volts_share
from zeotherm.core.parts.whole.around import resolve_around
from zeotherm.core.parts.whole.run import simulate
from zeotherm.core.physics.wiring import gauge_area
from zeotherm.wording import power as words

CATALOGUE = shipped()
BENCH = PathAir(25.0, 25.0, 40.0, 25.0, 25.0, 80.0, 35.0)
LOAD = {"bed": {"part": "wide_bed", "heater_w": 310.0, "target_c": 75.0}, "room": {"mean_c": 20.0}}


def setup_of(**power: object) -> Setup:
    return patched(Setup(), {**LOAD, "power": {"path": "bed_on_board", "lead": {"mm2": 2.5, "metres": 1.2}, **power}})


def answer_of(**power: object) -> PowerAnswer:
    return first_power(setup_of(**power), CATALOGUE, air=BENCH)


# what must come out


def test_a_sound_joint_is_mostly_warmed_by_its_wire():
    path = answer_of(lead={"mm2": 0.75, "metres": 1.2}, plug={"kind": "cup_soldered"}).solved
    without = replace(path.model.inputs, plug=replace(path.model.inputs.plug, ohms=1e-6))
    own = path.contact("plug") - solve_path(PathModel(without), BENCH).contact("plug")
    assert own < 0.4 * (path.contact("plug") - 25.0)


def test_a_part_rated_far_above_its_current_still_fails_with_a_bad_joint():
    good, bad = (answer_of(plug={"kind": "cup_soldered", "milliohm": mohm}) for mohm in (0.6, 40.0))
    assert good.margin("power_plug_amps").value < 0.4 * good.margin("power_plug_amps").limit
    assert good.margin("power_plug").state is State.CLEAR
    assert bad.margin("power_plug").state is State.OVER


def test_a_better_connector_hardly_helps_where_the_current_is_the_fault():
    worn, new = (answer_of(plug={"kind": "crimped_plug", "state": state}) for state in ("aged", "sound"))
    for answer in (worn, new):
        assert answer.margin("power_plug_amps").state is State.OVER
    assert new.values["power_plug_amps"] == pytest.approx(worn.values["power_plug_amps"], rel=0.01)


def test_twenty_milliohms_at_twelve_amperes_make_about_three_watts():
    told, sound = from_drop(0.240, 12.0, 0.001, 0.2), from_drop(0.012, 12.0, 0.001, 0.2)
    assert told.watts == pytest.approx(2.88)
    assert sound.watts == pytest.approx(0.144)


def test_by_passing_the_board_gives_the_bed_more_volts_and_more_watts():
    board, own = answer_of(), answer_of(path="bed_by_module", switch="module_transistor")
    assert own.full.bed_volts > board.full.bed_volts
    assert own.full.bed_watts / board.full.bed_watts == pytest.approx(
        (own.full.bed_volts / board.full.bed_volts) ** 2, rel=1e-3
    )


def test_clad_wire_loses_half_as_much_again_as_copper():
    copper, clad = (answer_of(lead={"mm2": 1.5, "metres": 2.0, "metal": one}) for one in ("copper", "clad_aluminium"))
    ratio = clad.full.lost("lead") / clad.full.amps.bed / (copper.full.lost("lead") / copper.full.amps.bed)
    assert 1.45 < ratio < 1.65


def test_what_grows_faster_than_it_is_shed_runs_away_and_says_when():
    path = answer_of(plug={"milliohm": 120.0}).solved
    assert path.runs_away
    after = time_to(path.model, PathMoment(BENCH, FULL), "plug", 85.0)
    assert after is not None
    assert 2.0 < after < 120.0
    told = runs_away(answer_of(plug={"milliohm": 120.0}))
    assert (told.part, told.limit) == ("plug", 85.0)
    assert 2.0 < told.after < 120.0
    assert runs_away(answer_of()) is None
    cool = answer_of(plug={"milliohm": 3.0}).solved
    assert not cool.runs_away
    assert time_to(cool.model, PathMoment(BENCH, FULL), "plug", 85.0, longest=1200.0) is None


@settings(max_examples=25, deadline=None)
@given(st.floats(0.5, 15.0), st.floats(0.5, 6.0), st.floats(0.2, 4.0), st.floats(1.05, 2.0))
def test_more_ohms_never_cool_a_contact_and_more_copper_never_warms_a_wire(mohm, mm2, metres, more):
    lead = {"mm2": mm2, "metres": metres}
    base = answer_of(plug={"milliohm": mohm}, lead=lead)
    worse = answer_of(plug={"milliohm": mohm * more}, lead=lead)
    thick = answer_of(plug={"milliohm": mohm}, lead={**lead, "mm2": mm2 * more})
    assert worse.solved.contact("plug") > base.solved.contact("plug") - 1e-6
    assert worse.full.bed_volts < base.full.bed_volts
    assert thick.solved.wire_ohms("lead") < base.solved.wire_ohms("lead")
    assert thick.full.bed_volts > base.full.bed_volts
    made, given_off = base.solved.shed
    assert made == pytest.approx(given_off, rel=1e-6)


def test_a_worn_hotend_plug_costs_volts_long_before_it_browns():
    """A few amps hardly warm it; the hotend falls short of its watts while the bed is sound."""
    large = {"kind": "crimped_plug"}
    sound, worn = (answer_of(heater_plug=large | one) for one in ({}, {"milliohm": 900.0, "state": "aged"}))
    assert sound.margin("power_heater_volts").state is State.CLEAR
    assert worn.margin("power_heater_volts").state is State.SHORT
    assert worn.margin("power_heater_plug").state is State.CLEAR
    assert worn.solved.contact("heater_plug") > sound.solved.contact("heater_plug") + 8.0
    assert worn.full.heater_watts < 0.9 * sound.full.heater_watts
    assert worn.full.bed_volts == pytest.approx(sound.full.bed_volts, abs=2e-3)
    told = from_warmth(sound, "heater_plug", worn.solved.contact("heater_plug"), 2.0)
    assert told.milliohm == pytest.approx(1e3 * worn.solved.contact_ohms("heater_plug"), rel=0.02)


def test_loads_on_one_feed_take_volts_from_each_other_and_loads_apart_do_not():
    thin = {"feed": {"mm2": 0.75, "metres": 1.5}}
    model = answer_of(**thin).solved.model
    alone, both = (solve_path(model, BENCH, duty=Duty(bed, 1.0)) for bed in (0.0, 1.0))
    assert both.heater_volts < alone.heater_volts - 0.3
    apart = answer_of(path="bed_by_module", switch="module_transistor", **thin).solved.model
    alone, both = (solve_path(apart, BENCH, duty=Duty(bed, 1.0)) for bed in (0.0, 1.0))
    assert both.heater_volts == pytest.approx(alone.heater_volts, abs=1e-9)


def test_a_plug_that_works_loose_in_the_job_warms_from_then_on():
    fault = {"label": "Bed's plug works loose", "at_min": 60.0, "change": CATALOGUE.faults["bed_plug_loosens"].change}
    setup = patched(setup_of(), {"faults": {"loose": fault}})
    run = simulate(setup, CATALOGUE)
    answer = with_power_course(first_power(setup, CATALOGUE, air=BENCH), run)
    warm = answer.run.series("plug")
    before, after = (float(np.interp(time, answer.run.times, warm)) for time in (3590.0, 4500.0))
    assert after > before + 10.0
    assert answer.run.moment(4500.0).contact_ohms("plug") > 3.0 * answer.run.moment(3500.0).contact_ohms("plug")
    assert answer.run.closure < 1e-6


def test_a_switch_that_gets_too_warm_is_told_its_heatsink():
    hot = first_power(setup_of(), CATALOGUE, air=replace(BENCH, board=60.0))
    relay = next(one for one in size_power(hot).switches if one.key == "relay")
    assert relay.sink is not None
    told = CATALOGUE.switches["relay"]
    cooled = replace(hot.resolved.inputs.switch, ohms=1e-3 * told.milliohm.value, per_k=told.per_k.value,
                     drop=told.drop_v.value, own=told.own_w, service=told.service_c.value,
                     cooled=told.cooled_w_k.value + 1.0 / relay.sink)  # fmt: skip
    solved = solve_path(PathModel(replace(hot.resolved.inputs, switch=cooled)), hot.air, duty=hot.solved.duty)
    assert solved.switch_c == pytest.approx(told.service_c.value - 10.0, abs=0.2)
    hotter = size_power(first_power(setup_of(), CATALOGUE, air=replace(BENCH, board=95.0))).switches
    assert next(one for one in hotter if one.key == "relay").sink == 0.0
    cool = size_power(answer_of())
    assert all(one.sink is None for one in cool.switches if one.fits)
    assert all(1.0 < one.band < 80.0 for one in (*cool.contacts, *cool.switches))
    assert 5.0 < cool.supply.asked_band < cool.supply.band < 0.3 * cool.supply.model


def test_the_worst_hour_is_found_by_its_mean():
    times = np.array([0.0, 600.0, 600.1, 7200.0, 10800.0])
    mean = np.array([400.0, 400.0, 100.0, 100.0, 100.0])
    hour, start = Loads(mean, mean, mean, mean).worst_hour(times)
    assert start == 0.0
    assert hour == pytest.approx((600.0 * 400.0 + 3000.0 * 100.0) / 3600.0, rel=1e-3)
    short = mean[:2]
    assert Loads(short, short, short, short).worst_hour(times[:2])[0] == pytest.approx(400.0)


def test_what_a_path_loses_warms_its_case():
    thin = {"lead": {"mm2": 0.75, "metres": 2.0}}
    inside = {"case": {"part": "bench_locker", "supply_at": "inside_low", "board_at": "inside_low"}}
    around = [resolve_around(patched(setup_of(**one), inside), CATALOGUE).around for one in ({}, thin)]
    lost = [lost_late(resolve_path(setup_of(**one), CATALOGUE).inputs, 20.0, 75.0, 120.0) for one in ({}, thin)]
    assert lost[1]["machine"] > lost[0]["machine"] + 1.0
    assert around[1].own_low > around[0].own_low + 0.7 * (lost[1]["machine"] - lost[0]["machine"])


# what is declared


def moved(path: str) -> tuple[PowerAnswer, PowerAnswer]:
    item = declared(Setup)[path]
    assert isinstance(item, Quantity)
    setup = setup_of(fuse_a=20.0, output_fans_w=6.0, strip_w=100.0, plug={"milliohm": 5.0}, tabs={"milliohm": 1.0},
                     supply_terminal={"milliohm": 1.0}, feed_terminal={"milliohm": 1.0}, feed={"bundle": 6.0},
                     heater_terminal={"milliohm": 1.0}, heater_plug={"milliohm": 4.0},
                     lead={"bundle": 6.0}, years=4.0)  # fmt: skip
    names = path.split(".")
    value = float(value_at(setup, path))
    patch: object = min(value * 1.3 + 0.01, item.high)
    for name in reversed(names):
        patch = {name: patch}
    return tuple(first_power(one, CATALOGUE, air=BENCH) for one in (setup, patched(setup, patch)))


@pytest.mark.parametrize(
    "path", [path for path, item in declared(Setup).items() if path.startswith("power.") and isinstance(item, Quantity)]
)
def test_every_number_of_the_path_reaches_a_figure(path):
    before, after = moved(path)
    figures = [(one.value, one.limit) for one in before.margins], [(one.value, one.limit) for one in after.margins]
    told = [dict(zip((one.key for one in each.margins), pair, strict=True))
            for each, pair in zip((before, after), figures, strict=True)]  # fmt: skip
    assert told[0] != told[1] or path in ("power.mains_v", "power.selector_v"), (
        "those are judged by the volts they stand for"
    )


def test_a_path_that_does_not_feed_its_bed_is_refused_at_the_field():
    with pytest.raises(DoesNotFitError, match="does not feed one") as wrong:
        resolve_path(setup_of(path="mains_bed", switch="solid_state_sink"), CATALOGUE)
    assert wrong.value.path == "power.path"
    with pytest.raises(DoesNotFitError, match="direct current"):
        resolve_path(setup_of(switch="solid_state"), CATALOGUE)
    with pytest.raises(ValueError, match="greater than or equal"):
        setup_of(lead={"metres": 0.0})
    with pytest.raises(ValueError, match="greater than or equal"):
        setup_of(plug={"milliohm": -3.0})
    with pytest.raises(ValueError, match="off the table"):
        gauge_area(52.0)


def test_an_undescribed_path_says_nothing_and_leaves_the_stated_volts():
    setup = patched(Setup(), {**LOAD, "bed": {**LOAD["bed"], "volts_pct": 93.0}})
    assert volts_share(setup, CATALOGUE) == pytest.approx(0.93)
    with pytest.raises(ValueError, match="not described"):
        first_power(setup, CATALOGUE)
    assert volts_share(setup_of(), CATALOGUE) == pytest.approx(answer_of().full.bed_volts / 24.0, abs=2e-3)


def test_a_new_joint_is_sound_and_a_new_path_has_its_switch():
    assert set(goes_with("power.plug.kind")) == {"power.plug.milliohm", "power.plug.state"}
    patch = with_company("power.plug.kind", "cup_soldered", CATALOGUE)
    assert patch == {"power": {"plug": {"kind": "cup_soldered", "milliohm": 0.0, "state": "sound"}}}
    assert with_company("power.path", "mains_bed", CATALOGUE)["power"]["switch"] == "solid_state_sink"
    assert path_of_bed(setup_of(), "large_mains_bed", CATALOGUE)["power"]["path"] == "mains_bed"
    assert path_of_bed(setup_of(), "wide_bed", CATALOGUE) == {}


# bands and strengths


def test_bands_and_strengths_come_with_the_full_answer():
    answer = full_power(answer_of(plug={"milliohm": 15.0}, supply_w=600.0))
    assert answer.bands.values["power_plug"].up > 2.0
    gains = {one.path: one.gain for one in answer.strengths}
    assert gains["power.plug.kind"] > 0.0
    assert "power.lead.mm2" in gains
    worst = answer.worst.key
    by = {one.path: one for one in answer.strengths}["power.plug.kind"]
    after = first_power(patched(answer.setup, with_company(by.path, by.to, CATALOGUE)), CATALOGUE, air=BENCH)
    assert after.margin(worst).room - answer.worst.room == pytest.approx(by.gain, abs=1e-6)


# the supply


def test_derating_is_its_data_sheets_curve():
    kind = CATALOGUE.supplies["boxed_fanless"]
    assert [supply.derated(kind, one) for one in (20.0, 45.0, 57.5, 70.0, 75.0)] == pytest.approx(
        [1.0, 1.0, 0.725, 0.45, 0.0]
    )
    assert supply.derated(kind, 45.0, 70e3) < 1.0  # thin air
    assert supply.inlet_limit(kind, 0.725) == pytest.approx(57.5)
    for share in (0.5, 0.8, 0.95):
        assert supply.derated(kind, supply.inlet_limit(kind, share)) == pytest.approx(share)


def test_a_load_list_with_a_known_sum_is_rated_with_headroom_and_derated_in_a_warm_bay():
    cool = answer_of(motors_w=20.0, fans_w=10.0, lights_w=2.0)
    amps = cool.full.amps
    assert cool.asked == pytest.approx(24.0 * 24.0 / (310.0**-1 * 576.0 + 0.044) + 80.0, rel=0.03)
    assert amps.feed > amps.bed
    sizes = size_power(cool).supply
    assert sizes.rule == pytest.approx(1.25 * cool.asked)
    hot = first_power(setup_of(motors_w=20.0, fans_w=10.0, lights_w=2.0), CATALOGUE, air=replace(BENCH, supply=55.0))
    assert size_power(hot).supply.model > 1.2 * sizes.model
    assert size_power(hot).supply.offered > sizes.offered


def test_a_staged_warm_up_asks_for_less_and_costs_minutes():
    staged = size_power(answer_of(supply_w=370.0)).staged
    assert staged.one_by_one < staged.at_once
    assert staged.minutes > 0.0
    assert 0.5 < staged.throttled < 1.0
    assert staged.throttled_minutes > 0.0
    assert size_power(answer_of(supply_w=200.0)).staged.throttled is None


def test_a_fuse_lies_between_its_load_and_its_wire():
    fuse = size_power(answer_of()).fuse
    assert fuse.load <= 0.8 * fuse.offered
    assert fuse.offered <= fuse.carries
    thin = answer_of(lead={"mm2": 0.34, "metres": 0.5, "insulation": "pvc"}, fuse_a=20.0)
    assert size_power(thin).fuse.offered is None
    assert thin.margin("power_fuse_wire").state is State.OVER


def test_wires_are_sized_by_drop_when_long_and_by_warmth_when_short():
    wires = {one.name: one for one in size_power(answer_of(lead={"mm2": 1.0, "metres": 4.0})).wires}
    assert wires["lead"].by_drop > wires["lead"].by_warmth
    assert wires["feed"].by_warmth >= wires["feed"].by_drop
    assert wires["lead"].wanted == wires["lead"].by_drop


def test_wrong_ways_of_joining_never_fit_and_loads_beyond_their_output_are_told():
    sizes = size_power(answer_of())
    assert not any(one.fits for one in sizes.contacts if CATALOGUE.contacts[one.key].wrong)
    assert sizes.contacts[0].fits
    assert sizes.outputs[0].key == "bed"
    assert sizes.outputs[0].load > 1.0


# readings


def test_a_joint_is_found_again_by_its_own_warmth():
    answer = answer_of(plug={"milliohm": 14.0})
    told = from_warmth(answer_of(), "plug", answer.solved.contact("plug"), 2.0)
    warm = answer.solved.contact_ohms("plug")
    assert told.milliohm == pytest.approx(1e3 * warm, rel=0.02)
    assert told.down > 0.5
    assert told.up > 0.5
    assert told.watts == pytest.approx(answer.solved.amps.bed_mean**2 * warm, rel=0.1)
    with pytest.raises(ValueError, match="cooler than its wires"):
        from_warmth(answer, "plug", 12.0, 1.0)


def test_a_joint_that_a_small_current_cannot_warm_tells_nothing():
    answer = answer_of(plug={"milliohm": 1.0})
    small = patched(answer.setup, {"bed": {"part": "small_bed", "heater_w": 10.0}})
    told = first_power(small, CATALOGUE, air=BENCH)
    with pytest.raises(ValueError, match="hotter than the model"):
        from_warmth(told, "plug", 350.0, 2.0)
    assert lasting(told) is None or lasting(told).times > 1.0


def test_readings_that_tell_nothing_are_refused_with_what_to_do():
    with pytest.raises(ValueError, match="bed on"):
        from_drop(0.02, 0.1, 0.001, 0.01)
    with pytest.raises(ValueError, match="swap the probes"):
        from_drop(-0.02, 10.0, 0.001, 0.1)
    with pytest.raises(ValueError, match="cannot be"):
        at_wall(230.0, 1.0, 400.0)
    with pytest.raises(ValueError, match="needs a load"):
        compare((60.0, 20.0, 0.0), (30.0, 20.0, 12.0))


def test_the_wall_meter_tells_factor_and_efficiency():
    told = at_wall(230.0, 2.5, 345.0, 300.0)
    assert told.factor == pytest.approx(0.6)
    assert told.efficiency == pytest.approx(300.0 / 345.0)
    assert told.lost == pytest.approx(45.0)


def test_surveys_under_unlike_loads_compare_by_the_square_of_their_amperes():
    same = compare((65.0, 20.0, 12.0), (40.0, 20.0, 8.0))
    assert same.times == pytest.approx(1.0)
    mended = compare((95.0, 25.0, 12.0), (33.0, 25.0, 12.0))
    assert mended.times + mended.doubt < 0.3


def test_a_joint_says_how_far_it_may_age_and_never_in_years():
    sound, aged = (lasting(answer_of(plug={"state": state})) for state in ("sound", "aged"))
    assert aged.contact == "plug"
    assert aged.limit == pytest.approx(aged.times * aged.milliohm)
    assert sound is None or sound.times > aged.times
    told = words.lasts(aged)
    assert "year" not in told
    assert "measure it again" in told
    assert retorque_hours(answer_of()) == 500.0
    assert retorque_jobs(answer_of()) == pytest.approx(500.0 / 4.0, rel=0.5)
    told = words.retorque(answer_of(), date(2026, 3, 2))
    by = date(2026, 3, 2) + timedelta(days=math.floor(retorque_jobs(answer_of())))
    assert told.endswith(f"by {by}.")
    soldered = {name: {"kind": "direct"} for name in ("supply_terminal", "feed_terminal", "heater_terminal")}
    assert retorque_hours(answer_of(**soldered)) is None
    assert "Nothing" in words.retorque(answer_of(**soldered), date(2026, 3, 2))


# the voltage


def test_four_voltages_by_four():
    volts = (5.0, 12.0, 24.0, 48.0)
    times = matrix(volts)
    assert len(times) == 16
    assert all(times[one, one] == 1.0 for one in volts)
    assert times[24.0, 12.0] == 0.25
    assert times[12.0, 24.0] == 4.0
    assert all(times[a, b] * times[b, a] == pytest.approx(1.0) for a in volts for b in volts)


@pytest.mark.parametrize(("rated", "gets", "burns"), [(12.0, 24.0, True), (24.0, 12.0, False), (24.0, 48.0, True)])
def test_a_wrong_voltage_is_told_with_what_it_would_do(rated, gets, burns):
    parts = {"hotend": {"heater_rated_v": rated, "supply_v": gets}, "fan": {"voltage_v": 24.0}}
    (first, *_rest) = mismatches(patched(Setup(), parts), CATALOGUE)
    assert first.part == "heater"
    described = patched(setup_of(out_v=gets), parts | {"hotend": {"heater_rated_v": rated, "supply_v": rated}})
    found = {one.part: one for one in mismatches(described, CATALOGUE)}
    assert found["heater"] == first
    assert first.times == pytest.approx((gets / rated) ** 2)
    assert first.burns is burns
    assert not mismatches(setup_of(), CATALOGUE)


def test_the_hotend_has_what_its_way_leaves_of_the_volts():
    thin = setup_of(heater_lead={"mm2": 0.14, "metres": 2.0})
    stated = patched(thin, {"power": {"path": "unknown"}, "hotend": {"supply_v": 24.0}})
    full = first_power(thin, CATALOGUE, air=BENCH).full
    here, told = resolve(thin, CATALOGUE), resolve(stated, CATALOGUE)
    assert full.heater_volts < 23.2
    assert here.inputs.heater_power == pytest.approx(
        told.inputs.heater_power * (full.heater_volts / 24.0) ** 2, rel=4e-3
    )
    assert here.doubts["heater_power"] / here.inputs.heater_power > 0.08
    assert resolve(thin, CATALOGUE, solved=False).inputs.heater_power == pytest.approx(told.inputs.heater_power)
    assert heater_volts(stated, CATALOGUE, {}) == (24.0, pytest.approx(0.3))


def test_motors_draw_while_they_print_and_less_while_they_stand():
    plan = {"schedule": {"print_min": 60.0, "pauses": {"one": {"after_min": 30.0, "minutes": 20.0}}}}
    setup = patched(setup_of(motors_w=40.0), plan)
    run = simulate(setup, CATALOGUE, tolerance=0.3)
    answer = with_power_course(first_power(setup, CATALOGUE), run)
    pause = next(stretch for stretch in run.stretches if stretch.kind == "pause")
    moves = [
        answer.run.moments(time).duty.motors for time in (pause.start - 60.0, pause.start + 60.0, pause.end + 60.0)
    ]
    assert moves == [1.0, STANDING, 1.0]
    one = answer.run.moment(pause.start - 60.0)
    still = replace(one, duty=replace(one.duty, motors=STANDING))
    assert mean_watts(one)["S1"] - mean_watts(still)["S1"] == pytest.approx((1.0 - STANDING) * 40.0)
    assert all(np.abs(answer.run.times - edge).min() < 0.1 for edge in (pause.start, pause.end))
    given = answer.resolved.inputs
    assert given.drawn(1.0, 1.0) == given.others
    assert given.drawn(0.0, 1.0) == pytest.approx(given.others - 40.0)


def test_ratings_of_the_board_count_only_where_they_are_known():
    bare = answer_of()
    assert all(bare.margin(f"power_{name}") is None for name in ("board_fuse", "board_amps", "heater_output"))
    answer = answer_of(board_a=10.0, board_fuse_a=60.0, heater_output_a=1.0, feed={"mm2": 0.5})
    drawn = answer.full.amps.feed
    assert answer.margin("power_board_amps").value == pytest.approx(drawn)
    assert answer.margin("power_board_amps").state is State.OVER
    assert answer.margin("power_board_fuse").limit == pytest.approx(48.0)
    assert answer.margin("power_board_fuse_wire").state is State.OVER  # larger than the feed carries
    assert answer.margin("power_heater_output").value == pytest.approx(answer.full.amps.heater)
    apart = answer_of(path="bed_by_module", switch="module_transistor", board_a=10.0, board_fuse_a=20.0)
    assert apart.margin("power_board_fuse_wire") is None  # the feed leads elsewhere then
    assert apart.margin("power_board_amps").value < drawn - answer.full.amps.bed + 0.2


def test_what_is_lost_late_in_the_print_has_a_band(demo):
    job = demo("Dunlin")
    answer = first_power(job.found, CATALOGUE, job.tolerances)
    run = simulate(patched(job.found, {"schedule": {"print_min": 60.0}}), CATALOGUE)
    answer = full_power(with_power_course(answer, run))
    assert re.search(r"[\d.]+ ±[\d.]+ W stay in wires and joints, [\d.]+ ±[\d.]+ W in the supply", words.stays(answer))
    watts, band = answer.values["power_wall"], answer.bands.values["power_wall"]
    curve = answer.resolved.inputs.supply
    assert max(band.down, band.up) / watts > curve.efficiency_tolerance / curve.efficiency[-1][1]
    assert "±" in words.at_the_wall(answer)


def test_an_outlet_and_a_fan_output_are_warned_before_their_rating():
    answer = answer_of(outlet_a=10.0, strip_w=1800.0, output_fans_w=30.0, output_a=1.0)
    assert answer.margin("power_outlet").state is State.OVER
    assert answer.margin("power_outlet").limit == pytest.approx(8.0)
    assert answer.margin("power_output").state is State.OVER
    assert answer_of().margin("power_output") is None


def test_a_bare_bed_path_without_its_own_fuse_is_told():
    assert answer_of(path="bed_by_module", switch="module_transistor").unfused
    assert not answer_of(path="bed_by_module", switch="module_transistor", fuse_a=20.0).unfused
    assert not answer_of().unfused


def test_no_bed_is_no_load():
    setup = patched(setup_of(), {"bed": {"part": "none"}})
    answer = first_power(setup, CATALOGUE, air=BENCH)
    assert answer.full.amps.bed == 0.0
    assert not math.isfinite(answer.resolved.inputs.bed_ohms)
    assert answer.margin("power_plug_amps") is None


def test_electronics_in_a_case_stand_in_its_air():
    setup = patched(setup_of(), {"case": {"part": "bench_locker", "supply_at": "inside_high"}})
    air = path_air(setup, CATALOGUE, 40.0, 50.0, 20.0, 75.0)
    assert air.supply == pytest.approx(50.0 + own_rise(setup, CATALOGUE, CATALOGUE.occupants["supply"]).value)
    assert air.lead == 40.0
    assert air.board == 20.0

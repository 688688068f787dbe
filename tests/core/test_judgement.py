"""Margins, bands, reasons, capacity, cautions."""

from __future__ import annotations

import math

import pytest

from zeotherm.core.catalogue import shipped
from zeotherm.core.judgement.bands import Band
from zeotherm.core.judgement.margins import State, probability_positive
from zeotherm.core.judgement.standing import ALL_KNOWN
from zeotherm.core.machine.documents import Setup, patched
from zeotherm.core.machine.patches import patch_at
from zeotherm.core.parts.hotend.judge.answer import cautions
from zeotherm.core.parts.hotend.judge.ask import first_answer, full_answer
from zeotherm.core.parts.hotend.judge.course import plan
from zeotherm.core.solver.axisymmetric import CancelledError


def setup_with(values: dict[str, object]) -> Setup:
    setup = Setup()
    for path, value in values.items():
        setup = patched(setup, patch_at(path, value))
    return setup


def answered(**values: object):
    return first_answer(setup_with({key.replace("__", "."): value for key, value in values.items()}), shipped())


@pytest.fixture(scope="module")
def curlew(demo):
    """Curlew at its worst moment."""
    job = demo("Curlew")
    course = plan(job.setup(), shipped(), job.tolerances)
    return full_answer(course.answer(course.worst_time), course=course, time=course.worst_time)


def test_probability_is_even_at_nought_and_sure_far_away():
    band = Band(2.0, 4.0)
    assert probability_positive(0.0, band) == 0.5
    assert probability_positive(2.0, band) == pytest.approx(0.975, abs=1e-3)
    assert probability_positive(-4.0, band) == pytest.approx(0.025, abs=1e-3)
    assert probability_positive(1.0, Band(0.0, 0.0)) == 1.0


def test_a_limit_flips_exactly_at_its_value():
    found = answered()
    limit = next(item for item in found.limits if item.key == "sink_base")
    given = found.solved.resolved.inputs
    assert limit.room(given, given.softening) == 0.0
    assert limit.room(given, given.softening + 0.01) < 0 < limit.room(given, given.softening - 0.01)


def test_curlew_is_over_for_its_own_reasons(curlew):
    assert curlew.margin("feed").state is State.SHORT
    assert curlew.worst.key == "feed"
    paths = [reason.path for reason in curlew.reasons]
    assert set(paths) == {"surroundings.fan_air_c", "heats.sun", "fan.guard_blocked_pct"}
    assert [r.gain for r in curlew.reasons] == sorted((r.gain for r in curlew.reasons), reverse=True)


def test_margins_are_ordered_by_how_sure_they_hold(curlew):
    holds = [round(margin.holds, 3) for margin in curlew.margins if margin.holds is not None]
    assert holds == sorted(holds)


def test_lined_hotends_are_judged_by_liner_and_seat(demo):
    keys = {limit.key for limit in first_answer(demo("Gannet").setup(), shipped()).limits}
    assert {"liner_end", "seat", "feed"} <= keys


def test_a_short_liner_leaves_its_seat(demo):
    job = demo("Gannet")
    short = first_answer(patched(job.setup(), patch_at("hotend.liner_short_mm", 0.8)), shipped())
    assert short.margin("seat").state is State.SHORT


def test_a_gap_behind_the_nozzle_is_a_cavity_of_its_ring():
    sound, loose = answered(), answered(hotend__nozzle_gap_mm=0.3)
    shape = loose.solved.resolved.inputs.shape
    ring = math.pi / 4.0 * (shape.thread_d**2 - shape.bore_d**2) * 0.3
    assert loose.margin("cavity").value == pytest.approx(ring, rel=1e-6)
    assert loose.margin("cavity").state is State.OVER
    assert sound.margin("cavity") is None


def test_a_gap_behind_the_nozzle_takes_a_liner_off_its_seat(demo):
    setup = demo("Gannet").setup()
    seated = first_answer(setup, shipped()).solved.readout.values
    loose = first_answer(patched(setup, patch_at("hotend.nozzle_gap_mm", 0.6)), shipped()).solved.readout.values
    assert loose["liner_seat"] == pytest.approx(seated["liner_seat"] - 0.6, abs=0.02)
    assert seated["cavity"] == 0.0 < loose["cavity"]


def test_flow_beyond_the_melt_zone_is_said_with_its_ceiling(demo):
    found = full_answer(first_answer(demo("Dunlin").setup(), shipped()))
    assert found.margin("exit_core").state is State.SHORT
    assert 3e-9 < found.ceiling < 12.5e-9
    slow = patched(demo("Dunlin").setup(), patch_at("printing.flow_mm3_s", found.ceiling * 1e9))
    assert first_answer(slow, shipped()).margin("exit_core").room == pytest.approx(0.0, abs=1.5)


def test_a_setpoint_out_of_reach_saturates_the_heater():
    found = answered(hotend__heater_power_w=10.0, printing__nozzle_c=260.0)
    assert found.solved.field.saturated
    assert found.solved.field.power == pytest.approx(9.6), "what enters the block"
    assert found.solved.readout.values["block"] < 255
    assert found.margin("heater").state is State.OVER
    needed = answered(hotend__heater_power_w=80.0, printing__nozzle_c=260.0).solved.field.power
    assert found.margin("heater").value == pytest.approx(needed, rel=1e-5)


def test_a_cold_hotend_needs_no_heat():
    found = answered(printing__nozzle_c=20.0, surroundings__fan_air_c=40.0)
    assert found.solved.field.power == 0.0


def test_one_conductivity_moves_everything(demo):
    """Verdict, ladder, picture, margins, report and command line all read the one solved field."""
    from zeotherm.shop.papers.results import as_data
    from zeotherm.wording.verdict import verdict

    job = demo("Curlew")
    steel = shipped().materials["stainless_steel"].model_dump()
    steel["conductivity_w_mk"]["value"] = 8.0
    own = shipped().with_own({"materials": {"stainless_steel": steel}})
    courses = [plan(job.setup(), catalogue, job.tolerances) for catalogue in (shipped(), own)]
    time = courses[0].worst_time
    before, after = (course.answer(time) for course in courses)
    was, now = verdict(before, ALL_KNOWN), verdict(after, ALL_KNOWN)
    assert (was.headline, was.reason) != (now.headline, now.reason)
    one, other = (as_data(job, *pair, time, ALL_KNOWN) for pair in zip((before, after), courses, strict=True))
    for key in ("bore", "sink_base", "creep_margin", "heater_watts"):
        assert one["stations"][key]["value"] != other["stations"][key]["value"]
    assert one["watts"]["up_break"] > other["watts"]["up_break"]
    assert abs(before.solved.field.temperature - after.solved.field.temperature).max() > 1.0


def test_cautions_follow_the_facts():
    assert set(cautions(answered())) == {"burn", "power_off"}
    assert "wrong_voltage" in cautions(answered(hotend__heater_rated_v=12.0))
    assert "sensor_low" in cautions(answered(hotend__sensor_offset_k=-9.0))
    assert "fibre_dust" in cautions(answered(hotend__sleeve="fibre"))
    assert "liner_fumes" in cautions(
        answered(hotend__template="compact_lined", hotend__break_part="lined_steel", printing__nozzle_c=255.0)
    )


def test_laws_beyond_their_range_are_flagged():
    assert answered().solved.readout.extrapolated == ()
    fast = answered(fan__part="axial_40_24v", fan__voltage_v=28.0, corrections__fin_film=1.0)
    assert fast.solved.readout.extrapolated == (() if fast.solved.model.air.laminar else ("fins",))
    thick = answered(fan__part="axial_40_24v", fan__voltage_v=28.0, surroundings__fan_air_c=-20.0)
    assert thick.solved.model.air.reynolds > fast.solved.model.air.reynolds


def test_work_can_be_called_off():
    found = answered()
    with pytest.raises(CancelledError):
        full_answer(found, cancelled=lambda: True)


def test_the_answer_does_not_depend_on_the_start():
    hot = answered(surroundings__fan_air_c=80.0, printing__flow_mm3_s=0.3)
    cold = first_answer(setup_with({"surroundings.fan_air_c": 44.0, "printing.flow_mm3_s": 0.8}), shipped())
    again = first_answer(setup_with({"surroundings.fan_air_c": 44.0, "printing.flow_mm3_s": 0.8}), shipped(), None, hot)
    for key, value in cold.solved.readout.values.items():
        assert again.solved.readout.values[key] == pytest.approx(value, abs=1e-3), key

"""Edits: trial over found, readings, refusals."""

from __future__ import annotations

import re

import pytest
from pydantic import ValidationError

from zeotherm.core.catalogue import shipped
from zeotherm.core.catalogue.own import Stated, told_of
from zeotherm.core.machine.documents import Job
from zeotherm.shop.editing import edits
from zeotherm.shop.files import job_files


def test_a_value_back_at_what_was_found_leaves_no_trial():
    job = edits.with_value(Job(), "fan.voltage_v", 9.1)
    assert job.trial == {"fan": {"voltage_v": 9.1}}
    assert edits.with_value(job, "fan.voltage_v", 24.0).trial == {}
    assert edits.as_found(job) == Job()
    assert edits.as_found(job, "fan.voltage_v") == Job()


def test_a_trial_can_be_taken_as_found():
    job = edits.accept_trial(edits.with_value(Job(), "fan.voltage_v", 9.1))
    assert job.found.fan.voltage_v == 9.1
    assert job.trial == {}


def test_another_hotend_comes_with_its_break():
    job = edits.with_value(Job(), "hotend.template", "compact_lined")
    assert job.setup().hotend.break_part == "lined_steel"


def test_lines_change_jobs():
    job, text = edits.apply_line(Job(), "sink base 54,1")
    assert job.readings["sink_base"].value == 54.1
    assert "54.1" in text
    assert edits.apply_line(job, "sink base 54.1 ±0.5 K")[0].readings["sink_base"].tolerance == 0.5
    assert edits.apply_line(job, "sink base 54.1 +-0,8")[0].readings["sink_base"].tolerance == 0.8
    assert not edits.apply_line(job, "forget sink base")[0].readings


def test_plain_words_set_several_things_with_what_goes_with_them():
    job, text = edits.apply_line(Job(), "lined hotend, 12 V heater, tent, door shut")
    setup = job.setup()
    assert (setup.hotend.template, setup.hotend.break_part) == ("compact_lined", "lined_steel")
    assert (setup.hotend.heater_rated_v, setup.case.part, setup.case.vents_open_pct) == (12.0, "fabric_pop_up", 0.0)
    assert text.count("; ") == 3
    [option] = edits.line_as_variant(Job(), "fan 11 V and guard 10 % blocked").variants.values()
    assert option.change["fan"] == {"voltage_v": 11.0, "guard_blocked_pct": 10.0}


@pytest.mark.parametrize(
    "line",
    [
        "fan 99 V",
        "tent and bed 900",
        "lined hotend xyzzy",
        "fan off and fan 12 V",
        "nonsense",
        "sink base 5 V",
        "sink base 54 ±90",
        "sink base 54 ± V",
    ],
)
def test_refusals_leave_the_job(line):
    job = Job()
    with pytest.raises(edits.RefusedError):
        edits.apply_line(job, line)
    assert job == Job()


def test_stating_the_air_takes_its_source_away(demo):
    job = demo("Curlew")
    stated = edits.with_value(job, "surroundings.fan_air_c", 38.0)
    assert stated.setup().surroundings.air_from == "stated"
    assert edits.as_found(stated, "surroundings.fan_air_c") == job


def test_what_has_a_time_goes_on_trial_and_comes_off(demo):
    job = edits.apply_line(Job(), "sun 90 W 11:54 to 15:42")[0]
    assert job.setup().heats["sun"].watts == 90.0
    assert edits.apply_line(job, "forget sun")[0] == Job()
    shaded = edits.apply_line(demo("Curlew"), "forget sun on the case")[0]
    assert shaded.setup().heats == {}
    assert shaded.found.heats
    broken = edits.with_fault(Job(), "fan_stops", 30.0)
    assert broken.setup().faults["fan_stops"].at_min == 30.0
    with pytest.raises(edits.RefusedError, match="over by then"):
        edits.with_fault(Job(), "fan_stops", 9000.0)


def test_readings_know_their_time():
    job, _text = edits.apply_line(Job(), "sink base 46.8", 12.8)
    assert job.readings["sink_base"].clock_h == 12.8


def test_options_are_made_of_trials_and_of_lines_and_taken_into_sets():
    job = edits.trial_as_variant(edits.with_value(Job(), "fan.voltage_v", 18.0))
    assert job.trial == {}
    assert job.variants["own_1"].change == {"fan": {"voltage_v": 18.0}}
    job = edits.line_as_variant(job, "fan 20 V")
    job = edits.line_as_variant(job, "nozzle 195")
    assert [one.label for one in job.variants.values()] == [
        "Fan voltage", "Fan voltage: 20 V", "Nozzle temperature: 195 °C",
    ]  # fmt: skip
    job = edits.toggled(edits.toggled(job, "own_1"), "own_3")
    assert job.chosen == ["own_1", "own_3"]
    with pytest.raises(edits.RefusedError, match="These options clash: Fan voltage"):
        edits.toggled(job, "own_2")
    assert edits.with_variant(job, "own_1", None).chosen == ["own_3"]
    for line, told in (("sink base 50", "A reading is no option"), ("fan 24 V", "found so"), ("fan 99 V", "goes from")):
        with pytest.raises(edits.RefusedError, match=told):
            edits.line_as_variant(job, line)
    with pytest.raises(edits.RefusedError, match="Nothing is on trial"):
        edits.trial_as_variant(Job())


def test_a_bed_of_another_kind_comes_with_its_own(demo):
    job = edits.with_value(demo("Dunlin"), "bed.part", "round_bed")
    bed = job.setup().bed
    assert (bed.heater_w, bed.sheet, bed.clearance_mm) == (240.0, "glass", 35.0)
    again, _told = edits.apply_line(demo("Dunlin"), "bed kind large mains bed")
    assert again.setup().bed.heater_w == 800.0


def test_a_fit_is_taken_as_found_with_its_bands(demo):
    job = edits.with_fitted(demo("Dunlin"), {"bed.heater_w": (301.0, 9.0), "corrections.bed_film": (0.91, 0.1)})
    assert job.found.bed.heater_w == 301.0
    assert job.tolerances == {"bed.heater_w": 9.0, "corrections.bed_film": 0.1}
    assert not job.trial


@pytest.mark.parametrize("line", ["supply 12", "bed volts 80"])
def test_what_a_described_power_path_computes_is_not_set_by_hand(demo, line):
    with pytest.raises(edits.RefusedError, match="Set Supply's output instead"):
        edits.apply_line(demo("Dunlin"), line)
    assert edits.apply_line(demo("Curlew"), line)[0].trial


def test_a_fault_that_nothing_would_show_is_not_taken(demo):
    with pytest.raises(edits.RefusedError, match="power path is not described"):
        edits.with_fault(demo("Curlew"), "bed_plug_loosens", 30.0)
    assert edits.with_fault(demo("Dunlin"), "bed_plug_loosens", 30.0).trial["faults"]
    bare = edits.with_value(demo("Curlew"), "case.part", "open_frame")
    with pytest.raises(edits.RefusedError, match="There is no case"):
        edits.with_fault(bare, "door_opens", 30.0)


def test_a_sensor_off_the_plate_is_refused(demo):
    with pytest.raises(edits.RefusedError, match="ends 200 mm"):
        edits.with_value(demo("Dunlin"), "bed.sensor_x_mm", 250.0)


def test_a_line_enters_what_was_only_assumed_and_tries_what_is_known(demo):
    job = edits.said(Job(), "fan 9.1 V")
    assert (job.found.fan.voltage_v, job.trial) == (9.1, {})
    assert job.known["fan.voltage_v"].how == "entered"
    tried = edits.said(job, "fan 12 V")
    assert tried.found.fan.voltage_v == 9.1
    assert tried.setup().fan.voltage_v == 12.0
    both = edits.said(job, "fan 12 V, guard 20 %")
    assert both.found.fan.guard_blocked_pct == 20.0  # nobody had entered it
    assert both.setup().fan.voltage_v == 12.0
    assert "fan.guard_blocked_pct" in both.known
    assert edits.said(demo("Curlew"), "vents 60 %").trial


def test_what_a_machine_does_not_have_is_tried():
    job = edits.said(Job(), "case heater 300 W")
    assert job.found.case.heater_w == 0.0
    assert job.setup().case.heater_w == 300.0
    assert edits.said(Job(), "silicone sock").found.hotend.sleeve == "silicone"  # a fact that somebody can find out
    assert edits.said(Job(), "tent").found.case.part == "fabric_pop_up"


@pytest.mark.parametrize("line", ["fan 900 V", "bimetl", "", "fan nan V"])
def test_a_line_that_is_not_understood_changes_nothing(line):
    with pytest.raises(edits.RefusedError):
        edits.said(Job(), line)


def test_what_was_measured_has_the_doubt_of_its_instrument():
    job = edits.with_measured(edits.said(Job(), "fan 9.1 V"), "fan.voltage_v", "multimeter_volts", shipped())
    assert job.known["fan.voltage_v"].how == "measured"
    assert job.known["fan.voltage_v"].about == "Multimeter, volts"
    assert job.tolerances["fan.voltage_v"] == pytest.approx(0.05 + 0.008 * 9.1)
    again = edits.with_measured(job, "bed.clearance_mm", "caliper", shipped())
    assert again.tolerances["fan.voltage_v"] == job.tolerances["fan.voltage_v"]
    forgotten = edits.with_known(again, ("fan.voltage_v",), "assumed")
    assert "fan.voltage_v" not in forgotten.tolerances  # what is assumed has no instrument's doubt
    assert "bed.clearance_mm" in forgotten.tolerances


@pytest.mark.parametrize(
    ("path", "instrument"),
    [("fan.voltage_v", "caliper"), ("fan.part", "multimeter_volts"), ("fan.voltage_v", "no_such"), ("x.y", "tape")],
)
def test_nothing_is_measured_with_what_does_not_measure_it(path, instrument):
    with pytest.raises(edits.RefusedError):
        edits.with_measured(Job(), path, instrument, shipped())


def test_an_instrument_without_doubt_is_refused():
    with pytest.raises(ValidationError, match="an instrument has a doubt"):
        shipped().with_own({"instruments": {"mine": {"label": "Mine", "unit": "V", "doubt": 0.0, "share": 0.0}}})


# parts that are on no shelf


def stated(**told: float) -> dict[str, Stated]:
    return {at.replace("__", "."): Stated(value) for at, value in told.items()}


def test_a_part_is_made_like_another_and_fitted():
    job = edits.with_own_part(Job(), "fan.part", "axial_40_24v", "Loud  50", stated(flow_m3_h=21.0, service_c=80.0))
    made, like = shipped().with_own(job.catalogue).fans[job.found.fan.part], shipped().fans["axial_40_24v"]
    assert made.label == "Loud 50"
    assert made.flow_m3_h == pytest.approx([1.5 * flow for flow in like.flow_m3_h])
    assert made.pressure_pa == like.pressure_pa
    assert (made.service_c.value, made.service_c.tolerance) == (80.0, like.service_c.tolerance)
    assert set(job.known) == {"fan.part"}
    assert job_files.loads(job_files.dumps(job)) == job
    again = edits.with_own_part(job, "fan.part", job.found.fan.part, "Louder", stated(flow_m3_h=30.0))
    assert again.trial == {"fan": {"part": "own_louder"}}


@pytest.mark.parametrize(("path", "like", "name", "told", "said"), [
    ("fan.part", "nothing", "A", {}, "Nothing is called 'nothing' among the fans."),
    ("fan.part", "axial_40_24v", " ", {}, "Type a name, as its label has it."),
    ("fan.part", "axial_40_24v", "A" * 61, {}, "at most 60 letters"),
    ("fan.part", "axial_40_24v", "40 MM axial, 24 V", {}, "There is a '40 MM axial, 24 V' already."),
    ("fan.part", "axial_40_24v", "A", {"size_mm": 400.0}, "Frame goes from 15 to 120 mm; 400 is outside."),
    ("fan.part", "axial_40_24v", "A", {"grams": 1.0}, "No figure is called 'grams'; there are rated_v"),
    ("bed.part", "small_bed", "A", {"heater__rated_v": 230.0}, "230 V is not fed by low voltage"),
    ("fan.voltage_v", "axial_40_24v", "A", {}, "No part is fitted at 'fan.voltage_v'."),
    ("printing.filament", "petg", "A", {"print_low_c": 245.0}, "(245) is above usual nozzle temperature (240)."),
])  # fmt: skip
def test_a_part_that_cannot_be_is_refused(path, like, name, told, said):
    with pytest.raises(edits.RefusedError, match=re.escape(said)):
        edits.with_own_part(Job(), path, like, name, stated(**told))


def test_every_shipped_part_lies_within_what_its_kind_may_have():
    for shelf, kind in shipped().own_figures.items():
        for key, entry in shipped().shelf(shelf).items():
            for figure in kind.figures:
                value = told_of(entry, figure)
                assert value is None or figure.low <= value <= figure.high, (shelf, key, figure.at)

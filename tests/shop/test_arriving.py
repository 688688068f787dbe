"""A job from what is told at the counter: codes, the nearest machine, readings; what does not fit is said."""

import pytest

from zeotherm.core.catalogue import shipped
from zeotherm.core.judgement.standing import standing
from zeotherm.core.machine.documents import Job, Setup
from zeotherm.core.parts.hotend.judge.course import plan
from zeotherm.core.parts.registry import PARTS
from zeotherm.shop.editing import edits
from zeotherm.shop.editing.arriving import Incoming, first_job, typed
from zeotherm.shop.editing.edits import RefusedError
from zeotherm.shop.files.job_files import check_parts

CATALOGUE = shipped()


@pytest.mark.parametrize("key", CATALOGUE.machines)
def test_every_kind_of_machine_runs_and_is_assumed_throughout(key):
    job = first_job(Incoming(machine=key), "0500", CATALOGUE)
    check_parts(job)
    assert job.known == {}
    assert len(standing(job, "hotend", CATALOGUE).assumed) > 20
    assert not plan(job.found, CATALOGUE).run.not_reached
    assert (job.found == Setup()) == (key == "none")


@pytest.mark.parametrize("key", CATALOGUE.complaints)
def test_every_complaint_is_kept_and_leads_somewhere(key):
    about = CATALOGUE.complaints[key]
    job = first_job(Incoming(complaints=(key,)), "0500", CATALOGUE)
    assert job.complaint == about.label
    assert about.part == "hotend" or about.part in PARTS
    told = {f"{asked}.{option}" for asked, options in job.intake.answers.items() for option in options}
    assert told == set(about.answers)


def test_no_two_codes_are_the_same():
    codes = [one.code for shelf in (CATALOGUE.machines, CATALOGUE.complaints, CATALOGUE.first_readings)
             for one in shelf.values()]  # fmt: skip
    assert len(codes) == len(set(codes))


def test_codes_come_in_any_order_and_name_a_reading_with_its_value():
    one = typed(Incoming(), "h2 m5 r1 9.1", CATALOGUE)
    other = typed(Incoming(), "R1 9.1 M5 H2", CATALOGUE)
    assert one == other == Incoming(("jams_late",), "cased_small", {"fan_volts": 9.1})
    again = typed(one, "h2 w1", CATALOGUE)
    assert again.complaints == ("jams_late", "plug_browned")  # a code that was typed already changes nothing
    assert typed(Incoming(), "lined hotend", CATALOGUE) is None


@pytest.mark.parametrize(("line", "told"), [
    ("h9", "'h9' is no code"), ("m5 r1", "put its value after it"), ("r1 nine", "'nine' is no number"),
    ("h2 jams", "'jams' is no code"), ("r1 m5", "no number"),
])  # fmt: skip
def test_a_line_of_codes_that_does_not_fit_is_refused_in_words(line, told):
    with pytest.raises(RefusedError, match=told):
        typed(Incoming(), line, CATALOGUE)


def test_a_reading_is_measured_and_what_is_out_of_bounds_names_itself():
    job = first_job(
        Incoming((), "cased_small", {"fan_volts": 9.1, "bed_ohms": 2.4, "air_at_fan": 38.0}), "1", CATALOGUE
    )
    assert job.found.fan.voltage_v == 9.1
    assert job.known["fan.voltage_v"].how == "measured"
    assert job.intake.ohms.bed == 2.4
    assert job.readings["fan_inlet"].value == 38.0
    with pytest.raises(RefusedError, match="Heatsink fan, running: Fan voltage"):
        first_job(Incoming(readings={"fan_volts": 900.0}), "1", CATALOGUE)


def test_a_machine_that_the_shop_knows_brings_its_facts_and_not_its_trouble():
    known = Job.model_validate({
        "machine": "Plover", "place": "loft", "complaint": "old", "found": {"fan": {"voltage_v": 11.0}},
        "known": {"fan.voltage_v": {"how": "measured"}}, "intake": {"answers": {"goes_wrong": ["leaks"]}},
        "trial": {"fan": {"voltage_v": 9.0}},
    })  # fmt: skip
    job = first_job(Incoming(("thin_flow",), known=known), "0501", CATALOGUE)
    assert (job.machine, job.place, job.found, job.known) == ("Plover", "loft", known.found, known.known)
    assert (job.complaint, job.trial) == ("Thin flow", {})
    assert job.intake.answers == {"goes_wrong": ["thin"]}


def test_plain_words_about_the_machine_are_entered_as_facts():
    told = Incoming(machine="cased_small").said("guard 20 %").said("glass bed")
    job = first_job(told, "1", CATALOGUE)
    assert job.found.fan.guard_blocked_pct == 20.0
    assert job.known["fan.guard_blocked_pct"].how == "entered"
    assert job.found.bed.sheet == "glass"


def test_what_comes_along_with_a_fact_stays_assumed():
    told = first_job(Incoming().said("lined hotend"), "1", CATALOGUE)
    assert told.found.hotend.break_part == "lined_steel"  # it came with the hotend; nobody saw it
    assert set(told.known) == {"hotend.template"}
    several = first_job(Incoming().said("lined hotend, guard 20 %"), "1", CATALOGUE)
    assert set(several.known) == {"hotend.template", "fan.guard_blocked_pct"}
    bed = edits.with_fact(several, "bed.part", "middle_bed")
    assert bed.found.bed.heater_w != several.found.bed.heater_w
    assert set(bed.known) == {*several.known, "bed.part"}
    program = edits.patch_as_fact(bed, {"printing": {"nozzle_c": bed.found.printing.nozzle_c}})  # as it was assumed
    assert set(program.known) == {*bed.known, "printing.nozzle_c"}
    watts = edits.with_fact(bed, "bed.heater_w", 190.0)
    assert "bed.heater_w" not in edits.with_fact(watts, "bed.part", "small_bed").known  # another bed, other watts

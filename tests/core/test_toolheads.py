"""Several toolheads: turning, what those that stand by do to the rest, and how they are judged.

How true their heat is: tests/verification/test_toolheads.py.
"""

from __future__ import annotations

import random

import numpy as np
import pytest
from pydantic import ValidationError

from tests.all_known import all_known
from zeotherm.core.catalogue import shipped
from zeotherm.core.catalogue.fitting import fitting
from zeotherm.core.catalogue.seats import in_one_block
from zeotherm.core.guard.cautions import cautions_of
from zeotherm.core.guard.fitted import assumed_of
from zeotherm.core.guard.heat import nozzle_cap
from zeotherm.core.judgement.margins import State
from zeotherm.core.judgement.standing import ALL_KNOWN, not_told, standing
from zeotherm.core.machine.documents import Job, Reading, Setup, Variant, changed_paths, patched
from zeotherm.core.machine.intake import Attachment
from zeotherm.core.machine.known import Known
from zeotherm.core.machine.patches import patch_at, value_at
from zeotherm.core.machine.quantity import Choice, declared
from zeotherm.core.machine.toolheads import (
    MOVES,
    NUMBERS,
    NoToolheadError,
    belongs,
    numbers_of,
    setup_with,
    turned,
)
from zeotherm.core.parts.hotend.judge.ask import first_answer
from zeotherm.core.parts.hotend.judge.course import plan
from zeotherm.core.parts.hotend.judge.probe import WhatIf
from zeotherm.core.parts.hotend.model.inputs import resolve
from zeotherm.core.parts.power.judge.answer import first_power
from zeotherm.core.parts.registry import PARTS
from zeotherm.core.parts.toolheads.judge import first_toolheads, sure_toolheads
from zeotherm.core.parts.whole.run import simulate
from zeotherm.shop.editing.edits import with_attachment, with_in_front, with_ohms, without_toolhead
from zeotherm.shop.files import job_files
from zeotherm.wording.toolheads import verdict
from zeotherm.wording.verdict import verdict as hotend_verdict

CATALOGUE = shipped()
CASED = {"surroundings": {"air_from": "case"}, "case": {"part": "side_vented", "vents_open_pct": 10.0},
         "schedule": {"print_min": 90.0, "cool_min": 10.0}}  # fmt: skip
LINED = {"hotend": {"template": "compact_lined", "break_part": "lined_steel"}}


def twin(front: dict | None = None, **other) -> Setup:
    """A cased machine with T0 in front and T1 beside it."""
    return patched(setup_with(patched(Setup(), {**CASED, **(front or {})}), "T1"), {"toolheads": {"T1": other}})


def drawn(rng: random.Random) -> Job:
    """A job of a machine with two to four toolheads, of which something is tried, known and read."""
    paths = [path for path in declared(Setup) if not path.startswith("schedule.")]
    setup = Setup()
    for number in rng.sample(NUMBERS[1:], rng.randint(1, 3)):
        setup = setup_with(setup, number)

    def change(path: str) -> dict:
        item = declared(Setup)[path]
        value = (rng.choice(list(fitting(item, setup, CATALOGUE))) if isinstance(item, Choice)
                 else rng.uniform(item.low, item.high))  # fmt: skip
        further = belongs(path) and rng.random() < 0.5
        return patch_at(f"toolheads.{rng.choice(list(setup.toolheads))}.{path}" if further else path, value)

    found = setup
    for path in rng.sample(paths, 12):
        found = patched(found, change(path))
    known = {path: Known(how="measured") for path in rng.sample(found.paths(), 8)}
    one = Variant(label="One", change=change("fan.voltage_v"))
    return Job(
        found=found, trial=change(rng.choice(paths)), variants={"one": one},
        known=known, tolerances=dict.fromkeys(rng.sample(found.paths(), 4), 1.0),
        readings={"block": Reading(value=200.0), "bed": Reading(value=60.0)},
    )  # fmt: skip


def test_turning_there_and_back_changes_nothing():
    rng = random.Random(4)
    for _machine in range(60):
        job = drawn(rng)
        number = rng.choice(list(job.found.toolheads))
        there = with_in_front(job, number)
        assert there.found.toolhead == number
        assert numbers_of(there.found) == numbers_of(job.found)
        assert there.setup().hotend.nozzle_mm == turned(job.setup(), number).hotend.nozzle_mm
        assert with_in_front(there, job.found.toolhead) == job
        shared = [path for path in declared(Setup) if not belongs(path)]
        assert [value_at(there.setup(), one) for one in shared] == [value_at(job.setup(), one) for one in shared]


def test_what_was_told_and_read_goes_with_its_toolhead():
    job = Job(found=twin(), known={"toolheads.T1.hotend.nozzle_mm": Known(), "bed.target_c": Known()},
              tolerances={"hotend.nozzle_mm": 0.01}, readings={"bore": Reading(value=60.0)})  # fmt: skip
    there = with_in_front(job, "T1")
    assert set(there.known) == {"hotend.nozzle_mm", "bed.target_c"}
    assert set(there.tolerances) == {"toolheads.T0.hotend.nozzle_mm"}
    assert set(there.readings) == {"T0.bore"}


def test_a_fault_on_trial_stays_with_the_toolhead_it_was_of():
    fault = {"fan": {"label": "Fan stops", "at_min": 10.0, "change": {"fan": {"voltage_v": 0.0}}}}
    job = Job(found=twin(), trial={"faults": fault})
    there = with_in_front(job, "T1")
    assert there.trial["faults"]["fan"]["change"] == {"toolheads": {"T0": {"fan": {"voltage_v": 0.0}}}}
    assert with_in_front(there, "T0") == job


def test_what_was_asked_and_done_comes_back_with_its_toolhead():
    photo = Attachment(name="label.jpg", digest="0" * 64, size=1)
    job = with_ohms(Job(found=twin(), photos={"hotend": photo, "bed": photo}), "heater", 14.2)
    job = with_attachment(job, photo)
    there = with_in_front(job, "T1")
    assert (there.intake.ohms.heater, set(there.photos)) == (None, {"bed"})
    assert there.intake.attachments == [photo]
    assert job_files.loads(job_files.dumps(there)) == there
    assert with_in_front(there, "T0") == job
    with pytest.raises(ValidationError, match=r"set_aside\.T2 is of no toolhead"):
        Job.model_validate({"set_aside": {"T2": {}}})
    assert without_toolhead(there, "T0").set_aside == {}


def test_a_supply_feeds_them_all():
    there = turned(patched(twin(), {"hotend": {"supply_v": 11.7}}), "T1")
    assert there.hotend.supply_v == 11.7
    assert not belongs("hotend.supply_v")


@pytest.mark.parametrize(("found", "said"), [
    ({"toolhead": "T1", "toolheads": {"T1": {}}}, "T1 is in front already"),
    ({"toolheads": {"T7": {}}}, "toolheads are T0 to T3"),
    ({"toolheads": {"T1": {"bed": {}}}}, "bed"),
])  # fmt: skip
def test_toolheads_that_cannot_be_are_refused(found, said):
    with pytest.raises(ValidationError, match=said):
        Setup.model_validate(found)
    with pytest.raises(ValidationError, match="known names"):
        Job(known={"toolheads.T1.hotend.nozzle_mm": Known()})
    with pytest.raises(NoToolheadError, match="there is no T3; the machine has T0, T1"):
        turned(twin(), "T3")
    with pytest.raises(NoToolheadError, match="there is a T1 already"):
        setup_with(twin(), "T1")


# what those that stand by do


def test_one_that_is_off_is_not_there_for_the_heat():
    alone = simulate(patched(Setup(), CASED), CATALOGUE)
    off = simulate(twin(printing={"idle_c": 0.0}), CATALOGUE)
    assert off.joules["standby"] == 0.0
    assert np.abs(off.values - alone.values).max() == 0.0


def test_hotends_in_one_block_share_its_heater_and_its_temperature():
    apart, shared = twin(), twin(hotend={"beside": "shared_block"})
    assert in_one_block(shared, "T1", CATALOGUE)
    assert not in_one_block(apart, "T1", CATALOGUE)
    watts = [resolve(one, CATALOGUE).inputs.heater_power for one in (apart, shared)]
    assert 1.0 < watts[0] - watts[1] < 5.0
    course = plan(patched(shared, {"schedule": {"print_min": 30.0}}), CATALOGUE)
    told = first_toolheads(course.setup, CATALOGUE, {}, course)
    assert told.each[0].held_c == shared.printing.nozzle_c


def test_three_of_which_two_share_a_block():
    shared = {"hotend": {"beside": "shared_block"}}
    setup = patched(setup_with(twin(), "T2"), {"toolheads": {"T1": shared, "T2": shared}})
    assert [in_one_block(setup, number, CATALOGUE) for number in ("T1", "T2")] == [False, False]
    assert in_one_block(turned(setup, "T1"), "T2", CATALOGUE)
    assert not in_one_block(turned(setup, "T1"), "T0", CATALOGUE)


def test_every_heater_is_on_the_supply():
    path = next(key for key, one in CATALOGUE.power_paths.items() if one.described and not one.mains)
    one, two = (first_power(patched(setup, {"power": {"path": path}}), CATALOGUE)
                for setup in (patched(Setup(), CASED), twin(hotend={"heater_power_w": 50.0})))  # fmt: skip
    assert two.asked - one.asked == pytest.approx(50.0, rel=0.03)


# how they are judged


def test_each_is_judged_as_if_it_printed_and_while_it_stands_by():
    """T1 in the air of the machine's hours against the same toolhead in front, settled in the same air."""
    setup = twin(**LINED, printing={"nozzle_c": 235.0, "filament": "petg", "idle_c": 170.0})
    course = plan(setup, CATALOGUE)
    answer = sure_toolheads(first_toolheads(setup, CATALOGUE, {}, course))
    one = answer.each[0]
    assert one.stands_by is not None
    assert one.prints.solved.air == course.answer(course.run.off - 1.0).solved.air
    values = [each.solved.readout.values for each in (one.prints, one.stands_by)]
    assert values[0]["block"] == pytest.approx(235.0, abs=1.0)
    assert values[1]["block"] == pytest.approx(170.0, abs=1.0)
    assert {margin.key for margin in answer.margins} >= {"T1.liner_end", "T1.feed", "T1.sink_base"}
    assert all(margin.band is not None for margin in answer.margins if margin.room is not None)
    told = [(answer.of(margin)[1], margin.key) for margin in answer.margins]
    assert ("prints", "T1.feed") in told


def test_a_wrong_voltage_of_any_toolhead_comes_before_anything_else():
    setup = twin(hotend={"heater_rated_v": 12.0})
    answer = first_toolheads(setup, CATALOGUE, {}, None)
    for told in (verdict(answer), hotend_verdict(first_answer(setup, CATALOGUE), ALL_KNOWN)):
        assert told.headline == "Wrong voltage: T1's heater cartridge is for 12 V, it gets 24 V"
        assert told.state is State.OVER
    shared = twin(hotend={"heater_rated_v": 12.0, "beside": "shared_block"})
    assert first_toolheads(shared, CATALOGUE, {}, None).wrong == ()  # it has no heater of its own


def test_the_way_to_its_heater_is_judged():
    path = next(key for key, one in CATALOGUE.power_paths.items() if one.described and not one.mains)
    described = {"power": {"path": path}}
    found = [first_toolheads(twin(described, power={"heater_plug": {"state": state}}), CATALOGUE, {}, None)
             for state in ("sound", "burnt")]  # fmt: skip
    rooms = [answer.margin("T1.power_heater_plug").room for answer in found]
    assert rooms[0] > 0.0 > rooms[1]
    sure = sure_toolheads(found[1])
    assert sure.worst.band is not None
    told = verdict(sure)
    assert told.headline.startswith("T1: ")
    assert "T1 plug" in told.reason
    assert told.state is State.OVER
    assert first_toolheads(twin(power={"heater_plug": {"state": "burnt"}}), CATALOGUE, {}, None).each[0].way is None


def test_what_nobody_told_of_a_standby_reaches_the_air_of_the_one_in_front():
    setup = twin(hotend={"beside": "own_carriage"}, printing={"idle_c": 150.0})
    course = plan(setup, CATALOGUE)
    answer = course.answer(course.worst_time)
    probe = WhatIf(setup, CATALOGUE, answer.solved, course, course.worst_time)
    hotter = probe.with_change({"toolheads": {"T1": {"printing": {"idle_c": 230.0}}}})
    assert hotter.air.fan - probe.rest.air.fan > 0.5
    case = PARTS["case"].rest.work
    warm = [case(one, CATALOGUE, {}, course, cancelled=lambda: False).values["case_low"]
            for one in (setup, twin(hotend={"beside": "own_carriage"}, printing={"idle_c": 230.0}))]  # fmt: skip
    assert warm[1] - warm[0] > 0.5


def test_nothing_of_a_toolhead_is_sound_by_what_nobody_told():
    job = all_known(Job(found=twin()))
    told = not_told(job, "toolheads", CATALOGUE)
    assert {"T1.hotend_kind", "T1.standby", "T1.sink_fan"} <= set(told)
    assert {"T1.standby", "T1.beside"} <= set(not_told(job, "hotend", CATALOGUE))
    assert standing(job, "toolheads", CATALOGUE).open
    assert not any(key.startswith("T2") for key in told)
    assert not_told(all_known(Job()), "hotend", CATALOGUE) == {}


def test_advice_goes_by_the_weakest_of_a_block():
    hot = {"printing": {"filament": "abs", "nozzle_c": 250.0}}
    assert nozzle_cap(twin(hot, **LINED, printing={"filament": "abs"}), CATALOGUE).part != "T1's PTFE liner"
    shared = twin(hot, hotend={**LINED["hotend"], "beside": "shared_block"}, printing={"filament": "abs"})
    assert nozzle_cap(shared, CATALOGUE).part == "T1's PTFE liner"
    unsure = Job(found=twin(hot, **LINED, printing={"filament": "abs"}))
    unsure = unsure.model_copy(update={"known": {path: Known() for path in unsure.found.paths()}})
    asked = unsure.model_copy(update={"known": {k: v for k, v in unsure.known.items() if not k.endswith("beside")}})
    assert assumed_of(unsure) == frozenset()
    weakest = nozzle_cap(asked.found, CATALOGUE, assumed_of(asked))
    assert weakest.part.startswith("T1's PTFE liner (not ruled out: T1: how the hotends are mounted")
    alike = Job(found=twin(hot, printing={"filament": "abs"}))  # as assumed it has no liner, but it may, in one block
    told = {path: Known() for path in alike.found.paths() if path != "toolheads.T1.hotend.template"}
    for gone, capped in ((("toolheads.T1.hotend.beside",), True), ((), False)):
        known = {path: how for path, how in told.items() if path not in (*gone, "toolheads.T1.hotend.break_part")}
        cap = nozzle_cap(alike.found, CATALOGUE, assumed_of(alike.model_copy(update={"known": known})))
        assert cap.part.startswith("T1's PTFE liner") is capped


def test_every_path_that_moves_is_one_that_belongs():
    setup = twin()
    further = {path.split(".", 2)[2] for path in setup.paths() if path.startswith("toolheads.")}
    assert further == {path for path in declared(Setup) if belongs(path)}
    assert {path.partition(".")[0] for path in further} == {path.partition(".")[0] for path in MOVES}
    other = patched(setup, {"toolheads": {"T1": {"hotend": {"nozzle_mm": 0.8}}}, "fan": {"voltage_v": 9.0}})
    assert changed_paths(setup, other) == ("fan.voltage_v", "toolheads.T1.hotend.nozzle_mm")


def test_where_something_burns_the_other_hotend_burns_too():
    for procedure in CATALOGUE.procedures.values():
        for step in procedure.steps:
            alone, beside = (cautions_of(step, setup, CATALOGUE) for setup in (Setup(), twin()))
            assert alone == [CATALOGUE.cautions[key] for key in step.cautions]
            burns = any(one.sign == "burn" for one in alone)
            assert beside == [*alone, *([CATALOGUE.cautions["burn_further"]] if burns else [])]

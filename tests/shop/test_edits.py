"""Edits: trial over found, readings, refusals."""

from __future__ import annotations

import pytest

from zeotherm.core.machine.documents import Job
from zeotherm.shop import edits


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


@pytest.mark.parametrize("line", ["fan 99 V", "nonsense", "sink base 5 V", "sink base 54 ±90", "sink base 54 ± V"])
def test_refusals_leave_the_job(line):
    job = Job()
    with pytest.raises(edits.RefusedError):
        edits.apply_line(job, line)
    assert job == Job()

"""Verdicts, numbers and bands in words."""

from __future__ import annotations

from dataclasses import replace

import pytest

from zeotherm.core.catalogue import shipped
from zeotherm.core.guard.heat import Cap, PrintWindow, Target
from zeotherm.core.judgement.bands import Band
from zeotherm.core.judgement.margins import State
from zeotherm.core.judgement.standing import ALL_KNOWN
from zeotherm.core.machine.documents import Setup, patched
from zeotherm.core.machine.patches import patch_at
from zeotherm.core.parts.hotend.judge.ask import first_answer, full_answer
from zeotherm.wording import bed
from zeotherm.wording import margins as words
from zeotherm.wording.numbers import band, plain, with_unit
from zeotherm.wording.verdict import PASSED, WHY, verdict
from zeotherm.wording.work import target, window


def test_numbers_carry_a_real_minus_and_a_space():
    assert plain(-3.14) == "\N{MINUS SIGN}3.1"
    assert plain(-0.01) == "0.0"
    assert with_unit(54.1, "°C") == "54.1 °C"
    assert with_unit(None, "°C") == "not known"


def test_bands_say_two_signs_when_uneven():
    assert band(Band(2.0, 2.1), "K") == "±2.1 K"
    assert band(Band(3.0, 0.6), "mm") == "+0.6/\N{MINUS SIGN}3.0 mm"


def test_what_is_just_past_a_limit_is_not_nought_over():
    answer = first_answer(Setup(), shipped())
    for key, value, said, shown in (
        ("sink_base", 59.04, "0.04 K over", "59.04 °C"), ("feed", -0.04, "0.04 K over", "\N{MINUS SIGN}0.04 K"),
    ):  # fmt: skip
        margin = replace(answer.margin(key), value=value, room=-0.04, state=State.OVER)
        assert (words.room(margin), words.value(margin)) == (said, shown)
        assert words.room(replace(margin, room=-0.4)).startswith("0.4 ")


def test_every_limit_and_reason_has_its_words():
    known = {key: limit.part for key, limit in shipped().limits.items()}
    assert set(PASSED) == {key for key, part in known.items() if part == "hotend"}
    assert {*bed.PASSED, *bed.UNEVEN} == {key for key, part in known.items() if part == "bed"}
    assert set(WHY) == set(shipped().references)


@pytest.mark.parametrize("machine", ["Curlew", "Gannet", "Dunlin"])
def test_headlines_fit_a_line(demo, machine):
    job = demo(machine)
    told = verdict(full_answer(first_answer(job.setup(), shipped())), ALL_KNOWN)
    assert len(told.headline) <= 60
    assert told.reason.endswith(".")
    assert "{" not in told.headline + told.reason


def test_a_sound_machine_is_not_called_hot():
    setup = patched(Setup(), {"hotend": {"break_part": "bimetal"}, "surroundings": {"fan_air_c": 22.0}})
    told = verdict(full_answer(first_answer(setup, shipped())), ALL_KNOWN)
    assert not told.state.bad
    assert "over" not in told.headline


def test_a_heater_that_cannot_follow_is_told():
    setup = patched(patched(Setup(), patch_at("hotend.heater_power_w", 10.0)), patch_at("printing.nozzle_c", 260.0))
    assert "flat out" in verdict(full_answer(first_answer(setup, shipped())), ALL_KNOWN).reason


def test_a_wrong_voltage_comes_before_everything(demo):
    setup = patched(demo("Curlew").setup(), patch_at("hotend.heater_rated_v", 12.0))
    told = verdict(full_answer(first_answer(setup, shipped())), ALL_KNOWN)
    assert told.headline == "Wrong-voltage heater: 160 W instead of 40 W"
    assert "do not switch on" in told.reason


def test_rows_are_spoken_whole(demo):
    answer = first_answer(demo("Curlew").setup(), shipped())
    spoken = words.spoken(answer.margin("sink_base"))
    assert spoken.startswith("Sink base, ")
    assert "limit 59 °C" in spoken
    assert spoken.endswith(" room, close")


def test_a_window_of_temperatures_is_told_as_what_can_be_done():
    bead = Cap("Bead", 201.0, "data sheet range")
    assert window(PrintWindow(185.0, 204.0, None, 185.0, 204.0), 200.0) == "185 to 204 at this flow (estimate)"
    assert "mend the cold end first" in window(PrintWindow(185.0, 148.0, None, 142.0, 148.0), 200.0)
    assert "none does both" in window(PrintWindow(210.0, 190.0, None, 210.0, 190.0), 200.0)
    assert window(PrintWindow(185.0, 201.0, bead, 185.0, 230.0), 200.0).endswith("; the bead ends it")


@pytest.mark.parametrize(("value", "how"), [(200.0, "; the weakest part, bead"), (190.0, "; held down by the bead")])
def test_a_temperature_says_what_stands_it_and_by_which_source(value, how):
    step = next(one for one in shipped().procedures["nozzle_change"].steps if one.heat)
    told = target(Target(value, 200.0, 180.0, Cap("Bead", 275.0, "data sheet range")), step, shipped())
    assert how in told
    assert told.endswith("stands 275 °C (data sheet range).")

"""The card of a machine: where each filament begins to jam, what keeps one off it, and what nobody entered."""

from __future__ import annotations

import pytest

from zeotherm.core.catalogue import shipped
from zeotherm.core.choices.machine_card import CardLine, machine_card
from zeotherm.core.guard.fitted import ALL_ENTERED
from zeotherm.core.machine.documents import patched
from zeotherm.core.parts.enclosure.judge.warmth import airs_late, compared, printing
from zeotherm.core.parts.hotend.judge.ask import first_answer
from zeotherm.core.parts.hotend.model.inputs import HotendAir
from zeotherm.core.parts.whole.run import simulate
from zeotherm.wording import machine_card as words


@pytest.fixture(scope="module")
def curlew(demo):
    job = demo("Curlew")
    catalogue = shipped().with_own(job.catalogue)
    return job.setup(), catalogue, simulate(job.setup(), catalogue, job.tolerances)


@pytest.fixture(scope="module")
def lines(curlew) -> dict[str, CardLine]:
    setup, catalogue, run = curlew
    found = machine_card(setup, catalogue, run, {}, ALL_ENTERED, frozenset(setup.paths()), ("pla_tough",))
    return {one.filament: one for one in found}


def test_every_filament_has_a_line_its_own_first(curlew, lines):
    setup, catalogue, _run = curlew
    assert list(lines) == compared(setup, catalogue, ("pla_tough",))
    assert next(iter(lines)) == setup.printing.filament
    assert "pla_tough" in lines


@pytest.mark.parametrize("filament", ["pla", "petg", "abs"])
def test_it_feeds_in_cooler_air_and_jams_in_warmer(curlew, lines, filament):
    setup, catalogue, run = curlew
    now, one = airs_late(setup, run), lines[filament]

    def room(fan: float) -> float:
        by = fan - now.fan
        answer = first_answer(printing(setup, filament, catalogue), catalogue,
                              air=HotendAir(fan, now.block + by, now.mount + by), fineness=0.5)  # fmt: skip
        return next(margin.room for margin in answer.margins if margin.key == "feed")

    assert room(one.fan_from - 1.0) > 0.0 > room(one.fan_from + 1.0)
    assert one.band > 0.0
    assert one.keeps_below <= one.fan_from - one.band


def test_the_fans_own_rating_holds_for_a_filament_that_stands_more(curlew, lines):
    setup, catalogue, _run = curlew
    fan = catalogue.fans[setup.fan.part].service_c
    assert lines["pc"].fan_from > fan.value
    assert lines["pc"].keeps_below == fan.value - fan.tolerance


def test_what_is_said_of_each(lines):
    told = {key: words.stands(one) for key, one in lines.items()}
    assert told["pla"] == "Jams: 42 °C at the fan is too warm."
    assert told["petg"].startswith("May jam: 42 °C")
    assert told["abs"] == "Feeds. Too cool at the print: it may warp and split."
    assert "Bead thermistor is rated to 275 °C; 400 °C is wanted." in told["peek"]
    assert words.below(lines["peek"]) == "do not print"
    assert told["tpu_85a"].startswith("The filament buckles at the drive: push ")
    assert "buckles in 4.0 mm of open path" in told["tpu_95a"]
    assert float(words.below(lines["pla"]).removesuffix(" °C")) <= lines["pla"].keeps_below


def test_a_lined_hotend_bars_what_is_printed_hotter_and_so_does_one_that_may_be_lined(curlew):
    setup, catalogue, run = curlew
    for assumed in (ALL_ENTERED, frozenset({"hotend.template", "hotend.break_part"})):
        now = (
            setup if assumed else patched(setup, {"hotend": {"template": "compact_lined", "break_part": "lined_steel"}})
        )
        found = machine_card(now, catalogue, run, {}, assumed, frozenset(setup.paths()) - assumed)
        barred = {one.filament for one in found if one.cap is not None}
        assert {"abs", "pc", "peek"} <= barred
        assert "pla" not in barred
        assert all(words.below(one) == "do not print" for one in found if one.cap is not None)


def test_a_wrong_voltage_comes_first_and_a_card_says_which_toolhead_it_is_of(curlew):
    setup, catalogue, _run = curlew
    assert words.wrong(setup, catalogue) == ""
    assert words.title(setup) == words.TITLE
    lower = patched(setup, {"hotend": {"heater_rated_v": 12.0}, "toolheads": {"T1": {}}})
    assert words.wrong(lower, catalogue).startswith("Wrong voltage: the heater cartridge is for 12 V, it gets 24 V.")
    assert words.title(lower).endswith("(T0)")


def test_a_heater_that_does_not_reach_it_is_said_and_a_filament_is_never_dropped(curlew):
    setup, catalogue, run = curlew
    weak = patched(setup, {"hotend": {"heater_power_w": 12.0}})
    found = machine_card(weak, catalogue, run, {}, ALL_ENTERED, frozenset(setup.paths()))
    assert len(found) == len(compared(setup, catalogue))
    short = [one for one in found if "heater" in {margin.key for margin in one.passed}]
    assert {one.filament for one in short} >= {"abs", "pc"}
    assert all(one.barred for one in short)
    assert words.stands(short[0]).startswith("The heater lacks ")

"""What is said of an enclosure."""

from __future__ import annotations

import pytest

from tests.core.test_chamber import CATALOGUE, setup_of
from zeotherm.core.judgement.margins import State
from zeotherm.core.parts.enclosure.judge.answer import first_case
from zeotherm.core.parts.enclosure.judge.sizing import CutOut, Gone, Heater, Size, Tried, changes_of
from zeotherm.wording import enclosure as chamber


def test_a_sound_case_and_what_is_wrong_with_others():
    sound = chamber.verdict(first_case(setup_of(), CATALOGUE))
    assert sound.state is State.CLEAR
    assert sound.headline.startswith("The case comes to 3")
    assert "by the bed" in sound.reason
    heated = {"heater_w": 300.0, "target_c": 60.0, "sensor_pct": 25.0, "motors_at": "outside", "printed_plastic": "abs"}
    warm = chamber.verdict(first_case(setup_of(supply_at="inside_low", **heated), CATALOGUE))
    assert warm.headline.startswith("The supply's air is")
    layered = first_case(setup_of(heater_w=300.0, target_c=60.0, heater_at="roof", sensor_pct=90.0), CATALOGUE)
    assert "Air is layered" in chamber.reason(layered)
    assert "the sensor claims 60.0 °C" in chamber.reason(layered)


def test_where_it_settles_and_what_leaves():
    answer = first_case(setup_of(), CATALOGUE)
    assert "preheating moves when, not where" in chamber.settles(answer)
    lines = chamber.losses(answer)
    assert len(lines) == len(answer.solved.lost)
    watts = [float(line.rsplit(" ", 2)[1]) for line in lines]
    assert watts == sorted(watts, reverse=True)
    assert set(changes_of(answer)) <= set(chamber.CHANGES)


def test_a_change_in_words():
    assert (
        chamber.tried(Tried("bed", 30.0, -1.9, 45.0, -15.6, 10.0, 3.0, 0.9))
        == "Insulating under the bed: air −1.9 K, bed −16 W."
    )
    assert "air +3.1 K, bed +2 W" in chamber.tried(Tried("foam", 30.0, 3.1, 45.0, 2.2, 10.0, 3.0, 0.9))


@pytest.mark.parametrize(
    ("heater", "told"),
    [
        (
            Heater(Size(168.0, 14.0), Size(187.0, 12.2), 2700.0, Size(40.0, 1.6)),
            "takes 168 ±14 W, bringing it there within 45 min 00 s 187 ±12 W. As it is fitted it comes to 40 ±2 °C.",
        ),
        (Heater(Size(168.0, 14.0), None, 600.0, Size(40.0)), "within 10 min 00 s. As it is fitted it comes to 40 °C."),
    ],
)
def test_a_heater_in_words(heater, told):
    assert chamber.heater(heater, 55.0).endswith(told)


@pytest.mark.parametrize(
    ("cut", "told"),
    [
        (CutOut(65.0, 80.0, "case_board", 70.0), "between 65 °C and 80 °C (board)."),
        (CutOut(65.0, 80.0, "case_board", 0.0), "the work is not offered"),
        (
            CutOut(65.0, 80.0, "case_board", 95.0),
            "at 95 °C lets board pass the limit; 80 °C at most.",
        ),
        (CutOut(65.0, 80.0, "case_board", 70.0, 6.4), "between 65 °C and 80 ±6 °C (board)."),
        (CutOut(70.0, 44.0, "case_supply", 0.0), "Move, shield or replace that first."),
    ],
)
def test_a_cut_out_in_words(cut, told):
    assert told in chamber.cut_out(cut)


def test_faults_and_vents_in_words():
    assert "board: past the limit after 12 min 00 s" in chamber.gone(Gone("sticks", 95.0, 99.0, "case_board", 720.0))
    assert chamber.gone(Gone("door", 21.0, 22.0, "", None)) == "Door opens: 21 °C at the print, 22 °C under the roof."
    assert chamber.vents(None, 35.0).startswith("Wide open")
    assert chamber.vents(Size(0.0), 35.0).startswith("It stays below")
    assert chamber.vents(Size(0.118), 35.0) == "Open 12 % to stay below 35 °C."
    assert chamber.vents(Size(0.118, 0.021), 35.0) == "Open 12 ±2 % to stay below 35 °C."


def test_what_a_fan_costs_is_told_by_changes_watts_and_how_far_the_room_comes_through():
    told = chamber.tried(Tried("exhaust", 30.0, -8.2, 45.0, 6.0, 61.0, 95.0, 0.93))
    assert "95 changes of air an hour take 61 W" in told
    assert "follows its room by 0.93 K a kelvin" in told

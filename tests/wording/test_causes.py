"""Causes in words."""

from __future__ import annotations

import pytest

from zeotherm.core.catalogue import shipped
from zeotherm.core.causes.next_check import Branch, Next, Plan
from zeotherm.core.causes.ohms import cold_ohms
from zeotherm.core.causes.ranking import Evidence, Facts, Table
from zeotherm.core.causes.worlds import hypotheses
from zeotherm.core.judgement.margins import State
from zeotherm.core.machine.documents import Setup, patched
from zeotherm.core.machine.intake import Ohms
from zeotherm.wording import causes as words

CATALOGUE = shipped()
NOTHING_LEFT = Plan((), (), "nothing_left")


def ranking(**answers: str):
    table = Table(hypotheses(Setup(), CATALOGUE), {}, CATALOGUE)
    return table.rank(Facts({asked: (option,) for asked, option in answers.items()}))


def check(key: str, minutes: float, threshold: float | None = None, after: float = 0.9) -> Next:
    options = list(CATALOGUE.asked[key].options)
    branches = tuple(Branch(option, 1.0 / len(options), "clog", 0.4, after) for option in options)
    return Next(key, 0.3, minutes, 0.1, branches, threshold)


@pytest.mark.parametrize(("value", "text"), [(0.999, "over 99 %"), (0.584, "58 %"), (0.004, "under 1 %")])
def test_shares_never_say_they_are_certain(value, text):
    assert words.share(value) == text


def test_the_verdict_follows_what_is_known():
    told = words.verdict(ranking(), NOTHING_LEFT, None, CATALOGUE)
    assert told.headline == "Nothing known yet: what goes wrong?"
    told = words.verdict(ranking(goes_wrong="thin"), Plan((check("needle", 3.0),), (), ""), None, CATALOGUE)
    assert told.headline.startswith("Not clear yet; first guess:")
    assert told.reason.endswith("A check of 3 min can move it to 90 %.")
    assert told.state is State.UNKNOWN
    told = words.verdict(ranking(goes_wrong="thin"), NOTHING_LEFT, "clog", CATALOGUE)
    assert told.headline == "Decided: dirt in the nozzle's outlet"
    assert told.state is State.CLEAR


def test_headlines_fit_the_band():
    for key in CATALOGUE.causes:
        assert len(f"Not clear yet; first guess: {words.cause(key, CATALOGUE)}") <= 75
        assert len(words.cause(key, CATALOGUE)) <= 44


def test_a_check_that_moves_little_is_named_without_a_figure():
    plan = Plan((check("fan_turns", 0.5, after=0.41),), (), "")
    told = words.verdict(ranking(goes_wrong="thin"), plan, None, CATALOGUE)
    assert told.reason.endswith("Next: does the sink fan turn?")


def test_faults_outside_heat_say_so():
    told = words.verdict(
        ranking(goes_wrong="corners", pressure_off="cured", hand_feed="free"), NOTHING_LEFT, None, CATALOGUE
    )
    assert "This is a setting, not heat" in told.reason


@pytest.mark.parametrize(
    ("one", "text"),
    [
        (Evidence("answer", "strand.curls", 3.0, "thrown aside"), "strand in air: curls: thrown aside"),
        (
            Evidence("model", "when.soak", 2.0, "", (3600.0, 7200.0)),
            "when: after 1 h or more; by the model 1 h to 2 h",
        ),
        (
            Evidence("model", "prints_on", 0.2, share=0.03),
            "the model of this machine prints on with it, 3 % that it stops",
        ),
        (Evidence("reading", "sink_base", 4.0, "", (48.1, 54.3)), "sink base: the model with it has 48 to 54 °C"),
        (Evidence("departure", "fan.direction", 5.7, "the fan pulls, as found"), "the fan pulls, as found"),
    ],
)
def test_evidence_reads_plainly(one, text):
    assert words.evidence(one, CATALOGUE) == text


@pytest.mark.parametrize(("ratio", "way"), [(2.0, 1), (1.0, 0), (0.4, -1)])
def test_evidence_speaks_for_against_or_not(ratio, way):
    assert words.speaks(Evidence("answer", "strand.curls", ratio)) == way


def test_minutes_and_answers_of_a_check():
    assert [words.minutes(check("needle", minutes)) for minutes in (0.5, 1.0, 34.0, 95.0)] == [
        "half a minute", "1 min", "34 min", "1 h 35 min",
    ]  # fmt: skip
    reading = check("read_block", 5.0, threshold=211.4)
    assert [words.option(reading, key, CATALOGUE) for key in ("low", "high")] == ["below 211 °C", "211 °C or more"]


def test_what_is_ruled_out_is_gathered_by_the_fact():
    ruled = words.ruled_out(list(ranking(goes_wrong="corners", pressure_off="cured", when="at_once").causes), CATALOGUE)
    assert any(line.startswith("By what goes wrong: bad corners: ") for line in ruled)


def test_a_heater_for_another_voltage_comes_before_any_cause():
    told = words.danger(cold_ohms(Setup(), CATALOGUE, Ohms(heater=3.7)))
    assert told.headline == "Heater reads that of 12 V: do not switch on"
    assert told.state is State.OVER
    assert words.danger(cold_ohms(Setup(), CATALOGUE, Ohms(heater=14.0, sensor=0.1))) is None


@pytest.mark.parametrize(
    ("read", "text"),
    [
        (Ohms(heater=14.2), "Heater 14.2 Ω: as expected (12.7 Ω to 16.6 Ω expected)"),
        (Ohms(sensor=5e6), "Sensor 5 MΩ: open: a broken lead or element"),
        (Ohms(), "Heater: 12.7 Ω to 16.6 Ω expected"),
    ],
)
def test_meter_readings_in_words(read, text):
    told = [words.ohm_finding(one) for one in cold_ohms(Setup(), CATALOGUE, read)]
    assert any(line.startswith(text) for line in told)


def test_no_bed_no_reading():
    unheated = next(key for key, bed in CATALOGUE.beds.items() if bed.heater.power_w <= 0.0)
    setup = patched(Setup(), {"bed": {"part": unheated}})
    assert [words.ohm_finding(one) for one in cold_ohms(setup, CATALOGUE, Ohms())][-1] == "Bed: none fitted"

"""Hours in words: events, spans, outlook, logs."""

from __future__ import annotations

import numpy as np
import pytest

from zeotherm.core.catalogue import shipped
from zeotherm.core.judgement.standing import ALL_KNOWN, Standing
from zeotherm.core.machine.documents import Setup, patched
from zeotherm.core.parts.hotend.judge.ask import with_bands
from zeotherm.core.parts.hotend.judge.course import Event, Failure, plan
from zeotherm.core.runs.series import Series, differences
from zeotherm.shop.editing.edits import with_fault
from zeotherm.wording import course as words
from zeotherm.wording.numbers import clock, share, signed


@pytest.fixture(scope="module")
def curlew(demo):
    job = demo("Curlew")
    course = plan(job.setup(), shipped(), job.tolerances)
    return course, with_bands(course.answer(course.worst_time))


def test_clock_times_and_lengths():
    assert clock(12.8333) == "12:50"
    assert clock(24.25) == "0:15"
    assert [words.duration(s) for s in (40, 240, 6720, 7200)] == ["40 s", "4 min", "1 h 52 min", "2 h"]
    assert share(0.999) == "over 98 %"
    assert share(0.001) == "under 2 %"
    assert share(0.5) == "50 %"
    assert signed(-1.2, "K") == "\N{MINUS SIGN}1.2 K"
    assert signed(1.2, "K") == "+1.2 K"


@pytest.mark.parametrize(
    ("event", "told"),
    [
        (Event(0.0, "passed", "feed"), "feed stops"),
        (Event(0.0, "regained", "liner_end"), "liner back below its ceiling"),
        (Event(0.0, "passed", "motor"), "feed motor over"),
        (Event(0.0, "heat_on", "Sun"), "Sun begins"),
        (Event(0.0, "fault", "Fan stops"), "Fan stops"),
        (Event(0.0, "soak_back", "sink_base", 61.2), "cold end peaks at 61.2 °C"),
        (Event(0.0, "off"), "heaters off"),
    ],
)
def test_events_are_told(event, told):
    assert words.event(event) == told


def test_every_kind_of_event_has_its_words(curlew):
    course, _answer = curlew
    for one in course.events:
        assert words.event(one)
        assert "{" not in words.event(one)


def test_when_feeding_stops_is_a_span(curlew):
    course, _answer = curlew
    assert words.span(course, Failure("residue", 3600.0, 7200.0, 9000.0)) == "about 11:30 (10:30 to 12:00)"
    assert words.span(course, Failure("residue", 3600.0, 7200.0, None)) == "about 11:30 (10:30 at the earliest)"
    assert words.span(course, Failure("residue", 3600.0, None, None)) == "not before 10:30, if at all"


def test_the_outlook_is_one_sentence(curlew):
    course, answer = curlew
    told = words.outlook(course, answer, ALL_KNOWN)
    assert told.startswith("Jam about 12:5")
    assert "Chance to finish " in told
    assert told.endswith(" %.")


def test_a_sound_job_is_told_to_hold():
    course = plan(patched(Setup(), {"schedule": {"print_min": 30.0}}), shipped())
    answer = with_bands(course.answer(course.worst_time))
    assert words.outlook(course, answer, ALL_KNOWN).startswith("Every limit holds throughout")
    told = words.outlook(course, answer, Standing(("vents",)))
    assert told.startswith("As far as known every limit holds throughout")
    assert "Chance" not in told


def test_failures_need_their_driver(curlew, demo):
    course, answer = curlew
    first = course.failures(answer.bands)[0]
    assert first.key == "residue"
    assert first.earliest < first.likely
    assert first.latest is None or first.likely < first.latest
    lined = plan(demo("Gannet").setup(), shipped())
    assert {"coupler_gap", "liner_creep"} & {one.key for one in lined.failures()}


def test_the_doubt_after_a_fault_does_not_reach_back_before_it(demo):
    job = with_fault(demo("Curlew"), "fan_stops", 100.0)
    course = plan(job.setup(), shipped(), job.tolerances)
    bands = with_bands(course.answer(course.worst_time)).bands
    first = next(one for one in course.failures(bands) if one.key == "residue")
    assert bands.rooms["feed"].down > 3.0
    assert 100.0 * 60.0 < first.earliest < first.likely < first.latest


def test_a_log_is_held_against_the_model(curlew):
    course, _answer = curlew
    times = np.linspace(0.0, course.run.end, 200)
    model = np.interp(times, course.run.times, course.series["sink_base"])
    series = Series(times, {"sink_base": model + 1.5, "board": model}, 9.5)
    apart = differences(series, course)
    assert [one.station for one in apart] == ["sink_base"]
    assert apart[0].mean == pytest.approx(1.5, abs=1e-6)
    assert apart[0].spread == pytest.approx(0.0, abs=1e-6)
    assert "sink base 1.5 K above the model" in words.log("a.csv", apart, course)
    assert "sink base +1.5 K" in words.log_brief("a.csv", apart)
    late = Series(times, {"sink_base": model}, 20.0)
    assert "nothing in it falls into this job" in words.log("a.csv", differences(late, course), course)


def test_a_log_with_gaps_counts_what_it_has(curlew):
    course, _answer = curlew
    values = np.full(50, np.nan)
    values[10] = 40.0
    apart = differences(Series(np.linspace(0, 3000, 50), {"sink_base": values}, None), course)
    assert len(apart) == 1
    empty = differences(Series(np.linspace(0, 3000, 50), {"sink_base": np.full(50, np.nan)}, None), course)
    assert empty == []

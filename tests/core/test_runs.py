"""Figures of runs, what changed between them, and whether that is real."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from zeotherm.core.catalogue import shipped
from zeotherm.core.machine.measured import Measured, Run
from zeotherm.core.runs import figures
from zeotherm.core.runs.alignment import AlignedBy, automatic, by_level, by_likeness
from zeotherm.core.runs.assembly import assembled
from zeotherm.core.runs.conditions import Match
from zeotherm.core.runs.estimates import Estimate, change, over_runs, share_saved, student
from zeotherm.core.runs.figures import AlignedRun as OnClock
from zeotherm.core.runs.figures import Doubt
from zeotherm.core.runs.phases import phases
from zeotherm.core.runs.series import Series, Trace, merged, without_dropouts
from zeotherm.core.runs.settling import settle

CATALOGUE = shipped()


def heating(
    rise=110.0, tau=500.0, target=60.0, room=20.0, on=120.0, step=5.0, end=2400.0, noise=0.0, seed=1, start=None
) -> Series:
    """A bed that climbs towards room + rise and is held at its target; with its power at the wall."""
    rng = np.random.default_rng(seed)
    time = np.arange(0.0, end, step)
    begin = room if start is None else start
    climb = room + rise + (begin - room - rise) * np.exp(-np.maximum(time - on, 0.0) / tau)
    bed = np.minimum(climb, target) + rng.normal(0, noise, len(time))
    power = np.where(time < on, 6.0, np.where(climb < target, 206.0, 86.0))
    return Series(time, {"bed": bed, "room": np.full(len(time), room), "power": power}, None)


def on_clock(series: Series, **doubts: Doubt) -> OnClock:
    found = phases(series)
    return OnClock(series, found.on.time, found.off, found.on.doubt, doubts, CATALOGUE)


def held(runs: dict[str, Series], labels: dict[str, str] | None = None, conditions=None, **how):
    notes = {
        key: Run(label=(labels or {}).get(key, key), rows=one.rows, time_s=[0.0], values={},
                 conditions=(conditions or {}).get(key, {}))
        for key, one in runs.items()
    }  # fmt: skip
    return assembled(Measured(runs=notes, **how), runs, CATALOGUE)


def row(comparison, kind: str, channel: str = "bed"):
    return next(one for one in comparison.rows if (one.kind, one.channel) == (kind, channel))


def test_time_to_target_is_that_of_the_exact_curve():
    run = on_clock(heating(step=2.0))
    exact = 500.0 * np.log(110.0 / (110.0 - 39.0)) / 60.0
    found = figures.to_target(run, "bed", 60.0)
    assert found.value == pytest.approx(exact, abs=2.0 / 60.0)


def test_warm_up_rate_is_that_of_the_exact_curve():
    run = on_clock(heating(step=2.0))
    between = 500.0 * np.log((110.0 - 8.0) / (110.0 - 32.0))
    assert figures.rate(run, "bed", 60.0).value == pytest.approx(24.0 / between * 60.0, rel=0.01)


def test_a_target_that_is_never_reached_has_no_time():
    assert figures.to_target(on_clock(heating(rise=30.0)), "bed", 60.0) is None


def test_energy_is_the_integral_without_idle():
    series = heating(step=1.0)
    run = on_clock(series)
    exact = ((series.values["power"] - 6.0)[series.time >= 120.0]).sum() / 3.6e6
    found = figures.energy(run, run.on, run.off, (6.0, 0.1))
    assert found.value == pytest.approx(exact, rel=0.002)
    assert figures.energy(run, run.on, run.off).value > found.value


def test_a_counter_and_the_trace_agree():
    series = heating(step=2.0)
    counter = np.round(np.concatenate([[0.0], np.cumsum(series.values["power"][:-1] * 2.0)]) / 3.6e6, 4)
    run = on_clock(Series(series.time, {**series.values, "energy": counter}, None))
    by_counter, by_trace = figures.counted(run, run.on, run.off), figures.energy(run, run.on, run.off)
    assert abs(by_counter.value - by_trace.value) < by_counter.half + by_trace.half


def test_rise_takes_both_sensors_offsets():
    series = heating()
    both = Series(series.time, {**series.values, "electronics": series.values["bed"] + 4.0}, None)
    found = figures.rise(on_clock(both), "electronics", "bed", 1000.0, 2000.0)
    assert found.value == pytest.approx(4.0, abs=0.5)
    assert found.offset > on_clock(both).doubt("bed").offset / 1.96


def test_an_end_value_is_found_when_stopped_early():
    time = np.arange(0.0, 900.0, 5.0)
    values = 55.0 - 35.0 * np.exp(-time / 900.0) + np.random.default_rng(3).normal(0, 0.1, len(time))
    found = settle(Trace.of(time, values))
    assert found.end_low < 55.0 < found.end_high
    assert found.tau_low < 900.0 < found.tau_high
    assert found.bounded


def test_a_straight_line_tells_no_end():
    time = np.arange(0.0, 300.0, 5.0)
    found = settle(Trace.of(time, 20.0 + 0.05 * time + np.random.default_rng(1).normal(0, 0.1, len(time))))
    assert found is None or not found.bounded


@given(st.floats(-50, 50), st.floats(0, 5), st.floats(0, 5))
@settings(max_examples=50, deadline=None)
def test_one_instruments_offset_falls_out_of_a_change(value, scatter, offset):
    before = over_runs([Estimate(value, scatter, offset)], 0.0)
    after = over_runs([Estimate(value + 1.0, scatter, offset)], 0.0)
    assert change(before, after).half == pytest.approx(1.96 * scatter * 2**0.5)
    assert change(before, after, same_instruments=False).half >= change(before, after).half - 1e-9


def test_repeats_narrow_the_doubt_and_one_run_takes_the_usual_scatter():
    one = over_runs([Estimate(50.0, 0.1)], 0.5)
    four = over_runs([Estimate(50.0 + by, 0.1) for by in (-0.3, 0.1, 0.3, -0.1)], 0.5)
    assert one.seen is None
    assert four.seen == pytest.approx(0.258, abs=0.01)
    assert four.half < 0.6 * one.half
    wild = over_runs([Estimate(50.0 + by, 0.1) for by in (-6.0, 6.0)], 0.5)
    assert wild.half > one.half


def test_student_is_never_too_small():
    from scipy import stats

    for freedom in (1, 2, 3, 5, 7, 11, 14, 25, 39, 60):
        assert student(freedom) >= stats.t.ppf(0.975, freedom) - 0.05


def test_a_saving_has_the_doubt_of_its_parts():
    before, after = over_runs([Estimate(0.5, 0.01, 0, 0.02)], 0.0), over_runs([Estimate(0.4, 0.01, 0, 0.02)], 0.0)
    saved = share_saved(before, after)
    assert saved.value == pytest.approx(0.2)
    exact = 1.96 * np.hypot(0.01 / 0.5, 0.8 * 0.01 / 0.5)
    assert saved.half == pytest.approx(exact, rel=1e-6)


def test_meters_of_one_gain_still_tell_a_saving_apart():
    meters = {"power": Doubt(0.5, 0.05, 0.5)}
    first, second = heating(), heating(tau=440.0)
    runs = {"a": first, "b": Series(second.time, {**second.values, "power": second.values["power"] * 0.8}, None)}
    found = held(runs)
    energy = row(found.comparison, "energy", "power")
    assert energy.change.real
    own = figures.energy(on_clock(first, **meters), 120.0, 2000.0)
    assert own.half > abs(0.05 * own.value)


@pytest.mark.parametrize("shift", [-240.0, 35.0, 310.0])
def test_runs_of_other_samplings_line_up_on_their_bend(shift):
    other = heating(on=400.0 + shift, step=3.0, noise=0.2, seed=2, rise=123.0)
    runs = {"a": heating(on=400.0, step=5.0, noise=0.2), "b": other}
    bare = {key: Series(one.time, {"bed": one.values["bed"]}, None) for key, one in runs.items()}
    first, second = automatic(list(bare.values()))
    assert first.way is AlignedBy.SWITCHED_ON
    assert second.zero - first.zero == pytest.approx(shift, abs=5.0)


def test_a_target_or_a_duty_tells_switching_on_to_a_sample():
    series = heating(on=300.0, step=10.0)
    target = np.where(series.time >= 300.0, 60.0, 0.0)
    found = automatic([Series(series.time, {**series.values, "target_bed": target}, None)])[0]
    assert found.channel == "target_bed"
    assert found.zero == pytest.approx(295.0)


def test_likeness_is_not_fooled_by_a_quicker_machine():
    slow, quick = heating(on=400.0, noise=0.2), heating(on=650.0, tau=440.0, noise=0.2, seed=5)
    line = by_likeness(quick, slow, 400.0, "bed", 900.0)
    assert line.zero == pytest.approx(650.0, abs=max(5.0, 2 * line.doubt))


def test_a_level_needs_a_way_up():
    assert by_level(heating(start=40.0), "bed", 30.0) is None
    assert by_level(heating(), "bed", 30.0).way is AlignedBy.LEVEL


def test_gaps_unequal_lengths_and_stops_are_taken():
    whole, short = heating(end=2400.0), heating(end=1500.0, seed=2)
    holed = Series(whole.time, {**whole.values, "bed": np.where((whole.time > 900) & (whole.time < 1200), np.nan,
                                                               whole.values["bed"])}, None)  # fmt: skip
    found = held({"a": holed, "b": short})
    assert found.comparison.end < 1500.0
    assert row(found.comparison, "to_target").change is not None
    energy = row(found.comparison, "energy", "power")
    assert energy.at == pytest.approx(found.comparison.end)
    assert abs(energy.change.value) < 0.002


def test_moments_set_by_hand_win():
    runs = {"a": heating(), "b": heating(on=220.0)}
    notes = {key: Run(label=key, rows=one.rows, time_s=[0.0], values={}) for key, one in runs.items()}
    notes["b"] = notes["b"].model_copy(update={"zero_s": 200.0})
    found = assembled(Measured(runs=notes), runs, CATALOGUE)
    assert found.origins["b"].way is AlignedBy.GIVEN
    assert found.origins["b"].zero == 200.0


def test_rooms_of_16_and_26_agree_once_told_for_one_room():
    """One plant with a constant heater; its climb and its end hang on the room."""
    cool, warm = heating(room=16.0, step=2.0, rise=90.0), heating(room=26.0, step=2.0, rise=90.0)
    raw = row(held({"a": cool, "b": warm}).comparison, "to_target")
    told = row(held({"a": cool, "b": warm}, normalise=True).comparison, "to_target")
    assert abs(raw.change.value) > 0.15 * raw.means[0].estimate.value
    assert abs(told.change.value) < 0.02 * told.means[0].estimate.value
    assert told.normalised


def test_an_unequal_room_is_doubt_until_it_is_taken_out():
    runs = {"a": heating(room=18.0), "b": heating(room=20.0)}
    for one in runs.values():
        one.values["case_air"] = one.values["room"] + 12.0
    apart = row(held(runs).comparison, "steady", "case_air")
    assert apart.change.value == pytest.approx(2.0, abs=0.1)
    assert not apart.change.real
    together = row(held(runs, normalise=True).comparison, "steady", "case_air")
    assert abs(together.change.value) < 0.1


def test_conditions_say_what_differs_and_on_purpose():
    conditions = {"a": {"lid": "shut", "filament": "PLA"}, "b": {"lid": "open", "filament": " pla "}}
    runs = {"a": heating(), "b": heating(seed=2)}
    found = {one.key: one.match for one in held(runs, conditions=conditions).comparison.conditions}
    assert found["lid"] is Match.DIFFERS
    assert found["filament"] is Match.EQUAL
    assert found["room"] is Match.EQUAL
    assert found["part_fan"] is Match.UNKNOWN
    meant = held(runs, conditions=conditions, purpose=["lid"]).comparison
    assert meant.one_cause
    both = {"a": {**conditions["a"], "sink_fan": "1"}, "b": {**conditions["b"], "sink_fan": "2"}}
    assert not held(runs, conditions=both, purpose=["lid"]).comparison.one_cause


def test_a_meter_that_was_not_proven_is_caught():
    """A known load of 100 W: a meter with a gain error of 5 % shows 105."""
    runs = {"a": heating(), "b": heating(seed=2)}
    conditions = {"a": {"meter": 100.2}, "b": {"meter": 105.0}}
    found = {one.key: one.match for one in held(runs, conditions=conditions).comparison.conditions}
    assert found["meter"] is Match.DIFFERS
    for words in ("105 W; lint on the guard", "nan"):  # of a file of its own that somebody wrote into
        wordy = {"a": {"meter": words, "part_fan": words}, "b": {"meter": 100.0, "part_fan": 50.0}}
        found = {one.key: one.match for one in held(runs, conditions=wordy).comparison.conditions}
        assert found["meter"] is found["part_fan"] is Match.UNKNOWN


def test_five_machines_stand_in_one_table():
    runs = {str(number): heating(seed=number, rise=100.0 + 5 * number) for number in range(5)}
    comparison = held(runs).comparison
    assert len(row(comparison, "to_target").means) == 5
    assert len(row(comparison, "to_target").changes) == 5


def test_equal_labels_are_repeats():
    runs = {str(number): heating(seed=number, noise=0.2) for number in range(5)}
    labels = {"0": "before", "1": "before", "2": "before", "3": "after", "4": "after"}
    found = row(held(runs, labels=labels).comparison, "rate")
    assert [mean.runs for mean in found.means] == [3, 2]


def test_two_loggers_of_one_run_become_one_series():
    probes = Series(np.array([0.0, 10.0]), {"bed": np.array([20.0, 21.0])}, 9.0)
    meter = Series(np.array([-5.0, 5.0]), {"power": np.array([6.0, 90.0])}, None)
    both = merged(probes, meter)
    assert both.time == pytest.approx([0.0, 5.0, 10.0, 15.0])
    assert both.trace("power").time == pytest.approx([0.0, 10.0])
    assert both.start_h == pytest.approx(9.0 - 5.0 / 3600.0)
    with pytest.raises(ValueError, match="both hold bed"):
        merged(probes, probes)


def test_steps_of_a_duty_are_no_drop_outs():
    time = np.arange(0.0, 100.0)
    duty = np.where(time % 10 < 1, 100.0, 0.0)
    kept, count = without_dropouts(Series(time, {"duty_bed": duty}, None))
    assert count == 0
    assert kept.values["duty_bed"] == pytest.approx(duty)


def test_a_clock_that_stands_still_gives_no_figure_made_up():
    still = Series(np.zeros(5), {"bed": np.full(5, 40.0), "power": np.full(5, 80.0)}, None)
    found = held({"a": still, "b": still})
    assert all(one.change is None or not one.change.real for one in found.comparison.rows)


def test_what_came_of_runs_is_a_figure_and_no_condition():
    conditions = {"a": {"corner_lift": 2.4}, "b": {"corner_lift": 0.6}}
    found = held({"a": heating(), "b": heating(seed=2)}, conditions=conditions).comparison
    lift = row(found, "outcome", "corner_lift")
    assert lift.change.value == pytest.approx(-1.8)
    assert lift.change.half == pytest.approx(0.3 * 2**0.5, rel=1e-6)
    assert lift.change.real
    assert {one.key: one.match for one in found.conditions}["corner_lift"] is Match.OUTCOME
    assert not any(one.kind == "outcome" and one.channel == "arcs" for one in found.rows)


def test_idle_is_removed_from_every_run_or_from_none():
    told = heating()
    cut = told.time >= 120.0
    silent = Series(told.time[cut], {key: column[cut] for key, column in told.values.items()}, None)
    both = row(held({"a": told, "b": silent}).comparison, "energy", "power")
    assert both.other == "idle"
    assert abs(both.change.value) < 0.001
    none = row(held({"a": silent, "b": silent}).comparison, "energy", "power")
    assert none.other == ""
    noted = row(held({"a": silent, "b": silent}, conditions={"a": {"idle": 6.0}}).comparison, "energy", "power")
    assert noted.means[0].estimate.value == pytest.approx(both.means[0].estimate.value, rel=0.01)


def test_unlike_machines_differ_by_more_than_one_sensors_offset():
    runs = {"a": heating(), "b": heating(seed=2)}
    same = row(held(runs).comparison, "steady")
    other = row(held(runs, same_instruments=False).comparison, "steady")
    assert other.change.half > same.change.half + 1.0

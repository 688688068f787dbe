"""Waits and holds: what opens them, what never does, and what the forecast says meanwhile."""

from __future__ import annotations

import numpy as np
import pytest

from zeotherm.core.catalogue import shipped
from zeotherm.core.catalogue.procedures import Gate, Step
from zeotherm.core.machine.documents import Setup
from zeotherm.core.machine.doing import HoldReading, OpenStep
from zeotherm.core.physics.lumped import time_along, warming_time
from zeotherm.core.runs.own_pace import seen_rate
from zeotherm.core.runs.series import Series
from zeotherm.core.work.gates import Aids, Why, gates, missing_records
from zeotherm.core.work.holding import Said, forecast, held, weigh
from zeotherm.core.work.waits import (
    CoolingCurve,
    body,
    cooling,
    loose_body,
    loose_nozzle,
    rough,
    settled_after,
    touch_limit,
    warm_through,
)

CATALOGUE = shipped()
STAMP = "2026-03-02T10:00:00"
TAU, ROOM, HOT = 300.0, 20.0, 200.0
TIMES = np.linspace(0.0, 3000.0, 601)
COOLS = CoolingCurve(TIMES, ROOM + (HOT - ROOM) * np.exp(-TIMES / TAU), 0.25)
WARMS = CoolingCurve(TIMES, HOT - (HOT - ROOM) * np.exp(-TIMES / TAU), 0.25)
LIMIT = 48.0
MET = TAU * np.log((HOT - ROOM) / (LIMIT - ROOM))  # s, at the model's own rate


def at(after: float, value: float, way: str = "probe", tolerance: float = 2.0) -> HoldReading:
    return HoldReading(after_s=after, value=value, way=way, tolerance=tolerance)


def cooled(after: float, rate: float = 1.0) -> float:
    return float(ROOM + (HOT - ROOM) * np.exp(-rate * after / TAU))


def test_the_forecast_alone_never_opens_a_hold():
    for now in (0.0, MET, 5.0 * MET, 1e5):
        assert not held(COOLS, [], now, LIMIT).open


def test_a_fresh_contact_reading_at_the_limit_opens_it():
    assert held(COOLS, [at(MET + 60.0, 44.0)], MET + 70.0, LIMIT).open
    assert not held(COOLS, [at(MET - 60.0, 55.0)], MET + 600.0, LIMIT).open, "once too hot, read again"
    assert not held(COOLS, [at(MET + 60.0, 44.0)], MET + 400.0, LIMIT).open, "an old reading does not speak for now"
    assert not held(COOLS, [at(MET + 60.0, 44.0)], MET - 600.0, LIMIT).open, "nor one that is still to come"


@pytest.mark.parametrize(
    ("reading", "worth"),
    [
        (at(60.0, 21.0), Said.TOO_LOW),
        (at(MET + 60.0, 44.0, "camera"), Said.CAMERA),
        (at(400.0, 240.0), Said.TOO_HIGH),
        (at(400.0, -45.0), Said.IMPOSSIBLE),
        (at(400.0, 900.0), Said.IMPOSSIBLE),
        (at(400.0, cooled(400.0)), Said.GOOD),
        (at(400.0, 150.0), Said.GOOD),  # slower than thought: believed, for it only makes one wait
    ],
)
def test_what_a_reading_is_worth(reading, worth):
    assert weigh(reading, forecast(COOLS)) is worth
    if worth is not Said.GOOD:
        assert not held(COOLS, [reading], reading.after_s, LIMIT).open


def test_a_bad_reading_after_a_good_one_shuts_the_hold_again():
    good = at(MET + 30.0, 45.0)
    assert held(COOLS, [good], MET + 31.0, LIMIT).open
    assert not held(COOLS, [good, at(MET + 40.0, 230.0)], MET + 41.0, LIMIT).open


def test_the_machines_own_sensor_opens_no_hold_for_a_hand():
    assert not held(COOLS, [at(MET + 60.0, 44.0, "console")], MET + 61.0, LIMIT).open
    assert held(WARMS, [at(900.0, 191.0, "console")], 901.0, 190.0).open


def test_readings_sharpen_the_forecast():
    slow = 0.8
    readings = [at(after, cooled(after, slow)) for after in (60.0, 150.0, 240.0)]
    before, after = forecast(COOLS).when(LIMIT), forecast(COOLS, readings).when(LIMIT)
    assert before[0] < MET < before[2]
    assert after[1] == pytest.approx(MET / slow, rel=0.05)
    assert after[2] - after[0] < 0.5 * (before[2] - before[0])
    assert forecast(COOLS, readings).rate == pytest.approx(slow, rel=0.06)


def test_a_limit_that_is_never_met_has_no_time():
    assert forecast(COOLS).when(15.0) is None
    assert COOLS.when(210.0) == 0.0
    assert WARMS.when(250.0) is None
    assert not COOLS.rises
    assert WARMS.rises


def test_one_rate_is_seen_in_runs_of_the_same_machine():
    time = np.arange(0.0, 6000.0, 10.0)
    block = np.where(time < 2000.0, np.minimum(HOT, ROOM + 0.5 * time), cooled(0.0))
    block[time >= 2000.0] = [cooled(t - 2000.0, 0.7) for t in time[time >= 2000.0]]
    room = np.full(len(time), ROOM)
    rate, doubt = seen_rate(COOLS, [Series(time, {"block": block, "room": room}, None)])
    assert rate == pytest.approx(0.7, rel=0.03)
    assert doubt >= 0.06
    assert seen_rate(COOLS, [Series(time, {"bed": block}, None)]) is None
    assert seen_rate(COOLS, [Series(time[:100], {"block": block[:100]}, None)]) is None


# gates


def of(*gates_of_step: Gate, **more: object) -> Step:
    return Step(label="Wait", text="Wait for it.", minutes=1.0, tools=("probe",), signs=(), gates=gates_of_step,
                record=({"key": "n", "label": "Note", "kind": "text"},), exits=({"key": "done", "label": "Done"},),
                failing="Ask somebody.", **more)  # fmt: skip


def opened(**changes: object) -> OpenStep:
    return OpenStep(step="x", begun=STAMP, **changes)


def test_a_tick_is_shut_until_it_is_ticked():
    one = of(Gate(kind="tick", text="It is so"), Gate(kind="tick", text="And so"))
    assert [state.why for state in gates(one, opened(ticks=[1]), 0.0, Aids())] == [Why.TICK, Why.OPEN]


def test_a_soak_counts_from_when_the_temperature_was_met():
    one = of(Gate(kind="reach", text="until warm"), Gate(kind="hold", text="until soaked", seconds=60, computed="soak"),
             heat="print")  # fmt: skip
    aids = Aids(curve=WARMS, goal=190.0, soak_s=110.0)
    cold = gates(one, opened(held_from=STAMP, readings=[at(100.0, 120.0)]), 110.0, aids)
    assert [state.why for state in cold] == [Why.COLD, Why.NOT_BEGUN]
    warm = [at(900.0, 190.0)]
    early = gates(one, opened(held_from=STAMP, readings=warm), 950.0, aids)
    assert early[1].why is Why.TIME
    assert early[1].left == (60.0, 60.0, 60.0)
    late = gates(one, opened(held_from=STAMP, readings=[*warm, at(1005.0, 191.0)]), 1010.0, aids)
    assert [state.why for state in late] == [Why.OPEN, Why.OPEN]
    short = gates(one, opened(held_from=STAMP, readings=warm), 950.0, Aids(curve=WARMS, goal=190.0, soak_s=4.0))
    assert short[1].left[1] == pytest.approx(10.0), "a minute at least"


def test_a_clock_that_was_set_back_shuts_every_wait():
    one = of(Gate(kind="cool", text="until cool"), Gate(kind="hold", text="until over", seconds=60))
    states = gates(one, opened(held_from=STAMP, readings=[at(MET, 40.0)]), None, Aids(curve=COOLS, goal=LIMIT))
    assert [state.why for state in states] == [Why.CLOCK, Why.CLOCK]


def test_over_the_cap_is_told_before_anything_else():
    one = of(Gate(kind="reach", text="until warm"), heat="print")
    states = gates(one, opened(readings=[at(900.0, 199.0)]), 901.0, Aids(curve=WARMS, goal=180.0), cap_c=190.0)
    assert states[0].why is Why.OVER_CAP


def test_while_it_is_computed_nothing_opens():
    one = of(Gate(kind="cool", text="until cool"), Gate(kind="hold", text="until soaked", computed="soak"),
             Gate(kind="hold", text="until warm", computed="warm_through"))  # fmt: skip
    assert {state.why for state in gates(one, opened(held_from=STAMP), 10.0, Aids())} == {Why.COMPUTING}


def test_what_must_be_noted_is_missed_until_it_is():
    one = CATALOGUE.transitions["duct.off"]
    assert [record.key for record in missing_records(one, opened())] == ["photo", "screws_out"]
    assert [record.key for record in missing_records(one, opened(values={"screws_out": 4.0}))] == ["photo"]


# bodies


def test_a_lump_warms_as_the_exponential_says_and_to_second_order():
    capacity, conductance, air = 12.0, 0.2, 480.0
    exact = warming_time(20.0, 170.0, air, capacity, conductance)

    def stepped(count: int) -> float:
        values = np.linspace(20.0, 170.0, count + 1)
        return float(time_along(values, conductance * (air - 0.5 * (values[1:] + values[:-1])), capacity)[-1])

    errors = [abs(stepped(count) - exact) for count in (10, 20, 40)]
    assert errors[2] < 1e-3
    assert np.log2(errors[0] / errors[1]) == pytest.approx(2.0, abs=0.05)
    with pytest.raises(ValueError, match="turns round"):
        time_along(np.array([20.0, 30.0]), np.array([-1.0]), 1.0)


def test_a_source_that_is_too_cool_never_gets_there():
    gun = CATALOGUE.heat_sources["heat_gun"]
    assert warm_through("sink", gun, Setup(), CATALOGUE, 475.0) is None
    early, likely, late = warm_through("sink", gun, Setup(), CATALOGUE, 170.0)
    assert early < likely < late
    assert warm_through("break", gun, Setup(), CATALOGUE, 170.0)[1] > 0.0
    assert body("break", Setup(), CATALOGUE).capacity < body("sink", Setup(), CATALOGUE).capacity


def test_a_loose_nozzle_cools_faster_the_cooler_it_may_be():
    curve = loose_nozzle(Setup(), CATALOGUE, 220.0)
    assert curve.when(100.0) < curve.when(48.0)
    assert 60.0 < curve.when(48.0) < 900.0


def test_touch_limits_fall_with_time_and_rise_with_poor_conductors():
    assert touch_limit(CATALOGUE) == 48.0
    assert touch_limit(CATALOGUE, "metal", 1.0) > touch_limit(CATALOGUE, "metal", 5.0) > touch_limit(CATALOGUE)
    assert touch_limit(CATALOGUE, "plastic", 1.0) > touch_limit(CATALOGUE, "metal", 1.0)
    assert touch_limit(CATALOGUE, "metal", 1e9) == 43.0
    assert all(one.source for one in CATALOGUE.touch.values())


def test_settling_is_found_between_samples():
    time = np.linspace(0.0, 100.0, 101)
    assert settled_after(time, 50.0 - 10.0 * np.exp(-time / 10.0), 2.0) == pytest.approx(16.1, abs=0.1)
    assert settled_after(time, np.full(101, 7.0), 2.0) == 0.0


def test_a_bed_cools_from_its_own_set_value():
    curve = cooling(Setup(), CATALOGUE, 205.0, fan=True, place="bed")
    assert curve.values[0] == pytest.approx(60.0, abs=1.5)
    assert curve.when(48.0) > 60.0
    assert not curve.rises


def test_a_sink_under_the_gun_cools_as_a_loose_part():
    curve = loose_body("sink", Setup(), CATALOGUE, 170.0)
    assert curve.at(0.0) == 170.0
    assert 60.0 < curve.when(48.0) < 1200.0
    assert loose_body("break", Setup(), CATALOGUE, 170.0).when(48.0) < curve.when(48.0) * 3.0


def test_a_rough_curve_still_lets_a_probe_open_the_hold():
    curve = rough(205.0, 20.0)
    assert held(curve, [at(700.0, 45.0)], 705.0, LIMIT).open
    assert rough(20.0, 205.0).rises
    assert curve.rate_doubt > COOLS.rate_doubt

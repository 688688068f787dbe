"""The waits of a work order against the virtual printer, which shares nothing with the model."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest

import zeotherm
from zeotherm.core.catalogue import shipped
from zeotherm.core.machine.documents import patched
from zeotherm.core.machine.doing import HoldReading
from zeotherm.core.physics.lumped import biot, time_along, warming_time
from zeotherm.core.runs.own_pace import seen_rate
from zeotherm.core.runs.series import Series
from zeotherm.core.work.holding import forecast, held
from zeotherm.core.work.waits import body, cooling, heated, settled_after, warm_through
from zeotherm.shop.files.series_files import read_series
from zeotherm.shop.practice.virtual_printer import Setting, cooling_rows, day, heat_gun

LIMIT, DAYS = 48.0, 12
READ_AT = (60, 150)  # s after the heat went off
AGAINST = "virtual printer"
DEMO = Path(zeotherm.__file__).parent / "demo"


@pytest.fixture(scope="module")
def setup(demo):
    return demo("Curlew").found


@pytest.fixture(scope="module")
def usual(setup):
    return cooling(setup, shipped(), 200.0, fan=True)


@pytest.fixture(scope="module")
def days() -> list[list[float]]:
    """The block's reading, a row a second after the heat went off, on days that differ as days do."""
    return [[row.hotend for row in cooling_rows(Setting(chance=1.0), seed, 30.0)] for seed in range(100, 100 + DAYS)]


def truth(day_of: list[float]) -> float:
    return float(next(second for second, value in enumerate(day_of) if value < LIMIT))


def read(day_of: list[float], seconds: tuple[int, ...]) -> list[HoldReading]:
    return [HoldReading(after_s=float(second), value=day_of[second]) for second in seconds]


def test_cool_to_the_touch_by_the_machines_own_runs(usual, days, record):
    runs = [read_series(DEMO / f"2-curlew-run{number}.csv", shipped()).series for number in (1, 2)]
    known = usual.known(*seen_rate(usual, runs))
    early, likely, late = forecast(known).when(LIMIT)
    apart = [likely / truth(one) - 1.0 for one in days]
    inside = np.mean([early <= truth(one) <= late for one in days])
    worst = max(abs(one) for one in apart)
    record("wait until the block may be touched, at the pace of the machine's own runs", f"{AGAINST}, {DAYS} days",
           f"at most {100 * worst:.1f} % off; band held in {100 * inside:.0f} %", "10 %; 95 %")  # fmt: skip
    assert worst < 0.10
    assert inside >= 0.95


def test_cool_to_the_touch_by_two_readings(usual, days, record):
    apart, inside = [], []
    for one in days:
        early, likely, late = forecast(usual, read(one, READ_AT)).when(LIMIT)
        apart.append(abs(likely / truth(one) - 1.0))
        inside.append(early <= truth(one) <= late)
    record("the same for a machine never seen before, after readings at 1:00 and 2:30", f"{AGAINST}, {DAYS} days",
           f"at most {100 * max(apart):.1f} % off; band held in {100 * np.mean(inside):.0f} %",
           "10 %; 95 %")  # fmt: skip
    assert max(apart) < 0.10
    assert np.mean(inside) >= 0.95


def test_before_anything_is_read_the_band_holds_the_truth(usual, days, record):
    early, likely, late = forecast(usual).when(LIMIT)
    apart = [likely / truth(one) - 1.0 for one in days]
    inside = np.mean([early <= truth(one) <= late for one in days])
    record("the same before anything is read", f"{AGAINST}, {DAYS} days",
           f"{100 * np.mean(apart):+.0f} %; band held in {100 * inside:.0f} %", "band 95 %")  # fmt: skip
    assert inside >= 0.95


@pytest.mark.verify
def test_no_hold_opens_before_the_block_may_be_touched(usual, days):
    for one in days:
        met = truth(one)
        for second in range(30, len(one), 30):
            so_far = read(one, tuple(range(30, second + 1, 30)))
            assert not held(usual, so_far, float(second), LIMIT).open or second >= met - 5.0
        last = read(one, tuple(range(30, int(met) + 60, 30)))
        assert held(usual, last, last[-1].after_s + 5.0, LIMIT).open, "and then it does open"


def warmed(lint: float) -> tuple[Series, float]:
    """The virtual printer held hot: its run, and when from switching on the sink's base is within 2 K of settled over
    its air [s]."""
    still = Setting(print_min=46.0, cool_min=0.0, bed_c=0.0, logged_s=1.0, noise=0.0, wander=0.0, sun=0.0, lint=lint,
                    vents=1.0)  # fmt: skip
    rows = list(day(4, still))
    time = np.arange(len(rows), dtype=float)
    block = np.array([row.hotend for row in rows])
    over = np.array([row.sink_base - row.fan_air for row in rows])
    first = int(np.argmax(block > 198.9))
    power = np.array([row.watts for row in rows])
    soaked = settled_after(time[first:], over[first:], 2.0)
    return Series(time, {"block": block, "power": power}, None), float(time[first]) + soaked


@pytest.mark.verify
def test_soak_until_warm_through(setup, record):
    told, apart = [], []
    for lint in (0.925, 0.8, 0.35):
        run, met = warmed(lint)
        machine = patched(setup, {"fan": {"guard_blocked_pct": 100.0 * lint}})
        curve, _soak = heated(machine, shipped(), 200.0)
        pace = seen_rate(curve, [run])
        paced, soak = heated(machine, shipped(), 200.0, pace=pace[0])
        wait = float(paced.times[-1]) + soak
        told.append(f"{wait:.0f} and {met:.0f} s")
        apart.append(abs(wait / met - 1.0))
    record("from switching on until soaked through, guard 93, 80 and 35 % shut, at the machine's own pace", AGAINST,
           "; ".join(told), "10 %")  # fmt: skip
    assert max(apart) < 0.10


def test_warm_through_under_a_heat_gun(setup, record):
    gun = shipped().heat_sources["heat_gun"]
    area = body("sink", setup, shipped()).area
    apart = []
    for goal in (120.0, 170.0, 230.0, 300.0):
        likely = warm_through("sink", gun, setup, shipped(), goal)[1]
        met = heat_gun(goal, gun.air_c, gun.film_w_m2k["sink"], area, setup.room.mean_c)
        apart.append(likely / met - 1.0)
    worst = max(abs(one) for one in apart)
    record("sink warm through to 120, 170, 230, 300 °C under the same gun", f"{AGAINST}'s sink in three pieces",
           f"at most {100 * worst:.1f} % off", "10 %")  # fmt: skip
    assert worst < 0.10


def test_lumped_bodies_are_lumped(setup, record):
    part = body("sink", setup, shipped())
    gun = shipped().heat_sources["heat_gun"]
    number = biot(gun.film_w_m2k["sink"], part.area * 0.0005, part.area, 160.0)
    exact = warming_time(20.0, 170.0, 480.0, part.capacity, 0.18)

    def error(count: int) -> float:
        values = np.linspace(20.0, 170.0, count + 1)
        middle = 0.5 * (values[1:] + values[:-1])
        return abs(float(time_along(values, 0.18 * (480.0 - middle), part.capacity)[-1]) - exact)

    observed = float(np.log2(error(20) / error(40)))
    record("lumped warming by the midpoint rule", "exponential",
           f"{error(60):.1e} s, order {observed:.2f}; Bi {number:.0e}", "order 2; Bi < 0.1")  # fmt: skip
    assert observed == pytest.approx(2.0, abs=0.05)
    assert number < 0.1

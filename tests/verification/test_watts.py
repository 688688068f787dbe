"""Watts between the parts of a machine: what enters is what leaves and what warms it."""

from __future__ import annotations

import numpy as np
import pytest

from zeotherm.core.catalogue import shipped
from zeotherm.core.machine.documents import Setup, patched
from zeotherm.core.parts.whole.run import simulate
from zeotherm.core.parts.whole.watts import ENTERS, LEAVES, watts_at

MACHINE = {
    "surroundings": {"air_from": "case"}, "bed": {"part": "middle_bed", "target_c": 70.0, "heater_w": 220.0},
    "case": {"part": "fabric_pop_up", "vents_open_pct": 40.0, "supply_at": "inside_low", "heater_w": 150.0,
             "target_c": 45.0, "width_mm": 620.0, "depth_mm": 520.0, "height_mm": 720.0},
    "power": {"path": "bed_on_board"}, "schedule": {"print_min": 90.0, "cool_min": 30.0},
    "heats": {"sun": {"label": "sun", "watts": 60.0, "from_h": 9.6, "to_h": 10.2}},
}  # fmt: skip
OPEN = {"surroundings": {"air_from": "room"}, "bed": {"part": "middle_bed", "heater_w": 220.0},
        "schedule": {"print_min": 60.0}}  # fmt: skip


@pytest.fixture(scope="module")
def run():
    return simulate(patched(Setup(), MACHINE), shipped())


def at(run, time):
    return watts_at(run, time, run.moment(time))


def held(run, time):
    """Heat held by all of it [J]."""
    values, stretch, _mark = run.at(time)
    return float(stretch.system.heat(values).sum())


def test_what_warms_the_machine_is_what_its_parts_take_up(run, record):
    """Against a difference of the heat that cells and bodies hold, at seven moments from warm-up to cool-down."""
    off = []
    for time in (
        *(share * run.off for share in (0.2, 0.35, 0.5, 0.65)),
        *(run.off + one for one in (300.0, 900.0, 1500.0)),
    ):
        taken = (held(run, time + 20.0) - held(run, time - 20.0)) / 40.0
        watts = at(run, time)
        off.append(abs(watts.warms - taken) / max(watts.given, abs(watts.warms), 15.0))
        assert off[-1] < 0.02, (time, watts, taken)
    record(
        "Watts between the parts of a machine", "heat held, by differences", f"{100.0 * max(off):.2f} % of them", "2 %"
    )


def test_it_adds_up_over_the_job(run, record):
    """Watts at the ends of the steps, by trapezoids, against the joules that the run itself counted."""
    found = [at(run, float(time)) for time in run.times[1:]]
    widths = np.diff(run.times[1:])

    def whole(values):
        values = np.array(values)
        return float((0.5 * (values[1:] + values[:-1]) * widths).sum())

    pairs = {
        "to_room": ([sum(one.leaves.values()) for one in found], 0.03),
        "bed": ([one.enters["bed"] for one in found], 0.06),
        "sun": ([one.enters["sun"] for one in found], 0.06),
    }
    off = {name: abs(whole(values) / run.joules[name] - 1.0) for name, (values, _most) in pairs.items()}
    assert all(off[name] < most for name, (_values, most) in pairs.items()), off
    record("The same, over a whole job", "joules of the run", f"{100.0 * off['to_room']:.1f} % to the room", "3 %")


def test_each_way_has_its_own_name(run):
    late = at(run, run.off - 30.0)
    assert set(late.enters) == set(ENTERS)
    assert set(late.leaves) == set(LEAVES)
    assert late.enters["case"] > 0.0
    assert late.enters["electronics"] > 0.0
    assert late.off_bed == pytest.approx(late.enters["bed"], rel=0.02)  # late in a print a bed gives off what it takes
    assert late.off_hotend == pytest.approx(late.enters["hotend"], rel=0.06)  # but for what its mount takes
    assert late.leaves["coolant"] == late.leaves["fan"] == 0.0


def test_nothing_that_heats_gives_nothing(run):
    off = at(run, run.end)
    assert off.given == 0.0
    assert off.warms < 0.0


def test_what_stands_open_loses_it_all_to_the_room():
    run = simulate(patched(Setup(), OPEN), shipped())
    late = at(run, run.off - 30.0)
    assert sum(late.leaves.values()) == pytest.approx(late.given, rel=0.02)


def test_nothing_is_said_where_the_air_is_stated():
    run = simulate(
        patched(Setup(), {"surroundings": {"air_from": "stated"}, "schedule": {"print_min": 10.0}}), shipped()
    )
    assert watts_at(run, 300.0, run.moment(300.0)) is None

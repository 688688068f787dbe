"""The push through softened filament against what can be said exactly, and what must always hold of it."""

from __future__ import annotations

import math

import numpy as np
import pytest

from tests.bench_facts.machines import course, machine, settled
from zeotherm.core.parts.hotend.model.feeding import cold_end, feeder, feeding, profile, warmer_to_jam
from zeotherm.core.parts.hotend.model.readout import bore_wall
from zeotherm.core.physics.jamming import buckling_load, melt_push, push_through, shear, soft_share

BORE, LENGTH, START = 2e-3, 5e-3, 5.0


def pushed(rows: int, friction: float, temperature: float = 80.0, scale: float = 1.0) -> float:
    """A stretch that is soft throughout at one temperature."""
    wall = np.full(rows, temperature)
    return float(push_through(np.array(START), wall, wall, np.full(rows, friction), np.full(rows, LENGTH / rows), 59.0,
                              BORE, scale))  # fmt: skip


def test_friction_alone_grows_as_an_exponential(record):
    """dF/dz = 4 μ F/D is solved by F₀ e^(4 μ L/D)."""
    exact = START * math.exp(4.0 * 0.05 * LENGTH / BORE)
    off = [abs(pushed(rows, 0.05) / exact - 1.0) for rows in (25, 50, 100)]
    order = math.log2(off[0] / off[1])
    record(
        "Push through soft filament, friction alone",
        "F₀ e^(4 μ L/D), rows of 0.2 mm",
        f"{off[0]:.1%}, order {order:.2f}",
        "1.5 %, order 0.9",
    )
    assert off[0] < 0.015
    assert off[2] < off[1] < off[0]
    assert order > 0.9


def test_shear_alone_grows_with_the_length(record):
    """Where the wall's grip is beyond what the strand stands, dF/dz = π D τ: exact at any rows."""
    exact = START + math.pi * BORE * LENGTH * 0.02 * float(shear(np.array(21.0)))
    found = pushed(25, 50.0, scale=0.02)
    record("Push through soft filament, shear alone", "F₀ + π D L τ", f"{abs(found / exact - 1.0):.0e}", "1e-9")
    assert found == pytest.approx(exact, rel=1e-9)


def test_a_strand_buckles_as_a_bar_does(record):
    """E I w'' + F w = 0 between ends that may turn, by differences: the least F at which it has a solution."""
    stiffness, strand, path = 60e6, 1.75e-3, 5e-3
    inertia = math.pi * strand**4 / 64.0
    exact, off = float(buckling_load(stiffness, strand, path)), []
    for cells in (20, 40, 80):
        inner = cells - 1
        bent = (2.0 * np.eye(inner) - np.eye(inner, k=1) - np.eye(inner, k=-1)) * (cells / path) ** 2
        off.append(abs(stiffness * inertia * float(np.linalg.eigvalsh(bent)[0]) / exact - 1.0))
    order = math.log2(off[1] / off[2])
    record("Buckling load of an open strand", "eigenvalue of a bar by differences", f"{off[2]:.2%}, order {order:.2f}",
           "0.02 %, order 1.9")  # fmt: skip
    assert off[2] < 2e-4
    assert order > 1.9


def test_what_is_stiff_is_not_held():
    assert pushed(25, 0.5, 54.9) == START
    assert soft_share(np.array([-5.0, -4.0, 8.0, 20.0])).tolist() == [0.0, 0.0, 1.0, 1.0]
    assert float(melt_push(0.0, 0.4e-3, 1.75e-3, 0.0)) == 1.5, "never less"


@pytest.mark.parametrize("air", [25.0, 45.0])
def test_the_room_falls_with_every_kelvin_of_the_air(air):
    solved = settled(machine(air))
    model, field = solved.model, solved.field.temperature
    end = cold_end(model, field, bore_wall(model, field))
    found = feeding(feeder(model.given), end, np.linspace(-60.0, 90.0, 301))
    left = found.room - model.given.residue_rate * found.growth * 240.0
    assert (np.diff(found.soft_length) >= 0.0).all()
    assert (np.diff((left > 0.0).astype(int)) <= 0).all(), "once over it stays over"


def test_the_moved_profile_is_near_the_solved_one(record):
    """By how much warmer the air may be is told by moving the profile; here the hotend is solved in that air."""
    cold = settled(machine(25.0))
    model, field = cold.model, cold.field.temperature
    warmer = float(warmer_to_jam(feeder(model.given), cold_end(model, field, bore_wall(model, field)), 8.0 * 3600.0))
    there = settled(machine(25.0 + warmer))
    still = float(there.readout.values["jam_room"])
    record(
        "Air that jams, by the moved profile",
        "the hotend solved in that air",
        f"{abs(still):.1f} K of {warmer:.0f} K",
        "1.5 K",
    )
    assert abs(still) < 1.5


def test_the_whole_jobs_room_is_met_by_a_job_in_that_air(record):
    """A job whose air is as much warmer as its room says jams at its end."""
    calm = course(machine(35.0, schedule__soak_min=0.0))
    room = calm.worst["feed"][0]
    jammed = course(machine(35.0 + room, schedule__soak_min=0.0)).jams()
    share = (jammed.stated - jammed.start) / (jammed.end - jammed.start)
    record("Room of a whole job", "the same job, so much warmer, jams at", f"{share:.2f} of its length", "0.5 to 2")
    assert 0.5 < share < 2.0


def test_the_profile_ends_at_the_push():
    solved = settled(machine(45.0))
    model, field = solved.model, solved.field.temperature
    found = profile(model, field, bore_wall(model, field))
    assert found.push[-1] == pytest.approx(solved.readout.values["push"], rel=1e-9)
    assert (np.diff(found.push) >= 0.0).all()


def test_half_the_grid_tells_the_same_room(record):
    """Rows of half the size: what steps and grid make of the feed."""
    from zeotherm.core.catalogue import shipped
    from zeotherm.core.parts.hotend.model.solved import solve_hotend

    rooms = [
        solve_hotend(machine(35.0), shipped(), fineness=fine).readout.values["jam_room"] for fine in (0.5, 1.0, 2.0)
    ]
    record(
        "Room of the feed by the grid",
        "cells of half the size",
        f"{abs(rooms[0] - rooms[2]):.2f} K from the coarsest, {abs(rooms[1] - rooms[2]):.2f} K",
        "1 K, 0.5 K",
    )
    assert abs(rooms[0] - rooms[2]) < 1.0
    assert abs(rooms[1] - rooms[2]) < 0.5

"""A stand-in for a printer with probes: a small classroom machine in a case that the sun reaches.

It shares nothing with the model that explains it. Its bodies are lumped otherwise (a case with a low and a high half
and one sunny panel, a sink in three pieces) and it has what the model lacks: contact spots that let go and take hold
again, fins that are cooled unevenly, sensors that lag and round, lint that grows, clouds, and a room that wanders.
"""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

Array = npt.NDArray[np.float64]
STEP = 1.0  # s
LOGGED = 20  # steps between two rows
START_H = 9.5
PRINT_MIN = 300.0
SUN_FROM, SUN_TO = 11.87, 15.6  # clock hours
JAM_PLUG_MM, GROWTH = 1.2, 0.0088  # mm at which the plug stops the feed, and its growth for each retraction
RETRACTIONS = 8.0  # a minute
SOFT_FROM, DRAWN_PER_K = 41.0, 0.075  # °C of the sink from which soft filament is drawn up, and mm for each K above
LOW, HIGH, SUNNY, WALLS, BED, BLOCK, SINK_LOW, SINK_MID, SINK_TOP, CARRIAGE, MOTOR = range(11)
HEAT = np.array([38.0, 40.0, 1150.0, 2500.0, 195.0, 23.0, 4.3, 4.6, 4.8, 140.0, 100.0])  # J/K


@dataclass(frozen=True)
class Row:
    """One line of the log."""

    clock_h: float
    hotend: float
    bed: float
    sink_base: float
    fan_air: float
    case: float
    feeding: bool


def _wander(rng: np.random.Generator, periods: tuple[float, ...]) -> tuple[Array, Array]:
    """Phases and periods [s] of slow waves."""
    return rng.uniform(0.0, 2.0 * math.pi, len(periods)), np.array(periods)


def _wave(wander: tuple[Array, Array], time: float) -> float:
    phases, periods = wander
    return float(np.sin(2.0 * math.pi * time / periods + phases).mean())


def day(seed: int = 4) -> Iterator[Row]:
    """One print of the machine, from switching on to half an hour after its end; seed: of its wandering."""
    rng = np.random.default_rng(seed)
    room_wander = _wander(rng, (2600.0, 5100.0, 9100.0))
    contact = _wander(rng, (37.0, 143.0, 611.0, 1900.0))
    clouds = _wander(rng, (420.0, 950.0, 2300.0))
    bodies = np.full(len(HEAT), _room(START_H, 0.0))
    shown = bodies.copy()
    lag = np.array([0.02, 0.02, 0.02, 0.02, 0.12, 0.15, 0.09, 0.09, 0.09, 0.03, 0.03])  # 1/s
    plug, printing, begun = 0.0, False, 0.0
    steps = round((PRINT_MIN + 34.0) * 60.0 / STEP)
    for step in range(steps):
        time = step * STEP
        clock = START_H + time / 3600.0
        room = _room(clock, _wave(room_wander, time))
        off = printing and time > begun + PRINT_MIN * 60.0
        if not printing and bodies[BED] > 49.0 and bodies[BLOCK] > 198.5:
            printing, begun = True, time + 120.0
        flows = printing and time > begun and not off
        bodies, soft = _advanced(bodies, room, clock, time, flows, off, _wave(contact, time), _wave(clouds, time))
        shown += STEP * lag * (bodies - shown)
        plug += STEP / 60.0 * RETRACTIONS * GROWTH * max(0.0, soft) if flows else 0.0
        if step % LOGGED == 0:
            yield Row(
                clock,
                round(shown[BLOCK] / 0.25) * 0.25,
                round(shown[BED] / 0.25) * 0.25,
                round(shown[SINK_LOW] + 0.25 + rng.normal(0, 0.12), 1),
                round(_fan_air(shown, room) - 0.3 + rng.normal(0, 0.10), 1),
                round(0.5 * (shown[LOW] + shown[HIGH]) + rng.normal(0, 0.12), 1),
                flows and plug < JAM_PLUG_MM,
            )


def _room(clock: float, wander: float) -> float:
    return 16.3 + 2.1 * math.cos(2.0 * math.pi * (clock - 15.2) / 24.0) + 0.45 * wander


def _fan_air(bodies: Array, room: float) -> float:
    """What the guard draws: the case at the fan's height, and a little that seeps in beside the door."""
    return float(0.03 * room + 0.97 * (0.4 * bodies[LOW] + 0.6 * bodies[HIGH])) + 0.6


def _advanced(
    t: Array, room: float, clock: float, time: float, flows: bool, off: bool, contact: float, cloud: float
) -> tuple[Array, float]:
    """Bodies one step later, and how far soft filament is drawn into the cold zone [mm]."""
    air = _fan_air(t, room)
    lint = 0.925 + 0.012 * time / 20000.0
    blown = 0.108 * (1.0 - lint) ** 0.34 / 0.075**0.34  # W/K of all fins
    into = np.zeros(len(t))

    def pass_on(one: int, other: int, conductance: float) -> None:
        watts = conductance * (t[one] - t[other])
        into[one] -= watts
        into[other] += watts

    pass_on(LOW, HIGH, 1.9 + 0.05 * abs(t[HIGH] - t[LOW]))
    for air_half, panel, film in ((LOW, SUNNY, 0.62), (HIGH, SUNNY, 0.70), (LOW, WALLS, 1.35), (HIGH, WALLS, 1.55)):
        pass_on(air_half, panel, film * (1.0 + 0.012 * abs(t[air_half] - t[panel])))
    pass_on(BED, LOW, 0.21 * (1.0 + 0.002 * (t[BED] - t[LOW])))
    pass_on(BED, WALLS, 0.13)
    pass_on(BED, SUNNY, 0.035)
    pass_on(BLOCK, LOW, 0.040 + 0.00008 * (t[BLOCK] - t[LOW]) + (0.007 if flows else 0.0))
    pass_on(BLOCK, SINK_LOW, 0.0095 * (1.0 + 0.05 * contact))
    pass_on(SINK_LOW, SINK_MID, 0.55)
    pass_on(SINK_MID, SINK_TOP, 0.6)
    fan = 0.0 if off and t[BLOCK] < 50.0 else 1.0
    for part, share in ((SINK_LOW, 0.26), (SINK_MID, 0.40), (SINK_TOP, 0.34)):
        watts = (fan * 1.42 * share * blown + 0.004) * (t[part] - air)
        into[part] -= watts
        into[HIGH] += watts
    pass_on(SINK_TOP, CARRIAGE, 0.03)
    pass_on(CARRIAGE, HIGH, 0.17)
    pass_on(MOTOR, CARRIAGE, 0.055)
    pass_on(MOTOR, HIGH, 0.075)
    into[LOW] -= 0.20 * (t[LOW] - room)
    into[HIGH] -= 0.24 * (t[HIGH] - room)
    into[SUNNY] -= 1.75 * (t[SUNNY] - room) * (1.0 + 0.006 * (t[SUNNY] - room))
    into[WALLS] -= 4.05 * (t[WALLS] - room) * (1.0 + 0.004 * (t[WALLS] - room))
    if SUN_FROM <= clock < SUN_TO:
        into[SUNNY] += 62.0 * (1.0 + 0.10 * cloud)
        into[WALLS] += 34.0 * (1.0 + 0.10 * cloud)
    if not off:
        into[MOTOR] += 2.1
        into[BLOCK] += min(max(2.2 * (200.0 - t[BLOCK]) + 12.6, 0.0), 39.0)
        into[BED] += min(max(9.0 * (50.0 - t[BED]) + 6.5, 0.0), 68.0)
    if flows:
        into[BLOCK] -= 0.62
    return t + STEP * into / HEAT, DRAWN_PER_K * (float(t[SINK_LOW]) - SOFT_FROM)


def as_csv(rows: Iterator[Row]) -> str:
    """The log as its logger writes it: semicolons, decimal points, clock times."""
    head = "# probe logger, four channels and the printer's own two\n"
    lines = ["clock;hotend [C];bed [C];sink base [C];fan air [C];case [C];feeding"]
    for row in rows:
        seconds = round(row.clock_h * 3600.0)
        clock = f"{seconds // 3600}:{seconds // 60 % 60:02d}:{seconds % 60:02d}"
        lines.append(
            f"{clock};{row.hotend:.2f};{row.bed:.2f};{row.sink_base:.1f};{row.fan_air:.1f};{row.case:.1f};"
            f"{'yes' if row.feeding else 'no'}"
        )
    return head + "\n".join(lines) + "\n"

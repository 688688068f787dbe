"""A stand-in for a printer with probes and a plug meter: a small classroom machine in a case that the sun reaches.

It shares nothing with the model that explains it. Its bodies are lumped otherwise (a case with a low and a high half
and one sunny panel, a sink in three pieces) and it has what the model lacks: contact spots that let go and take hold
again, fins that are cooled unevenly, sensors that lag and round, lint that grows, clouds, and a room that wanders. No
two of its days are the same: supply, contacts, films and taped probes differ a little each time.
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, replace

import numpy as np
import numpy.typing as npt

Array = npt.NDArray[np.float64]
STEP = 1.0  # s
LOGGED = 20  # steps between two rows, usually
IDLE_W, MOVES_W, SUPPLY_SHARE, BED_W = 5.8, 7.4, 0.86, 68.0  # at the wall, and the bed's own
START_H = 9.5
PRINT_MIN = 300.0
SUN_FROM, SUN_TO = 11.87, 15.6  # clock hours
JAM_PLUG_MM, GROWTH = 1.2, 0.0088  # mm at which the plug stops the feed, and its growth for each retraction
RETRACTIONS = 8.0  # a minute
SOFT_FROM, DRAWN_PER_K = 45.0, 0.075  # °C of the sink from which soft filament is drawn up, and mm for each K above
LOW, HIGH, SUNNY, WALLS, BED, BLOCK, SINK_LOW, SINK_MID, SINK_TOP, CARRIAGE, MOTOR = range(11)
HEAT = np.array([38.0, 40.0, 1150.0, 2500.0, 195.0, 23.0, 4.3, 4.6, 4.8, 140.0, 100.0])  # J/K
FITTED = HEAT + np.isin(np.arange(len(HEAT)), (SINK_LOW, SINK_MID, SINK_TOP)) * 2.4  # clamp, screws, fan's frame


@dataclass(frozen=True)
class Setting:
    """How the machine stands, and what of a day is chance. The usual one is the machine as it came in."""

    lint: float = 0.925  # share of the guard that is closed
    lint_grows: float = 0.012  # by so much in 20 000 s
    vents: float = 0.0  # share of the case's vents that is open
    sun: float = 1.0
    start_h: float = START_H
    print_min: float = PRINT_MIN
    cool_min: float = 34.0
    idle_min: float = 0.0  # logged before switching on
    room_shift: float = 0.0  # K
    heater: float = 1.0  # of the bed's usual power
    bed_c: float = 50.0
    logged_s: float = LOGGED * STEP
    chance: float = 0.0  # how far supply, contacts, films and probes differ from usual; one: as they do
    noise: float = 1.0  # of sensors and their rounding; zero: none
    wander: float = 1.0  # of room, clouds and contacts


@dataclass(frozen=True)
class _Day:
    """What a day is like: the setting and its chance."""

    setting: Setting
    supply: float
    films: float
    grip: float
    sink_probe: float  # K
    case_probe: float  # K


@dataclass(frozen=True)
class LogRow:
    """One line of the log."""

    clock_h: float
    hotend: float
    bed: float
    sink_base: float
    fan_air: float
    case: float
    room: float
    watts: float  # at the wall
    bed_duty: float  # %
    feeding: bool


def _wander(rng: np.random.Generator, periods: tuple[float, ...]) -> tuple[Array, Array]:
    """Phases and periods [s] of slow waves."""
    return rng.uniform(0.0, 2.0 * math.pi, len(periods)), np.array(periods)


def _wave(wander: tuple[Array, Array], time: float) -> float:
    phases, periods = wander
    return float(np.sin(2.0 * math.pi * time / periods + phases).mean())


def day(seed: int = 4, setting: Setting | None = None) -> Iterator[LogRow]:
    """One print of the machine, from switching on to half an hour after its end; seed: of its wandering."""
    setting = setting or Setting()
    rng, meter = np.random.default_rng(seed), np.random.default_rng(seed + 1000)
    room_wander = _wander(rng, (2600.0, 5100.0, 9100.0))
    contact = _wander(rng, (37.0, 143.0, 611.0, 1900.0))
    clouds = _wander(rng, (420.0, 950.0, 2300.0))
    today = _chance(setting, meter)
    bodies = np.full(len(HEAT), _room(setting.start_h, 0.0) + setting.room_shift)
    shown = bodies.copy()
    lag = np.array([0.02, 0.02, 0.02, 0.02, 0.12, 0.15, 0.09, 0.09, 0.09, 0.03, 0.03])  # 1/s
    plug, printing, begun = 0.0, False, 0.0
    lead = setting.idle_min * 60.0
    every = max(1, round(setting.logged_s / STEP))
    for step in range(round((setting.print_min + setting.cool_min + setting.idle_min) * 60.0 / STEP)):
        time = step * STEP
        clock = setting.start_h + time / 3600.0
        room = _room(clock, setting.wander * _wave(room_wander, time)) + setting.room_shift
        off = printing and time > begun + setting.print_min * 60.0
        if not printing and bodies[BED] > setting.bed_c - 1.0 and bodies[BLOCK] > 198.5:
            printing, begun = True, time + 120.0
        flows = printing and time > begun and not off
        hot = time >= lead and not off
        waves = setting.wander * _wave(contact, time), setting.wander * _wave(clouds, time)
        bodies, soft, watts = _advanced(bodies, room, clock, time, flows, hot, today, waves)
        shown += STEP * lag * (bodies - shown)
        plug += STEP / 60.0 * RETRACTIONS * GROWTH * max(0.0, soft) if flows else 0.0
        if step % every == 0:
            feeding = flows and plug < JAM_PLUG_MM
            yield _logged(clock, shown, room, watts, feeding, hot, today, rng, meter)


def cooling_rows(setting: Setting, seed: int = 4, minutes: float = 180.0) -> Iterator[LogRow]:
    """The machine from the moment its heat goes off after a short print, a row a second, with the bed never heated."""
    short = replace(setting, print_min=6.0, cool_min=minutes, idle_min=0.0, bed_c=0.0, logged_s=STEP, sun=0.0)
    off = False
    was = 0.0
    for row in day(seed, short):
        off = off or (was > 190.0 and row.hotend < was and row.watts < IDLE_W + MOVES_W)
        was = row.hotend
        if off:
            yield row


def heat_gun(
    goal_c: float, air_c: float, film_w_m2k: float, area_m2: float, room_c: float, seed: int = 4
) -> float | None:
    """Seconds until the last of the sink's three pieces is at a temperature under a heat gun, off the machine.

    The jet strikes the upper pieces more than the lowest, wavers by a twentieth, and each piece radiates. None: it is
    not reached within half an hour.
    """
    rng = np.random.default_rng(seed)
    pieces, heat = np.full(3, room_c), HEAT[[SINK_LOW, SINK_MID, SINK_TOP]]
    share, step = np.array([0.30, 0.37, 0.33]), 0.05
    for count in range(int(1800.0 / step)):
        jet = film_w_m2k * area_m2 * share * (1.0 + 0.05 * math.sin(0.7 * count * step + rng.uniform(-0.1, 0.1)))
        into = jet * (air_c - pieces) - 5.67e-8 * 0.7 * 0.35 * area_m2 * share * (
            (pieces + 273.15) ** 4 - (room_c + 273.15) ** 4
        )
        passed = 0.58 * np.diff(pieces)
        into += np.array([passed[0], passed[1] - passed[0], -passed[1]])
        pieces = pieces + step * into / heat
        if pieces.min() >= goal_c:
            return (count + 1) * step
    return None


def _chance(setting: Setting, rng: np.random.Generator) -> _Day:
    by = setting.chance * rng.normal(0.0, 1.0, 5)
    return _Day(setting, 1.0 + 0.006 * by[0], 1.0 + 0.012 * by[1], 1.0 + 0.01 * by[2], 0.12 * by[3], 0.10 * by[4])


def _logged(
    clock: float, shown: Array, room: float, watts: tuple[float, float], feeding: bool, hot: bool, today: _Day,
    rng: np.random.Generator, meter: np.random.Generator,
) -> LogRow:  # fmt: skip
    """A line of the log: what probes and meter show, with their noise and rounding."""
    noise = today.setting.noise
    block, bed = watts
    wall = IDLE_W + (MOVES_W if hot else 0.0) + (block + bed) / SUPPLY_SHARE
    return LogRow(
        clock,
        _rounded(float(shown[BLOCK]), 0.25 * noise),
        _rounded(float(shown[BED]), 0.25 * noise),
        _rounded(float(shown[SINK_LOW] + 0.25 + noise * rng.normal(0, 0.12) + today.sink_probe), 0.1 * noise),
        _rounded(float(_fan_air(shown, room, today) - 0.3 + noise * rng.normal(0, 0.10)), 0.1 * noise),
        _rounded(float(0.5 * (shown[LOW] + shown[HIGH]) + noise * rng.normal(0, 0.12) + today.case_probe), 0.1 * noise),
        _rounded(room + noise * meter.normal(0, 0.08), 0.1 * noise),
        _rounded(wall * (1.0 + 0.004 * noise * meter.normal()) + 0.3 * noise * meter.normal(), 0.1 * noise),
        _rounded(100.0 * bed / _full(today), 1.0 * noise),
        feeding,
    )


def _full(today: _Day) -> float:
    """What the bed takes at full duty, by the supply of the day [W]."""
    return BED_W * today.supply**2 * today.setting.heater


def _rounded(value: float, step: float) -> float:
    return round(round(value / step) * step, 4) if step > 0.0 else value


def _room(clock: float, wander: float) -> float:
    return 16.3 + 2.1 * math.cos(2.0 * math.pi * (clock - 15.2) / 24.0) + 0.45 * wander


def _fan_air(bodies: Array, room: float, today: _Day) -> float:
    """What the guard draws: the case at the fan's height, and a little that seeps in beside the door."""
    share = 0.03 + 0.10 * today.setting.vents
    return float(share * room + (1.0 - share) * (0.4 * bodies[LOW] + 0.6 * bodies[HIGH])) + 0.6


def _advanced(
    t: Array, room: float, clock: float, time: float, flows: bool, hot: bool, today: _Day, waves: tuple[float, float]
) -> tuple[Array, float, tuple[float, float]]:
    """Bodies a step later, how far soft filament is drawn into the cold zone [mm], watts of block and bed."""
    setting, (contact, cloud) = today.setting, waves
    air = _fan_air(t, room, today)
    lint = setting.lint + setting.lint_grows * time / 20000.0
    blown = 0.108 * today.films * (1.0 - lint) ** 0.34 / 0.075**0.34  # W/K of all fins
    into = np.zeros(len(t))

    def pass_on(one: int, other: int, conductance: float) -> None:
        watts = conductance * (t[one] - t[other])
        into[one] -= watts
        into[other] += watts

    pass_on(LOW, HIGH, 1.9 + 0.05 * abs(t[HIGH] - t[LOW]))
    for air_half, panel, film in ((LOW, SUNNY, 0.62), (HIGH, SUNNY, 0.70), (LOW, WALLS, 1.35), (HIGH, WALLS, 1.55)):
        pass_on(air_half, panel, film * (1.0 + 0.012 * abs(t[air_half] - t[panel])))
    pass_on(BED, LOW, 0.21 * today.films * (1.0 + 0.002 * (t[BED] - t[LOW])))
    pass_on(BED, WALLS, 0.13)
    pass_on(BED, SUNNY, 0.035)
    pass_on(BLOCK, LOW, 0.040 + 0.00008 * (t[BLOCK] - t[LOW]) + (0.007 if flows else 0.0))
    pass_on(BLOCK, SINK_LOW, 0.0135 * today.grip * (1.0 + 0.05 * contact))
    pass_on(SINK_LOW, SINK_MID, 0.55)
    pass_on(SINK_MID, SINK_TOP, 0.6)
    fan = 0.0 if not hot and t[BLOCK] < 50.0 else 1.0
    for part, share in ((SINK_LOW, 0.26), (SINK_MID, 0.40), (SINK_TOP, 0.34)):
        watts = (fan * 1.42 * share * blown + 0.004) * (t[part] - air)
        into[part] -= watts
        into[HIGH] += watts
    pass_on(SINK_TOP, CARRIAGE, 0.03)
    pass_on(CARRIAGE, HIGH, 0.17)
    pass_on(MOTOR, CARRIAGE, 0.055)
    pass_on(MOTOR, HIGH, 0.075)
    draught = setting.vents * max(abs(t[HIGH] - room), 0.0) ** 0.5
    into[LOW] -= (0.20 + 0.42 * draught) * (t[LOW] - room)
    into[HIGH] -= (0.24 + 0.66 * draught) * (t[HIGH] - room)
    into[SUNNY] -= 1.75 * (t[SUNNY] - room) * (1.0 + 0.006 * (t[SUNNY] - room))
    into[WALLS] -= 4.05 * (t[WALLS] - room) * (1.0 + 0.004 * (t[WALLS] - room))
    if SUN_FROM <= clock < SUN_TO:
        into[SUNNY] += setting.sun * 62.0 * (1.0 + 0.10 * cloud)
        into[WALLS] += setting.sun * 34.0 * (1.0 + 0.10 * cloud)
    block = bed = 0.0
    if hot:
        full = _full(today)
        block = min(max(2.2 * (200.0 - t[BLOCK]) + 12.6, 0.0), 39.0)
        bed = min(max(9.0 * (setting.bed_c - t[BED]) + 6.5, 0.0), full)
        into[MOTOR] += 2.1
    into[BLOCK] += block - (0.62 if flows else 0.0)
    into[BED] += bed
    soft = DRAWN_PER_K * (float(t[SINK_LOW]) - SOFT_FROM)
    return t + STEP * into / FITTED, soft, (float(block), float(bed))


def as_csv(rows: Iterable[LogRow]) -> str:
    """The log as its logger writes it: semicolons, decimal points, clock times."""
    head = "# probe logger, five channels and the printer's own two; plug meter\n"
    lines = ["clock;hotend [C];bed [C];sink base [C];fan air [C];case [C];room [C];power [W];bed duty [%];feeding"]
    for row in rows:
        seconds = round(row.clock_h * 3600.0)
        clock = f"{seconds // 3600}:{seconds // 60 % 60:02d}:{seconds % 60:02d}"
        lines.append(
            f"{clock};{row.hotend:.2f};{row.bed:.2f};{row.sink_base:.1f};{row.fan_air:.1f};{row.case:.1f};"
            f"{row.room:.1f};{row.watts:.1f};{row.bed_duty:.0f};{'yes' if row.feeding else 'no'}"
        )
    return head + "\n".join(lines) + "\n"


def thermal_picture(
    bed_c: float, room_c: float, draught: float = 0.0, seed: int = 4, width: int = 160, height: int = 120
) -> Array:
    """Apparent temperatures of the bed from above [°C], (rows, columns): a painted plate with a bare clip at its front.

    The plate falls off to its edges, most at the corner by the door, more in a draught; the clip mirrors the room.
    """
    rng = np.random.default_rng(seed)
    x, y = np.meshgrid((np.arange(width) + 0.5) / width * 2 - 1, (np.arange(height) + 0.5) / height * 2 - 1)
    plate = np.maximum(np.abs(x) / 0.86, np.abs(y) / 0.88)
    fall = 0.115 * np.clip(plate, 0, 1) ** 3 + (0.05 + 0.06 * draught) * np.clip(x + y, 0, 2) ** 2 / 3.0
    true = room_c + (bed_c - room_c) * (1.0 - fall)
    picture = np.where(plate <= 1.0, 0.95 * true + 0.05 * room_c, room_c + 2.0 * np.exp(-6.0 * (plate - 1.0)))
    clip = (np.abs(x) < 0.12) & (y > 0.80) & (plate <= 1.06)
    picture = np.where(clip, 0.12 * true + 0.88 * room_c, picture)
    return np.asarray(np.round(picture + rng.normal(0, 0.08, picture.shape), 1))


def fan_sound(speed: float, blades: int, seed: int = 4, seconds: float = 3.0, rate: int = 16000) -> Array:
    """A recording of the fan, full scale one: blade-pass tone with overtones, its wobble, hum and air noise."""
    rng = np.random.default_rng(seed)
    time = np.arange(int(seconds * rate)) / rate
    turn = 2.0 * math.pi * np.cumsum(speed / 60.0 * (1.0 + 0.001 * np.sin(2.0 * math.pi * 0.7 * time))) / rate
    sound = sum(level * np.sin(blades * times * turn) for times, level in ((1, 0.10), (2, 0.05), (3, 0.02)))
    sound = sound + 0.02 * np.sin(turn) + 0.012 * np.sin(2.0 * math.pi * 100.0 * time)
    air = np.convolve(rng.normal(0, 0.05, len(time)), np.ones(6) / 6.0, mode="same")
    return np.asarray(sound + air)

"""What other surroundings would have done to a run: the bodies once more, the hotend's heat as it was.

The hotend is the reduced part here: over the hours it follows its surroundings within minutes, so its heat into the air
changes with that air by one conductance, its own loss per kelvin. The bodies' difference to the run is stepped along
the run's own steps by backward Euler, with the vents' law in full and every scene's own case heater under its own
control; where nothing differs the difference is zero.
"""

from __future__ import annotations

import itertools
from copy import copy
from dataclasses import dataclass
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from zeotherm.core.parts.hotend.model.inputs import HotendAir, Shift
from zeotherm.core.parts.whole.around import Around, extra_heat, with_number
from zeotherm.core.parts.whole.network import (
    AIR,
    BED,
    BOARD,
    BODIES,
    CARRIAGE,
    MOTOR,
    ROOF,
    WALL,
    Load,
    Network,
    passing,
)
from zeotherm.core.parts.whole.run import History
from zeotherm.core.physics.ventilation import daily_course, stack_conductance, stack_strength

Array = npt.NDArray[np.float64]
CORRECTIONS = 6
SETTLED = 0.03  # K, of a last correction; the next would be a hundredth of it
HELD = 1e-3  # K over a set value that count as met
MOST_STEP = 60.0  # K that a correction moves a body at most: far openings make the first ones overshoot
CLOSEST = 20.0  # s
CARRIES = frozenset(  # what lets heat out: less of it warms by more than as much more of it cools
    {"outer", "inner", "inner_high", "leak", "gap", "vent_area", "vent_rise", "vent_discharge", "wall_heat", "between"}
)


@dataclass(frozen=True)
class Scene:
    """Other surroundings, and how much air the fan would draw [W/K]."""

    around: Around
    fan_capacity: float
    coolant: bool = False


@dataclass(frozen=True)
class Replayed:
    """Differences of the bodies to the run, (marks, scenes, bodies) [K]."""

    run: History
    scenes: list[Scene]
    by: Array

    def airs(self, time: float) -> list[HotendAir]:
        """What the hotend would have stood in at a time, by scene."""
        bodies = self.run.bodies(time) + self.differences(time)
        clock = self.run.clock(time)
        return [
            Network(scene.around, Load(True, True, True, True, True)).air_at(one, scene.around.room(clock))
            for scene, one in zip(self.scenes, bodies, strict=True)
        ]

    def differences(self, time: float) -> Array:
        """Of the bodies at a time, (scenes, bodies) [K]."""
        times = self.run.times
        after = min(max(int(np.searchsorted(times, time)), 1), len(times) - 1)
        share = min(max((time - times[after - 1]) / (times[after] - times[after - 1]), 0.0), 1.0)
        return np.asarray((1.0 - share) * self.by[after - 1] + share * self.by[after])


class _Outside(NamedTuple):
    """Around the machine at one moment, by scene."""

    room: Array  # °C
    vents: Array  # W/K, see `stack_strength`
    sun: Array  # into wall and air, (scenes, 2) [W]


class _Batch:
    """The numbers of all scenes, stacked."""

    def __init__(self, scenes: list[Scene]) -> None:
        networks = [Network(scene.around, Load(True, True, True, True, True), scene.coolant) for scene in scenes]
        around = [scene.around for scene in scenes]
        self.room_course = np.array([[a.room_mean, a.room_swing, a.room_warmest] for a in around])
        self.suns = list(dict.fromkeys(a.heats for a in around))  # few scenes differ in theirs
        self.own_suns = np.array([self.suns.index(a.heats) for a in around], dtype=np.intp)
        self.sun_share = np.array([a.heat_share for a in around])
        self.heat = np.array([network.heat for network in networks])
        self.conductance = np.array([network.conductance for network in networks])
        self.outer = np.array([a.outer for a in around])
        self.open = np.array(
            [a.leak + network.duct_conductance(scene.fan_capacity)
             for a, network, scene in zip(around, networks, scenes, strict=True)]
        )  # fmt: skip
        self.vent = np.array([a.openings for a in around])
        self.rise = np.array([a.vent_rise for a in around])
        self.discharge = np.array([a.vent_discharge for a in around])
        self.pressure = np.array([a.pressure for a in around])
        self.bed_target = np.array([a.bed_target for a in around])
        self.bed_reads_by = np.array([a.bed_reads_by for a in around])
        loops = [network.loops["case"] for network in networks]
        self.case_target = np.array([loop.target for loop in loops])
        self.case_power = np.array([loop.most for loop in loops])
        self.case_heats = np.array([loop.heats for loop in loops])
        self.case_shares = np.array([loop.shares for loop in loops])
        self.case_others = np.array([loop.others for loop in loops])
        self.case_reads = np.array([loop.reads for loop in loops])
        self.own = np.array([[a.motor_watts, a.board_watts, a.own_low, a.own_high] for a in around])
        self.bed_power = np.array([a.bed_power for a in around])
        self.standby_per_k = np.array([network.standby_per_k for network in networks])
        self.standby_at_zero = np.array([network.standby_at_zero for network in networks])

    def led_by(self, first: _Batch) -> _Batch:
        """The same behind another batch."""
        made = copy(self)
        for name, own in vars(self).items():
            if isinstance(own, np.ndarray):
                setattr(made, name, np.concatenate([getattr(first, name), own]))
        made.suns = [*first.suns, *self.suns]
        made.own_suns = np.concatenate([first.own_suns, self.own_suns + len(first.suns)])
        return made

    def _sun(self, clock: float) -> Array:
        """Extra heat into wall and air, (scenes, 2) [W]."""
        each = np.array([extra_heat(suns, clock) for suns in self.suns])
        return np.asarray(self.sun_share[:, None] * each[self.own_suns])

    def outside(self, clock: float) -> _Outside:
        """What the scenes stand in at an hour."""
        mean, swing, warmest = self.room_course.T
        room = daily_course(clock, mean, swing, warmest)
        vents = stack_strength(room, self.vent, self.rise, self.discharge, self.pressure)
        return _Outside(room, vents, self._sun(clock - 1e-6))

    def rates(self, bodies: Array, outside: _Outside, load: Load) -> tuple[Array, Array]:
        """What flows into each body without the hotend and the heaters [W], and the slopes of the air that passes
        through, by both halves of the air [W/K]; bodies (scenes, bodies).
        """
        room, vents, sun = outside
        into = -np.einsum("kij,kj->ki", self.conductance, bodies)
        mean_air = 0.5 * (bodies[:, AIR] + bodies[:, ROOF])
        carried, slope = stack_conductance(mean_air, room, vents)
        low, high, *by = passing(bodies[:, AIR], bodies[:, ROOF], room, self.open, carried, slope)
        into[:, AIR] += low
        into[:, ROOF] += high
        into[:, WALL] -= self.outer * (bodies[:, WALL] - room)
        into[:, WALL] += sun[:, 0]
        into[:, AIR] += sun[:, 1]
        into[:, AIR] += self.own[:, 2] * load.board
        into[:, ROOF] += self.own[:, 3] * load.board
        for body, n in ((AIR, 0), (CARRIAGE, 1)):
            into[:, body] += (self.standby_at_zero[:, n] - self.standby_per_k[:, n] * bodies[:, body]) * load.standby
        into[:, MOTOR] += self.own[:, 0] * load.motor
        into[:, BOARD] += self.own[:, 1] * load.board
        return into, np.stack(by, axis=1).reshape(-1, 2, 2)


class _Heaters:
    """The case heaters of all scenes: what each gives, or that it holds its set value."""

    def __init__(self, batch: _Batch) -> None:
        self.batch = batch
        self.rows = np.arange(len(batch.case_power))
        self.most = batch.case_power
        self.holds = np.zeros(len(batch.case_power), dtype=bool)
        self.gives = batch.case_power.copy()

    def switch(self, *, on: bool) -> None:
        """Begin a step with them switched on or off."""
        self.most = self.batch.case_power if on else np.zeros_like(self.batch.case_power)
        self.holds &= self.most > 0.0
        self.gives = np.minimum(self.gives, self.most) if not on else np.where(self.gives > 0.0, self.most, 0.0)

    def solve(self, matrix: Array, wrong: Array, bodies: Array, moves: Array) -> tuple[Array, Array]:
        """One Newton step of the scenes [K], and whether the heater of each is still as it was taken; matrix, wrong:
        their balances without these heaters; bodies: where they stand, (scenes, bodies) [°C]; moves: which of them are
        still corrected, the others keep their heater as it is."""
        given, rows, at = self.batch, self.rows, self.batch.case_heats
        own, lacking = matrix[rows, at].copy(), wrong[rows, at].copy()
        main, others = given.case_shares[rows, at], given.case_others
        takes = np.where(self.holds, lacking, main * self.gives)
        wrong -= others * takes[:, None]
        matrix -= others[..., None] * np.where(self.holds[:, None], own, 0.0)[:, None, :]
        over = np.einsum("ki,ki->k", given.case_reads, bodies) - given.case_target
        wrong[rows, at] = np.where(self.holds, over, lacking - main * self.gives)
        matrix[rows, at] = np.where(self.holds[:, None], given.case_reads, own)
        step = np.asarray(np.linalg.solve(matrix, -wrong[..., None])[..., 0], dtype=np.float64)
        needs = (lacking + np.einsum("ki,ki->k", own, step)) / main
        over = over + np.einsum("ki,ki->k", given.case_reads, step)
        leaves = moves & self.holds & ((needs > self.most) | (needs < 0.0))
        back = moves & ~self.holds & (self.most > 0.0) & np.where(self.gives > 0.0, over > HELD, over < -HELD)
        self.gives = np.where(moves & self.holds, np.where(needs > self.most, self.most, 0.0), self.gives)
        self.holds = (self.holds & ~leaves) | back
        return step, ~(leaves | back)


def replay(run: History, scenes: list[Scene], *, apart_from_each_other: bool = False) -> Replayed:
    """The run's bodies in other surroundings, all scenes at once: corrected until all of them have settled, or each
    until it has itself, as if it were replayed alone."""
    if not scenes:
        return Replayed(run, scenes, np.zeros((len(run.marks), 0, len(BODIES))))
    batch = _Batch(scenes)
    led = [  # by the run itself, by stretch
        batch.led_by(_Batch([Scene(stretch.system.network.around, stretch.system.model.air.capacity)]))
        for stretch in run.stretches
    ]
    bodies = run.values[:, -len(BODIES) :]
    block = run.series["block"]
    loss = np.array([mark.heater for mark in run.marks]) / np.maximum(block - bodies[:, AIR], 30.0)
    by = np.zeros((len(run.marks), len(scenes), len(BODIES)))
    start = run.clock(0.0)
    by[0] = np.array([[scene.around.room(start) - run.around.around.room(start)] * len(BODIES) for scene in scenes])
    heaters, kept, every = _Heaters(batch), _kept(run), np.arange(len(BODIES))
    for last, n in itertools.pairwise(kept):
        mark, stretch = run.marks[n], run.stretches[run.marks[n].stretch]
        length = mark.time - run.marks[last].time
        load, found = stretch.system.network.load, led[mark.stretch]
        outside = found.outside(run.clock(mark.time))
        drift = (bodies[n] - bodies[last]) / length
        own = found.heat[0]
        inertia = batch.heat / length
        still = batch.conductance.copy()
        still[:, every, every] += inertia
        still[:, WALL, WALL] += batch.outer
        apart = by[last].copy()
        heaters.switch(on=load.case)
        moves = np.ones(len(scenes), dtype=bool)
        for _ in range(CORRECTIONS):
            now, slopes = found.rates(np.vstack([bodies[n], bodies[n] + apart]), outside, load)
            wrong = inertia * (apart - by[last]) - (now[1:] - now[0]) + (batch.heat - own) * drift
            wrong[:, AIR] += loss[n] * apart[:, AIR]
            matrix = still.copy()
            matrix[:, :WALL, :WALL] -= slopes[1:]
            matrix[:, AIR, AIR] += loss[n] + batch.standby_per_k[:, 0] * load.standby
            matrix[:, CARRIAGE, CARRIAGE] += batch.standby_per_k[:, 1] * load.standby
            wrong += stretch.system.network.loops["case"].shares * mark.case.watts
            if mark.bed.holds:  # by its reading: the bed, and what its watts lift the sensor above it
                by_watt = batch.bed_reads_by
                matrix[:, BED] *= by_watt[:, None]
                matrix[:, BED, BED] += 1.0
                wrong[:, BED] = by_watt * wrong[:, BED] + (by_watt - found.bed_reads_by[0]) * mark.bed.watts
                wrong[:, BED] += apart[:, BED] - (batch.bed_target - found.bed_target[0])
            elif load.bed:
                wrong[:, BED] -= batch.bed_power - found.bed_power[0]
            step, stay = heaters.solve(matrix, wrong, bodies[n] + apart, moves)
            apart = apart + np.where(moves[:, None], np.clip(step, -MOST_STEP, MOST_STEP), 0.0)
            settled = stay & (np.abs(step).max(axis=1) < SETTLED)
            moves = moves & ~settled if apart_from_each_other else np.full_like(moves, not settled.all())
            if not moves.any():
                break
        by[n] = apart
        for between in range(last + 1, n):
            share = (run.marks[between].time - run.marks[last].time) / length
            by[between] = (1.0 - share) * by[last] + share * apart
    return Replayed(run, scenes, by)


def _kept(run: History) -> list[int]:
    """Marks that are stepped to: not those a few seconds after the last, where nothing is switched; the bodies hardly
    move between."""
    found, marks = [0], run.marks
    for n in range(1, len(marks)):
        mark, before, last = marks[n], marks[n - 1], n == len(marks) - 1
        turns = last or marks[n + 1].stretch != mark.stretch or mark.stretch != before.stretch
        turns = turns or (mark.bed.holds, mark.case.holds) != (before.bed.holds, before.case.holds)
        if turns or mark.time - marks[found[-1]].time >= CLOSEST:
            found.append(n)
    return found


def doubts_of_air(run: History) -> tuple[list[str], Replayed]:
    """Every doubt of the surroundings at its half-width, on the side where it does more, replayed: names and
    differences."""
    system = run.printing.system
    around = system.network.around
    doubts = run.around.doubts if around.stated is None else {}
    moved = [with_number(around, name, getattr(around, name) + _side(name) * width) for name, width in doubts.items()]
    capacity, coolant = system.model.air.capacity, system.network.coolant
    return list(doubts), replay(run, [Scene(one, capacity, coolant) for one in moved])


def _side(name: str) -> float:
    return -1.0 if name in CARRIES else 1.0


def shifts_at(names: list[str], replayed: Replayed, time: float) -> dict[str, Shift]:
    """What each doubt's half-width does to the hotend's air, and to the bodies, at a time."""
    run = replayed.run
    _values, stretch, mark = run.at(time)
    network = stretch.system.network
    now = network.air_at(run.bodies(time), network.around.room(run.clock(time)))
    found = {}
    airs, differences = replayed.airs(time), replayed.differences(time)
    for name, scene, air, bodies in zip(names, replayed.scenes, airs, differences, strict=True):
        side = _side(name)  # as if it had been moved up
        by = HotendAir(side * (air.fan - now.fan), side * (air.block - now.block), side * (air.mount - now.mount))
        moved = dict(zip(BODIES, (side * bodies).tolist(), strict=True))
        if mark.bed.holds:  # its sensor stays where it is held, whatever its plate does
            moved["bed"] = scene.around.bed_target - network.around.bed_target
        found[name] = Shift(by, {"fan_inlet": by.fan, **moved})
    return found

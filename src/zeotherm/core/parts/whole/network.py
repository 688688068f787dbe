"""What surrounds the hotend, as a few bodies that exchange heat: one implicit stage of them."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property, lru_cache
from typing import Any, NamedTuple

import numpy as np
import numpy.typing as npt
from scipy.linalg import lapack

from zeotherm.core.parts.hotend.model.in_time import HotendFlows
from zeotherm.core.parts.hotend.model.inputs import HotendAir
from zeotherm.core.parts.whole.around import Around
from zeotherm.core.physics.ventilation import stack_conductance, stack_strength

Array = npt.NDArray[np.float64]
BODIES = ("case_air", "case_roof", "case_wall", "bed", "carriage", "motor", "board")
AIR, ROOF, WALL, BED, CARRIAGE, MOTOR, BOARD = range(len(BODIES))  # air: of the lower half, where the print is
EVERY = np.arange(len(BODIES))
HALVES = ((AIR, AIR), (AIR, ROOF), (ROOF, AIR), (ROOF, ROOF))
CORRECTIONS = 12
SETTLED = 1e-3  # K, of a last correction; the next would be below its square
SWITCHINGS = 6
NEAR_ROOM = 1e-6  # K
HELD = 1e-9  # K over a set value that count as met


@dataclass(frozen=True, slots=True)
class Load:
    """What is switched on in the surroundings."""

    bed: bool
    motor: bool
    board: bool
    case: bool = False  # its heater
    standby: bool = False  # further hotends


@dataclass(frozen=True, slots=True)
class Heating:
    """One heater of the network at one moment."""

    watts: float
    holds: bool  # whether its set value is held: the watts between zero and what it has


class Loop(NamedTuple):
    """How one heater is governed."""

    reads: Array  # what its sensor takes of each body [-]
    by_watt: float  # and stands above it for a watt [K/W]
    heats: int  # body that takes most of its watts
    shares: Array  # of them, that each body takes [-]
    others: Array | None  # what the others take of that one's; None: it takes them all
    target: float  # °C
    most: float  # W, as it is switched now

    def lacking(self, bodies: Array, watts: float) -> float:
        """How far its sensor reads below its set value [K]."""
        return self.target - float(self.reads @ bodies) - self.by_watt * watts

    def without(self, balances: Array) -> Array:
        """Balances of all bodies, by row, with its watts taken out of all but that of the body that takes most."""
        if self.others is None:
            return balances
        return np.asarray(balances - np.multiply.outer(self.others, balances[self.heats]))


@dataclass(frozen=True, slots=True)
class Outside:
    """What reaches the bodies from elsewhere at one moment."""

    room: float  # °C
    sun_wall: float  # W
    sun_air: float
    hotend: HotendFlows
    duct: float  # W/K that the fan brings in from the room


@dataclass(frozen=True, slots=True)
class NetworkFlows:
    """Watts of one moment."""

    bed: float
    case: float  # of its heater
    motor: float
    board: float  # of all electronics
    sun: float
    standby: float  # of further hotends
    to_room: float  # through wall, leak, vents, the duct's air and the coolant


@dataclass(frozen=True)
class Network:
    """The bodies around a hotend while nothing is switched."""

    around: Around
    load: Load
    coolant: bool = False  # the sink's heat leaves by a loop, not by the case's air

    @cached_property
    def heat(self) -> Array:
        """Heat capacities [J/K]."""
        a, half = self.around, 0.5 * self.around.air_heat
        return np.array([half, half, a.wall_heat, a.bed_heat, a.carriage_heat, a.motor_heat, a.board_heat])

    @cached_property
    def conductance(self) -> Array:
        """What leaves each body by the temperature of each [W/K]. Rows of what exchanges heat sum to zero; a bed's
        plume takes its heat from the lower air's temperature to the upper air."""
        a = self.around
        pairs = (
            (AIR, ROOF, a.between), (AIR, WALL, a.inner), (ROOF, WALL, a.inner_high),
            (AIR, BED, a.bed_to_air), (WALL, BED, a.bed_to_wall), (AIR, CARRIAGE, a.carriage_air),
            (AIR, MOTOR, a.motor_air), (CARRIAGE, MOTOR, a.motor_carriage), (AIR, BOARD, a.board_air),
            (CARRIAGE, BOARD, a.board_carriage),
        )  # fmt: skip
        made = np.zeros((len(BODIES), len(BODIES)))
        for one, other, value in pairs:
            made[one, other] -= value
            made[other, one] -= value
            made[one, one] += value
            made[other, other] += value
        rises = a.bed_to_air * a.bed_rises
        for node, share in ((AIR, rises), (ROOF, -rises)):  # of a heat that otherwise stays low
            made[node, BED] += share
            made[node, AIR] -= share
        return made

    @cached_property
    def loops(self) -> dict[str, Loop]:
        """The governed heaters, by name."""
        a = self.around
        bed, case = np.zeros(len(BODIES)), np.zeros(len(BODIES))
        bed[BED] = 1.0
        case[AIR], case[ROOF] = 1.0 - a.case_sensor, a.case_sensor
        heats = np.zeros(len(BODIES))
        heats[AIR] = 1.0 - a.case_heater_high - a.case_heater_wall
        heats[ROOF], heats[WALL] = a.case_heater_high, a.case_heater_wall
        where = int(heats.argmax())
        others = np.where(where == EVERY, 0.0, heats / heats[where])
        return {
            "bed": Loop(bed, a.bed_reads_by, BED, bed, None, a.bed_target, a.bed_power * self.load.bed),
            "case": Loop(case, 0.0, where, heats, others, a.case_target, a.case_power * self.load.case),
        }

    @property
    def own_watts(self) -> tuple[float, float]:
        """Heat of motor and board on the carriage [W]."""
        return self.around.motor_watts * self.load.motor, self.around.board_watts * self.load.board

    @property
    def standby_per_k(self) -> tuple[float, float]:
        """What further hotends give less for a kelvin that air, and carriage, are warmer [W/K]."""
        share, by = self.around.standby_share * self.load.standby, self.around.standby
        return share * by.air, share * by.carriage

    @property
    def standby_at_zero(self) -> tuple[float, float]:
        """What they give to air and carriage at 0 °C [W]."""
        share, by = self.around.standby_share * self.load.standby, self.around.standby
        return share * by.air_at_zero, share * by.carriage_at_zero

    def standby_watts(self, bodies: Array) -> float:
        """What further hotends give off [W]."""
        (air, carriage), (low, rides) = self.standby_per_k, self.standby_at_zero
        return low - air * float(bodies[AIR]) + rides - carriage * float(bodies[CARRIAGE])

    @property
    def electronics(self) -> tuple[float, float]:
        """Heat of supply and controller board inside the case, low and high [W]."""
        return self.around.own_low * self.load.board, self.around.own_high * self.load.board

    def has(self, body: str) -> bool:
        """Whether the machine has such a body: no motor or board where it has no watts."""
        a = self.around
        watts = {"motor": a.motor_watts, "board": a.board_watts, "case_roof": float(not a.stands_open)}
        return watts.get(body, 1.0) > 0.0

    def air_at(self, bodies: Array, room: float) -> HotendAir:
        """What the hotend stands in, from the bodies' temperatures."""
        a = self.around
        if a.stated is not None:
            return a.stated
        case = float(bodies[AIR])
        near = case + a.from_roof * max(float(bodies[ROOF]) - case, 0.0)
        fan = near + a.from_room * (room - near) + a.fan_rise
        return HotendAir(fan, case + a.near_bed * max(float(bodies[BED]) - case, 0.0), float(bodies[CARRIAGE]))

    def stage(
        self, outside: Outside, before: Array, push: Array, width: float, guess: Array, last: dict[str, Heating]
    ) -> tuple[Array, NetworkFlows, dict[str, Heating]]:
        """Temperatures, flows and heaters at the end of an implicit stage.

        before: heat held at the start [J]; push: rates of earlier stages [W]; width [s]; last: the heaters before.
        Their watts are solved with the temperatures; one stays at its bound where its control asks for more than there
        is, or for less than nothing.
        """
        fixed: dict[str, float | None] = {
            key: None if key in last and last[key].holds and loop.most > 0.0 else loop.most
            for key, loop in self.loops.items()
        }
        for _turn in range(SWITCHINGS):
            bodies, powers = self._solved(outside, before, push, width, guess, fixed)
            asked = {key: _bound(loop, fixed[key], powers[key], bodies) for key, loop in self.loops.items()}
            if asked == fixed:
                break
            fixed = asked
        heating = {key: Heating(powers[key], fixed[key] is None) for key in fixed}
        return bodies, self.flows(outside, bodies, powers), heating

    def _solved(
        self, outside: Outside, before: Array, push: Array, width: float, guess: Array, fixed: dict[str, float | None]
    ) -> tuple[Array, dict[str, float]]:
        given = before / width + push + self._sources(outside)
        given[WALL] += self.around.outer * outside.room
        for key, power in fixed.items():
            given += self.loops[key].shares * (power or 0.0)
        asked = {key: self.loops[key] for key, power in fixed.items() if power is None}
        open_, area = self.around.leak + outside.duct, self.around.openings
        straight = self.held_by(width)  # all but what the openings carry
        bodies = guess
        for _ in range(CORRECTIONS):
            low, high, *slopes = self._passing(bodies, outside.room, open_)
            wrong = given - straight @ bodies
            wrong[AIR] += low
            wrong[ROOF] += high
            matrix = straight.copy()
            for at, by in zip(HALVES, slopes, strict=True):
                matrix[at] -= by
            for loop in asked.values():  # its reading is known; the row of what it heats is its power
                wrong, matrix = loop.without(wrong), loop.without(matrix)
                wrong[loop.heats] = loop.by_watt * wrong[loop.heats] - (loop.reads @ bodies - loop.target)
                matrix[loop.heats] = loop.by_watt * matrix[loop.heats] + loop.reads
            _lu, _pivots, step, _info = lapack.dgesv(matrix, wrong)
            bodies = bodies + step
            if area <= 0.0 or max(map(abs, step.tolist())) < SETTLED:
                break
        powers = {key: power for key, power in fixed.items() if power is not None}
        if asked:
            low, high, *_slopes = self._passing(bodies, outside.room, open_)
            lacking = straight @ bodies - given
            lacking[AIR] -= low
            lacking[ROOF] -= high
            powers |= {key: float(lacking[loop.heats] / loop.shares[loop.heats]) for key, loop in asked.items()}
        return bodies, powers

    def held_by(self, width: float) -> Array:
        """What leaves the bodies, and what they take up over a width [s], per kelvin [W/K], (bodies, bodies); nothing
        that the openings carry."""
        held = self.conductance.copy()
        held[EVERY, EVERY] += self.heat / width
        held[WALL, WALL] += self.around.outer
        held[AIR, AIR] += self.standby_per_k[0]
        held[CARRIAGE, CARRIAGE] += self.standby_per_k[1]
        return held

    def bed_reading(self, bed: float, power: float) -> float:
        """What the bed's sensor says [°C] of a bed at a temperature and a power of its heater."""
        return bed + self.around.bed_reads_by * power

    def _venting(self, bodies: Array, room: float) -> tuple[float, float]:
        """What the openings carry, driven by the mean of both halves [W/K], and the slope of their watts by it."""
        a = self.around
        if a.openings <= 0.0:
            return 0.0, 0.0
        mean = 0.5 * (float(bodies[AIR]) + float(bodies[ROOF]))
        strength = _strength(room, a.openings, a.vent_rise, a.vent_discharge, a.pressure)
        carried, slope = stack_conductance(mean, room, strength)
        return float(carried), float(slope)

    def _passing(self, bodies: Array, room: float, open_: float) -> tuple[Any, ...]:
        return passing(float(bodies[AIR]), float(bodies[ROOF]), room, open_, *self._venting(bodies, room))

    def _sources(self, outside: Outside) -> Array:
        """What enters each body from outside the network, the heaters' power left out [W]."""
        motor, board = self.own_watts
        low, high = self.electronics
        hot = outside.hotend
        blown = 0.0 if self.coolant else hot.fan_air
        beside, rides = self.standby_at_zero
        into_air = hot.off_block + blown + hot.off_sink + hot.filament + outside.sun_air + low + beside
        return np.array([into_air, high, outside.sun_wall, 0.0, hot.mount + rides, motor, board])

    def flows(self, outside: Outside, bodies: Array, powers: dict[str, float]) -> NetworkFlows:
        """Watts of a moment, with what its heaters give."""
        a, by = self.around, float(bodies[ROOF]) - outside.room
        vent, _slope = self._venting(bodies, outside.room)
        lost = (a.leak + outside.duct + vent) * by + a.outer * (float(bodies[WALL]) - outside.room)
        lost += outside.hotend.fan_air if self.coolant else 0.0
        motor, board = self.own_watts
        return NetworkFlows(
            powers["bed"],
            powers["case"],
            motor,
            board + sum(self.electronics),
            outside.sun_wall + outside.sun_air,
            self.standby_watts(bodies),
            lost,
        )

    def duct_conductance(self, capacity: float) -> float:
        """What the fan's air that comes from the room takes out of the case [W/K]; capacity of all its air [W/K]."""
        return capacity * self.around.from_room if self.around.stated is None else 0.0


@lru_cache(maxsize=64)
def _strength(room: float, area: float, rise: float, discharge: float, pressure: float) -> float:
    """Of openings, asked for again at every correction of a stage."""
    return float(stack_strength(room, area, rise, discharge, pressure))


def passing(
    low: Any, high: Any, room: Any, open_: Any, carried: Any, slope: Any
) -> tuple[Any, Any, Any, Any, Any, Any]:
    """What air from the room that comes in low, goes up and leaves high brings to the lower and the upper half [W]; and
    the slopes [W/K] of the former by lower and upper air, then of the latter. Numbers, or arrays of them.

    open_: what fans and open sides carry; carried: what the openings do, driven by the mean of both halves, and the
    slope of their watts by it [W/K].
    """
    apart = 0.5 * (low + high) - room
    by_mean = 0.5 * (slope - carried) / (apart + NEAR_ROOM * (abs(apart) < NEAR_ROOM))  # of what is carried, by a half
    through, up, across = open_ + carried, low - room, high - low
    return (
        -through * up, -through * across, -through - by_mean * up, -by_mean * up, through - by_mean * across,
        -through - by_mean * across,
    )  # fmt: skip


def _bound(loop: Loop, power: float | None, watts: float, bodies: Array) -> float | None:
    """The watts at which a heater stays, as its last solution shows; None where its set value is held."""
    if power is None:
        return None if 0.0 <= watts <= loop.most else (loop.most if watts > loop.most else 0.0)
    lacks = loop.lacking(bodies, watts)
    if loop.most > 0.0 and (lacks < -HELD if power > 0.0 else lacks > HELD):
        return None
    return power

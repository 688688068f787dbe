"""What surrounds the hotend, as a few bodies that exchange heat: one implicit stage of them."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np
import numpy.typing as npt
from scipy.linalg import lapack

from zeotherm.core.physics.ventilation import stack_conductance
from zeotherm.core.twin.hotend.in_time import HotendFlows
from zeotherm.core.twin.hotend.inputs import Air
from zeotherm.core.twin.whole.around import Around

Array = npt.NDArray[np.float64]
BODIES = ("case_air", "case_wall", "bed", "carriage", "motor", "board")
AIR, WALL, BED, CARRIAGE, MOTOR, BOARD = range(len(BODIES))
CORRECTIONS = 12
SETTLED = 1e-8  # K


@dataclass(frozen=True, slots=True)
class Load:
    """What is switched on in the surroundings."""

    bed: bool
    motor: bool
    board: bool


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
    motor: float
    board: float
    sun: float
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
        a = self.around
        return np.array([a.air_heat, a.wall_heat, a.bed_heat, a.carriage_heat, a.motor_heat, a.board_heat])

    @cached_property
    def conductance(self) -> Array:
        """Conductances among the bodies [W/K], symmetric, with the sums on the diagonal."""
        a = self.around
        pairs = (
            (AIR, WALL, a.inner), (AIR, BED, a.bed_to_air), (WALL, BED, a.bed_to_wall), (AIR, CARRIAGE, a.carriage_air),
            (AIR, MOTOR, a.motor_air), (CARRIAGE, MOTOR, a.motor_carriage), (AIR, BOARD, a.board_air),
            (CARRIAGE, BOARD, a.board_carriage),
        )  # fmt: skip
        made = np.zeros((len(BODIES), len(BODIES)))
        for one, other, value in pairs:
            made[one, other] -= value
            made[other, one] -= value
            made[one, one] += value
            made[other, other] += value
        return made

    @property
    def own_watts(self) -> tuple[float, float]:
        """Heat of motor and board [W]."""
        return self.around.motor_watts * self.load.motor, self.around.board_watts * self.load.board

    @property
    def case_watts(self) -> float:
        """Of the case's heater while the machine heats [W]; it counts with the heat that comes from outside."""
        return self.around.case_watts * self.load.motor

    def has(self, body: str) -> bool:
        """Whether the machine has such a body: no motor or board where it has no watts."""
        watts = {"motor": self.around.motor_watts, "board": self.around.board_watts}
        return watts.get(body, 1.0) > 0.0

    def air_at(self, bodies: Array, room: float) -> Air:
        """What the hotend stands in, from the bodies' temperatures."""
        a = self.around
        if a.stated is not None:
            return a.stated
        case = float(bodies[AIR])
        fan = case + a.from_room * (room - case) + a.fan_rise
        return Air(fan, case + a.near_bed * max(float(bodies[BED]) - case, 0.0), float(bodies[CARRIAGE]))

    def stage(
        self, outside: Outside, before: Array, push: Array, width: float, guess: Array, holds: bool
    ) -> tuple[Array, NetworkFlows, bool]:
        """Temperatures, flows, and whether the bed's control holds its target, at the end of an implicit stage.

        before: heat held at the start [J]; push: rates of earlier stages [W]; width [s]. The bed's power is solved with
        the temperatures; it stays at its bound where the control asks for more than there is, or for less than nothing.
        """
        most = self.around.bed_power if self.load.bed else 0.0
        for fixed in (None, most, 0.0) if holds or most == 0.0 else (most, None, 0.0):
            if fixed is None and most == 0.0:
                continue
            bodies, power = self._solved(outside, before, push, width, guess, fixed)
            miss = self.around.bed_target - self.bed_reading(float(bodies[BED]), power)
            if fixed is None and 0.0 <= power <= most:
                break
            if fixed is not None and (most == 0.0 or (miss >= 0.0 if fixed > 0.0 else miss <= 0.0)):
                break
        return bodies, self._flows(outside, bodies, power), fixed is None

    def _solved(
        self, outside: Outside, before: Array, push: Array, width: float, guess: Array, fixed: float | None
    ) -> tuple[Array, float]:
        inertia = self.heat / width
        given = before / width + push + self._sources(outside)
        a, room = self.around, outside.room
        bodies = guess
        for _ in range(CORRECTIONS):
            vent, slope = self._venting(float(bodies[AIR]), room)
            wrong = inertia * bodies + self.conductance @ bodies - given
            wrong[AIR] += (a.leak + outside.duct + vent) * (bodies[AIR] - room)
            wrong[WALL] += a.outer * (bodies[WALL] - room)
            matrix = self.conductance + np.diag(inertia)
            matrix[AIR, AIR] += a.leak + outside.duct + slope
            matrix[WALL, WALL] += a.outer
            if fixed is None:  # its reading is known: the bed's row is the power, which lifts the reading above it
                matrix[BED] *= a.bed_reads_by
                wrong[BED] = a.bed_reads_by * wrong[BED] + bodies[BED] - a.bed_target
                matrix[BED, BED] += 1.0
            else:
                wrong[BED] -= fixed
            _lu, _pivots, step, _info = lapack.dgesv(matrix, -wrong)
            bodies = bodies + step
            if slope == 0.0 or float(np.abs(step).max()) < SETTLED:
                break
        if fixed is not None:
            return bodies, fixed
        return bodies, float(inertia[BED] * bodies[BED] + self.conductance[BED] @ bodies - given[BED])

    def bed_reading(self, bed: float, power: float) -> float:
        """What the bed's sensor says [°C] of a bed at a temperature and a power of its heater."""
        return bed + self.around.bed_reads_by * power

    def _venting(self, inside: float, room: float) -> tuple[float, float]:
        a = self.around
        area = a.openings
        if area <= 0.0:
            return 0.0, 0.0
        carried, slope = stack_conductance(inside, room, area, a.vent_rise, a.vent_discharge, a.pressure)
        return float(carried), float(slope)

    def _sources(self, outside: Outside) -> Array:
        """What enters each body from outside the network, the bed's own power left out [W]."""
        motor, board = self.own_watts
        hot = outside.hotend
        blown = 0.0 if self.coolant else hot.fan_air
        into_air = hot.off_block + blown + hot.off_sink + hot.filament + outside.sun_air
        return np.array([into_air, outside.sun_wall, 0.0, hot.mount, motor, board])

    def _flows(self, outside: Outside, bodies: Array, bed: float) -> NetworkFlows:
        a, by = self.around, float(bodies[AIR]) - outside.room
        vent, _slope = self._venting(float(bodies[AIR]), outside.room)
        lost = (a.leak + outside.duct + vent) * by + a.outer * (float(bodies[WALL]) - outside.room)
        lost += outside.hotend.fan_air if self.coolant else 0.0
        motor, board = self.own_watts
        return NetworkFlows(bed, motor, board, outside.sun_wall + outside.sun_air, lost)

    def duct_conductance(self, capacity: float) -> float:
        """What the fan's air that comes from the room takes out of the case [W/K]; capacity of all its air [W/K]."""
        return capacity * self.around.from_room if self.around.stated is None else 0.0

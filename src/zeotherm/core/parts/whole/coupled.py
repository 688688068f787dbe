"""Hotend field and surroundings as one system in time, while nothing is switched."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
import numpy.typing as npt
from scipy.linalg import lapack

from zeotherm.core.parts.hotend.model.in_time import HotendInTime, Linear
from zeotherm.core.parts.hotend.model.model import HotendModel, first_guess
from zeotherm.core.parts.whole.network import BODIES, Heating, Network, Outside
from zeotherm.core.solver import axisymmetric as solver
from zeotherm.core.solver.stepping import StepState

Array = npt.NDArray[np.float64]
EASE, EASE_SECONDS = 0.9, 10.0  # K a step may be off besides, and how that fades: gone from all that is told
FLOWS = ("heater", "bed", "case", "motor", "board", "sun", "standby", "to_room")


@dataclass(frozen=True)
class CoupledMemory:
    """What a stage passes on: the field with its factor, the width that was made for, the controls, the laws."""

    model: HotendModel
    field: solver.Field
    made_for: float
    heating: dict[str, Heating]  # of bed and case
    laws: tuple[Linear, ...]
    time: float  # s


@dataclass(frozen=True)
class Coupled:
    """The machine in one stretch of its job; values: the field's cells, then the bodies' temperatures."""

    hotend: HotendInTime
    network: Network
    start_h: float  # clock at time zero
    tolerance: float  # K a step may be off
    eased: float = -math.inf  # s, when something was switched whose first seconds nobody asks for

    @property
    def model(self) -> HotendModel:
        """The hotend's balance."""
        return self.hotend.model

    @cached_property
    def shape(self) -> tuple[int, int]:
        """Of the field."""
        rows, columns = self.model.layout.solid.shape
        return rows, columns

    @cached_property
    def _cells(self) -> int:
        """How many cells of the field are active."""
        return int(self.model.layout.active.sum())

    def split(self, values: Array) -> tuple[Array, Array]:
        """Field and bodies of a state."""
        return values[: -len(BODIES)].reshape(self.shape), values[-len(BODIES) :]

    def clock(self, time: float) -> float:
        """Clock hours at a time [s]."""
        return self.start_h + time / 3600.0

    def heat(self, values: Array) -> Array:
        """Heat held by each cell and body [J]."""
        field, bodies = self.split(values)
        return np.concatenate([self.hotend.storage.heat(field).reshape(-1), self.network.heat * bodies])

    def stage(
        self, time: float, before: Array, push: Array, width: float, guess: Array, last: StepState | None
    ) -> StepState:
        """One implicit stage: the field in the air that is expected, then the bodies with the heat it gives.

        What the field meets is one guess off what the bodies come to; the guess is a parabola through time, and the
        error of a step shows where it was not good enough.
        """
        field_before, bodies_before = self.split(before)
        field_push, bodies_push = self.split(push)
        field_guess, bodies_guess = self.split(guess)
        around = self.network.around
        clock = self.clock(time)
        room = around.room(clock)
        air = self.network.air_at(bodies_guess, room)
        memory = last.memory if last is not None and isinstance(last.memory, CoupledMemory) else None
        start = self._start(field_guess, memory)
        made_for = memory.made_for if memory is not None else math.inf
        laws = memory.laws if memory is not None and memory.model is self.model else ()
        field, exchanges, flows = self.hotend.stage(air, field_before, field_push, width, start, made_for, laws)
        sun_wall, sun_air = around.extra(self.clock(time - 1e-3))
        duct = self.network.duct_conductance(self.model.air.capacity)
        outside = Outside(room, sun_wall, sun_air, flows, duct)
        known = memory.heating if memory is not None else {}
        bodies, around_flows, heating = self.network.stage(
            outside, bodies_before, bodies_push, width, bodies_guess, known
        )
        values = np.concatenate([field.temperature.reshape(-1), bodies])
        assert field.held is not None
        held = np.concatenate([field.held.reshape(-1), self.network.heat * bodies])
        rates = (held - before) / width - push
        named = np.array(
            [flows.heater, around_flows.bed, around_flows.case, around_flows.motor, around_flows.board,
             around_flows.sun, around_flows.standby, around_flows.to_room]
        )  # fmt: skip
        width_of_factor = made_for if field.factor is start.factor else width
        passed = CoupledMemory(self.model, field, width_of_factor, heating, exchanges, time)
        return StepState(values, rates, named, passed, held, self._away(field, bodies, heating))

    def _away(self, field: solver.Field, bodies: Array, heating: dict[str, Heating]) -> tuple[float, ...]:
        """How far the hotend, and each heater around it, still is from its set value [K]; zero while it is held."""
        control = self.model.problem.control
        rests = field.saturated or (field.power <= 0.0 and control.limit > 0.0)
        lacks = control.target - float(np.vdot(control.sensor, field.temperature)) if rests else 0.0
        around = (
            0.0 if heating[key].holds or loop.most <= 0.0 else loop.lacking(bodies, heating[key].watts)
            for key, loop in self.network.loops.items()
        )
        return lacks, *around

    def _start(self, guess: Array, memory: CoupledMemory | None) -> solver.Field:
        limit = self.model.problem.control.limit
        if memory is None:
            blank = first_guess(self.model)
            return replace(blank, temperature=guess.copy(), power=limit, saturated=True)
        last = memory.field
        return solver.Field(guess.copy(), min(last.power, limit), last.saturated, 0.0, 0, 0, last.factor)

    def error(self, watts: Array, width: float, stage: StepState) -> float:
        """Root mean square of the field's error, and the greatest of the bodies', over the tolerance.

        The estimate goes through the stage's own factor, which takes out what is stiff.
        """
        memory: CoupledMemory = stage.memory
        field, bodies = self.split(watts)
        off = 0.0
        factor = memory.field.factor
        if factor is not None:
            wrong = factor.solve(field.reshape(-1)).reshape(self.shape)
            control = self.model.problem.control
            if not memory.field.saturated and control.limit > 0.0:
                response = factor.source_response.reshape(self.shape)
                by = float(np.vdot(control.sensor, wrong)) / float(np.vdot(control.sensor, response))
                wrong = wrong - by * response
            off = math.sqrt(float(np.vdot(wrong, wrong)) / self._cells)  # idle cells stay at zero
        inertia, bodies = self.network.held_by(width), bodies.copy()
        for key, loop in self.network.loops.items():
            if memory.heating[key].holds:  # the row of what it heats is its reading
                inertia, bodies = loop.without(inertia), loop.without(bodies)
                inertia[loop.heats] = loop.by_watt * inertia[loop.heats] + loop.reads
                bodies[loop.heats] *= loop.by_watt
        _lu, _pivots, apart, _info = lapack.dgesv(inertia, bodies)
        allowed = self.tolerance + EASE * math.exp((self.eased - memory.time) / EASE_SECONDS)
        return max(off, float(np.abs(apart).max())) / allowed

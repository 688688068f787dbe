"""The coupled machine as an ordinary differential equation for a general solver, and small linear systems."""

from __future__ import annotations

from dataclasses import dataclass, field, replace

import numpy as np
from scipy.integrate import solve_ivp
from scipy.sparse import coo_matrix, lil_matrix

from zeotherm.core.catalogue import shipped
from zeotherm.core.machine.documents import Setup
from zeotherm.core.parts.hotend.model.in_time import HotendFlows, HotendInTime
from zeotherm.core.parts.hotend.model.inputs import resolve
from zeotherm.core.parts.hotend.model.model import build, first_guess
from zeotherm.core.parts.hotend.model.model import solve as settle
from zeotherm.core.parts.whole.around import resolve_around
from zeotherm.core.parts.whole.coupled import Coupled
from zeotherm.core.parts.whole.network import AIR, BED, BOARD, BODIES, CARRIAGE, MOTOR, ROOF, WALL, Load, Network
from zeotherm.core.solver import axisymmetric as solver
from zeotherm.core.solver.stepping import StepState


@dataclass
class Linear:
    """heat · dx/dt = source(t) - conductance · x, for the stepper."""

    capacity: np.ndarray
    conductance: np.ndarray
    source: object
    wanted: float = 0.0  # tolerance; zero: take every step
    errors: list[float] = field(default_factory=list)

    def heat(self, values):
        return self.capacity * values

    def stage(self, time, before, push, width, guess, last):
        matrix = np.diag(self.capacity / width) + self.conductance
        values = np.linalg.solve(matrix, before / width + push + self.source(time))
        rates = (self.heat(values) - before) / width - push
        return StepState(values, rates, np.array([rates.sum()]))

    def error(self, watts, width, stage):
        wrong = np.linalg.solve(np.diag(self.capacity / width) + self.conductance, watts)
        return float(np.abs(wrong).max()) / self.wanted if self.wanted else 0.0


@dataclass
class Governed:
    """One capacity that loses heat to zero degrees, warmed flat out up to a target and then held at it."""

    capacity: float
    loss: float
    most: float
    target: float
    wanted: float  # tolerance [K]

    def heat(self, values):
        return self.capacity * values

    def stage(self, time, before, push, width, guess, last):
        inertia = self.capacity / width
        given = before[0] / width + push[0]
        short = given + self.most < (inertia + self.loss) * self.target
        power = self.most if short else max((inertia + self.loss) * self.target - given, 0.0)
        values = np.array([(given + power) / (inertia + self.loss)])
        rates = (self.heat(values) - before) / width - push
        away = 0.0 if 0.0 < power < self.most else self.target - float(values[0])
        return StepState(values, rates, np.array([power]), away=(away,))

    def error(self, watts, width, stage):
        wrong = 0.0 if stage.away[0] == 0.0 else float(watts[0]) / (self.capacity / width + self.loss)
        return abs(wrong) / self.wanted


def saturated(setup: Setup, watts: float, bed_watts: float, fineness: float, tolerance: float) -> Coupled:
    """A machine whose heaters run at fixed watts, so that no control switches, printing."""
    catalogue = shipped()
    around = replace(resolve_around(setup, catalogue).around, bed_power=bed_watts, bed_target=900.0)
    inputs = replace(resolve(setup, catalogue).inputs, heater_power=watts, nozzle=900.0)
    model = build(replace(inputs, nozzle=setup.printing.nozzle_c), fineness)
    control = replace(model.problem.control, target=900.0, limit=watts)
    model = replace(model, problem=replace(model.problem, control=control))
    network = Network(around, Load(True, True, True))
    return Coupled(HotendInTime(model), network, setup.schedule.start_h, tolerance)


def start_of(system: Coupled, bodies: np.ndarray) -> np.ndarray:
    """The field settled in the air of some bodies, and the bodies."""
    model = system.model
    air = system.network.air_at(bodies, system.network.around.room(system.start_h))
    settled = build(model.given.in_air(air), model.fineness)
    problem = replace(settled.problem, control=model.problem.control)
    field_ = settle(replace(settled, problem=problem), replace(first_guess(settled), power=model.problem.control.limit))
    return np.concatenate([field_.temperature.reshape(-1), bodies])


class Equation:
    """dy/dt of a saturated machine; the strand's skin, which holds no heat, is eliminated."""

    def __init__(self, system: Coupled) -> None:
        self.system = system
        model = system.model
        self.shape = system.shape
        self.skin = model.layout.grid.moving
        kept = model.layout.active.copy()
        kept[:, self.skin] = False
        self.cells = np.flatnonzero(kept)
        self.calls = 0

    def pack(self, values: np.ndarray) -> np.ndarray:
        return np.concatenate([values[self.cells], values[-len(BODIES) :]])

    def unpack(self, y: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
        problem = self.system.model.problem
        flat = np.full(self.shape[0] * self.shape[1], 20.0)
        flat[self.cells] = y[: -len(BODIES)]
        temperature = flat.reshape(self.shape)
        inner = problem.body.radial[:, self.skin - 1]
        outer, _slope = problem.gap.conductance(solver.stream_mean(problem, temperature))
        temperature[:, self.skin] = (inner * temperature[:, self.skin - 1] + outer * temperature[:, self.skin + 1]) / (
            inner + outer
        )
        return temperature, y[-len(BODIES) :]

    def __call__(self, time: float, y: np.ndarray) -> np.ndarray:
        self.calls += 1
        system, model = self.system, self.system.model
        temperature, bodies = self.unpack(y)
        around, network = system.network.around, system.network
        clock = system.clock(time)
        room = around.room(clock)
        air = network.air_at(bodies, room)
        exchanges = system.hotend._exchanges(air, temperature, ())
        stream = replace(model.problem.stream, inlet=air.fan)
        problem = replace(model.problem, stream=stream, exchanges=exchanges)
        power = model.problem.control.limit
        into = -solver.residual(problem, temperature, power)
        rise = into.reshape(-1)[self.cells] / system.hotend.storage.slope(temperature).reshape(-1)[self.cells]
        flows: HotendFlows = system.hotend._flows(
            problem, air, exchanges, solver.Field(temperature, power, True, 0.0, 0, 0)
        )
        motor, board = network.own_watts
        sun_wall, sun_air = around.extra(clock)
        vent, _slope = network._venting(bodies, room)
        change = -network.conductance @ bodies
        change[AIR] += flows.off_block + flows.fan_air + flows.off_sink + flows.filament + sun_air
        through = around.leak + network.duct_conductance(model.air.capacity) + vent
        change[AIR] -= through * (bodies[AIR] - room)
        change[ROOF] -= through * (bodies[ROOF] - bodies[AIR])
        low, high = network.electronics
        change[AIR] += low
        change[ROOF] += high
        change[WALL] += sun_wall - around.outer * (bodies[WALL] - room)
        change[BED] += around.bed_power
        change[CARRIAGE] += flows.mount
        change[MOTOR] += motor
        change[BOARD] += board
        return np.concatenate([rise, change / network.heat])

    def sparsity(self) -> lil_matrix:
        """Which derivative may differ from zero: neighbours, the strand's own rows, the bodies."""
        rows, columns = self.shape
        place = np.full(rows * columns, -1)
        place[self.cells] = np.arange(len(self.cells))
        place = place.reshape(self.shape)
        pairs: list[tuple[int, int]] = []
        moving = self.skin
        for r in range(rows):
            for c in range(columns):
                here = place[r, c]
                if here < 0:
                    continue
                near = [(r, c), (r - 1, c), (r + 1, c), (r, c - 1), (r, c + 1)]
                if c < moving:
                    near += [(r - 2, c)]
                if c in (moving - 1, moving + 1):
                    near += [(r, k) for k in range(moving + 2)]
                for i, k in near:
                    if 0 <= i < rows and 0 <= k < columns and place[i, k] >= 0:
                        pairs.append((here, place[i, k]))
        count = len(self.cells) + len(BODIES)
        bodies = range(len(self.cells), count)
        open_cells = np.unique(np.concatenate([law.cells for law in self.system.model.problem.exchanges]))
        top = [place[0, c] for c in range(moving)]
        last = [place[rows - 1, c] for c in range(moving)]
        touched = [place.reshape(-1)[cell] for cell in open_cells] + top + last
        for body in bodies:
            pairs += [(body, other) for other in bodies]
            pairs += [pair for cell in touched if cell >= 0 for pair in ((body, cell), (cell, body))]
        i, j = np.array(pairs).T
        return coo_matrix((np.ones(len(i)), (i, j)), shape=(count, count)).tolil()


def by_general_solver(equation: Equation, values: np.ndarray, times: np.ndarray, rtol: float, atol: float):
    """The same equation by the library's BDF with the sparsity given; longest step as ours."""
    return solve_ivp(
        equation, (0.0, float(times[-1])), equation.pack(values), method="BDF", t_eval=times,
        jac_sparsity=equation.sparsity(), rtol=rtol, atol=atol, max_step=900.0,
    )  # fmt: skip

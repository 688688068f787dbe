"""The hotend's field in time: its heat held, and one implicit stage of it in changing air."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from functools import cached_property
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from zeotherm.core.parts.hotend.model.inputs import HotendAir, Inputs
from zeotherm.core.parts.hotend.model.model import PARTS, HotendModel, with_input
from zeotherm.core.parts.hotend.model.sink_air import sink_air
from zeotherm.core.parts.hotend.model.surfaces import FinnedSurface, FixedConductance, HotSurface
from zeotherm.core.physics.filament import Enthalpy
from zeotherm.core.solver import axisymmetric as solver

Array = npt.NDArray[np.float64]
Law = FinnedSurface | HotSurface | FixedConductance
AIR_CAPACITY = 1.1e3  # J/m³K, of the still air between block and sink
PROBE = 10.0  # K over which the fan's air is taken as linear in its temperature
STAGE_TOLERANCE = 3e-5  # of the throughput that a stage's balance may lack
STAGE_CORRECTIONS = 12  # a stage that needs more asks for a shorter step
HOT_MOVED = 3.0  # K by which the block may move before what it does to the sink is taken anew: a tenth of it arrives
MOVED = 0.2  # K by which a surface or its air may move before its exchange is taken anew; 0.3 K costs 0.1 K
REUSE = 2.2  # a factor serves stages whose width differs by less


@dataclass(frozen=True, slots=True)
class HotendFlows:
    """Watts of one moment, each from its own law."""

    heater: float
    off_block: float  # with the nozzle, into the air around the block
    fan_air: float
    off_sink: float
    mount: float
    filament: float


@dataclass(frozen=True)
class Linear:
    """An exchange by its value and slope at one temperature of surface and surroundings."""

    cells: npt.NDArray[np.intp]
    at: Array
    watts: Array
    slope: Array
    ambient: float
    hot: float = 0.0  # the block, where it matters [°C]

    def flow(self, temperature: Array) -> tuple[Array, Array]:
        """Watts out of each cell and their slope [W/K]."""
        return self.watts + self.slope * (temperature - self.at), self.slope

    def near(self, temperature: Array, place: SurfaceAir, within: float) -> bool:
        """Whether surface and surroundings are still where the law was taken [K]."""
        moved = abs(place.ambient - self.ambient) >= within or abs(place.hot - self.hot) >= HOT_MOVED
        return not moved and float(np.abs(temperature - self.at).max()) < within

    def shifted(self, ambient: float) -> Linear:
        """The same with the surroundings moved: what counts is the difference of the two."""
        by = ambient - self.ambient
        if by == 0.0:
            return self
        return Linear(self.cells, self.at, self.watts - self.slope * by, self.slope, ambient, self.hot)


class SurfaceAir(NamedTuple):
    """What a surface stands in [°C]: its air, and the block and its air where they reach it."""

    ambient: float
    hot: float = 0.0
    block_air: float = 0.0


@dataclass(frozen=True)
class HotendInTime:
    """One hotend through a stretch in which nothing is switched."""

    model: HotendModel
    closeness: float = STAGE_TOLERANCE  # of a stage's balance
    moved: float = MOVED  # K

    @cached_property
    def storage(self) -> solver.Storage:
        """Heat held by each cell; the fins' with the core at their roots."""
        return storage(self.model)

    @cached_property
    def _fan_slope(self) -> float:
        """Relative change of the fins' conductance per kelvin of the fan's air [1/K]."""
        given = self.model.given
        warmer = sink_air(with_input(given, "fan_air", given.fan_air + PROBE), self.model.layout.at)
        now = self.model.air.per_fin
        return (warmer.per_fin / now - 1.0) / PROBE if now > 0.0 else 0.0

    def stage(
        self,
        outside: HotendAir,
        before: Array,
        push: Array,
        width: float,
        guess: solver.Field,
        made_for: float,
        laws: tuple[Linear, ...] = (),
    ) -> tuple[solver.Field, tuple[Linear, ...], HotendFlows]:
        """The field that solves one implicit stage, the exchanges it was solved with, and the flows.

        laws: the exchanges of an earlier stage. Surfaces exchange heat by their law's value and slope, taken anew when
        surface or air have moved by `moved`: within that the law is as good as straight. Raises NotConvergedError.
        """
        exchanges = self._exchanges(outside, guess.temperature, laws)
        of, given = self.model.problem, self.model.problem.stream
        stream = solver.Stream(given.mass_flow, given.shares, outside.fan, given.enthalpy)
        together = (_together(exchanges, guess.temperature.size),)
        problem = solver.Problem(of.body, of.gap, stream, of.control, together)
        keep = made_for / REUSE < width < made_for * REUSE
        start = guess if keep else replace(guess, factor=None)
        inertia = solver.Inertia(self.storage, before, push, width)
        field = solver.solve(problem, start, tolerance=self.closeness, limit=STAGE_CORRECTIONS, inertia=inertia)
        return field, exchanges, self._flows(problem, outside, exchanges, field)

    def _exchanges(self, outside: HotendAir, temperature: Array, laws: tuple[Linear, ...]) -> tuple[Linear, ...]:
        flat = temperature.reshape(-1)
        places = (self._at_sink(outside, temperature), *(SurfaceAir(outside.block) for _ in self.model.hot),
                  SurfaceAir(outside.mount))  # fmt: skip
        own: tuple[Law, ...] = (self.model.fins, *self.model.hot.values(), self.model.mount)
        return tuple(
            laws[i].shifted(place.ambient)
            if laws and laws[i].near(flat[law.cells], place, self.moved)
            else _linear(self._in_air(law, place), flat, place)
            for i, (law, place) in enumerate(zip(own, places, strict=True))
        )

    def _at_sink(self, outside: HotendAir, temperature: Array) -> SurfaceAir:
        block = float(np.vdot(self.model.problem.control.sensor, temperature))
        return SurfaceAir(outside.fan, block, outside.block)

    def _in_air(self, law: Law, place: SurfaceAir) -> Law:
        return self._sink_in_air(place) if isinstance(law, FinnedSurface) else law.in_air(place.ambient)

    def _sink_in_air(self, place: SurfaceAir) -> FinnedSurface:
        gain = 1.0 + self._fan_slope * (place.ambient - self.model.given.fan_air)
        return self.model.fins.in_air(place.ambient, gain, place.hot, place.block_air)

    def _flows(
        self, problem: solver.Problem, outside: HotendAir, exchanges: tuple[Linear, ...], field: solver.Field
    ) -> HotendFlows:
        flat = field.temperature.reshape(-1)
        fins, block, nozzle, mount = (float(one.flow(flat[one.cells])[0].sum()) for one in exchanges)
        sink = self._sink_in_air(self._at_sink(outside, field.temperature))
        to_air = sink.to_fan_air(flat[sink.cells])
        taken = solver.stream_gain(problem, field.temperature)
        return HotendFlows(field.power, block + nozzle, to_air, fins - to_air, mount, taken)


@dataclass(frozen=True)
class _Together:
    """Straight exchanges as one of all cells: watts at 0 °C and their slope, (cells,) each."""

    watts: Array
    slope: Array

    @property
    def cells(self) -> slice:
        """All of them."""
        return slice(None)

    def flow(self, temperature: Array) -> tuple[Array, Array]:
        """Watts out of each cell and their slope [W/K]."""
        return self.watts + self.slope * temperature, self.slope


def _together(laws: tuple[Linear, ...], cells: int) -> _Together:
    watts, slope = np.zeros(cells), np.zeros(cells)
    for law in laws:
        watts[law.cells] += law.watts - law.slope * law.at
        slope[law.cells] += law.slope
    return _Together(watts, slope)


def _linear(law: Law, flat: Array, place: SurfaceAir) -> Linear:
    at = flat[law.cells]
    return Linear(law.cells, at, *law.flow(at), place.ambient, place.hot)


def storage(model: HotendModel) -> solver.Storage:
    """Heat held by the cells of a hotend."""
    given: Inputs = model.given
    mesh, at = model.layout.grid, model.layout.at
    volume = math.pi * (mesh.outer**2 - mesh.inner**2) * mesh.thickness[:, None]
    by_part = {
        "none": 0.0, "nozzle": given.nozzle_capacity, "block": given.block_capacity, "break": given.break_capacity,
        "sink": given.sink_capacity, "tube": given.tube_capacity, "air": AIR_CAPACITY,
    }  # fmt: skip
    capacity = volume * np.array([by_part[part] for part in PARTS])[model.layout.part]
    capacity[:, : mesh.moving + 1] = 0.0
    roots, columns = np.divmod(model.fins.cells, len(mesh.radius))
    fin = math.pi * (at.fin**2 - at.core**2) * given.sink_capacity
    for bottom in at.fins:
        root = (mesh.height[roots] > bottom) & (mesh.height[roots] < bottom + at.fin_thickness)
        capacity[roots[root], columns[root]] += fin * mesh.thickness[roots[root]]
    block, sink = model.layout.cells_of["block"], np.unique(model.fins.cells)
    capacity += np.where(block, (given.block_extra + given.sleeve_heat) * volume / volume[block].sum(), 0.0)
    capacity.reshape(-1)[sink] += given.sink_extra * volume.reshape(-1)[sink] / volume.reshape(-1)[sink].sum()
    law = Enthalpy(given.capacity_solid, given.capacity_melt, given.softening, given.melting, given.latent)
    return solver.Storage(capacity, given.density * volume[:, : mesh.moving], law)

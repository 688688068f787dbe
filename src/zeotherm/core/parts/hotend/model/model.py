"""The hotend's heat balance: from inputs to the solver's problem, and the solved field."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from functools import cached_property, lru_cache, partial
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from zeotherm.core.catalogue.shelves import HotendShape
from zeotherm.core.parts.hotend.model.inputs import Inputs
from zeotherm.core.parts.hotend.model.shape import Grid, Levels, Ring, grid, levels, rings
from zeotherm.core.parts.hotend.model.sink_air import SinkAir, sink_air
from zeotherm.core.parts.hotend.model.surfaces import FinnedSurface, FixedConductance, HotSurface, Plume
from zeotherm.core.physics.air import air
from zeotherm.core.physics.conduction import ring_resistance
from zeotherm.core.physics.filament import Enthalpy, touching_share
from zeotherm.core.physics.radiation import flux_between_plates
from zeotherm.core.solver import axisymmetric as solver

Array = npt.NDArray[np.float64]
STRAND = -2  # in the table of solids
PARTS = ("none", "nozzle", "block", "break", "sink", "tube", "air")
AIR_GAP_EMISSIVITY = 0.2
MOST_BODIES = 4
OUTWARD = 4  # power of the radius by which the strand's outer parts weigh more in what closes the gap; estimate


class Places(NamedTuple):
    """Where the stations are in a grid."""

    means: Array  # (cells, 3) what the readings of block, nozzle and sink's top take of each cell
    above_neck: int  # the lowest row above the thin neck
    core: int  # the sink's outermost column there
    tube_end: int  # the tube's last row
    tube_columns: npt.NDArray[np.intp]  # of the tube there
    neck: int  # the row whose lower face is nearest to the neck's middle
    neck_columns: npt.NDArray[np.bool_]  # of what conducts upwards there
    around_tube: npt.NDArray[np.bool_]  # (rows, columns) solids outside the tube


@dataclass(frozen=True)
class Layout:
    """What depends on the shape alone."""

    at: Levels
    solids: tuple[Ring, ...]
    grid: Grid
    solid: npt.NDArray[np.intp]  # (rows, columns) index into `solids`, -1 outside, STRAND in the bore
    part: npt.NDArray[np.intp]  # (rows, columns) index into PARTS

    @cached_property
    def active(self) -> npt.NDArray[np.bool_]:
        """Cells that hold something."""
        return np.asarray(self.solid != -1)

    @cached_property
    def cells_of(self) -> dict[str, npt.NDArray[np.bool_]]:
        """Which cells belong to each part, (rows, columns)."""
        return {name: self.part == index for index, name in enumerate(PARTS)}

    @cached_property
    def places(self) -> Places:
        """Where the stations are."""
        at, mesh, cells = self.at, self.grid, self.cells_of
        hexagon = cells["nozzle"] & (mesh.height < at.block_bottom)[:, None] & (mesh.height > at.cone)[:, None]
        top = cells["sink"] & (np.arange(len(mesh.depth)) == 0)[:, None]
        read = np.array([mask.reshape(-1) for mask in (cells["block"], hexagon, top)], dtype=np.float64)
        above_neck = int(np.flatnonzero(mesh.height > at.neck_top)[-1])
        tube_end = int(np.flatnonzero(cells["tube"].any(axis=1))[-1])
        middle = 0.5 * (at.block_top + at.neck_top)
        neck = int(np.argmin(np.abs(mesh.top - mesh.faces[1:-1] - middle)))
        return Places(
            means=(read / read.sum(axis=1, keepdims=True)).T,
            above_neck=above_neck,
            core=int(np.flatnonzero(cells["sink"][above_neck])[-1]),
            tube_end=tube_end,
            tube_columns=np.flatnonzero(cells["tube"][tube_end]),
            neck=neck,
            neck_columns=cells["break"][neck] | cells["tube"][neck],
            around_tube=(mesh.radius > at.tube) & self.active & ~cells["air"],
        )

    @cached_property
    def in_nozzle(self) -> npt.NDArray[np.bool_]:
        """Rows of the melt that is within the nozzle's body, above its cone, (rows,)."""
        height = self.grid.height
        return np.asarray((height > self.at.cone) & (height < self.at.nozzle_top))

    def conducting(
        self, conductivities: tuple[float, ...], contacts: Mapping[tuple[str, str], float], insert: float = 1.0
    ) -> tuple[Array, solver.Body]:
        """Conductivity of every cell [W/mK], and what conducts; the last few are kept, since most inputs leave them.

        conductivities: of each solid, of the strand, and of nothing; contacts: of the faces between parts [W/m²K];
        insert: times that melt within the nozzle conducts.
        """
        wanted = (conductivities, insert, *contacts.values())
        known = self._bodies.get(wanted)
        if known is None:
            conductivity, faces = np.array(conductivities)[self.solid], by_part(contacts)
            conductivity[self.in_nozzle[:, None] & (self.solid == STRAND)] *= insert
            radial, axial = _radial(self, conductivity, faces), _axial(self, conductivity, faces)
            body = solver.Body(self.grid.depth, self.grid.faces, self.active, radial, axial)
            known = self._bodies[wanted] = (conductivity, body)
            for oldest in list(self._bodies)[:-MOST_BODIES]:  # rooms ask from threads of their own
                self._bodies.pop(oldest, None)
        return known

    @cached_property
    def _bodies(self) -> dict[tuple[object, ...], tuple[Array, solver.Body]]:
        return {}

    @cached_property
    def heater_and_sensor(self) -> tuple[Array, Array]:
        """Shares of the cartridge's source, and of the sensor's reading, by cell."""
        height = self.grid.height[:, None]
        block = self.cells_of["block"]
        volume = self.grid.thickness[:, None] * (self.grid.outer**2 - self.grid.inner**2)
        heater, sensor = (
            np.where(block & (height > low) & (height < high) & (self.grid.radius > inner), volume, 0.0)
            for low, high, inner in (self.at.heater, self.at.sensor)
        )
        return heater / heater.sum(), sensor / sensor.sum()

    @cached_property
    def sink_core(self) -> tuple[npt.NDArray[np.intp], Array, Array, Array]:
        """The sink's core: cells, shares of each fin's root and of each bare stretch, shares of the envelope."""
        at, mesh = self.at, self.grid
        column = _column_at(mesh, at.core)
        rows = np.flatnonzero((mesh.height > at.neck_top) & (self.solid[:, column] >= 0))
        height, thickness = mesh.height[rows], mesh.thickness[rows]
        roots, bare = np.zeros(len(rows)), np.zeros(len(rows))
        pitch = at.fins[1] - at.fins[0]
        for bottom in at.fins:
            root = (height > bottom) & (height < bottom + at.fin_thickness)
            between = (height > bottom + at.fin_thickness) & (height < min(bottom + pitch, at.sink_top))
            roots[root] += thickness[root] / at.fin_thickness
            bare[between] += thickness[between] / (pitch - at.fin_thickness)
        return rows * len(mesh.radius) + column, roots, bare, thickness / thickness.sum()

    @cached_property
    def seen_by_block(self) -> Array:
        """Face of the lowest fin toward the block, beside the gap that the grid has, by cell of the core [m²]."""
        at, (cells, *_shares) = self.at, self.sink_core
        rows = cells // len(self.grid.radius)
        height, thickness = self.grid.height[rows], self.grid.thickness[rows]
        root = (height > at.fins[0]) & (height < at.fins[0] + at.fin_thickness)
        face = math.pi * (min(at.fin, at.block_radius) ** 2 - at.core**2)
        return np.asarray(np.where(root, max(face, 0.0) * thickness / at.fin_thickness, 0.0))

    @cached_property
    def hot_faces(self) -> dict[str, tuple[npt.NDArray[np.intp], Array]]:
        """Bare faces of block and nozzle, told by the empty neighbour: cells and areas [m²]."""
        at, mesh = self.at, self.grid
        side = 2 * math.pi * mesh.outer * mesh.thickness[:, None]
        end = np.broadcast_to(math.pi * (mesh.outer**2 - mesh.inner**2), side.shape)
        gone = np.pad(~self.active, 1, constant_values=True)
        area = side * gone[1:-1, 2:] + end * gone[:-2, 1:-1] + end * gone[2:, 1:-1]
        true_side = at.block_side / (2 * math.pi * at.block_radius * (at.block_top - at.block_bottom))
        outermost = np.arange(len(mesh.outer)) == _column_at(mesh, at.block_radius)
        made = {}
        for name in ("block", "nozzle"):
            faces = np.where(self.cells_of[name], area, 0.0)
            if name == "block":
                faces = faces + np.where((faces > 0) & outermost, side * (true_side - 1.0), 0.0)
            cells = np.flatnonzero(faces)
            made[name] = (cells, faces.reshape(-1)[cells])
        return made


@dataclass(frozen=True)
class HotendModel:
    """The balance of one hotend, ready to solve."""

    given: Inputs
    layout: Layout
    air: SinkAir
    problem: solver.Problem
    fins: FinnedSurface
    hot: dict[str, HotSurface]
    mount: FixedConductance
    conductivity: Array
    fineness: float

    def like(self, given: Inputs) -> HotendModel:
        """The balance of other inputs on a grid as fine; surfaces that they leave alone are this one's own."""
        return build(given, self.fineness, self)


@lru_cache(maxsize=64)
def lay_out(shape: HotendShape, neck_wall: float, neck_length: float, fineness: float = 1.0) -> Layout:
    """Solids, grid, and which cell belongs to which solid; neck_wall and neck_length [m]."""
    at = levels(shape, neck_wall, neck_length)
    solids = tuple(rings(at))
    mesh = grid(at, list(solids), fineness)
    solid = np.full((len(mesh.depth), len(mesh.radius)), -1, dtype=np.intp)
    part = np.zeros_like(solid)
    for index, ring in enumerate(solids):
        rows = (mesh.height > ring.bottom) & (mesh.height < ring.top)
        columns = (mesh.radius > ring.inner) & (mesh.radius < ring.outer)
        solid[np.ix_(rows, columns)] = index
        part[np.ix_(rows, columns)] = PARTS.index(ring.part)
    solid[:, : mesh.moving + 1] = STRAND
    return Layout(at, solids, mesh, solid, part)


def _column_at(mesh: Grid, radius: float) -> int:
    """The column that ends at a radius, or at the edge within two hundredths of a millimetre that took its place."""
    return int(np.abs(mesh.outer - radius).argmin())


def build(given: Inputs, fineness: float = 1.0, near: HotendModel | None = None) -> HotendModel:
    """The heat balance of a hotend; fineness 2 halves every cell; near: one whose surfaces serve where alike."""
    layout = lay_out(given.shape, given.neck_wall, given.neck_length, fineness)
    blown = sink_air(given, layout.at)
    conductivity, body = layout.conducting(_conductivities(given, layout), contact_conductances(given), given.insert)
    hot = _hot_surfaces(given, layout)
    fins = _finned(layout, blown, _plume(given, layout, blown, hot["block"]))
    if near is not None and near.layout is layout:
        fins = near.fins if (near.air, near.fins.plume) == (blown, fins.plume) else fins
        hot = {name: near.hot[name] if near.hot[name] == one else one for name, one in hot.items()}
    mount = _mount(given, layout)
    problem = solver.Problem(
        body=body,
        gap=_gap(given, layout, conductivity),
        stream=_stream(given, layout),
        control=_control(given, layout),
        exchanges=(fins, *hot.values(), mount),
    )
    return HotendModel(given, layout, blown, problem, fins, hot, mount, conductivity, fineness)


def first_guess(model: HotendModel) -> solver.Field:
    """A plain profile to start from: cold above, the neck in between, hot below."""
    given, at = model.given, model.layout.at
    cold = given.fan_air + 15.0
    profile = np.interp(model.layout.grid.height, [at.block_top, at.neck_top], [given.nozzle, cold])
    field = np.repeat(profile[:, None], len(model.layout.grid.radius), axis=1)
    strand = np.interp(
        model.layout.grid.height, [at.block_bottom, at.neck_top, at.sink_top], [given.nozzle, cold, given.fan_air]
    )
    field[:, : model.layout.grid.moving + 1] = strand[:, None]
    return solver.Field(field, 0.5 * given.heater_power, False, math.inf, 0, 0)


def solve(
    model: HotendModel, start: solver.Field | None = None, cancelled: Callable[[], bool] = lambda: False
) -> solver.Field:
    """The steady field; start: a solved field of a like hotend.

    Raises solver.NotConvergedError or solver.CancelledError.
    """
    if start is None or start.temperature.shape != model.layout.solid.shape:
        start = first_guess(model)
    try:
        return solver.solve(model.problem, start, cancelled=cancelled)
    except solver.NotConvergedError:
        return solver.solve_lagging(model.problem, first_guess(model), cancelled=cancelled)


def needed_power(model: HotendModel, field: solver.Field) -> float:
    """Watts that the set value asks for, whether the heater has them or not. Raises solver.NotConvergedError."""
    if not field.saturated:
        return field.power
    unbounded = replace(model.problem, control=replace(model.problem.control, limit=math.inf))
    return solver.solve_lagging(unbounded, replace(first_guess(model), power=field.power)).power


def _conductivities(given: Inputs, layout: Layout) -> tuple[float, ...]:
    """Of each solid, of the strand, and of nothing [W/mK]."""
    film = 0.5 * (given.nozzle + given.fan_air)
    gap = layout.at.neck_top - layout.at.block_top
    cold = given.fan_air + 20.0
    radiated = flux_between_plates(given.nozzle, cold, AIR_GAP_EMISSIVITY, AIR_GAP_EMISSIVITY) * gap
    spread = max(abs(given.nozzle - cold), 1.0)
    by_name = {
        "nozzle": given.nozzle_conductivity,
        "block": given.block_conductivity,
        "break_block": given.block_side_conductivity,
        "neck": given.neck_conductivity,
        "break_sink": given.sink_side_conductivity,
        "sink": given.sink_conductivity,
        "tube": given.tube_conductivity,
        "air": float(air(film, given.pressure).conductivity) + abs(radiated) / spread,
    }
    return (*(by_name[ring.name] for ring in layout.solids), given.strand_conductivity, 1.0)


def contact_conductances(given: Inputs) -> dict[tuple[str, str], float]:
    """Conductance of the face between two parts [W/m²K]; where they are one, none is named."""
    liner = _over_melt(given.liner_seat if given.lined else given.tube_fit, given)
    return {
        ("break", "sink"): given.sink_joint,
        ("block", "nozzle"): given.block_joint,
        ("block", "break"): given.block_joint,
        ("break", "nozzle"): _over_melt(given.nozzle_seat, given),
        ("tube", "sink"): given.tube_fit,
        ("tube", "break"): given.tube_fit,
        ("tube", "nozzle"): liner,
    }


def _over_melt(face: float, given: Inputs) -> float:
    """Conductance of a face with the gap behind the nozzle full of melt, in series [W/m²K]."""
    return 1.0 / (1.0 / face + given.nozzle_gap / given.strand_conductivity)


def by_part(contacts: Mapping[tuple[str, str], float]) -> Array:
    """Conductances of faces [W/m²K] by the numbers of the parts that meet; infinite where they are one."""
    table = np.full((len(PARTS), len(PARTS)), np.inf)
    for (one, other), conductance in contacts.items():
        i, j = PARTS.index(one), PARTS.index(other)
        table[i, j] = table[j, i] = conductance
    return table


def _radial(layout: Layout, conductivity: Array, contacts: Array) -> Array:
    mesh = layout.grid
    height = mesh.thickness[:, None]
    with np.errstate(divide="ignore"):
        half_out = np.log(mesh.outer / mesh.radius) / (2 * math.pi * conductivity * height)
        half_in = np.where(mesh.inner > 0, np.log(mesh.radius / np.where(mesh.inner > 0, mesh.inner, 1.0)), 0.0)
        half_in = half_in / (2 * math.pi * conductivity * height)
        contact = contacts[layout.part[:, :-1], layout.part[:, 1:]]
        face = 1.0 / (contact * 2 * math.pi * mesh.outer[:-1] * height)
        conductance = 1.0 / (half_out[:, :-1] + face + half_in[:, 1:])
    joined = layout.active[:, :-1] & layout.active[:, 1:]
    outward = np.zeros(layout.solid.shape)
    outward[:, :-1] = np.where(joined, conductance, 0.0)
    outward[:, mesh.moving] = 0.0
    return outward


def _axial(layout: Layout, conductivity: Array, contacts: Array) -> Array:
    mesh = layout.grid
    area = math.pi * (mesh.outer**2 - mesh.inner**2)
    half = 0.5 * mesh.thickness[:, None] / conductivity
    contact = contacts[layout.part[:-1], layout.part[1:]]
    conductance = area / (half[:-1] + 1.0 / contact + half[1:])
    onward = np.zeros(layout.solid.shape)
    onward[:-1] = np.where(layout.active[:-1] & layout.active[1:], conductance, 0.0)
    return onward


def _gap(given: Inputs, layout: Layout, conductivity: Array) -> solver.Gap:
    mesh, column = layout.grid, layout.grid.moving
    strand = layout.at.strand
    height = mesh.thickness
    cool = float(air(0.5 * (given.fan_air + given.softening), given.pressure).conductivity)
    wall = ring_resistance(mesh.inner[column + 1], mesh.radius[column + 1], 1.0, height)
    return solver.Gap(
        column=column,
        open=1.0 / ring_resistance(strand, strand + given.clearance, cool, height),
        touching=np.where(layout.in_nozzle, given.insert, 1.0)
        * given.strand_conductivity
        / ring_resistance(strand, strand + given.clearance, 1.0, height),
        wall=np.asarray(wall / conductivity[:, column + 1]),
        weights=_touching_weights(layout),
        state=partial(touching_share, softening=given.softening - given.closing_lead, span=given.swelling_span),
    )


def _touching_weights(layout: Layout) -> Array:
    """What each column of the strand weighs in the temperature by which it touches: its section, the more the farther
    out it lies, by a power of the radius."""
    mesh, power = layout.grid, OUTWARD + 2
    weights = mesh.outer[: mesh.moving] ** power - mesh.inner[: mesh.moving] ** power
    return np.asarray(weights / weights.sum())


def _sections(layout: Layout) -> Array:
    """Share of the strand's section in each of its columns [-]."""
    mesh = layout.grid
    area = mesh.outer[: mesh.moving] ** 2 - mesh.inner[: mesh.moving] ** 2
    return np.asarray(area / area.sum())


def _stream(given: Inputs, layout: Layout) -> solver.Stream:
    law = Enthalpy(given.capacity_solid, given.capacity_melt, given.softening, given.melting, given.latent)
    return solver.Stream(given.flow * given.density, _sections(layout), given.fan_air, law)


def _control(given: Inputs, layout: Layout) -> solver.Control:
    heater, sensor = layout.heater_and_sensor
    return solver.Control(heater, sensor, given.nozzle - given.sensor_offset, given.heater_power)


def _finned(layout: Layout, blown: SinkAir, plume: Plume) -> FinnedSurface:
    cells, roots, bare, envelope = layout.sink_core
    forced = blown.per_fin * (blown.fin_share * roots + (1.0 - blown.fin_share) * bare)
    return FinnedSurface(cells, forced, blown.envelope * envelope, blown, plume)


def _plume(given: Inputs, layout: Layout, blown: SinkAir, block: HotSurface) -> Plume:
    """What the block does to the sink's surroundings, beyond the gap that is part of the grid."""
    at = layout.at
    gap = at.fins[0] - at.block_top
    film = 0.5 * (given.nozzle + given.fan_air)
    over = given.nozzle - given.block_air
    drawn = block.convected(given.nozzle) / over / blown.capacity if over > 1.0 and blown.capacity > 1e-3 else 0.0
    return Plume(
        hot=given.nozzle,
        block_air=given.block_air,
        still=blown.still,
        near_block=given.still_from_block,
        near_nozzle=given.still_from_nozzle,
        drawn=given.drawn_from_block * drawn,
        seen=layout.seen_by_block,
        emissivity=given.facing_emissivity,
        conductance=blown.still * float(air(film, given.pressure).conductivity) / gap,
    )


def _hot_surfaces(given: Inputs, layout: Layout) -> dict[str, HotSurface]:
    at = layout.at
    total = 2 * at.block_radius**2 * math.pi + at.block_side
    return {
        name: HotSurface(
            cells=cells,
            area=area,
            ambient=given.block_air,
            diameter=math.sqrt(total / math.pi),
            pressure=given.pressure,
            film_factor=given.block_film,
            jet=given.jet * given.part_fan**0.6 if given.part_fan > 0 else 0.0,
            emissivity=_hot_emissivity(given, name),
            sleeve=given.sleeve_thickness / given.sleeve_conductivity if name == "block" and given.sleeved else 0.0,
        )
        for name, (cells, area) in layout.hot_faces.items()
    }


def _hot_emissivity(given: Inputs, name: str) -> float:
    if name == "nozzle":
        return given.nozzle_emissivity
    return given.sleeve_emissivity if given.sleeved else given.block_emissivity


def _mount(given: Inputs, layout: Layout) -> FixedConductance:
    mesh = layout.grid
    columns = np.flatnonzero(layout.part[0] == PARTS.index("sink"))
    area = mesh.outer[columns] ** 2 - mesh.inner[columns] ** 2
    return FixedConductance(columns, given.mount_conductance * area / area.sum(), given.mount)


def with_input(given: Inputs, name: str, value: float) -> Inputs:
    """The inputs with one number changed."""
    return replace(given, **{name: value})  # type: ignore[arg-type]  # the name is of a number

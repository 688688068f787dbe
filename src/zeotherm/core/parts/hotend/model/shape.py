"""The hotend's solids in section: rings of one material, and the grid that fits their edges."""

from __future__ import annotations

import itertools
import math
from collections.abc import Callable
from dataclasses import dataclass
from functools import cached_property

import numpy as np
import numpy.typing as npt

from zeotherm.core.catalogue.shelves import HotendShape

Array = npt.NDArray[np.float64]
MM = 1e-3
CONE_TIP_RADIUS = 0.9 * MM
STREAM_COLUMNS, LEAST_STREAM_COLUMNS = 7, 6
HEATER_HALF, HEATER_INSET = 3.0, 1.0  # mm: half the cartridge's diameter, and metal between it and the thread
SENSOR_HALF = 1.5  # mm
TUBE_FLOOR = 1.5  # mm of metal between the neck and a tube that stands on it


@dataclass(frozen=True, slots=True)
class Ring:
    """A solid between two radii and two heights above the nozzle tip [m]. Rings of one `part` are bonded."""

    name: str
    part: str
    inner: float
    outer: float
    bottom: float
    top: float


@dataclass(frozen=True, slots=True)
class Levels:
    """Heights above the nozzle tip [m] and radii [m] that the rest refers to."""

    strand: float
    bore: float
    tube: float
    cone: float
    block_bottom: float
    block_top: float
    nozzle_top: float
    neck_top: float
    break_top: float
    sink_top: float
    tube_end: float
    neck_outer: float
    thread: float
    sink_thread: float
    core: float
    fin: float
    fin_thickness: float
    stretch: float  # length of the neck over that of its kind [-]
    fins: tuple[float, ...]  # bottoms of the fins
    block_radius: float
    block_side: float  # true side area of the block [m²]
    hex_radius: float
    heater: tuple[float, float, float]  # bottom, top, inner radius of the ring that stands for the cartridge [m]
    sensor: tuple[float, float, float]  # the same of the sensor


def levels(shape: HotendShape, neck_wall: float, neck_length: float) -> Levels:
    """Heights and radii of a shape; neck_wall and neck_length [m]."""
    bottom = shape.cone + shape.hex
    top = bottom + shape.block.height
    neck_top = top + neck_length / MM
    nozzle_top = bottom + shape.nozzle_thread
    ends = {"nozzle": nozzle_top, "neck": neck_top + TUBE_FLOOR, "break": neck_top + shape.sink_thread}
    inner = shape.tube_d / 2 if shape.tube_end == "nozzle" else shape.bore_d / 2
    block = shape.block
    sink = shape.sink
    return Levels(
        strand=shape.strand_d / 2 * MM,
        bore=shape.bore_d / 2 * MM,
        tube=shape.tube_d / 2 * MM,
        cone=shape.cone * MM,
        block_bottom=bottom * MM,
        block_top=top * MM,
        nozzle_top=nozzle_top * MM,
        neck_top=neck_top * MM,
        break_top=(neck_top + shape.sink_thread) * MM,
        sink_top=(neck_top + sink.height) * MM,
        tube_end=ends[shape.tube_end] * MM,
        neck_outer=inner * MM + neck_wall,
        thread=shape.thread_d / 2 * MM,
        sink_thread=shape.sink_thread_d / 2 * MM,
        core=sink.core_d / 2 * MM,
        fin=sink.fin_d / 2 * MM,
        fin_thickness=sink.fin_thickness * MM,
        stretch=neck_length / (shape.neck * MM),
        fins=tuple((neck_top + sink.first_fin + i * sink.pitch) * MM for i in range(sink.fins)),
        block_radius=math.sqrt(block.width * block.depth / math.pi) * MM,
        block_side=2 * (block.width + block.depth) * block.height * MM**2,
        hex_radius=shape.hex_d / 2 * MM,
        heater=(
            (bottom + 0.5 * block.height - HEATER_HALF) * MM,
            (bottom + 0.5 * block.height + HEATER_HALF) * MM,
            (shape.thread_d / 2 + HEATER_INSET) * MM,
        ),
        sensor=(
            (bottom + 0.4 * block.height - SENSOR_HALF) * MM,
            (bottom + 0.4 * block.height + SENSOR_HALF) * MM,
            0.6 * math.sqrt(block.width * block.depth / math.pi) * MM,
        ),
    )


def cone_radius(at: Levels, height: float) -> float:
    """Outer radius of the nozzle's cone at a height above the tip [m]."""
    share = min(max(height / at.cone, 0.0), 1.0)
    return CONE_TIP_RADIUS + share * (0.85 * at.hex_radius - CONE_TIP_RADIUS)


CONE_STEPS = 4


def rings(at: Levels) -> list[Ring]:
    """The solids outside the strand, bottom to top."""
    step = at.cone / CONE_STEPS
    solids = [
        Ring(
            "nozzle",
            "nozzle",
            at.bore,
            max(cone_radius(at, (i + 0.5) * step), 1.25 * at.bore),
            i * step,
            (i + 1) * step,
        )
        for i in range(CONE_STEPS)
    ]
    solids += [
        Ring("nozzle", "nozzle", at.bore, at.hex_radius, at.cone, at.block_bottom),
        Ring("nozzle", "nozzle", at.bore, at.thread, at.block_bottom, at.nozzle_top),
        Ring("block", "block", at.thread, at.block_radius, at.block_bottom, at.block_top),
    ]
    lengths = (
        ("break_block", at.nozzle_top, at.block_top, at.thread),
        ("neck", at.block_top, at.neck_top, at.neck_outer),
        ("break_sink", at.neck_top, at.break_top, at.sink_thread),
    )
    for name, bottom, top, outer in lengths:
        split = min(max(at.tube_end, bottom), top)
        solids.append(Ring(name, "break", at.bore, outer, bottom, split))
        solids.append(Ring(name, "break", at.tube, outer, split, top))
    solids += [
        Ring("air", "air", at.neck_outer, at.core, at.block_top, at.neck_top),
        Ring("sink", "sink", at.sink_thread, at.core, at.neck_top, at.break_top),
        Ring("sink", "sink", at.tube, at.core, at.break_top, at.sink_top),
        Ring("tube", "tube", at.bore, at.tube, at.tube_end, at.sink_top),
    ]
    return [ring for ring in solids if ring.top - ring.bottom > 1e-9 and ring.outer - ring.inner > 1e-9]


@dataclass(frozen=True)
class Grid:
    """Columns by their inner and outer radius, rows by their faces from the inlet down [m].

    The first `moving` columns are the strand; column `moving` is its skin, without thickness.
    """

    inner: Array
    outer: Array
    faces: Array  # distance from the sink's top, rising downwards
    moving: int
    top: float  # height of the sink's top above the tip

    @cached_property
    def depth(self) -> Array:
        """Row centres, distance from the top [m]."""
        return 0.5 * (self.faces[:-1] + self.faces[1:])

    @cached_property
    def height(self) -> Array:
        """Row centres, height above the tip [m], falling."""
        return self.top - self.depth

    @cached_property
    def radius(self) -> Array:
        """Column centres [m]."""
        return 0.5 * (self.inner + self.outer)

    @cached_property
    def thickness(self) -> Array:
        """Row heights [m]."""
        return np.diff(self.faces)


def grid(at: Levels, solids: list[Ring], fineness: float = 1.0) -> Grid:
    """A tensor grid on the solids' edges; fineness 2 halves every cell."""
    levels_of_note = [
        *(level for ring in solids for level in (ring.bottom, ring.top)),
        *(level for fin in at.fins for level in (fin, fin + at.fin_thickness)),
        *at.heater[:2],
        *at.sensor[:2],
    ]
    edges = sorted({0.0, *(at.sink_top - level for level in levels_of_note)})
    faces = _subdivided(_distinct(edges), lambda depth: _row_size(at, at.sink_top - depth) / fineness)
    radii = _distinct(sorted({at.heater[2], at.sensor[2], *(r for ring in solids for r in (ring.inner, ring.outer))}))
    walls = _subdivided(radii, lambda radius: _column_size(at, radius) / fineness)
    count = max(round(STREAM_COLUMNS * fineness), LEAST_STREAM_COLUMNS)
    strand = at.strand * np.linspace(0.0, 1.0, count + 1) ** 0.75
    inner = np.concatenate([strand[:-1], [at.strand], walls[:-1]])
    outer = np.concatenate([strand[1:], [at.strand], walls[1:]])
    return Grid(inner, outer, faces, count, at.sink_top)


def _row_size(at: Levels, height: float) -> float:
    if at.block_top < height < at.neck_top:  # as many rows however long it is, so that doubts share a grid
        return 0.1 * MM * at.stretch
    if at.block_top - 1.5 * MM <= height <= at.neck_top + 2.5 * MM:
        return 0.1 * MM
    if height > at.neck_top:
        return 0.5 * MM if height < at.neck_top + 9 * MM else 1.0 * MM
    return 0.45 * MM


def _column_size(at: Levels, radius: float) -> float:
    if radius < at.thread:
        return 0.25 * MM if radius < at.tube or at.neck_outer > at.tube else 0.5 * MM
    return 0.5 * MM if radius < at.sink_thread else 1.1 * MM


def _distinct(values: list[float]) -> list[float]:
    kept = [values[0]]
    for value in values[1:]:
        if value - kept[-1] > 0.02 * MM:
            kept.append(value)
    return kept


def _subdivided(edges: list[float], size: Callable[[float], float]) -> Array:
    parts = [np.array([edges[0]])]
    for low, high in itertools.pairwise(edges):
        count = max(1, math.ceil((high - low) / size(0.5 * (low + high)) - 1e-9))
        parts.append(np.linspace(low, high, count + 1)[1:])
    return np.concatenate(parts)

"""A bed's outline, heater, cover and places on a grid of cells."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
import numpy.typing as npt

from zeotherm.core.catalogue.shelves import BedShape, Patch

Array = npt.NDArray[np.float64]
Mask = npt.NDArray[np.bool_]
MM = 1e-3
FINE = 8  # parts of a cell's side by which its share under a round heater is counted
MOUNT_INSET = 0.08  # of the side, from the rim to a mount


@dataclass(frozen=True, eq=False)  # made once for each kind and fineness: the same only as itself
class PlateGrid:
    """Cells of one kind of bed; rows run from the front to the back, columns from left to right."""

    width: float  # m, as laid out: of a round bed so that its cells have its area
    depth: float
    inside: Mask
    heated: Array  # share of each cell under the heater [-]
    x: Array  # middles of the columns, from the bed's middle [m]
    y: Array

    @property
    def area(self) -> float:
        """Of one cell [m²]."""
        rows, columns = self.inside.shape
        return float(self.width / columns * self.depth / rows)

    @property
    def whole(self) -> float:
        """Area of the plate [m²]."""
        return float(self.area * int(self.inside.sum()))

    def weights(self, x: float, y: float) -> Array:
        """Weights that read a field at a place [m from the middle], linear between the four cells around it that are
        plate; summing to one."""
        return _weights(self, x, y)

    def share_of(self, patch: Patch) -> Array:
        """Share of each cell [-] that lies within a patch of the bed."""
        sides = []
        for middles, at, side in ((self.y, patch.y_mm, patch.depth_mm), (self.x, patch.x_mm, patch.width_mm)):
            half = 0.5 * float(middles[1] - middles[0])
            low, high = at * MM - 0.5 * side * MM, at * MM + 0.5 * side * MM
            within = np.clip(middles + half, low, high) - np.clip(middles - half, low, high)
            sides.append(within / (2.0 * half))
        return np.asarray(sides[0][:, None] * sides[1][None, :] * self.inside)

    def covered(self, outer: float, inner: float) -> Array:
        """Share of each cell [-] under a cover that reaches from a share of the sides to another, from the middle."""
        return np.asarray((_within(self, outer) - (_within(self, inner) if inner > 0.0 else 0.0)) * self.inside)


@lru_cache(maxsize=2048)
def _weights(on: PlateGrid, x: float, y: float) -> Array:
    found = np.zeros(on.inside.shape)
    for row, down in _between(on.y, y):
        for column, along in _between(on.x, x):
            found[row, column] += down * along
    found *= on.inside
    if found.sum() <= 0.0:  # between cells that are no plate: the nearest that is
        far = (on.x[None, :] - x) ** 2 + (on.y[:, None] - y) ** 2
        found.flat[int(np.argmin(np.where(on.inside, far, np.inf)))] = 1.0
    found /= found.sum()
    found.flags.writeable = False  # shared by all who ask
    return found


@lru_cache(maxsize=64)
def grid(shape: BedShape, cells: int) -> PlateGrid:
    """A bed's grid, with so many cells along its longer side."""
    width, depth = shape.width_mm * MM, shape.depth_mm * MM
    longer = max(width, depth)
    columns, rows = (max(round(cells * side / longer), 4) for side in (width, depth))
    x = (np.arange(columns) + 0.5) / columns - 0.5  # in shares of the sides
    y = (np.arange(rows) + 0.5) / rows - 0.5
    inside = np.ones((rows, columns), dtype=bool)
    if shape.outline == "round":
        inside = x[None, :] ** 2 + y[:, None] ** 2 < 0.25
        stretch = math.sqrt(math.pi / 4.0 * inside.size / int(inside.sum()))
        width, depth = width * stretch, depth * stretch
    heated = _heated(shape, rows, columns) * inside
    return PlateGrid(width, depth, inside, heated, x * width, y * depth)


def _under(shape: BedShape, x: Array, y: Array) -> Mask:
    """Whether there is heater at places [mm from the middle]; x along the columns, y along the rows."""
    half_x, half_y = 0.5 * shape.width_mm - shape.heater.border_mm, 0.5 * shape.depth_mm - shape.heater.border_mm
    if shape.outline == "round":
        under = (x[None, :] / half_x) ** 2 + (y[:, None] / half_y) ** 2 <= 1.0
    else:
        under = (np.abs(x)[None, :] <= half_x) & (np.abs(y)[:, None] <= half_y)
    for void in shape.heater.voids:
        across = np.abs(x - void.x_mm) <= 0.5 * void.width_mm
        under &= ~(across[None, :] & (np.abs(y - void.y_mm) <= 0.5 * void.depth_mm)[:, None])
    return np.asarray(under)


def heated_at(shape: BedShape, x: float, y: float) -> float:
    """Whether there is heater at a place [m from the middle]: 1 or 0."""
    return float(_under(shape, np.array([x / MM]), np.array([y / MM]))[0, 0])


def _heated(shape: BedShape, rows: int, columns: int) -> Array:
    """Share of each cell under the heater: inside its border, in no void. Of a rectangle exactly; voids do not meet."""
    if shape.outline != "round":
        heater = shape.heater
        wide, deep = (0.5 * side - heater.border_mm for side in (shape.width_mm, shape.depth_mm))
        share = _patch(shape, rows, columns, (-wide, wide), (-deep, deep))
        for void in heater.voids:
            across, along = ((max(at - 0.5 * side, -most), min(at + 0.5 * side, most)) for at, side, most in
                             ((void.x_mm, void.width_mm, wide), (void.y_mm, void.depth_mm, deep)))  # fmt: skip
            share -= _patch(shape, rows, columns, across, along)
        return share
    x = ((np.arange(columns * FINE) + 0.5) / (columns * FINE) - 0.5) * shape.width_mm
    y = ((np.arange(rows * FINE) + 0.5) / (rows * FINE) - 0.5) * shape.depth_mm
    return np.asarray(_under(shape, x, y).reshape(rows, FINE, columns, FINE).mean(axis=(1, 3)))


def _patch(shape: BedShape, rows: int, columns: int, x: tuple[float, float], y: tuple[float, float]) -> Array:
    """Share of each cell within a rectangle, from and to [mm from the middle]."""
    sides = []
    for count, side, (low, high) in ((rows, shape.depth_mm, y), (columns, shape.width_mm, x)):
        edges = (np.arange(count + 1) / count - 0.5) * side
        sides.append(np.maximum(np.diff(np.clip(edges, low, high)), 0.0) * count / side)
    return np.asarray(sides[0][:, None] * sides[1][None, :])


def _within(on: PlateGrid, share: float) -> Array:
    """Share of each cell within so large a part of the sides about the middle."""
    sides = []
    for count in on.inside.shape:
        edges = np.arange(count + 1) / count - 0.5
        low, high = np.clip(edges[:-1], -0.5 * share, 0.5 * share), np.clip(edges[1:], -0.5 * share, 0.5 * share)
        sides.append((high - low) * count)
    return np.asarray(sides[0][:, None] * sides[1][None, :])


def _between(middles: Array, at: float) -> list[tuple[int, float]]:
    after = int(np.clip(np.searchsorted(middles, at), 1, len(middles) - 1))
    share = float(np.clip((at - middles[after - 1]) / (middles[after] - middles[after - 1]), 0.0, 1.0))
    return [(after - 1, 1.0 - share), (after, share)]


def mount_places(shape: BedShape) -> list[tuple[float, float]]:
    """Where the bed is held [m from its middle]: four at the corners, three as a triangle, else around."""
    half_x, half_y = (0.5 - MOUNT_INSET) * shape.width_mm * MM, (0.5 - MOUNT_INSET) * shape.depth_mm * MM
    if shape.mounts == 4 and shape.outline == "rectangle":
        return [(sx * half_x, sy * half_y) for sx in (-1.0, 1.0) for sy in (-1.0, 1.0)]
    if shape.mounts == 3 and shape.outline == "rectangle":
        return [(-half_x, -half_y), (half_x, -half_y), (0.0, half_y)]
    angles = [2.0 * math.pi * n / shape.mounts - 0.5 * math.pi for n in range(shape.mounts)]
    return [(half_x * math.cos(angle), half_y * math.sin(angle)) for angle in angles]

"""The hotend's section as geometry and image: where things are on the picture, and what colour they have."""

from __future__ import annotations

import math
from collections.abc import Iterable
from dataclasses import dataclass
from functools import cached_property, lru_cache
from typing import NamedTuple

import numpy as np
import numpy.typing as npt
from PyQt6.QtCore import QPoint, QPointF, QRectF, Qt
from PyQt6.QtGui import QImage, QPainterPath

from zeotherm.core.parts.hotend.judge.answer import Answer
from zeotherm.core.parts.hotend.model.model import PARTS
from zeotherm.core.parts.hotend.model.shape import CONE_TIP_RADIUS, Levels, Ring, cone_radius
from zeotherm.desk.style.patina import Scale
from zeotherm.wording.language import _

Array = npt.NDArray[np.float64]
PART_LABELS = {
    "nozzle": _("nozzle"), "block": _("heater block"), "break": _("heat break"), "sink": _("sink"), "tube": _("tube"),
    "air": _("air between"), "strand": _("filament"),
}  # fmt: skip
FAN_DEPTH = 9e-3
FAN_GAP = 4e-3


@dataclass(frozen=True)
class FieldReading:
    """What the field says at a point of the section."""

    part: str
    height: float  # above the tip [m]
    temperature: float
    band: float | None


class Outlines(NamedTuple):
    """The solids on the sheet: each by itself, and all of them to fill. Shared: not to be changed."""

    parts: tuple[QPainterPath, ...]
    whole: QPainterPath


@dataclass(frozen=True)
class SectionSheet:
    """Where a hotend lies on a sheet: `scale` px a metre, `axis` its centre line, `tip` the nozzle tip's height."""

    scale: float
    axis: float
    tip: float

    def x(self, radius: float) -> float:
        """Abscissa of a radius, negative to the left."""
        return self.axis + radius * self.scale

    def y(self, height: float) -> float:
        """Ordinate of a height above the tip."""
        return self.tip - height * self.scale

    def point(self, radius: float, height: float) -> QPointF:
        """A place on the sheet."""
        return QPointF(self.x(radius), self.y(height))

    def box(self, left: float, right: float, bottom: float, top: float) -> QRectF:
        """A rectangle on the sheet from radii and heights."""
        return QRectF(self.point(left, top), self.point(right, bottom))


@dataclass(frozen=True)
class Section(SectionSheet):
    """A solved hotend laid on a sheet."""

    answer: Answer

    @property
    def at(self) -> Levels:
        """The levels of the shape."""
        return self.answer.solved.model.layout.at

    @property
    def outlines(self) -> Outlines:
        """The outline of each part, both halves; the nozzle with its true cone."""
        return _outlines(self.answer.solved.model.layout.solids, self.at, self.scale, self.axis, self.tip)

    def image(self, colours: Scale, seen: QRectF) -> tuple[QImage, QPoint]:
        """The field as an image of the part that is seen, and its corner on the sheet."""
        at = self.at
        whole = self.box(-at.block_radius, at.block_radius, 0.0, at.sink_top + 2e-3)
        half = math.ceil(min(self.axis - max(seen.left(), whole.left()), whole.width() / 2))
        top, bottom = math.floor(max(seen.top(), whole.top())), math.ceil(min(seen.bottom(), whole.bottom()))
        radius = np.asarray((np.arange(half) + 0.5) / self.scale, dtype=np.float64)
        height = np.asarray((self.tip - np.arange(top, bottom) - 0.5) / self.scale, dtype=np.float64)
        right = colours.argb(self.sample(self._filled, radius, height))
        both = np.concatenate([right[:, ::-1], right], axis=1)
        image = QImage(both.tobytes(), 2 * half, bottom - top, 8 * half, QImage.Format.Format_RGB32)
        return image.copy(), QPoint(round(self.axis) - half, top)

    def sample(self, values: Array, radius: Array, height: Array) -> Array:
        """A cell field at radii and heights by linear interpolation, (heights, radii)."""
        grid = self.answer.solved.model.layout.grid
        keep = np.arange(len(grid.radius)) != grid.moving
        rows, row_share = _between(-grid.height, -height)
        columns, column_share = _between(grid.radius[keep], radius)
        kept = values[:, keep]
        across = kept[:, columns] * (1 - column_share) + kept[:, columns + 1] * column_share
        return np.asarray(across[rows] * (1 - row_share)[:, None] + across[rows + 1] * row_share[:, None])

    @cached_property
    def _filled(self) -> Array:
        """The temperature field with idle cells taking their inner neighbour's value, for smooth edges."""
        layout = self.answer.solved.model.layout
        filled = self.answer.solved.field.temperature.copy()
        for column in range(1, filled.shape[1]):
            idle = ~layout.active[:, column]
            filled[idle, column] = filled[idle, column - 1]
        return filled

    def read(self, place: QPointF) -> FieldReading | None:
        """The field at a place of the sheet, or None outside the hotend."""
        layout, at = self.answer.solved.model.layout, self.at
        radius = abs(place.x() - self.axis) / self.scale
        height = (self.tip - place.y()) / self.scale
        if not 0.0 <= height <= at.sink_top:
            return None
        row = int(np.clip(np.searchsorted(layout.grid.faces, at.sink_top - height) - 1, 0, len(layout.grid.depth) - 1))
        column = int(np.searchsorted(layout.grid.outer, radius))
        on_fin = radius <= at.fin and any(fin <= height <= fin + at.fin_thickness for fin in at.fins)
        if column >= len(layout.grid.radius) or not layout.active[row, column]:
            if not on_fin:
                return None
            column = int(np.flatnonzero(np.isclose(layout.grid.outer, at.core))[-1])
        part = "strand" if column <= layout.grid.moving else PARTS[layout.part[row, column]]
        bands = self.answer.bands
        return FieldReading(
            part=PART_LABELS[part],
            height=height,
            temperature=float(
                self.sample(self._filled, np.array([min(radius, at.block_radius)]), np.array([height]))[0, 0]
            ),
            band=float(bands.field[row, column]) if bands is not None else None,
        )

    @property
    def fin_temperatures(self) -> list[float]:
        """Temperatures of the core where the fins stand [°C]."""
        heights = np.array(self.at.fins) + 0.5 * self.at.fin_thickness
        return [float(one) for one in self.sample(self._filled, np.array([self.at.core]), heights)[:, 0]]

    def place_of(self, station: str) -> QPointF | None:
        """Where a station's pin stands; None: not on the hotend."""
        at = self.at
        middle = 0.5 * (at.block_bottom + at.block_top)
        fan_x = -(at.fin + FAN_GAP + FAN_DEPTH)
        places = {
            "block": (at.block_radius, middle),
            "nozzle": (at.hex_radius, 0.5 * (at.cone + at.block_bottom)),
            "exit_core": (0.0, 0.0),
            "bore": (at.bore, at.neck_top),
            "sink_base": (at.core, at.neck_top + 0.5e-3),
            "sink_top": (at.core, at.sink_top - 0.5e-3),
            "liner_end": (at.tube, at.tube_end),
            "fan_inlet": (fan_x, at.neck_top + 0.3 * (at.sink_top - at.neck_top)),
            "fan_outlet": (at.fin + 2e-3, at.neck_top + 0.6 * (at.sink_top - at.neck_top)),
        }
        return self.point(*places[station]) if station in places else None


@lru_cache(maxsize=8)  # a moment later, a hotend has the same shape
def _outlines(solids: tuple[Ring, ...], at: Levels, scale: float, axis: float, tip: float) -> Outlines:
    def place(radius: float, height: float) -> QPointF:
        return QPointF(axis + radius * scale, tip - height * scale)

    paths: dict[str, QPainterPath] = {}
    for ring in solids:
        if ring.part != "air":
            path = paths.setdefault(ring.part, QPainterPath())
            for corners in _halves(ring, at):
                path.moveTo(place(*corners[0]))
                for corner in corners[1:]:
                    path.lineTo(place(*corner))
                path.closeSubpath()
    parts = [path.simplified() for path in paths.values()]
    strand = QPainterPath()
    strand.addRect(QRectF(place(-at.strand, at.sink_top + 2e-3), place(at.strand, at.cone * 0.7)))
    parts.append(strand)
    whole = QPainterPath()
    whole.setFillRule(Qt.FillRule.WindingFill)
    for path in parts:
        whole.addPath(path)
    return Outlines(tuple(parts), whole)


def _halves(ring: Ring, at: Levels) -> list[list[tuple[float, float]]]:
    """The corners of a ring's section, radius and height [m]: left, then right."""
    cone = ring.part == "nozzle" and ring.top <= at.cone + 1e-9
    low = cone_radius(at, ring.bottom) if cone else ring.outer
    high = cone_radius(at, ring.top) if cone else ring.outer
    inner_low = min(ring.inner, max(0.2e-3, ring.bottom * 0.9)) if cone else ring.inner
    inner_high = min(ring.inner, max(0.2e-3, ring.top * 0.9)) if cone else ring.inner
    return [
        [(side * inner_low, ring.bottom), (side * max(low, CONE_TIP_RADIUS), ring.bottom), (side * high, ring.top),
         (side * inner_high, ring.top)]
        for side in (-1, 1)
    ]  # fmt: skip


def _between(knots: Array, at: Array) -> tuple[npt.NDArray[np.intp], Array]:
    """Index of the knot below each value, and the share of the way to the next."""
    place = np.interp(at, knots, np.arange(len(knots), dtype=float))
    index = np.minimum(place.astype(np.intp), len(knots) - 2)
    return index, place - index


def fit(answer: Answer, box: QRectF, widest: Iterable[float]) -> Section:
    """A section that fits a box; widest: room wanted left and right of the axis [m]."""
    at = answer.solved.model.layout.at
    left, right = widest
    below, above = 4.5e-3, 2.5e-3
    scale = min(box.height() / (at.sink_top + below + above), box.width() / (left + right))
    spare = box.width() - scale * (left + right)
    axis = box.left() + 0.5 * spare + left * scale
    tip = box.top() + (at.sink_top + above) * scale + 0.5 * (box.height() - scale * (at.sink_top + below + above))
    return Section(scale, axis, tip, answer)

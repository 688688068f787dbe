"""What to cut: sheets, tape, and the insulation's outline with its holes."""

from __future__ import annotations

import math
from dataclasses import dataclass

from zeotherm.core.catalogue.shelves import BedShape, Catalogue
from zeotherm.core.machine.bed import Bed
from zeotherm.core.parts.bed.model.shape import mount_places

HOLE_MM = 9.0  # over a mounting screw
WIRE_MM = (30.0, 14.0)  # notch where the heater's wires leave, at the back edge
TAPE_SPACING_MM = 60.0  # between loops of doubled tape over the underside
OVERLAP = 1.1  # of tape at its joints
TRIM_MM = 5.0  # that is cut oversize, each side, and trimmed in place


@dataclass(frozen=True, slots=True)
class Outline:
    """The insulation's outline, seen from below; millimetres from the bed's middle."""

    width: float
    depth: float
    round: bool
    opening: tuple[float, float] | None  # left open in the middle
    holes: tuple[tuple[float, float, float], ...]  # x, y, diameter
    notch: tuple[float, float, float, float] | None  # left, bottom, right, top

    @property
    def area(self) -> float:
        """Of insulation that is left [mm²]."""
        whole = self.width * self.depth * (math.pi / 4.0 if self.round else 1.0)
        whole -= self.opening[0] * self.opening[1] * (math.pi / 4.0 if self.round else 1.0) if self.opening else 0.0
        whole -= sum(math.pi / 4.0 * d**2 for _x, _y, d in self.holes)
        if self.notch is not None:
            whole -= (self.notch[2] - self.notch[0]) * (self.notch[3] - self.notch[1])
        return whole

    @property
    def perimeter(self) -> float:
        """Of its outer edge [mm]; of an ellipse by Ramanujan's second formula."""
        if not self.round:
            return 2.0 * (self.width + self.depth)
        a, b = 0.5 * self.width, 0.5 * self.depth
        h = ((a - b) / (a + b)) ** 2
        return math.pi * (a + b) * (1.0 + 3.0 * h / (10.0 + math.sqrt(4.0 - 3.0 * h)))


@dataclass(frozen=True, slots=True)
class CutList:
    """What to buy and cut for one bed."""

    outline: Outline
    thickness_mm: float
    sheets: int
    tape_m: float  # edges, and loops of doubled tape over the underside
    holes: int


def outline(shape: BedShape, bed: Bed, catalogue: Catalogue) -> Outline:
    """The insulation's outline: the covered part of the underside, with holes over the mounts and a notch for wires."""
    cover = catalogue.covers[bed.cover]
    width, depth = cover.outer * shape.width_mm, cover.outer * shape.depth_mm
    opening = (cover.inner * shape.width_mm, cover.inner * shape.depth_mm) if cover.inner > 0.0 else None
    places = [(1e3 * x, 1e3 * y) for x, y in mount_places(shape)]
    holes = tuple(
        (x, y, HOLE_MM) for x, y in places if abs(x) + HOLE_MM / 2 < width / 2 and abs(y) + HOLE_MM / 2 < depth / 2
    )
    wide, deep = WIRE_MM
    notch = None if shape.outline == "round" else (-wide / 2, depth / 2 - deep, wide / 2, depth / 2)
    return Outline(width, depth, shape.outline == "round", opening, holes, notch)


def cut_list(shape: BedShape, bed: Bed, catalogue: Catalogue) -> CutList:
    """Sheets, tape and holes for a bed's insulation."""
    cut = outline(shape, bed, catalogue)
    sheet = catalogue.insulations[bed.insulation].sheet_mm
    return CutList(cut, bed.insulation_mm, sheets_for(cut.width, cut.depth, sheet), tape(cut), len(cut.holes))


def sheets_for(width: float, depth: float, sheet: tuple[float, float]) -> int:
    """Sheets that cover a rectangle, cut oversize by `TRIM_MM` each side: whole pieces side by side, either way up [-].

    Sides in millimetres.

    >>> sheets_for(400.0, 300.0, (500.0, 400.0)), sheets_for(400.0, 300.0, (250.0, 310.0))
    (1, 2)
    """
    wide, deep = width + 2.0 * TRIM_MM, depth + 2.0 * TRIM_MM
    return min(math.ceil(wide / a) * math.ceil(deep / b) for a, b in (sheet, sheet[::-1]))


def tape(cut: Outline) -> float:
    """Tape [m]: all edges, and a doubled loop along the longer side every `TAPE_SPACING_MM`."""
    edges = cut.perimeter + (2.0 * sum(cut.opening) if cut.opening else 0.0)
    longer, shorter = max(cut.width, cut.depth), min(cut.width, cut.depth)
    loops = 2.0 * longer * max(round(shorter / TAPE_SPACING_MM), 2)
    return OVERLAP * 1e-3 * (edges + loops)

"""An insulation's outline as DXF and as SVG, in millimetres, for a cutter or to print at full size."""

from __future__ import annotations

from io import StringIO
from pathlib import Path
from xml.etree import ElementTree

from zeotherm.core.judgement.bed.cutting import Outline
from zeotherm.shop.errors import ShopError
from zeotherm.shop.job_files import write_text

MARGIN = 5.0  # mm about the drawing in an SVG
KINDS = (".dxf", ".svg")
Point = tuple[float, float]


def write_outline(path: Path, cut: Outline) -> None:
    """Write an outline by what the file's name ends in. Raises ShopError."""
    made = {".dxf": as_dxf, ".svg": as_svg}.get(path.suffix.lower())
    if made is None:
        raise ShopError(f"{path.name}: an outline is written as .dxf or .svg. Give the file one of these endings.")
    write_text(path, made(cut))


def corners(cut: Outline) -> list[Point]:
    """The outer edge of a rectangular outline, its notch taken out of the back, from the front left on round."""
    x, y = cut.width / 2.0, cut.depth / 2.0
    edge = [(-x, -y), (x, -y), (x, y)]
    if cut.notch is not None:
        left, bottom, right, _top = cut.notch
        edge += [(right, y), (right, bottom), (left, bottom), (left, y)]
    return [*edge, (-x, y)]


def as_dxf(cut: Outline) -> str:
    """The outline as DXF R2010: layer CUT, millimetres, seen from below the bed."""
    import ezdxf
    from ezdxf import units

    drawing = ezdxf.new("R2010", units=units.MM)  # type: ignore[attr-defined]
    drawing.layers.add("CUT", color=1)
    space, on = drawing.modelspace(), {"layer": "CUT"}

    def ring(width: float, depth: float) -> None:
        if abs(width - depth) < 1e-9:
            space.add_circle((0.0, 0.0), width / 2.0, dxfattribs=on)
            return
        longer = (width / 2.0, 0.0) if width > depth else (0.0, depth / 2.0)
        space.add_ellipse((0.0, 0.0), longer, min(width, depth) / max(width, depth), dxfattribs=on)

    if cut.round:
        ring(cut.width, cut.depth)
    else:
        space.add_lwpolyline(corners(cut), close=True, dxfattribs=on)
    if cut.opening is not None:
        wide, deep = cut.opening
        if cut.round:
            ring(wide, deep)
        else:
            space.add_lwpolyline(_box(wide, deep), close=True, dxfattribs=on)
    for x, y, diameter in cut.holes:
        space.add_circle((x, y), diameter / 2.0, dxfattribs=on)
    text = StringIO()
    drawing.write(text)
    return text.getvalue()


def as_svg(cut: Outline) -> str:
    """The outline as SVG in millimetres, the back of the bed at the top."""
    wide, deep = cut.width + 2.0 * MARGIN, cut.depth + 2.0 * MARGIN
    root = ElementTree.Element(
        "svg", xmlns="http://www.w3.org/2000/svg", width=f"{wide:g}mm", height=f"{deep:g}mm",
        viewBox=f"{-wide / 2:g} {-deep / 2:g} {wide:g} {deep:g}",
    )  # fmt: skip
    group = ElementTree.SubElement(root, "g", {"fill": "none", "stroke": "#000", "stroke-width": "0.2"})

    def ring(width: float, depth: float) -> None:
        ElementTree.SubElement(group, "ellipse", rx=f"{width / 2:g}", ry=f"{depth / 2:g}")

    def path(points: list[Point]) -> None:
        told = " L ".join(f"{x:g} {-y:g}" for x, y in points)
        ElementTree.SubElement(group, "path", d=f"M {told} Z")

    if cut.round:
        ring(cut.width, cut.depth)
    else:
        path(corners(cut))
    if cut.opening is not None:
        if cut.round:
            ring(*cut.opening)
        else:
            path(_box(*cut.opening))
    for x, y, diameter in cut.holes:
        ElementTree.SubElement(group, "circle", cx=f"{x:g}", cy=f"{-y:g}", r=f"{diameter / 2:g}")
    ElementTree.indent(root)
    return ElementTree.tostring(root, encoding="unicode") + "\n"


def _box(width: float, depth: float) -> list[Point]:
    x, y = width / 2.0, depth / 2.0
    return [(-x, -y), (x, -y), (x, y), (-x, y)]

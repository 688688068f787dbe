"""Outlines to cut as DXF and as SVG, in millimetres, for a cutter or to print at full size."""

from __future__ import annotations

from collections.abc import Sequence
from io import StringIO
from pathlib import Path
from typing import Any
from xml.etree import ElementTree

from zeotherm.core.parts.bed.judge.cutting import Outline
from zeotherm.core.parts.enclosure.judge.panels import Panel
from zeotherm.shop.errors import ShopError
from zeotherm.shop.files.job_files import write_text

MARGIN = 5.0  # mm about the drawing in an SVG
BETWEEN = 20.0  # mm between outlines on one sheet
LABEL = 10.0  # mm, height of their names
Point = tuple[float, float]
Laid = tuple[str, Outline, Point]  # name, outline, where its middle lies


def write_outline(path: Path, cut: Outline) -> None:
    """Write an outline by what the file's name ends in. Raises ShopError."""
    _write(path, [("", cut, (0.0, 0.0))])


def write_outlines(path: Path, panels: Sequence[Panel]) -> None:
    """Write panels side by side, each under its name, by what the file's name ends in. Raises ShopError."""
    laid, x = [], 0.0
    for panel in panels:
        laid.append((panel.name, panel.outline, (x + 0.5 * panel.width, 0.5 * panel.height)))
        x += panel.width + BETWEEN
    _write(path, laid)


def _write(path: Path, laid: Sequence[Laid]) -> None:
    made = {".dxf": as_dxf, ".svg": as_svg}.get(path.suffix.lower())
    if made is None:
        raise ShopError(f"{path.name}: an outline is written as .dxf or .svg. Give the file one of these endings.")
    write_text(path, made(laid))


def corners(cut: Outline) -> list[Point]:
    """The outer edge of a rectangular outline, its notch taken out of the back, from the front left on round."""
    x, y = cut.width / 2.0, cut.depth / 2.0
    edge = [(-x, -y), (x, -y), (x, y)]
    if cut.notch is not None:
        left, bottom, right, _top = cut.notch
        edge += [(right, y), (right, bottom), (left, bottom), (left, y)]
    return [*edge, (-x, y)]


def as_dxf(laid: Sequence[Laid]) -> str:
    """Outlines as DXF R2010: layer CUT, names on layer NAMES, millimetres; a bed's seen from below it."""
    import ezdxf
    from ezdxf import units

    drawing = ezdxf.new("R2010", units=units.MM)  # type: ignore[attr-defined]
    for name, color in (("CUT", 1), ("NAMES", 7)):
        drawing.layers.add(name, color=color)
    space = drawing.modelspace()
    for name, cut, at in laid:
        _draw_dxf(space, cut, at)
        if name:
            low = (at[0] - cut.width / 2.0, at[1] - cut.depth / 2.0 - 1.5 * LABEL)
            space.add_text(name, height=LABEL, dxfattribs={"layer": "NAMES", "insert": low})
    text = StringIO()
    drawing.write(text)
    return text.getvalue()


def _draw_dxf(space: Any, cut: Outline, at: Point) -> None:
    on = {"layer": "CUT"}

    def moved(points: list[Point]) -> list[Point]:
        return [(x + at[0], y + at[1]) for x, y in points]

    def ring(width: float, depth: float) -> None:
        if abs(width - depth) < 1e-9:
            space.add_circle(at, width / 2.0, dxfattribs=on)
            return
        longer = (width / 2.0, 0.0) if width > depth else (0.0, depth / 2.0)
        space.add_ellipse(at, longer, min(width, depth) / max(width, depth), dxfattribs=on)

    if cut.round:
        ring(cut.width, cut.depth)
    else:
        space.add_lwpolyline(moved(corners(cut)), close=True, dxfattribs=on)
    if cut.opening is not None and cut.round:
        ring(*cut.opening)
    elif cut.opening is not None:
        space.add_lwpolyline(moved(_box(*cut.opening)), close=True, dxfattribs=on)
    for x, y, diameter in cut.holes:
        space.add_circle((x + at[0], y + at[1]), diameter / 2.0, dxfattribs=on)


def as_svg(laid: Sequence[Laid]) -> str:
    """Outlines as SVG in millimetres, the back of a bed, or the top of a panel, at the top."""
    left = min(at[0] - cut.width / 2.0 for _name, cut, at in laid) - MARGIN
    right = max(at[0] + cut.width / 2.0 for _name, cut, at in laid) + MARGIN
    low = min(at[1] - cut.depth / 2.0 - (2.0 * LABEL if name else 0.0) for name, cut, at in laid) - MARGIN
    high = max(at[1] + cut.depth / 2.0 for _name, cut, at in laid) + MARGIN
    root = ElementTree.Element(
        "svg", xmlns="http://www.w3.org/2000/svg", width=f"{right - left:g}mm", height=f"{high - low:g}mm",
        viewBox=f"{left:g} {-high:g} {right - left:g} {high - low:g}",
    )  # fmt: skip
    for name, cut, at in laid:
        place = {} if at == (0.0, 0.0) else {"transform": f"translate({at[0]:g} {-at[1]:g})"}
        group = ElementTree.SubElement(root, "g", {"fill": "none", "stroke": "#000", "stroke-width": "0.2", **place})
        _draw_svg(group, cut)
        if name:
            told = ElementTree.SubElement(
                group, "text", {"x": f"{-cut.width / 2:g}", "y": f"{cut.depth / 2 + 1.5 * LABEL:g}",
                                "font-size": f"{LABEL:g}", "fill": "#000", "stroke": "none"},
            )  # fmt: skip
            told.text = name
    ElementTree.indent(root)
    return ElementTree.tostring(root, encoding="unicode") + "\n"


def _draw_svg(group: ElementTree.Element, cut: Outline) -> None:
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


def _box(width: float, depth: float) -> list[Point]:
    x, y = width / 2.0, depth / 2.0
    return [(-x, -y), (x, -y), (x, y), (-x, y)]

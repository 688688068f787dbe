"""An insulation's outline, written and read back."""

from __future__ import annotations

import itertools
import math
from io import StringIO
from xml.etree import ElementTree

import ezdxf
import pytest

from tests.core.test_bed import CATALOGUE, setup_of
from zeotherm.core.machine.documents import Setup, patched
from zeotherm.core.parts.bed.judge.cutting import outline
from zeotherm.core.parts.enclosure.judge.panels import panels_of
from zeotherm.shop.errors import ShopError
from zeotherm.shop.files.cut_files import as_dxf, as_svg, write_outline, write_outlines

NAMESPACE = "{http://www.w3.org/2000/svg}"


def cut(kind: str = "wide_bed", **bed: float | str):
    return outline(CATALOGUE.beds[kind], setup_of(kind, insulation="felt", **bed).bed, CATALOGUE)


def one(outlined):
    return [("", outlined, (0.0, 0.0))]


def test_a_dxf_holds_the_outline_its_holes_and_its_unit():
    drawing = ezdxf.read(StringIO(as_dxf(one(cut()))))
    space = drawing.modelspace()
    edge = space.query("LWPOLYLINE").first
    points = [(x, y) for x, y, *_rest in edge.get_points()]
    assert (min(x for x, _y in points), max(y for _x, y in points)) == (-200.0, 150.0)
    area = 0.5 * abs(sum(a[0] * b[1] - b[0] * a[1] for a, b in zip(points, [*points[1:], points[0]], strict=True)))
    holes = space.query("CIRCLE")
    assert len(holes) == 4
    assert area - sum(math.pi * hole.dxf.radius**2 for hole in holes) == pytest.approx(cut().area)
    assert drawing.units == 4  # millimetres
    assert not drawing.audit().errors


def test_round_and_open_outlines():
    rounded = ezdxf.read(StringIO(as_dxf(one(cut("round_bed", cover="border"))))).modelspace()
    radii = sorted(one.dxf.radius for one in rounded.query("CIRCLE"))
    assert radii[-1] == 130.0
    assert 0.3 * 260.0 in radii
    open_in_the_middle = ezdxf.read(StringIO(as_dxf(one(cut(cover="border"))))).modelspace()
    assert len(open_in_the_middle.query("LWPOLYLINE")) == 2


def test_an_svg_is_at_full_size():
    root = ElementTree.fromstring(as_svg(one(cut())))
    assert root.attrib["width"] == "410mm"
    assert root.attrib["viewBox"].endswith("410 310")
    assert len(root.findall(f".//{NAMESPACE}circle")) == 4
    round_one = ElementTree.fromstring(as_svg(one(cut("round_bed", cover="border"))))
    assert len(round_one.findall(f".//{NAMESPACE}ellipse")) == 2


def test_other_endings_are_refused(tmp_path):
    write_outline(tmp_path / "felt.DXF", cut())
    assert (tmp_path / "felt.DXF").stat().st_size > 1000
    with pytest.raises(ShopError, match=r"\.dxf or \.svg"):
        write_outline(tmp_path / "felt.pdf", cut())


def test_panels_lie_side_by_side_under_their_names_with_every_hole(tmp_path):
    case = {"part": "panelled_frame", "vents_open_pct": 50.0, "exhaust_m3h": 20.0, "intake_m3h": 20.0}
    panels = panels_of(patched(Setup(), {"case": case}), CATALOGUE)
    write_outlines(tmp_path / "panels.dxf", panels)
    fans = [hole.y for panel in panels for hole in panel.holes if hole.kind == "fan"]
    assert sorted(fans) == [-max(fans), max(fans)]  # out high, in low
    space = ezdxf.readfile(tmp_path / "panels.dxf").modelspace()
    assert len(space.query("CIRCLE")) == sum(len(panel.holes) for panel in panels)
    assert [text.dxf.text for text in space.query("TEXT")] == ["floor", "roof", "left", "right", "front", "back"]
    edges = [[x for x, *_rest in line.get_points()] for line in space.query("LWPOLYLINE")]
    assert all(max(a) < min(b) for a, b in itertools.pairwise(edges))
    write_outlines(tmp_path / "panels.svg", panels)
    root = ElementTree.parse(tmp_path / "panels.svg").getroot()
    assert len(root.findall(f".//{NAMESPACE}circle")) == len(space.query("CIRCLE"))
    assert len(root.findall(f".//{NAMESPACE}text")) == 6

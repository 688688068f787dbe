"""A way of wiring: parts as boxes with named end points, wires with numbers. No colour stands for a net."""

from __future__ import annotations

import tempfile
from collections.abc import Callable
from pathlib import Path

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QImage, QPageLayout, QPageSize, QPainter, QPainterPath, QPdfWriter
from PyQt6.QtSvg import QSvgGenerator

from zeotherm.desk.parts.power.wiring_shown import PartBox, WiringView
from zeotherm.desk.style import theme
from zeotherm.shop.errors import ShopError
from zeotherm.wording.language import _
from zeotherm.wording.numbers import plain

ROW, HEAD = 17, 20  # px
WIDE = 112
SPOTS = sorted((0.04 * n for n in range(1, 25)), key=lambda share: abs(share - 0.5))  # of a wire, for its number
PRINTED, LISTED = (1200.0, 760.0), 380.0  # px of a printed sheet, and of the wire list beside the picture


def paint_wiring(painter: QPainter, view: WiringView, box: QRectF) -> None:
    """The whole sheet."""
    frames = {part.key: frame_of(part, box) for part in view.parts}
    rows = {end: (part.key, n) for part in view.parts for n, (end, _label) in enumerate(part.points)}
    tags = []
    for n, wire in enumerate(view.wires):
        if all(end in rows for end in wire.ends):
            (one, up), (other, down) = (rows[end] for end in wire.ends)
            ends = [_end(frames[one], up, frames[other]), _end(frames[other], down, frames[one])]
            path = _way(ends, n)
            _paint_wire(painter, path, wire.mm2, wire.wrong)
            tags.append((path, wire.number, wire.wrong))
    for part in view.parts:
        _paint_part(painter, part, frames[part.key], view)
    taken = [*frames.values()]
    for path, number, wrong in tags:
        _paint_number(painter, path, number, taken, wrong=wrong)


def frame_of(part: PartBox, box: QRectF) -> QRectF:
    """Where a part stands on the sheet, never beyond its edges."""
    wide, high = theme.scaled(WIDE), theme.scaled(HEAD + ROW * len(part.points)) + 4
    x = box.left() + part.x * box.width() - 0.5 * wide
    y = box.top() + part.y * box.height() - 0.5 * high
    x = min(max(x, box.left()), box.right() - wide)
    return QRectF(x, min(max(y, box.top()), box.bottom() - high), wide, high)


def _end(frame: QRectF, row: int, other: QRectF) -> tuple[QPointF, int]:
    """Where a wire ends on a part, and to which side it leaves: toward the part of its other end."""
    side = 1 if other.center().x() >= frame.center().x() else -1
    x = frame.right() if side > 0 else frame.left()
    return QPointF(x, frame.top() + theme.scaled(HEAD) + theme.scaled(ROW) * (row + 0.5)), side


def _way(ends: list[tuple[QPointF, int]], n: int) -> QPainterPath:
    (one, out), (other, back) = ends
    reach = 26.0 + 7.0 * (n % 5)
    path = QPainterPath(one)
    path.cubicTo(one + QPointF(out * reach, 0), other + QPointF(back * reach, 0), other)
    return path


def _paint_wire(painter: QPainter, path: QPainterPath, mm2: float, wrong: bool) -> None:
    t = theme.tokens()
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.setPen(theme.pen(t["over"] if wrong else t["ink"], 1.2 + min(0.55 * mm2, 3.2)))
    painter.drawPath(path)


def _paint_number(painter: QPainter, path: QPainterPath, number: int, taken: list[QRectF], *, wrong: bool) -> None:
    """A wire's number on it, where nothing or the least lies in its way."""
    t = theme.tokens()
    spots = [path.pointAtPercent(share) for share in SPOTS]
    tags = [QRectF(spot.x() - 9, spot.y() - 8, 18, 16) for spot in spots]
    tag = min(tags, key=lambda one: sum(shared.width() * shared.height() for shared in map(one.intersected, taken)))
    taken.append(tag)
    painter.setPen(theme.pen(t["over"] if wrong else t["rule"], 1))
    painter.setBrush(t["flag"])
    painter.drawRoundedRect(tag, 3, 3)
    painter.setFont(theme.font(12, 600))
    painter.setPen(t["over"] if wrong else t["ink"])
    painter.drawText(tag, Qt.AlignmentFlag.AlignCenter, str(number))


def _paint_part(painter: QPainter, part: PartBox, frame: QRectF, view: WiringView) -> None:
    t = theme.tokens()
    painter.setPen(theme.pen(t["ink"], 1.3))
    painter.setBrush(t["panel"])
    painter.drawRoundedRect(frame, 3, 3)
    painter.setFont(theme.font(12, 700))
    painter.drawText(QRectF(frame.left() + 7, frame.top(), frame.width() - 10, theme.scaled(HEAD)),
                     Qt.AlignmentFlag.AlignVCenter, part.label)  # fmt: skip
    row, head = theme.scaled(ROW), theme.scaled(HEAD)
    for n, (end, label) in enumerate(part.points):
        wrong = end in view.wrong_ends
        line = QRectF(frame.left() + 12, frame.top() + head + n * row, frame.width() - 24, row)
        painter.setFont(theme.font(12, 600 if wrong else 400))
        painter.setPen(t["over"] if wrong else t["ink"])
        painter.drawText(line, Qt.AlignmentFlag.AlignVCenter, label)
        painter.setPen(theme.pen(t["over"] if wrong else t["ink"], 1.2))
        painter.setBrush(t["over"] if wrong else t["sheet"])
        for x in (frame.left(), frame.right()):
            painter.drawEllipse(QPointF(x, line.center().y()), 3.0, 3.0)


def wire_list(view: WiringView, labels: dict[str, str]) -> list[str]:
    """Every wire by its number, ends and size: what is printed beside the picture."""
    return [
        f"{one.number}: {labels.get(one.ends[0], one.ends[0])} – {labels.get(one.ends[1], one.ends[1])}, "
        f"{plain(one.mm2, 2)} mm²"
        for one in view.wires
    ]


def write_wiring(path: Path, view: WiringView, lines: list[str]) -> None:
    """The wiring with its wire list on one sheet, by the file's ending: PDF, SVG or PNG. Raises ShopError.

    lines: title first.
    """
    kinds = {".pdf": _pdf, ".svg": _svg, ".png": _png}
    made = kinds.get(path.suffix.lower())
    if made is None:
        raise ShopError(_("{name}: the wiring is written as .pdf, .svg or .png.").format(name=path.name))
    with tempfile.TemporaryDirectory() as folder:  # whole, or not at all
        draft = Path(folder) / path.name
        made(draft, lambda painter: _paint_sheet(painter, view, lines))
        try:
            path.write_bytes(draft.read_bytes())
        except OSError as wrong:
            raise ShopError(
                _("{name} could not be written: choose another folder. {why}").format(
                    name=path.name, why=wrong.strerror
                )
            ) from None


Painted = Callable[[QPainter], None]


def _paint_sheet(painter: QPainter, view: WiringView, lines: list[str]) -> None:
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.fillRect(QRectF(0, 0, *PRINTED), theme.tokens()["sheet"])
    wide = PRINTED[0] - LISTED
    paint_wiring(painter, view, QRectF(20, 20, wide, PRINTED[1] - 40))
    painter.setPen(theme.tokens()["ink"])
    for n, line in enumerate(lines):
        painter.setFont(theme.font(14, 700) if n == 0 else theme.font(13))
        painter.drawText(QPointF(wide + 40, 40.0 + 24.0 * n), line)


def _pdf(path: Path, paint: Painted) -> None:
    writer = QPdfWriter(str(path))
    writer.setPageSize(QPageSize(QPageSize.PageSizeId.A4))
    writer.setPageOrientation(QPageLayout.Orientation.Landscape)
    painter = QPainter(writer)
    scale = min(writer.width() / PRINTED[0], writer.height() / PRINTED[1])
    painter.scale(scale, scale)
    paint(painter)
    painter.end()


def _svg(path: Path, paint: Painted) -> None:
    made = QSvgGenerator()
    made.setFileName(str(path))
    made.setViewBox(QRectF(0, 0, *PRINTED))
    painter = QPainter(made)
    paint(painter)
    painter.end()


def _png(path: Path, paint: Painted) -> None:
    image = QImage(int(PRINTED[0]), int(PRINTED[1]), QImage.Format.Format_RGB32)
    painter = QPainter(image)
    paint(painter)
    painter.end()
    image.save(str(path))

"""A way of wiring: parts as boxes with named end points, wires with numbers. No colour stands for a net."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPainterPath, QPen

from zeotherm.desk import theme
from zeotherm.desk.wiringview import PartBox, WiringView
from zeotherm.wording.numbers import plain

ROW, HEAD = 17, 20  # px
WIDE = 112


def paint_wiring(painter: QPainter, view: WiringView, box: QRectF) -> None:
    """The whole sheet."""
    frames = {part.key: _frame(part, box) for part in view.parts}
    rows = {end: (part.key, n) for part in view.parts for n, (end, _label) in enumerate(part.points)}
    for n, wire in enumerate(view.wires):
        if all(end in rows for end in wire.ends):
            (one, up), (other, down) = (rows[end] for end in wire.ends)
            ends = [_end(frames[one], up, frames[other]), _end(frames[other], down, frames[one])]
            _paint_wire(painter, ends, str(wire.number), wire.mm2, wire.wrong, n)
    for part in view.parts:
        _paint_part(painter, part, frames[part.key], view)


def _frame(part: PartBox, box: QRectF) -> QRectF:
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


def _paint_wire(
    painter: QPainter, ends: list[tuple[QPointF, int]], number: str, mm2: float, wrong: bool, n: int
) -> None:
    t = theme.tokens()
    (one, out), (other, back) = ends
    reach = 26.0 + 7.0 * (n % 5)
    path = QPainterPath(one)
    path.cubicTo(one + QPointF(out * reach, 0), other + QPointF(back * reach, 0), other)
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.setPen(QPen(t["over"] if wrong else t["ink"], 1.2 + min(0.55 * mm2, 3.2)))
    painter.drawPath(path)
    spot = path.pointAtPercent((0.32, 0.5, 0.66)[n % 3])
    tag = QRectF(spot.x() - 8, spot.y() - 7, 16, 14)
    painter.setPen(QPen(t["over"] if wrong else t["rule"], 1))
    painter.setBrush(t["flag"])
    painter.drawRoundedRect(tag, 3, 3)
    painter.setFont(theme.font(12, 600))
    painter.setPen(t["over"] if wrong else t["ink"])
    painter.drawText(tag, Qt.AlignmentFlag.AlignCenter, number)


def _paint_part(painter: QPainter, part: PartBox, frame: QRectF, view: WiringView) -> None:
    t = theme.tokens()
    painter.setPen(QPen(t["ink"], 1.3))
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
        painter.setPen(QPen(t["over"] if wrong else t["ink"], 1.2))
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

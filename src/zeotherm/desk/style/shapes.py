"""Signs that are drawn, never typed: states, arrows, hazards."""

from __future__ import annotations

import math
from collections.abc import Callable

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QBrush, QColor, QPainter, QPainterPath, QPen, QPolygonF

from zeotherm.core.judgement.margins import State
from zeotherm.core.machine.known import How
from zeotherm.desk.style.theme import pen, tokens

TOKEN = {
    State.OVER: "over", State.SHORT: "over", State.CLOSE: "close", State.UNKNOWN: "soft", State.CLEAR: "accent",
}  # fmt: skip
TEXT = {State.OVER: "over", State.SHORT: "over", State.CLOSE: "close", State.UNKNOWN: "soft", State.CLEAR: "ink"}


def state_colour(state: State) -> QColor:
    """The colour that goes with a state's shape."""
    return tokens()[TOKEN[state]]


def text_colour(state: State) -> QColor:
    """The colour of text in a state: ink unless there is trouble."""
    return tokens()[TEXT[state]]


def polygon(*points: tuple[float, float]) -> QPolygonF:
    """A polygon from pairs."""
    return QPolygonF([QPointF(x, y) for x, y in points])


def draw_state(painter: QPainter, state: State, centre: QPointF, radius: float = 6.0) -> None:
    """The state's shape about a centre."""
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.translate(centre)
    _STATES[state](painter, radius, state_colour(state))
    painter.restore()


def _ring(painter: QPainter, r: float, colour: QColor) -> None:
    painter.setPen(pen(colour, max(1.6, r * 0.32)))
    painter.setBrush(tokens()["panel"])
    painter.drawEllipse(QPointF(0, 0), r * 0.8, r * 0.8)


def _lozenge(painter: QPainter, r: float, colour: QColor) -> None:
    painter.setPen(pen(colour, max(1.3, r * 0.24)))
    painter.setBrush(tokens()["panel"])
    painter.drawPolygon(polygon((0, -r), (r, 0), (0, r), (-r, 0)))
    painter.setBrush(colour)
    painter.drawPolygon(polygon((r, 0), (0, r), (-r, 0)))


def _peak(painter: QPainter, r: float, colour: QColor) -> None:
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(colour)
    painter.drawPolygon(polygon((0, -r), (0.95 * r, 0.5 * r), (-0.95 * r, 0.5 * r)))
    painter.drawRect(QRectF(-r, 0.72 * r, 2 * r, 0.32 * r))


def _trough(painter: QPainter, r: float, colour: QColor) -> None:
    painter.rotate(180)
    _peak(painter, r, colour)


def _dotted(painter: QPainter, r: float, colour: QColor) -> None:
    pen = QPen(colour, max(1.4, r * 0.26))
    pen.setDashPattern([0.9, 1.3])
    painter.setPen(pen)
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawEllipse(QPointF(0, 0), r * 0.85, r * 0.85)


_STATES: dict[State, Callable[[QPainter, float, QColor], None]] = {
    State.CLEAR: _ring, State.CLOSE: _lozenge, State.OVER: _peak, State.SHORT: _trough, State.UNKNOWN: _dotted,
}  # fmt: skip


def draw_done(painter: QPainter, centre: QPointF, radius: float = 6.0) -> None:
    """A filled disc with a tick: recorded, finished, matched."""
    t = tokens()
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(t["accent"])
    painter.drawEllipse(centre, radius, radius)
    painter.setPen(pen(t["onaccent"], max(1.4, radius * 0.26)))
    painter.translate(centre)
    painter.drawPolyline(
        polygon((-0.45 * radius, 0.05 * radius), (-0.1 * radius, 0.4 * radius), (0.5 * radius, -0.35 * radius))
    )
    painter.restore()


def arrow_path(box: QRectF, nose: float = 18.0) -> QPainterPath:
    """A button that points along the spine."""
    path = QPainterPath()
    path.addPolygon(
        polygon((box.left(), box.top()), (box.right() - nose, box.top()), (box.right(), box.center().y()),
                (box.right() - nose, box.bottom()), (box.left(), box.bottom()))
    )  # fmt: skip
    path.closeSubpath()
    return path


def draw_ribbon(painter: QPainter, start: QPointF, end: QPointF, width: float) -> None:
    """A cut-paper strip with an arrow at its cool end; a hairline when it carries next to nothing."""
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    length = math.hypot(end.x() - start.x(), end.y() - start.y())
    painter.translate(start)
    painter.rotate(math.degrees(math.atan2(end.y() - start.y(), end.x() - start.x())))
    head = max(7.0, width * 0.8)
    painter.setPen(pen(tokens()["ink"], 1.2))
    painter.setBrush(tokens()["ribbon"])
    half, wing = width / 2, width / 2 + 4
    if width < 2.2:
        painter.drawLine(QPointF(0, 0), QPointF(length - 6, 0))
        painter.setBrush(tokens()["ink"])
        painter.drawPolygon(polygon((length, 0), (length - 8, -4), (length - 8, 4)))
    else:
        body = length - head
        painter.drawPolygon(
            polygon((0, -half), (body, -half), (body, -wing), (length, 0), (body, wing), (body, half), (0, half))
        )
    painter.restore()


def draw_triangle(painter: QPainter, centre: QPointF, size: float, up: bool = False) -> None:
    """A small filled triangle that points down, or up."""
    way = -1 if up else 1
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(tokens()["ink"])
    x, y = centre.x(), centre.y()
    painter.drawPolygon(
        polygon((x - size, y - way * size * 0.6), (x + size, y - way * size * 0.6), (x, y + way * size * 0.6))
    )
    painter.restore()


def draw_hazard(painter: QPainter, sign: str, box: QRectF) -> None:
    """A cut-corner square with its sign: burn, mains, fumes or flame."""
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    cut = box.width() * 0.2
    left, top, right, bottom = box.left(), box.top(), box.right(), box.bottom()
    painter.setPen(pen(tokens()["close"], 1.6))
    painter.setBrush(tokens()["closebg"])
    painter.drawPolygon(
        polygon(
            (left + cut, top),
            (right - cut, top),
            (right, top + cut),
            (right, bottom - cut),
            (right - cut, bottom),
            (left + cut, bottom),
            (left, bottom - cut),
            (left, top + cut),
        )
    )
    painter.setBrush(QBrush(Qt.BrushStyle.NoBrush))
    painter.translate(box.center())
    painter.scale(box.width() / 24, box.width() / 24)
    painter.drawPath(_hazard_path(sign))
    painter.restore()


def _hazard_path(sign: str) -> QPainterPath:
    path = QPainterPath()
    if sign == "mains":
        path.addPolygon(polygon((2, -8), (-4, 1), (0, 1), (-2, 8), (4, -1), (0, -1), (2, -8)))
    elif sign == "flame":
        path.moveTo(0, -8)
        path.cubicTo(6, -1, 6, 7, 0, 7)
        path.cubicTo(-6, 7, -6, -1, 0, -8)
    else:
        rows = (-5, 0, 5) if sign == "fumes" else (-6, -1)
        for y in rows:
            path.moveTo(-7, y)
            path.cubicTo(-3, y - 5, -2, y + 5, 1, y)
            path.cubicTo(3, y - 4, 5, y + 2, 7, y)
        if sign == "burn":
            path.moveTo(-7, 6)
            path.lineTo(7, 6)
    return path


def draw_known(painter: QPainter, how: How, centre: QPointF, radius: float = 5.5) -> None:
    """How a fact is known: a dotted ring where it is assumed, a tick where somebody entered it, a disc where it was
    measured, a ring with a tick where a curve told it."""
    t = tokens()
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.translate(centre)
    painter.setBrush(Qt.BrushStyle.NoBrush)
    if how == "assumed":
        dotted = QPen(t["soft"], max(1.4, radius * 0.2))
        dotted.setDashPattern([0.9, 1.5])
        painter.setPen(dotted)
        painter.drawEllipse(QPointF(0, 0), radius, radius)
    elif how == "measured":
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(t["meas"])
        painter.drawEllipse(QPointF(0, 0), 0.85 * radius, 0.85 * radius)
    else:
        colour = t["meas"] if how == "fitted" else t["ink"]
        painter.setPen(pen(colour, max(1.6, radius * 0.3)))
        reach = 0.5 if how == "fitted" else 0.9
        painter.drawPolyline(polygon((-reach * radius, 0), (-0.2 * radius, 0.6 * reach * radius),
                                     (reach * radius, -0.7 * reach * radius)))  # fmt: skip
        if how == "fitted":
            painter.drawEllipse(QPointF(0, 0), radius, radius)
    painter.restore()

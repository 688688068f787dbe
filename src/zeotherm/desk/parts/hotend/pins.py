"""Readings pinned to their places as swallow-tailed flags."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter

from zeotherm.answers.hotend import Found
from zeotherm.core.judgement.margins import State
from zeotherm.desk.parts.hotend.section import Section
from zeotherm.desk.style import theme
from zeotherm.desk.style.shapes import draw_state, polygon, state_colour
from zeotherm.desk.viewmodels import Flag, flags
from zeotherm.desk.widgets.ladder import pushed_apart
from zeotherm.wording import margins as words
from zeotherm.wording.language import _

FLAG_WIDTH, FLAG_HEIGHT = 172, 40


def shown_flags(found: Found) -> list[Flag]:
    """Readings, and the worst passed temperature though nobody measured it."""
    pinned = list(flags(found))
    worst = next(
        (
            margin
            for margin in found.answer.margins
            if margin.state.bad and margin.station in ("bore", "liner_end", "exit_core", "block")
        ),
        None,
    )
    if worst is not None and worst.station not in {flag.station for flag in pinned}:
        text = words.value(worst)
        pinned.append(
            Flag(worst.station, words.label(worst), "", f"{_('model')} {text}", worst.state, False, words.spoken(worst))
        )
    return pinned


def paint_flags(painter: QPainter, section: Section, found: Found, box: QRectF) -> None:
    """Every flag beside its pin, spread so that none covers another."""
    shown = shown_flags(found)
    pins = {flag.station: place for flag in shown if (place := section.place_of(flag.station)) is not None}
    pinned = [flag for flag in shown if flag.station in pins]
    left = [flag for flag in pinned if flag.station == "fan_inlet"]
    right = sorted((flag for flag in pinned if flag.station != "fan_inlet"), key=lambda flag: pins[flag.station].y())
    flag_height = theme.scaled(FLAG_HEIGHT)
    width = min(theme.scaled(FLAG_WIDTH), box.right() - section.x(section.at.fin) - 20)
    wishes = [pins[flag.station].y() for flag in right]
    places = pushed_apart(wishes, flag_height + 6, box.top() + 26, section.y(section.at.block_top) + 46)
    for flag, y in zip(right, places, strict=True):
        frame = QRectF(box.right() - width - 12, y - flag_height / 2, width, flag_height)
        _paint_flag(painter, flag, frame, pins[flag.station], frame.left())
    for flag in left:
        frame = QRectF(box.left() + 12, box.top() + 10, width, flag_height)
        _paint_flag(painter, flag, frame, pins[flag.station], frame.left() + 12)


def _paint_flag(painter: QPainter, flag: Flag, frame: QRectF, pin: QPointF, knee: float) -> None:
    t = theme.tokens()
    border = t["ink"] if flag.state in (State.CLEAR, State.UNKNOWN) else state_colour(flag.state)
    painter.setPen(theme.pen(border, 1.2))
    y = frame.center().y() if pin.x() > frame.left() + 60 or knee == frame.left() else frame.bottom()
    painter.drawPolyline(QPointF(knee, y), QPointF(knee - 10 if knee == frame.left() else knee, pin.y()), pin)
    painter.setBrush(t["flag"])
    painter.drawEllipse(pin, 3, 3)
    notch = 8
    painter.setPen(theme.pen(border, 1.4, Qt.PenStyle.SolidLine if flag.measured else Qt.PenStyle.DashLine))
    painter.drawPolygon(
        polygon((frame.left(), frame.top()), (frame.right(), frame.top()), (frame.right() - notch, frame.center().y()),
                (frame.right(), frame.bottom()), (frame.left(), frame.bottom()))
    )  # fmt: skip
    painter.setPen(t["soft"])
    painter.setFont(theme.font(12))
    painter.drawText(frame.adjusted(8, 3, -26, 0), Qt.AlignmentFlag.AlignTop, flag.label)
    draw_state(painter, State.UNKNOWN if flag.apart else flag.state, QPointF(frame.right() - 20, frame.top() + 11), 5.5)
    x = frame.left() + 8
    if flag.measured:
        painter.setPen(t["meas"])
        painter.setFont(theme.font(16, 700))
        painter.drawText(QPointF(x, frame.bottom() - 7), flag.measured)
        x += painter.fontMetrics().horizontalAdvance(flag.measured) + 9
    painter.setPen(t["ink"])
    painter.setFont(theme.font(12, 400 if flag.measured else 700))
    fits = x + painter.fontMetrics().horizontalAdvance(flag.model) < frame.right() - 6
    painter.drawText(QPointF(x, frame.bottom() - 7), flag.model if fits else flag.model.split()[1])

"""Two answers over one axis of watts: seconds to the temperature above, the flow that is held below."""

from __future__ import annotations

import math

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QPainter, QPaintEvent, QPen, QPolygonF
from PyQt6.QtWidgets import QWidget

from zeotherm.core.choices.build.watts import WattsPicture
from zeotherm.desk.style import theme
from zeotherm.desk.widgets.painted import paint_head
from zeotherm.wording import build as words
from zeotherm.wording.language import _
from zeotherm.wording.numbers import with_unit

HEAD, LEFT, RIGHT_ROOM, BOTTOM = 26, 78, 26, 22
LEAST_SPAN, MOST_SPAN = 50.0, 105.0  # W shown
LEFTWARD = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
MIDDLE = Qt.AlignmentFlag.AlignVCenter


class WattsChart(QWidget):
    """Paints a `WattsPicture`; teal: what is fitted, dashed: the rule of thumb."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._picture: WattsPicture | None = None
        self._fitted = self._seconds = self._flow = 0.0
        self.setMinimumHeight(theme.scaled(150))

    def show_picture(self, picture: WattsPicture | None, fitted: float, seconds: float, flow: float) -> None:
        """fitted: watts stamped on the cartridge; seconds and flow: as wanted."""
        self._picture, self._fitted, self._seconds, self._flow = picture, fitted, seconds, flow
        said = "" if picture is None else words.watts(picture)
        self.setAccessibleName(f"{_('How many watts')}: {said}")
        self.setToolTip(said)
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(380, theme.scaled(230))

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        picture = self._picture
        head = QRectF(16, 2, self.width() - 28, theme.scaled(HEAD) - 4)
        volts = "" if picture is None else _("stamped for {volts}").format(volts=with_unit(picture.volts, "V", 0))
        paint_head(painter, head, _("How many watts"), volts)
        if picture is None:
            painter.drawText(head.translated(0, theme.scaled(30)), MIDDLE, _("being solved"))
            painter.end()
            return
        top, high = theme.scaled(HEAD) + 18, self.height()
        plot = QRectF(
            theme.scaled(LEFT), top, self.width() - theme.scaled(LEFT) - RIGHT_ROOM, high - top - theme.scaled(BOTTOM)
        )
        upper = QRectF(plot.left(), plot.top(), plot.width(), 0.5 * plot.height() - 6)
        lower = QRectF(plot.left(), upper.bottom() + 12, plot.width(), plot.bottom() - upper.bottom() - 12)
        most = min(max(LEAST_SPAN, 1.25 * self._fitted, 1.15 * (picture.for_time or 0.0)), MOST_SPAN)
        axis = _Axis(plot.left(), plot.width(), 15.0, most)
        self._paint_axis(painter, plot, axis)
        self._paint_seconds(painter, upper, axis, picture)
        self._paint_flows(painter, lower, axis, picture)
        self._paint_uprights(painter, plot, axis, picture)
        painter.end()

    def _paint_axis(self, painter: QPainter, plot: QRectF, axis: _Axis) -> None:
        t = theme.tokens()
        painter.setFont(theme.font(12))
        step = 10 if axis.most <= 65 else 20
        for watts in range(20, int(axis.most) + 1, step):
            painter.setPen(theme.pen(t["rule"], 1))
            x = axis.x(watts)
            painter.drawLine(QPointF(x, plot.bottom()), QPointF(x, plot.bottom() + 4))
            painter.setPen(t["soft"])
            last = watts + step > axis.most
            text = with_unit(watts, "W", 0) if last else str(watts)
            painter.drawText(QRectF(x - 26, plot.bottom() + 4, 52, 16), Qt.AlignmentFlag.AlignCenter, text)

    def _paint_seconds(self, painter: QPainter, box: QRectF, axis: _Axis, picture: WattsPicture) -> None:
        shown = (picture.watts >= axis.least) & (picture.watts <= axis.most)
        most = 1.9 * self._seconds

        def line(values: np.ndarray) -> list[QPointF]:
            kept = shown & np.isfinite(values) & (values <= most)
            return [QPointF(axis.x(w), box.bottom() - v / most * box.height())
                    for w, v in zip(picture.watts[kept], values[kept], strict=True)]  # fmt: skip

        self._paint_curve(painter, line(picture.seconds), line(picture.slowest), line(picture.quickest))
        y = box.bottom() - self._seconds / most * box.height()
        self._paint_wish(painter, box, y, with_unit(self._seconds, "s", 0), axis, picture.for_time)
        right = picture.for_time is None or axis.x(picture.for_time) < box.center().x()
        words_in = QRectF(box.right() - 150, box.top() - 2, 150, 16) if right else QRectF(
            box.left() + 4, box.bottom() - 15, 150, 16)  # fmt: skip
        self._say(painter, words_in, _("time to temperature"), LEFTWARD if right else MIDDLE)

    def _paint_flows(self, painter: QPainter, box: QRectF, axis: _Axis, picture: WattsPicture) -> None:
        shown = (picture.watts >= axis.least) & (picture.watts <= axis.most)
        most = 1.4 * max(self._flow, picture.melts, 1.0)

        def line(values: np.ndarray) -> list[QPointF]:
            return [QPointF(axis.x(w), box.bottom() - v / most * box.height())
                    for w, v in zip(picture.watts[shown], values[shown], strict=True)]  # fmt: skip

        self._paint_curve(painter, line(picture.flows), line(picture.least_flows), line(picture.flows))
        y = box.bottom() - self._flow / most * box.height()
        self._paint_wish(painter, box, y, with_unit(self._flow, "mm³/s"), axis, picture.for_flow)
        text = _("nozzle melts {flow}").format(flow=with_unit(picture.melts, "mm³/s"))
        melts = box.bottom() - picture.melts / most * box.height()
        self._say(painter, QRectF(box.right() - 160, melts - 17, 160, 16), text)

    def _paint_curve(self, painter: QPainter, line: list[QPointF], one: list[QPointF], other: list[QPointF]) -> None:
        t = theme.tokens()
        if one and other:
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(t["line"])
            painter.drawPolygon(QPolygonF([*one, *reversed(other)]))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(theme.pen(t["ink"], 2))
        painter.drawPolyline(QPolygonF(line))

    def _paint_wish(
        self, painter: QPainter, box: QRectF, y: float, text: str, axis: _Axis, watts: float | None
    ) -> None:
        t = theme.tokens()
        painter.setFont(theme.font(12, 600))
        painter.setPen(t["ink"])
        painter.drawText(QRectF(0, y - 9, box.left() - 5, 18), LEFTWARD, text)
        dashed = QPen(t["accent"], 1.4)
        dashed.setDashPattern([4.0, 3.0])
        painter.setPen(dashed)
        end = box.right() if watts is None else axis.x(min(max(watts, axis.least), axis.most))
        painter.drawLine(QPointF(box.left(), y), QPointF(end, y))
        if watts is not None and axis.least <= watts <= axis.most:
            place = QPointF(axis.x(watts), y)
            painter.setPen(theme.pen(t["ink"], 1.6))
            painter.setBrush(t["panel"])
            painter.drawEllipse(place, 4, 4)
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setFont(theme.font(13, 700))
            painter.drawText(QRectF(place.x() + 7, y - 20, 70, 18), MIDDLE, with_unit(math.ceil(watts), "W", 0))

    def _paint_uprights(self, painter: QPainter, plot: QRectF, axis: _Axis, picture: WattsPicture) -> None:
        t = theme.tokens()
        dashed = QPen(t["soft"], 1.4)
        dashed.setDashPattern([3.0, 3.0])
        near = abs(picture.rule - self._fitted) < 3.0
        marks = ((picture.rule, dashed, _("rule of thumb {watts}").format(watts=f"{picture.rule:.0f}"), "soft", True),
                (self._fitted, theme.pen(t["accent"], 2.5), _("fitted {watts}").format(watts=f"{self._fitted:.0f}"),
                 "accent", False))  # fmt: skip
        for watts, pen, text, colour, left in marks:
            if not axis.least <= watts <= axis.most:
                continue
            x = axis.x(watts)
            painter.setPen(pen)
            painter.drawLine(QPointF(x, plot.top() - 4), QPointF(x, plot.bottom()))
            painter.setFont(theme.font(12, 600))
            painter.setPen(t[colour])
            wide = theme.scaled(130)
            room = plot.top() - theme.scaled(18)
            left = left if near or watts <= self._fitted or not left else False
            box = QRectF(x - wide - 5, room, wide, theme.scaled(16)) if left else QRectF(
                x + 5, room, wide, theme.scaled(16))  # fmt: skip
            painter.drawText(box, LEFTWARD if left else MIDDLE, text)

    def _say(self, painter: QPainter, box: QRectF, text: str, align: Qt.AlignmentFlag = LEFTWARD) -> None:
        painter.setFont(theme.font(12))
        painter.setPen(theme.tokens()["soft"])
        painter.drawText(box, align, text)


class _Axis:
    """Watts across a plot."""

    def __init__(self, left: float, width: float, least: float, most: float) -> None:
        self._left, self._width, self.least, self.most = left, width, least, most

    def x(self, watts: float) -> float:
        """Where they stand [px]."""
        return self._left + (watts - self.least) / (self.most - self.least) * self._width

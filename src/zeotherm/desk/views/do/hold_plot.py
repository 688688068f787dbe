"""A wait, drawn as the curve it waits for: the forecast with its band, what was read, and the limit as ground."""

from __future__ import annotations

import math
from collections.abc import Callable

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QPainter, QPaintEvent, QPolygonF
from PyQt6.QtWidgets import QWidget

from zeotherm.core.judgement.margins import State
from zeotherm.desk.style import theme
from zeotherm.desk.style.shapes import draw_state
from zeotherm.desk.views.do.shown import HoldView
from zeotherm.desk.widgets.line import wrapped
from zeotherm.desk.widgets.painted import Painted
from zeotherm.wording.language import _

Place = Callable[[float, float], QPointF]
TALL = 204
TOP, LEFT, FOOT = 62, 40, 22
POINTS = 60
STEPS = (1, 2, 5, 10, 15, 30, 60, 120)  # minutes between ticks


class HoldPlot(Painted):
    """Paints a `HoldView`."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._view: HoldView | None = None
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setMinimumHeight(theme.scaled(TALL))

    def sizeHint(self) -> QSize:
        return QSize(420, theme.scaled(TALL))

    def show_hold(self, view: HoldView | None) -> None:
        """Show a hold, or none."""
        self._view = view
        if view is not None:
            value = _("no reading yet") if view.value is None else f"{view.value:.0f} °C"
            self.setAccessibleName(_("Wait {what}: {left} to go").format(what=view.words, left=view.left or "-"))
            self.setAccessibleDescription(f"{value}. {view.below}. {view.source}")
            self.setToolTip(f"{view.below}\n{view.source}".strip())
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        if self._view is None:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        self._paint_head(painter, self._view)
        self._paint_curve(painter, self._view)
        if self.hasFocus():
            painter.setPen(theme.pen(theme.tokens()["meas"], 2))
            painter.drawRect(self.rect().adjusted(1, 1, -2, -2))
        painter.end()

    def _paint_head(self, painter: QPainter, view: HoldView) -> None:
        t = theme.tokens()
        painter.setPen(t["ink"])
        painter.setFont(theme.font(44, 700))
        left = view.left or "–"
        wide = painter.fontMetrics().horizontalAdvance(left)
        painter.drawText(QRectF(0, 0, wide + 8, theme.scaled(50)), Qt.AlignmentFlag.AlignVCenter, left)
        painter.setFont(theme.font(13, 500))
        words = "\n".join(wrapped(painter.fontMetrics(), view.words, theme.scaled(150), 2))
        painter.drawText(
            QRectF(wide + 14, 6, theme.scaled(170), theme.scaled(40)), Qt.AlignmentFlag.AlignVCenter, words
        )
        right = QRectF(self.width() - 200, 0, 196, theme.scaled(50))
        if view.value is None:
            painter.setFont(theme.font(13, 500))
            painter.setPen(t["soft"])
            painter.drawText(right, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, _("no reading yet"))
            return
        bad = view.touch and view.value > view.goal
        painter.setFont(theme.font(34, 700))
        painter.setPen(t["over" if bad else "accent"])
        painter.drawText(right, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, f"{view.value:.0f} °C")

    def _paint_curve(self, painter: QPainter, view: HoldView) -> None:
        t = theme.tokens()
        end = self._end(view)
        times = np.linspace(0.0, end, POINTS)
        bands = np.array([view.forecast.at(float(time)) for time in times])
        high = max(
            float(bands.max()), view.goal + 10.0, *(one.value for one, _good in view.readings[-200:] or ()), 60.0
        )
        low = min(15.0, float(bands.min()))
        box = QRectF(LEFT, theme.scaled(TOP), self.width() - LEFT - 12, self.height() - theme.scaled(TOP) - FOOT)

        def place(time: float, value: float) -> QPointF:
            return QPointF(
                box.left() + box.width() * time / end, box.bottom() - box.height() * (value - low) / (high - low)
            )

        self._paint_ground(painter, view, box, place(0.0, view.goal).y())
        self._paint_axes(painter, box, end, low, high)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(t["meas"])
        painter.setOpacity(0.2)
        up = [place(float(time), float(band[2])) for time, band in zip(times, bands, strict=True)]
        down = [place(float(time), float(band[0])) for time, band in zip(times, bands, strict=True)]
        painter.drawPolygon(QPolygonF([*up, *reversed(down)]))
        painter.setOpacity(1.0)
        painter.setPen(theme.pen(t["ink"], 1.6, Qt.PenStyle.DashLine))
        painter.drawPolyline(
            QPolygonF([place(float(time), float(band[1])) for time, band in zip(times, bands, strict=True)])
        )
        self._paint_readings(painter, view, place, end)
        self._paint_wait(painter, view, place, box, end)

    def _end(self, view: HoldView) -> float:
        when = view.forecast.when(view.met)
        late = when[2] if when is not None else 1800.0
        return max(late * 1.15, view.now_s * 1.1, 60.0)

    def _paint_ground(self, painter: QPainter, view: HoldView, box: QRectF, y: float) -> None:
        t = theme.tokens()
        ground = QRectF(box.left(), y, box.width(), box.bottom() - y) if view.touch else (
            QRectF(box.left(), box.top(), box.width(), y - box.top())
        )  # fmt: skip
        painter.fillRect(ground, t["accentbg"])
        painter.setPen(theme.pen(t["accent"], 1.6))
        painter.drawLine(QPointF(box.left(), y), QPointF(box.right(), y))
        painter.setFont(theme.font(12, 600))
        painter.setPen(t["accent"])
        words = _("safe below {goal:.0f} °C") if view.touch else _("wanted {goal:.0f} °C")
        down = y + 2 if view.touch else y - 20
        painter.drawText(
            QRectF(box.left() + 6, down, 150, 18), Qt.AlignmentFlag.AlignVCenter, words.format(goal=view.goal)
        )

    def _paint_axes(self, painter: QPainter, box: QRectF, end: float, low: float, high: float) -> None:
        t = theme.tokens()
        painter.setFont(theme.font(12))
        every = 100 if high > 160 else 50
        for value in range(0, int(high) + 1, every):
            if value < low:
                continue
            y = box.bottom() - box.height() * (value - low) / (high - low)
            painter.setPen(theme.pen(t["line"], 1))
            painter.drawLine(QPointF(box.left(), y), QPointF(box.right(), y))
            painter.setPen(t["soft"])
            painter.drawText(
                QRectF(0, y - 9, LEFT - 6, 18), Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, str(value)
            )
        minutes = end / 60.0
        step = next((one for one in STEPS if minutes / one <= 6.5), STEPS[-1])
        for tick in range(step, math.ceil(minutes), step):
            x = box.left() + box.width() * tick / minutes
            painter.drawText(QRectF(x - 30, box.bottom() + 3, 60, 18), Qt.AlignmentFlag.AlignCenter, f"{tick} min")

    def _paint_readings(self, painter: QPainter, view: HoldView, place: Place, end: float) -> None:
        t = theme.tokens()
        for reading, good in view.readings:
            at = place(min(reading.after_s, end), reading.value)
            if good:
                painter.setPen(Qt.PenStyle.NoPen)
                painter.setBrush(t["meas"])
                painter.drawEllipse(at, 4, 4)
            else:
                draw_state(painter, State.UNKNOWN, at, 6)

    def _paint_wait(self, painter: QPainter, view: HoldView, place: Place, box: QRectF, end: float) -> None:
        """The wait as a dimension from now to the goal, and where now is."""
        t = theme.tokens()
        now = place(min(view.now_s, end), view.value if view.value is not None else view.forecast.at(view.now_s)[1])
        draw_state(painter, State.OVER if view.touch and view.left != "0:00" else State.CLEAR, now, 6)
        when = view.forecast.when(view.met)
        if when is None or when[1] <= view.now_s or not view.left or not view.ahead:
            return
        met = place(min(when[1], end), view.goal)
        y = min(now.y(), met.y()) - 18
        y = max(y, box.top() + 12)
        painter.setPen(theme.pen(t["ink"], 1.2))
        painter.drawLine(QPointF(now.x(), y), QPointF(met.x(), y))
        for x in (now.x(), met.x()):
            painter.drawLine(QPointF(x, y - 5), QPointF(x, y + 5))
        painter.drawLine(QPointF(met.x(), y), met)
        painter.setFont(theme.font(12, 700))
        painter.drawText(
            QRectF(0.5 * (now.x() + met.x()) - 60, y - 19, 120, 18), Qt.AlignmentFlag.AlignCenter, view.left
        )

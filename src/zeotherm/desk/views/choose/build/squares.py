"""Volts: what a part makes of its watts as a square beside the one it is rated for; area is watts."""

from __future__ import annotations

import math

from PyQt6.QtCore import QRectF, QSize, Qt
from PyQt6.QtGui import QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QWidget

from zeotherm.core.judgement.margins import State
from zeotherm.desk.style import theme
from zeotherm.desk.style.shapes import state_colour, text_colour
from zeotherm.desk.views.choose.build.shown import VoltSquare
from zeotherm.desk.widgets.painted import paint_head
from zeotherm.wording.build import times
from zeotherm.wording.language import _

HEAD, SIDE, MOST = 24, 20, 40
TINT = {State.OVER: "overbg", State.SHORT: "overbg", State.CLEAR: "accentbg"}
MIDDLE = Qt.AlignmentFlag.AlignVCenter


class VoltSquares(QWidget):
    """Paints at most three of them."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._squares: tuple[VoltSquare, ...] = ()
        self.refresh()

    def refresh(self) -> None:
        """Take up the size of the text."""
        self.setFixedHeight(theme.scaled(HEAD + 56))

    def sizeHint(self) -> QSize:
        return QSize(380, theme.scaled(HEAD + 56))

    def show_squares(self, squares: tuple[VoltSquare, ...]) -> None:
        self._squares = squares
        self.setAccessibleName("; ".join(f"{one.label} {one.text}: {times(one.times)}" for one in squares))
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        head = QRectF(16, 0, self.width() - 28, theme.scaled(HEAD))
        paint_head(painter, head, _("Volts"), _("square = its watts, dashed = rated"))
        each = (self.width() - 24) / max(len(self._squares), 1)
        for number, one in enumerate(self._squares):
            left = 16 + number * each
            self._paint(painter, one, QRectF(left, theme.scaled(HEAD + 4), each - 6, theme.scaled(48)))
        painter.end()

    def _paint(self, painter: QPainter, one: VoltSquare, box: QRectF) -> None:
        t, rated = theme.tokens(), theme.scaled(SIDE)
        side = min(max(rated * math.sqrt(max(one.times, 0.0)), 4.0), theme.scaled(MOST))
        foot = box.top() + theme.scaled(44)
        painter.setPen(theme.pen(state_colour(one.state), 1.6))
        painter.setBrush(t[TINT.get(one.state, "well")])
        painter.drawRect(QRectF(box.left(), foot - side, side, side))
        if abs(one.times - 1.0) > 0.02:
            dashed = QPen(state_colour(one.state), 1.2)
            dashed.setDashPattern([2.5, 2.5])
            painter.setPen(dashed)
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(QRectF(box.left(), foot - rated, rated, rated))
        words = box.left() + max(side, rated) + 8
        painter.setFont(theme.font(16, 700))
        painter.setPen(text_colour(one.state))
        line = QRectF(words, box.top() - 2, box.right() - words, theme.scaled(20))
        painter.drawText(line, MIDDLE, times(one.times))
        painter.setFont(theme.font(12))
        painter.setPen(t["ink"])
        painter.drawText(line.translated(0, theme.scaled(17)), MIDDLE, one.label)
        painter.setPen(t["soft"])
        painter.drawText(line.translated(0, theme.scaled(32)), MIDDLE, one.text)

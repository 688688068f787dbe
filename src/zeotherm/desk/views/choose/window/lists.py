"""What widens the window, and settings to copy: rows for the hand and for assistive technology."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

from PyQt6.QtCore import QPointF, QRect, QRectF, Qt
from PyQt6.QtGui import QPainter, QPaintEvent
from PyQt6.QtWidgets import QWidget

from zeotherm.desk.style import theme
from zeotherm.desk.widgets.painted import paint_head
from zeotherm.desk.widgets.rows import RowsWidget
from zeotherm.wording.language import _

HEAD, ROW = 30, 40
MIDDLE = Qt.AlignmentFlag.AlignVCenter
RIGHT = Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight


class SideLine(NamedTuple):
    """A row: its name, what is below it, a figure at the right, and a bar for it."""

    key: str
    label: str
    below: str
    figure: str
    share: float  # of the bar's length
    tip: str = ""


class LineList(RowsWidget):
    """Rows of two lines under a head; the picked one is boxed."""

    def __init__(self, title: str, aside: str, bars: bool, parent: QWidget | None = None) -> None:
        super().__init__(title, parent)
        self._title, self._aside, self._bars = title, aside, bars
        self._lines: Sequence[SideLine] = ()
        self._picked, self._empty = "", ""

    def show_lines(self, lines: Sequence[SideLine], picked: str = "", empty: str = "") -> None:
        """empty: what is said where there are none."""
        self._lines, self._picked, self._empty = lines, picked, empty
        self.setMinimumHeight(theme.scaled(HEAD + ROW * max(len(lines), 1)) + 6)
        self.lay_out()
        self.update()

    def _place(self, index: int) -> QRect:
        return QRect(8, theme.scaled(HEAD + ROW * index), self.width() - 16, theme.scaled(ROW))

    def lay_out(self) -> None:
        self.place_rows([
            (one.key, ", ".join(part for part in (one.label, one.below, one.figure) if part), one.tip or one.below,
             self._place(n)) for n, one in enumerate(self._lines)
        ])  # fmt: skip

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        paint_head(painter, QRectF(16, 2, self.width() - 32, theme.scaled(HEAD) - 6), self._title, self._aside)
        if not self._lines:
            painter.setFont(theme.font(12))
            painter.setPen(theme.tokens()["soft"])
            painter.drawText(QRectF(self._place(0)).adjusted(8, 0, 0, 0), MIDDLE, self._empty)
        focused = self.focused()
        for index, one in enumerate(self._lines):
            self._paint_row(painter, one, QRectF(self._place(index)), index, one.key == focused)
        painter.end()

    def _paint_row(self, painter: QPainter, one: SideLine, box: QRectF, index: int, focused: bool) -> None:
        t = theme.tokens()
        if focused or one.key == self._picked:
            painter.setPen(theme.pen(t["meas" if focused else "accent"], 2))
            painter.setBrush(t["sel" if focused else "accentbg"])
            painter.drawRoundedRect(box.adjusted(1, 1, -1, -1), 4, 4)
        elif index:
            painter.setPen(theme.pen(t["line"], 1))
            painter.drawLine(box.topLeft() + QPointF(8, 0), box.topRight() - QPointF(8, 0))
        inner = box.adjusted(8, 3, -8, -3)
        painter.setFont(theme.font(13, 700))
        figure = painter.fontMetrics().horizontalAdvance(one.figure)
        bar = theme.scaled(84) if self._bars else 0
        painter.setPen(t["ink"])
        painter.drawText(inner, RIGHT, one.figure)
        if self._bars:
            track = QRectF(inner.right() - figure - bar - 12, inner.center().y() - 5, bar, 10)
            painter.fillRect(track, t["well"])
            filled = QRectF(track.left(), track.top(), bar * max(min(one.share, 1.0), 0.02), track.height())
            painter.fillRect(filled, t["accent"])
        upper = QRectF(inner.left(), inner.top(), inner.width() - figure - bar - 24, inner.height() / 2)
        lower = upper.translated(0, inner.height() / 2)
        first, second = (one.label, one.below) if self._bars else (one.below, one.label)
        painter.setFont(theme.font(13, 600))
        name = painter.fontMetrics().elidedText(first, Qt.TextElideMode.ElideRight, int(upper.width()))
        painter.drawText(upper if self._bars else lower, MIDDLE, name)
        painter.setFont(theme.font(12))
        painter.setPen(t["soft"])
        painter.drawText(lower if self._bars else upper, MIDDLE, second)


NOTHING = _("Nothing on the shelf widens it on its tightest side.")

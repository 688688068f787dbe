"""Causes, most likely first, with what speaks for and against each; below them what does not fit."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRect, QRectF, Qt
from PyQt6.QtGui import QFontMetrics, QPainter, QPaintEvent
from PyQt6.QtWidgets import QWidget

from zeotherm.desk.style import theme
from zeotherm.desk.views.intake.shown import CauseRow
from zeotherm.desk.widgets.chips import draw_sign
from zeotherm.desk.widgets.line import wrapped
from zeotherm.desk.widgets.rows import RowsWidget
from zeotherm.wording.language import _

NAME, LINE, PAD = 24, 20, 7
BAR = 66
NOTE_LINES = 3
ROOMY = 320  # px of width below which bars are short
LEFT = 16


class CauseList(RowsWidget):
    """Paints cause rows and notes; each cause is a row for the keyboard."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(_("Causes, most likely first"), parent)
        self._causes: tuple[CauseRow, ...] = ()
        self._notes: tuple[tuple[str, str, bool], ...] = ()
        self._places: list[QRect] = []
        self._lines: list[list[tuple[int, str]]] = []
        self._names: list[list[str]] = []
        self._bar = self._share = self._foot = 0

    def show_causes(self, causes: tuple[CauseRow, ...], notes: tuple[tuple[str, str, bool], ...]) -> None:
        self._causes, self._notes = causes, notes
        self.lay_out()
        self.update()

    def lay_out(self) -> None:
        wide = self.width() - LEFT - 40
        metrics = QFontMetrics(theme.font(13))
        y, self._places, self._lines, self._names = 4, [], [], []
        self._bar = theme.scaled(BAR if self.width() > ROOMY else BAR / 3)
        bold = QFontMetrics(theme.font(14, 700))
        self._share = max([theme.scaled(38), *(bold.horizontalAdvance(row.share) + 4 for row in self._causes)])
        for row in self._causes:
            name = wrapped(bold, row.label, self.width() - 2 * LEFT - self._bar - self._share - 28, 2)
            lines = [
                (sign.way if index == 0 else 9, part)
                for sign in row.signs
                for index, part in enumerate(wrapped(metrics, sign.text, wide, 2))
            ]
            high = theme.scaled(NAME * len(name) + LINE * len(lines) + 2 * PAD)
            self._places.append(QRect(6, y, self.width() - 12, high))
            self._lines.append(lines)
            self._names.append(name)
            y += high + 2
        self._foot = y
        for head, text, _wrong in self._notes:
            count = len(wrapped(QFontMetrics(theme.font(12)), text, wide + 20, NOTE_LINES))
            y += theme.scaled((22 if head else 2) + 17 * count) + 4
        self.setMinimumHeight(y + 6)
        self.place_rows(
            [(row.key, row.spoken, row.tip, place) for row, place in zip(self._causes, self._places, strict=True)]
        )

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        for index, row in enumerate(self._causes):
            self._paint_cause(painter, row, QRectF(self._places[index]), self._names[index], self._lines[index])
        y = float(self._foot) if self._causes else 6.0
        for note in self._notes:
            y = self._paint_note(painter, note, y)
        painter.end()

    def _paint_cause(
        self, painter: QPainter, row: CauseRow, box: QRectF, names: list[str], lines: list[tuple[int, str]]
    ) -> None:
        t = theme.tokens()
        if row.first or row.key == self.focused():
            painter.setPen(theme.pen(t["meas" if row.key == self.focused() else "accent"], 1.6))
            painter.setBrush(t["accentbg" if row.decided else "panel"])
            painter.drawRoundedRect(box.adjusted(1, 1, -1, -1), 4, 4)
        else:
            painter.setPen(theme.pen(t["line"], 1))
            painter.drawLine(QPointF(box.left() + 10, box.bottom()), QPointF(box.right() - 10, box.bottom()))
        top = box.top() + theme.scaled(PAD)
        high = theme.scaled(NAME)
        right = box.right() - 12
        share = QRectF(right - self._share, top, self._share, high)
        bar = QRectF(share.left() - self._bar - 6, top + high / 2 - 4, self._bar, 8)
        painter.setPen(t["ink"])
        painter.setFont(theme.font(14, 700 if row.first else 600))
        for index, name in enumerate(names):
            place = QRectF(box.left() + LEFT - 6, top + high * index, bar.left() - box.left() - LEFT, high)
            painter.drawText(place, Qt.AlignmentFlag.AlignVCenter, name)
        painter.fillRect(bar, t["well"])
        painter.fillRect(QRectF(bar.left(), bar.top(), bar.width() * row.bar, bar.height()), t["accent"])
        painter.setFont(theme.font(14 if row.first else 13, 700))
        painter.drawText(share, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, row.share)
        painter.setFont(theme.font(13))
        for index, (way, line) in enumerate(lines):
            y = top + high * len(names) + theme.scaled(LINE) * index
            if way != 9:
                draw_sign(painter, way, QPointF(box.left() + LEFT + 1, y + theme.scaled(LINE) / 2))
            painter.setPen(t["soft" if way == 0 else "ink"])
            place = QRectF(box.left() + LEFT + 14, y, box.width() - LEFT - 20, theme.scaled(LINE))
            painter.drawText(place, Qt.AlignmentFlag.AlignVCenter, line)

    def _paint_note(self, painter: QPainter, note: tuple[str, str, bool], y: float) -> float:
        t = theme.tokens()
        head, text, wrong = note
        wide = self.width() - LEFT - 20
        lines = wrapped(QFontMetrics(theme.font(12)), text, wide, NOTE_LINES)
        above = 22 if head else 2
        painter.setFont(theme.font(13, 700))
        painter.setPen(t["close" if wrong else "ink"])
        painter.drawText(QRectF(LEFT, y + 4, wide, theme.scaled(20)), Qt.AlignmentFlag.AlignVCenter, head)
        painter.setFont(theme.font(12))
        painter.setPen(t["soft"])
        for index, line in enumerate(lines):
            box = QRectF(LEFT, y + theme.scaled(above + 17 * index), wide, theme.scaled(17))
            painter.drawText(box, Qt.AlignmentFlag.AlignVCenter, line)
        return y + theme.scaled(above + 17 * len(lines)) + 4

"""Causes, most likely first, with what speaks for and against each; below them what does not fit."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRect, QRectF, Qt
from PyQt6.QtGui import QFontMetrics, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QWidget

from zeotherm.desk import theme
from zeotherm.desk.causeview import CauseRow
from zeotherm.desk.widgets.chips import draw_sign
from zeotherm.desk.widgets.rows import RowsWidget
from zeotherm.wording.language import _

NAME, LINE, PAD = 24, 20, 7
BAR, SHARE = 66, 70
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

    def show_causes(self, causes: tuple[CauseRow, ...], notes: tuple[tuple[str, str, bool], ...]) -> None:
        self._causes, self._notes = causes, notes
        self.lay_out()
        self.update()

    def lay_out(self) -> None:
        wide = self.width() - LEFT - 40
        metrics = QFontMetrics(theme.font(13))
        y, self._places, self._lines = 4, [], []
        for row in self._causes:
            lines = [
                (sign.way if index == 0 else 9, part)
                for sign in row.signs
                for index, part in enumerate(_wrapped(metrics, sign.text, wide, 2))
            ]
            high = theme.scaled(NAME + LINE * len(lines) + 2 * PAD)
            self._places.append(QRect(6, y, self.width() - 12, high))
            self._lines.append(lines)
            y += high + 2
        self._foot = y
        for head, text, _wrong in self._notes:
            count = len(_wrapped(QFontMetrics(theme.font(12)), text, wide + 20, NOTE_LINES))
            y += theme.scaled((22 if head else 2) + 17 * count) + 4
        self.setMinimumHeight(y + 6)
        self.place_rows(
            [(row.key, row.spoken, row.tip, place) for row, place in zip(self._causes, self._places, strict=True)]
        )

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        for row, place, lines in zip(self._causes, self._places, self._lines, strict=True):
            self._paint_cause(painter, row, QRectF(place), lines)
        y = float(self._foot) if self._causes else 6.0
        for note in self._notes:
            y = self._paint_note(painter, note, y)
        painter.end()

    def _paint_cause(self, painter: QPainter, row: CauseRow, box: QRectF, lines: list[tuple[int, str]]) -> None:
        t = theme.tokens()
        if row.first or row.key == self.focused():
            painter.setPen(QPen(t["meas" if row.key == self.focused() else "accent"], 1.6))
            painter.setBrush(t["accentbg" if row.decided else "panel"])
            painter.drawRoundedRect(box.adjusted(1, 1, -1, -1), 4, 4)
        else:
            painter.setPen(QPen(t["line"], 1))
            painter.drawLine(QPointF(box.left() + 10, box.bottom()), QPointF(box.right() - 10, box.bottom()))
        top = box.top() + theme.scaled(PAD)
        high = theme.scaled(NAME)
        right = box.right() - 12
        room = theme.scaled(SHARE if self.width() > ROOMY or row.bar > 0.99 else 38)
        share = QRectF(right - room, top, room, high)
        wide = theme.scaled(BAR if self.width() > ROOMY else BAR / 3)
        bar = QRectF(share.left() - wide - 6, top + high / 2 - 4, wide, 8)
        painter.setPen(t["ink"])
        painter.setFont(theme.font(14, 700 if row.first else 600))
        name = QRectF(box.left() + LEFT - 6, top, bar.left() - box.left() - LEFT, high)
        text = painter.fontMetrics().elidedText(row.label, Qt.TextElideMode.ElideRight, int(name.width()))
        painter.drawText(name, Qt.AlignmentFlag.AlignVCenter, text)
        painter.fillRect(bar, t["well"])
        painter.fillRect(QRectF(bar.left(), bar.top(), bar.width() * row.bar, bar.height()), t["accent"])
        painter.setFont(theme.font(14 if row.first else 13, 700))
        painter.drawText(share, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, row.share)
        painter.setFont(theme.font(13))
        for index, (way, line) in enumerate(lines):
            y = top + high + theme.scaled(LINE) * index
            if way != 9:
                draw_sign(painter, way, QPointF(box.left() + LEFT + 1, y + theme.scaled(LINE) / 2))
            painter.setPen(t["soft" if way == 0 else "ink"])
            place = QRectF(box.left() + LEFT + 14, y, box.width() - LEFT - 20, theme.scaled(LINE))
            painter.drawText(place, Qt.AlignmentFlag.AlignVCenter, line)

    def _paint_note(self, painter: QPainter, note: tuple[str, str, bool], y: float) -> float:
        t = theme.tokens()
        head, text, wrong = note
        wide = self.width() - LEFT - 20
        lines = _wrapped(QFontMetrics(theme.font(12)), text, wide, NOTE_LINES)
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


def _wrapped(metrics: QFontMetrics, text: str, width: int, most: int) -> list[str]:
    """A text in lines of a width; the last one is cut with an ellipsis."""
    lines, words = [""], text.split()
    for index, word in enumerate(words):
        longer = f"{lines[-1]} {word}".strip()
        if metrics.horizontalAdvance(longer) <= width or not lines[-1]:
            lines[-1] = longer
        elif len(lines) < most:
            lines.append(word)
        else:
            rest = f"{lines[-1]} {' '.join(words[index:])}"
            lines[-1] = metrics.elidedText(rest, Qt.TextElideMode.ElideRight, width)
            break
    return lines

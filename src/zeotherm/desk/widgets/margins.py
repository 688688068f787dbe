"""Margins, worst first: state, part, value, room about a post."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRect, QRectF, QSize, Qt
from PyQt6.QtGui import QFontMetrics, QPainter, QPaintEvent
from PyQt6.QtWidgets import QWidget

from zeotherm.core.judgement.margins import State
from zeotherm.desk.style import theme
from zeotherm.desk.style.shapes import draw_state, state_colour, text_colour
from zeotherm.desk.viewmodels import MarginRow
from zeotherm.desk.widgets.painted import paint_head
from zeotherm.desk.widgets.rows import RowsWidget
from zeotherm.wording.language import _

HEAD = 32
ROW = 25
FOOT = 22
BAR = 30
LABEL = 86  # px of a label at least that are kept beside a value, before scaling
AIR = 10  # px right of the last two columns, before scaling


class Margins(RowsWidget):
    """Paints margin rows; as many as fit, the rest are counted."""

    def __init__(self, parent: QWidget | None = None, title: str = _("Margins, worst first")) -> None:
        super().__init__(title, parent)
        self._title = title
        self._all: tuple[MarginRow, ...] = ()
        self._compact = False
        self._most = 7
        self._widths = (0, 0)  # px of the last two columns: the band, the words
        self.setMinimumHeight(self._wanted())

    def show_rows(self, rows: tuple[MarginRow, ...]) -> None:
        self._all = rows
        self.lay_out()
        self.update()

    def set_compact(self, compact: bool, most: int) -> None:
        """Without values (the ladder has them) and with fewer rows."""
        self._compact, self._most = compact, most
        self.setMinimumHeight(self._wanted())
        self.setMaximumHeight(self._wanted())
        self.lay_out()

    def sizeHint(self) -> QSize:
        return QSize(400, self._wanted())

    def _wanted(self) -> int:
        return theme.scaled(HEAD + ROW * self._most + FOOT) + 6

    def _shown(self) -> tuple[MarginRow, ...]:
        return self._all[: self._most]

    def _place(self, index: int) -> QRect:
        return QRect(6, theme.scaled(HEAD + ROW * index), self.width() - 12, theme.scaled(ROW))

    def lay_out(self) -> None:
        self.place_rows([(row.key, row.spoken, row.tip, self._place(index)) for index, row in enumerate(self._shown())])

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        head = QRectF(16, 4, self.width() - 32, theme.scaled(HEAD) - 6)
        paint_head(painter, head, self._title, _("room to limit, 95 % band"))
        self._widths = self._measured()
        focused = self.focused()
        for index, row in enumerate(self._shown()):
            self._paint_row(painter, row, QRectF(self._place(index)), index, row.key == focused)
        self._paint_rest(painter)
        painter.end()

    def _measured(self) -> tuple[int, int]:
        """The widths that the longest band and the longest words take [px]."""
        band, words = QFontMetrics(theme.font(12)), QFontMetrics(theme.font(13, 700))
        air = theme.scaled(AIR)
        return (
            max((band.horizontalAdvance(row.band) for row in self._shown()), default=0) + air,
            max((words.horizontalAdvance(row.room) for row in self._shown()), default=0) + air,
        )

    def _paint_row(self, painter: QPainter, row: MarginRow, box: QRectF, index: int, focused: bool) -> None:
        t = theme.tokens()
        if focused:
            painter.setPen(theme.pen(t["meas"], 2))
            painter.setBrush(t["sel"])
            painter.drawRoundedRect(box.adjusted(1, 1, -1, -1), 3, 3)
        elif index:
            painter.setPen(theme.pen(t["line"], 1))
            painter.drawLine(box.topLeft() + QPointF(10, 0), box.topRight() - QPointF(10, 0))
        draw_state(painter, row.state, QPointF(box.left() + 18, box.center().y()), 6)
        strong = row.state is not State.CLEAR
        painter.setPen(text_colour(row.state))
        painter.setFont(theme.font(13, 600 if strong else 400))
        band_width, words_width = self._widths
        post = box.right() - band_width - words_width - 22
        end = post + 20 if self._compact else post - (BAR if row.bar > 0 else 0)
        room, text = int(end - box.left() - 38), painter.fontMetrics()
        value = text.horizontalAdvance(row.value) + 8 if row.value else 0
        least = theme.scaled(LABEL)
        beside = int(post - BAR - 6 - value - box.left() - 34)
        if self._compact or beside < min(text.horizontalAdvance(row.label), least):
            value = 0
        label = text.elidedText(row.label, Qt.TextElideMode.ElideRight, beside if value else max(room, 60))
        painter.drawText(box.adjusted(34, 0, 0, 0), Qt.AlignmentFlag.AlignVCenter, label)
        if value:  # whole, or not at all: the ladder has it, too
            painter.setPen(t["ink"])
            values = QRectF(post - BAR - 6 - value, box.top(), value, box.height())
            painter.drawText(values, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, row.value)
        if not self._compact:
            self._paint_bar(painter, row, post, box)
        painter.setPen(text_colour(row.state))
        painter.setFont(theme.font(13, 700 if strong else 500))
        words = QRectF(box.right() - band_width - words_width, box.top(), words_width - 4, box.height())
        painter.drawText(words, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, row.room)
        painter.setPen(t["soft"])
        painter.setFont(theme.font(12))
        band = QRectF(box.right() - band_width, box.top(), band_width - 8, box.height())
        painter.drawText(band, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, row.band)

    def _paint_bar(self, painter: QPainter, row: MarginRow, post: float, box: QRectF) -> None:
        length = min(abs(row.bar) * BAR, 20 if row.bar < 0 else BAR)
        left = post if row.bar < 0 else post - length
        painter.fillRect(QRectF(left, box.center().y() - 5, length, 10), state_colour(row.state))
        painter.setPen(theme.pen(theme.tokens()["ink"], 2))
        painter.drawLine(QPointF(post, box.center().y() - 8), QPointF(post, box.center().y() + 8))

    def _paint_rest(self, painter: QPainter) -> None:
        rest = self._all[self._most :]
        if not rest:
            return
        painter.setFont(theme.font(12))
        painter.setPen(theme.tokens()["soft"])
        box = QRectF(16, theme.scaled(HEAD + ROW * self._most), self.width() - 32, theme.scaled(FOOT))
        text = _("{count} more, next is {label}: {room}").format(
            count=len(rest), label=rest[0].label, room=rest[0].room
        )
        painter.drawText(box, Qt.AlignmentFlag.AlignVCenter, text)

"""The slots of a build from the spool down; the open one shows its shelf and is the one box."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRect, QRectF, Qt
from PyQt6.QtGui import QPainter, QPaintEvent
from PyQt6.QtWidgets import QWidget

from zeotherm.desk.style import theme
from zeotherm.desk.style.shapes import draw_state, text_colour
from zeotherm.desk.views.choose.build.shown import SlotLine
from zeotherm.desk.widgets.painted import paint_head
from zeotherm.desk.widgets.rows import RowsWidget
from zeotherm.wording.language import _

HEAD, SLOT, PART = 30, 40, 27
MIDDLE = Qt.AlignmentFlag.AlignVCenter
RIGHT = Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight


class SlotList(RowsWidget):
    """Paints slots, and below the open one the parts that may go into it."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(_("Slots of the hotend"), parent)
        self._lines: tuple[SlotLine, ...] = ()

    def show_lines(self, lines: tuple[SlotLine, ...]) -> None:
        self._lines = lines
        self.setMinimumHeight(self._top(len(lines)) + 8)
        self.lay_out()
        self.update()

    def middle_of(self, slot: str) -> int | None:
        """The height at which a slot's row has its middle [px]; none: it is not shown."""
        index = next((n for n, line in enumerate(self._lines) if line.key == slot), None)
        return None if index is None else self._place(index).center().y()

    def _top(self, index: int) -> int:
        return theme.scaled(HEAD) + sum(theme.scaled(PART if one.is_part else SLOT) for one in self._lines[:index])

    def _place(self, index: int) -> QRect:
        high = theme.scaled(PART if self._lines[index].is_part else SLOT)
        return QRect(6, self._top(index), self.width() - 8, high)

    def lay_out(self) -> None:
        self.place_rows([
            (one.key, one.spoken, one.tip or one.part, self._place(n)) for n, one in enumerate(self._lines)
        ])  # fmt: skip

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        paint_head(painter, QRectF(16, 2, self.width() - 22, theme.scaled(HEAD) - 6), _("Fitted"), _("weakest figure"))
        self._paint_open(painter)
        focused = self.focused()
        for index, line in enumerate(self._lines):
            box = QRectF(self._place(index))
            if line.key == focused:
                painter.setPen(theme.pen(theme.tokens()["meas"], 2))
                painter.setBrush(theme.tokens()["sel"])
                painter.drawRoundedRect(box.adjusted(3, 1, -3, -1), 3, 3)
            if line.is_part:
                self._paint_part(painter, line, box, focused=line.key == focused)
            else:
                self._paint_slot(painter, line, box, first=index == 0)
        painter.end()

    def _paint_open(self, painter: QPainter) -> None:
        """The box about the open slot and its shelf."""
        parts = [n for n, one in enumerate(self._lines) if one.is_part]
        if parts:
            box = QRectF(self._place(parts[0] - 1).united(self._place(parts[-1])))
            painter.setPen(theme.pen(theme.tokens()["accent"], 2))
            painter.setBrush(theme.tokens()["panel"])
            painter.drawRoundedRect(box.adjusted(1, 1, -1, 2), 5, 5)

    def _paint_slot(self, painter: QPainter, line: SlotLine, box: QRectF, *, first: bool) -> None:
        t = theme.tokens()
        if not first:
            painter.setPen(theme.pen(t["line"], 1))
            painter.drawLine(box.topLeft() + QPointF(10, 0), box.topRight() - QPointF(8, 0))
        inner = box.adjusted(12, 3, -10, -3)
        upper = QRectF(inner.left(), inner.top(), inner.width(), inner.height() / 2)
        lower = upper.translated(0, inner.height() / 2)
        painter.setFont(theme.font(12))
        painter.setPen(t["soft"])
        painter.drawText(upper, MIDDLE, line.head)
        painter.setFont(theme.font(13, 600))
        painter.setPen(text_colour(line.state))
        painter.drawText(upper, RIGHT, line.figure)
        if line.figure:
            wide = painter.fontMetrics().horizontalAdvance(line.figure)
            draw_state(painter, line.state, QPointF(upper.right() - wide - 13, upper.center().y()), 5.5)
        painter.setPen(t["accent" if line.changed else "ink"])
        name = painter.fontMetrics().elidedText(line.part, Qt.TextElideMode.ElideRight, int(lower.width()))
        painter.drawText(lower, MIDDLE, name)

    def _paint_part(self, painter: QPainter, line: SlotLine, box: QRectF, *, focused: bool) -> None:
        t = theme.tokens()
        inner = box.adjusted(8, 0, -8, 0)
        if line.taken and not focused:
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(t["accentbg"])
            painter.drawRoundedRect(inner.adjusted(0, 1, 0, -1), 4, 4)
        painter.setFont(theme.font(12))
        painter.setPen(t["soft"])
        painter.drawText(inner.adjusted(0, 0, -6, 0), RIGHT, line.price)
        price = theme.scaled(44)
        draw_state(painter, line.state, QPointF(inner.left() + 12, inner.center().y()), 5.5)
        room = inner.adjusted(theme.scaled(26), 0, -price, 0)
        figure = painter.fontMetrics().elidedText(line.figure, Qt.TextElideMode.ElideRight, int(0.46 * room.width()))
        painter.setPen(text_colour(line.state))
        painter.drawText(room.adjusted(0, 0, -8, 0), RIGHT, figure)
        used = painter.fontMetrics().horizontalAdvance(figure) + 16
        painter.setFont(theme.font(13, 600 if line.taken else 400))
        painter.setPen(t["ink"])
        name = painter.fontMetrics().elidedText(line.part, Qt.TextElideMode.ElideRight, int(room.width() - used))
        painter.drawText(room, MIDDLE, name)

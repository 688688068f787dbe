"""The steps of a work order: what is behind, what is at hand, what is to come, and what hurts."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRect, QRectF, Qt
from PyQt6.QtGui import QPainter, QPaintEvent
from PyQt6.QtWidgets import QWidget

from zeotherm.core.judgement.margins import State
from zeotherm.desk.style import theme
from zeotherm.desk.style.shapes import draw_done, draw_hazard, draw_state
from zeotherm.desk.views.do.shown import StepRow
from zeotherm.desk.widgets.line import wrapped
from zeotherm.desk.widgets.rows import RowsWidget
from zeotherm.wording.language import _

ROW, NOW, HEAD = 42, 52, 24


class OrderList(RowsWidget):
    """Paints `StepRow`s; the one at hand stands in a box."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(_("Steps of the work order"), parent)
        self._rows_view: tuple[StepRow, ...] = ()
        self._shown = ""
        self._places: list[tuple[StepRow, QRect]] = []

    def show_rows(self, rows: tuple[StepRow, ...], shown: str) -> None:
        """Show the steps; shown: the one whose card is beside them."""
        self._rows_view, self._shown = rows, shown
        self.lay_out()
        self.update()

    def place_of(self, key: str) -> QRect:
        """Where a row stands."""
        return next((box for row, box in self._places if row.key == key), QRect())

    def lay_out(self) -> None:
        self._places, y = [], 4
        for row in self._rows_view:
            y += theme.scaled(HEAD) if row.head else 0
            high = theme.scaled(
                NOW if row.status in ("now", "barred") or (row.below and row.key == self._shown) else ROW
            )
            self._places.append((row, QRect(6, y, self.width() - 12, high)))
            y += high
        self.setMinimumHeight(y + 8)
        self.place_rows([(row.key, row.spoken, row.below or row.label, box) for row, box in self._places])

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        for row, box in self._places:
            if row.head:
                painter.setPen(theme.tokens()["soft"])
                painter.setFont(theme.font(12, 600))
                head = QRectF(box.left() + 8, box.top() - theme.scaled(HEAD) + 4, box.width() - 8, theme.scaled(20))
                painter.drawText(head, Qt.AlignmentFlag.AlignVCenter, row.head)
            self._paint_row(painter, row, box)
        painter.end()

    def _paint_row(self, painter: QPainter, row: StepRow, box: QRect) -> None:
        t = theme.tokens()
        inner = QRectF(box).adjusted(1, 2, -1, -2)
        if row.status == "now":
            painter.setPen(theme.pen(t["accent"], 1.6))
            painter.setBrush(t["panel"])
            painter.drawRoundedRect(inner, 4, 4)
        elif row.key == self._shown:
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(t["sel"])
            painter.drawRoundedRect(inner, 4, 4)
        else:
            painter.setPen(theme.pen(t["line"], 1))
            painter.drawLine(QPointF(inner.left() + 8, inner.bottom() + 2), QPointF(inner.right(), inner.bottom() + 2))
        if self.focused() == row.key:
            painter.setPen(theme.pen(t["meas"], 2))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(inner, 4, 4)
        self._paint_mark(painter, row, QPointF(inner.left() + 18, box.center().y() + 0.5))
        self._paint_words(painter, row, inner)

    def _paint_mark(self, painter: QPainter, row: StepRow, centre: QPointF) -> None:
        t = theme.tokens()
        if row.status == "done":
            draw_done(painter, centre, 10)
            return
        if row.status == "barred":
            draw_state(painter, State.UNKNOWN, centre, 9)
            return
        now = row.status == "now"
        painter.setPen(theme.pen(t["accent" if now else "rule"], 1.4))
        painter.setBrush(t["accent"] if now else Qt.BrushStyle.NoBrush)
        painter.drawEllipse(centre, 11, 11)
        painter.setPen(t["onaccent" if now else "soft"])
        painter.setFont(theme.font(12, 700))
        painter.drawText(QRectF(centre.x() - 12, centre.y() - 12, 24, 24), Qt.AlignmentFlag.AlignCenter, row.number)

    def _paint_words(self, painter: QPainter, row: StepRow, box: QRectF) -> None:
        t = theme.tokens()
        right = box.right() - 6
        for sign in reversed(row.signs):
            draw_hazard(painter, sign, QRectF(right - 20, box.center().y() - 10, 20, 20))
            right -= 24
        painter.setFont(theme.font(12))
        aside = painter.fontMetrics().horizontalAdvance(row.aside) + 6 if row.aside else 0
        painter.setPen(t["soft"])
        painter.drawText(
            QRectF(right - aside - 2, box.top(), aside, box.height()),
            Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, row.aside,
        )  # fmt: skip
        left, wide = box.left() + 38, right - aside - box.left() - 46
        two = bool(row.below) and box.height() > theme.scaled(ROW) - 2
        painter.setFont(theme.font(13, 700 if row.status == "now" else 500))
        painter.setPen(t["soft" if row.status in ("done", "barred") else "ink"])
        lines = wrapped(painter.fontMetrics(), row.label, int(wide), 1 if two else 2)
        top = box.top() + (4 if two else 0)
        high = theme.scaled(20) if two else box.height()
        painter.drawText(QRectF(left, top, wide, high), Qt.AlignmentFlag.AlignVCenter, "\n".join(lines))
        if two:
            painter.setFont(theme.font(12))
            painter.setPen(t["close" if row.status == "barred" else "soft"])
            below = painter.fontMetrics().elidedText(row.below, Qt.TextElideMode.ElideRight, int(wide + aside))
            painter.drawText(
                QRectF(left, top + theme.scaled(20), wide + aside, theme.scaled(18)),
                Qt.AlignmentFlag.AlignVCenter,
                below,
            )

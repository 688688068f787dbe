"""Every filament on one scale of the print's air: what it wants, and where its cold end creeps on this machine."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRect, QRectF, Qt
from PyQt6.QtGui import QPainter, QPaintEvent
from PyQt6.QtWidgets import QWidget

from zeotherm.desk.parts.enclosure.size_shown import LEAST_C, MOST_C, WarmthRow, WarmthView
from zeotherm.desk.style import theme
from zeotherm.desk.style.shapes import draw_state, draw_triangle, text_colour
from zeotherm.desk.widgets.painted import paint_head
from zeotherm.desk.widgets.rows import RowsWidget
from zeotherm.wording.language import _
from zeotherm.wording.numbers import plain

HEAD, AXIS, ROW, FLAGS = 30, 22, 40, 56
NAME = 146  # px for the filaments' names


class WarmthChart(RowsWidget):
    """Paints a row a filament."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(_("How warm the print's air may be"), parent)
        self.view: WarmthView | None = None
        self.setMinimumHeight(theme.scaled(HEAD + AXIS + FLAGS + 7 * ROW))

    def show_view(self, view: WarmthView) -> None:
        self.view = view
        self.setMinimumHeight(theme.scaled(HEAD + AXIS + FLAGS + ROW * max(len(view.rows), 5)))
        self.lay_out()
        self.update()

    @property
    def _plot(self) -> QRectF:
        top = theme.scaled(HEAD + FLAGS)
        high = theme.scaled(ROW) * max(len(self.view.rows) if self.view is not None else 0, 1)
        left = theme.scaled(NAME) + 16
        return QRectF(left, top, max(self.width() - left - 18, 60), high)

    def _x(self, value: float) -> float:
        share = (min(max(value, LEAST_C), MOST_C) - LEAST_C) / (MOST_C - LEAST_C)
        return self._plot.left() + share * self._plot.width()

    def _place(self, index: int) -> QRect:
        return QRect(10, int(self._plot.top()) + theme.scaled(ROW) * index, self.width() - 20, theme.scaled(ROW))

    def lay_out(self) -> None:
        rows = self.view.rows if self.view is not None else ()
        self.place_rows([(row.key, row.spoken, row.spoken, self._place(n)) for n, row in enumerate(rows)])

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        head = QRectF(16, 2, self.width() - 32, theme.scaled(HEAD) - 4)
        paint_head(painter, head, _("How warm the print's air may be"), _("bar: wanted; hatched: cold end creeps"))
        if self.view is not None:
            self._paint_scale(painter, self.view)
            for index, row in enumerate(self.view.rows):
                self._paint_row(painter, row, QRectF(self._place(index)), index)
            self._paint_flags(painter, self.view)
            for index, row in enumerate(self.view.rows):
                self._paint_said(painter, row, QRectF(self._place(index)))
        painter.end()

    def _paint_scale(self, painter: QPainter, view: WarmthView) -> None:
        t, plot = theme.tokens(), self._plot
        painter.setFont(theme.font(12))
        for value in range(20, int(MOST_C) + 1, 10):
            x = self._x(value)
            painter.setPen(theme.pen(t["line"], 1))
            painter.drawLine(QPointF(x, plot.top()), QPointF(x, plot.bottom()))
            if value % 20 == 0:
                painter.setPen(t["soft"])
                box = QRectF(x - 30, plot.bottom() + 2, 60, theme.scaled(AXIS) - 4)
                painter.drawText(box, Qt.AlignmentFlag.AlignCenter, f"{value} °C" if value == 20 else str(value))

    def _paint_row(self, painter: QPainter, row: WarmthRow, box: QRectF, index: int) -> None:
        t, plot = theme.tokens(), self._plot
        if self.focused() == row.key:
            painter.setPen(theme.pen(t["meas"], 2))
            painter.setBrush(t["sel"])
            painter.drawRoundedRect(box.adjusted(1, 1, -1, -1), 3, 3)
        elif index:
            painter.setPen(theme.pen(t["line"], 1))
            painter.drawLine(box.topLeft(), box.topRight())
        middle = box.top() + 0.36 * box.height()
        draw_state(painter, row.state, QPointF(box.left() + 12, box.center().y()), 6)
        painter.setFont(theme.font(13, 600))
        painter.setPen(text_colour(row.state))
        name = QRectF(box.left() + 25, box.top(), theme.scaled(NAME) - 25, box.height())
        label = painter.fontMetrics().elidedText(row.label, Qt.TextElideMode.ElideMiddle, int(name.width()) - 4)
        painter.drawText(name, Qt.AlignmentFlag.AlignVCenter, label)
        if row.creeps is not None:
            left = self._x(row.creeps)
            beyond = QRectF(left, box.top() + 3, plot.right() - left, 0.6 * box.height())
            painter.fillRect(beyond, t["overbg"])
            painter.setPen(theme.pen(t["over"], 1))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            step = 7
            painter.save()
            painter.setClipRect(beyond)
            for n in range(-6, int(beyond.width() / step) + 2):
                painter.drawLine(QPointF(left + n * step, beyond.bottom()),
                                 QPointF(left + n * step + beyond.height(), beyond.top()))  # fmt: skip
            painter.restore()
            painter.setPen(theme.pen(t["over"], 2))
            painter.drawLine(QPointF(left, beyond.top()), QPointF(left, beyond.bottom()))
            low, high = self._x(row.creeps - row.band), self._x(row.creeps + row.band)
            painter.drawLine(QPointF(low, middle), QPointF(high, middle))
            for x in (low, high):
                painter.drawLine(QPointF(x, middle - 4), QPointF(x, middle + 4))
        bar = QRectF(self._x(row.low), middle - 5, self._x(row.high) - self._x(row.low), 10)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(t["accent"])
        painter.drawRoundedRect(bar, 3, 3)

    def _paint_said(self, painter: QPainter, row: WarmthRow, box: QRectF) -> None:
        """The row in words, over the flags' lines."""
        t, plot = theme.tokens(), self._plot
        painter.setFont(theme.font(12))
        text = _("wanted {low} to {high}; {said}").format(low=plain(row.low, 0), high=plain(row.high, 0), said=row.said)
        wide = painter.fontMetrics().horizontalAdvance(text)
        said = QRectF(plot.left(), box.bottom() - 0.42 * box.height(), wide + 4, 0.38 * box.height())
        painter.fillRect(said, t["sel"] if self.focused() == row.key else t["sheet"])
        painter.setPen(t["soft"])
        painter.drawText(said, Qt.AlignmentFlag.AlignVCenter, text)

    def _paint_flags(self, painter: QPainter, view: WarmthView) -> None:
        """Where the case stands, where it is wanted, where the first part gives in: each flag on a line of its own."""
        t, plot = theme.tokens(), self._plot
        flags = [(view.air, _("case now {value}"), "ink", 0), (view.wanted, _("wanted {value}"), "meas", 1)]
        if view.weakest is not None:
            flags.append((view.weakest, view.weakest_said + " {value}", "over", 2))
        painter.setFont(theme.font(12, 600))
        for value, text, token, line in flags:
            x, y = self._x(value), theme.scaled(HEAD) + theme.scaled(17) * line + 6
            painter.setPen(theme.pen(t[token], 2 if line == 0 else 1, Qt.PenStyle.SolidLine if line == 0 else
                                Qt.PenStyle.DashLine))  # fmt: skip
            painter.drawLine(QPointF(x, y + 4), QPointF(x, plot.bottom()))
            painter.setBrush(t[token])
            draw_triangle(painter, QPointF(x, y + 2), 5)
            painter.setPen(t[token])
            told = text.format(value=f"{plain(value, 0)} °C")
            wide = painter.fontMetrics().horizontalAdvance(told)
            left = x + 8 if x + 8 + wide < plot.right() else x - 8 - wide
            box = QRectF(left, y - 8, wide + 2, 16)
            painter.fillRect(box, t["sheet"])
            painter.drawText(box, Qt.AlignmentFlag.AlignVCenter, told)

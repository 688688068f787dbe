"""Figures of runs: one row each, what changed, and whether it is real."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRect, QRectF, Qt
from PyQt6.QtGui import QColor, QFontMetrics, QKeyEvent, QKeySequence, QPainter, QPaintEvent
from PyQt6.QtWidgets import QWidget

from zeotherm.core.judgement.margins import State
from zeotherm.desk.qt import copy_text
from zeotherm.desk.style import theme
from zeotherm.desk.style.shapes import draw_done, draw_state
from zeotherm.desk.views.measure.runs_shown import FigureRow, RunsView
from zeotherm.desk.widgets.rows import RowsWidget
from zeotherm.wording.language import _

HEAD, ROW = 30, 26
CHANGE, REAL, REAL_NARROW = 142, 140, 48
NARROW = 580  # px below which the verdict is a shape and a short word


class FigureTable(RowsWidget):
    """Paints the figures of a `RunsView`; copies them as a table."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(_("Figures"), parent)
        self._view: RunsView | None = None
        self._pressed = ""

    def show_view(self, view: RunsView) -> None:
        self._view = view
        self.setMinimumHeight(theme.scaled(HEAD + ROW * max(len(view.figures), 1)) + 6)
        self.lay_out()
        self.update()

    def row(self, key: str) -> FigureRow | None:
        """The row of a key."""
        return next((row for row in self._view.figures if row.key == key), None) if self._view is not None else None

    def as_text(self) -> str:
        """The table with tabs, for any other program."""
        if self._view is None:
            return ""
        heads = [label for _number, _token, label in self._view.legend]
        lines = ["\t".join([_("Figures"), *heads, _("Change"), _("Is it real?")])]
        lines += ["\t".join([row.label, *row.values, row.change, row.verdict]) for row in self._view.figures]
        return "\n".join(lines) + "\n"

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and event.matches(QKeySequence.StandardKey.Copy):
            copy_text(self.as_text())
        else:
            super().keyPressEvent(event)

    def lay_out(self) -> None:
        self.place_rows(
            [(row.key, row.spoken, row.tip, self._place(index)) for index, row in enumerate(self._figures())]
        )

    @property
    def _narrow(self) -> bool:
        return self.width() < theme.scaled(NARROW)

    def _figures(self) -> tuple[FigureRow, ...]:
        return self._view.figures if self._view is not None else ()

    def _place(self, index: int) -> QRect:
        return QRect(10, theme.scaled(HEAD + ROW * index), self.width() - 20, theme.scaled(ROW))

    def _columns(self, count: int) -> tuple[float, float, float, float]:
        """Left edges: of the first value, of the change, of the verdict; and the width of a value."""
        compares = count > 1
        right = self.width() - 16
        verdict = right - (theme.scaled(REAL_NARROW if self._narrow else REAL) if compares else 0)
        change = verdict - (theme.scaled(CHANGE) if compares else 0)
        metrics = QFontMetrics(theme.font(13))
        longest = max((metrics.horizontalAdvance(text) for row in self._figures() for text in row.values), default=60)
        value = min(longest + 18, (change - 130) / max(count, 1))
        return max(change - value * count, 130), change, verdict, value

    def paintEvent(self, event: QPaintEvent | None) -> None:
        view = self._view
        if view is None:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        count = len(view.legend)
        columns = self._columns(count)
        self._paint_head(painter, view, columns)
        focused = self.focused()
        for index, row in enumerate(view.figures):
            box = QRectF(self._place(index))
            if row.key in (focused, self._pressed):
                painter.fillRect(box, theme.tokens()["sel"])
            self._paint_row(painter, row, box, columns)
            if row.key == focused:
                painter.setPen(theme.pen(theme.tokens()["meas"], 2))
                painter.setBrush(Qt.BrushStyle.NoBrush)
                painter.drawRect(box.adjusted(1, 1, -1, -1))
        painter.end()

    def _paint_head(self, painter: QPainter, view: RunsView, columns: tuple[float, float, float, float]) -> None:
        t = theme.tokens()
        first, change, verdict, width = columns
        painter.setFont(theme.font(14, 700))
        painter.setPen(t["ink"])
        height = theme.scaled(HEAD)
        painter.drawText(QRectF(16, 0, first - 16, height), Qt.AlignmentFlag.AlignVCenter, _("Figures"))
        painter.setFont(theme.font(13, 600))
        right = Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight
        for index, (number, token, _label) in enumerate(view.legend):
            painter.setPen(t[token])
            name = _("Run {number}").format(number=number)
            painter.drawText(QRectF(first + index * width, 0, width - 8, height), right, name)
        if len(view.legend) > 1:
            painter.setPen(t["ink"])
            painter.drawText(QRectF(change, 0, verdict - change - 12, height), right, _("Change"))
            question = _("Real?") if self._narrow else _("Is it real?")
            painter.drawText(QRectF(verdict + 2, 0, 150, height), Qt.AlignmentFlag.AlignVCenter, question)

    def _paint_row(
        self, painter: QPainter, row: FigureRow, box: QRectF, columns: tuple[float, float, float, float]
    ) -> None:
        t = theme.tokens()
        first, change, verdict, width = columns
        painter.setPen(theme.pen(t["line"], 1))
        painter.drawLine(QPointF(16, box.top()), QPointF(self.width() - 16, box.top()))
        real = row.real is True
        painter.setFont(theme.font(13, 600 if real else 400))
        painter.setPen(t["ink"])
        label = painter.fontMetrics().elidedText(row.label, Qt.TextElideMode.ElideRight, int(first - 22))
        painter.drawText(QRectF(16, box.top(), first - 20, box.height()), Qt.AlignmentFlag.AlignVCenter, label)
        right = Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight
        painter.setFont(theme.font(13))
        for index, value in enumerate(row.values):
            painter.drawText(QRectF(first + index * width, box.top(), width - 8, box.height()), right, value)
        if len(row.values) < 2:
            return
        painter.setFont(theme.font(13, 700 if real else 400))
        painter.setPen(t["ink" if real else "soft"])
        painter.drawText(QRectF(change, box.top(), verdict - change - 12, box.height()), right, row.change)
        centre = QPointF(verdict + 8, box.center().y())
        if real:
            draw_done(painter, centre, 6)
        elif row.real is False:
            draw_state(painter, State.UNKNOWN, centre, 6)
        if self._narrow and not real:
            return  # the shape says it, and the row's tip in words
        painter.setFont(theme.font(13))
        painter.setPen(QColor(t["ink" if real else "soft"]))
        place = QRectF(verdict + 22, box.top(), self.width() - verdict - 30, box.height())
        painter.drawText(place, Qt.AlignmentFlag.AlignVCenter, row.verdict)

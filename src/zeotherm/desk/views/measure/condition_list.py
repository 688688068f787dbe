"""What must be equal for runs to be comparable, and how each run was."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRect, QRectF, Qt
from PyQt6.QtGui import QPainter, QPaintEvent
from PyQt6.QtWidgets import QWidget

from zeotherm.core.judgement.margins import State
from zeotherm.core.runs.conditions import Match
from zeotherm.desk.style import theme
from zeotherm.desk.style.shapes import arrow_path, draw_done, draw_state
from zeotherm.desk.views.measure.runs_shown import ConditionRow
from zeotherm.desk.widgets.painted import paint_head
from zeotherm.desk.widgets.rows import RowsWidget
from zeotherm.wording.language import _

HEAD, ROW = 32, 25


class ConditionList(RowsWidget):
    """Paints conditions; Enter on one opens it."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(_("Same conditions?"), parent)
        self._all: tuple[ConditionRow, ...] = ()
        self._matched = ""

    def show_rows(self, rows: tuple[ConditionRow, ...], matched: str) -> None:
        self._all, self._matched = rows, matched
        self.setFixedHeight(theme.scaled(HEAD + ROW * max(len(rows), 1)) + 4)
        self.lay_out()
        self.update()

    def lay_out(self) -> None:
        self.place_rows([(row.key, row.spoken, row.tip, self._place(index)) for index, row in enumerate(self._all)])

    def _place(self, index: int) -> QRect:
        return QRect(6, theme.scaled(HEAD + ROW * index), self.width() - 12, theme.scaled(ROW))

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        head = QRectF(16, 0, self.width() - 32, theme.scaled(HEAD))
        paint_head(painter, head, _("Same conditions?"), self._matched)
        focused = self.focused()
        for index, row in enumerate(self._all):
            self._paint_row(painter, row, QRectF(self._place(index)), row.key == focused)
        painter.end()

    def _paint_row(self, painter: QPainter, row: ConditionRow, box: QRectF, focused: bool) -> None:
        t = theme.tokens()
        if row.match is Match.ON_PURPOSE:
            painter.fillRect(box, t["sel"])
        painter.setPen(theme.pen(t["line"], 1))
        painter.drawLine(QPointF(16, box.top()), QPointF(self.width() - 16, box.top()))
        _sign(painter, row.match, QPointF(24, box.center().y()))
        bold = row.match in (Match.DIFFERS, Match.ON_PURPOSE)
        painter.setFont(theme.font(13, 600 if bold else 400))
        painter.setPen(t["close" if row.match is Match.DIFFERS else "ink"])
        label = painter.fontMetrics().horizontalAdvance(row.label)
        painter.drawText(QRectF(40, box.top(), label + 6, box.height()), Qt.AlignmentFlag.AlignVCenter, row.label)
        room = int(self.width() - 40 - label - 30)
        painter.setPen(t["soft" if row.match is Match.UNKNOWN else "ink"])
        text = painter.fontMetrics().elidedText(row.text, Qt.TextElideMode.ElideRight, room)
        place = QRectF(self.width() - 16 - room, box.top(), room, box.height())
        painter.drawText(place, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, text)
        if focused:
            painter.setPen(theme.pen(t["meas"], 2))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(box.adjusted(1, 1, -1, -1))


def _sign(painter: QPainter, match: Match, centre: QPointF) -> None:
    if match is Match.EQUAL:
        draw_done(painter, centre, 6)
    elif match is Match.ON_PURPOSE:
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme.tokens()["meas"])
        painter.drawPath(arrow_path(QRectF(centre.x() - 7, centre.y() - 5, 14, 10), 6))
    elif match is Match.OUTCOME:
        draw_state(painter, State.CLEAR, centre, 6)
    else:
        draw_state(painter, State.CLOSE if match is Match.DIFFERS else State.UNKNOWN, centre, 6)

"""Facts that decide: what nobody told about the machine, by how far each moves the worst margin."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRect, QRectF, QSize, Qt
from PyQt6.QtGui import QFontMetrics, QPainter, QPaintEvent
from PyQt6.QtWidgets import QWidget

from zeotherm.desk.factsview import BandLane, FactRow, FactsView
from zeotherm.desk.style import theme
from zeotherm.desk.style.shapes import draw_known
from zeotherm.desk.widgets.painted import paint_head
from zeotherm.desk.widgets.rows import RowsWidget
from zeotherm.wording.language import _

HEAD, LANE, ROW, LOW_ROW, REST = 32, 22, 42, 26, 22
BAR, MINUTES = 60, 74  # px of a fact's bar, and of its minutes
LEAST_NAME = 140  # px that its name has beside a bar


class DecidingFacts(RowsWidget):
    """Paints the deciding facts under the band that they leave; hidden while nothing is assumed."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(_("Facts that decide"), parent)
        self._view: FactsView | None = None
        self._of: tuple[str, ...] = ()  # the part and the job that it speaks of
        self._compact = False
        self.hide()

    def show_view(self, view: FactsView | None, of: tuple[str, ...] = (), *, final: bool = True) -> None:
        """Show it; None: nothing is assumed. of: the part and the job; final: whether all is reckoned. What is not does
        not take the place of what was said of the same, lest everything below it jumps under the hand."""
        if not final and view is not None and self._view is not None and of == self._of:
            return
        self._view, self._of = view, of
        self.setVisible(view is not None)
        self._take_height()
        self.lay_out()
        self.update()

    @property
    def view(self) -> FactsView | None:
        """What is shown."""
        return self._view

    def set_compact(self, compact: bool) -> None:
        """Without how to find a fact out (the tip has it) and without the bands, where the window is small."""
        self._compact = compact
        self._take_height()
        self.lay_out()

    def sizeHint(self) -> QSize:
        return QSize(400, self._wanted())

    def _take_height(self) -> None:
        self.setFixedHeight(self._wanted())

    def _wanted(self) -> int:
        view = self._view
        if view is None:
            return 0
        return self._top() + theme.scaled(self._row() * len(view.rows) + (REST if view.rest else 0)) + 8

    def _row(self) -> int:
        return LOW_ROW if self._compact else ROW

    def _top(self) -> int:
        lanes = len(self._view.lanes) if self._view is not None and not self._compact else 0
        return theme.scaled(HEAD + LANE * lanes)

    def _place(self, index: int) -> QRect:
        return QRect(6, self._top() + theme.scaled(self._row() * index), self.width() - 12, theme.scaled(self._row()))

    def lay_out(self) -> None:
        rows = self._view.rows if self._view is not None else ()
        self.place_rows([(row.key, row.spoken, row.tip, self._place(index)) for index, row in enumerate(rows)])

    def paintEvent(self, event: QPaintEvent | None) -> None:
        view = self._view
        if view is None:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        t = theme.tokens()
        painter.setPen(theme.pen(t["line"], 1))
        painter.drawLine(QPointF(0, 0.5), QPointF(self.width(), 0.5))
        head = QRectF(16, 6, self.width() - 32, theme.scaled(HEAD) - 8)
        paint_head(painter, head, view.head, view.aside)
        if not self._compact:
            for index, lane in enumerate(view.lanes):
                top = theme.scaled(HEAD + LANE * index)
                self._paint_lane(painter, lane, QRectF(16, top, self.width() - 32, theme.scaled(LANE)))
        focused = self.focused()
        for index, row in enumerate(view.rows):
            self._paint_row(painter, row, QRectF(self._place(index)), row.key == focused)
        if view.rest:
            painter.setFont(theme.font(12))
            painter.setPen(t["soft"])
            top = self._top() + theme.scaled(self._row() * len(view.rows))
            box = QRectF(16, top, self.width() - 32, theme.scaled(REST))
            text = painter.fontMetrics().elidedText(view.rest, Qt.TextElideMode.ElideRight, int(box.width()))
            painter.drawText(box, Qt.AlignmentFlag.AlignVCenter, text)
        painter.end()

    def _paint_lane(self, painter: QPainter, lane: BandLane, box: QRectF) -> None:
        """A bracket about the room, its limit a post; what lies past the post is what may be over."""
        t = theme.tokens()
        painter.setFont(theme.font(12, 600))
        painter.setPen(t["ink"])
        painter.drawText(box, Qt.AlignmentFlag.AlignVCenter, lane.label)
        painter.setFont(theme.font(12))
        painter.setPen(t["soft"])
        painter.drawText(box, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, lane.word)
        half = theme.scaled(56)
        taken = QFontMetrics(theme.font(12)).horizontalAdvance(_("too close to call"))
        post, y = box.right() - taken - half - 14, box.center().y()
        low, at, high = (post - half * share for share in (lane.low, lane.room, lane.high))
        painter.fillRect(QRectF(QPointF(min(high, post), y - 5), QPointF(min(low, post), y + 5)), t["accentbg"])
        if low > post:
            painter.fillRect(QRectF(QPointF(max(high, post), y - 5), QPointF(low, y + 5)), t["over"])
        painter.setPen(theme.pen(t["ink"], 1.4))
        for end, way in ((high, 3.0), (low, -3.0)):
            painter.drawLine(QPointF(end, y - 7), QPointF(end, y + 7))
            for edge in (-7, 7):
                painter.drawLine(QPointF(end, y + edge), QPointF(end + way, y + edge))
        painter.setBrush(t["panel"])
        painter.drawEllipse(QPointF(at, y), 3.6, 3.6)
        painter.setPen(theme.pen(t["ink"], 2))
        painter.drawLine(QPointF(post, y - 9), QPointF(post, y + 9))

    def _paint_row(self, painter: QPainter, row: FactRow, box: QRectF, focused: bool) -> None:
        t = theme.tokens()
        if focused:
            painter.setPen(theme.pen(t["meas"], 2))
            painter.setBrush(t["sel"])
            painter.drawRoundedRect(box.adjusted(1, 1, -1, -1), 3, 3)
        else:
            painter.setPen(theme.pen(t["line"], 1))
            painter.drawLine(box.topLeft() + QPointF(10, 0), box.topRight() - QPointF(10, 0))
        ring = QPointF(box.left() + 20, box.center().y())
        draw_known(painter, "assumed", ring, 9.0)
        painter.setPen(t["ink"])
        painter.setFont(theme.font(12, 700))
        painter.drawText(QRectF(ring.x() - 9, ring.y() - 9, 18, 18), Qt.AlignmentFlag.AlignCenter, str(row.rank))
        right = box.right() - 10
        painter.setFont(theme.font(12))
        painter.setPen(t["soft"])
        minutes = QRectF(right - theme.scaled(MINUTES), box.top(), theme.scaled(MINUTES), box.height())
        if not self._compact:
            minutes = QRectF(minutes.left(), box.top() + 2, minutes.width(), box.height() / 2)
        if self._compact and row.by:
            minutes.setLeft(right)  # the tip has them
        else:
            painter.drawText(minutes, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, row.minutes)
        painter.setFont(theme.font(13, 700))
        painter.setPen(t["ink"])
        metrics = QFontMetrics(painter.font())
        rows = self._view.rows if self._view is not None else ()
        wide = max(metrics.horizontalAdvance(one.by) for one in rows) + 8  # one column for all of them
        upper = box if self._compact else QRectF(box.left(), box.top() + 2, box.width(), box.height() / 2)
        by = QRectF(minutes.left() - wide, upper.top(), wide, upper.height())
        painter.drawText(by, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, row.by)
        left, end = box.left() + 36, by.left() - 8
        if not self._compact and row.bar > 0.0 and end - left > theme.scaled(BAR + LEAST_NAME):
            bar = QRectF(end - theme.scaled(BAR), upper.center().y() - 4, theme.scaled(BAR), 8)
            painter.fillRect(bar, t["well"])
            painter.fillRect(QRectF(bar.left(), bar.top(), bar.width() * row.bar, 8), t["accent"])
            end = bar.left() - 10
        self._paint_name(painter, row, QRectF(left, box.top(), max(end - left, 40.0), box.height()), right)

    def _paint_name(self, painter: QPainter, row: FactRow, box: QRectF, right: float) -> None:
        """Its name, and below how to find it out, as far as the row goes."""
        t = theme.tokens()
        painter.setFont(theme.font(13, 600))
        painter.setPen(t["ink"])
        name = painter.fontMetrics().elidedText(row.label, Qt.TextElideMode.ElideRight, int(box.width()))
        if self._compact:
            painter.drawText(box, Qt.AlignmentFlag.AlignVCenter, name)
            return
        half = box.height() / 2
        painter.drawText(QRectF(box.left(), box.top() + 2, box.width(), half), Qt.AlignmentFlag.AlignVCenter, name)
        painter.setFont(theme.font(12))
        painter.setPen(t["soft"])
        below = QRectF(box.left(), box.top() + half - 2, right - box.left(), half)
        find = painter.fontMetrics().elidedText(row.find, Qt.TextElideMode.ElideRight, int(below.width()))
        painter.drawText(below, Qt.AlignmentFlag.AlignVCenter, find)

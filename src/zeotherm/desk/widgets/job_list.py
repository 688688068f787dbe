"""Jobs as rows: machine, verdict line, room at a post."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRect, QRectF, Qt
from PyQt6.QtGui import QPainter, QPaintEvent
from PyQt6.QtWidgets import QWidget

from zeotherm.core.catalogue import shipped
from zeotherm.core.catalogue.shelves import HotendShape
from zeotherm.desk.style import theme
from zeotherm.desk.style.shapes import draw_state, state_colour, text_colour
from zeotherm.desk.viewmodels import JobRow
from zeotherm.desk.widgets.rows import RowsWidget
from zeotherm.wording.language import _

ROW = 84
BAR = 44


class JobList(RowsWidget):
    """Paints job rows; the chosen one is boxed."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(_("Jobs"), parent)
        self._all: tuple[JobRow, ...] = ()
        self._chosen = ""
        self.chosen.connect(self._choose)

    def show_rows(self, rows: tuple[JobRow, ...], chosen: int) -> None:
        self._all, self._chosen = rows, str(chosen)
        self.setMinimumHeight(theme.scaled(ROW) * len(rows) + 12)
        self.lay_out()
        self.update()

    @property
    def chosen_key(self) -> int | None:
        """The job that is boxed."""
        return int(self._chosen) if self._chosen else None

    def _choose(self, key: str) -> None:
        self._chosen = key
        self.update()

    def _place(self, index: int) -> QRect:
        return QRect(8, 6 + theme.scaled(ROW) * index, self.width() - 16, theme.scaled(ROW))

    def lay_out(self) -> None:
        self.place_rows([(str(row.key), row.spoken, row.complaint, self._place(i)) for i, row in enumerate(self._all)])

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        for index, row in enumerate(self._all):
            self._paint_row(painter, row, QRectF(self._place(index)))
        painter.end()

    def _paint_row(self, painter: QPainter, row: JobRow, box: QRectF) -> None:
        t = theme.tokens()
        if str(row.key) == self._chosen:
            painter.setPen(theme.pen(t["meas"] if self.focused() else t["accent"], 2))
            painter.setBrush(t["panel"])
            painter.drawRoundedRect(box.adjusted(1, 1, -1, -1), 4, 4)
        else:
            painter.setPen(theme.pen(t["line"], 1))
            painter.drawLine(box.bottomLeft() + QPointF(12, 0), box.bottomRight() - QPointF(12, 0))
        shape = shipped().hotends.get(row.kind)
        if shape is not None:
            draw_silhouette(painter, shape, QRectF(box.left() + 16, box.top() + 10, 56, box.height() - 20))
        left, wide = box.left() + 92, box.width() - 92 - 190
        painter.setPen(t["ink"])
        painter.setFont(theme.font(16, 700))
        painter.drawText(QPointF(left, box.top() + theme.scaled(24)), row.machine)
        step = painter.fontMetrics().horizontalAdvance(row.machine) + 10
        painter.setPen(t["soft"])
        painter.setFont(theme.font(12))
        aside = painter.fontMetrics().elidedText(
            f"{row.number} · {row.place}", Qt.TextElideMode.ElideRight, int(wide - step)
        )
        painter.drawText(QPointF(left + step, box.top() + theme.scaled(24)), aside)
        draw_state(painter, row.state, QPointF(left + 7, box.top() + theme.scaled(43)), 7)
        painter.setPen(text_colour(row.state))
        painter.setFont(theme.font(14, 600))
        verdict = painter.fontMetrics().elidedText(row.verdict, Qt.TextElideMode.ElideRight, int(wide - 24))
        painter.drawText(QPointF(left + 22, box.top() + theme.scaled(48)), verdict)
        painter.setPen(t["soft"])
        painter.setFont(theme.font(12))
        complaint = painter.fontMetrics().elidedText(row.complaint, Qt.TextElideMode.ElideRight, int(wide))
        painter.drawText(QPointF(left, box.top() + theme.scaled(70)), complaint)
        self._paint_room(painter, row, box)

    def _paint_room(self, painter: QPainter, row: JobRow, box: QRectF) -> None:
        if not row.room:
            return
        post, y = box.right() - 64, box.top() + theme.scaled(43)
        length = abs(row.bar) * BAR
        painter.fillRect(QRectF(post if row.bar < 0 else post - length, y - 6, length, 12), state_colour(row.state))
        painter.setPen(theme.pen(theme.tokens()["ink"], 2))
        painter.drawLine(QPointF(post, y - 10), QPointF(post, y + 10))
        painter.setFont(theme.font(13, 700))
        painter.setPen(text_colour(row.state))
        words = QRectF(box.right() - 196, y - theme.scaled(34), 184, 20)
        painter.drawText(words, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, row.room)


def draw_silhouette(painter: QPainter, shape: HotendShape, box: QRectF) -> None:
    """The hotend's outline, to one common scale for all rows."""
    t = theme.tokens()
    total = 52.0  # mm, taller than any hotend of the catalogue
    scale = box.height() / total
    axis = box.center().x()
    bottom = box.bottom() - 2
    painter.save()
    painter.setPen(theme.pen(t["ink"], 1))
    painter.setBrush(t["well"])

    def part(radius: float, low: float, high: float) -> None:
        painter.drawRect(QRectF(axis - radius * scale, bottom - high * scale, 2 * radius * scale, (high - low) * scale))

    base = shape.cone + shape.hex
    top = base + shape.block.height
    neck = top + shape.neck
    part(shape.hex_d / 2, shape.cone, base)
    part(shape.block.width / 2, base, top)
    part(shape.bore_d * 0.75, top, neck)
    part(shape.sink.core_d / 2, neck, neck + shape.sink.height)
    for index in range(shape.sink.fins):
        low = neck + shape.sink.first_fin + index * shape.sink.pitch
        y = bottom - (low + shape.sink.fin_thickness / 2) * scale
        painter.drawLine(
            QPointF(axis - shape.sink.fin_d / 2 * scale, y), QPointF(axis + shape.sink.fin_d / 2 * scale, y)
        )
    painter.restore()

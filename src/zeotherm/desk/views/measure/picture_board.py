"""Thermal pictures side by side in the ladder's colours, and what changed between them on one fixed scale."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QPointF, QRect, QRectF, Qt
from PyQt6.QtGui import QColor, QImage, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QWidget

from zeotherm.desk.style import theme
from zeotherm.desk.style.patina import Array, Span
from zeotherm.desk.views.measure.pictures_shown import PicturesView, PictureView
from zeotherm.desk.widgets.line import wrapped
from zeotherm.desk.widgets.rows import RowsWidget
from zeotherm.wording.language import _
from zeotherm.wording.numbers import signed

FULL_K = 10.0  # of the scale of differences, always
COOLER, WARMER = "#0B5A78", "#C2631F"
HEAD, LINES = 26, 74
ACROSS = 2
MOST = 3  # pictures beside their difference
STEPS = 11


class PictureBoard(RowsWidget):
    """Paints a `PicturesView`; a picture can be chosen, Delete takes it off."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(_("Thermal pictures"), parent)
        self._view = PicturesView((), None, ())
        self._span = Span.COOL
        self.setMinimumHeight(theme.scaled(260))

    def show_view(self, view: PicturesView) -> None:
        self._view = view
        self.lay_out()
        self.update()

    def set_span(self, span: Span) -> None:
        """Take the ladder's span."""
        self._span = span
        self.update()

    def _shown(self) -> tuple[PictureView, ...]:
        """The first and the last, which are compared, and of more one between."""
        all_of = self._view.pictures
        return all_of if len(all_of) <= MOST else (*all_of[: MOST - 1], all_of[-1])

    def _cells(self) -> list[QRectF]:
        count = len(self._shown()) + (1 if self._view.change is not None else 0)
        if count == 0:
            return []
        across = min(count, ACROSS)
        down = -(-count // across)
        wide, high = (self.width() - 16) / across, (self.height() - 12) / down
        return [
            QRectF(16 + index % across * wide, 8 + index // across * high, wide - 14, high - 12)
            for index in range(count)
        ]

    def lay_out(self) -> None:
        cells = self._cells()
        self.place_rows(
            [
                (one.key, one.spoken, one.spoken, QRect(cell.toRect()))
                for one, cell in zip(self._shown(), cells, strict=False)
            ]
        )

    def paintEvent(self, event: QPaintEvent | None) -> None:
        t = theme.tokens()
        painter = QPainter(self)
        cells = self._cells()
        if not cells:
            painter.fillRect(self.rect().adjusted(16, 12, -16, -12), t["well"])
            painter.setPen(t["soft"])
            painter.setFont(theme.font(14))
            words = _("Drop a thermal picture here: a matrix as CSV, 16-bit grey,\nor a false-colour one with its bar.")
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, words)
        for one, cell in zip(self._shown(), cells, strict=False):
            self._paint_picture(painter, one, cell)
        if self._view.change is not None:
            self._paint_change(painter, cells[-1])
        painter.end()

    def _paint_picture(self, painter: QPainter, view: PictureView, cell: QRectF) -> None:
        t = theme.tokens()
        box = self._box(view.field, cell)
        scale = self._span.value
        known = scale.argb(np.nan_to_num(view.field, nan=scale.low))
        _draw(painter, np.where(np.isfinite(view.field), known, _argb(t["well"])).astype(np.uint32), box)
        painter.setPen(theme.pen(t["ink"], 1))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(box)
        for name, (left, top, right, bottom) in view.regions.items():
            inner = QRectF(box.left() + left * box.width(), box.top() + top * box.height(),
                           (right - left) * box.width(), (bottom - top) * box.height())  # fmt: skip
            pen = QPen(QColor("#FFFFFF"), 1.4)
            pen.setDashPattern([5, 3])
            painter.setPen(pen)
            painter.drawRect(inner)
            painter.setFont(theme.font(12, 600))
            _paint_name(painter, name, inner, box)
        self._paint_words(painter, view.label, view.lines, cell, box)
        if view.key == self.focused():
            painter.setPen(theme.pen(t["meas"], 2))
            painter.drawRect(cell.adjusted(-4, -4, 4, 4))

    def _box(self, field: Array, cell: QRectF) -> QRectF:
        """As large as fits below the head and above the words, in the picture's own proportions."""
        room = cell.adjusted(0, theme.scaled(HEAD), 0, -theme.scaled(LINES))
        rows, columns = field.shape
        scale = min(room.width() / columns, max(room.height(), 20) / rows)
        return QRectF(room.left(), room.top(), columns * scale, rows * scale)

    def _paint_words(self, painter: QPainter, head: str, lines: tuple[str, ...], cell: QRectF, box: QRectF) -> None:
        t = theme.tokens()
        painter.setPen(t["ink"])
        painter.setFont(theme.font(14, 700))
        title = painter.fontMetrics().elidedText(head, Qt.TextElideMode.ElideRight, int(cell.width()))
        painter.drawText(QRectF(cell.left(), cell.top(), cell.width(), theme.scaled(HEAD)), 0, title)
        painter.setFont(theme.font(12))
        y = box.bottom() + theme.scaled(18)
        for line in lines:
            for part in wrapped(painter.fontMetrics(), line, int(cell.width()), 3):
                if y < cell.bottom() + 8:
                    painter.drawText(QPointF(cell.left(), y), part)
                y += theme.scaled(15)

    def _paint_change(self, painter: QPainter, cell: QRectF) -> None:
        change = self._view.change
        assert change is not None
        t = theme.tokens()
        box = self._box(change, cell)
        _draw(painter, _two_ended(change, t["panel"], t["well"]), box)
        painter.setPen(theme.pen(t["ink"], 1))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(box)
        y = box.bottom() + theme.scaled(8)
        wide = min(box.width(), theme.scaled(220)) / STEPS
        for step in range(STEPS):
            value = -FULL_K + 2 * FULL_K * step / (STEPS - 1)
            painter.fillRect(QRectF(box.left() + step * wide, y, wide, 8), _shade(value, t["panel"]))
        painter.drawRect(QRectF(box.left(), y, wide * STEPS, 8))
        painter.setFont(theme.font(12))
        ends = QRectF(box.left(), y + 9, wide * STEPS, 16)
        painter.drawText(ends, Qt.AlignmentFlag.AlignLeft, signed(-FULL_K, "K"))
        painter.drawText(ends, Qt.AlignmentFlag.AlignRight, signed(FULL_K, "K"))
        below = QRectF(box.left(), box.top(), box.width(), y + theme.scaled(20) - box.top())
        head = self._view.change_head or _("Last less first")
        self._paint_words(painter, head, self._view.change_lines, cell, below)


def _argb(colour: QColor) -> np.uint32:
    return np.uint32(colour.rgb() & 0xFFFFFFFF)


def _two_ended(change: Array, middle: QColor, blank: QColor) -> np.ndarray:
    shares = np.clip(np.nan_to_num(change) / FULL_K, -1.0, 1.0)
    made = np.zeros(change.shape, dtype=np.uint32)
    for channel, shift in ((0, 16), (1, 8), (2, 0)):
        base = middle.getRgb()[channel]
        cool, warm = QColor(COOLER).getRgb()[channel], QColor(WARMER).getRgb()[channel]
        value = np.where(shares < 0, base + (base - cool) * shares, base + (warm - base) * shares)
        made |= np.clip(value, 0, 255).astype(np.uint32) << np.uint32(shift)
    made |= np.uint32(0xFF000000)
    return np.where(np.isfinite(change), made, _argb(blank)).astype(np.uint32)


def _shade(value: float, middle: QColor) -> QColor:
    return QColor.fromRgb(int(_two_ended(np.array([[value]]), middle, middle)[0, 0]) & 0xFFFFFF)


def _draw(painter: QPainter, pixels: np.ndarray, box: QRectF) -> None:
    rows, columns = pixels.shape
    painter.drawImage(box, QImage(pixels.tobytes(), columns, rows, columns * 4, QImage.Format.Format_RGB32))


def _paint_name(painter: QPainter, name: str, inner: QRectF, box: QRectF) -> None:
    """A region's name in its corner; below it, or above, where the region is too small to hold it."""
    metrics = painter.fontMetrics()
    wide, high = metrics.horizontalAdvance(name) + 10.0, metrics.height() + 2.0
    place = QRectF(inner.left() + 5, inner.top() + 3, wide, high)
    if wide > inner.width():
        below = inner.bottom() + high + 2 < box.bottom()
        left = min(max(inner.left(), box.left() + 2), max(box.right() - wide, box.left() + 2))
        place = QRectF(left, inner.bottom() + 2 if below else inner.top() - high - 2, wide, high)
    painter.drawText(place, Qt.AlignmentFlag.AlignLeft, name)

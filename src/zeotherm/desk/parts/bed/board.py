"""The bed's picture: the face from above, its stack in section, and what comes through the thickness."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QEvent, QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter
from PyQt6.QtWidgets import QWidget

from zeotherm.desk.parts.bed import drawing as pictures
from zeotherm.desk.parts.bed.shown import BedPictureView
from zeotherm.desk.style import theme
from zeotherm.desk.widgets.part_board import PartBoard
from zeotherm.wording.language import _
from zeotherm.wording.numbers import plain, with_unit

LOW = 430  # px of height below which the profile and the section go
SLIM = 250  # px of width below which the section goes
LEAST_PROFILE, PROFILE = 64, 130  # px of height
STEP_MM = 10.0


class BedBoard(PartBoard[BedPictureView]):
    """Paints a `BedPictureView`; tells what is read at a point, by mouse or arrow keys."""

    pointed = pyqtSignal(str)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(_("The bed from above and in section"), _("No heated bed, or it is off"), parent)
        self._point: tuple[float, float] | None = None  # mm from the middle
        self._plan = QRectF()
        self.setMouseTracking(True)

    # reading a point

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is None or self._view is None or not self._plan.contains(event.position()):
            return
        by = event.position() - self._plan.center()
        self._read(
            by.x() / self._plan.width() * self._view.width_mm, -by.y() / self._plan.height() * self._view.depth_mm
        )

    def leaveEvent(self, event: QEvent | None) -> None:
        self._point = None
        self.pointed.emit("")
        self.update()
        super().leaveEvent(event)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        ways = {
            Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_Right: (1, 0), Qt.Key.Key_Up: (0, 1), Qt.Key.Key_Down: (0, -1),
        }  # fmt: skip
        if event is None or self._view is None or Qt.Key(event.key()) not in ways:
            super().keyPressEvent(event)
            return
        x, y = self._point or (0.0, 0.0)
        across, along = ways[Qt.Key(event.key())]
        half_x, half_y = 0.5 * self._view.width_mm - 1.0, 0.5 * self._view.depth_mm - 1.0
        self._read(min(max(x + STEP_MM * across, -half_x), half_x), min(max(y + STEP_MM * along, -half_y), half_y))

    def _read(self, x: float, y: float) -> None:
        if text := self._said(x, y):
            self._point = (x, y)
            self.pointed.emit(text)
            self.update()

    @property
    def reading(self) -> str:
        """What is read at the point, of what is shown by now; nothing where none is pointed at."""
        return self._said(*self._point) if self._point is not None and self._view is not None else ""

    def _said(self, x: float, y: float) -> str:
        """The face at a place [mm from the middle]; nothing beside it."""
        assert self._view is not None
        rows, columns = self._view.face.shape
        row = min(int((y / self._view.depth_mm + 0.5) * rows), rows - 1)
        column = min(int((x / self._view.width_mm + 0.5) * columns), columns - 1)
        value = self._view.face[row, column]
        if np.isnan(value):
            return ""
        text = _("Print face, {x} mm right and {y} mm behind the middle: {value}, {by} K from what is wanted")
        return text.format(
            x=plain(x, 0), y=plain(y, 0), value=with_unit(float(value), "°C"), by=plain(float(value) - self._view.aim)
        )

    # painting

    def paint_view(self, painter: QPainter, view: BedPictureView) -> None:
        t = theme.tokens()
        whole = QRectF(self.rect()).adjusted(20, 6, -14, -4)
        low = whole.height() < LOW
        left = QRectF(whole.left(), whole.top(), 0.5 * whole.width(), whole.height())
        right = QRectF(left.right() + 16, whole.top(), whole.right() - left.right() - 16, whole.height())
        head = theme.scaled(20)
        painter.setFont(theme.font(13, 700))
        painter.setPen(t["ink"])
        painter.drawText(
            QRectF(right.left(), right.top(), right.width(), head), Qt.AlignmentFlag.AlignVCenter, view.title
        )
        rows = theme.scaled(24 + 20 * len(view.interfaces))
        stack = QRectF(left.left(), left.bottom() - rows, left.width(), rows)
        if stack.top() - left.top() > theme.scaled(150) and left.width() >= theme.scaled(SLIM):
            painter.drawText(QRectF(left.left(), left.top(), left.width(), head), Qt.AlignmentFlag.AlignVCenter,
                             _("Section at the edge, thickness to scale"))  # fmt: skip
            section = QRectF(left.left(), left.top() + head, left.width(), stack.top() - left.top() - head - 6)
            pictures.paint_section(painter, view, section, self._scale)
        else:
            stack = QRectF(left.left(), left.top(), left.width(), min(rows * 1.15, left.height()))
        pictures.paint_stack(painter, view.interfaces, stack, self._scale)
        values = theme.scaled(82)
        profile = 0 if low else theme.scaled(84)
        room = QRectF(right.left(), right.top() + head + 2, right.width(), right.height() - head - values - profile - 8)
        self._plan = pictures.plan_box(view, room)
        pictures.paint_plan(painter, view, self._plan, self._scale, self.devicePixelRatioF())
        pictures.paint_lifted(painter, view, self._plan)
        pictures.paint_pins(painter, view, self._plan)
        if self._point is not None:
            x, y = self._point
            at = QPointF(
                self._plan.center().x() + x / view.width_mm * self._plan.width(),
                self._plan.center().y() - y / view.depth_mm * self._plan.height(),
            )
            painter.setPen(theme.pen(t["meas"], 2))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawEllipse(at, 5, 5)
        top = self._plan.bottom() + 8
        pictures.paint_values(painter, view, QRectF(right.left(), top, right.width(), values))
        foot = min(whole.bottom() - top - values - 2, theme.scaled(PROFILE))
        if foot >= theme.scaled(LEAST_PROFILE):
            pictures.paint_profile(painter, view, QRectF(right.left(), top + values + 2, right.width(), foot))

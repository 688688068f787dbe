"""The power path's picture: one strip from the supply to the bed."""

from __future__ import annotations

from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QPainter
from PyQt6.QtWidgets import QWidget

from zeotherm.desk.parts.power.drawing import paint_power
from zeotherm.desk.parts.power.shown import PowerPictureView
from zeotherm.desk.style import theme
from zeotherm.desk.widgets.part_board import PartBoard
from zeotherm.wording.language import _


class PowerBoard(PartBoard[PowerPictureView]):
    """Paints a `PowerPictureView`."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(
            _("The power path from supply to bed"),
            _("The power path is not described. Choose by what the bed is switched, at the right."),
            parent,
        )

    def paint_view(self, painter: QPainter, view: PowerPictureView) -> None:
        whole = QRectF(self.rect()).adjusted(16, 4, -12, -4)
        head = theme.scaled(20)
        painter.setFont(theme.font(13, 700))
        painter.setPen(theme.tokens()["ink"])
        title = painter.fontMetrics().elidedText(view.title, Qt.TextElideMode.ElideRight, int(whole.width()))
        painter.drawText(QRectF(whole.left(), whole.top(), whole.width(), head), Qt.AlignmentFlag.AlignVCenter, title)
        paint_power(painter, view, whole.adjusted(0, head + 4, 0, 0), self._scale)

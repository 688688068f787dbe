"""A way of wiring, drawn with its end points' names and its wires' numbers."""

from __future__ import annotations

from PyQt6.QtCore import QRectF
from PyQt6.QtGui import QPainter
from PyQt6.QtWidgets import QWidget

from zeotherm.desk.parts.power.wiring_drawing import paint_wiring
from zeotherm.desk.parts.power.wiring_shown import WiringView
from zeotherm.desk.style import theme
from zeotherm.desk.widgets.part_board import PartBoard
from zeotherm.wording.language import _


class WiringBoard(PartBoard[WiringView]):
    """Paints a `WiringView`."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(_("The wiring of the bed's own switch"), _("No wiring yet: take the proposal"), parent)
        self.setMinimumHeight(theme.scaled(330))

    def paint_view(self, painter: QPainter, view: WiringView) -> None:
        paint_wiring(painter, view, QRectF(self.rect()).adjusted(16, 8, -16, -8))

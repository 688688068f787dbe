"""The enclosure's picture: in section from the front, with the ways by which heat leaves."""

from __future__ import annotations

from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QPainter
from PyQt6.QtWidgets import QWidget

from zeotherm.desk.parts.enclosure import drawing as pictures
from zeotherm.desk.parts.enclosure.shown import CasePictureView
from zeotherm.desk.style import theme
from zeotherm.desk.widgets.part_board import PartBoard
from zeotherm.wording.language import _

SLIM = 520  # px of width below which the ways out stand below
ASIDE = 176


class CaseBoard(PartBoard[CasePictureView]):
    """Paints a `CasePictureView`."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(_("The case in section from the front"), _("Nothing encloses this machine"), parent)

    def paint_view(self, painter: QPainter, view: CasePictureView) -> None:
        whole = QRectF(self.rect()).adjusted(16, 6, -14, -4)
        head, aside = theme.scaled(20), theme.scaled(ASIDE)
        painter.setFont(theme.font(13, 700))
        painter.setPen(theme.tokens()["ink"])
        painter.drawText(QRectF(whole.left(), whole.top(), whole.width(), head), Qt.AlignmentFlag.AlignVCenter,
                         view.title)  # fmt: skip
        room = QRectF(whole.left(), whole.top() + head, whole.width() - aside - 12, whole.height() - head)
        if whole.width() < theme.scaled(SLIM):
            room = QRectF(whole.left(), whole.top() + head, whole.width(), whole.height() - head)
        box = pictures.inner_box(view, room)
        pictures.paint_section(painter, view, box, self._scale)
        pictures.paint_pins(painter, view, box, room.right())
        if whole.width() >= theme.scaled(SLIM):
            pictures.paint_losses(
                painter, view, QRectF(whole.right() - aside, whole.top() + head + 6, aside, whole.height() - head - 6)
            )

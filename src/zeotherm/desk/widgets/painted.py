"""What painted widgets share."""

from __future__ import annotations

from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QFocusEvent, QPainter
from PyQt6.QtWidgets import QWidget

from zeotherm.desk.style import theme


class Painted(QWidget):
    """Paints its own focus, and so again whenever that comes or goes."""

    def focusInEvent(self, event: QFocusEvent | None) -> None:
        self.update()
        super().focusInEvent(event)

    def focusOutEvent(self, event: QFocusEvent | None) -> None:
        self.update()
        super().focusOutEvent(event)


def paint_head(painter: QPainter, box: QRectF, title: str, aside: str) -> None:
    """A list's title at the left, and a few soft words at the right."""
    t = theme.tokens()
    painter.setFont(theme.font(14, 700))
    painter.setPen(t["ink"])
    painter.drawText(box, Qt.AlignmentFlag.AlignVCenter, title)
    painter.setFont(theme.font(12))
    painter.setPen(t["soft"])
    painter.drawText(box, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, aside)

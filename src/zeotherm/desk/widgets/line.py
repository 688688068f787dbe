"""Text that gives way where there is no room: one line cut short, or a few lines."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QFontMetrics, QPainter, QPaintEvent
from PyQt6.QtWidgets import QSizePolicy, QWidget

from zeotherm.desk.widgets.labels import Plain


class ElidedLine(Plain):
    """Plain text, cut with an ellipsis where it does not fit; it never widens its column."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__("", parent)
        self.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setPen(self.palette().windowText().color())
        box = self.contentsRect()
        text = painter.fontMetrics().elidedText(self.text(), Qt.TextElideMode.ElideRight, box.width())
        painter.drawText(box, Qt.AlignmentFlag.AlignVCenter, text)
        painter.end()


def wrapped(metrics: QFontMetrics, text: str, width: int, most: int) -> list[str]:
    """A text in lines of a width; the last one is cut with an ellipsis."""
    lines, words = [""], text.split()
    for index, word in enumerate(words):
        longer = f"{lines[-1]} {word}".strip()
        if metrics.horizontalAdvance(longer) <= width or not lines[-1]:
            lines[-1] = longer
        elif len(lines) < most:
            lines.append(word)
        else:
            rest = f"{lines[-1]} {' '.join(words[index:])}"
            lines[-1] = metrics.elidedText(rest, Qt.TextElideMode.ElideRight, width)
            break
    return lines

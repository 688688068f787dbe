"""Places that were found by words, under the entry line: the line keeps the keys, Down and Up go along."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Protocol

from PyQt6.QtCore import QRect, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QMouseEvent, QPainter, QPaintEvent
from PyQt6.QtWidgets import QWidget

from zeotherm.desk.style import theme
from zeotherm.wording.language import _

ROW, WIDE = 26, 360


class Destination(Protocol):
    """Somewhere to go."""

    @property
    def label(self) -> str:
        """Its name."""
        ...

    @property
    def aside(self) -> str:
        """What it is."""
        ...

    @property
    def go(self) -> Callable[[], object]:
        """Goes there."""
        ...


class FoundList(QWidget):
    """Paints the places; hidden while there are none."""

    wanted = pyqtSignal(object)  # Destination

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.places: tuple[Destination, ...] = ()
        self._at = -1
        self.setAccessibleName(_("Places with these words"))
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.hide()

    @property
    def chosen(self) -> Destination | None:
        """The place that Enter goes to; None: none is chosen yet."""
        return self.places[self._at] if 0 <= self._at < len(self.places) else None

    def offer(self, places: Sequence[Destination]) -> None:
        """Show these; none of them is chosen."""
        self.places, self._at = tuple(places), -1
        self.setFixedSize(theme.scaled(WIDE), theme.scaled(ROW) * len(self.places) + 4)
        self.setVisible(bool(self.places))
        self._tell()

    def step(self, by: int) -> None:
        """Choose the next one, or the one before; beyond the ends none is."""
        count = len(self.places)
        self._at = (self._at + 1 + by) % (count + 1) - 1
        self._tell()

    def _tell(self) -> None:
        one = self.chosen
        self.setAccessibleDescription(f"{one.label}, {one.aside}" if one is not None else "")
        self.update()

    def _place(self, index: int) -> QRect:
        return QRect(2, 2 + theme.scaled(ROW) * index, self.width() - 4, theme.scaled(ROW))

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        for index, one in enumerate(self.places):
            if event is not None and self._place(index).contains(event.position().toPoint()):
                self.hide()
                self.wanted.emit(one)
                return

    def paintEvent(self, event: QPaintEvent | None) -> None:
        t, painter = theme.tokens(), QPainter(self)
        painter.setPen(theme.pen(t["rule"], 1))
        painter.setBrush(t["panel"])
        painter.drawRect(self.rect().adjusted(0, 0, -1, -1))
        for index, one in enumerate(self.places):
            box = QRectF(self._place(index))
            if index == self._at:
                painter.fillRect(box, t["sel"])
            painter.setFont(theme.font(12))
            painter.setPen(t["soft"])
            right = box.adjusted(0, 0, -10, 0)
            painter.drawText(right, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, one.aside)
            taken = painter.fontMetrics().horizontalAdvance(one.aside)
            painter.setFont(theme.font(13, 600))
            painter.setPen(t["ink"])
            left = box.adjusted(10, 0, -taken - 20, 0)
            text = painter.fontMetrics().elidedText(one.label, Qt.TextElideMode.ElideRight, int(left.width()))
            painter.drawText(left, Qt.AlignmentFlag.AlignVCenter, text)
        painter.end()

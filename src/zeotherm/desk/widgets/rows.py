"""Rows of a painted widget as real, empty children: reachable by keyboard and named to assistive technology."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import QRect, Qt, pyqtSignal
from PyQt6.QtGui import QFocusEvent, QKeyEvent, QMouseEvent, QResizeEvent
from PyQt6.QtWidgets import QScrollArea, QWidget

WAYS = {Qt.Key.Key_Up: -1, Qt.Key.Key_Left: -1, Qt.Key.Key_Down: 1, Qt.Key.Key_Right: 1}


class FocusRow(QWidget):
    """One row: takes the focus, speaks its name, paints nothing."""

    def __init__(self, parent: RowsWidget) -> None:
        super().__init__(parent)
        self._list = parent
        self.key = ""
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAttribute(Qt.WidgetAttribute.WA_NoSystemBackground)
        self.setCursor(Qt.CursorShape.PointingHandCursor)

    def focusInEvent(self, event: QFocusEvent | None) -> None:
        self._list.row_focused(self.key)
        super().focusInEvent(event)

    def focusOutEvent(self, event: QFocusEvent | None) -> None:
        self._list.update()
        super().focusOutEvent(event)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        self._list.last = self.key
        self._list.chosen.emit(self.key)
        if event is not None:
            self._list.pressed.emit(self.key, event.position())
        super().mousePressEvent(event)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and Qt.Key(event.key()) in WAYS:
            self._list.move_focus(self.key, WAYS[Qt.Key(event.key())])
        elif event is not None and event.key() == Qt.Key.Key_Delete:
            self._list.removed.emit(self.key)
        elif event is not None and event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space):
            self._list.activated.emit(self.key)
        else:
            super().keyPressEvent(event)


class RowsWidget(QWidget):
    """A painted list that keeps a `FocusRow` above each of its rows."""

    chosen = pyqtSignal(str)  # a row has the focus or was pressed
    activated = pyqtSignal(str)  # Enter or Space on a row
    removed = pyqtSignal(str)  # Delete on a row
    pressed = pyqtSignal(str, object)  # a row was pressed, at a place within it

    def __init__(self, name: str, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setAccessibleName(name)
        self.last = ""  # the row that had the focus last
        self._rows: list[FocusRow] = []

    def lay_out(self) -> None:
        """Put the rows in their places; done again whenever the size changes."""
        raise NotImplementedError

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        self.lay_out()
        super().resizeEvent(event)

    def place_rows(self, rows: Sequence[tuple[str, str, str, QRect]]) -> None:
        """Put a row at each (key, spoken name, tooltip, place), in order."""
        while len(self._rows) < len(rows):
            self._rows.append(FocusRow(self))
        for row in self._rows[len(rows) :]:
            row.hide()
        for row, (key, spoken, tip, place) in zip(self._rows, rows, strict=False):
            row.key = key
            row.setAccessibleName(spoken)
            row.setToolTip(tip)
            row.setGeometry(place)
            row.show()

    def rows(self) -> list[FocusRow]:
        """The rows in use."""
        return [row for row in self._rows if not row.isHidden()]

    def focused(self) -> str:
        """Key of the row that has the focus, or nothing."""
        return next((row.key for row in self._rows if row.hasFocus()), "")

    def row_focused(self, key: str) -> None:
        self.last = key
        self.chosen.emit(key)
        self._bring_into_view(key)
        self.update()

    def _bring_into_view(self, key: str) -> None:
        """Scroll whatever this list stands in, so that the row can be seen."""
        holder = self.parentWidget()
        while holder is not None and not isinstance(holder, QScrollArea):
            holder = holder.parentWidget()
        row = next((row for row in self.rows() if row.key == key), None)
        if holder is not None and row is not None:
            holder.ensureWidgetVisible(row, 0, 30)

    def focus_row(self, key: str) -> None:
        for row in self.rows():
            if row.key == key:
                row.setFocus(Qt.FocusReason.OtherFocusReason)

    def move_focus(self, key: str, by: int) -> None:
        keys = [row.key for row in self.rows()]
        if key in keys:
            self.focus_row(keys[(keys.index(key) + by) % len(keys)])

"""Scroll areas that go up and down only; one whose content is as tall as its wrapped text needs at its width."""

from __future__ import annotations

from PyQt6.QtCore import QEvent, QObject, Qt
from PyQt6.QtGui import QResizeEvent
from PyQt6.QtWidgets import QFrame, QScrollArea, QWidget


def scrolled(page: QWidget, area: QScrollArea | None = None) -> QScrollArea:
    """A page in a scroll area without a frame, which takes no focus of its own."""
    scroll = area if area is not None else QScrollArea()
    scroll.setWidget(page)
    scroll.setWidgetResizable(True)
    scroll.setFrameShape(QFrame.Shape.NoFrame)
    scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
    scroll.setFocusPolicy(Qt.FocusPolicy.NoFocus)
    return scroll


class TallScroll(QScrollArea):
    """Qt asks a wrapped label for its least height, which is that of a single line; this asks for the whole."""

    def __init__(self, content: QWidget, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        scrolled(content, self)
        content.installEventFilter(self)

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        if watched is self.widget() and event is not None and event.type() == QEvent.Type.LayoutRequest:
            self._fit()
        return super().eventFilter(watched, event)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self._fit()

    def _fit(self) -> None:
        content = self.widget()
        layout = content.layout() if content is not None else None
        if content is None or layout is None:
            return
        shown = self.viewport()
        wide = shown.width() if shown is not None else self.width()
        tall = layout.totalHeightForWidth(wide) if layout.hasHeightForWidth() else layout.totalSizeHint().height()
        if tall != content.minimumHeight():
            content.setMinimumHeight(tall)

"""A painted picture of one part of the machine: its view, whether it is stale, and the ladder's colours."""

from __future__ import annotations

from typing import Generic, Protocol, TypeVar

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QPainter, QPaintEvent
from PyQt6.QtWidgets import QWidget

from zeotherm.desk.style import theme
from zeotherm.desk.style.patina import Scale, Span
from zeotherm.desk.widgets.painted import Painted


class Spoken(Protocol):
    """A view that can be said."""

    @property
    def spoken(self) -> str:
        """In words."""
        ...


View = TypeVar("View", bound=Spoken)


class PartBoard(Painted, Generic[View]):
    """Paints a view; what it is goes into `paint_view`. name: for a screen reader; nothing: where there is no view."""

    def __init__(self, name: str, nothing: str, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._view: View | None = None
        self._nothing = nothing
        self._scale: Scale = Span.COOL.value
        self._stale = False
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(name)
        self.setMinimumSize(300, 220)

    @property
    def view(self) -> View | None:
        """What is shown."""
        return self._view

    def show_view(self, view: View | None) -> None:
        self._view, self._stale = view, False
        self.setAccessibleDescription(view.spoken if view is not None else self._nothing)
        self.update()

    def set_stale(self) -> None:
        """What is shown is not of the values that are set."""
        if not self._stale:
            self._stale = True
            self.update()

    def set_scale(self, scale: Scale) -> None:
        self._scale = scale
        self.update()

    def paint_view(self, painter: QPainter, view: View) -> None:
        """Paint the whole view."""
        raise NotImplementedError

    def paintEvent(self, event: QPaintEvent | None) -> None:
        t = theme.tokens()
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), t["sheet"])
        if self._view is None:
            painter.setFont(theme.font(13))
            painter.setPen(t["soft"])
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, self._nothing)
        else:
            painter.setOpacity(0.55 if self._stale else 1.0)
            self.paint_view(painter, self._view)
            painter.setOpacity(1.0)
        if self.hasFocus():
            painter.setPen(theme.pen(t["meas"], 2))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(self.rect().adjusted(1, 1, -2, -2))
        painter.end()

"""What Qt's own calls leave open: its stubs say that there may be no clipboard, no style, no bar."""

from __future__ import annotations

from PyQt6.QtGui import QGuiApplication
from PyQt6.QtWidgets import QAbstractScrollArea, QWidget

from zeotherm.wording.language import _

PHOTOS = _("Photographs (*.png *.jpg *.jpeg *.bmp *.webp *.heic);;All files (*)")  # of a dialog that asks for a file


def copy_text(text: str) -> None:
    """Put a text where it can be pasted from."""
    clipboard = QGuiApplication.clipboard()
    if clipboard is not None:
        clipboard.setText(text)


def put_on(widget: QWidget, name: str, value: object) -> None:
    """Give a widget a property that the style sheet speaks of, and have it looked up again."""
    widget.setProperty(name, value)
    style = widget.style()
    if style is not None:
        style.unpolish(widget)
        style.polish(widget)


def turn_page(area: QAbstractScrollArea, by: int) -> None:
    """Scroll by so many pages."""
    bar = area.verticalScrollBar()
    if bar is not None:
        bar.setValue(bar.value() + by * bar.pageStep())

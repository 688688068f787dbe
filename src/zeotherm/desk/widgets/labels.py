"""Labels: words as they are, or markup by our own templates, in which every word that comes in is escaped.

What a person typed, or a file said, is never read as markup: `Plain` shows it letter by letter, `Rich` takes markup
from `markupsafe.Markup` alone and escapes anything else. `show_tip` does the same for what appears beside the
pointer.
"""

from __future__ import annotations

from collections.abc import Sequence

from markupsafe import Markup, escape
from PyQt6.QtCore import QEvent, QObject, Qt
from PyQt6.QtGui import QHelpEvent
from PyQt6.QtWidgets import QLabel, QToolTip, QWidget


class Plain(QLabel):
    """Words as they are."""

    def __init__(self, text: str = "", parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setTextFormat(Qt.TextFormat.PlainText)
        self.setText(text)


class Rich(QLabel):
    """Markup by a template of ours; a plain text is escaped."""

    def __init__(self, text: str = "", parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setTextFormat(Qt.TextFormat.RichText)
        self.setText(text)

    def setText(self, text: str | None) -> None:
        super().setText(str(escape(text or "")))


def coloured(text: str, colour: str) -> Markup:
    """Words in a colour."""
    return Markup('<span style="color:{}">{}</span>').format(colour, text)


def headed(head: str, lines: Sequence[str], colour: str) -> Markup:
    """A bold head and lines below it in a colour."""
    return Markup("<b>{}</b><br>").format(head) + coloured(Markup("<br>").join(lines), colour)


def tip(text: str) -> str:
    """A tooltip's words, so that they are shown as they are."""
    if "<" not in text and "&" not in text:
        return text
    return str(Markup("<qt>{}</qt>").format(Markup("<br>").join(text.split("\n"))))


def show_tip(watched: QObject | None, event: QEvent | None) -> bool:
    """Show a widget's tooltip as plain words; whether there was one to show."""
    if not isinstance(watched, QWidget) or not isinstance(event, QHelpEvent) or not watched.toolTip():
        return False
    QToolTip.showText(event.globalPos(), tip(watched.toolTip()), watched)
    return True

"""Beside the steps: parts and tools before anything is taken apart, and the customer's sheet as it grows."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QFrame, QLabel, QVBoxLayout, QWidget

from zeotherm.desk import theme
from zeotherm.desk.workview import SideView
from zeotherm.wording.language import _


class WorkSide(QWidget):
    """Shows a `SideView`."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.parts, self.sheet = QLabel(), QLabel()
        self._paper = QFrame()
        paper = QVBoxLayout(self._paper)
        paper.setContentsMargins(14, 12, 14, 12)
        paper.addWidget(self.sheet)
        stack = QVBoxLayout(self)
        stack.setContentsMargins(14, 10, 14, 12)
        stack.setSpacing(12)
        for label in (self.parts, self.sheet):
            label.setWordWrap(True)
            label.setTextFormat(Qt.TextFormat.RichText)
            label.setAlignment(Qt.AlignmentFlag.AlignTop)
        stack.addWidget(self.parts)
        stack.addWidget(self._paper)
        stack.addStretch()

    def show_side(self, view: SideView, title: str) -> None:
        """Show it; title: of the customer's sheet."""
        blocks = []
        if view.prints:
            blocks.append((_("Print before you begin"), "<br>".join(view.prints)))
        if view.parts:
            rows = "".join(f'<tr><td>{name}</td><td align="right"><b>{cost}</b></td></tr>' for name, cost in view.parts)
            blocks.append((f"{_('Parts')} {view.cost}".strip(), f'<table width="100%">{rows}</table>'))
        blocks.append((_("Tools"), ", ".join(view.tools) or "–"))
        blocks.append((_("To be shown"), view.proof))
        if view.choices:
            blocks.append((_("Settled"), "<br>".join(view.choices)))
        if view.left_out:
            blocks.append((_("Left out"), "<br>".join(view.left_out)))
        self.parts.setFont(theme.font(13))
        self.parts.setText(
            "".join(
                f"<p style='margin:0 0 9px 0'><b>{head}</b>{'' if text.startswith('<table') else '<br>'}{text}</p>"
                for head, text in blocks
            )
        )
        self._paper.setStyleSheet("QFrame { background: #ffffff; border: 1px solid #858C85; }")
        self.sheet.setFont(theme.font(12))
        lines = "".join(f"<p style='margin:0 0 6px 0'><b>{head}</b><br>{text}</p>" for head, text in view.sheet)
        self.sheet.setStyleSheet("border: none; color: #182124;")
        self.sheet.setText(f"<p style='margin:0 0 8px 0'><b>{title}</b></p>{lines}")
        self.sheet.setAccessibleName(_("The customer's sheet so far"))
        self.parts.setAccessibleName(_("Parts, tools and what has to be shown"))

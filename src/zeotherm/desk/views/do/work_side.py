"""Beside the steps: parts and tools before anything is taken apart, and the customer's sheet as it grows."""

from __future__ import annotations

from markupsafe import Markup, escape
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QFrame, QVBoxLayout, QWidget

from zeotherm.desk.style import theme
from zeotherm.desk.views.do.shown import SideView
from zeotherm.desk.widgets.labels import Rich
from zeotherm.wording.language import _


class WorkSide(QWidget):
    """Shows a `SideView`."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.parts, self.sheet = Rich(), Rich()
        self._paper = QFrame()
        paper = QVBoxLayout(self._paper)
        paper.setContentsMargins(14, 12, 14, 12)
        paper.addWidget(self.sheet)
        stack = QVBoxLayout(self)
        stack.setContentsMargins(14, 10, 14, 12)
        stack.setSpacing(12)
        for label in (self.parts, self.sheet):
            label.setWordWrap(True)
            label.setAlignment(Qt.AlignmentFlag.AlignTop)
        stack.addWidget(self.parts)
        stack.addWidget(self._paper)
        stack.addStretch()

    def show_side(self, view: SideView, title: str) -> None:
        """Show it; title: of the customer's sheet."""
        lines, table = Markup("<br>"), Markup('<table width="100%">{}</table>')
        row = Markup('<tr><td>{}</td><td align="right"><b>{}</b></td></tr>')
        blocks: list[tuple[str, Markup]] = []
        if view.prints:
            blocks.append((_("Print before you begin"), lines.join(view.prints)))
        if view.parts:
            rows = Markup("").join(row.format(name, cost) for name, cost in view.parts)
            blocks.append((f"{_('Parts')} {view.cost}".strip(), table.format(rows)))
        blocks.append((_("Tools"), escape(", ".join(view.tools) or "–")))
        blocks.append((_("To be shown"), escape(view.proof)))
        if view.choices:
            blocks.append((_("Settled"), lines.join(view.choices)))
        if view.left_out:
            blocks.append((_("Left out"), lines.join(view.left_out)))
        self.parts.setFont(theme.font(13))
        block = Markup("<p style='margin:0 0 9px 0'><b>{}</b>{}{}</p>")
        self.parts.setText(
            Markup("").join(
                block.format(head, Markup("") if text.startswith("<table") else lines, text) for head, text in blocks
            )
        )
        self._paper.setStyleSheet("QFrame { background: #ffffff; border: 1px solid #858C85; }")
        self.sheet.setFont(theme.font(12))
        told = Markup("").join(
            Markup("<p style='margin:0 0 6px 0'><b>{}</b><br>{}</p>").format(head, text) for head, text in view.sheet
        )
        self.sheet.setStyleSheet("border: none; color: #182124;")
        self.sheet.setText(Markup("<p style='margin:0 0 8px 0'><b>{}</b></p>{}").format(title, told))
        self.sheet.setAccessibleName(_("The customer's sheet so far"))
        self.parts.setAccessibleName(_("Parts, tools and what has to be shown"))

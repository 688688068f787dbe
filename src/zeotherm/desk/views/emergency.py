"""Smoke or runaway: what to do at once. One key leads here from everywhere."""

from __future__ import annotations

from markupsafe import Markup
from PyQt6.QtCore import QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QPainter, QPaintEvent
from PyQt6.QtWidgets import QFrame, QGridLayout, QHBoxLayout, QLabel, QPushButton, QScrollArea, QVBoxLayout, QWidget

from zeotherm.core.catalogue import Catalogue
from zeotherm.desk.style import theme
from zeotherm.desk.style.shapes import draw_hazard
from zeotherm.desk.widgets.labels import Plain, Rich
from zeotherm.wording.language import _


class _Sign(QWidget):
    """One large hazard sign."""

    def __init__(self, sign: str, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._sign = sign
        self.setFixedSize(40, 40)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        draw_hazard(painter, self._sign, QRectF(2, 2, 36, 36))
        painter.end()


class EmergencyView(QWidget):
    """The page; it does nothing but tell, and leads back."""

    back_wanted = pyqtSignal()

    def __init__(self, catalogue: Catalogue, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("page")
        self._catalogue = catalogue
        self.title = Plain(_("Pull the plug. People first."))
        self.title.setWordWrap(True)
        self.back = QPushButton(_("It is over: back (Esc)"))
        self.blocks: dict[str, QLabel] = {}
        head = QHBoxLayout()
        head.setContentsMargins(24, 14, 24, 6)
        head.addWidget(self.title, 1)
        head.addWidget(self.back)
        inside = QWidget()
        inside.setObjectName("page")
        grid = QGridLayout(inside)
        grid.setContentsMargins(24, 6, 24, 16)
        grid.setHorizontalSpacing(34)
        grid.setVerticalSpacing(18)
        for index, (key, about) in enumerate(catalogue.emergencies.items()):
            label = Rich()
            label.setWordWrap(True)
            label.setAlignment(Qt.AlignmentFlag.AlignTop)
            label.setAccessibleName(f"{about.label}. {' '.join(about.lines)}")
            self.blocks[key] = label
            cell = QHBoxLayout()
            cell.setSpacing(12)
            cell.addWidget(_Sign(about.sign), 0, Qt.AlignmentFlag.AlignTop)
            cell.addWidget(label, 1)
            grid.addLayout(cell, index // 2, index % 2)
        grid.setColumnStretch(0, 1)
        grid.setColumnStretch(1, 1)
        grid.setRowStretch(len(self.blocks), 1)
        scroll = QScrollArea()
        scroll.setWidget(inside)
        scroll.setWidgetResizable(True)
        scroll.setFrameShape(QFrame.Shape.NoFrame)
        stack = QVBoxLayout(self)
        stack.setContentsMargins(0, 0, 0, 0)
        stack.addLayout(head)
        stack.addWidget(scroll, 1)
        self.back.clicked.connect(self.back_wanted)
        self.refresh()

    def refresh(self) -> None:
        """Take up the theme."""
        self.title.setFont(theme.font(24, 700))
        self.title.setStyleSheet(f"color: {theme.tokens().over};")
        self.back.setFont(theme.font(13, 600))
        for key, label in self.blocks.items():
            about = self._catalogue.emergencies[key]
            label.setFont(theme.font(16))
            rows = Markup("").join(Markup("<li style='margin-bottom:5px'>{}</li>").format(line) for line in about.lines)
            template = Markup("<p style='margin:0'><b style='font-size:{}px'>{}</b></p>"
                              "<ol style='margin-top:6px; margin-left:-18px'>{}</ol>")  # fmt: skip
            label.setText(template.format(theme.scaled(20), about.label, rows))

"""What views share: the ladder's column, and the verdict above the body."""

from __future__ import annotations

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QButtonGroup, QHBoxLayout, QLayout, QPushButton, QVBoxLayout, QWidget

from zeotherm.desk.style import theme
from zeotherm.desk.style.patina import Span
from zeotherm.desk.widgets.ladder import Ladder
from zeotherm.desk.widgets.verdict import VerdictBand

COLUMN = 244
NARROW = 1180  # px of width below which side columns fold


def frame(page: QWidget, column: QWidget, verdict: VerdictBand, body: QLayout, below: QWidget | None = None) -> None:
    """Lay a page out: column at the left, verdict above the body at its right, and what goes below that."""
    right = QVBoxLayout()
    right.setSpacing(0)
    right.addWidget(verdict)
    right.addLayout(body, 1)
    if below is not None:
        right.addWidget(below)
    whole = QHBoxLayout(page)
    whole.setContentsMargins(0, 0, 0, 0)
    whole.setSpacing(0)
    whole.addWidget(column)
    whole.addLayout(right, 1)


class LadderColumn(QWidget):
    """The ladder with the buttons that choose its span."""

    chosen = pyqtSignal(object)  # Span

    def __init__(self, ladder_widget: Ladder, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.ladder = ladder_widget
        self.buttons: dict[Span, QPushButton] = {}
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        layout.addWidget(ladder_widget, 1)
        foot = QWidget()
        foot.setObjectName("foot")
        row = QHBoxLayout(foot)
        row.setContentsMargins(12, 4, 12, 4)
        self._group = QButtonGroup(self)
        for span in Span:
            button = QPushButton(f"{span.label} °C")
            button.setCheckable(True)
            self._group.addButton(button)
            button.clicked.connect(lambda _checked, span=span: self.set_span(span))
            self.buttons[span] = button
            row.addWidget(button)
        layout.addWidget(foot)
        self.setFixedWidth(theme.scaled(COLUMN))
        self.set_span(Span.FULL)

    def set_span(self, span: Span) -> None:
        """One span for the ladder, and for who listens."""
        self.span = span
        self.ladder.set_span(span)
        self.buttons[span].setChecked(True)
        self.chosen.emit(span)

    def next_span(self) -> None:
        """The other span."""
        spans = list(Span)
        self.set_span(spans[(spans.index(self.span) + 1) % len(spans)])

    def refresh(self) -> None:
        """Take up the theme."""
        self.setFixedWidth(theme.scaled(COLUMN))
        for button in self.buttons.values():
            button.setFont(theme.font(12, 600))
        self.setStyleSheet(
            f"QWidget#foot {{ background: {theme.tokens().panel}; border-top: 1px solid {theme.tokens().line}; }}"
        )

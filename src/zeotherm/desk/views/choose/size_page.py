"""What the sizing pages of Choose share: a wish typed into fields, answers in words, a page beside them."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Any, ClassVar

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import (
    QGridLayout,
    QHBoxLayout,
    QLayout,
    QLineEdit,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from zeotherm.desk.bench import Bench
from zeotherm.desk.style import theme
from zeotherm.desk.viewmodels import LadderView
from zeotherm.desk.widgets.labels import Plain, Rich, coloured, headed
from zeotherm.desk.widgets.tall import scrolled
from zeotherm.wording.language import _
from zeotherm.wording.numbers import plain
from zeotherm.wording.units import read_number


@dataclass(frozen=True, slots=True)
class WishField:
    """A field of a wish: label, unit and bounds."""

    label: str
    unit: str
    low: float
    high: float
    decimals: int = 0

    def read(self, text: str) -> float | None:
        """What was typed; none: it is no number, or out of bounds."""
        try:
            value = read_number(text)
        except ValueError:
            return None
        return value if self.low <= value <= self.high else None


def mark(field: QLineEdit, *, wrong: bool) -> None:
    """Show that what is in a field is wrong, or no longer."""
    field.setProperty("wrong", wrong)
    if (style := field.style()) is not None:
        style.unpolish(field)
        style.polish(field)


class SizePage(QWidget):
    """Fields at the right over answers in words; what the page itself shows at the left, over its buttons."""

    told = pyqtSignal(object)  # Verdict
    title = ""  # of its tab
    FIELDS: ClassVar[dict[str, WishField]] = {}  # of the wish, by its fields' names
    HEADS: ClassVar[dict[str, str]] = {}  # of the answers in words
    BELOW: ClassVar[tuple[str, ...]] = ()  # of them, those below what the page shows

    def __init__(self, bench: Bench, wish: Any, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._bench = bench
        self._wish = wish
        self._stale = True
        self.fields = {key: QLineEdit() for key in self.FIELDS}
        self.texts = {key: Rich() for key in self.HEADS}
        self.trouble = Rich()

    def begin(self) -> None:
        """Size what has not been sized, where it is looked at."""
        raise NotImplementedError

    @property
    def ladder_view(self) -> LadderView | None:
        """What is sized, on the ladder."""
        return None

    def price_anew(self) -> None:
        """What a kWh or an hour of work costs has changed."""
        self._stale = True
        if self.isVisible():
            self.begin()

    def solve(self) -> None:
        """Size all of it."""
        raise NotImplementedError

    def show_found(self) -> None:
        """Show what is known."""
        raise NotImplementedError

    @property
    def buttons(self) -> tuple[QPushButton, ...]:
        """Below what the page shows."""
        return ()

    def lay_out(self, shown: tuple[QWidget, ...]) -> None:
        """Put what the page shows, its buttons, and the side in their places; the last that is shown grows."""
        self.setObjectName("page")
        page = QWidget()
        page.setObjectName("page")
        stacked = QVBoxLayout(page)
        stacked.setContentsMargins(0, 0, 0, 0)
        stacked.setSpacing(2)
        for widget in shown:
            stacked.addWidget(widget, int(widget is shown[-1]))
        for key in self.BELOW:
            self.texts[key].setContentsMargins(16, 2, 16, 4)
            stacked.addWidget(self.texts[key])
        left = QVBoxLayout()
        left.setSpacing(2)
        left.addWidget(scrolled(page), 1)
        left.addLayout(self._button_row())
        side = QWidget()
        side.setObjectName("page")
        stack = QVBoxLayout(side)
        stack.setContentsMargins(14, 6, 14, 6)
        stack.setSpacing(8)
        stack.addLayout(self._grid())
        stack.addWidget(self.trouble)
        self.trouble.setWordWrap(True)
        for key, label in self.texts.items():
            label.setWordWrap(True)
            label.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
            if key not in self.BELOW:
                stack.addWidget(label)
        stack.addStretch()
        whole = QHBoxLayout(self)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.setSpacing(0)
        whole.addLayout(left, 3)
        whole.addWidget(scrolled(side), 2)

    def _button_row(self) -> QLayout:
        row = QHBoxLayout()
        row.setContentsMargins(16, 0, 16, 6)
        for button in self.buttons:
            row.addWidget(button)
        row.addStretch()
        return row

    def _grid(self) -> QLayout:
        grid = QGridLayout()
        for row, (key, asked) in enumerate(self.FIELDS.items()):
            label = Plain(f"{asked.label}, {asked.unit}" if asked.unit else asked.label)
            field = self.fields[key]
            label.setBuddy(field)
            field.setAccessibleName(asked.label)
            field.setAlignment(Qt.AlignmentFlag.AlignRight)
            field.setFixedWidth(theme.scaled(76))
            field.editingFinished.connect(lambda key=key: self._typed(key))
            grid.addWidget(label, row, 0)
            grid.addWidget(field, row, 1)
        return grid

    def _typed(self, key: str) -> None:
        asked, field = self.FIELDS[key], self.fields[key]
        value = asked.read(field.text())
        mark(field, wrong=value is None)
        if value is None:
            span = f"{plain(asked.low, 0)} {_('to')} {plain(asked.high, 0)} {asked.unit}".strip()
            self.say(_("{label}: a number from {span}, please.").format(label=asked.label, span=span))
        elif value != getattr(self._wish, key):
            self._wish = replace(self._wish, **{key: value})
            self.solve()

    def show_texts(self, parts: dict[str, tuple[str, ...]]) -> None:
        """Answers in words, each under its head."""
        soft = theme.tokens().soft
        for key, lines in parts.items():
            head = self.HEADS[key]
            text = headed(head, lines, soft)
            self.texts[key].setText(text if lines else "")
            self.texts[key].setAccessibleName(f"{head}: {' '.join(lines)}")
            self.texts[key].setVisible(bool(lines))

    def show_wish(self) -> None:
        """The wish, in its fields."""
        for key, field in self.fields.items():
            field.setText(plain(float(getattr(self._wish, key)), self.FIELDS[key].decimals))

    def say(self, text: str) -> None:
        """What is wrong, or nothing."""
        self.trouble.setText(coloured(text, theme.tokens().close) if text else "")
        self.trouble.setVisible(bool(text))

    def refresh(self) -> None:
        """Take up the theme."""
        for label in (*self.texts.values(), self.trouble):
            label.setFont(theme.font(12))
        for button in self.buttons:
            button.setFont(theme.font(13))
        self.show_wish()
        self.show_found()

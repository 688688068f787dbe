"""A few values asked for at once; what is refused stays open with its reason."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

from PyQt6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QDialog,
    QDialogButtonBox,
    QFormLayout,
    QLineEdit,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from zeotherm.desk.style import theme
from zeotherm.desk.widgets.labels import Plain
from zeotherm.desk.widgets.levers import DropField
from zeotherm.wording.language import _


@dataclass(frozen=True)
class DialogField:
    """One thing that is asked for: a text, a choice of (key, label), or yes and no."""

    key: str
    label: str
    value: str = ""
    hint: str = ""
    options: Sequence[tuple[str, str]] = ()
    yes_no: bool = False


Apply = Callable[[dict[str, str]], str]  # values by key; returns why they are refused, or nothing


class Ask(QDialog):
    """Fields in a form; the accepting button names what it does."""

    def __init__(
        self,
        title: str,
        why: str,
        fields: Sequence[DialogField],
        accept: str,
        apply: Apply,
        parent: QWidget | None = None,
    ) -> None:
        super().__init__(parent)
        self.setWindowTitle(title)
        self._apply = apply
        self.inputs: dict[str, QLineEdit | QComboBox | QCheckBox] = {}
        self.trouble = Plain()
        self.trouble.setWordWrap(True)
        self.trouble.setStyleSheet(f"color: {theme.tokens().close};")
        words = Plain(why)
        words.setWordWrap(True)
        form = QFormLayout()
        for field in fields:
            made = _input(field)
            made.setAccessibleName(field.label)
            self.inputs[field.key] = made
            form.addRow(Plain("" if field.yes_no else field.label), made)
        inner = QWidget()
        inner.setLayout(form)
        scroll = QScrollArea()
        scroll.setWidget(inner)
        scroll.setWidgetResizable(True)
        buttons = QDialogButtonBox()
        buttons.addButton(accept, QDialogButtonBox.ButtonRole.AcceptRole)
        buttons.addButton(_("Leave as it was"), QDialogButtonBox.ButtonRole.RejectRole)
        buttons.accepted.connect(self._take)
        buttons.rejected.connect(self.reject)
        stack = QVBoxLayout(self)
        stack.setSizeConstraint(QVBoxLayout.SizeConstraint.SetNoConstraint)
        stack.addWidget(words)
        stack.addWidget(scroll, 1)
        stack.addWidget(self.trouble)
        stack.addWidget(buttons)
        self.resize(theme.scaled(540), theme.scaled(min(190 + 42 * len(fields) + 19 * why.count("\n"), 640)))

    def values(self) -> dict[str, str]:
        """What is in the fields."""
        return {key: _value(made) for key, made in self.inputs.items()}

    def _take(self) -> None:
        refused = self._apply(self.values())
        self.trouble.setText(refused)
        if not refused:
            self.accept()


def _input(field: DialogField) -> QLineEdit | QComboBox | QCheckBox:
    if field.yes_no:
        check = QCheckBox(field.label)
        check.setChecked(field.value == "yes")
        return check
    if field.options:
        box = DropField()
        for key, label in field.options:
            box.addItem(label, key)
        box.setCurrentIndex(max(box.findData(field.value), 0))
        return box
    line = QLineEdit(field.value)
    line.setPlaceholderText(field.hint)
    return line


def _value(made: QLineEdit | QComboBox | QCheckBox) -> str:
    if isinstance(made, QCheckBox):
        return "yes" if made.isChecked() else ""
    return str(made.currentData()) if isinstance(made, QComboBox) else made.text().strip()

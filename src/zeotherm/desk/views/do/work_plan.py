"""What is to be done, before the order is written: procedures that fit, and what is settled beforehand."""

from __future__ import annotations

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QCheckBox, QComboBox, QGridLayout, QLineEdit, QSizePolicy, QVBoxLayout, QWidget

from zeotherm.desk.style import theme
from zeotherm.desk.views.do.shown import PlanView
from zeotherm.desk.widgets.labels import Plain
from zeotherm.wording.language import _


class WorkPlan(QWidget):
    """Shows a `PlanView`."""

    picked = pyqtSignal(str)  # procedure
    settled = pyqtSignal(str, str)  # choice, option
    failed_after = pyqtSignal(str)  # minutes, as typed

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setFocusPolicy(Qt.FocusPolicy.ClickFocus)
        self.checks: dict[str, QCheckBox] = {}
        self.boxes: dict[str, QComboBox] = {}
        self._shape: object = None
        self.head, self.settle_head = Plain(_("What is to be done")), Plain(_("Settle before you begin"))
        self.else_head = Plain(_("What else could be done"))
        self.failed_label = Plain(_("It failed after"))
        self.failed = QLineEdit()
        self.failed.setPlaceholderText(_("min of printing"))
        self.failed.setAccessibleName(_("Minutes of printing until it failed"))
        self._works, self._others, self._choices = QVBoxLayout(), QVBoxLayout(), QGridLayout()
        self._works.setSpacing(2)
        self._others.setSpacing(2)
        self._choices.setHorizontalSpacing(10)
        self._choices.setColumnStretch(1, 1)
        stack = QVBoxLayout(self)
        stack.setContentsMargins(20, 10, 16, 14)
        stack.setSpacing(9)
        stack.addWidget(self.head)
        stack.addLayout(self._works)
        stack.addSpacing(8)
        stack.addWidget(self.settle_head)
        stack.addLayout(self._choices)
        stack.addSpacing(8)
        stack.addWidget(self.else_head)
        stack.addLayout(self._others)
        stack.addStretch()
        self.failed.editingFinished.connect(lambda: self.failed_after.emit(self.failed.text()))

    def show_plan(self, view: PlanView, failed: str) -> None:
        """Show it; failed: how long it printed, as it is known."""
        shape = ([(one[0], one[3]) for one in view.works], [one[0] for one in view.choices], theme.tokens().name)
        if shape != self._shape:
            self._shape = shape
            held = next((key for key, check in self.checks.items() if check.hasFocus()), "")
            if held:
                self.setFocus(Qt.FocusReason.OtherFocusReason)
            self._build(view)
            if held in self.checks:
                self.checks[held].setFocus(Qt.FocusReason.OtherFocusReason)
        t = theme.tokens()
        some = any(on for _key, _label, _why, on, _refused in view.works)
        self.head.setText(_("What is to be done") if some else _("Nothing yet: take options on Choose, or pick below"))
        for label in (self.head, self.settle_head, self.else_head):
            label.setFont(theme.font(14, 700))
        for key, _label, _why, on, refused in view.works:
            self.checks[key].setChecked(on)
            self.checks[key].setEnabled(on or not refused)
            self._whys[key].setText(refused or self._reasons[key])
            self._whys[key].setStyleSheet(f"color: {t.close if refused else t.soft};")
        for key, _label, _options, taken in view.choices:
            box = self.boxes[key]
            box.setCurrentIndex(max(box.findData(taken), 0))
            box.setToolTip(box.currentText())
        if not self.failed.hasFocus():
            self.failed.setText(failed)

    def _build(self, view: PlanView) -> None:
        for layout in (self._works, self._others, self._choices):
            while layout.count():
                item = layout.takeAt(0)
                if item is not None and (widget := item.widget()) is not None and widget not in (
                    self.failed, self.failed_label
                ):  # fmt: skip
                    widget.hide()
                    widget.deleteLater()
        self.checks, self.boxes, self._whys, self._reasons = {}, {}, {}, {}
        for key, label, why, on, _refused in view.works:
            check, reason = QCheckBox(label), Plain(why)
            check.setFont(theme.font(13, 600))
            check.setMinimumHeight(theme.scaled(26))
            check.clicked.connect(lambda _on=False, key=key: self.picked.emit(key))
            reason.setFont(theme.font(12))
            reason.setWordWrap(True)
            reason.setContentsMargins(24, 0, 0, 4)
            reason.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Minimum)
            self.checks[key], self._whys[key], self._reasons[key] = check, reason, why
            for widget in (check, reason):
                (self._works if on else self._others).addWidget(widget)
        for row, (key, label, options, _taken) in enumerate(view.choices):
            name, box = Plain(label), QComboBox()
            name.setFont(theme.font(13))
            box.setFont(theme.font(13))
            box.setAccessibleName(label)
            box.setMinimumContentsLength(8)
            box.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
            box.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
            for option, text in options:
                box.addItem(text, option)
            box.activated.connect(lambda _index, key=key, box=box: self.settled.emit(key, str(box.currentData())))
            self.boxes[key] = box
            self._choices.addWidget(name, row, 0, Qt.AlignmentFlag.AlignVCenter)
            self._choices.addWidget(box, row, 1)
        self.failed_label.setFont(theme.font(13))
        self.failed.setFont(theme.font(13))
        self.failed.setFixedWidth(theme.scaled(140))
        self._choices.addWidget(self.failed_label, len(view.choices), 0)
        self._choices.addWidget(self.failed, len(view.choices), 1)
        self.failed_label.show()
        self.failed.show()

"""A guided test: its steps to tick, its holds to time, what must be equal."""

from __future__ import annotations

import time

from PyQt6.QtCore import QRectF, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QPainter, QPaintEvent
from PyQt6.QtWidgets import QCheckBox, QComboBox, QGridLayout, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from zeotherm.core.catalogue import Catalogue
from zeotherm.core.catalogue.measuring import Protocol
from zeotherm.desk.qt import copy_text
from zeotherm.desk.style import theme
from zeotherm.desk.style.shapes import draw_hazard
from zeotherm.desk.widgets.cautions import WORDS
from zeotherm.desk.widgets.labels import Plain
from zeotherm.wording.language import _
from zeotherm.wording.runs import protocol_text, span


class StepHazards(QWidget):
    """The hazards of one step, each with its word."""

    def __init__(self, signs: tuple[str, ...], parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._signs = signs
        self.setFixedSize(theme.scaled(74) * max(len(signs), 0), theme.scaled(22))
        self.setAccessibleName(", ".join(WORDS[sign] for sign in signs))

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setFont(theme.font(12, 600))
        for index, sign in enumerate(self._signs):
            x = index * theme.scaled(74)
            draw_hazard(painter, sign, QRectF(x + 1, 2, 18, 18))
            painter.setPen(theme.tokens()["close"])
            painter.drawText(QRectF(x + 24, 0, 60, 22), Qt.AlignmentFlag.AlignVCenter, WORDS[sign])
        painter.end()


class Hold(QPushButton):
    """Times one hold; says so when it is over. Pressed again it begins anew."""

    over = pyqtSignal()

    def __init__(self, minutes: float, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._seconds = minutes * 60.0
        self._since: float | None = None
        self._timer = QTimer(self)
        self._timer.setInterval(250)
        self._timer.timeout.connect(self._tick)
        self.clicked.connect(self.begin)
        self._say()

    def begin(self) -> None:
        """Start to count."""
        self._since = time.monotonic()
        self._timer.start()
        self._say()

    @property
    def left(self) -> float:
        """Seconds still to hold; all of them before it began."""
        return self._seconds if self._since is None else max(self._seconds - (time.monotonic() - self._since), 0.0)

    def _tick(self) -> None:
        if self.left <= 0.0:
            self._timer.stop()
            self.over.emit()
        self._say()

    def _say(self) -> None:
        if self._since is None:
            self.setText(_("Hold {span}: start").format(span=span(self._seconds)))
        elif self.left > 0.0:
            self.setText(_("{span} left").format(span=span(self.left)))
        else:
            self.setText(_("Held {span}").format(span=span(self._seconds)))


class ProtocolCard(QWidget):
    """Chooses and shows a guided test."""

    chosen = pyqtSignal(object)  # id of the test, or None
    ticked = pyqtSignal(int)  # step

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.box = QComboBox()
        self.box.setAccessibleName(_("Guided test"))
        self.why, self.equal, self.cautions = Plain(), Plain(), Plain()
        for label in (self.why, self.equal, self.cautions):
            label.setWordWrap(True)
        self.steps = QGridLayout()
        self.steps.setHorizontalSpacing(10)
        self.steps.setVerticalSpacing(6)
        self.steps.setColumnStretch(1, 1)
        self.checks: list[QCheckBox] = []
        self.holds: dict[int, Hold] = {}
        self._shown: tuple[str | None, str] = (None, "")
        self.text = ""  # the test as text, for a message or a print
        head = QHBoxLayout()
        head.addWidget(self.box)
        self.copy = QPushButton(_("Copy as text"))
        self.copy.clicked.connect(lambda: copy_text(self.text))
        head.addWidget(self.copy)
        head.addStretch()
        stack = QVBoxLayout(self)
        stack.setContentsMargins(16, 8, 16, 8)
        stack.setSpacing(8)
        stack.addLayout(head)
        stack.addWidget(self.why)
        stack.addWidget(self.cautions)
        stack.addLayout(self.steps)
        stack.addWidget(self.equal)
        stack.addStretch()
        self.box.activated.connect(lambda _index: self.chosen.emit(self.box.currentData()))

    def show_protocol(self, key: str | None, ticked: list[int], catalogue: Catalogue) -> None:
        """Show a test with its steps that are done; None: none is followed."""
        if self.box.count() == 0:
            self.box.addItem(_("No guided test"), None)
            for name, one in catalogue.protocols.items():
                self.box.addItem(one.label, name)
        self.box.setCurrentIndex(max(self.box.findData(key), 0))
        protocol = catalogue.protocols.get(key or "")
        if self._shown != (key, theme.tokens().name):  # holds that run go on while steps are ticked
            self._shown = (key, theme.tokens().name)
            self._lay_steps(protocol)
        for index, check in enumerate(self.checks):
            check.setChecked(index in ticked)
        self._say(protocol, catalogue)

    def _say(self, protocol: Protocol | None, catalogue: Catalogue) -> None:
        t = theme.tokens()
        self.why.setFont(theme.font(14, 600))
        self.equal.setFont(theme.font(12))
        self.cautions.setFont(theme.font(12))
        self.cautions.setStyleSheet(f"color: {t.close};")
        self.equal.setStyleSheet(f"color: {t.soft};")
        self.copy.setVisible(protocol is not None)
        self.text = protocol_text(protocol, catalogue) if protocol is not None else ""
        if protocol is None:
            self.why.setText(_("Choose a test: its steps, its holds, and what must be equal appear here."))
            self.equal.setText("")
            self.cautions.setText("")
            return
        self.why.setText(protocol.why)
        names = ", ".join(catalogue.conditions[one].label.lower() for one in protocol.equal)
        told = _("Must be equal in every run: {names}.").format(names=names)
        if protocol.runs > 1:
            told += " " + _("At least {count} runs.").format(count=protocol.runs)
        self.equal.setText(told)
        self.cautions.setText("\n".join(catalogue.cautions[one].text for one in protocol.cautions))

    def _lay_steps(self, protocol: Protocol | None) -> None:
        while self.steps.count():
            item = self.steps.takeAt(0)
            if item is not None and (widget := item.widget()) is not None:
                widget.hide()
                widget.deleteLater()
        self.checks, self.holds = [], {}
        for index, step in enumerate(protocol.steps if protocol is not None else ()):
            check = QCheckBox(f"{index + 1}")
            check.setFont(theme.font(14, 600))
            check.setAccessibleName(_("Step {number} done: {text}").format(number=index + 1, text=step.text))
            check.clicked.connect(lambda _on=False, index=index: self.ticked.emit(index))
            text = Plain(step.text)
            text.setWordWrap(True)
            text.setFont(theme.font(13))
            self.steps.addWidget(check, index, 0, Qt.AlignmentFlag.AlignTop)
            self.steps.addWidget(text, index, 1)
            if step.signs:
                self.steps.addWidget(StepHazards(step.signs), index, 2)
            if step.hold_min:
                hold = Hold(step.hold_min)
                hold.setFont(theme.font(13))
                self.holds[index] = hold
                self.steps.addWidget(hold, index, 3)
            self.checks.append(check)

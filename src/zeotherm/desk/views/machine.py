"""All of the machine: every number and part of the setup, and what has a time, to look at and to change."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import (
    QDialog,
    QFrame,
    QHBoxLayout,
    QLineEdit,
    QPushButton,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from zeotherm.core.machine.documents import Job
from zeotherm.desk.bench import Bench
from zeotherm.desk.style import theme
from zeotherm.desk.viewmodels import machine_rows, timed_lines
from zeotherm.desk.views.own_part import OwnPart
from zeotherm.desk.widgets.labels import Plain
from zeotherm.desk.widgets.levers import Levers
from zeotherm.wording.language import _


class MachineDialog(QDialog):
    """Stays open beside the window. What is changed here goes on trial like any lever once it is known; a value that
    was only assumed is entered so."""

    def __init__(self, bench: Bench, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle(_("All of the machine"))
        self.setWindowFlag(Qt.WindowType.Window, True)
        self._bench = bench
        self.levers = Levers(lambda row, text: bench.typed(row.path, text), _("Every number and part"))
        self.sought = QLineEdit()
        self.sought.setPlaceholderText(_("Find: bed lead, supply, case, fan ..."))
        self.sought.setAccessibleName(_("Find a number or part"))
        self.sought.setClearButtonEnabled(True)
        self.sought.textChanged.connect(lambda _text: self.show_job(bench.job))
        self.timed = QVBoxLayout()
        self._hint = Plain(
            _("Type into the entry line: sun 90 W 11:54 to 15:42 · pause after 60 min for 12 min at 160 °C")
        )
        self._hint.setWordWrap(True)
        scroll = QScrollArea()
        scroll.setWidget(self.levers)
        scroll.setWidgetResizable(True)
        scroll.setFrameShape(QFrame.Shape.NoFrame)
        self._head = Plain(_("Heat from outside, pauses, faults"))
        below = QVBoxLayout()
        below.setContentsMargins(16, 8, 16, 12)
        below.setSpacing(4)
        below.addWidget(self._head)
        below.addLayout(self.timed)
        below.addWidget(self._hint)
        stack = QVBoxLayout(self)
        stack.setContentsMargins(0, 0, 0, 0)
        stack.setSpacing(0)
        stack.setSizeConstraint(QVBoxLayout.SizeConstraint.SetNoConstraint)
        finding = QHBoxLayout()
        finding.setContentsMargins(16, 10, 16, 4)
        finding.addWidget(self.sought)
        stack.addLayout(finding)
        stack.addWidget(scroll, 1)
        stack.addLayout(below)
        self.levers.set_to.connect(lambda path, value, dragging: bench.describe(path, value, dragging=dragging))
        self.levers.reset.connect(bench.set_found)
        self.levers.known.connect(bench.set_known)
        self.levers.measured.connect(bench.set_measured)
        self.levers.make.connect(lambda path: OwnPart(bench, path, self.window()).exec())
        bench.job_changed.connect(self.show_job)
        self.resize(560, 680)
        self.refresh()

    def refresh(self) -> None:
        """Take up the theme and the job."""
        self.sought.setFont(theme.font(13))
        self._head.setFont(theme.font(14, 700))
        self._hint.setFont(theme.font(12))
        self._hint.setStyleSheet(f"color: {theme.tokens().soft};")
        self.show_job(self._bench.job)

    def show_job(self, job: Job) -> None:
        words = self.sought.text().lower().split()
        rows = machine_rows(job, self._bench.catalogue)
        told = [row for row in rows if all(word in f"{row.label} {row.path}".lower() for word in words)]
        self.levers.show_rows(tuple(told))
        while self.timed.count():
            item = self.timed.takeAt(0)
            if item is not None and (widget := item.widget()) is not None:
                widget.deleteLater()
        for text, forget in timed_lines(job):
            line = QWidget()
            row = QHBoxLayout(line)
            row.setContentsMargins(0, 0, 0, 0)
            label = Plain(text)
            label.setFont(theme.font(13))
            button = QPushButton(_("Take away"))
            button.setAutoDefault(False)  # Enter belongs to the field it is typed in
            button.setAccessibleName(_("Take away {what}").format(what=text))
            button.clicked.connect(lambda _on=False, forget=forget: self._bench.enter(forget))
            row.addWidget(label, 1)
            row.addWidget(button)
            self.timed.addWidget(line)

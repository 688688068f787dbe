"""The words of a job, typed in a dialog."""

from __future__ import annotations

from PyQt6.QtWidgets import QDialog, QDialogButtonBox, QFormLayout, QLayout, QLineEdit, QPlainTextEdit, QWidget

from zeotherm.core.machine.documents import Job
from zeotherm.wording.language import _


class Describe(QDialog):
    """The words of a job: machine, place, complaint."""

    def __init__(self, job: Job, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle(_("Describe this job"))
        self.machine = QLineEdit(job.machine)
        self.place = QLineEdit(job.place)
        self.complaint = QPlainTextEdit(job.complaint)
        self.complaint.setTabChangesFocus(True)
        form = QFormLayout(self)
        form.setSizeConstraint(QLayout.SizeConstraint.SetNoConstraint)
        form.addRow(_("Machine"), self.machine)
        form.addRow(_("Place"), self.place)
        form.addRow(_("What goes wrong"), self.complaint)
        buttons = QDialogButtonBox()
        buttons.addButton(_("Keep these words"), QDialogButtonBox.ButtonRole.AcceptRole)
        buttons.addButton(_("Leave as it was"), QDialogButtonBox.ButtonRole.RejectRole)
        buttons.accepted.connect(self.accept)
        buttons.rejected.connect(self.reject)
        form.addRow(buttons)
        self.resize(520, 300)

    def words(self) -> tuple[str, str, str]:
        """Machine, place, complaint as typed."""
        return self.machine.text().strip(), self.place.text().strip(), self.complaint.toPlainText().strip()

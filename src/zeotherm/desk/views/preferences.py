"""What a shop prefers: light or dark, the size of text, the currency of its prices."""

from __future__ import annotations

from PyQt6.QtWidgets import QDialog, QDialogButtonBox, QFormLayout, QLayout, QLineEdit, QWidget

from zeotherm.desk.widgets.labels import Plain
from zeotherm.desk.widgets.levers import DropField
from zeotherm.wording.language import _

SYSTEM = "system"
LOOKS = {SYSTEM: _("As the system"), "light": _("Light"), "dark": _("Dark")}
SIZES = (0.9, 1.0, 1.1, 1.2, 1.3, 1.4, 1.5)
LONGEST = 4  # letters of a currency


class Preferences(QDialog):
    """Kept with the workshop; prices of the job on the bench take the currency, too."""

    def __init__(self, look: str, text: float, currency: str, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle(_("Preferences"))
        self.look, self.text, self.currency = DropField(), DropField(), QLineEdit(currency)
        for key, label in LOOKS.items():
            self.look.addItem(label, key)
        self.look.setCurrentIndex(max(self.look.findData(look), 0))
        for size in SIZES:
            self.text.addItem(_("{share} %").format(share=round(100 * size)), size)
        self.text.setCurrentIndex(min(range(len(SIZES)), key=lambda at: abs(SIZES[at] - text)))
        self.currency.setMaxLength(LONGEST)
        self.wrong = Plain()
        self.wrong.setWordWrap(True)
        form = QFormLayout(self)
        form.setSizeConstraint(QLayout.SizeConstraint.SetNoConstraint)
        form.addRow(_("Light or dark"), self.look)
        form.addRow(_("Text"), self.text)
        form.addRow(_("Currency"), self.currency)
        form.addRow(Plain(_("For this job and new ones. Prices are not converted.")))
        form.addRow(self.wrong)
        buttons = QDialogButtonBox()
        buttons.addButton(_("Keep"), QDialogButtonBox.ButtonRole.AcceptRole)
        buttons.addButton(_("Leave as it was"), QDialogButtonBox.ButtonRole.RejectRole)
        buttons.accepted.connect(self.keep)
        buttons.rejected.connect(self.reject)
        form.addRow(buttons)
        self.resize(420, 230)

    @property
    def chosen(self) -> tuple[str, float, str]:
        """Look, size of text, currency."""
        return str(self.look.currentData()), float(self.text.currentData()), self.currency.text().strip()

    def keep(self) -> None:
        """Take them, once there is a currency."""
        if not self.chosen[2]:
            self.wrong.setText(_("Type a currency: a sign or up to four letters."))
            self.currency.setFocus()
            return
        self.accept()

"""What a shop prefers: light or dark, the size of text, the currency of its prices."""

from __future__ import annotations

from dataclasses import dataclass

from PyQt6.QtWidgets import QDialog, QDialogButtonBox, QFormLayout, QLayout, QLineEdit, QWidget

from zeotherm.desk.widgets.labels import Plain
from zeotherm.desk.widgets.levers import DropField
from zeotherm.wording.language import _
from zeotherm.wording.units import NotANumberError, read_number

SYSTEM = "system"
LOOKS = {SYSTEM: _("As the system"), "light": _("Light"), "dark": _("Dark")}
SIZES = (0.9, 1.0, 1.1, 1.2, 1.3, 1.4, 1.5)
LONGEST = 4  # letters of a currency


MOST_A_KWH, MOST_AN_HOUR = 1000.0, 1e5  # in whatever currency


@dataclass(frozen=True, slots=True)
class Preferred:
    """What a shop prefers."""

    look: str
    text: float  # times the usual size
    currency: str
    tariff: float  # of a kWh
    hourly: float  # of an hour's work; zero: work is not priced


class Preferences(QDialog):
    """Kept with the workshop; prices of the job on the bench take the currency, too."""

    def __init__(self, now: Preferred, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle(_("Preferences"))
        self.look, self.text, self.currency = DropField(), DropField(), QLineEdit(now.currency)
        self.tariff, self.hourly = QLineEdit(f"{now.tariff:g}"), QLineEdit(f"{now.hourly:g}")
        for key, label in LOOKS.items():
            self.look.addItem(label, key)
        self.look.setCurrentIndex(max(self.look.findData(now.look), 0))
        for size in SIZES:
            self.text.addItem(_("{share} %").format(share=round(100 * size)), size)
        self.text.setCurrentIndex(min(range(len(SIZES)), key=lambda at: abs(SIZES[at] - now.text)))
        self.currency.setMaxLength(LONGEST)
        self.wrong = Plain()
        self.wrong.setWordWrap(True)
        form = QFormLayout(self)
        form.setSizeConstraint(QLayout.SizeConstraint.SetNoConstraint)
        form.addRow(_("Light or dark"), self.look)
        form.addRow(_("Text"), self.text)
        form.addRow(_("Currency"), self.currency)
        form.addRow(Plain(_("For this job and new ones. Prices are not converted.")))
        form.addRow(_("Electricity, per kWh"), self.tariff)
        form.addRow(_("Work, per hour"), self.hourly)
        form.addRow(Plain(_("With 0 per hour, options on the board are priced by their parts alone.")))
        form.addRow(self.wrong)
        buttons = QDialogButtonBox()
        buttons.addButton(_("Keep"), QDialogButtonBox.ButtonRole.AcceptRole)
        buttons.addButton(_("Leave as it was"), QDialogButtonBox.ButtonRole.RejectRole)
        buttons.accepted.connect(self.keep)
        buttons.rejected.connect(self.reject)
        form.addRow(buttons)
        self.resize(420, 330)

    @property
    def chosen(self) -> Preferred:
        """What is entered. Raises NotANumberError."""
        return Preferred(
            str(self.look.currentData()), float(self.text.currentData()), self.currency.text().strip(),
            read_number(self.tariff.text()), read_number(self.hourly.text()),
        )  # fmt: skip

    def keep(self) -> None:
        """Take them, once there is a currency, and prices that are numbers."""
        if not self.currency.text().strip():
            self._refuse(self.currency, _("Type a currency: a sign or up to four letters."))
            return
        for field, name, most in (
            (self.tariff, _("Electricity"), MOST_A_KWH), (self.hourly, _("Work"), MOST_AN_HOUR),
        ):  # fmt: skip
            try:
                value = read_number(field.text())
            except NotANumberError as wrong:
                self._refuse(field, _("{name}: {why}").format(name=name, why=wrong))
                return
            if not 0.0 <= value <= most:
                self._refuse(field, _("{name} goes from 0 to {most}.").format(name=name, most=f"{most:g}"))
                return
        self.accept()

    def _refuse(self, field: QLineEdit, why: str) -> None:
        self.wrong.setText(why)
        field.setFocus()

"""A part that is on no shelf, made from one that is: its name, and the figures that are read off it."""

from __future__ import annotations

from PyQt6.QtWidgets import QDialog, QDialogButtonBox, QFormLayout, QLayout, QLineEdit, QWidget

from zeotherm.core.catalogue.fitting import fitting
from zeotherm.core.catalogue.own import OwnFigure, Stated, told_of
from zeotherm.core.machine.documents import declaration
from zeotherm.core.machine.patches import value_at
from zeotherm.core.machine.quantity import Choice
from zeotherm.desk.bench import Bench
from zeotherm.desk.qt import put_on
from zeotherm.desk.widgets.labels import Plain
from zeotherm.desk.widgets.levers import DropField
from zeotherm.shop.editing.edits import RefusedError
from zeotherm.shop.errors import ShopError
from zeotherm.wording.language import _
from zeotherm.wording.units import NotANumberError, read_number


class OwnPart(QDialog):
    """Name, what it is most like, and its figures; what is left as it is is that of the other part."""

    def __init__(self, bench: Bench, path: str, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        item = declaration(path)
        assert isinstance(item, Choice)
        self._bench, self._path, self._shelf = bench, path, item.shelf
        kind = bench.catalogue.own_figures[item.shelf]
        self.setWindowTitle(_("New part: {kind}").format(kind=kind.label))
        setup = bench.job.setup()
        self._fits = fitting(item, setup, bench.catalogue)
        self.name, self.like = QLineEdit(), DropField()
        self.name.setPlaceholderText(_("What its label says"))
        self.name.setAccessibleName(_("Name"))
        for key, entry in self._fits.items():
            self.like.addItem(entry.label, key)
        self.like.setCurrentIndex(max(self.like.findData(str(value_at(setup, path))), 0))
        self.fields: dict[str, QLineEdit] = {}
        form = QFormLayout(self)
        form.setSizeConstraint(QLayout.SizeConstraint.SetNoConstraint)
        form.addRow(_("Name"), self.name)
        form.addRow(_("Most like"), self.like)
        for figure in kind.figures:
            self.fields[figure.at] = field = QLineEdit()
            field.setAccessibleName(figure.label)
            form.addRow(_("{figure}, {unit}").format(figure=figure.label, unit=figure.unit), field)
        told = Plain(_("Enter what its label says. Everything else is copied from the part it is most like."))
        told.setWordWrap(True)
        form.addRow(told)
        self.wrong = Plain()
        self.wrong.setWordWrap(True)
        form.addRow(self.wrong)
        buttons = QDialogButtonBox()
        buttons.addButton(_("Make and fit"), QDialogButtonBox.ButtonRole.AcceptRole)
        buttons.addButton(_("Leave as it was"), QDialogButtonBox.ButtonRole.RejectRole)
        buttons.accepted.connect(self.make)
        buttons.rejected.connect(self.reject)
        form.addRow(buttons)
        self.like.activated.connect(self.fill)
        self.fill()
        self.resize(480, self.sizeHint().height())

    @property
    def _figures(self) -> tuple[OwnFigure, ...]:
        return self._bench.catalogue.own_figures[self._shelf].figures

    def fill(self) -> None:
        """Put in the figures of the part that it is like, where nothing was typed."""
        entry = self._fits[str(self.like.currentData())]
        for figure in self._figures:
            field = self.fields[figure.at]
            if not field.isModified():
                value = told_of(entry, figure)
                field.setText("" if value is None else f"{value:.6g}")
                field.setModified(False)

    def make(self) -> None:
        """Make the part and fit it; what is wrong is said, and nothing is lost."""
        told, first = {}, None
        for figure in self._figures:
            field = self.fields[figure.at]
            put_on(field, "wrong", False)
            if not field.isModified() or not field.text().strip():
                continue
            try:
                told[figure.at] = Stated(read_number(field.text()))
            except NotANumberError as wrong:
                put_on(field, "wrong", True)
                first = first or (field, f"{figure.label}: {wrong}")
        if first is not None:
            self._say(first[1])
            first[0].setFocus()
            return
        try:
            self._bench.make_part(self._path, str(self.like.currentData()), self.name.text(), told)
        except (RefusedError, ShopError) as wrong:
            self._say(str(wrong))
            return
        self.accept()

    def _say(self, text: str) -> None:
        self.wrong.setText(text)

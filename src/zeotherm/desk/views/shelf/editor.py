"""One part of a shelf: its figures to look at and to change, how each is known, and what the drawer has of it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QGridLayout, QHBoxLayout, QLineEdit, QPushButton, QSizePolicy, QVBoxLayout, QWidget

from zeotherm.core.catalogue.own import SOURCES, OwnFigure, OwnKind, Stated, stated, takes_half, takes_source
from zeotherm.core.catalogue.shelves import FanKind
from zeotherm.desk.qt import put_on
from zeotherm.desk.style import theme
from zeotherm.desk.views.shelf.curve import FanCurve
from zeotherm.desk.widgets.labels import Plain, Rich, headed
from zeotherm.desk.widgets.levers import DropField
from zeotherm.shop.files.shelf_files import Drawer
from zeotherm.wording import shelf as words
from zeotherm.wording.language import _
from zeotherm.wording.units import NotANumberError, number_in, read_number

Draft = tuple[str, Mapping[str, tuple[str, str, int]]]  # name; of each figure value and half-width typed, source


@dataclass
class Line:
    """The fields of one figure."""

    figure: OwnFigure
    known: Stated
    label: Plain
    value: QLineEdit
    half: QLineEdit
    source: DropField


class Editor(QWidget):
    """What is typed is told at once, and kept only where a button says so."""

    typed = pyqtSignal(object)  # what differs from the shelf: dict[str, Stated]
    keep_wanted = pyqtSignal(str)  # under this name
    drop_wanted = pyqtSignal()
    back_wanted = pyqtSignal()
    fit_wanted = pyqtSignal()
    drawer_told = pyqtSignal(object)  # Drawer

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("page")
        self.kind: OwnKind | None = None
        self.lines: dict[str, Line] = {}
        self._own = False
        self.head, self.aside = Plain(), Plain()
        self.curve = FanCurve()
        self.name = QLineEdit()
        self.name.setAccessibleName(_("Name"))
        self.price, self.count = QLineEdit(), QLineEdit()
        self.wrong = Plain()
        self.users, self.stakes = Rich(), Rich()
        self.keep, self.back = QPushButton(_("Keep as own part")), QPushButton(_("Leave as it was"))
        self.drop, self.fit = QPushButton(_("Take off the shelf")), QPushButton(_("Fit it"))
        self._grid = QGridLayout()
        self._grid.setContentsMargins(0, 0, 0, 0)
        self._grid.setHorizontalSpacing(6)
        self._grid.setVerticalSpacing(3)
        self._lay_out()
        self.name.editingFinished.connect(self._tell)
        self.keep.clicked.connect(lambda: self.keep_wanted.emit(self.name.text()))
        self.drop.clicked.connect(self.drop_wanted)
        self.back.clicked.connect(self.back_wanted)
        self.fit.clicked.connect(self.fit_wanted)
        for field in (self.price, self.count):
            field.editingFinished.connect(self._tell_drawer)

    def _lay_out(self) -> None:
        top = QHBoxLayout()
        top.addWidget(self.head, 1)
        top.addWidget(self.aside)
        naming, kept, row, last = QHBoxLayout(), QHBoxLayout(), QHBoxLayout(), QHBoxLayout()
        self._naming = Plain(_("Name"))
        naming.addWidget(self._naming)
        naming.addWidget(self.name, 1)
        self._price, self._count = Plain(), Plain(_("In the drawer"))
        for label, field in ((self._price, self.price), (self._count, self.count)):
            field.setFixedWidth(theme.scaled(64))
            field.setAlignment(Qt.AlignmentFlag.AlignRight)
            kept.addWidget(label)
            kept.addWidget(field)
        kept.addStretch()
        for line, buttons in ((row, (self.fit, self.drop)), (last, (self.back, self.keep))):
            for button in buttons:
                line.addWidget(button)
        stack = QVBoxLayout(self)
        stack.setContentsMargins(16, 8, 14, 8)
        stack.setSpacing(7)
        stack.addLayout(top)
        stack.addWidget(self.curve)
        stack.addLayout(naming)
        stack.addLayout(self._grid)
        stack.addWidget(self.wrong)
        stack.addWidget(self.users)
        stack.addWidget(self.stakes)
        stack.addStretch()
        stack.addLayout(kept)
        stack.addLayout(row)
        stack.addLayout(last)
        for wrapped in (self.head, self.wrong, self.users, self.stakes):
            wrapped.setWordWrap(True)

    def refresh(self) -> None:
        """Take up the theme."""
        soft = f"color: {theme.tokens().soft};"
        self.head.setFont(theme.font(15, 700))
        self.wrong.setFont(theme.font(12))
        self.wrong.setStyleSheet(f"color: {theme.tokens().close};")
        for label in (self.aside, self._naming, self._price, self._count):
            label.setFont(theme.font(12))
            label.setStyleSheet(soft)
        for rich in (self.users, self.stakes):
            rich.setFont(theme.font(12))
        self.curve.refresh()

    def show_part(self, kind: OwnKind, entry: Any, *, own: bool, whose: str, currency: str, kept: Drawer) -> None:
        """Another part, with nothing typed; whose: whose it is, in words."""
        self._own = own
        if kind is not self.kind:
            self.kind = kind
            self._make_lines(kind)
        self.head.setText(entry.label)
        self.aside.setText(whose)
        self.name.setText(entry.label if own else "")
        self.name.setPlaceholderText(_("What its label says"))
        for line in self.lines.values():
            line.known = stated(entry, line.figure)
            self._fill(line)
        self._price.setText(_("Price, {currency}").format(currency=currency))
        self.price.setText("" if kept.price is None else f"{kept.price:g}")
        self.count.setText("" if kept.count is None else f"{kept.count}")
        for field, label in ((self.price, _("Price")), (self.count, _("In the drawer"))):
            field.setAccessibleName(label)
            put_on(field, "wrong", False)
        self.say("")
        self.keep.setText(_("Keep the change") if own else _("Keep as own part"))
        self.drop.setVisible(own)
        self._offer()

    @property
    def draft(self) -> Draft:
        """What is in the fields."""
        fields = {at: (one.value.text(), one.half.text(), one.source.currentIndex()) for at, one in self.lines.items()}
        return self.name.text(), fields

    def take_draft(self, draft: Draft) -> None:
        """Put back what was in the fields."""
        name, fields = draft
        self.name.setText(name)
        for at, (value, half, source) in fields.items():
            line = self.lines[at]
            line.value.setText(value)
            line.half.setText(half)
            line.source.setCurrentIndex(source)
        self._offer(self.told)

    def show_curve(self, entry: Any, changed: Any) -> None:
        """A fan's curve; nothing for other parts."""
        fan = isinstance(entry, FanKind)
        self.curve.setVisible(fan)
        if fan:
            self.curve.show_fan(entry, changed)

    def show_texts(self, users: tuple[str, ...], stakes: tuple[str, ...], machine: str) -> None:
        """Who has it, and what its figures decide there."""
        soft = theme.tokens().soft
        for label, head, lines in (
            (self.users, _("Fitted in"), users),
            (self.stakes, _("What its tolerances move on {machine}").format(machine=machine), stakes),
        ):
            label.setText(headed(head, lines, soft) if lines else "")
            label.setAccessibleName(f"{head}: {' '.join(lines)}")
            label.setVisible(bool(lines))

    def say(self, text: str) -> None:
        """What is wrong, or nothing."""
        self.wrong.setText(text)
        self.wrong.setVisible(bool(text))

    def type_figure(self, at: str, text: str) -> bool:
        """Type into the field of a figure; whether it is one."""
        line = self.lines[at]
        line.value.setText(text)
        self._tell()
        return not line.value.property("wrong")

    @property
    def told(self) -> dict[str, Stated]:
        """What differs from the shelf; what is wrong is marked, and left out."""
        found: dict[str, Stated] = {}
        self.say("")
        for at, line in self.lines.items():
            for field in (line.value, line.half):
                put_on(field, "wrong", False)
            try:
                new = self._read(line)
            except NotANumberError as wrong:
                self.say(f"{line.figure.label}: {wrong}")
                continue
            if new is not None:
                found[at] = new
        return found

    def _read(self, line: Line) -> Stated | None:
        """What is typed of a figure; none where it is as on the shelf. Raises NotANumberError."""
        known, text, half = line.known, line.value.text().strip(), line.half.text().strip()
        if not text:
            if known.value is None:
                return None
            if not line.figure.without:
                put_on(line.value, "wrong", True)
                raise NotANumberError(_("nothing can be solved without it. Type a figure."))
            return Stated(None)
        value = self._number(line.value, text, line.figure.unit)
        told_half = half != words.half(known, line.figure).removeprefix("±")
        width = self._width(line, half, value) if half and told_half else None
        source = str(line.source.currentData())
        same = known.value is not None and text == f"{known.value:.6g}"
        if same and not told_half and (source == known.source or not takes_source(known)):
            return None
        if not line.figure.low <= value <= line.figure.high:
            put_on(line.value, "wrong", True)
            raise NotANumberError(
                _("it goes from {low} to {high} {unit}.").format(
                    low=f"{line.figure.low:g}", high=f"{line.figure.high:g}", unit=line.figure.unit
                )
            )
        return Stated(value, width, source if source in SOURCES else "")

    def _number(self, field: QLineEdit, text: str, unit: str) -> float:
        try:
            return number_in(text, unit)
        except NotANumberError:
            put_on(field, "wrong", True)
            raise

    def _width(self, line: Line, text: str, value: float) -> float:
        """A half-width, typed as a share or in the unit."""
        try:
            if text.endswith("%"):
                return read_number(text[:-1]) / 100.0 * abs(value)
            return number_in(text, "K" if line.figure.unit == "°C" else line.figure.unit)
        except NotANumberError:
            put_on(line.half, "wrong", True)
            raise

    def _make_lines(self, kind: OwnKind) -> None:
        while self._grid.count():
            item = self._grid.takeAt(0)
            if item is not None and (widget := item.widget()) is not None:
                widget.deleteLater()
        self.lines = {}
        for row, figure in enumerate(kind.figures):
            line = Line(figure, Stated(None), Plain(words.with_its_unit(figure)), QLineEdit(), QLineEdit(), DropField())
            line.label.setFont(theme.font(12))
            line.label.setBuddy(line.value)
            line.label.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
            line.value.setAccessibleName(words.with_its_unit(figure))
            line.half.setAccessibleName(_("{figure}, give or take").format(figure=figure.label))
            line.source.setAccessibleName(_("{figure}, how it is known").format(figure=figure.label))
            line.label.setToolTip(words.with_its_unit(figure))
            for field, wide in ((line.value, 68), (line.half, 50)):
                field.setFixedWidth(theme.scaled(wide))
                field.setAlignment(Qt.AlignmentFlag.AlignRight)
                field.editingFinished.connect(self._tell)
            line.value.setPlaceholderText(words.NOT_KNOWN if figure.without else "")
            if figure.without:
                line.value.setToolTip(_("Not known: {without}.").format(without=figure.without))
            line.half.setPlaceholderText("±")
            line.source.setFixedWidth(theme.scaled(98))
            line.source.activated.connect(lambda _index: self._tell())
            for column, widget in enumerate((line.label, line.value, line.half, line.source)):
                self._grid.addWidget(widget, row, column)
            self.lines[figure.at] = line
        self._grid.setColumnStretch(0, 1)

    def _fill(self, line: Line) -> None:
        known = line.known
        line.value.setText("" if known.value is None else f"{known.value:.6g}")
        line.half.setText(words.half(known, line.figure).removeprefix("±"))
        line.source.clear()
        kinds = SOURCES if known.source in SOURCES or known.value is None else (known.source, *SOURCES)
        for key in kinds:
            line.source.addItem(words.SOURCES.get(key, key), key)
        line.source.setCurrentIndex(max(line.source.findData(known.source), 0))
        line.half.setVisible(takes_half(known))
        line.source.setVisible(takes_source(known))
        for field in (line.value, line.half):
            put_on(field, "wrong", False)

    def _tell(self) -> None:
        told = self.told
        if told and not self._own and not self.name.text().strip():
            self.name.setText(_("{label}, own").format(label=self.head.text()))
        self._offer(told)
        self.typed.emit(told)

    def _offer(self, told: Mapping[str, Stated] | None = None) -> None:
        """Buttons that do something now."""
        changed = bool(told) or (self._own and self.name.text().strip() != self.head.text())
        self.keep.setEnabled(changed)
        self.back.setEnabled(changed or bool(self.wrong.text()))

    def _tell_drawer(self) -> None:
        found: dict[str, float | int | None] = {}
        for key, field in (("price", self.price), ("count", self.count)):
            put_on(field, "wrong", False)
            try:
                value = read_number(field.text()) if field.text().strip() else None
                if value is not None and (value < 0.0 or (key == "count" and value != int(value))):
                    raise NotANumberError(_("a whole number of parts.") if key == "count" else _("no less than zero."))
            except NotANumberError as wrong:
                put_on(field, "wrong", True)
                self.say(f"{field.accessibleName()}: {wrong}")
                return
            found[key] = None if value is None else int(value) if key == "count" else value
        self.drawer_told.emit(Drawer.model_validate(found))

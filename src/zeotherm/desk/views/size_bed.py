"""Choose's second page: how thick, how many watts, how to feed it; for the bed of the job on the bench."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import (
    QFileDialog,
    QFrame,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QPushButton,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from zeotherm.core.judgement.margins import State
from zeotherm.core.machine.documents import Variant
from zeotherm.core.machine.patches import Patch
from zeotherm.desk import theme
from zeotherm.desk.bench import Bench
from zeotherm.desk.plateroom import BedFound
from zeotherm.desk.sizeroom import SizeFound, SizeRoom, Wish
from zeotherm.desk.sizeview import sizing_view
from zeotherm.desk.widgets.size_list import SizeCurve, SizeList
from zeotherm.shop.cut_files import write_outline
from zeotherm.shop.errors import ShopError
from zeotherm.wording import bed as words
from zeotherm.wording.language import _
from zeotherm.wording.numbers import plain
from zeotherm.wording.units import read_number
from zeotherm.wording.verdict import Verdict

FIELDS = {  # of the wish: label, unit, least, most
    "minutes": (_("Bed ready within"), "min", 1.0, 180.0),
    "coldest_c": (_("In the coldest room"), "°C", -20.0, 45.0),
    "supply_w": (_("The supply gives"), "W", 20.0, 5000.0),
    "prints_a_month": (_("Prints a month"), "", 0.1, 1000.0),
}
FITTING_MIN, TAPE_COST = 50.0, 6.0  # of the work of fitting an insulation; of a roll of tape


class SizeBed(QWidget):
    """Insulations, curve, heater and supply."""

    told = pyqtSignal(object)  # Verdict

    def __init__(self, bench: Bench, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._bench = bench
        self.room = SizeRoom(self)
        self.found: SizeFound | None = None
        self.bed: BedFound | None = None
        self._wish = Wish()
        self._stale = True
        self.list, self.curve = SizeList(), SizeCurve()
        self.fields = {key: QLineEdit() for key in FIELDS}
        self.put = QPushButton(_("Put it on the board"))
        self.outline = QPushButton(_("Outline as DXF or SVG"))
        self.texts = {key: QLabel() for key in ("insulation", "heater", "supply")}
        self.trouble = QLabel()
        self._lay_out()
        self.room.changed.connect(self._take)
        self.room.failed.connect(lambda wrong: self._say(str(wrong)))
        self.list.chosen.connect(self._choose)
        self.put.clicked.connect(self.put_on_board)
        self.outline.clicked.connect(self.ask_outline)
        self.refresh()

    def _lay_out(self) -> None:
        self.setObjectName("page")
        left = QVBoxLayout()
        left.setSpacing(2)
        left.addWidget(self.list)
        left.addWidget(self.curve, 1)
        buttons = QHBoxLayout()
        buttons.setContentsMargins(16, 0, 16, 6)
        for button in (self.put, self.outline):
            buttons.addWidget(button)
        buttons.addStretch()
        left.addLayout(buttons)
        side = QWidget()
        side.setObjectName("page")
        stack = QVBoxLayout(side)
        stack.setContentsMargins(14, 6, 14, 6)
        stack.setSpacing(8)
        grid = QGridLayout()
        for row, (key, (text, unit, _low, _high)) in enumerate(FIELDS.items()):
            label = QLabel(f"{text}, {unit}" if unit else text)
            label.setBuddy(self.fields[key])
            self.fields[key].setAccessibleName(text)
            self.fields[key].setAlignment(Qt.AlignmentFlag.AlignRight)
            self.fields[key].setFixedWidth(theme.scaled(76))
            self.fields[key].editingFinished.connect(lambda key=key: self._typed(key))
            grid.addWidget(label, row, 0)
            grid.addWidget(self.fields[key], row, 1)
        stack.addLayout(grid)
        stack.addWidget(self.trouble)
        self.trouble.setWordWrap(True)
        for label in self.texts.values():
            label.setWordWrap(True)
            label.setTextFormat(Qt.TextFormat.RichText)
            label.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
            stack.addWidget(label)
        stack.addStretch()
        self._side = QScrollArea()
        self._side.setWidget(side)
        self._side.setWidgetResizable(True)
        self._side.setFrameShape(QFrame.Shape.NoFrame)
        self._side.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self._side.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        whole = QHBoxLayout(self)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.setSpacing(0)
        whole.addLayout(left, 3)
        whole.addWidget(self._side, 2)

    # what arrives

    def take_bed(self, bed: BedFound) -> None:
        """The bed as Explain knows it; sized once the page is looked at."""
        if self.bed is None or self.bed.job.number != bed.job.number:
            self.found = None
            wanted = bed.answer.resolved.inputs.wanted / 60.0 if bed.answer is not None else self._wish.minutes
            coldest = bed.job.setup().room.mean_c - bed.job.setup().room.swing_k
            tariff = bed.job.measured.tariff
            self._wish = replace(
                self._wish, minutes=wanted, coldest_c=coldest, material="",
                tariff=tariff if tariff is not None else self._wish.tariff,
            )  # fmt: skip
            self._show_wish()
        self._stale = self._stale or self.bed is None or self.bed.job.setup() != bed.job.setup()
        self.bed = bed
        if self.isVisible():
            self.begin()

    def begin(self) -> None:
        """Size what has not been sized."""
        if self.bed is None or self.bed.answer is None:
            self._say(_("No heated bed here: choose its kind in Explain, or set its temperature."))
            return
        if self._stale:
            self.solve()

    def solve(self) -> None:
        """Size all of it."""
        bed, found = self.bed, self._bench.found
        if bed is None or bed.answer is None:
            return
        self._stale = False
        run = found.course.run if found is not None and found.course is not None else None
        self._say("")
        self.room.show(bed.job, self._bench.catalogue, bed.answer, run, self._wish)

    def _take(self, found: SizeFound) -> None:
        self.found = found
        self.show_found()

    def show_found(self) -> None:
        found = self.found
        if found is None:
            return
        view = sizing_view(found)
        self.list.show_rows(view.rows, view.chosen)
        self.curve.show_view(view.curve)
        heads = {
            "insulation": _("To cut and to heed"), "heater": _("Heater"), "supply": _("Supply, mains or low voltage"),
        }  # fmt: skip
        parts = {"insulation": view.insulation, "heater": view.heater, "supply": view.supply}
        soft = theme.tokens().soft
        for key, lines in parts.items():
            told = "<br>".join(lines)
            self.texts[key].setText(f'<b>{heads[key]}</b><br><span style="color:{soft}">{told}</span>' if lines else "")
            self.texts[key].setAccessibleName(f"{heads[key]}: {' '.join(lines)}")
        shown = found.shown
        if found.done:
            self.told.emit(self.verdict(found))
        self.put.setEnabled(shown is not None and shown.allowed)
        self.outline.setEnabled(found.cut is not None)

    def verdict(self, found: SizeFound) -> Verdict:
        """What the sizes come to, in one sentence."""
        shown = found.shown
        if shown is None or not shown.allowed:
            return Verdict(_("Nothing that is sold may be fitted under this bed"), "", State.OVER)
        label = found.catalogue.insulations[shown.material].label
        headline = _("{mm} mm {label} saves {watts} W of {bare} W").format(
            mm=plain(1e3 * shown.thickness, 0), label=label[:1].lower() + label[1:], watts=plain(shown.saved_watts, 0),
            bare=plain(shown.watts + shown.saved_watts, 0),
        )  # fmt: skip
        return Verdict(headline, words.sized(shown, label, found.job.currency), State.CLEAR)

    # what is done

    def _choose(self, material: str) -> None:
        if self.found is not None and material and material != self.found.wish.material and self.found.done:
            self._wish = replace(self._wish, material=material)
            self.solve()

    def _typed(self, key: str) -> None:
        label, unit, low, high = FIELDS[key]
        try:
            value = read_number(self.fields[key].text())
            if not low <= value <= high:
                raise ValueError
        except ValueError:
            self.fields[key].setProperty("wrong", True)
            self._polish(key)
            span = f"{plain(low, 0)} {_('to')} {plain(high, 0)} {unit}".strip()
            self._say(_("{label}: a number from {span}, please.").format(label=label, span=span))
            return
        self.fields[key].setProperty("wrong", False)
        self._polish(key)
        if value != getattr(self._wish, key):
            self._wish = replace(self._wish, **{key: value})  # type: ignore[arg-type]  # fields are of numbers
            self.solve()

    def _polish(self, key: str) -> None:
        self.fields[key].style().unpolish(self.fields[key])
        self.fields[key].style().polish(self.fields[key])

    def put_on_board(self) -> None:
        """The chosen insulation as an option, with what it costs and takes."""
        found = self.found
        shown = found.shown if found is not None else None
        if found is None or shown is None or not shown.allowed:
            return
        mm = round(1e3 * shown.thickness, 1)
        label = f"{found.catalogue.insulations[shown.material].label} {plain(mm, 0)} mm {_('under the bed')}"
        change: Patch = {"bed": {"insulation": shown.material, "insulation_mm": mm, "cover": "whole"}}
        variant = Variant(label=label[:60], change=change, cost=round(shown.cost + TAPE_COST, 2), minutes=FITTING_MIN)
        self._bench.offer(f"{shown.material}_{mm:g}".replace(".", "_"), variant)
        self._bench.told.emit(_("On the board: {label}").format(label=label))

    def ask_outline(self) -> None:
        """The outline, written where the person says."""
        name, _kind = QFileDialog.getSaveFileName(
            self, _("Write the outline"), f"{self._bench.job.number}-insulation.dxf", "DXF (*.dxf);;SVG (*.svg)"
        )
        if name:
            self.write_outline(Path(name))

    def write_outline(self, path: Path) -> None:
        """Write the outline of the chosen insulation."""
        if self.found is None or self.found.cut is None:
            return
        try:
            write_outline(path, self.found.cut.outline)
        except ShopError as wrong:
            self._say(str(wrong))
            return
        self._bench.told.emit(_("Written: {name}").format(name=path.name))

    def _show_wish(self) -> None:
        for key, field in self.fields.items():
            field.setText(plain(float(getattr(self._wish, key)), 0 if key != "coldest_c" else 1))

    def _say(self, text: str) -> None:
        self.trouble.setText(f'<span style="color:{theme.tokens().close}">{text}</span>' if text else "")
        self.trouble.setVisible(bool(text))

    def refresh(self) -> None:
        """Take up the theme."""
        for label in (*self.texts.values(), self.trouble):
            label.setFont(theme.font(12))
        for button in (self.put, self.outline):
            button.setFont(theme.font(13))
        self._show_wish()
        self.show_found()

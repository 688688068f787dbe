"""Choose's second page: how thick, how many watts, how to feed it; for the bed of the job on the bench."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path
from typing import ClassVar

from PyQt6.QtWidgets import QFileDialog, QPushButton, QWidget

from zeotherm.answers.bed_sizes import SizeFound, Wish, bed_sizes
from zeotherm.answers.executor import Rank
from zeotherm.core.judgement.margins import State
from zeotherm.core.machine.documents import Variant
from zeotherm.core.machine.patches import Patch
from zeotherm.core.parts.bed.part import BedFound
from zeotherm.desk.bench import Bench
from zeotherm.desk.bridge import Asked
from zeotherm.desk.parts.bed.shown import bed_ladder
from zeotherm.desk.parts.bed.size_list import SizeCurve, SizeList
from zeotherm.desk.parts.bed.size_shown import sizing_view
from zeotherm.desk.viewmodels import LadderView
from zeotherm.desk.views.choose.size_page import SizePage, WishField
from zeotherm.shop.errors import ShopError
from zeotherm.shop.files.cut_files import write_outline
from zeotherm.shop.places import file_stem
from zeotherm.wording import bed_sizes as words
from zeotherm.wording.language import _
from zeotherm.wording.numbers import plain
from zeotherm.wording.verdict import Verdict

FITTING_MIN, TAPE_COST = 50.0, 6.0  # of the work of fitting an insulation; of a roll of tape


class SizeBed(SizePage):
    """Insulations, curve, heater and supply."""

    title = _("Size the bed")

    FIELDS: ClassVar = {
        "minutes": WishField(_("Bed ready within"), "min", 1.0, 180.0),
        "coldest_c": WishField(_("In the coldest room"), "°C", -20.0, 45.0, 1),
        "supply_w": WishField(_("The supply gives"), "W", 20.0, 5000.0),
        "prints_a_month": WishField(_("Prints a month"), "", 0.1, 1000.0),
    }
    HEADS: ClassVar = {
        "insulation": _("To cut and to heed"), "heater": _("Heater"), "supply": _("Supply, mains or low voltage"),
    }  # fmt: skip

    def __init__(self, bench: Bench, parent: QWidget | None = None) -> None:
        super().__init__(bench, Wish(), parent)
        self.asked = Asked(bench.executor, Rank.ASKED, self)
        self.found: SizeFound | None = None
        self.bed: BedFound | None = None
        self.list, self.curve = SizeList(), SizeCurve()
        self.put = QPushButton(_("Put it on the board"))
        self.outline = QPushButton(_("Outline as DXF or SVG"))
        self.lay_out((self.list, self.curve))
        self.asked.changed.connect(self._take)
        self.asked.failed.connect(lambda wrong: self.say(str(wrong)))
        self.list.chosen.connect(self._choose)
        self.put.clicked.connect(self.put_on_board)
        self.outline.clicked.connect(self.ask_outline)
        self.refresh()

    @property
    def buttons(self) -> tuple[QPushButton, ...]:
        return self.put, self.outline

    # what arrives

    def take_bed(self, bed: BedFound) -> None:
        """The bed as Explain knows it; sized once the page is looked at."""
        if self.bed is None or self.bed.job.number != bed.job.number:
            self.found = None
            wanted = bed.answer.resolved.inputs.wanted / 60.0 if bed.answer is not None else self._wish.minutes
            coldest = bed.job.setup().room.mean_c - bed.job.setup().room.swing_k
            self._wish = replace(self._wish, minutes=wanted, coldest_c=coldest, material="")
            self.show_wish()
        self._stale = self._stale or self.bed is None or self.bed.job.setup() != bed.job.setup()
        self.bed = bed
        if self.isVisible():
            self.begin()

    def begin(self) -> None:
        """Size what has not been sized."""
        if self.bed is None or self.bed.answer is None:
            self.say(_("No heated bed here: choose its kind in Explain, or set its temperature."))
            return
        if self._stale:
            self.solve()

    def solve(self) -> None:
        """Size all of it."""
        bed = self.bed
        if bed is None or bed.answer is None:
            return
        self._stale = False
        self.say("")
        measured = bed.job.measured.tariff
        self._wish = replace(self._wish, tariff=measured if measured is not None else self._bench.tariff)
        self.asked.ask(bed_sizes(self._bench.store, bed.job, self._bench.catalogue, self._wish))

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
        self.show_texts({"insulation": view.insulation, "heater": view.heater, "supply": view.supply})
        shown = found.shown
        if found.done:
            self.told.emit(self.verdict(found))
        self.put.setEnabled(shown is not None and shown.allowed)
        self.outline.setEnabled(found.cut is not None)

    @property
    def ladder_view(self) -> LadderView | None:
        return bed_ladder(self.bed) if self.bed is not None and self.bed.answer is not None else None

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
        proposed = f"{file_stem(self._bench.job.number)}-insulation.dxf"
        name, _kind = QFileDialog.getSaveFileName(
            self,
            _("Write the outline"),
            proposed,
            "DXF (*.dxf);;SVG (*.svg)",
        )
        if name:
            self.write_outline(Path(name))

    def write_outline(self, path: Path) -> None:
        """Write the outline of the chosen insulation."""
        if self.found is None or self.found.cut is None:
            return
        try:
            outline = self.found.cut.outline
            self._bench.have(lambda _workshop: write_outline(path, outline))
        except ShopError as wrong:
            self.say(str(wrong))
            return
        self._bench.told.emit(_("Written: {name}").format(name=path.name))


PAGE = SizeBed

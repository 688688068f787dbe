"""Choose's third page: how warm the case may be and for what, its heater, its parts, its controller's lines."""

from __future__ import annotations

import math
from dataclasses import replace
from pathlib import Path
from typing import ClassVar

from PyQt6.QtWidgets import QApplication, QFileDialog, QPushButton, QWidget

from zeotherm.answers.enclosure_sizes import CaseSizeFound, CaseWish, enclosure_sizes
from zeotherm.answers.executor import Rank
from zeotherm.core.catalogue.stations import STATIONS
from zeotherm.core.judgement.margins import State
from zeotherm.core.machine.documents import Job, Variant
from zeotherm.core.machine.patches import Patch
from zeotherm.core.parts.enclosure.judge.answer import encloses
from zeotherm.core.parts.enclosure.judge.panels import panels_of
from zeotherm.core.parts.enclosure.part import CaseFound
from zeotherm.desk.bench import Bench
from zeotherm.desk.bridge import Asked
from zeotherm.desk.parts.enclosure.shown import case_ladder
from zeotherm.desk.parts.enclosure.size_shown import WarmthView, case_sizing_view
from zeotherm.desk.parts.enclosure.warmth_chart import WarmthChart
from zeotherm.desk.viewmodels import LadderView
from zeotherm.desk.views.choose.size_page import SizePage, WishField
from zeotherm.shop.errors import ShopError
from zeotherm.shop.files.cut_files import write_outlines
from zeotherm.shop.places import file_stem
from zeotherm.wording import enclosure_sizes as words
from zeotherm.wording.language import _
from zeotherm.wording.numbers import plain, with_unit
from zeotherm.wording.verdict import Verdict

FITTING_MIN = 150.0  # of the work of fitting a heater with its own cut-out
COST_A_WATT, COST_BASE = 0.12, 35.0  # of heater, fan, cut-out and switch: usual
STEP_W = 50.0  # in which heaters are sold


class SizeCase(SizePage):
    """Filaments on one scale; heater, air, parts, fit and lines."""

    title = _("Size the case")

    FIELDS: ClassVar = {
        "wanted_c": WishField(_("Wanted at the print"), "°C", 20.0, 120.0),
        "minutes": WishField(_("Reached within"), "min", 1.0, 240.0),
        "coldest_c": WishField(_("In the coldest room"), "°C", -20.0, 45.0, 1),
        "spread_k": WishField(_("Print to roof at most"), "K", 0.5, 40.0),
    }
    HEADS: ClassVar = {
        "heater": _("Heater"), "air": _("Air"), "parts": _("What sits inside, at that"),
        "wrong": _("When something fails"), "fit": _("Does the machine fit"),
        "lines": _("For the controller"),
    }  # fmt: skip

    BELOW: ClassVar = ("fit", "lines")

    def __init__(self, bench: Bench, parent: QWidget | None = None) -> None:
        super().__init__(bench, CaseWish(), parent)
        self.asked = Asked(bench.executor, Rank.ASKED, self)
        self.found: CaseSizeFound | None = None
        self._of = ("", 0.0)
        self.chart = WarmthChart()
        self.put = QPushButton(_("Offer the heater"))
        self.help = QPushButton(_("Offer the help"))
        self.copy = QPushButton(_("Copy lines"))
        self.outline = QPushButton(_("Panels: DXF, SVG"))
        for button, tip in (
            (self.put, _("The heater, its control, its cut-out and its mixing fan as an option on the board")),
            (self.help, _("The cheapest way that suffices of each part that lacks, as options on the board")),
            (self.copy, _("The controller's lines, to paste into a program")),
            (self.outline, _("Every panel of this case with its holes")),
        ):
            button.setToolTip(tip)
        self.lay_out((self.chart,))
        self.asked.changed.connect(self._take)
        self.asked.failed.connect(lambda wrong: self.say(str(wrong)))
        bench.job_changed.connect(self.take_job)
        bench.answered.connect(lambda _found: self.begin())
        self.put.clicked.connect(self.put_on_board)
        self.help.clicked.connect(self.help_on_board)
        self.copy.clicked.connect(self.copy_lines)
        self.outline.clicked.connect(self.ask_outline)
        self.refresh()

    @property
    def buttons(self) -> tuple[QPushButton, ...]:
        return self.put, self.help, self.copy, self.outline

    # what arrives

    def take_job(self, job: Job) -> None:
        """Another state of the job; sized once its machine's hours are known and the page is looked at."""
        setup = job.setup()
        wanted = setup.case.target_c if setup.case.target_c > 0.0 else CaseWish.wanted_c
        if self._of != (job.number, wanted):
            self.found = self.found if self._of[0] == job.number else None
            self._of = (job.number, wanted)
            coldest = setup.room.mean_c - setup.room.swing_k
            self._wish = replace(self._wish, wanted_c=wanted, coldest_c=coldest)
            self.show_wish()
            self.show_found()
        self._stale = True
        self.begin()

    def begin(self) -> None:
        """Size what has not been sized, where it is looked at."""
        job, found = self._bench.job, self._bench.found
        if not self.isVisible() or not self._stale:
            return
        if not encloses(job.setup(), self._bench.catalogue):
            self.found = None
            self.show_found()
            self.say(_("Nothing encloses this machine: choose a case in Explain, Case."))
        elif found is not None and found.course is not None and found.job == job:
            self.solve()

    def solve(self) -> None:
        """Size all of it."""
        job, found = self._bench.job, self._bench.found
        if found is not None and found.course is not None and encloses(job.setup(), self._bench.catalogue):
            self._stale = False
            self.say("")
            bench = self._bench
            self.asked.ask(enclosure_sizes(bench.store, job, bench.catalogue, self._wish, bench.other_machines))

    def _take(self, found: CaseSizeFound) -> None:
        self.found = found
        self.show_found()

    def show_found(self) -> None:
        found = self.found
        for button in self.buttons:
            button.setEnabled(found is not None)
        if found is None:
            self.chart.show_view(WarmthView((), 20.0, self._wish.wanted_c, None, ""))
            self.show_texts(dict.fromkeys(self.HEADS, ()))
            return
        view = case_sizing_view(found)
        self.chart.show_view(view.warmth)
        self.show_texts({key: getattr(view, key) for key in self.HEADS})
        self.put.setEnabled(found.done and not found.answer.resolved.inputs.heats)
        self.help.setEnabled(bool(self._helps()))
        self.copy.setEnabled(found.sized is not None and bool(found.sized.lines))
        self.told.emit(self.verdict(found))

    @property
    def case(self) -> CaseFound | None:
        """The case that is sized, as the ladder shows it."""
        return CaseFound(self.found.job, self.found.answer) if self.found is not None else None

    @property
    def ladder_view(self) -> LadderView | None:
        return case_ladder(self.case) if self.case is not None else None

    def verdict(self, found: CaseSizeFound) -> Verdict:
        """What the filament on the machine meets in this case, in one sentence."""
        wanted = with_unit(found.wish.wanted_c, "°C", 0)
        own = found.filaments[0] if found.filaments else None
        if own is None:
            return Verdict(_("Sizing the case ..."), "", State.UNKNOWN)
        label = found.catalogue.filaments[own.filament].label
        reason = words.filament(own, found.catalogue)
        if own.creeps_from is not None and found.wish.wanted_c >= own.creeps_from:
            headline = _("At {wanted} {label}'s cold end creeps on this machine").format(wanted=wanted, label=label)
            return Verdict(headline, reason, State.OVER)
        if found.sized is None:
            return Verdict(_("Sizing the case ..."), reason, State.UNKNOWN)
        one = found.sized.parts.weakest
        if one is not None and one.lacks:
            lack = with_unit(-(one.margin.room or 0.0), "K", 0)
            headline = _("At {wanted} {part} lacks {lack}").format(
                wanted=wanted, part=STATIONS[one.station].label.lower(), lack=lack
            )
            return Verdict(headline, reason, State.OVER)
        if one is not None:
            headline = _("At {wanted} no cut-out fits: {part} comes too near").format(
                wanted=wanted, part=STATIONS[one.station].label.lower()
            )
            return Verdict(headline, reason, State.CLOSE)
        return Verdict(_("Everything inside stands {wanted}").format(wanted=wanted), reason, State.CLEAR)

    # what is done

    def put_on_board(self) -> None:
        """The heater that is proposed, with its control, its cut-out and the mixing it wants, as an option."""
        found = self.found
        sized = found.sized if found is not None else None
        if found is None or sized is None or sized.watts <= 0.0:
            return
        watts = STEP_W * -(-sized.watts // STEP_W)
        case: Patch = {
            "heater_w": watts, "heater_at": sized.places[0].place if sized.places else "floor",
            "target_c": found.wish.wanted_c, "sensor_pct": 25.0,
        }  # fmt: skip
        cut = sized.cut_helped or sized.cut
        if cut is not None and cut.possible:
            case["cutout_c"] = float(round(0.5 * (cut.low + cut.high)))
        if sized.mixing is not None and sized.mixing.value > 0.0:
            case["recirculation_m3h"] = float(math.ceil(3600.0 * sized.mixing.value))
        label = _("Case heater {watts} W for {wanted} °C").format(
            watts=plain(watts, 0), wanted=plain(found.wish.wanted_c, 0)
        )
        variant = Variant(label=label, change={"case": case}, cost=COST_BASE + COST_A_WATT * watts, minutes=FITTING_MIN)
        self._offer(f"case_heater_{watts:.0f}", variant)

    def _helps(self) -> list[tuple[str, Variant]]:
        """The cheapest way that suffices of each part that lacks, where it changes the machine."""
        found = self.found
        if found is None or found.sized is None:
            return []
        ways = [one.way for one in found.sized.parts.parts]
        made: dict[str, tuple[str, Variant]] = {}
        for way in ways:
            if way is not None:  # one change may help several parts
                told = way.protection
                variant = Variant(label=told.label[:60], change=told.change, cost=told.cost, minutes=told.minutes)
                made.setdefault(str(told.change), (way.key, variant))
        return list(made.values())

    def help_on_board(self) -> None:
        """What helps each part that lacks, as options."""
        for key, variant in self._helps():
            self._offer(key, variant)

    def _offer(self, key: str, variant: Variant) -> None:
        self._bench.offer(key, variant)
        self._bench.told.emit(_("On the board: {label}").format(label=variant.label))

    def copy_lines(self) -> None:
        """The controller's lines, to paste into a program."""
        found, clipboard = self.found, QApplication.clipboard()
        if found is not None and clipboard is not None:
            clipboard.setText("\n".join(case_sizing_view(found).lines) + "\n")
            self._bench.told.emit(_("Copied: try them by hand before a program does."))

    def ask_outline(self) -> None:
        """The panels, written where the person says."""
        proposed = f"{file_stem(self._bench.job.number)}-panels.dxf"
        name, _kind = QFileDialog.getSaveFileName(self, _("Write the panels"), proposed, "DXF (*.dxf);;SVG (*.svg)")
        if name:
            self.write_outline(Path(name))

    def write_outline(self, path: Path) -> None:
        """Write the outlines and holes of the case's panels."""
        if self.found is None:
            return
        try:
            panels = panels_of(self.found.answer.setup, self.found.catalogue)
            self._bench.have(lambda _workshop: write_outlines(path, panels))
        except ShopError as wrong:
            self.say(str(wrong))
            return
        self._bench.told.emit(_("Written: {name}").format(name=path.name))


PAGE = SizeCase

"""Explain's bed: solves it in the background and tells the view's ladder, picture, margins, levers and strip."""

from __future__ import annotations

from markupsafe import Markup
from PyQt6.QtWidgets import QPushButton

from zeotherm.answers import fits
from zeotherm.answers.bed import BedFound, bed
from zeotherm.answers.hotend import Found
from zeotherm.core.judgement.margins import State
from zeotherm.core.machine.documents import Job
from zeotherm.core.parts.bed.judge.answer import BedAnswer
from zeotherm.core.parts.hotend.judge.answer import called_for
from zeotherm.core.questions import Start
from zeotherm.desk.bench import Bench
from zeotherm.desk.parts.bed.board import BedBoard
from zeotherm.desk.parts.bed.shown import bed_ladder, bed_picture, bed_strip
from zeotherm.desk.style import theme
from zeotherm.desk.viewmodels import LadderView, lever_rows, margin_rows
from zeotherm.desk.views.explain.page import ExplainPage
from zeotherm.desk.views.explain.part_teller import PartTeller
from zeotherm.desk.widgets.labels import headed
from zeotherm.wording import bed as words
from zeotherm.wording import fits as fits_words
from zeotherm.wording.language import _
from zeotherm.wording.margins import label as part_label

BED = "bed"
SPANS = {False: _("Warm-up"), True: _("Print")}  # of the time strip


class BedTeller(PartTeller):
    """Fills Explain with the bed while its tab is on; at all times knows how it stands."""

    part, title = BED, _("Bed")

    def __init__(self, bench: Bench, view: ExplainPage) -> None:
        super().__init__(bench, view, BedBoard())
        self.asked.changed.connect(self._take)
        self.board.pointed.connect(self.show_point)
        self.spans = {whole: QPushButton(text) for whole, text in SPANS.items()}
        self.ways = tuple(self.spans.values())
        for whole, button in self.spans.items():
            button.clicked.connect(lambda _on=False, whole=whole: self.show_span(whole))
        self._start: Start[BedAnswer] = Start()
        self.fits_with(fits.BED, ("bed",), fits_words.BED, _("bed by its own curve"))
        self.found: BedFound | None = None
        self._whole = False
        self._rows_of: Job | None = None
        self._asked_job: Job | None = None
        self._led: BedFound | None = None

    def stop(self) -> None:
        """Stop what is under way; what is known by now stays."""
        self.asked.stop()
        self.fits.stop()

    # what there is

    def take_job(self, job: Job) -> None:
        """Another state of the job: at once what the bed would be, while it is looked at."""
        if self.found is not None and self.found.job.number != job.number:
            self.found, self._wish = None, None
            self.board.show_view(None)
        if self.on:
            self._view.levers.show_rows(lever_rows(job, self._bench.catalogue, self._judged, BED))
            self._rows_of = job
            self._view.strip.set_stale()
            self.solve()
        else:  # what is looked at goes first; the bed follows with the machine's run
            self._asked_job = None
            self.asked.stop()

    def take_found(self, found: Found) -> None:
        """The machine's hours are known: what stands beside the hotend may follow."""
        if found.course is not None and self._asked_job is not found.job:
            self.solve()

    def solve(self) -> None:
        """Solve the bed of the job on the bench, in full while it is looked at."""
        bench, shown = self._bench, self.on
        self._asked_job = bench.job
        self.asked.ask(bed(bench.store, bench.job, bench.catalogue, self._start, wholly=shown))

    @property
    def _judged(self) -> BedAnswer | None:
        return self.found.answer if self.found is not None else None

    def _take(self, found: BedFound) -> None:
        if found.job.number != self._bench.job.number:
            return
        self.found = found.at(self._wish) if self._wish is not None else found
        if self.on and found.answer is not None and found.answer.run is None:
            self._led = self.found  # while a lever is dragged the picture leads
            self.board.show_view(bed_picture(self.found))
            self.board.repaint()
        self._view.bed_answered.emit(self.found)
        self.tell()

    # what is shown

    def scrub(self, time: float | None) -> None:
        """Another moment of the bed's course; None: late in its print."""
        self._bench.hand_moves()
        self._wish = time
        if self.found is not None and self.found.answer is not None:
            self.found = self.found.at(time)
            self._tell_moment()

    def show_span(self, whole: bool) -> None:
        """The strip over the warm-up, or over the whole print."""
        self._whole = whole
        self._tell_strip()

    def show_point(self, text: str) -> None:
        """What is read at a point of the face; nothing: the balance again."""
        if self.on:
            self._view.foot.setText(text or self._balance())

    def tell(self) -> None:
        """Show what is known; of a bed that is not looked at, that there is trouble with it."""
        view, found = self._view, self.found
        state = found.answer.worst.state if found is not None and found.answer is not None else State.UNKNOWN
        view.tabs[BED].setText(_("Bed, {state}").format(state=_("short") if state is State.SHORT else _("over"))
                               if state.bad else _("Bed"))  # fmt: skip
        view.elsewhere.setText("" if self.on else words.elsewhere(found.answer if found is not None else None))
        view.elsewhere.setVisible(bool(view.elsewhere.text()))
        if not self.on or found is None:
            return
        if found.answer is None:
            self._tell_nothing()
            return
        answer, catalogue = found.answer, self._bench.catalogue
        view.verdict.clear_trouble()
        view.verdict.show_verdict(words.verdict(answer))
        view.margins.show_rows(margin_rows(answer))
        view.cautions.show_called(called_for(catalogue, answer.facts), catalogue)
        if found.job != self._rows_of or answer.strengths:  # while dragged, the edit laid them already
            view.levers.show_rows(lever_rows(found.job, catalogue, answer, BED))
        gains = _("{part} gains, per step").format(part=part_label(answer.worst).lower()) if answer.strengths else ""
        view.levers.show_advice(gains, words.enough(answer) if answer.strengths else "", "")
        self._tell_fit()
        soft = theme.tokens().soft
        lines = [words.rival(one) for one in found.rivals]
        if answer.controlled is not None:
            lines.insert(0, words.controlled(answer.controlled))
        if found.tuned is not None:
            lines.append(words.controller(found.tuned))
        told = headed(_("Computed both ways"), lines, soft) + Markup("<br>") if lines else Markup("")
        view.rivals.setText(told + headed(_("Sheet"), [words.sheet(answer)], soft))
        self._tell_moment()

    def _tell_moment(self) -> None:
        view, found = self._view, self.found
        if not self.on or found is None or found.answer is None:
            return
        view.ladder.show_view(bed_ladder(found))
        if found is not self._led:
            self.board.show_view(bed_picture(found))
        self._led = None
        view.foot.setText(self._balance())
        view.sure.setText("")
        self._tell_strip()

    def _tell_strip(self) -> None:
        if self.on and self.found is not None and self.found.answer is not None:
            shown = bed_strip(self.found, whole=self._whole)
            if shown is not None:
                self._view.strip.show_view(shown)
            else:
                self._view.strip.set_stale()

    def _tell_nothing(self) -> None:
        view = self._view
        view.verdict.show_verdict(words.no_bed())
        self.board.show_view(None)
        view.margins.show_rows(())
        view.ladder.show_view(LadderView(_("No heated bed"), (), None, ()))
        view.levers.show_rows(lever_rows(self._bench.job, self._bench.catalogue, None, BED))
        view.levers.show_advice("", "", "")
        view.rivals.setText("")
        view.foot.setText("")

    def _balance(self) -> str:
        found = self.found
        if found is None or found.answer is None:
            return ""
        return f"{words.balance(found.answer)}. {words.sensor_offset(found.answer)}."

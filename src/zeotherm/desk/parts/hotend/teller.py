"""The hotend in Explain: what is shown of it while its tab is on."""

from __future__ import annotations

from zeotherm.answers.hotend import Found
from zeotherm.core.judgement.standing import Deciding
from zeotherm.core.machine.documents import Job
from zeotherm.core.parts.hotend.judge.answer import Answer, cautions
from zeotherm.desk.bench import Bench
from zeotherm.desk.factsview import facts_view, left_open
from zeotherm.desk.parts.hotend.cutaway import Cutaway
from zeotherm.desk.parts.hotend.section import FieldReading
from zeotherm.desk.style.patina import Span
from zeotherm.desk.timeview import strip
from zeotherm.desk.viewmodels import ladder, lever_rows, margin_rows, unsure_rows
from zeotherm.desk.views.explain.page import ExplainPage
from zeotherm.desk.views.explain.teller import HoursTeller
from zeotherm.wording.course import enough
from zeotherm.wording.language import _
from zeotherm.wording.margins import label
from zeotherm.wording.numbers import plain, with_unit
from zeotherm.wording.verdict import BEYOND, verdict


class HotendTeller(HoursTeller):
    """Fills Explain with the hotend while its tab is on; the bench answers it."""

    part, title, span, told_below = "hotend", _("Hotend"), Span.FULL, False

    def __init__(self, bench: Bench, view: ExplainPage) -> None:
        super().__init__(bench, view, Cutaway())
        self._told_of: tuple[Answer, Deciding | None] | None = None
        bench.unsolved.connect(self._show_trouble)
        bench.busy_changed.connect(lambda busy: view.verdict.set_busy(busy) if self.on else None)
        self.board.pointed.connect(self._show_point)

    def tab_text(self, job: Job) -> str:
        """With the number of the toolhead in front, where there are several."""
        return f"{self.title} {job.found.toolhead}" if job.found.toolheads else self.title

    def take_job(self, job: Job) -> None:
        if not self.on:
            return
        found, view = self._bench.found, self._view
        if found is not None and found.job.number == job.number:
            view.levers.show_rows(lever_rows(job, self._bench.catalogue, found.worst))
            view.strip.set_stale()
        else:
            view.levers.show_rows(lever_rows(job, self._bench.catalogue, None))
            view.strip.show_view(None)
            self._told_of = None

    def tell(self) -> None:
        """All of it anew."""
        self._told_of = None
        self.board.refresh()
        if self._bench.found is not None:
            self.take_found(self._bench.found)

    def take_found(self, found: Found) -> None:
        if not self.on:
            return
        view = self._view
        self.board.show_found(found)
        if found.course is None:
            self.board.repaint()  # while a lever is dragged the picture leads
        view.ladder.show_view(ladder(found))
        rows = margin_rows(found.answer)
        view.margins.show_rows(unsure_rows(rows) if left_open(found) else rows)
        if found.course is None:  # the run is under way: what it said before stays, marked
            view.strip.set_stale()
        else:
            view.strip.show_view(strip(found, view.strip.view))
        view.verdict.clear_trouble()
        if self._told_of is None or self._told_of[0] is not found.judged or self._told_of[1] is not found.deciding:
            self._show_judged(found)
        self._show_balance(found)

    def _show_judged(self, found: Found) -> None:
        """What speaks of the whole job, whatever moment is shown."""
        judged = found.judged
        self._told_of = (judged, found.deciding)
        self._view.verdict.show_verdict(verdict(judged, found.standing))
        of = (self.part, found.job.number)
        self._view.facts.show_view(facts_view(found), of, final=found.decided)
        self._view.cautions.show_called(cautions(judged), judged.catalogue)
        if judged.strengths:
            catalogue = self._bench.catalogue
            self._view.levers.show_rows(lever_rows(found.job, catalogue, judged))
            gains = _("{part} gains, per step").format(part=label(judged.worst).lower())
            self._view.levers.show_advice(gains, enough(judged, catalogue, found.standing))

    def _show_trouble(self, text: str) -> None:
        if self.on:
            self._view.verdict.show_trouble(text)
            self.board.set_stale(True)

    def _show_point(self, reading: FieldReading | None) -> None:
        if reading is None or not self.on:
            return
        self._view.foot.setText(
            _("Point: {part}, {height} above the tip, {temperature}").format(
                part=reading.part,
                height=with_unit(reading.height * 1e3, "mm"),
                temperature=with_unit(reading.temperature, "°C"),
            )
        )
        self._view.sure.setText(
            _("±{band} K (95 %)").format(band=plain(reading.band)) if reading.band is not None else _("band follows")
        )

    def _show_balance(self, found: Found) -> None:
        if self._view.foot.text().startswith(_("Point")):
            return
        readout = found.answer.solved.readout
        watts = readout.watts
        if readout.extrapolated:
            self._view.foot.setText(f"{BEYOND[readout.extrapolated[0]]}.")
            return
        shown = self._view.strip.view
        brief, full = shown.log if shown is not None else ("", "")
        self._view.foot.setToolTip(full)
        if brief:
            self._view.foot.setText(brief)
            return
        self._view.foot.setText(
            _("Heater {watts} W. Point at any place, or use the arrow keys, to read it.").format(
                watts=plain(watts.heater)
            )
        )

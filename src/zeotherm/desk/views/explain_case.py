"""The case in Explain: what is shown of it while its tab is on, and what is known of it at all times."""

from __future__ import annotations

from typing import TYPE_CHECKING

from zeotherm.core.judgement.answer import called_for
from zeotherm.core.machine.documents import Job
from zeotherm.core.runs.warm_up import AIRS
from zeotherm.desk import theme
from zeotherm.desk.answering import Found
from zeotherm.desk.bench import Bench
from zeotherm.desk.caseroom import CaseFitRoom, CaseFound, CaseRoom
from zeotherm.desk.caseview import case_ladder, case_picture, case_strip
from zeotherm.desk.viewmodels import LadderView, lever_rows, margin_rows
from zeotherm.desk.views.part_teller import PartTeller
from zeotherm.wording import chamber as words
from zeotherm.wording import fits as fits_words
from zeotherm.wording.chamber_size import filament
from zeotherm.wording.language import _
from zeotherm.wording.margins import label as part_label

if TYPE_CHECKING:
    from zeotherm.desk.views.explain import ExplainView

CASE = "case"


class CaseTeller(PartTeller):
    """Fills Explain with the enclosure while its tab is on."""

    def __init__(self, bench: Bench, view: ExplainView) -> None:
        self.room = CaseRoom()
        super().__init__(bench, view, CASE, self.room, view.case_board)
        self.room.changed.connect(self._take)
        self.fits_with(CaseFitRoom(), AIRS, fits_words.CASE, _("case by its own curve"))
        self.found: CaseFound | None = None
        self._rows_of: Job | None = None

    def stop(self) -> None:
        """Stop what is under way; what is known by now stays."""
        self.room.stop()
        self.fits.stop()

    def close(self) -> None:
        """End the threads."""
        self.room.close()
        self.fits.close()

    def take_job(self, job: Job) -> None:
        """Another state of the job: at once what the case would come to, while it is looked at."""
        if self.found is not None and self.found.job.number != job.number:
            self.found, self._wish = None, None
            self._view.case_board.show_view(None)
        if self._view.part == CASE:
            answer = self.found.answer if self.found is not None else None
            self._view.levers.show_rows(lever_rows(job, self._bench.catalogue, answer, CASE))
            self._rows_of = job
            self._view.strip.set_stale()
            self.solve()

    def take_run(self, found: Found) -> None:
        """The machine's run, which says what the case holds."""
        if self._view.part == CASE and found.course is not None and self._asked != (id(found.course), found.job):
            self.solve()

    def solve(self) -> None:
        """Solve the enclosure of the job on the bench while it is looked at."""
        if self._view.part == CASE:
            self.room.show(self._bench.job, self._bench.catalogue, self._run_at_hand())

    def _take(self, found: CaseFound) -> None:
        if found.job.number == self._bench.job.number:
            self.found = found.at(self._wish) if self._wish is not None else found
            if self._view.part == CASE and found.answer is not None and found.answer.run is None:
                self._view.case_board.show_view(case_picture(self.found))  # while a lever is dragged the picture leads
                self._view.case_board.repaint()
            self.tell()

    def scrub(self, time: float | None) -> None:
        """Another moment of the course; None: where it comes to."""
        self._wish = time
        if self.found is not None and self.found.answer is not None:
            self.found = self.found.at(time)
            self._tell_moment()

    def tell(self) -> None:
        """Show what is known, while the tab is on."""
        view, found = self._view, self.found
        if view.part != CASE or found is None:
            return
        if found.answer is None:
            self._tell_nothing()
            return
        answer, catalogue = found.answer, self._bench.catalogue
        view.verdict.clear_trouble()
        view.verdict.show_verdict(words.verdict(answer))
        view.margins.show_rows(margin_rows(answer))
        view.elsewhere.setVisible(False)
        view.cautions.show_called(called_for(catalogue, answer.facts), catalogue)
        if found.job != self._rows_of or answer.strengths:  # while dragged, the edit laid them already
            view.levers.show_rows(lever_rows(found.job, catalogue, answer, CASE))
        gains = _("{part} gains, per step").format(part=part_label(answer.worst).lower()) if answer.strengths else ""
        view.levers.show_advice(gains, "", "")
        self._tell_fit()
        lines = [filament(found.own, catalogue)] if found.own is not None else []
        lines += [words.tried(one) for one in found.tried]
        lines += [words.cut_out(found.cut)] if found.cut is not None else []
        lines += [words.gone(one) for one in found.gone]
        head, soft = _("Computed both ways"), theme.tokens().soft
        view.rivals.setText(
            f"<b>{head}</b><br>" + f'<span style="color:{soft}">{"<br>".join(lines)}</span>' if lines else ""
        )
        self._tell_moment()

    def _tell_moment(self) -> None:
        view, found = self._view, self.found
        if view.part != CASE or found is None or found.answer is None:
            return
        view.ladder.show_view(case_ladder(found))
        view.case_board.show_view(case_picture(found))
        view.foot.setText(words.settles(found.answer))
        view.sure.setText("")
        shown = case_strip(found)
        if shown is not None:
            view.strip.show_view(shown)
        else:
            view.strip.set_stale()

    def _tell_nothing(self) -> None:
        view = self._view
        view.verdict.show_verdict(words.open_machine())
        view.case_board.show_view(None)
        view.margins.show_rows(())
        view.ladder.show_view(LadderView(_("No case"), (), None, ()))
        view.levers.show_rows(lever_rows(self._bench.job, self._bench.catalogue, None, CASE))
        view.levers.show_advice("", "", "")
        view.rivals.setText("")
        view.foot.setText("")

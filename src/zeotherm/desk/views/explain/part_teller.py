"""What tells of a part of the machine beside the hotend in Explain: at once at rest, then over its course, then how
sure; and its own curve, where it has one."""

from __future__ import annotations

import logging
from typing import Any, Generic, TypeVar

from zeotherm.answers.executor import Rank, Task
from zeotherm.answers.fits import FitFound, Fitting, fit_of
from zeotherm.answers.hotend import Found
from zeotherm.answers.part import part_of
from zeotherm.core.catalogue.lookup import DoesNotFitError
from zeotherm.core.judgement.standing import standing
from zeotherm.core.machine.documents import Job
from zeotherm.core.parts.hotend.judge.answer import called_for
from zeotherm.core.parts.part import Part, PartFound, Told
from zeotherm.core.questions import Start
from zeotherm.core.runs.series import as_series
from zeotherm.core.solver.plate import NotSettledError
from zeotherm.core.solver.stepping import TooSmallError
from zeotherm.desk.bench import Bench
from zeotherm.desk.bridge import Asked
from zeotherm.desk.factsview import assumed_view, deciding_view
from zeotherm.desk.style import theme
from zeotherm.desk.timeview import StripView
from zeotherm.desk.viewmodels import LadderView, lever_rows, margin_rows, unsure, unsure_rows
from zeotherm.desk.views.explain.page import ExplainPage
from zeotherm.desk.views.explain.teller import Teller
from zeotherm.desk.widgets.labels import headed
from zeotherm.desk.widgets.part_board import PartBoard
from zeotherm.shop.editing import edits
from zeotherm.wording import fits as fits_words
from zeotherm.wording.language import _
from zeotherm.wording.margins import label as part_label
from zeotherm.wording.parts import verdict_on, words_of

log = logging.getLogger(__name__)
Known = TypeVar("Known", bound=PartFound[Any])


class PartTeller(Teller, Generic[Known]):
    """Fills Explain with one part while its tab is on; what it says of it goes into the methods that raise."""

    HEAD = ""  # over the lines below the levers
    AHEAD = False  # whether it is solved while it is not looked at, too

    def __init__(self, bench: Bench, view: ExplainPage, part: Part[Any], board: PartBoard[Any]) -> None:
        super().__init__(bench, view, board)
        self.of, self.words = part, words_of(part)
        self.leads = False  # whether the verdict on the whole machine is that on this part
        self.part, self.title = part.key, self.words.LABEL
        self._open = False  # whether what nobody entered may move its margins
        self.asked = Asked(bench.executor, Rank.AHEAD, self)
        self.asked.changed.connect(self._take)
        self.asked.failed.connect(self._fail)
        self.asked.busy_changed.connect(lambda busy: view.verdict.set_busy(busy) if self.on else None)
        self.fits: Asked | None = None
        self.found: Known | None = None
        self.trouble = ""  # why there is no answer for the job on the bench
        self._start: Start[Any] = Start()
        self._wish: float | None = None
        self._rows_of: Job | None = None
        self._asked_job: Job | None = None
        self._led: Known | None = None  # what the picture shows before the rest is told

    # of the part

    def told(self, job: Job) -> Told:
        """What the bench knows of it beyond the job."""
        return ()

    def picture(self, found: Known) -> Any:
        """What its board paints."""
        raise NotImplementedError

    def ladder(self, found: Known) -> LadderView:
        """Its ladder."""
        raise NotImplementedError

    def strip(self, found: Known) -> StripView | None:
        """Its course; none until it is there."""
        raise NotImplementedError

    def lines(self, found: Known) -> list[str]:
        """What stands below the levers."""
        raise NotImplementedError

    def foot(self, answer: Any) -> str:
        """What stands below the picture."""
        raise NotImplementedError

    def below(self, found: Known) -> str:
        """All that stands below the levers, with its heading."""
        lines = self.lines(found)
        return headed(self.HEAD, lines, theme.tokens().soft) if lines else ""

    def advice(self, answer: Any) -> str:
        """What would be enough, above the levers."""
        return ""

    def offer(self) -> None:
        """Show the button below the levers, if there is one."""

    # what arrives

    @property
    def busy(self) -> bool:
        return self.asked.busy

    def matters(self, rank: Rank) -> None:
        self.asked.matters(rank)

    def stop(self) -> None:
        """Stop what is under way; what is known by now stays."""
        self.asked.stop()
        if self.fits is not None:
            self.fits.stop()

    def take_job(self, job: Job) -> None:
        """Another state of the job: at once what the part would come to, while it is looked at."""
        if self.found is not None and self.found.job.number != job.number:
            self.found, self._wish, self.trouble = None, None, ""
            self.board.show_view(None)
        if self.on:
            answer = self.found.answer if self.found is not None else None
            self._view.levers.show_rows(lever_rows(job, self._bench.catalogue, answer, self.part))
            self._rows_of = job
            self._view.strip.set_stale()
            self.solve()
        elif self._wanted:  # what is looked at goes first; this follows with the machine's run
            self._asked_job = None
            self.asked.stop()

    def take_found(self, found: Found) -> None:
        """The machine's hours are known: what is solved ahead may follow."""
        if self._wanted and found.course is not None and self._asked_job is not found.job:
            self.solve()

    def solve(self) -> None:
        """Solve the part of the job on the bench: in full while it is looked at, or is the worst of the machine."""
        if self.on or self._wanted:
            self._asked_job = self._bench.job
            self.asked.ask(self._task(self._bench.job))

    @property
    def _wanted(self) -> bool:
        """Whether it is solved though another tab is on."""
        return self.AHEAD or self._view.shows_all

    def _task(self, job: Job) -> Task:
        bench = self._bench
        return part_of(
            bench.store, self.of, job, bench.catalogue, self._start, self.told(job), wholly=self.on or self.leads
        )

    def _take(self, found: Known) -> None:
        if found.job.number != self._bench.job.number:
            return
        self.found, self.trouble = found.at(self._wish) if self._wish is not None else found, ""
        if self.on and found.answer is not None and found.run is None:
            self._led = self.found  # while a lever is dragged the picture leads
            self.board.show_view(self.picture(self.found))
            self.board.repaint()
        self.tell()
        self._view.part_answered.emit(self.part)

    def scrub(self, time: float | None) -> None:
        """Another moment of the course; None: late in the print."""
        self._bench.hand_moves()
        self._wish = time
        if self.found is not None and self.found.answer is not None:
            self.found = self.found.at(time)
            self.tell_moment()

    # what is shown

    def tell(self) -> None:
        """Show what is known, while the tab is on."""
        view, found = self._view, self.found
        if not self.on or found is None:
            return
        if found.answer is None:
            self._tell_nothing()
            return
        answer, catalogue = found.answer, self._bench.catalogue
        view.verdict.clear_trouble()
        on = standing(found.job, self.part, catalogue, found.deciding)
        self._open = on.open
        view.verdict.show_verdict(verdict_on(self.words, answer, on))
        rows = margin_rows(answer)
        view.margins.show_rows(unsure_rows(rows) if self._open else rows)
        facts, of = deciding_view(answer, on, catalogue), (self.part, found.job.number)
        view.facts.show_view(facts or assumed_view(on, catalogue), of, final=facts is not None)
        view.cautions.show_called(called_for(catalogue, answer.facts), catalogue)
        if found.job != self._rows_of or answer.strengths:  # while dragged, the edit laid them already
            view.levers.show_rows(lever_rows(found.job, catalogue, answer, self.part))
        gains = _("{part} gains, per step").format(part=part_label(answer.worst).lower()) if answer.strengths else ""
        view.levers.show_advice(gains, self.advice(answer) if answer.strengths else "")
        self.offer()
        view.rivals.setText(self.below(found))
        self.tell_moment()

    def tell_moment(self) -> None:
        """Show the moment that is looked at, while the tab is on."""
        view, found = self._view, self.found
        if not self.on or found is None or found.answer is None:
            return
        ladder = self.ladder(found)
        view.ladder.show_view(unsure(ladder) if self._open else ladder)
        if found is not self._led:
            self.board.show_view(self.picture(found))
        self._led = None
        view.foot.setText(self.foot(found.answer))
        view.sure.setText("")
        self.tell_strip()

    def tell_strip(self) -> None:
        """Show the course, while the tab is on."""
        if not self.on or self.found is None or self.found.answer is None:
            return
        shown = self.strip(self.found)
        if shown is not None:
            self._view.strip.show_view(shown)
        else:
            self._view.strip.set_stale()

    def _tell_nothing(self) -> None:
        view = self._view
        view.verdict.show_verdict(self.words.nothing())
        self.board.show_view(None)
        view.margins.show_rows(())
        view.facts.show_view(None)
        view.ladder.show_view(LadderView(self.words.EMPTY, (), None, ()))
        view.levers.show_rows(lever_rows(self._bench.job, self._bench.catalogue, None, self.part))
        view.levers.show_advice("", "")
        view.rivals.setText("")
        view.foot.setText("")
        self.offer()

    def _fail(self, wrong: Exception) -> None:
        self.trouble = self._show_trouble(wrong)
        self._view.part_answered.emit(self.part)

    def _show_trouble(self, wrong: Exception) -> str:
        """Say why there is no answer, while the tab is on; returns what is said."""
        if isinstance(wrong, DoesNotFitError):
            text = str(wrong)
        elif isinstance(wrong, NotSettledError | TooSmallError):
            text = _("No answer for these values; the last good one is shown.")
        else:
            log.error("a part failed", exc_info=wrong)
            text = _("The model failed on these values; the log says more. The last good answer is shown.")
        if self.on:
            self._view.verdict.show_trouble(text)
            self.board.set_stale()
        return text


class FittedTeller(PartTeller[Known]):
    """A part that can be fitted to a run which has one of its channels; said: what is edited then."""

    def fits_with(self, how: Fitting, channels: tuple[str, ...], words: fits_words.Words, said: str) -> None:
        """Say how; once, when it is made."""
        self._how, self._channels, self._fit_words, self._fit_said = how, channels, words, said
        self.fitted: FitFound | None = None
        self.fits = Asked(self._bench.executor, Rank.ASKED, self)
        self.fits.changed.connect(self._take_fit)
        self.fits.failed.connect(self._show_trouble)
        self._view.fit.clicked.connect(lambda: self.fit() if self.on else None)

    def run_to_fit(self) -> str:
        """The run whose warm-up counts: the one laid over the model, else the first that tells; nothing: none."""
        measured = self._bench.job.measured
        logged = measured.logged()
        keys = [key for key in (measured.laid, *logged) if key in logged]
        told = [key for key in keys if any(name in logged[key].values for name in self._channels)]
        return told[0] if told else ""

    def fit(self) -> None:
        """Fit to a run's warm-up; pressed again, take what it told as found."""
        job, fitted = self._bench.job, self.fitted
        if fitted is not None and fitted.fit is not None and fitted.job == job:
            values = fitted.values
            self.fitted = None
            self._bench.edit(lambda now: edits.with_fitted(now, values), self._fit_said)
            return
        key = self.run_to_fit()
        if key and self.fits is not None:
            self._view.fit.setText(_("Fitting ..."))
            self.fits.ask(fit_of(job, self._bench.catalogue, as_series(job.measured.runs[key]), self._how))

    def _take_fit(self, fitted: FitFound) -> None:
        if fitted.job == self._bench.job:
            self.fitted = fitted
            self.offer()

    def offer(self) -> None:
        view, key, fitted = self._view, self.run_to_fit(), self.fitted
        if not self.on:
            return
        view.fit.setVisible(bool(key))
        view.fits.setVisible(bool(key))
        if not key:
            return
        known = fitted if fitted is not None and fitted.job == self._bench.job else None
        if known is None or known.fit is None:
            view.fit.setText(_("Fit to '{run}'").format(run=self._bench.job.measured.runs[key].label))
            view.fits.setText(known.trouble if known is not None else "")
            return
        lines = [fits_words.fitted(one, self._fit_words) for one in known.fit.found]
        view.fits.setText("\n".join([*lines, fits_words.misfit(known.fit)]))
        view.fit.setText(_("Take these as found"))

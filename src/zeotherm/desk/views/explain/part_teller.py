"""What tells of a part of the machine in Explain: what is asked, what went wrong, and the moment that is wished for."""

from __future__ import annotations

import logging
from typing import TYPE_CHECKING, Any

from zeotherm.answers.executor import Rank
from zeotherm.answers.fits import FitFound, Fitting, fit_of
from zeotherm.core.catalogue.lookup import DoesNotFitError
from zeotherm.core.runs.series import as_series
from zeotherm.core.solver.plate import NotSettledError
from zeotherm.core.solver.stepping import TooSmallError
from zeotherm.desk.bench import Bench
from zeotherm.desk.bridge import Asked
from zeotherm.desk.views.explain.page import ExplainPage
from zeotherm.desk.views.explain.teller import Teller
from zeotherm.shop import edits
from zeotherm.wording import fits as fits_words
from zeotherm.wording.language import _

if TYPE_CHECKING:
    from zeotherm.desk.widgets.part_board import PartBoard

log = logging.getLogger(__name__)


class PartTeller(Teller):
    """Fills Explain with one part beside the hotend."""

    def __init__(self, bench: Bench, view: ExplainPage, board: PartBoard[Any]) -> None:
        super().__init__(bench, view, board)
        self.asked = Asked(bench.executor, Rank.AHEAD, self)
        self._wish: float | None = None
        self.asked.failed.connect(self._fail)
        self.asked.busy_changed.connect(lambda busy: view.verdict.set_busy(busy) if self.on else None)

    @property
    def busy(self) -> bool:
        return self.asked.busy

    def matters(self, rank: Rank) -> None:
        self.asked.matters(rank)

    # its own curve

    def fits_with(self, how: Fitting, channels: tuple[str, ...], words: fits_words.Words, said: str) -> None:
        """Let this part be fitted to a run that has one of these channels; said: what is edited then."""
        self._how, self._channels, self._fit_words, self._fit_said = how, channels, words, said
        self.fitted: FitFound | None = None
        self.fits = fits = Asked(self._bench.executor, Rank.ASKED, self)
        fits.changed.connect(self._take_fit)
        fits.failed.connect(self._fail)
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
        if key:
            self._view.fit.setText(_("Fitting ..."))
            self.fits.ask(fit_of(job, self._bench.catalogue, as_series(job.measured.runs[key]), self._how))

    def _take_fit(self, fitted: FitFound) -> None:
        if fitted.job == self._bench.job:
            self.fitted = fitted
            self._tell_fit()

    def _tell_fit(self) -> None:
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

    def _fail(self, wrong: Exception) -> None:
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

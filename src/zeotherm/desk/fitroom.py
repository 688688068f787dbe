"""Fits a part of the machine as found to a run that was logged, in the background."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from zeotherm.core.catalogue import Catalogue
from zeotherm.core.judgement.estimate import Fit
from zeotherm.core.machine.documents import Job
from zeotherm.core.runs.series import Series
from zeotherm.core.solver.plate import NotSettledError
from zeotherm.desk.room import AnswerRoom
from zeotherm.desk.scheduler import Cancelled


@dataclass(frozen=True)
class FitFound:
    """What a run tells of a part, or why it tells nothing."""

    job: Job
    fit: Fit[Any] | None
    values: dict[str, tuple[float, float]]  # to take as found, by path: value and 95 % half-width
    trouble: str = ""


class FitRoom(AnswerRoom):
    """Emits `FitFound`."""

    def show(self, job: Job, catalogue: Catalogue, series: Series) -> None:
        """Fit to this series."""
        self.submit(lambda emit, cancelled: emit(self._fit(job, catalogue, series, cancelled)))

    def fit(self, job: Job, catalogue: Catalogue, series: Series, cancelled: Cancelled) -> Fit[Any]:
        """The fit itself. Raises ValueError and NotSettledError."""
        raise NotImplementedError

    def scales(self, job: Job, catalogue: Catalogue) -> dict[str, tuple[str, float]]:
        """Path of each unknown, and what a value is multiplied by on its way there."""
        raise NotImplementedError

    def _fit(self, job: Job, catalogue: Catalogue, series: Series, cancelled: Cancelled) -> FitFound:
        try:
            fit = self.fit(job, catalogue, series, cancelled)
        except (ValueError, NotSettledError) as wrong:
            return FitFound(job, None, {}, str(wrong))
        scales = self.scales(job, catalogue)
        told = {one.name: (scales[one.name], one) for one in fit.found}
        values = {path: (one.after * scale, one.band.up * scale) for (path, scale), one in told.values()}
        return FitFound(job, fit, values)

"""Fits of a part of the machine as found to a run that was logged."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import Any

from zeotherm.core.catalogue import Catalogue
from zeotherm.core.judgement.estimate import Fit
from zeotherm.core.machine.documents import Job
from zeotherm.core.parts.bed.judge.fit import BedFit, fit_bed
from zeotherm.core.parts.bed.model.inputs import resolve_bed
from zeotherm.core.parts.enclosure.judge.answer import around_of, encloses
from zeotherm.core.parts.enclosure.judge.fit import CaseFit, clocked, fit_case
from zeotherm.core.parts.enclosure.model.inputs import resolve_chamber
from zeotherm.core.parts.whole.run import simulate
from zeotherm.core.questions import Cancelled
from zeotherm.core.runs.series import Series
from zeotherm.core.runs.warm_up import case_of, warm_up_of
from zeotherm.core.solver.plate import NotSettledError

Scales = dict[str, tuple[str, float]]  # of each unknown: its path, and what a value is multiplied by on its way there


@dataclass(frozen=True)
class FitFound:
    """What a run tells of a part, or why it tells nothing."""

    job: Job
    fit: Fit[Any] | None
    values: dict[str, tuple[float, float]]  # to take as found, by path: value and 95 % half-width
    trouble: str = ""


@dataclass(frozen=True)
class Fitting:
    """How a part is fitted. fit: raises ValueError and NotSettledError."""

    fit: Callable[[Job, Catalogue, Series, Cancelled], Fit[Any]]
    scales: Callable[[Job, Catalogue], Scales]


def fit_of(job: Job, catalogue: Catalogue, series: Series, how: Fitting) -> Callable[[Cancelled], Iterator[FitFound]]:
    """A task: what a run tells of a part of the machine as found."""

    def task(cancelled: Cancelled) -> Iterator[FitFound]:
        try:
            fit = how.fit(job, catalogue, series, cancelled)
        except (ValueError, NotSettledError) as wrong:
            yield FitFound(job, None, {}, str(wrong))
            return
        scales = how.scales(job, catalogue)
        told = {one.name: (scales[one.name], one) for one in fit.found}
        values = {path: (one.after * scale, one.band.up * scale) for (path, scale), one in told.values()}
        yield FitFound(job, fit, values)

    return task


def _fit_bed(job: Job, catalogue: Catalogue, series: Series, cancelled: Cancelled) -> BedFit:
    """Heater, mass and film of the bed by its warm-up."""
    measured = warm_up_of(series, job.found.room.mean_c, job.found.bed.target_c)
    return fit_bed(resolve_bed(job.found, catalogue, job.tolerances), measured, cancelled)


def _scales_of_bed(job: Job, _catalogue: Catalogue) -> Scales:
    share = (0.01 * job.found.bed.volts_pct) ** 2
    return {"heater": ("bed.heater_w", 1.0 / share), "mass": ("corrections.bed_mass", 1.0),
            "film": ("corrections.bed_film", 1.0)}  # fmt: skip


def _fit_case(job: Job, catalogue: Catalogue, series: Series, cancelled: Cancelled) -> CaseFit:
    """Walls, leaks and contents of the enclosure by its own curve."""
    if not encloses(job.found, catalogue):
        raise ValueError("nothing encloses this machine as found")
    measured = case_of(series)
    setup = clocked(job.found, measured)
    run = simulate(setup, catalogue, job.tolerances, cancelled=cancelled)
    resolved = resolve_chamber(setup, catalogue, job.tolerances)
    return fit_case(resolved, around_of(setup, catalogue, run, measured.bed), measured, run.off, cancelled)


def _scales_of_case(job: Job, catalogue: Catalogue) -> Scales:
    base = resolve_chamber(job.found, catalogue).inputs
    now = job.found.corrections
    return {"film": ("corrections.case_film", 1.0), "gap": ("corrections.case_gap", now.case_gap / base.gap),
            "content": ("corrections.case_content", now.case_content / base.content)}  # fmt: skip


BED = Fitting(_fit_bed, _scales_of_bed)
CASE = Fitting(_fit_case, _scales_of_case)

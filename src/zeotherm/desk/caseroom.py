"""Solves the enclosure of the job on the bench: at rest at once, then its course, then how sure and what would help."""

from __future__ import annotations

from dataclasses import dataclass, replace

from PyQt6.QtCore import QObject

from zeotherm.core.catalogue import Catalogue
from zeotherm.core.judgement.chamber.answer import (
    ChamberAnswer,
    around_of,
    encloses,
    first_case,
    stations,
    with_case_course,
)
from zeotherm.core.judgement.chamber.fit import CaseFit, clocked, fit_case
from zeotherm.core.judgement.chamber.sizing import CutOut, Gone, Tried, cut_out, gone_wrong, tried
from zeotherm.core.judgement.chamber.sure import full_case
from zeotherm.core.judgement.chamber.warmth import Warmth, warmths
from zeotherm.core.machine.documents import Job
from zeotherm.core.runs.series import Series
from zeotherm.core.runs.warm_up import case_of
from zeotherm.core.twin.chamber.inputs import resolve_chamber
from zeotherm.core.twin.chamber.solved import SolvedChamber
from zeotherm.core.twin.whole.run import History, simulate
from zeotherm.desk.fitroom import FitRoom
from zeotherm.desk.room import AnswerRoom, Kept, Scrubbed, name_of
from zeotherm.desk.scheduler import Cancelled, Emit, rest


@dataclass(frozen=True)
class CaseFound(Scrubbed):
    """What the model says of the enclosure of the job on the bench."""

    job: Job
    answer: ChamberAnswer | None  # None: nothing encloses the machine
    as_found: ChamberAnswer | None = None  # while something is on trial
    tried: tuple[Tried, ...] = ()
    cut: CutOut | None = None
    gone: tuple[Gone, ...] = ()
    own: Warmth | None = None  # what the filament on the machine may have
    time: float | None = None  # of the moment that is shown [s]; None: at rest, late in the print

    @property
    def shown(self) -> SolvedChamber:
        """The enclosure at the moment that is shown."""
        assert self.answer is not None
        if self.time is None or self.answer.run is None:
            return self.answer.solved
        return self.answer.run.moment(self.time)

    @property
    def values(self) -> dict[str, float]:
        """Stations at the moment that is shown."""
        assert self.answer is not None
        if self.time is None:
            return self.answer.values
        return stations(self.answer.setup, self.answer.catalogue, self.shown)


class CaseRoom(AnswerRoom):
    """Emits the enclosure as it is known, as `CaseFound`; what was solved before is not solved again."""

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._known: Kept[CaseFound] = Kept()
        self._last: ChamberAnswer | None = None

    def show(self, job: Job, catalogue: Catalogue, run: History | None) -> None:
        """Solve the enclosure of a job; run: its machine's, where that is known."""
        self.submit(lambda emit, cancelled: self._work(job, catalogue, run, emit, cancelled))

    def _work(self, job: Job, catalogue: Catalogue, run: History | None, emit: Emit, cancelled: Cancelled) -> None:
        setup = job.setup()
        name = name_of(setup, job.found if job.trial else None, job.tolerances, catalogue, run)
        known = self._known.get(name)
        if known is not None:
            emit(replace(known, job=job))
            return
        if not encloses(setup, catalogue):
            emit(CaseFound(job, None))
            return
        arounds = around_of(setup, catalogue, run)
        answer = self._last = first_case(setup, catalogue, job.tolerances, arounds=arounds, like=self._last)
        found = CaseFound(job, answer, cut=cut_out(answer))
        emit(found)
        rest(cancelled)
        if job.trial and encloses(job.found, catalogue):
            before = first_case(job.found, catalogue, job.tolerances, arounds=around_of(job.found, catalogue, run))
            found = replace(found, as_found=before)
            emit(found)
        if run is not None:
            found = replace(found, answer=with_case_course(answer, arounds, run.end, run.off, cancelled))
            emit(found)
        rest(cancelled)
        assert found.answer is not None
        found = replace(found, answer=full_case(found.answer, run, cancelled))
        emit(found)
        if run is not None:
            own = warmths(setup, catalogue, run, answer.solved.low, job.tolerances, cancelled, own_only=True)
            found = replace(found, own=own[0] if own else None)
            emit(found)
        assert found.answer is not None
        found = replace(found, tried=tuple(tried(found.answer, run, cancelled)),
                        gone=tuple(gone_wrong(found.answer, cancelled)))  # fmt: skip
        emit(self._known.keep(name, found))


class CaseFitRoom(FitRoom):
    """Fits walls, leaks and contents of the case as found to a run."""

    def fit(self, job: Job, catalogue: Catalogue, series: Series, cancelled: Cancelled) -> CaseFit:
        if not encloses(job.found, catalogue):
            raise ValueError("nothing encloses this machine as found")
        measured = case_of(series)
        setup = clocked(job.found, measured)
        run = simulate(setup, catalogue, job.tolerances, cancelled=cancelled)
        resolved = resolve_chamber(setup, catalogue, job.tolerances)
        return fit_case(resolved, around_of(setup, catalogue, run, measured.bed), measured, run.off, cancelled)

    def scales(self, job: Job, catalogue: Catalogue) -> dict[str, tuple[str, float]]:
        base = resolve_chamber(job.found, catalogue).inputs
        now = job.found.corrections
        return {"film": ("corrections.case_film", 1.0), "gap": ("corrections.case_gap", now.case_gap / base.gap),
                "content": ("corrections.case_content", now.case_content / base.content)}  # fmt: skip

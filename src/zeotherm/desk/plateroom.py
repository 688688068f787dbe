"""Solves the bed of the job on the bench: at once at rest, then its course, then how sure and what would help."""

from __future__ import annotations

from dataclasses import dataclass, replace

from PyQt6.QtCore import QObject

from zeotherm.core.catalogue import Catalogue
from zeotherm.core.judgement.bed.answer import (
    Airs,
    BedAnswer,
    airs_of,
    first_bed,
    heated,
    moment,
    small,
    with_control,
    with_course,
)
from zeotherm.core.judgement.bed.fit import BedFit, fit_bed
from zeotherm.core.judgement.bed.rivals import Rival, rivals
from zeotherm.core.judgement.bed.sure import asked_of, full_bed
from zeotherm.core.judgement.bed.tuning import Tuned, relay
from zeotherm.core.judgement.margins import margins_with
from zeotherm.core.machine.documents import Job
from zeotherm.core.runs.series import Series
from zeotherm.core.runs.warm_up import warm_up_of
from zeotherm.core.solver.plate import NotSettledError
from zeotherm.core.twin.bed.inputs import resolve_bed
from zeotherm.core.twin.bed.readout import BedReadout
from zeotherm.core.twin.whole.run import History
from zeotherm.desk.fitroom import FitRoom
from zeotherm.desk.room import AnswerRoom, Kept, name_of
from zeotherm.desk.scheduler import Cancelled, Emit, rest

OF_ALL = ("bed_ready", "bed_clearance")  # stations of the whole course, the same at every moment of it
ABOUT = 0.02  # K of the sensor, meanwhile
WHILE_DRAGGED = 16  # cells along the longer side: within half a kelvin of the working grid


@dataclass(frozen=True)
class BedFound:
    """What the model says of the bed of the job on the bench."""

    job: Job
    answer: BedAnswer | None  # None: no heated bed
    as_found: BedAnswer | None = None  # while something is on trial
    rivals: tuple[Rival, ...] = ()
    tuned: Tuned | None = None  # its controller, by a relay test on the model
    time: float | None = None  # of the moment that is shown [s]; None: late in the print
    readout: BedReadout | None = None  # of that moment

    @property
    def shown(self) -> BedReadout:
        """What is read at the moment that is shown."""
        assert self.answer is not None
        return self.readout or self.answer.readout

    @property
    def judged(self) -> BedAnswer:
        """The answer with its margins at the moment that is shown."""
        assert self.answer is not None
        if self.readout is None:
            return self.answer
        values = {**self.readout.values, **{key: self.answer.readout.values[key] for key in OF_ALL
                                            if key in self.answer.readout.values}}  # fmt: skip
        return replace(self.answer, margins=margins_with(self.answer.limits, values, self.answer.bands))

    def at(self, time: float | None) -> BedFound:
        """The same at another moment of its course."""
        if time is None or self.answer is None or self.answer.run is None:
            return replace(self, time=None, readout=None)
        end = float(self.answer.run.times[-1])
        time = min(max(time, 0.0), end)
        return replace(self, time=time, readout=moment(self.answer, time))


class PlateRoom(AnswerRoom):
    """Emits the bed as it is known, as `BedFound`; what was solved before is not solved again."""

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._known: Kept[BedFound] = Kept()
        self._last: BedFound | None = None
        self._rough: BedAnswer | None = None
        self._found_so: tuple[str, BedAnswer | None] = ("", None)  # the machine as found, by what went in

    def show(self, job: Job, catalogue: Catalogue, run: History | None, *, in_full: bool) -> None:
        """Solve the bed of a job; run: its machine's, where that is known; in_full: with bands and strengths."""
        self.submit(lambda emit, cancelled: self._work(job, catalogue, run, in_full, emit, cancelled))

    def _work(
        self, job: Job, catalogue: Catalogue, run: History | None, in_full: bool, emit: Emit, cancelled: Cancelled
    ) -> None:
        setup = job.setup()
        name = name_of(setup, job.found if job.trial else None, job.tolerances, catalogue, run)
        known = self._known.get(name)
        if known is not None and known.answer is not None:
            found = replace(known, job=job)
            emit(found)
        else:
            if not heated(setup, catalogue):
                emit(self._keep(name, BedFound(job, None)))
                return
            airs = bed_airs(run)
            last = self._last.answer if self._last is not None else None
            as_found = self._as_found(job, catalogue, run) if job.trial else None
            rough = first_bed(setup, catalogue, job.tolerances, airs=airs, last=self._rough, cells=WHILE_DRAGGED,
                              settled=ABOUT)  # fmt: skip
            self._rough = rough
            found = BedFound(job, rough, as_found)
            emit(found)
            rest(cancelled)
            found = replace(found, answer=first_bed(setup, catalogue, job.tolerances, airs=airs, last=last))
            assert found.answer is not None
            found = self._keep(name, replace(found, answer=with_course(found.answer, airs, cancelled)))
            emit(found)
            rest(cancelled)
            assert found.answer is not None
            under = with_control(found.answer, airs)
            if under.controlled is not None:
                found = self._keep(name, replace(found, answer=under))
                emit(found)
        if in_full and found.answer is not None and not found.answer.complete:
            airs = bed_airs(run)
            known_by_now = found.answer
            try:
                why = tuple(rivals(setup, catalogue, asked_of(known_by_now, airs)))
            except NotSettledError:
                why = ()
            found = replace(found, rivals=why, tuned=_tuned(known_by_now, airs))
            emit(found)
            emit(self._keep(name, replace(found, answer=full_bed(known_by_now, airs, cancelled))))

    def _as_found(self, job: Job, catalogue: Catalogue, run: History | None) -> BedAnswer | None:
        name = name_of(job.found, job.tolerances, catalogue, run)
        if name != self._found_so[0]:
            there, airs = heated(job.found, catalogue), bed_airs(run)
            self._found_so = (name, first_bed(job.found, catalogue, job.tolerances, airs=airs) if there else None)
        return self._found_so[1]

    def _keep(self, name: str, found: BedFound) -> BedFound:
        self._last = self._known.keep(name, found)
        return found


class BedFitRoom(FitRoom):
    """Fits the bed as found to a run's warm-up."""

    def fit(self, job: Job, catalogue: Catalogue, series: Series, cancelled: Cancelled) -> BedFit:
        measured = warm_up_of(series, job.found.room.mean_c, job.found.bed.target_c)
        return fit_bed(resolve_bed(job.found, catalogue, job.tolerances), measured, cancelled)

    def scales(self, job: Job, _catalogue: Catalogue) -> dict[str, tuple[str, float]]:
        share = (0.01 * job.found.bed.volts_pct) ** 2
        return {"heater": ("bed.heater_w", 1.0 / share), "mass": ("corrections.bed_mass", 1.0),
                "film": ("corrections.bed_film", 1.0)}  # fmt: skip


def bed_airs(run: History | None) -> Airs | None:
    """What the bed stands in along a run of its machine; None where that is not known."""
    return airs_of(run) if run is not None else None


def _tuned(answer: BedAnswer, airs: Airs | None) -> Tuned | None:
    """Controller values; none where the heater does not bring the bed about its set value."""
    try:
        return relay(small(answer, airs), answer.setup.bed.sensor_lag_s)
    except ValueError:
        return None

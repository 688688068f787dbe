"""The bench: the open workshop, the job on it, and its answer. Intents come in, documents and answers go out."""

from __future__ import annotations

import logging
import time
from collections.abc import Callable
from dataclasses import dataclass, replace
from pathlib import Path

from PyQt6.QtCore import QObject, pyqtSignal

from zeotherm.core.catalogue import Catalogue, shipped
from zeotherm.core.judgement.answer import Answer, first_answer, full_answer
from zeotherm.core.machine.documents import Job, Setup
from zeotherm.core.machine.quantity import declared
from zeotherm.core.solver.axisymmetric import CancelledError, NotConvergedError
from zeotherm.core.twin.hotend.inputs import DoesNotFitError
from zeotherm.desk.scheduler import Cancelled, Emit, Scheduler
from zeotherm.shop import edits, job_files
from zeotherm.shop.errors import ShopError
from zeotherm.shop.workshop import Workshop
from zeotherm.wording.language import _

log = logging.getLogger(__name__)
REST_SECONDS = 0.12


@dataclass(frozen=True)
class Found:
    """What the model says of the job on the bench, and of the machine as found."""

    job: Job
    answer: Answer
    as_found: Answer | None  # None while nothing is on trial


@dataclass(frozen=True)
class OtherJob:
    """A job of the workshop with its answer, for the list."""

    key: int
    job: Job
    answer: Answer | None


class Bench(QObject):
    """Everything the views may do to the workshop, and what they listen to."""

    job_changed = pyqtSignal(object)  # Job
    answered = pyqtSignal(object)  # Found; first without bands, then with
    unsolved = pyqtSignal(str)  # why there is no new answer; the last one stays
    told = pyqtSignal(str)  # one sentence for the person
    listed = pyqtSignal(object)  # list[OtherJob]
    busy_changed = pyqtSignal(bool)

    def __init__(self, workshop: Workshop, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._workshop = workshop
        self._solver = Scheduler(self)
        self._solver.arrived.connect(self._arrived)
        self._solver.failed.connect(self._failed)
        self._solver.idle.connect(lambda: self.busy_changed.emit(False))
        self._lister = Scheduler(self)
        self._lister.arrived.connect(self.listed)
        self._found: Found | None = None
        self._drag: str | None = None
        self._key, self._job = self._first_job()

    @property
    def job(self) -> Job:
        """The job on the bench."""
        return self._job

    @property
    def key(self) -> int:
        """Its id in the workshop."""
        return self._key

    @property
    def found(self) -> Found | None:
        """The last answer."""
        return self._found

    @property
    def catalogue(self) -> Catalogue:
        """The catalogue with the job's own entries."""
        return shipped().with_own(self._job.catalogue)

    def start(self) -> None:
        """Answer the job on the bench at once, then go on with its bands in the background."""
        try:
            answer = first_answer(self._job.setup(), self.catalogue, self._job.tolerances)
            self._arrived(Found(self._job, answer, None))
        except (NotConvergedError, DoesNotFitError) as wrong:
            self._failed(wrong)
        self._solve()

    def close(self) -> None:
        """Stop working and let go of the workshop."""
        self._solver.close()
        self._lister.close()
        self._workshop.close()

    # intents

    def set_value(self, path: str, value: float | str, *, dragging: bool = False) -> None:
        """Put a value on trial. dragging: more of the same will follow."""
        amend = self._drag == path
        self._drag = path if dragging else None
        self._edit(lambda job: edits.with_value(job, path, value), declared(Setup)[path].label, amend=amend)

    def set_found(self, path: str | None = None) -> None:
        """Take the trial back, or one path of it."""
        self._edit(lambda job: edits.as_found(job, path), _("as found"))

    def accept_trial(self) -> None:
        """Take the values on trial as found."""
        self._edit(edits.accept_trial, _("taken as found"))

    def enter(self, line: str) -> bool:
        """Do what an entry line says; False when it was refused."""
        return self._edit(lambda job: edits.apply_line(job, line)[0], line)

    def undo(self) -> None:
        """One edit back."""
        self._step(self._workshop.undo, _("Undone: {label}"), _("Nothing to undo."))

    def redo(self) -> None:
        """One edit forward."""
        self._step(self._workshop.redo, _("Redone: {label}"), _("Nothing to redo."))

    def open_job(self, key: int) -> None:
        """Put another job on the bench."""
        try:
            job = self._workshop.job(key)
            self._workshop.set_note("on bench", str(key))
        except ShopError as wrong:
            self.told.emit(str(wrong))
            return
        self._put(key, job)

    def prefer(self, machine: str) -> None:
        """Put the job of a machine on the bench, if there is one."""
        for key, job in self._workshop.jobs():
            if job.machine.startswith(machine):
                self._key, self._job = key, job

    def new_job(self) -> None:
        """Put a new job with a typical machine on the bench."""
        self._add(Job(number=self._next_number(), machine=_("New machine")))

    def import_job(self, path: Path) -> None:
        """Take in a job from a file; the open job is untouched when it is refused."""
        try:
            job = job_files.read_job(path)
        except ShopError as wrong:
            self.told.emit(str(wrong))
            return
        self._add(job)

    def export_job(self, path: Path) -> None:
        """Write the job on the bench to a file."""
        self._try(lambda: job_files.write_text(path, job_files.dumps(self._job)), _("Written: {name}"), path.name)

    def rename(self, machine: str, place: str, complaint: str) -> None:
        """Change the words that describe the job."""
        words = {"machine": machine, "place": place, "complaint": complaint}
        self._edit(
            lambda job: job_files.validated({**job.model_dump(mode="json"), **words}, _("The job")), _("description")
        )

    def note(self, key: str, default: str = "") -> str:
        """A remembered setting."""
        return self._workshop.note(key, default)

    def set_note(self, key: str, value: str) -> None:
        """Remember a setting; the window goes on without it when the file cannot be written."""
        try:
            self._workshop.set_note(key, value)
        except ShopError as wrong:
            log.warning("setting %s not remembered: %s", key, wrong)

    def list_jobs(self) -> None:
        """Gather every job and its answer in the background; `listed` tells them."""
        try:
            jobs = self._workshop.jobs()
        except ShopError as wrong:
            self.told.emit(str(wrong))
            return
        self._lister.submit(lambda emit, cancelled: emit([_listed(key, job, cancelled) for key, job in jobs]))

    def stop_solving(self) -> None:
        """Stop the work under way; the last answer stays."""
        self._solver.cancel()

    # inside

    def _first_job(self) -> tuple[int, Job]:
        jobs = self._workshop.jobs()
        if not jobs:
            job = Job(machine=_("New machine"))
            return self._workshop.add(job), job
        wanted = self._workshop.note("on bench")
        return next((entry for entry in jobs if str(entry[0]) == wanted), jobs[-1])

    def _edit(self, change: Callable[[Job], Job], label: str, *, amend: bool = False) -> bool:
        try:
            job = change(self._job)
            if job == self._job:
                return True
            self._workshop.edit(self._key, job, label, amend=amend)
        except (edits.RefusedError, ShopError) as wrong:
            self.told.emit(str(wrong))
            return False
        self._show(job)
        return True

    def _step(self, move: Callable[[int], str | None], done: str, nothing: str) -> None:
        self._drag = None
        try:
            label = move(self._key)
            if label is not None:
                self._show(self._workshop.job(self._key))
        except ShopError as wrong:
            self.told.emit(str(wrong))
            return
        self.told.emit(nothing if label is None else done.format(label=label))

    def _add(self, job: Job) -> None:
        try:
            key = self._workshop.add(job)
            self._workshop.set_note("on bench", str(key))
        except ShopError as wrong:
            self.told.emit(str(wrong))
            return
        self._put(key, job)

    def _put(self, key: int, job: Job) -> None:
        self._key, self._drag, self._found = key, None, None
        self._show(job)

    def _show(self, job: Job) -> None:
        self._job = job
        self.job_changed.emit(job)
        self._solve()

    def _solve(self) -> None:
        job, last, catalogue = self._job, self._found, self.catalogue
        self.busy_changed.emit(True)
        self._solver.submit(lambda emit, cancelled: _answer(job, catalogue, last, emit, cancelled))

    def _arrived(self, found: Found) -> None:
        self._found = found
        self.answered.emit(found)

    def _failed(self, wrong: Exception) -> None:
        if isinstance(wrong, NotConvergedError | DoesNotFitError):
            self.unsolved.emit(
                _("No steady answer for these values; the last good one is shown.")
                if isinstance(wrong, NotConvergedError)
                else str(wrong)
            )
        else:
            log.error("solving failed", exc_info=wrong)
            self.unsolved.emit(_("The model failed on these values; the log says more. The last good answer is shown."))

    def _try(self, action: Callable[[], None], done: str, name: str) -> None:
        try:
            action()
        except ShopError as wrong:
            self.told.emit(str(wrong))
            return
        self.told.emit(done.format(name=name))

    def _next_number(self) -> str:
        numbers = [int(job.number) for _key, job in self._workshop.jobs() if job.number.isdigit()]
        return f"{max(numbers, default=0) + 1:04d}"


def _answer(job: Job, catalogue: Catalogue, last: Found | None, emit: Emit, cancelled: Cancelled) -> None:
    """The answer without bands, then with; as found beside it while something is on trial."""
    previous = last.answer if last else None
    answer = first_answer(job.setup(), catalogue, job.tolerances, previous, cancelled)
    as_found = None
    if job.trial:
        as_found = last.as_found if last and last.as_found and last.as_found.setup == job.found else None
    found = Found(job, answer, as_found)
    emit(found)
    _rest(cancelled)
    if job.trial and as_found is None:
        found = replace(found, as_found=first_answer(job.found, catalogue, job.tolerances, answer, cancelled))
        emit(found)
    emit(replace(found, answer=full_answer(answer, cancelled)))


def _rest(cancelled: Cancelled) -> None:
    """Leave the window alone while a lever is being dragged; bands follow once it rests."""
    for _step in range(round(REST_SECONDS / 0.01)):
        if cancelled():
            raise CancelledError
        time.sleep(0.01)


def _listed(key: int, job: Job, cancelled: Cancelled) -> OtherJob:
    try:
        return OtherJob(
            key, job, first_answer(job.setup(), shipped().with_own(job.catalogue), job.tolerances, None, cancelled)
        )
    except (NotConvergedError, DoesNotFitError):
        return OtherJob(key, job, None)

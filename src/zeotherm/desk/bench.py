"""The bench: the open workshop, the job on it, and its answer. Intents come in, documents and answers go out."""

from __future__ import annotations

import logging
import tempfile
from collections.abc import Callable, Iterator, Mapping
from concurrent.futures import Future
from pathlib import Path
from typing import Any, NamedTuple, TypeVar

from PyQt6.QtCore import QObject, Qt, QTimer, pyqtSignal

from zeotherm.answers.executor import Executor, Rank
from zeotherm.answers.hotend import Found, hotend, listed, moment_of
from zeotherm.answers.store import Store
from zeotherm.core.catalogue import Catalogue, shipped
from zeotherm.core.catalogue.lookup import DoesNotFitError
from zeotherm.core.catalogue.own import Stated
from zeotherm.core.catalogue.stations import STATIONS
from zeotherm.core.choices.board import offered
from zeotherm.core.machine.documents import Job, Setup, Variant, declaration
from zeotherm.core.machine.intake import Attachment
from zeotherm.core.machine.known import How
from zeotherm.core.machine.patches import Patch, composed
from zeotherm.core.machine.toolheads import NUMBERS, numbers_of
from zeotherm.core.solver.axisymmetric import NotConvergedError
from zeotherm.desk.bridge import Asked, awaited
from zeotherm.shop.editing import build_edits, edits
from zeotherm.shop.editing.run_edits import with_forecast
from zeotherm.shop.errors import ShopError
from zeotherm.shop.files import job_files, shelf_files
from zeotherm.shop.files.own_entries import ALL, OwnFile, begin_own, read_own
from zeotherm.shop.leftovers import own_prefix
from zeotherm.shop.workshops.keeper import Keeper
from zeotherm.shop.workshops.workshop import Workshop
from zeotherm.wording.entry import SetValue, Understood, understand
from zeotherm.wording.language import _

log = logging.getLogger(__name__)
T = TypeVar("T")
USUAL_OPTIONS = 5
WRITES_AFTER_MS = 400  # without a move of the hand that drags


class Unwritten(NamedTuple):
    """A job as it is dragged, before it is written."""

    label: str
    amend: bool


class JobName(NamedTuple):
    """A job of the workshop."""

    key: int
    number: str
    machine: str


USUAL_TARIFF = 0.30  # of a kWh, where the shop has not said


def _price(text: str, usual: float) -> float:
    """A price as it is kept; the usual one where there is none."""
    try:
        return float(text)
    except ValueError:
        return usual


class Bench(QObject):
    """Everything the views may do to the workshop, and what they listen to."""

    job_changed = pyqtSignal(object)  # Job
    answered = pyqtSignal(object)  # Found; first without bands, then with
    unsolved = pyqtSignal(str)  # why there is no new answer; the last one stays
    told = pyqtSignal(str)  # one sentence for the person
    listed = pyqtSignal(object)  # list[OtherJob]
    busy_changed = pyqtSignal(bool)
    shelf_changed = pyqtSignal()
    writing_changed = pyqtSignal(bool)  # whether an edit is still on its way into the file

    _acknowledged = pyqtSignal(int, int, object, object)  # key of a job, number of a write, what it holds, its receipt

    def __init__(self, keeper: Keeper, store: Store | None = None, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._keeper = keeper
        self._notes = self.have(Workshop.notes)
        self.store = store or Store()
        self.executor = Executor()
        self._hotend = Asked(self.executor, Rank.SHOWN, self)
        self._hotend.changed.connect(self._arrived)
        self._hotend.failed.connect(self._failed)
        self._hotend.busy_changed.connect(self.busy_changed)
        self._list = Asked(self.executor, Rank.LIST, self)
        self._list.changed.connect(self.listed)
        self._found: Found | None = None
        self._wish: float | None = None  # the moment that was scrubbed to; None: the worst
        self._drag: str | None = None
        self._unwritten: Unwritten | None = None
        self._writing = QTimer(self)
        self._writing.setSingleShot(True)
        self._writing.setInterval(WRITES_AFTER_MS)
        self._writing.timeout.connect(self.write)
        self._usual: tuple[Setup, Catalogue, dict[str, Variant]] | None = None  # options of a machine as found
        self._unpacked = tempfile.TemporaryDirectory(prefix=own_prefix())  # attached files that were opened
        self._own: Patch = {}
        self._shelf = shelf_files.Shelf()
        self._catalogue: tuple[Patch, Catalogue] = ({}, shipped())
        self._key, self._job = self.have(_first_job)
        self._kept = self._job  # as the file has it
        self._last_write, self._settled = 0, 0  # numbers: of the last write, and of the last that `_kept` goes back to
        self._receipts: dict[int, Future[list[str]]] = {}  # of each job's last write, until it was heard of
        # queued, so that a write which is through at once is heard of after the job it holds is shown
        self._acknowledged.connect(self._written, Qt.ConnectionType.QueuedConnection)  # type: ignore[call-arg]  # Qt takes it

    @property
    def job(self) -> Job:
        """The job on the bench."""
        return self._job

    @property
    def path(self) -> Path:
        """The workshop's file."""
        return self._keeper.path

    @property
    def key(self) -> int:
        """Its id in the workshop."""
        return self._key

    @property
    def found(self) -> Found | None:
        """The last answer."""
        return self._found

    @property
    def busy(self) -> bool:
        """Whether more of the hotend's answer is still to come."""
        return self._hotend.busy

    @property
    def wish(self) -> float | None:
        """The moment that was scrubbed to [s]; None: the worst."""
        return self._wish

    @property
    def catalogue(self) -> Catalogue:
        """The catalogue with the shop's own causes and parts, and the job's own entries."""
        patch = self._over_shipped(self._job)
        if self._catalogue[0] != patch:  # asked for at every key: made once
            self._catalogue = (patch, shipped().with_own(patch))
        return self._catalogue[1]

    def _over_shipped(self, job: Job) -> Patch:
        return composed(composed(self._own, self._parts), job.catalogue)

    @property
    def shelf(self) -> shelf_files.Shelf:
        """The shop's own parts, and what it has of each part."""
        return self._shelf

    @property
    def _parts(self) -> Patch:
        return shelf_files.parts_of(self._shelf)

    @property
    def counts_jobs(self) -> bool:
        """Whether the shop's own decided jobs shift what is common."""
        return self.note("count jobs", "yes") == "yes"

    def decided_jobs(self) -> dict[str, int]:
        """How often each cause was decided in this shop, the job on the bench left out; nothing when switched off.

        Reads every job: for the background.
        """
        found: dict[str, int] = {}
        if self.counts_jobs:
            for key, job in self._each_job():
                if key != self._key and job.intake.decided is not None:
                    found[job.intake.decided] = found.get(job.intake.decided, 0) + 1
        return found

    def count_jobs(self, count: bool) -> None:
        """Let the shop's own decided jobs shift what is common, or not."""
        self.set_note("count jobs", "yes" if count else "no")
        self.job_changed.emit(self._job)

    def read_own_entries(self) -> None:
        """Take in the shop's own causes and procedures again."""
        if self._read_own():
            self.told.emit(_("The shop's own causes, procedures and parts are read."))
        self.shelf_changed.emit()
        self.job_changed.emit(self._job)

    def _read_own(self) -> bool:
        """Take in the shop's own files; where one is wrong, say so and use what ships."""
        self._own, self._shelf, self._catalogue, wrong = self.have(lambda workshop: _own_of(workshop.path, self._job))
        for text in wrong:
            self.told.emit(text)
        return not wrong

    def own_file(self, kind: OwnFile) -> Path:
        """One of the shop's own files, made if there is none. Raises ShopError."""
        path = kind.beside(self._keeper.path)
        self.have(lambda _workshop: begin_own(kind, path))
        return path

    @property
    def clock(self) -> float | None:
        """Clock hours of the moment that is shown; none until the job is run."""
        found = self._found
        return found.course.run.clock(found.time) if found is not None and found.course is not None else None

    def start(self) -> None:
        """Have the job on the bench answered: at once in the air it states, then over its hours."""
        self._read_own()
        self._tell_news(self.have(Workshop.news))
        self._solve()

    def close(self) -> None:
        """Stop working and let go of the workshop."""
        self.write()
        self.executor.close()
        self._keeper.close()
        self._unpacked.cleanup()

    def have(self, work: Callable[[Workshop], T]) -> T:
        """Have something done by the thread that has the file: whatever reads or writes. Raises what it raises."""
        return awaited(self._keeper.do(work))

    # intents

    def matters(self, rank: Rank) -> None:
        """How urgent the hotend is: another part may be looked at."""
        self._hotend.matters(rank)

    def hand_moves(self) -> None:
        """A hand is at a lever or a scrubber."""
        self.executor.hand_moves()

    def set_value(self, path: str, value: float | str, *, dragging: bool = False) -> None:
        """Put a value on trial. dragging: more of the same will follow, and is written when the hand rests."""
        if dragging:
            self.hand_moves()
        amend = self._drag == path
        self._drag = path if dragging else None
        label = declaration(path).label
        if not (dragging or amend):
            self.edit(lambda job: edits.with_value(job, path, value), label)
            return
        self._drag_to(lambda job: edits.with_value(job, path, value), label, amend)
        if not dragging:
            self.write()

    def fault(self, key: str) -> bool:
        """Let one of the catalogue's faults come at the moment that is shown."""
        found = self._found
        minute = 60.0
        if found is not None and found.course is not None:
            minute = (found.time if self._wish is None else moment_of(found.course, self._wish)) / 60.0
        label = self.catalogue.faults[key].label
        return self.edit(lambda job: edits.with_fault(job, key, minute), label)

    def make_part(self, path: str, like: str, name: str, told: Mapping[str, Stated]) -> None:
        """Put a part of the shop's own on its shelf, and fit it. Raises RefusedError or ShopError."""
        kind = edits.shelf_at(self._job, path)
        key, entry = edits.own_part(kind, like, name, told, self.catalogue)
        self._keep_shelf(self._shelf.with_part(kind, key, entry))
        self.edit(lambda job: edits.with_part(job, path, key), declaration(path).label)

    def keep_part(self, kind: str, like: str, name: str, told: Mapping[str, Stated]) -> str:
        """Put a part of the shop's own on its shelf; its key. Raises RefusedError or ShopError."""
        key, entry = edits.own_part(kind, like, name, told, self.catalogue)
        self._keep_shelf(self._shelf.with_part(kind, key, entry))
        return key

    def change_part(self, kind: str, key: str, name: str, told: Mapping[str, Stated]) -> None:
        """Change a part of the shop's own, and of the job on the bench where it has it; other jobs keep theirs. Raises
        RefusedError or ShopError."""
        entry = edits.part_anew(kind, key, name, told, self.catalogue)
        self._keep_shelf(self._shelf.with_part(kind, key, entry))
        self.edit(lambda job: edits.with_entry(job, kind, key, entry), name)

    def drop_part(self, kind: str, key: str) -> None:
        """Take a part of the shop's own off its shelf; jobs that have it keep it. Raises ShopError."""
        self._keep_shelf(self._shelf.with_part(kind, key, None))

    def put_shelf(self, shelf: shelf_files.Shelf) -> None:
        """Have this shelf from now on. Raises ShopError."""
        self._keep_shelf(shelf)

    def _keep_shelf(self, shelf: shelf_files.Shelf) -> None:
        self.have(lambda workshop: shelf_files.write_shelf(shelf_files.beside(workshop.path), shelf))
        self._shelf = shelf
        self.shelf_changed.emit()

    def set_found(self, path: str | None = None) -> None:
        """Take the trial back, or one path of it."""
        self.edit(lambda job: edits.as_found(job, path), _("as found"))

    def describe(self, path: str, value: float | str, *, dragging: bool = False) -> None:
        """Set a value of the machine: what was only assumed is entered by it, what is known goes on trial."""
        if dragging or path in self._job.known:
            self.set_value(path, value, dragging=dragging)
        else:
            self.edit(lambda job: edits.with_fact(job, path, value), declaration(path).label)

    def typed(self, path: str, text: str) -> float | str:
        """The value of what is typed into the field of a path. ValueError says what to do."""
        label = declaration(path).label
        meant = understand(f"{label} {text}", self._job.setup(), self.catalogue)
        if not isinstance(meant, SetValue) or meant.path != path:
            raise ValueError(getattr(meant, "text", _("That is no value for {label}.").format(label=label)))
        return meant.value

    def set_known(self, path: str, how: How) -> None:
        """Say how a value of the machine as found is known; assumed: nobody told it."""
        self.edit(lambda job: edits.with_known(job, (path,), how), declaration(path).label)

    def set_measured(self, path: str, instrument: str) -> None:
        """Say that what stands at a path was measured, and with what."""
        label = declaration(path).label
        self.edit(lambda job: edits.with_measured(job, path, instrument, self.catalogue), label)

    def accept_trial(self) -> None:
        """Take the values on trial as found."""
        self.edit(edits.accept_trial, _("taken as found"))

    def enter(self, line: str) -> bool:
        """Do what an entry line says: what was only assumed is entered, what is known goes on trial; False when it was
        refused."""
        return self.edit(lambda job: edits.said(job, line, self.clock, self.catalogue), line)

    def understood(self, line: str) -> Understood:
        """What an entry line means, and whether it is entered as found."""
        return edits.meaning(self._job, line, self.catalogue)

    def enter_fact(self, line: str) -> bool:
        """Do what an entry line says to the machine as it was found; False when it was refused."""
        return self.edit(lambda job: edits.line_as_fact(job, line, self.clock, self.catalogue), line)

    def find(self, change: Patch, label: str) -> None:
        """Correct the machine as it was found."""
        self.edit(lambda job: edits.patch_as_fact(job, change), label)

    def add_toolhead(self) -> None:
        """One more toolhead, like the one in front until more is known of it."""
        free = next((one for one in NUMBERS if one not in numbers_of(self._job.found)), NUMBERS[-1])
        self.enter(f"add {free}")

    def put_in_front(self, number: str) -> None:
        """Have another toolhead in front."""
        self.edit(lambda job: edits.with_in_front(job, number), _("{number} active").format(number=number))

    def next_in_front(self) -> None:
        """The next toolhead in front."""
        numbers = numbers_of(self._job.found)
        if len(numbers) == 1:
            self.told.emit(_("This machine has one toolhead. Type add T1 to add another one."))
        else:
            self.put_in_front(numbers[(numbers.index(self._job.found.toolhead) + 1) % len(numbers)])

    def take_out(self, number: str) -> None:
        """Take a further toolhead out."""
        self.edit(lambda job: edits.without_toolhead(job, number), _("without {number}").format(number=number))

    def tell(self, asked: str, option: str | None) -> None:
        """Tell an answer, or take it back."""
        label = self.catalogue.asked[asked].label
        self.edit(lambda job: edits.with_answer(job, asked, option, self.catalogue), label)

    def trouble(self, key: str) -> None:
        """Say what the trouble shows at."""
        label = self.catalogue.troubles[key].label
        self.edit(lambda job: edits.with_trouble(job, key, self.catalogue), label)

    def tell_ohms(self, what: str, value: float | None, at_c: float | None = None) -> None:
        """Note a cold meter reading."""
        self.edit(lambda job: edits.with_ohms(job, what, value, at_c), _("cold ohms"))

    def read(self, station: str, value: float, tolerance: float | None) -> None:
        """Pin a reading that a check asked for, late in a print."""
        self.edit(lambda job: edits.with_reading(job, station, value, tolerance), STATIONS[station].label)

    def skip(self, check: str) -> None:
        """Leave a check out, or offer it again."""
        self.edit(lambda job: edits.with_skipped(job, check), _("check left out"))

    def decide(self, cause: str | None) -> None:
        """Settle on a cause, or open the question again."""
        self.edit(lambda job: edits.decided(job, cause, self.catalogue), _("cause decided"))

    def take_in(self, path: Path) -> Attachment:
        """Take a file's bytes into the workshop. Raises ShopError."""
        return self.have(lambda workshop: workshop.attach(path))

    def attach(self, path: Path) -> None:
        """Keep a photograph or another file with the job."""

        def attached(job: Job) -> Job:
            return edits.with_attachment(job, self.take_in(path))

        if self.edit(attached, _("file attached")):
            self.told.emit(_("Kept with the job: {name}").format(name=path.name))

    def photograph(self, card: str, path: Path | None) -> None:
        """Keep a photograph of the label of a part, by its card; None: take it off."""
        said = _("photograph of a label")
        if path is None:
            self.edit(lambda job: edits.with_photo_of(job, card, None), said)
        elif self.edit(lambda job: edits.with_photo_of(job, card, self.take_in(path)), said):
            self.told.emit(_("Kept with this part: {name}").format(name=path.name))

    def photo_bytes(self, photo: Attachment) -> bytes | None:
        """What is in a photograph; None where it is in another workshop, or damaged. For the background."""
        try:
            return self._keeper.ask(lambda workshop: workshop.kept(photo.digest))
        except ShopError as wrong:
            log.warning("photograph %s: %s", photo.name, wrong)
            return None

    def offer(self, key: str, variant: Variant | None) -> None:
        """Put an option on the board, or take it off."""
        label = variant.label if variant else _("option taken off")
        self.edit(lambda job: edits.with_variant(job, key, variant), label)

    def build(self, label: str, **wanted: Any) -> bool:
        """Ask something else of the hotend that is built, or put other parts into it; False when it was refused."""
        return self.edit(lambda job: build_edits.with_build(job, **wanted), label)

    def build_line(self, line: str) -> bool:
        """Put what an entry line says into the build; False when it was refused."""
        return self.edit(lambda job: build_edits.line_as_build(job, line, self.catalogue), line)

    def offer_trial(self) -> bool:
        """Make an option of the trial."""
        return self.edit(edits.trial_as_variant, _("option from the trial"))

    def lock_forecast(self) -> bool:
        """Keep what the model says now as a run, to lie beside the one that is made after the change."""
        found = self.found
        if found is None or found.course is None or found.job != self._job:
            self.told.emit(_("The hours are still being computed: lock the forecast once the strip is there."))
            return False
        bands = found.judged.bands
        if bands is None:
            self.told.emit(_("The bands are still being computed: lock the forecast once the margins show theirs."))
            return False
        course, channels = found.course, list(self.catalogue.channels)
        if not self.edit(lambda job: with_forecast(job, course, channels, bands.values), _("forecast locked")):
            return False
        self.told.emit(_("Locked: the forecast lies with the runs in Measure."))
        return True

    def offer_line(self, line: str) -> bool:
        """Make an option of an entry line; False when it was refused."""
        return self.edit(lambda job: edits.line_as_variant(job, line), line)

    def offer_usual(self) -> None:
        """Lay an empty board with the first of the catalogue's remedies that fit."""
        self.edit(self.with_usual, _("options that fit"))

    def with_usual(self, job: Job) -> Job:
        """A job whose board is laid: its own options, or the first of the catalogue's remedies that fit."""
        if job.variants:
            return job
        if self._usual is None or self._usual[0] is not job.found or self._usual[1] is not self.catalogue:
            laid = job
            for key, variant in list(offered(job.found, self.catalogue).items())[:USUAL_OPTIONS]:
                laid = edits.with_variant(laid, key, variant)
            self._usual = (job.found, self.catalogue, laid.variants)
        return job.model_copy(update={"variants": self._usual[2]})

    def toggle(self, key: str) -> None:
        """Take an option into the set, or out of it."""
        self.edit(lambda job: edits.toggled(job, key), _("set of options"))

    def choose(self, keys: list[str]) -> None:
        """Take just these options."""
        self.edit(lambda job: edits.with_chosen(job, keys), _("set of options"))

    def undo(self) -> None:
        """One edit back."""
        self._step(Workshop.undo, _("Undone: {label}"), _("Nothing to undo."))

    def redo(self) -> None:
        """One edit forward."""
        self._step(Workshop.redo, _("Redone: {label}"), _("Nothing to redo."))

    def open_job(self, key: int) -> None:
        """Put another job on the bench."""
        self.write()
        try:
            job = self.have(lambda workshop: workshop.job(key))
        except ShopError as wrong:
            self.told.emit(str(wrong))
            return
        self.set_note("on bench", str(key))
        self._put(key, job)

    def prefer(self, machine: str) -> None:
        """Put the job of a machine on the bench, if there is one."""
        for key, job in self.have(Workshop.jobs):
            if job.machine.startswith(machine):
                self._key, self._job, self._kept = key, job, job

    @property
    def next_number(self) -> str:
        """The number of a job that comes in."""
        numbers = [int(number) for number in self.have(Workshop.numbers) if number.isdigit()]
        return self._job.number if self.blank else f"{max(numbers, default=0) + 1:04d}"

    @property
    def blank(self) -> bool:
        """Whether nothing was ever told of the job on the bench."""
        return self._job == Job(number=self._job.number, machine=self._job.machine)

    def begin(self, job: Job) -> None:
        """Put a new job on the bench; in place of one of which nothing was told."""
        if kept := self.note("currency"):
            job = edits.with_currency(job, kept)
        if self.blank:
            self.edit(lambda _job: job, _("new job"))
        else:
            self._add(job)

    def import_job(self, path: Path) -> None:
        """Take in a job from a file; the open job is untouched when it is refused."""
        try:
            job = self.have(lambda _workshop: job_files.read_job(path))
        except ShopError as wrong:
            self.told.emit(str(wrong))
            return
        self._add(job)

    def export_job(self, path: Path) -> None:
        """Write the job on the bench to a file."""
        job = self._job
        try:
            self.have(lambda _workshop: job_files.write_text(path, job_files.dumps(job)))
        except ShopError as wrong:
            self.told.emit(str(wrong))
            return
        self.told.emit(_("Written: {name}").format(name=path.name))

    def rename(self, machine: str, place: str, complaint: str) -> None:
        """Change the words that describe the job."""
        words = {"machine": machine, "place": place, "complaint": complaint}
        self.edit(
            lambda job: job_files.validated({**job.model_dump(mode="json"), **words}, _("The job")), _("description")
        )

    def unpack(self, attachment: Attachment) -> Path | None:
        """An attached file, written to a folder of its own so that it can be looked at; None where it is not here."""
        try:
            return self.have(lambda workshop: _unpacked(workshop, attachment, self._unpacked.name))
        except ShopError as wrong:
            self.told.emit(str(wrong))
            return None

    def keep(self, content: bytes) -> str:
        """Keep bytes in the workshop; returns their digest. Raises ShopError."""
        return self.have(lambda workshop: workshop.keep(content))

    def kept(self, digest: str) -> bytes | None:
        """Bytes that were kept; None where they are not in this workshop."""
        try:
            return self.have(lambda workshop: workshop.kept(digest))
        except ShopError as wrong:
            self.told.emit(str(wrong))
            return None

    def detach(self, digest: str) -> None:
        """Take a file off the job; undo brings it back."""
        known = {one.digest: one for one in self._job.intake.attachments}
        if digest in known:
            self.edit(lambda job: edits.with_attachment(job, known[digest], keep=False), _("file taken off"))

    def note(self, key: str, default: str = "") -> str:
        """A remembered setting."""
        return self._notes.get(key, default)

    def set_currency(self, currency: str) -> None:
        """The currency of this job's prices, and of those that come in."""
        self.set_note("currency", currency)
        self.edit(lambda job: edits.with_currency(job, currency), _("currency"))

    @property
    def tariff(self) -> float:
        """What a kWh costs the shop."""
        return _price(self.note("tariff"), USUAL_TARIFF)

    @property
    def hourly(self) -> float:
        """What an hour of its work costs; zero: it is not priced."""
        return _price(self.note("hourly"), 0.0)

    def set_prices(self, tariff: float, hourly: float) -> None:
        """What a kWh and an hour of work cost from now on."""
        if (tariff, hourly) != (self.tariff, self.hourly):
            self.set_note("tariff", f"{tariff:g}")
            self.set_note("hourly", f"{hourly:g}")

    def set_note(self, key: str, value: str) -> None:
        """Remember a setting; the window goes on without it when the file cannot be written."""
        self._notes[key] = value
        receipt = self._keeper.do(lambda workshop: workshop.set_note(key, value))
        receipt.add_done_callback(lambda done: log.warning("setting %s: %s", key, done.exception())
                                  if done.exception() is not None else None)  # fmt: skip

    def job_names(self) -> tuple[JobName, ...]:
        """Every job of the workshop by its name. Reads every job: for the background."""
        return tuple(JobName(key, job.number, job.machine) for key, job in self._each_job())

    def other_machines(self) -> tuple[Job, ...]:
        """The latest job of every other machine of the workshop. Reads every job: for the background."""
        latest = {job.machine: job for _key, job in self._each_job()}
        return tuple(job for machine, job in latest.items() if machine != self._job.machine)

    def list_jobs(self) -> None:
        """Read every job and answer it, in the background; `listed` tells them."""
        self.write()
        self._list.ask(listed(self.store, self._read_jobs))

    def _read_jobs(self) -> Iterator[tuple[int, Job, Catalogue]]:
        """Every job that can be read, with what holds for it."""
        for key, job in self._each_job():
            yield key, job, shipped().with_own(self._over_shipped(job))

    def other_jobs(self) -> Iterator[Job]:
        """Every other job of the workshop. Reads every job: for the background."""
        for key, job in self._each_job():
            if key != self._key:
                yield job

    def jobs_with_shelves(self) -> Iterator[tuple[Job, Catalogue]]:
        """Every other job of the workshop, with what holds for it. Reads every job: for the background."""
        for key, job, catalogue in self._read_jobs():
            if key != self._key:
                yield job, catalogue

    def _each_job(self) -> Iterator[tuple[int, Job]]:
        """Every job that can be read, one after the other so that an edit may be written in between."""
        read = ((key, self._keeper.ask(lambda workshop, key=key: workshop.readable(key)))  # type: ignore[misc]
                for key in self._keeper.ask(Workshop.keys))  # fmt: skip
        yield from ((key, job) for key, job in read if job is not None)

    def scrub(self, time: float | None) -> None:
        """Show another moment of the run; None: its worst. Its bands follow."""
        self.hand_moves()
        self._wish = time
        self._solve()

    def stop_solving(self) -> None:
        """Stop the work under way; the last answer stays."""
        self._hotend.stop()

    # inside

    def edit(self, change: Callable[[Job], Job], label: str, *, amend: bool = False) -> bool:
        """One edit of the job; False when it was refused, which `told` says. amend: in place of the last one."""
        self.write()
        try:
            job = edits.with_used_parts(change(edits.with_parts(self._job, self._parts)), self._parts)
        except (edits.RefusedError, ShopError) as wrong:
            self.told.emit(str(wrong))
            return False
        if job == self._job:
            return True
        if self._keeper.reading:
            self.told.emit(self._keeper.refusal)
            return False
        self._write(job, label, amend)
        self._show(job)
        return True

    def _drag_to(self, change: Callable[[Job], Job], label: str, amend: bool) -> None:
        """Show the job as a hand drags it; it is written once the hand rests."""
        try:
            job = change(self._job)
        except edits.RefusedError as wrong:
            self.told.emit(str(wrong))
            return
        if job != self._job:
            self._unwritten = self._unwritten or Unwritten(label, amend)
            self._writing.start()
            self._show(job)

    def write(self) -> None:
        """Write what was dragged."""
        self._writing.stop()
        dragged, self._unwritten = self._unwritten, None
        if dragged is not None:
            self._write(self._job, dragged.label, dragged.amend)

    def _write(self, job: Job, label: str, amend: bool) -> None:
        """Have a job written behind what goes on; `_written` hears of it."""
        self._last_write += 1
        number, key = self._last_write, self._key
        self.writing_changed.emit(True)

        def written(workshop: Workshop) -> list[str]:
            workshop.edit(key, job, label, amend=amend)
            return workshop.news()

        receipt = self._receipts[key] = self._keeper.do(written)
        receipt.add_done_callback(lambda done: self._acknowledged.emit(key, number, job, done))

    def _written(self, key: int, number: int, job: Job, done: Future[list[str]]) -> None:
        """A write is through. Each holds the whole job, so one that failed counts only where none of it follows."""
        last, settled, wrong = self._receipts.get(key) is done, number <= self._settled, done.exception()
        if wrong is None and not settled:
            self._kept = job
        if wrong is not None and last:
            self.told.emit(_told_of(wrong))
            if not settled:
                self._show(self._kept)
        if last:
            del self._receipts[key]
            self.writing_changed.emit(bool(self._receipts))
        if wrong is None:
            self._tell_news(done.result())

    def finish_writing(self) -> str:
        """Wait until all is in the file; says what went wrong with a job's last edit, if anything did."""
        self.write()
        wrong = [one for receipt in self._receipts.values() if (one := receipt.exception()) is not None]
        return _told_of(wrong[0]) if wrong else ""

    def _tell_news(self, news: list[str]) -> None:
        """What the workshop has to say: damaged entries, a file that was removed, that it is for reading only."""
        for text in news:
            log.warning("%s", text)
            self.told.emit(text)

    def export_damaged(self, folder: Path) -> int:
        """Write what is left of every damaged entry into a folder; returns how many. Raises ShopError."""
        return self.have(lambda workshop: _written_out(workshop, folder))

    def _step(self, move: Callable[[Workshop, int], str | None], done: str, nothing: str) -> None:
        self._drag = None
        self.write()
        key = self._key
        try:
            label, job = self.have(lambda workshop: (move(workshop, key), workshop.job(key)))
        except ShopError as wrong:
            self.told.emit(str(wrong))
            return
        if label is not None:
            self._kept, self._settled = job, self._last_write
            self._show(job)
        self.told.emit(nothing if label is None else done.format(label=label))

    def _add(self, job: Job) -> None:
        self.write()
        try:
            key = self.have(lambda workshop: workshop.add(job))
        except ShopError as wrong:
            self.told.emit(str(wrong))
            return
        self.set_note("on bench", str(key))
        self._put(key, job)

    def _put(self, key: int, job: Job) -> None:
        self._key, self._drag, self._found, self._wish = key, None, None, None
        self._kept, self._settled = job, self._last_write
        self._show(job)

    def _show(self, job: Job) -> None:
        self._job = job
        self._solve()  # in its own thread, while the views take in the job
        self.job_changed.emit(job)

    def _solve(self) -> None:
        self._hotend.ask(hotend(self.store, self._job, self.catalogue, self._found, self._wish))

    def _arrived(self, found: Found) -> None:
        self._found = found
        self.answered.emit(found)

    def _failed(self, wrong: Exception) -> None:
        if isinstance(wrong, NotConvergedError | DoesNotFitError):
            self.unsolved.emit(
                _("No answer for these values; the last good one is shown.")
                if isinstance(wrong, NotConvergedError)
                else str(wrong)
            )
        else:
            log.error("solving failed", exc_info=wrong)
            self.unsolved.emit(_("The model failed on these values; the log says more. The last good answer is shown."))


def _told_of(wrong: BaseException) -> str:
    """Why an edit is not in the file."""
    if isinstance(wrong, ShopError):
        return str(wrong)
    log.error("an edit could not be written", exc_info=wrong)
    return _("The last edit could not be written; the log says more.")


def _first_job(workshop: Workshop) -> tuple[int, Job]:
    """The job that was on the bench last, else the latest that can be read, else a new one."""
    wanted = workshop.note("on bench")
    for key in sorted(workshop.keys(), key=lambda one: (str(one) != wanted, -one)):
        try:
            return key, workshop.job(key)
        except ShopError as wrong:
            log.warning("job %d cannot be read: %s", key, wrong)
    job = Job(machine=_("New machine"))
    return (0 if workshop.reading else workshop.add(job)), job


def _own_of(workshop: Path, job: Job) -> tuple[Patch, shelf_files.Shelf, tuple[Patch, Catalogue], list[str]]:
    """The shop's own entries and parts, the catalogue of a job by them, and what is wrong with those left out."""
    own: Patch = {}
    wrong = []
    for kind in ALL:
        try:
            own = composed(own, read_own(kind, kind.beside(workshop)))
        except ShopError as refused:
            wrong.append(str(refused))
    shelf = shelf_files.Shelf()
    try:
        shelf = shelf_files.read_shelf(shelf_files.beside(workshop))
    except ShopError as refused:
        wrong.append(_("{why} Until then the shipped parts are used.").format(why=refused))
    patch = composed(composed(own, shelf_files.parts_of(shelf)), job.catalogue)
    return own, shelf, (patch, shipped().with_own(patch)), wrong


def _unpacked(workshop: Workshop, attachment: Attachment, folder: str) -> Path:
    """An attached file, written to a new folder in another. Raises ShopError."""
    path = Path(tempfile.mkdtemp(dir=folder)) / Path(attachment.name).name
    job_files.write_bytes(path, workshop.attached(attachment))
    return path


def _written_out(workshop: Workshop, folder: Path) -> int:
    """Every damaged entry, written into a folder. Raises ShopError."""
    rows = list(workshop.damaged_rows())
    for name, content in rows:
        job_files.write_bytes(folder / name, content)
    return len(rows)

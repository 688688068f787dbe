"""What the window may do with runs, pictures, sounds and part programs: read in the background, then one edit each."""

from __future__ import annotations

import json
import logging
import threading
from collections import deque
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from PyQt6.QtCore import QObject, pyqtSignal

from zeotherm.answers.executor import Rank
from zeotherm.core.catalogue import Catalogue
from zeotherm.core.machine.documents import Job
from zeotherm.core.machine.measured import Heard, Picture, Run
from zeotherm.core.questions import Cancelled
from zeotherm.core.runs.fan_sound import NoToneError, blade_pass
from zeotherm.core.runs.part_program import Program, as_job
from zeotherm.core.runs.series import Series, as_series, merged
from zeotherm.desk.bench import Bench
from zeotherm.desk.bridge import Asked
from zeotherm.shop.editing import run_edits
from zeotherm.shop.editing.edits import patch_as_fact
from zeotherm.shop.errors import ShopError
from zeotherm.shop.files import run_files
from zeotherm.shop.files.asking import UnsureError
from zeotherm.shop.files.job_files import write_text
from zeotherm.shop.files.part_programs import read_part_program
from zeotherm.shop.files.picture_files import NoScaleError, PictureScale, as_document, read_picture
from zeotherm.shop.files.series_files import FileColumn, ReadLog, as_run, layout_key, read_parts
from zeotherm.shop.files.sound_files import as_heard, read_sound
from zeotherm.wording import runs as words
from zeotherm.wording.language import _

log = logging.getLogger(__name__)
Progress = Callable[[float], None]
Reading = Callable[[Cancelled, Progress], Callable[[], None]]  # returns what is then done in the window's thread
LAYOUTS = "column roles"
KEPT_SERIES = 8
EVERY = "every:"  # the note of a console log whose reports have no time stamps


@dataclass(frozen=True)
class _Arrival:
    """Something that was read, and what is to be done with it."""

    take: Callable[[], None]


class Measuring(QObject):
    """Reads what instruments wrote, and edits what the job keeps of it."""

    progressed = pyqtSignal(float)  # share of the file that is read
    unsure = pyqtSignal(object, object)  # a log's path, and UnsureError: what it leaves open
    scale_wanted = pyqtSignal(object, str)  # a picture's path, and what is to be typed
    program_read = pyqtSignal(str, object)  # name, Program
    busy_changed = pyqtSignal(bool)

    def __init__(self, bench: Bench, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._bench = bench
        self._reader = Asked(bench.executor, Rank.ASKED, self)
        self._reader.changed.connect(lambda arrival: arrival.take())
        self._reader.failed.connect(self._refused)
        self._reader.busy_changed.connect(lambda busy: None if busy else self._idle())
        self._rows: dict[str | None, Series] = {}
        self._lock = threading.Lock()
        self._waiting: deque[tuple[Path, Reading]] = deque()
        self.last: tuple[Path, tuple[FileColumn, ...]] | None = None  # the log that was read last, and its columns

    @property
    def busy(self) -> bool:
        """Whether a file is being read."""
        return self._reader.busy

    def stop(self) -> None:
        """Stop reading; the job stays as it was."""
        self._waiting.clear()
        self._reader.stop()
        self._bench.told.emit(_("Stopped; nothing was taken in."))

    # reading

    def join(self, key: str, other: str, by: float) -> None:
        """Make one run of two loggers' files of it. by: seconds from the first one's clock to the other's."""
        runs = self._bench.job.measured.runs
        first, second = runs[key], runs[other]
        kept = {
            "source": f"{first.source} + {second.source}"[:200],
            "conditions": {**second.conditions, **first.conditions}, "doubts": {**second.doubts, **first.doubts},
            "notes": [*first.notes, *second.notes],
            "zero_s": None if first.zero_s is None else first.zero_s - min(by, 0.0),
        }  # fmt: skip
        self._remake(key, other, lambda series: merged(series[key], series[other].moved(by)), kept, _("runs joined"))

    def respace(self, key: str, seconds: float) -> None:
        """Say how far apart the reports of a console without time stamps are [s]."""
        run = self._bench.job.measured.runs[key]
        old = next((float(note.partition(":")[2]) for note in run.notes if note.startswith(EVERY)), seconds)
        notes = [f"{EVERY}{seconds:g}" if note.startswith(EVERY) else note for note in run.notes]

        def spaced(series: dict[str, Series]) -> Series:
            return Series(series[key].time * seconds / old, series[key].values, series[key].start_h)

        zero = None if run.zero_s is None else run.zero_s * seconds / old
        self._remake(key, "", spaced, {"notes": notes, "zero_s": zero}, _("time between reports"))

    def _remake(
        self, key: str, without: str, make: Callable[[dict[str, Series]], Series], changes: dict[str, Any], label: str
    ) -> None:
        """Give a run other rows in the background, and take another off that went into it."""
        runs = self._bench.job.measured.runs
        load = self.loader({one: runs[one] for one in (key, without) if one})

        def work(_cancelled: Cancelled, _progress: Progress) -> Callable[[], None]:
            series = make(load())
            made, content = as_run(ReadLog(series, ()), runs[key].source), run_files.packed(series)
            rows = {"time_s": made.time_s, "values": made.values, "rows": made.rows, "start_h": made.start_h}
            return lambda: self._take_remade(key, without, {**rows, **changes}, content, label)

        self._read(Path(runs[key].source), work)

    def _take_remade(self, key: str, without: str, changes: dict[str, Any], content: bytes, label: str) -> None:
        def taken(job: Job) -> Job:
            digest = self._bench.keep(content)
            return run_edits.changed_run(run_edits.without_run(job, without), key, **changes, digest=digest)

        if self._bench.edit(taken, label):
            self._bench.told.emit(_("{name} has {count} channels.").format(
                name=self._bench.job.measured.runs[key].label, count=len(changes["values"])))  # fmt: skip

    def _read(self, path: Path, work: Reading) -> None:
        """Read a file in the background, after those that came before it.

        What the work returns is then done in the window's own thread.
        """
        if self._reader.busy:
            self._waiting.append((path, work))
            return
        self._bench.told.emit(_("Reading {name} ... Esc stops.").format(name=path.name))
        self.busy_changed.emit(True)

        def task(cancelled: Cancelled) -> Iterator[_Arrival]:
            yield _Arrival(work(cancelled, self.progressed.emit))

        self._reader.ask(task)

    def _idle(self) -> None:
        """On to the next file that waits."""
        if self._waiting:
            self._read(*self._waiting.popleft())
        else:
            self.busy_changed.emit(False)

    def _refused(self, wrong: Exception) -> None:
        if not isinstance(wrong, ShopError | NoToneError):
            log.error("reading a file failed", exc_info=wrong)
            self._bench.told.emit(_("The file could not be read; the log says more. The job is as it was."))
            return
        self._bench.told.emit(str(wrong))

    def import_log(
        self, path: Path, roles: dict[str, str] | None = None, instead: bool = False,
        answers: dict[str, str] | None = None,
    ) -> None:  # fmt: skip
        """Read a log and add it to the job's runs, a run for each part; instead: of those it was read to before;
        answers: to what it was asked. `unsure` asks where it can be read in more ways."""
        catalogue, layouts = self._bench.catalogue, self._layouts()

        def work(cancelled: Cancelled, progress: Progress) -> Callable[[], None]:
            try:
                parts = read_parts(
                    path, catalogue, cancelled, roles=roles, answers=answers, layouts=layouts, progress=progress
                )
            except UnsureError as wrong:
                open_ = wrong
                return lambda: self._ask(path, open_)
            made = [(as_run(part, path.name), run_files.packed(part.series)) for part in parts]
            return lambda: self._take_log(path, parts, made, instead)

        self._read(path, work)

    def _take_log(self, path: Path, parts: list[ReadLog], made: list[tuple[Run, bytes]], instead: bool) -> None:
        bench = self._bench
        self.last = (path, parts[0].columns)

        def taken(job: Job) -> Job:
            for (run, content), part in zip(made, parts, strict=True):
                changes: dict[str, Any] = {"digest": bench.keep(content)}
                self._remember(changes["digest"], part.series)
                before = [key for key, one in job.measured.runs.items() if instead and one.source == run.source]
                for key in before:
                    old = job.measured.runs[key]
                    changes |= {"label": old.label, "conditions": old.conditions, "zero_s": old.zero_s}
                    job = run_edits.without_run(job, key)
                job = run_edits.with_run(job, run.model_copy(update=changes))
            return job

        if bench.edit(taken, _("run {name}").format(name=path.name)):
            labels = [words.channel(key, bench.catalogue).lower() for key in parts[0].series.values]
            rows = sum(part.series.rows for part in parts)
            text = words.read_log(labels, rows, parts[0].ignored, parts[0].notes)
            if len(parts) > 1:
                text += " " + _("The logger began again: {count} runs.").format(count=len(parts))
            bench.told.emit(text)

    def _ask(self, path: Path, wrong: UnsureError) -> None:
        """Nothing is taken in; the columns can be chosen, also once the question was left."""
        columns = tuple(one for one in wrong.columns if isinstance(one, FileColumn))
        self.last = (path, columns)
        self._bench.told.emit(str(wrong))
        self.unsure.emit(path, wrong)

    def choose_roles(self, roles: dict[str, str], answers: dict[str, str] | None = None) -> None:
        """Read the last log again with other roles, and remember them for files of its layout; answers: to what this
        one was asked."""
        if self.last is None:
            return
        path, columns = self.last
        layouts = {**self._layouts(), layout_key(columns): roles}
        self._bench.set_note(LAYOUTS, json.dumps(layouts))
        self.import_log(path, roles, instead=True, answers=answers)

    def _layouts(self) -> dict[str, dict[str, str]]:
        try:
            found = json.loads(self._bench.note(LAYOUTS, "{}"))
        except ValueError:
            return {}
        return found if isinstance(found, dict) else {}

    def import_picture(self, path: Path, scale: PictureScale | None = None) -> None:
        """Read a thermal picture; `scale_wanted` asks for what its values mean where the file does not say."""

        def work(cancelled: Cancelled, _progress: Progress) -> Callable[[], None]:
            try:
                made = as_document(read_picture(path, scale, cancelled), path.name)
            except NoScaleError as wrong:
                why = str(wrong)
                return lambda: self.scale_wanted.emit(path, why)
            return lambda: self._take_picture(made)

        self._read(path, work)

    def _take_picture(self, picture: Picture) -> None:
        if self._bench.edit(lambda job: run_edits.with_picture(job, picture), _("thermal picture")):
            text = _("Read {width} x {height} pixels.").format(width=picture.width, height=picture.height)
            if picture.over_range or picture.unreadable:
                text += " " + _("Left out: {over} over range, {strange} that no colour of the scale fits.").format(
                    over=picture.over_range, strange=picture.unreadable
                )
            self._bench.told.emit(text)

    def import_program(self, path: Path) -> None:
        """Read a part program; `program_read` tells what it asks for."""

        def work(cancelled: Cancelled, _progress: Progress) -> Callable[[], None]:
            found = read_part_program(path, cancelled)
            return lambda: self.program_read.emit(path.name, found)

        self._read(path, work)

    def use_program(self, program: Program) -> bool:
        """Let the model print this program, and note its hash for every run that has none; False when refused."""

        def used(job: Job) -> Job:
            return _with_program(patch_as_fact(job, as_job(program)), program)

        return self._bench.edit(used, _("part program"))

    def import_sound(self, path: Path, blades: int) -> None:
        """Read a recording of a fan, and keep its speed with the job."""

        def work(cancelled: Cancelled, _progress: Progress) -> Callable[[], None]:
            found = as_heard(blade_pass(*read_sound(path, cancelled), blades), blades, path.name)
            return lambda: self._hear(found)

        self._read(path, work)

    def _hear(self, found: Heard) -> None:
        if self.do(run_edits.with_heard, found, label=_("fan heard")):
            self._bench.told.emit(words.heard(found))

    # rows

    def _remember(self, digest: str, series: Series) -> None:
        with self._lock:  # rows come from the background as well
            self._rows[digest] = series
            while len(self._rows) > KEPT_SERIES:
                del self._rows[next(iter(self._rows))]

    def loader(self, runs: dict[str, Run]) -> Callable[[], dict[str, Series]]:
        """Work for the background that gives all rows of runs, those the document keeps where the rest is not here."""
        known = {run.digest: self._rows[run.digest] for run in runs.values() if run.digest in self._rows}
        packed: dict[str, bytes] = {}
        for run in runs.values():
            if run.digest is not None and run.digest not in known:
                content = self._bench.kept(run.digest)
                if content is not None:
                    packed[run.digest] = content

        def load() -> dict[str, Series]:
            return {key: self._whole(run, known, packed) for key, run in runs.items()}

        return load

    def _whole(self, run: Run, known: Mapping[str | None, Series], packed: Mapping[str, bytes]) -> Series:
        """All rows of a run, or those the document keeps."""
        if run.digest in known:
            return known[run.digest]
        if run.digest is None or run.digest not in packed:
            return as_series(run)
        series = run_files.unpacked(packed[run.digest], run.source)
        self._remember(run.digest, series)
        return series

    def export_run(self, key: str, path: Path) -> None:
        """Write a run with all of its rows, as CSV or JSON by the name's ending."""
        run = self._bench.job.measured.runs[key]
        try:
            series = self.loader({key: run})()[key]
            catalogue: Catalogue = self._bench.catalogue
            text = run_files.as_json(series, run) if path.suffix.lower() == ".json" else (
                run_files.as_csv(series, run, catalogue)
            )  # fmt: skip
            self._bench.have(lambda _workshop: write_text(path, text))
        except ShopError as wrong:
            self._bench.told.emit(str(wrong))
            return
        self._bench.told.emit(_("Written: {name}").format(name=path.name))

    # edits

    def do(self, edit: Callable[..., Job], *about: Any, label: str) -> bool:
        """One of `zeotherm.shop.editing.run_edits` on the job; False when it was refused."""
        return self._bench.edit(lambda job: edit(job, *about), label)

    def note_condition(self, key: str, name: str, text: str) -> bool:
        """Note a condition of a run as typed."""
        about = self._bench.catalogue.conditions[name]
        return self.do(run_edits.noted, key, name, about, text, label=about.label)


def _with_program(job: Job, program: Program) -> Job:
    for key, run in job.measured.runs.items():
        if "program" not in run.conditions:
            job = run_edits.changed_run(job, key, conditions={**run.conditions, "program": program.digest})
    return job

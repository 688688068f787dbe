"""What leaves the window as files: jobs, reports, work orders; and the shop's own files, opened to be changed."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from datetime import date
from pathlib import Path

from PyQt6.QtCore import QUrl
from PyQt6.QtGui import QDesktopServices
from PyQt6.QtWidgets import QFileDialog, QWidget

from zeotherm.answers.build import BuildFound
from zeotherm.answers.executor import Rank
from zeotherm.answers.machine_card import card
from zeotherm.core.choices.machine_card import CardLine
from zeotherm.core.machine.documents import Job
from zeotherm.core.work.proving import Proof
from zeotherm.desk.bench import Bench
from zeotherm.desk.beside import AskedBeside
from zeotherm.desk.bridge import Asked
from zeotherm.desk.views.report import reports
from zeotherm.shop.editing.edits import RefusedError
from zeotherm.shop.errors import ShopError
from zeotherm.shop.files.own_entries import OwnFile
from zeotherm.shop.papers.other_parts import OtherPart
from zeotherm.shop.places import file_stem
from zeotherm.wording.language import _


class Papers:
    """Asks where to, writes, and says so in one sentence."""

    def __init__(
        self, bench: Bench, window: QWidget, say: Callable[..., None], beside: AskedBeside,
        change: Callable[[], reports.Change],
    ) -> None:  # fmt: skip
        self._bench, self._window, self._say, self._beside = bench, window, say, beside
        self._change = change  # the set that is taken, as far as it is solved
        self.card_asked = Asked(bench.executor, Rank.ASKED, window)
        self._card_at: tuple[Path, Job] | None = None  # where the card that is asked for goes, and of which job it is
        self.card_asked.changed.connect(self._write_card)
        self.card_asked.failed.connect(lambda wrong: say(_("No card: {why}").format(why=wrong), wrong=True))

    def export(self) -> None:
        """The job on the bench as a file."""
        if path := self._ask(_("Export this job"), ".json", _("Jobs (*.json)")):
            self._bench.export_job(path)

    def ask_report(self, ending: str) -> None:
        """The report, written where the person says."""
        if path := self._ask(_("Write the report"), ending, f"*{ending}"):
            self.report(path if path.name.lower().endswith(ending) else path.with_name(path.name + ending))

    def report(self, path: Path) -> None:
        """Write the report of the job on the bench, as it stands now, once the rest of its machine is solved."""
        found = self._bench.found
        if found is None:
            self._say(_("Nothing to report yet."), wrong=True)
            return
        shown, change = found, self._change()

        def write(others: Sequence[OtherPart]) -> None:
            drawn, today = reports.picture(reports.at_worst(shown)), date.today().isoformat()
            self._write(path, lambda: reports.save(shown, others, path, today, change, drawn))

        self._beside.ask_for(shown, write)

    def ask_order(self, asked: Proof) -> None:
        """The work order, written where the person says."""
        if path := self._ask(_("Print the work order"), "-order.pdf", _("PDF (*.pdf);;HTML (*.html)")):
            self.order(path, asked)

    def order(self, path: Path, asked: Proof) -> None:
        """Write the work order of the job on the bench, to be ticked on paper; asked: of the proof run."""
        job, catalogue = self._bench.job, self._bench.catalogue
        self._write(path, lambda: reports.save_order(job, catalogue, asked, path, date.today().isoformat()))

    def ask_build(self, found: BuildFound) -> None:
        """The sheet of a build, written where the person says."""
        if path := self._ask(_("Print the build"), "-build.pdf", _("PDF (*.pdf);;HTML (*.html)")):
            self.build(path, found)

    def build(self, path: Path, found: BuildFound) -> None:
        """Write the sheet of a build: its parts, every limit, and the work."""
        shelf, today = self._bench.shelf, date.today().isoformat()
        self._write(path, lambda: reports.save_build(found, lambda kind, key: shelf.kept(kind, key).count, path, today))

    def ask_card(self) -> None:
        """The card of the machine, written where the person says."""
        if path := self._ask(_("Print the machine's card"), "-card.pdf", _("PDF (*.pdf);;HTML (*.html)")):
            self.card(path)

    def card(self, path: Path) -> None:
        """Write the card of the machine on the bench, once every filament is solved on it; Esc stops that."""
        bench = self._bench
        self._card_at = path, bench.job
        self._say(_("Solving each filament on this machine; Esc stops it."))
        self.card_asked.ask(card(bench.store, bench.job, bench.catalogue, bench.other_jobs))

    def _write_card(self, lines: tuple[CardLine, ...]) -> None:
        if self._card_at is not None:
            path, job = self._card_at
            catalogue, today = self._bench.catalogue, date.today().isoformat()
            self._write(path, lambda: reports.save_card(job, lines, catalogue, path, today))

    def export_damaged(self) -> None:
        """What is left of the workshop's damaged entries, each as a file in a folder that the person chooses."""
        name = QFileDialog.getExistingDirectory(self._window, _("Folder for what is damaged"))
        if not name:
            return
        try:
            count = self._bench.export_damaged(Path(name))
        except ShopError as wrong:
            self._say(str(wrong), wrong=True)
            return
        self._say(_("Written: {count} damaged entries.").format(count=count) if count else _("Nothing is damaged."))

    def open_own(self, kind: OwnFile) -> None:
        """One of the shop's own files, in whatever edits text here."""
        try:
            path = self._bench.own_file(kind)
        except ShopError as wrong:
            self._say(str(wrong), wrong=True)
            return
        QDesktopServices.openUrl(QUrl.fromLocalFile(str(path)))
        self._say(_("{path}: change it, then read it again from the menu.").format(path=path))

    def _ask(self, title: str, ending: str, kinds: str) -> Path | None:
        name, _kind = QFileDialog.getSaveFileName(self._window, title, _stem(self._bench.job) + ending, kinds)
        return Path(name) if name else None

    def _write(self, path: Path, write: Callable[[], None]) -> None:
        try:
            self._bench.have(lambda _workshop: write())  # the window goes on being painted
        except (ShopError, RefusedError) as wrong:
            self._say(str(wrong), wrong=True)
            return
        self._say(_("Written: {name}").format(name=path.name))


def _stem(job: Job) -> str:
    """A file's name by machine and number."""
    return file_stem(f"{job.machine.split(',')[0].lower()}-{job.number}")

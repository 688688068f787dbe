"""The parts shelf: its kinds, the parts of one, and the figures of a part with what they decide."""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import Path
from typing import Any, NamedTuple

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtGui import QResizeEvent
from PyQt6.QtWidgets import QFileDialog, QFrame, QHBoxLayout, QMenu, QPushButton, QVBoxLayout, QWidget

from zeotherm.answers.executor import Rank
from zeotherm.answers.shelf import shelf_entry
from zeotherm.core.catalogue.fitting import fitted_at, places_of
from zeotherm.core.catalogue.own import NoSuchPartError, OwnKind, Stated, parts_on
from zeotherm.core.choices.figures import FELT, ShelfFound, with_figures
from zeotherm.core.machine.documents import declaration
from zeotherm.desk.bench import Bench
from zeotherm.desk.bridge import Asked
from zeotherm.desk.style import theme
from zeotherm.desk.viewmodels import ladder
from zeotherm.desk.views.frame import LadderColumn, frame
from zeotherm.desk.views.shelf import shown
from zeotherm.desk.views.shelf.editor import Draft, Editor
from zeotherm.desk.views.shelf.lists import EntryTable, KindList
from zeotherm.desk.widgets.labels import Plain
from zeotherm.desk.widgets.ladder import Ladder
from zeotherm.desk.widgets.levers import DropField
from zeotherm.desk.widgets.tall import scrolled
from zeotherm.desk.widgets.verdict import ArrowButton, VerdictBand
from zeotherm.shop.editing.edits import RefusedError
from zeotherm.shop.errors import ShopError
from zeotherm.shop.files import job_files, shelf_files
from zeotherm.wording import shelf as words
from zeotherm.wording.entry import SetupChange, Unclear
from zeotherm.wording.language import _
from zeotherm.wording.units import NotANumberError, number_in

KINDS, EDITOR, EDITOR_NARROW = 148, 424, 408
NARROW = 1020  # px of the page below which the kinds are a drop field
TOLD = 4  # figures whose doubt moves a limit most
SHELF_FILES = _("Shelves (*.json *.csv);;All files (*)")


class TakenOff(NamedTuple):
    """An own part that was taken off the shelf."""

    kind: str
    key: str
    entry: dict[str, Any]
    kept: shelf_files.Drawer


class ShelfPage(QWidget):
    """Looks at any part of the shelf; own parts are the shop's, and go with the jobs that have them."""

    back_wanted = pyqtSignal()

    def __init__(self, bench: Bench, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("page")
        self.bench = bench
        self.kind, self.key = "fans", ""
        self.found: ShelfFound | None = None
        self._drafts: dict[tuple[str, str], Draft] = {}  # what was typed of a part and not kept
        self._gone: TakenOff | None = None  # the part that was taken off last
        self.asked = Asked(bench.executor, Rank.ASKED, self)
        self.ladder = Ladder()
        self.column = LadderColumn(self.ladder)
        self.verdict = VerdictBand(ArrowButton(_("The machine"), "F4"))
        self.kinds, self.table, self.editor = KindList(), EntryTable(), Editor()
        self.drop = DropField()
        self.drop.setAccessibleName(_("Shelves"))
        self.take, self.all, self.own, self.put_back = (
            QPushButton(_("Import")), QPushButton(_("Export this shelf")), QPushButton(_("Export own parts")),
            QPushButton(_("Put back")),
        )  # fmt: skip
        self._lay_out()
        self._connect()
        self.refresh()

    def _lay_out(self) -> None:
        self._kinds = scrolled(self.kinds)
        self._entries = scrolled(self.table)
        self._side = scrolled(self.editor)
        self._hint = Plain(_("Up and Down choose a part. Type a figure to change it: flow 6.8"))
        row = QHBoxLayout()
        row.setContentsMargins(16, 4, 12, 8)
        row.setSpacing(8)
        for button in (self.take, self.all, self.own, self.put_back):
            row.addWidget(button)
        row.addStretch()
        middle = QVBoxLayout()
        middle.setSpacing(0)
        middle.addWidget(self.drop)
        middle.addWidget(self._entries, 1)
        middle.addWidget(self._hint)
        middle.addLayout(row)
        self._rules = [QFrame(), QFrame()]
        body = QHBoxLayout()
        body.setSpacing(0)
        body.addWidget(self._kinds)
        body.addWidget(self._rules[0])
        body.addLayout(middle, 1)
        body.addWidget(self._rules[1])
        body.addWidget(self._side)
        for rule in self._rules:
            rule.setFixedWidth(1)
        frame(self, self.column, self.verdict, body)

    def _connect(self) -> None:
        bench = self.bench
        self.kinds.chosen.connect(self.turn_to)
        self.drop.activated.connect(lambda index: self.turn_to(str(self.drop.itemData(index))))
        self.table.chosen.connect(lambda key: self.open(key) if key != self.key else None)
        self.verdict.button.clicked.connect(self.back_wanted)
        self.asked.changed.connect(self._take)
        self.asked.failed.connect(lambda wrong: self.editor.say(str(wrong)))
        self.asked.busy_changed.connect(self.verdict.set_busy)
        self.editor.typed.connect(self._typed)
        self.editor.keep_wanted.connect(self.keep)
        self.editor.drop_wanted.connect(self.take_off)
        self.editor.back_wanted.connect(self.leave)
        self.editor.fit_wanted.connect(self.fit)
        self.editor.drawer_told.connect(self._put_drawer)
        self.take.clicked.connect(self.ask_import)
        self.all.clicked.connect(lambda: self.ask_export(own=False))
        self.own.clicked.connect(lambda: self.ask_export(own=True))
        self.put_back.clicked.connect(self.undo_taking)
        bench.job_changed.connect(lambda _job: self._show_again())
        bench.shelf_changed.connect(self._show_again)
        bench.answered.connect(lambda found: self.ladder.show_view(ladder(found)) if self.isVisible() else None)

    def refresh(self) -> None:
        """Take up the theme."""
        self.column.refresh()
        self.editor.refresh()
        self._kinds.setFixedWidth(theme.scaled(KINDS))
        self._hint.setFont(theme.font(12))
        self._hint.setContentsMargins(16, 4, 16, 2)
        self._hint.setStyleSheet(f"color: {theme.tokens().soft};")
        for rule in self._rules:
            rule.setStyleSheet(f"background: {theme.tokens().line};")
        for button in (self.take, self.all, self.own, self.put_back):
            button.setFont(theme.font(12))
        if self.isVisible():
            self._show_again()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        wide = self.width() - self.column.width() >= theme.scaled(NARROW)
        self._kinds.setVisible(wide)
        self._rules[0].setVisible(wide)
        self.drop.setVisible(not wide)
        self._side.setFixedWidth(theme.scaled(EDITOR if wide else EDITOR_NARROW))
        super().resizeEvent(event)

    def begin(self) -> None:
        """Show the part that was open, else the one that the machine has."""
        if self.bench.found is not None:
            self.ladder.show_view(ladder(self.bench.found))
        self._show_again()
        self.table.focus_row(self.key)

    @property
    def about(self) -> OwnKind:
        """What is told of the parts of the open shelf."""
        return self.bench.catalogue.own_figures[self.kind]

    def turn_to(self, kind: str) -> None:
        """Another shelf, at the part of it that the machine has."""
        if kind != self.kind:
            self.kind, self.key = kind, ""
            self._show_again()
            self._entries.ensureVisible(0, self.table.place_of(self.key).center().y())

    def open(self, key: str) -> None:
        """Look at a part, with what was typed of it before."""
        self.key = key
        bench, catalogue = self.bench, self.bench.catalogue
        entry, own = catalogue.shelf(self.kind)[key], key in bench.shelf.parts.get(self.kind, {})
        self.editor.show_part(
            self.about, entry, own=own, whose=self._whose(key), currency=bench.job.currency,
            kept=bench.shelf.kept(self.kind, key),
        )  # fmt: skip
        self.editor.fit.setEnabled(bool(self._places()))
        draft = self._drafts.get((self.kind, key))
        if draft is not None:
            self.editor.take_draft(draft)
        self._list()
        self._ask(self.editor.told if draft is not None else {})

    def _whose(self, key: str) -> str:
        """Whose a part is: the job on the bench may carry it with figures of its own."""
        mine, carried = self.bench.shelf.parts.get(self.kind, {}).get(key), self.bench.job.catalogue.get(self.kind)
        here = carried.get(key) if isinstance(carried, dict) else None
        if mine is not None:
            return _("own; this job has other figures") if here is not None and here != mine else _("own")
        return _("carried by this job") if here is not None else _("shipped; a change makes your own")

    def leave(self) -> None:
        """Leave the open part as it is on the shelf."""
        self._drafts.pop((self.kind, self.key), None)
        self.open(self.key)

    def _show_again(self) -> None:
        """After the job or the shelf has changed."""
        if not self.isVisible():
            return
        parts = parts_on(self.bench.catalogue, self.kind)
        if self.key not in parts:
            setup = self.bench.job.setup()
            self.key = next((key for key in parts if fitted_at(setup, self.kind, key)), next(iter(parts)))
        self.open(self.key)

    def _list(self) -> None:
        bench = self.bench
        rows = shown.kinds(bench.catalogue, bench.shelf)
        self.kinds.show_kinds(rows, self.kind)
        self.drop.clear()
        for row in rows:
            self.drop.addItem(_("{label}, {count} parts").format(label=row.label, count=row.count), row.key)
        self.drop.setCurrentIndex(self.drop.findData(self.kind))
        self.table.show_view(shown.entries(bench.catalogue, self.kind, bench.shelf, bench.job.setup(), self.key))
        self.own.setEnabled(bool(bench.shelf.parts))
        self.put_back.setVisible(self._gone is not None)

    # what its figures decide

    def _typed(self, told: Mapping[str, Stated]) -> None:
        self._drafts[self.kind, self.key] = self.editor.draft
        self._ask(dict(told))

    def _ask(self, told: dict[str, Stated]) -> None:
        bench = self.bench
        entry = bench.catalogue.shelf(self.kind)[self.key]
        changed = None
        if told:
            try:
                changed = with_figures(bench.catalogue, self.kind, self.key, told).shelf(self.kind)[self.key]
            except NoSuchPartError as wrong:
                self.editor.say(_("{why}.").format(why=wrong))
                told = {}
        self.editor.show_curve(entry, changed)
        self.found = None
        self._show_found()
        self.asked.ask(
            shelf_entry(bench.store, (bench.job, bench.catalogue), bench.jobs_with_shelves, self.kind, self.key, told)
        )

    def _take(self, found: ShelfFound) -> None:
        self.found = found
        self._show_found()

    def _show_found(self) -> None:
        found, job = self.found, self.bench.job
        label = self.bench.catalogue.shelf(self.kind)[self.key].label
        changed = bool(found is not None and found.told)
        self.verdict.show_verdict(words.verdict(found, self.about, label, job.machine, changed=changed))
        users = () if found is None else tuple(words.user_line(one, changed=changed) for one in found.users)
        self.editor.show_texts(users, self._stake_lines(), job.machine.split(",")[0])

    def _stake_lines(self) -> tuple[str, ...]:
        """The figures that move a limit most, and what is taken for those that nobody knows."""
        if self.found is None:
            return ()
        by_place = {one.at: one for one in self.about.figures}
        felt = sorted((one for one in self.found.stakes.values() if one.half >= FELT), key=lambda one: -one.half)
        told = [words.stake_line(by_place[one.at], one) for one in felt[:TOLD]]
        return (*told, *(words.without_line(line.figure) for line in self.editor.lines.values()
                         if line.known.value is None and line.figure.without))  # fmt: skip

    # own parts

    def keep(self, name: str) -> None:
        """Keep what is typed: as an own part, or as the change of one."""
        told, bench = self.editor.told, self.bench
        if self.editor.wrong.text():
            return
        draft = self._drafts.pop((self.kind, self.key), None)
        try:
            if self.key in bench.shelf.parts.get(self.kind, {}):
                bench.change_part(self.kind, self.key, name, told)
            else:
                self.key = bench.keep_part(self.kind, self.key, name, told)
                self._show_again()
        except (RefusedError, ShopError) as wrong:
            if draft is not None:
                self._drafts[self.kind, self.key] = draft
            self.editor.say(str(wrong))
            return
        bench.told.emit(_("On the shelf: {name}").format(name=name.strip()))
        self.table.focus_row(self.key)

    def take_off(self) -> None:
        """Take an own part off the shelf; it can be put back."""
        label, shelf = self.bench.catalogue.shelf(self.kind)[self.key].label, self.bench.shelf
        before, self._gone = self._gone, TakenOff(
            self.kind, self.key, shelf.parts[self.kind][self.key], shelf.kept(self.kind, self.key)
        )  # fmt: skip
        try:
            self.bench.drop_part(self.kind, self.key)
        except ShopError as wrong:
            self._gone = before
            self.editor.say(str(wrong))
            return
        self.bench.told.emit(_("Off the shelf: {name}. Jobs that have it keep it.").format(name=label))

    def undo_taking(self) -> None:
        """Put back the part that was taken off last; what has changed since stays."""
        gone, shelf = self._gone, self.bench.shelf
        if gone is None:
            return
        self._gone = None
        if gone.key not in shelf.parts.get(gone.kind, {}):
            self._put(shelf.with_part(gone.kind, gone.key, gone.entry).with_drawer(gone.kind, gone.key, gone.kept))

    def _put_drawer(self, kept: shelf_files.Drawer) -> None:
        shelf = self.bench.shelf
        if kept != shelf.kept(self.kind, self.key):
            self._put(shelf.with_drawer(self.kind, self.key, kept))

    def _put(self, shelf: shelf_files.Shelf) -> None:
        try:
            self.bench.put_shelf(shelf)
        except ShopError as wrong:
            self.editor.say(str(wrong))

    # into the machine

    def _places(self) -> tuple[str, ...]:
        """Where the open part may be fitted and is not."""
        setup = self.bench.job.setup()
        fitted = fitted_at(setup, self.kind, self.key)
        return tuple(path for path in places_of(setup, self.kind) if path not in fitted)

    def fit(self) -> None:
        """Fit the part: at once where there is one place for it, else where the menu says."""
        places = self._places()
        if len(places) == 1:
            self.fit_at(places[0])
            return
        menu = QMenu(self)
        for path in places:
            action = menu.addAction(declaration(path).label)
            assert action is not None
            action.triggered.connect(lambda _on=False, path=path: self.fit_at(path))
        menu.popup(self.editor.fit.mapToGlobal(self.editor.fit.rect().bottomLeft()))

    def fit_at(self, path: str) -> None:
        """Fit the open part there: as it was found where nobody knew, else on trial."""
        self.bench.describe(path, self.key)

    # files

    def ask_import(self) -> None:
        name, _kind = QFileDialog.getOpenFileName(self, _("Import a shelf"), "", SHELF_FILES)
        if name:
            self.import_shelf(Path(name))

    def import_shelf(self, path: Path) -> None:
        """Take in own parts from a file; nothing changes when it is refused."""
        bench = self.bench
        try:
            found = bench.have(lambda _workshop: shelf_files.taken_in(path, bench.shelf))
            bench.put_shelf(found.shelf)
        except ShopError as wrong:
            bench.told.emit(str(wrong))
            return
        told = _("{count} new parts from {name}.").format(count=found.new, name=path.name)
        bench.told.emit(" ".join([told, *(f"{one}." for one in found.left_out)]))

    def ask_export(self, *, own: bool) -> None:
        begin = "own-parts.json" if own else f"{self.kind}.csv"
        name, _kind = QFileDialog.getSaveFileName(self, _("Export a shelf"), begin, SHELF_FILES)
        if name:
            self.export(Path(name), own=own)

    def export(self, path: Path, *, own: bool) -> None:
        """Write own parts as JSON, or this shelf as a table; by what the name ends in."""
        bench = self.bench
        as_json = path.suffix.lower() == ".json"
        text = shelf_files.dumps(bench.shelf) if as_json else shelf_files.as_csv(
            self.kind, bench.catalogue, bench.shelf, own_only=own
        )  # fmt: skip
        try:
            bench.have(lambda _workshop: job_files.write_text(path, text))
        except ShopError as wrong:
            bench.told.emit(str(wrong))
            return
        bench.told.emit(_("Written: {name}").format(name=path.name))

    # the entry line

    def figure_of(self, line: str) -> tuple[str, str]:
        """The figure that a line speaks of, and what it says of it; nothing where it speaks of none."""
        text = line.strip().lower()
        for figure in sorted(self.about.figures, key=lambda one: -len(one.head or one.label)):
            for name in (figure.head.lower(), figure.label.lower()):
                if name and text.startswith(f"{name} "):
                    return figure.at, line.strip()[len(name) :].strip()
        return "", ""

    def understood(self, line: str) -> SetupChange | Unclear | None:
        """What a line means on this page; none where it speaks of no figure."""
        at, text = self.figure_of(line)
        if not at:
            return None
        figure = next(one for one in self.about.figures if one.at == at)
        try:
            value = number_in(text, figure.unit)
        except NotANumberError as wrong:
            return Unclear(str(wrong))
        label = self.bench.catalogue.shelf(self.kind)[self.key].label
        text = _("{label}: {figure} {value} {unit}")
        return SetupChange({}, text.format(label=label, figure=figure.label, value=f"{value:g}", unit=figure.unit))

    def enter(self, line: str) -> bool:
        """Type a figure by its name; whether the line speaks of one and is understood."""
        at, text = self.figure_of(line)
        return bool(at) and self.editor.type_figure(at, text)

"""Measure: runs lined up and compared, whether they were comparable, and what is real of the difference."""

from __future__ import annotations

import logging
from collections.abc import Mapping
from pathlib import Path

import numpy as np
from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QKeySequence, QResizeEvent, QShortcut
from PyQt6.QtWidgets import (
    QButtonGroup,
    QFileDialog,
    QHBoxLayout,
    QPushButton,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from zeotherm.answers.executor import Rank
from zeotherm.answers.hotend import Found
from zeotherm.answers.runs import HeldRuns, runs
from zeotherm.core.catalogue.stations import STATIONS
from zeotherm.core.machine.documents import Job, Reading
from zeotherm.core.parts.bed.part import BedFound
from zeotherm.core.runs.alignment import Origin
from zeotherm.desk.bench import Bench
from zeotherm.desk.bridge import Asked
from zeotherm.desk.qt import copy_text
from zeotherm.desk.style import theme
from zeotherm.desk.style.patina import Span
from zeotherm.desk.viewmodels import ladder
from zeotherm.desk.views.frame import NARROW, LadderColumn, frame
from zeotherm.desk.views.measure.asks import Asks
from zeotherm.desk.views.measure.condition_list import ConditionList
from zeotherm.desk.views.measure.figure_table import FigureTable
from zeotherm.desk.views.measure.measuring import Measuring
from zeotherm.desk.views.measure.menus import Entry, Menus
from zeotherm.desk.views.measure.picture_board import PictureBoard
from zeotherm.desk.views.measure.pictures_shown import Computed, pictures_view
from zeotherm.desk.views.measure.protocol_card import ProtocolCard
from zeotherm.desk.views.measure.run_list import RunList
from zeotherm.desk.views.measure.run_plot import RunPlot
from zeotherm.desk.views.measure.runs_shown import MOST_SHOWN, RunsView, runs_view
from zeotherm.desk.widgets.labels import Plain
from zeotherm.desk.widgets.ladder import Ladder
from zeotherm.desk.widgets.line import ElidedLine
from zeotherm.desk.widgets.tall import scrolled
from zeotherm.desk.widgets.verdict import ArrowButton, VerdictBand
from zeotherm.shop.editing import run_edits
from zeotherm.shop.files.arrivals import Arrival, kind_of
from zeotherm.shop.papers.report import model_at
from zeotherm.wording import numbers
from zeotherm.wording.language import _

log = logging.getLogger(__name__)
READABLE = _(
    "What was measured (*.csv *.tsv *.txt *.log *.json *.png *.tif *.tiff *.jpg *.bmp *.gcode *.gco *.g *.wav)"
    ";;All files (*)"
)
PAGES = {  # what its button says, with room and without
    "together": (_("Together"), _("Together")), "apart": (_("One by one"), _("Apart")),
    "pictures": (_("Thermal pictures"), _("Pictures")), "test": (_("Guided test"), _("Test")),
}  # fmt: skip


class MeasurePage(QWidget):
    """Everything that was measured of the job on the bench."""

    answered = pyqtSignal(str, object)  # in a few words, with its State

    def __init__(self, bench: Bench, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("page")
        self.setFocusPolicy(Qt.FocusPolicy.ClickFocus)
        self.bench = bench
        self.measuring = Measuring(bench, self)
        self.asks = Asks(bench, self.measuring, self)
        self.menus = Menus(bench, self.measuring, self.asks, self._origins, self)
        self.asked = Asked(bench.executor, Rank.ASKED, self)
        self._held: HeldRuns | None = None
        self._view: RunsView | None = None
        self._at: float | None = None
        self._channels: tuple[str, ...] = ()
        self._seen_pictures = False
        self.ladder = Ladder()
        self.column = LadderColumn(self.ladder)
        self.verdict = VerdictBand(ArrowButton(_("Explain it"), _("F4")))
        self.plot, self.table, self.board, self.card = RunPlot(), FigureTable(), PictureBoard(), ProtocolCard()
        self.conditions, self.runs = ConditionList(), RunList()
        self.lined, self.readings, self.notes = Plain(), Plain(), Plain()
        self.heads = {key: Plain(text) for key, text in HEADS.items()}
        self.tabs: dict[str, QPushButton] = {}
        self.add = QPushButton(_("Import"))
        self.more = QPushButton(_("More"))
        self.normal = QPushButton(_("As if in one room"))
        self.foot = ElidedLine()
        self._computed: Computed | None = None
        self._lay_out()
        self._connect()
        self.refresh()

    def _lay_out(self) -> None:
        group = QButtonGroup(self)
        bar = QHBoxLayout()
        bar.setContentsMargins(16, 8, 16, 4)
        bar.setSpacing(6)
        for key, (text, _short) in PAGES.items():
            button = QPushButton(text)
            button.setCheckable(True)
            button.clicked.connect(lambda _on=False, key=key: self.turn_to(key))
            group.addButton(button)
            self.tabs[key] = button
            bar.addWidget(button)
        bar.addStretch()
        self.normal.setCheckable(True)
        for button in (self.normal, self.add, self.more):
            bar.addWidget(button)
        self._pages = QStackedWidget()
        self._runs_page = QWidget()
        self._runs_page.setObjectName("page")
        stack = QVBoxLayout(self._runs_page)
        stack.setContentsMargins(0, 0, 0, 0)
        stack.setSpacing(0)
        stack.addWidget(self.plot, 3)
        self._table_scroll = scrolled(self.table)
        stack.addWidget(self._table_scroll, 2)
        self.card.setObjectName("page")
        self.board.setObjectName("page")
        self._card_scroll = scrolled(self.card)
        for page in (self._runs_page, self.board, self._card_scroll):
            self._pages.addWidget(page)
        left = QVBoxLayout()
        left.setSpacing(0)
        left.addLayout(bar)
        left.addWidget(self._pages, 1)
        side = QWidget()
        side.setObjectName("page")
        blocks = QVBoxLayout(side)
        blocks.setContentsMargins(0, 4, 0, 8)
        blocks.setSpacing(2)
        blocks.addWidget(self.conditions)
        blocks.addWidget(self.runs)
        for head, label in (("lined", self.lined), ("readings", self.readings), ("notes", self.notes)):
            label.setWordWrap(True)
            label.setMinimumWidth(1)
            for widget in (self.heads[head], label):
                row = QHBoxLayout()
                row.setContentsMargins(16, 4, 14, 0)
                row.addWidget(widget)
                blocks.addLayout(row)
        blocks.addStretch()
        self._side = scrolled(side)
        body = QVBoxLayout()
        body.setSpacing(0)
        columns = QHBoxLayout()
        columns.setSpacing(0)
        columns.addLayout(left, 1)
        columns.addWidget(self._side)
        body.addLayout(columns, 1)
        below = QHBoxLayout()
        below.setContentsMargins(16, 5, 16, 7)
        below.addWidget(self.foot)
        body.addLayout(below)
        frame(self, self.column, self.verdict, body)
        self.turn_to("together")

    def _connect(self) -> None:
        bench = self.bench
        bench.job_changed.connect(self._job_changed)
        bench.answered.connect(self._answered)
        self.asked.changed.connect(self._show)
        self.asked.failed.connect(self._failed)
        self.asked.busy_changed.connect(self._busy)
        self.measuring.busy_changed.connect(self._busy)
        self.measuring.progressed.connect(self._progressed)
        self.measuring.scale_wanted.connect(lambda path, why: self.asks.scale(path, why).exec())
        self.measuring.unsure.connect(lambda path, wrong: self.asks.unsure(path, wrong).exec())
        self.measuring.program_read.connect(lambda name, program: self.asks.program(name, program).exec())
        self.column.chosen.connect(self.board.set_span)
        self.board.set_span(self.column.span)
        self.plot.moved.connect(self.compare_at)
        self.table.chosen.connect(self._pick)
        self.conditions.activated.connect(self._open_condition)
        self.conditions.pressed.connect(lambda key, _place: self._open_condition(key))
        self.runs.activated.connect(self._open_run)
        self.runs.pressed.connect(lambda key, _place: self._open_run(key))
        self.runs.removed.connect(lambda key: self.measuring.do(run_edits.without_run, key, label=_("run taken off")))
        self.board.activated.connect(lambda key: self.asks.picture(key).exec())
        self.board.pressed.connect(lambda key, _place: self.asks.picture(key).exec())
        self.board.removed.connect(
            lambda key: self.measuring.do(run_edits.without_picture, key, label=_("picture taken off"))
        )
        self.card.chosen.connect(lambda key: self.measuring.do(run_edits.following, key, label=_("guided test")))
        self.card.ticked.connect(lambda step: self.measuring.do(run_edits.ticked, step, label=_("step")))
        self.add.clicked.connect(self.ask_file)
        self.more.clicked.connect(self._open_more)
        self.normal.clicked.connect(self.normalise)
        QShortcut(QKeySequence("Ctrl+Tab"), self).activated.connect(self.turn_on)

    # what arrives

    @property
    def held(self) -> HeldRuns | None:
        """The last comparison."""
        return self._held

    @property
    def view(self) -> RunsView | None:
        """What is shown."""
        return self._view

    def begin(self) -> None:
        """The view comes up: compare what there is."""
        self.refresh()
        self.compare()

    def compare(self) -> None:
        """Line up and compare the job's runs in the background."""
        job = self.bench.job
        self._say_side(job)
        self.asked.ask(runs(job, self.bench.catalogue, self.measuring.loader(job.measured.shown()), self._at))

    def compare_at(self, at: float | None) -> None:
        """Take levels at another moment; None: at the end of what all runs have."""
        self._at = at
        self.compare()

    def _job_changed(self, job: Job) -> None:
        if self._held is not None and self._held.job.number != job.number:
            self._at, self._channels = None, ()
        known = self._held is not None and self._held.job.measured is job.measured
        if self.isVisible() and not known:
            self.compare()
        elif self.isVisible():
            self._say_side(job)

    def _answered(self, found: Found) -> None:
        if not self.isVisible():
            return
        self.ladder.show_view(ladder(found))
        if found.sure is not None and self._held is not None:  # the model's curve has its band now
            self._show(self._held)

    def _show(self, held: HeldRuns) -> None:
        self._held = held
        self._view = view = runs_view(held, self.bench.found)
        self.verdict.show_verdict(view.verdict)
        self.answered.emit(view.brief, view.verdict.state)
        channels = tuple(key for key in self._channels if key in view.panels) or view.usual
        self.plot.show_view(view, channels)
        self.table.show_view(view)
        self.conditions.show_rows(view.conditions, view.matched)
        self.lined.setText("\n".join(view.lined_up) or _("Nothing to line up yet."))
        self.notes.setText("\n".join(view.notes))
        self.heads["notes"].setVisible(bool(view.notes))
        self.foot.setText(view.foot)
        self.foot.setToolTip(view.foot)
        if self.bench.found is not None:
            self.ladder.show_view(ladder(self.bench.found))

    def _say_side(self, job: Job) -> None:
        """What does not hang on the comparison."""
        self.runs.show_runs(job.measured)
        self.normal.setChecked(job.measured.normalise)
        self.board.show_view(pictures_view(job, self._computed))
        self.card.show_protocol(job.measured.protocol, job.measured.ticked, self.bench.catalogue)
        lines = [_reading(key, one, self.bench.found) for key, one in job.readings.items()]
        self.readings.setText("\n".join(lines) or _("Type one: sink base 54.1"))

    def _busy(self, _on: bool) -> None:
        busy = self.asked.busy or self.measuring.busy
        self.verdict.set_busy(busy)
        if not busy:
            self.foot.setText(self._view.foot if self._view is not None else "")

    def _progressed(self, share: float) -> None:
        self.foot.setText(_("{share} % read. Esc stops.").format(share=round(100 * share)))

    def _failed(self, wrong: Exception) -> None:
        log.error("comparing runs failed", exc_info=wrong)
        self.verdict.show_trouble(
            _("These runs could not be compared; the log says more. The last comparison is shown.")
        )

    # what is done

    def take_bed(self, found: BedFound) -> None:
        """The bed as Explain has it: what a picture of it is held against."""
        answer = found.answer
        if answer is not None and answer.run is None:  # under way: what is held against a picture is the whole course's
            return
        face = np.where(answer.solved.model.grid.inside, answer.solved.through.face, np.nan) if answer else None
        self._computed = Computed(found.job.number, face[::-1]) if face is not None else None
        if self.bench.job.measured.pictures:
            self.board.show_view(pictures_view(self.bench.job, self._computed))

    def turn_to(self, page: str) -> None:
        """Runs together, one by one, thermal pictures, or the guided test."""
        self.tabs[page].setChecked(True)
        self.plot.show_multiples(page == "apart")
        self._table_scroll.setVisible(page != "apart")
        if page == "pictures" and not self._seen_pictures:  # beds are warm, not hot
            self._seen_pictures = True
            self.column.set_span(Span.COOL)
        self._pages.setCurrentIndex({"together": 0, "apart": 0, "pictures": 1, "test": 2}[page])

    def turn_on(self) -> None:
        """The next of them."""
        pages = list(PAGES)
        now = next(index for index, key in enumerate(pages) if self.tabs[key].isChecked())
        self.turn_to(pages[(now + 1) % len(pages)])

    def stop(self) -> bool:
        """Stop what is under way; False where nothing is."""
        if self.measuring.busy:
            self.measuring.stop()
        elif self.asked.busy:
            self.asked.stop()
        else:
            return False
        return True

    def normalise(self) -> None:
        """Compare as if in the first run's room and from its start, or as it was."""
        on = self.normal.isChecked()
        self.bench.edit(lambda job: run_edits.with_measured(job, normalise=on), _("as if in one room"))

    def ask_file(self) -> None:
        """Choose a file to import."""
        name, _kind = QFileDialog.getOpenFileName(self, _("Import what was measured"), "", READABLE)
        if name:
            self.take_file(Path(name))

    def take_file(self, path: Path) -> None:
        """Read a file by what is in it."""
        kind = kind_of(path)
        if kind in (Arrival.PICTURE, Arrival.MATRIX):
            self.turn_to("pictures")
            self.measuring.import_picture(path)
        elif kind is Arrival.PROGRAM:
            self.measuring.import_program(path)
        elif kind is Arrival.SOUND:
            self.asks.blades(path).exec()
        else:
            self.measuring.import_log(path)

    def _pick(self, key: str) -> None:
        """Draw the channel of a figure."""
        row = self.table.row(key)
        if row is None or self._view is None or row.channel not in self._view.panels:
            return
        rest = [one for one in (self._channels or self._view.usual) if one != row.channel]
        same = [one for one in rest if self._view.panels[one].unit == self._view.panels[row.channel].unit]
        self._channels = (row.channel, *same)[:MOST_SHOWN]
        self.plot.show_view(self._view, self._channels)

    def _open_condition(self, key: str) -> None:
        if key:
            self.asks.condition(key).exec()

    def _open_run(self, key: str) -> None:
        if key in self.bench.job.measured.runs:
            row = next(row for row in self.runs.rows() if row.key == key)
            self.menus.of_run(key).popup(row.mapToGlobal(row.rect().bottomLeft()))

    def _origins(self) -> Mapping[str, Origin]:
        """How the runs are lined up now."""
        return self._held.found.origins if self._held is not None and self._held.found is not None else {}

    def _open_more(self) -> None:
        same = self.bench.job.measured.same_instruments
        own = _("Each run has its own instruments") if same else _("The same instruments in every run")
        of_view: list[Entry] = [
            (own, lambda: self.bench.edit(lambda job: run_edits.with_measured(job, same_instruments=not same), own)),
            (_("All of the runs' time"), self.plot.whole),
            (_("Levels at the end of what all have"), lambda: self.compare_at(None)),
            (_("Copy the figures as a table"), self.copy_figures),
        ]
        self.menus.more(of_view).popup(self.more.mapToGlobal(self.more.rect().bottomLeft()))

    def copy_figures(self) -> None:
        copy_text(self.table.as_text())
        self.bench.told.emit(_("Copied: {count} figures.").format(count=len(self._view.figures) if self._view else 0))

    def refresh(self) -> None:
        """Take up the theme."""
        self.column.refresh()
        t = theme.tokens()
        for head in self.heads.values():
            head.setFont(theme.font(14, 700))
        for label in (self.lined, self.readings, self.notes):
            label.setFont(theme.font(12))
            label.setStyleSheet(f"color: {t.soft};")
        for button in (*self.tabs.values(), self.add, self.more, self.normal):
            button.setFont(theme.font(13))
        self.foot.setFont(theme.font(12, 600))
        self._side.setStyleSheet(f"QScrollArea {{ border-left: 1px solid {t.line}; }}")
        self._say_side(self.bench.job)
        for widget in (self.plot, self.table, self.conditions, self.board):
            widget.update()
        if self._held is not None:
            self._show(self._held)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        narrow = self.width() < theme.scaled(NARROW)
        self._side.setFixedWidth(theme.scaled(268 if narrow else 344))
        for key, texts in PAGES.items():
            self.tabs[key].setText(texts[narrow])
            self.tabs[key].setAccessibleName(texts[0])
        self.normal.setText(_("One room") if narrow else _("As if in one room"))
        super().resizeEvent(event)


HEADS = {"lined": _("Lined up by"), "readings": _("Readings"), "notes": _("Files and sounds")}


def _reading(key: str, one: Reading, found: Found | None) -> str:
    """A spot reading, and what the model says of that moment."""
    text = f"{STATIONS[key].label}: {numbers.with_unit(one.value, STATIONS[key].unit)}"
    text += f" ± {numbers.plain(one.tolerance)}"
    text = f"{text}, {one.instrument}" if one.instrument else text
    if found is None:
        return text
    course = found.course_found or (found.course if not found.job.trial else None)
    model = model_at(key, one, found.was or found.answer.solved.readout.values, course)
    return f"{text}; {_('model')} {numbers.plain(model)}" if model is not None else text

"""Choose: options side by side, each solved as the whole job, and the cheapest set that meets every limit."""

from __future__ import annotations

import logging
from typing import Any

from markupsafe import Markup
from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QAction, QKeySequence, QPainter, QPaintEvent, QResizeEvent, QShortcut
from PyQt6.QtWidgets import (
    QButtonGroup,
    QFrame,
    QHBoxLayout,
    QMenu,
    QPushButton,
    QScrollArea,
    QSizePolicy,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from zeotherm.answers.board import SolvedBoard
from zeotherm.answers.hotend import Found
from zeotherm.answers.processes import Processes
from zeotherm.core.choices.board import offered
from zeotherm.core.judgement.margins import State
from zeotherm.core.machine.documents import Job
from zeotherm.core.parts.hotend.judge.answer import cautions
from zeotherm.desk.bench import Bench
from zeotherm.desk.boardroom import AskedBoard
from zeotherm.desk.bridge import Asked
from zeotherm.desk.parts.faces import size_pages
from zeotherm.desk.style import theme
from zeotherm.desk.style.shapes import state_colour
from zeotherm.desk.viewmodels import ladder_of_set
from zeotherm.desk.views.choose.board import HEAD, Board
from zeotherm.desk.views.choose.build.page import BuildPage
from zeotherm.desk.views.choose.shown import BoardView, board, shown_column
from zeotherm.desk.views.choose.window.page import WindowPage
from zeotherm.desk.views.frame import NARROW, LadderColumn, frame
from zeotherm.desk.views.report.reports import Change
from zeotherm.desk.widgets.cautions import Cautions
from zeotherm.desk.widgets.labels import Plain, Rich
from zeotherm.desk.widgets.ladder import Ladder
from zeotherm.desk.widgets.verdict import ArrowButton, VerdictBand
from zeotherm.wording.language import _
from zeotherm.wording.verdict import Verdict

log = logging.getLogger(__name__)
WORDS = (  # of the buttons over the board, and where they have no room
    (_("Add a part or a change"), _("Add")),
    (_("Keep the trial as an option"), _("Keep")),
    (_("Take the suggested set"), _("Take the set")),
    (_("Take off the board"), _("Take off")),
)


class Note(Rich):
    """A few words below the board, with a bar in the colour of what they say."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__("", parent)
        self._state: State | None = None
        self.setWordWrap(True)
        self.setAlignment(Qt.AlignmentFlag.AlignTop)
        self.setContentsMargins(12, 0, 0, 0)

    def show_note(self, head: str, text: str, state: State) -> None:
        """Say something under a head."""
        self._state = state
        self.setFont(theme.font(12))
        template = Markup('<b>{}</b><br><span style="color:{}">{}</span>')
        self.setText(template.format(head, theme.tokens().soft, text))
        self.setAccessibleName(f"{head}: {text}")

    def clear_note(self) -> None:
        """Say nothing."""
        self._state = None
        self.clear()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        if self._state is not None:
            painter = QPainter(self)
            painter.fillRect(QRectF(0, 1, 3, self.height() - 2), state_colour(self._state))
            painter.end()
        super().paintEvent(event)


SHORT = {"build": _("Build"), "window": _("Window"), "bed": _("Bed"), "case": _("Enclosure"), "power": _("Power")}
BETWEEN = 8  # px, two buttons
BOARD = "board"


class ChooseView(QWidget):
    """The options board of the job on the bench."""

    turned = pyqtSignal()  # to another of its pages

    def __init__(self, bench: Bench, processes: Processes, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("page")
        self._bench = bench
        self.asked = AskedBoard(bench.store, processes, bench.executor, self)
        self._solved: SolvedBoard | None = None
        self.ladder = Ladder()
        self.column = LadderColumn(self.ladder)
        self.verdict = VerdictBand(ArrowButton(_("Write work order"), "F6"))
        self.board = Board()
        self.build = BuildPage(bench)
        self.window_page = WindowPage(bench)
        self.sized: dict[str, Any] = {"build": self.build, "window": self.window_page, **size_pages(bench)}
        titles = {BOARD: _("Options"), **{key: one.title for key, one in self.sized.items()}}
        self._titles = titles
        self.tabs = {key: QPushButton(text) for key, text in titles.items()}
        for key, tab in self.tabs.items():
            tab.setAccessibleName(titles[key])
        self.add, self.keep, self.take, self.off = (QPushButton(long) for long, _short in WORDS)
        for button, (long, _short) in zip(self._buttons, WORDS, strict=True):
            button.setAccessibleName(long)
            button.setToolTip(long)
        self.menu = QMenu(self)
        self.notes = [Note() for _note in range(3)]
        self.cautions = Cautions()
        self.foot = Plain()
        self.foot.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        self._lay_out()
        self._connect()
        self.refresh()

    def _lay_out(self) -> None:
        self._scroll = QScrollArea()
        self._scroll.setWidget(self.board)
        self._scroll.setWidgetResizable(True)
        self._scroll.setFrameShape(QFrame.Shape.NoFrame)
        self._scroll.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        bar = QHBoxLayout()
        bar.setContentsMargins(16, 6, 16, 4)
        bar.setSpacing(BETWEEN)
        group = QButtonGroup(self)
        for key, button in self.tabs.items():
            button.setCheckable(True)
            button.setChecked(key == BOARD)
            button.clicked.connect(lambda _on=False, key=key: self.turn_to(key))
            group.addButton(button)
            bar.addWidget(button)
        bar.addSpacing(14)
        for button in (self.add, self.keep, self.off):
            bar.addWidget(button)
        bar.addStretch()
        bar.addWidget(self.take)
        notes = QHBoxLayout()
        notes.setContentsMargins(16, 2, 16, 8)
        notes.setSpacing(14)
        for note in self.notes:
            notes.addWidget(note, 1)
        page = QWidget()
        page.setObjectName("page")
        options = QVBoxLayout(page)
        options.setContentsMargins(0, 0, 0, 0)
        options.setSpacing(0)
        options.addWidget(self._scroll, 1)
        options.addLayout(notes)
        options.addWidget(self.cautions)
        self.foot.setContentsMargins(16, 5, 16, 7)
        options.addWidget(self.foot)
        self._pages = QStackedWidget()
        for one in (page, *self.sized.values()):
            self._pages.addWidget(one)
        body = QVBoxLayout()
        body.setSpacing(0)
        body.addLayout(bar)
        body.addWidget(self._pages, 1)
        frame(self, self.column, self.verdict, body)

    def turn_to(self, page: str) -> None:
        """The board, or the sizes of a part."""
        self.tabs[page].setChecked(True)
        self._pages.setCurrentIndex(list(self.tabs).index(page))
        for button in (self.add, self.keep, self.off, self.take):
            button.setVisible(page == BOARD)
        self._fit_words(self.width() - self.column.width())
        self.turned.emit()
        if page != BOARD:
            shown = self.sized[page]
            shown.begin()
            shown.show_found()
        elif self._solved is not None:
            self._show_solved(self._solved)

    @property
    def builds(self) -> bool:
        """Whether what is typed is of the hotend that is put together."""
        return self.tabs["build"].isChecked() or self.tabs["window"].isChecked()

    def turn_on(self) -> None:
        """The next page."""
        pages = list(self.tabs)
        self.turn_to(pages[(self._pages.currentIndex() + 1) % len(pages)])

    def _connect(self) -> None:
        bench = self._bench
        QShortcut(QKeySequence("Ctrl+Tab"), self).activated.connect(self.turn_on)
        for page, sized in self.sized.items():
            sized.told.connect(lambda told, page=page: self._show_sizes(page, told))
        bench.job_changed.connect(self._job_changed)
        bench.answered.connect(self._answered)
        self.asked.changed.connect(self._show_solved)
        self.asked.busy_changed.connect(self.verdict.set_busy)
        self.asked.failed.connect(self._search_failed)
        self.board.activated.connect(self._toggle)
        self.board.removed.connect(self._remove)
        self.board.pressed.connect(self._pressed)
        self.add.clicked.connect(self._offer_menu)
        self.keep.clicked.connect(lambda: bench.offer_trial())
        self.off.clicked.connect(lambda: self._remove(self.board.focused() or self.board.last))
        self.take.clicked.connect(self._take_suggested)

    @property
    def change(self) -> Change:
        """The machine as found and with the options taken; none until both are solved."""
        job, solved = self._bench.job, self._solved
        keys = tuple(key for key in job.variants if key in job.chosen)
        if solved is None or solved.job != job or not keys:
            return None
        before, after = solved.columns.get(()), solved.columns.get(keys)
        return (before, after) if before is not None and after is not None else None

    @property
    def sizes_asked(self) -> tuple[Asked, ...]:
        """What the pages that size have asked."""
        return tuple(one.asked for one in self.sized.values())

    # what arrives

    def begin(self) -> None:
        """The view comes up: solve what is missing; an empty board is laid with what fits the machine."""
        job = self._bench.job
        if not job.variants:
            self._bench.offer_usual()
        self.solve()

    def prepare(self) -> None:
        """Solve the board ahead, once for a machine as found and its options."""
        if not self.isVisible():
            self.asked.prepare(self._bench.with_usual(self._bench.job), self._bench.catalogue, self._bench.hourly)

    def stand_back(self) -> None:
        """Leave the processes to somebody else; what was solved ahead stays."""
        if not self.isVisible():
            self.asked.stand_back()

    def _job_changed(self, _job: Job) -> None:
        if self.isVisible():
            self.solve()

    def _answered(self, _found: Found) -> None:
        if self.isVisible() and self._solved is not None:
            self._show_ladder(self._solved)

    def solve(self) -> None:
        """Solve what of the board is missing."""
        self.asked.show(self._bench.job, self._bench.catalogue, self._bench.hourly)
        self.keep.setEnabled(bool(self._bench.job.trial))

    def _search_failed(self, wrong: Exception) -> None:
        log.error("the cheapest set", exc_info=wrong)
        self._bench.told.emit(
            _("The search for the cheapest set failed; the log says more. The options on the board are not affected.")
        )

    def price_anew(self) -> None:
        """Solve anew what goes by prices: what a kWh or an hour of work costs has changed."""
        for sized in self.sized.values():
            sized.price_anew()
        if self.isVisible():
            self.solve()

    def _show_solved(self, solved: SolvedBoard) -> None:
        self._solved = solved
        view = board(solved)
        self.board.show_view(view)
        if self.tabs[BOARD].isChecked():
            self.verdict.show_verdict(view.verdict)
        self.take.setEnabled(solved.cheapest is not None and list(solved.cheapest.keys) != solved.job.chosen)
        shown = shown_column(solved)
        if shown is not None:
            self.cautions.show_called(cautions(shown.answer), shown.answer.catalogue)
        self.foot.setText(view.foot)
        self.foot.setToolTip(view.foot)
        self._show_notes(view)
        self._show_ladder(solved)

    def _show_notes(self, view: BoardView) -> None:
        for index, note in enumerate(self.notes):
            note.show_note(*view.notes[index]) if index < len(view.notes) else note.clear_note()

    def _show_ladder(self, solved: SolvedBoard) -> None:
        view = ladder_of_set(solved)
        if view is not None and self.tabs[BOARD].isChecked():
            self.ladder.show_view(view)

    def _show_sizes(self, page: str, told: Verdict) -> None:
        """A page's own sentence, and what it sizes on the ladder, while it is shown."""
        if self.tabs[page].isChecked():
            self.verdict.show_verdict(told)
            view = self.sized[page].ladder_view
            if view is not None:
                self.ladder.show_view(view)

    # what is done

    def _toggle(self, key: str) -> None:
        if key:
            self._bench.toggle(key)

    def _pressed(self, key: str, place: QPointF) -> None:
        if place.y() < theme.scaled(HEAD):
            self._toggle(key)

    def _remove(self, key: str) -> None:
        if key:
            self._bench.offer(key, None)

    def _take_suggested(self) -> None:
        if self._solved is not None and self._solved.cheapest is not None:
            self._bench.choose(list(self._solved.cheapest.keys))

    def _offer_menu(self) -> None:
        self.fill_menu()
        self.menu.popup(self.add.mapToGlobal(self.add.rect().bottomLeft()))

    def fill_menu(self) -> None:
        """The parts and changes that fit the machine and are not on the board."""
        self.menu.clear()
        job = self._bench.job
        for key, variant in offered(job.found, self._bench.catalogue).items():
            if key in job.variants:
                continue
            text = f"{variant.label}   {job.currency}{variant.cost:.0f}, {variant.minutes:.0f} min"
            item = QAction(text, self.menu)
            item.triggered.connect(lambda _on=False, key=key, variant=variant: self._bench.offer(key, variant))
            self.menu.addAction(item)
        hint = QAction(_("... or type a change: guard 5 %"), self.menu)
        hint.setEnabled(False)
        self.menu.addAction(hint)

    def refresh(self) -> None:
        """Take up the theme."""
        self.column.refresh()
        for button in (*self.tabs.values(), self.add, self.keep, self.off, self.take):
            button.setFont(theme.font(13))
        self._fit_words(self.width() - self.column.width())
        for sized in self.sized.values():
            sized.refresh()
        self.foot.setFont(theme.font(13, 600))
        self.foot.setStyleSheet(f"background: {theme.tokens().panel}; border-top: 1px solid {theme.tokens().line};")
        if self._solved is not None:
            self._show_solved(self._solved)

    def _fit_words(self, room: int) -> None:
        """The long words of tabs and buttons where all of the bar has room for them, else one or both short."""
        shown = [one for one in self._buttons if self.tabs[BOARD].isChecked()]
        for long_tabs, words in ((True, 0), (True, 1), (False, 1)):
            for key, tab in self.tabs.items():
                tab.setText(self._titles[key] if long_tabs else SHORT.get(key, self._titles[key]))
            for button, texts in zip(self._buttons, WORDS, strict=True):
                button.setText(texts[words])
            if sum(one.sizeHint().width() + BETWEEN for one in (*self.tabs.values(), *shown)) <= room - 50:
                break

    @property
    def _buttons(self) -> tuple[QPushButton, ...]:
        return self.add, self.keep, self.take, self.off

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        room = self.width() - self.column.width()
        self._fit_words(room)
        self.board.set_room(room, self.width() < theme.scaled(NARROW))
        self.cautions.set_most(1 if self.height() < 860 else 2)
        super().resizeEvent(event)

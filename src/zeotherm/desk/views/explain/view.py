"""Explain: what is too hot, by how much and why; and what each lever does to it: of the hotend, the bed, the case or
the power path."""

from __future__ import annotations

from typing import Any

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QKeySequence, QResizeEvent, QShortcut
from PyQt6.QtWidgets import (
    QButtonGroup,
    QFrame,
    QHBoxLayout,
    QPushButton,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from zeotherm.answers.executor import Rank
from zeotherm.answers.hotend import Found
from zeotherm.core.machine.documents import Job
from zeotherm.desk.bench import Bench
from zeotherm.desk.parts.faces import tellers
from zeotherm.desk.parts.whole.teller import WholeTeller
from zeotherm.desk.style import theme
from zeotherm.desk.style.patina import Span
from zeotherm.desk.viewmodels import LeverRow
from zeotherm.desk.views.explain.page import ExplainPage
from zeotherm.desk.views.explain.teller import Teller
from zeotherm.desk.views.frame import NARROW, frame
from zeotherm.desk.widgets.tall import TallScroll

ROOMY = 860  # px of height at which the machine's picture leaves room for the strip


TAB_PX = 20  # beside a tab's words


class ExplainView(ExplainPage):
    """The job on the bench, one part of the machine at a time."""

    now: Teller
    parts: tuple[Teller, ...]

    def __init__(self, bench: Bench, parent: QWidget | None = None) -> None:
        super().__init__(self._understood, parent)
        self._bench = bench
        self._folded: object = None  # what the widths were shared out for
        self._strip_folded: dict[bool, bool] = {}  # as somebody chose it, for the machine and for its parts
        self._side_content = QWidget()
        self._filler = QWidget()  # where the levers are of a part
        self._side = TallScroll(self._side_content)
        self.parts = tellers(bench, self)
        self.now = self.parts[0]
        self.shows_all = self.now.shows_all
        self.tabs = {one.part: QPushButton(one.title) for one in self.parts}
        self._share_out()
        self._lay_out()
        self._connect()
        self.refresh()

    def _lay_out(self) -> None:
        side = self._side_content
        side.setObjectName("page")
        stack = QVBoxLayout(side)
        stack.setContentsMargins(0, 0, 0, 0)
        stack.setSpacing(0)
        stack.addWidget(self.margins)
        stack.addWidget(self.facts)
        self.elsewhere.setContentsMargins(16, 0, 14, 4)
        stack.addWidget(self.elsewhere)
        stack.addWidget(self.levers, 1)
        for one in self.parts:
            if one.panel is not None:
                stack.addWidget(one.panel)
        self.levers.setVisible(not self.shows_all)
        stack.addWidget(self._filler, 1)
        self._filler.setVisible(self.shows_all)
        self.rivals.setWordWrap(True)
        self.rivals.setContentsMargins(16, 2, 14, 4)
        stack.addWidget(self.rivals)
        fitting = QHBoxLayout()
        fitting.setContentsMargins(16, 2, 14, 4)
        fitting.addWidget(self.fit)
        fitting.addStretch()
        stack.addLayout(fitting)
        self.fits.setWordWrap(True)
        self.fits.setContentsMargins(16, 0, 14, 6)
        stack.addWidget(self.fits)
        for extra in (self.rivals, self.fit, self.fits):
            extra.setVisible(False)
        stack.addWidget(self.cautions)
        foot = QHBoxLayout()
        foot.setContentsMargins(20, 0, 16, 4)
        foot.addWidget(self.foot, 1)
        foot.addWidget(self.sure)
        self._pictures = QStackedWidget()
        for one in self.parts:
            self._pictures.addWidget(one.board)
        picture = QVBoxLayout()
        picture.setSpacing(0)
        picture.addLayout(self._tab_bar())
        picture.addWidget(self._pictures, 1)
        picture.addLayout(foot)
        body = QHBoxLayout()
        body.setSpacing(0)
        body.addLayout(picture, 1)
        self._rule = QFrame()
        self._rule.setFixedWidth(1)
        body.addWidget(self._rule)
        body.addWidget(self._side)
        frame(self, self.column, self.verdict, body, self.strip)

    def _tab_bar(self) -> QHBoxLayout:
        bar = QHBoxLayout()
        bar.setContentsMargins(16, 6, 8, 2)
        bar.setSpacing(5)
        tabs = QButtonGroup(self)
        for key, button in self.tabs.items():
            button.setCheckable(True)
            button.setChecked(key == self.part)
            button.clicked.connect(lambda _on=False, key=key: self.turn_to(key))
            tabs.addButton(button)
            bar.addWidget(button)
        bar.addStretch()
        for one in self.parts:
            group = QButtonGroup(self)
            for button in one.ways:
                button.setCheckable(True)
                button.setChecked(button is one.ways[0])
                button.setVisible(False)
                group.addButton(button)
                bar.addWidget(button)
        return bar

    def _connect(self) -> None:
        bench = self._bench
        QShortcut(QKeySequence("Ctrl+Tab"), self).activated.connect(self.turn_on)
        bench.job_changed.connect(self.show_job)
        bench.answered.connect(self.show_found)
        self.strip.scrubbed.connect(self.scrub)
        self.tab_wanted.connect(self.turn_to)
        self.levers.set_to.connect(lambda path, value, dragging: bench.set_value(path, value, dragging=dragging))
        self.levers.reset.connect(bench.set_found)
        self.facts.activated.connect(self.open_fact)
        self.facts.pressed.connect(lambda key, _place: self.open_fact(key))
        self.column.chosen.connect(self._take_span)
        self.column.set_span(self.now.span)

    def open_fact(self, key: str) -> None:
        """The card on which a fact is entered, in the picture of the machine."""
        self.turn_to(self.machine.part)
        self.machine.open_fact(key)

    def _take_span(self, span: Span) -> None:
        for one in self.parts:
            one.board.set_scale(span.value)

    # parts of the machine

    @property
    def part(self) -> str:
        """The key of the part that is shown."""
        return self.now.part

    @property
    def picture(self) -> QWidget:
        """The picture of the part that is shown."""
        board: QWidget = self.now.board
        return board

    def of(self, part: str) -> Any:
        """What tells of a part, by its key; StopIteration for one that has none."""
        return next(one for one in self.parts if one.part == part)

    def turn_to(self, part: str) -> None:
        """Show another part."""
        self.tabs[part].setChecked(True)
        if part == self.part:
            return
        self.now.leave()
        self.now = self.of(part)
        self.shows_all = self.now.shows_all
        self._share_out()
        self._pictures.setCurrentWidget(self.picture)
        self.column.set_span(self.now.span)
        for one in self.parts:
            for button in one.ways:
                button.setVisible(one is self.now)
        self.rivals.setVisible(self.now.told_below)
        self.levers.setVisible(not self.shows_all and self.now.has_levers)
        self._filler.setVisible(not self.levers.isVisibleTo(self._side_content))
        self.margins.setVisible(True)
        self.margins.show_rows(())  # nothing of the part before stays, though this one may not be answered yet
        self.facts.show_view(None)
        self._fold_strip()
        for widget in (self.fit, self.fits):
            widget.setVisible(False)
        self.foot.setText("")
        self.sure.setText("")
        self.show_job(self._bench.job)
        for one in self.parts:
            one.tell()
            one.solve()
        self.verdict.set_busy(self.now.busy)
        self.picture.setFocus(Qt.FocusReason.OtherFocusReason)

    @property
    def machine(self) -> WholeTeller:
        """What tells of the whole machine."""
        found = next(one for one in self.parts if isinstance(one, WholeTeller))
        return found

    @property
    def open_card(self) -> str:
        """The part whose card is open; nothing: none is."""
        return self.machine.board.open_card if self.now is self.machine else ""

    def close_card(self) -> bool:
        """Close the card of a part; False: none is open."""
        return self.now is self.machine and self.machine.close_card()

    def turn_on(self) -> None:
        """The next part."""
        keys = [one.part for one in self.parts if one.has_tab(self._bench.job)]
        self.turn_to(keys[(keys.index(self.part) + 1) % len(keys)])

    def _share_out(self) -> None:
        """What is looked at goes first."""
        for one in self.parts:
            if one is not self.now:
                one.matters(Rank.AHEAD)
        self.now.matters(Rank.SHOWN)  # last: the hotend is asked for the machine, too

    def scrub(self, time: float | None) -> None:
        """Another moment of the part that is shown; None: its worst, of a bed late in its print."""
        self.now.scrub(time)

    def stop(self) -> None:
        """Stop what is under way for every part."""
        for one in self.parts:
            one.stop()

    def show_job(self, job: Job) -> None:
        self._fold()
        for one in self.parts:
            self.tabs[one.part].setVisible(one.has_tab(job))
            self._name_tab(self.tabs[one.part], one.tab_text(job))
        if not self.now.has_tab(job):
            self.turn_to("hotend")
            return
        for one in self.parts:
            one.take_job(job)

    def _name_tab(self, tab: QPushButton, text: str) -> None:
        if tab.text() != text:
            tab.setText(text)
            tab.setMinimumWidth(tab.fontMetrics().horizontalAdvance(text) + theme.scaled(TAB_PX))

    def show_found(self, found: Found) -> None:
        for one in self.parts:
            one.take_found(found)

    def refresh(self) -> None:
        """Take up the theme and what is on the bench."""
        self.column.refresh()
        self.foot.setFont(theme.font(12, 600))
        self.sure.setFont(theme.font(12))
        self._rule.setStyleSheet(f"background: {theme.tokens().line};")
        for button in (*self.tabs.values(), *(button for one in self.parts for button in one.ways)):
            button.setFont(theme.font(13))
        for widget in (self.rivals, self.fits):
            widget.setFont(theme.font(12))
        self.fit.setFont(theme.font(13))
        self.elsewhere.setFont(theme.font(12, 600))
        self.strip.refresh()
        self.show_job(self._bench.job)
        for one in self.parts:
            one.tell()

    def fold_strip(self) -> None:
        """Fold the time strip to its sentence, or open it: so it stays for the machine, and for its parts."""
        self._strip_folded[self.shows_all] = not self.strip.folded
        self._fold_strip()

    def _fold_strip(self) -> None:
        """The picture of the machine needs the strip's height, unless there is plenty or somebody opened it."""
        own = self.shows_all and self.height() < ROOMY
        self.strip.set_folded(self._strip_folded.get(self.shows_all, own))

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        self._fold()
        super().resizeEvent(event)

    def _fold(self) -> None:
        narrow = self.width() < theme.scaled(NARROW)
        folded = (narrow, self.height(), theme.scaled(NARROW), self.shows_all)
        if self._folded == folded:
            return
        self._folded = folded
        self._side.setFixedWidth(theme.scaled(340 if narrow else 432))
        self._fold_strip()
        low = self.height() < 660
        most = 5 if low else 6 if self.height() < 800 else 9
        self.margins.set_compact(narrow, most - 1 if self.shows_all else most)
        self.cautions.set_most(1 if low else 2)
        self.levers.set_compact(narrow)
        self.facts.set_compact(narrow or low)
        for one in self.parts:
            one.set_compact(narrow)

    def _understood(self, row: LeverRow, text: str) -> float | str:
        """The value of a text typed into a lever's field; ValueError says what to do."""
        return self._bench.typed(row.path, text)

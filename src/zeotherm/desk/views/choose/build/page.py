"""Choose's page on which a hotend is put together: what is wanted, slots, section, and what it is held against."""

from __future__ import annotations

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QKeySequence, QResizeEvent, QShortcut
from PyQt6.QtWidgets import (
    QApplication,
    QGridLayout,
    QHBoxLayout,
    QPushButton,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from zeotherm.answers.build import BuildFound, build, cheapest
from zeotherm.answers.executor import Rank
from zeotherm.core.choices.build.cheapest import SURE, Search
from zeotherm.core.choices.build.judged import Built
from zeotherm.core.choices.build.slots import emptied, filled
from zeotherm.core.machine.build import Build
from zeotherm.core.machine.documents import Job, Variant
from zeotherm.desk.bench import Bench
from zeotherm.desk.bridge import Asked
from zeotherm.desk.style import theme
from zeotherm.desk.viewmodels import LadderView
from zeotherm.desk.views.choose.build.picture import BuildPicture
from zeotherm.desk.views.choose.build.shown import ladder, shown, stamped
from zeotherm.desk.views.choose.build.slot_list import SlotList
from zeotherm.desk.views.choose.build.squares import VoltSquares
from zeotherm.desk.views.choose.build.watts_chart import WattsChart
from zeotherm.desk.views.choose.wanted_row import WantedRow
from zeotherm.desk.views.frame import NARROW
from zeotherm.desk.widgets.labels import Plain, Rich, coloured
from zeotherm.desk.widgets.margins import Margins
from zeotherm.desk.widgets.tall import scrolled
from zeotherm.wording import build as words
from zeotherm.wording.language import _

SLOTS, SLOTS_TIGHT, SIDE, SIDE_TIGHT = 306, 226, 396, 304  # px
ROWS, ROWS_LOW = 8, 6
KEYS = ("nozzle_c", "flow_mm3_s", "hot_within_s", "air_c", "part_fan_pct")


class BuildPage(QWidget):
    """The build of the job on the bench."""

    told = pyqtSignal(object)  # Verdict
    title = _("Build a hotend")

    def __init__(self, bench: Bench, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("page")
        self._bench = bench
        self.asked = Asked(bench.executor, Rank.ASKED, self)
        self.searching = Asked(bench.executor, Rank.ASKED, self)
        self.found: BuildFound | None = None
        self.search: Search | None = None
        self.opened = ""
        self._stale = True
        self._wrong = ""  # an entry that is wrong, until it is mended
        self.wanted = WantedRow(bench, KEYS, several=True)
        self.slots = SlotList()
        self.picture = BuildPicture(self._height_of)
        self.against = Margins(title=_("Against the job"))
        self.squares = VoltSquares()
        self.chart = WattsChart()
        self.sums = Rich()
        self.strip = Plain()
        self.trouble = Rich()
        self.put = QPushButton(_("Put on the board"))
        self.look = QPushButton(_("Find the cheapest"))
        self.take = QPushButton(_("Take it"))
        self.clear = QPushButton(_("As found"))
        self.copy = QPushButton(_("Copy the parts"))
        self._lay_out()
        self._connect()
        self.refresh()

    @property
    def buttons(self) -> tuple[QPushButton, ...]:
        """Below the page."""
        return self.put, self.look, self.take, self.clear, self.copy

    def _lay_out(self) -> None:
        self._scroll = QScrollArea()
        self._scroll.setWidget(self.slots)
        self._scroll.setWidgetResizable(True)
        self._scroll.setFrameShape(QScrollArea.Shape.NoFrame)
        self._scroll.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        left = QVBoxLayout()
        left.setSpacing(0)
        left.addWidget(self._scroll, 1)
        self.sums.setContentsMargins(18, 4, 8, 6)
        left.addWidget(self.sums)
        holder = QWidget()
        holder.setLayout(left)
        self._left = holder
        side = QWidget()
        side.setObjectName("page")
        stack = QVBoxLayout(side)
        stack.setContentsMargins(0, 0, 0, 0)
        stack.setSpacing(2)
        stack.addWidget(self.trouble)
        stack.addWidget(self.against)
        stack.addWidget(self.squares)
        stack.addWidget(self.chart, 1)
        self.trouble.setWordWrap(True)
        self._side = scrolled(side)
        middle = QHBoxLayout()
        middle.setSpacing(0)
        middle.addWidget(holder)
        middle.addWidget(self.picture, 1)
        middle.addWidget(self._side)
        row = QGridLayout()
        row.setContentsMargins(16, 4, 16, 6)
        for column, button in enumerate(self.buttons):
            row.addWidget(button, 0, column)
        row.setColumnStretch(len(self.buttons), 1)
        self.strip.setWordWrap(True)
        self.strip.setContentsMargins(16, 4, 16, 4)
        whole = QVBoxLayout(self)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.setSpacing(0)
        whole.addWidget(self.wanted)
        whole.addLayout(middle, 1)
        whole.addLayout(row)
        whole.addWidget(self.strip)

    def _connect(self) -> None:
        bench = self._bench
        self.asked.changed.connect(self._take_found)
        self.asked.failed.connect(lambda wrong: self.say(str(wrong)))
        self.searching.changed.connect(self._take_search)
        self.searching.failed.connect(lambda wrong: self.say(str(wrong)))
        self.searching.busy_changed.connect(lambda busy: self.look.setText(
            _("Stop looking") if busy else _("Find the cheapest")))  # fmt: skip
        bench.job_changed.connect(self._job_changed)
        bench.shelf_changed.connect(lambda: self._job_changed(bench.job))
        self.wanted.wrong.connect(self._say_wrong)
        self.slots.activated.connect(self.activate)
        self.slots.pressed.connect(lambda key, _place: self.activate(key))
        self.slots.removed.connect(self.empty)
        bar = self._scroll.verticalScrollBar()
        if bar is not None:
            bar.valueChanged.connect(lambda _value: self.picture.update())
        self.put.clicked.connect(self.put_on_board)
        self.look.clicked.connect(self.look_for)
        self.take.clicked.connect(self.take_cheapest)
        self.clear.clicked.connect(lambda: bench.build(_("build as found"), change={}))
        self.copy.clicked.connect(self.copy_parts)
        for keys, what in (("Escape", self.step_back), ("Ctrl+U", self.put_on_board)):
            shortcut = QShortcut(QKeySequence(keys), self)
            shortcut.setContext(Qt.ShortcutContext.WidgetWithChildrenShortcut)
            shortcut.activated.connect(what)

    def _height_of(self, slot: str) -> int | None:
        """Where a slot's row is, on the picture's own height."""
        height = self.slots.middle_of(slot)
        if height is None:
            return None
        place = self.picture.mapFromGlobal(self.slots.mapToGlobal(self.slots.rect().topLeft()))
        view = self._scroll.viewport()
        shown = place.y() + height
        if view is None:
            return shown
        top = self.picture.mapFromGlobal(view.mapToGlobal(view.rect().topLeft())).y()
        return shown if top <= shown <= top + view.height() else None

    # what arrives

    def begin(self) -> None:
        """The page comes up."""
        if self._stale:
            self.solve()

    def price_anew(self) -> None:
        """What an hour of work costs has changed."""
        self.search = None
        self._show_search()

    def _job_changed(self, job: Job) -> None:
        found = self.found
        same = found is not None and found.job.found == job.found and found.job.build == job.build
        if (found is not None and (found.job.number != job.number or found.job.found != job.found)) or (
            found is not None and _wish(found.job.build) != _wish(job.build)
        ):
            self.search = None
        self._stale = self._stale or not same or found is None or found.catalogue is not self._bench.catalogue
        if self.isVisible():
            self.begin()

    def solve(self) -> None:
        """Solve the build, and what each part of the open slot would make of it."""
        bench = self._bench
        self._stale = False
        self.say(self._wrong)
        self.asked.ask(build(bench.store, bench.job, bench.catalogue, bench.shelf.prices, self.opened))

    def _take_found(self, found: BuildFound) -> None:
        if found.job.number == self._bench.job.number:
            self.found = found
            self.show_found()

    def show_found(self) -> None:
        """Show what is known."""
        found = self.found
        if found is None:
            return
        view = shown(found, self.opened, found.job.currency)
        self.slots.show_lines(view.slots)
        self.picture.show_found(found, self.opened)
        self.against.show_rows(view.rows)
        self.squares.show_squares(view.squares)
        self.chart.show_picture(found.watts, stamped(found), found.wanted.seconds, found.wanted.flow)
        self.sums.setText(_summed(view.sums))
        self.sums.setAccessibleName(words.sum_of(found.built, found.job.currency))
        self.put.setEnabled(bool(found.built.change) and found.full)
        self.clear.setEnabled(bool(found.built.change))
        self.copy.setEnabled(bool(found.built.change))
        self.wanted.show_wanted(found.wanted)
        self.say(self._wrong or words.others(found.wanted, found.catalogue))
        self._show_search()
        self.told.emit(words.verdict(found.built, found.catalogue))

    @property
    def ladder_view(self) -> LadderView | None:
        """The build on the ladder."""
        return ladder(self.found) if self.found is not None else None

    # what is done

    def activate(self, key: str) -> None:
        """Open a slot's shelf, shut it, or put a part in."""
        found = self.found
        if found is None:
            return
        slot, _slash, part = key.partition("/")
        if not part:
            self.opened = "" if self.opened == slot else slot
            self.solve()
            return
        one = next((each for each in found.shelf if each.key == part), None)
        if one is not None:
            change = filled(found.built.change, one, found.job.found, found.catalogue)
            self._bench.build(_("build: {part}").format(part=one.label), change=change)

    def empty(self, key: str) -> None:
        """Leave a slot as found."""
        slot = key.partition("/")[0]
        if self.found is not None and slot:
            change = emptied(self.found.built.change, self.found.catalogue.slots[slot], self.found.catalogue)
            self._bench.build(_("slot as found"), change=change)

    def step_back(self) -> None:
        """Stop the search, or shut the shelf."""
        if self.searching.busy:
            self.searching.stop()
        elif self.opened:
            slot, self.opened = self.opened, ""
            self.solve()
            self.slots.focus_row(slot)

    def look_for(self) -> None:
        """Look for the cheapest build that meets every limit, or stop that."""
        if self.searching.busy:
            self.searching.stop()
            return
        bench = self._bench
        self.searching.ask(cheapest(bench.store, bench.job, bench.catalogue, bench.shelf.prices, bench.hourly, SURE))

    def _take_search(self, search: Search) -> None:
        self.search = search
        self._show_search()

    def _show_search(self) -> None:
        search, found = self.search, self.found
        best = search.best if search is not None else None
        self.take.setEnabled(best is not None and found is not None and best.change != found.job.build.change)
        if search is None:
            if found is not None and found.cold is not None:
                self.strip.setText(words.cold(found.cold, found.wanted.air, found.catalogue))
            else:
                self.strip.setText(_("being solved"))
            return
        catalogue = self._bench.catalogue
        self.strip.setText(words.found(search, catalogue, self._bench.job.currency))
        little = words.little_of(search, self._bench.job.currency) if search.over else []
        told = [*words.needed(search, catalogue), *([_("Does little here:")] if little else []), *little]
        self.strip.setToolTip("\n".join(told))

    def take_cheapest(self) -> None:
        """Put the parts of the cheapest build into the slots."""
        if self.search is not None and self.search.best is not None:
            self._bench.build(_("cheapest build"), change=self.search.best.change)

    def put_on_board(self) -> None:
        """The build as an option beside the others, which the board solves over the whole job."""
        found = self.found
        if found is None or not found.built.change:
            return
        built: Built = found.built
        if built.cost is None:  # unknown is not free
            self._bench.told.emit(
                _("The price of a part is not known: put it into its drawer on the parts shelf first.")
            )
            return
        label = words.named(built, found.catalogue) or _("build")
        label = f"{label[:1].upper()}{label[1:]}"
        variant = Variant(
            label=label if len(label) <= 60 else f"{label[:59]}…", change=built.change,
            cost=round(built.cost, 2),
            minutes=built.minutes,
        )  # fmt: skip
        self._bench.offer("build", variant)
        self._bench.told.emit(_("On the board: {label}").format(label=label))

    def copy_parts(self) -> None:
        """The parts of the build as lines of text."""
        clipboard = QApplication.clipboard()
        if self.found is not None and clipboard is not None:
            shelf, found = self._bench.shelf, self.found
            lines = words.parts_of(
                found.built, found.catalogue, found.job.currency, lambda kind, key: shelf.kept(kind, key).count
            )
            clipboard.setText("\n".join(lines))
            self._bench.told.emit(_("The parts are on the clipboard."))

    def _say_wrong(self, text: str) -> None:
        self._wrong = text
        self.say(text)

    def say(self, text: str) -> None:
        """What is wrong, or nothing."""
        self.trouble.setText(coloured(text, theme.tokens().close) if text else "")
        self.trouble.setContentsMargins(16, 2, 12, 2)
        self.trouble.setVisible(bool(text))

    # looks

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        tight = self.width() < theme.scaled(NARROW) - 244
        self._left.setFixedWidth(theme.scaled(SLOTS_TIGHT if tight else SLOTS))
        self._side.setFixedWidth(theme.scaled(SIDE_TIGHT if tight else SIDE))
        self.against.set_compact(tight, ROWS if self.height() >= theme.scaled(600) else ROWS_LOW)
        super().resizeEvent(event)

    def refresh(self) -> None:
        """Take up the theme."""
        self.wanted.refresh()
        for label in (self.sums, self.trouble):
            label.setFont(theme.font(12))
        for button in self.buttons:
            button.setFont(theme.font(13))
        self.strip.setFont(theme.font(13, 600))
        self.strip.setStyleSheet(f"background: {theme.tokens().panel}; border-top: 1px solid {theme.tokens().line};")
        self.squares.refresh()
        self.show_found()
        self._show_search()


def _wish(one: Build) -> Build:
    return one.model_copy(update={"change": {}})


def _summed(sums: tuple[tuple[str, str], ...]) -> str:
    """Figures over what they are."""
    from markupsafe import Markup

    cells = Markup("").join(
        Markup('<td style="padding-right: 18px"><b>{}</b><br><span style="color:{}">{}</span></td>').format(
            figure, theme.tokens().soft, what)
        for figure, what in sums
    )  # fmt: skip
    return Markup("<table><tr>{}</tr></table>").format(cells)

"""Choose's page on which a hotend is put together: what is wanted, slots, section, and what it is held against."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import Any

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QScrollArea, QVBoxLayout, QWidget

from zeotherm.answers.build import BuildFound, build, cheapest
from zeotherm.answers.executor import Rank
from zeotherm.core.choices.build.cheapest import Search
from zeotherm.core.choices.build.slots import emptied, filled
from zeotherm.core.machine.build import Build
from zeotherm.core.machine.documents import Job
from zeotherm.desk.bench import Bench
from zeotherm.desk.bridge import Asked
from zeotherm.desk.style import theme
from zeotherm.desk.viewmodels import LadderView, rest_ladder
from zeotherm.desk.views.choose.build.picture import BuildPicture
from zeotherm.desk.views.choose.build.shown import shown, stamped
from zeotherm.desk.views.choose.build.slot_list import SlotList
from zeotherm.desk.views.choose.build.squares import VoltSquares
from zeotherm.desk.views.choose.build.watts_chart import WattsChart
from zeotherm.desk.views.choose.hotend_page import HotendPage
from zeotherm.desk.widgets.labels import Rich
from zeotherm.desk.widgets.margins import Margins
from zeotherm.desk.widgets.tall import scrolled
from zeotherm.wording import build as words
from zeotherm.wording.language import _

SLOTS, SLOTS_TIGHT, SIDE, SIDE_TIGHT = 306, 226, 396, 304  # px
ROWS, ROWS_LOW = 8, 6


class BuildPage(HotendPage[BuildFound]):
    """The build of the job on the bench."""

    title = _("Build a hotend")
    KEYS = ("nozzle_c", "flow_mm3_s", "hot_within_s", "air_c", "part_fan_pct", "sure_pct")
    SEVERAL = True

    def __init__(self, bench: Bench, parent: QWidget | None = None) -> None:
        super().__init__(bench, parent)
        self.searching = Asked(bench.executor, Rank.ASKED, self)
        self.search: Search | None = None
        self.opened = ""
        self.slots = SlotList()
        self.picture = BuildPicture(self._height_of)
        self.against = Margins(title=_("Against the job"))
        self.squares = VoltSquares()
        self.chart = WattsChart()
        self.sums = Rich()
        self.put = QPushButton(_("Put on the board"))
        self.look = QPushButton(_("Find the cheapest"))
        self.take = QPushButton(_("Take it"))
        self.clear = QPushButton(_("As found"))
        self.copy = QPushButton(_("Copy the parts"))
        self.lay_out(self._middle())
        self.connect()
        self.refresh()

    @property
    def buttons(self) -> tuple[QPushButton, ...]:
        return self.put, self.look, self.take, self.clear, self.copy

    def _middle(self) -> QHBoxLayout:
        self._scroll = QScrollArea()
        self._scroll.setWidget(self.slots)
        self._scroll.setWidgetResizable(True)
        self._scroll.setFrameShape(QScrollArea.Shape.NoFrame)
        self._scroll.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self._left = QWidget()
        left = QVBoxLayout(self._left)
        left.setContentsMargins(0, 0, 0, 0)
        left.setSpacing(0)
        left.addWidget(self._scroll, 1)
        self.sums.setContentsMargins(18, 4, 8, 6)
        left.addWidget(self.sums)
        side = QWidget()
        side.setObjectName("page")
        stack = QVBoxLayout(side)
        stack.setContentsMargins(0, 0, 0, 0)
        stack.setSpacing(2)
        stack.addWidget(self.trouble)
        stack.addWidget(self.against)
        stack.addWidget(self.squares)
        stack.addWidget(self.chart, 1)
        self._side = scrolled(side)
        middle = QHBoxLayout()
        middle.setSpacing(0)
        middle.addWidget(self._left)
        middle.addWidget(self.picture, 1)
        middle.addWidget(self._side)
        return middle

    def connect(self) -> None:
        super().connect()
        self.searching.changed.connect(self._take_search)
        self.searching.failed.connect(lambda wrong: self.say(str(wrong)))
        self.searching.busy_changed.connect(lambda busy: self.look.setText(
            _("Stop looking") if busy else _("Find the cheapest")))  # fmt: skip
        self.slots.activated.connect(self.activate)
        self.slots.pressed.connect(lambda key, _place: self.activate(key))
        self.slots.removed.connect(self.empty)
        bar = self._scroll.verticalScrollBar()
        if bar is not None:
            bar.valueChanged.connect(lambda _value: self.picture.update())
        self.put.clicked.connect(self.put_on_board)
        self.look.clicked.connect(self.look_for)
        self.take.clicked.connect(self.take_cheapest)
        self.clear.clicked.connect(lambda: self._bench.build(_("build as found"), change={}))
        self.copy.clicked.connect(self.copy_parts)

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

    def price_anew(self) -> None:
        """What an hour of work costs has changed."""
        self.search = None
        self._show_search()

    def _job_changed(self, job: Job) -> None:
        found = self.found
        if found is not None and (
            found.job.number != job.number or found.job.found != job.found
            or _wish(found.job.build) != _wish(job.build)
        ):  # fmt: skip
            self.search = None
        super()._job_changed(job)

    def question(self) -> Callable[..., Iterator[Any]]:
        bench = self._bench
        return build(bench.store, bench.job, bench.catalogue, bench.shelf.prices, self.opened)

    def show_found(self) -> None:
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
        built = self.found.built if self.found is not None else None
        if built is None or self.found is None or built.answer is None:
            return None
        return rest_ladder(_("This build, on the job"), built.answer, self.found.job, [one.state for one in built.rows])

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
        self.searching.ask(cheapest(bench.store, bench.job, bench.catalogue, bench.shelf.prices, bench.hourly))

    def _take_search(self, search: Search) -> None:
        self.search = search
        self._show_search()

    def _show_search(self) -> None:
        search, found = self.search, self.found
        does = search.does if search is not None else None
        self.take.setEnabled(does is not None and found is not None and does.change != found.job.build.change)
        if search is None:
            if found is not None and found.cold is not None:
                self.strip.setText(words.cold(found.cold, found.wanted.air, found.catalogue))
            else:
                self.strip.setText(_("being solved"))
            return
        catalogue = self._bench.catalogue
        self.strip.setText(words.found(search, catalogue, self._bench.job.currency))
        little = words.little_of(search, self._bench.job.currency) if search.over else []
        lines = [*words.needed(search, catalogue), *([_("Does little here:")] if little else []), *little]
        self.strip.setToolTip("\n".join(lines))

    def take_cheapest(self) -> None:
        """Put the parts of the cheapest build into the slots."""
        if self.search is not None and self.search.does is not None:
            self._bench.build(_("cheapest build"), change=self.search.does.change)

    def put_on_board(self) -> None:
        """The build as an option beside the others, which the board solves over the whole job."""
        found = self.found
        if found is not None and found.built.change:
            built = found.built
            self.offer("build", words.named(built, found.catalogue) or _("build"), built.change, built.cost,
                       built.minutes)  # fmt: skip

    def copy_parts(self) -> None:
        """The parts of the build as lines of text."""
        found, shelf = self.found, self._bench.shelf
        if found is not None:
            rows = words.parts_of(
                found.built, found.catalogue, found.job.currency, lambda kind, key: shelf.kept(kind, key).count
            )
            self.copy_text("\n".join("\t".join(one) for one in rows), _("The parts are on the clipboard."))

    # looks

    def set_tight(self, *, tight: bool) -> None:
        self._left.setFixedWidth(theme.scaled(SLOTS_TIGHT if tight else SLOTS))
        self._side.setFixedWidth(theme.scaled(SIDE_TIGHT if tight else SIDE))
        self.against.set_compact(tight, ROWS if self.height() >= theme.scaled(600) else ROWS_LOW)

    def refresh(self) -> None:
        self.sums.setFont(theme.font(12))
        self.squares.refresh()
        super().refresh()
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

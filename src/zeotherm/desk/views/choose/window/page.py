"""Choose's page of the window: what is wanted above, the chart left, what widens it and what to set right."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import Any

from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from zeotherm.answers.window import WindowFound, printing_window
from zeotherm.core.choices.window import Widening
from zeotherm.desk.bench import Bench
from zeotherm.desk.style import theme
from zeotherm.desk.viewmodels import LadderView, rest_ladder
from zeotherm.desk.views.choose.hotend_page import HotendPage
from zeotherm.desk.views.choose.wanted_row import FIELDS
from zeotherm.desk.views.choose.window.chart import WindowChart
from zeotherm.desk.views.choose.window.lists import NOTHING, LineList, SideLine
from zeotherm.desk.widgets.tall import scrolled
from zeotherm.wording import settings as setting_words
from zeotherm.wording import window as words
from zeotherm.wording.language import _, begun_large

SIDE, SIDE_TIGHT = 424, 330  # px


class WindowPage(HotendPage[WindowFound]):
    """The window of the build of the job on the bench."""

    title = _("The window")
    KEYS = ("nozzle_c", "flow_mm3_s", "flow_least_mm3_s", "air_c", "part_fan_pct")

    def __init__(self, bench: Bench, parent: QWidget | None = None) -> None:
        super().__init__(bench, parent)
        self.picked = ""
        self.chart = WindowChart()
        self.wider = LineList(_("What widens it"), _("tightest side gains"), bars=True)
        self.settings = LineList(_("Settings to copy"), _("every line with a comment"), bars=False)
        self.put = QPushButton(_("Put on the board"))
        self.copy = QPushButton(_("Copy the lines"))
        self.compare = QPushButton(_("Copy both profiles"))
        self.lay_out(self._middle())
        self.connect()
        self.refresh()

    @property
    def buttons(self) -> tuple[QPushButton, ...]:
        return self.put, self.copy, self.compare

    def _middle(self) -> QHBoxLayout:
        side = QWidget()
        side.setObjectName("page")
        stack = QVBoxLayout(side)
        stack.setContentsMargins(0, 0, 0, 0)
        stack.setSpacing(2)
        stack.addWidget(self.trouble)
        stack.addWidget(self.wider)
        stack.addWidget(self.settings)
        stack.addStretch()
        self._side = scrolled(side)
        middle = QHBoxLayout()
        middle.setSpacing(0)
        middle.addWidget(self.chart, 1)
        middle.addWidget(self._side)
        return middle

    def connect(self) -> None:
        super().connect()
        self.chart.moved.connect(self.move_job)
        self.wider.activated.connect(self.pick)
        self.wider.pressed.connect(lambda key, _place: self.pick(key))
        self.put.clicked.connect(self.put_on_board)
        self.copy.clicked.connect(self.copy_lines)
        self.compare.clicked.connect(self.copy_profiles)

    # what arrives

    def question(self) -> Callable[..., Iterator[Any]]:
        bench = self._bench
        self.picked = ""
        return printing_window(bench.store, bench.job, bench.catalogue, bench.shelf.prices)

    @property
    def chosen(self) -> Widening | None:
        """The widening that is picked."""
        ways = self.found.window.widenings if self.found is not None else ()
        return next((one for one in ways if one.label == self.picked), None)

    def show_found(self) -> None:
        found = self.found
        if found is None:
            return
        window, chosen = found.window, self.chosen
        ceiling = window.nozzle + chosen.room.up if chosen is not None and chosen.slot else None
        self.chart.show_found(found, ceiling)
        most = max((one.gain for one in window.widenings), default=1.0)
        self.wider.show_lines(
            [SideLine(one.label, begun_large(words.name(one)), words.price(one, found.job.currency),
                  words.gain(one, window), one.gain / most) for one in window.widenings],
            self.picked, NOTHING if window.done else _("being solved"),
        )  # fmt: skip
        if found.settings is not None:
            lines = setting_words.lines_of(found.settings)
            self.settings.show_lines([
                SideLine(one.key, one.label, one.text, "", 0.0, "\n".join(one.lines)) for one in lines
            ])  # fmt: skip
        else:
            self.settings.show_lines((), empty=_("being solved"))
        self.wanted.show_wanted(found.wanted)
        self.strip.setText(words.strip(window))
        self.put.setEnabled(chosen is not None)
        for button in (self.copy, self.compare):
            button.setEnabled(found.settings is not None)
        self.told.emit(words.verdict(window, found.catalogue, found.open))

    @property
    def ladder_view(self) -> LadderView | None:
        found = self.found
        if found is None or found.answer is None:
            return None
        states = [one.state for one in found.answer.margins]
        return rest_ladder(_("At this temperature and flow"), found.answer, found.job, states)

    # what is done

    def move_job(self, kelvin: float, flow: float) -> None:
        """Move the job's point."""
        found = self.found
        if found is None:
            return
        key, value = ("nozzle_c", found.wanted.nozzle + kelvin) if kelvin else ("flow_mm3_s", found.wanted.flow + flow)
        asked = FIELDS[key]
        if asked.low <= value <= asked.high:
            self._bench.build(asked.label, **{key: value})

    def pick(self, key: str) -> None:
        """Show a widening dashed in the chart; once more: no longer."""
        self.picked = "" if self.picked == key else key
        self.show_found()

    def put_on_board(self) -> None:
        """The picked widening as an option beside the others."""
        chosen = self.chosen
        if chosen is not None:
            self.offer("window", words.name(chosen), chosen.change, chosen.cost, chosen.minutes)

    def copy_lines(self) -> None:
        """The settings as lines for a controller."""
        if self.found is not None and self.found.settings is not None:
            self.copy_text(setting_words.as_text(self.found.settings), _("The lines are on the clipboard."))

    def copy_profiles(self) -> None:
        """Both profiles, line by line: as the job is set, and as proposed."""
        found = self.found
        if found is not None and found.settings is not None:
            lines = setting_words.compared(found.job.found.printing, found.settings)
            heads = (_("setting"), _("as the job is set"), _("proposed"))
            self.copy_text(
                "\n".join("\t".join(row) for row in (heads, *lines)), _("Both profiles are on the clipboard.")
            )

    # looks

    def set_tight(self, *, tight: bool) -> None:
        self._side.setFixedWidth(theme.scaled(SIDE_TIGHT if tight else SIDE))

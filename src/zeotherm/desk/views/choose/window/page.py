"""Choose's page of the window: what is wanted above, the chart left, what widens it and what to set right."""

from __future__ import annotations

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QKeySequence, QResizeEvent, QShortcut
from PyQt6.QtWidgets import QApplication, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from zeotherm.answers.executor import Rank
from zeotherm.answers.window import WindowFound, printing_window
from zeotherm.core.catalogue.stations import STATIONS
from zeotherm.core.choices.window import Widening
from zeotherm.core.judgement.margins import State
from zeotherm.core.machine.documents import Job, Variant
from zeotherm.desk.bench import Bench
from zeotherm.desk.bridge import Asked
from zeotherm.desk.style import theme
from zeotherm.desk.viewmodels import LadderView, marker
from zeotherm.desk.views.choose.wanted_row import WantedRow
from zeotherm.desk.views.choose.window.chart import WindowChart
from zeotherm.desk.views.choose.window.lists import NOTHING, LineList, SideLine
from zeotherm.desk.views.frame import NARROW
from zeotherm.desk.widgets.labels import Plain, Rich, coloured
from zeotherm.desk.widgets.tall import scrolled
from zeotherm.wording import settings as setting_words
from zeotherm.wording import window as words
from zeotherm.wording.language import _, begun_large

KEYS = ("nozzle_c", "flow_mm3_s", "flow_least_mm3_s", "air_c", "part_fan_pct")
SIDE, SIDE_TIGHT = 424, 330  # px


class WindowPage(QWidget):
    """The window of the build of the job on the bench."""

    told = pyqtSignal(object)  # Verdict
    title = _("The window")

    def __init__(self, bench: Bench, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("page")
        self._bench = bench
        self.asked = Asked(bench.executor, Rank.ASKED, self)
        self.found: WindowFound | None = None
        self.picked = ""
        self._stale = True
        self.wanted = WantedRow(bench, KEYS, several=False)
        self.chart = WindowChart()
        self.wider = LineList(_("What widens it"), _("tightest side gains"), bars=True)
        self.settings = LineList(_("Settings to copy"), _("every line with a comment"), bars=False)
        self.trouble = Rich()
        self.strip = Plain()
        self.put = QPushButton(_("Put on the board"))
        self.copy = QPushButton(_("Copy the lines"))
        self.compare = QPushButton(_("Copy both profiles"))
        self._lay_out()
        self._connect()
        self.refresh()

    @property
    def buttons(self) -> tuple[QPushButton, ...]:
        """Below the page."""
        return self.put, self.copy, self.compare

    def _lay_out(self) -> None:
        side = QWidget()
        side.setObjectName("page")
        stack = QVBoxLayout(side)
        stack.setContentsMargins(0, 0, 0, 0)
        stack.setSpacing(2)
        stack.addWidget(self.trouble)
        stack.addWidget(self.wider)
        stack.addWidget(self.settings)
        stack.addStretch()
        self.trouble.setWordWrap(True)
        self._side = scrolled(side)
        middle = QHBoxLayout()
        middle.setSpacing(0)
        middle.addWidget(self.chart, 1)
        middle.addWidget(self._side)
        row = QHBoxLayout()
        row.setContentsMargins(16, 4, 16, 6)
        for button in self.buttons:
            row.addWidget(button)
        row.addStretch()
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
        self.asked.changed.connect(self._take_found)
        self.asked.failed.connect(lambda wrong: self.say(str(wrong)))
        self._bench.job_changed.connect(self._job_changed)
        self._bench.shelf_changed.connect(lambda: self._job_changed(self._bench.job))
        self.wanted.wrong.connect(self.say)
        self.chart.moved.connect(self.move_job)
        self.wider.activated.connect(self.pick)
        self.wider.pressed.connect(lambda key, _place: self.pick(key))
        self.put.clicked.connect(self.put_on_board)
        self.copy.clicked.connect(self.copy_lines)
        self.compare.clicked.connect(self.copy_profiles)
        for keys, what in (("Escape", self.asked.stop), ("Ctrl+U", self.put_on_board)):
            shortcut = QShortcut(QKeySequence(keys), self)
            shortcut.setContext(Qt.ShortcutContext.WidgetWithChildrenShortcut)
            shortcut.activated.connect(what)

    # what arrives

    def begin(self) -> None:
        """The page comes up."""
        if self._stale:
            self.solve()

    def price_anew(self) -> None:
        """Nothing here goes by the price of an hour."""

    def _job_changed(self, job: Job) -> None:
        found = self.found
        same = found is not None and found.job.found == job.found and found.job.build == job.build
        self._stale = self._stale or not same or found is None or found.catalogue is not self._bench.catalogue
        if self.isVisible():
            self.begin()

    def solve(self) -> None:
        """Solve the window."""
        bench = self._bench
        self._stale = False
        self.picked = ""
        self.say("")
        self.asked.ask(printing_window(bench.store, bench.job, bench.catalogue, bench.shelf.prices))

    def _take_found(self, found: WindowFound) -> None:
        if found.job.number == self._bench.job.number:
            self.found = found
            self.show_found()

    @property
    def chosen(self) -> Widening | None:
        """The widening that is picked."""
        ways = self.found.window.widenings if self.found is not None else ()
        return next((one for one in ways if one.label == self.picked), None)

    def show_found(self) -> None:
        """Show what is known."""
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
        self.told.emit(words.verdict(window, found.catalogue))

    @property
    def ladder_view(self) -> LadderView | None:
        """The job at rest on the ladder."""
        found = self.found
        answer = found.answer if found is not None else None
        if found is None or answer is None:
            return None
        given = answer.solved.resolved.inputs
        markers = tuple(
            marker(key, value, answer, found.job, None)
            for key, value in answer.solved.readout.values.items()
            if value is not None and STATIONS[key].is_temperature
        )
        counts = tuple((state, answer.count(state)) for state in (State.OVER, State.SHORT, State.CLOSE, State.CLEAR))
        softening = (given.softening, given.softening + given.swelling_span)
        return LadderView(_("At this temperature and flow"), markers, softening, counts)

    # what is done

    def move_job(self, kelvin: float, flow: float) -> None:
        """Move the job's point."""
        found = self.found
        if found is None:
            return
        if kelvin:
            self._bench.build(_("nozzle"), nozzle_c=min(max(found.wanted.nozzle + kelvin, 150.0), 480.0))
        else:
            self._bench.build(_("flow"), flow_mm3_s=min(max(found.wanted.flow + flow, 0.5), 60.0))

    def pick(self, key: str) -> None:
        """Show a widening dashed in the chart; once more: no longer."""
        self.picked = "" if self.picked == key else key
        self.show_found()

    def put_on_board(self) -> None:
        """The picked widening as an option beside the others."""
        found, chosen = self.found, self.chosen
        if found is None or chosen is None:
            return
        if chosen.cost is None:  # unknown is not free
            self._bench.told.emit(
                _("The price of a part is not known: put it into its drawer on the parts shelf first.")
            )
            return
        label = begun_large(words.name(chosen))[:60]
        variant = Variant(label=label, change=chosen.change, cost=round(chosen.cost, 2), minutes=chosen.minutes)
        self._bench.offer("window", variant)
        self._bench.told.emit(_("On the board: {label}").format(label=label))

    def copy_lines(self) -> None:
        """The settings as lines for a controller."""
        if self.found is not None and self.found.settings is not None:
            self._copy(setting_words.as_text(self.found.settings), _("The lines are on the clipboard."))

    def copy_profiles(self) -> None:
        """Both profiles, line by line: as the job is set, and as proposed."""
        found = self.found
        if found is not None and found.settings is not None:
            told = setting_words.compared(found.job.found.printing, found.settings)
            heads = (_("setting"), _("as the job is set"), _("proposed"))
            self._copy("\n".join("\t".join(row) for row in (heads, *told)), _("Both profiles are on the clipboard."))

    def _copy(self, text: str, said: str) -> None:
        clipboard = QApplication.clipboard()
        if clipboard is not None:
            clipboard.setText(text)
            self._bench.told.emit(said)

    def say(self, text: str) -> None:
        """What is wrong, or nothing."""
        self.trouble.setText(coloured(text, theme.tokens().close) if text else "")
        self.trouble.setContentsMargins(16, 2, 12, 2)
        self.trouble.setVisible(bool(text))

    # looks

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        tight = self.width() < theme.scaled(NARROW) - 244
        self._side.setFixedWidth(theme.scaled(SIDE_TIGHT if tight else SIDE))
        super().resizeEvent(event)

    def refresh(self) -> None:
        """Take up the theme."""
        self.wanted.refresh()
        self.trouble.setFont(theme.font(12))
        for button in self.buttons:
            button.setFont(theme.font(13))
        self.strip.setFont(theme.font(13, 600))
        self.strip.setStyleSheet(f"background: {theme.tokens().panel}; border-top: 1px solid {theme.tokens().line};")
        self.show_found()

"""Explain: what is too hot, by how much and why; and what each lever does to it: of the hotend, the bed, the case or
the power path."""

from __future__ import annotations

from PyQt6.QtCore import Qt, pyqtSignal
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
from zeotherm.core.judgement.answer import Answer, cautions
from zeotherm.core.machine.documents import Job
from zeotherm.desk import theme
from zeotherm.desk.bench import Bench
from zeotherm.desk.patina import Span
from zeotherm.desk.pictures.section import FieldReading
from zeotherm.desk.timeview import strip
from zeotherm.desk.viewmodels import LeverRow, ladder, lever_rows, margin_rows
from zeotherm.desk.views.explain_bed import BedTeller
from zeotherm.desk.views.explain_case import CaseTeller
from zeotherm.desk.views.explain_power import PowerTeller
from zeotherm.desk.views.frame import NARROW, LadderColumn, frame
from zeotherm.desk.widgets.bed_board import BedBoard
from zeotherm.desk.widgets.case_board import CaseBoard
from zeotherm.desk.widgets.cautions import Cautions
from zeotherm.desk.widgets.cutaway import Cutaway
from zeotherm.desk.widgets.labels import Plain, Rich
from zeotherm.desk.widgets.ladder import Ladder
from zeotherm.desk.widgets.levers import Levers
from zeotherm.desk.widgets.line import ElidedLine
from zeotherm.desk.widgets.margins import Margins
from zeotherm.desk.widgets.power_board import PowerBoard
from zeotherm.desk.widgets.tall import TallScroll
from zeotherm.desk.widgets.timestrip import TimeStrip
from zeotherm.desk.widgets.verdict import ArrowButton, VerdictBand
from zeotherm.wording.course import enough, next_reading
from zeotherm.wording.entry import SetValue, understand
from zeotherm.wording.language import _
from zeotherm.wording.margins import label
from zeotherm.wording.numbers import plain, with_unit
from zeotherm.wording.verdict import BEYOND, verdict

HOTEND, BED, CASE, POWER = "hotend", "bed", "case", "power"
PARTS = {HOTEND: _("Hotend"), BED: _("Bed"), CASE: _("Case"), POWER: _("Power")}
WIDTHS = {False: _("A"), True: _("W")}  # of the power strip
SPANS = {False: _("Warm-up"), True: _("Print")}  # of the bed's time strip


class ExplainView(QWidget):
    """Ladder, verdict, picture, margins and levers of the job on the bench; one part of the machine at a time."""

    bed_answered = pyqtSignal(object)  # BedFound
    asked_for = pyqtSignal(str)  # numbers and parts of the machine, by words in their name or place

    def __init__(self, bench: Bench, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("page")
        self._bench = bench
        self._folded: object = None  # what the widths were shared out for
        self._judged: Answer | None = None
        self.part = HOTEND
        self.ladder = Ladder()
        self.column = LadderColumn(self.ladder)
        self.verdict = VerdictBand(ArrowButton(_("Choose a change"), _("F5")))
        self.cutaway = Cutaway()
        self.board = BedBoard()
        self.case_board = CaseBoard()
        self.power_board = PowerBoard()
        self.tabs = {key: QPushButton(text) for key, text in PARTS.items()}
        self.spans = {whole: QPushButton(text) for whole, text in SPANS.items()}
        self.widths = {watts: QPushButton(text) for watts, text in WIDTHS.items()}
        self.elsewhere = ElidedLine()
        self.margins = Margins()
        self.levers = Levers(self._understood)
        self.rivals, self.fits, self.fit = Rich(), Plain(), QPushButton()
        self.cautions = Cautions()
        self.strip = TimeStrip()
        self.foot = ElidedLine()
        self.sure = Plain()
        self._side_content = QWidget()
        self._side = TallScroll(self._side_content)
        self.bed = BedTeller(bench, self)
        self.case = CaseTeller(bench, self)
        self.power = PowerTeller(bench, self)
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
        self.elsewhere.setContentsMargins(16, 0, 14, 4)
        stack.addWidget(self.elsewhere)
        stack.addWidget(self.levers, 1)
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
        for widget in (self.cutaway, self.board, self.case_board, self.power_board):
            self._pictures.addWidget(widget)
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
        bar.setContentsMargins(16, 6, 16, 2)
        bar.setSpacing(6)
        parts, spans, widths = QButtonGroup(self), QButtonGroup(self), QButtonGroup(self)
        for key, button in self.tabs.items():
            button.setCheckable(True)
            button.setChecked(key == self.part)
            button.clicked.connect(lambda _on=False, key=key: self.turn_to(key))
            parts.addButton(button)
            bar.addWidget(button)
        bar.addStretch()
        for whole, button in self.spans.items():
            button.setCheckable(True)
            button.setChecked(not whole)
            button.setVisible(False)
            button.clicked.connect(lambda _on=False, whole=whole: self.bed.show_span(whole))
            spans.addButton(button)
            bar.addWidget(button)
        for watts, button in self.widths.items():
            button.setCheckable(True)
            button.setChecked(not watts)
            button.setVisible(False)
            button.setToolTip(_("Width of the strip by watts") if watts else _("Width of the strip by amps"))
            button.clicked.connect(lambda _on=False, watts=watts: self.power.show_watts(watts))
            widths.addButton(button)
            bar.addWidget(button)
        return bar

    def _connect(self) -> None:
        bench = self._bench
        QShortcut(QKeySequence("Ctrl+Tab"), self).activated.connect(self.turn_on)
        self.board.pointed.connect(self.bed.show_point)
        bench.job_changed.connect(self.show_job)
        bench.answered.connect(self.show_found)
        bench.unsolved.connect(self._show_trouble)
        bench.busy_changed.connect(self.verdict.set_busy)
        self.strip.scrubbed.connect(self.scrub)
        self.cutaway.pointed.connect(self._show_point)
        self.levers.set_to.connect(lambda path, value, dragging: bench.set_value(path, value, dragging=dragging))
        self.levers.reset.connect(bench.set_found)
        self.column.chosen.connect(self._take_span)
        self._take_span(self.column.span)

    def _take_span(self, span: Span) -> None:
        self.cutaway.set_scale(span.value)
        self.board.set_scale(span.value)
        self.case_board.set_scale(span.value)
        self.power_board.set_scale(span.value)

    # parts of the machine

    def turn_to(self, part: str) -> None:
        """The hotend, the bed, the case or the power path."""
        self.tabs[part].setChecked(True)
        if part == self.part:
            return
        self.part = part
        self._share_out()
        self._pictures.setCurrentIndex(list(PARTS).index(part))
        self.column.set_span(Span.FULL if part == HOTEND else Span.COOL)
        for button in self.spans.values():
            button.setVisible(part == BED)
        for button in self.widths.values():
            button.setVisible(part == POWER)
        self.rivals.setVisible(part != HOTEND)
        for widget in (self.fit, self.fits):
            widget.setVisible(False)
        self.foot.setText("")
        self.sure.setText("")
        self._judged = None
        self.show_job(self._bench.job)
        if self._bench.found is not None:
            self.show_found(self._bench.found)
        self.bed.solve()
        self.case.solve()
        self.case.tell()
        self.power.solve()
        self.power.tell()
        self.picture.setFocus(Qt.FocusReason.OtherFocusReason)

    def _share_out(self) -> None:
        """What is looked at goes first."""
        self._bench.matters(Rank.SHOWN if self.part == HOTEND else Rank.AHEAD)
        for name, teller in ((BED, self.bed), (CASE, self.case), (POWER, self.power)):
            teller.asked.matters(Rank.SHOWN if self.part == name else Rank.AHEAD)

    def scrub(self, time: float | None) -> None:
        """Another moment of the part that is shown; None: its worst, of a bed late in its print."""
        if self.part == BED:
            self.bed.scrub(time)
        elif self.part == CASE:
            self.case.scrub(time)
        elif self.part == POWER:
            self.power.scrub(time)
        else:
            self._bench.scrub(time)

    def turn_on(self) -> None:
        """The next part."""
        parts = list(PARTS)
        self.turn_to(parts[(parts.index(self.part) + 1) % len(parts)])

    @property
    def picture(self) -> QWidget:
        """The picture of the part that is shown."""
        return {HOTEND: self.cutaway, BED: self.board, CASE: self.case_board, POWER: self.power_board}[self.part]

    def show_job(self, job: Job) -> None:
        self._fold()
        self.bed.take_job(job)
        self.case.take_job(job)
        self.power.take_job(job)
        if self.part != HOTEND:
            return
        found = self._bench.found
        if found is not None and found.job.number == job.number:
            self.levers.show_rows(lever_rows(job, self._bench.catalogue, found.worst))
            self.strip.set_stale()
        else:
            self.levers.show_rows(lever_rows(job, self._bench.catalogue, None))
            self.strip.show_view(None)
            self._judged = None

    def show_found(self, found: Found) -> None:
        self.bed.take_run(found)
        if self.part != HOTEND:
            return
        self.cutaway.show_found(found)
        if found.course is None:
            self.cutaway.repaint()  # while a lever is dragged the picture leads
        self.ladder.show_view(ladder(found))
        self.margins.show_rows(margin_rows(found.answer))
        if found.course is None:  # the run is under way: what it said before stays, marked
            self.strip.set_stale()
        else:
            self.strip.show_view(strip(found, self.strip.view))
        self.verdict.clear_trouble()
        if found.judged is not self._judged:
            self._show_judged(found)
        self._show_balance(found)

    def _show_judged(self, found: Found) -> None:
        """What speaks of the whole job, whatever moment is shown."""
        judged = self._judged = found.judged
        self.verdict.show_verdict(verdict(judged))
        self.cautions.show_called(cautions(judged), judged.catalogue)
        if judged.strengths:
            catalogue = self._bench.catalogue
            self.levers.show_rows(lever_rows(found.job, catalogue, judged))
            gains = _("{part} gains, per step").format(part=label(judged.worst).lower())
            self.levers.show_advice(gains, enough(judged, catalogue), next_reading(judged))

    def refresh(self) -> None:
        """Take up the theme and what is on the bench."""
        self.column.refresh()
        self.cutaway.refresh()
        self.foot.setFont(theme.font(12, 600))
        self.sure.setFont(theme.font(12))
        self._rule.setStyleSheet(f"background: {theme.tokens().line};")
        for button in (*self.tabs.values(), *self.spans.values(), *self.widths.values()):
            button.setFont(theme.font(13))
        for widget in (self.rivals, self.fits):
            widget.setFont(theme.font(12))
        self.fit.setFont(theme.font(13))
        self.elsewhere.setFont(theme.font(12, 600))
        self.strip.refresh()
        self._judged = None
        self.show_job(self._bench.job)
        if self._bench.found is not None:
            self.show_found(self._bench.found)
        self.bed.refresh()
        self.case.tell()
        self.power.tell()

    def fold_strip(self) -> None:
        """Fold the time strip to its sentence, or open it."""
        self.strip.set_folded(not self.strip.folded)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        self._fold()
        super().resizeEvent(event)

    def _fold(self) -> None:
        narrow = self.width() < theme.scaled(NARROW)
        if self._folded == (narrow, self.height(), theme.scaled(NARROW)):
            return
        self._folded = (narrow, self.height(), theme.scaled(NARROW))
        self._side.setFixedWidth(theme.scaled(340 if narrow else 432))
        low = self.height() < 660
        self.margins.set_compact(narrow, 5 if low else 6 if self.height() < 800 else 9)
        self.cautions.set_most(1 if low else 2)
        self.levers.set_compact(narrow)

    def _show_trouble(self, text: str) -> None:
        if self.part != HOTEND:
            return
        self.verdict.show_trouble(text)
        self.cutaway.set_stale(True)

    def _show_point(self, reading: FieldReading | None) -> None:
        if reading is None or self.part != HOTEND:
            return
        self.foot.setText(
            _("Point: {part}, {height} above the tip, {temperature}").format(
                part=reading.part,
                height=with_unit(reading.height * 1e3, "mm"),
                temperature=with_unit(reading.temperature, "°C"),
            )
        )
        self.sure.setText(
            _("±{band} K (95 %)").format(band=plain(reading.band)) if reading.band is not None else _("band follows")
        )

    def _show_balance(self, found: Found) -> None:
        if self.foot.text().startswith(_("Point")):
            return
        readout = found.answer.solved.readout
        watts = readout.watts
        if readout.extrapolated:
            self.foot.setText(f"{BEYOND[readout.extrapolated[0]]}.")
            return
        view = self.strip.view
        brief, full = view.log if view is not None else ("", "")
        self.foot.setToolTip(full)
        if brief:
            self.foot.setText(brief)
            return
        self.foot.setText(
            _("Heater {watts} W. Point at any place, or use the arrow keys, to read it.").format(
                watts=plain(watts.heater)
            )
        )

    def _understood(self, row: LeverRow, text: str) -> float | str:
        """The value of a text typed into a lever's field; ValueError says what to do."""
        meant = understand(f"{row.label} {text}", self._bench.job.setup(), self._bench.catalogue)
        if not isinstance(meant, SetValue):
            raise ValueError(meant.text)
        return meant.value

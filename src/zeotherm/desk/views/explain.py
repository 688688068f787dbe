"""Explain: what is too hot, by how much and why; and what each lever does to it."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QResizeEvent
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QLabel, QScrollArea, QSizePolicy, QVBoxLayout, QWidget

from zeotherm.core.machine.documents import Job
from zeotherm.desk import theme
from zeotherm.desk.bench import Bench, Found
from zeotherm.desk.patina import Span
from zeotherm.desk.pictures.section import Reading
from zeotherm.desk.viewmodels import LeverRow, ladder, lever_rows, margin_rows
from zeotherm.desk.views.frame import NARROW, LadderColumn, frame
from zeotherm.desk.widgets.cautions import Cautions
from zeotherm.desk.widgets.cutaway import Cutaway
from zeotherm.desk.widgets.ladder import Ladder
from zeotherm.desk.widgets.levers import Levers
from zeotherm.desk.widgets.margins import Margins
from zeotherm.desk.widgets.verdict import ArrowButton, VerdictBand
from zeotherm.wording.entry import SetValue, understand
from zeotherm.wording.language import _
from zeotherm.wording.numbers import plain, with_unit
from zeotherm.wording.verdict import BEYOND, verdict


class ExplainView(QWidget):
    """Ladder, verdict, picture, margins and levers of the job on the bench."""

    def __init__(self, bench: Bench, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("page")
        self._bench = bench
        self._span = Span.FULL
        self.ladder = Ladder()
        self.column = LadderColumn(self.ladder)
        self.verdict = VerdictBand(ArrowButton(_("Write the report"), _("Ctrl+P")))
        self.cutaway = Cutaway()
        self.margins = Margins()
        self.levers = Levers(self._understood)
        self.cautions = Cautions()
        self.foot = QLabel()
        self.foot.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        self.sure = QLabel()
        self._side = QScrollArea()
        self._lay_out()
        self._connect()
        self.refresh()

    def _lay_out(self) -> None:
        side = QWidget()
        side.setObjectName("page")
        stack = QVBoxLayout(side)
        stack.setContentsMargins(0, 0, 0, 0)
        stack.setSpacing(0)
        stack.addWidget(self.margins)
        stack.addWidget(self.levers, 1)
        stack.addWidget(self.cautions)
        self._side.setWidget(side)
        self._side.setWidgetResizable(True)
        self._side.setFrameShape(QFrame.Shape.NoFrame)
        self._side.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self._side.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        foot = QHBoxLayout()
        foot.setContentsMargins(20, 0, 16, 4)
        foot.addWidget(self.foot, 1)
        foot.addWidget(self.sure)
        picture = QVBoxLayout()
        picture.setSpacing(0)
        picture.addWidget(self.cutaway, 1)
        picture.addLayout(foot)
        body = QHBoxLayout()
        body.setSpacing(0)
        body.addLayout(picture, 1)
        self._rule = QFrame()
        self._rule.setFixedWidth(1)
        body.addWidget(self._rule)
        body.addWidget(self._side)
        frame(self, self.column, self.verdict, body)

    def _connect(self) -> None:
        bench = self._bench
        bench.job_changed.connect(self.show_job)
        bench.answered.connect(self.show_found)
        bench.unsolved.connect(self._show_trouble)
        bench.busy_changed.connect(self.verdict.set_busy)
        self.cutaway.pointed.connect(self._show_point)
        self.levers.set_to.connect(lambda path, value, dragging: bench.set_value(path, value, dragging=dragging))
        self.levers.reset.connect(bench.set_found)
        for span, button in self.column.buttons.items():
            button.clicked.connect(lambda _checked, span=span: self.set_span(span))
        self.set_span(Span.FULL)

    def show_job(self, job: Job) -> None:
        self.levers.show_rows(lever_rows(job, self._bench.catalogue))
        self._fold()

    def show_found(self, found: Found) -> None:
        self.ladder.show_view(ladder(found))
        self.verdict.show_verdict(verdict(found.answer))
        self.cutaway.show_found(found)
        self.margins.show_rows(margin_rows(found.answer))
        self.cautions.show_answer(found.answer)
        self._show_balance(found)

    def refresh(self) -> None:
        """Take up the theme and what is on the bench."""
        self.column.refresh()
        self.cutaway.refresh()
        self.foot.setFont(theme.font(12, 600))
        self.sure.setFont(theme.font(12))
        self._rule.setStyleSheet(f"background: {theme.tokens().line};")
        self.show_job(self._bench.job)
        if self._bench.found is not None:
            self.show_found(self._bench.found)

    def set_span(self, span: Span) -> None:
        """One span for the ladder and for every picture."""
        self._span = span
        self.ladder.set_span(span)
        self.cutaway.set_scale(span.value)
        self.column.buttons[span].setChecked(True)

    def next_span(self) -> None:
        spans = list(Span)
        self.set_span(spans[(spans.index(self._span) + 1) % len(spans)])

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        self._fold()
        super().resizeEvent(event)

    def _fold(self) -> None:
        narrow = self.width() < theme.scaled(NARROW)
        self._side.setFixedWidth(theme.scaled(340 if narrow else 432))
        low = self.height() < 660
        self.margins.set_compact(narrow, 5 if low else 7 if self.height() < 800 else 9)
        self.cautions.set_most(1 if low else 2)
        self.levers.set_compact(narrow)

    def _show_trouble(self, text: str) -> None:
        self.verdict.show_trouble(text)
        self.cutaway.set_stale(True)

    def _show_point(self, reading: Reading | None) -> None:
        if reading is None:
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

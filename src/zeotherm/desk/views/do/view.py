"""Do: the work order, step by step, with its waits, its cautions, and what has to be shown afterwards."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PyQt6.QtCore import Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QResizeEvent
from PyQt6.QtWidgets import (
    QHBoxLayout,
    QPushButton,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from zeotherm.answers.executor import Rank
from zeotherm.answers.hotend import Found
from zeotherm.answers.work import at_hand
from zeotherm.core.machine.documents import Job
from zeotherm.core.work.gates import Aids, GateState
from zeotherm.core.work.planning import Order, OrderLine
from zeotherm.desk.bench import Bench
from zeotherm.desk.bridge import Asked
from zeotherm.desk.style import theme
from zeotherm.desk.style.patina import Span
from zeotherm.desk.viewmodels import ladder
from zeotherm.desk.views.do.asks import WorkAsks
from zeotherm.desk.views.do.order_list import OrderList
from zeotherm.desk.views.do.shown import CardView, card, expected, ladder_of_hold, ladder_of_last, plan_view, rows, side
from zeotherm.desk.views.do.step_card import StepCard
from zeotherm.desk.views.do.work_plan import WorkPlan
from zeotherm.desk.views.do.work_side import WorkSide
from zeotherm.desk.views.do.working import Working
from zeotherm.desk.views.frame import NARROW, LadderColumn, frame
from zeotherm.desk.widgets.labels import Plain
from zeotherm.desk.widgets.ladder import Ladder
from zeotherm.desk.widgets.line import ElidedLine as ShortLine
from zeotherm.desk.widgets.tall import TallScroll
from zeotherm.desk.widgets.verdict import ArrowButton, VerdictBand
from zeotherm.shop.clock import BenchClock
from zeotherm.wording import work
from zeotherm.wording.language import _

LIST_WIDE, LIST_NARROW, SIDE_WIDE = 318, 264, 270
TICK_MS = 1000


class DoPage(QWidget):
    """The work on the job on the bench."""

    answered = pyqtSignal(str, object)  # in a few words, with its State
    print_wanted = pyqtSignal()

    def __init__(self, bench: Bench, clock: BenchClock | None = None, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("page")
        self.setFocusPolicy(Qt.FocusPolicy.ClickFocus)
        self._bench = bench
        self.working = Working(bench, clock, self)
        self.asks = WorkAsks(bench, self.working, self)
        self.asked = Asked(bench.executor, Rank.ASKED, self)
        self._asked_of = ""  # the key of the aids that are under way
        self._spanned = ""  # the step that the ladder's span was chosen for
        self._shown: int | None = None  # a step that is looked at; None: the one at hand
        self.ladder = Ladder()
        self.column = LadderColumn(self.ladder)
        self.verdict = VerdictBand(ArrowButton(_("Write the order"), ""))
        self.list, self.card, self.side, self.plan = OrderList(), StepCard(), WorkSide(), WorkPlan()
        self.head, self.aside = ShortLine(), Plain()
        self.drawer = QPushButton(_("Parts and sheet"))
        self.more = QPushButton(_("Change the order"))
        self.print = QPushButton(_("Print the order"))
        self.probe_line = Plain()
        self.foot = ShortLine()
        self._beat = QTimer(self)
        self._beat.setInterval(TICK_MS)
        self._beat.timeout.connect(self._tick_along)
        self._lay_out()
        self._connect()
        self.refresh()

    def _lay_out(self) -> None:
        self._steps = QWidget()
        self._steps.setObjectName("page")
        left = QVBoxLayout(self._steps)
        left.setContentsMargins(10, 8, 8, 8)
        left.setSpacing(4)
        head = QHBoxLayout()
        head.addWidget(self.head, 1)
        head.addWidget(self.aside)
        left.addLayout(head)
        self._list_scroll = TallScroll(self.list)
        left.addWidget(self._list_scroll, 1)
        buttons = QHBoxLayout()
        for button in (self.more, self.print):
            buttons.addWidget(button)
        left.addLayout(buttons)
        self._card_scroll, self._side_scroll, self._plan_scroll = (
            TallScroll(one) for one in (self.card, self.side, self.plan)
        )
        self._middle = QStackedWidget()
        for page in (self._card_scroll, self._plan_scroll):
            self._middle.addWidget(page)
        foot = QHBoxLayout()
        foot.setContentsMargins(16, 4, 12, 5)
        foot.addWidget(self.foot, 1)
        foot.addWidget(self.probe_line)
        foot.addWidget(self.drawer)
        self.drawer.setCheckable(True)
        columns = QHBoxLayout()
        columns.setSpacing(0)
        columns.addWidget(self._steps)
        columns.addWidget(self._middle, 1)
        columns.addWidget(self._side_scroll)
        body = QVBoxLayout()
        body.setSpacing(0)
        body.addLayout(columns, 1)
        body.addLayout(foot)
        frame(self, self.column, self.verdict, body)
        self.column.set_span(Span.COOL)

    def _connect(self) -> None:
        self._bench.job_changed.connect(self._job_changed)
        self._bench.answered.connect(self._answered)
        self.asked.changed.connect(self._aids_came)
        self.asked.busy_changed.connect(self.verdict.set_busy)
        self.asked.failed.connect(lambda _wrong: self._bench.told.emit(
            _("The wait could not be computed for this machine. Go by the probe alone."))
        )  # fmt: skip
        self.list.chosen.connect(self._look_at)
        self.card.ticked.connect(self._on_line(self.working.tick))
        self.card.noted.connect(self._note)
        self.card.photo_wanted.connect(self._on_line(self.asks.photograph))
        self.card.photo_opened.connect(self._open_photo)
        self.card.read.connect(self._read)
        self.card.begun.connect(self._on_line(self.working.begin))
        self.card.left.connect(self.leave)
        self.card.left_out.connect(self.asks.reason)
        self.card.probe.clicked.connect(lambda: self.asks.offer_probes(self.card.probe))
        self.plan.picked.connect(self.working.pick)
        self.plan.settled.connect(self.working.settle)
        self.plan.failed_after.connect(self.working.tell_failure)
        self.verdict.button.clicked.connect(self.go_on)
        self.more.clicked.connect(self._turn_plan)
        self.print.clicked.connect(self.print_wanted)
        self.drawer.clicked.connect(lambda: self._fold(self.width() < theme.scaled(NARROW)))
        self.working.probe_changed.connect(self.probe_line.setText)

    def _on_line(self, act: Callable[..., object]) -> Callable[..., None]:
        """An intent about the step at hand."""

        def acted(*about: object) -> None:
            line = self._line
            if line is not None:
                act(line, *about)

        return acted

    # what is shown

    @property
    def order(self) -> Order | None:
        """The order of the job on the bench."""
        return self.working.order

    @property
    def _line(self) -> OrderLine | None:
        order = self.order
        return order.now if order is not None else None

    def begin(self) -> None:
        """The view comes up."""
        self._shown = None
        self._beat.start()
        self._middle.setCurrentWidget(self._plan_scroll if self._bench.job.doing.written is None else self._card_scroll)
        self._show()

    def hideEvent(self, event: object) -> None:
        self._beat.stop()

    def _job_changed(self, _job: Job) -> None:
        if self._bench.job.doing.written is not None and self.isVisible():
            order = self.order
            if order is not None and self._shown is not None and self._shown >= len(order.lines):
                self._shown = None
        if self.isVisible():
            self._show()
        else:
            self.tell()

    def _answered(self, _found: Found) -> None:
        if self.isVisible():
            self._show()

    def _aids_came(self, _aids: Aids) -> None:
        if self.isVisible():
            self._show()

    def _states(self) -> list[GateState]:
        line = self._line
        return self.working.gates(line) if line is not None and self._bench.job.doing.written is not None else []

    def tell(self) -> None:
        """Where the order stands, for the spine."""
        order = self.order
        if order is None:
            return
        doing = self._bench.job.doing
        self.answered.emit(work.headline(order, doing), work.standing(order, doing))

    def _show(self) -> None:
        order, job, catalogue = self.order, self._bench.job, self._bench.catalogue
        if order is None:
            return
        self.tell()
        if job.doing.written is None:
            self._middle.setCurrentWidget(self._plan_scroll)
        self._want_aids(order)
        planning = self._middle.currentWidget() is self._plan_scroll
        self._show_plan(job)
        self.side.show_side(side(job, order, self.working.picked(), catalogue, self.working.proof), _sheet_title(job))
        self._show_steps(order, job)
        self._show_card(order, planning)
        self.foot.setText(work.power_line(order) if job.doing.written is not None else "")
        self.more.setText(
            _("Back to the steps") if planning and job.doing.written is not None else _("Change the order")
        )
        self.more.setVisible(job.doing.written is not None)
        self.print.setEnabled(job.doing.written is not None)

    def _want_aids(self, order: Order) -> None:
        line = order.now
        if line is None or self._bench.job.doing.written is None:
            return
        question = self.working.asked(line, order)
        if self._bench.store.knows(question):
            if self.asked.busy:
                self.asked.stop()
        elif not self.asked.busy or self._asked_of != question.key:
            self._asked_of = question.key
            self.asked.ask(at_hand(self._bench.store, question))

    def _show_plan(self, job: Job) -> None:
        told = job.doing.failed_after_min
        known = self.working.proof.failed_after
        text = f"{told:g} min" if told is not None else f"{known:.0f} min" if known is not None else ""
        self.plan.show_plan(plan_view(job, self._bench.catalogue, self.working.picked()), text)

    def _show_steps(self, order: Order, job: Job) -> None:
        shown = self._index(order)
        written = job.doing.written is not None
        self.list.show_rows(rows(order, self._bench.catalogue, written=written), str(shown) if written else "")
        known = self._bench.catalogue.procedures
        works = [known[key].label for key in self.working.picked() if key in known]
        self.head.setText(" + ".join(works))
        self.head.setToolTip(self.head.text())
        self.aside.setText(_("{time} left").format(time=work.minutes(order.minutes_left)) if works else "")

    def _index(self, order: Order) -> int:
        if self._shown is not None and self._shown < len(order.lines):
            return self._shown
        now = order.now
        return order.lines.index(now) if now is not None else max(len(order.lines) - 1, 0)

    def _show_card(self, order: Order, planning: bool) -> None:
        job, catalogue = self._bench.job, self._bench.catalogue
        states = self._states()
        told = work.verdict(order, job.doing, states, catalogue)
        self.verdict.show_verdict(told)
        view = None
        if job.doing.written is not None and order.lines:
            index = self._index(order)
            line = order.lines[index]
            aids = self.working.aids(line) if line.status == "now" else None
            now = self.working.now_s(line) if line.status == "now" else None
            wanted = expected(job, self.working.values, self.working.front_mm, catalogue, self.working.proof)
            view = card(
                order, index, job, catalogue, states if line.status == "now" else [], aids or Aids(), now, wanted
            )
            self.card.show_card(view)
        self._show_arrow(order, states, planning)
        self._show_ladder(view)
        self._choose_span(view)

    def _show_arrow(self, order: Order, states: list[GateState], planning: bool) -> None:
        button, written = self.verdict.button, self._bench.job.doing.written is not None
        line = order.now
        if planning:
            button.show_text(
                _("Back to the steps") if written else _("Write the order"), held=not self.working.picked()
            )
        elif line is None:
            button.show_text(_("Report"), held=False)
        elif self._shown is not None:
            button.show_text(_("Back to step {number}").format(number=order.number), held=False)
        else:
            closed = [one for one in states if not one.open]
            first = next((one for one in closed if one.why.value != "tick"), closed[0] if closed else None)
            text = work.short_held(first) if first is not None else line.exits[0].label
            button.show_text(text, held=first is not None)

    def _show_ladder(self, view: CardView | None) -> None:
        if view is not None and view.hold is not None and view.hold.touch:
            title = _("Touch limit {goal:.0f} °C, cooling").format(goal=view.hold.goal)
            self.ladder.show_view(ladder_of_hold(view.hold, title))
        elif view is not None:
            self.ladder.show_view(ladder_of_last(self._bench.job, view))
        elif self._bench.found is not None:
            self.ladder.show_view(ladder(self._bench.found))

    def _choose_span(self, view: CardView | None) -> None:
        """The span in which a step happens, when it comes up: heating goes beyond what is looked at for a touch."""
        key = view.key if view is not None and view.hold is not None else ""
        if key and key != self._spanned and view is not None and view.hold is not None:
            self._spanned = key
            self.column.set_span(Span.COOL if view.hold.touch else Span.FULL)

    def _tick_along(self) -> None:
        """A second later: waits run on, whatever is done to the computer's clock."""
        if (by := self.working.clock.jump()) != 0.0:
            self._bench.told.emit(work.clock_set(by))
        line = self._line
        if line is None or self._middle.currentWidget() is not self._card_scroll:
            return
        if any(gate.kind != "tick" for gate in line.step.gates) and self._bench.job.doing.written is not None:
            order = self.order
            if order is not None:
                self._show_card(order, planning=False)

    # what is done

    def _look_at(self, key: str) -> None:
        order = self.order
        if order is None or not key.isdigit():
            return
        index = int(key)
        now = order.now
        self._shown = None if now is not None and index < len(order.lines) and order.lines[index] is now else index
        self._middle.setCurrentWidget(self._card_scroll)
        self._show()

    def step_by(self, by: int) -> None:
        """The step after or before the one that is shown."""
        order = self.order
        if order is not None and order.lines:
            self._look_at(str(min(max(self._index(order) + by, 0), len(order.lines) - 1)))

    def go_on(self) -> None:
        """The arrow: write the order, be done with the step as hoped, or on to the report."""
        line = self._line
        if self._middle.currentWidget() is self._plan_scroll:
            if self._bench.job.doing.written is not None or self.working.write():
                self._middle.setCurrentWidget(self._card_scroll)
                self._shown = None
                self._show()
        elif line is None:
            self.print_wanted.emit()
        elif not self.verdict.button.isEnabled():
            return
        elif self._shown is not None:
            self._look_at(str(self._index_of_now()))
        else:
            self.leave(line.exits[0].key)

    def _index_of_now(self) -> int:
        order = self.order
        return order.lines.index(order.now) if order is not None and order.now is not None else 0

    def leave(self, exit_key: str) -> None:
        """Be done with the step at hand."""
        line = self._line
        if line is not None:
            self._settle_fields()
            if self.working.leave(line, exit_key):
                self._shown = None
                self._show()
                self._list_scroll.ensureVisible(0, self.list.place_of(str(self._index_of_now())).center().y(), 0, 90)

    def _settle_fields(self) -> None:
        """What stands typed in a field counts, though nobody pressed Enter."""
        for field in self.card.fields.values():
            if field.hasFocus():
                field.clearFocus()

    def _note(self, key: str, text: str) -> None:
        line = self._line
        if (
            line is not None
            and self.card.view is not None
            and self.card.view.live
            and not self.working.note(line, key, text)
        ):
            self.card.mark_wrong(key, _("Refused: see the line at the top right."))

    def _read(self, text: str, way: str) -> None:
        line = self._line
        if line is not None and self.working.read(line, text, way):
            self.card.reading_taken()

    def enter(self, text: str) -> bool:
        """Log what was typed as a reading, where the step waits for one; False: it is something else."""
        line = self._line
        if line is None or not text.strip()[:1].isdigit() or self._middle.currentWidget() is not self._card_scroll:
            return False
        if not any(gate.kind in ("cool", "reach") for gate in line.step.gates):
            return False
        return self.working.read(line, text, "probe")

    def _open_photo(self, key: str) -> None:
        """Look at a photograph of the step that is shown."""
        order = self.order
        if order is not None and order.lines:
            self.asks.open_photograph(order.lines[self._index(order)], key)

    def take_photo(self, path: Path) -> bool:
        """A photograph dropped on the window goes with the step at hand; False where it wants none."""
        line = self._line
        return line is not None and self.asks.take_photograph(line, path)

    def _turn_plan(self) -> None:
        planning = self._middle.currentWidget() is self._plan_scroll
        self._middle.setCurrentWidget(self._card_scroll if planning else self._plan_scroll)
        self._show()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and event.key() in (Qt.Key.Key_Left, Qt.Key.Key_Right):
            self.step_by(1 if event.key() == Qt.Key.Key_Right else -1)
            return
        super().keyPressEvent(event)

    # looks

    def refresh(self) -> None:
        """Take up the theme."""
        self.column.refresh()
        t = theme.tokens()
        self.head.setFont(theme.font(14, 700))
        self.aside.setFont(theme.font(12))
        self.aside.setStyleSheet(f"color: {t.soft};")
        self.probe_line.setFont(theme.font(13, 600))
        self.probe_line.setStyleSheet(f"color: {t.meas};")
        self.foot.setFont(theme.font(13, 600))
        for button in (self.drawer, self.more, self.print):
            button.setFont(theme.font(13))
        self._side_scroll.setStyleSheet(f"QScrollArea {{ border-left: 1px solid {t.line}; }}")
        self._steps.setStyleSheet(f"QWidget#page {{ border-right: 1px solid {t.line}; }}")
        self._fold(self.width() < theme.scaled(NARROW))
        if self.isVisible():
            self._show()

    def _fold(self, narrow: bool) -> None:
        """Where there is little room, parts and sheet are a drawer in the middle's place."""
        self._steps.setFixedWidth(theme.scaled(LIST_NARROW if narrow else LIST_WIDE))
        self.drawer.setVisible(narrow)
        open_drawer = narrow and self.drawer.isChecked()
        self._side_scroll.setVisible(not narrow or open_drawer)
        self._middle.setVisible(not open_drawer)
        self._side_scroll.setMinimumWidth(0 if narrow else theme.scaled(SIDE_WIDE))
        self._side_scroll.setMaximumWidth(16777215 if narrow else theme.scaled(SIDE_WIDE))

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        self._fold(self.width() < theme.scaled(NARROW))
        super().resizeEvent(event)

    def let_go(self) -> None:
        """Let go of the probe."""
        self._beat.stop()
        self.working.close()


def _sheet_title(job: Job) -> str:
    return f"{job.machine.split(',')[0]}, {_('job {number}').format(number=job.number)}"

"""Intake: what is known by one touch, the causes ranked by it, and the one check that tells most next."""

from __future__ import annotations

import logging
from pathlib import Path

from PyQt6.QtCore import Qt, QUrl, pyqtSignal
from PyQt6.QtGui import QDesktopServices, QResizeEvent
from PyQt6.QtWidgets import (
    QFileDialog,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QPushButton,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from zeotherm.answers.causes import Diagnosis, causes
from zeotherm.answers.executor import Rank
from zeotherm.answers.hotend import Found
from zeotherm.answers.processes import Processes
from zeotherm.core.catalogue.knowledge import HOTEND
from zeotherm.core.causes.next_check import Next, facts_to_find
from zeotherm.core.causes.ranking import Table
from zeotherm.core.machine.documents import Job
from zeotherm.core.questions import Start
from zeotherm.desk.bench import Bench
from zeotherm.desk.bridge import Asked
from zeotherm.desk.style import theme
from zeotherm.desk.viewmodels import ladder
from zeotherm.desk.views.frame import NARROW, LadderColumn, frame
from zeotherm.desk.views.intake.cause_list import CauseList
from zeotherm.desk.views.intake.check_card import CheckCard
from zeotherm.desk.views.intake.shown import ABOUT, MACHINE, IntakeView, intake, machine_change
from zeotherm.desk.widgets.chips import Chips
from zeotherm.desk.widgets.labels import Plain, Rich
from zeotherm.desk.widgets.ladder import Ladder
from zeotherm.desk.widgets.line import ElidedLine
from zeotherm.desk.widgets.tall import scrolled
from zeotherm.desk.widgets.verdict import ArrowButton, VerdictBand
from zeotherm.wording.causes import OHM_NAMES
from zeotherm.wording.entry import ColdOhms, measured
from zeotherm.wording.language import _

log = logging.getLogger(__name__)


class OhmsPanel(QWidget):
    """Meter readings of heater, sensor and bed, power off, with what is expected."""

    def __init__(self, bench: Bench, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._bench = bench
        self.head = Plain(_("Cold ohms, power off and plugs apart"))
        self.fields: dict[str, QLineEdit] = {}
        self.findings: dict[str, QLabel] = {}
        grid = QGridLayout(self)
        grid.setContentsMargins(16, 8, 10, 8)
        grid.setVerticalSpacing(3)
        grid.addWidget(self.head, 0, 0, 1, 2)
        for row, (what, name) in enumerate(OHM_NAMES.items()):
            field, finding = QLineEdit(), Plain()
            field.setPlaceholderText(_("Ω"))
            field.setAccessibleName(_("{name}, ohms cold").format(name=name))
            field.returnPressed.connect(lambda what=what: self._enter(what))
            finding.setWordWrap(True)
            grid.addWidget(Plain(name), 2 * row + 1, 0)
            grid.addWidget(field, 2 * row + 1, 1)
            grid.addWidget(finding, 2 * row + 2, 0, 1, 2)
            self.fields[what], self.findings[what] = field, finding

    def show_findings(self, findings: tuple[tuple[str, str, str], ...]) -> None:
        """What is measured, its value, and what that tells."""
        for what, value, text in findings:
            self.findings[what].setText(text)
            if not self.fields[what].hasFocus():
                self.fields[what].setText(value)

    def _enter(self, what: str) -> None:
        text = self.fields[what].text().strip()
        if not text:
            self._bench.tell_ohms(what, None)
            return
        meant = measured(what, text)
        if isinstance(meant, ColdOhms):
            self._bench.tell_ohms(what, meant.ohms)
        else:
            self.findings[what].setText(meant.text)

    def refresh(self) -> None:
        """Take up the theme."""
        self.head.setFont(theme.font(13, 700))
        for finding in self.findings.values():
            finding.setFont(theme.font(12))
            finding.setStyleSheet(f"color: {theme.tokens().soft};")


class IntakePage(QWidget):
    """Facts, causes and the next check of the job on the bench."""

    answered = pyqtSignal(str, object)  # in a few words, with its State
    fact_wanted = pyqtSignal(str)  # of the machine, by key

    def __init__(self, bench: Bench, processes: Processes, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("page")
        self.setFocusPolicy(Qt.FocusPolicy.ClickFocus)
        self._bench = bench
        self._processes = processes
        self._start: Start[Table] = Start()
        self.asked = Asked(bench.executor, Rank.ASKED, self)
        self._diagnosis: Diagnosis | None = None
        self._wanted = ""
        self._seen = False
        self.ladder = Ladder()
        self.column = LadderColumn(self.ladder)
        self.verdict = VerdictBand(ArrowButton(_("Explain"), _("F4")))
        self.chips, self.causes, self.card = Chips(), CauseList(), CheckCard()
        self.ohms = OhmsPanel(bench)
        self.settings = Plain()
        self.settings.setWordWrap(True)
        self.attach = QPushButton(_("Attach a photo or a file"))
        self.attached = Rich()
        self.attached.setWordWrap(True)
        self.settle = QPushButton()
        self.count = QPushButton(_("Count the shop's own jobs"))
        self.count.setCheckable(True)
        self.heads = {name: Plain(text) for name, text in HEADS.items()}
        self.foot = ElidedLine()
        self._scrolls: list[QScrollArea] = []
        self._lay_out()
        self._connect()
        self.refresh()

    def _lay_out(self) -> None:
        facts = QWidget()
        facts.setObjectName("page")
        left = QVBoxLayout(facts)
        left.setContentsMargins(0, 0, 0, 8)
        left.setSpacing(2)
        left.addLayout(_head_row(self.heads["known"], self.heads["told"]))
        left.addWidget(self.chips)
        for widget in (self.settings, self.attach, self.attached):
            row = QHBoxLayout()
            row.setContentsMargins(16, 3, 10, 3)
            row.addWidget(widget, 1)
            left.addLayout(row)
        left.addWidget(self.ohms)
        left.addStretch()
        middle = QWidget()
        middle.setObjectName("page")
        stack = QVBoxLayout(middle)
        stack.setContentsMargins(0, 0, 0, 8)
        stack.setSpacing(2)
        stack.addLayout(_head_row(self.heads["causes"], self.heads["sum"]))
        stack.addWidget(self.causes, 1)
        row = QHBoxLayout()
        row.setContentsMargins(12, 6, 12, 2)
        row.addWidget(self.settle, 1)
        row.addWidget(self.count, 1)
        stack.addLayout(row)
        tight = (*facts.findChildren(QLabel), *middle.findChildren(QLabel), self.settle, self.count, self.attach)
        for narrow in (*tight, *self.ohms.fields.values()):
            narrow.setMinimumWidth(1)  # the columns are as wide as the window lets them be
        columns = QHBoxLayout()
        columns.setSpacing(0)
        right = QWidget()
        right.setObjectName("page")
        beside = QVBoxLayout(right)
        beside.setContentsMargins(0, 0, 0, 8)
        beside.addWidget(self.card)
        beside.addStretch(1)
        for index, page in enumerate((facts, middle, right)):
            scroll = scrolled(page)
            self._scrolls.append(scroll)
            columns.addWidget(scroll, 1 if index == 1 else 0)
        self.card.setObjectName("page")
        body = QVBoxLayout()
        body.setSpacing(0)
        body.addLayout(columns, 1)
        below = QHBoxLayout()
        below.setContentsMargins(16, 4, 16, 6)
        below.addWidget(self.foot)
        body.addLayout(below)
        frame(self, self.column, self.verdict, body)

    def _connect(self) -> None:
        bench = self._bench
        bench.job_changed.connect(self._job_changed)
        bench.answered.connect(self._answered)
        self.asked.changed.connect(self._show)
        self.asked.failed.connect(self._failed)
        self.asked.busy_changed.connect(self._busy_changed)
        self.chips.activated.connect(self._tell)
        self.chips.pressed.connect(lambda key, _place: self._tell(key))
        self.card.answered.connect(bench.tell)
        self.card.read.connect(bench.read)
        self.card.skipped.connect(lambda key: bench.skip(key) if key else None)
        self.card.picked.connect(self._pick)
        self.settle.clicked.connect(self._settle)
        self.card.fact.connect(self.fact_wanted)
        self.causes.activated.connect(lambda key: bench.decide(key))
        self.count.toggled.connect(self._count)
        self.attach.clicked.connect(self._attach)
        self.attached.linkActivated.connect(self._follow)

    @property
    def diagnosis(self) -> Diagnosis | None:
        """What is known of the job's trouble."""
        return self._diagnosis

    def begin(self) -> None:
        """The view comes up: rank what is known."""
        self.count.setChecked(self._bench.counts_jobs)
        if not self._seen:  # under a style sheet, scroll areas forget their fonts when they are put into a window
            self._seen = True
            self.refresh()
        self._rank()

    def _rank(self) -> None:
        bench = self._bench
        task = causes(bench.store, self._processes, bench.job, bench.catalogue, bench.decided_jobs, self._start)
        self.asked.ask(task)

    def _job_changed(self, job: Job) -> None:
        if self._diagnosis is not None and self._diagnosis.job.number != job.number:
            self._wanted = ""
        if self.isVisible():
            self._rank()

    def _answered(self, found: Found) -> None:
        if self.isVisible():
            self.ladder.show_view(ladder(found))
            if self._diagnosis is not None and found.decided:
                self._show(self._diagnosis)

    def _facts(self, diagnosis: Diagnosis) -> tuple[Next, ...]:
        """What decides the verdict on the machine and nobody has entered: found out at the bench like any sign."""
        found = self._bench.found
        if found is None or found.job.number != diagnosis.job.number or diagnosis.job.intake.trouble != HOTEND:
            return ()
        worst = found.judged.worst
        return facts_to_find(worst.room, found.standing.of(worst.key), diagnosis.catalogue)

    def _show(self, diagnosis: Diagnosis) -> None:
        self._diagnosis = diagnosis
        view = intake(diagnosis, self._wanted, self.asked.busy, self._facts(diagnosis))
        self.verdict.show_verdict(view.verdict)
        self.answered.emit(view.brief, view.verdict.state)
        self.chips.show_groups(view.groups)
        self.heads["told"].setText(view.told)
        self.settings.setText(view.settings)
        self.attached.setText(view.attached)
        self.attached.setVisible(bool(view.attached))
        self.causes.show_causes(view.causes, view.notes)
        self.card.show_check(view.check, view.then, view.enough, view.mends)
        self.ohms.show_findings(view.ohms)
        self.foot.setText(view.progress)
        self._show_settle(view)
        if self._bench.found is not None:
            self.ladder.show_view(ladder(self._bench.found))

    def _busy_changed(self, busy: bool) -> None:
        self.verdict.set_busy(busy)
        if not busy and self._diagnosis is not None:
            self._show(self._diagnosis)

    def _failed(self, wrong: Exception) -> None:
        log.error("ranking causes failed", exc_info=wrong)
        self.foot.setText(
            _("The causes of heat could not be simulated; the ranking stands on what was told. The log says more.")
        )

    def _show_settle(self, view: IntakeView) -> None:
        if view.decided is not None:
            self.settle.setText(_("Open the question again"))
        elif view.causes:
            self.settle.setText(_("Settle on the first"))
            self.settle.setToolTip(view.causes[0].label)
        self.settle.setEnabled(bool(view.causes))

    # what is done

    def ask_next(self) -> bool:
        """Go to the question that would tell most; False where none is left."""
        diagnosis = self._diagnosis
        if diagnosis is None or not diagnosis.plan.questions:
            return False
        asked = diagnosis.plan.questions[0].key
        self.chips.focus_row(f"{asked}.{next(iter(diagnosis.catalogue.questions[asked].options))}")
        return True

    def _tell(self, key: str) -> None:
        if key.startswith(MACHINE):
            if self._diagnosis is not None:
                self._bench.find(*machine_change(key, self._diagnosis))
            return
        if key.startswith(ABOUT):
            self._bench.trouble(key.removeprefix(ABOUT))
            return
        asked, _dot, option = key.partition(".")
        if option:
            self._bench.tell(asked, option)

    def _pick(self, key: str) -> None:
        self._wanted = key
        if self._diagnosis is not None:
            self._show(self._diagnosis)

    def _settle(self) -> None:
        diagnosis = self._diagnosis
        if diagnosis is None:
            return
        self._bench.decide(None if diagnosis.job.intake.decided else diagnosis.ranking.first.key)

    def _count(self, on: bool) -> None:
        if on != self._bench.counts_jobs:
            self._bench.count_jobs(on)

    def _attach(self) -> None:
        name, _kind = QFileDialog.getOpenFileName(self, _("Attach a photo or a file"))
        if name:
            self._bench.attach(Path(name))

    def _follow(self, link: str) -> None:
        """Open an attached file, or take it off."""
        what, _colon, digest = link.partition(":")
        if what == "off":
            self._bench.detach(digest)
            return
        attachment = next((one for one in self._bench.job.intake.attachments if one.digest == digest), None)
        path = self._bench.unpack(attachment) if attachment is not None else None
        if path is not None:
            QDesktopServices.openUrl(QUrl.fromLocalFile(str(path)))

    def refresh(self) -> None:
        """Take up the theme."""
        self.column.refresh()
        self.card.refresh()
        self.ohms.refresh()
        t = theme.tokens()
        for name, head in self.heads.items():
            main = name in ("known", "causes")
            head.setStyleSheet("" if main else f"color: {t.soft};")
            head.setFont(theme.font(14, 700) if main else theme.font(12))
        for label in (self.settings, self.attached):
            label.setStyleSheet(f"color: {t.soft};")
            label.setFont(theme.font(12))
        for button in (self.settle, self.count, self.attach):
            button.setFont(theme.font(13))
        self.foot.setFont(theme.font(12, 600))
        self.chips.update()
        if self._diagnosis is not None:
            self._show(self._diagnosis)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        narrow = self.width() < theme.scaled(NARROW)
        self._scrolls[0].setFixedWidth(theme.scaled(230 if narrow else 298))
        self._scrolls[2].setFixedWidth(theme.scaled(268 if narrow else 320))
        super().resizeEvent(event)


HEADS = {
    "known": _("What is known"), "told": "", "causes": _("Causes, most likely first"), "sum": _("sum to 100 %"),
}  # fmt: skip


def _head_row(left: QLabel, right: QLabel) -> QHBoxLayout:
    row = QHBoxLayout()
    row.setContentsMargins(16, 8, 12, 2)
    row.addWidget(left)
    row.addStretch()
    row.addWidget(right)
    return row

"""Jobs: every job by its verdict line, and the sore spots of all on one ladder."""

from __future__ import annotations

from markupsafe import Markup
from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QResizeEvent
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QPushButton, QScrollArea, QVBoxLayout, QWidget

from zeotherm.answers.hotend import OtherJob
from zeotherm.core.judgement.margins import State
from zeotherm.desk.bench import Bench
from zeotherm.desk.style import theme
from zeotherm.desk.viewmodels import JobRow, job_row, sore_spots
from zeotherm.desk.views.frame import NARROW, LadderColumn, frame
from zeotherm.desk.widgets.job_list import JobList
from zeotherm.desk.widgets.labels import Plain, Rich
from zeotherm.desk.widgets.ladder import Ladder
from zeotherm.desk.widgets.verdict import ArrowButton, VerdictBand
from zeotherm.shop.papers.report import facts
from zeotherm.wording.language import _
from zeotherm.wording.verdict import Verdict


class JobsView(QWidget):
    """The list of jobs; `opened` when one is wanted on the bench."""

    opened = pyqtSignal(int)
    new_wanted = pyqtSignal()
    import_wanted = pyqtSignal()
    export_wanted = pyqtSignal()
    describe_wanted = pyqtSignal()

    def __init__(self, bench: Bench, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("page")
        self._bench = bench
        self._others: list[OtherJob] = []
        self.ladder = Ladder()
        self.column = LadderColumn(self.ladder)
        self.verdict = VerdictBand(ArrowButton(_("Open on the bench"), _("Enter")))
        self.list = JobList()
        self.about = Rich()
        self.about.setWordWrap(True)
        self.about.setAlignment(Qt.AlignmentFlag.AlignTop)
        self.buttons = {
            _("New job"): self.new_wanted, _("Import"): self.import_wanted, _("Export"): self.export_wanted,
            _("Describe"): self.describe_wanted,
        }  # fmt: skip
        self._lay_out()
        bench.listed.connect(self.show_jobs)
        self.list.chosen.connect(self._about_chosen)
        self.list.activated.connect(lambda key: self.opened.emit(int(key)))
        self.ladder.activated.connect(lambda key: self.opened.emit(int(key)))
        self.verdict.button.clicked.connect(self.open_chosen)
        self.refresh()

    def _lay_out(self) -> None:
        scroll = QScrollArea()
        scroll.setWidget(self.list)
        scroll.setWidgetResizable(True)
        scroll.setFrameShape(QFrame.Shape.NoFrame)
        scroll.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self._head = Plain(_("Jobs"))
        bar = QHBoxLayout()
        bar.setContentsMargins(20, 8, 16, 4)
        bar.addWidget(self._head)
        bar.addStretch()
        bar.setSpacing(8)
        for text, wanted in self.buttons.items():
            button = QPushButton(text)
            button.clicked.connect(wanted)
            bar.addWidget(button)
        left = QVBoxLayout()
        left.setSpacing(0)
        left.addLayout(bar)
        left.addWidget(scroll, 1)
        self._side = side = QScrollArea()
        side.setWidget(self.about)
        side.setWidgetResizable(True)
        side.setFrameShape(QFrame.Shape.NoFrame)
        side.setFixedWidth(330)
        self._rule = QFrame()
        self._rule.setFixedWidth(1)
        body = QHBoxLayout()
        body.setSpacing(0)
        body.addLayout(left, 1)
        body.addWidget(self._rule)
        body.addWidget(side)
        frame(self, self.column, self.verdict, body)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        self._side.setVisible(self.width() >= theme.scaled(NARROW))
        super().resizeEvent(event)

    def refresh(self) -> None:
        """Take up the theme."""
        self.column.refresh()
        self._head.setFont(theme.font(14, 700))
        self.about.setFont(theme.font(13))
        self.about.setContentsMargins(16, 12, 16, 12)
        self._rule.setStyleSheet(f"background: {theme.tokens().line};")
        self.show_jobs(self._others)

    def show_jobs(self, others: list[OtherJob]) -> None:
        self._others = others
        rows = tuple(sorted((job_row(other) for other in others), key=_order))
        self.list.show_rows(rows, self._bench.key)
        self.ladder.show_view(sore_spots(others))
        self.verdict.show_verdict(_summary(rows))
        self._about_chosen(str(self._bench.key))

    def open_chosen(self) -> None:
        key = self.list.chosen_key
        if key is not None:
            self.opened.emit(key)

    def _about_chosen(self, key: str) -> None:
        other = next((item for item in self._others if str(item.key) == key), None)
        if other is None:
            self.about.setText("")
            return
        row = Markup('<tr><td style="color:{};padding-right:12px;padding-bottom:4px">{}</td><td>{}</td></tr>')
        known = facts(other.job, other.answer) if other.answer else []
        rows = Markup("").join(row.format(theme.tokens().soft, one.label, one.trial or one.found) for one in known)
        self.about.setText(
            Markup("<p><b>{}</b></p><p>{}</p><p><b>{}</b></p><table>{}</table>").format(
                other.job.machine,
                other.job.complaint or _("Nothing written down yet."),
                _("What the bench knows"),
                rows,
            )
        )


def _order(row: JobRow) -> tuple[int, float]:
    rank = {State.OVER: 0, State.SHORT: 0, State.CLOSE: 1, State.CLEAR: 2, State.UNKNOWN: 3}
    return rank[row.state], row.bar


def _summary(rows: tuple[JobRow, ...]) -> Verdict:
    bad = [row for row in rows if row.state.bad]
    if not rows:
        return Verdict(_("No jobs yet"), _("Make one, or import one from a file."), State.UNKNOWN)
    if not bad:
        return Verdict(
            _("No job is past a limit"), _("{count} jobs on the bench.").format(count=len(rows)), rows[0].state
        )
    names = [row.machine.split(",")[0] for row in bad]
    listed = _("{first} and {last}").format(first=", ".join(names[:-1]), last=names[-1]) if len(names) > 1 else names[0]
    return Verdict(
        _("Past a limit: {names}").format(names=listed),
        _("Worst first; Enter puts the boxed job on the bench."),
        bad[0].state,
    )

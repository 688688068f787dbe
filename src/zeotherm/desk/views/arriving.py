"""A new job: what is wrong or wanted, the nearest machine, one reading; any of them, in any order."""

from __future__ import annotations

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QResizeEvent, QShowEvent
from PyQt6.QtWidgets import QFrame, QGridLayout, QHBoxLayout, QLineEdit, QPushButton, QVBoxLayout, QWidget

from zeotherm.answers.executor import Rank
from zeotherm.core.catalogue.arrivals import Complaint, FirstReading
from zeotherm.core.judgement.margins import State
from zeotherm.core.judgement.standing import standing
from zeotherm.core.machine.documents import Job
from zeotherm.desk.bench import Bench
from zeotherm.desk.bridge import Asked
from zeotherm.desk.qt import put_on
from zeotherm.desk.style import theme
from zeotherm.desk.viewmodels import LadderView
from zeotherm.desk.views.frame import NARROW, LadderColumn, frame
from zeotherm.desk.widgets.labels import Plain
from zeotherm.desk.widgets.ladder import Ladder
from zeotherm.desk.widgets.levers import DropField
from zeotherm.desk.widgets.machine_tile import MachineTile
from zeotherm.desk.widgets.tall import TallScroll
from zeotherm.desk.widgets.verdict import ArrowButton, VerdictBand
from zeotherm.shop.editing.arriving import Incoming, first_job, number, typed
from zeotherm.shop.editing.edits import RefusedError
from zeotherm.wording.entry import SetupChange, Unclear, Understood, understand
from zeotherm.wording.language import _
from zeotherm.wording.standing import assumed
from zeotherm.wording.verdict import Verdict

GROUPS = {
    "hotend": _("Hotend"), "bed": _("Bed"), "enclosure": _("Enclosure"), "wiring": _("Electronics, wiring"),
    "print": _("Print"), "wish": _("Wanted"),
}  # fmt: skip
SIDE = 236


class ArrivingPage(QWidget):
    """What is told of a machine that comes in; `begun` with the job that it makes."""

    begun = pyqtSignal(object, object)  # Job, Incoming

    def __init__(self, bench: Bench, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("page")
        self._bench = bench
        self.arrival = Incoming()
        self.ladder = Ladder()
        self.column = LadderColumn(self.ladder)
        self.verdict = VerdictBand(ArrowButton(_("First answer"), _("Enter")))
        catalogue = bench.catalogue
        self.chips = {key: self._chip(key, one) for key, one in catalogue.complaints.items()}
        self.tiles = {key: MachineTile(one) for key, one in catalogue.machines.items()}
        self.fields = {key: self._field(key, one) for key, one in catalogue.first_readings.items()}
        self.known = DropField()
        self.known.setAccessibleName(_("A machine this shop knows"))
        self.known.setMinimumContentsLength(18)
        self.known.setToolTip(_("It brings its facts along; the parts of the nearest kind are assumed."))
        self._known: dict[str, Job] = {}
        self._reader = Asked(bench.executor, Rank.LIST, self)
        self._reader.changed.connect(self._list_known)
        self.so_far = Plain()
        self.so_far.setWordWrap(True)
        self.so_far.setAlignment(Qt.AlignmentFlag.AlignTop)
        self._heads: list[Plain] = []
        self._asides: list[Plain] = []
        self._lay_out()
        for key, tile in self.tiles.items():
            tile.clicked.connect(lambda _on=False, key=key: self._take(self.arrival.nearest(key)))
        self.known.activated.connect(self._pick_known)
        self.verdict.button.clicked.connect(self.begin)
        self.refresh()

    # parts of the page

    def _chip(self, key: str, one: Complaint) -> QPushButton:
        chip = QPushButton(f"{one.code.upper()} {one.label}")
        chip.setCheckable(True)
        chip.setAutoDefault(False)
        chip.setAccessibleName(f"{GROUPS[one.group]}: {one.label}")
        chip.clicked.connect(lambda _on=False: self._take(self.arrival.touched(key)))
        return chip

    def _field(self, key: str, one: FirstReading) -> QLineEdit:
        field = QLineEdit()
        field.setAlignment(Qt.AlignmentFlag.AlignRight)
        field.setPlaceholderText(f"– {one.unit}")
        field.setAccessibleName(one.label)
        field.editingFinished.connect(lambda: self._typed_reading(key))
        return field

    def _head(self, text: str, aside: str) -> QHBoxLayout:
        head, beside = Plain(text), Plain(aside)
        self._heads.append(head)
        self._asides.append(beside)
        row = QHBoxLayout()
        row.addWidget(head)
        row.addStretch()
        row.addWidget(beside)
        return row

    def _lay_out(self) -> None:
        catalogue = self._bench.catalogue
        left = QVBoxLayout()
        left.setContentsMargins(20, 10, 16, 8)
        left.setSpacing(5)
        left.addLayout(self._head(_("1  What is wrong, or wanted?"), _("one or more, any part")))
        chips = QGridLayout()
        chips.setHorizontalSpacing(6)
        chips.setVerticalSpacing(5)
        for at, (group, label) in enumerate(GROUPS.items()):
            name = Plain(label)
            self._asides.append(name)
            chips.addWidget(name, at, 0)
            line = QHBoxLayout()
            line.setSpacing(6)
            for key, one in catalogue.complaints.items():
                if one.group == group:
                    line.addWidget(self.chips[key])
            line.addStretch()
            chips.addLayout(line, at, 1)
        chips.setColumnStretch(1, 1)
        left.addLayout(chips)
        nearest = self._head(_("2  Which machine is nearest?"), _("or one that this shop knows"))
        nearest.addWidget(self.known)
        left.addLayout(nearest)
        tiles = QHBoxLayout()
        tiles.setSpacing(4)
        for tile in self.tiles.values():
            tiles.addWidget(tile, 1)
        left.addLayout(tiles, 1)
        left.addLayout(self._head(_("3  One reading, if you have one"), _("what it tells")))
        readings = QGridLayout()
        readings.setHorizontalSpacing(10)
        readings.setVerticalSpacing(4)
        for at, (key, about) in enumerate(catalogue.first_readings.items()):
            words, tells = Plain(f"{about.code.upper()}  {about.label}"), Plain(about.tells)
            self._asides += [words, tells]
            readings.addWidget(words, at, 0)
            readings.addWidget(self.fields[key], at, 1)
            readings.addWidget(tells, at, 2)
        readings.setColumnStretch(2, 1)
        left.addLayout(readings)
        left.addStretch(0)
        content = QWidget()
        content.setObjectName("page")
        content.setLayout(left)
        side = QVBoxLayout()
        side.setContentsMargins(16, 10, 16, 8)
        side.addLayout(self._head(_("So far"), ""))
        side.addWidget(self.so_far, 1)
        self._side = QWidget()
        self._side.setLayout(side)
        self._side.setFixedWidth(theme.scaled(SIDE))
        self._rule = QFrame()
        self._rule.setFixedWidth(1)
        body = QHBoxLayout()
        body.setSpacing(0)
        body.addWidget(TallScroll(content), 1)
        body.addWidget(self._rule)
        body.addWidget(self._side)
        frame(self, self.column, self.verdict, body)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        narrow = self.width() < theme.scaled(NARROW)
        self._side.setVisible(not narrow)
        self._rule.setVisible(not narrow)
        super().resizeEvent(event)

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        next(iter(self.chips.values())).setFocus(Qt.FocusReason.OtherFocusReason)

    def refresh(self) -> None:
        """Take up the theme."""
        self.column.refresh()
        for head in self._heads:
            head.setFont(theme.font(14, 700))
        for aside in self._asides:
            aside.setFont(theme.font(12))
        for chip in self.chips.values():
            chip.setFont(theme.font(13))
        for field in self.fields.values():
            field.setFont(theme.font(14, 600))
            field.setFixedWidth(theme.scaled(110))
        self.known.setFont(theme.font(13))
        self.so_far.setFont(theme.font(13))
        self._rule.setStyleSheet(f"background: {theme.tokens().line};")
        self.ladder.show_view(LadderView(_("No parts yet, only the scale"), (), None, ()))
        self.tell()

    # what is told

    def clear(self) -> None:
        """Begin with nothing told."""
        self._list_known(())
        self._reader.ask(lambda _cancelled: iter((self._bench.other_machines(),)))
        for field in self.fields.values():
            field.clear()
            put_on(field, "wrong", False)
        self._take(Incoming())

    def _list_known(self, others: tuple[Job, ...]) -> None:
        """The machines that the shop knows, by name."""
        here = () if self._bench.blank else (self._bench.job,)
        self._known = {job.machine: job for job in sorted((*here, *others), key=lambda job: job.machine)}
        self.known.clear()
        self.known.addItem(_("None of them"), "")
        for name in self._known:
            self.known.addItem(name, name)

    def _pick_known(self, index: int) -> None:
        job = self._known.get(str(self.known.itemData(index)))
        self._take(Incoming(self.arrival.complaints, "", self.arrival.readings, job, self.arrival.lines))

    def _typed_reading(self, key: str) -> None:
        field = self.fields[key]
        text = field.text().strip()
        try:
            told = self.arrival.read(key, number(text) if text else None)
            first_job(told, "0", self._bench.catalogue)
        except RefusedError as wrong:
            put_on(field, "wrong", True)
            self._bench.told.emit(str(wrong))
            return
        put_on(field, "wrong", False)
        self._take(told)

    def understood(self, line: str) -> Understood:
        """What a line means on this page: codes, or plain words about the machine."""
        try:
            told = typed(self.arrival, line, self._bench.catalogue)
            if told is not None:
                first_job(told, "0", self._bench.catalogue)
                return SetupChange({}, self._summary(told).replace("\n", "; "))
        except RefusedError as wrong:
            return Unclear(str(wrong))
        begun = first_job(self.arrival, "0", self._bench.catalogue)
        return understand(line, begun.found, self._bench.catalogue)

    def enter(self, line: str) -> bool:
        """Take what a line says; False when it was refused."""
        try:
            told = typed(self.arrival, line, self._bench.catalogue) or self.arrival.said(line)
            first_job(told, "0", self._bench.catalogue)
        except RefusedError as wrong:
            self._bench.told.emit(str(wrong))
            return False
        self._take(told)
        return True

    def _take(self, arrival: Incoming) -> None:
        self.arrival = arrival
        for key, chip in self.chips.items():
            chip.setChecked(key in arrival.complaints)
        for key, tile in self.tiles.items():
            tile.setChecked(key == arrival.machine)
        for key, field in self.fields.items():
            if not field.hasFocus():
                field.setText(f"{arrival.readings[key]:g}" if key in arrival.readings else "")
        if arrival.known is None:
            self.known.setCurrentIndex(0)
        self.tell()

    def tell(self) -> None:
        """Show what is told so far, and what comes of it."""
        arrival = self.arrival
        self.verdict.button.show_text(_("First answer"), held=arrival.empty)
        self.so_far.setText(self._summary(arrival))
        first = [self._bench.catalogue.complaints[key].first for key in arrival.complaints]
        danger = next((text for text in first if text), "")
        if danger:
            self.verdict.show_verdict(Verdict(danger.partition(".")[0], danger.partition(". ")[2], State.OVER))
            return
        told = Verdict(
            _("What comes in?"),
            _("Two touches give a first answer. Start anywhere, skip what you cannot tell. Codes: h2 m3 r1 9.1"),
            State.UNKNOWN, _("Two touches give a first answer. Codes: h2 m3 r1 9.1"),
        )  # fmt: skip
        self.verdict.show_verdict(told)

    def _summary(self, arrival: Incoming) -> str:
        catalogue = self._bench.catalogue
        if arrival.empty:
            return _("Nothing entered yet. Everything is assumed.")
        lines = [catalogue.complaints[key].label for key in arrival.complaints]
        if arrival.known is not None:
            lines.append(_("{machine}, as this shop knows it").format(machine=arrival.known.machine))
        elif arrival.machine:
            kind = catalogue.machines[arrival.machine]
            lines.append(_("Nearest: {label}, {below}").format(label=kind.label.lower(), below=kind.below))
        for key, value in arrival.readings.items():
            about = catalogue.first_readings[key]
            lines.append(f"{about.label}: {value:g} {about.unit}")
        lines += arrival.lines
        job = first_job(arrival, "0", catalogue)
        return "\n".join([*lines, assumed(standing(job, "hotend", catalogue))])

    def begin(self) -> None:
        """Begin the job."""
        if any(field.property("wrong") for field in self.fields.values()):
            self._bench.told.emit(_("Correct the reading that is marked, or empty its field."))
            return
        if self.arrival.empty:
            return
        try:
            job = first_job(self.arrival, self._bench.next_number, self._bench.catalogue)
        except RefusedError as wrong:
            self._bench.told.emit(str(wrong))
            return
        self.begun.emit(job, self.arrival)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.begin()
            return
        super().keyPressEvent(event)

"""The step at hand: what to do, what hurts, what must be confirmed, read and noted, and how it ended."""

from __future__ import annotations

from markupsafe import Markup
from PyQt6.QtCore import QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QPainter, QPaintEvent
from PyQt6.QtWidgets import (
    QApplication,
    QCheckBox,
    QComboBox,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QLayout,
    QLineEdit,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from zeotherm.core.catalogue.procedures import Record
from zeotherm.desk.qt import put_on
from zeotherm.desk.style import theme
from zeotherm.desk.style.shapes import draw_hazard
from zeotherm.desk.views.do.hold_plot import HoldPlot
from zeotherm.desk.views.do.shown import CardView
from zeotherm.desk.widgets.cautions import WORDS
from zeotherm.desk.widgets.labels import Plain, Rich
from zeotherm.wording.language import _
from zeotherm.wording.work import WAYS

LONG = 26  # characters from which a field's name is wrapped


class CautionBox(QWidget):
    """One caution, in its place."""

    def __init__(self, sign: str, text: str, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._sign = sign
        template = Markup('<b style="color:{}">{}</b><br>{}')
        label = Rich(template.format(theme.tokens().close, WORDS[sign], text))
        label.setWordWrap(True)
        label.setFont(theme.font(13))
        self.setAccessibleName(f"{WORDS[sign]}: {text}")
        row = QHBoxLayout(self)
        row.setContentsMargins(50, 8, 12, 9)
        row.addWidget(label)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        t = theme.tokens()
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(theme.pen(t["close"], 1.4))
        painter.setBrush(t["closebg"])
        painter.drawRoundedRect(QRectF(self.rect()).adjusted(1, 1, -1, -1), 4, 4)
        draw_hazard(painter, self._sign, QRectF(12, 11, 28, 28))
        painter.end()


class StepCard(QWidget):
    """Shows a `CardView`; what is typed and pressed goes out as intents."""

    ticked = pyqtSignal(int)
    noted = pyqtSignal(str, str)  # record, text
    photo_wanted = pyqtSignal(str)  # record
    photo_opened = pyqtSignal(str)  # record
    read = pyqtSignal(str, str)  # text, way
    begun = pyqtSignal(str)  # minutes since the heat is off, as typed
    left = pyqtSignal(str)  # exit
    left_out = pyqtSignal(str)  # re-check

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._shape: object = None
        self.setFocusPolicy(Qt.FocusPolicy.ClickFocus)
        self.view: CardView | None = None
        self.title, self.target, self.text, self.wait, self.failing = (Plain() for _label in range(5))
        self.ended, self.waits, self.source = Plain(), Plain(), Plain()
        for label in (self.title, self.target, self.text, self.wait, self.failing, self.ended, self.waits):
            label.setWordWrap(True)
        self.plot = HoldPlot()
        self.reading, self.way, self.log = QLineEdit(), QComboBox(), QPushButton(_("Log"))
        self.before, self.begin = QLineEdit(), QPushButton(_("Begin the wait anew"))
        self.probe = QPushButton(_("Probe"))
        self.ticks: dict[int, QCheckBox] = {}
        self.fields: dict[str, QLineEdit | QPushButton] = {}
        self.marks: dict[str, QLabel] = {}
        self.exits: dict[str, QPushButton] = {}
        self.skip = QPushButton(_("Leave this check out"))
        self.log.setAccessibleName(_("Log the reading"))
        self.probe.setAccessibleName(_("Connect a probe"))
        self.probe.setToolTip(_("Connect a probe that reads by itself"))
        self._lay_out()
        self._connect()

    def _lay_out(self) -> None:
        self._cautions, self._gates = QVBoxLayout(), QVBoxLayout()
        self._records, self._exits = QGridLayout(), QVBoxLayout()
        self._cautions.setSpacing(6)
        self._gates.setSpacing(4)
        self._exits.setSpacing(6)
        self._records.setHorizontalSpacing(10)
        self._records.setVerticalSpacing(5)
        self._records.setColumnStretch(2, 1)
        self._hold = QWidget()
        hold = QVBoxLayout(self._hold)
        hold.setContentsMargins(0, 0, 0, 0)
        hold.addWidget(self.plot)
        self.source.setWordWrap(True)
        hold.addWidget(self.source)
        self.reading.setPlaceholderText(_("reading, °C"))
        self.reading.setAccessibleName(_("Temperature read now"))
        self.reading.setFixedWidth(theme.scaled(92))
        self.way.setAccessibleName(_("How it was read"))
        self.way.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        self.way.setMinimumContentsLength(9)
        for key, label in WAYS.items():
            self.way.addItem(label, key)
        hold.addLayout(_row(self.reading, self.way, self.log, self.probe))
        self.before_label = Plain(_("Heat off already for"))
        self.before.setFixedWidth(theme.scaled(56))
        self.before.setPlaceholderText(_("0 min"))
        self.before.setAccessibleName(_("Minutes since the heat went off"))
        hold.addLayout(_row(self.before_label, self.before, self.begin))
        stack = QVBoxLayout(self)
        stack.setContentsMargins(20, 10, 16, 14)
        stack.setSpacing(9)
        for item in (self.title, self.ended, self._hold, self.target, self.text, self.wait, self._cautions, self.waits,
                     self._gates, self._records, self._exits, self.failing, self.skip):  # fmt: skip
            if isinstance(item, QLayout):
                stack.addLayout(item)
            else:
                stack.addWidget(item)
        stack.setAlignment(self.skip, Qt.AlignmentFlag.AlignLeft)
        stack.addStretch()

    def _connect(self) -> None:
        self.log.clicked.connect(self._read)
        self.reading.returnPressed.connect(self._read)
        self.begin.clicked.connect(lambda: self.begun.emit(self.before.text()))
        self.before.returnPressed.connect(lambda: self.begun.emit(self.before.text()))
        self.skip.clicked.connect(lambda: self.left_out.emit(self.view.check if self.view is not None else ""))

    def _read(self) -> None:
        if self.reading.text().strip():
            self.read.emit(self.reading.text(), str(self.way.currentData()))

    def reading_taken(self) -> None:
        """What was typed is logged: make room for the next."""
        self.reading.clear()

    def show_card(self, view: CardView) -> None:
        """Show a step; what is being typed stays while the step is the same."""
        self.view = view
        keys = [record.key for record in view.records], [one[0] for one in view.exits]
        shape = (view.key, view.live, *keys, theme.tokens().name)
        if shape != self._shape:
            self._shape = shape
            if self.isAncestorOf(QApplication.focusWidget() or self):
                self.setFocus(Qt.FocusReason.OtherFocusReason)  # else it would wander, and a row take it for a choice
            self._build(view)
        self._fill(view)

    def _build(self, view: CardView) -> None:
        for layout in (self._cautions, self._gates, self._records, self._exits):
            _empty(layout)
        self.ticks, self.fields, self.marks, self.exits = {}, {}, {}, {}
        self.reading.clear()
        self.before.clear()
        self.way.setCurrentIndex(self.way.findData("console" if view.target else "probe"))
        for sign, text in view.cautions:
            self._cautions.addWidget(CautionBox(sign, text))
        for index, text, _on in view.gates:
            check = QCheckBox(text)
            check.setFont(theme.font(13, 500))
            check.setMinimumHeight(theme.scaled(28))
            check.setEnabled(view.live)
            check.clicked.connect(lambda _on=False, index=index: self.ticked.emit(index))
            self.ticks[index] = check
            self._gates.addWidget(check)
        for row, record in enumerate(view.records):
            self._add_record(row, record, view)
        for index, (key, label, _open, _why) in enumerate(view.exits):
            button = QPushButton(label)
            button.setMinimumHeight(theme.scaled(32))
            button.setFont(theme.font(13, 600 if index == 0 else 500))
            button.clicked.connect(lambda _on=False, key=key: self.left.emit(key))
            self.exits[key] = button
            self._exits.addWidget(button, 0, Qt.AlignmentFlag.AlignLeft)
            button.setVisible(view.live)

    def _add_record(self, row: int, record: Record, view: CardView) -> None:
        label = Plain(record.label + ("" if record.required else _(", if known")))
        label.setFont(theme.font(13))
        label.setWordWrap(len(label.text()) > LONG)
        self._records.addWidget(label, row, 0)
        field: QLineEdit | QPushButton
        if record.kind == "photo":
            field = QPushButton(_("Add a photograph"))
            field.clicked.connect(lambda _on=False, key=record.key: self._press_photo(key))
        else:
            field = QLineEdit()
            field.setMinimumWidth(theme.scaled(110))
            field.setMaximumWidth(theme.scaled(110 if record.kind == "number" else 190))
            field.setPlaceholderText(record.unit)
            field.editingFinished.connect(lambda key=record.key: self._note(key))
        field.setMinimumHeight(theme.scaled(30))
        field.setAccessibleName(record.label)
        field.setEnabled(view.live)
        self.fields[record.key] = field
        self._records.addWidget(field, row, 1)
        mark = Plain()
        mark.setFont(theme.font(12))
        mark.setWordWrap(True)
        self.marks[record.key] = mark
        self._records.addWidget(mark, row, 2)

    def _press_photo(self, key: str) -> None:
        """Look at the photograph there is, or add one."""
        known = self.view is not None and key in self.view.photos
        (self.photo_opened if known else self.photo_wanted).emit(key)

    def _note(self, key: str) -> None:
        field = self.fields.get(key)
        if (
            isinstance(field, QLineEdit)
            and self.view is not None
            and field.text().strip() != self.view.values.get(key, "")
        ):
            self.noted.emit(key, field.text())

    def mark_wrong(self, key: str, text: str) -> None:
        """A value that was refused: at its field, with what to do."""
        field, mark = self.fields.get(key), self.marks.get(key)
        if isinstance(field, QLineEdit) and mark is not None:
            put_on(field, "wrong", "true")
            mark.setText(text)
            mark.setStyleSheet(f"color: {theme.tokens().close};")

    def _fill(self, view: CardView) -> None:
        t = theme.tokens()
        self.title.setText(view.label)
        self.title.setFont(theme.font(16, 700))
        self.ended.setText(view.ended)
        self.ended.setVisible(bool(view.ended))
        self.ended.setFont(theme.font(13, 600))
        self.ended.setStyleSheet(f"color: {t.accent};")
        self.target.setText(view.target)
        self.target.setVisible(bool(view.target))
        self.target.setFont(theme.font(13, 600))
        self.text.setText(view.text)
        self.text.setFont(theme.font(14))
        self.wait.setText(view.wait)
        self.wait.setVisible(bool(view.wait))
        self.wait.setFont(theme.font(13, 600))
        self.failing.setText(_("If it goes wrong: {text}").format(text=view.failing))
        self.failing.setFont(theme.font(12))
        self.failing.setStyleSheet(f"color: {t.soft};")
        self.waits.setText("\n".join(text for text, is_open in view.waits if not is_open))
        self.waits.setVisible(any(not is_open for _text, is_open in view.waits))
        self.waits.setFont(theme.font(13, 600))
        self.waits.setStyleSheet(f"color: {t.close};")
        for index, _text, on in view.gates:
            self.ticks[index].setChecked(on)
        self._fill_records(view)
        self._fill_hold(view)
        for key, _label, is_open, why in view.exits:
            self.exits[key].setEnabled(is_open)
            self.exits[key].setToolTip(why)
        self.skip.setVisible(bool(view.check))
        self.skip.setFont(theme.font(12))

    def _fill_records(self, view: CardView) -> None:
        for record in view.records:
            field, mark = self.fields[record.key], self.marks[record.key]
            told = view.photos.get(record.key, "") if record.kind == "photo" else view.values.get(record.key, "")
            if isinstance(field, QLineEdit):
                if not field.hasFocus():
                    field.setText(told)
                put_on(field, "wrong", "false")
                hint = view.expected.get(record.key, "")
                mark.setText(f"{record.unit}   {hint}".strip() if hint else record.unit)
            else:
                field.setText(_("Look at it") if told else _("Add a photograph"))
                field.setEnabled(view.live or bool(told))
                mark.setText(told)
            mark.setStyleSheet(f"color: {theme.tokens().soft};")

    def _fill_hold(self, view: CardView) -> None:
        held = view.hold is not None
        self.plot.show_hold(view.hold)
        self.plot.setVisible(held)
        self.source.setVisible(view.hold is not None and bool(view.hold.source))
        self.source.setFont(theme.font(12))
        self.source.setStyleSheet(f"color: {theme.tokens().soft};")
        if view.hold is not None and view.hold.source:
            self.source.setText(_("Limit: {source}.").format(source=view.hold.source))
        for part in (self.reading, self.way, self.log, self.probe):
            part.setVisible(held)
            part.setFont(theme.font(13))
        cools = view.hold is not None and view.hold.touch
        self.before_label.setVisible(cools)
        self.before.setVisible(cools)
        self._hold.setVisible(held or (view.timed and view.live))
        self.begin.setText(_("Begin the wait anew") if view.begun else _("Begin the wait"))
        for widget in (self.before_label, self.before, self.begin):
            widget.setFont(theme.font(13))


def _row(*widgets: QWidget) -> QHBoxLayout:
    """Widgets side by side, from the left."""
    row = QHBoxLayout()
    for widget in widgets:
        row.addWidget(widget)
    row.addStretch()
    return row


def _empty(layout: QLayout) -> None:
    """Take everything out of a layout."""
    while layout.count():
        item = layout.takeAt(0)
        if item is not None and (widget := item.widget()) is not None:
            widget.blockSignals(True)  # a field that is hidden in use would tell what it holds, to another step
            widget.hide()
            widget.deleteLater()

"""The next best check: how, how long, what each answer would change; and the checks after it."""

from __future__ import annotations

from markupsafe import Markup
from PyQt6.QtCore import QPointF, QRect, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QFontMetrics, QPainter, QPaintEvent, QResizeEvent
from PyQt6.QtWidgets import (
    QAbstractButton,
    QFrame,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QPushButton,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)

from zeotherm.desk.style import theme
from zeotherm.desk.style.shapes import draw_hazard
from zeotherm.desk.views.intake.shown import AnswerRow, CheckView, NextRow
from zeotherm.desk.widgets.cautions import WORDS
from zeotherm.desk.widgets.labels import Plain, Rich
from zeotherm.desk.widgets.line import wrapped
from zeotherm.desk.widgets.rows import RowsWidget
from zeotherm.wording.entry import PinnedReading, reading
from zeotherm.wording.language import _

MOST_ANSWERS = 4
ANSWER, LEAD, NEXT = 48, 17, 27
TRACK = 74  # px of the bar that shows before and after


class AnswerButton(QAbstractButton):
    """One answer: its words, and what it would do to the ranking."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._row: AnswerRow | None = None
        self._label: list[str] = []
        self._leads: list[str] = []
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)

    @property
    def key(self) -> str:
        """The answer it tells."""
        return self._row.key if self._row else ""

    def show_row(self, row: AnswerRow, pressed: bool) -> None:
        """pressed: whether it may be told by pressing it."""
        self._row = row
        self.setEnabled(pressed)
        text = _("{label}: {leads} {text}").format(label=row.label, leads=row.leads, text=row.text)
        self.setText(row.label)
        self.setAccessibleName(text)
        self.setToolTip(_("{text}; {likely} likely").format(text=text, likely=row.likely))
        self._fit()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        self._fit()
        super().resizeEvent(event)

    def _fit(self) -> None:
        """As high as its words need."""
        if self._row is not None:
            room = self.width() - theme.scaled(TRACK) - 24
            self._label = wrapped(QFontMetrics(theme.font(13, 600)), self._row.label, room, 2)
            self._leads = wrapped(QFontMetrics(theme.font(12)), self._row.leads, room, 2)
            self.setFixedHeight(theme.scaled(ANSWER + LEAD * (len(self._label) + len(self._leads) - 2)))
            self.update()

    def sizeHint(self) -> QSize:
        return QSize(240, self.height())

    def paintEvent(self, event: QPaintEvent | None) -> None:
        if self._row is None:
            return
        t = theme.tokens()
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        box = QRectF(self.rect()).adjusted(1, 1, -1, -2)
        if self.isEnabled():
            painter.setPen(theme.pen(t["meas" if self.hasFocus() else "rule"], 2 if self.hasFocus() else 1))
            painter.setBrush(t["accentbg" if self.underMouse() else "panel"])
            painter.drawRoundedRect(box, 3, 3)
        line, track = theme.scaled(21), theme.scaled(TRACK)
        left, right = box.left() + 9, box.right() - track - 6
        painter.setPen(t["ink"])
        painter.setFont(theme.font(13, 600))
        share = QRectF(right, box.top() + 3, track, line)
        painter.drawText(share, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, self._row.text)
        y = box.top() + 3
        for word in self._label:
            painter.drawText(QRectF(left, y, right - left, line), Qt.AlignmentFlag.AlignVCenter, word)
            y += theme.scaled(LEAD)
        painter.setPen(t["soft"])
        painter.setFont(theme.font(12))
        for lead in self._leads:
            painter.drawText(QRectF(left, y + 2, right - left, line), Qt.AlignmentFlag.AlignVCenter, lead)
            y += theme.scaled(LEAD)
        bar = QRectF(right, box.top() + line + 8, track, 8)
        painter.fillRect(bar, t["well"])
        low, high = sorted((self._row.before, self._row.after))
        painter.fillRect(QRectF(bar.left(), bar.top(), track * low, 8), t["accent"])
        painter.setOpacity(0.5)
        painter.fillRect(QRectF(bar.left() + track * low, bar.top(), track * (high - low), 8), t["accent"])
        painter.end()


class CheckHazards(QWidget):
    """The hazard signs of a check, each with its word."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._signs: tuple[str, ...] = ()
        self.setFixedHeight(theme.scaled(26))

    def show_signs(self, signs: tuple[str, ...]) -> None:
        self._signs = signs
        self.setVisible(bool(signs))
        self.setAccessibleName(", ".join(WORDS[sign] for sign in signs))
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setFont(theme.font(12, 700))
        x = 0.0
        for sign in self._signs:
            draw_hazard(painter, sign, QRectF(x, 2, 22, 22))
            painter.setPen(theme.tokens()["close"])
            width = painter.fontMetrics().horizontalAdvance(WORDS[sign])
            painter.drawText(QRectF(x + 27, 0, width + 4, 26), Qt.AlignmentFlag.AlignVCenter, WORDS[sign])
            x += 27 + width + 14
        painter.end()


class Then(RowsWidget):
    """The checks that follow: time, and how telling; a press brings one forward."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(_("Checks after it"), parent)
        self._all: tuple[NextRow, ...] = ()
        self._labels: list[list[str]] = []
        self._places: list[QRect] = []

    def show_rows(self, rows: tuple[NextRow, ...]) -> None:
        self._all = rows
        self.lay_out()
        self.update()

    def lay_out(self) -> None:
        metrics, small = QFontMetrics(theme.font(13)), QFontMetrics(theme.font(12))
        self._labels, self._places, y = [], [], 0
        for row in self._all:
            room = self.width() - 66 - small.horizontalAdvance(row.time)
            self._labels.append(wrapped(metrics, row.label, room, 2))
            high = theme.scaled(NEXT + LEAD * (len(self._labels[-1]) - 1))
            self._places.append(QRect(0, y, self.width(), high))
            y += high
        self.setFixedHeight(y + 2)
        self.place_rows(
            [(row.key, row.spoken, row.label, place) for row, place in zip(self._all, self._places, strict=True)]
        )

    def paintEvent(self, event: QPaintEvent | None) -> None:
        t = theme.tokens()
        painter = QPainter(self)
        line = theme.scaled(NEXT)
        for row, place, labels in zip(self._all, self._places, self._labels, strict=True):
            box = QRectF(place)
            if row.key == self.focused():
                painter.setPen(theme.pen(t["meas"], 2))
                painter.drawRect(box.adjusted(1, 1, -1, -1))
            painter.setPen(theme.pen(t["line"], 1))
            painter.drawLine(QPointF(box.left(), box.top()), QPointF(box.right(), box.top()))
            bar = QRectF(box.right() - 44, box.top() + line / 2 - 4, 40, 8)
            painter.fillRect(bar, t["well"])
            painter.fillRect(QRectF(bar.left(), bar.top(), bar.width() * row.telling, 8), t["accent"])
            painter.setFont(theme.font(12))
            painter.setPen(t["soft"])
            time = painter.fontMetrics().horizontalAdvance(row.time)
            right = QRectF(bar.left() - time - 10, box.top(), time + 4, line)
            painter.drawText(right, Qt.AlignmentFlag.AlignVCenter, row.time)
            painter.setFont(theme.font(13))
            painter.setPen(t["ink"])
            for index, label in enumerate(labels):
                part = QRectF(box.left() + 4, box.top() + theme.scaled(LEAD) * index, box.width(), line)
                painter.drawText(part, Qt.AlignmentFlag.AlignVCenter, label)
        painter.end()


class CheckCard(QWidget):
    """Shows a `CheckView`; emits what was answered."""

    answered = pyqtSignal(str, str)  # check, option
    read = pyqtSignal(str, float, object)  # station, value, 95 % half-width
    skipped = pyqtSignal(str)
    picked = pyqtSignal(str)  # one of the checks that follow
    fact = pyqtSignal(str)  # of the machine that is to be entered

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._check: CheckView | None = None
        self.box = QFrame()
        self.box.setObjectName("check")
        self.name, self.how, self.figures, self.effect = Plain(), Plain(), Rich(), Plain()
        self.name.setWordWrap(True)
        self.how.setWordWrap(True)
        self.signs = CheckHazards()
        self.cautions = Plain()
        self.cautions.setWordWrap(True)
        self.answers = [AnswerButton() for _answer in range(MOST_ANSWERS)]
        self.field = QLineEdit()
        self.field.setPlaceholderText(_("reading in °C"))
        self.trouble = Plain()
        self.trouble.setWordWrap(True)
        self.skip = QPushButton(_("Leave it out"))
        self.enter = QPushButton(_("Enter it on its card"))
        self.head, self.after, self.enough = Plain(_("Next best check")), Plain(_("Then")), Plain()
        self.enough.setWordWrap(True)
        self.mends = Plain()
        self.mends.setWordWrap(True)
        self.then = Then()
        self._build()
        for answer in self.answers:
            answer.clicked.connect(lambda _on=False, answer=answer: self._answer(answer.key))
        self.field.returnPressed.connect(self._read)
        self.skip.clicked.connect(lambda: self.skipped.emit(self._check.key if self._check else ""))
        self.enter.clicked.connect(lambda: self.fact.emit(self._check.fact if self._check else ""))
        self.then.activated.connect(self.picked)
        self.then.pressed.connect(lambda key, _place: self.picked.emit(key))

    def _build(self) -> None:
        inner = QVBoxLayout(self.box)
        inner.setContentsMargins(12, 10, 12, 10)
        inner.setSpacing(6)
        for widget in (self.name, self.how, self.figures, self.signs, self.cautions, self.effect, *self.answers):
            inner.addWidget(widget)
        row = QHBoxLayout()
        row.addWidget(self.field, 1)
        row.addWidget(self.enter)
        row.addWidget(self.skip)
        inner.addLayout(row)
        inner.addWidget(self.trouble)
        stack = QVBoxLayout(self)
        stack.setContentsMargins(12, 8, 12, 8)
        stack.setSpacing(6)
        for widget in (self.head, self.box, self.after, self.then, self.enough, self.mends):
            stack.addWidget(widget)
        stack.addStretch()
        for narrow in (*self.findChildren(QLabel), self.field, self.skip):
            narrow.setMinimumWidth(1)

    def show_check(self, check: CheckView | None, then: tuple[NextRow, ...], enough: str, mends: str) -> None:
        before = self._check
        self._check = check
        self.box.setVisible(check is not None)
        self.after.setVisible(bool(then))
        self.then.setVisible(bool(then))
        self.then.show_rows(then)
        self.enough.setText(enough)
        self.mends.setText(mends)
        self.mends.setVisible(bool(mends))
        self.head.setVisible(check is not None)
        self.trouble.hide()
        if check is None:
            return
        self.name.setText(check.label)
        self.how.setText(check.how)
        apart = " · " + _("something comes apart") if check.dismantles else ""
        self.figures.setText(Markup("<b>{}</b> · <b>{}</b>{}").format(check.time, check.cost, apart))
        self.signs.show_signs(check.signs)
        self.cautions.setText(" ".join(check.cautions))
        self.cautions.setVisible(bool(check.cautions))
        self.enter.setVisible(bool(check.fact))
        self.skip.setVisible(not check.fact)
        self.effect.setText(
            _("Knowing it makes the verdict on the machine surer.") if check.fact else _("What each answer would do")
        )
        for index, answer in enumerate(self.answers):
            answer.setVisible(index < len(check.answers))
            if index < len(check.answers):
                answer.show_row(check.answers[index], pressed=not check.reads)
        self.field.setVisible(bool(check.reads))
        self.field.setAccessibleName(check.label)
        if before is None or before.key != check.key:
            self.field.clear()

    def _answer(self, option: str) -> None:
        if self._check is not None:
            self.answered.emit(self._check.key, option)

    def _read(self) -> None:
        if self._check is None or not self.field.text().strip():
            return
        meant = reading(self._check.reads, self.field.text())
        if isinstance(meant, PinnedReading) and meant.value is not None:
            self.read.emit(meant.station, meant.value, meant.tolerance)
            return
        self.trouble.setText(meant.text)
        self.trouble.show()

    def refresh(self) -> None:
        """Take up the theme."""
        t = theme.tokens()
        self.head.setFont(theme.font(14, 700))
        self.after.setFont(theme.font(14, 700))
        self.name.setFont(theme.font(18, 700))
        for label in (self.how, self.figures):
            label.setFont(theme.font(13))
        self.effect.setFont(theme.font(13, 600))
        self.cautions.setFont(theme.font(12))
        self.mends.setFont(theme.font(14, 600))
        self.enough.setFont(theme.font(12))
        self.enough.setStyleSheet(f"color: {t.soft};")
        self.trouble.setFont(theme.font(12, 600))
        self.trouble.setStyleSheet(f"color: {t.close};")
        self.skip.setFont(theme.font(13))
        self.enter.setFont(theme.font(13))
        self.box.setStyleSheet(
            f"QFrame#check {{ background: {t.panel}; border: 2px solid {t.accent}; border-radius: 4px; }}"
        )
        self.then.update()

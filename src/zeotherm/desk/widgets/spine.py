"""The spine: the job, the steps that work, each with its answer so far, and the entry line."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from PyQt6.QtCore import QPoint, QPointF, QRectF, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QFocusEvent, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QResizeEvent
from PyQt6.QtWidgets import QAbstractButton, QHBoxLayout, QLineEdit, QSizePolicy, QVBoxLayout, QWidget

from zeotherm.core.judgement.margins import State
from zeotherm.desk.style import theme
from zeotherm.desk.style.shapes import draw_hazard, draw_state, draw_triangle
from zeotherm.desk.widgets.found_list import Destination, FoundList
from zeotherm.desk.widgets.labels import Plain
from zeotherm.wording.entry import Unclear, Understood, complete
from zeotherm.wording.language import _

HEIGHT = 58
WIDE = 300  # px that a sentence is given at least
READ_MS = 8000  # how long what does not fit below the entry line stays open, while nobody types


class JobCell(QAbstractButton):
    """The job on the bench; opens the list of jobs."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._below = ""
        self.setCheckable(True)
        self.setFixedWidth(theme.scaled(244))
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)

    def show_job(self, machine: str, below: str) -> None:
        self.setText(machine)
        self._below = below
        self.setAccessibleName(_("Jobs, {machine}").format(machine=machine))
        self.setToolTip(f"{machine}\n{below}")
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        t = theme.tokens()
        painter = QPainter(self)
        painter.fillRect(self.rect(), t["panel" if self.isChecked() else "well"])
        painter.setPen(t["ink"])
        painter.setFont(theme.font(16, 700))
        wide = self.width() - 52
        text = painter.fontMetrics().elidedText(self.text(), Qt.TextElideMode.ElideRight, wide)
        painter.drawText(QRectF(16, 6, wide, theme.scaled(26)), Qt.AlignmentFlag.AlignVCenter, text)
        painter.setPen(t["soft"])
        painter.setFont(theme.font(12))
        below = painter.fontMetrics().elidedText(self._below, Qt.TextElideMode.ElideRight, self.width() - 28)
        painter.drawText(QRectF(16, theme.scaled(31), self.width() - 28, 20), Qt.AlignmentFlag.AlignVCenter, below)
        draw_triangle(painter, QPointF(self.width() - 22, 20), 6, up=self.isChecked())
        if self.hasFocus():
            painter.setPen(theme.pen(t["meas"], 2))
            painter.drawRect(self.rect().adjusted(2, 2, -3, -3))
        painter.end()


class StepCell(QAbstractButton):
    """One step of the work and its answer so far."""

    def __init__(self, name: str, key: str, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setText(name)
        self._key = key
        self._answer = ""
        self._state = State.UNKNOWN
        self.setCheckable(True)
        self.setMinimumWidth(theme.scaled(96))
        self.setMaximumWidth(theme.scaled(250))
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(name)

    def show_answer(self, answer: str, state: State) -> None:
        self._answer, self._state = answer, state
        self.setAccessibleDescription(answer)
        self.setToolTip(f"{answer} ({self._key})")
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        t = theme.tokens()
        painter = QPainter(self)
        painter.fillRect(self.rect(), t["sheet" if self.isChecked() else "well"])
        painter.fillRect(QRectF(0, 0, self.width(), 4), t["accent" if self.isChecked() else "line"])
        draw_state(painter, self._state, QPointF(20, theme.scaled(21)), 7)
        painter.setPen(t["ink"])
        painter.setFont(theme.font(14, 700))
        painter.drawText(
            QRectF(36, theme.scaled(8), self.width() - 40, theme.scaled(26)), Qt.AlignmentFlag.AlignVCenter, self.text()
        )
        painter.setFont(theme.font(12))
        text = painter.fontMetrics().elidedText(self._answer, Qt.TextElideMode.ElideRight, self.width() - 20)
        painter.drawText(QRectF(12, theme.scaled(33), self.width() - 16, 18), Qt.AlignmentFlag.AlignVCenter, text)
        if self.hasFocus():
            painter.setPen(theme.pen(t["meas"], 2))
            painter.drawRect(self.rect().adjusted(2, 2, -3, -3))
        painter.end()


class KeyCell(QAbstractButton):
    """A drawn button in the spine, its key below it."""

    def __init__(self, text: str, spoken: str, key: str, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._key = key
        self.setFixedSize(theme.scaled(46), theme.scaled(HEIGHT))
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setText(text)
        self.setAccessibleName(spoken)
        self.setToolTip(_("{what} ({key})").format(what=spoken, key=key))
        self.setCursor(Qt.CursorShape.PointingHandCursor)

    def draw(self, painter: QPainter, middle: float) -> None:
        """Draw what it stands for, about a middle [px]."""
        raise NotImplementedError

    def paintEvent(self, event: QPaintEvent | None) -> None:
        t = theme.tokens()
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        self.draw(painter, self.width() / 2)
        painter.setPen(t["soft"])
        painter.setFont(theme.font(12, 600))
        painter.drawText(QRectF(0, 33, self.width(), 18), Qt.AlignmentFlag.AlignCenter, self._key)
        if self.hasFocus():
            painter.setPen(theme.pen(t["meas"], 2))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(self.rect().adjusted(2, 2, -3, -3))
        painter.end()


class Alarm(KeyCell):
    """Smoke or runaway: leads to what to do, from everywhere."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(_("Smoke or runaway"), _("Smoke or runaway: what to do"), "F1", parent)

    def draw(self, painter: QPainter, middle: float) -> None:
        draw_hazard(painter, "flame", QRectF(middle - 12, 7, 24, 24))


class MenuButton(KeyCell):
    """Opens the menu."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(_("Menu"), _("Menu"), "F10", parent)

    def draw(self, painter: QPainter, middle: float) -> None:
        painter.setPen(theme.pen(theme.tokens()["ink"], 2))
        for y in (13, 19, 25):
            painter.drawLine(QPointF(middle - 9, y), QPointF(middle + 9, y))


class EntryLine(QWidget):
    """One line for every value, with what it understood below, before Enter."""

    entered = pyqtSignal(str)
    begun = pyqtSignal()  # something is typed into an empty line

    def __init__(self, understood: Callable[[str], Understood], parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._understood = understood
        self._find: Callable[[str], Sequence[Destination]] = lambda _text: ()
        self.found = FoundList(self)
        self.found.wanted.connect(self._go)
        self.field = QLineEdit()
        self.field.setAccessibleName(_("Entry line"))
        self.field.setFixedHeight(theme.scaled(28))
        self.hint = Plain()
        self.hint.setAccessibleName(_("What the entry line understood"))
        self.whole = Plain("", self)  # the same where it does not fit, over the view
        self.whole.setWordWrap(True)
        self.whole.hide()
        self._read = QTimer(self)
        self._read.setSingleShot(True)
        self._read.timeout.connect(self.whole.hide)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(10, 5, 16, 2)
        layout.setSpacing(1)
        layout.addWidget(self.field)
        layout.addWidget(self.hint)
        self.field.textChanged.connect(self._show_hint)
        self.field.returnPressed.connect(self._enter)
        for watched in (self.field, self.whole):
            watched.installEventFilter(self)
        self.refresh()

    def refresh(self) -> None:
        """Take up the theme."""
        self.field.setFont(theme.font(14, 500))
        self.hint.setFont(theme.font(12, 500))
        self._show_hint(self.field.text())

    def finds(self, find: Callable[[str], Sequence[Destination]]) -> None:
        """Say what finds places by words; they are offered where a line is no value."""
        self._find = find

    def _go(self, place: Destination) -> None:
        self.field.clear()
        place.go()

    def type_text(self, text: str) -> None:
        """Begin with letters that were typed elsewhere."""
        self.field.setFocus(Qt.FocusReason.OtherFocusReason)
        self.field.insert(text)

    def say(self, text: str, wrong: bool = False) -> None:
        """Tell something below the line."""
        token = theme.tokens().close if wrong else theme.tokens().soft
        self.hint.setStyleSheet(f"color: {token};")
        wide = max(self.hint.width() - 4, 120)
        fitting = self.hint.fontMetrics().elidedText(text, Qt.TextElideMode.ElideRight, wide)
        self.hint.setText(fitting)
        self.hint.setToolTip(text)
        self.hint.setAccessibleDescription(text)
        self._open(text if fitting != text else "", token)

    def _open(self, text: str, colour: str) -> None:
        """What does not fit below the line, in full over the view; nothing where it fits."""
        front = self.window()
        if not text or front is None or not self.isVisible():
            self.whole.hide()
            return
        t = theme.tokens()
        self.whole.setParent(front)
        self.whole.setFont(theme.font(13, 500))
        self.whole.setStyleSheet(
            f"background: {t.panel}; color: {colour}; border: 1px solid {t.rule}; padding: 8px 10px;"
        )
        self.whole.setText(text)
        wide = max(self.field.width(), theme.scaled(WIDE))
        self.whole.setFixedWidth(wide)
        self.whole.setFixedHeight(self.whole.heightForWidth(wide))
        end = self.mapTo(front, QPoint(self.field.geometry().right() + 1, self.height()))
        self.whole.move(end.x() - wide, end.y())
        self.whole.raise_()
        self.whole.show()
        self._read.start(READ_MS)

    def accepted(self) -> None:
        """Empty the line after it was entered."""
        self.field.clear()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        self.whole.hide()
        super().resizeEvent(event)

    def eventFilter(self, watched: object, event: object) -> bool:
        leaves = isinstance(event, QFocusEvent) and event.lostFocus()
        if leaves or (watched is self.whole and isinstance(event, QMouseEvent)):
            self.whole.hide()
        if leaves and watched is self.field:
            self.found.hide()
        if watched is self.field and isinstance(event, QKeyEvent) and event.type() == QKeyEvent.Type.KeyPress:
            if event.key() == Qt.Key.Key_Escape:
                self.field.clear()
                self.field.clearFocus()
                return True
            if event.key() in (Qt.Key.Key_Down, Qt.Key.Key_Up) and self.found.isVisible():
                self.found.step(1 if event.key() == Qt.Key.Key_Down else -1)
                return True
            if event.key() == Qt.Key.Key_Tab and self.field.text() and (whole := complete(self.field.text())):
                self.field.setText(whole + " ")
                return True
        return False

    def _show_hint(self, text: str) -> None:
        if not text.strip():
            self.say("")
            self.found.offer(())
            return
        if len(text) == 1:
            self.begun.emit()
        meant = self._understood(text)
        self.say(meant.text, wrong=isinstance(meant, Unclear))
        self._offer(text if isinstance(meant, Unclear) else "")

    def _offer(self, text: str) -> None:
        """Places that have these words, below what is said of the line."""
        front = self.window()
        if front is None or not self.isVisible():
            return
        self.found.setParent(front)
        below = self.whole.geometry().bottom() + 2 if self.whole.isVisible() else 0
        end = self.mapTo(front, QPoint(self.field.geometry().right() + 1, self.height()))
        self.found.offer(self._find(text) if text else ())
        self.found.move(end.x() - self.found.width(), max(end.y(), below))
        self.found.raise_()

    def _enter(self) -> None:
        if self.found.isVisible() and (place := self.found.chosen) is not None:
            self._go(place)
        elif self.field.text().strip():
            self.entered.emit(self.field.text())


class Spine(QWidget):
    """Job cell, steps and entry line in one bar."""

    def __init__(self, understood: Callable[[str], Understood], parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.job = JobCell()
        self.intake = StepCell(_("Intake"), "F2")
        self.measure = StepCell(_("Measure"), "F3")
        self.explain = StepCell(_("Explain"), "F4")
        self.choose = StepCell(_("Choose"), "F5")
        self.do = StepCell(_("Do"), "F6")
        self.cells = (self.intake, self.measure, self.explain, self.choose, self.do)
        self.alarm = Alarm()
        self.menu = MenuButton()
        self.entry = EntryLine(understood)
        layout = QHBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        layout.addWidget(self.job)
        for step in self.cells:
            layout.addWidget(step, 1)
        layout.addStretch()
        layout.addWidget(self.alarm)
        layout.addWidget(self.entry, 2)
        layout.addWidget(self.menu)
        self.entry.setMinimumWidth(200)
        self.entry.setMaximumWidth(theme.scaled(400))
        self.setFixedHeight(theme.scaled(HEIGHT))
        self.job.setFixedHeight(theme.scaled(HEIGHT))
        for step in self.cells:
            step.setFixedHeight(theme.scaled(HEIGHT))

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), theme.tokens()["well"])
        painter.setPen(theme.pen(theme.tokens()["line"], 1))
        painter.drawLine(QPointF(0, self.height() - 0.5), QPointF(self.width(), self.height() - 0.5))
        painter.end()

"""Levers: what can be changed, by slider, field, list or key."""

from __future__ import annotations

import itertools
from collections.abc import Callable

from markupsafe import Markup
from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import (
    QFontMetrics,
    QGuiApplication,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QResizeEvent,
)
from PyQt6.QtWidgets import (
    QComboBox,
    QHBoxLayout,
    QLineEdit,
    QSizePolicy,
    QStyle,
    QStyleOptionComboBox,
    QStylePainter,
    QVBoxLayout,
    QWidget,
)

from zeotherm.desk.qt import put_on
from zeotherm.desk.style import theme
from zeotherm.desk.style.shapes import draw_triangle, polygon
from zeotherm.desk.viewmodels import LeverRow
from zeotherm.desk.widgets.known import KnownButton
from zeotherm.desk.widgets.labels import Plain, Rich, coloured
from zeotherm.desk.widgets.painted import Painted
from zeotherm.wording.language import _
from zeotherm.wording.numbers import DECIMALS, with_unit

ROW = 38
COMPACT_ROW = 35
TRIANGLE = 20  # px that a drop field's mark takes
MAKE = "make one"  # the last line of a list, in place of a key
FIRST = 3  # place of the first lever in the layout, below head, refusal and advice


class LeverSlider(Painted):
    """A track with a thin post where the value was found."""

    moved = pyqtSignal(float, bool)  # value, still dragging

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._row: LeverRow | None = None
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setMinimumSize(QSize(40, 30))

    def show_row(self, row: LeverRow) -> None:
        self._row = row
        self.setAccessibleName(row.label)
        self.setAccessibleDescription(with_unit(float(row.value), row.unit))
        self.update()

    def _share(self, value: float) -> float:
        assert self._row is not None
        span = self._row.high - self._row.low
        return min(max((value - self._row.low) / span, 0.0), 1.0)

    def x_of(self, value: float) -> float:
        """Where a value stands on the track [px]."""
        return 9 + self._share(value) * (self.width() - 18)

    def value_at(self, x: float) -> float:
        """The value under a place, on a tenth of the lever's step."""
        assert self._row is not None
        raw = self._row.low + min(max((x - 9) / (self.width() - 18), 0.0), 1.0) * (self._row.high - self._row.low)
        grain = self._row.step_size / 10
        return round(round(raw / grain) * grain, 6)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        self.mouseMoveEvent(event)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is not None and event.buttons() & Qt.MouseButton.LeftButton:
            self.moved.emit(self.value_at(event.position().x()), True)

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        if event is not None and event.button() == Qt.MouseButton.LeftButton:
            self.moved.emit(self.value_at(event.position().x()), False)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None or self._row is None or event.key() not in (Qt.Key.Key_Left, Qt.Key.Key_Right):
            super().keyPressEvent(event)
            return
        by = self._row.step_size * (1 if event.key() == Qt.Key.Key_Right else -1)
        self.moved.emit(min(max(float(self._row.value) + by, self._row.low), self._row.high), False)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        if self._row is None:
            return
        t = theme.tokens()
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        y = self.height() / 2
        painter.setPen(QPen(t["rule"], 3, cap=Qt.PenCapStyle.RoundCap))
        painter.drawLine(QPointF(4, y), QPointF(self.width() - 4, y))
        found = self.x_of(float(self._row.found))
        painter.setPen(theme.pen(t["ink"], 1.4))
        painter.drawLine(QPointF(found, y - 9), QPointF(found, y + 9))
        x = self.x_of(float(self._row.value))
        painter.setPen(theme.pen(t["meas"] if self.hasFocus() else t["ink"], 2 if self.hasFocus() else 1.4))
        painter.setBrush(t["accentbg"] if self._row.on_trial else t["flag"])
        painter.drawPolygon(polygon((x - 5.5, y - 9), (x + 5.5, y - 9), (x + 5.5, y + 3), (x, y + 9), (x - 5.5, y + 3)))
        painter.end()


class StrengthBar(QWidget):
    """What one step of a lever gains of the worst margin: a bar on a common scale, and the number."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._row: LeverRow | None = None
        self._bar = True
        self.set_compact(False)

    def set_compact(self, compact: bool) -> None:
        """The number alone, where the window is narrow."""
        self._bar = not compact
        self.setFixedWidth(theme.scaled(52 if compact else 96))
        self.update()

    def show_row(self, row: LeverRow) -> None:
        self._row = row
        self.setToolTip(
            _("One step gains {gain} of the worst margin").format(gain=row.gain_text) if row.gain_text else ""
        )
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        row, t = self._row, theme.tokens()
        if row is None or row.gain is None:
            return
        painter = QPainter(self)
        middle, length = self.height() / 2, theme.scaled(42)
        if self._bar:
            painter.fillRect(QRectF(0, middle - 5, length, 10), t["well"])
            strongest = row.share > 0.999
            painter.setOpacity(1.0 if strongest else 0.6)
            if row.share > 0:
                painter.fillRect(QRectF(0, middle - 5, max(2.0, length * row.share), 10), t["accent"])
            painter.setOpacity(1.0)
            if row.gain < 0:
                painter.setPen(theme.pen(t["over"], 1))
                painter.drawRect(QRectF(0.5, middle - 4.5, 8, 9))
        painter.setFont(theme.font(12, 600))
        painter.setPen(t["ink"] if row.share > 0 else t["soft"])
        box = QRectF(0, 0, self.width() - 2, self.height())
        painter.drawText(box, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, row.gain_text)
        painter.end()


class DropField(QComboBox):
    """A drop field with a drawn triangle; the wheel does not change it by accident."""

    def wheelEvent(self, event: object) -> None:
        event.ignore()  # type: ignore[attr-defined]

    def paintEvent(self, event: QPaintEvent | None) -> None:
        option = QStyleOptionComboBox()
        self.initStyleOption(option)
        option.currentText = self.fontMetrics().elidedText(
            option.currentText, Qt.TextElideMode.ElideRight, self.width() - TRIANGLE - 12
        )
        painter = QStylePainter(self)
        painter.drawComplexControl(QStyle.ComplexControl.CC_ComboBox, option)
        painter.drawControl(QStyle.ControlElement.CE_ComboBoxLabel, option)
        draw_triangle(painter, QPointF(self.width() - 13, self.height() / 2), 5)
        painter.end()


class LeverLine(QWidget):
    """One lever: its name, its value, its slider or list."""

    set_to = pyqtSignal(str, object, bool)  # path, value, still dragging
    known = pyqtSignal(str, str)  # path, and how it is known from now on
    measured = pyqtSignal(str, str)  # path, and the instrument it was measured with
    make = pyqtSignal(str)  # path of a part that is on no shelf
    typed = pyqtSignal(object, str)  # this line, text

    def __init__(self, row: LeverRow, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.row = row
        self._name = Rich()
        self._named: tuple[object, ...] = ()  # what it was last told by
        self._name.setMinimumWidth(theme.scaled(128))
        self.field = QLineEdit()
        self.field.setAlignment(Qt.AlignmentFlag.AlignRight)
        self.field.setFixedWidth(theme.scaled(96))
        self.slider = LeverSlider()
        self.drop = DropField()
        self.drop.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        self.drop.setMinimumContentsLength(8)
        self.strength = StrengthBar()
        layout = QHBoxLayout(self)
        layout.setContentsMargins(16, 0, 14, 0)
        layout.setSpacing(8)
        layout.addWidget(self._name)
        self.known_by: KnownButton | None = None
        for widget in (self.field, self.slider, self.drop):
            layout.addWidget(widget)
        if row.how is None:
            layout.addWidget(self.strength)
        else:
            self.known_by = KnownButton(self)
            self.known_by.clicked.connect(self._press_known)
            self.known_by.measured.connect(lambda instrument: self.measured.emit(self.row.path, instrument))
            layout.addWidget(self.known_by)
        self.set_compact(False)
        self.field.setVisible(not row.is_choice)
        self.slider.setVisible(not row.is_choice)
        self.drop.setVisible(row.is_choice)
        self.slider.moved.connect(lambda value, dragging: self.set_to.emit(self.row.path, value, dragging))
        self.drop.activated.connect(self._choose)
        self.field.editingFinished.connect(self._finish)
        self.show_row(row)

    def show_row(self, row: LeverRow) -> None:
        self.row = row
        self._tell_name()
        self.strength.show_row(row)
        if self.known_by is not None:
            self.known_by.show_row(row)
        if row.is_choice:
            self._show_choice(row)
            return
        if not (self.field.hasFocus() and self.field.isModified()):
            self.set_text(self._text(row.value))
        self.slider.show_row(row)

    def _tell_name(self) -> None:
        """The lever's name over its step, or over what was found, each cut where there is no room."""
        row, room = self.row, max(self._name.width(), self._name.minimumWidth())
        drawn = (room, theme.scaled(100), theme.tokens().ink)
        asked = (row.label, row.on_trial, row.found, row.step, row.tip, *drawn)
        if asked == self._named:  # a drag cannot afford to measure every lever's words again
            return
        self._named = asked
        aside = _("found {value}").format(value=self._text(row.found)) if row.on_trial else row.step
        bold, small = theme.font(13, 600), theme.font(12)
        label = QFontMetrics(bold).elidedText(row.label, Qt.TextElideMode.ElideRight, room)
        under = QFontMetrics(small).elidedText(aside, Qt.TextElideMode.ElideRight, room)
        mark, soft = theme.tokens().accent if row.on_trial else theme.tokens().ink, theme.tokens().soft
        html = coloured(label, mark)
        if under:
            size = theme.scaled(12)
            small_print = Markup('<br><span style="font-weight:400;font-size:{}px;color:{}">{}</span>')
            html += small_print.format(size, soft, under)
        self._name.setFont(bold)
        self._name.setText(html)
        self.field.setFont(theme.font(14, 600))
        self.field.setAccessibleName(row.label)
        cut = (label, under) != (row.label, aside)
        self.setToolTip("\n".join(filter(None, (f"{row.label}: {aside}" if cut else "", row.tip))))

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self._tell_name()

    def set_compact(self, compact: bool) -> None:
        """Without the slider, where the window is narrow."""
        self.slider.setVisible(not compact and not self.row.is_choice)
        self.setFixedHeight(theme.scaled(COMPACT_ROW if compact else ROW))
        self._name.setMinimumWidth(theme.scaled(108 if compact else 128))
        self._name.setMaximumWidth(theme.scaled(128) if not compact else 16_777_215)
        self.drop.setFixedWidth(theme.scaled(124)) if compact else self.drop.setMaximumWidth(16_777_215)
        self.strength.set_compact(compact)
        if self.known_by is not None:
            self.known_by.set_compact(compact)

    def set_text(self, text: str, wrong: bool = False) -> None:
        """Put text in the field; wrong: with the ochre border."""
        if self.field.text() != text:
            self.field.setText(text)
        self.field.setModified(False)
        self.mark(wrong)

    def mark(self, wrong: bool) -> None:
        """Ochre border for a value that was refused."""
        if bool(self.field.property("wrong")) == wrong:
            return
        put_on(self.field, "wrong", wrong)

    def _show_choice(self, row: LeverRow) -> None:
        self.drop.setAccessibleName(row.label)
        self.drop.setFont(theme.font(13, 600))
        have = [self.drop.itemData(index) for index in range(self.drop.count())]
        options = (*row.options, (MAKE, _("Not on the shelf: make one"))) if row.makes else row.options
        if have != [key for key, _label in options]:
            self.drop.clear()
            for key, label in options:
                self.drop.addItem(label, key)
        self.drop.setCurrentIndex(self.drop.findData(row.value))
        self.drop.setToolTip(self.drop.currentText())

    def _choose(self, index: int) -> None:
        """What was chosen from the list; its last line makes what is not on it."""
        key = self.drop.itemData(index)
        if key != MAKE:
            self.set_to.emit(self.row.path, key, False)
            return
        self.drop.setCurrentIndex(self.drop.findData(self.row.value))
        self.make.emit(self.row.path)

    def _text(self, value: float | str) -> str:
        if isinstance(value, str):
            return dict(self.row.options).get(value, value)
        return with_unit(value, self.row.unit, max(DECIMALS.get(self.row.unit, 1), 1 if value % 1 else 0))

    def _press_known(self) -> None:
        if self.known_by is not None:
            self.known.emit(self.row.path, self.known_by.then)

    def _finish(self) -> None:
        if self.field.isModified():
            self.typed.emit(self, self.field.text())

    def nudge(self, by: int) -> None:
        """One step of the lever."""
        row = self.row
        if row.is_choice:
            keys = [key for key, _label in row.options]
            index = keys.index(str(row.value)) if row.value in keys else 0
            self.set_to.emit(row.path, keys[(index + by) % len(keys)], False)
            return
        value = min(max(float(row.value) + by * row.step_size, row.low), row.high)
        self.set_to.emit(row.path, round(value, 6), False)

    def has_focus(self) -> bool:
        """Whether one of its parts has the focus."""
        return any(widget.hasFocus() for widget in (self.field, self.slider, self.drop))


class Levers(QWidget):
    """All levers of the picture."""

    set_to = pyqtSignal(str, object, bool)
    reset = pyqtSignal(str)
    known = pyqtSignal(str, str)  # path, and how it is known from now on
    measured = pyqtSignal(str, str)  # path, and the instrument it was measured with
    make = pyqtSignal(str)  # path of a part that is on no shelf

    def __init__(
        self, understood: Callable[[LeverRow, str], float | str], head: str = "", parent: QWidget | None = None
    ) -> None:
        super().__init__(parent)
        self._understood = understood  # a typed text's value, or raises ValueError with what to do
        self._lines: dict[str, LeverLine] = {}
        self._order: list[LeverLine] = []
        self._chosen = ""
        self._compact = False
        self._head = Plain(head or _("Levers"))
        self._head.setFont(theme.font(14, 700))
        self._trouble = Rich()
        self._trouble.setWordWrap(True)
        self._layout = QVBoxLayout(self)
        self._layout.setContentsMargins(0, 8, 0, 4)
        self._layout.setSpacing(0)
        top = QHBoxLayout()
        top.setContentsMargins(16, 0, 16, 2)
        top.addWidget(self._head)
        top.addStretch()
        self._aside = Rich()
        top.addWidget(self._aside)
        self._layout.addLayout(top)
        self._layout.addWidget(self._trouble)
        self._advice = Rich()
        self._advice.setWordWrap(True)
        self._advice.setContentsMargins(16, 6, 14, 2)
        self._layout.addWidget(self._advice)
        self._layout.addStretch()
        self._trouble.setContentsMargins(16, 0, 16, 0)
        self._trouble.hide()

    def show_rows(self, rows: tuple[LeverRow, ...]) -> None:
        self._head.setFont(theme.font(14, 700))
        wanted = {row.path for row in rows}
        for path, line in self._lines.items():
            line.setVisible(path in wanted)
        for index, row in enumerate(rows):
            line = self._lines.get(row.path) or self._new_line(row)
            held = QGuiApplication.mouseButtons() != Qt.MouseButton.NoButton  # nothing moves under a pressed button
            if self._layout.indexOf(line) != FIRST + index and not held:
                self._layout.removeWidget(line)
                self._layout.insertWidget(FIRST + index, line)
            line.show_row(row)
        order = [self._lines[row.path] for row in rows]
        if order == self._order:
            return
        self._order = order
        parts = [part for line in self._order for part in (line.field, line.slider, line.drop)]
        for one, other in itertools.pairwise(parts):
            QWidget.setTabOrder(one, other)

    def _new_line(self, row: LeverRow) -> LeverLine:
        line = LeverLine(row, self)
        line.set_to.connect(self._pass_on)
        line.typed.connect(self._typed)
        line.known.connect(self.known)
        line.measured.connect(self.measured)
        line.make.connect(self.make)
        line.set_compact(self._compact)
        self._lines[row.path] = line
        return line

    def show_advice(self, gains: str, enough: str | None) -> None:
        """What the bars gain, and what is enough on its own; None: nothing is ever said of that."""
        soft = theme.tokens().soft
        self._aside.setFont(theme.font(12))
        self._aside.setText(coloured(gains or _("thin post: as found"), soft))
        self._advice.setFont(theme.font(12, 600))
        self._advice.setVisible(enough is not None)
        self._advice.setText(Markup("{}").format(enough or ""))
        self._advice.setAccessibleName(enough or "")

    @property
    def shown(self) -> list[str]:
        """Paths of the levers that are there, from the top."""
        return [path for line in self._order for path, one in self._lines.items() if one is line]

    def line(self, path: str) -> LeverLine:
        """The line of one lever."""
        return self._lines[path]

    def set_compact(self, compact: bool) -> None:
        """Without sliders, where the window is narrow."""
        self._compact = compact
        for line in self._lines.values():
            line.set_compact(compact)

    def nudge(self, by: int) -> bool:
        """One step of the lever that has, or last had, the focus."""
        line = self._focused() or self._lines.get(self._chosen)
        if line is None:
            return False
        line.nudge(by)
        return True

    def reset_focused(self) -> bool:
        """The lever that has the focus goes back to what was found."""
        line = self._focused()
        if line is None or (line.field.hasFocus() and line.field.isModified()):
            return False
        self.reset.emit(line.row.path)
        return True

    def _focused(self) -> LeverLine | None:
        return next((line for line in self._lines.values() if line.has_focus()), None)

    def _pass_on(self, path: str, value: object, dragging: bool) -> None:
        self._chosen = path
        self._say("")
        self.set_to.emit(path, value, dragging)

    def _typed(self, line: LeverLine, text: str) -> None:
        try:
            value = self._understood(line.row, text)
        except ValueError as wrong:
            line.mark(True)
            self._say(str(wrong))
            return
        line.mark(False)
        line.field.setModified(False)
        self._pass_on(line.row.path, value, False)

    def _say(self, text: str) -> None:
        self._trouble.setFont(theme.font(12, 600))
        self._trouble.setText(coloured(text, theme.tokens().close))
        self._trouble.setVisible(bool(text))

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setPen(theme.pen(theme.tokens()["line"], 1))
        painter.drawLine(QPointF(0, 0.5), QPointF(self.width(), 0.5))
        for line in self._order[1:]:
            y = line.geometry().top() + 0.5
            painter.drawLine(QPointF(16, y), QPointF(self.width() - 14, y))
        for line in self._order:
            if line.row.on_trial:
                box = QRectF(line.geometry())
                painter.fillRect(QRectF(6, box.top() + 4, 3, box.height() - 8), theme.tokens()["accent"])
        painter.end()

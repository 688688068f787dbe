"""The verdict: a shape, a sentence, a reason, and one arrow to what comes next."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, QTimer
from PyQt6.QtGui import QPainter, QPaintEvent
from PyQt6.QtWidgets import QAbstractButton, QHBoxLayout, QWidget

from zeotherm.core.judgement.margins import State
from zeotherm.desk.style import theme
from zeotherm.desk.style.shapes import arrow_path, draw_state, text_colour
from zeotherm.wording.verdict import Verdict

HEIGHT = 66
BUSY_AFTER_MS = 300


class ArrowButton(QAbstractButton):
    """A button that points along the spine and names what comes."""

    def __init__(self, text: str, key: str, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setText(text)
        self._key = key
        self._held = False
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(text)
        self.setCursor(Qt.CursorShape.PointingHandCursor)

    def show_text(self, text: str, *, held: bool) -> None:
        """Say something else; held: it does not lead on yet."""
        self._held = held
        self.setText(text)
        self.setToolTip(text)
        self.setAccessibleName(text)
        self.setEnabled(not held)
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(theme.scaled(200), theme.scaled(40))

    def paintEvent(self, event: QPaintEvent | None) -> None:
        t = theme.tokens()
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        box = QRectF(self.rect()).adjusted(1.5, 1.5, -1.5, -1.5)
        painter.setPen(theme.pen(t["meas"], 2.5) if self.hasFocus() else Qt.PenStyle.NoPen)
        painter.setBrush(t["accent"])
        if self._held:  # hollow, a bar across its tail
            painter.setPen(theme.pen(t["close"], 1.6))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.fillRect(QRectF(box.left(), box.top(), 4, box.height()), t["close"])
            box = box.adjusted(7, 0, 0, 0)
        painter.drawPath(arrow_path(box))
        painter.setPen(t["ink" if self._held else "onaccent"])
        painter.setFont(theme.font(14, 600))
        room = box.adjusted(14, 0, -22 - (44 if self._key else 0), 0)
        words = painter.fontMetrics().elidedText(self.text(), Qt.TextElideMode.ElideRight, int(room.width()))
        painter.drawText(room, Qt.AlignmentFlag.AlignVCenter, words)
        painter.setFont(theme.font(12))
        painter.drawText(
            box.adjusted(0, 0, -26, 0), Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, self._key
        )
        painter.end()


class VerdictBand(QWidget):
    """Paints a `Verdict`; a trouble line takes the reason's place while there is one."""

    def __init__(self, button: ArrowButton, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._verdict: Verdict | None = None
        self._trouble = ""
        self._busy = False
        self.button = button
        self._late = QTimer(self)
        self._late.setSingleShot(True)
        self._late.setInterval(BUSY_AFTER_MS)
        self._late.timeout.connect(self.update)
        layout = QHBoxLayout(self)
        layout.setContentsMargins(0, 0, 16, 0)
        layout.addStretch()
        layout.addWidget(button)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setFixedHeight(theme.scaled(HEIGHT))

    def show_verdict(self, verdict: Verdict) -> None:
        self._verdict, self._trouble = verdict, ""
        self._tell()

    def show_trouble(self, text: str) -> None:
        self._trouble = text
        self._tell()

    def clear_trouble(self) -> None:
        """There is an answer again."""
        if self._trouble:
            self._trouble = ""
            self._tell()

    def set_busy(self, busy: bool) -> None:
        self._busy = busy
        if busy:
            self._late.start()
        else:
            self._late.stop()
            self.update()

    def _tell(self) -> None:
        if self._verdict is not None:
            reason = self._trouble or self._verdict.reason
            self.setAccessibleName(self._verdict.headline)
            self.setAccessibleDescription(reason)
            self.setToolTip(reason)
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        t = theme.tokens()
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), t["panel"])
        painter.setPen(theme.pen(t["line"], 1))
        painter.drawLine(QPointF(0, self.height() - 0.5), QPointF(self.width(), self.height() - 0.5))
        if self._busy and not self._late.isActive():
            painter.fillRect(QRectF(0, self.height() - 2, self.width(), 2), t["accent"])
        if self._verdict is not None:
            self._paint_words(painter, self._verdict)
        if self.hasFocus():
            painter.setPen(theme.pen(t["meas"], 2))
            painter.drawRect(self.rect().adjusted(2, 2, -3, -3))
        painter.end()

    def _paint_words(self, painter: QPainter, verdict: Verdict) -> None:
        state = State.UNKNOWN if self._trouble else verdict.state
        draw_state(painter, state, QPointF(33, self.height() / 2), 15)
        width = self.button.geometry().left() - 62 - 14
        size = next((px for px in range(24, 14, -1) if _advance(painter, px, verdict.headline) <= width), 14)
        painter.setFont(theme.font(size, 700))
        painter.setPen(text_colour(verdict.state) if not self._trouble else theme.tokens()["soft"])
        painter.drawText(QRectF(62, 7, width, theme.scaled(32)), Qt.AlignmentFlag.AlignVCenter, verdict.headline)
        painter.setFont(theme.font(13, 600 if self._trouble else 400))
        painter.setPen(theme.tokens()["close" if self._trouble else "ink"])
        text = self._trouble or verdict.reason
        if not self._trouble and painter.fontMetrics().horizontalAdvance(text) > width and verdict.brief:
            text = verdict.brief
        line = painter.fontMetrics().elidedText(text, Qt.TextElideMode.ElideRight, width)
        painter.drawText(QRectF(62, theme.scaled(38), width, theme.scaled(20)), Qt.AlignmentFlag.AlignVCenter, line)


def _advance(painter: QPainter, size: int, text: str) -> int:
    painter.setFont(theme.font(size, 700))
    return painter.fontMetrics().horizontalAdvance(text)

"""A kind of machine as a tile: its code, its silhouette at one scale with the others, its name."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QPainter, QPaintEvent
from PyQt6.QtWidgets import QPushButton, QSizePolicy, QWidget

from zeotherm.core.catalogue.arrivals import MachineKind
from zeotherm.desk.style import theme

TALLEST = 720.0  # mm, that the tile's picture has room for
TALLEST_TILE = 168  # px
WORDS, CODE = 40, 20  # px below and above the picture


class MachineTile(QPushButton):
    """One kind of machine; checked: the one on the bench is nearest to it."""

    def __init__(self, kind: MachineKind, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.kind = kind
        self.setCheckable(True)
        self.setAutoDefault(False)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMaximumHeight(theme.scaled(TALLEST_TILE))
        self.setAccessibleName(f"{kind.code}, {kind.label}, {kind.below}")
        self.setToolTip(f"{kind.label}, {kind.below}")

    def sizeHint(self) -> QSize:
        return QSize(theme.scaled(66), theme.scaled(146))

    def minimumSizeHint(self) -> QSize:
        return QSize(theme.scaled(66), theme.scaled(112))

    def paintEvent(self, event: QPaintEvent | None) -> None:
        t = theme.tokens()
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        box = QRectF(self.rect()).adjusted(1, 1, -1, -1)
        painter.setPen(theme.pen(t["accent"] if self.isChecked() else t["line"], 2 if self.isChecked() else 1))
        if self.hasFocus():
            painter.setPen(theme.pen(t["meas"], 2))
        painter.setBrush(t["accentbg"] if self.isChecked() else t["panel"])
        painter.drawRoundedRect(box, 3, 3)
        painter.setPen(t["soft"])
        painter.setFont(theme.font(12, 600))
        painter.drawText(QRectF(8, 3, 40, theme.scaled(CODE)), Qt.AlignmentFlag.AlignVCenter, self.kind.code.upper())
        words, top = theme.scaled(WORDS), theme.scaled(CODE)
        self._paint_machine(painter, QRectF(4, top, self.width() - 8, self.height() - words - top - 4))
        painter.setPen(t["ink"])
        painter.setFont(theme.font(12, 600))
        below = QRectF(2, self.height() - words, self.width() - 4, words / 2)
        self._words(painter, below, self.kind.label)
        painter.setPen(t["soft"])
        painter.setFont(theme.font(12))
        self._words(painter, below.translated(0, words / 2 - 3), self.kind.below)
        painter.end()

    @staticmethod
    def _words(painter: QPainter, box: QRectF, text: str) -> None:
        cut = painter.fontMetrics().elidedText(text, Qt.TextElideMode.ElideRight, int(box.width()))
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, cut)

    def _paint_machine(self, painter: QPainter, box: QRectF) -> None:
        """A front view, its feet on the tile's floor, all tiles at one scale."""
        kind, t = self.kind, theme.tokens()
        scale = min(box.height() / TALLEST, box.width() / TALLEST)
        floor = box.bottom()
        painter.setPen(theme.pen(t["rule"], 1))
        painter.drawLine(QPointF(box.left() + 4, floor), QPointF(box.right() - 4, floor))
        wide, high = kind.wide_mm * scale, kind.high_mm * scale
        if kind.frame == "none":
            painter.setPen(theme.pen(t["soft"], 1.4))
            side = 260.0 * scale
            centre = box.center()
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawLine(centre - QPointF(side / 2, 0), centre + QPointF(side / 2, 0))
            painter.drawLine(centre - QPointF(0, side / 2), centre + QPointF(0, side / 2))
            return
        body = QRectF(box.center().x() - wide / 2, floor - high, wide, high)
        painter.setPen(theme.pen(t["ink"], 1.6))
        painter.setBrush(Qt.BrushStyle.NoBrush if kind.frame in ("open", "towers") else t["well"])
        painter.drawRect(body)
        if kind.frame == "locker":
            painter.setBrush(Qt.BrushStyle.NoBrush)
            body = body.adjusted(wide * 0.14, high * 0.3, -wide * 0.14, -high * 0.02)
            painter.drawRect(body)
        head = QPointF(body.center().x(), body.top() + 0.42 * body.height())
        if kind.frame == "towers":
            for foot in (body.left() + 0.08 * wide, body.center().x(), body.right() - 0.08 * wide):
                painter.drawLine(QPointF(foot, body.top()), QPointF(foot, body.bottom()))
                painter.drawLine(QPointF(foot, body.top() + 0.2 * body.height()), head)
        else:
            painter.drawLine(QPointF(body.left(), head.y()), QPointF(body.right(), head.y()))
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(t["ink"])
        painter.drawRect(QRectF(head.x() - 3, head.y() - 3, 6, 8))
        bed = body.bottom() - 0.16 * body.height()
        painter.drawRect(QRectF(body.left() + 0.18 * body.width(), bed, 0.64 * body.width(), 3))

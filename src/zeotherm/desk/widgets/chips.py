"""Facts by one touch: questions with their answers as chips."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRect, QRectF, Qt
from PyQt6.QtGui import QFontMetrics, QPainter, QPaintEvent
from PyQt6.QtWidgets import QWidget

from zeotherm.desk.style import theme
from zeotherm.desk.style.shapes import polygon
from zeotherm.desk.views.intake.shown import ChipGroup
from zeotherm.desk.widgets.rows import RowsWidget
from zeotherm.wording.language import _

LABEL, CHIP, GAP, AFTER = 20, 28, 6, 8
PAD = 9
LEFT = 16


class Chips(RowsWidget):
    """Paints question after question; every chip is a row for the keyboard."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(_("What is known"), parent)
        self._groups: tuple[ChipGroup, ...] = ()
        self._boxes: dict[str, QRect] = {}
        self._heads: list[tuple[ChipGroup, int]] = []

    def show_groups(self, groups: tuple[ChipGroup, ...]) -> None:
        self._groups = groups
        self.lay_out()
        self.update()

    def lay_out(self) -> None:
        metrics = QFontMetrics(theme.font(13, 600))
        self._boxes, self._heads = {}, []
        y = 4
        right = self.width() - 10
        for group in self._groups:
            self._heads.append((group, y))
            y += theme.scaled(LABEL)
            x = LEFT
            for chip in group.chips:
                width = metrics.horizontalAdvance(chip.label) + 2 * theme.scaled(PAD)
                if x > LEFT and x + width > right:
                    x, y = LEFT, y + theme.scaled(CHIP + 4)
                self._boxes[chip.key] = QRect(x, y, min(width, right - LEFT), theme.scaled(CHIP))
                x += width + GAP
            y += theme.scaled(CHIP + AFTER)
        self.setMinimumHeight(y + 4)
        self.place_rows(
            [
                (chip.key, chip.spoken, chip.label, self._boxes[chip.key])
                for group in self._groups
                for chip in group.chips
            ]
        )

    def paintEvent(self, event: QPaintEvent | None) -> None:
        t = theme.tokens()
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        focused = self.focused()
        for group, y in self._heads:
            painter.setFont(theme.font(13, 700 if group.wanted else 400))
            painter.setPen(t["ink" if group.wanted else "soft"])
            left = LEFT
            if group.wanted:  # a small arrow: ask this next
                middle = y + theme.scaled(LABEL) / 2
                painter.setBrush(t["accent"])
                painter.setPen(Qt.PenStyle.NoPen)
                painter.drawPolygon(polygon((left, middle - 5), (left + 8, middle), (left, middle + 5)))
                painter.setPen(t["ink"])
                left += 13
            box = QRectF(left, y, self.width() - left - 8, theme.scaled(LABEL))
            painter.drawText(box, Qt.AlignmentFlag.AlignVCenter, group.label)
            for chip in group.chips:
                self._paint_chip(painter, chip.label, QRectF(self._boxes[chip.key]), chip.told, chip.key == focused)
        painter.end()

    def _paint_chip(self, painter: QPainter, label: str, box: QRectF, told: bool, focused: bool) -> None:
        t = theme.tokens()
        inner = box.adjusted(0.5, 0.5, -0.5, -0.5)
        painter.setPen(
            theme.pen(t["meas" if focused else "accent" if told else "rule"], 2 if focused else 1.4 if told else 1)
        )
        painter.setBrush(t["accentbg" if told else "panel"])
        painter.drawRoundedRect(inner, 3, 3)
        if told:  # told by shape too: a bar at the left edge
            painter.fillRect(QRectF(inner.left(), inner.top() + 4, 3, inner.height() - 8), t["accent"])
        painter.setPen(t["accent" if told else "ink"])
        painter.setFont(theme.font(13, 700 if told else 500))
        text = painter.fontMetrics().elidedText(label, Qt.TextElideMode.ElideRight, int(box.width()) - 10)
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, text)


def draw_sign(painter: QPainter, way: int, centre: QPointF) -> None:
    """For, against, or not known: a filled cross, a hollow bar, a ring."""
    t = theme.tokens()
    painter.save()
    box = QRectF(centre.x() - 6, centre.y() - 6, 12, 12)
    if way > 0:
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(t["accent"])
        painter.drawRoundedRect(box, 2, 2)
        painter.setPen(theme.pen(t["onaccent"], 1.8))
        painter.drawLine(QPointF(centre.x() - 3.5, centre.y()), QPointF(centre.x() + 3.5, centre.y()))
        painter.drawLine(QPointF(centre.x(), centre.y() - 3.5), QPointF(centre.x(), centre.y() + 3.5))
    elif way < 0:
        painter.setPen(theme.pen(t["over"], 1.4))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRoundedRect(box.adjusted(0.7, 0.7, -0.7, -0.7), 2, 2)
        painter.drawLine(QPointF(centre.x() - 3, centre.y()), QPointF(centre.x() + 3, centre.y()))
    else:
        painter.setPen(theme.pen(t["soft"], 1.4))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawEllipse(centre, 5, 5)
    painter.restore()

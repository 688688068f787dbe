"""Each part of the machine in one line: how it is, by its own verdict; pressed, its tab."""

from __future__ import annotations

from dataclasses import dataclass

from PyQt6.QtCore import QPointF, QRect, QRectF, QSize, Qt
from PyQt6.QtGui import QPainter, QPaintEvent
from PyQt6.QtWidgets import QWidget

from zeotherm.core.judgement.margins import State
from zeotherm.desk.style import theme
from zeotherm.desk.style.shapes import draw_state, text_colour
from zeotherm.desk.widgets.painted import paint_head
from zeotherm.desk.widgets.rows import RowsWidget
from zeotherm.wording.language import _

HEAD, ROW, NAME = 30, 26, 84


@dataclass(frozen=True, slots=True)
class PartLine:
    """The verdict on one part."""

    key: str  # of its tab
    label: str
    headline: str
    state: State


class PartVerdicts(RowsWidget):
    """Paints the lines, in the order of the tabs."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(_("Part by part"), parent)
        self._lines: tuple[PartLine, ...] = ()

    def show_lines(self, lines: tuple[PartLine, ...]) -> None:
        self._lines = lines
        self.setFixedHeight(self.sizeHint().height())
        self.lay_out()
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(400, theme.scaled(HEAD + ROW * len(self._lines)) + 6)

    def _place(self, index: int) -> QRect:
        return QRect(6, theme.scaled(HEAD + ROW * index), self.width() - 12, theme.scaled(ROW))

    def lay_out(self) -> None:
        self.place_rows(
            [(one.key, f"{one.label}: {one.headline}", one.headline, self._place(index))
             for index, one in enumerate(self._lines)]
        )  # fmt: skip

    def paintEvent(self, event: QPaintEvent | None) -> None:
        t, painter = theme.tokens(), QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(theme.pen(t["line"], 1))
        painter.drawLine(QPointF(0, 0.5), QPointF(self.width(), 0.5))
        head = QRectF(16, 6, self.width() - 32, theme.scaled(HEAD) - 8)
        paint_head(painter, head, _("Part by part"), "")
        for index, one in enumerate(self._lines):
            box = QRectF(self._place(index))
            if one.key == self.focused():
                painter.setPen(theme.pen(t["meas"], 2))
                painter.setBrush(t["sel"])
                painter.drawRoundedRect(box.adjusted(1, 1, -1, -1), 3, 3)
            draw_state(painter, one.state, QPointF(box.left() + 20, box.center().y()), 5.5)
            painter.setFont(theme.font(13, 600))
            painter.setPen(text_colour(one.state))
            name = QRectF(box.left() + 36, box.top(), theme.scaled(NAME), box.height())
            painter.drawText(name, Qt.AlignmentFlag.AlignVCenter, one.label)
            painter.setFont(theme.font(13))
            painter.setPen(t["ink"])
            rest = QRectF(name.right() + 4, box.top(), box.right() - name.right() - 12, box.height())
            text = painter.fontMetrics().elidedText(one.headline, Qt.TextElideMode.ElideRight, int(rest.width()))
            painter.drawText(rest, Qt.AlignmentFlag.AlignVCenter, text)
        painter.end()

"""Further toolheads side by side, each in section with its field; one of them may be put in front."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter
from PyQt6.QtWidgets import QWidget

from zeotherm.desk.parts.hotend.section import fit
from zeotherm.desk.parts.hotend.solids import paint_solids
from zeotherm.desk.parts.toolheads.shown import ToolheadColumn, ToolheadsView
from zeotherm.desk.style import theme
from zeotherm.desk.style.shapes import draw_state
from zeotherm.desk.widgets.part_board import PartBoard
from zeotherm.wording.language import _

HEAD, FOOT, BUTTON, GAP = 26, 60, 28, 14
BOTH = 250  # px of width from which both fields stand side by side


class ToolheadsBoard(PartBoard[ToolheadsView]):
    """Paints a `ToolheadsView`. Left and right choose a toolhead, Enter puts it in front, Delete takes it out."""

    wanted = pyqtSignal(str)  # number that is to be in front
    dropped = pyqtSignal(str)  # number that is to be taken out

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(_("Other toolheads in section"), _("One toolhead. Is there another one? Type: add T1"), parent)
        self._chosen = 0

    def show_view(self, view: ToolheadsView | None) -> None:
        super().show_view(view)
        self._chosen = min(self._chosen, max(len(view.columns) - 1, 0)) if view is not None else 0

    @property
    def chosen(self) -> str:
        """Number of the toolhead that the keys speak of; nothing: there is none."""
        return self._view.columns[self._chosen].number if self._view is not None and self._view.columns else ""

    def boxes(self) -> list[QRectF]:
        """The place of each toolhead."""
        if self._view is None:
            return []
        whole = QRectF(self.rect()).adjusted(16, 6, -14, -6)
        whole.setTop(whole.top() + theme.scaled(HEAD))
        count = max(len(self._view.columns), 1)
        wide = (whole.width() - GAP * (count - 1)) / count
        return [QRectF(whole.left() + n * (wide + GAP), whole.top(), wide, whole.height()) for n in range(count)]

    def button(self, box: QRectF) -> QRectF:
        """What puts the toolhead of a box in front."""
        high = theme.scaled(BUTTON)
        return QRectF(box.left() + 10, box.bottom() - high - 8, box.width() - 20, high)

    def paint_view(self, painter: QPainter, view: ToolheadsView) -> None:
        whole = QRectF(self.rect()).adjusted(16, 6, -14, -6)
        painter.setFont(theme.font(13, 700))
        painter.setPen(theme.tokens()["ink"])
        head = QRectF(whole.left(), whole.top(), whole.width(), theme.scaled(HEAD))
        painter.drawText(head, Qt.AlignmentFlag.AlignVCenter, view.title)
        for n, (column, box) in enumerate(zip(view.columns, self.boxes(), strict=True)):
            self._paint_column(painter, column, box, chosen=n == self._chosen)

    def _paint_column(self, painter: QPainter, column: ToolheadColumn, box: QRectF, *, chosen: bool) -> None:
        t = theme.tokens()
        painter.setPen(theme.pen(t["meas"] if chosen else t["line"], 2 if chosen else 1))
        painter.setBrush(t["well"])
        painter.drawRoundedRect(box, 6, 6)
        button, foot = self.button(box), theme.scaled(FOOT)
        room = QRectF(box.left() + 8, box.top() + theme.scaled(30), box.width() - 16,
                      button.top() - foot - box.top() - theme.scaled(34))  # fmt: skip
        if room.height() > 60:
            self._paint_fields(painter, column, room)
        painter.setPen(t["ink"])
        painter.setFont(theme.font(15, 700))
        painter.drawText(QRectF(box.left() + 10, box.top() + 2, box.width() - 20, theme.scaled(28)),
                         Qt.AlignmentFlag.AlignVCenter, column.number)  # fmt: skip
        painter.setFont(theme.font(12))
        words = QRectF(box.left() + 10, button.top() - foot, box.width() - 20, foot - 6)
        mark = theme.scaled(10)
        draw_state(painter, column.state, QPointF(words.left() + 0.5 * mark, words.top() + 3 + 0.5 * mark), 0.5 * mark)
        painter.setPen(t["ink"])
        told = f"{column.worst}."
        if box.width() >= theme.scaled(BOTH):
            told += f"\n{column.does.partition(': ')[2]}"
        flags = Qt.TextFlag.TextWordWrap | Qt.AlignmentFlag.AlignTop
        painter.drawText(words.adjusted(mark + 6, 0, 0, 0), flags, told)
        painter.setPen(theme.pen(t["line"], 1))
        painter.setBrush(t["sheet"])
        painter.drawRoundedRect(button, 5, 5)
        painter.setPen(t["ink"])
        painter.setFont(theme.font(12, 600))
        painter.drawText(button, Qt.AlignmentFlag.AlignCenter, _("Make {number} active").format(number=column.number))

    def _paint_fields(self, painter: QPainter, column: ToolheadColumn, room: QRectF) -> None:
        """Its field while it prints, and beside that while it stands by, where both have room."""
        both = len(column.shown) if room.width() >= theme.scaled(BOTH) else 1
        caption, wide = theme.scaled(20), room.width() / both
        painter.setFont(theme.font(12, 600))
        for n, (what, answer) in enumerate(column.shown[:both]):
            left, at = room.left() + n * wide, answer.solved.model.layout.at
            place = QRectF(left, room.top(), wide, room.height() - caption)
            painter.save()
            painter.setClipRect(place)
            paint_solids(painter, fit(answer, place, (at.fin + 3e-3, at.fin + 3e-3)), self._scale)
            painter.restore()
            painter.setPen(theme.tokens()["ink"])
            painter.drawText(QRectF(left, place.bottom(), wide, caption), Qt.AlignmentFlag.AlignCenter, what)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        self.setFocus()
        if event is None:
            return
        for n, box in enumerate(self.boxes()):
            if box.contains(event.position()):
                self._chosen = n
                self.update()
                if self.button(box).contains(event.position()):
                    self.wanted.emit(self.chosen)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        key = Qt.Key(event.key()) if event is not None else None
        if key in (Qt.Key.Key_Left, Qt.Key.Key_Right) and self._view is not None:
            step = 1 if key == Qt.Key.Key_Right else -1
            self._chosen = min(max(self._chosen + step, 0), len(self._view.columns) - 1)
            self.update()
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self.chosen:
            self.wanted.emit(self.chosen)
        elif key == Qt.Key.Key_Delete and self.chosen:
            self.dropped.emit(self.chosen)
        else:
            super().keyPressEvent(event)

"""The shelves, and the parts of one: painted rows."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRect, QRectF, Qt
from PyQt6.QtGui import QPainter, QPaintEvent
from PyQt6.QtWidgets import QWidget

from zeotherm.desk.style import theme
from zeotherm.desk.style.shapes import draw_known
from zeotherm.desk.views.shelf.shown import EntriesView, EntryRow, KindRow
from zeotherm.desk.widgets.rows import RowsWidget
from zeotherm.wording.language import _

KIND, GROUP = 26, 26
HEAD, ENTRY = 74, 44
CELL, WIDEST_CELL = 58, 92
LEAST_NAME = 128  # px that a name has; columns that do not fit beside it are left out
MIDDLE = Qt.AlignmentFlag.AlignVCenter
RIGHT = MIDDLE | Qt.AlignmentFlag.AlignRight


class KindList(RowsWidget):
    """Every shelf under its group, with how many parts are on it."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(_("Shelves"), parent)
        self._kinds: tuple[KindRow, ...] = ()
        self._open = ""

    def show_kinds(self, rows: tuple[KindRow, ...], chosen: str) -> None:
        self._kinds, self._open = rows, chosen
        last = self._place(len(rows) - 1) if rows else QRect()
        self.setMinimumHeight(last.bottom() + 8)
        self.lay_out()
        self.update()

    def _place(self, index: int) -> QRect:
        groups = sum(bool(row.group) for row in self._kinds[: index + 1])
        top = 4 + theme.scaled(KIND) * index + theme.scaled(GROUP) * groups
        return QRect(6, top, self.width() - 12, theme.scaled(KIND))

    def lay_out(self) -> None:
        self.place_rows([(row.key, row.spoken, "", self._place(i)) for i, row in enumerate(self._kinds)])

    def paintEvent(self, event: QPaintEvent | None) -> None:
        t = theme.tokens()
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        focused = self.focused()
        for index, row in enumerate(self._kinds):
            box = QRectF(self._place(index))
            if row.group:
                painter.setFont(theme.font(12, 600))
                painter.setPen(t["soft"])
                painter.drawText(box.translated(6, -theme.scaled(KIND)), MIDDLE, row.group)
            if row.key == self._open:
                painter.fillRect(box, t["panel"])
                painter.fillRect(QRectF(box.left(), box.top(), 4, box.height()), t["accent"])
            if row.key == focused:
                painter.setPen(theme.pen(t["meas"], 2))
                painter.setBrush(Qt.BrushStyle.NoBrush)
                painter.drawRect(box.adjusted(1, 1, -1, -1))
            painter.setFont(theme.font(13, 600 if row.key == self._open else 400))
            painter.setPen(t["ink"])
            painter.drawText(box.adjusted(12, 0, -34, 0), MIDDLE, row.label)
            painter.setPen(t["soft"])
            painter.drawText(box.adjusted(0, 0, -8, 0), RIGHT, str(row.count))
        painter.end()


class EntryTable(RowsWidget):
    """The parts of one shelf: value over tolerance, column by column; the open one is boxed, an own one has a bar."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(_("Parts"), parent)
        self._view: EntriesView | None = None

    def show_view(self, view: EntriesView) -> None:
        self._view = view
        self.setMinimumHeight(theme.scaled(HEAD + ENTRY * len(view.rows)) + 8)
        self.setAccessibleName(view.title)
        self.lay_out()
        self.update()

    def place_of(self, key: str) -> QRect:
        """Where a part's row is; empty where there is none."""
        rows = self._view.rows if self._view is not None else ()
        return next((self._place(index) for index, row in enumerate(rows) if row.key == key), QRect())

    def _place(self, index: int) -> QRect:
        return QRect(6, theme.scaled(HEAD + ENTRY * index), self.width() - 6, theme.scaled(ENTRY))

    def lay_out(self) -> None:
        rows = self._view.rows if self._view is not None else ()
        self.place_rows([(row.key, row.spoken, row.label, self._place(index)) for index, row in enumerate(rows)])

    @property
    def _shown(self) -> int:
        """How many columns there is room for."""
        room = self.width() - 24 - theme.scaled(LEAST_NAME)
        return max(min(len(self._view.heads) if self._view is not None else 0, room // theme.scaled(CELL)), 0)

    def _cell(self, box: QRectF, column: int) -> QRectF:
        room = (self.width() - 24 - theme.scaled(LEAST_NAME)) // max(self._shown, 1)
        wide = min(max(room, theme.scaled(CELL)), theme.scaled(WIDEST_CELL))
        return QRectF(box.right() - 14 - wide * (self._shown - column), box.top(), wide, box.height())

    def paintEvent(self, event: QPaintEvent | None) -> None:
        view = self._view
        if view is None:
            return
        t = theme.tokens()
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        head = QRectF(16, 4, self.width() - 16, theme.scaled(28))
        painter.setFont(theme.font(15, 700))
        painter.setPen(t["ink"])
        painter.drawText(head, MIDDLE, view.title)
        step = painter.fontMetrics().horizontalAdvance(view.title) + 12
        painter.setFont(theme.font(12))
        painter.setPen(t["soft"])
        painter.drawText(head.adjusted(step, 0, 0, 0), MIDDLE, view.aside)
        names = QRectF(6, theme.scaled(32), self.width() - 6, theme.scaled(20))
        for column, (name, unit) in enumerate(view.heads[: self._shown]):
            painter.setFont(theme.font(12, 600))
            painter.setPen(t["ink"])
            painter.drawText(self._cell(names, column), RIGHT, name)
            painter.setFont(theme.font(12))
            painter.setPen(t["soft"])
            painter.drawText(self._cell(names.translated(0, theme.scaled(18)), column), RIGHT, unit)
        focused = self.focused()
        for index, row in enumerate(view.rows):
            self._paint_row(painter, row, QRectF(self._place(index)), chosen=row.key == view.chosen,
                            focused=row.key == focused)  # fmt: skip
        painter.end()

    def _paint_row(self, painter: QPainter, row: EntryRow, box: QRectF, *, chosen: bool, focused: bool) -> None:
        t = theme.tokens()
        if chosen:
            painter.fillRect(box, t["panel"])
            painter.setPen(theme.pen(t["meas"] if focused else t["accent"], 2))
            for start, end in ((box.topRight(), box.topLeft()), (box.topLeft(), box.bottomLeft()),
                               (box.bottomLeft(), box.bottomRight())):  # fmt: skip
                painter.drawLine(start, end)  # open towards its figures
        else:
            painter.setPen(theme.pen(t["line"], 1))
            painter.drawLine(box.bottomLeft() + QPointF(10, 0), box.bottomRight() - QPointF(10, 0))
        if row.own:
            painter.fillRect(QRectF(box.left() + 3, box.top() + 6, 4, box.height() - 12), t["ink"])
        upper = QRectF(box.left(), box.top() + 3, box.width(), theme.scaled(20))
        lower = upper.translated(0, theme.scaled(18))
        name_wide = self._cell(upper, 0).left() - box.left() - 20 if self._shown else box.width() - 20
        painter.setFont(theme.font(13, 600))
        painter.setPen(t["ink"])
        if row.below:
            name = painter.fontMetrics().elidedText(row.label, Qt.TextElideMode.ElideRight, int(name_wide))
            painter.drawText(upper.adjusted(14, 0, 0, 0), MIDDLE, name)
            painter.setFont(theme.font(12))
            painter.setPen(t["accent" if row.fitted else "soft"])
            painter.drawText(lower.adjusted(14, 0, 0, 0), MIDDLE, row.below)
        else:  # a long name has both lines
            both = QRectF(upper.left() + 14, upper.top() + 1, name_wide, 2 * painter.fontMetrics().lineSpacing())
            painter.save()
            painter.setClipRect(both)
            painter.drawText(both, Qt.AlignmentFlag.AlignTop | Qt.TextFlag.TextWordWrap, row.label)
            painter.restore()
        for column, (value, half) in enumerate(row.cells[: self._shown]):
            if not value:
                draw_known(painter, "assumed", self._cell(upper, column).center() + QPointF(theme.scaled(24), 8), 5.5)
                continue
            painter.setFont(theme.font(13, 600))
            painter.setPen(t["ink"])
            painter.drawText(self._cell(upper, column), RIGHT, value)
            painter.setFont(theme.font(12))
            painter.setPen(t["soft"])
            painter.drawText(self._cell(lower, column), RIGHT, half)

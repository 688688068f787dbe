"""Options side by side: room to every limit about a post, certainty, cost; letter boxes take them into the set."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRect, QRectF, QSize, Qt
from PyQt6.QtGui import QPainter, QPaintEvent
from PyQt6.QtWidgets import QWidget

from zeotherm.core.judgement.margins import State
from zeotherm.desk.style import theme
from zeotherm.desk.style.shapes import draw_state, state_colour, text_colour
from zeotherm.desk.views.choose.shown import BoardView, Cell, ColumnView
from zeotherm.desk.widgets.rows import RowsWidget
from zeotherm.wording.language import _

NAMES, CHOSEN = 126, 146
NAMES_TIGHT, CHOSEN_TIGHT = 118, 114  # px, where the board is compact
NARROWEST, WIDEST = 76, 124  # px of a column
HEAD, ROW, FIGURE = 60, 28, 26
BAR = 18
PAD = 6


class Board(RowsWidget):
    """Paints a `BoardView`; each column is a row for the keyboard and for assistive technology."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(_("Options"), parent)
        self._view: BoardView | None = None
        self._compact = False
        self._room = 1000

    def show_view(self, view: BoardView) -> None:
        self._view = view
        self.setMinimumSize(self.sizeHint())
        self.lay_out()
        self.update()

    def set_room(self, width: int, compact: bool) -> None:
        """The width there is; compact: without bars."""
        self._room, self._compact = width, compact
        self.setMinimumSize(self.sizeHint())
        self.lay_out()
        self.update()

    def sizeHint(self) -> QSize:
        view = self._view
        if view is None:
            return QSize(400, 300)
        wide = self.column_at(len(view.columns)).left() + (self._chosen_wide() + 20 if view.chosen else 12)
        high = HEAD + ROW * len(view.limits) + 10 + FIGURE * len(view.figures) + 2 * PAD
        return QSize(int(wide), theme.scaled(high) + 8)

    def _names(self) -> int:
        return theme.scaled(NAMES_TIGHT if self._compact else NAMES)

    def _chosen_wide(self) -> int:
        return theme.scaled(CHOSEN_TIGHT if self._compact else CHOSEN)

    def _wide(self) -> float:
        view = self._view
        assert view is not None
        left = self._room - 52 - self._names() - (self._chosen_wide() if view.chosen else 0)
        return min(max(left / len(view.columns), theme.scaled(NARROWEST)), theme.scaled(WIDEST))

    def column_at(self, index: int) -> QRectF:
        """Where a column stands."""
        wide = self._wide()
        return QRectF(16 + self._names() + index * wide, 4, wide, self._height())

    def _chosen_box(self, count: int) -> QRectF:
        box = self.column_at(count)
        return QRectF(box.left() + 8, 4, self._chosen_wide(), self._height())

    def _height(self) -> float:
        view = self._view
        assert view is not None
        high = HEAD + ROW * len(view.limits) + 10 + FIGURE * len(view.figures) + PAD
        return float(theme.scaled(high))

    def lay_out(self) -> None:
        view = self._view
        if view is None:
            return
        rows: list[tuple[str, str, str, QRect]] = [
            (column.key, column.spoken, column.tip or column.title, self.column_at(index).toRect())
            for index, column in enumerate(view.columns)
        ]
        self.place_rows(rows)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        view = self._view
        if view is None:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if view.chosen is not None:
            self._paint_ground(painter, self._chosen_box(len(view.columns)), "accentbg", "accent")
        for index, column in enumerate(view.columns):
            box = self.column_at(index)
            if column.taken:
                self._paint_ground(painter, box.adjusted(2, 0, -2, 0), "panel", "accent")
            elif self.focused() == column.key and any(row.hasFocus() for row in self.rows()):
                self._paint_ground(painter, box.adjusted(2, 0, -2, 0), "sel", "meas")
        self._paint_names(painter, view)
        for index, column in enumerate(view.columns):
            self._paint_column(painter, column, self.column_at(index))
        if view.chosen is not None:
            self._paint_chosen(painter, view, view.chosen, self._chosen_box(len(view.columns)))
        painter.end()

    def _paint_ground(self, painter: QPainter, box: QRectF, ground: str, border: str) -> None:
        painter.setPen(theme.pen(theme.tokens()[border], 1.6))
        painter.setBrush(theme.tokens()[ground])
        painter.drawRoundedRect(box, 4, 4)

    def _row_y(self, index: int) -> float:
        return 4 + theme.scaled(HEAD + ROW * index)

    def _figure_y(self, view: BoardView, index: int) -> float:
        return 4 + theme.scaled(HEAD + ROW * len(view.limits) + 10 + FIGURE * index)

    def _paint_names(self, painter: QPainter, view: BoardView) -> None:
        t = theme.tokens()
        right = self.column_at(len(view.columns)).left()
        painter.setPen(t["ink"])
        painter.setFont(theme.font(14, 700))
        painter.drawText(QRectF(16, 10, self._names(), 22), Qt.AlignmentFlag.AlignVCenter, _("Options"))
        painter.setFont(theme.font(12))
        painter.setPen(t["soft"])
        painter.drawText(QRectF(16, 30, self._names(), 20), Qt.AlignmentFlag.AlignVCenter, _("room to limit"))
        for index, (label, unit) in enumerate(view.limits):
            y = self._row_y(index)
            painter.setPen(theme.pen(t["line"], 1))
            painter.drawLine(QPointF(16, y), QPointF(right, y))
            box = QRectF(16, y, self._names() - 6, theme.scaled(ROW))
            painter.setPen(t["ink"])
            painter.setFont(theme.font(13))
            painter.drawText(box, Qt.AlignmentFlag.AlignVCenter, label)
            painter.setPen(t["soft"])
            painter.setFont(theme.font(12))
            painter.drawText(box, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, unit)
        for index, label in enumerate(view.figures):
            y = self._figure_y(view, index)
            painter.setPen(theme.pen(t["rule" if index == 0 else "line"], 2 if index == 0 else 1))
            painter.drawLine(QPointF(16, y), QPointF(right, y))
            painter.setPen(t["ink"])
            painter.setFont(theme.font(13, 600 if index == 0 else 400))
            box = QRectF(16, y, self._names(), theme.scaled(FIGURE))
            painter.drawText(box, Qt.AlignmentFlag.AlignVCenter, label)

    def _paint_column(self, painter: QPainter, column: ColumnView, box: QRectF) -> None:
        self._paint_letter(painter, column, box)
        painter.setPen(theme.tokens()["ink"])
        painter.setFont(theme.font(13, 600))
        title = QRectF(box.left() + 8, box.top() + theme.scaled(22), box.width() - 12, theme.scaled(HEAD - 24))
        painter.drawText(title, Qt.AlignmentFlag.AlignTop | Qt.TextFlag.TextWordWrap, column.title)
        self._paint_cells(painter, column, box, small=True)

    def _paint_letter(self, painter: QPainter, column: ColumnView, box: QRectF) -> None:
        t = theme.tokens()
        side = theme.scaled(19)
        square = QRectF(box.left() + 8, box.top() + 2, side, side)
        painter.setPen(theme.pen(t["accent" if column.taken else "rule"], 1.4))
        painter.setBrush(t["accent" if column.taken else "flag"])
        painter.drawRoundedRect(square, 3, 3)
        painter.setPen(t["onaccent" if column.taken else "ink"])
        painter.setFont(theme.font(12, 700))
        painter.drawText(square, Qt.AlignmentFlag.AlignCenter, column.letter)

    def _paint_cells(self, painter: QPainter, column: ColumnView, box: QRectF, small: bool) -> None:
        view = self._view
        assert view is not None
        t = theme.tokens()
        if not column.cells:
            painter.setPen(t["soft"])
            painter.setFont(theme.font(12))
            words = column.figures[0] if column.figures else _("being solved")
            place = QRectF(box.left() + 8, self._row_y(0) + 4, box.width() - 14, box.height() - theme.scaled(HEAD))
            painter.drawText(place, Qt.AlignmentFlag.AlignTop | Qt.TextFlag.TextWordWrap, words)
            return
        for index, cell in enumerate(column.cells):
            line = QRectF(box.left() + 6, self._row_y(index), box.width() - 14, theme.scaled(ROW))
            self._paint_cell(painter, cell, line, small)
        for index, figure in enumerate(column.figures):
            line = QRectF(box.left() + 6, self._figure_y(view, index), box.width() - 14, theme.scaled(FIGURE))
            painter.setPen(t["ink"])
            painter.setFont(theme.font(13, 600 if index == 0 or not small else 400))
            painter.drawText(line, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, figure)

    def _paint_cell(self, painter: QPainter, cell: Cell, line: QRectF, small: bool) -> None:
        t = theme.tokens()
        middle = line.center().y()
        if not self._compact:
            post = line.left() + BAR + 8
            length = max(abs(cell.bar) * BAR, 1.5)
            left = post if cell.bar < 0 else post - length
            painter.fillRect(QRectF(left, middle - 5, length, 10), state_colour(cell.state))
            painter.setPen(theme.pen(t["ink"], 1.2))  # the band, about the bar's end
            painter.drawLine(QPointF(post - cell.most * BAR, middle), QPointF(post - cell.least * BAR, middle))
            for end in (cell.least, cell.most):
                if abs(end) < 1.0:
                    painter.drawLine(QPointF(post - end * BAR, middle - 2.5), QPointF(post - end * BAR, middle + 2.5))
            painter.setPen(theme.pen(t["ink"], 2))
            painter.drawLine(QPointF(post, middle - 8), QPointF(post, middle + 8))
        painter.setFont(theme.font(13 if small else 14, 700 if cell.state is not State.CLEAR or not small else 500))
        painter.setPen(text_colour(cell.state))
        painter.drawText(line, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, cell.text)
        width = painter.fontMetrics().horizontalAdvance(cell.text)
        draw_state(painter, cell.state, QPointF(line.right() - width - 11, middle), 5)

    def _paint_chosen(self, painter: QPainter, view: BoardView, column: ColumnView, box: QRectF) -> None:
        t = theme.tokens()
        painter.setPen(t["accent"])
        painter.setFont(theme.font(14, 700))
        painter.drawText(QPointF(box.left() + 12, box.top() + theme.scaled(20)), view.chosen_head)
        painter.setPen(t["ink"])
        painter.setFont(theme.font(13, 600))
        words = _("{letters} together").format(letters=column.title) if "+" in column.title else column.title
        painter.drawText(QPointF(box.left() + 12, box.top() + theme.scaled(40)), words)
        self._paint_cells(painter, column, box.adjusted(6, 0, -2, 0), small=False)

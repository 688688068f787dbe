"""Insulations side by side, and the curve of the chosen one."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRect, QRectF, Qt
from PyQt6.QtGui import QFontMetrics, QPainter, QPaintEvent
from PyQt6.QtWidgets import QWidget

from zeotherm.core.judgement.margins import State
from zeotherm.desk.parts.bed.size_shown import CurveView, SizeRow
from zeotherm.desk.style import theme
from zeotherm.desk.style.shapes import draw_state, polygon, text_colour
from zeotherm.desk.widgets.painted import Painted, paint_head
from zeotherm.desk.widgets.rows import RowsWidget
from zeotherm.wording.language import _
from zeotherm.wording.numbers import plain

HEAD, ROW = 30, 27


class SizeList(RowsWidget):
    """Paints a row a material; one can be chosen."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(_("Insulations, best size of each that may be fitted"), parent)
        self._rows_shown: tuple[SizeRow, ...] = ()
        self._chosen = ""

    def show_rows(self, rows: tuple[SizeRow, ...], chosen: str) -> None:
        self._rows_shown, self._chosen = rows, chosen
        self.setMinimumHeight(theme.scaled(HEAD + ROW * max(len(rows), 8)) + 4)
        self.lay_out()
        self.update()

    def _place(self, index: int) -> QRect:
        return QRect(10, theme.scaled(HEAD + ROW * index), self.width() - 20, theme.scaled(ROW))

    def lay_out(self) -> None:
        self.place_rows([(row.key, row.spoken, row.spoken, self._place(n)) for n, row in enumerate(self._rows_shown)])

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        head = QRectF(16, 2, self.width() - 32, theme.scaled(HEAD) - 4)
        paint_head(painter, head, _("What could go under it"), _("largest size that may be fitted"))
        for index, row in enumerate(self._rows_shown):
            self._paint_row(painter, row, QRectF(self._place(index)), index)
        painter.end()

    def _paint_row(self, painter: QPainter, row: SizeRow, box: QRectF, index: int) -> None:
        t = theme.tokens()
        if row.key == self._chosen or self.focused() == row.key:
            painter.setPen(theme.pen(t["meas"], 2) if self.focused() == row.key else Qt.PenStyle.NoPen)
            painter.setBrush(t["sel"])
            painter.drawRoundedRect(box.adjusted(1, 1, -1, -1), 3, 3)
        elif index:
            painter.setPen(theme.pen(t["line"], 1))
            painter.drawLine(box.topLeft(), box.topRight())
        draw_state(painter, row.state, QPointF(box.left() + 14, box.center().y()), 6)
        painter.setFont(theme.font(13, 600))
        painter.setPen(text_colour(row.state))
        middle = Qt.AlignmentFlag.AlignVCenter
        name = box.adjusted(28, 0, 0, 0)
        width = int(0.34 * box.width())
        painter.drawText(name, middle, painter.fontMetrics().elidedText(row.label, Qt.TextElideMode.ElideRight, width))
        rest = box.adjusted(36 + width, 0, -8, 0)
        painter.setFont(theme.font(12))
        if row.blocked:
            text = painter.fontMetrics().elidedText(row.blocked, Qt.TextElideMode.ElideRight, int(rest.width()))
            painter.drawText(rest, middle, text)
            return
        painter.setPen(t["ink"])
        painter.drawText(rest, middle, row.size)
        painter.drawText(rest.adjusted(theme.scaled(48), 0, 0, 0), middle, row.saves)
        room = rest.width() - theme.scaled(130)
        wide = QFontMetrics(painter.font()).horizontalAdvance(f"{row.money}, {row.pays}") < room
        painter.drawText(rest, middle | Qt.AlignmentFlag.AlignRight, f"{row.money}, {row.pays}" if wide else row.money)


class SizeCurve(Painted):
    """Paints watts over thickness: the room below, the sizes sold, half of the good, the material's own limit."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._view: CurveView | None = None
        self.setAccessibleName(_("Watts over thickness"))
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setMinimumHeight(theme.scaled(190))

    def show_view(self, view: CurveView | None) -> None:
        self._view = view
        self.setAccessibleDescription(view.spoken if view is not None else "")
        self.setToolTip(view.spoken if view is not None else "")
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        t = theme.tokens()
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        head = QRectF(16, 2, self.width() - 32, theme.scaled(HEAD) - 4)
        view = self._view
        paint_head(painter, head, _("Watts to hold, by thickness"), view.marginal if view is not None else "")
        if view is not None:
            self._paint_curve(painter, view)
        if self.hasFocus():
            painter.setPen(theme.pen(t["meas"], 2))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(self.rect().adjusted(1, 1, -2, -2))
        painter.end()

    def _paint_curve(self, painter: QPainter, view: CurveView) -> None:
        t = theme.tokens()
        plot = QRectF(self.rect()).adjusted(theme.scaled(52), theme.scaled(HEAD) + 16, -20, -theme.scaled(62))
        high, low = float(view.watts[0]) * 1.05, max(0.0, float(view.watts[-1]) * 0.8)
        most = float(view.mm[-1])

        def place(mm: float, watts: float) -> QPointF:
            return QPointF(plot.left() + plot.width() * mm / most,
                           plot.bottom() - plot.height() * (watts - low) / (high - low))  # fmt: skip

        beyond = QRectF(place(min(view.fits_mm, most), high), place(most, low))
        painter.fillRect(beyond, t["overbg"])
        painter.setFont(theme.font(12))
        for n in range(4):
            value = low + n * (high - low) / 3.0
            y = place(0.0, value).y()
            painter.setPen(theme.pen(t["line"], 1))
            painter.drawLine(QPointF(plot.left(), y), QPointF(plot.right(), y))
            painter.setPen(t["soft"])
            box = QRectF(0, y - 9, plot.left() - 6, 18)
            painter.drawText(box, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, f"{plain(value, 0)} W")
        painter.setPen(theme.pen(t["ink"], 2))
        painter.drawPolyline(
            polygon(*((place(x, y).x(), place(x, y).y()) for x, y in zip(view.mm, view.watts, strict=True)))
        )
        self._paint_posts(painter, view, plot, place)

    def _paint_posts(self, painter: QPainter, view: CurveView, plot: QRectF, place: object) -> None:
        from numpy import interp

        t = theme.tokens()
        assert callable(place)

        def on_curve(mm: float) -> QPointF:
            point: QPointF = place(mm, float(interp(mm, view.mm, view.watts)))
            return point

        if view.fits_mm <= view.mm[-1]:
            x = on_curve(view.fits_mm).x()
            painter.setPen(theme.pen(t["over"], 2))
            painter.drawLine(QPointF(x, plot.top() - 4), QPointF(x, plot.bottom()))
            painter.drawText(QRectF(x + 4, plot.top() - 6, plot.right() - x, 18), Qt.AlignmentFlag.AlignVCenter,
                             _("no room below"))  # fmt: skip
        half = on_curve(view.half_mm)
        painter.setPen(theme.pen(t["soft"], 1.2, Qt.PenStyle.DotLine))
        painter.drawLine(half, QPointF(half.x(), plot.bottom()))
        painter.setPen(t["soft"])
        painter.drawText(
            QRectF(half.x() + 4, plot.bottom() - 19, 120, 18), Qt.AlignmentFlag.AlignVCenter, _("half of the good")
        )
        for mm, may in view.sizes:
            point = on_curve(mm)
            best = view.best_mm is not None and abs(mm - view.best_mm) < 0.01
            state = State.CLEAR if may else State.OVER
            if best:
                painter.setPen(Qt.PenStyle.NoPen)
                painter.setBrush(t["accentbg"])
                painter.drawEllipse(point, 12, 12)
            draw_state(painter, state, point, 6)
            painter.setFont(theme.font(12, 700 if best else 400))
            painter.setPen(t["accent" if best else "soft"])
            painter.drawText(
                QRectF(point.x() - 30, plot.bottom() + 3, 60, 16), Qt.AlignmentFlag.AlignHCenter, f"{plain(mm, 0)} mm"
            )
        self._paint_class(painter, view, plot)

    def _paint_class(self, painter: QPainter, view: CurveView, plot: QRectF) -> None:
        """The warm side against the material's own limit, on a track of its own."""
        t = theme.tokens()
        y = plot.bottom() + theme.scaled(36)
        low, high = 20.0, max(view.limit_c * 1.15, 140.0)

        def x_of(value: float) -> float:
            return plot.left() + plot.width() * min(max((value - low) / (high - low), 0.0), 1.0)

        painter.fillRect(QRectF(plot.left(), y - 2, plot.width(), 4), t["well"])
        painter.setPen(theme.pen(t["ink"], 2))
        painter.drawLine(QPointF(x_of(view.limit_c), y - 8), QPointF(x_of(view.limit_c), y + 8))
        draw_state(painter, State.OVER if view.warm_c > view.limit_c else State.CLEAR, QPointF(x_of(view.warm_c), y), 6)
        painter.setFont(theme.font(12))
        painter.setPen(t["ink"])
        text = _("warm side {warm} °C, {label} stands {limit} °C").format(
            warm=plain(view.warm_c, 0), label=view.label, limit=plain(view.limit_c, 0)
        )
        painter.drawText(QRectF(plot.left(), y + 7, plot.width(), 18), Qt.AlignmentFlag.AlignVCenter, text)

"""Temperature against flow: paper works, hatched does not, grey is the 95 % band; the ring is the job's most flow."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QBrush, QColor, QKeyEvent, QPainter, QPainterPath, QPaintEvent, QPen, QPolygonF
from PyQt6.QtWidgets import QWidget

from zeotherm.answers.window import WindowFound
from zeotherm.core.choices.window import NEVER, PrintingWindow
from zeotherm.core.parts.hotend.judge.capacity import MELT_DOUBT
from zeotherm.desk.style import theme
from zeotherm.desk.style.patina import Span
from zeotherm.desk.widgets.painted import Painted, paint_head
from zeotherm.wording import window as words
from zeotherm.wording.language import _
from zeotherm.wording.numbers import plain, with_unit

HEAD, LEFT, RIGHT, BOTTOM, BAR = 30, 74, 16, 28, 9
MIDDLE = Qt.AlignmentFlag.AlignVCenter
LEFTWARD = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
ABOVE_K = 12.0  # over the ceiling or the job, that is shown
MOVES = {Qt.Key.Key_Up: (1.0, 0.0), Qt.Key.Key_Down: (-1.0, 0.0), Qt.Key.Key_Left: (0.0, -0.5),
         Qt.Key.Key_Right: (0.0, 0.5)}  # fmt: skip


class WindowChart(Painted):
    """Paints a `WindowFound`; arrow keys move the job's point."""

    moved = pyqtSignal(float, float)  # K, mm³/s

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMinimumSize(QSize(320, 280))
        self._found: WindowFound | None = None
        self._picked: float | None = None  # the ceiling with the widening that is picked [°C]

    def show_found(self, found: WindowFound, picked: float | None) -> None:
        """picked: where the ceiling would be with the widening that is picked."""
        self._found, self._picked = found, picked
        verdict = words.verdict(found.window, found.catalogue, found.open)
        self.setAccessibleName(f"{_('Temperature against flow')}. {verdict.headline}. {words.strip(found.window)}")
        self.update()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and Qt.Key(event.key()) in MOVES:
            self.moved.emit(*MOVES[Qt.Key(event.key())])
        else:
            super().keyPressEvent(event)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        found, t = self._found, theme.tokens()
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        head = QRectF(16, 2, self.width() - 32, theme.scaled(HEAD) - 4)
        paint_head(painter, head, _("Temperature against flow"), _("95 % bands shaded"))
        plot = QRectF(theme.scaled(LEFT), theme.scaled(HEAD) + 6, self.width() - theme.scaled(LEFT) - RIGHT,
                      self.height() - theme.scaled(HEAD) - 6 - theme.scaled(BOTTOM))  # fmt: skip
        if self.hasFocus():
            painter.setPen(theme.pen(t["meas"], 2))
            painter.drawRect(plot.adjusted(-3, -3, 3, 3))
        if found is None or len(found.window.edges) < 2:
            painter.setPen(t["soft"])
            painter.drawText(plot, Qt.AlignmentFlag.AlignCenter, _("being solved"))
            painter.end()
            return
        view = _View(found.window, plot, self._picked)
        painter.fillRect(plot, t["well"])
        painter.fillRect(plot, QBrush(t["line"], Qt.BrushStyle.BDiagPattern))
        self._paint_axes(painter, plot, view)
        painter.save()
        painter.setClipRect(plot)
        self._paint_inside(painter, view, found.window)
        self._paint_ceilings(painter, view, found.window)
        painter.restore()
        self._paint_words(painter, view, found.window)
        if found.window.room is not None:
            self._paint_job(painter, view, found.window)
        painter.end()

    def _paint_axes(self, painter: QPainter, plot: QRectF, view: _View) -> None:
        t = theme.tokens()
        painter.setFont(theme.font(12))
        scale = Span.FULL.value
        bar = QRectF(plot.left() - BAR - 4, plot.top(), BAR, plot.height())
        for row in range(int(bar.height())):  # the ladder's colours beside the axis
            painter.fillRect(QRectF(bar.left(), bar.top() + row, BAR, 1.5), scale.colour(view.kelvin(bar.top() + row)))
        step = 10 if view.high - view.low <= 90 else 20
        for value in range(int(np.ceil(view.low / step)) * step, int(view.high) + 1, step):
            y = view.y(value)
            painter.setPen(theme.pen(t["rule"], 1))
            painter.drawLine(QPointF(bar.left() - 5, y), QPointF(bar.left(), y))
            painter.setPen(t["soft"])
            last = value + step > view.high
            text = with_unit(value, "°C", 0) if last else str(value)
            painter.drawText(QRectF(0, y - 9, bar.left() - 8, 18), LEFTWARD, text)
        flow_step = next(one for one in (1, 2, 4, 5, 10, 20) if view.most / one <= 7)
        for flow in range(0, int(view.most) + 1, flow_step):
            x = view.x(flow)
            painter.setPen(theme.pen(t["rule"], 1))
            painter.drawLine(QPointF(x, plot.bottom()), QPointF(x, plot.bottom() + 4))
            painter.setPen(t["soft"])
            text = with_unit(flow, "mm³/s", 0) if flow + flow_step > view.most else str(flow)
            box = QRectF(x - 40, plot.bottom() + 5, 80, 18)
            if flow + flow_step > view.most:
                box = QRectF(min(x - 40, plot.right() - 62), plot.bottom() + 5, 80, 18)
            painter.drawText(box, Qt.AlignmentFlag.AlignHCenter | Qt.AlignmentFlag.AlignTop, text)

    def _paint_inside(self, painter: QPainter, view: _View, window: PrintingWindow) -> None:
        """Where it prints: below the ceiling, between both edges; a picked widening dashed."""
        t = theme.tokens()
        if self._picked is not None and self._picked > window.ceiling.value + 0.5:
            wider = view.inside(window, self._picked)
            painter.setBrush(t["accentbg"])
            dashed = QPen(t["accent"], 1.6)
            dashed.setDashPattern([4.0, 3.0])
            painter.setPen(dashed)
            painter.drawPath(wider)
        inside = view.inside(window, window.ceiling.value)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(t["panel"])
        painter.drawPath(inside)
        band = QColor(t["soft"])
        band.setAlpha(70)
        painter.setBrush(band)
        for polygon in view.bands(window):
            painter.drawPolygon(polygon)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(theme.pen(t["ink"], 2.4))
        most, least = view.lines(window)
        painter.drawPolyline(QPolygonF(most))
        if len(least) > 1:
            painter.drawPolyline(QPolygonF(least))

    def _paint_ceilings(self, painter: QPainter, view: _View, window: PrintingWindow) -> None:
        t = theme.tokens()
        painter.setFont(theme.font(12))
        shown: list[float] = []
        usual = (window.usual[0], _("usual from {value}").format(value=plain(window.usual[0], 0)))
        caps = [(cap.value, _("{part} {value}").format(part=cap.part, value=plain(cap.value, 0)))
                for cap in window.ceilings]  # fmt: skip
        for number, (value, text) in enumerate([*caps, usual]):
            y = view.y(value)
            if not view.plot.top() - 2 <= y <= view.plot.bottom() or any(abs(y - one) < 19 for one in shown):
                continue
            shown.append(y)
            colour = t["close"] if number == 0 else t["soft"]
            pen = QPen(colour, 2.2 if number == 0 else 1.2)
            if number:
                pen.setDashPattern([4.0, 3.0])
            painter.setPen(pen)
            painter.drawLine(QPointF(view.plot.left(), y), QPointF(view.plot.right(), y))
            painter.setPen(colour)
            painter.setFont(theme.font(12, 600 if number == 0 else 400))
            wide = int(0.8 * view.plot.width())
            text = painter.fontMetrics().elidedText(text, Qt.TextElideMode.ElideRight, wide)
            painter.drawText(QRectF(view.plot.right() - wide - 6, y - 18, wide, 17), LEFTWARD, text)

    def _paint_words(self, painter: QPainter, view: _View, window: PrintingWindow) -> None:
        """What each side means, where there is room to say it."""
        t, plot = theme.tokens(), view.plot
        painter.setFont(theme.font(15, 700))
        painter.setPen(t["soft"])
        top = view.y(window.ceiling.value)
        if top - plot.top() > theme.scaled(60):
            box = QRectF(plot.left(), plot.top() + 8, plot.width() * 0.5, theme.scaled(22))
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter, _("too hot"))
        corner = QRectF(plot.center().x(), plot.bottom() - theme.scaled(44), plot.width() / 2 - 8, theme.scaled(24))
        painter.drawText(corner, LEFTWARD, _("too cold"))
        least = [one.least for one in window.edges if one.nozzle <= window.ceiling.value]
        if least and min(least) > 0.06 * view.most:
            painter.save()
            painter.translate(plot.left() + theme.scaled(20), plot.center().y())
            painter.rotate(-90)
            painter.drawText(QRectF(-70, -12, 140, 24), Qt.AlignmentFlag.AlignCenter, _("creeps"))
            painter.restore()

    def _paint_job(self, painter: QPainter, view: _View, window: PrintingWindow) -> None:
        """The job's flows as a bar, its most flow as a ring, and the room to each side."""
        t, room = theme.tokens(), window.room
        assert room is not None
        y = view.y(window.nozzle)
        left, right = view.x(window.flows[0]), view.x(window.flows[1])
        painter.setPen(theme.pen(t["ink"], 1.4))
        painter.setBrush(t["flag"])
        painter.drawRoundedRect(QRectF(left, y - 3.5, max(right - left, 1.0), 7), 3, 3)
        arrows = (
            ("up", QPointF(right, y - 8), QPointF(right, view.y(window.nozzle + room.up))),
            ("down", QPointF(right, y + 8), QPointF(right, view.y(window.nozzle - room.down))),
            ("right", QPointF(right + 8, y), QPointF(view.x(window.flows[1] + room.right), y)),
            ("left", QPointF(left - 6, y), QPointF(view.x(window.flows[0] - max(room.left, -NEVER / 2)), y)),
        )
        painter.setFont(theme.font(13, 700))
        for side, start, end in arrows:
            value = room.of(side)
            if value < 0.0 or (side == "left" and value > 0.5 * NEVER):
                continue
            end = QPointF(min(max(end.x(), view.plot.left()), view.plot.right()),
                          min(max(end.y(), view.plot.top()), view.plot.bottom()))  # fmt: skip
            painter.setPen(theme.pen(t["ink"], 1.6))
            painter.drawLine(start, end)
            painter.drawEllipse(end, 2, 2)
            middle = QPointF(0.5 * (start.x() + end.x()), 0.5 * (start.y() + end.y()))
            text = words.amount(side, value)
            box = QRectF(middle.x() + 6, middle.y() - 9, 90, 18) if side in ("up", "down") else QRectF(
                middle.x() - 45, y - 22, 90, 18)  # fmt: skip
            align = MIDDLE if side in ("up", "down") else Qt.AlignmentFlag.AlignCenter
            painter.drawText(box, align, text)
        painter.setPen(theme.pen(t["ink"], 2))
        painter.setBrush(t["flag"])
        painter.drawEllipse(QPointF(right, y), 7, 7)
        painter.setBrush(t["ink"])
        painter.drawEllipse(QPointF(right, y), 2.5, 2.5)


class _View:
    """Where temperatures and flows lie on the plot."""

    def __init__(self, window: PrintingWindow, plot: QRectF, picked: float | None) -> None:
        self.plot = plot
        edges = window.edges
        self.low = min(edges[0].nozzle, window.nozzle - 10.0)
        self.high = max(window.ceiling.value, window.nozzle, picked or 0.0) + ABOVE_K
        melts = max(one.most for one in edges)
        self.most = max(1.12 * melts, 1.25 * window.flows[1], 2.0)

    def x(self, flow: float) -> float:
        """Of a flow [px]."""
        return self.plot.left() + flow / self.most * self.plot.width()

    def y(self, nozzle: float) -> float:
        """Of a temperature [px]."""
        return self.plot.bottom() - (nozzle - self.low) / (self.high - self.low) * self.plot.height()

    def kelvin(self, y: float) -> float:
        """The temperature at a height [°C]."""
        return self.low + (self.plot.bottom() - y) / self.plot.height() * (self.high - self.low)

    def lines(self, window: PrintingWindow) -> tuple[list[QPointF], list[QPointF]]:
        """Both edges below the ceiling."""
        heights, most, least = self._edges(window, window.ceiling.value)
        right = [QPointF(self.x(flow), self.y(at)) for flow, at in zip(most, heights, strict=True)]
        left = [
            QPointF(self.x(flow), self.y(at)) for flow, at in zip(least, heights, strict=True) if 0.05 < flow < NEVER
        ]
        return right, left

    def _edges(self, window: PrintingWindow, ceiling: float) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
        known = np.array([one.nozzle for one in window.edges])
        low = max(known[0], window.usual[0])
        heights = np.linspace(low, max(ceiling, low + 0.5), 40)
        most = np.interp(heights, known, [one.most for one in window.edges])
        beyond = heights > known[-1]
        rise = (window.edges[-1].most - window.edges[-2].most) / (known[-1] - known[-2])
        most[beyond] += rise * (heights[beyond] - known[-1])
        least = np.interp(heights, known, [min(one.least, NEVER) for one in window.edges])
        return heights, most, least

    def inside(self, window: PrintingWindow, ceiling: float) -> QPainterPath:
        """Where it prints."""
        heights, most, least = self._edges(window, ceiling)
        keep = least < most
        path = QPainterPath()
        if not keep.any():
            return path
        right = [QPointF(self.x(flow), self.y(at)) for flow, at in zip(most[keep], heights[keep], strict=True)]
        left = [QPointF(self.x(flow), self.y(at)) for flow, at in zip(least[keep], heights[keep], strict=True)]
        path.addPolygon(QPolygonF([*left, *reversed(right), left[0]]))
        return path

    def bands(self, window: PrintingWindow) -> list[QPolygonF]:
        """The 95 % bands of both edges, and of the ceiling its part's own tolerance is kept off already."""
        heights, most, least = self._edges(window, window.ceiling.value)

        def between(one: np.ndarray, other: np.ndarray) -> QPolygonF:
            up = [QPointF(self.x(flow), self.y(at)) for flow, at in zip(one, heights, strict=True)]
            down = [QPointF(self.x(flow), self.y(at)) for flow, at in zip(other, heights, strict=True)]
            return QPolygonF([*up, *reversed(down)])

        made = [between((1.0 - MELT_DOUBT) * most, (1.0 + MELT_DOUBT) * most)]
        known = (least > 0.05) & (least < NEVER)
        if known.any():
            by = np.where(known, window.creep_doubt * least, 0.0)
            made.append(between(np.maximum(least - by, 0.0), np.minimum(least + by, most)))
        return made

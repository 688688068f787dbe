"""Runs over one common clock: a panel for what is compared, one for the plug meter, a cursor for when."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QWheelEvent
from PyQt6.QtWidgets import QSizePolicy, QWidget

from zeotherm.desk.style import theme
from zeotherm.desk.views.measure import curves
from zeotherm.desk.views.measure.curves import PlotFrame
from zeotherm.desk.views.measure.runs_shown import RunPanel, RunsView
from zeotherm.desk.widgets.painted import Painted
from zeotherm.wording.language import _
from zeotherm.wording.runs import elapsed

LEFT, RIGHT, TOP, FOOT, METER, BETWEEN = 54, 96, 46, 26, 66, 20
MINUTE = 60.0
LEAST_SPAN = 60.0  # s
NAMED = (0.12, 0.30)  # of the width, where each channel's name stands
MULTIPLE = (250, 130)  # least px of a small multiple


class RunPlot(Painted):
    """Paints the chosen channels of a `RunsView`; emits the time its cursor was moved to."""

    moved = pyqtSignal(object)  # s at which levels are compared, or None for the end of what all runs have

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._view: RunsView | None = None
        self._channels: tuple[str, ...] = ()
        self._sight: tuple[float, float] | None = None
        self._dragged: float | None = None
        self._multiples = False
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumSize(300, 170)
        self.setAccessibleName(_("Runs over time"))

    def sizeHint(self) -> QSize:
        return QSize(640, 360)

    @property
    def sight(self) -> tuple[float, float]:
        """The stretch of time in sight [s]."""
        if self._sight is not None:
            return self._sight
        return (self._view.begin, self._view.end) if self._view is not None else (0.0, 1.0)

    @property
    def channels(self) -> tuple[str, ...]:
        """The channels that are drawn."""
        return self._channels

    def show_view(self, view: RunsView, channels: tuple[str, ...]) -> None:
        self._view, self._channels = view, channels
        told = [f"{panel.label} {panel.change} {panel.band}".strip() for panel in self._panels(view)]
        self.setAccessibleDescription(_("{panels}; levels at {time}").format(
            panels=", ".join(told), time=elapsed(view.at)))  # fmt: skip
        self.update()

    def show_multiples(self, on: bool) -> None:
        """Every channel for itself, small, instead of the chosen ones together."""
        self._multiples = on
        self.update()

    def look_at(self, begin: float, end: float) -> None:
        """Bring a stretch of time into sight."""
        if self._view is None:
            return
        span = max(end - begin, LEAST_SPAN)
        self._sight = (begin, begin + span)
        self.update()

    def whole(self) -> None:
        """Bring all of it into sight."""
        self._sight = None
        self.update()

    # what is done to it

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        self.setFocus()
        if event is None or self._view is None:
            return
        if event.button() == Qt.MouseButton.LeftButton and not event.modifiers():
            self.moved.emit(self._time_at(event.position().x()))
        self._dragged = event.position().x()

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is None or self._view is None or self._dragged is None:
            return
        if event.buttons() & Qt.MouseButton.LeftButton and not event.modifiers():
            self.moved.emit(self._time_at(event.position().x()))
            return
        begin, end = self.sight
        by = (self._dragged - event.position().x()) / max(self._plot().width(), 1.0) * (end - begin)
        self._dragged = event.position().x()
        self.look_at(begin + by, end + by)

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        self._dragged = None
        super().mouseReleaseEvent(event)

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        if event is None or self._view is None:
            return
        self._zoom(0.8 if event.angleDelta().y() > 0 else 1.25, self._time_at(event.position().x()))
        event.accept()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None or self._view is None:
            super().keyPressEvent(event)
            return
        control = bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier)
        step = (10 if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 1) * MINUTE
        begin, end = self.sight
        key = Qt.Key(event.key())
        if key in (Qt.Key.Key_Left, Qt.Key.Key_Right):
            way = -1.0 if key == Qt.Key.Key_Left else 1.0
            if control:
                self.look_at(begin + way * 0.1 * (end - begin), end + way * 0.1 * (end - begin))
            else:
                self.moved.emit(min(max(self._view.at + way * step, 0.0), self._view.end))
        elif key in (Qt.Key.Key_Plus, Qt.Key.Key_Minus):
            self._zoom(0.8 if key == Qt.Key.Key_Plus else 1.25, min(max(self._view.at, begin), end))
        elif key == Qt.Key.Key_Home:
            self.whole()
        elif key == Qt.Key.Key_End or key == Qt.Key.Key_Backspace:
            self.moved.emit(None)
        else:
            super().keyPressEvent(event)

    def _zoom(self, by: float, about: float) -> None:
        begin, end = self.sight
        self.look_at(about - (about - begin) * by, about + (end - about) * by)

    def _time_at(self, x: float) -> float:
        plot = self._plot()
        begin, end = self.sight
        return begin + (end - begin) * min(max((x - plot.left()) / max(plot.width(), 1.0), 0.0), 1.0)

    # painting

    def _panels(self, view: RunsView) -> list[RunPanel]:
        return [view.panels[key] for key in self._channels if key in view.panels]

    def _meter(self, view: RunsView) -> RunPanel | None:
        return view.panels.get("power") if "power" not in self._channels else None

    def _plot(self) -> QRectF:
        below = theme.scaled(FOOT)
        if self._view is not None and self._meter(self._view) is not None:
            below += theme.scaled(METER + BETWEEN)
        return QRectF(LEFT, theme.scaled(TOP), self.width() - LEFT - theme.scaled(RIGHT),
                      max(self.height() - theme.scaled(TOP) - below, 40))  # fmt: skip

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        if self._view is None or not self._view.panels:
            self._paint_empty(painter)
        elif self._multiples:
            self._paint_multiples(painter, self._view)
        else:
            self._paint_together(painter, self._view)
        if self.hasFocus():
            painter.setPen(theme.pen(theme.tokens()["meas"], 2))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(self.rect().adjusted(1, 1, -2, -2))
        painter.end()

    def _paint_empty(self, painter: QPainter) -> None:
        t = theme.tokens()
        painter.fillRect(self.rect().adjusted(16, 12, -16, -12), t["well"])
        painter.setPen(t["soft"])
        painter.setFont(theme.font(14))
        words = _("Drop a log here: a logger's CSV, a printer's console, a plug meter.\n"
                  "Runs are lined up and compared as they come.")  # fmt: skip
        painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, words)

    def _paint_together(self, painter: QPainter, view: RunsView) -> None:
        begin, end = self.sight
        panels, meter = self._panels(view), self._meter(view)
        plot = self._plot()
        frame = PlotFrame(plot, begin, end, *curves.span_of(panels, begin, end))
        self._paint_legend(painter, view, panels)
        curves.draw_axes(painter, frame, panels[0].unit if panels else "", times=meter is None)
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setClipRect(plot.adjusted(0, -2, 0, 2))
        self._paint_panels(painter, panels, frame)
        painter.restore()
        self._paint_cursor(painter, view, frame)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        self._paint_names(painter, panels, frame, view)
        self._paint_changes(painter, panels, frame)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)
        if meter is not None:
            self._paint_meter(painter, meter, frame)

    def _paint_legend(self, painter: QPainter, view: RunsView, panels: list[RunPanel]) -> None:
        """Each kind of run by number and colour, and the model."""
        t = theme.tokens()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        x, y = 24.0, theme.scaled(14)
        room = (self.width() - 40) / max(len(view.legend) + 1, 2)
        for number, token, label in view.legend:
            curves.draw_badge(painter, QPointF(x, y), number, token)
            painter.setPen(t["ink"])
            painter.setFont(theme.font(13, 600))
            text = painter.fontMetrics().elidedText(label, Qt.TextElideMode.ElideRight, int(room - 34))
            painter.drawText(QPointF(x + theme.scaled(14), y + 5), text)
            x += painter.fontMetrics().horizontalAdvance(text) + theme.scaled(42)
        if any(panel.model is not None for panel in panels):
            painter.setPen(_dashed(t["soft"]))
            painter.drawLine(QPointF(x, y), QPointF(x + 26, y))
            painter.setPen(t["soft"])
            painter.setFont(theme.font(13))
            painter.drawText(QPointF(x + 32, y + 5), _("model, as found"))
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)

    def _paint_panels(self, painter: QPainter, panels: Sequence[RunPanel], frame: PlotFrame) -> None:
        """All bands first, so that none hides a curve."""
        for panel in panels:
            if panel.model_band is not None:
                curves.draw_band(painter, *panel.model_band, frame)
        for panel in panels:
            self._paint_panel(painter, panel, frame)

    def _paint_panel(self, painter: QPainter, panel: RunPanel, frame: PlotFrame) -> None:
        t = theme.tokens()
        if panel.limit is not None and frame.low < panel.limit < frame.high:
            pen = QPen(t["over"], 1)
            pen.setDashPattern([6, 4])
            painter.setPen(pen)
            y = frame.y(panel.limit)
            painter.drawLine(QPointF(frame.plot.left(), y), QPointF(frame.plot.right(), y))
            painter.setFont(theme.font(12, 600))
            painter.drawText(QPointF(frame.plot.left() + 8, y - 4), f"{panel.label}, {panel.limit_text}")
        if panel.model is not None:
            painter.setPen(_dashed(t["soft"]))
            curves.draw_line(painter, *panel.model, frame, broken=False)
        for curve in panel.curves:
            curves.draw_curve(painter, curve, frame)

    def _paint_cursor(self, painter: QPainter, view: RunsView, frame: PlotFrame) -> None:
        if not frame.begin <= view.at <= frame.end:
            return
        t = theme.tokens()
        pen = QPen(t["meas"], 1)
        pen.setDashPattern([2, 3])
        painter.setPen(pen)
        x = frame.x(view.at)
        painter.drawLine(QPointF(x, frame.plot.top()), QPointF(x, frame.plot.bottom()))
        painter.setPen(t["meas"])
        painter.setFont(theme.font(12, 600))
        box = QRectF(x - 100, frame.plot.top() - theme.scaled(20), 96, 18)
        painter.drawText(box, Qt.AlignmentFlag.AlignRight, _("levels at {time}").format(time=elapsed(view.at)))

    def _paint_names(self, painter: QPainter, panels: list[RunPanel], frame: PlotFrame, view: RunsView) -> None:
        """Each channel's name by its curves, and each run's number on them."""
        for index, panel in enumerate(panels):
            at = frame.begin + NAMED[index % len(NAMED)] * (frame.end - frame.begin)
            heights = []
            for order, curve in enumerate(panel.curves):
                badge = frame.begin + (0.62 + 0.06 * (order % 3)) * (frame.end - frame.begin)
                value = _value_at(curve.times, curve.values, badge)
                if value is not None and frame.low < value < frame.high:
                    curves.draw_badge(painter, QPointF(frame.x(badge), frame.y(value)), curve.number, curve.token)
                here = _value_at(curve.times, curve.values, at)
                heights += [frame.y(here)] if here is not None else []
            if heights:  # the first above its highest curve, the next below its lowest
                y = min(heights) - theme.scaled(8) if index == 0 else max(heights) + theme.scaled(18)
                painter.setPen(theme.tokens()["ink"])
                painter.setFont(theme.font(13, 600))
                y = min(max(y, frame.plot.top() + 12), frame.plot.bottom() - 4)
                painter.drawText(QPointF(frame.x(at), y), panel.label)

    def _paint_changes(self, painter: QPainter, panels: list[RunPanel], frame: PlotFrame) -> None:
        x = frame.plot.right() + 12
        last = -1e9
        for panel in sorted((one for one in panels if one.ends), key=lambda one: -max(one.ends)):
            one, other = (frame.y(min(max(value, frame.low), frame.high)) for value in panel.ends)
            if (one + other) / 2 - last < theme.scaled(40):
                continue
            last = (one + other) / 2
            curves.draw_dimension(painter, x, one, other, panel, theme.scaled(RIGHT) - 20)

    def _paint_meter(self, painter: QPainter, meter: RunPanel, frame: PlotFrame) -> None:
        top = self.height() - theme.scaled(FOOT + METER)
        plot = QRectF(frame.plot.left(), top, frame.plot.width(), theme.scaled(METER))
        low, high = curves.span_of([meter], frame.begin, frame.end)
        own = PlotFrame(plot, frame.begin, frame.end, min(0.0, low), max(high, 1.0))
        curves.draw_axes(painter, own, meter.unit, times=True, most=3)
        painter.save()
        painter.setClipRect(plot)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        for curve in meter.curves:
            curves.draw_curve(painter, curve, own)
        painter.restore()
        painter.setPen(theme.tokens()["soft"])
        painter.setFont(theme.font(12))
        painter.drawText(QPointF(plot.right() + 10, plot.center().y() + 4), meter.label)

    def _paint_multiples(self, painter: QPainter, view: RunsView) -> None:
        """Every channel for itself, all over the same time."""
        panels = list(view.panels.values())
        across = max(1, min(len(panels), self.width() // theme.scaled(MULTIPLE[0])))
        down = -(-len(panels) // across)
        wide, high = self.width() / across, self.height() / max(down, 1)
        begin, end = self.sight
        for index, panel in enumerate(panels):
            left, top = index % across * wide, index // across * high
            plot = QRectF(left + 50, top + theme.scaled(24), wide - 64, max(high - theme.scaled(50), 30))
            frame = PlotFrame(plot, begin, end, *curves.span_of([panel], begin, end))
            last = index + across >= len(panels)
            curves.draw_axes(painter, frame, "", times=last, most=3)
            painter.save()
            painter.setClipRect(plot)
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            self._paint_panels(painter, [panel], frame)
            painter.restore()
            painter.setPen(theme.tokens()["ink"])
            painter.setFont(theme.font(13, 600))
            head = f"{panel.label}, {panel.unit}" if panel.unit else panel.label
            painter.drawText(QPointF(plot.left(), top + theme.scaled(16)), head)
            painter.setFont(theme.font(12, 600 if panel.real else 400))
            painter.setPen(theme.tokens()["ink" if panel.real else "soft"])
            text = f"{panel.change} {panel.band}".strip()
            painter.drawText(QRectF(left, top + 2, wide - 14, theme.scaled(20)), Qt.AlignmentFlag.AlignRight, text)


def _dashed(colour: QColor) -> QPen:
    pen = QPen(colour, 1.2)
    pen.setDashPattern([5, 3])
    return pen


def _value_at(times: curves.Array, values: curves.Array, time: float) -> float | None:
    if not len(times) or not times[0] <= time <= times[-1]:
        return None
    at = int(times.searchsorted(time))
    return float(values[min(at, len(values) - 1)])

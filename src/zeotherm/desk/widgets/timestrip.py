"""The time strip: the whole job as curves, what happens when, and a scrubber."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import (
    QBrush,
    QColor,
    QFontMetrics,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QPixmap,
    QPolygonF,
    QResizeEvent,
)
from PyQt6.QtWidgets import QWidget

from zeotherm.desk.style import theme
from zeotherm.desk.style.shapes import draw_state, polygon
from zeotherm.desk.timeview import Ribbon, StationCurve, StripView
from zeotherm.desk.widgets.painted import Painted
from zeotherm.wording.language import _
from zeotherm.wording.numbers import clock

HEIGHT, FOLDED, JAM = 140, 30, 9
BEGUN = 0.005  # of what the drive has left, from which residue is drawn
FILLED = 26  # px that residue stands high where it stops the feed
LEFT, RIGHT, HEAD, FOOT = 46, 92, 40, 20
MINUTE = 60.0
STEPS = (10, 20, 50, 100, 200, 500, 1000, 2000)  # of its axis
GRAIN, DOTS = 400, 110  # points a curve, and a measured one, is drawn with
RESTING = {"preheat", "soak", "pause", "cool"}


class TimeStrip(Painted):
    """Paints a `StripView`; emits the time that was scrubbed to."""

    scrubbed = pyqtSignal(object)  # s, or None for the worst moment

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._view: StripView | None = None
        self._folded = False
        self._drawn: QPixmap | None = None
        self._stale = False
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(_("Time strip"))
        self._fit()

    @property
    def view(self) -> StripView | None:
        """What is shown."""
        return self._view

    @property
    def folded(self) -> bool:
        """Whether only its sentence shows."""
        return self._folded

    def show_view(self, view: StripView | None) -> None:
        same = view is not None and self._view is not None and view.made_of is self._view.made_of
        self._view = view
        self._stale = False
        if not same:
            self._drawn = None
        self.setAccessibleDescription(f"{view.spoken}. {view.sentence}" if view else _("The job is being run"))
        self.setToolTip(view.sentence if view else "")
        self.update()

    def set_stale(self) -> None:
        """What is shown is not of the values that are set."""
        if not self._stale:
            self._stale = True
            self.update()

    def set_folded(self, folded: bool) -> None:
        """Only the sentence, or all."""
        self._folded = folded
        self._fit()
        self.refresh()

    def refresh(self) -> None:
        """Draw anew, as after a change of theme."""
        self._fit()
        self._drawn = None
        self.update()

    def _fit(self) -> None:
        self.setFixedHeight(theme.scaled(FOLDED if self._folded else HEIGHT))

    # places

    def _plot(self) -> QRectF:
        return QRectF(
            LEFT, theme.scaled(HEAD), self.width() - LEFT - theme.scaled(RIGHT),
            self.height() - theme.scaled(HEAD) - theme.scaled(FOOT),
        )  # fmt: skip

    def x_of(self, time: float) -> float:
        """Where a time stands [px]."""
        assert self._view is not None
        plot = self._plot()
        return plot.left() + plot.width() * time / self._view.end

    def time_at(self, x: float) -> float:
        """The time at a place [s]."""
        assert self._view is not None
        plot = self._plot()
        return min(max((x - plot.left()) / plot.width(), 0.0), 1.0) * self._view.end

    # what is done to it

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        self.setFocus()
        self.mouseMoveEvent(event)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is not None and self._view is not None and not self._folded:
            self._scrub_to(self._view, self.time_at(event.position().x()))

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None or self._view is None:
            super().keyPressEvent(event)
            return
        step = 10 * MINUTE if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else MINUTE
        ways = {
            Qt.Key.Key_Left: self._view.now - step, Qt.Key.Key_Right: self._view.now + step,
            Qt.Key.Key_Home: 0.0, Qt.Key.Key_End: self._view.end,
        }  # fmt: skip
        if Qt.Key(event.key()) in ways:
            self._scrub_to(self._view, min(max(ways[Qt.Key(event.key())], 0.0), self._view.end))
        elif event.key() == Qt.Key.Key_Backspace:
            self.scrubbed.emit(None)
        else:
            super().keyPressEvent(event)

    def _scrub_to(self, view: StripView, time: float) -> None:
        """The post stands there at once, for the next key to go on from; the rest follows."""
        self._view = replace(view, now=time)
        self.update()
        self.scrubbed.emit(time)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        self._drawn = None
        super().resizeEvent(event)

    # painting

    def paintEvent(self, event: QPaintEvent | None) -> None:
        t = theme.tokens()
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if self._view is None:
            painter.fillRect(self.rect(), t["panel"])
            painter.setPen(t["soft"])
            painter.setFont(theme.font(13))
            words = _("The whole job is being run ...")
            painter.drawText(self.rect().adjusted(20, 0, 0, 0), Qt.AlignmentFlag.AlignVCenter, words)
        else:
            if self._drawn is None:
                self._drawn = self._draw(self._view)
            painter.setOpacity(0.55 if self._stale else 1.0)
            painter.drawPixmap(0, 0, self._drawn)
            painter.setOpacity(1.0)
            if not self._folded:
                self._paint_scrubber(painter, self._view)
        painter.setPen(theme.pen(t["line"], 1))
        painter.drawLine(QPointF(0, 0.5), QPointF(self.width(), 0.5))
        if self.hasFocus():
            painter.setPen(theme.pen(t["meas"], 2))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(self.rect().adjusted(1, 2, -2, -2))
        painter.end()

    def _draw(self, view: StripView) -> QPixmap:
        ratio = self.devicePixelRatioF()
        pixmap = QPixmap(self.size() * ratio)
        pixmap.setDevicePixelRatio(ratio)
        pixmap.fill(theme.tokens()["panel"])
        painter = QPainter(pixmap)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        self._paint_sentence(painter, view)
        if not self._folded:
            self._paint_plot(painter, view)
        painter.end()
        return pixmap

    def _paint_sentence(self, painter: QPainter, view: StripView) -> None:
        t = theme.tokens()
        middle = theme.scaled(FOLDED) / 2
        draw_state(painter, view.state, QPointF(26, middle), 6)
        painter.setPen(t["ink"])
        painter.setFont(theme.font(13, 600))
        aside = _("F9 opens the time strip") if self._folded else _("F9 folds")
        painter.setFont(theme.font(12))
        width = painter.fontMetrics().horizontalAdvance(aside)
        painter.setPen(t["soft"])
        painter.drawText(
            QRectF(self.width() - width - 16, 0, width + 4, 2 * middle), Qt.AlignmentFlag.AlignVCenter, aside
        )
        painter.setPen(t["ink"])
        painter.setFont(theme.font(13, 600))
        room = self.width() - width - 70
        words = painter.fontMetrics().elidedText(view.sentence, Qt.TextElideMode.ElideRight, room)
        painter.drawText(QRectF(42, 0, room, 2 * middle), Qt.AlignmentFlag.AlignVCenter, words)

    def _paint_plot(self, painter: QPainter, view: StripView) -> None:
        plot = self._plot()
        low, high = _span(view)

        def place(time: float, value: float) -> QPointF:
            share = (value - low) / (high - low)
            return QPointF(plot.left() + plot.width() * time / view.end, plot.bottom() - plot.height() * share)

        self._paint_phases(painter, view, plot)
        self._paint_axes(painter, view, plot, low, high)
        self._paint_filling(painter, view, plot)
        self._paint_jam(painter, view, plot)
        painter.save()
        painter.setClipRect(plot.adjusted(-1, -2, 1, 2))
        if view.ribbon is not None:
            _paint_ribbon(painter, view.ribbon, place)
        for curve in view.was:
            _paint_curve(painter, curve, place, QColor(theme.tokens()["rule"]), 1.2)
        for curve in view.curves:
            _paint_curve(painter, curve, place, theme.tokens()[curve.token], 1.4 if curve.dashed else 2.0)
        limit = place(0.0, view.limit).y()
        pen = QPen(theme.tokens()["ink"], 1.2)
        pen.setDashPattern([4, 3])
        painter.setPen(pen)
        painter.drawLine(QPointF(plot.left(), limit), QPointF(plot.right(), limit))
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme.tokens()["meas"])
        for curve in view.dots:
            for time, value in _thinned(curve):
                painter.drawEllipse(place(time, value), 1.7, 1.7)
        painter.restore()
        self._paint_jam_label(painter, view, plot)
        self._paint_labels(painter, view, plot, place)
        self._paint_ticks(painter, view, plot)

    def _paint_phases(self, painter: QPainter, view: StripView, plot: QRectF) -> None:
        for kind, start, end in view.phases:
            if kind in RESTING:
                left, right = self.x_of(start), self.x_of(end)
                painter.fillRect(QRectF(left, plot.top(), right - left, plot.height()), theme.tokens()["well"])

    def _paint_axes(self, painter: QPainter, view: StripView, plot: QRectF, low: float, high: float) -> None:
        t = theme.tokens()
        painter.setFont(theme.font(12))
        painter.setPen(t["soft"])
        head = QRectF(0, plot.top() - theme.scaled(17), LEFT - 6, theme.scaled(16))
        painter.drawText(head, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, view.unit)
        step = next((one for one in STEPS if (high - low) / one <= 3.6), STEPS[-1])
        for value in range(int(np.ceil(low / step)) * step, int(high) + 1, step):
            y = plot.bottom() - plot.height() * (value - low) / (high - low)
            painter.setPen(theme.pen(t["line"], 1))
            painter.drawLine(QPointF(plot.left(), y), QPointF(plot.right(), y))
            painter.setPen(t["soft"])
            box = QRectF(0, y - 9, LEFT - 6, 18)
            painter.drawText(box, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, str(value))
        now = self._now_box(view)[1]
        for time, text in _hours(view):
            x = self.x_of(time)
            painter.setPen(theme.pen(t["soft"], 1))
            painter.drawLine(QPointF(x, plot.bottom()), QPointF(x, plot.bottom() + 4))
            half = 0.5 * painter.fontMetrics().horizontalAdvance(text) + 3
            if x + half > now.left() and x - half < now.right():
                continue  # the moment that is shown is written there
            box = QRectF(x - 30, plot.bottom() + 3, 60, theme.scaled(FOOT) - 3)
            painter.drawText(box, Qt.AlignmentFlag.AlignHCenter | Qt.AlignmentFlag.AlignTop, text)
        painter.setPen(theme.pen(t["rule"], 1))
        painter.drawLine(plot.bottomLeft(), plot.bottomRight())

    def _paint_filling(self, painter: QPainter, view: StripView, plot: QRectF) -> None:
        """Residue as it fills what the drive has left, from the ground up to a dotted line where the feed stops."""
        if view.filling is None:
            return
        t, filling = theme.tokens(), view.filling
        ground, full = plot.bottom() - JAM, float(theme.scaled(FILLED))
        begins = float(filling.times[int(np.argmax(filling.shares > BEGUN))])
        times = np.linspace(begins, filling.times[-1], GRAIN)
        shares = np.interp(times, filling.times, filling.shares)
        top = [QPointF(self.x_of(float(x)), ground - full * float(y)) for x, y in zip(times, shares, strict=True)]
        colour = QColor(t["over"])
        colour.setAlphaF(0.22)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(colour)
        painter.drawPolygon(QPolygonF([QPointF(top[0].x(), ground), *top, QPointF(top[-1].x(), ground)]))
        painter.setPen(theme.pen(t["over"], 1.4))
        painter.drawPolyline(QPolygonF(top))
        painter.setPen(theme.pen(t["over"], 1, Qt.PenStyle.DotLine))
        painter.drawLine(QPointF(top[0].x(), ground - full), QPointF(top[-1].x(), ground - full))
        painter.setFont(theme.font(12, 600))
        painter.setPen(t["over"])
        width = painter.fontMetrics().horizontalAdvance(filling.label) + 4
        left = max(top[0].x() - width - 4, plot.left() + 2)
        box = QRectF(left, ground - theme.scaled(15), width, theme.scaled(15))
        _paint_on_ground(painter, box, filling.label)

    def _paint_jam(self, painter: QPainter, view: StripView, plot: QRectF) -> None:
        """The span in which feeding stops: hatched, with a post at the likely time."""
        if view.jam is None:
            return
        t = theme.tokens()
        early, late, likely = view.jam
        left, right = self.x_of(early), self.x_of(late)
        box = QRectF(left, plot.bottom() - JAM, max(right - left, 3.0), JAM)
        painter.save()
        painter.setClipRect(box)
        painter.fillRect(box, t["overbg"])
        painter.setPen(theme.pen(t["over"], 1))
        for x in range(int(box.left() - box.height()), int(box.right()), 6):
            painter.drawLine(QPointF(x, box.bottom()), QPointF(x + box.height(), box.top()))
        painter.restore()
        if likely is not None:
            painter.setPen(theme.pen(t["over"], 2))
            painter.drawLine(QPointF(self.x_of(likely), plot.top()), QPointF(self.x_of(likely), plot.bottom()))

    def _paint_jam_label(self, painter: QPainter, view: StripView, plot: QRectF) -> None:
        """What the hatched span is, over the curves, on ground of its own."""
        if view.jam is None:
            return
        painter.setFont(theme.font(12, 600))
        width = painter.fontMetrics().horizontalAdvance(view.jam_text) + 6
        left = min(self.x_of(view.jam[0]), plot.right() - width)
        box = QRectF(left, plot.bottom() - JAM - theme.scaled(16), width, theme.scaled(15))
        painter.setPen(theme.tokens()["over"])
        _paint_on_ground(painter, box, view.jam_text)

    def _paint_labels(self, painter: QPainter, view: StripView, plot: QRectF, place: object) -> None:
        """Names at the curves' right ends, pushed apart."""
        from zeotherm.desk.widgets.ladder import pushed_apart

        ends = [(curve, place(view.end, float(curve.values[-1])).y()) for curve in view.curves]  # type: ignore[operator]
        ends.sort(key=lambda one: one[1])
        places = pushed_apart([y for _curve, y in ends], theme.scaled(15), plot.top() - 8, plot.bottom() + 8)
        painter.setFont(theme.font(12, 600))
        for (curve, y), label_y in zip(ends, places, strict=True):
            painter.setPen(theme.pen(theme.tokens()[curve.token], 1))
            painter.drawLine(QPointF(plot.right() + 1, y), QPointF(plot.right() + 7, label_y))
            box = QRectF(plot.right() + 10, label_y - 9, theme.scaled(RIGHT) - 10, 18)
            painter.drawText(box, Qt.AlignmentFlag.AlignVCenter, curve.label)

    def _paint_ticks(self, painter: QPainter, view: StripView, plot: QRectF) -> None:
        """What happens, on one line above the plot, as far as there is room; alarms first."""
        t = theme.tokens()
        y = plot.top() - theme.scaled(5)
        painter.setFont(theme.font(12, 600))
        taken: list[tuple[float, float]] = []
        for tick in sorted(view.ticks, key=lambda one: (not one.alarm, one.time)):
            x = self.x_of(tick.time)
            painter.setPen(theme.pen(t["over" if tick.alarm else "soft"], 1, Qt.PenStyle.DotLine))
            painter.drawLine(QPointF(x, plot.top() - 3), QPointF(x, plot.bottom()))
            width = painter.fontMetrics().horizontalAdvance(tick.text)
            left = min(max(x - 4, LEFT), self.width() - width - 8)
            if any(left < right + 10 and left + width > begin - 10 for begin, right in taken):
                continue
            taken.append((left, left + width))
            painter.setPen(t["over" if tick.alarm else "soft"])
            painter.drawText(QPointF(left, y), tick.text)

    def _paint_scrubber(self, painter: QPainter, view: StripView) -> None:
        t = theme.tokens()
        plot = self._plot()
        x = self.x_of(view.now)
        painter.setPen(theme.pen(t["meas"], 2))
        painter.drawLine(QPointF(x, plot.top() - 2), QPointF(x, plot.bottom() + 4))
        painter.setBrush(t["meas"])
        painter.setPen(Qt.PenStyle.NoPen)
        foot = plot.bottom() + 2
        painter.drawPolygon(
            polygon((x, foot - 5), (x + 6, foot + 1), (x + 6, foot + 9), (x - 6, foot + 9), (x - 6, foot + 1))
        )
        text, box = self._now_box(view)
        painter.setFont(theme.font(12, 700))
        painter.fillRect(box, t["panel"])
        painter.setPen(t["meas"])
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, text)

    def _now_box(self, view: StripView) -> tuple[str, QRectF]:
        """The moment that is shown, and where it is written: right of its post, or left where there is no room."""
        x, plot = self.x_of(view.now), self._plot()
        text = f"{view.now / MINUTE:.0f} min" if view.minutes else clock(view.start_h + view.now / 3600.0)
        width = QFontMetrics(theme.font(12, 700)).horizontalAdvance(text) + 8
        left = x + 9 if x + 9 + width < self.width() - 4 else x - 9 - width
        return text, QRectF(left, plot.bottom() + 2, width, theme.scaled(FOOT) - 3)


def _paint_on_ground(painter: QPainter, box: QRectF, text: str) -> None:
    """A label over curves, on ground of its own."""
    ground = QColor(theme.tokens()["panel"])
    ground.setAlpha(215)
    painter.fillRect(box, ground)
    painter.drawText(box, Qt.AlignmentFlag.AlignCenter, text)


def _thinned(curve: StationCurve) -> list[tuple[float, float]]:
    """As many dots of a measured curve as can be told apart, gaps left out."""
    known = np.flatnonzero(np.isfinite(curve.values))
    if len(known) > DOTS:
        known = known[np.linspace(0, len(known) - 1, DOTS).astype(int)]
    return [(float(curve.times[at]), float(curve.values[at])) for at in known]


def _hours(view: StripView) -> list[tuple[float, str]]:
    """Where the axis is marked [s], and with what: clock times, or minutes since switching on."""
    if view.minutes:
        apart = next(one for one in (2, 5, 10, 20, 60, 120) if view.end / MINUTE / one <= 9.0 or one == 120)
        return [(MINUTE * n, f"{n} min") for n in range(0, int(view.end / MINUTE) + 1, apart)]
    hours = view.end / 3600.0
    between = next(one for one in (0.25, 0.5, 1.0, 2.0, 3.0, 6.0) if hours / one <= 9.0 or one == 6.0)
    first = float(np.ceil(view.start_h / between) * between)
    marks = np.arange(first, view.start_h + hours + 1e-9, between)
    return [((float(hour) - view.start_h) * 3600.0, clock(float(hour))) for hour in marks]


def _span(view: StripView) -> tuple[float, float]:
    """The values that the plot covers."""
    values = np.concatenate([curve.values[np.isfinite(curve.values)] for curve in (*view.curves, *view.was)])
    if view.unit != "°C":
        return min(float(values.min()), 0.0), 1.06 * max(float(values.max()), view.limit)
    low, high = min(float(values.min()), view.limit - 15.0), max(float(values.max()), view.limit + 8.0)
    return low - 2.0, min(high + 2.0, view.limit + 60.0)


def _paint_ribbon(painter: QPainter, ribbon: Ribbon, place: object) -> None:
    ground = QColor(theme.tokens()[ribbon.token])
    ground.setAlpha(46)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(ground)
    edges = [*zip(ribbon.times, ribbon.low, strict=True), *zip(ribbon.times[::-1], ribbon.high[::-1], strict=True)]
    painter.drawPolygon(QPolygonF([place(float(x), float(y)) for x, y in edges]))  # type: ignore[operator]


def _paint_curve(painter: QPainter, curve: StationCurve, place: object, colour: QColor, width: float) -> None:
    times = np.linspace(curve.times[0], curve.times[-1], GRAIN)
    values = np.interp(times, curve.times, np.nan_to_num(curve.values, nan=0.0))
    pen = QPen(colour, width)
    if curve.dashed:
        pen.setDashPattern([4, 3])
    painter.setPen(pen)
    painter.setBrush(QBrush(Qt.BrushStyle.NoBrush))
    line = QPolygonF([place(float(x), float(y)) for x, y in zip(times, values, strict=True)])  # type: ignore[operator]
    painter.drawPolyline(line)

"""Runs as curves: panels with their own heights over one common time."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPolygonF

from zeotherm.desk.style import theme
from zeotherm.desk.views.measure.runs_shown import RunCurve, RunPanel
from zeotherm.wording.numbers import plain
from zeotherm.wording.runs import elapsed

Array = npt.NDArray[np.float64]
STEPS = (0.5, 1, 2, 5, 10, 20, 50, 100, 200, 500, 1000, 2000)
MINUTES = (0.5, 1, 2, 5, 10, 15, 30, 60, 120, 180, 360, 720)
GAP = 6.0  # usual intervals without a sample after which a curve is broken
LEAST_GAP = 45.0  # s
BADGE = 9


@dataclass(frozen=True)
class PlotFrame:
    """Where a panel stands and what it spans."""

    plot: QRectF
    begin: float  # s
    end: float
    low: float
    high: float

    def x(self, time: float) -> float:
        """Place of a time [px]."""
        return self.plot.left() + self.plot.width() * (time - self.begin) / (self.end - self.begin)

    def y(self, value: float) -> float:
        """Place of a value [px]."""
        return self.plot.bottom() - self.plot.height() * (value - self.low) / (self.high - self.low)


def thinned(times: Array, values: Array, begin: float, end: float, columns: int) -> tuple[Array, Array]:
    """What of a curve is drawn: all samples, or the lowest and the highest of each bucket where there are many."""
    first = max(int(np.searchsorted(times, begin)) - 1, 0)
    last = min(int(np.searchsorted(times, end, "right")) + 1, len(times))
    count = last - first
    size = count // max(columns, 1)
    if size < 4:
        return times[first:last], values[first:last]
    whole = count // size * size
    blocks = values[first : first + whole].reshape(-1, size)
    at = times[first : first + whole].reshape(-1, size)[:, [0, size // 2]]
    pair = np.stack([blocks.min(1), blocks.max(1)], axis=1)
    return at.ravel(), pair.ravel()


def polyline(xs: Array, ys: Array) -> QPolygonF:
    """A polyline from arrays, without a Python loop."""
    line = QPolygonF()
    line.fill(QPointF(), len(xs))
    buffer = line.data()
    buffer.setsize(16 * len(xs))
    points = np.asarray(buffer.asarray(16 * len(xs))).view(np.float64).reshape(-1, 2)
    points[:, 0], points[:, 1] = xs, ys
    return line


def draw_curve(painter: QPainter, curve: RunCurve, frame: PlotFrame, width: float = 1.0) -> None:
    """One curve, broken where samples are missing."""
    painter.setPen(theme.pen(theme.tokens()[curve.token], width))
    draw_line(painter, curve.times, curve.values, frame)


def draw_line(painter: QPainter, times: Array, values: Array, frame: PlotFrame, *, broken: bool = True) -> None:
    """Samples in the pen that is set; broken: where samples are missing."""
    at, shown = thinned(times, values, frame.begin, frame.end, int(frame.plot.width()))
    if not len(at):
        return
    xs = frame.plot.left() + frame.plot.width() * (at - frame.begin) / (frame.end - frame.begin)
    ys = frame.plot.bottom() - frame.plot.height() * (shown - frame.low) / (frame.high - frame.low)
    if not broken:
        painter.drawPolyline(polyline(xs, ys))
        return
    steps = np.diff(at)
    usual = float(np.median(steps)) if len(steps) else 0.0
    for part in np.split(np.arange(len(at)), np.flatnonzero(steps > max(GAP * usual, LEAST_GAP)) + 1):
        if len(part) > 1:
            painter.drawPolyline(polyline(xs[part], ys[part]))
        elif len(part):
            painter.drawPoint(QPointF(float(xs[part[0]]), float(ys[part[0]])))


def draw_band(painter: QPainter, times: Array, low: Array, high: Array, frame: PlotFrame) -> None:
    """The 95 % band of a curve, as a ground."""
    xs = frame.plot.left() + frame.plot.width() * (times - frame.begin) / (frame.end - frame.begin)
    scale = frame.plot.height() / (frame.high - frame.low)
    ys = [frame.plot.bottom() - scale * (side - frame.low) for side in (low, high)]
    painter.setPen(Qt.PenStyle.NoPen)
    ground = theme.tokens()["line"]
    ground.setAlpha(90)
    painter.setBrush(ground)
    painter.drawPolygon(polyline(np.concatenate([xs, xs[::-1]]), np.concatenate([ys[0], ys[1][::-1]])))
    painter.setBrush(Qt.BrushStyle.NoBrush)


def span_of(panels: Sequence[RunPanel], begin: float, end: float) -> tuple[float, float]:
    """Lowest and highest of what is in sight, with some air; never less than two units apart."""
    lows, highs = [], []
    for panel in panels:
        drawn = [(one.times, one.values) for one in panel.curves]
        drawn += [panel.model] if panel.model is not None else []
        drawn += [(panel.model_band[0], side) for side in panel.model_band[1:]] if panel.model_band is not None else []
        for times, values in drawn:
            _at, shown = thinned(times, values, begin, end, 300)
            if len(shown):
                lows.append(float(np.nanmin(shown)))
                highs.append(float(np.nanmax(shown)))
    low, high = (min(lows), max(highs)) if lows else (0.0, 1.0)
    air = max(0.06 * (high - low), 1.0)
    return low - air, high + air


def draw_axes(painter: QPainter, frame: PlotFrame, unit: str, *, times: bool, most: int = 6) -> None:
    """Hairlines with their values, and the time below."""
    t = theme.tokens()
    painter.setFont(theme.font(12))
    height = frame.high - frame.low
    step = next((one for one in STEPS if height / one <= most), STEPS[-1])
    decimals = 1 if step < 1 else 0
    for index in range(int(np.ceil(frame.low / step)), int(np.floor(frame.high / step)) + 1):
        value = index * step
        y = frame.y(value)
        painter.setPen(theme.pen(t["line"], 1))
        painter.drawLine(QPointF(frame.plot.left(), y), QPointF(frame.plot.right(), y))
        painter.setPen(t["soft"])
        box = QRectF(frame.plot.left() - 60, y - 9, 54, 18)
        painter.drawText(box, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, plain(value, decimals))
    painter.drawText(
        QRectF(frame.plot.left() - 60, frame.plot.top() - theme.scaled(18), 54, 16), Qt.AlignmentFlag.AlignRight, unit
    )
    if times:
        draw_times(painter, frame)


def draw_times(painter: QPainter, frame: PlotFrame) -> None:
    """Ticks of the common clock below a panel."""
    t = theme.tokens()
    minutes = (frame.end - frame.begin) / 60.0
    room = max(frame.plot.width() / theme.scaled(76), 2)
    apart = next((one for one in MINUTES if minutes / one <= room), MINUTES[-1])
    painter.setPen(t["soft"])
    for index in range(int(np.ceil(frame.begin / 60.0 / apart)), int(frame.end / 60.0 / apart) + 1):
        x = frame.x(index * apart * 60.0)
        painter.drawLine(QPointF(x, frame.plot.bottom()), QPointF(x, frame.plot.bottom() + 4))
        text = elapsed(index * apart * 60.0) if apart >= 1 else f"{elapsed(index * apart * 60.0)}"
        painter.drawText(
            QRectF(x - 40, frame.plot.bottom() + 4, 80, 16),
            Qt.AlignmentFlag.AlignHCenter | Qt.AlignmentFlag.AlignTop,
            text,
        )


def draw_badge(painter: QPainter, centre: QPointF, number: int, token: str) -> None:
    """A run's number in a ring of its colour."""
    t = theme.tokens()
    radius = theme.scaled(BADGE)
    painter.setPen(theme.pen(t[token], 1.6))
    painter.setBrush(t["flag"])
    painter.drawEllipse(centre, radius, radius)
    painter.setFont(theme.font(12, 700))
    box = QRectF(centre.x() - radius, centre.y() - radius, 2 * radius, 2 * radius)
    painter.drawText(box, Qt.AlignmentFlag.AlignCenter, str(number))


def draw_dimension(painter: QPainter, x: float, one: float, other: float, panel: RunPanel, room: float) -> None:
    """The change between two levels as a dimension, with its band in words."""
    t = theme.tokens()
    top, bottom = min(one, other), max(one, other)
    painter.setPen(theme.pen(t["ink"], 1.4))
    painter.drawLine(QPointF(x, top), QPointF(x, bottom))
    for y in (top, bottom):
        painter.drawLine(QPointF(x - 5, y), QPointF(x + 5, y))
    middle = (top + bottom) / 2
    painter.setFont(theme.font(14, 700))
    painter.drawText(QRectF(x + 10, middle - theme.scaled(19), room, theme.scaled(20)),
                     Qt.AlignmentFlag.AlignVCenter, panel.change)  # fmt: skip
    painter.setFont(theme.font(12))
    painter.setPen(t["soft"])
    painter.drawText(QRectF(x + 10, middle, room, theme.scaled(18)), Qt.AlignmentFlag.AlignVCenter, panel.band)

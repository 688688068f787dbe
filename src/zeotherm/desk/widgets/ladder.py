"""The ladder: temperature axis, colour key, alarm list, and was/will-be in one."""

from __future__ import annotations

from functools import cache

from PyQt6.QtCore import QPointF, QRect, QRectF, Qt
from PyQt6.QtGui import QBrush, QFont, QFontMetrics, QImage, QPainter, QPaintEvent, QPixmap
from PyQt6.QtWidgets import QWidget

from zeotherm.core.judgement.margins import State
from zeotherm.desk.style import theme
from zeotherm.desk.style.patina import TABLE, Scale, Span
from zeotherm.desk.style.shapes import draw_state, state_colour, text_colour
from zeotherm.desk.viewmodels import LadderView, Marker
from zeotherm.desk.widgets.rows import RowsWidget
from zeotherm.wording.language import _
from zeotherm.wording.margins import STATE_WORDS

LANES = 5
LANE_WIDTH = 10
BAR_X, BAR_WIDTH = 36, 13
LANE_X = BAR_X + BAR_WIDTH + 9
LABEL_X = LANE_X + LANES * LANE_WIDTH + 11
HEAD = 66


def head() -> int:
    """Height of the title and the counts [px]."""
    return theme.scaled(HEAD)


class Ladder(RowsWidget):
    """Paints a `LadderView`; its rows are the markers' labels."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(_("Temperature ladder"), parent)
        self._view: LadderView | None = None
        self._span = Span.FULL
        self._labels: list[tuple[Marker, float, float]] = []  # marker, its height, its label's height
        self._axis_made = QPixmap()
        self._made_for: object = None

    def show_view(self, view: LadderView) -> None:
        self._view = view
        self.lay_out()
        self.update()

    def set_span(self, span: Span) -> None:
        self._span = span
        self.lay_out()
        self.update()

    @property
    def scale(self) -> Scale:
        """The span in force, for every picture."""
        return self._span.value

    def y_of(self, temperature: float) -> float:
        """Height of a temperature in the widget [px]."""
        top, bottom = head(), self.height() - 12
        return bottom - self.scale.share(temperature) * (bottom - top)

    def _fitting(self, marker: Marker) -> str:
        """What of a marker's name there is room for."""
        figure = QFontMetrics(theme.font(13, 700)).horizontalAdvance(f"{marker.value:.0f}")
        room = self.width() - LABEL_X - 6 - figure - 8 - (10 if _dotted(marker) else 6)
        metrics = QFontMetrics(_name_font(marker))
        return metrics.elidedText(marker.label, Qt.TextElideMode.ElideRight, room)

    def lay_out(self) -> None:
        if self._view is None:
            return
        markers = sorted(self._view.markers, key=lambda marker: -marker.value)
        wanted = [self.y_of(marker.value) for marker in markers]
        places = pushed_apart(wanted, theme.scaled(18), head() - 4, self.height() - 12)
        self._labels = list(zip(markers, wanted, places, strict=True))
        left = LANE_X + LANES * LANE_WIDTH + 6
        half = theme.scaled(18) // 2
        self.place_rows(
            [
                (
                    marker.key,
                    marker.spoken,
                    marker.spoken,
                    QRect(left, int(y) - half, self.width() - left - 6, 2 * half),
                )
                for marker, _wanted, y in self._labels
            ]
        )

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.drawPixmap(0, 0, self._axis())
        if self._view is not None:
            self._paint_head(painter, self._view)
            focused = self.focused()
            for index, (marker, y, label_y) in enumerate(self._labels):
                self._paint_marker(painter, marker, index, y, label_y)
                self._paint_label(painter, marker, label_y, marker.key == focused)
        painter.end()

    def _axis(self) -> QPixmap:
        """The axis with the softening span, which stays while markers move: painted once for a size, a span, a theme
        and a text size."""
        soft = self._view.softening if self._view is not None else None
        wanted = (self.size(), self.devicePixelRatioF(), self._span, theme.tokens().name, theme.scaled(1000), soft)
        if self._made_for != wanted:
            ratio = self.devicePixelRatioF()
            made = QPixmap(round(self.width() * ratio), round(self.height() * ratio))
            made.setDevicePixelRatio(ratio)
            made.fill(theme.tokens()["panel"])
            painter = QPainter(made)
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            self._paint_axis(painter)
            if soft is not None:
                self._paint_softening(painter, *soft)
            painter.end()
            self._axis_made, self._made_for = made, wanted
        return self._axis_made

    def _paint_head(self, painter: QPainter, view: LadderView) -> None:
        painter.setFont(theme.font(14, 700))
        painter.setPen(theme.tokens()["ink"])
        painter.drawText(QRectF(16, 8, self.width() - 24, theme.scaled(22)), Qt.AlignmentFlag.AlignVCenter, view.title)
        x = 22.0
        many = sum(1 for _state, count in view.counts if count) > 3
        for state, count in view.counts:
            if not count and state is not State.CLEAR:
                continue
            draw_state(painter, state, QPointF(x, theme.scaled(42)), 6)
            painter.setFont(theme.font(13, 600))
            painter.setPen(text_colour(state) if count else theme.tokens()["soft"])
            word = str(count) if many and state is State.CLEAR else f"{count} {STATE_WORDS[state]}"
            painter.drawText(QPointF(x + 11, theme.scaled(42) + theme.scaled(5)), word)
            x += (22 if many else 33) + painter.fontMetrics().horizontalAdvance(word)

    def _paint_axis(self, painter: QPainter) -> None:
        t = theme.tokens()
        top, bottom = head(), self.height() - 12
        painter.drawImage(QRectF(BAR_X, top, BAR_WIDTH, bottom - top), _bar())
        painter.setFont(theme.font(12))
        for tick in self.scale.ticks:
            y = self.y_of(tick)
            painter.setPen(theme.pen(t["line"], 1))
            painter.drawLine(QPointF(BAR_X + BAR_WIDTH, y), QPointF(LANE_X + LANES * LANE_WIDTH, y))
            painter.setPen(t["soft"])
            painter.drawText(
                QRectF(0, y - 9, BAR_X - 8, 18), Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, str(tick)
            )
            painter.setPen(theme.pen(t["soft"], 1))
            painter.drawLine(QPointF(BAR_X - 4, y), QPointF(BAR_X, y))

    def _paint_softening(self, painter: QPainter, begins: float, ends: float) -> None:
        top, bottom = self.y_of(ends), self.y_of(begins)
        box = QRectF(BAR_X + BAR_WIDTH + 1, top, LANES * LANE_WIDTH + 8, bottom - top)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QBrush(theme.tokens()["overbg"]))
        painter.setOpacity(0.6)
        painter.drawRect(box)
        painter.setOpacity(1.0)
        painter.save()
        painter.setClipRect(box)
        painter.setPen(theme.pen(theme.tokens()["over"], 1))
        for x in range(int(box.left() - box.height()), int(box.right()), 7):
            painter.drawLine(QPointF(x, box.bottom()), QPointF(x + box.height(), box.top()))
        painter.restore()
        painter.setPen(theme.pen(theme.tokens()["over"], 1.4))
        painter.drawLine(box.bottomLeft(), box.bottomRight())

    def _paint_marker(self, painter: QPainter, marker: Marker, index: int, y: float, label_y: float) -> None:
        t = theme.tokens()
        colour = state_colour(marker.state)
        lane = LANE_X + (LANES - 1 - index % LANES) * LANE_WIDTH
        if marker.limit is not None:
            limit_y = self.y_of(marker.limit)
            painter.setPen(theme.pen(colour if marker.state.bad else t["soft"], 4 if marker.state.bad else 1))
            painter.drawLine(QPointF(lane, y), QPointF(lane, limit_y))
            painter.setPen(theme.pen(colour if marker.state.bad else t["ink"], 2))
            painter.drawLine(QPointF(lane - 5, limit_y), QPointF(lane + 5, limit_y))
        if marker.was is not None:
            was_y = self.y_of(marker.was)
            painter.setPen(theme.pen(t["soft"], 1.4))
            painter.drawLine(QPointF(lane, was_y), QPointF(lane, y))
            painter.setBrush(t["panel"])
            painter.drawEllipse(QPointF(lane, was_y), 2.8, 2.8)
        left = LANE_X + LANES * LANE_WIDTH + 4
        painter.setPen(theme.pen(colour if marker.state in (State.OVER, State.SHORT, State.CLOSE) else t["rule"], 1))
        painter.drawPolyline(
            QPointF(lane, y), QPointF(left - 8, y), QPointF(left + 4, label_y), QPointF(left + 8, label_y)
        )
        draw_state(painter, marker.state, QPointF(lane, y), 5)
        if not self.scale.low <= marker.value <= self.scale.high:
            self._paint_chevron(painter, lane, marker.value > self.scale.high)

    def _paint_label(self, painter: QPainter, marker: Marker, y: float, focused: bool) -> None:
        t = theme.tokens()
        half = theme.scaled(18) / 2
        box = QRectF(LABEL_X, y - half + 1, self.width() - LABEL_X - 6, 2 * half - 2)
        if marker.state.bad:
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(t["over"])
            painter.drawRoundedRect(box, 3, 3)
        if focused:
            painter.setPen(theme.pen(t["meas"], 2))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(box, 3, 3)
        pen = t["onover"] if marker.state.bad else text_colour(marker.state)
        painter.setPen(pen)
        painter.setFont(_name_font(marker))
        painter.drawText(box.adjusted(4, 0, 0, 0), Qt.AlignmentFlag.AlignVCenter, self._fitting(marker))
        painter.setFont(theme.font(13, 700))
        figure = f"{marker.value:.0f}"
        width = painter.fontMetrics().horizontalAdvance(figure) + 8
        painter.drawText(box.adjusted(0, 0, -4, 0), Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, figure)
        if _dotted(marker):
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(t["meas"])
            painter.drawEllipse(QPointF(box.right() - width - 1, y), 2.5, 2.5)

    def _paint_chevron(self, painter: QPainter, x: float, up: bool) -> None:
        y, way = (head() + 8, -1) if up else (self.height() - 18, 1)
        painter.setPen(theme.pen(theme.tokens()["ink"], 1.6))
        painter.drawPolyline(QPointF(x - 4, y - way * 3), QPointF(x, y + way * 2), QPointF(x + 4, y - way * 3))


def _dotted(marker: Marker) -> bool:
    return marker.measured and not marker.state.bad


def _name_font(marker: Marker) -> QFont:
    return theme.font(13, 600 if marker.state is not State.CLEAR else 400)


@cache
def _bar() -> QImage:
    """The colours from top to foot."""
    image = QImage(1, len(TABLE), QImage.Format.Format_RGB32)
    for row, colour in enumerate(TABLE[::-1]):
        image.setPixel(0, row, int(colour))
    return image


def pushed_apart(wanted: list[float], gap: float, top: float, bottom: float) -> list[float]:
    """Places in order at least `gap` apart, each as near to its wish as the others let it (pooled blocks)."""
    blocks: list[list[float]] = []  # [sum of wishes less offset, count]
    for wish in wanted:
        blocks.append([wish, 1])
        while len(blocks) > 1 and _start(blocks[-2], gap) + blocks[-2][1] * gap > _start(blocks[-1], gap):
            last = blocks.pop()
            blocks[-1][0] += last[0] - last[1] * blocks[-1][1] * gap
            blocks[-1][1] += last[1]
    places: list[float] = []
    for block in blocks:
        first = _start(block, gap)
        places += [first + index * gap for index in range(int(block[1]))]
    for index in range(len(places) - 1, -1, -1):
        places[index] = min(places[index], bottom - gap / 2 - (len(places) - 1 - index) * gap)
    for index in range(len(places)):
        places[index] = max(places[index], top + gap / 2 + index * gap)
    return places


def _start(block: list[float], gap: float) -> float:
    return block[0] / block[1]

"""A fan's curve within its tolerance, and as it would be with other figures."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPaintEvent, QPen, QPolygonF
from PyQt6.QtWidgets import QWidget

from zeotherm.core.catalogue.shelves import FanKind
from zeotherm.desk.style import theme
from zeotherm.wording.language import _

HEIGHT = 128
LEFT, BOTTOM, TOP = 40, 22, 8
MOST_TICKS = 4


def ticks(most: float) -> list[float]:
    """Round numbers from zero up to at most `most`."""
    step = next(size * 10.0**power for power in range(-2, 5) for size in (1.0, 2.0, 5.0)
                if most / (size * 10.0**power) <= MOST_TICKS)  # fmt: skip
    return [step * number for number in range(int(most / step + 1e-9) + 1)]


class FanCurve(QWidget):
    """Pressure against flow."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._fan: FanKind | None = None
        self._changed: FanKind | None = None
        self.refresh()

    def refresh(self) -> None:
        """Take up the size of the text."""
        self.setFixedHeight(theme.scaled(HEIGHT))

    def show_fan(self, fan: FanKind, changed: FanKind | None) -> None:
        """changed: the same fan with the figures that are typed."""
        self._fan, self._changed = fan, changed
        self.setAccessibleName(
            _("Curve: {pressure} Pa with no flow, {flow} m³/h in free air").format(
                pressure=f"{max(fan.pressure_pa):g}", flow=f"{max(fan.flow_m3_h):g}"
            )
        )
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        fan, changed, t = self._fan, self._changed, theme.tokens()
        if fan is None:
            return
        shown = [fan] if changed is None else [fan, changed]
        spread = 1.0 + fan.curve_tolerance
        flow = spread * max(max(one.flow_m3_h) for one in shown)
        push = spread * max(max(one.pressure_pa) for one in shown)
        plot = QRectF(theme.scaled(LEFT), TOP, self.width() - theme.scaled(LEFT) - theme.scaled(58),
                      self.height() - TOP - theme.scaled(BOTTOM))  # fmt: skip

        def place(one_flow: float, pressure: float) -> QPointF:
            return QPointF(
                plot.left() + one_flow / flow * plot.width(), plot.bottom() - pressure / push * plot.height()
            )

        def line(one: FanKind, by: float = 1.0) -> list[QPointF]:
            return [place(by * q, by * p) for q, p in zip(one.flow_m3_h, one.pressure_pa, strict=True)]

        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setFont(theme.font(12))
        for value in ticks(push):
            y = place(0.0, value).y()
            painter.setPen(theme.pen(t["line"], 1))
            painter.drawLine(QPointF(plot.left(), y), QPointF(plot.right(), y))
            painter.setPen(t["soft"])
            painter.drawText(QRectF(0, y - 9, plot.left() - 6, 18), Qt.AlignmentFlag.AlignRight
                             | Qt.AlignmentFlag.AlignVCenter, f"{value:g}")  # fmt: skip
        for value in ticks(flow):
            x = place(value, 0.0).x()
            painter.setPen(theme.pen(t["rule"], 1))
            painter.drawLine(QPointF(x, plot.bottom()), QPointF(x, plot.bottom() + 4))
            painter.setPen(t["soft"])
            painter.drawText(QRectF(x - 24, plot.bottom() + 4, 48, 18), Qt.AlignmentFlag.AlignCenter, f"{value:g}")
        painter.drawText(QRectF(plot.right() + 20, plot.bottom() + 4, 60, 18), Qt.AlignmentFlag.AlignLeft
                         | Qt.AlignmentFlag.AlignVCenter, "m³/h")  # fmt: skip
        painter.drawText(QRectF(plot.right() + 8, plot.top() - 6, 40, 18), Qt.AlignmentFlag.AlignLeft
                         | Qt.AlignmentFlag.AlignVCenter, "Pa")  # fmt: skip
        band = QPolygonF([*line(fan, spread), *reversed(line(fan, 2.0 - spread))])
        painter.setPen(theme.pen(t["line"], 1))
        painter.setBrush(t["accentbg"])
        painter.drawPolygon(band)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        if changed is not None:
            dashed = QPen(t["soft"], 1.4)
            dashed.setDashPattern([4.0, 3.0])
            painter.setPen(dashed)
            painter.drawPolyline(QPolygonF(line(fan)))
            self._say_which(painter, plot, dashed)
        painter.setPen(theme.pen(t["ink"], 2.2))
        painter.drawPolyline(QPolygonF(line(changed or fan)))
        painter.end()

    def _say_which(self, painter: QPainter, plot: QRectF, dashed: QPen) -> None:
        t, wide = theme.tokens(), theme.scaled(90)
        for row, (text, stroke) in enumerate(((_("as typed"), theme.pen(t["ink"], 2.2)), (_("on the shelf"), dashed))):
            y = plot.top() + theme.scaled(8 + 18 * row)
            left = plot.right() - wide - 28
            painter.setPen(stroke)
            painter.drawLine(QPointF(left, y), QPointF(left + 20, y))
            painter.setPen(t["ink"])
            painter.drawText(QRectF(left + 28, y - 10, wide, 20), Qt.AlignmentFlag.AlignVCenter, text)

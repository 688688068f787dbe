"""An enclosure from the front, in section and to scale: its two airs, its walls, what heats it and what sits in it."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QBrush, QLinearGradient, QPainter

from zeotherm.desk.parts.enclosure.shown import CasePictureView, Pinned
from zeotherm.desk.style import theme
from zeotherm.desk.style.patina import Scale
from zeotherm.desk.style.shapes import draw_state, polygon, text_colour
from zeotherm.wording.language import _
from zeotherm.wording.numbers import plain, with_unit

WALL = 9.0  # px, each
BED_AT, BED_PX = 0.24, 7.0  # height of the bed, of the inside
RIBBON = 46.0  # px outward
MOST_HALF = 26.0  # px of half a ribbon's width
LAYERED = 1.0  # K between the halves from which they are drawn apart


def inner_box(view: CasePictureView, room: QRectF) -> QRectF:
    """Where the inside lies: to scale, with room around for ribbons and what sits outside."""
    side, outside, top = theme.scaled(46), theme.scaled(112), theme.scaled(50)
    wide, high = room.width() - side - outside, room.height() - 2 * top
    scale = min(wide / view.width_mm, high / view.height_mm)
    width, height = scale * view.width_mm, scale * view.height_mm
    return QRectF(room.left() + side + 0.5 * (wide - width), room.top() + top + 0.5 * (high - height), width, height)


def paint_section(painter: QPainter, view: CasePictureView, box: QRectF, colours: Scale) -> None:
    """Airs, walls, bed, heater, sensor and ribbons of watts."""
    _paint_air(painter, view, box, colours)
    _paint_walls(painter, view, box, colours)
    _paint_machine(painter, view, box)
    _paint_bed(painter, view, box, colours)
    _paint_tags(painter, view, box)
    if view.has_heater:
        _paint_heater(painter, view, box)
    _paint_sensor(painter, view, box)
    _paint_ribbons(painter, view, box)


def _paint_air(painter: QPainter, view: CasePictureView, box: QRectF, colours: Scale) -> None:
    shade = QLinearGradient(0, box.bottom(), 0, box.top())
    apart = abs(view.high - view.low) > LAYERED
    for at, value in ((0.0, view.low), (0.44 if apart else 0.5, view.low), (0.56 if apart else 0.5, view.high),
                      (1.0, view.high)):  # fmt: skip
        shade.setColorAt(at, colours.colour(value))
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(QBrush(shade))
    painter.drawRect(box)
    t = theme.tokens()
    if apart:
        painter.setPen(theme.pen(t["flag"], 1, Qt.PenStyle.DashLine))
        painter.drawLine(QPointF(box.left(), box.center().y()), QPointF(box.right(), box.center().y()))


def _paint_tags(painter: QPainter, view: CasePictureView, box: QRectF) -> None:
    """Both halves of the air in figures."""
    t = theme.tokens()
    for value, y, words in zip((view.high, view.low), _air_heights(box), (_("under the roof"), _("at the print")),
                               strict=True):  # fmt: skip
        frame = _air_frame(box, y)
        painter.setPen(theme.pen(t["ink"], 1))
        painter.setBrush(t["flag"])
        painter.drawRect(frame)
        painter.setPen(t["ink"])
        painter.setFont(theme.font(16, 700))
        painter.drawText(frame.adjusted(8, 1, 0, -theme.scaled(16)), Qt.AlignmentFlag.AlignVCenter,
                         with_unit(value, "°C"))  # fmt: skip
        painter.setFont(theme.font(12))
        painter.setPen(t["soft"])
        painter.drawText(frame.adjusted(8, theme.scaled(20), 0, -1), Qt.AlignmentFlag.AlignVCenter, words)


def _air_heights(box: QRectF) -> tuple[float, float]:
    return box.top() + 0.26 * box.height(), box.top() + 0.58 * box.height()


def _air_frame(box: QRectF, y: float) -> QRectF:
    return QRectF(box.left() + 10, y - theme.scaled(20), theme.scaled(92), theme.scaled(40))


def _paint_walls(painter: QPainter, view: CasePictureView, box: QRectF, colours: Scale) -> None:
    t = theme.tokens()
    sides = {
        "left": (QRectF(box.left() - WALL, box.top(), WALL, box.height()), (1, 0)),
        "right": (QRectF(box.right(), box.top(), WALL, box.height()), (-1, 0)),
        "roof": (QRectF(box.left() - WALL, box.top() - WALL, box.width() + 2 * WALL, WALL), (0, 1)),
        "floor": (QRectF(box.left() - WALL, box.bottom(), box.width() + 2 * WALL, WALL), (0, -1)),
    }
    for name, (frame, (x, y)) in sides.items():
        inner, outer = view.walls[name]
        start = frame.topLeft() if x + y > 0 else frame.bottomRight()
        end = frame.bottomRight() if x + y > 0 else frame.topLeft()
        shade = QLinearGradient(QPointF(start.x() if x else 0, start.y() if y else 0),
                                QPointF(end.x() if x else 0, end.y() if y else 0))  # fmt: skip
        shade.setColorAt(0.0, colours.colour(outer))
        shade.setColorAt(1.0, colours.colour(inner))
        painter.setPen(theme.pen(t["ink"], 1.1))
        painter.setBrush(QBrush(shade))
        painter.drawRect(frame)
    if view.lined:
        painter.setPen(theme.pen(t["flag"], 2, Qt.PenStyle.DotLine))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(box.adjusted(2, 2, -2, -2))


def _paint_machine(painter: QPainter, view: CasePictureView, box: QRectF) -> None:
    """The machine's outline to scale, its cable loop above it; nothing of one that was not measured."""
    wide, high, loop = view.machine_mm
    if wide <= 0.0 or high <= 0.0:
        return
    across, up = box.width() / view.width_mm, box.height() / view.height_mm
    frame = QRectF(box.center().x() - 0.5 * wide * across, box.bottom() - high * up, wide * across, high * up)
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.setPen(theme.pen(theme.tokens()["flag"], 1.4, Qt.PenStyle.DashLine))
    painter.drawRect(frame)
    if loop > 0.0:
        arch = QRectF(frame.center().x() - 0.3 * frame.width(), frame.top() - loop * up, 0.6 * frame.width(),
                      2.0 * loop * up)  # fmt: skip
        painter.drawArc(arch, 0, 180 * 16)


def bed_line(view: CasePictureView, box: QRectF) -> QRectF:
    """Where the bed lies."""
    width = min(view.bed_mm / view.width_mm, 0.9) * box.width()
    y = box.bottom() - BED_AT * box.height()
    return QRectF(box.center().x() - 0.5 * width, y, width, BED_PX)


def _paint_bed(painter: QPainter, view: CasePictureView, box: QRectF, colours: Scale) -> None:
    t = theme.tokens()
    bed = bed_line(view, box)
    painter.setPen(theme.pen(t["ink"], 1.2))
    painter.setBrush(colours.colour(view.bed))
    painter.drawRect(bed)
    painter.setFont(theme.font(12))
    painter.setPen(t["ink"])
    text = _("bed {bed}, {watts} W").format(bed=with_unit(view.bed, "°C", 0), watts=plain(view.bed_watts, 0))
    wide = painter.fontMetrics().horizontalAdvance(text) + 10
    frame = QRectF(box.left() + 6, bed.bottom() + 4, wide, theme.scaled(18))
    painter.fillRect(frame, t["flag"])
    painter.drawText(frame, Qt.AlignmentFlag.AlignCenter, text)


def _paint_heater(painter: QPainter, view: CasePictureView, box: QRectF) -> None:
    t = theme.tokens()
    wide, high = theme.scaled(64), theme.scaled(20)
    y = box.top() + 5 if view.heater_high else box.bottom() - high - 5
    frame = QRectF(box.left() + 0.2 * box.width() - 0.5 * wide, y, wide, high)
    painter.setPen(theme.pen(t["ink"], 1.4))
    painter.setBrush(t["flag"])
    painter.drawRect(frame)
    painter.setFont(theme.font(12, 700))
    each = with_unit(view.heater / view.heater_units, "W", 0)
    text = _("{units} x {watts}").format(units=view.heater_units, watts=each) if view.heater_units > 1 else each
    painter.drawText(frame, Qt.AlignmentFlag.AlignCenter, text)


def _sensor_at(view: CasePictureView, box: QRectF) -> QPointF:
    y = box.bottom() - view.sensor * box.height()
    return QPointF(box.right() - theme.scaled(20), min(max(y, box.top() + 12), box.bottom() - 12))


def _sensor_frame(view: CasePictureView, box: QRectF) -> QRectF:
    at, wide, high = _sensor_at(view, box), theme.scaled(98), theme.scaled(18)
    return QRectF(at.x() - wide - 9, at.y() - 0.5 * high, wide, high)


def _paint_sensor(painter: QPainter, view: CasePictureView, box: QRectF) -> None:
    if view.wanted <= 0.0:
        return
    t, at, frame = theme.tokens(), _sensor_at(view, box), _sensor_frame(view, box)
    painter.setPen(theme.pen(t["ink"], 1.4))
    painter.setBrush(t["flag"])
    painter.drawLine(at, QPointF(box.right(), at.y()))
    painter.drawEllipse(at, 4.5, 4.5)
    painter.setFont(theme.font(12, 700))
    painter.setPen(theme.pen(t["ink"], 1))
    painter.drawRect(frame)
    text = _("claims {reads}").format(reads=with_unit(view.reading, "°C"))
    painter.drawText(frame, Qt.AlignmentFlag.AlignCenter, text)


def _paint_ribbons(painter: QPainter, view: CasePictureView, box: QRectF) -> None:
    """What leaves by the walls that the section cuts; their widths are as their watts."""
    t = theme.tokens()
    watts = {name: value for name, _words, value in view.lost}
    most = max(max(watts.values()), 1.0)
    places = {
        "roof": (QPointF(box.left() + 0.62 * box.width(), box.top() - WALL), (0, -1)),
        "floor": (QPointF(box.left() + 0.62 * box.width(), box.bottom() + WALL), (0, 1)),
        "left": (QPointF(box.left() - WALL, box.top() + 0.42 * box.height()), (-1, 0)),
        "right": (QPointF(box.right() + WALL, box.top() + 0.42 * box.height()), (1, 0)),
    }
    painter.setFont(theme.font(12, 700))
    for name, (at, (x, y)) in places.items():
        value = watts.get(name, 0.0)
        if value < 0.5:
            continue
        half = max(MOST_HALF * value / most, 2.0)
        length = theme.scaled(30)
        across, along = QPointF(abs(y), abs(x)), QPointF(x, y)
        neck, tip = at + along * (length - 9), at + along * length
        corners = [at - across * half, neck - across * half, neck - across * (half + 6), tip,
                   neck + across * (half + 6), neck + across * half, at + across * half]  # fmt: skip
        painter.setPen(theme.pen(t["ink"], 1.2))
        painter.setBrush(t["ribbon"])
        painter.drawPolygon(polygon(*((one.x(), one.y()) for one in corners)))
        painter.setPen(t["ink"])
        text = with_unit(value, "W", 0)
        wide = painter.fontMetrics().horizontalAdvance(text)
        if y:
            spot = QPointF(at.x() + half + 12, at.y() + y * 0.7 * length + 5)
        else:
            spot = QPointF(at.x() - 0.5 * wide + x * 0.5 * length, at.y() - half - 12)
        painter.drawText(spot, text)


def pin_point(pin: Pinned, box: QRectF) -> QPointF:
    """Where something sits."""
    return QPointF(box.left() + pin.x * box.width(), box.bottom() - pin.y * box.height())


def paint_pins(painter: QPainter, view: CasePictureView, box: QRectF, right: float) -> None:
    """What sits in or about the enclosure, each with its state: measured in blue, then the model's value."""
    t = theme.tokens()
    taken = [_air_frame(box, y) for y in _air_heights(box)]
    taken += [_sensor_frame(view, box)] if view.wanted > 0.0 else []
    for pin in view.pins:
        at = pin_point(pin, box)
        own = plain(pin.value)
        read = plain(pin.measured) if pin.measured is not None else ""
        painter.setFont(theme.font(12, 700))
        figures = painter.fontMetrics().horizontalAdvance(f"{read} {own}".strip()) + 6
        painter.setFont(theme.font(12))
        words = painter.fontMetrics().horizontalAdvance(pin.label)
        wide, high = words + figures + 34, theme.scaled(20)
        left = box.right() - wide - 5 if pin.x < 1.0 else min(box.right() + WALL + 6, right - wide - 2)
        frame = QRectF(left, at.y() - 0.5 * high, wide, high)
        down = 1 if frame.top() < box.top() + 3 * high else -1  # near the roof there is room below only
        while any(frame.intersects(one) for one in taken):
            frame.translate(0, down * (high + 3))
        taken.append(frame)
        painter.setPen(theme.pen(t["ink"], 1.1))
        painter.setBrush(t["flag"])
        painter.drawRect(frame)
        draw_state(painter, pin.state, QPointF(frame.left() + 11, frame.center().y()), 5.0)
        painter.setPen(t["ink"])
        painter.drawText(frame.adjusted(22, 0, 0, 0), Qt.AlignmentFlag.AlignVCenter, pin.label)
        painter.setFont(theme.font(12, 700))
        x = frame.left() + 28 + words
        if read:
            painter.setPen(t["meas"])
            painter.drawText(QPointF(x, frame.bottom() - 5), read)
            x += painter.fontMetrics().horizontalAdvance(read) + 6
        painter.setPen(text_colour(pin.state))
        painter.drawText(QPointF(x, frame.bottom() - 5), own)


def paint_losses(painter: QPainter, view: CasePictureView, box: QRectF) -> None:
    """Each way out with its watts, most first; below, the air that moves."""
    t = theme.tokens()
    painter.setFont(theme.font(13, 700))
    painter.setPen(t["ink"])
    head, line = theme.scaled(22), theme.scaled(20)
    painter.drawText(QRectF(box.left(), box.top(), box.width(), head), Qt.AlignmentFlag.AlignVCenter,
                     _("Heat leaves by"))  # fmt: skip
    painter.setFont(theme.font(12))
    most = max(max(watts for _name, _words, watts in view.lost), 1.0)
    words = max(painter.fontMetrics().horizontalAdvance(text) for _name, text, _watts in view.lost) + 8
    figures = theme.scaled(44)
    y = box.top() + head
    for _name, text, watts in view.lost:
        if y + line > box.bottom():
            return
        painter.setPen(t["ink"])
        painter.setFont(theme.font(12))
        painter.drawText(QRectF(box.left(), y, words, line), Qt.AlignmentFlag.AlignVCenter, text)
        room = box.width() - words - figures
        painter.fillRect(QRectF(box.left() + words, y + 5, room, line - 10), t["well"])
        painter.fillRect(QRectF(box.left() + words, y + 5, room * max(watts, 0.0) / most, line - 10), t["accent"])
        painter.setFont(theme.font(12, 600))
        figure = QRectF(box.right() - figures, y, figures, line)
        ends = Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight
        painter.drawText(figure, ends, with_unit(watts, "W", 0))
        y += line
    painter.setFont(theme.font(12))
    painter.setPen(t["soft"])
    for text in (
        _("By radiation to the walls {watts} W").format(watts=plain(view.radiated, 0)),
        _("Air between the halves {flow} m³/h").format(flow=plain(view.between, 0)),
        _("Air in and out {flow} m³/h").format(flow=plain(view.through, 1)),
        _("Air changes an hour {times}").format(times=plain(view.changes, 1)),
        _("Room {room}").format(room=with_unit(view.room, "°C")),
    ):
        y += line if y > box.top() + head else 0
        if y + line > box.bottom():
            return
        painter.drawText(QRectF(box.left(), y, box.width(), line), Qt.AlignmentFlag.AlignVCenter, text)

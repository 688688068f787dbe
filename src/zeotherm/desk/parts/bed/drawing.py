"""A bed from above and in section: the face in the ladder's colours, the stack to scale, watts as ribbons."""

from __future__ import annotations

import math
from functools import lru_cache

import numpy as np
import numpy.typing as npt
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QBrush, QImage, QLinearGradient, QPainter

from zeotherm.desk.parts.bed.shown import BedPictureView, InterfaceRow, LayerView, Pin
from zeotherm.desk.style import theme
from zeotherm.desk.style.patina import Scale
from zeotherm.desk.style.shapes import draw_state, polygon, text_colour
from zeotherm.wording.language import _
from zeotherm.wording.numbers import plain

Array = npt.NDArray[np.float64]
ISOLINE_K = 2.0
HATCH = 7  # px between the lines over what is out of the band
WATTS_PX = 0.30  # of a ribbon's width, a watt, before it is fitted
LEAST_LAYER = 5.0  # px that every layer shows, so that it can be seen at all


def plan_box(view: BedPictureView, room: QRectF) -> QRectF:
    """Where the plan lies: to scale, at the top of its room."""
    scale = min(room.width() / view.width_mm, room.height() / view.depth_mm)
    width, depth = scale * view.width_mm, scale * view.depth_mm
    return QRectF(room.left() + 0.5 * (room.width() - width), room.top(), width, depth)


def paint_plan(painter: QPainter, view: BedPictureView, box: QRectF, colours: Scale, ratio: float) -> None:
    """The print face from above: back at the top; isolines, hatching where it is out of the band."""
    image = plan_image(view, round(box.width() * ratio), round(box.height() * ratio), colours, ratio)
    painter.drawImage(box, image)
    painter.setPen(theme.pen(theme.tokens()["ink"], 1.2))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    if np.isnan(view.face).any():
        painter.drawEllipse(box)
    else:
        painter.drawRect(box)


def plan_image(view: BedPictureView, width: int, height: int, colours: Scale, ratio: float = 1.0) -> QImage:
    """The face as pixels: colour, white lines every 2 K, a heavy line about the good area, hatching beyond it."""
    field = sampled(view.face, width, height)
    bands = np.floor((field - (view.aim - view.even)) / ISOLINE_K)
    bands = np.where(np.isnan(field), -999.0, bands)
    edge = _edges(bands)
    good = np.abs(field - view.aim) <= view.even
    border = _edges(good.astype(float)) & ~np.isnan(field)
    for _turn in range(max(round(ratio), 1)):  # heavier than the others
        border |= np.roll(border, 1, 0) | np.roll(border, 1, 1)
    outside = np.isnan(field)
    pixels = colours.argb(np.where(outside, 0.0, field))
    for where, colour in ((_hatching(height, width, round(HATCH * ratio)) & ~good, 0xFF2A1D16), (edge, 0xFFF7F2E8),
                          (border, 0xFF0E1618), (outside, 0)):  # fmt: skip
        pixels[where] = np.uint32(colour)
    image = QImage(pixels.tobytes(), width, height, 4 * width, QImage.Format.Format_ARGB32)
    return image.copy()


def sampled(face: Array, width: int, height: int) -> Array:
    """A face by pixels, back at the top; linear between cells, cells that are no plate taking their neighbours'."""
    rows, columns = face.shape
    filled = _filled(face)
    field = _between(rows, height) @ filled @ _between(columns, width).T
    if np.isnan(face).any():
        middle_x, middle_y = (np.arange(width) + 0.5) / width - 0.5, (np.arange(height) + 0.5) / height - 0.5
        field = np.where(middle_x[None, :] ** 2 + middle_y[:, None] ** 2 <= 0.25, field, np.nan)
    return np.asarray(field[::-1])


@lru_cache(maxsize=32)
def _between(cells: int, pixels: int) -> Array:
    """Weights of cells in each pixel, linear between their middles: (pixels, cells)."""
    at = np.clip((np.arange(pixels) + 0.5) / pixels * cells - 0.5, 0, cells - 1)
    low = np.minimum(at.astype(int), cells - 2)
    made = np.zeros((pixels, cells))
    made[np.arange(pixels), low] = 1.0 - (at - low)
    made[np.arange(pixels), low + 1] = at - low
    return made


@lru_cache(maxsize=8)
def _hatching(height: int, width: int, apart: int) -> npt.NDArray[np.bool_]:
    """Where hatching lies."""
    rows, columns = np.indices((height, width))
    return np.asarray((rows + columns) % apart == 0)


def _filled(face: Array) -> Array:
    if not np.isnan(face).any():
        return face
    filled = face.copy()
    for _turn in range(max(face.shape)):
        missing = np.isnan(filled)
        if not missing.any():
            break
        around = np.stack([np.roll(filled, way, axis) for axis in (0, 1) for way in (1, -1)])
        known = ~np.isnan(around)
        mean = np.where(known, around, 0.0).sum(axis=0) / np.maximum(known.sum(axis=0), 1)
        filled = np.where(missing & known.any(axis=0), mean, filled)
    return np.asarray(filled)


def _edges(bands: Array) -> npt.NDArray[np.bool_]:
    found = np.zeros(bands.shape, dtype=bool)
    found[:, 1:] |= bands[:, 1:] != bands[:, :-1]
    found[1:] |= bands[1:] != bands[:-1]
    return found


def pin_point(view: BedPictureView, pin: Pin, box: QRectF) -> QPointF:
    """Where a pin stands on the plan."""
    return QPointF(
        box.center().x() + pin.x / view.width_mm * box.width(), box.center().y() - pin.y / view.depth_mm * box.height()
    )


def paint_lifted(painter: QPainter, view: BedPictureView, box: QRectF) -> None:
    """Where the heater is off its plate, and how warm it gets there."""
    patch = view.lifted
    if patch is None:
        return
    t = theme.tokens()
    x = box.center().x() + patch.x / view.width_mm * box.width()
    y = box.center().y() - patch.y / view.depth_mm * box.height()
    frame = QRectF(0, 0, patch.width / view.width_mm * box.width(), patch.depth / view.depth_mm * box.height())
    frame.moveCenter(QPointF(x, y))
    painter.setPen(theme.pen(t["ink"], 1.4, Qt.PenStyle.DashLine))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawRect(frame)
    painter.setFont(theme.font(12))
    wide = painter.fontMetrics().horizontalAdvance(patch.label) + 10
    flag = QRectF(min(max(x - wide / 2, box.left() + 2), box.right() - wide - 2), frame.top() - 20, wide, 18)
    painter.setPen(theme.pen(t["ink"], 1))
    painter.setBrush(t["flag"])
    painter.drawRect(flag)
    painter.drawText(flag, Qt.AlignmentFlag.AlignCenter, patch.label)


def paint_pins(painter: QPainter, view: BedPictureView, box: QRectF) -> None:
    """Centre, coldest edge and coldest corner: measured in blue, then the model's value."""
    t = theme.tokens()
    painter.setFont(theme.font(12, 700))
    taken: list[QRectF] = []
    for pin in view.pins:
        point = pin_point(view, pin, box)
        own = plain(pin.value)
        read = plain(pin.measured) if pin.measured is not None else ""
        width = painter.fontMetrics().horizontalAdvance(own) + 16
        width += painter.fontMetrics().horizontalAdvance(read) + 6 if read else 0
        height = theme.scaled(19)
        left = point.x() + 8 if point.x() + width + 10 < box.right() else point.x() - width - 8
        top = min(max(point.y() - height / 2, box.top() + 2), box.bottom() - height - 2)
        frame = QRectF(left, top, width, height)
        while any(frame.intersects(one) for one in taken):
            frame.translate(0, -(height + 2) if point.y() > box.center().y() else height + 2)
        taken.append(frame)
        painter.setPen(theme.pen(t["ink"], 1.2))
        painter.setBrush(t["flag"])
        painter.drawRect(frame)
        painter.drawEllipse(point, 3.2, 3.2)
        x = frame.left() + 7
        if read:
            painter.setPen(t["meas"])
            painter.drawText(QPointF(x, frame.bottom() - 5), read)
            x += painter.fontMetrics().horizontalAdvance(read) + 6
        painter.setPen(text_colour(pin.state))
        painter.drawText(QPointF(x, frame.bottom() - 5), own)


def paint_section(painter: QPainter, view: BedPictureView, box: QRectF, colours: Scale) -> None:
    """The stack at its edge, thickness to scale, the rim at the right; ribbons carry the watts up, down and out."""
    t = theme.tokens()
    whole = sum(layer.mm for layer in view.layers)
    names, out = theme.scaled(116), theme.scaled(66)
    left, right = box.left() + names, box.right() - out
    ribbon = theme.scaled(46)
    height = box.height() - 2 * ribbon
    below = min(view.room_mm, 1.2 * whole)
    scale = max(min(height / (whole + below), 9.0), 2.0)
    along = (right - left) / max(3.0 * view.border_mm, 40.0)  # px a millimetre of its width
    tops = _tops(view.layers, box.top() + ribbon, scale)
    for layer, (top, bottom) in zip(view.layers, tops, strict=True):
        end = right - layer.reach * along
        shade = QLinearGradient(left, 0, end, 0)
        shade.setColorAt(0.0, colours.colour(layer.warm))
        shade.setColorAt(1.0, colours.colour(layer.cold))
        painter.setBrush(QBrush(shade))
        painter.setPen(theme.pen(t["ink"], 1.1))
        painter.drawRect(QRectF(left, top, end - left, bottom - top))
    _paint_break(painter, left, tops[0][0], tops[-1][1])
    _paint_names(painter, view.layers, tops, left)
    foot = tops[-1][1]
    if not view.insulated:
        ghost = theme.pen(t["soft"], 1, Qt.PenStyle.DashLine)
        painter.setPen(ghost)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        deep = min(below * scale, box.bottom() - ribbon - foot)
        if deep > 12:
            painter.drawRect(QRectF(left, foot + 2, right - left, deep - 4))
            painter.setFont(theme.font(12))
            painter.setPen(t["soft"])
            painter.drawText(
                QRectF(box.left(), foot + deep - 20, left - box.left() - 8, 20),
                Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight,
                _("{room} mm, empty").format(room=plain(view.room_mm, 0)),
            )  # fmt: skip
    _paint_ribbons(painter, view, QRectF(left, tops[0][0], right - left, foot - tops[0][0]), box)
    _paint_border(painter, view, tops, right, along)


def _tops(layers: tuple[LayerView, ...], top: float, scale: float) -> list[tuple[float, float]]:
    found = []
    for layer in layers:
        bottom = top + max(layer.mm * scale, LEAST_LAYER)
        found.append((top, bottom))
        top = bottom
    return found


def _paint_break(painter: QPainter, x: float, top: float, bottom: float) -> None:
    """A zigzag: the bed goes on toward its middle."""
    painter.setPen(theme.pen(theme.tokens()["ink"], 1.2))
    painter.setBrush(theme.tokens()["sheet"])
    points, y, way = [(x - 8.0, top - 3)], top - 3, 1
    while y < bottom + 3:
        points.append((x + (4.0 if way > 0 else -1.0), y))
        y, way = y + 5.0, -way
    points += [(x, bottom + 3), (x - 8.0, bottom + 3)]
    painter.setPen(Qt.PenStyle.NoPen)
    painter.drawPolygon(polygon(*points))
    painter.setPen(theme.pen(theme.tokens()["ink"], 1.2))
    painter.drawPolyline(polygon(*points[1:-1]))


def _paint_names(
    painter: QPainter, layers: tuple[LayerView, ...], tops: list[tuple[float, float]], left: float
) -> None:
    """Names fan out at the left, with the thickness of each."""
    from zeotherm.desk.widgets.ladder import pushed_apart

    t = theme.tokens()
    painter.setFont(theme.font(12))
    middles = [0.5 * (top + bottom) for top, bottom in tops]
    line = theme.scaled(15)
    spare = 0.5 * max(line * len(layers) - (tops[-1][1] - tops[0][0]), 0.0) + 4
    places = pushed_apart(middles, line, tops[0][0] - spare, tops[-1][1] + spare)
    for layer, middle, place in zip(layers, middles, places, strict=True):
        painter.setPen(theme.pen(t["rule"], 1))
        painter.drawPolyline(polygon((left - 14, place), (left - 6, middle), (left + 4, middle)))
        painter.setPen(t["ink"])
        text = f"{layer.label} {plain(layer.mm, 1 if layer.mm >= 0.1 else 2)}"
        box = QRectF(left - theme.scaled(112), place - 9, theme.scaled(112) - 17, 18)
        painter.drawText(box, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, text)


def _paint_ribbons(painter: QPainter, view: BedPictureView, stack: QRectF, box: QRectF) -> None:
    t = theme.tokens()
    most = max(view.up, view.down, 1.0)
    per_watt = min(WATTS_PX, 0.30 * stack.width() / most)
    painter.setFont(theme.font(12, 700))
    x = stack.left() + 0.30 * stack.width()
    for watts, y, way, text in (
        (view.up, stack.top(), -1.0, _("{watts} W up").format(watts=plain(view.up, 0))),
        (view.down, stack.bottom(), 1.0, _("{watts} W down").format(watts=plain(view.down, 0))),
    ):
        half = max(0.5 * per_watt * watts, 2.0)
        tip = y + way * theme.scaled(38)
        neck = tip - way * 9.0
        painter.setPen(theme.pen(t["ink"], 1.2))
        painter.setBrush(t["ribbon"])
        painter.drawPolygon(
            polygon((x - half, y), (x - half, neck), (x - half - 6, neck), (x, tip), (x + half + 6, neck),
                    (x + half, neck), (x + half, y))
        )  # fmt: skip
        painter.setPen(t["ink"])
        aside = theme.scaled(28) if way < 0.0 else theme.scaled(40)  # below it the heater's border has its own words
        painter.drawText(QPointF(x + half + 14, y + way * aside + 5), text)
    half = max(0.5 * per_watt * view.rim, 1.5)
    y, start = stack.top() + 0.5 * min(stack.height(), 40.0), stack.right()
    tip = min(start + theme.scaled(30), box.right())
    painter.setPen(theme.pen(t["ink"], 1.2))
    painter.setBrush(t["ribbon"])
    painter.drawPolygon(
        polygon((start, y - half), (tip - 7, y - half), (tip - 7, y - half - 4), (tip, y), (tip - 7, y + half + 4),
                (tip - 7, y + half), (start, y + half))
    )  # fmt: skip
    painter.setPen(t["ink"])
    painter.setFont(theme.font(12))
    painter.drawText(QPointF(start + 4, y - half - 9), _("{watts} W").format(watts=plain(view.rim, 0)))


def _paint_border(
    painter: QPainter, view: BedPictureView, tops: list[tuple[float, float]], right: float, along: float
) -> None:
    """How far the heater stops short of the rim."""
    short = next((layer for layer in view.layers if layer.reach > 0.0 and layer.name == "heater"), None)
    if short is None:
        return
    t = theme.tokens()
    index = view.layers.index(short)
    y = tops[index][1] + 9
    start = right - short.reach * along
    painter.setPen(theme.pen(t["ink"], 1))
    for x in (start, right):
        painter.drawLine(QPointF(x, y - 6), QPointF(x, y + 6))
    painter.drawLine(QPointF(start, y), QPointF(right, y))
    painter.setFont(theme.font(12))
    line = theme.scaled(15)
    for n, text in enumerate((_("{border} mm").format(border=plain(view.border_mm, 0)), _("no heater"))):
        painter.drawText(QPointF(right + 6, y + 4 + n * line), text)


def paint_stack(painter: QPainter, rows: tuple[InterfaceRow, ...], box: QRectF, colours: Scale) -> None:
    """One row an interface: °C, a track in the ladder's colours with its state and its limit post."""
    t = theme.tokens()
    head, foot = theme.scaled(22), box.bottom()
    painter.setFont(theme.font(13, 700))
    painter.setPen(t["ink"])
    painter.drawText(QRectF(box.left(), box.top(), box.width(), head), Qt.AlignmentFlag.AlignVCenter,
                     _("Top of each layer, middle"))  # fmt: skip
    painter.setFont(theme.font(12))
    painter.setPen(t["soft"])
    painter.drawText(QRectF(box.left(), box.top(), box.width(), head),
                     Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, _("limit"))  # fmt: skip
    line = min(theme.scaled(22), (foot - box.top() - head) / max(len(rows), 1))
    if line < 11:
        return
    figures, limits = theme.scaled(44), theme.scaled(34)
    start = min(theme.scaled(88), 0.38 * box.width()) + figures + 8
    track = QRectF(box.left() + start, 0, box.width() - start - limits - 6, 7)
    low, high = 20.0, 130.0
    shade = QLinearGradient(track.left(), 0, track.right(), 0)
    for share in np.linspace(0.0, 1.0, 6):
        shade.setColorAt(float(share), colours.colour(low + float(share) * (high - low)))
    tint = QBrush(shade)
    for n, row in enumerate(rows):
        middle = box.top() + head + (n + 0.5) * line
        painter.setPen(t["ink"])
        painter.setFont(theme.font(12))
        room = track.left() - box.left() - figures - 6
        words = painter.fontMetrics().elidedText(row.label, Qt.TextElideMode.ElideRight, int(room))
        painter.drawText(QRectF(box.left(), middle - 9, room, 18), Qt.AlignmentFlag.AlignVCenter, words)
        painter.setFont(theme.font(12, 600))
        painter.drawText(QRectF(track.left() - figures - 6, middle - 9, figures, 18),
                         Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, plain(row.value))  # fmt: skip
        painter.fillRect(QRectF(track.left(), middle - 3.5, track.width(), 7), tint)

        def x_of(value: float) -> float:
            return track.left() + track.width() * min(max((value - low) / (high - low), 0.0), 1.0)

        if row.limit is not None:
            painter.setPen(theme.pen(t["ink"], 2))
            x = x_of(row.limit)
            painter.drawLine(QPointF(x, middle - 7), QPointF(x, middle + 7))
            painter.setPen(t["soft"])
            painter.setFont(theme.font(12))
            aside = QRectF(track.right() + 6, middle - 9, limits, 18)
            painter.drawText(aside, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, plain(row.limit, 0))
        draw_state(painter, row.state, QPointF(x_of(row.value), middle), 5.0)


def paint_values(painter: QPainter, view: BedPictureView, box: QRectF) -> None:
    """Middle, edge and corner with their states, then the share of the face that is within the band."""
    t = theme.tokens()
    third = box.width() / 3.0
    for n, pin in enumerate(view.pins):
        left = box.left() + n * third
        draw_state(painter, pin.state, QPointF(left + 7, box.top() + 10), 5.5)
        painter.setFont(theme.font(12))
        painter.setPen(t["ink"])
        words = painter.fontMetrics().elidedText(pin.label, Qt.TextElideMode.ElideRight, int(third - 20))
        painter.drawText(QRectF(left + 18, box.top(), third - 20, 20), Qt.AlignmentFlag.AlignVCenter, words)
        painter.setFont(theme.font(18, 700))
        painter.setPen(text_colour(pin.state))
        painter.drawText(QRectF(left, box.top() + 19, third - 4, theme.scaled(24)), Qt.AlignmentFlag.AlignVCenter,
                         plain(pin.value))  # fmt: skip
    top = box.top() + 19 + theme.scaled(28)
    painter.setFont(theme.font(13, 700))
    painter.setPen(t["ink"])
    share = _("{share} % within {even} K of {aim} °C").format(
        share=round(100 * view.share), even=plain(view.even, 0), aim=plain(view.aim, 0)
    )
    if view.share_was is not None:
        was = share + _(", was {was} %").format(was=round(100 * view.share_was))
        share = was if painter.fontMetrics().horizontalAdvance(was) <= box.width() else share
    painter.drawText(QRectF(box.left(), top, box.width(), 18), Qt.AlignmentFlag.AlignVCenter, share)
    bar = QRectF(box.left(), top + 20, box.width(), 9)
    painter.fillRect(bar, t["well"])
    painter.fillRect(QRectF(bar.left(), bar.top(), bar.width() * view.share, bar.height()), t["accent"])
    if view.share_was is not None:
        x = bar.left() + bar.width() * view.share_was
        painter.setPen(theme.pen(t["ink"], 2))
        painter.drawLine(QPointF(x, bar.top() - 3), QPointF(x, bar.bottom() + 3))


def paint_profile(painter: QPainter, view: BedPictureView, box: QRectF) -> None:
    """From the front left corner to the back right one, over the band that is wanted."""
    t = theme.tokens()
    painter.setFont(theme.font(12))
    painter.setPen(t["soft"])
    painter.drawText(QRectF(box.left(), box.top(), box.width(), 16), Qt.AlignmentFlag.AlignVCenter,
                     _("Front left to back right"))  # fmt: skip
    ways, values = view.profile
    plot = box.adjusted(0, 18, -theme.scaled(26), -2)
    low = math.floor(min(float(values.min()), view.aim - view.even) - 1.0)
    high = math.ceil(max(float(values.max()), view.aim + view.even) + 1.0)

    def place(way: float, value: float) -> QPointF:
        return QPointF(
            plot.left() + plot.width() * (way - ways[0]) / (ways[-1] - ways[0]),
            plot.bottom() - plot.height() * (value - low) / (high - low),
        )

    band = QRectF(place(ways[0], view.aim + view.even), place(ways[-1], view.aim - view.even))
    painter.fillRect(band, t["accentbg"])
    painter.setPen(theme.pen(t["ink"], 1.8))
    painter.drawPolyline(polygon(*((p.x(), p.y()) for p in map(place, ways, values))))
    painter.setPen(t["soft"])
    for value in (values.max(), values.min()):
        y = place(0.0, float(value)).y()
        painter.drawText(QRectF(plot.right() + 4, y - 9, theme.scaled(26), 18), Qt.AlignmentFlag.AlignVCenter,
                         plain(float(value), 0))  # fmt: skip

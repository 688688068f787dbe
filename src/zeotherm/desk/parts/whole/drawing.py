"""The picture of a whole machine: section from the side, to scale, in the ladder's colours; a label for each part."""

from __future__ import annotations

import itertools
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QBrush, QColor, QFontMetrics, QLinearGradient, QPainter, QPainterPath, QPen

from zeotherm.core.judgement.margins import State
from zeotherm.core.parts.hotend.judge.answer import Answer
from zeotherm.core.parts.hotend.model.shape import Levels
from zeotherm.desk.parts.hotend.section import Section, SectionSheet
from zeotherm.desk.parts.hotend.solids import paint_solids
from zeotherm.desk.parts.whole.shape import Box, MachineShape, Solid, Stroke
from zeotherm.desk.parts.whole.shown import PartLabel, WholeView
from zeotherm.desk.style import theme
from zeotherm.desk.style.patina import Scale
from zeotherm.desk.style.shapes import draw_known, draw_ribbon, draw_state
from zeotherm.desk.widgets.ladder import pushed_apart
from zeotherm.wording.language import _
from zeotherm.wording.numbers import plain

COLUMN, NARROW_COLUMN, NARROW = 126, 116, 520  # px of a column of labels, in a picture that is narrower than the last
LINE, SECOND, THIRD = 19, 15, 16  # px of a label's lines
WALL = 7.0  # px of an enclosure's wall
INSET = 5.0  # times larger than the rest
INSET_SHARE = (0.46, 0.36)  # of the picture, at most
AROUND = (34.0, 16.0, 14.0)  # mm about the hotend in its inset: at the left, the right, above and below
SPARE_BELOW = 0.4  # of the height that the machine leaves
PLACES = 9  # where the inset may stand, along each side
MOST_PX = 22.0  # widest ribbon
LEAST_W = 1.0
THIN, WIRE = 1.2, 2.6  # px
ON_AIR = QColor("#101718")  # tags on coloured air, in both themes


@dataclass(frozen=True)
class MachineSheet:
    """Where the machine lies on the widget."""

    scale: float  # px a mm
    left: float  # px of x = 0
    floor: float  # px of y = 0
    room: QRectF  # between the columns of labels
    inset: QRectF = field(default_factory=QRectF)
    times: float = 1.0  # the inset is larger by
    head: SectionSheet = field(default_factory=lambda: SectionSheet(1.0, 0.0, 0.0))  # where the hotend lies in it
    points: Mapping[str, QPointF] = field(default_factory=dict)  # what each card points at

    def point(self, at: tuple[float, float]) -> QPointF:
        """A place of the machine."""
        return QPointF(self.left + at[0] * self.scale, self.floor - at[1] * self.scale)

    def box(self, box: Box) -> QRectF:
        """A rectangle of the machine; what is thinner than a layer can be seen is drawn as thick as that."""
        frame = QRectF(self.point((box.left, box.top)), self.point((box.right, box.bottom)))
        if frame.height() < WIRE:
            frame = QRectF(frame.left(), frame.center().y() - 0.5 * WIRE, frame.width(), WIRE)
        if frame.width() < WIRE:
            frame = QRectF(frame.center().x() - 0.5 * WIRE, frame.top(), WIRE, frame.height())
        return frame


@dataclass(frozen=True, slots=True)
class PlacedLabel:
    """One label on the widget."""

    label: PartLabel
    frame: QRectF
    at_left: bool
    lines: int  # that there is room for


def column_of(box: QRectF) -> int:
    """Width of a column of labels [px]."""
    return theme.scaled(COLUMN if box.width() >= theme.scaled(NARROW) else NARROW_COLUMN)


def sheet_of(shape: MachineShape, answer: Answer, box: QRectF) -> MachineSheet:
    """One scale for all of it, in the middle of the room between the labels; the inset where it hides least."""
    column = column_of(box)
    room = box.adjusted(column, 0, -column, 0)
    whole = shape.extent
    wide, high = whole.right - whole.left, whole.top - whole.bottom
    pad = 2.0 * WALL + (theme.scaled(26) if shape.enclosure is not None else 8.0)
    scale = max(min((room.width() - 2.0 * WALL - 8.0) / wide, (room.height() - pad) / high), 0.05)
    left = room.center().x() - scale * 0.5 * (whole.left + whole.right)
    spare = max(room.height() - pad - scale * high, 0.0)
    floor = room.bottom() - WALL - 3.0 - SPARE_BELOW * spare + scale * whole.bottom
    at = answer.solved.model.layout.at
    wide_mm = 2e3 * at.block_radius + AROUND[0] + AROUND[1]
    high_mm = 1e3 * at.sink_top + AROUND[2]
    times = min(
        INSET, INSET_SHARE[0] * room.width() / (scale * wide_mm), INSET_SHARE[1] * room.height() / (scale * high_mm)
    )
    size = (times * scale * wide_mm, times * scale * high_mm)
    bare = MachineSheet(scale, left, floor, room, times=times)
    inset, larger = _inset(bare, shape, size), 1e3 * scale * times
    axis = inset.left() + (1e3 * at.block_radius + AROUND[0]) * scale * times
    head = SectionSheet(larger, axis, inset.bottom() - 5e-3 * larger)
    points = {key: bare.point(anchor) for key, anchor in shape.anchors.items()}
    points["hotend"] = head.point(0.6 * at.block_radius, 0.5 * (at.block_bottom + at.block_top))
    points["heat_break"] = head.point(0.0, at.neck_top)
    points["heatsink_fan"] = _fan_in(head, at).center()
    return replace(bare, inset=inset, head=head, points=points)


def _fan_in(head: SectionSheet, at: Levels) -> QRectF:
    """The heatsink's fan beside the enlarged hotend."""
    return head.box(-at.fin - 0.013, -at.fin - 0.003, at.block_top, at.sink_top)


def _inset(sheet: MachineSheet, shape: MachineShape, size: tuple[float, float]) -> QRectF:
    """The place that hides least of the machine, near its hotend where there is a choice."""
    room = sheet.room.adjusted(4, 0, -4, -6)
    wide, high = max(room.width() - size[0], 0.0), max(room.height() - size[1], 0.0)
    solids = [sheet.box(one.box) for one in shape.solids]
    solids += [QRectF(end.x() - 9, end.y() - 9, 18, 18) for end in map(sheet.point, shape.anchors.values())]
    if shape.enclosure is not None:
        inside = sheet.box(shape.enclosure)
        solids.append(QRectF(inside.left(), inside.top() - 44.0, inside.width(), 48.0))  # what leaves by the roof
        solids += [QRectF(x - 16.0, inside.top(), 32.0, inside.height()) for x in (inside.left(), inside.right())]
    tip = sheet.point(shape.tip)
    head = QRectF(tip.x() - 60.0 * sheet.scale, tip.y() - 110.0 * sheet.scale, 120.0 * sheet.scale, 112.0 * sheet.scale)
    best, least = QRectF(room.topLeft(), room.topLeft()), float("inf")
    for i in range(PLACES):
        for j in range(PLACES):
            frame = QRectF(room.left() + wide * i / (PLACES - 1), room.top() + high * j / (PLACES - 1), *size)
            hidden = sum(_area(frame, one) for one in solids) + 8.0 * _area(frame, head)
            away = abs(frame.center().x() - tip.x()) + abs(frame.center().y() - tip.y())
            if (cost := hidden + 0.5 * away) < least:
                best, least = frame, cost
    return best


def _area(one: QRectF, other: QRectF) -> float:
    both = one.intersected(other)
    return max(both.width(), 0.0) * max(both.height(), 0.0)


def placed(view: WholeView, sheet: MachineSheet, box: QRectF) -> list[PlacedLabel]:
    """Every label at its side of the picture, in the order of what it points at, in as many lines as there is room."""
    middle, points = sheet.room.center().x(), sheet.points
    order = sorted(view.labels, key=lambda one: points[one.key].x() if one.key in points else middle)
    half = (len(order) + 1) // 2
    made: list[PlacedLabel] = []
    for side, at_left in ((order[:half], True), (order[half:], False)):
        side = sorted(side, key=lambda one: points[one.key].y() if one.key in points else box.top())
        for most in (3, 2, 1):
            heights = [float(_height(one, most)) for one in side]
            if sum(heights) <= box.height() or most == 1:
                break
        offsets = [sum(heights[:index]) for index in range(len(side))]
        wanted = [
            (points[one.key].y() if one.key in points else box.top()) - 0.5 * high - offset
            for one, high, offset in zip(side, heights, offsets, strict=True)
        ]
        tops = pushed_apart(wanted, 0.0, box.top(), box.bottom() - sum(heights))
        wide = column_of(box) - 6
        left = box.left() if at_left else box.right() - wide
        made += [
            PlacedLabel(one, QRectF(left, top + offset, wide, high), at_left, most)
            for one, top, offset, high in zip(side, tops, offsets, heights, strict=True)
        ]
    return made


def _height(label: PartLabel, most: int) -> int:
    lines = [LINE] + ([SECOND] if label.says else []) + ([THIRD] if label.by else [])
    kept = lines[:most] if not (most == 2 and label.by) else [LINE, THIRD]
    return theme.scaled(sum(kept) + 3)


def paint_machine(
    painter: QPainter, view: WholeView, sheet: MachineSheet, answer: Answer, colours: Scale, chosen: str
) -> None:
    """Air, walls, solids, wires, ribbons, and the hotend in its inset."""
    _paint_air(painter, view, sheet, colours)
    for solid in view.shape.solids:
        _paint_solid(painter, solid, view.temperatures, sheet, colours, solid.card == chosen)
    for stroke in view.shape.strokes:
        _paint_stroke(painter, stroke, sheet, stroke.card == chosen)
    _paint_inset(painter, view, sheet, answer, colours)
    _paint_ribbons(painter, view, sheet)


def _paint_air(painter: QPainter, view: WholeView, sheet: MachineSheet, colours: Scale) -> None:
    t, shape = theme.tokens(), view.shape
    floor = sheet.floor + 1.0 - shape.extent.bottom * sheet.scale
    painter.setPen(theme.pen(t["ink"], 1.6))
    painter.drawLine(QPointF(sheet.room.left() + 4, floor), QPointF(sheet.room.right() - 4, floor))
    if shape.enclosure is None:
        return
    inside = sheet.box(shape.enclosure)
    low, high = view.temperatures.get("case_air"), view.temperatures.get("case_roof")
    wall = view.temperatures.get("case_wall")
    painter.setPen(theme.pen(t["ink"], 1.2))
    painter.setBrush(colours.colour(wall) if wall is not None else t["well"])
    painter.drawRect(inside.adjusted(-WALL, -WALL, WALL, WALL))
    if low is None or high is None:
        painter.setBrush(t["well"])
    else:
        shade = QLinearGradient(inside.bottomLeft(), inside.topLeft())
        shade.setColorAt(0.0, colours.colour(low))
        shade.setColorAt(0.45, colours.colour(low))
        shade.setColorAt(0.55, colours.colour(high))
        shade.setColorAt(1.0, colours.colour(high))
        painter.setBrush(QBrush(shade))
    painter.drawRect(inside)
    if shape.open_top:
        opening = QRectF(inside.left() + 0.7 * inside.width(), inside.top() - WALL, 0.2 * inside.width(), WALL)
        painter.fillRect(opening, t["sheet"])
        painter.setPen(QPen(t["ink"], 2.0, Qt.PenStyle.DotLine))
        painter.drawLine(QPointF(opening.left(), opening.center().y()), QPointF(opening.right(), opening.center().y()))


def _paint_solid(
    painter: QPainter,
    solid: Solid,
    temperatures: Mapping[str, float],
    sheet: MachineSheet,
    colours: Scale,
    chosen: bool,
) -> None:
    """In its colour; grey where its temperature is not computed. A light edge sets it off from dark air."""
    t, frame = theme.tokens(), sheet.box(solid.box)
    value = temperatures.get(solid.station) if solid.station else None
    edge = t["meas"] if chosen else QColor("#F4F5F0")
    painter.setPen(theme.pen(edge, 3.4 if chosen else 2.6))
    painter.setBrush(colours.colour(value) if value is not None else t["well"])
    draw = painter.drawEllipse if solid.round else painter.drawRect
    draw(frame)
    painter.setPen(theme.pen(QColor("#182124"), THIN))
    draw(frame)
    if solid.round:
        painter.setBrush(QColor("#E6E7DF"))
        painter.drawEllipse(frame.center(), 0.24 * frame.width(), 0.24 * frame.width())


def _paint_stroke(painter: QPainter, stroke: Stroke, sheet: MachineSheet, chosen: bool) -> None:
    """A wire, a tube or a bar, rounded where it bends."""
    points = [sheet.point(one) for one in stroke.points]
    path = QPainterPath(points[0])
    for before, at in itertools.pairwise(points[1:]):
        path.quadTo(before, 0.5 * (before + at))
    path.lineTo(points[-1])
    edge, core = {
        "wire": (QColor("#F4F5F0"), QColor("#182124")), "tube": (QColor("#182124"), QColor("#F4F5F0")),
        "filament": (QColor("#182124"), QColor("#F4F5F0")), "bar": (QColor("#182124"), QColor("#E6E7DF")),
    }[stroke.kind]  # fmt: skip
    wide = {"wire": 1.4, "tube": 2.6, "filament": 1.2, "bar": 3.0}[stroke.kind]
    painter.setBrush(Qt.BrushStyle.NoBrush)
    for colour, width in ((theme.tokens()["meas"] if chosen else edge, wide + 2.2), (core, wide)):
        painter.setPen(QPen(colour, width, cap=Qt.PenCapStyle.RoundCap, join=Qt.PenJoinStyle.RoundJoin))
        painter.drawPath(path)


def _paint_inset(painter: QPainter, view: WholeView, sheet: MachineSheet, answer: Answer, colours: Scale) -> None:
    """The hotend in section, larger, on its own air."""
    t, frame = theme.tokens(), sheet.inset
    tip = sheet.point(view.shape.tip)
    small = QRectF(tip.x() - 24.0 * sheet.scale, tip.y() - 78.0 * sheet.scale, 48.0 * sheet.scale, 82.0 * sheet.scale)
    dashed = QPen(QColor("#F4F5F0"), 1.2, Qt.PenStyle.DashLine)
    under = QPen(QColor("#182124"), 2.2)
    for one, other in ((frame.topRight(), small.topRight()), (frame.bottomLeft(), small.bottomLeft())):
        for pen in (under, dashed):
            painter.setPen(pen)
            painter.drawLine(one, other)
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawRect(small)
    air = view.temperatures.get("case_air", view.temperatures.get("fan_inlet"))
    painter.setPen(theme.pen(QColor("#F4F5F0"), 2.0))
    painter.setBrush(colours.colour(air) if air is not None else t["well"])
    painter.drawRect(frame)
    at, head = answer.solved.model.layout.at, sheet.head
    section = Section(head.scale, head.axis, head.tip, answer)
    painter.save()
    painter.setClipRect(frame)
    fan, inlet = _fan_in(head, at), view.temperatures.get("fan_inlet")
    painter.setPen(theme.pen(QColor("#182124"), THIN))
    painter.setBrush(colours.colour(inlet) if inlet is not None else t["well"])
    painter.drawRect(fan)
    painter.drawLine(fan.center() - QPointF(0, 0.42 * fan.height()), fan.center() + QPointF(0, 0.42 * fan.height()))
    paint_solids(painter, section, colours)
    painter.restore()
    if view.watts is not None and view.watts.off_hotend >= LEAST_W:
        start = QPointF(section.x(at.block_radius) + 2, section.y(0.5 * (at.block_bottom + at.block_top)))
        end = QPointF(frame.right() + 8, start.y())
        draw_ribbon(painter, start, end, min(_px(view.watts.off_hotend, view), 14.0))
        _tag(
            painter, QPointF(end.x() + 3, end.y()), _("{watts} W").format(watts=plain(view.watts.off_hotend, 0)), "left"
        )
    _tag(painter, frame.topLeft() + QPointF(2, 9), _("{times} times").format(times=plain(sheet.times, 1)), "left")


def _px(watts: float, view: WholeView) -> float:
    """Width of a ribbon: by its watts, the widest of them at most as wide as all may be."""
    assert view.watts is not None
    widest = max([view.watts.off_bed, view.watts.off_hotend, *map(abs, view.watts.leaves.values()), 20.0])
    return max(MOST_PX * abs(watts) / widest, 1.6)


def _paint_ribbons(painter: QPainter, view: WholeView, sheet: MachineSheet) -> None:
    """Watts between the parts, and out of what encloses them."""
    watts, shape = view.watts, view.shape
    if watts is None:
        return
    long = float(theme.scaled(34))
    says = _("{watts} W")
    bed = sheet.box(shape.bed)
    if watts.off_bed >= LEAST_W:
        x = _clear_of(sheet, shape, bed, long)
        draw_ribbon(painter, QPointF(x, bed.top() - 2), QPointF(x, bed.top() - long), _px(watts.off_bed, view))
        _tag(painter, QPointF(x, bed.top() - long - 9), says.format(watts=plain(watts.off_bed, 0)), "middle")
    supply = next((one.box for one in shape.solids if one.card == "supply"), None)
    if supply is not None and watts.enters["electronics"] >= LEAST_W:
        box, given = sheet.box(supply), watts.enters["electronics"]
        draw_ribbon(
            painter,
            QPointF(box.center().x(), box.top() + 8),
            QPointF(box.center().x(), box.top() - 14),
            _px(given, view),
        )
        _tag(painter, QPointF(box.center().x(), box.top() - 22), says.format(watts=plain(given, 0)), "middle")
    heater = next((one.box for one in shape.solids if one.card == "enclosure_heater"), None)
    if heater is not None and watts.enters["case"] >= LEAST_W:
        box, given = sheet.box(heater), watts.enters["case"]
        draw_ribbon(
            painter, QPointF(box.center().x(), box.top()), QPointF(box.center().x(), box.top() - 24), _px(given, view)
        )
        _tag(painter, QPointF(box.center().x(), box.top() - 33), says.format(watts=plain(given, 0)), "middle")
    if shape.enclosure is None:
        return
    room = sheet.box(shape.enclosure).adjusted(-WALL, -WALL, WALL, WALL)
    ways: list[tuple[float, QPointF, QPointF]] = [
        (watts.leaves["openings"], QPointF(room.left() + 0.8 * room.width(), room.top() + 4), QPointF(0, -1)),
        (watts.leaves["walls"], QPointF(room.left() + 2, room.top() + 0.34 * room.height()), QPointF(-1, 0)),
        (-watts.enters["sun"], QPointF(room.left() + 0.22 * room.width(), room.top() + 4), QPointF(0, -1)),
    ]
    out = float(theme.scaled(22))
    for value, start, way in ways:
        if abs(value) < LEAST_W:
            continue
        end = start + way * out
        begin, finish = (start, end) if value > 0.0 else (end, start)
        draw_ribbon(painter, begin, finish, _px(value, view))
        text = says.format(watts=plain(abs(value), 0))
        text = _("{watts} sun").format(watts=text) if value < 0.0 else text
        if way.y():
            side = end + QPointF(0.5 * _px(value, view) + 8, 7)
            painter.setFont(theme.font(12, 700))
            painter.setPen(theme.tokens()["ink"])
            painter.drawText(side, text)
        else:
            _tag(painter, start + QPointF(WALL + 5, 0), text, "left")


def _clear_of(sheet: MachineSheet, shape: MachineShape, bed: QRectF, high: float) -> float:
    """Where along the bed its ribbon hides neither head nor inset."""
    tip = sheet.point(shape.tip)
    head = QRectF(tip.x() - 58.0 * sheet.scale, tip.y() - 90.0 * sheet.scale, 100.0 * sheet.scale, 200.0 * sheet.scale)
    spots = [bed.left() + share * bed.width() for share in (0.16, 0.28, 0.84, 0.72, 0.06)]
    cost = [
        _area(frame := QRectF(x - 22, bed.top() - high - 18, 44, high + 18), head) + _area(frame, sheet.inset)
        for x in spots
    ]
    return spots[cost.index(min(cost))]


def tag_spots(shape: MachineShape, sheet: MachineSheet, tags: tuple[str, str]) -> tuple[QPointF, ...]:
    """Where the figures of both halves of the air hide least, by the left of their middle height."""
    if shape.enclosure is None:
        return ()
    inside = sheet.box(shape.enclosure)
    solids = [sheet.box(one.box) for one in shape.solids]
    middle, found = inside.center().y(), []
    for text, low, high in zip(tags, (inside.top() + 12, middle), (middle - 12, inside.bottom() - 12), strict=True):
        wide = QFontMetrics(theme.font(12, 700)).horizontalAdvance(text) + 8
        spots = [
            QRectF(inside.left() + 5 + (inside.width() - wide - 10) * i / 4, low + (high - low) * j / 5 - 9, wide, 18)
            for j in range(6)
            for i in range(5)
        ]
        hidden = [
            sum(_area(spot, one) for one in solids) + 4.0 * _area(spot, sheet.inset) + 0.5 * abs(spot.top() - low)
            for spot in spots
        ]
        best = spots[hidden.index(min(hidden))]
        found.append(QPointF(best.left(), best.center().y()))
    return tuple(found)


def _tag(painter: QPainter, at: QPointF, text: str, side: str) -> None:
    """Light figures on a dark plate, to be read on any colour; at: its middle height, and its left end or middle."""
    painter.setFont(theme.font(12, 700))
    wide, high = painter.fontMetrics().horizontalAdvance(text) + 8, theme.scaled(16)
    left = at.x() if side == "left" else at.x() - 0.5 * wide
    frame = QRectF(left, at.y() - 0.5 * high, wide, high)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(ON_AIR)
    painter.drawRoundedRect(frame, 3, 3)
    painter.setPen(QColor("#FFFFFF"))
    painter.drawText(frame, Qt.AlignmentFlag.AlignCenter, text)


def paint_tags(painter: QPainter, tags: tuple[str, str], spots: tuple[QPointF, ...]) -> None:
    """Both halves of the air in figures."""
    for text, spot in zip(tags, spots, strict=False):
        if text:
            _tag(painter, spot, text, "left")


def paint_labels(
    painter: QPainter, view: WholeView, sheet: MachineSheet, labels: Sequence[PlacedLabel], chosen: str, focused: str
) -> None:
    """Leaders first, then each label."""
    t = theme.tokens()
    for one in labels:
        end = sheet.points.get(one.label.key)
        if end is None:
            continue
        y = one.frame.top() + theme.scaled(0.5 * LINE)
        start = QPointF(one.frame.right() + 2 if one.at_left else one.frame.left() - 2, y)
        elbow = QPointF(start.x() + (8 if one.at_left else -8), y)
        for colour, width in ((QColor("#F4F5F0"), 2.6), (QColor("#182124"), 1.0)):
            painter.setPen(QPen(colour, width))
            painter.drawPolyline(start, elbow, end)
        if one.label.state is not None and (one.label.state.bad or one.label.state is State.CLOSE):
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(t["flag"])
            painter.drawEllipse(end, 8.5, 8.5)
            draw_state(painter, one.label.state, end, 5.5)
        else:
            painter.setPen(QPen(QColor("#182124"), 1.1))
            painter.setBrush(QColor("#FFFFFF"))
            painter.drawEllipse(end, 2.6, 2.6)
    for one in labels:
        _paint_label(painter, one, one.label.key == chosen, one.label.key == focused)


def _paint_label(painter: QPainter, one: PlacedLabel, chosen: bool, focused: bool) -> None:
    t, label, frame = theme.tokens(), one.label, one.frame
    if chosen or focused:
        painter.setPen(theme.pen(t["meas"], 2))
        painter.setBrush(t["sel"] if focused else t["flag"])
        painter.drawRoundedRect(frame.adjusted(0, 0, 0, -2), 3, 3)
    mark = theme.scaled(18 if label.rank else 14)
    first = QRectF(frame.left() + 3, frame.top(), frame.width() - 6, theme.scaled(LINE))
    align = Qt.AlignmentFlag.AlignVCenter | (Qt.AlignmentFlag.AlignRight if one.at_left else Qt.AlignmentFlag.AlignLeft)
    painter.setFont(theme.font(13, 600))
    painter.setPen(t["ink"] if label.there else t["soft"])
    name = painter.fontMetrics().elidedText(label.label, Qt.TextElideMode.ElideRight, int(first.width() - mark - 4))
    painter.drawText(first, align, name)
    wide = painter.fontMetrics().horizontalAdvance(name) + 4 + 0.5 * mark
    if label.there:
        centre = QPointF(first.right() - wide if one.at_left else first.left() + wide, first.center().y())
        draw_known(painter, label.how, centre, 9.0 if label.rank else 5.5)
        if label.rank:
            painter.setFont(theme.font(12, 700))
            painter.setPen(t["ink"])
            ring = QRectF(centre.x() - 9, centre.y() - 9, 18, 18)
            painter.drawText(ring, Qt.AlignmentFlag.AlignCenter, str(label.rank))
    y = first.bottom()
    rest = [(label.says, 400, "soft", SECOND)] if one.lines == 3 or (one.lines == 2 and not label.by) else []
    rest += [(label.by, 700, "ink", THIRD)] if one.lines > 1 else []
    for text, weight, token, high in rest:
        if text:
            painter.setFont(theme.font(12, weight))
            painter.setPen(t[token])
            shown = painter.fontMetrics().elidedText(text, Qt.TextElideMode.ElideRight, int(first.width()))
            painter.drawText(QRectF(first.left(), y, first.width(), theme.scaled(high)), align, shown)
            y += theme.scaled(high)


def paint_foot(painter: QPainter, view: WholeView, box: QRectF) -> None:
    """How many facts are known how, each by its mark; and the scale."""
    t, x = theme.tokens(), box.left()
    painter.setFont(theme.font(12))
    for how, text in view.facts:
        draw_known(painter, how, QPointF(x + 7, box.center().y()), 5.5)
        painter.setPen(t["soft"])
        wide = painter.fontMetrics().horizontalAdvance(text)
        painter.drawText(QRectF(x + 17, box.top(), wide + 4, box.height()), Qt.AlignmentFlag.AlignVCenter, text)
        x += wide + 34
    text = _("to one scale, the hotend larger")
    if x + painter.fontMetrics().horizontalAdvance(text) < box.right():
        painter.drawText(box, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, text)

"""A power path as a strip from the supply that branches to bed and hotend: its width what passes, its colour the
metal's temperature, a waist at every joint; beside it the volts that are left, and what the supply can give in its air.
"""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QBrush, QColor, QLinearGradient, QPainter

from zeotherm.core.judgement.margins import State
from zeotherm.desk.parts.power.shown import PartView, PowerPictureView
from zeotherm.desk.style import theme
from zeotherm.desk.style.patina import Scale
from zeotherm.desk.style.shapes import draw_state, polygon, state_colour, text_colour
from zeotherm.desk.widgets.ladder import pushed_apart
from zeotherm.wording.language import _
from zeotherm.wording.numbers import plain, with_unit

WIDEST = 62.0  # px of the strip where most passes
NARROWEST = 10.0
NOTCH, NOTCH_BY, NOTCH_MOST = 2.5, 0.75, 0.4  # px of a sound waist, px a milliohm, share of the width
OWN_SUPPLY = 4.0  # of the hotend's amps that would be the widest strip, beside a bed on the mains
STOPS = 10  # of a wire's colours along it
SHARES = {"contact": 1.0, "switch": 1.0, "wire": 1.5}
LABELS, LANE = 148.0, 54.0  # px at the left
SOURCE, BED = 44.0, 36.0  # px high
SIDE = 168.0  # px of flags and curve at the right
DARK, LIGHT = "#0E1618", "#FFFFFF"  # text on a temperature's colour
SLIM = 470.0  # px of width below which the side goes


class StripPlaces:
    """Where every part of the strip lies."""

    def __init__(self, view: PowerPictureView, box: QRectF) -> None:
        self.slim = box.width() < theme.scaled(int(SLIM))
        labels, lane = theme.scaled(int(LABELS)), theme.scaled(int(LANE))
        self.labels = QRectF(box.left(), box.top(), labels, box.height())
        self.lane = QRectF(self.labels.right(), box.top(), lane, box.height())
        self.middle = self.lane.right() + 18 + 0.5 * theme.scaled(int(WIDEST))
        source, bed = theme.scaled(int(SOURCE)), theme.scaled(int(BED))
        self.source = QRectF(self.middle - theme.scaled(74), box.top(), theme.scaled(148), source)
        self.bed = QRectF(self.middle - theme.scaled(84), box.bottom() - bed, theme.scaled(150), bed)
        self.side = QRectF(box.right() - theme.scaled(int(SIDE)), box.top(), theme.scaled(int(SIDE)), box.height())
        whole = sum(SHARES[part.kind] for part in view.parts)
        unit = (self.bed.top() - self.source.bottom()) / whole
        self.parts: dict[str, QRectF] = {}
        y = self.source.bottom()
        most = max((self._measure(view, part) for part in view.parts), default=1.0) or 1.0
        for part in view.parts:
            high = SHARES[part.kind] * unit
            wide = max(theme.scaled(int(WIDEST)) * self._measure(view, part) / most, NARROWEST)
            self.parts[part.key] = QRectF(self.middle - 0.5 * wide, y, wide, high)
            y += high
        self._lay_hotend(view, box, most)

    def _lay_hotend(self, view: PowerPictureView, box: QRectF, most: float) -> None:
        """The hotend's branch down the right side, from where the feed ends."""
        left = self.bed.right() + 4
        right = box.right() - 2 if self.slim else self.side.left() - 4
        self.hotend = QRectF(left, self.bed.top(), max(right - left, 10.0), self.bed.height())
        start = self.parts[view.branch_at] if view.branch_at else self.source
        self.leaves = start.bottom() - theme.scaled(9)
        y = start.bottom() + theme.scaled(8)
        if view.apart:  # two supplies: their amps do not compare
            most = OWN_SUPPLY * max(self._measure(view, part) for part in view.hotend)
        unit = (self.hotend.top() - y) / sum(SHARES[part.kind] for part in view.hotend)
        for part in view.hotend:
            wide = max(theme.scaled(int(WIDEST)) * self._measure(view, part) / most, NARROWEST)
            high = SHARES[part.kind] * unit
            x = self.hotend.right() - theme.scaled(14) - wide if self.slim else self.hotend.left() + theme.scaled(14)
            self.parts[part.key] = QRectF(x, y, wide, high)
            y += high

    @staticmethod
    def _measure(view: PowerPictureView, part: PartView) -> float:
        return part.watts if view.by_watts else part.amps


def paint_power(painter: QPainter, view: PowerPictureView, box: QRectF, colours: Scale) -> None:
    """The whole picture."""
    at = StripPlaces(view, box)
    _paint_lane(painter, view, at)
    for part in view.parts:
        _paint_part(painter, part, at.parts[part.key], colours)
        _paint_label(painter, part, at)
    _paint_hotend(painter, view, at, colours)
    if view.branch_at and not at.slim:
        _paint_branches(painter, view, at, colours)
    _paint_ends(painter, view, at, colours)
    if not at.slim:
        if not view.mains:
            _paint_derating(painter, view, QRectF(at.side.left(), at.side.top(), at.side.width(), theme.scaled(118)))
        _paint_flags(painter, view, at, colours)
        _paint_hotend_labels(painter, view, at)
    else:
        _paint_marks(painter, view, at)


def _paint_part(painter: QPainter, part: PartView, box: QRectF, colours: Scale) -> None:
    t = theme.tokens()
    painter.setPen(theme.pen(t["ink"], 1.2))
    shade = QLinearGradient(box.topLeft(), box.bottomLeft())
    last = len(part.warm) - 1
    for n in range(min(last, STOPS) + 1):
        share = n / max(min(last, STOPS), 1)
        shade.setColorAt(share, colours.colour(part.warm[round(share * last)]))
    painter.setBrush(QBrush(shade) if len(part.warm) > 1 else QBrush(colours.colour(part.warm[0])))
    if part.kind == "contact":
        deep = min(NOTCH + NOTCH_BY * part.milliohm, NOTCH_MOST * box.width())
        y, slope = box.center().y(), min(0.3 * box.height(), 12.0)
        painter.drawPolygon(polygon(
            (box.left(), box.top()), (box.right(), box.top()), (box.right(), y - slope), (box.right() - deep, y),
            (box.right(), y + slope), (box.right(), box.bottom()), (box.left(), box.bottom()),
            (box.left(), y + slope), (box.left() + deep, y), (box.left(), y - slope),
        ))  # fmt: skip
        painter.drawLine(QPointF(box.left() + deep, y), QPointF(box.right() - deep, y))
    elif part.kind == "switch":
        painter.drawRect(box)
        gate = QRectF(box.left() - 7, box.center().y() - 8, box.width() + 14, 16)
        painter.drawRoundedRect(gate, 3, 3)
    else:
        painter.drawRect(box)


def _paint_label(painter: QPainter, part: PartView, at: StripPlaces) -> None:
    t, box = theme.tokens(), at.parts[part.key]
    line = theme.scaled(15)
    text = _("{ohms} mΩ, {lost}").format(ohms=plain(part.milliohm), lost=with_unit(part.lost, "V", 2))
    two = box.height() >= 2 * line
    top = box.center().y() - (line if two else 0.5 * line)
    painter.setFont(theme.font(13, 600))
    painter.setPen(text_colour(part.state))
    room = QRectF(at.labels.left(), top, at.labels.width(), line)
    painter.drawText(room, Qt.AlignmentFlag.AlignVCenter, part.label)
    painter.setFont(theme.font(12))
    painter.setPen(text_colour(part.state) if part.state.bad else t["soft"])
    if two:
        painter.drawText(room.translated(0, line), Qt.AlignmentFlag.AlignVCenter, text)
    else:
        ends = Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight
        painter.drawText(room.adjusted(0, 0, theme.scaled(6), 0), ends, f"{plain(part.milliohm)} mΩ")


def _paint_lane(painter: QPainter, view: PowerPictureView, at: StripPlaces) -> None:
    """The volts that are left: a falling edge, grey what is lost."""
    t = theme.tokens()
    lane = at.lane.adjusted(10, 0, -4, 0)
    full = max(view.lost, 1e-9)
    points = [(lane.right(), at.source.bottom())]
    edge = [(lane.right(), at.source.bottom())]
    x = lane.right()
    for part in view.parts:
        box = at.parts[part.key]
        after = x - part.lost / full * lane.width()
        if part.kind == "wire":
            edge += [(x, box.top()), (after, box.bottom())]
        else:
            edge += [(x, box.top()), (x, box.center().y()), (after, box.center().y()), (after, box.bottom())]
        x = after
    points = [*edge, (lane.right(), at.bed.top())]
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(t["well"])
    painter.drawPolygon(polygon(*points))
    painter.setPen(theme.pen(t["ink"], 1.6))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawPolyline(polygon(*edge))
    painter.setPen(theme.pen(t["line"], 1))
    painter.drawLine(QPointF(lane.right(), at.source.bottom()), QPointF(lane.right(), at.bed.top()))
    left = QRectF(at.labels.left(), at.bed.top(), at.bed.left() - at.labels.left() - 6, at.bed.height())
    painter.setFont(theme.font(20, 700))
    painter.setPen(t["ink"])
    painter.drawText(left, Qt.AlignmentFlag.AlignTop, with_unit(view.bed_volts, "V"))
    painter.setFont(theme.font(12))
    painter.setPen(t["soft"])
    text = _("left at the bed, {lost} lost").format(lost=with_unit(view.lost, "V", 2))
    painter.drawText(left, Qt.AlignmentFlag.AlignBottom, text)
    head = QRectF(at.labels.left(), at.source.top(), at.source.left() - at.labels.left() - 6, at.source.height())
    line = theme.scaled(16)
    middle = head.center().y()
    painter.drawText(QRectF(head.left(), middle - line, head.width(), line), Qt.AlignmentFlag.AlignVCenter, view.wall)
    painter.drawText(QRectF(head.left(), middle, head.width(), line), Qt.AlignmentFlag.AlignVCenter, view.fuse)
    cord = at.labels.left() + painter.fontMetrics().horizontalAdvance(view.wall) + 8
    if not view.mains and cord < at.source.left() - 8:  # the cord to the supply
        painter.setPen(theme.pen(t["soft"], 5.0))
        painter.drawLine(QPointF(cord, middle - 0.5 * line), QPointF(at.source.left() - 3, middle - 0.5 * line))


def _paint_ends(painter: QPainter, view: PowerPictureView, at: StripPlaces, colours: Scale) -> None:
    """The supply at the head, the bed at the foot."""
    t = theme.tokens()
    for box, warm, lines in (
        (at.source, view.source_c, (view.source, view.source_text)), (at.bed, view.bed_c, (view.bed_text,)),
        (at.hotend, view.hotend_c, view.hotend_text),
    ):  # fmt: skip
        colour = colours.colour(warm)
        painter.setPen(theme.pen(t["ink"], 1.4))
        painter.setBrush(colour)
        painter.drawRoundedRect(box, 3, 3)
        painter.setPen(QColor(DARK if colour.lightnessF() > 0.42 else LIGHT))
        for n, text in enumerate(lines):
            painter.setFont(theme.font(13, 700 if n == 0 else 600))
            step = box.height() / len(lines)
            painter.drawText(QRectF(box.left(), box.top() + n * step, box.width(), step), Qt.AlignmentFlag.AlignCenter,
                             text)  # fmt: skip


def _paint_hotend(painter: QPainter, view: PowerPictureView, at: StripPlaces, colours: Scale) -> None:
    """The branch to the hotend: across from where the feed ends, then down."""
    first = at.parts[view.hotend[0].key]
    start = at.parts[view.branch_at] if view.branch_at else at.source
    if not (view.apart and not view.branch_at):  # a bed on a source of its own leaves the first supply to the hotend
        x, down = start.right() - 1.0, first.center().x()
        path = polygon((x, at.leaves), (down, at.leaves), (down, first.top()))
        colour = colours.colour(view.hotend[0].warm[0])
        for pen in (theme.pen(theme.tokens()["ink"], first.width() + 2.0), theme.pen(colour, first.width())):
            pen.setJoinStyle(Qt.PenJoinStyle.MiterJoin)
            painter.setPen(pen)
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawPolyline(path)
    for part in view.hotend:
        _paint_part(painter, part, at.parts[part.key], colours)


def _paint_hotend_labels(painter: QPainter, view: PowerPictureView, at: StripPlaces) -> None:
    """What each part of the hotend's branch is and loses, on ground of its own."""
    t, line = theme.tokens(), theme.scaled(15)
    for part in view.hotend:
        box = at.parts[part.key]
        if box.height() < 2 * line:
            continue
        room = QRectF(box.right() + 5, box.center().y() - line, at.hotend.right() - box.right() - 4, 2 * line)
        ground = QColor(t["sheet"])
        ground.setAlpha(215)
        painter.fillRect(room, ground)
        painter.setFont(theme.font(12, 600))
        painter.setPen(text_colour(part.state))
        name = painter.fontMetrics().elidedText(part.short, Qt.TextElideMode.ElideRight, int(room.width()))
        painter.drawText(room.adjusted(0, 0, 0, -line), Qt.AlignmentFlag.AlignVCenter, name)
        painter.setFont(theme.font(12))
        painter.setPen(text_colour(part.state) if part.state.bad else t["soft"])
        painter.drawText(room.adjusted(0, line, 0, 0), Qt.AlignmentFlag.AlignVCenter, f"{plain(part.milliohm)} mΩ")


def _paint_branches(painter: QPainter, view: PowerPictureView, at: StripPlaces, colours: Scale) -> None:
    """The other loads leave to the right where the feed ends."""
    t, start = theme.tokens(), at.parts[view.branch_at]
    colour = colours.colour(next(part.warm[0] for part in view.parts if part.key == view.branch_at))
    row = theme.scaled(17)
    count = len(view.others)
    right = at.side.left() - 8
    left = start.right()
    top = start.bottom() - theme.scaled(9) - row * count
    floor = theme.scaled(126) + at.source.top()
    top = max(top, floor) if top < floor else top
    painter.setFont(theme.font(12))
    for n, (label, amps, watts) in enumerate(view.others):
        y = top + n * row
        wide = min(max(3.0, WIDEST * amps / max(part.amps for part in view.parts)), row - 4.0)
        painter.setPen(theme.pen(t["ink"], wide + 2.0))
        painter.drawLine(QPointF(left, y), QPointF(right - 4, y))
        painter.setPen(theme.pen(colour, wide))
        painter.drawLine(QPointF(left + 1, y), QPointF(right - 5, y))
        painter.setPen(t["ink"])
        text = f"{label} {with_unit(amps, 'A')}, {with_unit(watts, 'W', 0)}"
        text += f", {with_unit(view.others_v, 'V')}" if n == 0 else ""
        painter.drawText(QRectF(right + 2, y - 0.5 * row, at.side.right() - right, row),
                         Qt.AlignmentFlag.AlignVCenter, text)  # fmt: skip


def _paint_derating(painter: QPainter, view: PowerPictureView, box: QRectF) -> None:
    """What the supply gives by its inlet's temperature, what is asked, and where it stands."""
    t = theme.tokens()
    painter.setFont(theme.font(12, 600))
    painter.setPen(t["ink"])
    line = theme.scaled(16)
    painter.drawText(QRectF(box.left(), box.top(), box.width(), line), Qt.AlignmentFlag.AlignVCenter,
                     _("What {supply} can give").format(supply=view.supply) if view.supply
                     else _("What the supply can give"))  # fmt: skip
    plot = box.adjusted(theme.scaled(30), line + 4, -6, -theme.scaled(30))
    most = max(max(watts for _c, watts in view.derating), view.asked) * 1.12
    low, high = view.derating[0][0], view.derating[-1][0]

    def place(warm: float, watts: float) -> tuple[float, float]:
        return (plot.left() + (warm - low) / (high - low) * plot.width(), plot.bottom() - watts / most * plot.height())

    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(t["accentbg"])
    edge = [place(warm, watts) for warm, watts in view.derating]
    painter.drawPolygon(polygon((plot.left(), plot.bottom()), *edge, (plot.right(), plot.bottom())))
    painter.setPen(theme.pen(t["ink"], 1.4))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawPolyline(polygon(*edge))
    asked = place(low, view.asked)[1]
    painter.setPen(theme.pen(state_colour(view.supply_state), 1.2, Qt.PenStyle.DashLine))
    painter.drawLine(QPointF(plot.left(), asked), QPointF(plot.right(), asked))
    spot = QPointF(*place(view.inlet, view.gives))
    draw_state(painter, view.supply_state, spot, 6.0)
    painter.setFont(theme.font(12))
    painter.setPen(t["soft"])
    ends = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
    painter.drawText(QRectF(box.left() - 4, asked - 8, theme.scaled(30), 16), ends, plain(view.asked, 0))
    for warm in (20, 40, 60):
        x = place(warm, 0.0)[0]
        painter.drawText(QRectF(x - 20, plot.bottom() + 1, 40, 14), Qt.AlignmentFlag.AlignCenter, str(warm))
    painter.setPen(text_colour(view.supply_state))
    text = _("gives {gives} W at {inlet}").format(gives=plain(view.gives, 0), inlet=with_unit(view.inlet, "°C", 0))
    painter.drawText(QRectF(box.left(), plot.bottom() + 15, box.width(), 15), Qt.AlignmentFlag.AlignVCenter, text)


def _paint_flags(painter: QPainter, view: PowerPictureView, at: StripPlaces, colours: Scale) -> None:
    """Parts in trouble, and parts that were read, each beside its waist."""
    t = theme.tokens()
    every = (*view.parts, *view.hotend)
    shown = [part for part in every if part.measured is not None or part.state not in (State.CLEAR, State.UNKNOWN)]
    worst = max((part for part in view.parts if part.kind == "contact"), key=lambda part: part.milliohm)
    if worst not in shown:
        shown = sorted([*shown, worst], key=every.index)
    high = theme.scaled(56)
    least = at.side.top() + theme.scaled(222)
    shown = shown[: max(int((at.bed.bottom() - least) // (high + 6)), 1)]
    wishes = [at.parts[part.key].center().y() for part in shown]
    places = pushed_apart(wishes, high + 6, least + 0.5 * high, at.bed.bottom() - 0.5 * high)
    for part, y in zip(shown, places, strict=True):
        frame = QRectF(at.side.left(), y - 0.5 * high, at.side.width() - 2, high)
        box = at.parts[part.key]
        painter.setPen(theme.pen(t["ink"], 1))
        painter.drawLine(QPointF(box.right() - 2, box.center().y()), QPointF(frame.left(), y))
        painter.setPen(theme.pen(state_colour(part.state) if part.state.bad else t["ink"], 1.3))
        painter.setBrush(t["flag"])
        painter.drawPolygon(polygon((frame.left(), frame.top()), (frame.right(), frame.top()),
                                    (frame.right() - 7, frame.center().y()), (frame.right(), frame.bottom()),
                                    (frame.left(), frame.bottom())))  # fmt: skip
        _paint_flag_text(painter, part, frame, colours)


def _paint_marks(painter: QPainter, view: PowerPictureView, at: StripPlaces) -> None:
    """Where there is no room for flags: state and temperature beside every contact and switch."""
    t = theme.tokens()
    for part in view.parts:
        if part.kind == "wire" and not part.state.bad:
            continue
        box = at.parts[part.key]
        y, x = box.center().y(), at.middle + 0.5 * theme.scaled(int(WIDEST)) + 16
        y -= theme.scaled(9) if part.key == view.branch_at else 0
        draw_state(painter, part.state, QPointF(x, y), 5.0)
        painter.setFont(theme.font(12, 700))
        painter.setPen(text_colour(part.state))
        text = with_unit(max(part.warm), "°C", 0)
        painter.drawText(QPointF(x + 12, y + 5), text)
        if part.measured is not None:
            painter.setPen(t["meas"])
            below = y + 5 + theme.scaled(14)
            painter.drawText(QPointF(x + 12, below), _("read {value}").format(value=plain(part.measured)))


def _paint_flag_text(painter: QPainter, part: PartView, frame: QRectF, colours: Scale) -> None:
    t, line = theme.tokens(), theme.scaled(17)
    draw_state(painter, part.state, QPointF(frame.right() - 20, frame.top() + 11), 5.0)
    room = frame.adjusted(8, 2, -12, 0)
    painter.setPen(t["ink"])
    painter.setFont(theme.font(12, 600))
    painter.drawText(QRectF(room.left(), room.top(), room.width(), line), Qt.AlignmentFlag.AlignVCenter, part.label)
    own = with_unit(max(part.warm), "°C", 0)
    painter.setFont(theme.font(16, 700))
    x = room.left()
    row = QRectF(x, room.top() + line - 2, room.width(), line + 3)
    if part.measured is not None:
        text = plain(part.measured)
        painter.setPen(t["meas"])
        painter.drawText(row, Qt.AlignmentFlag.AlignVCenter, text)
        row.translate(painter.fontMetrics().horizontalAdvance(text) + 8, 0)
        painter.setFont(theme.font(12))
        own = _("model {value}").format(value=own)
    painter.setPen(text_colour(part.state))
    painter.drawText(row, Qt.AlignmentFlag.AlignVCenter, own)
    painter.setFont(theme.font(12))
    painter.setPen(t["soft"])
    below = QRectF(room.left(), room.top() + 2 * line, room.width(), line)
    if part.told:
        painter.setPen(t["meas"])
        text = _("{mohm} mΩ by that; good: {good}").format(mohm=part.told, good=plain(part.good))
    elif part.kind == "contact":
        text = _("{mohm} mΩ; a good one: {good}").format(mohm=plain(part.milliohm), good=plain(part.good))
    else:
        text = _("stands {limit}").format(limit=with_unit(part.limit, "°C", 0)) if part.limit is not None else ""
    painter.drawText(below, Qt.AlignmentFlag.AlignVCenter, text)
    if part.limit is not None:
        bar = QRectF(frame.left() + 1, frame.bottom() - 4, (frame.width() - 9), 3)
        share = min(max(max(part.warm) / max(part.limit, 1.0), 0.0), 1.0)
        painter.fillRect(
            QRectF(bar.left(), bar.top(), share * bar.width(), bar.height()), colours.colour(max(part.warm))
        )

"""The softening front: its line, its distance from the cold line, and the neck enlarged."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen

from zeotherm.core.judgement.margins import Margin
from zeotherm.desk.parts.hotend.push import paint_push
from zeotherm.desk.parts.hotend.section import Section
from zeotherm.desk.parts.hotend.solids import paint_field
from zeotherm.desk.style import theme
from zeotherm.desk.style.patina import Scale
from zeotherm.desk.style.shapes import polygon, state_colour, text_colour
from zeotherm.wording import margins as words
from zeotherm.wording.language import _
from zeotherm.wording.numbers import plain, with_unit

ZOOMS = (3.0, 2.6, 2.2, 1.8)  # of the neck's inset over the section, the largest that fits
ZOOM_LOW, ZOOM_HIGH, ZOOM_RADIUS = -2.9e-3, 2.1e-3, 2.3e-3  # about the neck's top [m]


def paint_front(painter: QPainter, section: Section, box: QRectF, colours: Scale) -> None:
    """The front across strand and metal, the margin in words, and the inset of the neck."""
    margin = section.answer.margin("feed")
    front = section.answer.solved.readout.front
    if margin is None or front is None or margin.room is None:
        return
    _paint_front_line(painter, section, front, margin, section.at.sink_thread + 1e-3)
    words_end = _paint_margin_words(painter, section, margin, box)
    corner = QPointF(section.x(-section.at.block_radius) - 14, box.bottom() - 12)
    drawn = paint_push(painter, section, QRectF(QPointF(box.left() + 14, words_end + 6), corner))
    inset = None if drawn else _inset(section, box)  # both would stand in one place
    if inset is not None:
        _paint_inset(painter, section, *inset, colours, front, margin)


def _paint_front_line(painter: QPainter, section: Section, front: float, margin: Margin, reach: float) -> None:
    y = section.y(front)
    pen = QPen(state_colour(margin.state), 2.6)
    pen.setDashPattern([2.2, 1.6])
    painter.setPen(pen)
    painter.drawLine(QPointF(section.x(-reach), y), QPointF(section.x(reach), y))


def _inset(section: Section, box: QRectF) -> tuple[QRectF, float] | None:
    """Where the enlarged neck goes, below the words, and how large; none where there is no room."""
    words_end = section.y(section.at.neck_top) + theme.scaled(124)
    for zoom in ZOOMS:
        size = 2 * ZOOM_RADIUS * zoom * section.scale, (ZOOM_HIGH - ZOOM_LOW) * zoom * section.scale
        frame = QRectF(box.left() + 14, box.bottom() - size[1] - 10, *size)
        if frame.right() < section.x(-section.at.block_radius) - 12 and frame.top() > words_end:
            return frame, zoom
    return None


def _paint_inset(
    painter: QPainter, section: Section, frame: QRectF, zoom: float, colours: Scale, front: float, margin: Margin
) -> None:
    t, at = theme.tokens(), section.at
    scale = section.scale * zoom
    near = Section(scale, frame.center().x(), frame.bottom() + (at.neck_top + ZOOM_LOW) * scale, section.answer)
    painter.save()
    painter.setClipRect(frame)
    painter.fillRect(frame, t["well"])
    paint_field(painter, near, colours, frame)
    cold = near.y(at.neck_top)
    painter.setPen(theme.pen(t["accent"], 1.6))
    painter.drawLine(QPointF(frame.left(), cold), QPointF(frame.right(), cold))
    _paint_front_line(painter, near, front, margin, ZOOM_RADIUS)
    if frame.top() < near.y(front) < frame.bottom():
        _paint_dimension(painter, near, front, frame.left() + 14)
    painter.restore()
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.setPen(theme.pen(t["ink"], 1.2))
    painter.drawRect(frame)
    painter.setPen(t["soft"])
    painter.setFont(theme.font(12))
    text = _("the neck, {times} times").format(times=plain(zoom))
    painter.drawText(
        QRectF(frame.left(), frame.top() - 19, frame.width() + 60, 18), Qt.AlignmentFlag.AlignVCenter, text
    )


def _paint_dimension(painter: QPainter, section: Section, front: float, x: float) -> None:
    """Arrowheads that meet the cold line and the front from outside."""
    y, cold = section.y(front), section.y(section.at.neck_top)
    colour = theme.tokens()["ink"]
    painter.setPen(theme.pen(colour, 1.6))
    painter.setBrush(colour)
    for tip, way in ((min(y, cold), -1), (max(y, cold), 1)):
        painter.drawLine(QPointF(x, tip), QPointF(x, tip + way * 16))
        painter.drawPolygon(polygon((x, tip), (x - 4, tip + way * 8), (x + 4, tip + way * 8)))


def _paint_margin_words(painter: QPainter, section: Section, margin: Margin, box: QRectF) -> float:
    """What the margin is and why; returns where the words end [px]."""
    t = theme.tokens()
    at = section.at
    width = section.x(-at.block_radius) - 10 - box.left() - 14
    y = section.y(at.neck_top) + theme.scaled(34) + 6
    if width < theme.scaled(100):  # large text in a small window: beside the nozzle instead
        width, y = section.x(-at.hex_radius) - 10 - box.left() - 14, section.y(at.block_bottom) + 8
    head = f"{words.label(margin)} {words.room(margin)}"
    large = _largest(painter, head, width)
    lines = [
        (large, 700, text_colour(margin.state), head),
        *((12, 600, t["ink"], line) for line in _fitting(painter, _soft_words(section), width)),
        (12, 400, t["soft"], _band_words(margin, width) if margin.band else _("band follows")),
    ]  # fmt: skip
    for size, weight, colour, text in lines:
        painter.setFont(theme.font(size, weight))
        painter.setPen(colour)
        height = painter.fontMetrics().height()
        painter.drawText(QRectF(box.left() + 14, y, width, height), Qt.AlignmentFlag.AlignLeft, text)
        y += height + 1
    return y


def _fitting(painter: QPainter, parts: tuple[str, str], width: float) -> tuple[str, ...]:
    """Both on one line where it is wide enough, else one below the other."""
    painter.setFont(theme.font(12, 600))
    together = ", ".join(parts)
    return (together,) if painter.fontMetrics().horizontalAdvance(together) <= width else parts


def _soft_words(section: Section) -> tuple[str, str]:
    """What explains the room: softened filament above the neck, and what the drive pushes through it, an estimate."""
    values, given = section.answer.solved.readout.values, section.answer.solved.resolved.inputs
    soft, needs = with_unit(values["soft_length"], "mm", 1), (values["push"] or 0.0) + given.residue
    if needs >= given.most_push:
        push = _("buckles") if given.buckles < given.drive else _("stopped")
    else:
        push = _("push ~{needs} of {drive}").format(
            needs=plain(needs, 0), drive=with_unit(given.most_push, "N", 0)
        )  # fmt: skip
    return _("{soft} soft").format(soft=soft), push


def _band_words(margin: Margin, width: float) -> str:
    return _("{band} (95 %)").format(band=words.band(margin)) if width > theme.scaled(130) else words.band(margin)


def _largest(painter: QPainter, text: str, width: float) -> int:
    """The largest size, 20 px at most, at which a bold text fits."""
    for size in range(20, 12, -1):
        painter.setFont(theme.font(size, 700))
        if painter.fontMetrics().horizontalAdvance(text) <= width:
            return size
    return 12

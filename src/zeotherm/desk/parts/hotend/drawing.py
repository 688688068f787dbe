"""The whole picture of the hotend in section."""

from __future__ import annotations

from dataclasses import dataclass

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPolygonF

from zeotherm.answers.hotend import Found
from zeotherm.core.machine.hotend import Fan
from zeotherm.core.parts.hotend.judge.answer import Answer
from zeotherm.core.parts.hotend.model.shape import Levels
from zeotherm.desk.parts.hotend.front import paint_front
from zeotherm.desk.parts.hotend.pins import paint_flags
from zeotherm.desk.parts.hotend.section import FAN_DEPTH, FAN_GAP, Section, SectionSheet, fit
from zeotherm.desk.parts.hotend.solids import paint_solids
from zeotherm.desk.style import theme
from zeotherm.desk.style.patina import Scale
from zeotherm.desk.style.shapes import draw_ribbon, polygon
from zeotherm.wording.language import _
from zeotherm.wording.numbers import plain, with_unit

PX_PER_WATT = 2.2
HEAD = 34
FLAGS = 17e-3
ROOMY = 540  # px of width from which words need not be shortened


def laid_out(answer: Answer, box: QRectF, right: float = FLAGS) -> Section:
    """The section within a box, with room for its fan, and for flags at the right [m]."""
    at = answer.solved.model.layout.at
    roomy = box.width() >= theme.scaled(ROOMY)
    left = at.fin + FAN_GAP + FAN_DEPTH + (5e-3 if roomy else 2e-3)
    return fit(answer, box.adjusted(8, theme.scaled(HEAD) + 2, -8, -6), (left, at.fin + right))


@dataclass(frozen=True)
class Still(SectionSheet):
    """What stays from one moment of a run to the next: all that the ground of the picture is painted from."""

    fan: Fan
    hotend: str  # its name
    fan_mm: float
    at: Levels
    velocity: float  # of the air between the fins, to 0.1 m/s
    coolant: float | None  # to 1 °C, where one flows in the fan's place
    softening: float
    measured: bool  # whether anything was


def still(answer: Answer, section: Section, *, measured: bool) -> Still:
    """The part of a picture that its ground shows; measured: whether readings are pinned to it."""
    solved = answer.solved
    inputs, setup, catalogue = solved.resolved.inputs, answer.setup, answer.catalogue
    return Still(
        section.scale, section.axis, section.tip, setup.fan, catalogue.hotends[setup.hotend.template].label,
        catalogue.fans[setup.fan.part].size_mm, section.at, round(solved.model.air.velocity, 1),
        float(round(solved.air.fan)) if inputs.loop > 0.0 else None, inputs.softening, measured,
    )  # fmt: skip


def paint(painter: QPainter, found: Found, box: QRectF, colours: Scale) -> None:
    """The whole picture, for the report."""
    section = laid_out(found.answer, box)
    paint_ground(painter, still(found.answer, section, measured=bool(found.job.readings)), box)
    paint_moment(painter, found, box, colours)


def paint_ground(painter: QPainter, still: Still, sheet: QRectF) -> None:
    """What lies under the hotend and beside it."""
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    _paint_cold_zone(painter, still, sheet.adjusted(0, theme.scaled(HEAD), 0, 0))
    _paint_fan(painter, still)
    _paint_head(painter, sheet, still)


def paint_moment(painter: QPainter, found: Found, box: QRectF, colours: Scale) -> None:
    """The hotend on its ground: field, watts, front and flags."""
    section = laid_out(found.answer, box)
    box = box.adjusted(0, theme.scaled(HEAD), 0, 0)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    paint_solids(painter, section, colours)
    _paint_watts(painter, section, box)
    paint_front(painter, section, box, colours)
    paint_flags(painter, section, found, box)


def _paint_head(painter: QPainter, sheet: QRectF, still: Still) -> None:
    """What is drawn, the key of the watts, and what blue means."""
    t = theme.tokens()
    line = QRectF(sheet.left() + 20, sheet.top(), sheet.width() - 36, theme.scaled(HEAD))
    painter.setPen(t["ink"])
    painter.setFont(theme.font(14, 700))
    painter.drawText(line, Qt.AlignmentFlag.AlignVCenter, _("Hotend"))
    step = painter.fontMetrics().horizontalAdvance(_("Hotend")) + 10
    painter.setFont(theme.font(12))
    painter.setPen(t["soft"])
    full = _("{name}, in section, to scale").format(name=still.hotend)
    shown = full if line.width() > theme.scaled(520) else _("to scale")
    named = line.adjusted(step, 1, 0, 0)
    right = line.right()
    if still.measured:
        painter.setPen(t["meas"])
        painter.setFont(theme.font(12, 600))
        text = _("blue = measured °C")
        painter.drawText(line, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, text)
        right -= painter.fontMetrics().horizontalAdvance(text) + 16
    painter.setPen(t["soft"])
    painter.setFont(theme.font(12))
    text = _("{watts} W").format(watts=5)
    painter.drawText(
        QRectF(right - 40, line.top(), 40, line.height()),
        Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight,
        text,
    )
    key = QRectF(right - 76, line.center().y() - 2.5 * PX_PER_WATT, 36, 5 * PX_PER_WATT)
    if named.left() + painter.fontMetrics().horizontalAdvance(shown) < key.left() - 8:
        painter.drawText(named, Qt.AlignmentFlag.AlignVCenter, shown)
    painter.setPen(theme.pen(t["ink"], 1.2))
    painter.setBrush(t["ribbon"])
    painter.drawRect(key)


def _paint_cold_zone(painter: QPainter, still: Still, box: QRectF) -> None:
    t = theme.tokens()
    y = still.y(still.at.neck_top)
    zone = QRectF(box.left() + 8, box.top() + 4, box.width() - 16, y - box.top() - 4)
    tint = QColor(t["accent"])
    tint.setAlpha(24)
    painter.fillRect(zone, tint)
    painter.setPen(theme.pen(t["accent"], 1))
    painter.drawLine(zone.bottomLeft(), zone.bottomRight())
    painter.setFont(theme.font(12, 600))
    softening = with_unit(still.softening, "°C", 0)
    text = _("Cold zone: keep filament below {softening}").format(softening=softening)
    if painter.fontMetrics().horizontalAdvance(text) > zone.right() - still.x(still.at.strand) - 20:
        text = _("keep below {softening}").format(softening=softening)
    painter.drawText(zone.adjusted(0, 4, -8, 0), Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignTop, text)


def _paint_fan(painter: QPainter, still: Still) -> None:
    t, at = theme.tokens(), still.at
    half = 0.5e-3 * min(still.fan_mm, (at.sink_top - at.neck_top) * 1e3 + 3)
    middle = 0.5 * (at.neck_top + at.sink_top)
    right = -(at.fin + FAN_GAP)
    frame = still.box(right - FAN_DEPTH, right, middle - half, middle + half)
    _paint_air(painter, still, frame)
    painter.setPen(theme.pen(t["ink"], 1.3))
    painter.setBrush(t["panel"])
    painter.drawRoundedRect(frame, 3, 3)
    if still.coolant is not None:
        _paint_loop(painter, still.coolant, frame)
        return
    hub = QRectF(frame.center().x() - 9, frame.center().y() - 22, 18, 44)
    painter.drawLine(QPointF(frame.center().x(), frame.top() + 6), QPointF(frame.center().x(), frame.bottom() - 6))
    for y in range(int(frame.top()) + 18, int(frame.bottom()) - 12, 34):
        painter.drawLine(QPointF(frame.center().x() - 13, y + 9), QPointF(frame.center().x() + 13, y - 9))
    painter.setBrush(t["well"])
    painter.drawRoundedRect(hub, 2, 2)
    _paint_guard(painter, still, frame)


def _paint_loop(painter: QPainter, coolant: float, frame: QRectF) -> None:
    """A coolant in the fan's place: a meander of hose and its temperature [°C]."""
    painter.setPen(theme.pen(theme.tokens()["accent"], 3))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    left, right = frame.left() + 10, frame.right() - 10
    ys = range(int(frame.top()) + 14, int(frame.bottom()) - 10, 22)
    places = [QPointF(x, y) for index, y in enumerate(ys) for x in ((left, right) if index % 2 else (right, left))]
    painter.drawPolyline(QPolygonF(places))
    painter.setPen(theme.tokens()["ink"])
    painter.setFont(theme.font(12, 500))
    text = _("coolant {temperature}").format(temperature=with_unit(coolant, "°C", 0))
    box = QRectF(max(frame.left() - 40, 10), frame.bottom() + 3, frame.width() + 120, theme.scaled(18))
    painter.drawText(box, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter, text)


def _paint_guard(painter: QPainter, still: Still, frame: QRectF) -> None:
    t, fan = theme.tokens(), still.fan
    blocked = fan.guard_blocked_pct / 100
    x = frame.left() - 4
    painter.setPen(theme.pen(t["ink"], 2, Qt.PenStyle.DotLine))
    painter.drawLine(QPointF(x, frame.top()), QPointF(x, frame.bottom()))
    if blocked > 0.02:
        painter.setPen(theme.pen(t["ink"], 1))
        for step in range(int(frame.height() * blocked / 3)):  # lint: short strokes that lean either way
            y, lean = frame.bottom() - 3 * step, 2 if step % 2 else -2
            painter.drawLine(QPointF(x - 7, y + lean), QPointF(x - 1, y - lean))
    painter.setPen(t["ink"])
    painter.setFont(theme.font(12, 500))
    text = _("fan {volts}").format(volts=with_unit(fan.voltage_v, "V"))
    if blocked > 0.02:
        guard = _(", guard {share} % shut") if frame.width() > theme.scaled(82) else _(", {share} % shut")
        text += guard.format(share=plain(100 * blocked, 0))
    left, right = max(frame.left() - 40, 10), frame.right() + 80
    if still.y(still.at.block_top) < frame.bottom() + theme.scaled(21):  # beside the block
        right = still.x(-still.at.block_radius) - 4
    box = QRectF(left, frame.bottom() + 3, right - left, theme.scaled(18))
    shown = painter.fontMetrics().elidedText(text, Qt.TextElideMode.ElideRight, int(box.width()))
    painter.drawText(box, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter, shown)


def _paint_air(painter: QPainter, still: Still, frame: QRectF) -> None:
    """Arrows between the fins, as thick as the air is fast."""
    if still.velocity <= 0.02:
        return
    at = still.at
    reach = still.scale * (2 * at.fin + FAN_GAP + 3e-3)
    length, half = reach, 1.0 + 2.5 * min(1.0, still.velocity / 5.0)
    colour = QColor(theme.tokens()["accent"])
    colour.setAlpha(110)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(colour)
    pulls = still.fan.direction == "pull"
    for index, fin in enumerate(at.fins[:-1]):
        if index % 2:
            continue
        y = still.y(fin + at.fin_thickness + 0.5 * (at.fins[1] - at.fins[0] - at.fin_thickness))
        start, end = (
            (frame.right() + length, frame.right() + 2) if pulls else (frame.right() + 2, frame.right() + length)
        )
        way = -1 if pulls else 1
        neck, wing = end - way * 9, half + 4
        painter.drawPolygon(
            polygon(
                (start, y - half),
                (neck, y - half),
                (neck, y - wing),
                (end, y),
                (neck, y + wing),
                (neck, y + half),
                (start, y + half),
            )
        )


def _paint_watts(painter: QPainter, section: Section, box: QRectF) -> None:
    at, watts = section.at, section.answer.solved.readout.watts
    middle = 0.5 * (at.block_bottom + at.block_top)
    neck = 0.5 * (at.neck_top + at.block_top)
    fin = at.neck_top + 0.52 * (at.sink_top - at.neck_top)
    ribbons = (
        (watts.up_break, (1.5e-3, at.block_top - 3e-3), (1.5e-3, at.neck_top + 3.5e-3), _("{watts} W up"),
         (4.7e-3, neck)),
        (watts.off_block + watts.off_nozzle, (at.block_radius - 3e-3, middle), (at.block_radius + 5e-3, middle),
         _("{watts} W off block"), (at.block_radius + 5.4e-3, middle)),
        (watts.into_filament, (0.0, 2.5e-3), (0.0, -3.4e-3), _("{watts} W into filament"),
         (2.2e-3, -2.4e-3)),
        (watts.into_fan_air, (at.core - 1e-3, fin), (at.fin + 5e-3, fin), _("{watts} W into air"),
         (at.fin + 5.4e-3, fin)),
    )  # fmt: skip
    painter.setFont(theme.font(13, 700))
    for power, start, end, text, label in ribbons:
        draw_ribbon(painter, section.point(*start), section.point(*end), max(0.0, power) * PX_PER_WATT)
        place = section.point(*label)
        painter.setPen(theme.tokens()["ink"])
        shown = text.format(watts=plain(power))
        end_x = place.x() + painter.fontMetrics().horizontalAdvance(shown)
        if box.width() < theme.scaled(ROOMY) or end_x > box.right() - 4:
            shown = with_unit(power, "W")
        painter.drawText(QPointF(place.x(), place.y() + 5), shown)

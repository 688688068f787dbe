"""The hotend in section, to scale: field, watts, front, margin, pins and a point to read."""

from __future__ import annotations

from dataclasses import replace

from PyQt6.QtCore import QPointF, QRectF, QSize, QSizeF, Qt, pyqtSignal
from PyQt6.QtGui import (
    QBrush,
    QColor,
    QFocusEvent,
    QKeyEvent,
    QLinearGradient,
    QMouseEvent,
    QPainter,
    QPainterPath,
    QPaintEvent,
    QPen,
    QPixmap,
    QResizeEvent,
)
from PyQt6.QtWidgets import QWidget

from zeotherm.core.judgement.margins import Margin, State
from zeotherm.desk import theme
from zeotherm.desk.bench import Found
from zeotherm.desk.patina import Scale, Span
from zeotherm.desk.section import FAN_DEPTH, FAN_GAP, Section, fit
from zeotherm.desk.shapes import draw_ribbon, draw_state, polygon, state_colour, text_colour
from zeotherm.desk.viewmodels import Flag, flags
from zeotherm.desk.widgets.ladder import pushed_apart
from zeotherm.wording import margins as words
from zeotherm.wording.language import _
from zeotherm.wording.numbers import plain, with_unit

PX_PER_WATT = 2.2
FLAG_WIDTH, FLAG_HEIGHT = 172, 40
STEP = 0.5e-3
SLEEVE = 1.6e-3
HEAD = 34
ROOMY = 540  # px of width from which words need not be shortened
ZOOM = 3.0  # of the neck's inset over the section
ZOOM_LOW, ZOOM_HIGH, ZOOM_RADIUS = -2.9e-3, 2.1e-3, 2.3e-3  # about the neck's top [m]


class Cutaway(QWidget):
    """Paints a `Found`; arrow keys or the pointer move the point that is read."""

    pointed = pyqtSignal(object)  # section.Reading or None

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setAccessibleName(_("Hotend in section"))
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setMinimumSize(QSize(300, 300))
        self._found: Found | None = None
        self._scale: Scale = Span.FULL.value
        self._point: tuple[float, float] | None = None  # radius and height [m]
        self._stale = False
        self._drawn: QPixmap | None = None
        self._by_key = False  # whether the keyboard brought the focus here

    def show_found(self, found: Found) -> None:
        self._found, self._stale, self._drawn = found, False, None
        self._tell_point()
        self.update()

    def set_scale(self, scale: Scale) -> None:
        self._scale = scale
        self.refresh()

    def set_stale(self, stale: bool) -> None:
        """Whether what is shown is not of the values that are set."""
        self._stale = stale
        self.update()

    def refresh(self) -> None:
        """Draw anew, as after a change of theme."""
        self._drawn = None
        self.update()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        self._drawn = None
        super().resizeEvent(event)

    @property
    def section(self) -> Section | None:
        """Where things are on the widget."""
        if self._found is None:
            return None
        return laid_out(self._found, QRectF(self.rect()))

    def _draw(self, found: Found) -> QPixmap:
        """The picture without the point, kept until something changes."""
        ratio = self.devicePixelRatioF()
        pixmap = QPixmap((QSizeF(self.size()) * ratio).toSize())
        pixmap.setDevicePixelRatio(ratio)
        pixmap.fill(theme.tokens()["sheet"])
        painter = QPainter(pixmap)
        paint(painter, found, QRectF(self.rect()), self._scale)
        painter.end()
        return pixmap

    def focusInEvent(self, event: QFocusEvent | None) -> None:
        keys = (Qt.FocusReason.TabFocusReason, Qt.FocusReason.BacktabFocusReason)
        self._by_key = event is not None and event.reason() in keys
        super().focusInEvent(event)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is not None:
            self._point_at(event.position())

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        self.setFocus()
        self.mouseMoveEvent(event)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        moves = {
            Qt.Key.Key_Left: (-STEP, 0.0), Qt.Key.Key_Right: (STEP, 0.0), Qt.Key.Key_Up: (0.0, STEP),
            Qt.Key.Key_Down: (0.0, -STEP),
        }  # fmt: skip
        section = self.section
        if event is None or section is None or Qt.Key(event.key()) not in moves:
            super().keyPressEvent(event)
            return
        self._by_key = True
        radius, height = self._point or (section.at.bore + STEP, section.at.neck_top)
        by = moves[Qt.Key(event.key())]
        self._point_at(section.point(radius + by[0], height + by[1]))

    def _point_at(self, place: QPointF) -> None:
        section = self.section
        if section is None:
            return
        point = ((place.x() - section.axis) / section.scale, (section.tip - place.y()) / section.scale)
        if section.read(place) is not None:
            self._point = point
            self._tell_point()
            self.update()

    def _tell_point(self) -> None:
        section = self.section
        reading = section.read(section.point(*self._point)) if section and self._point else None
        self.pointed.emit(reading)
        if reading is not None:
            self.setAccessibleDescription(f"{reading.part}, {with_unit(reading.temperature, '°C')}")

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), theme.tokens()["sheet"])
        if self._found is None:
            painter.setPen(theme.tokens()["soft"])
            painter.setFont(theme.font(13))
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, _("Type a reading or pick a machine"))
            painter.end()
            return
        if self._drawn is None:
            self._drawn = self._draw(self._found)
        painter.setOpacity(0.55 if self._stale else 1.0)
        painter.drawPixmap(0, 0, self._drawn)
        painter.setOpacity(1.0)
        section = self.section
        if self._point and section is not None:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.setPen(QPen(theme.tokens()["meas"], 2.2))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawEllipse(section.point(*self._point), 5, 5)
        if self.hasFocus() and self._by_key:
            painter.setPen(QPen(theme.tokens()["meas"], 2))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(self.rect().adjusted(1, 1, -2, -2))
        painter.end()


def laid_out(found: Found, box: QRectF) -> Section:
    """The section within a box, with room for fan and flags."""
    at = found.answer.solved.model.layout.at
    roomy = box.width() >= ROOMY
    left = at.fin + FAN_GAP + FAN_DEPTH + (5e-3 if roomy else 2e-3)
    return fit(found.answer, box.adjusted(8, HEAD + 2, -8, -6), (left, at.fin + 17e-3))


def paint(painter: QPainter, found: Found, box: QRectF, colours: Scale) -> Section:
    """The whole picture, for the window and for the report."""
    section = laid_out(found, box)
    sheet = QRectF(box)
    box = box.adjusted(0, HEAD, 0, 0)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    _paint_cold_zone(painter, section, box)
    _paint_fan(painter, section)
    _paint_solids(painter, section, colours)
    _paint_watts(painter, section, box)
    _paint_front(painter, section, box, colours)
    _paint_flags(painter, section, found, box)
    _paint_head(painter, sheet, found)
    return section


def _paint_head(painter: QPainter, sheet: QRectF, found: Found) -> None:
    """What is drawn, the key of the watts, and what blue means."""
    t = theme.tokens()
    line = QRectF(sheet.left() + 20, sheet.top(), sheet.width() - 36, HEAD)
    painter.setPen(t["ink"])
    painter.setFont(theme.font(14, 700))
    painter.drawText(line, Qt.AlignmentFlag.AlignVCenter, _("Hotend"))
    step = painter.fontMetrics().horizontalAdvance(_("Hotend")) + 10
    painter.setFont(theme.font(12))
    painter.setPen(t["soft"])
    name = found.answer.catalogue.hotends[found.answer.setup.hotend.template].label
    full = _("{name}, in section, to scale").format(name=name)
    shown = full if line.width() > 520 else _("to scale")
    painter.drawText(line.adjusted(step, 1, 0, 0), Qt.AlignmentFlag.AlignVCenter, shown)
    right = line.right()
    if found.job.readings:
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
    painter.setPen(QPen(t["ink"], 1.2))
    painter.setBrush(t["ribbon"])
    painter.drawRect(key)


def _paint_cold_zone(painter: QPainter, section: Section, box: QRectF) -> None:
    t = theme.tokens()
    y = section.y(section.at.neck_top)
    zone = QRectF(box.left() + 8, box.top() + 4, box.width() - 16, y - box.top() - 4)
    tint = QColor(t["accent"])
    tint.setAlpha(24)
    painter.fillRect(zone, tint)
    painter.setPen(QPen(t["accent"], 1))
    painter.drawLine(zone.bottomLeft(), zone.bottomRight())
    painter.setFont(theme.font(12, 600))
    softening = section.answer.solved.resolved.inputs.softening
    text = _("Cold zone: keep filament below {softening}").format(softening=with_unit(softening, "°C", 0))
    painter.drawText(zone.adjusted(0, 4, -8, 0), Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignTop, text)


def _paint_fan(painter: QPainter, section: Section) -> None:
    t, at = theme.tokens(), section.at
    fan = section.answer.catalogue.fans[section.answer.setup.fan.part]
    half = 0.5e-3 * min(fan.size_mm, (at.sink_top - at.neck_top) * 1e3 + 3)
    middle = 0.5 * (at.neck_top + at.sink_top)
    right = -(at.fin + FAN_GAP)
    frame = section.box(right - FAN_DEPTH, right, middle - half, middle + half)
    _paint_air(painter, section, frame)
    painter.setPen(QPen(t["ink"], 1.3))
    painter.setBrush(t["panel"])
    painter.drawRoundedRect(frame, 3, 3)
    hub = QRectF(frame.center().x() - 9, frame.center().y() - 22, 18, 44)
    painter.drawLine(QPointF(frame.center().x(), frame.top() + 6), QPointF(frame.center().x(), frame.bottom() - 6))
    for y in range(int(frame.top()) + 18, int(frame.bottom()) - 12, 34):
        painter.drawLine(QPointF(frame.center().x() - 13, y + 9), QPointF(frame.center().x() + 13, y - 9))
    painter.setBrush(t["well"])
    painter.drawRoundedRect(hub, 2, 2)
    _paint_guard(painter, section, frame)


def _paint_guard(painter: QPainter, section: Section, frame: QRectF) -> None:
    t = theme.tokens()
    setup = section.answer.setup
    blocked = setup.fan.guard_blocked_pct / 100
    x = frame.left() - 4
    painter.setPen(QPen(t["ink"], 2, Qt.PenStyle.DotLine))
    painter.drawLine(QPointF(x, frame.top()), QPointF(x, frame.bottom()))
    if blocked > 0.02:
        painter.setPen(QPen(t["ink"], 1))
        for step in range(int(frame.height() * blocked / 3)):  # lint: short strokes that lean either way
            y, lean = frame.bottom() - 3 * step, 2 if step % 2 else -2
            painter.drawLine(QPointF(x - 7, y + lean), QPointF(x - 1, y - lean))
    painter.setPen(t["ink"])
    painter.setFont(theme.font(12, 500))
    text = _("fan {volts}").format(volts=with_unit(setup.fan.voltage_v, "V"))
    if blocked > 0.02:
        guard = _(", guard {share} % shut") if frame.width() > 82 else _(", {share} % shut")
        text += guard.format(share=plain(100 * blocked, 0))
    box = QRectF(max(frame.left() - 40, 10), frame.bottom() + 3, frame.width() + 120, 18)
    painter.drawText(box, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter, text)


def _paint_air(painter: QPainter, section: Section, frame: QRectF) -> None:
    """Arrows between the fins, as thick as the air is fast."""
    blown = section.answer.solved.model.air
    if blown.velocity <= 0.02:
        return
    at = section.at
    reach = section.scale * (2 * at.fin + FAN_GAP + 3e-3)
    length, half = reach, 1.0 + 2.5 * min(1.0, blown.velocity / 5.0)
    colour = QColor(theme.tokens()["accent"])
    colour.setAlpha(110)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(colour)
    pulls = section.answer.setup.fan.direction == "pull"
    for index, fin in enumerate(at.fins[:-1]):
        if index % 2:
            continue
        y = section.y(fin + at.fin_thickness + 0.5 * (at.fins[1] - at.fins[0] - at.fin_thickness))
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


def _paint_solids(painter: QPainter, section: Section, colours: Scale) -> None:
    t, at = theme.tokens(), section.at
    ink = QPen(t["ink"], 1.2)
    blown = section.answer.solved.model.air
    for fin in at.fins:
        root = section.fin_temperature(fin + 0.5 * at.fin_thickness)
        shade = QLinearGradient(section.point(0, fin), section.point(at.fin, fin))
        shade.setColorAt(at.core / at.fin, colours.colour(root))
        shade.setColorAt(1.0, colours.colour(root - 0.03 * (root - blown.inlet)))
        painter.setPen(ink)
        for left, right in ((-at.fin, -at.core), (at.core, at.fin)):
            painter.setBrush(QBrush(shade) if left > 0 else QBrush(colours.colour(root)))
            painter.drawRect(section.box(left, right, fin, fin + at.fin_thickness))
    if section.answer.solved.resolved.inputs.sleeved:
        painter.setPen(QPen(t["ink"], 1))
        painter.setBrush(t["well"])
        painter.drawRoundedRect(
            section.box(
                -at.block_radius - SLEEVE, at.block_radius + SLEEVE, at.block_bottom - SLEEVE, at.block_top - SLEEVE
            ),
            4,
            4,
        )
    _paint_field(painter, section, colours, QRectF(painter.viewport()))
    _paint_heater(painter, section)


def _paint_field(painter: QPainter, section: Section, colours: Scale, seen: QRectF) -> None:
    """Every solid in the colours of its temperature, outlined in ink; seen: the part of the sheet that matters."""
    whole = QPainterPath()
    whole.setFillRule(Qt.FillRule.WindingFill)
    for path in section.outlines.values():
        whole.addPath(path)
    image, corner = section.image(colours, seen)
    painter.setBrushOrigin(QPointF(corner))
    painter.fillPath(whole, QBrush(image))
    painter.setBrushOrigin(QPointF(0, 0))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.setPen(QPen(theme.tokens()["ink"], 1.2))
    for path in section.outlines.values():
        painter.drawPath(path)


def _paint_heater(painter: QPainter, section: Section) -> None:
    """Cartridge and sensor, as rings through the block."""
    at = section.at
    middle = 0.5 * (at.block_bottom + at.block_top)
    painter.setPen(QPen(QColor("#0E1618"), 1.4))
    painter.drawEllipse(
        section.point(0.5 * (at.thread + at.block_radius) + 0.6e-3, middle), 3e-3 * section.scale, 3e-3 * section.scale
    )
    painter.drawEllipse(section.point(-0.72 * at.block_radius, middle), 1.2e-3 * section.scale, 1.2e-3 * section.scale)


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
        if box.width() < ROOMY or place.x() + painter.fontMetrics().horizontalAdvance(shown) > box.right() - 4:
            shown = with_unit(power, "W")
        painter.drawText(QPointF(place.x(), place.y() + 5), shown)


def _paint_front(painter: QPainter, section: Section, box: QRectF, colours: Scale) -> None:
    margin = section.answer.margin("creep")
    front = section.answer.solved.readout.front
    if margin is None or front is None or margin.room is None:
        return
    _paint_front_line(painter, section, front, margin, section.at.sink_thread + 1e-3)
    _paint_margin_words(painter, section, margin, box)
    inset = _inset(section, box)
    if inset is not None:
        _paint_inset(painter, section, inset, colours, front, margin)


def _paint_front_line(painter: QPainter, section: Section, front: float, margin: Margin, reach: float) -> None:
    y = section.y(front)
    pen = QPen(state_colour(margin.state), 2.6)
    pen.setDashPattern([2.2, 1.6])
    painter.setPen(pen)
    painter.drawLine(QPointF(section.x(-reach), y), QPointF(section.x(reach), y))


def _inset(section: Section, box: QRectF) -> QRectF | None:
    """Where the enlarged neck goes: below the fan, if there is room."""
    size = 2 * ZOOM_RADIUS * ZOOM * section.scale, (ZOOM_HIGH - ZOOM_LOW) * ZOOM * section.scale
    frame = QRectF(box.left() + 14, box.bottom() - size[1] - 10, *size)
    clear = (
        frame.right() < section.x(-section.at.block_radius) - 12 and frame.top() > section.y(section.at.neck_top) + 110
    )
    return frame if clear else None


def _paint_inset(
    painter: QPainter, section: Section, frame: QRectF, colours: Scale, front: float, margin: Margin
) -> None:
    t, at = theme.tokens(), section.at
    scale = section.scale * ZOOM
    near = Section(section.answer, scale, frame.center().x(), frame.bottom() + (at.neck_top + ZOOM_LOW) * scale)
    painter.save()
    painter.setClipRect(frame)
    painter.fillRect(frame, t["well"])
    _paint_field(painter, near, colours, frame)
    cold = near.y(at.neck_top)
    painter.setPen(QPen(t["accent"], 1.6))
    painter.drawLine(QPointF(frame.left(), cold), QPointF(frame.right(), cold))
    _paint_front_line(painter, near, front, margin, ZOOM_RADIUS)
    if frame.top() < near.y(front) < frame.bottom():
        _paint_dimension(painter, near, front, frame.left() + 14)
    painter.restore()
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.setPen(QPen(t["ink"], 1.2))
    painter.drawRect(frame)
    painter.setPen(t["soft"])
    painter.setFont(theme.font(12))
    text = _("the neck, {times} times").format(times=plain(ZOOM))
    painter.drawText(
        QRectF(frame.left(), frame.top() - 19, frame.width() + 60, 18), Qt.AlignmentFlag.AlignVCenter, text
    )


def _paint_dimension(painter: QPainter, section: Section, front: float, x: float) -> None:
    """Arrowheads that meet the cold line and the front from outside."""
    y, cold = section.y(front), section.y(section.at.neck_top)
    colour = QColor("#0E1618")
    painter.setPen(QPen(colour, 1.6))
    painter.setBrush(colour)
    for tip, way in ((min(y, cold), -1), (max(y, cold), 1)):
        painter.drawLine(QPointF(x, tip), QPointF(x, tip + way * 16))
        painter.drawPolygon(polygon((x, tip), (x - 4, tip + way * 8), (x + 4, tip + way * 8)))


def _paint_margin_words(painter: QPainter, section: Section, margin: Margin, box: QRectF) -> None:
    t = theme.tokens()
    width = section.x(-section.at.block_radius) - 10 - box.left() - 14
    large = _largest(painter, words.room(margin), width)
    lines = [
        (large, 700, text_colour(margin.state), words.room(margin)),
        (12, 600, t["ink"], _("front at {softening}").format(
            softening=with_unit(section.answer.solved.resolved.inputs.softening, "°C", 0))),
        (12, 400, t["soft"], _band_words(margin, width) if margin.band else _("band follows")),
    ]  # fmt: skip
    y = section.y(section.at.neck_top) + 40
    for size, weight, colour, text in lines:
        painter.setFont(theme.font(size, weight))
        painter.setPen(colour)
        height = painter.fontMetrics().height()
        painter.drawText(QRectF(box.left() + 14, y, width, height), Qt.AlignmentFlag.AlignLeft, text)
        y += height + 1


def _band_words(margin: Margin, width: float) -> str:
    return _("{band} (95 %)").format(band=words.band(margin)) if width > 130 else words.band(margin)


def _largest(painter: QPainter, text: str, width: float) -> int:
    """The largest size, 20 px at most, at which a bold text fits."""
    for size in range(20, 12, -1):
        painter.setFont(theme.font(size, 700))
        if painter.fontMetrics().horizontalAdvance(text) <= width:
            return size
    return 12


def shown_flags(found: Found) -> list[Flag]:
    """Readings, and the worst passed temperature though nobody measured it."""
    pinned = list(flags(found))
    worst = next(
        (
            margin
            for margin in found.answer.margins
            if margin.state.bad and margin.station in ("bore", "liner_end", "exit_core", "block")
        ),
        None,
    )
    if worst is not None and worst.station not in {flag.station for flag in pinned}:
        text = words.value(worst)
        pinned.append(
            Flag(worst.station, words.label(worst), "", f"{_('model')} {text}", worst.state, False, words.spoken(worst))
        )
    return pinned


def _paint_flags(painter: QPainter, section: Section, found: Found, box: QRectF) -> None:
    pinned = shown_flags(found)
    left = [flag for flag in pinned if flag.station == "fan_inlet"]
    right = sorted(
        (flag for flag in pinned if flag.station != "fan_inlet"), key=lambda flag: section.place_of(flag.station).y()
    )
    width = min(FLAG_WIDTH, box.right() - section.x(section.at.fin) - 20)
    wishes = [section.place_of(flag.station).y() for flag in right]
    places = pushed_apart(wishes, FLAG_HEIGHT + 6, box.top() + 26, section.y(section.at.block_top) + 46)
    for flag, y in zip(right, places, strict=True):
        frame = QRectF(box.right() - width - 12, y - FLAG_HEIGHT / 2, width, FLAG_HEIGHT)
        _paint_flag(painter, flag, frame, section.place_of(flag.station), frame.left())
    for flag in left:
        frame = QRectF(box.left() + 12, box.top() + 10, width, FLAG_HEIGHT)
        _paint_flag(painter, flag, frame, section.place_of(flag.station), frame.left() + 12)


def _paint_flag(painter: QPainter, flag: Flag, frame: QRectF, pin: QPointF, knee: float) -> None:
    t = theme.tokens()
    border = t["ink"] if flag.state in (State.CLEAR, State.UNKNOWN) else state_colour(flag.state)
    painter.setPen(QPen(border, 1.2))
    y = frame.center().y() if pin.x() > frame.left() + 60 or knee == frame.left() else frame.bottom()
    painter.drawPolyline(QPointF(knee, y), QPointF(knee - 10 if knee == frame.left() else knee, pin.y()), pin)
    painter.setBrush(t["flag"])
    painter.drawEllipse(pin, 3, 3)
    notch = 8
    painter.setPen(QPen(border, 1.4, Qt.PenStyle.SolidLine if flag.measured else Qt.PenStyle.DashLine))
    painter.drawPolygon(
        polygon((frame.left(), frame.top()), (frame.right(), frame.top()), (frame.right() - notch, frame.center().y()),
                (frame.right(), frame.bottom()), (frame.left(), frame.bottom()))
    )  # fmt: skip
    painter.setPen(t["soft"])
    painter.setFont(theme.font(12))
    painter.drawText(frame.adjusted(8, 3, -26, 0), Qt.AlignmentFlag.AlignTop, flag.label)
    draw_state(painter, State.UNKNOWN if flag.apart else flag.state, QPointF(frame.right() - 20, frame.top() + 11), 5.5)
    x = frame.left() + 8
    if flag.measured:
        painter.setPen(t["meas"])
        painter.setFont(theme.font(16, 700))
        painter.drawText(QPointF(x, frame.bottom() - 7), flag.measured)
        x += painter.fontMetrics().horizontalAdvance(flag.measured) + 9
    painter.setPen(t["ink"])
    painter.setFont(theme.font(12, 400 if flag.measured else 700))
    painter.drawText(QPointF(x, frame.bottom() - 7), flag.model)


def without_flags(found: Found) -> Found:
    """The same answer without pinned readings, for small pictures."""
    return replace(found, job=found.job.model_copy(update={"readings": {}}))

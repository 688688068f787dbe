"""The build in section, to scale: its field, the extruder over it, and a line from each slot to its part."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QPainter, QPaintEvent, QPen, QPolygonF
from PyQt6.QtWidgets import QWidget

from zeotherm.answers.build import BuildFound
from zeotherm.core.choices.build.judged import SlotState
from zeotherm.core.judgement.margins import State
from zeotherm.desk.parts.hotend.drawing import laid_out, paint_ground, still
from zeotherm.desk.parts.hotend.section import FAN_GAP, Section
from zeotherm.desk.parts.hotend.solids import paint_solids
from zeotherm.desk.style import theme
from zeotherm.desk.style.patina import Scale, Span
from zeotherm.desk.style.shapes import draw_state, state_colour, text_colour
from zeotherm.wording import build as words
from zeotherm.wording.language import _

EXTRUDER = 58  # px over the section
BESIDE = 7e-3  # m right of the fins
FLAG_WIDE, FLAG_HIGH = 138, 42
MIDDLE = Qt.AlignmentFlag.AlignVCenter


class BuildPicture(QWidget):
    """Paints a `BuildFound`; heights: of the slots' rows, so that their lines begin where they are."""

    def __init__(self, heights: Callable[[str], int | None], parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setAccessibleName(_("The build in section"))
        self.setMinimumSize(QSize(236, 300))
        self._heights = heights
        self._found: BuildFound | None = None
        self._scale: Scale = Span.FULL.value
        self._open = ""

    def show_found(self, found: BuildFound, opened: str) -> None:
        self._found, self._open = found, opened
        weakest = found.built.worst
        worst = "" if weakest is None else words.headline(weakest, found.catalogue)
        self.setAccessibleName(f"{_('The build in section')}. {_('Weakest')}: {worst}")
        self.update()

    def set_scale(self, scale: Scale) -> None:
        self._scale = scale
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        t, found = theme.tokens(), self._found
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), t["sheet"])
        answer = found.built.answer if found is not None else None
        if found is None or answer is None:
            painter.setPen(t["soft"])
            painter.setFont(theme.font(13))
            refused = next((one.refusal for one in found.built.rows if one.refusal), "") if found is not None else ""
            room = QRectF(self.rect()).adjusted(24, 60, -24, -60)
            painter.drawText(
                room, Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap, refused or _("being solved")
            )
            painter.end()
            return
        box = QRectF(self.rect())
        section = laid_out(answer, box.adjusted(0, theme.scaled(EXTRUDER), 0, 0), BESIDE)
        paint_ground(painter, still(answer, section, measured=False), box)
        self._paint_extruder(painter, section, found)
        paint_solids(painter, section, self._scale)
        for one in found.built.slots:
            self._paint_line(painter, section, one)
        self._paint_weakest(painter, section, found)
        painter.end()

    def _gears(self, section: Section) -> QPointF:
        return QPointF(section.axis, section.y(section.at.sink_top) - theme.scaled(30))

    def _paint_extruder(self, painter: QPainter, section: Section, found: BuildFound) -> None:
        """Two gears on the filament, or the tube that leads to them."""
        t, middle = theme.tokens(), self._gears(section)
        radius, half = theme.scaled(11), max(section.at.strand * section.scale, 3.0)
        top = middle.y() - theme.scaled(24)
        painter.setPen(theme.pen(t["ink"], 1))
        painter.setBrush(t["closebg"])
        painter.drawRect(QRectF(section.axis - half, top, 2 * half, section.y(section.at.sink_top) - top))
        tube = found.catalogue.drives[found.built.setup.hotend.drive].slack_mm.value > 0.0
        if tube:
            painter.setBrush(t["panel"])
            wide = 2.3 * half
            painter.drawRect(QRectF(section.axis - wide, top, wide - half, middle.y() + radius - top))
            painter.drawRect(QRectF(section.axis + half, top, wide - half, middle.y() + radius - top))
            painter.setPen(t["soft"])
            painter.setFont(theme.font(12))
            painter.drawText(QPointF(section.axis + wide + 8, middle.y() + 5), _("tube to the extruder"))
            return
        painter.setPen(theme.pen(t["ink"], 1.3))
        painter.setBrush(t["well"])
        painter.drawRoundedRect(QRectF(section.axis - 2.7 * radius, middle.y() - 1.5 * radius, 5.4 * radius,
                                       3.0 * radius), 4, 4)  # fmt: skip
        painter.setBrush(t["panel"])
        for side in (-1, 1):
            painter.drawEllipse(QPointF(section.axis + side * (radius + half), middle.y()), radius, radius)
            painter.drawEllipse(QPointF(section.axis + side * (radius + half), middle.y()), 3, 3)
        painter.setBrush(t["closebg"])
        painter.drawRect(QRectF(section.axis - half, top, 2 * half, section.y(section.at.sink_top) - top))

    def _place_of(self, slot: str, section: Section) -> QPointF:
        """Where a slot's part is in the section."""
        at = section.at
        middle = 0.5 * (at.block_bottom + at.block_top)
        places = {
            "hotend": (-at.core, at.neck_top + 0.8 * (at.sink_top - at.neck_top)),
            "cooling": (-(at.fin + FAN_GAP), at.neck_top + 0.45 * (at.sink_top - at.neck_top)),
            "break": (-at.thread * 0.7, 0.5 * (at.neck_top + at.block_top)),
            "cartridge": (0.5 * (at.thread + at.block_radius), middle + 1.5e-3),
            "block": (-at.block_radius, at.block_top - 1e-3), "sleeve": (-at.block_radius, at.block_bottom + 1e-3),
            "sensor": (-0.72 * at.block_radius, middle), "nozzle": (-at.hex_radius, 0.5 * (at.cone + at.block_bottom)),
        }  # fmt: skip
        if slot == "drive":
            return self._gears(section) - QPointF(theme.scaled(28), 0)
        return section.point(*places[slot]) if slot in places else section.point(0.0, at.sink_top)

    def _paint_line(self, painter: QPainter, section: Section, one: SlotState) -> None:
        height = self._heights(one.slot)
        if height is None or not 0 <= height <= self.height():
            return
        end, opened = self._place_of(one.slot, section), one.slot == self._open
        loud = one.state.bad or opened
        pen = QPen(state_colour(one.state) if loud else theme.tokens()["rule"], 1.8 if loud else 1.0)
        if one.state is State.UNKNOWN:
            pen.setDashPattern([2.0, 2.5])
        painter.setPen(pen)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawPolyline(QPolygonF([QPointF(0, height), QPointF(12, height), QPointF(26, end.y()), end]))
        painter.setBrush(theme.tokens()["panel"])
        painter.drawEllipse(end, 3, 3)

    def _paint_weakest(self, painter: QPainter, section: Section, found: BuildFound) -> None:
        """The limit with the least room, at its place."""
        row = next((one for one in found.built.rows if one.margin is not None), None)
        if row is None or row.margin is None:
            return
        t, margin = theme.tokens(), row.margin
        beside = self._gears(section) + QPointF(theme.scaled(30), theme.scaled(14))
        place = section.place_of(margin.station) or (
            beside if row.slot == "drive" else section.point(section.at.block_radius, section.at.block_bottom)
        )
        wide, high = theme.scaled(FLAG_WIDE), theme.scaled(FLAG_HIGH)
        low = row.slot == "drive"  # its place is at the top
        top = self.height() - high - 6 if low else theme.scaled(36)
        box = QRectF(self.width() - wide - 6, top, wide, high)
        painter.setPen(theme.pen(state_colour(row.state), 1.6))
        if low:  # round the hotend
            aside = float(self.width() - 10)
            painter.drawPolyline(QPolygonF([place, QPointF(aside, place.y()), QPointF(aside, box.top())]))
        else:
            painter.drawLine(place, QPointF(max(box.left(), min(place.x(), box.right())), box.bottom()))
        painter.setBrush(t["overbg" if row.state.bad else "flag"])
        painter.drawRect(box)
        draw_state(painter, row.state, QPointF(box.right() - 12, box.top() + 12), 5.5)
        inner = box.adjusted(8, 3, -6, -3)
        line = QRectF(inner.left(), inner.top(), inner.width(), inner.height() / 2)
        painter.setFont(theme.font(13, 700))
        painter.setPen(text_colour(row.state))
        text = words.label(row, found.catalogue)
        shown = painter.fontMetrics().elidedText(text, Qt.TextElideMode.ElideRight, int(line.width()))
        painter.drawText(line, MIDDLE, shown)
        painter.setFont(theme.font(12))
        painter.setPen(t["ink"])
        painter.drawText(line.translated(0, line.height()), MIDDLE, words.amount(row))

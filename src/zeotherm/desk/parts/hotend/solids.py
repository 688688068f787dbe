"""Fins, sleeve and every solid in the colours of its temperature."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QBrush, QColor, QLinearGradient, QPainter

from zeotherm.desk.parts.hotend.section import Section
from zeotherm.desk.style import theme
from zeotherm.desk.style.patina import Scale

SLEEVE = 1.6e-3


def paint_solids(painter: QPainter, section: Section, colours: Scale) -> None:
    """Fins, sleeve, solids, cartridge and sensor."""
    t, at = theme.tokens(), section.at
    ink = theme.pen(t["ink"], 1.2)
    blown = section.answer.solved.model.air
    for fin, root in zip(at.fins, section.fin_temperatures, strict=True):
        shade = QLinearGradient(section.point(0, fin), section.point(at.fin, fin))
        shade.setColorAt(at.core / at.fin, colours.colour(root))
        shade.setColorAt(1.0, colours.colour(root - 0.03 * (root - blown.inlet)))
        painter.setPen(ink)
        for left, right in ((-at.fin, -at.core), (at.core, at.fin)):
            painter.setBrush(QBrush(shade) if left > 0 else QBrush(colours.colour(root)))
            painter.drawRect(section.box(left, right, fin, fin + at.fin_thickness))
    if section.answer.solved.resolved.inputs.sleeved:
        painter.setPen(theme.pen(t["ink"], 1))
        painter.setBrush(t["well"])
        painter.drawRoundedRect(
            section.box(
                -at.block_radius - SLEEVE, at.block_radius + SLEEVE, at.block_bottom - SLEEVE, at.block_top - SLEEVE
            ),
            4,
            4,
        )
    paint_field(painter, section, colours, QRectF(painter.viewport()))
    _paint_heater(painter, section)


def paint_field(painter: QPainter, section: Section, colours: Scale, seen: QRectF) -> None:
    """Every solid in the colours of its temperature, outlined in ink; seen: the part of the sheet that matters."""
    outlines = section.outlines
    image, corner = section.image(colours, seen)
    painter.setBrushOrigin(QPointF(corner))
    painter.fillPath(outlines.whole, QBrush(image))
    painter.setBrushOrigin(QPointF(0, 0))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.setPen(theme.pen(theme.tokens()["ink"], 1.2))
    for path in outlines.parts:
        painter.drawPath(path)


def _paint_heater(painter: QPainter, section: Section) -> None:
    """Cartridge and sensor, as rings through the block."""
    at = section.at
    middle = 0.5 * (at.block_bottom + at.block_top)
    painter.setPen(theme.pen(QColor("#0E1618"), 1.4))
    painter.drawEllipse(
        section.point(0.5 * (at.thread + at.block_radius) + 0.6e-3, middle), 3e-3 * section.scale, 3e-3 * section.scale
    )
    painter.drawEllipse(section.point(-0.72 * at.block_radius, middle), 1.2e-3 * section.scale, 1.2e-3 * section.scale)

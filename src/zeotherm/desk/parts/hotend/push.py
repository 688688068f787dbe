"""How the push grows through softened filament above the neck, beside what the drive gives."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPainterPath, QPen

from zeotherm.core.parts.hotend.model.feeding import Profile, profile
from zeotherm.core.parts.hotend.model.readout import bore_wall
from zeotherm.desk.parts.hotend.section import Section
from zeotherm.desk.style import theme
from zeotherm.wording.language import _
from zeotherm.wording.numbers import plain

LEAST_WIDE, LEAST_HIGH = 120.0, 74.0  # px below which nothing can be read in it
SHOWN_MM, MOST_MM = 3.0, 12.0  # above the neck that are shown at least, and at most
BEYOND = 1.3  # of the drive's push, or of what a filament that buckles meets, at which the scale ends


def paint_push(painter: QPainter, section: Section, frame: QRectF) -> bool:
    """Height above the neck upwards, newtons to the right; nothing, which is told, where there is no room."""
    if frame.width() < theme.scaled(int(LEAST_WIDE)) or frame.height() < theme.scaled(int(LEAST_HIGH)):
        return False
    t, solved = theme.tokens(), section.answer.solved
    given = solved.model.given
    found = profile(solved.model, solved.field.temperature, bore_wall(solved.model, solved.field.temperature))
    tallest = min(max(SHOWN_MM, 1.4 * 1e3 * _soft_up_to(found)), MOST_MM) * 1e-3
    plot = frame.adjusted(0, theme.scaled(18), 0, -theme.scaled(18))

    span = BEYOND * min(max(given.most_push, float(found.push[-1])), given.drive)

    def place(newtons: float, height: float) -> QPointF:
        share = min(newtons / span, 1.0)
        return QPointF(plot.left() + share * plot.width(), plot.bottom() - min(height / tallest, 1.0) * plot.height())

    painter.save()
    bottom = 0.0
    for height, soft in zip(found.height.tolist(), found.soft.tolist(), strict=True):
        if bottom >= tallest:
            break
        if soft > 0.0:
            colour = QColor(t["over"])
            colour.setAlphaF(0.10 + 0.35 * soft)
            painter.fillRect(QRectF(place(0.0, height), QPointF(plot.right(), place(0.0, bottom).y())), colour)
        bottom = height
    painter.setPen(theme.pen(t["rule"], 1))
    painter.drawLine(plot.bottomLeft(), plot.bottomRight())
    painter.drawLine(plot.bottomLeft(), plot.topLeft())
    drive = place(given.most_push, 0.0).x()
    dashed = QPen(t["ink"], 1.4)
    dashed.setDashPattern([3.0, 2.0])
    painter.setPen(dashed)
    painter.drawLine(QPointF(drive, plot.top()), QPointF(drive, plot.bottom()))
    painter.setPen(theme.pen(t["ink"], 2.2))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    path = QPainterPath(place(float(found.push[0]), 0.0))
    for height, push in zip(found.height.tolist(), found.push.tolist(), strict=True):
        path.lineTo(place(push, height))
        if height >= tallest:
            break
    painter.drawPath(path)
    if given.residue > 0.0:
        start, end = (place(float(found.push[-1]) + more, 0.0).x() for more in (0.0, given.residue))
        painter.fillRect(QRectF(start, plot.top(), end - start, theme.scaled(6)), t["over"])
    painter.setFont(theme.font(12))
    painter.setPen(t["soft"])
    middle = Qt.AlignmentFlag.AlignVCenter
    high, left, right = theme.scaled(17), Qt.AlignmentFlag.AlignLeft | middle, Qt.AlignmentFlag.AlignRight | middle
    painter.drawText(QRectF(frame.left(), frame.top(), frame.width(), high), left, _title(painter, frame.width()))
    top = _("{mm} mm").format(mm=plain(1e3 * tallest, 0))
    painter.drawText(QRectF(plot.left() + 4, plot.top() + 6, plot.width(), high), left, top)
    if 0.5 < given.residue < given.most_push - float(found.push[-1]):  # beyond it the feed has stopped: no newtons then
        text = _("residue {newtons} N").format(newtons=plain(given.residue, 0))
        painter.drawText(QRectF(plot.left() + 4, plot.top() + 6, plot.width() - 8, high), right, text)
    painter.drawText(QRectF(frame.left(), plot.bottom(), frame.width(), high), left, _("0 N"))
    post = _("drive {newtons} N") if given.drive <= given.buckles else _("filament buckles at {newtons} N")
    painter.drawText(
        QRectF(frame.left() + 30, plot.bottom(), frame.width() - 30, high),
        right,
        post.format(newtons=plain(given.most_push, 0)),
    )
    painter.restore()
    return True


def _soft_up_to(found: Profile) -> float:
    """Height above the neck up to which the strand swells [m]."""
    soft = found.height[found.soft > 0.02]
    return float(soft[-1]) if len(soft) else 0.0


def _title(painter: QPainter, width: float) -> str:
    """What it is, in so many words as there is room for."""
    whole = _("push above the neck, estimate")
    return whole if painter.fontMetrics().horizontalAdvance(whole) <= width else _("push, estimate")

"""The hotend in section, to scale: field, watts, front, margin, pins and a point to read."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, QSize, QSizeF, Qt, pyqtSignal
from PyQt6.QtGui import QFocusEvent, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPixmap, QResizeEvent
from PyQt6.QtWidgets import QWidget

from zeotherm.answers.hotend import Found
from zeotherm.desk.parts.hotend.drawing import laid_out, paint_ground, paint_moment, still
from zeotherm.desk.parts.hotend.section import Section
from zeotherm.desk.style import theme
from zeotherm.desk.style.patina import Scale, Span
from zeotherm.wording.language import _
from zeotherm.wording.numbers import with_unit

STEP = 0.5e-3


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
        self._ground = QPixmap()
        self._ground_of: object = None
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
        return laid_out(self._found.answer, QRectF(self.rect()))

    def _draw(self, found: Found) -> QPixmap:
        """The picture without the point, kept until something changes."""
        box = QRectF(self.rect())
        stays = still(found.answer, laid_out(found.answer, box), measured=bool(found.job.readings))
        wanted = (stays, self.size(), self.devicePixelRatioF(), theme.tokens().name, theme.scaled(1000))
        if self._ground_of != wanted:
            self._ground, self._ground_of = QPixmap((QSizeF(self.size()) * wanted[2]).toSize()), wanted
            self._ground.setDevicePixelRatio(wanted[2])
            self._ground.fill(theme.tokens()["sheet"])
            painter = QPainter(self._ground)
            paint_ground(painter, stays, box)
            painter.end()
        pixmap = self._ground.copy()
        painter = QPainter(pixmap)
        paint_moment(painter, found, box, self._scale)
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
            painter.setPen(theme.pen(theme.tokens()["meas"], 2.2))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawEllipse(section.point(*self._point), 5, 5)
        if self.hasFocus() and self._by_key:
            painter.setPen(theme.pen(theme.tokens()["meas"], 2))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(self.rect().adjusted(1, 1, -2, -2))
        painter.end()

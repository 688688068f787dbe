"""How a value is known, by its mark: to look at, or to press."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QContextMenuEvent, QPainter, QPaintEvent
from PyQt6.QtWidgets import QMenu, QPushButton, QWidget

from zeotherm.core.machine.known import How
from zeotherm.desk.style import theme
from zeotherm.desk.style.shapes import draw_known
from zeotherm.desk.viewmodels import LeverRow
from zeotherm.wording.language import _, begun
from zeotherm.wording.standing import HOW_KNOWN


class KnownMark(QWidget):
    """How something is known, by its shape."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._how: How = "assumed"
        self.setFixedSize(QSize(20, 20))

    def show_how(self, how: How) -> None:
        self._how = how
        self.setAccessibleName(HOW_KNOWN[how])
        self.setToolTip(HOW_KNOWN[how])
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        draw_known(painter, self._how, QPointF(10, 10), 7.0)
        painter.end()


class KnownButton(QPushButton):
    """How what was found is known, by shape and word; pressed: it is known as it is, or not any more; its menu has what
    it may have been measured with."""

    measured = pyqtSignal(str)  # instrument, by key

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._how: How = "assumed"
        self._instruments: tuple[tuple[str, str], ...] = ()
        self.setFlat(True)
        self.setAutoDefault(False)  # Enter belongs to the field it is typed in
        self.set_compact(False)

    def set_compact(self, compact: bool) -> None:
        """The mark alone, where the window is narrow."""
        self._compact = compact
        self.setFixedWidth(theme.scaled(30 if compact else 96))
        self.update()

    def show_row(self, row: LeverRow) -> None:
        self._how, self._instruments = row.how or "assumed", row.instruments
        self.setText("")
        self.setAccessibleName(_("{label}: {how}").format(label=row.label, how=HOW_KNOWN[self._how]))
        tips = [_("{how}: {about}").format(how=HOW_KNOWN[self._how].capitalize(), about=row.about)] if row.about else []
        tips.append(
            _("Assumed: nobody has entered it. Press if it is so.")
            if self._how == "assumed"
            else _("Press if this is not known: it is assumed then, and never counts as sound.")
        )
        if row.instruments:
            tips.append(_("Right-click, or the menu key: measured, and with what."))
        self.setToolTip("\n".join(tips))
        self.setAccessibleDescription(row.about)
        self.update()

    def instrument_menu(self) -> QMenu:
        """What it may have been measured with."""
        menu = QMenu(self)
        for key, label in self._instruments:
            item = menu.addAction(_("Measured: {instrument}").format(instrument=begun(label)))
            assert item is not None
            item.triggered.connect(lambda _on=False, key=key: self.measured.emit(key))
        return menu

    def contextMenuEvent(self, event: QContextMenuEvent | None) -> None:
        if event is not None and self._instruments:
            self.instrument_menu().popup(event.globalPos())

    @property
    def then(self) -> How:
        """How it is known once the button is pressed."""
        return "entered" if self._how == "assumed" else "assumed"

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter, t = QPainter(self), theme.tokens()
        if self.hasFocus():
            painter.setPen(theme.pen(t["meas"], 2))
            painter.drawRoundedRect(QRectF(self.rect()).adjusted(1, 1, -1, -1), 3, 3)
        middle = self.height() / 2
        draw_known(painter, self._how, QPointF(14, middle), 5.5)
        if self._compact:
            painter.end()
            return
        painter.setFont(theme.font(12))
        painter.setPen(t["soft"] if self._how == "assumed" else t["ink"])
        box = QRectF(26, 0, self.width() - 28, self.height())
        painter.drawText(box, Qt.AlignmentFlag.AlignVCenter, HOW_KNOWN[self._how])
        painter.end()

"""What the window showed last, kept as a picture: at the next start it stands there at once, marked as what it is,
until the machine is answered anew. Nothing can be done in it, so no gate can be passed by it."""

from __future__ import annotations

import logging
import os
from contextlib import suppress
from datetime import datetime
from pathlib import Path

from PyQt6.QtCore import QBuffer, QByteArray, QIODevice, QRect, Qt
from PyQt6.QtGui import QColor, QFont, QImage, QPainter, QPaintEvent
from PyQt6.QtWidgets import QWidget

from zeotherm.shop.places import last_view_file
from zeotherm.wording.language import _

log = logging.getLogger(__name__)
STRIP, ACCENT, ON_ACCENT = 34, QColor("#026B72"), QColor("#FFFFFF")  # px high; said whatever the theme
LARGEST = 8_000  # px of a side that is believed


def keep_view(window: QWidget, told: str, workshop: Path) -> None:
    """Keep what a window shows; told: its verdict, for who hears it. Failing is only logged: nothing is lost."""
    image = window.grab().toImage()
    image.setText("told", told)
    image.setText("when", datetime.now().isoformat(timespec="minutes"))
    place, buffer = last_view_file(workshop), QBuffer()
    buffer.open(QIODevice.OpenModeFlag.WriteOnly)
    image.save(buffer, "PNG", 80)
    draft = place.with_name(f"{place.name}.{os.getpid()}")
    try:
        place.parent.mkdir(parents=True, exist_ok=True)
        draft.write_bytes(bytes(buffer.data().data()))
        draft.replace(place)
    except OSError as wrong:
        log.warning("the last view was not kept: %s", wrong)
        with suppress(OSError):
            draft.unlink(missing_ok=True)


class LastView(QWidget):
    """The picture of last time, with a strip that says so."""

    def __init__(self, image: QImage) -> None:
        super().__init__()
        self._image = image
        self.said = _("Last shown {when}. Solving again: do not act on it yet.").format(when=_when(image.text("when")))
        self.setWindowTitle("Zeotherm")
        self.setAccessibleName(self.said)
        self.setAccessibleDescription(image.text("told"))
        self.setCursor(Qt.CursorShape.BusyCursor)
        scale = image.devicePixelRatio()
        self.resize(round(image.width() / scale), round(image.height() / scale))

    @staticmethod
    def of(workshop: Path) -> LastView | None:
        """That of a workshop's window; none where there is none, or it cannot be read."""
        place = last_view_file(workshop)
        try:
            content = place.read_bytes()
        except OSError:
            return None
        image = QImage.fromData(QByteArray(content), "PNG")
        if image.isNull() or max(image.width(), image.height()) > LARGEST:
            log.warning("%s is no picture that can be shown; it is left out", place.name)
            return None
        return LastView(image)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.drawImage(self.rect(), self._image)
        strip = QRect(0, self.height() - STRIP, self.width(), STRIP)
        painter.fillRect(strip, ACCENT)
        painter.setPen(ON_ACCENT)
        painter.setFont(QFont(self.font().family(), 11))
        painter.drawText(strip.adjusted(16, 0, -16, 0), Qt.AlignmentFlag.AlignVCenter, self.said)
        painter.end()


def _when(text: str) -> str:
    try:
        return datetime.fromisoformat(text).strftime("%Y-%m-%d %H:%M")
    except ValueError:
        return _("an unknown day")

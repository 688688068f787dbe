"""A window that the system asks to end closes in order: what is written is written, its processes end with it."""

from __future__ import annotations

import signal
import socket
from types import FrameType

from PyQt6.QtCore import QObject, QSocketNotifier
from PyQt6.QtWidgets import QApplication

ASKED = (signal.SIGTERM, signal.SIGINT, signal.SIGHUP)


class Ending(QObject):
    """Turns a signal into the closing of every window; Python alone would not see it until something else happens."""

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.heard = False  # whether the system has asked
        self._hears, self._wakes = socket.socketpair()
        for end in (self._hears, self._wakes):
            end.setblocking(False)
        signal.set_wakeup_fd(self._wakes.fileno(), warn_on_full_buffer=False)
        for one in ASKED:
            signal.signal(one, _noted)
        number = self._hears.fileno()
        self._notifier = QSocketNotifier(number, QSocketNotifier.Type.Read, self)  # type: ignore[call-overload]  # an int does
        self._notifier.activated.connect(self._end)

    def _end(self) -> None:
        self._hears.recv(64)
        self.heard = True
        if not QApplication.closeAllWindows():  # told of what cannot be written, a window goes at the second time
            QApplication.closeAllWindows()
        QApplication.quit()


def _noted(_signal: int, _frame: FrameType | None) -> None:
    """Its number goes through the wake-up; nothing is done here."""

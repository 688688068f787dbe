"""A room: work on one question in the background, told as it grows; the latest question wins."""

from __future__ import annotations

from PyQt6.QtCore import QObject, pyqtSignal

from zeotherm.desk.scheduler import Scheduler, Work


class Room(QObject):
    """What every room can do; each adds a `show` that submits its work."""

    changed = pyqtSignal(object)  # what is known by now
    failed = pyqtSignal(object)  # what went wrong inside
    busy_changed = pyqtSignal(bool)

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._scheduler = Scheduler(self)
        self._scheduler.arrived.connect(self.changed)
        self._scheduler.failed.connect(self.failed)
        self._scheduler.idle.connect(lambda: self.busy_changed.emit(False))

    @property
    def busy(self) -> bool:
        """Whether more is still to come."""
        return self._scheduler.busy

    def submit(self, work: Work) -> None:
        """Work on this from now on."""
        self.busy_changed.emit(True)
        self._scheduler.submit(work)

    def stop(self) -> None:
        """Stop the work under way; what is known by now stays."""
        self._scheduler.cancel()

    def close(self) -> None:
        """End the thread."""
        self._scheduler.close()

"""Where runs are lined up and compared in the background."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from PyQt6.QtCore import QObject, pyqtSignal

from zeotherm.core.catalogue import Catalogue
from zeotherm.core.machine.documents import Job
from zeotherm.core.runs.assembly import Assembled, assembled
from zeotherm.core.runs.series import Series
from zeotherm.desk.scheduler import Cancelled, Emit, Scheduler


@dataclass(frozen=True)
class Held:
    """A job's runs held against each other; nothing to compare where there are none."""

    job: Job
    catalogue: Catalogue
    found: Assembled | None


class RunRoom(QObject):
    """Emits the comparison of a job's runs."""

    changed = pyqtSignal(object)  # Held
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
        """Whether runs are still being compared."""
        return self._scheduler.busy

    def show(self, job: Job, catalogue: Catalogue, load: Callable[[], dict[str, Series]], at: float | None) -> None:
        """Compare a job's runs. load: gives all rows of them; at: when levels are taken [s], None: at their end."""
        self.busy_changed.emit(True)

        def work(emit: Emit, _cancelled: Cancelled) -> None:
            emit(Held(job, catalogue, assembled(job.measured, load(), catalogue, at)))

        self._scheduler.submit(work)

    def stop(self) -> None:
        """Stop comparing; the last comparison stays."""
        self._scheduler.cancel()

    def close(self) -> None:
        """End the thread."""
        self._scheduler.close()

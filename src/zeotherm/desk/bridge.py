"""Where answers come over from the executor's thread to the window's: one of these for each thing that is asked."""

from __future__ import annotations

from typing import Any

from PyQt6.QtCore import QObject, pyqtSignal

from zeotherm.answers.executor import Executor, Rank, Task


class Asked(QObject):
    """One thing that is asked again and again; the latest counts, and what comes of those before never arrives."""

    changed = pyqtSignal(object)  # what is known by now
    failed = pyqtSignal(object)  # what went wrong inside
    busy_changed = pyqtSignal(bool)

    _heard = pyqtSignal(int, str, object)  # across the threads

    def __init__(self, executor: Executor, rank: Rank = Rank.ASKED, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._lane = executor.lane(self._heard.emit, rank)
        self._number = 0  # of what was asked last
        self._busy = False
        self._heard.connect(self._sort)

    @property
    def busy(self) -> bool:
        """Whether more is still to come."""
        return self._busy

    def ask(self, task: Task) -> None:
        """Go about this from now on."""
        self._busy = True
        self.busy_changed.emit(True)
        self._number = self._lane.ask(task)

    def stop(self) -> None:
        """Stop what is under way; what is known by now stays."""
        self._number = self._lane.stop()
        self._busy = False
        self.busy_changed.emit(False)

    def matters(self, rank: Rank) -> None:
        """How urgent it is from now on."""
        self._lane.matters(rank)

    def _tell(self, what: Any) -> None:
        self.changed.emit(what)

    def _sort(self, number: int, kind: str, what: Any) -> None:
        if number != self._number:
            return
        if kind == "told":
            self._tell(what)
        elif kind == "failed":
            self.failed.emit(what)
        else:
            self._busy = False
            self.busy_changed.emit(False)

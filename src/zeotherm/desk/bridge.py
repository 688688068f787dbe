"""Where answers come over from the executor's thread to the window's: one of these for each thing that is asked."""

from __future__ import annotations

from concurrent.futures import Future
from typing import Any, TypeVar

from PyQt6.QtCore import QEventLoop, QObject, Qt, pyqtSignal

from zeotherm.answers.executor import Executor, Rank, Task

T = TypeVar("T")
PATIENCE = 0.02  # s that the window's thread stands still for what another thread does for it


class _Done(QObject):
    ended = pyqtSignal()


def awaited(done: Future[T]) -> T:
    """What another thread does, for who cannot go on without it: the window goes on being painted, and what is typed
    waits its turn. Raises what it raises."""
    try:
        return done.result(PATIENCE)
    except TimeoutError:
        if done.done():
            raise
    loop, told = QEventLoop(), _Done()
    # queued, so that what is done by now ends the loop, too, which has not begun
    told.ended.connect(loop.quit, Qt.ConnectionType.QueuedConnection)  # type: ignore[call-arg]  # Qt takes it
    done.add_done_callback(lambda _done: told.ended.emit())
    loop.exec(QEventLoop.ProcessEventsFlag.ExcludeUserInputEvents)
    return done.result()


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

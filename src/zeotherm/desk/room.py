"""A room: work on one question in the background, told as it grows; the latest question wins."""

from __future__ import annotations

from dataclasses import replace
from typing import Any, Generic, Self, TypeVar

from PyQt6.QtCore import QObject, pyqtSignal

from zeotherm.desk.scheduler import Scheduler, Work

T = TypeVar("T")


class Scrubbed:
    """What is known of a part with a course: it can be looked at at another moment."""

    answer: Any
    time: float | None

    def at(self, time: float | None) -> Self:
        """The same at another moment of its course; None: at rest."""
        if time is None or self.answer is None or self.answer.run is None:
            return replace(self, time=None)  # type: ignore[type-var]
        moment = min(max(time, 0.0), float(self.answer.run.times[-1]))
        return replace(self, time=moment)  # type: ignore[type-var]


class Kept(Generic[T]):
    """The last answers of a room by what they are of; the oldest goes."""

    def __init__(self, most: int = 12) -> None:
        self._most = most
        self._known: dict[str, T] = {}

    def get(self, name: str) -> T | None:
        """The answer of this name, if it is kept."""
        return self._known.get(name)

    def keep(self, name: str, answer: T) -> T:
        """Keep an answer, and return it."""
        self._known[name] = answer
        while len(self._known) > self._most:
            del self._known[next(iter(self._known))]
        return answer


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

    def give_way(self, yes: bool) -> None:
        """Whether the work waits while a hand moves, since something else is looked at."""
        self._scheduler.patient = yes

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

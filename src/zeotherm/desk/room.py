"""A room: work on one question in the background, told as it grows; the latest question wins."""

from __future__ import annotations

import json
import threading
from dataclasses import asdict, is_dataclass, replace
from hashlib import blake2b
from typing import Any, Generic, Self, TypeVar

from pydantic import BaseModel
from PyQt6.QtCore import QObject, pyqtSignal

from zeotherm.core.catalogue import Catalogue
from zeotherm.core.twin.whole.run import History
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


def name_of(*asked: object) -> str:
    """What an answer is of, in a few characters, from all that its work is given.

    Documents, the catalogue, and the run that something stands in count by what they hold, so that a change of any of
    it asks anew. Raises TypeError for what cannot be told so.
    """
    return blake2b(json.dumps([_plain(one) for one in asked], sort_keys=True).encode(), digest_size=20).hexdigest()


def _plain(one: object) -> object:
    if isinstance(one, Catalogue):
        return one.digest
    if isinstance(one, History):
        return [one.setup.model_dump(mode="json"), one.catalogue.digest]
    if isinstance(one, BaseModel):
        return one.model_dump(mode="json")
    if is_dataclass(one) and not isinstance(one, type):
        return _plain(asdict(one))
    if isinstance(one, dict):
        return {str(key): _plain(value) for key, value in one.items()}
    if isinstance(one, list | tuple):
        return [_plain(each) for each in one]
    if one is None or isinstance(one, str | int | float | bool):
        return one
    raise TypeError(f"an answer cannot be named by a {type(one).__name__}")


class Kept(Generic[T]):
    """The last answers by what they are of; the oldest goes. Asked and filled from any thread."""

    def __init__(self, most: int = 12) -> None:
        self._most = most
        self._known: dict[str, T] = {}
        self._lock = threading.Lock()

    def get(self, name: str) -> T | None:
        """The answer of this name, if it is kept."""
        with self._lock:
            return self._known.get(name)

    def keep(self, name: str, answer: T) -> T:
        """Keep an answer, and return it."""
        with self._lock:
            self._known[name] = answer
            while len(self._known) > self._most:
                del self._known[next(iter(self._known))]
        return answer


class AnswerRoom(QObject):
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

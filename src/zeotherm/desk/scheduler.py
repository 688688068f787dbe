"""Background solving: one worker, the latest request wins, stale results are dropped."""

from __future__ import annotations

import logging
import math
import threading
import time
from collections.abc import Callable
from typing import Any

from PyQt6.QtCore import QObject, pyqtSignal

from zeotherm.core.solver.axisymmetric import CancelledError

log = logging.getLogger(__name__)

Cancelled = Callable[[], bool]
Emit = Callable[[Any], None]
Work = Callable[[Emit, Cancelled], None]


REST_SECONDS = 0.12


def rest(cancelled: Cancelled) -> None:
    """Leave the window alone while a lever is being dragged; what takes long follows once it rests.

    Raises CancelledError.
    """
    for _step in range(round(REST_SECONDS / 0.01)):
        if cancelled():
            raise CancelledError
        time.sleep(0.01)


class Hand:
    """The hand on a lever or a scrubber: what nobody looks at gives way while it moves."""

    _last = -math.inf

    @classmethod
    def moves(cls) -> None:
        """Told with every move."""
        cls._last = time.monotonic()

    @classmethod
    def rests(cls) -> bool:
        """Whether it has not moved for a while."""
        return time.monotonic() - cls._last > REST_SECONDS


class Scheduler(QObject):
    """Runs one piece of work at a time in a thread of its own.

    A piece of work emits results, in order; those of work that is no longer the latest never arrive. patient: whether
    the work waits, wherever it asks if it is still wanted, while a hand moves.
    """

    arrived = pyqtSignal(object)  # a result of the latest work
    failed = pyqtSignal(object)  # the exception it ended with
    idle = pyqtSignal()

    _raw = pyqtSignal(object)  # (number, kind, content), across the threads

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._wake = threading.Condition()
        self._number = 0
        self._waiting: tuple[int, Work] | None = None
        self._ended = False
        self._busy = False
        self.patient = False
        self._raw.connect(self._sort)
        self._thread = threading.Thread(target=self._run, name="solver", daemon=True)
        self._thread.start()

    @property
    def busy(self) -> bool:
        """Whether the latest work is still under way."""
        return self._busy

    def submit(self, work: Work) -> None:
        """Run this work; whatever was under way is no longer wanted."""
        with self._wake:
            self._number += 1
            self._waiting = (self._number, work)
            self._busy = True
            self._wake.notify()

    def cancel(self) -> None:
        """Stop the work under way; its last result stays."""
        with self._wake:
            self._number += 1
            self._waiting = None
            self._busy = False
        self.idle.emit()

    def close(self) -> None:
        """End the thread."""
        with self._wake:
            self._ended = True
            self._number += 1
            self._wake.notify()
        self._thread.join(timeout=10.0)

    def _run(self) -> None:
        while True:
            with self._wake:
                while self._waiting is None and not self._ended:
                    self._wake.wait()
                if self._ended:
                    return
                assert self._waiting is not None
                number, work = self._waiting
                self._waiting = None
            self._work(number, work)

    def _work(self, number: int, work: Work) -> None:
        try:
            work(lambda result: self._raw.emit((number, "arrived", result)), lambda: self._unwanted(number))
        except CancelledError:
            return
        except Exception as wrong:
            log.info("work %d ended: %r", number, wrong)
            self._raw.emit((number, "failed", wrong))
        self._raw.emit((number, "idle", None))

    def _unwanted(self, number: int) -> bool:
        while self.patient and number == self._number and not Hand.rests():
            time.sleep(0.01)
        return number != self._number

    def _sort(self, message: tuple[int, str, Any]) -> None:
        number, kind, content = message
        if number != self._number:
            return
        if kind == "idle":
            self._busy = False
            self.idle.emit()
        elif kind == "arrived":
            self.arrived.emit(content)
        else:
            self.failed.emit(content)

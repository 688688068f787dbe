"""Processes that answer many questions beside each other, so that a board, or the causes, are there in seconds."""

from __future__ import annotations

import logging
import os
import pickle
import threading
import time
from collections.abc import Callable, Generator, Iterator, Mapping
from concurrent.futures import FIRST_COMPLETED, Future, ProcessPoolExecutor, wait
from concurrent.futures.process import BrokenProcessPool
from multiprocessing import get_context
from typing import Any, TypeVar

from zeotherm.answers.executor import Rest, Until
from zeotherm.answers.parcels import packed, shelf, unpacked
from zeotherm.answers.store import Store
from zeotherm.core.catalogue.shelves import Catalogue
from zeotherm.core.questions import Cancelled, Question, never
from zeotherm.core.solver.axisymmetric import CancelledError

log = logging.getLogger(__name__)
Kind = TypeVar("Kind")
T = TypeVar("T")
FEWEST, MOST = 2, 4  # processes, each of about 100 MB
BEHIND = 5  # niceness of processes beside a window
ORPHAN_SECONDS = 1.0  # between two looks of a process at whether its parent still runs
TRIES = 2  # at one question, where the process that had it died
BOARD, CAUSES = LANES = range(2)

Ticket = tuple[int, int]  # a lane, and the number of what was asked there


class _Latest:
    """In a process: the number that is wanted now in each lane."""

    numbers: Any = None


def _begin(numbers: Any, niceness: int, parent: int) -> None:
    _Latest.numbers = numbers
    os.nice(niceness)
    threading.Thread(target=_end_with, args=(parent,), daemon=True).start()


def _end_with(parent: int) -> None:
    """A process whose parent is gone ends by itself, whatever it is at."""
    while os.getppid() == parent:
        time.sleep(ORPHAN_SECONDS)
    os._exit(0)


def _unwanted(mine: Ticket) -> bool:
    return _Latest.numbers is not None and _Latest.numbers[mine[0]] != mine[1]


def processes() -> int:
    """As many as there are processors for, within bounds."""
    return min(max(len(os.sched_getaffinity(0)), FEWEST), MOST)


def _work(mine: Ticket, catalogue: bytes, parcel: bytes) -> bytes:
    """In a process: answer what is in the parcel, and pack what comes of it."""
    own = shelf(catalogue)
    work, given = unpacked(parcel, own)
    return packed(work(*given, cancelled=lambda: _unwanted(mine)), own)


class Processes:
    """A few processes; they start when they are first needed and end with `close`.

    What is asked in one lane takes the place of what was asked there before, and leaves the other lane alone.
    """

    def __init__(self, store: Store | None = None) -> None:
        self._store = store or Store()
        self._context = get_context("spawn")
        self._numbers: Any = self._context.Array("q", len(LANES))
        self._pool: ProcessPoolExecutor | None = None
        self._shelf: tuple[Catalogue, bytes] | None = None
        self._niceness = 0

    def stand_behind(self) -> None:
        """Let the window in front go first: for processes that have yet to start."""
        self._niceness = BEHIND

    def each(
        self, lane: int, catalogue: Catalogue, questions: Mapping[Kind, Question[Any]], cancelled: Cancelled = never
    ) -> Iterator[Until | tuple[Kind, Any]]:
        """Each question's answer by its key as it is known, kept in the store; or what went wrong with it; and in
        between until when there is nothing to do.

        What a process was at that died is tried once more. Raises CancelledError.
        """
        mine = self._next(lane)
        missing = {}
        for key, question in questions.items():
            if self._store.knows(question):
                yield key, self._store.ask(question)
            else:
                missing[key] = question
        waiting = {self._send(mine, catalogue, question, cancelled): key for key, question in missing.items()}
        tried = dict.fromkeys(missing, 1)
        try:
            while waiting:
                if cancelled():
                    raise CancelledError
                yield Until(tuple(waiting))
                done = [future for future in waiting if future.done()]
                broken = [future for future in done if isinstance(_wrong(future), BrokenProcessPool)]
                for future in done:
                    key, wrong = waiting.pop(future), _wrong(future)
                    if future in broken and tried[key] < TRIES:
                        tried[key] += 1
                        waiting[self._send(mine, catalogue, missing[key], cancelled)] = key
                        continue
                    if wrong is not None and not isinstance(wrong, Exception):
                        raise wrong
                    found = wrong if wrong is not None else unpacked(future.result(), catalogue)
                    yield key, found if wrong is not None else self._store.keep(missing[key], found)
        finally:
            if waiting:
                self._call_off(mine, list(waiting))

    def close(self) -> None:
        """Let the processes go; what they are at is dropped."""
        for lane in LANES:
            self._next(lane)
        if self._pool is not None:
            self._pool.shutdown(wait=True, cancel_futures=True)
            self._pool = None

    def _call_off(self, mine: Ticket, waiting: list[Future[bytes]]) -> None:
        """Nobody waits any more for what was sent."""
        if self._numbers[mine[0]] == mine[1]:
            self._next(mine[0])
        for future in waiting:
            future.cancel()

    def _next(self, lane: int) -> Ticket:
        with self._numbers.get_lock():
            self._numbers[lane] += 1
            return lane, int(self._numbers[lane])

    def _send(self, mine: Ticket, catalogue: Catalogue, question: Question[Any], cancelled: Cancelled) -> Future[bytes]:
        """Hand a question to a process, its catalogue packed once for all; other questions in it are answered here."""
        known = self._shelf
        if known is None or known[0] is not catalogue:
            known = self._shelf = (catalogue, pickle.dumps(catalogue, pickle.HIGHEST_PROTOCOL))
        given = self._store.given(question, cancelled)
        return self._submit(_work, mine, known[1], packed((question.stage.work, given), catalogue))

    def _submit(self, work: Callable[..., Any], *given: Any) -> Future[Any]:
        """Hand work to a process; where one has died since, to fresh ones."""
        if self._pool is not None:
            try:
                return self._pool.submit(work, *given)
            except BrokenProcessPool:
                log.warning("a process has died; starting fresh ones")
        os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")  # a process's matrices are small, the other core is taken
        self._pool = ProcessPoolExecutor(
            processes(), self._context, _begin, (self._numbers, self._niceness, os.getpid())
        )
        return self._pool.submit(work, *given)


def _wrong(future: Future[Any]) -> BaseException | None:
    """What went wrong with what was sent; called off counts."""
    return CancelledError() if future.cancelled() else future.exception()


def answer_of(steps: Generator[Until, None, T]) -> T:
    """What part of a task comes to, for who has nothing else to do."""
    while True:
        try:
            wait(next(steps).futures, return_when=FIRST_COMPLETED)
        except StopIteration as end:
            answer: T = end.value
            return answer


def blocking(steps: Iterator[Any]) -> Iterator[Any]:
    """The steps of a task for who has nothing else to do: waits where it may wait, and gives what it tells."""
    for step in steps:
        if isinstance(step, Until):
            wait(step.futures, return_when=FIRST_COMPLETED)
        elif not isinstance(step, Rest):
            yield step

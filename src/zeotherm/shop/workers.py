"""Processes that solve options, or causes, beside each other, so that an answer is there in seconds."""

from __future__ import annotations

import logging
import os
import pickle
import threading
import time
from collections.abc import Callable, Collection, Iterator, Mapping
from concurrent.futures import FIRST_COMPLETED, Future, ProcessPoolExecutor, wait
from concurrent.futures.process import BrokenProcessPool
from dataclasses import dataclass
from multiprocessing import get_context
from typing import Any, TypeVar

from zeotherm.core.catalogue.shelves import Catalogue
from zeotherm.core.judgement.board import Column, cheapest_set, column, shorter
from zeotherm.core.judgement.causes import outcomes
from zeotherm.core.judgement.causes.outcomes import Outcome, outcome
from zeotherm.core.judgement.causes.worlds import AS_FOUND, Hypothesis, as_found, departures, sound_machine
from zeotherm.core.judgement.risk import Risk
from zeotherm.core.machine.documents import Setup, Variant
from zeotherm.core.solver.axisymmetric import CancelledError
from zeotherm.shop.parcels import packed, shelf, unpacked

log = logging.getLogger(__name__)
Keys = tuple[str, ...]
Kind = TypeVar("Kind")
Cancelled = Callable[[], bool]
FEWEST, MOST = 2, 4  # processes, each of about 100 MB
BEHIND = 5  # niceness of processes beside a window
POLL_SECONDS = 0.05
ORPHAN_SECONDS = 1.0  # between two looks at whether the parent still runs
TRIES = 2  # at one piece of work, where the process that had it died


@dataclass(frozen=True)
class BoardTask:
    """What every option of a board has in common."""

    found: Setup
    variants: Mapping[str, Variant]
    catalogue: Catalogue
    tolerances: dict[str, float]


@dataclass(frozen=True)
class Machine:
    """A machine whose troubles are to be told apart."""

    found: Setup
    catalogue: Catalogue
    tolerances: dict[str, float]


Ticket = tuple[int, int]  # a lane, and the number of what was asked there


class _Latest:
    """In a worker: the number that is wanted now in each lane."""

    numbers: Any = None


def _begin(numbers: Any, niceness: int, parent: int) -> None:
    _Latest.numbers = numbers
    os.nice(niceness)
    threading.Thread(target=_end_with, args=(parent,), daemon=True).start()


def _end_with(parent: int) -> None:
    """A worker whose parent is gone ends by itself, whatever it is at."""
    while os.getppid() == parent:
        time.sleep(ORPHAN_SECONDS)
    os._exit(0)


def _unwanted(mine: Ticket) -> bool:
    return _Latest.numbers is not None and _Latest.numbers[mine[0]] != mine[1]


def processes() -> int:
    """As many as there are processors for, within bounds."""
    return min(max(len(os.sched_getaffinity(0)), FEWEST), MOST)


def _work(mine: Ticket, catalogue: bytes, parcel: bytes) -> bytes:
    """In a worker: do what is in the parcel, and pack what comes of it."""
    own = shelf(catalogue)
    work, given = unpacked(parcel, own)
    return packed(work(*given, lambda: _unwanted(mine)), own)


def _column(asked: BoardTask, keys: Keys, cancelled: Cancelled) -> Column:
    return shorter(column(asked.found, asked.variants, keys, asked.catalogue, asked.tolerances, cancelled))


def _cheapest(asked: BoardTask, base: Column, cancelled: Cancelled) -> Column | None:
    return cheapest_set(asked.found, asked.variants, base, asked.catalogue, asked.tolerances, cancelled)


def _outcome(setup: Setup, asked: Machine, anyway: Risk | None, cancelled: Cancelled) -> Outcome:
    return outcomes.shorter(outcome(setup, asked.catalogue, asked.tolerances, anyway, cancelled))


BOARD, CAUSES = range(2)


class Workers:
    """A few processes; they start when they are first needed and end with `close`.

    What is asked in one lane takes the place of what was asked there before, and leaves the other lane alone.
    """

    def __init__(self) -> None:
        self._context = get_context("spawn")
        self._numbers: Any = self._context.Array("q", 2)
        self._pool: ProcessPoolExecutor | None = None
        self._shelf: tuple[Catalogue, bytes] | None = None
        self._niceness = 0

    def stand_behind(self) -> None:
        """Let the window in front go first: for processes that have yet to start."""
        self._niceness = BEHIND

    def columns(
        self, asked: BoardTask, wanted: list[Keys], cancelled: Callable[[], bool]
    ) -> Iterator[tuple[Keys, Column | Exception]]:
        """Each wanted set as it is solved, or what went wrong with it. Raises CancelledError."""
        mine = self._next(BOARD)
        jobs = {keys: (_column, (asked, keys)) for keys in wanted}
        yield from self._answers(mine, asked.catalogue, jobs, cancelled)

    def cheapest(self, asked: BoardTask, base: Column, cancelled: Callable[[], bool]) -> Column | None:
        """The cheapest set that meets every limit. Raises CancelledError, or what the search raises."""
        mine = self._next(BOARD)
        for _one, found in self._answers(mine, asked.catalogue, {0: (_cheapest, (asked, base))}, cancelled):
            if isinstance(found, Exception):
                raise found
            cheapest: Column | None = found
            return cheapest
        return None

    def outcomes(
        self,
        machine: Machine,
        worlds: list[Hypothesis],
        cancelled: Callable[[], bool],
        known: Collection[int] = (),
    ) -> Iterator[tuple[int, Outcome | Exception]]:
        """What happens in each world that is simulated, and as found, as it is solved; known: those not asked again.

        Raises CancelledError.
        """
        mine = self._next(CAUSES)
        off = departures(machine.found, machine.catalogue)
        shelves = machine.catalogue
        first = {"sound": sound_machine(machine.found, shelves, off), "found": as_found(machine.found)}
        anyway: Risk | None = None
        for name, found in self._answers(
            mine, shelves, {key: (_outcome, (setup, machine, None)) for key, setup in first.items()}, cancelled
        ):
            if name == "found":
                yield AS_FOUND, found
            elif not isinstance(found, Exception):
                anyway = found.risk
        jobs = {
            index: (_outcome, (world.setup, machine, anyway))
            for index, world in enumerate(worlds)
            if world.setup is not None and index not in known
        }
        yield from self._answers(mine, shelves, jobs, cancelled)

    def close(self) -> None:
        """Let the processes go; what they are at is dropped."""
        for lane in (BOARD, CAUSES):
            self._next(lane)
        if self._pool is not None:
            self._pool.shutdown(wait=True, cancel_futures=True)
            self._pool = None

    def _next(self, lane: int) -> Ticket:
        with self._numbers.get_lock():
            self._numbers[lane] += 1
            return lane, int(self._numbers[lane])

    def _send(self, mine: Ticket, catalogue: Catalogue, work: Callable[..., Any], *given: Any) -> Future[bytes]:
        """Hand work to a process, its catalogue packed once for all."""
        known = self._shelf  # rooms ask from threads of their own
        if known is None or known[0] is not catalogue:
            known = self._shelf = (catalogue, pickle.dumps(catalogue, pickle.HIGHEST_PROTOCOL))
        return self._submit(_work, mine, known[1], packed((work, given), catalogue))

    def _submit(self, work: Callable[..., Any], *given: Any) -> Future[Any]:
        """Hand work to a process; where one has died since, to fresh ones."""
        if self._pool is not None:
            try:
                return self._pool.submit(work, *given)
            except BrokenProcessPool:
                log.warning("a worker process has died; starting fresh ones")
        os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")  # a worker's matrices are small, the other core is taken
        self._pool = ProcessPoolExecutor(
            processes(), self._context, _begin, (self._numbers, self._niceness, os.getpid())
        )
        return self._pool.submit(work, *given)

    def _answers(
        self, mine: Ticket, catalogue: Catalogue, jobs: Mapping[Kind, tuple[Callable[..., Any], tuple[Any, ...]]],
        cancelled: Cancelled,
    ) -> Iterator[tuple[Kind, Any]]:  # fmt: skip
        """Each piece of work by its key as it is done: what came of it, or what went wrong. What a process was at that
        died is tried once more. Raises CancelledError."""

        def send(key: Kind) -> Future[bytes]:
            work, given = jobs[key]
            return self._send(mine, catalogue, work, *given)

        waiting = {send(key): key for key in jobs}
        tried = dict.fromkeys(jobs, 1)
        while waiting:
            done, _rest = wait(waiting, POLL_SECONDS, FIRST_COMPLETED)
            if cancelled():
                if self._numbers[mine[0]] == mine[1]:
                    self._next(mine[0])
                for future in waiting:
                    future.cancel()
                raise CancelledError
            broken = [future for future in done if isinstance(future.exception(), BrokenProcessPool)]
            for future in done:
                key, wrong = waiting.pop(future), future.exception()
                if future in broken and tried[key] < TRIES:
                    tried[key] += 1
                    waiting[send(key)] = key
                    continue
                if wrong is not None and not isinstance(wrong, Exception):
                    raise wrong
                yield key, wrong if isinstance(wrong, Exception) else unpacked(future.result(), catalogue)

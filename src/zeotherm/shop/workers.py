"""Processes that solve options, or causes, beside each other, so that an answer is there in seconds."""

from __future__ import annotations

import logging
import os
import pickle
from collections.abc import Callable, Collection, Iterator, Mapping
from concurrent.futures import FIRST_COMPLETED, Future, ProcessPoolExecutor, wait
from concurrent.futures.process import BrokenProcessPool
from dataclasses import dataclass
from multiprocessing import get_context
from typing import Any

from zeotherm.core.catalogue.shelves import Catalogue
from zeotherm.core.judgement.board import Column, cheapest_set, column, shorter
from zeotherm.core.judgement.causes import outcomes
from zeotherm.core.judgement.causes.outcomes import Outcome, Risk, outcome
from zeotherm.core.judgement.causes.worlds import AS_FOUND, Hypothesis, as_found, departures, sound_machine
from zeotherm.core.machine.documents import Setup, Variant
from zeotherm.core.solver.axisymmetric import CancelledError
from zeotherm.shop.parcels import packed, shelf, unpacked

log = logging.getLogger(__name__)
Keys = tuple[str, ...]
Cancelled = Callable[[], bool]
FEWEST, MOST = 2, 4  # processes, each of about 100 MB
BEHIND = 5  # niceness of processes beside a window
POLL_SECONDS = 0.05


@dataclass(frozen=True)
class Asked:
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


def _begin(numbers: Any, niceness: int) -> None:
    _Latest.numbers = numbers
    os.nice(niceness)


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


def _column(asked: Asked, keys: Keys, cancelled: Cancelled) -> Column:
    return shorter(column(asked.found, asked.variants, keys, asked.catalogue, asked.tolerances, cancelled))


def _cheapest(asked: Asked, base: Column, cancelled: Cancelled) -> Column | None:
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
        self, asked: Asked, wanted: list[Keys], cancelled: Callable[[], bool]
    ) -> Iterator[tuple[Keys, Column | Exception]]:
        """Each wanted set as it is solved, or what went wrong with it. Raises CancelledError."""
        mine = self._next(BOARD)
        futures = {self._send(mine, asked.catalogue, _column, asked, keys): keys for keys in wanted}
        for future in self._as_done(set(futures), mine, cancelled):
            wrong = future.exception()
            if wrong is not None and not isinstance(wrong, Exception):
                raise wrong
            yield futures[future], wrong if isinstance(wrong, Exception) else unpacked(future.result(), asked.catalogue)

    def cheapest(self, asked: Asked, base: Column, cancelled: Callable[[], bool]) -> Column | None:
        """The cheapest set that meets every limit. Raises CancelledError, or what the search raises."""
        mine = self._next(BOARD)
        future = self._send(mine, asked.catalogue, _cheapest, asked, base)
        for done in self._as_done({future}, mine, cancelled):
            found: Column | None = unpacked(done.result(), asked.catalogue)
            return found
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
        sound = self._send(mine, shelves, _outcome, sound_machine(machine.found, shelves, off), machine, None)
        found = self._send(mine, shelves, _outcome, as_found(machine.found), machine, None)
        anyway: Risk | None = None
        for future in self._as_done({sound, found}, mine, cancelled):
            wrong = future.exception()
            if future is found:
                yield AS_FOUND, wrong if isinstance(wrong, Exception) else unpacked(future.result(), shelves)
            elif wrong is None:
                anyway = unpacked(future.result(), shelves).risk
        futures = {
            self._send(mine, shelves, _outcome, world.setup, machine, anyway): index
            for index, world in enumerate(worlds)
            if world.setup is not None and index not in known
        }
        for future in self._as_done(set(futures), mine, cancelled):
            wrong = future.exception()
            if wrong is not None and not isinstance(wrong, Exception):
                raise wrong
            yield futures[future], wrong if isinstance(wrong, Exception) else unpacked(future.result(), shelves)

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
        self._pool = ProcessPoolExecutor(processes(), self._context, _begin, (self._numbers, self._niceness))
        return self._pool.submit(work, *given)

    def _as_done(self, waiting: set[Future[Any]], mine: Ticket, cancelled: Callable[[], bool]) -> Iterator[Future[Any]]:
        while waiting:
            done, waiting = wait(waiting, POLL_SECONDS, FIRST_COMPLETED)
            if cancelled():
                if self._numbers[mine[0]] == mine[1]:
                    self._next(mine[0])
                for future in waiting:
                    future.cancel()
                raise CancelledError
            if any(isinstance(future.exception(), BrokenProcessPool) for future in done):
                self._pool = None  # a process died; the next request gets fresh ones
            yield from done

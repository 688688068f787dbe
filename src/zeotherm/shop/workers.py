"""Processes that solve options beside each other, so that a board is there in seconds."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from concurrent.futures import FIRST_COMPLETED, Future, ProcessPoolExecutor, wait
from dataclasses import dataclass
from multiprocessing import get_context
from multiprocessing.sharedctypes import Synchronized
from typing import Any

from zeotherm.core.catalogue.shelves import Catalogue
from zeotherm.core.judgement.board import Column, cheapest_set, column
from zeotherm.core.machine.documents import Setup, Variant
from zeotherm.core.solver.axisymmetric import CancelledError

Keys = tuple[str, ...]
PROCESSES = 2
POLL_SECONDS = 0.05


@dataclass(frozen=True)
class Asked:
    """What every option of a board has in common."""

    found: Setup
    variants: Mapping[str, Variant]
    catalogue: Catalogue
    tolerances: dict[str, float]


class _Latest:
    """In a worker: the number of the board that is wanted now."""

    number: Synchronized[int] | None = None


def _begin(number: Any) -> None:
    _Latest.number = number


def _unwanted(mine: int) -> bool:
    return _Latest.number is not None and _Latest.number.value != mine


def _ready() -> bool:
    return True


def _column(mine: int, asked: Asked, keys: Keys) -> Column:
    return column(
        asked.found, asked.variants, keys, asked.catalogue, asked.tolerances, lambda: _unwanted(mine)
    )  # fmt: skip


def _cheapest(mine: int, asked: Asked, base: Column) -> Column | None:
    return cheapest_set(
        asked.found, asked.variants, base, asked.catalogue, asked.tolerances, lambda: _unwanted(mine)
    )  # fmt: skip


class Workers:
    """A few processes; they start when they are first needed and end with `close`."""

    def __init__(self) -> None:
        self._context = get_context("spawn")
        self._number: Any = self._context.Value("q", 0)
        self._pool: ProcessPoolExecutor | None = None

    def columns(
        self, asked: Asked, wanted: list[Keys], cancelled: Callable[[], bool]
    ) -> Iterator[tuple[Keys, Column | Exception]]:
        """Each wanted set as it is solved, or what went wrong with it. Raises CancelledError."""
        mine = self._next()
        futures = {self._started().submit(_column, mine, asked, keys): keys for keys in wanted}
        for future in self._as_done(set(futures), cancelled):
            wrong = future.exception()
            if wrong is not None and not isinstance(wrong, Exception):
                raise wrong
            yield futures[future], wrong if isinstance(wrong, Exception) else future.result()

    def cheapest(self, asked: Asked, base: Column, cancelled: Callable[[], bool]) -> Column | None:
        """The cheapest set that meets every limit. Raises CancelledError, or what the search raises."""
        future = self._started().submit(_cheapest, self._next(), asked, base)
        for done in self._as_done({future}, cancelled):
            found: Column | None = done.result()
            return found
        return None

    def warm(self) -> None:
        """Start the processes before they are needed."""
        for _process in range(PROCESSES):
            self._started().submit(_ready)

    def close(self) -> None:
        """Let the processes go; what they are at is dropped."""
        self._next()
        if self._pool is not None:
            self._pool.shutdown(wait=True, cancel_futures=True)
            self._pool = None

    def _next(self) -> int:
        with self._number.get_lock():
            self._number.value += 1
            return int(self._number.value)

    def _started(self) -> ProcessPoolExecutor:
        if self._pool is None:
            self._pool = ProcessPoolExecutor(PROCESSES, self._context, _begin, (self._number,))
        return self._pool

    def _as_done(self, waiting: set[Future[Any]], cancelled: Callable[[], bool]) -> Iterator[Future[Any]]:
        while waiting:
            done, waiting = wait(waiting, POLL_SECONDS, FIRST_COMPLETED)
            if cancelled():
                self._next()
                for future in waiting:
                    future.cancel()
                raise CancelledError
            yield from done

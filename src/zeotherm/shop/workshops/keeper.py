"""The keeper: the one thread that touches the workshop's file. What it is given is done in order, all of it."""

from __future__ import annotations

from collections.abc import Callable
from concurrent.futures import Future, ThreadPoolExecutor
from pathlib import Path
from typing import TypeVar

from zeotherm.shop.workshops.workshop import Workshop, open_or_make

T = TypeVar("T")


class Keeper:
    """Holds an open workshop. Raises ShopError where the file cannot be used."""

    def __init__(self, path: Path, fill: Callable[[Workshop], None] | None = None) -> None:
        self._thread = ThreadPoolExecutor(1, "keeper")
        try:
            self._workshop = self._thread.submit(open_or_make, path, fill).result()
        except BaseException:
            self._thread.shutdown()
            raise
        self.path, self.reading = self._workshop.path, self._workshop.reading
        self.refusal = self._workshop.refusal

    def do(self, work: Callable[[Workshop], T]) -> Future[T]:
        """Have something done with the workshop, after what was given before; the future is its receipt."""
        return self._thread.submit(work, self._workshop)

    def ask(self, work: Callable[[Workshop], T]) -> T:
        """As `do`, for who cannot go on without it. Raises what it raises."""
        return self.do(work).result()

    def close(self) -> None:
        """Let go of the file, once all that was given is done."""
        self.do(Workshop.close)
        self._thread.shutdown(wait=True)

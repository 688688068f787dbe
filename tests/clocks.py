"""Clocks that tests, and pictures, set by hand."""

from __future__ import annotations

from datetime import datetime, timedelta

from zeotherm.shop.clock import BenchClock


class Clocks:
    """A wall clock that can be set, and one that cannot."""

    def __init__(self) -> None:
        self.wall, self.steady = datetime(2026, 3, 2, 10, 0, 0), 1000.0

    def go(self, seconds: float) -> None:
        """Move both on."""
        self.wall += timedelta(seconds=seconds)
        self.steady += seconds

    def bench(self) -> BenchClock:
        """A bench's clock that goes by them."""
        return BenchClock(lambda: self.wall, lambda: self.steady)

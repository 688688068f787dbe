"""Medians of interleaved repeats."""

from __future__ import annotations

import time
from collections.abc import Callable
from statistics import median


def interleaved(repeats: int, *jobs: Callable[[], object]) -> list[float]:
    """Median seconds of each job, run in turns so that the machine's moods fall on all alike."""
    spent: list[list[float]] = [[] for _ in jobs]
    for _ in range(repeats):
        for job, times in zip(jobs, spent, strict=True):
            start = time.perf_counter()
            job()
            times.append(time.perf_counter() - start)
    return [median(times) for times in spent]

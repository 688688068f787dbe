"""Runs of a job, lined up and compared."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass

from zeotherm.core.catalogue import Catalogue
from zeotherm.core.machine.documents import Job
from zeotherm.core.questions import Cancelled
from zeotherm.core.runs.assembly import Assembled, assembled
from zeotherm.core.runs.series import Series


@dataclass(frozen=True)
class HeldRuns:
    """A job's runs held against each other; nothing to compare where there are none."""

    job: Job
    catalogue: Catalogue
    found: Assembled | None


def runs(
    job: Job, catalogue: Catalogue, load: Callable[[], dict[str, Series]], at: float | None
) -> Callable[[Cancelled], Iterator[HeldRuns]]:
    """A task: a job's runs compared. load: gives all their rows; at: when levels are taken [s], None: at their end."""

    def task(_cancelled: Cancelled) -> Iterator[HeldRuns]:
        yield HeldRuns(job, catalogue, assembled(job.measured, load(), catalogue, at))

    return task

"""Sizes of the power path."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass

from zeotherm.answers import power
from zeotherm.answers.executor import REST, Rest
from zeotherm.answers.hotend import hours
from zeotherm.answers.questions import Cancelled, Stage
from zeotherm.answers.store import Store
from zeotherm.core.catalogue import Catalogue
from zeotherm.core.judgement.power.answer import PowerAnswer
from zeotherm.core.judgement.power.sizing import PowerSizes, size_power
from zeotherm.core.machine.documents import Job


@dataclass(frozen=True)
class PowerSizeFound:
    """A power path and its sizes."""

    job: Job
    catalogue: Catalogue
    answer: PowerAnswer
    sizes: PowerSizes | None = None

    @property
    def done(self) -> bool:
        """Whether everything is sized."""
        return self.sizes is not None


def _sized(path: PowerAnswer, *, cancelled: Cancelled) -> PowerSizes:
    return size_power(path)


SIZED = Stage("power path's sizes", _sized)  # of the path at rest, or over its course


def power_sizes(
    store: Store, job: Job, catalogue: Catalogue, *, with_hours: bool
) -> Callable[[Cancelled], Iterator[PowerSizeFound | Rest]]:
    """A task: sizes of a job's power path; with_hours: in what its machine's hours put about it."""
    setup = job.setup()
    path = power.over_its_course(setup, job, catalogue, hours(setup, job, catalogue) if with_hours else None)
    sizes = SIZED.of(path)

    def task(cancelled: Cancelled) -> Iterator[PowerSizeFound | Rest]:
        answer = store.ask(path, cancelled)
        if not store.knows(sizes):
            yield PowerSizeFound(job, catalogue, answer)
            yield REST
        yield PowerSizeFound(job, catalogue, answer, store.ask(sizes, cancelled))

    return task

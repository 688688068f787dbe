"""Sizes of the power path."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass

from zeotherm.answers.executor import REST, Rest, Until
from zeotherm.answers.hotend import answered_hours
from zeotherm.answers.store import Store
from zeotherm.core.catalogue import Catalogue
from zeotherm.core.machine.documents import Job
from zeotherm.core.parts.power.judge.answer import PowerAnswer
from zeotherm.core.parts.power.judge.sizing import PowerSizes, size_power
from zeotherm.core.parts.power.part import PART
from zeotherm.core.questions import Cancelled, Stage


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
    store: Store, job: Job, catalogue: Catalogue
) -> Callable[[Cancelled], Iterator[PowerSizeFound | Rest | Until]]:
    """A task: sizes of a job's power path, in what its machine's hours put about it."""
    setup = job.setup()

    def task(cancelled: Cancelled) -> Iterator[PowerSizeFound | Rest | Until]:
        course = yield from answered_hours(store, setup, job, catalogue, cancelled)
        path = PART.over_its_course(setup, job, catalogue, course)
        answer, sizes = store.ask(path, cancelled), SIZED.of(path)
        if not store.knows(sizes):
            yield PowerSizeFound(job, catalogue, answer)
            yield REST
        yield PowerSizeFound(job, catalogue, answer, store.ask(sizes, cancelled))

    return task

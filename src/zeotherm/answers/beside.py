"""The machine beside its hotend: how each part of it stands late in its print."""

from __future__ import annotations

import logging
from collections.abc import Callable, Generator, Iterator, Mapping
from typing import Any

from zeotherm.answers.executor import Until
from zeotherm.answers.hotend import answered_hours
from zeotherm.answers.store import Store
from zeotherm.core.catalogue import Catalogue
from zeotherm.core.catalogue.lookup import DoesNotFitError
from zeotherm.core.machine.documents import Job
from zeotherm.core.parts.registry import PARTS
from zeotherm.core.questions import Cancelled, never
from zeotherm.core.solver.axisymmetric import CancelledError
from zeotherm.core.solver.plate import NotSettledError
from zeotherm.core.solver.stepping import TooSmallError

log = logging.getLogger(__name__)
NOT_JUDGED = (NotSettledError, TooSmallError, DoesNotFitError)


def parts_beside(
    store: Store, job: Job, catalogue: Catalogue, cancelled: Cancelled = never
) -> Generator[Until, None, dict[str, Any]]:
    """Part of a task: every part of a job's setup by its key: its answer at rest, in what the machine's hours put about
    it; or why it has none. Raises CancelledError."""
    setup = job.setup()
    course = yield from answered_hours(store, setup, job, catalogue, cancelled)
    found: dict[str, Any] = {}
    for key, part in PARTS.items():
        if part.present(setup, catalogue):
            try:
                found[key] = store.ask(part.at_rest(setup, job, catalogue, course), cancelled)
            except CancelledError:
                raise
            except Exception as wrong:  # whatever it is, the part is there and is told
                if not isinstance(wrong, NOT_JUDGED):
                    log.error("the %s failed", key, exc_info=wrong)
                found[key] = wrong
    return found


def beside(
    store: Store, wanted: Mapping[int, tuple[Job, Catalogue]]
) -> Callable[[Cancelled], Iterator[tuple[int, dict[str, Any]] | Until]]:
    """A task: the parts of several jobs, by the numbers they are asked under."""

    def task(cancelled: Cancelled) -> Iterator[tuple[int, dict[str, Any]] | Until]:
        for number, (job, catalogue) in wanted.items():
            found = yield from parts_beside(store, job, catalogue, cancelled)
            yield number, found

    return task

"""The machine beside its hotend: which parts it has, and how each stands late in its print."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass
from typing import Any

from zeotherm.answers import bed, enclosure, power
from zeotherm.answers.hotend import hours
from zeotherm.answers.questions import Cancelled, Question, never
from zeotherm.answers.store import Store
from zeotherm.core.catalogue import Catalogue
from zeotherm.core.catalogue.lookup import DoesNotFitError
from zeotherm.core.judgement.bed.answer import heated
from zeotherm.core.judgement.chamber.answer import encloses
from zeotherm.core.judgement.course import Course
from zeotherm.core.machine.documents import Job, Setup
from zeotherm.core.solver.plate import NotSettledError
from zeotherm.core.solver.stepping import TooSmallError
from zeotherm.core.twin.power.inputs import described

Asking = Callable[[Setup, Job, Catalogue, Question[Course] | None], Question[Any]]
NOT_JUDGED = (NotSettledError, TooSmallError, DoesNotFitError)


@dataclass(frozen=True)
class PartBeside:
    """A part of the machine besides the hotend: whether a setup has it, and what is asked of it."""

    present: Callable[[Setup, Catalogue], bool]
    at_rest: Asking


PARTS: Mapping[str, PartBeside] = {
    "bed": PartBeside(heated, bed.at_rest),
    "case": PartBeside(encloses, enclosure.at_rest),
    "power": PartBeside(described, power.at_rest),
}


def parts_beside(
    store: Store, job: Job, catalogue: Catalogue, *, with_hours: bool, cancelled: Cancelled = never
) -> dict[str, Any]:
    """Every part that a job's setup has, by its key: its answer at rest, or why it has none. Raises CancelledError."""
    setup = job.setup()
    course = hours(setup, job, catalogue) if with_hours else None
    found: dict[str, Any] = {}
    for key, part in PARTS.items():
        if part.present(setup, catalogue):
            try:
                found[key] = store.ask(part.at_rest(setup, job, catalogue, course), cancelled)
            except NOT_JUDGED as wrong:
                found[key] = wrong
    return found


def beside(
    store: Store, wanted: Mapping[int, tuple[Job, Catalogue, bool]]
) -> Callable[[Cancelled], Iterator[tuple[int, dict[str, Any]]]]:
    """A task: the parts of several jobs, by the numbers they are asked under; with each whether in its hours."""

    def task(cancelled: Cancelled) -> Iterator[tuple[int, dict[str, Any]]]:
        for number, (job, catalogue, with_hours) in wanted.items():
            yield number, parts_beside(store, job, catalogue, with_hours=with_hours, cancelled=cancelled)

    return task

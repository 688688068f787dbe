"""The card of a machine, as it is asked."""

from __future__ import annotations

from collections.abc import Callable, Iterator

from zeotherm.answers.executor import Until
from zeotherm.answers.hotend import answered_hours
from zeotherm.answers.store import Store
from zeotherm.core.catalogue import Catalogue
from zeotherm.core.catalogue.lookup import DoesNotFitError
from zeotherm.core.choices.machine_card import CardLine, machine_card
from zeotherm.core.guard.fitted import Assumed, assumed_of
from zeotherm.core.machine.documents import Job, Setup
from zeotherm.core.parts.hotend.judge.course import Course
from zeotherm.core.questions import Cancelled, Question, Stage


def _card(
    course: Course, setup: Setup, catalogue: Catalogue, tolerances: dict[str, float], assumed: Assumed,
    known: tuple[str, ...], besides: tuple[str, ...], *, cancelled: Cancelled,
) -> tuple[CardLine, ...]:  # fmt: skip
    return machine_card(setup, catalogue, course.run, tolerances, assumed, known, besides, cancelled)


CARD = Stage("card of a machine", _card, kept=4)  # of its hours, setup, catalogue, tolerances, what is known


def card_of(
    job: Job, catalogue: Catalogue, course: Question[Course], besides: tuple[str, ...] = ()
) -> Question[tuple[CardLine, ...]]:
    """The card of a job's machine; besides: filaments that are asked for, too."""
    setup, known = job.setup(), tuple(sorted(job.known))
    return CARD.of(course, setup, catalogue, job.tolerances, assumed_of(job), known, besides)


def card(
    store: Store, job: Job, catalogue: Catalogue, others: Callable[[], Iterator[Job]]
) -> Callable[[Cancelled], Iterator[tuple[CardLine, ...] | Until]]:
    """A task: the card of a job's machine; others: the shop's other jobs, whose filaments are asked for, too. Raises
    DoesNotFitError where the machine has no hours."""

    def task(cancelled: Cancelled) -> Iterator[tuple[CardLine, ...] | Until]:
        course = yield from answered_hours(store, job.setup(), job, catalogue, cancelled)
        if course is None:
            raise DoesNotFitError("printing", "this machine has no answer, so no card can be made of it.")
        printed = sorted({one.setup().printing.filament for one in others()} & set(catalogue.filaments))
        yield store.ask(card_of(job, catalogue, course, tuple(printed)), cancelled)

    return task

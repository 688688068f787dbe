"""What is known of a part of the machine: at once about, then at rest, over its course, how sure, and what else."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import replace
from typing import Any, TypeVar

from zeotherm.answers.executor import REST, Rest, Until
from zeotherm.answers.hotend import answered_hours, hours
from zeotherm.answers.store import Store
from zeotherm.core.catalogue import Catalogue
from zeotherm.core.judgement.standing import not_told
from zeotherm.core.machine.documents import Job
from zeotherm.core.parts.part import Hours, Part, PartFound, Told
from zeotherm.core.questions import Cancelled, Question, Start

A = TypeVar("A")
ANSWER = ""  # the name of the answer among all that is told of a part


def part_of(
    store: Store,
    part: Part[A],
    job: Job,
    catalogue: Catalogue,
    start: Start[A],
    told: Told = (),
    *,
    wholly: bool = True,
) -> Callable[[Cancelled], Iterator[PartFound[A] | Rest | Until]]:  # fmt: skip
    """A task: a part of a job at once, in the hours that are known, then in its own; wholly: with bands and strengths.

    start: what the next place of a lever begins from; told: what the bench knows beyond the job.
    """
    setup, tried = job.setup(), bool(job.trial) and part.present(job.found, catalogue)

    def before(course: Hours, cancelled: Cancelled) -> A | None:
        """The part as found, in the hours of the machine as found, while something is on trial."""
        return store.ask(part.at_rest(job.found, job, catalogue, course), cancelled) if tried else None

    def task(cancelled: Cancelled) -> Iterator[PartFound[A] | Rest | Until]:
        if not part.present(setup, catalogue):
            yield part.found(job, None)
            return
        expected = hours(setup, job, catalogue)
        if not any(store.knows(one) for one in part.steps(setup, job, catalogue, expected)):
            known = expected if store.knows(expected) else None
            course = store.ask(known) if known is not None else None
            start.like = part.meanwhile(setup, catalogue, job.tolerances, course, start.like)
            beside = hours(job.found, job, catalogue)
            yield part.found(job, start.like, before(beside if store.knows(beside) else None, cancelled))
            yield REST
        in_hours = yield from answered_hours(store, setup, job, catalogue, cancelled)
        of_found = (yield from answered_hours(store, job.found, job, catalogue, cancelled)) if tried else in_hours
        found, told_of = part.found(job, None, before(of_found, cancelled)), False
        for name, question in _asked(store, part, job, catalogue, (in_hours, of_found), told, wholly=wholly):
            if found.answer is not None and not store.knows(question):
                yield found
                yield REST
                told_of = True
            said = store.ask(question, cancelled)
            found = replace(found, answer=said) if name == ANSWER else found.with_aside(name, said)
        if told_of or found.answer is not None:
            yield found
        if wholly and not_told(job, part.key, catalogue):
            yield REST
            yield replace(found, deciding=store.ask(part.deciding(setup, job, catalogue, in_hours), cancelled))

    return task


def _asked(
    store: Store,
    part: Part[A],
    job: Job,
    catalogue: Catalogue,
    courses: tuple[Hours, Hours],
    told: Told,
    *,
    wholly: bool,
) -> list[tuple[str, Question[Any]]]:
    """What is asked of a part in its hours, and of the part as found in those of the machine as found, in order.

    Its steps, what is said beside them, bands and strengths, and what hangs on those. A step that is behind one that is
    known is not asked.
    """
    setup, (course, of_found) = job.setup(), courses
    steps = part.steps(setup, job, catalogue, course)
    wholly = wholly or store.knows(steps[-1])
    first = max((n for n, one in enumerate(steps[:-1]) if store.knows(one)), default=0)
    asked: list[tuple[str, Question[Any]]] = [(ANSWER, one) for one in steps[first:-1]]
    if not wholly:
        return asked
    sides = [(one, part.aside(one.name, setup, job, catalogue, course, told, of_found)) for one in part.asides]
    asked += [(one.name, question) for one, question in sides if one.of != "full"]
    asked.append((ANSWER, steps[-1]))
    return asked + [(one.name, question) for one, question in sides if one.of == "full"]

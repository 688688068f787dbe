"""The shelf: what a part's figures decide on a machine, and what comes of it where one of them is another."""

from __future__ import annotations

import contextlib
from collections.abc import Callable, Iterator, Mapping
from dataclasses import replace

from zeotherm.answers.board import AS_FOUND
from zeotherm.answers.executor import Until
from zeotherm.answers.hotend import hours
from zeotherm.answers.store import Store
from zeotherm.core.catalogue import Catalogue
from zeotherm.core.catalogue.fitting import fitted_at
from zeotherm.core.catalogue.lookup import DoesNotFitError
from zeotherm.core.catalogue.own import Stated, stated
from zeotherm.core.choices.board import Subjects
from zeotherm.core.choices.figures import (
    HOTEND,
    ShelfFound,
    Stake,
    User,
    most_changed,
    part_at,
    stakes,
    with_figures,
    worst_of,
)
from zeotherm.core.machine.documents import Job
from zeotherm.core.questions import Cancelled, Stage
from zeotherm.core.solver.axisymmetric import NotConvergedError
from zeotherm.core.solver.plate import NotSettledError

NO_ANSWER = (DoesNotFitError, NotConvergedError, NotSettledError)


def _stakes(
    job: Job, catalogue: Catalogue, shelf: str, key: str, path: str, *, cancelled: Cancelled
) -> Mapping[str, Stake]:
    return {one.at: one for one in stakes(job.setup(), catalogue, job.tolerances, shelf, key, path, cancelled)}


STAKES = Stage("what a part's figures decide", _stakes, kept=24)  # of a job, catalogue, shelf, key, path


def shelf_entry(
    store: Store, bench: tuple[Job, Catalogue], others: Callable[[], Iterator[tuple[Job, Catalogue]]],
    shelf: str, key: str, told: Mapping[str, Stated],
) -> Callable[[Cancelled], Iterator[ShelfFound | Until]]:  # fmt: skip
    """A task: an entry's users, the one on the bench first, and what comes of it there if its figures were those that
    are told; then what each of its figures decides on the bench. others: the shop's other jobs, read when asked."""

    def used(job: Job, paths: tuple[str, ...], catalogue: Catalogue, cancelled: Cancelled) -> Iterator[User | Until]:
        setup = job.setup()
        asked = hours(setup, job, catalogue)
        begun = store.under_way(asked)
        if begun is not None:
            yield Until((begun,))
        parts = {part_at(path) for path in paths}
        speaks = Subjects(bed="bed" in parts, case="case" in parts, power="power" in parts)
        user = User(job, paths)
        try:
            before = store.ask(AS_FOUND.of(setup, speaks, catalogue, job.tolerances), cancelled).margins
            user = replace(user, worst=worst_of(before))
            yield user
            if told:
                changed = with_figures(catalogue, shelf, key, dict(told))
                after = store.ask(AS_FOUND.of(setup, speaks, changed, job.tolerances), cancelled).margins
                yield replace(user, change=most_changed(before, after), worst_then=worst_of(after))
        except NO_ANSWER as wrong:
            yield replace(user, wrong=str(wrong))

    def task(cancelled: Cancelled) -> Iterator[ShelfFound | Until]:
        entry, figures = bench[1].shelf(shelf)[key], bench[1].own_figures[shelf].figures
        found = ShelfFound(
            shelf, key, told, unknown=tuple(one.at for one in figures if stated(entry, one).value is None)
        )
        seen = set[str]()

        def every() -> Iterator[tuple[Job, Catalogue]]:
            yield bench
            yield from others()

        for job, catalogue in every():
            paths = fitted_at(job.setup(), shelf, key)
            if not paths or job.machine in seen or key not in catalogue.shelf(shelf):
                continue
            seen.add(job.machine)
            before = found.users
            for step in used(job, paths, catalogue, cancelled):
                if isinstance(step, Until):
                    yield step
                else:
                    found = replace(found, users=(*before, step))
                    yield found
        paths = fitted_at(bench[0].setup(), shelf, key)
        if paths:
            path = min(paths, key=lambda one: part_at(one) != HOTEND)
            with contextlib.suppress(*NO_ANSWER):  # its user above says why
                found = replace(found, stakes=store.ask(STAKES.of(*bench, shelf, key, path), cancelled))
        yield replace(found, done=True)

    return task

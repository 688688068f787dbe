"""The options board: column by column, then the cheapest set that meets every limit."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass

from zeotherm.answers.executor import Until
from zeotherm.answers.hotend import decides, hours
from zeotherm.answers.processes import BOARD, Processes
from zeotherm.answers.store import Store
from zeotherm.core.catalogue import Catalogue
from zeotherm.core.choices.board import (
    Column,
    Subjects,
    cheapest_set,
    column_of,
    judged_column,
    shorter,
    subjects,
)
from zeotherm.core.judgement.standing import Standing, standing
from zeotherm.core.machine.documents import Job, Setup, Variant
from zeotherm.core.parts.hotend.judge.course import Course, plan
from zeotherm.core.questions import Cancelled, Question, Stage

Keys = tuple[str, ...]


@dataclass(frozen=True)
class SolvedBoard:
    """What is known of a board: columns by their keys, the cheapest set, and whether the search for it is over."""

    job: Job
    columns: Mapping[Keys, Column]
    failed: Mapping[Keys, Exception]
    cheapest: Column | None
    searched: bool
    on: Standing  # what the verdict on the machine as found stands on
    hourly: float = 0.0  # what an hour of work costs; zero: work is not priced


def _as_found(
    setup: Setup, speaks: Subjects, catalogue: Catalogue, tolerances: dict[str, float], *, cancelled: Cancelled
) -> Column:
    return _judged(plan(setup, catalogue, tolerances, cancelled), speaks, cancelled)


def _judged(course: Course, speaks: Subjects, cancelled: Cancelled) -> Column:
    return shorter(judged_column(course, {}, speaks, cancelled))


def _column(
    setup: Setup, picked: dict[str, Variant], speaks: Subjects, catalogue: Catalogue, tolerances: dict[str, float], *,
    cancelled: Cancelled,
) -> Column:  # fmt: skip
    return shorter(column_of(setup, picked, speaks, catalogue, tolerances, cancelled))


AS_FOUND = Stage("board, as found", _as_found, kept=8)  # of a setup, what the board speaks of, catalogue, tolerances
COLUMN = Stage("board, a column", _column, kept=48)  # of a setup and the options taken, as above
CHEAPEST = Stage("board, the cheapest set", cheapest_set, kept=8)  # of a setup, its options, as found, as above


def columns_of(job: Job, variants: Mapping[str, Variant], catalogue: Catalogue) -> dict[Keys, Question[Column]]:
    """A board's columns by their keys: as found, every option alone, and those taken together."""
    speaks, found, tolerances = subjects(variants), job.found, job.tolerances
    chosen = tuple(key for key in variants if key in job.chosen)
    wanted: list[Keys] = [*((key,) for key in variants), *((chosen,) if len(chosen) > 1 else ())]
    columns = {keys: COLUMN.of(found, {key: variants[key] for key in keys}, speaks, catalogue, tolerances)
               for keys in wanted}  # fmt: skip
    return {(): AS_FOUND.of(found, speaks, catalogue, tolerances), **columns}


def board(
    store: Store, processes: Processes, job: Job, catalogue: Catalogue, hourly: float = 0.0
) -> Callable[[Cancelled], Iterator[SolvedBoard | Until]]:
    """A task: the board of a job's options, as it grows; hourly: what an hour of work costs."""
    questions, course = columns_of(job, job.variants, catalogue), hours(job.found, job, catalogue)
    base_asked = questions[()]
    search = CHEAPEST.of(job.found, job.variants, base_asked, catalogue, job.tolerances, hourly)
    found_job = job.model_copy(update={"trial": {}})
    facts, on = decides(job.found, found_job, catalogue), standing(found_job, "hotend", catalogue)

    def task(cancelled: Cancelled) -> Iterator[SolvedBoard | Until]:
        columns: dict[Keys, Column] = {keys: store.ask(one) for keys, one in questions.items() if store.knows(one)}
        failed: dict[Keys, Exception] = {}

        def now(cheapest: Column | None = None, searched: bool = False) -> SolvedBoard:
            what = on.with_deciding(store.ask(facts)) if store.knows(facts) else on
            return SolvedBoard(job, dict(columns), dict(failed), cheapest, searched, what, hourly)

        yield now()
        if () not in columns and store.knows(course):
            columns[()] = store.keep(base_asked, _judged(store.ask(course), subjects(job.variants), cancelled))
            yield now()
        missing = {keys: one for keys, one in questions.items() if keys not in columns}
        for step in processes.each(BOARD, catalogue, missing, cancelled):
            if isinstance(step, Until):
                yield step
                continue
            keys, found = step
            (failed if isinstance(found, Exception) else columns)[keys] = found
            yield now()
        if () not in columns or columns[()].passes or not job.variants:
            yield now(searched=True)
            return
        for step in processes.each(BOARD, catalogue, {(): search}, cancelled):
            if isinstance(step, Until):
                yield step
            elif isinstance(step[1], Exception):
                raise step[1]
            else:
                yield now(step[1], searched=True)

    return task

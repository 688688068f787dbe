"""The causes of a trouble: ranked at once by what was told, then as the worlds of the causes are run."""

from __future__ import annotations

import logging
from collections.abc import Callable, Iterator
from dataclasses import dataclass

from zeotherm.answers.executor import Until
from zeotherm.answers.processes import CAUSES, Processes
from zeotherm.answers.store import Store
from zeotherm.core.catalogue.shelves import Catalogue
from zeotherm.core.causes import outcomes
from zeotherm.core.causes.next_check import Plan, plan
from zeotherm.core.causes.outcomes import Outcome, outcome
from zeotherm.core.causes.ranking import Facts, Ranking, Table
from zeotherm.core.causes.worlds import (
    AS_FOUND,
    Hypothesis,
    as_found,
    assumed_departures,
    departures,
    hypotheses,
    sound_machine,
)
from zeotherm.core.guard.fitted import assumed_of
from zeotherm.core.machine.documents import Job, Setup
from zeotherm.core.questions import Cancelled, Question, Stage, Start, never

log = logging.getLogger(__name__)


@dataclass(frozen=True)
class Diagnosis:
    """What is known of a job's trouble."""

    job: Job
    catalogue: Catalogue
    ranking: Ranking
    plan: Plan


def _worlds(setup: Setup, catalogue: Catalogue, assumed: tuple[str, ...], *, cancelled: Cancelled) -> list[Hypothesis]:
    return hypotheses(setup, catalogue, assumed)


def _outcome(
    setup: Setup, catalogue: Catalogue, tolerances: dict[str, float], sound: Outcome | None, *, cancelled: Cancelled
) -> Outcome:
    anyway = sound.risk if sound is not None else None
    return outcomes.shorter(outcome(setup, catalogue, tolerances, anyway, cancelled))


WORLDS = Stage("worlds of a machine", _worlds)  # of its setup as found, by a catalogue; departures nobody entered
OUTCOME = Stage("world of a cause", _outcome, kept=400)  # of its setup, by a catalogue; and the sound machine's


def worlds_run(
    processes: Processes, setup: Setup, catalogue: Catalogue, tolerances: dict[str, float],
    worlds: list[Hypothesis], cancelled: Cancelled = never,
) -> Iterator[Until | tuple[int, Outcome | Exception]]:  # fmt: skip
    """What happens in each world that is simulated, by its number, and as found, as it is known."""

    if all(world.setup is None for world in worlds):
        return

    def asked(one: Setup, sound: Question[Outcome] | None) -> Question[Outcome]:
        return OUTCOME.of(one, catalogue, tolerances, sound)

    first = asked(sound_machine(setup, catalogue, departures(setup, catalogue)), None)
    sound: Question[Outcome] | None = first
    for step in processes.each(CAUSES, catalogue, {"sound": first, "found": asked(as_found(setup), None)}, cancelled):
        if isinstance(step, Until):
            yield step
        elif step[0] == "found":
            yield AS_FOUND, step[1]
        elif isinstance(step[1], Exception):
            sound = None  # what fails anyway is not known
    others = {index: asked(world.setup, sound) for index, world in enumerate(worlds) if world.setup is not None}
    yield from processes.each(CAUSES, catalogue, others, cancelled)


def causes(
    store: Store,
    processes: Processes,
    job: Job,
    catalogue: Catalogue,
    decided: Callable[[], dict[str, int]],
    start: Start[Table],
) -> Callable[[Cancelled], Iterator[Diagnosis | Until]]:  # fmt: skip
    """A task: the causes of a job's trouble, as they become known; decided: gives how often each was before."""
    catalogue = catalogue.of_trouble(job.intake.trouble)

    def task(cancelled: Cancelled) -> Iterator[Diagnosis | Until]:
        worlds = store.ask(WORLDS.of(job.found, catalogue, assumed_departures(job, catalogue)), cancelled)
        known, facts, untold, shop = dict[int, Outcome](), Facts.of(job), True, decided()
        for step in worlds_run(processes, job.found, catalogue, job.tolerances, worlds, cancelled):
            if isinstance(step, Until):
                if untold:
                    yield _diagnosis(job, facts, _table(start, worlds, known, catalogue, shop))
                untold = False
                yield step
                continue
            index, result = step
            untold = True
            if isinstance(result, Outcome):
                known[index] = result
            else:
                log.info("world %d has no answer: %r", index, result)
        yield _diagnosis(job, facts, _table(start, worlds, known, catalogue, shop))

    return task


def _table(
    start: Start[Table], worlds: list[Hypothesis], known: dict[int, Outcome], catalogue: Catalogue, shop: dict[str, int]
) -> Table:
    """The table of all outcomes so far; the last one serves as long as it is of just these."""
    last = start.like
    same = last is not None and last.worlds is worlds and last.catalogue is catalogue and last.shop == shop
    if last is None or not same or {k: id(v) for k, v in last.outcomes.items()} != {k: id(v) for k, v in known.items()}:
        last = start.like = Table(worlds, dict(known), catalogue, shop)
    return last


def _diagnosis(job: Job, facts: Facts, table: Table) -> Diagnosis:
    proposed = plan(table, facts, job.found, job.intake.skipped, job.intake.decided, assumed_of(job))
    return Diagnosis(job, table.catalogue, table.rank(facts), proposed)

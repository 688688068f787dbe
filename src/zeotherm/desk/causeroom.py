"""Where causes are ranked in the background: at once by what was told, then as the worlds of the causes are run."""

from __future__ import annotations

import logging
from dataclasses import dataclass

from PyQt6.QtCore import QObject

from zeotherm.core.catalogue.shelves import Catalogue
from zeotherm.core.judgement.causes.next_check import Plan, plan
from zeotherm.core.judgement.causes.outcomes import Outcome
from zeotherm.core.judgement.causes.ranking import Facts, Ranking, Table
from zeotherm.core.judgement.causes.worlds import Hypothesis, hypotheses
from zeotherm.core.machine.documents import Job
from zeotherm.desk.room import AnswerRoom, Kept, name_of
from zeotherm.desk.scheduler import Cancelled, Emit
from zeotherm.shop.workers import Machine, Workers

log = logging.getLogger(__name__)


@dataclass(frozen=True)
class Diagnosis:
    """What is known of a job's trouble."""

    job: Job
    catalogue: Catalogue
    ranking: Ranking
    plan: Plan


@dataclass
class Known:
    """A machine's worlds, and what happens in those that were run."""

    worlds: list[Hypothesis]
    outcomes: dict[int, Outcome]
    failed: set[int]
    table: Table | None = None  # the last one made

    def ready(self, catalogue: Catalogue, shop: dict[str, int]) -> Table:
        """The table of all outcomes so far; the last one serves as long as it is still of them."""
        last = self.table
        if (
            last is None
            or len(last.outcomes) != len(self.outcomes)
            or last.shop != shop
            or last.catalogue is not catalogue
        ):
            self.table = last = Table(self.worlds, dict(self.outcomes), catalogue, shop)
        return last

    @property
    def missing(self) -> bool:
        """Whether some worlds are still to be run."""
        return any(
            world.setup is not None and index not in self.outcomes and index not in self.failed
            for index, world in enumerate(self.worlds)
        )


class CauseRoom(AnswerRoom):
    """Emits the `Diagnosis` as it grows; a machine that was run before is not run again."""

    def __init__(self, workers: Workers, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._workers = workers
        self._known: Kept[Known] = Kept(8)

    def show(self, job: Job, catalogue: Catalogue, shop: dict[str, int]) -> None:
        """Rank the causes of a job; shop: how often each was decided before."""
        self.submit(lambda emit, cancelled: self._work(job, catalogue, shop, emit, cancelled))

    def _work(self, job: Job, catalogue: Catalogue, shop: dict[str, int], emit: Emit, cancelled: Cancelled) -> None:
        known = self._machine(job, catalogue)
        emit(_diagnosis(job, catalogue, shop, known))
        if not known.missing:
            return
        for index, result in self._workers.outcomes(
            Machine(job.found, catalogue, job.tolerances), known.worlds, cancelled, set(known.outcomes)
        ):
            if isinstance(result, Outcome):
                known.outcomes[index] = result
            else:
                log.info("world %d has no answer: %r", index, result)
                known.failed.add(index)
            emit(_diagnosis(job, catalogue, shop, known))

    def _machine(self, job: Job, catalogue: Catalogue) -> Known:
        name = name_of(job.found, job.tolerances, catalogue)
        known = self._known.get(name)
        return known or self._known.keep(name, Known(hypotheses(job.found, catalogue), {}, set()))


def _diagnosis(job: Job, catalogue: Catalogue, shop: dict[str, int], known: Known) -> Diagnosis:
    table, facts = known.ready(catalogue, shop), Facts.of(job)
    proposed = plan(table, facts, job.found, job.intake.skipped, job.intake.decided)
    return Diagnosis(job, catalogue, table.rank(facts), proposed)

"""What the trade holds against each other, each tried on a machine as a build of it."""

from __future__ import annotations

from collections.abc import Callable, Iterator

from zeotherm.answers.build import NO_HOURS, BuildQuestions
from zeotherm.answers.executor import Rest, Until
from zeotherm.answers.hotend import answered_hours
from zeotherm.answers.store import Store
from zeotherm.core.catalogue import Catalogue
from zeotherm.core.catalogue.lookup import DoesNotFitError
from zeotherm.core.choices.build.wanted import wanted_of
from zeotherm.core.choices.compared import RemedyTried
from zeotherm.core.machine.documents import Job, patched
from zeotherm.core.parts.enclosure.judge.warmth import air_late
from zeotherm.core.questions import Cancelled


def compare(
    store: Store, job: Job, catalogue: Catalogue, key: str
) -> Callable[[Cancelled], Iterator[tuple[RemedyTried, ...] | Rest | Until]]:
    """A task: each of a comparison on a job's machine, one after the other. Raises DoesNotFitError where the machine
    as found has no hours."""

    def task(cancelled: Cancelled) -> Iterator[tuple[RemedyTried, ...] | Rest | Until]:
        course = yield from answered_hours(store, job.found, job, catalogue, cancelled)
        if course is None:
            raise DoesNotFitError("printing", NO_HOURS)
        late, about = air_late(store.ask(course).run), catalogue.comparisons[key]
        found: tuple[RemedyTried, ...] = ()
        for air in about.airs_c or (None,):
            build = job.build.model_copy(update={"change": {}, "air_c": job.build.air_c if air is None else air})
            for one in about.tries:
                changed = patched(job.found, one.change)
                asked = BuildQuestions(course, job, wanted_of(build, changed, late, catalogue), ())
                built = store.ask(asked.full(one.change), cancelled)
                cold = store.ask(asked.cold(one.change), cancelled) if "creeps" in about.tells else None
                found = (*found, RemedyTried(one.label, asked.wanted.air, built, cold))
                yield found

    return task

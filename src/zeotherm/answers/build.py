"""A hotend that is being put together: what comes of it, as it is asked."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace

from zeotherm.answers.executor import REST, Rest, Until
from zeotherm.answers.hotend import answered_hours
from zeotherm.answers.store import Store
from zeotherm.core.catalogue import Catalogue
from zeotherm.core.catalogue.lookup import DoesNotFitError
from zeotherm.core.choices.build.cheapest import Search, search
from zeotherm.core.choices.build.cold_side import ColdSide, cold_side
from zeotherm.core.choices.build.judged import Built, first_built, fully_built
from zeotherm.core.choices.build.slots import Candidate, candidates, check_build, filled
from zeotherm.core.choices.build.wanted import BuildWish, wanted_of
from zeotherm.core.choices.build.watts import WattsPicture, picture
from zeotherm.core.machine.documents import Job, Setup, patched
from zeotherm.core.machine.patches import Patch
from zeotherm.core.parts.enclosure.judge.warmth import air_late
from zeotherm.core.parts.hotend.judge.course import Course
from zeotherm.core.questions import Cancelled, Question, Stage
from zeotherm.core.solver.axisymmetric import NotConvergedError

PriceList = tuple[tuple[tuple[str, str], float], ...]  # of the shop's drawer, in order


def _first(
    course: Course, setup: Setup, change: Patch, wanted: BuildWish, known: tuple[str, ...], prices: PriceList,
    tolerances: dict[str, float], *, cancelled: Cancelled,
) -> Built:  # fmt: skip
    return first_built(setup, change, wanted, course.run, known, dict(prices), tolerances, cancelled)


def _full(built: Built, known: tuple[str, ...], tolerances: dict[str, float], *, cancelled: Cancelled) -> Built:
    return fully_built(built, known, tolerances, cancelled)


def _picture(built: Built, tolerances: dict[str, float], *, cancelled: Cancelled) -> WattsPicture | None:
    answer = built.answers.get(built.setup.printing.filament)  # the hottest asks for most
    if answer is None or built.seconds is None or built.band is None:
        return None
    return picture(
        built.setup, built.catalogue, answer.solved, built.melts, built.wanted.seconds, built.wanted.flow, built.band,
        built.seconds, tolerances, cancelled,
    )  # fmt: skip


def _searched(
    course: Course, setup: Setup, wanted: BuildWish, known: tuple[str, ...], prices: PriceList, hourly: float,
    tolerances: dict[str, float], *, cancelled: Cancelled,
) -> Search:  # fmt: skip
    steps = search(setup, wanted, course.run, known, dict(prices), hourly, tolerances, cancelled)
    return list(steps)[-1]


NO_HOURS = "the machine as found has no answer, so nothing can be built on it."


def _cold(built: Built, course: Course, tolerances: dict[str, float], *, cancelled: Cancelled) -> ColdSide | None:
    try:
        return cold_side(built.setup, built.wanted, course.run, tolerances, cancelled)
    except (DoesNotFitError, NotConvergedError):
        return None


FIRST = Stage("build, at once", _first, kept=128)  # of hours, found, change, wanted, paths told, prices, tolerances
FULL = Stage("build, with its bands", _full, kept=48)  # of the build at once, paths told, tolerances
COLD = Stage("cold side of a build", _cold, kept=16)  # of the build at once, hours, tolerances
PICTURE = Stage("watts of a build", _picture, kept=16)  # of the build with its bands, tolerances
SEARCHED = Stage("build, the cheapest", _searched, kept=8)  # of hours, found, wanted, told, prices, an hour's


@dataclass(frozen=True)
class BuildFound:
    """What is known of a build by now."""

    job: Job
    catalogue: Catalogue
    built: Built
    wanted: BuildWish
    shelf: tuple[Candidate, ...] = ()  # what may go into the slot that is open
    tried: dict[str, Built] | None = None  # the build with each of those, by key, as they come
    watts: WattsPicture | None = None
    cold: ColdSide | None = None
    done: bool = False

    @property
    def full(self) -> bool:
        """Whether its bands are there."""
        return self.built.seconds is not None


@dataclass(frozen=True, slots=True)
class BuildQuestions:
    """What is asked of a build; everything goes by the machine as found."""

    course: Question[Course]
    job: Job
    wanted: BuildWish
    prices: PriceList

    def first(self, change: Patch) -> Question[Built]:
        """Without bands."""
        known = tuple(sorted(self.job.known))
        return FIRST.of(self.course, self.job.found, change, self.wanted, known, self.prices, self.job.tolerances)

    def full(self, change: Patch) -> Question[Built]:
        """With its bands."""
        return FULL.of(self.first(change), tuple(sorted(self.job.known)), self.job.tolerances)

    def cold(self, change: Patch) -> Question[ColdSide | None]:
        """What cools it."""
        return COLD.of(self.first(change), self.course, self.job.tolerances)

    def watts(self, change: Patch) -> Question[WattsPicture | None]:
        """The picture of its watts."""
        return PICTURE.of(self.full(change), self.job.tolerances)


def build(
    store: Store, job: Job, catalogue: Catalogue, prices: PriceList, slot: str = ""
) -> Callable[[Cancelled], Iterator[BuildFound | Rest | Until]]:
    """A task: a job's build at once, then what each part of the open slot would make of it, then bands, heat-up and
    watts. Raises DoesNotFitError where the machine as found has no hours."""

    def task(cancelled: Cancelled) -> Iterator[BuildFound | Rest | Until]:
        course = yield from answered_hours(store, job.found, job, catalogue, cancelled)
        if course is None:
            raise DoesNotFitError("printing", NO_HOURS)
        change = job.build.change
        check_build(patched(job.found, change), catalogue)
        wanted = wanted_of(job.build, job.found, air_late(store.ask(course).run), catalogue)
        asked = BuildQuestions(course, job, wanted, prices)
        found = BuildFound(job, catalogue, store.ask(asked.first(change), cancelled), wanted)
        if slot:
            built = patched(job.found, change)
            found = replace(found, shelf=candidates(slot, job.found, built, catalogue, dict(prices)), tried={})
        if store.knows(asked.full(change)):
            found = replace(found, built=store.ask(asked.full(change)))
        if store.knows(asked.watts(change)):
            found = replace(found, watts=store.ask(asked.watts(change)))
        if store.knows(asked.cold(change)):
            found = replace(found, cold=store.ask(asked.cold(change)))
        yield found
        yield REST
        for one in found.shelf:
            with_it = store.ask(asked.first(filled(change, one, job.found, catalogue)), cancelled)
            found = replace(found, tried={**(found.tried or {}), one.key: with_it})
            yield found
        found = replace(found, built=store.ask(asked.full(change), cancelled))
        yield found
        found = replace(found, watts=store.ask(asked.watts(change), cancelled))
        yield found
        yield replace(found, cold=store.ask(asked.cold(change), cancelled), done=True)

    return task


def cheapest(
    store: Store, job: Job, catalogue: Catalogue, prices: PriceList, hourly: float
) -> Callable[[Cancelled], Iterator[Search | Until]]:
    """A task: the cheapest build for what is wanted, as the search goes on; hourly: what an hour of work
    costs. What was found is kept. Raises as `build`."""

    def task(cancelled: Cancelled) -> Iterator[Search | Until]:
        course = yield from answered_hours(store, job.found, job, catalogue, cancelled)
        if course is None:
            raise DoesNotFitError("printing", NO_HOURS)
        wanted = wanted_of(job.build, job.found, air_late(store.ask(course).run), catalogue)
        asked = SEARCHED.of(course, job.found, wanted, tuple(sorted(job.known)), prices, hourly, job.tolerances)
        if store.knows(asked):
            yield store.ask(asked)
            return
        run, known = store.ask(course).run, tuple(sorted(job.known))
        base = store.ask(BuildQuestions(course, job, wanted, prices).full({}), cancelled)
        last = None
        for last in search(job.found, wanted, run, known, dict(prices), hourly, job.tolerances, cancelled, base=base):
            yield last
        if last is not None:
            yield store.keep(asked, last)

    return task

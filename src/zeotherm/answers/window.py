"""The window of temperature against flow, and the settings that follow from it, as they are asked."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass

from zeotherm.answers.build import NO_HOURS, PriceList
from zeotherm.answers.executor import REST, Rest, Until
from zeotherm.answers.hotend import answered_hours
from zeotherm.answers.store import Store
from zeotherm.core.catalogue import Catalogue
from zeotherm.core.catalogue.lookup import DoesNotFitError
from zeotherm.core.choices.build.slots import check_build, not_entered
from zeotherm.core.choices.build.wanted import BuildWish, wanted_of
from zeotherm.core.choices.settings import Settings, settings_of
from zeotherm.core.choices.window import PrintingWindow, window
from zeotherm.core.guard.fitted import assumed_of
from zeotherm.core.machine.documents import Job, Setup, patched
from zeotherm.core.machine.patches import Patch
from zeotherm.core.parts.enclosure.judge.warmth import FINENESS, air_late, airs_of
from zeotherm.core.parts.hotend.judge.answer import Answer
from zeotherm.core.parts.hotend.judge.ask import first_answer
from zeotherm.core.parts.hotend.judge.course import Course
from zeotherm.core.questions import Cancelled, Stage


@dataclass(frozen=True)
class WindowFound:
    """What is known of a window by now."""

    job: Job
    catalogue: Catalogue
    wanted: BuildWish
    window: PrintingWindow
    answer: Answer | None = None  # at rest as the job prints; none: not solved yet
    settings: Settings | None = None

    @property
    def open(self) -> tuple[str, ...]:
        """What it stands on that nobody entered, by its labels."""
        return not_entered(self.window.setup, self.job.build.change, self.wanted, self.job.known, self.catalogue)

    @property
    def done(self) -> bool:
        """Whether all of it is known."""
        return self.settings is not None


def _windowed(
    course: Course, found: Setup, change: Patch, wanted: BuildWish, assumed: tuple[str, ...], prices: PriceList,
    tolerances: dict[str, float], *, cancelled: Cancelled,
) -> PrintingWindow:  # fmt: skip
    steps = window(found, change, wanted, course.run, frozenset(assumed), dict(prices), tolerances, cancelled)
    return list(steps)[-1]


WINDOW = Stage("window of a hotend", _windowed, kept=8)  # of hours, found, build, wanted, assumed, prices, tolerances


def printing_window(
    store: Store, job: Job, catalogue: Catalogue, prices: PriceList
) -> Callable[[Cancelled], Iterator[WindowFound | Rest | Until]]:
    """A task: the window of a job's build as it is solved, then what widens it and what to set. Raises DoesNotFitError
    where the machine as found has no hours, or its parts do not go into each other."""

    def task(cancelled: Cancelled) -> Iterator[WindowFound | Rest | Until]:
        course = yield from answered_hours(store, job.found, job, catalogue, cancelled)
        if course is None:
            raise DoesNotFitError("printing", NO_HOURS)
        check_build(patched(job.found, job.build.change), catalogue)
        run = store.ask(course).run
        wanted, assumed = wanted_of(job.build, job.found, air_late(run), catalogue), assumed_of(job)
        question = WINDOW.of(
            course, job.found, job.build.change, wanted, tuple(sorted(assumed)), prices, job.tolerances
        )
        found = None
        if store.knows(question):
            found = WindowFound(job, catalogue, wanted, store.ask(question))
        else:
            for step in window(
                job.found, job.build.change, wanted, run, assumed, dict(prices), job.tolerances, cancelled
            ):
                found = WindowFound(job, catalogue, wanted, step)
                yield found
                if step.room is None:
                    yield REST
        assert found is not None
        store.keep(question, found.window)
        setup = found.window.setup
        air = airs_of(setup, run)(wanted.air)
        answer = first_answer(setup, catalogue, job.tolerances, cancelled=cancelled, air=air, fineness=FINENESS)
        settings = settings_of(found.window, answer.solved, catalogue, assumed)
        yield WindowFound(job, catalogue, wanted, found.window, answer, settings)

    return task

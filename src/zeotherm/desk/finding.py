"""What the entry line finds besides values: parts, facts, commands, manual pages, runs and jobs, by their words."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from functools import partial
from typing import TYPE_CHECKING

from PyQt6.QtCore import QObject
from PyQt6.QtGui import QKeySequence

from zeotherm.answers.executor import Rank
from zeotherm.core.judgement.standing import facts_here
from zeotherm.desk.bench import JobName
from zeotherm.desk.bridge import Asked
from zeotherm.desk.parts.whole.shown import cards_of
from zeotherm.shop.manual import pages
from zeotherm.wording.language import _

if TYPE_CHECKING:
    from zeotherm.desk.window import Window

MOST_OF_A_KIND = 3
LEAST = 2  # letters from which anything is looked for
MOST = 8


@dataclass(frozen=True, slots=True)
class FoundPlace:
    """Somewhere to go."""

    label: str
    aside: str  # what it is
    kind: str
    go: Callable[[], object]


class Finder(QObject):
    """Everywhere that a word may lead from a window."""

    def __init__(self, window: Window) -> None:
        super().__init__(window)
        self._window = window
        self._jobs: tuple[JobName, ...] = ()
        self._reader = Asked(window.bench.executor, Rank.LIST, self)
        self._reader.changed.connect(self._take)

    def _take(self, jobs: tuple[JobName, ...]) -> None:
        self._jobs = jobs

    def read_jobs(self) -> None:
        """Have the names of the workshop's jobs read, in the background."""
        if not self._reader.busy:
            self._reader.ask(lambda _cancelled: iter((self._window.bench.job_names(),)))

    def find(self, text: str) -> list[FoundPlace]:
        """Places that have all the words in their name, those first that begin with the first of them."""
        words = text.lower().split()
        if not words or len(text.strip()) < LEAST:
            return []
        hits = [one for one in self._places() if all(word in one.label.lower() for word in words)]
        hits.sort(key=lambda one: not one.label.lower().startswith(words[0]))
        counts: Counter[str] = Counter()
        kept = []
        for one in hits:
            counts[one.kind] += 1
            kept += [one] if counts[one.kind] <= MOST_OF_A_KIND else []
        return kept[:MOST]

    def _places(self) -> Iterator[FoundPlace]:
        """In the order of what is likely meant."""
        window, bench = self._window, self._window.bench
        explain, catalogue = window.explain, bench.catalogue

        def card(key: str) -> None:
            window.show_machine()
            explain.machine.open_card(key)

        for key, about in cards_of(bench.job.setup(), catalogue).items():
            yield FoundPlace(about.label, _("card"), "card", partial(card, key))
        for key, one in facts_here(bench.job.setup(), catalogue).items():
            yield FoundPlace(one.label, _("fact"), "fact", partial(window.show_fact, key))
        for run in bench.job.measured.runs.values():
            yield FoundPlace(run.label, _("run"), "run", window.show_measure)
        for job in self._jobs:
            told = _("job {number}").format(number=job.number)
            yield FoundPlace(job.machine, told, "job", partial(window.open_job, job.key))
        for action in window.actions():
            keys = action.shortcut().toString(QKeySequence.SequenceFormat.NativeText)
            told = _("command, {keys}").format(keys=keys) if keys else _("command")
            yield FoundPlace(action.text(), told, "command", action.trigger)
        for name, page in pages().items():
            yield FoundPlace(page.title, _("manual"), "manual", partial(window.show_page, name))

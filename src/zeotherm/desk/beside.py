"""The machine beside its hotend, asked for the report: whoever asked is told, even if asked again meanwhile."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any

from PyQt6.QtCore import QObject

from zeotherm.answers.beside import beside
from zeotherm.answers.executor import Rank
from zeotherm.answers.hotend import Found
from zeotherm.core.catalogue import Catalogue
from zeotherm.core.machine.documents import Job
from zeotherm.desk.bench import Bench
from zeotherm.desk.bridge import Asked
from zeotherm.shop.papers.other_parts import OtherPart, other_parts

Then = Callable[[Sequence[OtherPart]], None]


class AskedBeside(Asked):
    """Tells the other parts of a machine to whoever asked."""

    def __init__(self, bench: Bench, parent: QObject | None = None) -> None:
        super().__init__(bench.executor, Rank.ASKED, parent)
        self._store, self._bench, self._asked = bench.store, bench, 0
        self._waiting: dict[int, tuple[tuple[Job, Catalogue], Then]] = {}
        self.failed.connect(lambda _wrong: self._waiting.clear())

    def ask_for(self, found: Found, then: Then) -> None:
        """Tell `then` the other parts of what was found, in what they stand in late in its hours."""
        self._asked += 1
        self._waiting[self._asked] = ((found.job, self._bench.catalogue), then)
        self.ask(beside(self._store, {number: of for number, (of, _then) in self._waiting.items()}))

    def _tell(self, what: tuple[int, dict[str, Any]]) -> None:
        number, found = what
        (job, _catalogue), then = self._waiting.pop(number)
        then(other_parts(job, found))

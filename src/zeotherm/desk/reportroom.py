"""Solves what the report says of the machine beside its hotend; what was asked for is told, even if asked again."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QObject

from zeotherm.core.judgement.answer import Answer
from zeotherm.core.twin.whole.run import History
from zeotherm.desk.room import AnswerRoom, Kept, name_of
from zeotherm.desk.scheduler import Cancelled, Emit
from zeotherm.shop.other_parts import OtherPart, other_parts

Others = tuple[OtherPart, ...]
Then = Callable[[Others], None]


class ReportRoom(AnswerRoom):
    """Tells the other parts of a machine to whoever asked, at once where they are known."""

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._known: Kept[Others] = Kept()
        self._waiting: dict[str, tuple[Answer, History | None, list[Then]]] = {}
        self.changed.connect(self._tell)
        self.failed.connect(lambda _wrong: self._waiting.clear())

    def ask(self, answer: Answer, run: History | None, then: Then) -> None:
        """Tell `then` the other parts of an answer's machine, in what they stand in late in the run."""
        name = name_of(answer.setup, answer.catalogue, run)
        known = self._known.get(name)
        if known is not None:
            then(known)
            return
        self._waiting.setdefault(name, (answer, run, []))[2].append(then)
        wanted = [(one, of.setup, of.catalogue, its) for one, (of, its, _thens) in self._waiting.items()]

        def work(emit: Emit, cancelled: Cancelled) -> None:
            for one, setup, catalogue, its in wanted:
                if cancelled():
                    return
                emit((one, tuple(other_parts(setup, catalogue, its))))

        self.submit(work)

    def _tell(self, told: tuple[str, Others]) -> None:
        name, others = told
        self._known.keep(name, others)
        for then in self._waiting.pop(name, (None, None, []))[2]:
            then(others)

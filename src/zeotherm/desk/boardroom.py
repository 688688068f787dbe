"""The options board of the job on the bench: solved ahead while nobody looks, and told once somebody does."""

from __future__ import annotations

from dataclasses import dataclass

from PyQt6.QtCore import QObject

from zeotherm.answers.board import SolvedBoard, board
from zeotherm.answers.executor import Executor, Rank
from zeotherm.answers.processes import Processes
from zeotherm.answers.store import Store
from zeotherm.core.catalogue import Catalogue
from zeotherm.core.machine.documents import Job
from zeotherm.desk.bridge import Asked


@dataclass
class _AtHand:
    """The board that was begun last: what it hangs on, whether anybody has asked for it, and what is known of it."""

    of: tuple[object, ...]
    told: bool
    known: SolvedBoard | None = None


class AskedBoard(Asked):
    """Tells the board as it grows, as `SolvedBoard`."""

    def __init__(self, store: Store, processes: Processes, executor: Executor, parent: QObject | None = None) -> None:
        super().__init__(executor, Rank.BOARD, parent)
        self._store, self._processes = store, processes
        self._at_hand: _AtHand | None = None

    def show(self, job: Job, catalogue: Catalogue, hourly: float) -> None:
        """Solve the board of a job, or go on with it; hourly: what an hour of work costs."""
        at_hand = self._at_hand
        if at_hand is None or at_hand.of != _of(job, catalogue, hourly) or not self.busy:
            self._begin(job, catalogue, hourly, told=True)
            return
        at_hand.told = True
        self.busy_changed.emit(True)
        if at_hand.known is not None:
            self.changed.emit(at_hand.known)

    def prepare(self, job: Job, catalogue: Catalogue, hourly: float) -> None:
        """As `show`, ahead of being asked and without a word: what is solved is there when it is shown."""
        if self._at_hand is None or self._at_hand.of != _of(job, catalogue, hourly):
            self._begin(job, catalogue, hourly, told=False)

    def stand_back(self) -> None:
        """Leave the processes to somebody else; what was solved ahead stays."""
        if self._at_hand is not None and not self._at_hand.told:
            self._at_hand = None
            self.stop()

    def _begin(self, job: Job, catalogue: Catalogue, hourly: float, *, told: bool) -> None:
        self._at_hand = _AtHand(_of(job, catalogue, hourly), told)
        self.ask(board(self._store, self._processes, job, catalogue, hourly))

    def _tell(self, what: SolvedBoard) -> None:
        at_hand = self._at_hand
        if at_hand is not None:
            at_hand.known = what
            if at_hand.told:
                super()._tell(what)


def _of(job: Job, catalogue: Catalogue, hourly: float) -> tuple[object, ...]:
    """What a board hangs on."""
    return job.found, job.variants, job.chosen, job.tolerances, catalogue.digest, hourly

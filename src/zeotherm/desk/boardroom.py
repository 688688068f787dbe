"""Solves the options board of the job on the bench, column by column, then looks for the cheapest set."""

from __future__ import annotations

import logging
from dataclasses import dataclass

from PyQt6.QtCore import QObject

from zeotherm.core.catalogue import Catalogue
from zeotherm.core.catalogue.lookup import DoesNotFitError
from zeotherm.core.judgement.board import Column, judged_column, subjects
from zeotherm.core.judgement.course import Course
from zeotherm.core.machine.documents import Job
from zeotherm.core.machine.patches import ClashError
from zeotherm.core.solver.axisymmetric import NotConvergedError
from zeotherm.desk.boardview import Keys, SolvedBoard
from zeotherm.desk.room import AnswerRoom, name_of
from zeotherm.desk.scheduler import Cancelled, Emit
from zeotherm.shop.workers import BoardTask, Workers
from zeotherm.wording.language import _

log = logging.getLogger(__name__)
MOST_KEPT = 48


@dataclass
class _AtHand:
    """The board that was begun last: what it hangs on, whether anybody has asked for it, and what is known of it."""

    asked: tuple[object, ...]
    told: bool
    known: SolvedBoard | None = None


class BoardRoom(AnswerRoom):
    """Emits the board as it grows, as `SolvedBoard`; what was solved before is not solved again."""

    def __init__(self, workers: Workers, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._workers = workers
        self._at_hand: _AtHand | None = None
        self._columns: dict[str, Column] = {}
        self._cheapest: dict[str, Column | None] = {}

    def show(self, job: Job, catalogue: Catalogue, course: Course | None) -> None:
        """Solve the board of a job, or go on with it; course: its machine as found, where that was run already."""
        self.busy_changed.emit(True)
        at_hand = self._at_hand
        if at_hand is None or at_hand.asked != _asked(job, catalogue) or not self.busy:
            self._begin(job, catalogue, course, told=True)
            return
        at_hand.told = True
        if at_hand.known is not None:
            self.changed.emit(at_hand.known)

    def prepare(self, job: Job, catalogue: Catalogue, course: Course | None) -> None:
        """As `show`, ahead of being asked and without a word: what is solved is there when it is shown."""
        if self._at_hand is None or self._at_hand.asked != _asked(job, catalogue):
            self._begin(job, catalogue, course, told=False)

    def stand_back(self) -> None:
        """Leave the processes to somebody else; what was solved ahead stays."""
        if self._at_hand is not None and not self._at_hand.told:
            self._at_hand = None
            self.stop()

    def _begin(self, job: Job, catalogue: Catalogue, course: Course | None, *, told: bool) -> None:
        at_hand = self._at_hand = _AtHand(_asked(job, catalogue), told)

        def work(emit: Emit, cancelled: Cancelled) -> None:
            def hear(known: SolvedBoard) -> None:
                at_hand.known = known
                if at_hand.told:
                    emit(known)

            self._work(job, catalogue, course, hear, cancelled)

        self._scheduler.submit(work)

    def _work(self, job: Job, catalogue: Catalogue, course: Course | None, emit: Emit, cancelled: Cancelled) -> None:
        asked = BoardTask(job.found, job.variants, catalogue, job.tolerances)
        chosen = tuple(key for key in job.variants if key in job.chosen)
        wanted: list[Keys] = [(), *((key,) for key in job.variants)]
        wanted += [chosen] if len(chosen) > 1 else []
        judged_by = subjects(job.found, job.variants, catalogue)
        names = {keys: _name(job, catalogue, keys, judged_by) for keys in wanted}
        columns = {keys: self._columns[name] for keys, name in names.items() if name in self._columns}
        failed: dict[Keys, str] = {}

        def tell(cheapest: Column | None = None, searched: bool = False) -> None:
            emit(SolvedBoard(job, dict(columns), dict(failed), cheapest, searched))

        tell()
        if () not in columns and course is not None and course.setup == job.found:
            columns[()] = self._keep(names[()], judged_column(course, (), job.variants, cancelled))
            tell()
        missing = [keys for keys in wanted if keys not in columns]
        for keys, result in self._workers.columns(asked, missing, cancelled):
            if isinstance(result, Exception):
                failed[keys] = _trouble(result)
            else:
                columns[keys] = self._keep(names[keys], result)
            tell()
        base = columns.get(())
        if base is None or base.passes or not job.variants:
            tell(searched=True)
            return
        search = name_of(_name(job, catalogue, tuple(job.variants), judged_by), [names[(key,)] for key in job.variants])
        if search not in self._cheapest:
            self._cheapest[search] = self._workers.cheapest(asked, base, cancelled)
        tell(self._cheapest[search], searched=True)

    def _keep(self, name: str, column: Column) -> Column:
        self._columns[name] = column
        while len(self._columns) > MOST_KEPT:
            del self._columns[next(iter(self._columns))]
        return column


def _asked(job: Job, catalogue: Catalogue) -> tuple[object, ...]:
    """What a board hangs on."""
    return job.found, job.variants, job.chosen, job.tolerances, catalogue.digest


def _name(job: Job, catalogue: Catalogue, keys: Keys, judged_by: object) -> str:
    """What a column depends on; judged_by: what the whole board speaks of."""
    return name_of(job.found, [job.variants[key] for key in keys], keys, job.tolerances, catalogue, judged_by)


def _trouble(wrong: Exception) -> str:
    """Why a column is not there, in a few words."""
    if isinstance(wrong, ClashError | DoesNotFitError):
        return str(wrong)
    if isinstance(wrong, NotConvergedError):
        return _("No answer for these values.")
    log.error("a column failed", exc_info=wrong)
    return _("The model failed on this; the log says more.")

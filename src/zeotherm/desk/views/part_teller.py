"""What tells of a part of the machine in Explain: its room, what went wrong, and the moment that is wished for."""

from __future__ import annotations

import logging
from typing import TYPE_CHECKING, Any

from PyQt6.QtCore import QObject

from zeotherm.core.solver.plate import NotSettledError
from zeotherm.core.solver.stepping import TooSmallError
from zeotherm.core.twin.hotend.inputs import DoesNotFitError
from zeotherm.desk.bench import Bench
from zeotherm.desk.room import Room
from zeotherm.wording.language import _

if TYPE_CHECKING:
    from zeotherm.core.twin.whole.run import Run
    from zeotherm.desk.views.explain import ExplainView
    from zeotherm.desk.widgets.part_board import PartBoard

log = logging.getLogger(__name__)


class PartTeller(QObject):
    """Fills Explain with one part while its tab is on; part: its key; room: what solves it."""

    def __init__(self, bench: Bench, view: ExplainView, part: str, room: Room, board: PartBoard[Any]) -> None:
        super().__init__(view)
        self._bench, self._view, self._part, self._board = bench, view, part, board
        self._wish: float | None = None
        self._asked: object = None
        room.setParent(self)
        room.failed.connect(self._fail)
        room.busy_changed.connect(lambda busy: view.verdict.set_busy(busy) if view.part == part else None)

    def _run_at_hand(self) -> Run | None:
        """The machine's run of the job on the bench, where it is known; remembers what was asked with it."""
        found, job = self._bench.found, self._bench.job
        run = found.course.run if found is not None and found.course is not None and found.job == job else None
        self._asked = (id(found.course) if found is not None and run is not None else None, job)
        return run

    def _fail(self, wrong: Exception) -> None:
        if isinstance(wrong, DoesNotFitError):
            text = str(wrong)
        elif isinstance(wrong, NotSettledError | TooSmallError):
            text = _("No answer for these values; the last good one is shown.")
        else:
            log.error("a part failed", exc_info=wrong)
            text = _("The model failed on these values; the log says more. The last good answer is shown.")
        if self._view.part == self._part:
            self._view.verdict.show_trouble(text)
            self._board.set_stale()

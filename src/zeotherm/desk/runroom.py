"""Where runs are lined up and compared in the background."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from zeotherm.core.catalogue import Catalogue
from zeotherm.core.machine.documents import Job
from zeotherm.core.runs.assembly import Assembled, assembled
from zeotherm.core.runs.series import Series
from zeotherm.desk.room import AnswerRoom
from zeotherm.desk.scheduler import Cancelled, Emit


@dataclass(frozen=True)
class HeldRuns:
    """A job's runs held against each other; nothing to compare where there are none."""

    job: Job
    catalogue: Catalogue
    found: Assembled | None


class RunRoom(AnswerRoom):
    """Emits the comparison of a job's runs, as `HeldRuns`."""

    def show(self, job: Job, catalogue: Catalogue, load: Callable[[], dict[str, Series]], at: float | None) -> None:
        """Compare a job's runs. load: gives all rows of them; at: when levels are taken [s], None: at their end."""

        def work(emit: Emit, _cancelled: Cancelled) -> None:
            emit(HeldRuns(job, catalogue, assembled(job.measured, load(), catalogue, at)))

        self.submit(work)

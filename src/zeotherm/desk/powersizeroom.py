"""Sizes the power path of the job on the bench, in the background."""

from __future__ import annotations

from dataclasses import dataclass

from zeotherm.core.catalogue import Catalogue
from zeotherm.core.judgement.power.answer import PowerAnswer, first_power, late_air, worst_duty
from zeotherm.core.judgement.power.sizing import PowerSizes, size_power
from zeotherm.core.machine.documents import Job
from zeotherm.core.twin.whole.run import History
from zeotherm.desk.room import AnswerRoom
from zeotherm.desk.scheduler import Cancelled, Emit, rest


@dataclass(frozen=True)
class PowerSizeFound:
    """A power path and its sizes."""

    job: Job
    catalogue: Catalogue
    answer: PowerAnswer
    sizes: PowerSizes | None = None

    @property
    def done(self) -> bool:
        """Whether everything is sized."""
        return self.sizes is not None


class PowerSizeRoom(AnswerRoom):
    """Emits `PowerSizeFound`."""

    def show(self, job: Job, catalogue: Catalogue, run: History | None) -> None:
        """Size the power path of a job; run: its machine's, where that is known."""
        self.submit(lambda emit, cancelled: self._work(job, catalogue, run, emit, cancelled))

    def _work(self, job: Job, catalogue: Catalogue, run: History | None, emit: Emit, cancelled: Cancelled) -> None:
        setup = job.setup()
        answer = first_power(setup, catalogue, job.tolerances, air=late_air(setup, catalogue, run),
                             duty=worst_duty(run))  # fmt: skip
        emit(PowerSizeFound(job, catalogue, answer))
        rest(cancelled)
        emit(PowerSizeFound(job, catalogue, answer, size_power(answer)))

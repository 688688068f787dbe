"""Waits of a job, at the pace that its machine was seen to keep in its own runs."""

from __future__ import annotations

from collections.abc import Callable

from zeotherm.core.catalogue import Catalogue
from zeotherm.core.judgement.procedures.waits import CoolingCurve, cooling
from zeotherm.core.machine.documents import Job
from zeotherm.core.runs.own_pace import seen_rate
from zeotherm.shop.series_files import as_series


def own_pace(curve: CoolingCurve, job: Job) -> tuple[float, float] | None:
    """How fast the block warmed or cooled in the job's runs, over the model's rate; as for `seen_rate`."""
    return seen_rate(curve, [as_series(run) for run in job.measured.logged().values()])


def block_cooling(
    job: Job, catalogue: Catalogue, start_c: float, *, fan: bool, cancelled: Callable[[], bool] = lambda: False
) -> tuple[CoolingCurve, bool]:
    """The block after the heat is off, and whether it goes by the machine's own runs.

    Runs tell while the sink fan runs, as it does in them. Arguments and errors as for `waits.cooling`.
    """
    curve = cooling(job.found, catalogue, start_c, fan=fan, cancelled=cancelled)
    seen = own_pace(curve, job) if fan else None
    return (curve, False) if seen is None else (curve.known(*seen), True)

"""What a repair has to show before it is over, and what is expected where something is read."""

from __future__ import annotations

import math
from dataclasses import dataclass

from zeotherm.core.catalogue.procedures import Procedure
from zeotherm.core.catalogue.shelves import Catalogue, HotendShape
from zeotherm.core.guard.fitted import assumed_of
from zeotherm.core.machine.documents import Job
from zeotherm.core.machine.patches import Patch, is_part, sets
from zeotherm.core.work.planning import fits, refusal

PAST = 1.5  # of the old time to failure
LEAST_MIN = 60.0
STOPPED = "stopped"  # the outcome of a run, in minutes
PRELOAD_MORE_MM = 0.05  # over what the metal outgrows the liner by


@dataclass(frozen=True, slots=True)
class Proof:
    """How long a proof run must go on [min], and what that comes from."""

    minutes: float
    failed_after: float | None
    source: str  # told, run, model, print


def proof(job: Job, model_failure_min: float | None = None) -> Proof:
    """The length of a proof run: half as long again as it took to fail, an hour at least.

    The old time to failure is what was told with the order, else the longest of the runs that stopped, else the
    model's; where none is known, a whole print. model_failure_min: of the machine as found, from the first line.
    """
    stopped = [run.conditions[STOPPED] for run in job.measured.runs.values() if STOPPED in run.conditions]
    runs = [float(one) for one in stopped if isinstance(one, int | float)]
    told = job.doing.failed_after_min
    ways = (("told", told), ("run", max(runs, default=None)), ("model", model_failure_min))
    for source, minutes in ways:
        if minutes is not None and math.isfinite(minutes):
            return Proof(max(PAST * minutes, LEAST_MIN), minutes, source)
    return Proof(max(job.found.schedule.print_min, LEAST_MIN), None, "print")


def _carries(work: Procedure, key: str, change: Patch, catalogue: Catalogue) -> bool:
    """Whether an option is a procedure's work: by its name, by a remedy that is part of it, or by what it sets."""
    if key in work.does:
        return True
    if _sets_any(change, work.unless):
        return False
    return _sets_any(change, work.changes) or any(is_part(catalogue.remedies[one].change, change) for one in work.does)


def suggested(job: Job, catalogue: Catalogue) -> list[str]:
    """Procedures that carry the taken options out; where none is taken, those that mend the decided cause."""
    changes = [key for key in job.chosen if key in job.variants]
    carried = {
        name: [key for key in changes if _carries(work, key, job.variants[key].change, catalogue)]
        for name, work in catalogue.procedures.items()
    }
    found = [name for name, keys in carried.items() if keys]
    done = {key for keys in carried.values() for key in keys}
    if any(key not in done for key in changes):
        found.append("own_change")
    if not changes and job.intake.decided:
        found = [name for name, work in catalogue.procedures.items() if job.intake.decided in work.mends]
    return in_order([name for name in found if fits(catalogue.procedures[name], job.found, catalogue)], catalogue)


def _sets_any(change: Patch, paths: tuple[str, ...]) -> bool:
    """Whether a change sets one of these paths."""
    return any(sets(change, path) for path in paths)


def in_order(names: list[str], catalogue: Catalogue) -> list[str]:
    """Procedures in the order they are done: the least work first."""
    known = [name for name in dict.fromkeys(names) if name in catalogue.procedures]
    return sorted(known, key=lambda name: catalogue.procedures[name].rank)


def offered(job: Job, catalogue: Catalogue) -> dict[str, str]:
    """Every procedure that makes sense for the machine, in order, with why it is refused; nothing where it is not."""
    names = in_order(list(catalogue.procedures), catalogue)
    return {
        name: refusal(catalogue.procedures[name], job.doing, job.found, catalogue, job.planned(), assumed_of(job))
        for name in names
        if fits(catalogue.procedures[name], job.found, catalogue)
    }


def needed_preload(seat_mm: float, preload_mm: float, short_mm: float, gap_mm: float) -> float:
    """Preload that a liner needs so that it does not lift off when hot [mm].

    seat_mm: what the model says is left of the compression at temperature; with the end cut anew and the nozzle set,
    `short` and `gap` are gone. What the metal outgrows the liner by is preload - short - gap - seat.
    """
    return max(preload_mm - short_mm - gap_mm - seat_mm, 0.0) + PRELOAD_MORE_MM


def temperature_window(
    nozzle_c: float, exit_core_c: float, melt_floor_c: float, bore_c: float, feed_room_k: float, air_c: float
) -> tuple[float, float]:
    """Nozzle temperatures between which plastic leaves evenly and the cold end feeds [°C]; (low, high).

    From one solved state by proportion: the exit's core follows the nozzle kelvin for kelvin, the bore's excess over
    the fan's air follows the nozzle's; the bore may be as much warmer as the feed's room of the air [K] makes it. An
    estimate, good near the state it was taken from; low above high: none does both. All else [°C].

    >>> [round(one, 1) for one in temperature_window(200.0, 198.0, 140.0, 60.0, 10.0, 30.0)]
    [142.0, 246.7]
    """
    low = nozzle_c - (exit_core_c - melt_floor_c)
    over, bore = nozzle_c - air_c, bore_c - air_c
    if bore <= 0.0:
        return low, math.inf
    allowed = bore + feed_room_k * (nozzle_c - bore_c) / over
    return low, air_c + over * allowed / bore


LINE_MM2 = 0.5 * 0.2  # of a prime line's section: usual width and height
GEAR_OVER_SINK_MM = 12.0  # of a direct drive's gear over the sink's top: estimate, 10 to 30, its lower edge
HELD_MM = 5.0  # of the strand that the gear needs below its middle to take it again


def prime_line(drawn_mm: float, strand_mm: float) -> float:
    """Length of prime line that a strand drawn back fills again [mm]: the same volume, π d²/4 over the line's section.

    >>> round(prime_line(19.0, 1.75))
    457
    """
    return drawn_mm * math.pi / 4.0 * strand_mm**2 / LINE_MM2


def most_drawn(shape: HotendShape, drive: str) -> float:
    """How far the strand may be drawn back from the tip before its end leaves a direct drive's gear [mm]; of a drive
    that feeds through a tube: infinite. An estimate, at its lower edge."""
    if drive != "direct":
        return math.inf
    return height(shape) + GEAR_OVER_SINK_MM - HELD_MM


def height(shape: HotendShape) -> float:
    """From the nozzle's tip to the sink's top [mm]."""
    return shape.cone + shape.hex + shape.nozzle_thread + shape.neck + max(shape.sink_thread, shape.sink.height)


def liner_gap(diameter_mm: float, angle_deg: float) -> float:
    """Gap that a slanted end leaves on a flat seat [mm]: d tan θ, by geometry.

    >>> round(liner_gap(4.0, 1.0), 3)
    0.07
    """
    return diameter_mm * math.tan(math.radians(angle_deg))

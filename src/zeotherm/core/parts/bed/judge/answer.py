"""What the model says of a bed: at rest at once, then its course from cold, then how sure and what would help."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field, replace

import numpy as np

from zeotherm.core.catalogue.entry import Figure
from zeotherm.core.catalogue.shelves import Catalogue, Limit
from zeotherm.core.judgement.bands import Doubted
from zeotherm.core.judgement.findings import Strength
from zeotherm.core.judgement.limits import Held
from zeotherm.core.judgement.margins import Margin, Ordered, margins_with
from zeotherm.core.machine.documents import Setup
from zeotherm.core.parts.bed.model.controlled import Controlled, controlled, controller_of
from zeotherm.core.parts.bed.model.in_time import BedRun, run_bed
from zeotherm.core.parts.bed.model.inputs import BedAir, BedInputs, ResolvedBed, resolve_bed
from zeotherm.core.parts.bed.model.model import CELLS, FEW, SETTLED, BedModel, SolvedBed, solve_bed
from zeotherm.core.parts.bed.model.readout import LAYERS, BedCourse, BedReadout, course_of, read_bed
from zeotherm.core.parts.whole.network import AIR, BODIES, WALL
from zeotherm.core.parts.whole.run import History
from zeotherm.core.physics.ventilation import daily_course

MINUTE = 60.0
COOL_S = 3600.0  # of the cool-down that is followed
Airs = Callable[[float], BedAir]


@dataclass(frozen=True)
class BedAnswer(Ordered):
    """What the model says of a setup's bed."""

    setup: Setup
    catalogue: Catalogue
    resolved: ResolvedBed
    solved: SolvedBed  # held at its set value, late in the print
    readout: BedReadout
    limits: list[Held]
    margins: list[Margin]
    run: BedRun | None = None  # from cold; None until it is run
    course: BedCourse | None = None
    controlled: Controlled | None = None  # under its controller as it is; None: held without fault, or not run yet
    bands: Doubted | None = None
    strengths: list[Strength] = field(default_factory=list)

    @property
    def facts(self) -> set[str]:
        """What cautions look for."""
        hot = self.margin("bed_insulation")
        found = {
            "bed": True,
            "bed_insulated": self.resolved.inputs.insulated,
            "bed_insulation_hot": hot is not None and hot.state.bad,
            "bed_mains": self.resolved.inputs.shape.supply == "mains",
        }
        return {name for name, true in found.items() if true}

    @property
    def values(self) -> dict[str, float]:
        """Stations late in the print, by key."""
        return self.readout.values

    @property
    def complete(self) -> bool:
        """Whether bands and strengths are there."""
        return self.bands is not None


def heated(setup: Setup, catalogue: Catalogue) -> bool:
    """Whether there is a bed to speak of: a heater, and a set value above zero."""
    kind = catalogue.beds.get(setup.bed.part)
    return kind is not None and kind.heater.power_w > 0.0 and setup.bed.target_c > 0.0 and setup.bed.heater_w > 0.0


def airs_of(run: History) -> Airs:
    """What the bed stands in along a run of the whole machine: its case's air and walls, or its room where the air is
    stated."""
    if run.around.around.stated is not None:
        return room_air(run.setup)
    bodies = run.values[:, -len(BODIES) :]
    air, wall, times = bodies[:, AIR].copy(), bodies[:, WALL].copy(), run.times

    def at(time: float) -> BedAir:
        above = float(np.interp(time, times, air))
        return BedAir(above, above, float(np.interp(time, times, wall)))

    return at


def room_air(setup: Setup) -> Airs:
    """What an open bed stands in: its room over the day."""
    room, start = setup.room, setup.schedule.start_h

    def at(time: float) -> BedAir:
        now = float(daily_course(start + time / 3600.0, room.mean_c, room.swing_k, room.warmest_h))
        return BedAir(now, now, now)

    return at


def held_bed(resolved: ResolvedBed, catalogue: Catalogue, available: float) -> list[Held]:
    """The limits of a bed, with their values; available: watts that its heater can give."""
    given = resolved.inputs
    services: dict[str, Figure] = {
        f"layer.{slab.name}": slab.service for slab in given.slabs if slab.service is not None and slab.name in LAYERS
    }
    if given.insulated:
        services["insulation"] = given.insulation_service
    own = {"aim": given.aim, "wanted": given.wanted / MINUTE, "available": available}
    found = []
    for key, limit in catalogue.limits.items():
        if limit.part != "bed" or (key == "bed_clearance" and not given.insulated):
            continue
        if not limit.figure:
            found.append(Held(key, limit, limit.source, ""))
        elif limit.figure in own:
            found.append(_at(key, limit, own[limit.figure] + limit.offset, limit.tolerance, limit.source))
        elif limit.figure in services:
            service = services[limit.figure]
            found.append(_at(key, limit, service.value, service.tolerance, service.source))
    return found


def _at(key: str, limit: Limit, value: float, tolerance: float, source: str) -> Held:
    return Held(key, limit.model_copy(update={"value": value, "tolerance": tolerance}), source, "")


def first_bed(
    setup: Setup,
    catalogue: Catalogue,
    tolerances: dict[str, float] | None = None,
    *,
    airs: Airs | None = None,
    last: BedAnswer | None = None,
    cells: int = CELLS,
    settled: float = SETTLED,
) -> BedAnswer:
    """The bed held at its set value at the end of its print, without its course.

    airs: what it stands in over the job, else its room; settled: of its sensor [K]. Raises DoesNotFitError
    and NotSettledError.
    """
    resolved = resolve_bed(setup, catalogue, tolerances)
    late = (setup.schedule.soak_min + setup.schedule.print_min) * MINUTE
    air = (airs or room_air(setup))(late)
    start = last.solved if last is not None else None
    solved = solve_bed(BedModel(resolved.inputs, air, cells), start, settled=settled)
    return _judged(setup, catalogue, resolved, solved)


def _judged(setup: Setup, catalogue: Catalogue, resolved: ResolvedBed, solved: SolvedBed) -> BedAnswer:
    readout = read_bed(solved)
    if resolved.inputs.insulated:
        readout.values["bed_clearance"] = 1e3 * spare_room(resolved.inputs)
    limits = held_bed(resolved, catalogue, solved.available)
    found = margins_with(limits, readout.values, None)
    return BedAnswer(setup, catalogue, resolved, solved, readout, limits, found)


def spare_room(given: BedInputs) -> float:
    """Room left under the insulation at the bed's lowest place [m]: clearance, less thickness, less sag."""
    return given.clearance - given.insulation - given.sag


def with_course(
    answer: BedAnswer, airs: Airs | None = None, cancelled: Callable[[], bool] = lambda: False
) -> BedAnswer:
    """The answer with the bed's course from cold: warm-up, print, cool-down. Raises CancelledError."""
    plan = answer.setup.schedule
    given = airs or room_air(answer.setup)
    model = replace(answer.solved.model, air=given(0.0))
    run = run_bed(model, (plan.soak_min + plan.print_min) * MINUTE, COOL_S, airs=given, cancelled=cancelled)
    course = course_of(run)
    values = dict(answer.readout.values)
    if course.ready is not None:
        values["bed_ready"] = course.ready / MINUTE
    readout = replace(answer.readout, values=values)
    return replace(
        answer, run=run, course=course, readout=readout, margins=margins_with(answer.limits, values, answer.bands)
    )


def small(answer: BedAnswer, airs: Airs | None = None) -> BedModel:
    """The bed as it starts, on a grid for courses of many steps."""
    return BedModel(answer.resolved.inputs, (airs or room_air(answer.setup))(0.0), FEW)


def with_control(answer: BedAnswer, airs: Airs | None = None) -> BedAnswer:
    """The answer with the bed's course under its controller, in the air of its start, where that has faults."""
    given = controller_of(answer.setup, answer.catalogue)
    return answer if given is None else replace(answer, controlled=controlled(small(answer, airs), given))


def moment(answer: BedAnswer, time: float) -> BedReadout:
    """The bed at another time of its course [s]; raises ValueError where it has none."""
    if answer.run is None:
        raise ValueError("the bed's course is not known yet")
    return read_bed(answer.run.moment(time))

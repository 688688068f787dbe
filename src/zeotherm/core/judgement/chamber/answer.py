"""What the model says of an enclosure: late in a print at once, then its course, then how sure."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass, field, replace

import numpy as np

from zeotherm.core.catalogue.shelves import Catalogue, Figure
from zeotherm.core.judgement.bands import Doubted
from zeotherm.core.judgement.bed.answer import MINUTE
from zeotherm.core.judgement.findings import Strength
from zeotherm.core.judgement.limits import Held
from zeotherm.core.judgement.margins import Margin, Ordered, margins_with
from zeotherm.core.machine.documents import Setup
from zeotherm.core.machine.patches import value_at
from zeotherm.core.twin.bed.equivalent import BedBody, bed_body
from zeotherm.core.twin.bed.inputs import resolve_bed
from zeotherm.core.twin.chamber.inputs import ResolvedChamber, resolve_chamber
from zeotherm.core.twin.chamber.model import Around, ChamberModel
from zeotherm.core.twin.chamber.solved import Arounds, ChamberRun, SolvedChamber, run_chamber, solve_chamber
from zeotherm.core.twin.hotend.inputs import take
from zeotherm.core.twin.whole.around import HOTEND_SHARE
from zeotherm.core.twin.whole.network import BED, BODIES
from zeotherm.core.twin.whole.run import Run

SAFE_TO_OPEN_K = 15.0  # above the room, from which opening neither warps a print nor burns
LOSS_SHARE = 0.12  # of what a supply passes on that it gives off itself: estimate, 0.08 to 0.18
BOARD_W = 8.0  # of a controller board at work: estimate, 4 to 15
Cancelled = Callable[[], bool]


@dataclass(frozen=True)
class ChamberAnswer(Ordered):
    """What the model says of a setup's enclosure."""

    setup: Setup
    catalogue: Catalogue
    resolved: ResolvedChamber
    solved: SolvedChamber  # at rest, as late in a print
    values: dict[str, float]  # by station
    limits: list[Held]
    margins: list[Margin]
    run: ChamberRun | None = None
    off: float = 0.0  # when everything is switched off [s]
    bands: Doubted | None = None
    strengths: list[Strength] = field(default_factory=list)

    @property
    def facts(self) -> set[str]:
        """What cautions look for."""
        given = self.resolved.inputs
        found = {"case": True, "case_heater": given.heater > 0.0, "case_recirculates": given.recirculation > 0.0}
        return {name for name, true in found.items() if true}

    @property
    def complete(self) -> bool:
        """Whether bands and strengths are there."""
        return self.bands is not None

    @property
    def settles_in(self) -> float:
        """After which time it has come within 1/e of where it comes to [s], starting as warm as its room."""
        return time_constant(self.solved.model, self.solved.around)

    @property
    def safe_to_open(self) -> float | None:
        """From switching off until its air is near its room's [s]; None where that is beyond the course."""
        if self.run is None:
            return None
        for time in np.linspace(self.off, float(self.run.times[-1]), 120):
            now = self.run.moment(float(time))
            if max(now.low, now.high) < now.around.room + SAFE_TO_OPEN_K:
                return float(time) - self.off
        return None


def encloses(setup: Setup, catalogue: Catalogue) -> bool:
    """Whether there is an enclosure to speak of."""
    kind = catalogue.cases.get(setup.case.part)
    return kind is not None and kind.walls is not None


def around_of(setup: Setup, catalogue: Catalogue, run: Run | None = None) -> Arounds:
    """What an enclosure holds over its job: the bed and the hotend's watts as the machine's run has them, else as they
    are late in a print."""
    bed = bed_body(resolve_bed(setup, catalogue).inputs)
    room = setup.room.mean_c
    if run is None or run.around.around.stated is not None:
        watts = HOTEND_SHARE * setup.hotend.heater_power_w
        hold = max(setup.bed.target_c - bed.reads_by * 0.5 * bed.power, room) if bed.power > 0.0 else room
        steady = _around(setup, bed, room, hold, watts, 0.0)
        return lambda _time: steady
    plates, times = run.values[:, -len(BODIES) + BED].copy(), run.times
    heaters = np.array([mark.heater for mark in run.marks])
    around = run.around.around

    def at(time: float) -> Around:
        plate = float(np.interp(time, times, plates))
        heater = float(np.interp(time, times, heaters))
        sun, air = around.extra(run.clock(time))
        made = _around(setup, bed, around.room(run.clock(time)), plate, heater, sun, on=time < run.off)
        return replace(made, low=made.low + air)

    return at


def _around(
    setup: Setup, bed: BedBody, room: float, plate: float, hotend: float, sun: float, *, on: bool = True
) -> Around:
    """The hotend's heat where the print is; motors, and what electronics inside give off, at their height."""
    bed_watts = (bed.to_air + bed.to_wall) * max(plate - room, 0.0)
    gives = {"supply_at": LOSS_SHARE * (bed_watts + hotend), "board_at": BOARD_W}
    low, high = hotend, (setup.carriage.motor_w + setup.carriage.board_w) * on
    for name, watts in gives.items():
        if on and getattr(setup.case, name) == "inside_low":
            low += watts
        elif on and getattr(setup.case, name) == "inside_high":
            high += watts
    return Around(room, plate, bed.up_air, bed.down_air, bed.up_wall, bed.down_wall, bed.size, low, high, sun)


def held_case(setup: Setup, catalogue: Catalogue, resolved: ResolvedChamber) -> list[Held]:
    """The limits of an enclosure and of what sits in it, with their values."""
    spool, printed = (take(catalogue, "filaments", name, path).softening_c
                      for name, path in ((setup.printing.filament, "printing.filament"),
                                         (setup.case.printed_plastic, "case.printed_plastic")))  # fmt: skip
    shape = catalogue.cases[setup.case.part]
    lining = catalogue.linings[setup.case.lining].layer
    layers = [lining] if lining is not None else []
    layers += [catalogue.panels[name].layers[0] for name in (shape.walls, shape.window) if name is not None]
    services = [one.service_c for one in (catalogue.materials[layer.material] for layer in layers) if one.service_c]
    figures: dict[str, Figure] = {"spool": spool, "printed": printed}
    if services:
        figures["wall"] = min(services, key=lambda one: one.value)
    found = []
    for key, limit in catalogue.limits.items():
        if limit.part != "case":
            continue
        if limit.figure == "wanted":
            if resolved.inputs.target > 0.0:
                wanted = {"value": resolved.inputs.target, "source": "what the case is wanted at"}
                found.append(Held(key, limit.model_copy(update=wanted), "what the case is wanted at", ""))
        elif limit.figure in figures:
            figure = figures[limit.figure]
            told = {"value": figure.value + limit.offset, "tolerance": figure.tolerance}
            found.append(Held(key, limit.model_copy(update=told), figure.source, ""))
        elif not limit.figure:
            found.append(Held(key, limit, limit.source, ""))
    return found


def stations(setup: Setup, catalogue: Catalogue, solved: SolvedChamber) -> dict[str, float]:
    """Every place of an enclosure [°C]: its air, its sensor, its warmest wall inside, and what sits in it."""
    low, high, room = solved.low, solved.high, solved.around.room
    walls = [solved.face(wall.name) for wall in solved.model.inputs.walls]
    found = {"case_low": low, "case_high": high, "case_sensor": solved.reading, "case_face": max(walls)}
    for one in catalogue.occupants.values():
        inside, up = 1.0, one.high
        if one.at:
            place = take(catalogue, "places", str(value_at(setup, one.at)), one.at)
            inside, up = place.inside, place.high
        air = low + up * (high - low)
        found[one.station] = room + inside * (air - room) + one.rise_k.value
    return found


def first_case(
    setup: Setup,
    catalogue: Catalogue,
    tolerances: dict[str, float] | None = None,
    *,
    arounds: Arounds | None = None,
) -> ChamberAnswer:
    """An enclosure at rest in what it holds late in a print; arounds: over the job, else without a run.

    Raises DoesNotFitError, NotSettledError, and ValueError where nothing encloses.
    """
    resolved = resolve_chamber(setup, catalogue, tolerances)
    if resolved.inputs.stands_open:
        raise ValueError("nothing encloses this machine")
    given = arounds or around_of(setup, catalogue)
    plan = setup.schedule
    late = (plan.soak_min + plan.print_min) * MINUTE
    solved = solve_chamber(ChamberModel(resolved.inputs), given(late))
    values = stations(setup, catalogue, solved)
    limits = held_case(setup, catalogue, resolved)
    return ChamberAnswer(setup, catalogue, resolved, solved, values, limits, margins_with(limits, values, None))


def with_case_course(
    answer: ChamberAnswer, arounds: Arounds, until: float, off: float, cancelled: Cancelled = lambda: False
) -> ChamberAnswer:
    """The answer with the enclosure's course: from its room until so long [s], switched off at off [s]."""
    run = run_chamber(answer.solved.model, arounds, until, off=off, cancelled=cancelled)
    return replace(answer, run=run, off=off)


def time_constant(model: ChamberModel, around: Around) -> float:
    """The slowest time constant of an enclosure about where it comes to [s], its laws frozen there: of the wall's heat
    and the air's, without a control.

    Largest -1/λ of C dT/dt = M T with the nodes that hold no heat taken out.
    """
    free = replace(model, inputs=replace(model.inputs, target=0.0))
    at = solve_chamber(free, around)
    matrix, heat = at.laws.matrix, model.heat
    holds = heat > 0.0
    inner = matrix[np.ix_(~holds, ~holds)]
    reduced = matrix[np.ix_(holds, holds)] - matrix[np.ix_(holds, ~holds)] @ np.linalg.solve(
        inner, matrix[np.ix_(~holds, holds)]
    )
    rates = np.linalg.eigvals(reduced / heat[holds][:, None]).real
    slow = float(rates.max())
    return -1.0 / slow if slow < 0.0 else math.inf

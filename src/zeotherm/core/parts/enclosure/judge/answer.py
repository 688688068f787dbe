"""What the model says of an enclosure: late in a print at once, then its course, then how sure."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass, field, replace

import numpy as np
import numpy.typing as npt

from zeotherm.core.catalogue.enclosures import OWN, Occupant
from zeotherm.core.catalogue.entry import Figure
from zeotherm.core.catalogue.lookup import take
from zeotherm.core.catalogue.shelves import Catalogue
from zeotherm.core.judgement.bands import Doubted
from zeotherm.core.judgement.findings import Strength
from zeotherm.core.judgement.limits import Held
from zeotherm.core.judgement.margins import Margin, Ordered, margins_with
from zeotherm.core.machine.documents import Setup, patched
from zeotherm.core.machine.further import COLLECTIONS, further_of
from zeotherm.core.machine.patches import value_at
from zeotherm.core.machine.surroundings import PRINTED_PARTS
from zeotherm.core.machine.toolheads import station_of
from zeotherm.core.parts.bed.judge.answer import MINUTE
from zeotherm.core.parts.bed.model.equivalent import bed_body
from zeotherm.core.parts.bed.model.inputs import resolve_bed
from zeotherm.core.parts.enclosure.model.inputs import PANEL_OF, ResolvedChamber, resolve_chamber
from zeotherm.core.parts.enclosure.model.model import ChamberModel, EnclosureAround
from zeotherm.core.parts.enclosure.model.solved import Arounds, ChamberRun, SolvedChamber, run_chamber, solve_chamber
from zeotherm.core.parts.whole.around import (
    ELECTRONICS_DOUBT,
    electronics,
    held_in,
    late_in_print,
    occupants_of,
    own_watts,
)
from zeotherm.core.parts.whole.network import AIR, BED, BODIES, CARRIAGE
from zeotherm.core.parts.whole.run import History
from zeotherm.core.parts.whole.standby import standby
from zeotherm.core.physics.air import air as air_at

BAY_WALLS = 0.6  # W/K between a case and a bay: estimate, 0.3 to 1.2
BAY_VENTS_M3H = 8.0  # by a bay's vents alone: estimate, 4 to 15
BAY_C = 35.0  # at which the heat of its air is taken
WITHIN_K = 0.5  # below what is wanted that counts as reached
SAFE_TO_OPEN_K = 15.0  # above the room, from which opening neither warps a print nor burns
Cancelled = Callable[[], bool]
Array = npt.NDArray[np.float64]


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
        found = {"case": True, "case_heater": given.heats, "case_recirculates": given.recirculation > 0.0,
                 "case_blown": given.intake > given.exhaust}  # fmt: skip
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


def around_of(
    setup: Setup, catalogue: Catalogue, run: History | None = None, logged: tuple[Array, Array] | None = None
) -> Arounds:
    """What an enclosure holds over its job: the bed and the hotend's watts as the machine's run has them, else as they
    are late in a print.

    logged: seconds, and what the bed's sensor read then [°C]; its plate is then below that by what the run has between
    the two, instead of the run's own plate.
    """
    bed = bed_body(resolve_bed(setup, catalogue).inputs)
    if run is None or run.around.around.stated is not None:
        steady = late_in_print(setup, bed, catalogue)
        return lambda _time: steady
    plates, times = run.values[:, -len(BODIES) + BED].copy(), run.times
    over = run.series["bed"] - plates if logged is not None else np.zeros(0)
    heaters = np.array([mark.heater for mark in run.marks])
    around, own = run.around.around, electronics(setup, bed, catalogue)
    others = standby(setup, catalogue)

    def at(time: float) -> EnclosureAround:
        plate, heater = float(np.interp(time, times, plates)), float(np.interp(time, times, heaters))
        if logged is not None and time <= float(logged[0][-1]):
            plate = float(np.interp(time, *logged)) - float(np.interp(time, times, over))
        clock = run.clock(time)
        if time < run.off:
            bodies = run.bodies(time)
            heater += others.watts(float(bodies[AIR]), float(bodies[CARRIAGE]))
        return held_in(setup, bed, own, around.room(clock), plate, heater, around.extra(clock), on=time < run.off)

    return at


def held_case(setup: Setup, catalogue: Catalogue, resolved: ResolvedChamber, wanted: float | None = None) -> list[Held]:
    """The limits of an enclosure and of what sits in it, with their values; wanted: at the print [°C], else what its
    control is set to."""
    aim = wanted if wanted is not None else resolved.inputs.target
    spool, printed = (take(catalogue, "filaments", name, path).softening_c
                      for name, path in ((setup.printing.filament, "printing.filament"),
                                         (setup.case.printed_plastic, "case.printed_plastic")))  # fmt: skip
    shape = catalogue.cases[setup.case.part]
    lining = catalogue.linings[setup.case.lining].layer
    layers = [lining] if lining is not None else []
    chosen = {str(getattr(setup.case, f"{side}_panel")) for side in PANEL_OF.values()}
    names = {shape.walls if name == OWN else name for name in chosen} | {shape.window}
    layers += [catalogue.panels[name].layers[0] for name in sorted(one for one in names if one is not None)]
    services = [one.service_c for one in (catalogue.materials[layer.material] for layer in layers) if one.service_c]
    figures: dict[str, Figure] = {"spool": spool, "printed": printed}
    for key, one in setup.printed.items():
        path = f"{PRINTED_PARTS}.{key}.plastic"
        figures[station_of(key, "printed")] = take(catalogue, "filaments", one.plastic, path).softening_c
    there = {number for kind in COLLECTIONS for number in further_of(setup, kind)}
    if services:
        figures["wall"] = min(services, key=lambda one: one.value)
    found = []
    for key, limit in catalogue.limits.items():
        number = limit.station.rpartition(".")[0]
        if limit.part != "case" or (number and number not in there):
            continue
        if limit.figure == "wanted":
            if aim > 0.0:
                asked = {"value": aim - WITHIN_K, "source": "what the case is wanted at"}
                found.append(Held(key, limit.model_copy(update=asked), "what the case is wanted at", ""))
        elif (name := station_of(number, limit.figure) if number else limit.figure) in figures:
            figure = figures[name]
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
    return found | {
        name: air + rise
        for name, (air, rise) in occupants(setup, catalogue, low, high, room, solved.model.inputs.pressure).items()
    }


def occupants(
    setup: Setup, catalogue: Catalogue, low: float, high: float, room: float, pressure: float
) -> dict[str, tuple[float, float]]:
    """What sits in or about an enclosure, by station: the air about it [°C], and by how much it stands above that [K].

    low, high: the case's air, of an open machine its room's [°C]; pressure [Pa].
    """
    found = {}
    for _kind, one in occupants_of(setup, catalogue):
        inside, up, rise = 1.0, one.high, own_rise(setup, catalogue, one).value
        if one.at:
            place = take(catalogue, "places", str(value_at(setup, one.at)), one.at)
            inside, up = place.inside, place.high
            if place.bay:
                inside, warmed = _bay(setup, catalogue, one, pressure)
                rise += warmed
        air = low + up * (high - low)
        found[one.station] = (room + inside * (air - room), rise)
    return found


@dataclass(frozen=True, slots=True)
class Rise:
    """By how much something stands above the air it sits in, and what of."""

    watts: float  # its own
    value: float  # K
    band: float  # 95 % half-width [K]


def own_rise(setup: Setup, catalogue: Catalogue, one: Occupant) -> Rise:
    """What an occupant's own watts, and the air just about it, warm it by over its half's air."""
    watts = own_watts(setup, catalogue, one)
    doubt = one.own_w.tolerance if one.own_w is not None else ELECTRONICS_DOUBT * watts
    by_watt, near = one.k_w, one.near_k
    band = math.hypot(doubt * by_watt.value, watts * by_watt.tolerance, near.tolerance)
    return Rise(watts, watts * by_watt.value + near.value, band)


def _bay(setup: Setup, catalogue: Catalogue, one: Occupant, pressure: float) -> tuple[float, float]:
    """Of a bay with air of its own: the share of the case's rise that comes through its walls, and what its own watts
    warm its air by [K]; P / (G + ρ c Q) with the walls' conductance G."""
    watts = own_watts(setup, catalogue, one)
    state = air_at(BAY_C, pressure)
    flow = (BAY_VENTS_M3H + setup.case.bay_m3h) / 3600.0
    carried = float(state.density * state.heat_capacity) * flow + BAY_WALLS
    return BAY_WALLS / carried, watts / carried


def first_case(
    setup: Setup,
    catalogue: Catalogue,
    tolerances: dict[str, float] | None = None,
    *,
    arounds: Arounds | None = None,
    wanted: float | None = None,
    like: ChamberAnswer | None = None,
) -> ChamberAnswer:
    """An enclosure at rest in what it holds late in a print; arounds: over the job, else without a run; wanted: at the
    print [°C], else what its control is set to; like: one that it begins from.

    Raises DoesNotFitError, NotSettledError, and ValueError where nothing encloses.
    """
    resolved = resolve_chamber(setup, catalogue, tolerances)
    if resolved.inputs.stands_open:
        raise ValueError("nothing encloses this machine")
    given = arounds or around_of(setup, catalogue)
    plan = setup.schedule
    late = (plan.soak_min + plan.print_min) * MINUTE
    model = ChamberModel(resolved.inputs)
    start = like.solved.values if like is not None and like.solved.model.count == model.count else None
    solved = solve_chamber(model, given(late), start)
    values = stations(setup, catalogue, solved)
    limits = held_case(setup, catalogue, resolved, wanted)
    return ChamberAnswer(setup, catalogue, resolved, solved, values, limits, margins_with(limits, values, None))


def with_case_course(
    answer: ChamberAnswer, arounds: Arounds, until: float, off: float, cancelled: Cancelled = lambda: False
) -> ChamberAnswer:
    """The answer with the enclosure's course: from its room until so long [s], switched off at off [s]; what of the
    job's faults changes the enclosure, as a door that opens, comes at its time."""
    setup, later = answer.setup, []
    for fault in sorted(setup.faults.values(), key=lambda one: one.at_min):
        if "case" in fault.change:
            setup = patched(setup, fault.change)
            inputs = resolve_chamber(setup, answer.catalogue).inputs
            if len(inputs.walls) == len(answer.resolved.inputs.walls):
                later.append((60.0 * fault.at_min, ChamberModel(inputs)))
    run = run_chamber(answer.solved.model, arounds, until, off=off, later=tuple(later), cancelled=cancelled)
    return replace(answer, run=run, off=off)


def time_constant(model: ChamberModel, around: EnclosureAround) -> float:
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

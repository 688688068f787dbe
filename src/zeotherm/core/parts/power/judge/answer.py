"""What the model says of a power path: at rest at once, then over the job, then how sure."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass, field, replace
from functools import cached_property

import numpy as np
import numpy.typing as npt

from zeotherm.core.catalogue.fitting import described
from zeotherm.core.catalogue.lookup import take
from zeotherm.core.catalogue.power import SupplyKind
from zeotherm.core.catalogue.shelves import Catalogue
from zeotherm.core.guard.wires import FUSE_LOAD, around_of, carried
from zeotherm.core.judgement.bands import Doubted
from zeotherm.core.judgement.findings import Strength
from zeotherm.core.judgement.limits import Held
from zeotherm.core.judgement.margins import Margin, Ordered, margins_with
from zeotherm.core.machine.documents import Setup
from zeotherm.core.machine.supplies import FIRST, MAINS
from zeotherm.core.machine.toolheads import station_of
from zeotherm.core.parts.bed.model.equivalent import bed_body
from zeotherm.core.parts.bed.model.inputs import resolve_bed
from zeotherm.core.parts.enclosure.judge.answer import encloses, first_case, occupants
from zeotherm.core.parts.power.judge.voltage import Mismatch, mismatches
from zeotherm.core.parts.power.model.in_time import PathMoment, PathRun, amps_at, run_path
from zeotherm.core.parts.power.model.inputs import CONTACTS, WIRES, PathInputs, ResolvedPath, resolve_path
from zeotherm.core.parts.power.model.model import (
    BRANCH,
    FULL,
    Amps,
    Duty,
    PathAir,
    PathModel,
    SolvedPath,
    amps_of,
    solve_path,
)
from zeotherm.core.parts.power.model.supply import CONTINUOUS, aged, at_wall, gives, inlet_limit
from zeotherm.core.parts.whole.network import AIR, BED, BODIES, CARRIAGE, ROOF
from zeotherm.core.parts.whole.run import History
from zeotherm.core.physics.wiring import carried_current

Array = npt.NDArray[np.float64]
REMEMBERS = 120.0  # s over which contacts take the mean of what flows: their own time constant, about
LEAST_VOLTS = 0.95  # of its rated ones that a bed is to have: a tenth of its watts
AIR_DOUBTS = {
    "supply": 3.5,
    "board": 2.0,
    "terminals": 8.0,
    "feed": 2.0,
    "lead": 1.5,
    "bed": 4.0,
    "carriage": 6.0,
    "further": 3.5,
}  # K, fmt: skip
HOUR, MINUTE = 3600.0, 60.0  # s
USED = 0.01  # share of the time from which a heater counts as used
CARRIES_IN_C = 30.0  # air in which a wire's current is stated, at least
STANDING = 0.3  # of what motors draw in a print, while they hold their place: estimate, 0.1 to 0.6
CARRIAGE_OVER_K = 10.0  # of a carriage over the air, where no run tells: estimate, 4 to 20
Cancelled = Callable[[], bool]


@dataclass(frozen=True)
class Loads:
    """What a supply is asked for and gives over its job, at the times of the path's course [W]."""

    mean: Array  # with every heater's share of the time
    together: Array  # every heater that is used then on at once
    gives: Array
    lost: Array  # on the ways to bed and hotend, on the mean

    def worst_hour(self, times: Array) -> tuple[float, float]:
        """The largest mean over an hour [W], and when that hour begins [s]; over all of it where it is shorter."""
        span = min(HOUR, float(times[-1]))
        added = np.concatenate([[0.0], np.cumsum(np.diff(times) * 0.5 * (self.mean[1:] + self.mean[:-1]))])
        starts = times[times <= times[-1] - span]
        means = (np.interp(starts + span, times, added) - np.interp(starts, times, added)) / max(span, 1.0)
        at = int(means.argmax())
        return float(means[at]), float(starts[at])


@dataclass(frozen=True, slots=True)
class SupplyLoad:
    """One supply of a machine: what is asked of it with everything on at once, and what it gives in its air."""

    number: str
    kind: SupplyKind
    rating: float  # W
    years: float
    on_mains: bool
    inlet: float  # °C
    pressure: float  # Pa
    asked: float  # W

    def place(self, first: str) -> str:
        """The station or figure of this supply that is called so of the first one: 'power_load', 'S2.power_load'."""
        return first if self.number == FIRST else station_of(self.number, first)

    def gives_at(self, inlet: float) -> float:
        """What it gives at an inlet [°C], as old as it is [W]."""
        return gives(self.kind, self.rating, self.years, inlet, self.pressure)

    @property
    def gives(self) -> float:
        """What it gives in the air it has [W]."""
        return self.gives_at(self.inlet)

    @property
    def inlet_limit(self) -> float:
        """The warmest air in which it gives what is asked [°C]."""
        share = self.asked / max(self.rating * aged(self.kind, self.years), 1.0)
        return inlet_limit(self.kind, share, self.pressure)


@dataclass(frozen=True)
class PowerAnswer(Ordered):
    """What the model says of a setup's power path."""

    setup: Setup
    catalogue: Catalogue
    resolved: ResolvedPath
    air: PathAir
    inlet: float  # of the supply [°C]
    solved: SolvedPath  # at rest, with the worst mean current of its job
    full: SolvedPath  # while everything warms up, as warm as it gets
    values: dict[str, float]  # by station
    limits: list[Held]
    margins: list[Margin]
    wrong: tuple[Mismatch, ...]
    run: PathRun | None = None
    off: float = 0.0
    bands: Doubted | None = None
    strengths: list[Strength] = field(default_factory=list)

    @property
    def facts(self) -> set[str]:
        """What cautions look for."""
        given = self.resolved.inputs
        found = {
            "power": True, "mains_bed": given.kind.mains, "heater_voltage_mismatch": bool(self.wrong),
            "runs_away": self.solved.runs_away, "unfused": self.unfused,
        }  # fmt: skip
        return {name for name, true in found.items() if true}

    @property
    def unfused(self) -> bool:
        """Whether the bed's own path has no fuse though nothing else protects it."""
        given = self.resolved.inputs
        return given.fuse <= 0.0 and not given.shares_feed and given.heated

    @cached_property
    def loads(self) -> Loads | None:
        """What the tightest supply is asked for and gives over the run; about a tenth of a second the first time."""
        return loads_over(self.run, self.tightest.number) if self.run is not None else None

    @cached_property
    def supplies(self) -> tuple[SupplyLoad, ...]:
        """Every supply, the first one first."""
        return loads_of(self.full, self.air, self.setup.room.mean_c)

    @property
    def tightest(self) -> SupplyLoad:
        """The supply that is asked for the most of what it gives."""
        return max(self.supplies, key=lambda one: one.asked / max(one.gives, 1.0))

    @property
    def asked(self) -> float:
        """Of the first supply at most: everything on at once, the bed cold [W]."""
        return self.supplies[0].asked

    @property
    def gives(self) -> float:
        """What the first supply gives in the air it has, as old as it is [W]."""
        return self.supplies[0].gives


def asked_of(full: SolvedPath, cold: float) -> float:
    """Of the first supply with everything on at once [W]; cold: bed [°C]."""
    return _asked(full.model.inputs, amps_of(full.model, full, FULL, cold), FULL)[FIRST]


def loads_of(full: SolvedPath, air: PathAir, cold: float) -> tuple[SupplyLoad, ...]:
    """Every supply with what is asked of it, everything on at once; the first one first. cold: bed before it warms
    [°C]."""
    given = full.model.inputs
    return _supplies(given, air, _asked(given, amps_of(full.model, full, FULL, cold), FULL))


def _supplies(given: PathInputs, air: PathAir, asked: dict[str, float]) -> tuple[SupplyLoad, ...]:
    """Every supply in its air, the first one first; asked: of each, by its number [W]."""
    first = SupplyLoad(FIRST, given.supply, given.rating, given.years, True, air.supply, given.pressure, asked[FIRST])
    further = (
        SupplyLoad(one.number, one.kind, one.rating, one.years, one.fed_by == MAINS, inlet, given.pressure,
                   asked[one.number])
        for one, inlet in zip(given.supplies, air.further, strict=True)
    )  # fmt: skip
    return first, *further


def path_air(
    setup: Setup, catalogue: Catalogue, low: float, high: float, room: float, bed: float, carriage: float | None = None
) -> PathAir:
    """What the parts of a path stand in [°C]; low, high: air of the case, of an open machine its room's; bed: plate;
    carriage: of the machine's run, else by an estimate over the air."""
    kind = take(catalogue, "power_paths", setup.power.path, "power.path")
    around = occupants(setup, catalogue, low, high, room, setup.surroundings.pressure_kpa * 1e3)
    (supply, supply_by), (board, board_by) = around["case_supply"], around["case_board"]
    near = carriage if carriage is not None else low + CARRIAGE_OVER_K
    terminals = board + kind.terminals_k * board_by
    further = (around[station_of(number, "case_supply")] for number in sorted(setup.supplies))
    return PathAir(
        float(supply + supply_by), float(board), float(terminals), float(board), float(low), float(max(bed, room)),
        float(near), tuple(float(air + by) for air, by in further),
    )  # fmt: skip


def late_air(setup: Setup, catalogue: Catalogue, run: History | None) -> PathAir:
    """What a path stands in late in the print: by the machine's run, else by its case at rest."""
    room, bed = setup.room.mean_c, setup.bed.target_c
    if run is not None and run.around.around.stated is None:
        bodies = run.bodies(max(run.off - 1.0, 0.0))
        low = float(bodies[AIR])
        high = float(bodies[ROOF]) if encloses(setup, catalogue) else low
        at_end = run.around.around.room(run.clock(run.off))
        return path_air(setup, catalogue, low, high, at_end, bed, float(bodies[CARRIAGE]))
    if encloses(setup, catalogue):
        solved = first_case(setup, catalogue).solved
        return path_air(setup, catalogue, solved.low, solved.high, room, bed)
    return path_air(setup, catalogue, room, room, room, bed)


def worst_duty(run: History | None) -> Duty | None:
    """The largest mean share of the time that each heater is on, over what contacts remember; None without a run."""
    if run is None:
        return None
    lengths, shares = np.diff(run.times).tolist(), duties(run)
    bed = 1.0 if run.around.around.stated is not None else _most(lengths, shares[0])
    return Duty(bed, _most(lengths, shares[1]))


def _most(lengths: list[float], shares: Array) -> float:
    mean, most = 0.0, 0.0
    for length, share in zip(lengths, shares[1:].tolist(), strict=True):
        mean = share + (mean - share) * math.exp(-length / REMEMBERS)
        most = max(most, mean)
    return min(most, 1.0)


def duties(run: History) -> tuple[Array, Array]:
    """Over the ends of a run's steps: the share of the time that its bed, and its hotend's heater, is on [-]."""
    most = max(run.around.around.bed_power, 1e-9)
    full = [max(stretch.system.model.problem.control.limit, 1e-9) for stretch in run.stretches]
    hotend = [min(mark.heater / full[mark.stretch], 1.0) for mark in run.marks]
    return np.array([min(mark.bed.watts / most, 1.0) for mark in run.marks]), np.array(hotend)


def moments_of(setup: Setup, catalogue: Catalogue, run: History) -> Callable[[float], PathMoment]:
    """What the paths are asked for over the machine's run."""
    times, (beds, heaters) = run.times, duties(run)
    airs, roofs, plates, carriages = (run.values[:, -len(BODIES) + n].copy() for n in (AIR, ROOF, BED, CARRIAGE))
    computed = run.around.around.stated is None
    closed = computed and encloses(setup, catalogue)
    moves = np.array([run.stretches[mark.stretch].kind == "print" for mark in run.marks])

    def prints(time: float) -> bool:
        return bool(moves[min(int(np.searchsorted(times, time)), len(times) - 1)])

    def at(time: float) -> PathMoment:
        room = run.around.around.room(run.clock(time))
        low = float(np.interp(time, times, airs)) if closed else room
        high = float(np.interp(time, times, roofs)) if closed else room
        bed = float(np.interp(time, times, plates)) if computed else setup.bed.target_c
        carriage = float(np.interp(time, times, carriages)) if computed else None
        share = float(np.interp(time, times, beds)) if computed else 1.0
        duty = Duty(share, float(np.interp(time, times, heaters)), 1.0 if prints(time) else STANDING)
        return PathMoment(path_air(setup, catalogue, low, high, room, bed, carriage), duty, time < run.off)

    return at


def first_power(
    setup: Setup,
    catalogue: Catalogue,
    tolerances: dict[str, float] | None = None,
    *,
    air: PathAir | None = None,
    duty: Duty | None = None,
    like: PowerAnswer | None = None,
) -> PowerAnswer:
    """A power path at rest; air and duty: of its job, else of its case at rest and a bed that is always on; like: one
    that it begins from. Raises DoesNotFitError, and ValueError where the path is not described."""
    if not described(setup, catalogue):
        raise ValueError("the power path is not described")
    resolved = resolve_path(setup, catalogue, tolerances)
    around = air if air is not None else late_air(setup, catalogue, None)
    model = PathModel(resolved.inputs)
    start = like.solved.values if like is not None and like.solved.model.count == model.count else None
    solved = solve_path(model, around, duty=duty, start=start)
    full = solve_path(model, around, duty=FULL, start=solved.values)
    return judged(setup, catalogue, resolved, around, solved, full)


def judged(
    setup: Setup, catalogue: Catalogue, resolved: ResolvedPath, air: PathAir, solved: SolvedPath, full: SolvedPath
) -> PowerAnswer:
    """The answer of a solved path."""
    values = stations(solved, full, air, setup.room.mean_c)
    limits = held_power(setup, resolved.inputs, catalogue, solved, full, air)
    return PowerAnswer(
        setup, catalogue, resolved, air, air.supply, solved, full, values, limits, margins_with(limits, values, None),
        mismatches(setup, catalogue),
    )  # fmt: skip


def stations(solved: SolvedPath, full: SolvedPath, air: PathAir, cold: float) -> dict[str, float]:
    """Every place and figure of a path, by station; cold: bed before it warms [°C]."""
    given = solved.model.inputs
    found = {f"power_{name}": solved.contact(name) for name in CONTACTS}
    found |= {f"power_{name}": float(solved.wire(name).max()) for name in WIRES}
    supplies = loads_of(full, air, cold)
    drawn = [(one.kind, at_wall(one.kind, one.asked, one.rating, given.efficiency)) for one in supplies if one.on_mains]
    wall = sum(watts for _kind, watts in drawn)
    bed = given.volts * full.amps.bed if given.kind.mains else 0.0
    board = full.amps.feed if given.shares_feed else given.board_amps + full.amps.heater
    apparent = sum(watts / kind.power_factor.value for kind, watts in drawn) + bed + given.strip
    found |= {
        "power_switch": solved.switch_c, "power_wall": wall + bed,
        "power_bed_volts": full.bed_volts, "power_plug_drop": full.lost("plug"), "power_plug_amps": full.amps.bed,
        "power_switch_amps": full.amps.bed, "power_fuse": full.amps.bed, "power_fuse_wire": given.fuse,
        "power_outlet": apparent / given.mains, "power_output": given.output_load,
        "power_heater_volts": full.heater_volts,
        "power_heater_plug_amps": full.amps.heater, "power_heater_output": full.amps.heater,
        "power_board_amps": board, "power_board_fuse": board, "power_board_fuse_wire": given.board_fuse,
        "power_lost": lost_watts(solved),
    }  # fmt: skip
    for one in supplies:
        found |= {one.place("power_load"): one.asked, one.place("power_inlet"): one.inlet}
    return found


def held_power(
    setup: Setup, given: PathInputs, catalogue: Catalogue, solved: SolvedPath, full: SolvedPath, air: PathAir
) -> list[Held]:
    """The limits of a path, with their values."""
    cold = setup.room.mean_c

    def weakest(names: tuple[str, ...]) -> float:
        return min(carried_by(setup, catalogue, solved, air.at(name), name) for name in names)

    sheet = "data sheet range"
    figures: dict[str, tuple[float, float, str]] = {
        name: (getattr(given, name).service, SERVICE_DOUBT, sheet) for name in (*CONTACTS, *WIRES, "switch")
    }
    for one in loads_of(full, air, cold):
        figures |= {one.place(name): figure for name, figure in _of_supply(one).items()}
    figures |= {
        "output": (given.output, 0.0, "what the output may carry"),
        "least_heater_volts": (LEAST_VOLTS * given.heater_rated_v, 0.0, "a tenth of the hotend's watts"),
        "heater_plug_rating": (given.heater_plug.rated, RATED_DOUBT * given.heater_plug.rated, sheet),
        "outlet": (CONTINUOUS * given.outlet, 0.0, "four fifths of its rating, for hours"),
    }  # fmt: skip
    if given.heated:
        figures |= {
            "least_volts": (LEAST_VOLTS * given.bed_rated_v, 0.0, "a tenth of the bed's watts"),
            "plug_rating": (given.plug.rated, RATED_DOUBT * given.plug.rated, sheet),
            "switch_rating": (given.switch.rated, RATED_DOUBT * given.switch.rated, sheet),
        }
    if given.board_fuse > 0.0:
        figures["board_fuse"] = (FUSE_LOAD * given.board_fuse, 0.0, "four fifths of its rating, for hours")
        if given.shares_feed:
            figures["feed_carries"] = (weakest(("feed",)), 0.0, "what the feed wire carries for long")
    if given.board > 0.0:
        figures["board_input"] = (given.board, RATED_DOUBT * given.board, sheet)
    if given.heater_output > 0.0:
        figures["heater_output"] = (given.heater_output, RATED_DOUBT * given.heater_output, sheet)
    if given.fuse > 0.0:
        figures |= {
            "fuse": (FUSE_LOAD * given.fuse, 0.0, "four fifths of its rating, for hours"),
            "wires_carry": (
                weakest(behind_fuse(given)),
                0.0,
                "what the weakest wire behind it carries for long",
            ),
        }
    found = []
    for key, limit in catalogue.limits.items():
        counted = limit.figure != "output" or given.output_load > 0.0
        number, _dot, _place = limit.station.rpartition(".")
        name = station_of(number, limit.figure) if number else limit.figure
        if limit.part == "power" and name in figures and counted:
            value, tolerance, source = figures[name]
            found.append(Held(key, limit.model_copy(update={"value": value, "tolerance": tolerance}), source, ""))
    return found


def _of_supply(one: SupplyLoad) -> dict[str, tuple[float, float, str]]:
    """What a supply gives, and the warmest air in which it gives what is asked: value, tolerance, source."""
    return {
        "inlet": (one.inlet_limit, one.kind.full_to_c.tolerance, "where its derating curve meets what is asked"),
        "gives": (one.gives, 0.04 * one.rating, "its rating in this air, as old as it is"),
    }


SERVICE_DOUBT = 6.0  # K, of what plastics and insulations stand
RATED_DOUBT = 0.15  # of what contacts and switches carry


def behind_fuse(given: PathInputs) -> tuple[str, ...]:
    """Wires that the bed's own fuse is to save."""
    return ("lead",) if given.shares_feed else ("feed", "lead")


def warmest(answer: PowerAnswer, name: str) -> float:
    """The warmest air that a wire lies in over its job [°C]; late in the print where its hours are not known."""
    run = answer.run
    over = [run.moments(time).air.at(name) for time in run.times.tolist()] if run is not None else []
    return max([answer.air.at(name), *over])


def carries(answer: PowerAnswer, names: tuple[str, ...]) -> float:
    """The current that the weakest of some wires carries for long in its bundle [A], in the warmest air of its job."""
    return min(carried_by(answer.setup, answer.catalogue, answer.full, warmest(answer, one), one) for one in names)


def carried_by(setup: Setup, catalogue: Catalogue, solved: SolvedPath, air_c: float, name: str) -> float:
    """The current that a wire of a solved path carries for long [A]: the least of the published table and its model."""
    line = solved.model.lines[name]
    around = max(air_c, CARRIES_IN_C)
    rise = line.wire.service - around
    if rise <= 0.0:
        return 0.0
    away = float(line.per_metre(np.array([line.wire.service]), around)[0])
    by_model = carried_current(away, line.wire.resistivity / line.wire.area, rise, line.wire.per_k, around)
    return min(by_model, carried(1e6 * line.wire.area, around_of(setup, catalogue, name, around), catalogue))


def with_power_course(answer: PowerAnswer, run: History, cancelled: Cancelled = lambda: False) -> PowerAnswer:
    """The answer with the path's course over the machine's run; what of the job's faults changes the path, as a plug
    that works loose, comes at its time. Raises CancelledError."""
    setup, later = answer.setup, []
    for fault in sorted(setup.faults.values(), key=lambda one: one.at_min):
        setup = setup.with_fault(fault)
        if "power" in fault.change:
            later.append((MINUTE * fault.at_min, PathModel(resolve_path(setup, answer.catalogue).inputs)))
    moments = moments_of(answer.setup, answer.catalogue, run)
    switched = [run.off, *(stretch.start for stretch in run.stretches)]
    course = run_path(answer.solved.model, moments, run.end, switched=tuple(switched), later=tuple(later),
                      cancelled=cancelled)  # fmt: skip
    return replace(answer, run=course, off=run.off)


def loads_over(run: PathRun, number: str = FIRST) -> Loads:
    """What a supply is asked for and gives over a path's course."""
    found = []
    for time, values in zip(run.times.tolist(), run.values, strict=True):
        now, solved = run.moments(time), run.solved(time, values)
        given = solved.model.inputs
        once = Duty(float(now.duty.bed > USED), float(now.duty.heater > USED), now.duty.motors)
        asked = _asked(given, amps_at(solved.model, replace(now, duty=once), values), once)
        supply = next(one for one in _supplies(given, now.air, asked) if one.number == number)
        mean, lost = (mean_watts(solved)[number], lost_watts(solved)) if now.on else (0.0, 0.0)
        found.append((mean, supply.asked if now.on else 0.0, supply.gives, lost))
    return Loads(*np.array(found).T)


def mean_watts(solved: SolvedPath) -> dict[str, float]:
    """What every supply is asked for on the mean [W], by its number."""
    return _asked(solved.model.inputs, solved.amps, solved.duty)


def lost_watts(solved: SolvedPath) -> float:
    """What the ways to bed and hotend lose on the mean [W]."""
    return sum(solved.lost_mean(name) for name in BRANCH)


def lost_in_supplies(solved: SolvedPath) -> tuple[float, float]:
    """What all supplies turn into heat on the mean, and by how much their efficiencies may be off of that, 95 % [W]."""
    given, each = solved.model.inputs, mean_watts(solved)
    kinds = {FIRST: (given.supply, given.rating)} | {one.number: (one.kind, one.rating) for one in given.supplies}
    drawn = {key: at_wall(kind, each[key], rating) for key, (kind, rating) in kinds.items()}
    doubt = sum(kind.efficiency_tolerance * drawn[key] for key, (kind, _rating) in kinds.items())
    return sum(drawn.values()) - sum(each.values()), doubt


def _asked(given: PathInputs, amps: Amps, duty: Duty) -> dict[str, float]:
    """Of every supply by its loads, each with its share [W]; by number."""
    each = given.on_supplies(duty.motors, given.volts * duty.bed * amps.bed)
    board = given.drawn(duty.motors, duty.heater) + given.heater_volts * duty.heater * amps.heater
    return each | {FIRST: each[FIRST] + board}


def bed_watts_wanted(setup: Setup, catalogue: Catalogue) -> float:
    """What the bed takes at its set value, late in a print [W]."""
    bed = bed_body(resolve_bed(setup, catalogue).inputs)
    return (bed.to_air + bed.to_wall) * max(setup.bed.target_c - setup.room.mean_c, 0.0) if bed.power > 0.0 else 0.0

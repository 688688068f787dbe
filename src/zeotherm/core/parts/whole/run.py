"""The whole job in time: preheat, print, pauses, cool-down, and what goes wrong in between."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass, field, replace
from functools import cached_property
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from zeotherm.core.catalogue.shelves import Catalogue
from zeotherm.core.machine.documents import Setup, patched
from zeotherm.core.machine.hours import PREHEAT_MOST_MIN, REHEAT_MOST_MIN
from zeotherm.core.parts.hotend.model.in_time import MOVED, STAGE_TOLERANCE, HotendInTime
from zeotherm.core.parts.hotend.model.inputs import HotendAir, Inputs, Resolved, Shift, resolve
from zeotherm.core.parts.hotend.model.model import HotendModel, build
from zeotherm.core.parts.hotend.model.readout import places, read_moment, values_of
from zeotherm.core.parts.hotend.model.solved import Solved
from zeotherm.core.parts.power.model.inputs import check_supplies
from zeotherm.core.parts.whole.around import Around, ResolvedAround, check_around, resolve_around
from zeotherm.core.parts.whole.coupled import FLOWS, Coupled, CoupledMemory
from zeotherm.core.parts.whole.fed import SETTLES, STANDS, Feed, piece_of
from zeotherm.core.parts.whole.network import BED, BODIES, Heating, Load, Network
from zeotherm.core.parts.whole.standby import resolved_others
from zeotherm.core.solver import axisymmetric as solver
from zeotherm.core.solver.stepping import StepState, TimeStep, march, within_step

Array = npt.NDArray[np.float64]
FINENESS = 0.5  # of the hotend's grid in time: margin within 0.05 mm, bore within 0.5 K of the steady picture's
TOLERANCE = 0.1  # K a step may be off
HEAT_UP_TOLERANCE = 0.5  # K a step may be off where only the end of the heat-up is asked for
NO_BED_C = -273.0  # a set value that any bed is above
LONGEST_STEP = 1800.0  # s
FIRST_STEP = 0.8  # s, after something is switched
FIRST_STEP_ON = 60.0  # s, where only the hour's heat changes
REACHED = 1.0  # K below the set value that count as reached
AT_REST_C = 1e-6
HALVINGS = 24  # of a step, to find when a level is met
MINUTE = 60.0
OFF = Heating(0.0, holds=False)
EASED = ("print", "pause", "cool")  # begin with a jump; every limit has its least room later
HEATS = ("preheat", "soak", "print", "pause")


@dataclass(frozen=True, slots=True)
class Phase:
    """A part of the job as planned."""

    kind: str  # preheat, soak, print, pause, cool
    seconds: float
    nozzle: float | None = None  # where it is not that of the print [°C]
    until_hot: bool = False  # ends once the set values are reached


@dataclass(frozen=True)
class Stretch:
    """A part of the run in which nothing is switched."""

    kind: str
    start: float
    end: float
    setup: Setup
    resolved: Resolved  # with the phase's own flow, fan and heater
    system: Coupled
    fan_runs: bool


@dataclass(frozen=True, slots=True)
class Mark:
    """One end of a step: when, and the watts and controls then."""

    time: float
    stretch: int
    heater: float
    holds: bool
    bed: Heating = OFF
    case: Heating = OFF

    def bed_reading(self, network: Network, bed: float) -> float:
        """What the bed's sensor says of a bed at a temperature [°C]."""
        return network.around.bed_target if self.bed.holds else network.bed_reading(bed, self.bed.watts)


@dataclass(frozen=True)
class History:
    """A whole job, step by step."""

    setup: Setup
    catalogue: Catalogue
    around: ResolvedAround
    stretches: list[Stretch]
    marks: list[Mark]
    values: Array  # (marks, cells and bodies) [°C]
    middles: Array  # the same in the middle of the step that ends there
    joules: dict[str, float]  # through the whole run, by flow
    heat_gained: float  # by all cells and bodies [J]
    printing_from: float | None  # s
    not_reached: bool  # the set values were not reached within the longest preheat

    @cached_property
    def times(self) -> Array:
        """Ends of the steps [s]."""
        return np.array([mark.time for mark in self.marks])

    @property
    def printing(self) -> Stretch:
        """The first stretch in which filament flows; the last of all where none does."""
        return next((stretch for stretch in self.stretches if stretch.kind == "print"), self.stretches[-1])

    @property
    def end(self) -> float:
        """Length of the run [s]."""
        return self.marks[-1].time

    @property
    def off(self) -> float:
        """When everything is switched off [s]; the end of the run where it never is."""
        return next((stretch.start for stretch in self.stretches if stretch.kind == "cool"), self.end)

    def clock(self, time: float) -> float:
        """Clock hours at a time [s]."""
        return self.setup.schedule.start_h + time / 3600.0

    @property
    def closure(self) -> float:
        """Heat that the balance loses, as a share of all that was put in [-]."""
        entered = sum(self.joules[name] for name in FLOWS if name != "to_room")
        return abs(entered - self.joules["to_room"] - self.heat_gained) / max(entered, 1.0)

    def bodies(self, time: float) -> Array:
        """Temperatures of the bodies around at a time [°C]."""
        values: Array = self.at(time)[0][-len(BODIES) :]
        return values

    def at(self, time: float) -> tuple[Array, Stretch, Mark]:
        """State, stretch and controls at a time [s]: a parabola through start, middle and end of its step."""
        after = min(max(int(np.searchsorted(self.times, time)), 1), len(self.marks) - 1)
        before = self.marks[after - 1]
        mark = self.marks[after]
        length = mark.time - before.time
        x = min(max((time - before.time) / length, 0.0), 1.0)
        old, middle, new = self.values[after - 1], self.middles[after], self.values[after]
        return within_step(old, middle, new, x), self.stretches[mark.stretch], mark

    @cached_property
    def feed(self) -> Feed:
        """How the cold end feeds, from the first line to the last."""
        index, pieces, kind, begun = np.array([mark.stretch for mark in self.marks]), [], "", 0.0
        for number, stretch in enumerate(self.stretches):
            at = np.flatnonzero(index == number)
            if stretch.kind != kind:
                kind, begun = stretch.kind, stretch.start
            if len(at) and stretch.kind in STANDS:
                halfway = 0.5 * (self.times[at - 1] + self.times[at])
                times = np.stack([halfway, self.times[at]], axis=1).reshape(-1)  # a jam is a cliff: look twice a step
                fields = np.stack([self.middles[at], self.values[at]], axis=1)[..., : -len(BODIES)]
                pushes = (times >= begun + SETTLES) & (kind == "print")
                fields = fields.reshape(len(times), *stretch.system.shape)
                pieces.append(piece_of(stretch.system.model, at, times, pushes, fields))
        return Feed(pieces)

    @cached_property
    def series(self) -> dict[str, Array]:
        """Stations over the ends of the steps, by key; nan where there is no such thing."""
        found: dict[str, Array] = {}
        index = np.array([mark.stretch for mark in self.marks])
        for number, stretch in enumerate(self.stretches):
            at = np.flatnonzero(index == number)
            if not len(at):
                continue
            system = stretch.system
            fields = self.values[at, : -len(BODIES)].reshape(len(at), *system.shape)
            for key, values in places(system.model, fields).items():
                found.setdefault(key, np.full(len(self.marks), np.nan))[at] = values
        network = self.printing.system.network
        found |= {
            name: self.values[:, -len(BODIES) + i].copy()
            for i, name in enumerate(BODIES)
            if network.around.stated is None and network.has(name)
        }
        if "bed" in found:  # what its sensor says
            networks = [self.stretches[mark.stretch].system.network for mark in self.marks]
            plates = zip(self.marks, networks, found["bed"].tolist(), strict=True)
            found["bed"] = np.array([mark.bed_reading(network, plate) for mark, network, plate in plates])
        airs = [self.air_at(i) for i in range(len(self.marks))]
        found["fan_inlet"] = np.array([air.fan for air in airs])
        marks = [mark for piece in self.feed.pieces for mark in piece.marks.tolist()]
        found["jam_room"] = np.full(len(self.marks), np.nan)
        found["residue"] = np.full(len(self.marks), np.nan)
        if marks:
            fed = self.feed.stated
            found["jam_room"][marks] = self.feed.warmer_to_jam[1::2]
            found["residue"][marks] = fed.rate * fed.drawn_up[1::2, 0]
        found["room"] = np.array([self.around.around.room(self.clock(mark.time)) for mark in self.marks])
        found["heater_power"] = np.array([mark.heater for mark in self.marks])
        return found

    def air_at(self, index: int) -> HotendAir:
        """What the hotend stands in at the end of a step."""
        mark = self.marks[index]
        network = self.stretches[mark.stretch].system.network
        return network.air_at(self.values[index, -len(BODIES) :], network.around.room(self.clock(mark.time)))

    def moment(self, time: float, airs: dict[str, Shift] | None = None) -> Solved:
        """The hotend at a time, as if it had been solved for it: inputs of that moment, field, readout.

        airs: what the doubts of the surroundings do to its air, where the air is computed.
        """
        here = self._hotend_at(time, airs or {})
        solved = solver.Field(here.temperature, here.heater, not here.holds, 0.0, 0, 0)
        residual = solver.residual(here.model.problem, here.temperature, here.heater)
        readout = read_moment(here.model, solved, -float(residual.sum()), here.known)
        readout = replace(readout, values={**readout.values, **here.around})
        return Solved(here.resolved, here.model, solved, readout, settled=False)

    def stations(self, time: float, *, fed: bool = True) -> dict[str, float | None]:
        """The stations of `moment` alone, by key; fed: with those of the feed."""
        here = self._hotend_at(time, {})
        return {**values_of(here.model, here.temperature, here.known, fed=fed), **here.around}

    def _hotend_at(self, time: float, airs: dict[str, Shift]) -> _Hotend:
        values, stretch, mark = self.at(time)
        network = stretch.system.network
        temperature, bodies = stretch.system.split(values)
        air = network.air_at(bodies, network.around.room(self.clock(time)))
        if network.around.stated is not None:
            resolved, around = replace(stretch.resolved, inputs=stretch.resolved.inputs.in_air(air)), {}
        else:
            resolved, around = stretch.resolved.in_air(air, airs), dict(zip(BODIES, bodies.tolist(), strict=True))
            around["bed"] = mark.bed_reading(network, around["bed"])
            around = {name: value for name, value in around.items() if network.has(name)}
        feed = self.feed
        inputs = replace(resolved.inputs, left=feed.standing(time), residue=feed.residue(time))
        resolved = replace(resolved, inputs=inputs)
        model = build(resolved.inputs, stretch.system.model.fineness)
        known = mark.heater if mark.holds and stretch.kind in HEATS else None
        return _Hotend(temperature, mark.heater, mark.holds, known, resolved, model, around)


class _Hotend(NamedTuple):
    """The hotend at one time, before it is read out."""

    temperature: Array  # (rows, columns) [°C]
    heater: float  # W
    holds: bool  # its set value
    known: float | None  # watts that holding its set value needs, where known
    resolved: Resolved
    model: HotendModel
    around: dict[str, float]  # the bodies it stands among, by station; none where its air is stated


@dataclass
class _Track:
    """Gathers the steps of a run."""

    stretches: list[Stretch] = field(default_factory=list)
    marks: list[Mark] = field(default_factory=list)
    values: list[Array] = field(default_factory=list)
    middles: list[Array] = field(default_factory=list)
    joules: Array = field(default_factory=lambda: np.zeros(len(FLOWS)))
    gained: float = 0.0

    def take(self, step: TimeStep) -> None:
        memory: CoupledMemory = step.end.memory
        holds = not memory.field.saturated and memory.field.power > 0.0
        now = step.start + step.length
        power, heating = memory.field.power, memory.heating
        self.marks.append(Mark(now, len(self.stretches), power, holds, heating["bed"], heating["case"]))
        self.values.append(step.end.values)
        self.middles.append(step.middle)
        self.joules += step.joules


def phases(setup: Setup) -> list[Phase]:
    """The job as planned."""
    plan = setup.schedule
    found = [Phase("preheat", PREHEAT_MOST_MIN * MINUTE, until_hot=True), Phase("soak", plan.soak_min * MINUTE)]
    done = 0.0
    for pause in sorted(plan.pauses.values(), key=lambda one: one.after_min):
        found.append(Phase("print", (pause.after_min - done) * MINUTE))
        found.append(Phase("pause", pause.minutes * MINUTE, pause.nozzle_c))
        if pause.nozzle_c is not None:
            found.append(Phase("pause", REHEAT_MOST_MIN * MINUTE, until_hot=True))
        done = pause.after_min
    found += [Phase("print", (plan.print_min - done) * MINUTE), Phase("cool", plan.cool_min * MINUTE)]
    return [phase for phase in found if phase.seconds > 0.0]


def check(setup: Setup, catalogue: Catalogue, tolerances: dict[str, float] | None = None) -> None:
    """Whether all parts of a setup exist and go together, after each of its faults too. Raises DoesNotFitError."""
    for now in (setup, *(setup.with_fault(fault) for fault in setup.faults.values())):
        resolve(now, catalogue, tolerances, solved=False)
        resolved_others(now, catalogue)
        check_around(now, catalogue)
        check_supplies(now, catalogue)


def simulate(
    setup: Setup,
    catalogue: Catalogue,
    tolerances: dict[str, float] | None = None,
    *,
    cancelled: Callable[[], bool] = lambda: False,
    fineness: float = FINENESS,
    tolerance: float = TOLERANCE,
    change: Callable[[Inputs, Around], tuple[Inputs, Around]] = lambda inputs, around: (inputs, around),
) -> History:
    """Run a setup's whole job; change: what to do to the resolved numbers first, as to try a doubt.

    Raises DoesNotFitError, NotConvergedError or CancelledError.
    """
    return _Simulation(setup, catalogue, tolerances, cancelled, fineness, tolerance, change).run(phases(setup))


def heat_up(
    setup: Setup,
    catalogue: Catalogue,
    tolerances: dict[str, float] | None = None,
    change: Callable[[Inputs], Inputs] = lambda inputs: inputs,
    cancelled: Callable[[], bool] = lambda: False,
) -> float:
    """From a machine at the room's temperature until the hotend alone has come to its set value [s]; infinite where
    it does not within the longest preheat. Within 0.1 s of the run at its usual tolerance.

    Raises as `simulate`.
    """

    def alone(inputs: Inputs, around: Around) -> tuple[Inputs, Around]:
        return change(inputs), replace(around, bed_power=0.0, bed_target=NO_BED_C, case_power=0.0)

    made = _Simulation(setup, catalogue, tolerances, cancelled, FINENESS, HEAT_UP_TOLERANCE, alone)
    run = made.run(phases(setup)[:1])
    return math.inf if run.not_reached else run.end


class _Simulation:
    """One run under way."""

    def __init__(
        self,
        setup: Setup,
        catalogue: Catalogue,
        tolerances: dict[str, float] | None,
        cancelled: Callable[[], bool],
        fineness: float,
        tolerance: float,
        change: Callable[[Inputs, Around], tuple[Inputs, Around]],
    ) -> None:
        self.setup, self.catalogue, self.tolerances = setup, catalogue, tolerances
        self.cancelled, self.fineness, self.tolerance, self.change = cancelled, fineness, tolerance, change
        self.around = resolve_around(setup, catalogue, tolerances)
        self.track = _Track()
        self.not_reached = False
        self.printing_from: float | None = None
        self.values = np.zeros(0)
        self.last: StepState | None = None
        self.fan_runs = True
        self._resolved: tuple[Setup, Resolved, Inputs, Around] | None = None
        self._standby: tuple[Setup, float, Setup] | None = None

    def run(self, planned: list[Phase]) -> History:
        """From a machine at the room's temperature to the end of what is planned."""
        time = 0.0
        for phase in planned:
            if phase.kind == "print" and self.printing_from is None:
                self.printing_from = time
            time = self._phase(phase, time)
        track = self.track
        return History(
            setup=self.setup,
            catalogue=self.catalogue,
            around=self.around,
            stretches=track.stretches,
            marks=track.marks,
            values=np.array(track.values),
            middles=np.array(track.middles),
            joules=dict(zip(FLOWS, track.joules.tolist(), strict=True)),
            heat_gained=track.gained,
            printing_from=self.printing_from,
            not_reached=self.not_reached,
        )

    def _phase(self, phase: Phase, start: float) -> float:
        """Run one phase in stretches between known events; returns its end."""
        time, planned, early = start, start + phase.seconds, False
        while time < planned - 1e-6:
            stop = next((event for event in self._known_events if time + 1e-6 < event < planned), planned)
            goes_on = time > start and not early and time not in self._faults
            eased = time if time == start and phase.kind in EASED else -math.inf
            time, early = self._stretch(phase, time, stop, FIRST_STEP_ON if goes_on else FIRST_STEP, eased)
            if early and phase.until_hot:
                return time
        if phase.kind == "preheat":  # after a standby the core that leaves too cold tells it
            self.not_reached = True
        return time

    @cached_property
    def _faults(self) -> list[float]:
        return [fault.at_min * MINUTE for fault in self.setup.faults.values()]

    @cached_property
    def _known_events(self) -> list[float]:
        start = self.setup.schedule.start_h
        suns = [(hour + 24.0 * day - start) * 3600.0 for hour in self.around.around.hours_of_note for day in range(3)]
        return sorted([*self._faults, *suns])

    def _now(self, time: float) -> Setup:
        setup = self.setup
        for fault in sorted(self.setup.faults.values(), key=lambda one: one.at_min):
            if fault.at_min * MINUTE <= time + 1e-6:
                setup = setup.with_fault(fault)
        return setup

    def _at_standby(self, setup: Setup, nozzle: float | None) -> Setup:
        """The setup with its nozzle at a standby temperature; the same one each time, so that it resolves once."""
        if nozzle is None:
            return setup
        if self._standby is None or self._standby[:2] != (setup, nozzle):
            self._standby = (setup, nozzle, patched(setup, {"printing": {"nozzle_c": nozzle}}))
        return self._standby[2]

    def _stretch(self, phase: Phase, time: float, stop: float, first: float, eased: float) -> tuple[float, bool]:
        kind, setup = phase.kind, self._at_standby(self._now(time), phase.nozzle)
        system, resolved = self._system(setup, kind, time, eased)
        track = self.track
        begun = system.heat(self.values)
        if not track.marks:
            track.marks.append(Mark(0.0, 0, 0.0, False))
            track.values.append(self.values)
            track.middles.append(self.values)
        ended: list[float] = []

        def ends(step: TimeStep) -> float | None:
            if self.cancelled():
                raise solver.CancelledError
            when = self._when_reached(phase, system, step)
            if when is not None:
                ended.append(when)
            return when

        self.last = march(
            system, self.values, time, stop, first=first, longest=LONGEST_STEP, ends=ends, accepted=track.take,
            last=self.last,
        )  # fmt: skip
        self.values = self.last.values
        track.gained += float((system.heat(self.values) - begun).sum())
        now = track.marks[-1].time
        track.stretches.append(Stretch(kind, time, now, setup, resolved, system, self.fan_runs))
        if kind == "cool" and ended:
            self.fan_runs = False
        return now, bool(ended)

    def _when_reached(self, phase: Phase, system: Coupled, step: TimeStep) -> float | None:
        """When, within a step, a heat-up is over or a block is cool enough for its fan to stop."""
        if not phase.until_hot and phase.kind != "cool":
            return None
        states = (self.track.values[-1], step.middle, step.end.values)
        control = system.model.problem.control
        blocks = [float(np.vdot(control.sensor, system.split(state)[0])) for state in states]
        if phase.until_hot:
            around = system.network.around
            target, bed = control.target - REACHED, around.bed_target - REACHED
            flat_out = around.bed_power * system.network.load.bed
            beds = [system.network.bed_reading(float(system.split(state)[1][BED]), flat_out) for state in states]
            cold_bed = around.bed_target > around.room(system.clock(step.start)) and beds[-1] < bed - AT_REST_C
            if blocks[-1] < target - AT_REST_C or cold_bed:
                return None
            return step.start + max(_crossing(blocks, target), _crossing(beds, bed)) * step.length
        if self.fan_runs:
            until = self.catalogue.fan_rules[self.setup.schedule.fan_after].until_c
            if blocks[-1] < until <= blocks[0]:
                return step.start + _crossing(blocks, until) * step.length
        return None

    def _system(self, setup: Setup, kind: str, time: float, eased: float) -> tuple[Coupled, Resolved]:
        """The machine as it stands in one stretch."""
        resolved, inputs, around = self._numbers(setup)
        heats, prints = kind in HEATS, kind == "print"
        if kind == "cool" and self.track.stretches and self.track.stretches[-1].kind != "cool":
            until = self.catalogue.fan_rules[setup.schedule.fan_after].until_c
            block = self.track.stretches[-1].system.split(self.values)[0]
            self.fan_runs = float(np.vdot(self._sensor(), block)) > until
        room = around.room(self.setup.schedule.start_h + time / 3600.0)
        network = Network(
            around, Load(heats and around.bed_target > room, heats, heats, heats, heats), coolant=inputs.loop > 0.0
        )
        bodies = self.values[-len(BODIES) :] if len(self.values) else np.full(len(BODIES), room)
        air = network.air_at(bodies, room)
        inputs = replace(
            inputs,
            fan_air=air.fan,
            block_air=air.block,
            mount=air.mount,
            flow=inputs.flow if prints else 0.0,
            part_fan=inputs.part_fan if prints else 0.0,
            retractions=inputs.retractions if prints else 0.0,
            heater_power=inputs.heater_power if heats else 0.0,
            fan_voltage=inputs.fan_voltage if self.fan_runs else 0.0,
            loop=inputs.loop if self.fan_runs else 0.0,
        )
        model = build(inputs, self.fineness)
        loose = max(self.tolerance / TOLERANCE, 1.0)  # a coarser step need not be balanced as finely
        hotend = HotendInTime(model, STAGE_TOLERANCE * loose**2, MOVED * min(loose, 2.0))
        system = Coupled(hotend, network, self.setup.schedule.start_h, self.tolerance, eased)
        if not len(self.values):
            cells = model.layout.solid.size
            self.values = np.concatenate([np.full(cells, room), np.full(len(BODIES), room)])
        return system, replace(resolved, inputs=inputs)

    def _numbers(self, setup: Setup) -> tuple[Resolved, Inputs, Around]:
        """What a setup resolves to, changed where that is wanted; it stays the same until a fault."""
        if self._resolved is None or self._resolved[0] is not setup:
            resolved = resolve(setup, self.catalogue, self.tolerances)
            around = self.around if setup is self.setup else resolve_around(setup, self.catalogue, self.tolerances)
            self._resolved = (setup, resolved, *self.change(resolved.inputs, around.around))
        return self._resolved[1:]

    def _sensor(self) -> Array:
        return self.track.stretches[-1].system.model.problem.control.sensor


def _crossing(states: list[float], level: float) -> float:
    """Share of a step at which a value meets a level, on the parabola through start, middle and end; zero where it
    lay beyond from the start.
    """
    was, middle, now = states
    if now == was or (was - level) * (now - level) > 0.0:  # a step taken again up to its crossing ends short by a hair
        return 1.0 if abs(now - level) <= AT_REST_C < abs(was - level) else 0.0

    low, high = 0.0, 1.0
    for _ in range(HALVINGS):
        share = 0.5 * (low + high)
        beyond = (within_step(was, middle, now, share) - level) * (now - level) > 0.0
        low, high = (low, share) if beyond else (share, high)
    return high

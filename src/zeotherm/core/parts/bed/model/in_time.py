"""A bed in time: warm-up at full power, hold, cool-down; its field stepped implicitly with its thermostat inside."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass, field, replace
from functools import cached_property
from typing import Literal

import numpy as np
import numpy.typing as npt

from zeotherm.core.parts.bed.model.inputs import BedAir
from zeotherm.core.parts.bed.model.model import BedModel, Films, SolvedBed
from zeotherm.core.solver.axisymmetric import CancelledError
from zeotherm.core.solver.plate import Elimination
from zeotherm.core.solver.stepping import StepState, TimeStep, march, within_step

Array = npt.NDArray[np.float64]
TOLERANCE = 0.1  # K a step may be off
CORRECTIONS, CORRECTED = 6, 2e-5  # K
FILM_TURNS = 2  # in which films follow; then they stay, so that the field can settle
REACHED = 1.0  # K below the set value that count as reached
LONGEST_STEP = 900.0  # s
LONGEST_WARM_UP = 7200.0
FLOWS = ("heater", "up", "down", "rim", "mounts")
KEPT = ("grid", "plate", "capacity", "covered", "pattern", "mounts", "sensor", "heater_lag")  # the air changes none
Airs = Callable[[float], BedAir]


@dataclass(frozen=True)
class PlateMemory:
    """What a stage passes on."""

    factor: Elimination
    answer: Array  # of the field to one watt [K]
    power: float
    films: Films
    holds: bool


@dataclass(frozen=True)
class BedInTime:
    """One bed while its heater is full on, held by its thermostat, or off; values: the field's cells, then the watts
    that the heater passes on to them.

    A heater under its plate takes up heat of its own as it grows warmer than the plate: what it passes on follows what
    it is given with its capacity times its resistance as time constant, so it holds that time's worth of what it
    passes on over the plate's own heat. Exact where nothing leaves downward; else within that share.
    """

    model: BedModel
    airs: Airs
    heater: Literal["full", "held", "off"]
    tolerance: float = TOLERANCE

    @cached_property
    def shape(self) -> tuple[int, int]:
        """Of the field."""
        rows, columns = self.model.grid.inside.shape
        return rows, columns

    def heat(self, values: Array) -> Array:
        """Heat held by each cell, and by the heater besides [J]."""
        return np.asarray(np.append(self.model.capacity.ravel(), self.model.heater_lag) * values)

    def at(self, time: float) -> BedModel:
        """The bed in the air of a time [s]."""
        model = replace(self.model, air=self.airs(time))
        for name in (
            "grid",
            "plate",
            "capacity",
            "covered",
            "pattern",
            "mounts",
            "sensor",
            "heater_lag",
        ):  # as they were
            model.__dict__[name] = getattr(self.model, name)
        return model

    def stage(
        self, time: float, before: Array, push: Array, width: float, guess: Array, last: StepState | None
    ) -> StepState:
        """One implicit stage: the heater at the power that holds the set value, or at the most it can."""
        model = self.at(time)
        inside, area = model.grid.inside, model.grid.area
        inertia = np.where(inside, model.capacity / width, 0.0)
        held, pushed = before[:-1].reshape(self.shape) / width, push[:-1].reshape(self.shape)
        plate = np.where(inside, guess[:-1].reshape(self.shape), model.air.below)
        gives = 1.0 / (1.0 + model.heater_lag / width)  # of each watt, passed on at once
        stored = gives * float(before[-1] / width + push[-1])  # passed on of what was given before [W]
        power, films, holds = self._remembered(model, float(plate[inside].mean()), last)
        rim, factor, answer = model.plate.edge, None, np.zeros(self.shape)
        for turn in range(CORRECTIONS):
            at = model.through(plate, gives * power + stored, films)
            if turn < FILM_TURNS:
                films = model.films(float(at.face[inside].mean()), float(at.lower[inside].mean()))
            most = model.available(at.heater) if self.heater != "off" else 0.0
            power = power if holds else most
            off = (at.up + at.down) * area + (model.mounts * area + rim) * (plate - model.air.below)
            given = (gives * power + stored) * model.pattern * area + pushed - (inertia * plate - held)
            wrong = np.where(inside, given - off - model.plate.spreading(plate), 0.0)
            if factor is None:
                loss = np.where(inside, (at.slope_up + at.slope_down + model.mounts) * area + rim + inertia, 0.0)
                factor = Elimination(model.plate, loss)
                answer = factor.solve(model.pattern * area)
            step, more = factor.solve(wrong), 0.0
            if self.heater == "held":
                asked = power + self._missing(model, plate + step, at.heater + step, answer) / gives
                holds = 0.0 <= asked <= most
                more = min(max(asked, 0.0), most) - power
            by = step + more * gives * answer
            plate, power = plate + by, power + more
            if float(np.abs(by).max()) < CORRECTED:
                break
        up, down = at.up + at.slope_up * by, at.down + at.slope_down * by  # the last correction is small
        values = np.append(plate.ravel(), gives * power + stored)
        rates = (self.heat(values) - before) / width - push
        apart = np.where(inside, plate - model.air.below, 0.0)
        losses = (up * area * inside, down * area * inside, rim * apart, model.mounts * area * apart)
        flows = np.array([power, *(float(one.sum()) for one in losses)])
        assert factor is not None
        return StepState(values, rates, flows, PlateMemory(factor, answer, power, films, holds))

    def _remembered(self, model: BedModel, mean: float, last: StepState | None) -> tuple[float, Films, bool]:
        """Power, films and whether the thermostat held, at the stage before."""
        if last is not None and isinstance(last.memory, PlateMemory):
            return last.memory.power, last.memory.films, last.memory.holds
        return 0.0, model.films(mean, mean), False

    def _missing(self, model: BedModel, plate: Array, heater: Array, answer: Array) -> float:
        """Watts that bring the sensor to its set value, from the field's answer to one of them."""
        by_watt = model.reading(answer, answer + model.heater_resistance * model.pattern)
        return (model.inputs.target - model.reading(plate, heater)) / by_watt if by_watt > 0.0 else math.inf

    def error(self, watts: Array, width: float, stage: StepState) -> float:
        """Root mean square of the field's error over the tolerance, through the stage's own factor."""
        memory: PlateMemory = stage.memory
        passed = watts[-1] * self.model.pattern * self.model.grid.area
        apart = memory.factor.solve(watts[:-1].reshape(self.shape) + passed)
        if memory.holds:
            read = float((self.model.sensor * apart).sum()) / float((self.model.sensor * memory.answer).sum())
            apart = apart - read * memory.answer
        return math.sqrt(float((apart[self.model.grid.inside] ** 2).mean())) / self.tolerance


@dataclass(frozen=True)
class BedRun:
    """A bed's course: its field at the end of each step."""

    model: BedModel
    airs: Airs
    times: Array  # s
    fields: Array  # (steps, rows, columns) [°C]
    middles: Array
    powers: Array  # W
    passed: Array  # W, by the heater to the plate
    holds: npt.NDArray[np.bool_]
    films: tuple[Films, ...]
    joules: dict[str, float]
    gained: float  # J
    warm: float | None  # when the sensor came to its set value [s]; None: never
    off: float  # when the heater was switched off [s]

    @property
    def closure(self) -> float:
        """Heat that the balance loses, as a share of all that passed through [-]."""
        losses = [self.joules[name] for name in FLOWS[1:]]
        passed = max(self.joules["heater"], sum(abs(one) for one in losses), abs(self.gained), 1.0)
        return abs(self.joules["heater"] - sum(losses) - self.gained) / passed

    def moment(self, time: float) -> SolvedBed:
        """The bed at a time [s]."""
        after = min(max(int(np.searchsorted(self.times, time)), 1), len(self.times) - 1)
        length = self.times[after] - self.times[after - 1]
        share = min(max((time - self.times[after - 1]) / length, 0.0), 1.0)
        plate = within_step(self.fields[after - 1], self.middles[after], self.fields[after], share)
        power = float(self.passed[after - 1] + share * (self.passed[after] - self.passed[after - 1]))
        model = BedInTime(self.model, self.airs, "held").at(time)
        field_here = np.where(model.grid.inside, plate, np.nan)
        return SolvedBed(model, field_here, power, self.films[after], bool(self.holds[after]))

    def solved(self, index: int) -> SolvedBed:
        """The bed at the end of a step."""
        model = BedInTime(self.model, self.airs, "held").at(float(self.times[index]))
        plate = np.where(model.grid.inside, self.fields[index], np.nan)
        return SolvedBed(model, plate, float(self.passed[index]), self.films[index], bool(self.holds[index]))


@dataclass
class _Track:
    model: BedModel
    times: list[float] = field(default_factory=list)
    fields: list[Array] = field(default_factory=list)
    middles: list[Array] = field(default_factory=list)
    powers: list[float] = field(default_factory=list)
    passed: list[float] = field(default_factory=list)
    holds: list[bool] = field(default_factory=list)
    films: list[Films] = field(default_factory=list)
    joules: Array = field(default_factory=lambda: np.zeros(len(FLOWS)))

    def take(self, step: TimeStep) -> None:
        shape = self.model.grid.inside.shape
        memory: PlateMemory = step.end.memory
        self.times.append(step.start + step.length)
        self.fields.append(step.end.values[:-1].reshape(shape))
        self.middles.append(step.middle[:-1].reshape(shape))
        self.powers.append(memory.power)
        self.passed.append(float(step.end.values[-1]))
        self.holds.append(memory.holds)
        self.films.append(memory.films)
        self.joules += step.joules


def run_bed(
    model: BedModel,
    hold: float,
    cool: float = 0.0,
    *,
    airs: Airs | None = None,
    start: float | None = None,
    longest: float = LONGEST_WARM_UP,
    cancelled: Callable[[], bool] = lambda: False,
) -> BedRun:
    """A bed from cold: warm-up, then held so long, then switched off and left to cool so long [s].

    airs: what it stands in, by time [s], else what the model says; start: its temperature, else that of the air above
    [°C]; longest: a warm-up that takes longer is called never. Raises what the solver raises, and CancelledError.
    """
    given: Airs = airs or (lambda _time: model.air)
    first = given(0.0).above if start is None else start
    track = _Track(model)
    values = np.append(np.full(model.grid.inside.size, first), 0.0)
    begun = BedInTime(model, given, "held").heat(values)
    shape = model.grid.inside.shape
    track.times.append(0.0)
    track.fields.append(values[:-1].reshape(shape))
    track.middles.append(values[:-1].reshape(shape))
    track.powers.append(0.0)
    track.passed.append(0.0)
    track.holds.append(False)
    track.films.append(model.films(first, first))
    warm: list[float] = []

    def ends(step: TimeStep) -> float | None:
        if cancelled():
            raise CancelledError
        return None

    def reached(step: TimeStep) -> float | None:
        ends(step)
        memory: PlateMemory = step.end.memory
        states = [np.append(track.fields[-1], track.passed[-1]), step.middle, step.end.values]

        def reads(state: Array) -> float:  # at full power all along
            plate = state[:-1].reshape(shape)
            return model.reading(plate, model.through(plate, float(state[-1]), memory.films).heater)

        if reads(states[-1]) < model.inputs.target - REACHED:
            return None
        was, middle, now = (reads(state) for state in states)
        low, high = 0.0, 1.0
        for _halving in range(24):
            share = 0.5 * (low + high)
            beyond = within_step(was, middle, now, share) >= model.inputs.target - REACHED
            low, high = (low, share) if beyond else (share, high)
        warm.append(step.start + high * step.length)
        return warm[-1]

    heating, holding = BedInTime(model, given, "full"), BedInTime(model, given, "held")
    last: StepState | None = None
    now = 0.0
    if model.inputs.target > first and model.inputs.heater > 0.0:
        last = march(heating, values, 0.0, longest, first=2.0, longest=LONGEST_STEP, ends=reached, accepted=track.take)
        now, values = track.times[-1], last.values
    off = now + hold
    if hold > 0.0:
        last = march(
            holding, values, now, off, first=2.0, longest=LONGEST_STEP, ends=ends, accepted=track.take, last=last
        )
        values = last.values
    if cool > 0.0:
        cooling = BedInTime(model, given, "off")
        last = march(cooling, values, off, off + cool, first=2.0, longest=LONGEST_STEP, ends=ends, accepted=track.take)
        values = last.values
    gained = float((heating.heat(values) - begun).sum())
    return BedRun(
        model, given, np.array(track.times), np.array(track.fields), np.array(track.middles), np.array(track.powers),
        np.array(track.passed), np.array(track.holds), tuple(track.films),
        dict(zip(FLOWS, track.joules.tolist(), strict=True)), gained, warm[0] if warm else None, off,
    )  # fmt: skip

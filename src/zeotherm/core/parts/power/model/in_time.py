"""A power path over a job: its contacts and wires warm and cool with what flows and with the air they are in."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field, replace

import numpy as np
import numpy.typing as npt

from zeotherm.core.parts.power.model.model import (
    CEILING,
    OFF,
    Amps,
    Duty,
    PathAir,
    PathModel,
    SolvedPath,
    amps_of,
    solve_path,
    switch_at_rest,
)
from zeotherm.core.solver.axisymmetric import CancelledError
from zeotherm.core.solver.stepping import StepState, TimeStep, march

Array = npt.NDArray[np.float64]
TOLERANCE = 0.05  # K a step may be off
IN_STAGE = 2e-3  # K
LONGEST_STEP, FIRST_STEP = 900.0, 5.0  # s
TURNS = 30
FLOWS = ("made", "given")


@dataclass(frozen=True, slots=True)
class PathMoment:
    """What a path is asked for at one moment."""

    air: PathAir
    duty: Duty
    on: bool = True  # the whole machine


Moments = Callable[[float], PathMoment]


class TooHotError(ArithmeticError):
    """A part passed what anything of it stands."""


@dataclass(frozen=True)
class PathInTime:
    """A path while nothing is switched; values: its nodes."""

    model: PathModel
    moments: Moments
    tolerance: float = TOLERANCE

    def heat(self, values: Array) -> Array:
        """Heat held by each node [J]."""
        return np.asarray(self.model.heat * values)

    def stage(
        self, time: float, before: Array, push: Array, width: float, guess: Array, last: StepState | None
    ) -> StepState:
        """One implicit stage; its current is that of the temperatures it is guessed at, which move it by next to
        nothing."""
        now, held = self.moments(time), np.diag(self.model.heat / width)
        values = np.clip(guess, -60.0, CEILING + 50.0)
        amps = amps_at(self.model, now, values)
        for _turn in range(TURNS):
            flow, slopes = self.model.balance(values, now.air, amps)
            miss = flow - (self.heat(values) - before) / width + push
            step = np.linalg.solve(slopes + held, miss)
            values = values + np.clip(step, -60.0, 60.0)
            if float(values.max()) > CEILING + 50.0:
                raise TooHotError
            if float(np.abs(step).max()) < IN_STAGE:
                break
        flow, slopes = self.model.balance(values, now.air, amps)
        made, _grows = self.model.made(values, amps)
        given, _sheds = self.model.given(values, now.air)
        return StepState(values, flow, np.array([made.sum(), given.sum()]), slopes + held)

    def error(self, watts: Array, width: float, stage: StepState) -> float:
        """Greatest error of a node over the tolerance, through the stage's own matrix."""
        return float(np.abs(np.linalg.solve(stage.memory, watts)).max()) / self.tolerance


def amps_at(model: PathModel, now: PathMoment, values: Array) -> Amps:
    """What flows at a moment with its parts so warm."""
    if not now.on:
        return OFF
    solved = SolvedPath(model, now.air, values, OFF, now.air.board, now.duty, runs_away=False)
    return amps_of(model, solved, now.duty, now.air.bed)


@dataclass(frozen=True)
class PathRun:
    """A path's course."""

    models: tuple[tuple[float, PathModel], ...]  # each from its time on [s]
    moments: Moments
    times: Array  # s
    values: Array  # (steps, nodes) [°C]
    joules: dict[str, float]
    gained: float  # J
    burnt_at: float | None = None  # when a part passed the ceiling [s]; the course ends there

    def model_at(self, time: float) -> PathModel:
        """The path as it is made at a time [s]."""
        return next(model for start, model in reversed(self.models) if start <= time or start <= 0.0)

    @property
    def closure(self) -> float:
        """Heat that the balance loses, as a share of what was made [-]."""
        return abs(self.joules["made"] - self.joules["given"] - self.gained) / max(self.joules["made"], 1.0)

    def moment(self, time: float) -> SolvedPath:
        """The path at a time [s]."""
        values = np.array([np.interp(time, self.times, column) for column in self.values.T])
        return self.solved(time, values)

    def solved(self, time: float, values: Array) -> SolvedPath:
        """The path at a time [s], as warm as it is then [°C]."""
        now, model = self.moments(time), self.model_at(time)
        amps = amps_at(model, now, values)
        switch, over = switch_at_rest(model, now.air, amps, now.duty)
        return SolvedPath(model, now.air, values, amps, switch, now.duty, over)

    def series(self, name: str) -> Array:
        """A contact, or the warmest cell of a wire, over the times [°C]."""
        return np.asarray(self.values[:, self.models[0][1].nodes[name]].max(axis=1))


@dataclass
class _Track:
    times: list[float] = field(default_factory=list)
    values: list[Array] = field(default_factory=list)
    joules: Array = field(default_factory=lambda: np.zeros(len(FLOWS)))

    def take(self, step: TimeStep) -> None:
        self.times.append(step.start + step.length)
        self.values.append(step.end.values)
        self.joules += step.joules


def run_path(
    model: PathModel,
    moments: Moments,
    until: float,
    *,
    switched: tuple[float, ...] = (),
    later: tuple[tuple[float, PathModel], ...] = (),
    cancelled: Callable[[], bool] = lambda: False,
) -> PathRun:
    """A path from its air's temperature, over a time [s]; switched: times at which what is asked of it jumps; later:
    the path as a fault leaves it, from its time on, cut into as many cells.

    A part that passes the ceiling ends the course. Raises CancelledError.
    """
    start = solve_path(model, moments(0.0).air, on=False).values
    track = _Track([0.0], [start])
    models = ((0.0, model), *(one for one in sorted(later, key=lambda one: one[0]) if one[1].count == model.count))
    stops = sorted({one for one in (*switched, *(start for start, _model in models), until) if 0.0 < one <= until})

    def ends(step: TimeStep) -> float | None:
        if cancelled():
            raise CancelledError
        if float(step.end.values.max()) > CEILING:
            raise TooHotError
        return None

    now, values, burnt, gained = 0.0, start, None, 0.0
    try:
        for stop in stops:
            model = next(one for start_at, one in reversed(models) if start_at <= now)
            begun = values
            march(PathInTime(model, moments), values, now, stop, first=FIRST_STEP, longest=LONGEST_STEP, ends=ends,
                  accepted=track.take)  # fmt: skip
            now, values = stop, track.values[-1]
            gained += float((model.heat * (values - begun)).sum())
    except TooHotError:
        burnt = track.times[-1]
        gained += float((model.heat * (track.values[-1] - values)).sum())
    return PathRun(
        models, moments, np.array(track.times), np.array(track.values),
        dict(zip(FLOWS, track.joules.tolist(), strict=True)), gained, burnt,
    )  # fmt: skip


def time_to(model: PathModel, now: PathMoment, name: str, limit: float, longest: float = 7200.0) -> float | None:
    """After which time a part comes to a temperature [s], asked without end for what is asked now; None: not within
    the longest."""
    run = run_path(model, lambda _time: replace(now), longest)
    over = np.flatnonzero(run.series(name) >= limit)
    if not len(over):
        return run.burnt_at
    after = int(over[0])
    if after == 0:
        return 0.0
    times, series = run.times[after - 1 : after + 1], run.series(name)[after - 1 : after + 1]
    return float(np.interp(limit, series, times))

"""A power path over a job: its contacts and wires warm and cool with what flows and with the air they are in."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field, replace

import numpy as np
import numpy.typing as npt

from zeotherm.core.solver.axisymmetric import CancelledError
from zeotherm.core.solver.stepping import Stage, Step, march
from zeotherm.core.twin.power.model import (
    CEILING,
    Amps,
    PathAir,
    PathModel,
    SolvedPath,
    amps_of,
    solve_path,
    switch_at_rest,
)

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
    duty: float  # share of the time that the bed is on
    others: float  # W beside it on the feed
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

    def stage(self, time: float, before: Array, push: Array, width: float, guess: Array, last: Stage | None) -> Stage:
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
        return Stage(values, flow, np.array([made.sum(), given.sum()]), slopes + held)

    def error(self, watts: Array, width: float, stage: Stage) -> float:
        """Greatest error of a node over the tolerance, through the stage's own matrix."""
        return float(np.abs(np.linalg.solve(stage.memory, watts)).max()) / self.tolerance


def amps_at(model: PathModel, now: PathMoment, values: Array) -> Amps:
    """What flows at a moment with its parts so warm."""
    if not now.on:
        return Amps(0.0, 0.0, 0.0, 0.0)
    cold = Amps(0.0, 0.0, 0.0, 0.0)
    solved = SolvedPath(model, now.air, values, cold, now.air.board, now.duty, runs_away=False)
    return amps_of(model, solved, now.duty, now.others, now.air.bed)


@dataclass(frozen=True)
class PathRun:
    """A path's course."""

    model: PathModel
    moments: Moments
    times: Array  # s
    values: Array  # (steps, nodes) [°C]
    joules: dict[str, float]
    gained: float  # J
    burnt_at: float | None = None  # when a part passed the ceiling [s]; the course ends there

    @property
    def closure(self) -> float:
        """Heat that the balance loses, as a share of what was made [-]."""
        return abs(self.joules["made"] - self.joules["given"] - self.gained) / max(self.joules["made"], 1.0)

    def moment(self, time: float) -> SolvedPath:
        """The path at a time [s]."""
        now = self.moments(time)
        values = np.array([np.interp(time, self.times, column) for column in self.values.T])
        amps = amps_at(self.model, now, values)
        switch, over = switch_at_rest(self.model, now.air, amps, now.duty)
        return SolvedPath(self.model, now.air, values, amps, switch, now.duty, over)

    def series(self, name: str) -> Array:
        """A contact, or the warmest cell of a wire, over the times [°C]."""
        if name in self.model.at:
            return self.values[:, self.model.at[name]]
        return np.asarray(self.values[:, self.model.rows[name]].max(axis=1))


@dataclass
class _Track:
    times: list[float] = field(default_factory=list)
    values: list[Array] = field(default_factory=list)
    joules: Array = field(default_factory=lambda: np.zeros(len(FLOWS)))

    def take(self, step: Step) -> None:
        self.times.append(step.start + step.length)
        self.values.append(step.end.values)
        self.joules += step.joules


def run_path(
    model: PathModel,
    moments: Moments,
    until: float,
    *,
    switched: tuple[float, ...] = (),
    cancelled: Callable[[], bool] = lambda: False,
) -> PathRun:
    """A path from its air's temperature, over a time [s]; switched: times at which what is asked of it jumps.

    A part that passes the ceiling ends the course. Raises CancelledError.
    """
    start = solve_path(model, moments(0.0).air, duty=0.0, others=0.0).values
    track = _Track([0.0], [start])
    stops = sorted({one for one in (*switched, until) if 0.0 < one <= until})

    def ends(step: Step) -> float | None:
        if cancelled():
            raise CancelledError
        if float(step.end.values.max()) > CEILING:
            raise TooHotError
        return None

    now, values, burnt = 0.0, start, None
    try:
        for stop in stops:
            system = PathInTime(model, moments)
            last = march(system, values, now, stop, first=FIRST_STEP, longest=LONGEST_STEP, ends=ends,
                         accepted=track.take)  # fmt: skip
            now, values = stop, last.values
    except TooHotError:
        burnt = track.times[-1]
    gained = float((model.heat * (track.values[-1] - start)).sum())
    return PathRun(
        model, moments, np.array(track.times), np.array(track.values),
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

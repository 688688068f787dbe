"""Implicit steps in time: TR-BDF2, L-stable, with its error estimated in every step.

Bank et al., IEEE Trans. CAD 4 (1985) 436; error estimate of Hosea & Shampine, Appl. Numer. Math. 20 (1996) 21. As a
three-stage method: the rates F at the start, at γ and at the end of a step enter with the weights `W`, `W`, `D`, and
both implicit stages solve (heat(x) - before) / (D·h) = push + F(x), so that one factor serves them both and the heat
taken up over a step is exactly the weighted sum of its flows.

Begun, and begun again after every known event, by one short step of backward Euler: it makes rates and algebraic
unknowns consistent with what holds from then on, at an error that the short step keeps negligible. Where within a step
a control begins to hold what it governs, its source's rate jumps, which no step sees whole: the step is taken again up
to there, and begun again from there.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, NamedTuple, Protocol, TypeVar

import numpy as np
import numpy.typing as npt

Array = npt.NDArray[np.float64]
Value = TypeVar("Value", float, Array)
GAMMA = 2.0 - math.sqrt(2.0)
D = GAMMA / 2.0
W = math.sqrt(2.0) / 4.0
ERROR_WEIGHTS = (W - (1.0 - W) / 3.0, W - (3.0 * W + 1.0) / 3.0, D - D / 3.0)
SAFETY, LARGEST_GROWTH, LEAST_SHRINK = 0.85, 4.0, 0.2
FAILED_SHRINK, SHORTEST = 0.25, 1e-5  # s
KEEP = 1.2  # a step that would grow by less keeps its length, and its factor
NEAR_END = 0.02  # s within which a step meets the time at which it is to end
SETTLE = 0.05  # s, of the step that begins
BEYOND = 1.03  # of the time until a control begins to hold: how far a step goes that is to meet it
HARMLESS = 0.05  # an error at which a control may begin to hold within a step
LATE = 0.94  # of a step: a control that begins to hold later in it does no harm
ON_AFTER = 0.3  # of the step that led there: how far the first after it reaches


class TooSmallError(ArithmeticError):
    """The step fell below what time resolves."""


@dataclass(frozen=True)
class StepState:
    """The state at one moment: values, what flows into each cell [W], named flows [W], the system's own memory, the
    heat held by each cell where the stage knows it [J], and how far each control still is from what it is to hold:
    zero while it holds."""

    values: Array
    rates: Array
    flows: Array
    memory: Any = None
    held: Array | None = None
    away: tuple[float, ...] = ()


class System(Protocol):
    """What can be stepped: it solves its own implicit stages."""

    def stage(
        self, time: float, before: Array, push: Array, width: float, guess: Array, last: StepState | None
    ) -> StepState:
        """The state x with (heat(x) - before) / width = push + F(x, time)."""
        ...

    def heat(self, values: Array) -> Array:
        """Heat held by each cell [J]."""
        ...

    def error(self, watts: Array, width: float, stage: StepState) -> float:
        """Size of an error of the rates [W] over a step, in units of the tolerance; width as in `stage`."""
        ...


@dataclass(frozen=True)
class TimeStep:
    """One accepted step and the flows through it [J]."""

    start: float
    length: float
    middle: Array
    end: StepState
    joules: Array


def march(
    system: System,
    values: Array,
    start: float,
    stop: float,
    *,
    first: float = 1.0,
    settle: float = SETTLE,
    longest: float = math.inf,
    ends: Callable[[TimeStep], float | None] = lambda step: None,
    accepted: Callable[[TimeStep], None] = lambda step: None,
    last: StepState | None = None,
) -> StepState:
    """Step from start to stop [s] and return the last stage.

    values: the state at the start; first: length of the first full step; settle: of the backward Euler step before it;
    longest: no step is longer. ends: asked of each step; a time within it that it returns is where the run is to end
    instead, and the step is taken again up to there. accepted: told of each step that counts. Raises what the system's
    stages raise, and TooSmallError.
    """
    end = stop
    first_step = _settled(system, values, start, min(settle, 0.5 * (stop - start)), last)
    accepted(first_step)
    time, stage, length = start + first_step.length, first_step.end, first
    earlier: _Earlier | None = None
    while time < end - 1e-9:
        length = min(length, longest)
        left = end - time
        h = left if length > 0.999 * left else (0.5 * left if length > 0.7 * left else length)
        try:
            made, error = _step(system, time, h, stage, earlier)
        except ArithmeticError:  # a stage that finds no balance asks for a shorter step
            length, earlier = FAILED_SHRINK * h, None
            if length < SHORTEST:
                raise
            continue
        begins = _begins_to_hold(earlier, stage, made, h)
        if begins is not None and begins < LATE * h:
            if error > HARMLESS:
                length = begins
                continue
            begins = None
        factor = SAFETY * error ** (-1.0 / 3.0) if error > 1e-9 else LARGEST_GROWTH
        if error > 1.0:
            length = h * max(factor, LEAST_SHRINK)
            if length < SHORTEST:
                raise TooSmallError(f"the step at {time:.1f} s shrank to nothing")
            continue
        step = TimeStep(time, h, made.middle.values, made.end, made.joules)
        wish = ends(step)
        if wish is not None and wish < time + h - NEAR_END:
            end = max(wish, time + NEAR_END)
            continue
        accepted(step)
        earlier, stage, time = _Earlier(h, stage, made.middle), made.end, time + h
        if begins is not None and wish is None and time < end - SETTLE:
            again = _settled(system, stage.values, time, SETTLE, stage)
            accepted(again)
            time, stage, length, earlier = time + again.length, again.end, max(ON_AFTER * h, first), None
        elif h >= length * 0.999 or factor < 1.0:
            length = h * min(max(factor, LEAST_SHRINK), LARGEST_GROWTH) if not 1.0 <= factor < KEEP else h
        if wish is not None:
            break
    return stage


class _Earlier(NamedTuple):
    """The step before."""

    length: float
    start: StepState
    middle: StepState

    @property
    def back(self) -> float:
        """From its end to its middle [s]."""
        return (1.0 - GAMMA) * self.length


@dataclass(frozen=True)
class _Made:
    middle: StepState
    end: StepState
    joules: Array


def within_step(old: Value, middle: Value, new: Value, share: float) -> Value:
    """The state at a share of a step's length: a parabola through its start, its middle at γ and its end."""
    a, x = GAMMA, share
    return old * (1 - x) * (a - x) / a + middle * x * (1 - x) / (a * (1 - a)) + new * x * (x - a) / (1 - a)


def _begins_to_hold(earlier: _Earlier | None, old: StepState, made: _Made, h: float) -> float | None:
    """How far into a step the first control comes to what it is to hold, by how fast it came near [s]; None where none
    does."""
    found = []
    for key, (away, half, then) in enumerate(zip(old.away, made.middle.away, made.end.away, strict=True)):
        if away == 0.0 or min(half / away, then / away) > 0.0:
            continue
        rate = 0.0
        if half / away > 0.0:
            rate = (away - half) / (GAMMA * h)
        elif earlier is not None:
            rate = (earlier.start.away[key] - away) / earlier.length
        found.append(max(BEYOND * away / rate if rate / away > 0.0 else 0.5 * h, NEAR_END))
    return min(found, default=None)


def _settled(system: System, values: Array, start: float, length: float, last: StepState | None) -> TimeStep:
    """The backward Euler step at the start, as short as it must be."""
    while True:
        try:
            before = system.heat(values)
            stage = system.stage(start + length, before, np.zeros_like(values), length, values, last)
            return TimeStep(start, length, 0.5 * (values + stage.values), stage, length * stage.flows)
        except ArithmeticError:
            length *= FAILED_SHRINK
            if length < SHORTEST:
                raise


def _step(system: System, time: float, h: float, old: StepState, earlier: _Earlier | None) -> tuple[_Made, float]:
    before = system.heat(old.values) if old.held is None else old.held
    width = D * h
    guess = old.values
    if earlier is not None:
        guess = old.values + (old.values - earlier.middle.values) * (GAMMA * h / earlier.back)
    middle = system.stage(time + GAMMA * h, before, old.rates, width, guess, old)
    guess = _extrapolated(old.values, middle.values, earlier, h)
    end = system.stage(time + h, before, (W / D) * (old.rates + middle.rates), width, guess, middle)
    weights = ERROR_WEIGHTS
    wrong = weights[0] * old.rates + weights[1] * middle.rates + weights[2] * end.rates
    joules = h * (W * (old.flows + middle.flows) + D * end.flows)
    return _Made(middle, end, joules), system.error(wrong / D, width, end)


def _extrapolated(old: Array, middle: Array, earlier: _Earlier | None, h: float) -> Array:
    """The end of a step from its middle: a parabola through the last middle too, where there is one."""
    if earlier is None:
        return old + (middle - old) / GAMMA
    a, b = GAMMA * h, earlier.back
    first, second = (middle - old) / a, (old - earlier.middle.values) / b
    bend = (first - second) / (a + b)
    return old + first * h + bend * h * (h - a)

"""Implicit steps in time: TR-BDF2, L-stable, with its error estimated in every step.

Bank et al., IEEE Trans. CAD 4 (1985) 436; error estimate of Hosea & Shampine, Appl. Numer. Math. 20 (1996) 21. As a
three-stage method: the rates F at the start, at γ and at the end of a step enter with the weights `W`, `W`, `D`, and
both implicit stages solve (heat(x) - before) / (D·h) = push + F(x), so that one factor serves them both and the heat
taken up over a step is exactly the weighted sum of its flows.

Begun, and begun again after every known event, by one short step of backward Euler: it makes rates and algebraic
unknowns consistent with what holds from then on, at an error that the short step keeps negligible.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, Protocol, TypeVar

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


class TooSmallError(ArithmeticError):
    """The step fell below what time resolves."""


@dataclass(frozen=True)
class Stage:
    """The state at one moment: values, what flows into each cell [W], named flows [W], the system's own memory, and
    the heat held by each cell where the stage knows it [J]."""

    values: Array
    rates: Array
    flows: Array
    memory: Any = None
    held: Array | None = None


class System(Protocol):
    """What can be stepped: it solves its own implicit stages."""

    def stage(self, time: float, before: Array, push: Array, width: float, guess: Array, last: Stage | None) -> Stage:
        """The state x with (heat(x) - before) / width = push + F(x, time)."""
        ...

    def heat(self, values: Array) -> Array:
        """Heat held by each cell [J]."""
        ...

    def error(self, watts: Array, width: float, stage: Stage) -> float:
        """Size of an error of the rates [W] over a step, in units of the tolerance; width as in `stage`."""
        ...


@dataclass(frozen=True)
class Step:
    """One accepted step and the flows through it [J]."""

    start: float
    length: float
    middle: Array
    end: Stage
    joules: Array


def march(
    system: System,
    values: Array,
    start: float,
    stop: float,
    *,
    first: float = 1.0,
    settle: float = 0.05,
    longest: float = math.inf,
    ends: Callable[[Step], float | None] = lambda step: None,
    accepted: Callable[[Step], None] = lambda step: None,
    last: Stage | None = None,
) -> Stage:
    """Step from start to stop [s] and return the last stage.

    values: the state at the start; first: length of the first full step; settle: of the backward Euler step before it;
    longest: no step is longer. ends: asked of each step; a time within it that it returns is where the run is to end
    instead, and the step is taken again up to there. accepted: told of each step that counts. Raises what the system's
    stages raise, and TooSmallError.
    """
    end = stop
    settle, stage = _settled(system, values, start, min(settle, 0.5 * (stop - start)), last)
    accepted(Step(start, settle, 0.5 * (values + stage.values), stage, settle * stage.flows))
    time, length = start + settle, first
    earlier: tuple[float, Array] | None = None
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
        factor = SAFETY * error ** (-1.0 / 3.0) if error > 1e-9 else LARGEST_GROWTH
        if error > 1.0:
            length = h * max(factor, LEAST_SHRINK)
            if length < SHORTEST:
                raise TooSmallError(f"the step at {time:.1f} s shrank to nothing")
            continue
        step = Step(time, h, made.middle, made.end, made.joules)
        wish = ends(step)
        if wish is not None and wish < time + h - NEAR_END:
            end = max(wish, time + NEAR_END)
            continue
        accepted(step)
        earlier = (GAMMA * h - h, made.middle)
        stage, time = made.end, time + h
        if h >= length * 0.999 or factor < 1.0:
            length = h * min(max(factor, LEAST_SHRINK), LARGEST_GROWTH) if not 1.0 <= factor < KEEP else h
        if wish is not None:
            break
    return stage


@dataclass(frozen=True)
class _Made:
    middle: Array
    end: Stage
    joules: Array


def within_step(old: Value, middle: Value, new: Value, share: float) -> Value:
    """The state at a share of a step's length: a parabola through its start, its middle at γ and its end."""
    a, x = GAMMA, share
    return old * (1 - x) * (a - x) / a + middle * x * (1 - x) / (a * (1 - a)) + new * x * (x - a) / (1 - a)


def _settled(system: System, values: Array, start: float, length: float, last: Stage | None) -> tuple[float, Stage]:
    """The backward Euler step at the start, as short as it must be."""
    while True:
        try:
            before = system.heat(values)
            return length, system.stage(start + length, before, np.zeros_like(values), length, values, last)
        except ArithmeticError:
            length *= FAILED_SHRINK
            if length < SHORTEST:
                raise


def _step(
    system: System, time: float, h: float, old: Stage, earlier: tuple[float, Array] | None
) -> tuple[_Made, float]:
    before = system.heat(old.values) if old.held is None else old.held
    width = D * h
    if earlier is None:
        guess = old.values
    else:
        back, past = earlier
        guess = old.values + (old.values - past) * (GAMMA * h / -back)
    middle = system.stage(time + GAMMA * h, before, old.rates, width, guess, old)
    guess = _extrapolated(old.values, middle.values, earlier, h)
    end = system.stage(time + h, before, (W / D) * (old.rates + middle.rates), width, guess, middle)
    weights = ERROR_WEIGHTS
    wrong = weights[0] * old.rates + weights[1] * middle.rates + weights[2] * end.rates
    joules = h * (W * (old.flows + middle.flows) + D * end.flows)
    return _Made(middle.values, end, joules), system.error(wrong / D, width, end)


def _extrapolated(old: Array, middle: Array, earlier: tuple[float, Array] | None, h: float) -> Array:
    """The end of a step from its middle: a parabola through the last middle too, where there is one."""
    if earlier is None:
        return old + (middle - old) / GAMMA
    back, past = earlier
    a, b = GAMMA * h, -back
    first, second = (middle - old) / a, (old - past) / b
    bend = (first - second) / (a + b)
    return old + first * h + bend * h * (h - a)

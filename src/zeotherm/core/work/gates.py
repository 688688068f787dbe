"""Whether the step at hand may be left: each of its gates, open or held, and why."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from enum import Enum

from zeotherm.core.catalogue.procedures import Exit, Gate, Record, Step
from zeotherm.core.machine.doing import OpenStep
from zeotherm.core.work.holding import SHORT_K, HoldState, Said, held
from zeotherm.core.work.planning import PROOF, OrderLine
from zeotherm.core.work.waits import CoolingCurve

Span = tuple[float, float, float]  # earliest, likely, latest [s]


class Why(Enum):
    """Why a gate is held."""

    OPEN = "open"
    TICK = "tick"
    COMPUTING = "computing"
    NOT_BEGUN = "not_begun"
    NO_READING = "no_reading"
    STALE = "stale"
    HOT = "hot"
    COLD = "cold"
    OVER_CAP = "over_cap"
    CAMERA = "camera"
    TOO_LOW = "too_low"
    TOO_HIGH = "too_high"
    IMPOSSIBLE = "impossible"
    TIME = "time"
    CLOCK = "clock"


SAID = {
    Said.CAMERA: Why.CAMERA, Said.TOO_LOW: Why.TOO_LOW, Said.TOO_HIGH: Why.TOO_HIGH, Said.IMPOSSIBLE: Why.IMPOSSIBLE,
}  # fmt: skip


@dataclass(frozen=True)
class Aids:
    """What the model says of the step at hand; None: not computed yet, or not wanted."""

    curve: CoolingCurve | None = None  # of the place that cools, or of the block that is heated
    goal: float = 48.0  # to be met [°C]
    soak_s: float | None = None
    warm_s: Span | None = None
    reach: Mapping[str, Span | None] = field(
        default_factory=dict
    )  # what each source of heat would take; None: too cool
    cold_end: CoolingCurve | None = None  # while the hotend is held hot off its carriage
    rough: bool = False  # the model has no answer: the curve is a rough one


@dataclass(frozen=True)
class GateState:
    """One gate as it stands."""

    index: int
    gate: Gate
    why: Why
    left: Span | None = None  # s
    held: HoldState | None = None

    @property
    def open(self) -> bool:
        """Whether it lets through."""
        return self.why is Why.OPEN


def gates(step: Step, at: OpenStep, now_s: float | None, aids: Aids, cap_c: float | None = None) -> list[GateState]:
    """Every gate of a step.

    now_s: seconds since the heat went off, or on; None: the clock cannot be trusted since it was set back. cap_c: what
    the weakest part stands.
    """
    return [_state(index, gate, step, at, now_s, aids, cap_c) for index, gate in enumerate(step.gates)]


def _state(
    index: int, gate: Gate, step: Step, at: OpenStep, now_s: float | None, aids: Aids, cap_c: float | None
) -> GateState:
    if gate.kind == "tick":
        return GateState(index, gate, Why.OPEN if index in at.ticks else Why.TICK)
    if now_s is None:
        return GateState(index, gate, Why.CLOCK)
    if gate.kind == "hold":
        return _hold(index, gate, step, at, now_s, aids)
    return _read(index, gate, at, now_s, aids, cap_c)


def _read(index: int, gate: Gate, at: OpenStep, now_s: float, aids: Aids, cap_c: float | None) -> GateState:
    """A gate that a reading opens."""
    if aids.curve is None:
        return GateState(index, gate, Why.COMPUTING)
    found = held(aids.curve, at.readings, now_s, aids.goal)
    when = found.forecast.when(found.met)
    left = (max(when[0] - now_s, 0.0), max(when[1] - now_s, 0.0), max(when[2] - now_s, 0.0)) if when else None
    if (
        cap_c is not None
        and aids.curve.rises
        and at.readings
        and at.readings[-1].value > cap_c + at.readings[-1].tolerance
    ):
        return GateState(index, gate, Why.OVER_CAP, None, found)
    if found.open:
        return GateState(index, gate, Why.OPEN, None, found)
    if found.said and found.said[-1] in SAID:
        return GateState(index, gate, SAID[found.said[-1]], left, found)
    if not found.counted:
        return GateState(index, gate, Why.NO_READING, left, found)
    assert found.last is not None
    met = found.last.value >= aids.goal - SHORT_K if aids.curve.rises else found.last.value <= aids.goal
    why = Why.STALE if found.stale and met else Why.COLD if aids.curve.rises else Why.HOT
    if met and not found.stale:
        why = Why.NO_READING  # at the goal, but by the machine's own sensor: where a hand goes, a probe goes first
    return GateState(index, gate, why, left, found)


def _hold(index: int, gate: Gate, step: Step, at: OpenStep, now_s: float, aids: Aids) -> GateState:
    """A gate that time opens: from when the step's temperature was met, or from when it was begun."""
    begun: float | None = 0.0 if at.held_from is not None else None
    if any(one.kind == "reach" for one in step.gates):
        met = [one.after_s for one in at.readings if one.way != "camera" and one.value >= aids.goal - SHORT_K]
        begun = met[0] if met else None
    seconds: Span = (gate.seconds, gate.seconds, gate.seconds)
    if gate.computed == "soak":
        if aids.soak_s is None:
            return GateState(index, gate, Why.COMPUTING)
        seconds = (max(gate.seconds, aids.soak_s),) * 3
    elif gate.computed == "warm_through":
        if aids.warm_s is None:
            return GateState(index, gate, Why.COMPUTING)
        seconds = aids.warm_s
    if begun is None:
        return GateState(index, gate, Why.NOT_BEGUN, seconds)
    early, likely, late = (max(one - (now_s - begun), 0.0) for one in seconds)
    return GateState(index, gate, Why.OPEN if likely <= 0.0 else Why.TIME, (early, likely, late))


def missing_records(step: Step, at: OpenStep) -> list[Record]:
    """What still has to be noted."""
    return [
        one for one in step.record
        if one.required and one.key not in (at.photos if one.kind == "photo" else at.values)
    ]  # fmt: skip


def stops_exit(state: GateState, taken: Exit, line: OrderLine) -> bool:
    """Whether a gate keeps a step from being left by an exit.

    A step that fails may be left while its wait goes on, but never before what hurts was confirmed; a proof run that
    fails may be told as it is.
    """
    if state.open or (taken.fails and line.key == PROOF):
        return False
    return not taken.fails or state.gate.kind == "tick"

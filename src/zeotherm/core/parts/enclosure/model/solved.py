"""An enclosure at rest and in time: its nodes solved with the control of its heater inside."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from functools import cached_property

import numpy as np
import numpy.typing as npt

from zeotherm.core.parts.enclosure.model.model import (
    ABOVE,
    BELOW,
    FACES,
    HIGH,
    LOW,
    ChamberModel,
    EnclosureAround,
    Heated,
    Laws,
)
from zeotherm.core.physics.radiation import film_between
from zeotherm.core.solver.axisymmetric import CancelledError
from zeotherm.core.solver.plate import NotSettledError
from zeotherm.core.solver.stepping import NEAR_END, StepState, TimeStep, march, within_step

Array = npt.NDArray[np.float64]
TURNS = 400
SETTLED = 1e-8  # K, at rest
NEARLY = 1e-5  # K, at rest with a doubt at its half-width
IN_STAGE = 0.02  # K, within a step, two fifths of what that may be off; its flows are of the laws it was solved with
LEAST_DAMPED = 0.01
AT_A_JUMP = 0.05  # K; the published film above a warm plate jumps by 6 % at Ra 1e7: who stands there comes no nearer
POSSIBLE = (-80.0, 800.0)  # °C, that laws are asked for
SWEEPS, WATTS = 12, 1e-9  # over both halves, and W that count as met
IDLE = Heated()
AS_K = 10.0  # W of a heater that weigh as a kelvin does, where both move to a balance
MIXED, MIXED_TURNS, MOST_SHARE = 3, 60, 5.0  # turns that are mixed, for how many turns, and the largest share of one
TOLERANCE = 0.05  # K a step may be off
LONGEST_STEP, FIRST_STEP = 1800.0, 4.0  # s
FLOWS = ("heater", "bed", "low", "high", "walls", "to_room")
Arounds = Callable[[float], EnclosureAround]


@dataclass(frozen=True)
class SolvedChamber:
    """An enclosure at one moment."""

    model: ChamberModel
    around: EnclosureAround
    values: Array  # °C, by node
    heated: Heated
    holds: bool  # whether the control holds its set value

    @property
    def power(self) -> float:
        """Of its heaters [W]."""
        return self.heated.watts

    @cached_property
    def laws(self) -> Laws:
        """What flows at these temperatures."""
        return self.model.laws(self.values, self.around, self.heated)

    @property
    def low(self) -> float:
        """Air in the lower half, where the print is [°C]."""
        return float(self.values[LOW])

    @property
    def high(self) -> float:
        """Air in the upper half [°C]."""
        return float(self.values[HIGH])

    @property
    def reading(self) -> float:
        """What the control's sensor claims [°C]."""
        return self.model.reading(self.values)

    @cached_property
    def bed_watts(self) -> float:
        """That the bed gives [W]."""
        return _bed(self.around, self.values)

    @cached_property
    def air_lost(self) -> float:
        """That leaves with the air, through openings and fans [W]."""
        return float(self.laws.to_room[HIGH] * (self.values[HIGH] - self.around.room))

    @cached_property
    def radiated(self) -> float:
        """That the inner faces take by radiation, from the bed and from what the air warms [W]."""
        faces, (low, high) = self.values[FACES::2], self.model.radiant
        below, above = float(self.values[BELOW]), float(self.values[ABOVE])
        by_low = low * film_between(faces, below) * (below - faces)
        return float((by_low + high * film_between(faces, above) * (above - faces)).sum())

    @cached_property
    def lost(self) -> dict[str, float]:
        """Where the heat leaves [W]: each wall by its name, `gaps` and `vents` by their areas, the `exhaust` fan by its
        own air, and what only an `intake` fan pushes out, by its square in the root of squares."""
        laws, room = self.laws, self.around.room
        found = {
            wall.name: float(laws.to_room[FACES + 2 * n + 1] * (self.values[FACES + 2 * n + 1] - room))
            for n, wall in enumerate(self.model.inputs.walls)
        }
        given, moved = self.model.inputs, laws.moved
        vents = given.vent * given.vents_open
        areas = {"gaps": 0.5 * given.gap, "vents": vents}
        area = sum(areas.values())
        own = moved.stack**2 / moved.leaky if area > 0.0 and moved.leaky > 0.0 else 0.0
        pushed = moved.leaky - own  # by what one fan moves more than the other
        more = "exhaust" if given.exhaust >= given.intake else "intake"
        flows = {name: own * one / (area or 1.0) for name, one in areas.items()}
        flows |= {"exhaust": moved.through - moved.leaky, "intake": 0.0}
        flows[more] += pushed
        ways = {name: flow / moved.through if moved.through > 0.0 else 0.0 for name, flow in flows.items()}
        return found | {name: share * self.air_lost for name, share in ways.items() if share > 0.0}

    @property
    def given(self) -> float:
        """All that enters [W]."""
        around = self.around
        return self.power + self.bed_watts + around.low + around.high + around.on_walls

    def face(self, wall: str, *, outer: bool = False) -> float:
        """A wall's inner or outer face [°C]."""
        n = next(n for n, one in enumerate(self.model.inputs.walls) if one.name == wall)
        return float(self.values[FACES + 2 * n + outer])


def _bed(around: EnclosureAround, values: Array) -> float:
    air = (around.bed_up + around.bed_down) * (around.bed - values[LOW])
    radiated = around.bed_rad_up * (around.bed - values[ABOVE]) + around.bed_rad_down * (around.bed - values[BELOW])
    return float(air + radiated)


class _Mixed:
    """Anderson's mixing (1965) of a fixed point's last turns: from how the misses changed, where they would vanish."""

    def __init__(self) -> None:
        self._results: list[Array] = []
        self._misses: list[Array] = []

    def anew(self, at: Array) -> Array:
        """Begin once more at a point."""
        self._results, self._misses = [], []
        return at

    def next(self, result: Array, miss: Array) -> Array:
        """Where to look next; result: of the turn; miss: by how much it lies off where the turn began."""
        self._results, self._misses = [*self._results[-MIXED:], result], [*self._misses[-MIXED:], miss]
        if len(self._misses) < 2:
            return result
        by = np.diff(np.array(self._misses), axis=0).T
        shares = np.linalg.lstsq(by, miss, rcond=1e-8)[0]
        if float(np.abs(shares).max()) > MOST_SHARE:
            return self.anew(result)
        return np.asarray(result - np.diff(np.array(self._results), axis=0).T @ shares)


def _full_watts(model: ChamberModel, rest: Array, by_watt: Array) -> Array:
    """What the heaters give to the lower and the upper air with their control full on [W], laws as they stand: a cap
    or a fading element gives less the warmer its own air, which by_watt warms above rest [K/W].

    Each half's watts by regula falsi (Illinois: Dowell & Jarratt, BIT 11 (1971) 168) between nothing and what it gives
    at rest, the halves in turn: what is given falls with every watt, so there is one answer.
    """
    most = model.heater_gives(rest)
    found = most.copy()
    for _sweep in range(SWEEPS):
        before = found.copy()
        for half in np.flatnonzero(most > 0.0):
            found[half] = _own_watts(model, rest, by_watt, found, int(half), float(most[half]))
        if float(np.abs(found - before).max()) < WATTS:
            break
    return found


def _own_watts(model: ChamberModel, rest: Array, by_watt: Array, found: Array, half: int, most: float) -> float:
    def left(watts: float) -> float:
        tried = found.copy()
        tried[half] = watts
        return float(model.heater_gives(rest + by_watt @ tried)[half]) - watts

    low, high, over, under = 0.0, most, left(0.0), left(most)
    if under >= -WATTS or over <= WATTS:
        return high if under >= -WATTS else low
    for _turn in range(TURNS):
        middle = (low * under - high * over) / (under - over)
        now = left(middle)
        if abs(now) < WATTS or high - low < WATTS:
            return middle
        if now > 0.0:
            low, over, under = middle, now, 0.5 * under
        else:
            high, under, over = middle, now, 0.5 * over
    return 0.5 * (low + high)


def _balanced(
    model: ChamberModel,
    around: EnclosureAround,
    guess: Array,
    inertia: Array,
    held: Array,
    on: bool,
    settled: float,
    gave: Heated = IDLE,
) -> tuple[Array, Heated, bool, Array, Laws]:
    """Temperatures, watts of the heaters, whether their control holds, the matrix and the laws; inertia @ T is taken
    from held [W]. The laws are taken anew until nothing moves, by less at a time where they swing; what heaters give is
    solved within each. Without a set value a heater is off. gave: what heaters gave before."""
    given = model.inputs
    at = np.append(guess, [gave.low / AS_K, gave.high / AS_K])  # watts move with the temperatures
    last, damped = np.inf, 1.0
    mixed = _Mixed()
    on = on and given.target > 0.0
    heats = np.zeros((model.count, 2))
    heats[HIGH, 1], heats[model.arrays.inner[model.arrays.flat["roof"]], 1] = 1.0 - given.roofward, given.roofward
    for turn in range(TURNS):
        plumes = np.maximum(at[-2:], 0.0) * AS_K
        laws = model.laws(at[:-2], around, Heated(float(plumes[0]), float(plumes[1]), on))
        heats[[LOW, HIGH], 0] = 1.0 - laws.moved.lifted, laws.moved.lifted
        matrix = np.diag(inertia) - laws.matrix
        solved: Array = np.asarray(np.linalg.solve(matrix, np.column_stack([held + laws.given, heats])))
        rest, by_watt = solved[:, 0], solved[:, 1:]
        most = _full_watts(model, rest, by_watt) if on else np.zeros(2)
        whole = float(most.sum())
        warms = by_watt @ (most / whole) if whole > 0.0 else np.zeros(model.count)
        gain = model.reading(warms)
        asked = (given.target - model.reading(rest)) / gain if gain > 0.0 else np.inf
        power = min(max(asked, 0.0), whole)
        gives = most * (power / max(whole, WATTS))
        heated = Heated(float(gives[0]), float(gives[1]), on)
        after = np.concatenate([rest + power * warms, gives / AS_K])
        step = after - at
        size = float(np.abs(step[:-2]).max())
        if size < settled:
            return after[:-2], heated, 0.0 < asked < whole, matrix, laws
        if turn < MIXED_TURNS:
            found = mixed.next(after, step) if size < 2.0 * last else mixed.anew(at + 0.5 * step)
            at, last = np.clip(found, *POSSIBLE), size
            continue
        swings = size > max(0.9, 1.0 - 0.5 * damped) * last  # a damped turn shrinks the miss by its own share only
        damped = max(0.5 * damped, LEAST_DAMPED) if swings else min(1.1 * damped, 1.0)
        at, last = at + damped * step, size
        if turn == TURNS - 1 and damped * size < AT_A_JUMP:
            return at[:-2], heated, 0.0 < asked < whole, matrix, laws
    raise NotSettledError("the enclosure finds no balance: air above and below it swing without end")


def solve_chamber(
    model: ChamberModel, around: EnclosureAround, start: Array | None = None, settled: float = SETTLED
) -> SolvedChamber:
    """An enclosure at rest; start: temperatures to begin with; settled: by what they may still move [K].

    Raises NotSettledError.
    """
    guess = np.full(model.count, around.room + 5.0) if start is None else start
    nothing = np.zeros(model.count)
    values, heated, holds, _matrix, _laws = _balanced(model, around, guess, nothing, nothing, on=True, settled=settled)
    return SolvedChamber(model, around, values, heated, holds)


@dataclass(frozen=True)
class EnclosureMemory:
    """What a stage passes on."""

    matrix: Array
    heated: Heated
    holds: bool


@dataclass(frozen=True)
class ChamberInTime:
    """An enclosure while nothing is switched; values: its nodes."""

    model: ChamberModel
    arounds: Arounds
    on: bool  # its heater
    tolerance: float = TOLERANCE

    def heat(self, values: Array) -> Array:
        """Heat held by each node [J]."""
        return np.asarray(self.model.heat * values)

    def stage(
        self, time: float, before: Array, push: Array, width: float, guess: Array, last: StepState | None
    ) -> StepState:
        """One implicit stage, the heater's watts solved with it."""
        around = self.arounds(time)
        values, heated, holds, matrix, laws = _balanced(
            self.model,
            around,
            guess,
            self.model.heat / width,
            before / width + push,
            self.on,
            IN_STAGE,
            last.memory.heated if last is not None else IDLE,
        )
        held = self.heat(values)
        rates = (held - before) / width - push
        left = float((laws.to_room * (values - around.room)).sum())
        flows = np.array([heated.watts, _bed(around, values), around.low, around.high, around.on_walls, left])
        return StepState(values, rates, flows, EnclosureMemory(matrix, heated, holds), held)

    def error(self, watts: Array, width: float, stage: StepState) -> float:
        """Greatest error of a node over the tolerance, through the stage's own matrix."""
        memory: EnclosureMemory = stage.memory
        return float(np.abs(np.linalg.solve(memory.matrix, watts)).max()) / self.tolerance


@dataclass(frozen=True)
class ChamberRun:
    """An enclosure's course."""

    model: ChamberModel
    arounds: Arounds
    times: Array  # s
    values: Array  # (steps, nodes) [°C]
    middles: Array
    heated: list[Heated]
    holds: npt.NDArray[np.bool_]
    joules: dict[str, float]
    gained: float  # J
    later: tuple[tuple[float, ChamberModel], ...] = ()  # from when it stands otherwise [s], and how

    def model_at(self, time: float) -> ChamberModel:
        """The enclosure as it stands at a time [s]."""
        return _standing(self.model, self.later, time)

    @property
    def closure(self) -> float:
        """Heat that the balance loses, as a share of all that entered [-]."""
        entered = sum(self.joules[name] for name in FLOWS[:-1])
        return abs(entered - self.joules["to_room"] - self.gained) / max(abs(entered), abs(self.gained), 1.0)

    def moment(self, time: float) -> SolvedChamber:
        """The enclosure at a time [s]."""
        after = min(max(int(np.searchsorted(self.times, time)), 1), len(self.times) - 1)
        share = (time - self.times[after - 1]) / (self.times[after] - self.times[after - 1])
        share = min(max(float(share), 0.0), 1.0)
        values = within_step(self.values[after - 1], self.middles[after], self.values[after], share)
        one, other = self.heated[after - 1], self.heated[after]
        low, high = one.low + share * (other.low - one.low), one.high + share * (other.high - one.high)
        heated = Heated(low, high, other.on)
        return SolvedChamber(self.model_at(time), self.arounds(time), values, heated, bool(self.holds[after]))


@dataclass
class _Track:
    times: list[float] = field(default_factory=list)
    values: list[Array] = field(default_factory=list)
    middles: list[Array] = field(default_factory=list)
    heated: list[Heated] = field(default_factory=list)
    holds: list[bool] = field(default_factory=list)
    joules: Array = field(default_factory=lambda: np.zeros(len(FLOWS)))

    def take(self, step: TimeStep) -> None:
        memory: EnclosureMemory = step.end.memory
        self.times.append(step.start + step.length)
        self.values.append(step.end.values)
        self.middles.append(step.middle)
        self.heated.append(memory.heated)
        self.holds.append(memory.holds)
        self.joules += step.joules


def run_chamber(
    model: ChamberModel,
    arounds: Arounds,
    until: float,
    *,
    start: float | None = None,
    off: float | None = None,
    switched: tuple[float, ...] = (),
    later: tuple[tuple[float, ChamberModel], ...] = (),
    enough: float | None = None,
    cancelled: Callable[[], bool] = lambda: False,
) -> ChamberRun:
    """An enclosure from one temperature all over [°C], else its room's, over a time [s].

    off: when its heater is switched off, else never; switched: times at which what is around it jumps; later: from when
    it stands otherwise, as with its door open, of the same walls; enough: air at the print with which it ends [°C].
    Raises NotSettledError and CancelledError.
    """
    first = arounds(0.0).room if start is None else start
    track = _Track()
    values = np.full(model.count, first)
    begun = model.heat * values
    track.times.append(0.0)
    track.values.append(values)
    track.middles.append(values)
    track.heated.append(IDLE)
    track.holds.append(False)

    def ends(step: TimeStep) -> float | None:
        if cancelled():
            raise CancelledError
        reached = enough is not None and step.end.values[LOW] >= enough
        return step.start + step.length if reached else None

    stops = sorted(
        {
            one
            for one in (*switched, *(time for time, _model in later), off, until)
            if one is not None and 0.0 < one <= until
        }
    )
    now, last = 0.0, None
    for stop in stops:
        system = ChamberInTime(_standing(model, later, now), arounds, on=off is None or now < off)
        last = march(
            system, values, now, stop, first=FIRST_STEP, longest=LONGEST_STEP, ends=ends, accepted=track.take, last=None
        )
        now, values = stop, last.values
        if track.times[-1] < stop - NEAR_END:
            break
    return ChamberRun(
        model, arounds, np.array(track.times), np.array(track.values), np.array(track.middles),
        track.heated, np.array(track.holds), dict(zip(FLOWS, track.joules.tolist(), strict=True)),
        float((model.heat * values - begun).sum()), later,
    )  # fmt: skip


def _standing(model: ChamberModel, later: tuple[tuple[float, ChamberModel], ...], time: float) -> ChamberModel:
    for begun, other in later:
        model = other if time >= begun - 1e-6 else model
    return model

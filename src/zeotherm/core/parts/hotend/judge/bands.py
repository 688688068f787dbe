"""How far each prediction may be off, from the tolerances of what went in.

Every doubtful input is moved by its 95 % half-width. One Newton step with the solved field's own factor gives the
first-order change of everything; the inputs that matter most to any limit are then solved in full, on both sides. The
rises and the falls are summed as roots of squares, apart, so a band is unequal where the machine is.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from functools import lru_cache
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from zeotherm.core.judgement.bands import Doubted, Outcome, outcome, summed_doubts
from zeotherm.core.judgement.limits import Held
from zeotherm.core.parts.hotend.model.inputs import FACTORED, FEEDS, HotendAir, Inputs, Resolved, Shift
from zeotherm.core.parts.hotend.model.model import HotendModel, solve, with_input
from zeotherm.core.parts.hotend.model.readout import fed_values, read, values_of
from zeotherm.core.parts.hotend.model.solved import Solved
from zeotherm.core.solver import axisymmetric as solver

Array = npt.NDArray[np.float64]

SOLVED_IN_FULL = 7
FLOORS = {
    "guard_blocked": 0.0,
    "part_fan": 0.0,
    "latent": 0.0,
    "liner_short": 0.0,
    "liner_preload": 0.0,
    "nozzle_gap": 0.0,
}
CEILINGS = {"guard_blocked": 0.98, "part_fan": 1.0, "guard_open": 1.0, "sink_emissivity": 0.98}
AT_REST = 0.02  # share of the heater's power that may still warm a hotend that counts as settled
STORED = {f"{part}_capacity" for part in ("break", "sink", "block", "nozzle", "tube")} | {  # heat held: zero at rest
    "block_extra", "sink_extra", "sleeve_heat",
}  # fmt: skip
SHAPES = {"neck_wall", "neck_length"}  # what the grid is laid by
LEAST_SHARE = 0.15  # of its value that a positive input keeps


@dataclass(frozen=True)
class Bands(Doubted):
    """Those of a hotend, with its field's and the doubts that rooms share."""

    field: Array  # 95 % half-width of every cell's temperature, first order [K]
    changes: dict[str, list[Outcome]]  # input -> what its half-width up, and down, does to every figure

    def sure_of_all(self, rooms: dict[str, float], draws: int = 2000) -> float:
        """Probability that all of these rooms are positive at once [-].

        rooms: by limit. Every doubt is drawn from a normal curve and acts by its own change up or down, so rooms that
        hang on the same inputs stand and fall together. The draws are the same each time; good to about 2 %.
        """
        if not rooms:
            return 1.0
        above, below = _drawn(draws, len(self.changes))
        sides = [[_sides(outcomes, f"room:{key}") for key in rooms] for outcomes in self.changes.values()]
        up, down = np.moveaxis(np.array(sides), -1, 0)  # (doubts, rooms) each
        hold = np.array(list(rooms.values())) + above @ up + below @ down > 0.0
        return float(hold.all(axis=1).mean())


@lru_cache(maxsize=8)
def _drawn(draws: int, doubts: int) -> tuple[Array, Array]:
    """How far each doubt lies above, and below, in every draw, in half-widths; (draws, doubts) each."""
    z = np.random.default_rng(1).standard_normal((draws, doubts)) / 1.96
    return np.maximum(z, 0.0), np.maximum(-z, 0.0)


def _sides(outcomes: list[Outcome], key: str) -> tuple[float, float]:
    """What a doubt's half-width up, and down, changes."""
    up = outcomes[0].get(key, 0.0)
    return up, outcomes[1].get(key, 0.0) if len(outcomes) > 1 else -up


def doubted(resolved: Resolved, name: str, sign: float) -> Inputs:
    """The inputs with one doubt at its half-width, up or down; a doubt of the surroundings moves the air."""
    given = resolved.inputs
    if name in resolved.airs:
        by = resolved.airs[name].air
        return given.in_air(
            HotendAir(given.fan_air + sign * by.fan, given.block_air + sign * by.block, given.mount + sign * by.mount)
        )
    return moved(given, name, sign * resolved.doubts[name])


def moved(given: Inputs, name: str, by: float) -> Inputs:
    """The inputs with one of them moved, kept within what is possible."""
    value = getattr(given, name)
    if name in FACTORED:
        return with_input(given, name, value * math.exp(by))
    target = min(max(value + by, FLOORS.get(name, -math.inf)), CEILINGS.get(name, math.inf))
    if value > 0.0 and name not in FLOORS and not name.endswith(("air", "mount", "offset")):
        target = max(target, LEAST_SHARE * value)
    return with_input(given, name, target)


@dataclass(frozen=True, slots=True)
class _Given:
    """An exchange by what it gives at the field from which doubts are looked at."""

    cells: npt.NDArray[np.intp] | slice
    watts: Array
    slope: Array

    def flow(self, temperature: Array) -> tuple[Array, Array]:
        """Watts out of each cell and their slope [W/K], whatever the temperature."""
        return self.watts, self.slope


class _Start(NamedTuple):
    """Where every doubt is looked at from."""

    solved: Solved  # its field with a factor of its own balance
    warming: Array  # what that balance leaves over [W]; zero but for a moment in time
    exchanges: dict[int, _Given]  # by the identity of the law: most doubts leave most surfaces alone


def _start(solved: Solved) -> _Start:
    field, problem = solved.field, solved.model.problem
    factor, flat = solver.factorise(problem, field.temperature), field.temperature.reshape(-1)
    given = {id(one): _Given(one.cells, *one.flow(flat[one.cells])) for one in problem.exchanges}
    known = replace(problem, exchanges=tuple(given.values()))
    warming = solver.residual(known, field.temperature, field.power)
    return _Start(replace(solved, field=replace(field, factor=factor)), warming, given)


class _Changed(NamedTuple):
    """A hotend after one Newton step toward other inputs."""

    given: Inputs
    model: HotendModel
    stations: dict[str, float | None]
    field: Array  # of the hotend
    step: Array  # that led to it


def _first_order(start: _Start, name: str, given: Inputs) -> _Changed:
    """What one input does; the feed's stations are left for all changes at once, where they share a layout."""
    solved = start.solved
    field = solved.field
    if name in FEEDS:
        model = replace(solved.model, given=given)
        return _Changed(given, model, dict(solved.readout.values), field.temperature, np.zeros_like(field.temperature))
    model = solved.model.like(given)
    factor = field.factor
    if factor is None or model.layout.solid.shape != field.temperature.shape:
        there = solve(model)
        return _Changed(given, model, read(model, there).values, there.temperature, np.zeros_like(field.temperature))
    exchanges = tuple(start.exchanges.get(id(one), one) for one in model.problem.exchanges)
    wrong = solver.residual(replace(model.problem, exchanges=exchanges), field.temperature, field.power)
    wrong -= start.warming
    step = factor.solve(-wrong.reshape(-1)).reshape(wrong.shape)
    power = field.power
    if not field.saturated:
        control = model.problem.control
        response = factor.source_response.reshape(wrong.shape)
        miss = control.target - float((control.sensor * (field.temperature + step)).sum())
        change = miss / float((control.sensor * response).sum())
        step, power = step + change * response, power + change
    lacking = (solved.readout.values["heater_watts"] or 0.0) - field.power
    after = field.temperature + step
    return _Changed(given, model, dict(values_of(model, after, power + lacking, fed=False)), after, step)


def _with_feed(changed: Sequence[_Changed], layout: object) -> None:
    """Add the feed's stations: of one layout at once, of others each by itself."""
    same = [one for one in changed if one.model.layout is layout]
    for group in (same, *([one] for one in changed if one.model.layout is not layout)):
        if group:
            found = fed_values([one.model for one in group], [one.field for one in group])
            for one, stations in zip(group, found, strict=True):
                one.stations.update(stations)


def bands(
    solved: Solved,
    limits: list[Held],
    cancelled: Callable[[], bool] = lambda: False,
    in_full: int = SOLVED_IN_FULL,
) -> Bands:
    """95 % bands of every station and room. Raises CancelledError when `cancelled` says so.

    Of a moment in time, the bands are those of a hotend that has settled in the air of that moment; far from rest, as
    while it heats, they are of first order alone.
    """
    given = solved.resolved.inputs
    start = _start(solved)
    solved = start.solved
    base = outcome(given, solved.readout.values, limits)
    changes: dict[str, list[Outcome]] = {}
    spread = np.zeros_like(solved.field.temperature)

    def looked_at(name: str, one: Inputs) -> _Changed:
        if cancelled():
            raise solver.CancelledError
        return _first_order(start, name, one)

    def change(one: _Changed) -> Outcome:
        after = outcome(one.given, one.stations, limits)
        return {key: after.get(key, value) - value for key, value in base.items()}

    own = [name for name in solved.resolved.doubts if name not in STORED and name not in solved.resolved.airs]
    signs = {name: _on_one_grid(solved, name) for name in own}
    airs = [looked_at(name, with_input(given, name, getattr(given, name) + 1.0)) for name in solved.air.inputs()]
    plain = {name: looked_at(name, doubted(solved.resolved, name, signs[name])) for name in own}
    other = {name: looked_at(name, doubted(solved.resolved, name, -1.0)) for name in own if name in FEEDS}
    _with_feed([*airs, *plain.values(), *other.values()], solved.model.layout)
    by_kelvin = np.array([list(change(one).values()) for one in airs])
    steps = np.array([one.step for one in airs])
    for name in own:
        side = {key: signs[name] * by for key, by in change(plain[name]).items()}
        spread += plain[name].step ** 2
        changes[name] = [side, change(other[name]) if name in other else {key: -by for key, by in side.items()}]
    for name, shift in solved.resolved.airs.items():  # the air's three temperatures tell all of them
        kelvins = np.array(list(shift.air.inputs().values()))
        side = dict(zip(base, (kelvins @ by_kelvin).tolist(), strict=True))
        side |= _at_stations(shift, base, limits, 1.0)
        spread += np.tensordot(kelvins, steps, 1) ** 2
        changes[name] = [side, {key: -by for key, by in side.items()}]
    rest = _at_rest(solved, cancelled) if in_full else None
    if rest is not None:
        settled = outcome(given, rest.readout.values, limits)
        for name in _dominant(changes, in_full):
            sides = [_solved_change(rest, name, sign, settled, limits, cancelled) for sign in (1.0, -1.0)]
            changes[name] = [side for side in sides if side is not None] or changes[name]
    for limit in limits:
        if limit.limit.tolerance and f"room:{limit.key}" in base:
            width = {f"room:{limit.key}": limit.limit.tolerance}
            changes[f"limit:{limit.key}"] = [width, {key: -change for key, change in width.items()}]
    return _summed(base, changes, np.sqrt(spread))


def _on_one_grid(solved: Solved, name: str) -> float:
    """The side on which a doubt leaves the grid as it is; up where it is so on both, or on none."""
    if name not in SHAPES:
        return 1.0
    was = solved.model.layout.solid.shape
    fits = (
        sign
        for sign in (1.0, -1.0)
        if solved.model.like(doubted(solved.resolved, name, sign)).layout.solid.shape == was
    )
    return next(fits, 1.0)


def _at_rest(solved: Solved, cancelled: Callable[[], bool]) -> Solved | None:
    """The hotend once settled in the same air; none for one that is far from it."""
    if solved.settled:
        return solved
    watts = solved.readout.watts
    if abs(watts.taken_up) > AT_REST * watts.heater:
        return None
    try:
        field = solve(solved.model, solved.field, cancelled)
    except solver.NotConvergedError:
        return None
    readout = read(solved.model, field)
    readout = replace(readout, values={**solved.readout.values, **readout.values})
    return replace(solved, field=field, readout=readout, settled=True)


def _dominant(changes: dict[str, list[Outcome]], count: int) -> list[str]:
    totals: dict[str, float] = {}
    for outcomes in changes.values():
        for key, change in outcomes[0].items():
            if key.startswith("room:"):
                totals[key] = totals.get(key, 0.0) + change**2
    weight = {
        name: max((outcomes[0][key] ** 2 / total for key, total in totals.items() if total > 0.0), default=0.0)
        for name, outcomes in changes.items()
    }
    return sorted(weight, key=lambda name: -weight[name])[:count]


def _solved_change(
    solved: Solved, name: str, sign: float, base: Outcome, limits: list[Held], cancelled: Callable[[], bool]
) -> Outcome | None:
    given = doubted(solved.resolved, name, sign)
    model = solved.model.like(given)
    try:
        field = solve(model, solved.field, cancelled)
    except solver.NotConvergedError:
        return None
    after = outcome(given, read(model, field).values, limits)
    change = {key: after.get(key, value) - value for key, value in base.items()}
    shift = solved.resolved.airs.get(name)
    return change | _at_stations(shift, base, limits, sign) if shift is not None else change


def _at_stations(shift: Shift, base: Outcome, limits: list[Held], sign: float) -> Outcome:
    """What a doubt of the surroundings does at the surroundings' own stations, and to the room there."""
    found = {f"value:{key}": sign * by for key, by in shift.stations.items()}
    for limit in limits:
        by = shift.stations.get(limit.limit.station)
        if by is not None:
            found[f"room:{limit.key}"] = -sign * by if limit.limit.kind == "ceiling" else sign * by
    return {key: by for key, by in found.items() if key in base}


def _summed(base: Outcome, changes: dict[str, list[Outcome]], field: Array) -> Bands:
    summed = summed_doubts(base, changes)
    return Bands(summed.values, summed.rooms, summed.shares, field, changes)

"""A power path as contacts and cells of wire: what they carry, what warms and what cools them, at rest.

Of every pair the worse pole is solved. A wire is cut into cells that are small near its ends, where a warm contact
sheds into it; contact and wire are one network, its resistances those of its own temperatures. Where what is made grows
faster with temperature than what is shed, nothing comes to rest: it runs away.
"""

from __future__ import annotations

import itertools
import math
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
import numpy.typing as npt

from zeotherm.core.physics.radiation import flux_to_surroundings
from zeotherm.core.physics.wiring import grouped_share, warm_resistance, wire_film
from zeotherm.core.twin.power.inputs import SURFACE_EMISSIVITY, ContactIn, PathInputs, WireIn

Array = npt.NDArray[np.float64]
FIRST_CELL, CELL_GROWTH = 4e-3, 1.35  # m, at a wire's ends
CEILING = 400.0  # °C, beyond which nothing of a wire or contact is left: no rest below it is no rest
SETTLED = 1e-7  # K
TURNS = 60
STEP_UP = 20.0  # K, taken where everything still warms and the slope says nothing
MOST_CELLS = 40  # of half a wire
INSULATION_HEAT = 1.9e6  # J/m³K
OVER = 560.0 * np.linspace(0.0, 1.0, 161) ** 2  # K over the air at which a wire's heat is tabulated
JOINTS = ("supply_terminal", "feed_terminal", "plug", "tabs")


@dataclass(frozen=True, slots=True)
class PathAir:
    """What the parts of a path stand in [°C]."""

    supply: float  # at the supply
    board: float  # about the board, or the module
    terminals: float  # of the board's own body, where its terminals sit
    feed: float  # along the feed wire
    lead: float
    bed: float  # of the bed, where its tabs sit


@dataclass(frozen=True, slots=True)
class Amps:
    """What flows [A]: the direct value while the bed is on, and the root of the mean square with its duty."""

    bed: float
    feed: float
    bed_mean: float
    feed_mean: float


def cells_of(length: float) -> Array:
    """Lengths of a wire's cells, small at both ends [m]."""
    half: list[float] = []
    size, left = FIRST_CELL, 0.5 * length
    while left > 1.5 * size and len(half) < MOST_CELLS:
        half.append(size)
        left -= size
        size *= CELL_GROWTH
    half.append(left)
    return np.array(half + half[::-1])


class Line:
    """A wire between two contacts, as a row of cells."""

    def __init__(self, wire: WireIn, film: float, pressure: float) -> None:
        self.wire, self.pressure = wire, pressure
        self.lengths = cells_of(wire.length)
        self.metal_d = 2.0 * math.sqrt(wire.area / math.pi)
        self.outer_d = self.metal_d + 2.0 * wire.wall
        self.ohms = wire.resistivity * self.lengths / wire.area
        ends = np.concatenate([[0.0], 0.5 * self.lengths]), np.concatenate([0.5 * self.lengths, [0.0]])
        self.along = wire.metal_k * wire.area / (ends[0] + ends[1])  # between neighbours, and to the contacts [W/K]
        plastic = 0.25 * math.pi * (self.outer_d**2 - self.metal_d**2)
        self.heat = self.lengths * (wire.metal_heat * wire.area + INSULATION_HEAT * plastic)
        self.share = film * grouped_share(wire.wires)
        self.through = math.log(self.outer_d / self.metal_d) / (2.0 * math.pi * wire.insulation_k)
        self._shed: tuple[float, Array] | None = None  # air, and what a metre gives off by `OVER`

    def per_metre(self, metal: Array, air: float) -> Array:
        """What a metre gives to its air [W/mK] at temperatures of its metal [°C]: film and radiation, through its
        insulation."""
        surface = metal
        for _turn in range(2):
            over = np.where(np.abs(surface - air) < 0.05, air + 0.05, surface)
            radiated = flux_to_surroundings(over, air, SURFACE_EMISSIVITY) / (over - air)
            film = wire_film(over, air, self.outer_d, self.pressure) + radiated
            outside = self.share * math.pi * self.outer_d * film
            surface = air + (metal - air) / (1.0 + outside * self.through)
        return np.asarray(1.0 / (1.0 / outside + self.through))

    def given(self, metal: Array, air: float) -> tuple[Array, Array]:
        """What every cell gives to its air [W], and its slope [W/K], between the points of `OVER`; cooler ones take."""
        if self._shed is None or self._shed[0] != air:
            self._shed = (air, self.per_metre(air + OVER, air) * OVER)
        table, over = self._shed[1], np.abs(metal - air)
        at = np.clip(np.searchsorted(OVER, over) - 1, 0, len(OVER) - 2)
        slopes = (table[at + 1] - table[at]) / (OVER[at + 1] - OVER[at])
        watts = table[at] + slopes * (over - OVER[at])
        return self.lengths * np.sign(metal - air) * watts, self.lengths * slopes


@dataclass(frozen=True)
class SolvedPath:
    """A path at one moment, of its worse pole."""

    model: PathModel
    air: PathAir
    values: Array  # °C, by node
    amps: Amps
    switch_c: float
    duty: float
    runs_away: bool

    def contact(self, name: str) -> float:
        """A contact's temperature [°C]."""
        return float(self.values[self.model.at[name]])

    def wire(self, name: str) -> Array:
        """A wire's cells [°C]."""
        return self.values[self.model.rows[name]]

    def contact_ohms(self, name: str) -> float:
        """A contact's worse pole, as warm as it is [Ω]."""
        told: ContactIn = getattr(self.model.inputs, name)
        return float(warm_resistance(told.ohms, self.contact(name), told.per_k))

    def wire_ohms(self, name: str) -> float:
        """One wire, as warm as it is [Ω]."""
        line = self.model.lines[name]
        return float(warm_resistance(line.ohms, self.wire(name), line.wire.per_k).sum())

    def lost(self, name: str) -> float:
        """Volts across a part while the bed is on, both poles."""
        given = self.model.inputs
        amps = self.amps.feed if name in ("supply_terminal", "feed", "feed_terminal") else self.amps.bed
        if name == "switch":
            return amps * self.switch_ohms + given.switch.drop
        if name in self.model.lines:
            return 2.0 * amps * self.wire_ohms(name)
        told: ContactIn = getattr(given, name)
        return amps * (self.contact_ohms(name) + told.good)

    @property
    def switch_ohms(self) -> float:
        """The closed switch, as warm as it is [Ω]."""
        told = self.model.inputs.switch
        return told.ohms * (1.0 + told.per_k * (self.switch_c - 25.0))

    @property
    def bed_volts(self) -> float:
        """Left at the bed while it is on."""
        return self.model.inputs.volts - sum(self.lost(name) for name in PARTS)

    @property
    def bed_watts(self) -> float:
        """Of the bed while it is on."""
        return self.bed_volts * self.amps.bed

    @property
    def path_watts(self) -> float:
        """Lost on the way while the bed is on, both poles, with what the switch draws itself."""
        feed = sum(self.lost(name) for name in ("supply_terminal", "feed", "feed_terminal")) * self.amps.feed
        rest = sum(self.lost(name) for name in ("switch", "plug", "lead", "tabs")) * self.amps.bed
        return feed + rest + self.model.inputs.switch.own

    @cached_property
    def shed(self) -> tuple[float, float]:
        """Made in the solved pole, and given off by it [W]: equal at rest."""
        made, _slope = self.model.made(self.values, self.amps)
        given, _slope = self.model.given(self.values, self.air)
        return float(made.sum()), float(given.sum())


PARTS = ("supply_terminal", "feed", "feed_terminal", "switch", "plug", "lead", "tabs")


class PathModel:
    """The network of one path: contacts, then the feed's cells, then the lead's."""

    def __init__(self, inputs: PathInputs, *, per_metre: float | None = None) -> None:
        """per_metre: what every metre of wire gives to its air, where that is not to be computed [W/mK]."""
        self.inputs = inputs
        self.fixed = per_metre
        self.lines = {name: Line(getattr(inputs, name), inputs.film, inputs.pressure) for name in ("feed", "lead")}
        self.at = {name: n for n, name in enumerate(JOINTS)}
        self.rows: dict[str, slice] = {}
        count = len(JOINTS)
        self.ends = {"feed": ("supply_terminal", "feed_terminal"), "lead": ("plug", "tabs")}
        for name, line in self.lines.items():
            self.rows[name] = slice(count, count + len(line.lengths))
            count += len(line.lengths)
        self.count = count
        self.along = np.zeros((count, count))
        for name, line in self.lines.items():
            rows = self.rows[name]
            order = [self.at[self.ends[name][0]], *range(rows.start, rows.stop), self.at[self.ends[name][1]]]
            for (one, other), g in zip(itertools.pairwise(order), line.along, strict=True):
                self.along[[one, other], [one, other]] += g
                self.along[one, other] -= g
                self.along[other, one] -= g
        told = [getattr(inputs, name) for name in JOINTS]
        self.ohms = np.concatenate([[one.ohms for one in told], *(line.ohms for line in self.lines.values())])
        grown = [np.full(len(line.ohms), line.wire.per_k) for line in self.lines.values()]
        self.per_k = np.concatenate([[one.per_k for one in told], *grown])
        self.heat = np.concatenate([[one.heat for one in told], *(line.heat for line in self.lines.values())])
        self.on_feed = np.zeros(count, dtype=bool)
        self.on_feed[[0, 1]] = True
        self.on_feed[self.rows["feed"]] = True
        self.to_air = np.array([one.to_air for one in told])
        self.to_body = np.array([one.to_body for one in told])

    def made(self, values: Array, amps: Amps) -> tuple[Array, Array]:
        """Heat made in every node [W], and by how much it grows with its temperature [W/K]."""
        square = np.where(self.on_feed, amps.feed_mean, amps.bed_mean) ** 2
        return square * warm_resistance(self.ohms, values, self.per_k), square * self.ohms * self.per_k

    def given(self, values: Array, air: PathAir) -> tuple[Array, Array]:
        """Heat that every node gives off to air and bodies [W], and its slope [W/K]."""
        watts, slopes = np.zeros(self.count), np.zeros(self.count)
        airs = np.array([air.supply, air.board, air.board, air.lead])
        bodies = np.array([air.supply, air.terminals, air.terminals, air.bed])
        joints = values[: len(JOINTS)]
        watts[: len(JOINTS)] = self.to_air * (joints - airs) + self.to_body * (joints - bodies)
        slopes[: len(JOINTS)] = self.to_air + self.to_body
        for name, line in self.lines.items():
            rows, around = self.rows[name], getattr(air, name)
            if self.fixed is not None:
                watts[rows] = line.lengths * self.fixed * (values[rows] - around)
                slopes[rows] = line.lengths * self.fixed
                continue
            watts[rows], slopes[rows] = line.given(values[rows], around)
        return watts, slopes

    def balance(self, values: Array, air: PathAir, amps: Amps) -> tuple[Array, Array]:
        """Heat that flows into every node [W], and minus its slopes [W/K]."""
        made, grows = self.made(values, amps)
        given, sheds = self.given(values, air)
        return made - given - self.along @ values, self.along + np.diag(sheds - grows)


def amps_of(model: PathModel, solved: SolvedPath | None, duty: float, others: float, bed_c: float) -> Amps:
    """What flows [A]; duty: share of the time that the bed is on; others: watts on the feed beside it."""
    given = model.inputs
    bed = given.bed_ohms * (1.0 + given.bed_per_k * (bed_c - 20.0))
    shared = others / max(given.volts, 1.0) if given.kind.shared_feed else 0.0
    if solved is not None:
        parts = {name: _loop(solved, name) for name in PARTS}
    else:
        parts = {name: getattr(given, name).ohms + getattr(given, name).good for name in JOINTS}
        parts |= {name: 2.0 * float(line.ohms.sum()) for name, line in model.lines.items()}
        parts["switch"] = given.switch.ohms
    before = parts["supply_terminal"] + parts["feed"] + parts["feed_terminal"]
    flows = max(given.volts - given.switch.drop - shared * before, 0.0) / (bed + sum(parts.values()))
    feed = flows + shared
    mean = math.sqrt(duty) * flows
    return Amps(flows, feed, mean, math.sqrt(duty * feed**2 + (1.0 - duty) * shared**2))


def _loop(solved: SolvedPath, name: str) -> float:
    """Ohms of a part there and back, as warm as it is."""
    if name == "switch":
        return solved.switch_ohms
    if name in solved.model.lines:
        return 2.0 * solved.wire_ohms(name)
    good: float = getattr(solved.model.inputs, name).good
    return solved.contact_ohms(name) + good


def switch_at_rest(model: PathModel, air: PathAir, amps: Amps, duty: float) -> tuple[float, bool]:
    """A switch at rest [°C], and whether it runs away: I² R α against what cools it."""
    told = model.inputs.switch
    square = amps.bed_mean**2
    left = told.cooled - square * told.ohms * told.per_k
    made = square * told.ohms * (1.0 + told.per_k * (air.board - 25.0)) + told.drop * amps.bed * duty + told.own
    if left <= 0.0 or made / left > CEILING - air.board:
        return CEILING, True
    return air.board + made / left, False


def solve_path(
    model: PathModel, air: PathAir, *, duty: float = 1.0, others: float | None = None, start: Array | None = None
) -> SolvedPath:
    """A path at rest; duty: share of the time that its bed is on; others: watts beside it on the feed, else those late
    in a print; start: temperatures to begin with. What runs away is told, at the ceiling it was followed to."""
    beside = model.inputs.others if others is None else others
    values = _airs(model, air) if start is None else start
    amps = amps_of(model, None, duty, beside, air.bed)
    switch, over = switch_at_rest(model, air, amps, duty)
    solved = SolvedPath(model, air, values, amps, switch, duty, over)
    for _turn in range(TURNS):
        flow, slopes = model.balance(values, air, amps)
        step = _step(flow, slopes)
        values = np.clip(values + step, -60.0, CEILING)
        switch, over = switch_at_rest(model, air, amps, duty)
        solved = replace(solved, values=values, amps=amps, switch_c=switch, runs_away=over)
        after = amps_of(model, solved, duty, beside, air.bed)
        moved = abs(after.bed - amps.bed) + abs(after.feed - amps.feed)
        amps = after
        if float(values.max()) >= CEILING:
            return replace(solved, runs_away=True)
        if float(np.abs(step).max()) < SETTLED and moved < 1e-9:
            break
    return replace(solved, amps=amps)


def _airs(model: PathModel, air: PathAir) -> Array:
    found = np.empty(model.count)
    found[: len(JOINTS)] = [air.supply, air.board, air.board, air.lead]
    for name, rows in model.rows.items():
        found[rows] = getattr(air, name)
    return found


def _step(flow: Array, slopes: Array) -> Array:
    """Newton's step; where the slopes hold no rest, up where heat is left over."""
    try:
        np.linalg.cholesky(slopes)
    except np.linalg.LinAlgError:
        return np.full(len(flow), STEP_UP)
    return np.asarray(np.linalg.solve(slopes, flow))

"""A power path as contacts and cells of wire: what they carry, what warms and what cools them, at rest.

Of every pair the worse pole is solved. A wire is cut into cells that are small near its ends, where a warm contact
sheds into it; contact and wire are one network, its resistances those of its own temperatures. Where what is made grows
faster with temperature than what is shed, nothing comes to rest: it runs away.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from functools import cached_property, lru_cache

import numpy as np
import numpy.typing as npt

from zeotherm.core.parts.power.model.inputs import CONTACTS, SURFACE_EMISSIVITY, WIRES, ContactIn, PathInputs, WireIn
from zeotherm.core.physics.radiation import flux_to_surroundings
from zeotherm.core.physics.wiring import grouped_share, warm_resistance, wire_film

Array = npt.NDArray[np.float64]
FIRST_CELL, CELL_GROWTH = 4e-3, 1.35  # m, at a wire's ends
CEILING = 400.0  # °C, beyond which nothing of a wire or contact is left: no rest below it is no rest
SETTLED = 1e-7  # K
TURNS = 60
STEP_UP = 20.0  # K, taken where everything still warms and the slope says nothing
MOST_CELLS = 40  # of half a wire
INSULATION_HEAT = 1.9e6  # J/m³K
AIRS = 5.0  # K apart, at which that is tabulated; straight between
HOTTEST, INTERVALS = 560.0, 160  # K over the air to which a wire's heat is tabulated, closer where it is cool
OVER = HOTTEST * np.linspace(0.0, 1.0, INTERVALS + 1) ** 2
BED = ("switch", "plug", "lead", "tabs")  # parts of each branch, along the current
FEED = ("supply_terminal", "feed", "feed_terminal")
HOTEND = ("heater_terminal", "heater_lead", "heater_plug")
PARTS = (*FEED, *BED)  # of the way to the bed
BRANCH = dict.fromkeys(FEED, "feed") | dict.fromkeys(BED, "bed") | dict.fromkeys(HOTEND, "heater")
ENDS = {"feed": ("supply_terminal", "feed_terminal"), "lead": ("plug", "tabs"),
        "heater_lead": ("heater_terminal", "heater_plug")}  # fmt: skip
STANDS_IN = {  # air and body of each contact, air of each wire
    "supply_terminal": ("supply", "supply"), "feed_terminal": ("board", "terminals"), "plug": ("board", "terminals"),
    "tabs": ("lead", "bed"), "heater_terminal": ("board", "terminals"), "heater_plug": ("lead", "carriage"),
    "feed": ("feed", ""), "lead": ("lead", ""), "heater_lead": ("lead", ""),
}  # fmt: skip


@dataclass(frozen=True, slots=True)
class PathAir:
    """What the parts of a path stand in [°C]."""

    supply: float  # at the supply
    board: float  # about the board, or the module
    terminals: float  # of the board's own body, where its terminals sit
    feed: float  # along the feed wire
    lead: float
    bed: float  # of the bed, where its tabs sit
    carriage: float  # of the carriage, where the hotend's plug sits
    further: tuple[float, ...] = ()  # at each further supply

    def at(self, name: str) -> float:
        """The air about a contact or wire."""
        return float(getattr(self, STANDS_IN[name][0]))


@dataclass(frozen=True, slots=True)
class Duty:
    """Share of the time that each heater is on, and what the motors draw of what they do in a print [-]."""

    bed: float = 1.0
    heater: float = 1.0
    motors: float = 1.0


FULL = Duty()  # everything warms up


@dataclass(frozen=True, slots=True)
class Amps:
    """What flows [A]: the direct value while its load is on, and the root of the mean square with their duties."""

    bed: float
    feed: float
    heater: float
    bed_mean: float
    feed_mean: float
    heater_mean: float

    def through(self, name: str) -> float:
        """Through a part while its load is on."""
        return float(getattr(self, BRANCH[name]))

    def mean(self, name: str) -> float:
        """The root of the mean square through a part."""
        return float(getattr(self, f"{BRANCH[name]}_mean"))


OFF = Amps(0.0, 0.0, 0.0, 0.0, 0.0, 0.0)


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


def _per_metre(metal: Array, air: float, outer_d: float, share: float, through: float, pressure: float) -> Array:
    surface = metal
    for _turn in range(2):
        over = np.where(np.abs(surface - air) < 0.05, air + 0.05, surface)
        radiated = flux_to_surroundings(over, air, SURFACE_EMISSIVITY) / (over - air)
        film = wire_film(over, air, outer_d, pressure) + radiated
        outside = share * math.pi * outer_d * film
        surface = air + (metal - air) / (1.0 + outside * through)
    return np.asarray(1.0 / (1.0 / outside + through))


@lru_cache(maxsize=512)
def _shed(outer_d: float, share: float, through: float, pressure: float, air: float) -> Array:
    """What a metre gives off [W/m] by `OVER`."""
    return np.asarray(_per_metre(air + OVER, air, outer_d, share, through, pressure) * OVER)


class WireCells:
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

    def per_metre(self, metal: Array, air: float) -> Array:
        """What a metre gives to its air [W/mK] at temperatures of its metal [°C]: film and radiation, through its
        insulation."""
        return _per_metre(metal, air, self.outer_d, self.share, self.through, self.pressure)

    def shed(self, air: float) -> Array:
        """What a metre gives off at every one of `OVER` above an air [W/m], straight between `AIRS`."""
        below = math.floor(air / AIRS)
        share = air / AIRS - below
        one, other = (
            _shed(self.outer_d, self.share, self.through, self.pressure, AIRS * n) for n in (below, below + 1)
        )
        return np.asarray(one + share * (other - one))


@dataclass(frozen=True)
class SolvedPath:
    """A path at one moment, of its worse pole."""

    model: PathModel
    air: PathAir
    values: Array  # °C, by node
    amps: Amps
    switch_c: float
    duty: Duty
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
        given, amps = self.model.inputs, self.amps.through(name)
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
    def heater_volts(self) -> float:
        """Left at the hotend's heater while it is on."""
        return self.amps.heater * self.model.inputs.heater_ohms

    @property
    def heater_watts(self) -> float:
        """Of the hotend's heater while it is on."""
        return self.heater_volts * self.amps.heater

    @property
    def bed_watts(self) -> float:
        """Of the bed while it is on."""
        return self.bed_volts * self.amps.bed

    @property
    def path_watts(self) -> float:
        """Lost on the way to the bed while it is on, both poles, with what the switch draws itself."""
        return sum(self.lost(name) * self.amps.through(name) for name in PARTS) + self.model.inputs.switch.own

    def lost_mean(self, name: str) -> float:
        """Watts that a part gives off with its loads' duties, both poles."""
        if name == "switch":
            given = self.model.inputs.switch
            return self.amps.bed_mean**2 * self.switch_ohms + given.drop * self.amps.bed * self.duty.bed + given.own
        return self.amps.mean(name) ** 2 * loop_ohms(self, name)

    @cached_property
    def shed(self) -> tuple[float, float]:
        """Made in the solved pole, and given off by it [W]: equal at rest."""
        made, _slope = self.model.made(self.values, self.amps)
        given, _slope = self.model.given(self.values, self.air)
        return float(made.sum()), float(given.sum())


class PathModel:
    """The network of the paths: contacts, then the cells of feed, bed's lead and hotend's."""

    def __init__(self, inputs: PathInputs, *, per_metre: float | None = None) -> None:
        """per_metre: what every metre of wire gives to its air, where that is not to be computed [W/mK]."""
        self.inputs = inputs
        self.fixed = per_metre
        self.lines = {name: WireCells(getattr(inputs, name), inputs.film, inputs.pressure) for name in WIRES}
        self.at = {name: n for n, name in enumerate(CONTACTS)}
        self.rows: dict[str, slice] = {}
        count = len(CONTACTS)
        for name, line in self.lines.items():
            self.rows[name] = slice(count, count + len(line.lengths))
            count += len(line.lengths)
        self.count = count
        self.along = np.zeros((count, count))
        for name, line in self.lines.items():
            rows = self.rows[name]
            order = np.array([self.at[ENDS[name][0]], *range(rows.start, rows.stop), self.at[ENDS[name][1]]])
            one, other = order[:-1], order[1:]
            self.along[one, one] += line.along
            self.along[other, other] += line.along
            self.along[one, other] -= line.along
            self.along[other, one] -= line.along
        told = [getattr(inputs, name) for name in CONTACTS]
        self.ohms = np.concatenate([[one.ohms for one in told], *(line.ohms for line in self.lines.values())])
        grown = [np.full(len(line.ohms), line.wire.per_k) for line in self.lines.values()]
        self.per_k = np.concatenate([[one.per_k for one in told], *grown])
        self.heat = np.concatenate([[one.heat for one in told], *(line.heat for line in self.lines.values())])
        self.nodes = {name: slice(n, n + 1) for name, n in self.at.items()} | self.rows  # of every contact and wire
        self.branch = np.zeros(count, dtype=np.intp)  # of each node: feed, bed, heater
        for name, where in self.nodes.items():
            self.branch[where] = ("feed", "bed", "heater").index(BRANCH[name])
        self.twice = np.where(np.arange(count) < len(CONTACTS), 1.0, 2.0)  # wires lead there and back
        good = np.array([one.good for one in told])
        self.good = np.bincount(self.branch[: len(CONTACTS)], good, 3)  # of the other poles, by branch [Ω]
        self.lengths = np.concatenate([line.lengths for line in self.lines.values()])
        self.line = np.repeat(np.arange(len(self.lines)), [len(line.lengths) for line in self.lines.values()])
        self._last: tuple[PathAir, Array] | None = None
        self.to_air = np.array([one.to_air for one in told])
        self.to_body = np.array([one.to_body for one in told])

    def made(self, values: Array, amps: Amps) -> tuple[Array, Array]:
        """Heat made in every node [W], and by how much it grows with its temperature [W/K]."""
        square = np.array([amps.feed_mean, amps.bed_mean, amps.heater_mean])[self.branch] ** 2
        return square * warm_resistance(self.ohms, values, self.per_k), square * self.ohms * self.per_k

    def given(self, values: Array, air: PathAir) -> tuple[Array, Array]:
        """Heat that every node gives off to air and bodies [W], and its slope [W/K]."""
        watts, slopes = np.zeros(self.count), np.zeros(self.count)
        count = len(CONTACTS)
        airs, bodies = (np.array([getattr(air, STANDS_IN[name][n]) for name in CONTACTS]) for n in (0, 1))
        joints = values[:count]
        watts[:count] = self.to_air * (joints - airs) + self.to_body * (joints - bodies)
        slopes[:count] = self.to_air + self.to_body
        around = np.array([air.at(name) for name in self.lines])[self.line]
        over = values[count:] - around
        if self.fixed is not None:
            watts[count:], slopes[count:] = self.lengths * self.fixed * over, self.lengths * self.fixed
            return watts, slopes
        tables = self._tables(air)
        above = np.abs(over)
        at = np.minimum(np.sqrt(above / HOTTEST) * INTERVALS, INTERVALS - 1.0).astype(np.intp)
        low, high = tables[self.line, at], tables[self.line, at + 1]
        slope = (high - low) / (OVER[at + 1] - OVER[at])
        watts[count:] = self.lengths * np.sign(over) * (low + slope * (above - OVER[at]))
        slopes[count:] = self.lengths * slope
        return watts, slopes

    def _tables(self, air: PathAir) -> Array:
        """What a metre of each wire gives off in its air, (wires, `OVER`) [W/m]; cooler ones take as much."""
        last = self._last
        if last is None or last[0] != air:
            last = self._last = (air, np.array([line.shed(air.at(name)) for name, line in self.lines.items()]))
        return last[1]

    def balance(self, values: Array, air: PathAir, amps: Amps) -> tuple[Array, Array]:
        """Heat that flows into every node [W], and minus its slopes [W/K]."""
        made, grows = self.made(values, amps)
        given, sheds = self.given(values, air)
        return made - given - self.along @ values, self.along + np.diag(sheds - grows)


def amps_of(model: PathModel, solved: SolvedPath | None, duty: Duty, bed_c: float) -> Amps:
    """What flows [A], by Ohm's law in two loops that share the feed, or in two of their own; each load with the other
    at its share of the time, the rest at its watts. bed_c: of the bed [°C]."""
    given, shares = model.inputs, model.inputs.shares_feed
    bed = given.bed_ohms * (1.0 + given.bed_per_k * (bed_c - 20.0))
    warm = model.ohms if solved is None else warm_resistance(model.ohms, solved.values, model.per_k)
    switch = given.switch.ohms if solved is None else solved.switch_ohms
    sums = np.bincount(model.branch, warm * model.twice, 3) + model.good
    feed, to_bed, to_heater = float(sums[0]), float(sums[1]) + switch, float(sums[2])
    held = given.drawn(duty.motors, duty.heater) / max(given.volts, 1.0) if shares else 0.0
    own, common = feed + to_bed + bed, feed if shares else 0.0
    hot = common + to_heater + given.heater_ohms
    volts = max(given.volts - given.switch.drop - held * feed, 0.0), max(given.heater_volts - held * common, 0.0)
    if math.isinf(own):
        flows, heater = 0.0, volts[1] / hot
    else:
        by_heater, by_bed = duty.heater * common, duty.bed * common
        found = own * hot - by_heater * by_bed
        flows = (volts[0] * hot - by_heater * volts[1]) / found
        heater = (volts[1] * own - by_bed * volts[0]) / found
    others = held + (duty.heater * heater if shares else 0.0)
    means = duty.bed * flows + others
    swings = duty.bed * (1.0 - duty.bed) * flows**2
    swings += duty.heater * (1.0 - duty.heater) * heater**2 if shares else 0.0
    return Amps(
        flows, flows + others, heater, math.sqrt(duty.bed) * flows, math.sqrt(means**2 + swings),
        math.sqrt(duty.heater) * heater,
    )  # fmt: skip


def loop_ohms(solved: SolvedPath, name: str) -> float:
    """Ohms of a part there and back, as warm as it is."""
    if name == "switch":
        return solved.switch_ohms
    if name in WIRES:
        return 2.0 * solved.wire_ohms(name)
    good: float = getattr(solved.model.inputs, name).good
    return solved.contact_ohms(name) + good


def switch_at_rest(model: PathModel, air: PathAir, amps: Amps, duty: Duty) -> tuple[float, bool]:
    """A switch at rest [°C], and whether it runs away: I² R α against what cools it."""
    told = model.inputs.switch
    square = amps.bed_mean**2
    left = told.cooled - square * told.ohms * told.per_k
    made = square * told.ohms * (1.0 + told.per_k * (air.board - 25.0)) + told.drop * amps.bed * duty.bed + told.own
    if left <= 0.0 or made / left > CEILING - air.board:
        return CEILING, True
    return air.board + made / left, False


def solve_path(
    model: PathModel, air: PathAir, *, duty: Duty | None = None, start: Array | None = None, on: bool = True
) -> SolvedPath:
    """The paths at rest; duty: of their heaters, else of a bed that is always on and a hotend late in a print; start:
    temperatures to begin with; on: whether anything is. What runs away is told, at the ceiling it was followed to."""
    share = duty if duty is not None else Duty(1.0, model.inputs.heater_work)
    values = _airs(model, air) if start is None else start
    amps = amps_of(model, None, share, air.bed) if on else OFF
    switch, over = switch_at_rest(model, air, amps, share)
    solved = SolvedPath(model, air, values, amps, switch, share, over)
    for _turn in range(TURNS):
        flow, slopes = model.balance(values, air, amps)
        step = _step(flow, slopes)
        values = np.clip(values + step, -60.0, CEILING)
        switch, over = switch_at_rest(model, air, amps, share)
        solved = replace(solved, values=values, amps=amps, switch_c=switch, runs_away=over)
        after = amps_of(model, solved, share, air.bed) if on else OFF
        moved = abs(after.bed - amps.bed) + abs(after.feed - amps.feed) + abs(after.heater - amps.heater)
        amps = after
        if float(values.max()) >= CEILING:
            return replace(solved, runs_away=True)
        if float(np.abs(step).max()) < SETTLED and moved < 1e-9:
            break
    return replace(solved, amps=amps)


def _airs(model: PathModel, air: PathAir) -> Array:
    found = np.empty(model.count)
    for name, where in model.nodes.items():
        found[where] = air.at(name)
    return found


def _step(flow: Array, slopes: Array) -> Array:
    """Newton's step; where the slopes hold no rest, up where heat is left over."""
    try:
        np.linalg.cholesky(slopes)
    except np.linalg.LinAlgError:
        return np.full(len(flow), STEP_UP)
    return np.asarray(np.linalg.solve(slopes, flow))

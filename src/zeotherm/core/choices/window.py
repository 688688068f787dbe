"""The window of temperature against flow: where a hotend prints a plastic, what ends it on each side, what widens it.

Too cold to melt: the exit core falls to the plastic's floor. Creeps: little flow cools the cold end little, so that it
jams. Too hot: the weakest fitted part, or the plastic itself, by the guard.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field, replace

import numpy as np
import numpy.typing as npt

from zeotherm.core.catalogue.lookup import DoesNotFitError
from zeotherm.core.catalogue.shelves import Catalogue
from zeotherm.core.choices.build.slots import NO_PRICES, Candidate, Prices, candidates, filled
from zeotherm.core.choices.build.wanted import BuildWish
from zeotherm.core.guard.fitted import Assumed
from zeotherm.core.guard.heat import Cap, caps
from zeotherm.core.machine.documents import Setup, patched
from zeotherm.core.machine.patches import Patch
from zeotherm.core.parts.enclosure.judge.warmth import FINENESS, airs_of
from zeotherm.core.parts.hotend.judge.ask import first_answer, with_bands
from zeotherm.core.parts.hotend.judge.capacity import MELT_DOUBT, melt_ceiling, with_ample_heater
from zeotherm.core.parts.hotend.model.model import solve, with_input
from zeotherm.core.parts.hotend.model.readout import read
from zeotherm.core.parts.hotend.model.solved import Solved
from zeotherm.core.parts.whole.run import History
from zeotherm.core.solver.axisymmetric import CancelledError, NotConvergedError

Array = npt.NDArray[np.float64]
Cancelled = Callable[[], bool]
STEPS = 8  # of temperature at which both edges are solved; between them they run straight
BELOW_K = 25.0  # the picture reaches below the usual temperatures
LEAST_FLOW = 0.1  # mm³/s, below which nothing is looked for
WITHIN = 0.02  # of the flow
HALVINGS = 9
NEVER = 1e3  # mm³/s that stand for a flow that is never reached
SIDES = ("up", "down", "left", "right")
CLOSE = {"up": 5.0, "down": 5.0, "left": 0.5, "right": 0.5}  # of room [K, mm³/s], below which a side is close; estimate
FELT_K, LOOKED_AT = 0.5, 2  # of a part's gain that counts; parts of a slot that are solved in full
MOST_SHOWN = 5  # ways to widen it
MM3 = 1e-9


@dataclass(frozen=True, slots=True)
class Edges:
    """Both edges at one temperature."""

    nozzle: float  # °C
    most: float  # flow that melts, zero where none does [mm³/s]
    least: float  # flow below which the cold end creeps; infinite where it does in any [mm³/s]


@dataclass(frozen=True, slots=True)
class SideRoom:
    """How far a job is from each side: K up and down, mm³/s left and right; negative: it lies outside. Left it is
    plus or minus `NEVER` where the cold end creeps at no flow, or at any."""

    up: float
    down: float
    left: float
    right: float

    @property
    def tightest(self) -> str:
        """The side with the least room, 1 mm³/s counted as much as 4 K."""
        sides = {"up": self.up, "down": self.down, "left": 4.0 * self.left, "right": 4.0 * self.right}
        return min(sides, key=lambda one: sides[one])

    @property
    def fits(self) -> bool:
        """Whether the job lies inside."""
        return min(self.up, self.down, self.left, self.right) >= 0.0

    def of(self, side: str) -> float:
        """One of them."""
        return float(getattr(self, side))


@dataclass(frozen=True, slots=True)
class Widening:
    """A change and what it brings on the side that is tightest."""

    change: Patch
    label: str
    slot: str  # empty: a setting
    cost: float | None
    minutes: float
    gain: float  # in the side's unit
    room: SideRoom


@dataclass(frozen=True)
class PrintingWindow:
    """The window of one plastic on one machine."""

    setup: Setup
    plastic: str
    nozzle: float  # of the job [°C]
    flows: tuple[float, float]  # of the job, least and most [mm³/s]
    air: float  # °C
    usual: tuple[float, float]  # nozzle temperatures of the plastic [°C]
    ceilings: tuple[Cap, ...]  # weakest first
    edges: tuple[Edges, ...] = ()  # from cold to hot
    creep_doubt: float = 0.0  # of the least flow, as a share: 95 % half-width
    room: SideRoom | None = None  # none: not solved yet
    middle: float | None = None  # temperature with as much room up as down at the most flow [°C]
    widenings: tuple[Widening, ...] = field(default=())
    done: bool = False

    @property
    def ceiling(self) -> Cap:
        """What ends it at the top."""
        return self.ceilings[0]

    def doubt(self, side: str) -> float:
        """95 % half-width of the room on a side, in its unit; the ceiling keeps off its parts' tolerances already."""
        if self.room is None or side == "up":
            return 0.0
        most, least = flows_at(self.edges, self.nozzle)
        if side == "left":
            return self.creep_doubt * least if abs(self.room.left) < 0.5 * NEVER else 0.0
        if side == "right":
            return MELT_DOUBT * most
        warmer = _coldest(self.edges, self.flows[1] / (1.0 - MELT_DOUBT))
        return max(warmer - (self.nozzle - self.room.down), 0.0)

    @property
    def close(self) -> tuple[str, ...]:
        """Sides that the job lies inside of, by less than is clear or than is known; the tightest first."""
        if self.room is None:
            return ()
        near = {one: self.room.of(one) / max(CLOSE[one], self.doubt(one)) for one in SIDES}
        return tuple(sorted((one for one in SIDES if 0.0 <= near[one] < 1.0), key=lambda one: near[one]))

    @property
    def empty(self) -> bool:
        """Whether no temperature below the ceiling prints the job's flows."""
        inside = [one for one in self.edges if one.nozzle <= self.ceiling.value]
        return bool(inside) and not any(one.least <= self.flows[0] and one.most >= self.flows[1] for one in inside)


def window(
    found: Setup, change: Patch, wanted: BuildWish, run: History, assumed: Assumed, prices: Prices = NO_PRICES,
    tolerances: dict[str, float] | None = None, cancelled: Cancelled = lambda: False,
) -> Iterator[PrintingWindow]:  # fmt: skip
    """The window of a build with the first of its plastics, as it is solved: edges, room, then what widens it.

    Raises CancelledError, DoesNotFitError, NotConvergedError.
    """
    catalogue, plastic, flows = run.catalogue, wanted.plastics[0], (wanted.least_flow, wanted.flow)
    setup = patched(patched(found, change), wanted.for_plastic(plastic, catalogue))
    setup = patched(setup, {"printing": {"nozzle_c": wanted.nozzle, "flow_mm3_s": flows[1]}})
    usual = catalogue.filaments[plastic].usual_range
    ceilings = _ceilings(setup, catalogue, assumed)
    now = PrintingWindow(setup, plastic, wanted.nozzle, flows, wanted.air, usual, ceilings)
    solver = _Solving(run, wanted.air, tolerances, cancelled)
    low = min(usual[0], wanted.nozzle) - BELOW_K
    high = max(ceilings[0].value, wanted.nozzle) + 5.0
    edges: list[Edges] = []
    for nozzle in np.linspace(low, high, STEPS):
        edges.append(solver.edges(setup, float(nozzle)))
        now = replace(now, edges=tuple(edges))
        yield now
    room = room_in(now, wanted.nozzle)
    now = replace(now, room=room, middle=_middle(now))
    now = replace(now, creep_doubt=solver.creep_doubt(setup, wanted.nozzle, flows[0]))
    yield now
    found_ways: list[Widening] = []
    for one in _promising(now, found, change, wanted, catalogue, prices, solver):
        wider = _with(one, now, found, change, wanted, solver, assumed)
        if wider is not None:
            found_ways = _best([*found_ways, wider])
            now = replace(now, widenings=tuple(found_ways[:MOST_SHOWN]))
            yield now
    yield replace(now, done=True)


@dataclass(frozen=True)
class _Solving:
    """How an edge is solved."""

    run: History
    air: float
    tolerances: dict[str, float] | None
    cancelled: Cancelled

    def at(self, setup: Setup, nozzle: float, flow: float) -> Solved:
        """At rest in the warmest air, with another temperature and flow."""
        if self.cancelled():
            raise CancelledError
        trial = patched(setup, {"printing": {"nozzle_c": nozzle, "flow_mm3_s": flow}})
        air = airs_of(trial, self.run)(self.air)
        catalogue = self.run.catalogue
        answer = first_answer(trial, catalogue, self.tolerances, None, self.cancelled, air=air, fineness=FINENESS)
        return answer.solved

    def edges(self, setup: Setup, nozzle: float) -> Edges:
        """Both edges at one temperature."""
        given = with_ample_heater(self.at(setup, nozzle, setup.printing.flow_mm3_s))
        most = melt_ceiling(given, self.cancelled)
        return Edges(nozzle, (most or 0.0) / MM3, self.creeps(given, (most or MM3) / MM3))

    def room(self, setup: Setup, now: PrintingWindow, ceiling: float, side: str) -> SideRoom:
        """How far the job is from each side with other parts; the side that does not matter stays as it was."""
        assert now.room is not None
        given = with_ample_heater(self.at(setup, now.nozzle, now.flows[1]))
        before, least = flows_at(now.edges, now.nozzle)
        most = before
        if side == "left":
            least = min(self.creeps(given, before), NEVER)
        else:
            most = (melt_ceiling(given, self.cancelled) or 0.0) / MM3
        down = now.room.down + (most - before) / _slope(now.edges)
        return SideRoom(ceiling - now.nozzle, down, _left(now.flows[0], least), most - now.flows[1])

    def creeps(self, solved: Solved, most: float) -> float:
        """Flow below which the cold end jams, between very little and what melts [mm³/s]."""
        given = solved.resolved.inputs

        def room(flow: float) -> float:
            changed = replace(with_input(given, "flow", flow * MM3), feed_flow=flow * MM3)
            model = solved.model.like(changed)
            value = read(model, solve(model, solved.field, self.cancelled)).values["jam_room"]
            return value if value is not None else 1.0

        low, high = LEAST_FLOW, max(most, 2.0 * LEAST_FLOW)
        try:
            if room(low) >= 0.0:
                return 0.0
            best = next((one for one in (high, 0.6 * high, 0.35 * high) if room(one) >= 0.0), None)
            if best is None:
                return math.inf
            high = best
            for _ in range(HALVINGS):
                middle = math.sqrt(low * high)
                low, high = (low, middle) if room(middle) >= 0.0 else (middle, high)
                if high / low < 1.0 + WITHIN:
                    break
        except NotConvergedError:
            return math.inf
        return math.sqrt(low * high)

    def creep_doubt(self, setup: Setup, nozzle: float, flow: float) -> float:
        """95 % half-width of the least flow as a share: the doubt of the room there over how it falls with the flow."""
        air = airs_of(setup, self.run)(self.air)
        trial = patched(setup, {"printing": {"nozzle_c": nozzle, "flow_mm3_s": max(flow, LEAST_FLOW)}})
        catalogue = self.run.catalogue
        answer = with_bands(first_answer(trial, catalogue, self.tolerances, None, self.cancelled, air=air,
                                         fineness=FINENESS), self.cancelled)  # fmt: skip
        band = answer.bands.rooms.get("feed") if answer.bands is not None else None
        more = self.at(trial, nozzle, 1.5 * max(flow, LEAST_FLOW)).readout.values["jam_room"]
        here = answer.solved.readout.values["jam_room"]
        if band is None or more is None or here is None or more - here <= 0.1:
            return 1.0
        return min(band.down * math.log(1.5) / (more - here), 1.0)


def _ceilings(setup: Setup, catalogue: Catalogue, assumed: Assumed) -> tuple[Cap, ...]:
    """What ends the window at the top, weakest first, each part once."""
    found: dict[str, Cap] = {}
    for one in caps(setup, catalogue, assumed=assumed):
        found.setdefault(one.part, one)
    return tuple(found.values())


def flows_at(edges: tuple[Edges, ...], nozzle: float) -> tuple[float, float]:
    """Most and least flow at a temperature, on straight lines between those that were solved."""
    heights = np.array([one.nozzle for one in edges])
    most = float(np.interp(nozzle, heights, [one.most for one in edges]))
    least = float(np.interp(nozzle, heights, [min(one.least, NEVER) for one in edges]))
    return most, least


def room_in(window: PrintingWindow, nozzle: float) -> SideRoom:
    """How far the job is from each side at a temperature [°C]; below the plastic's usual ones layers bond badly."""
    flows = window.flows
    most, least = flows_at(window.edges, nozzle)
    coldest = max(_coldest(window.edges, flows[1]), window.usual[0])
    return SideRoom(window.ceiling.value - nozzle, nozzle - coldest, _left(flows[0], least), most - flows[1])


def _left(flow: float, least: float) -> float:
    """Room of a flow above where the cold end creeps; where it does at no flow, there is no such side."""
    return NEVER if least < LEAST_FLOW else flow - least


def _coldest(edges: tuple[Edges, ...], flow: float) -> float:
    """Temperature at which a flow just melts [°C]."""
    heights = np.array([one.nozzle for one in edges])
    melting = np.maximum.accumulate(np.array([one.most for one in edges]))
    if flow > melting[-1]:  # beyond the picture: on along its slope
        return float(heights[-1] + (flow - melting[-1]) / _slope(edges))
    return float(np.interp(flow, melting, heights))


def _middle(window: PrintingWindow) -> float | None:
    """The temperature with as much room up as down at the most flow, within what is usual; none where there is none."""
    ceiling = window.ceiling.value
    coldest = ceiling - room_in(window, ceiling).down
    return min(0.5 * (coldest + ceiling), max(window.usual[1], coldest)) if coldest < ceiling else None


SLOTS_FOR = {  # which slots bear on a side
    "up": ("hotend", "sensor", "sleeve", "block", "nozzle"), "down": ("nozzle", "hotend", "block"),
    "right": ("nozzle", "hotend", "block"), "left": ("cooling", "break", "hotend", "drive"),
}  # fmt: skip


def _ways(
    now: PrintingWindow, found: Setup, change: Patch, catalogue: Catalogue, prices: Prices
) -> Iterator[Candidate]:
    """What may widen it on its tightest side: settings first, then parts by price."""
    assert now.room is not None
    side = now.room.tightest
    if now.middle is not None and abs(now.middle - now.nozzle) >= 1.0 and side in ("up", "down"):
        printing: Patch = {"printing": {"nozzle_c": round(now.middle)}}
        yield Candidate("", "middle", f"{round(now.middle)}", printing, 0.0, 0.0, False)
    built = patched(found, change)
    every = [one for slot in SLOTS_FOR[side] for one in candidates(slot, found, built, catalogue, prices)]
    yield from sorted((one for one in every if one.change and not one.fitted), key=lambda one: one.cost or 0.0)


def _promising(
    now: PrintingWindow, found: Setup, change: Patch, wanted: BuildWish, catalogue: Catalogue, prices: Prices,
    solver: _Solving,
) -> list[Candidate]:  # fmt: skip
    """Settings, and of each slot the few parts that bring most for their price, by one solve of each."""
    assert now.room is not None
    side, ways = now.room.tightest, list(_ways(now, found, change, catalogue, prices))
    if side == "up":  # told by the parts' ratings alone
        return ways
    station, flow = ("jam_room", now.flows[0]) if side == "left" else ("exit_core", now.flows[1])
    before = solver.at(now.setup, now.nozzle, flow).readout.values[station] or 0.0
    brings: dict[str, list[tuple[float, Candidate]]] = {}
    for one in ways:
        if not one.slot:
            continue
        try:
            built = patched(found, filled(change, one, found, catalogue))
            setup = patched(built, wanted.for_plastic(now.plastic, catalogue))
            value = solver.at(setup, now.nozzle, flow).readout.values[station]
        except (DoesNotFitError, NotConvergedError, ValueError):
            continue
        if value is not None and value > before + FELT_K:
            brings.setdefault(one.slot, []).append(((value - before) / _price(one.cost, one.minutes), one))
    kept = [one for its in brings.values() for _worth, one in sorted(its, key=lambda two: -two[0])[:LOOKED_AT]]
    return [*(one for one in ways if not one.slot), *kept]


def _with(
    one: Candidate, now: PrintingWindow, found: Setup, change: Patch, wanted: BuildWish, solver: _Solving,
    assumed: Assumed,
) -> Widening | None:  # fmt: skip
    """What a change brings on the tightest side; none where it does not fit, or brings less than is felt."""
    assert now.room is not None
    side, catalogue = now.room.tightest, solver.run.catalogue
    nozzle = now.nozzle
    if not one.slot:
        nozzle = float(round(now.middle or nozzle))
        room = room_in(now, nozzle)
        gain = min(room.up, room.down) - now.room.of(side)
        return Widening(one.change, one.label, "", 0.0, 0.0, gain, room) if gain >= 1.0 else None
    try:
        whole = filled(change, one, found, catalogue)
        setup = patched(patched(found, whole), wanted.for_plastic(now.plastic, catalogue))
        ceiling = _ceilings(setup, catalogue, assumed)[0].value
        if side == "up":
            gain = ceiling - now.ceiling.value
            room = replace(now.room, up=ceiling - nozzle)
        else:
            room = solver.room(setup, now, ceiling, side)
            gain = room.of(side) - now.room.of(side)
    except (DoesNotFitError, NotConvergedError, ValueError):
        return None
    worse = any(room.of(each) < min(0.0, now.room.of(each)) - 0.5 for each in SIDES)
    felt = 1.0 if side in ("up", "down") else 0.1
    if gain < felt or worse or ceiling < min(now.nozzle, now.ceiling.value):
        return None
    return Widening(whole, one.label, one.slot, one.cost, one.minutes, gain, room)


def _slope(edges: tuple[Edges, ...]) -> float:
    """mm³/s that melts more for a kelvin."""
    rise = (edges[-1].most - edges[0].most) / (edges[-1].nozzle - edges[0].nozzle)
    return max(rise, 1e-3)


def _best(found: list[Widening]) -> list[Widening]:
    """The best of each slot, by what it brings, settings first."""
    kept: dict[str, Widening] = {}
    for one in found:
        other = kept.get(one.slot)
        if other is None or _worth(one) > _worth(other):
            kept[one.slot] = one
    return sorted(kept.values(), key=lambda one: -one.gain)


def _worth(one: Widening) -> float:
    """What it brings for its price."""
    return one.gain / _price(one.cost, one.minutes)


def _price(cost: float | None, minutes: float) -> float:
    """What a change costs, with a little for trying and for its work."""
    return 4.0 + (cost if cost is not None else 1e3) + minutes / 10.0

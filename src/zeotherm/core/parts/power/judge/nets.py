"""A way of wiring checked before anything is wired: which end points meet, and what would come of it.

Wires join end points to nets; fuse and cut-off link two nets each. Every rule asks what of the links lies between two
end points: nothing (one net), some of them, or no way at all. Nets are known by their end points, never by colour.
"""

from __future__ import annotations

import itertools
from collections import deque
from collections.abc import Generator, Iterator
from dataclasses import dataclass

from zeotherm.core.catalogue.power import Terminals
from zeotherm.core.catalogue.shelves import Catalogue
from zeotherm.core.guard.wires import (
    EARTH_FULL_MM2,
    FULL_LOAD,
    FUSE_LOAD,
    WireSite,
    around_of,
    carried,
    fuse_for,
    fuse_made_for,
    least_mm2,
    sizes,
    thick_enough,
)
from zeotherm.core.machine.documents import Setup
from zeotherm.core.machine.supplies import FIRST
from zeotherm.core.machine.wiring import Link, Wiring
from zeotherm.core.parts.power.judge.answer import PowerAnswer, warmest
from zeotherm.core.parts.power.judge.sizing import own_switch_rating
from zeotherm.core.parts.power.model.inputs import bed_fed_at

# What lies in series between two nets, by its two end points.
SERIES = {
    "fuse": ("fuse.a", "fuse.b"), "cutoff": ("cutoff.a", "cutoff.b"), "inlet_fuse": ("inlet_fuse.a", "inlet_fuse.b"),
    "inlet_line": ("inlet_switch.line_in", "inlet_switch.line_out"),
    "inlet_neutral": ("inlet_switch.neutral_in", "inlet_switch.neutral_out"),
}  # fmt: skip
SELECTED_V = {"115": (85.0, 135.0), "230": (180.0, 265.0)}  # mains volts that a selector's place stands for


@dataclass(frozen=True, slots=True)
class WiringDemand:
    """What a way of wiring is checked for."""

    lead: WireSite  # what the wires at the bed lie in
    feed: WireSite  # and all others
    amps: float = 0.0  # of the bed [A]; zero: not known
    rated: float = 0.0  # of the switch's kind [A], where the wiring states none; zero: not known
    source_a: float = 0.0  # that the supply drives at most; zero: not known
    volts: float = 24.0  # of the supply
    mains_v: float = 230.0


def feed_of(answer: PowerAnswer) -> WiringDemand:
    """What the wiring of a machine's bed is checked for, in the warmest air of its job."""
    setup, given = answer.setup, answer.resolved.inputs
    return WiringDemand(
        around_of(setup, answer.catalogue, "lead", warmest(answer, "lead")),
        around_of(setup, answer.catalogue, "feed", warmest(answer, "feed")),
        answer.full.amps.bed, own_switch_rating(answer), _source(setup), given.volts, given.mains,
    )  # fmt: skip


def usual_feed(setup: Setup, catalogue: Catalogue, amps: float = 0.0, rated: float = 0.0) -> WiringDemand:
    """The same where no path is solved: in the room's air, with the leads that the document states."""
    lead, feed = (around_of(setup, catalogue, one, setup.room.mean_c) for one in ("lead", "feed"))
    return WiringDemand(lead, feed, amps, rated, _source(setup), bed_fed_at(setup), setup.power.mains_v)


def _source(setup: Setup) -> float:
    """What may flow through a wire before any fuse of the bed's: the supply's rating, or the board's fuse."""
    number = setup.power.bed_from
    if number != FIRST:
        other: float = setup.supplies[number].supply_w / setup.supplies[number].out_v
        return other
    most = setup.power.supply_w / setup.power.out_v
    return min(most, setup.power.board_fuse_a) if setup.power.board_fuse_a > 0.0 else most


@dataclass(frozen=True, slots=True)
class BrokenRule:
    """A rule that is broken, and the end points where."""

    key: str
    ends: tuple[str, ...]


class Nets:
    """End points joined by wires, and what lies between nets."""

    def __init__(self, wiring: Wiring) -> None:
        self._root: dict[str, str] = {}
        for link in wiring.links:
            self._join(*link.ends)

    def of(self, end: str) -> str:
        """The net of an end point, by one of its end points."""
        while self._root.get(end, end) != end:
            end = self._root[end]
        return end

    def _join(self, one: str, other: str) -> None:
        self._root[self.of(one)] = self.of(other)

    def meet(self, one: str, other: str) -> bool:
        """Whether two end points are one net."""
        return self.of(one) == self.of(other)

    def between(self, one: str, other: str) -> frozenset[str] | None:
        """What lies in series on the way with the fewest of it; None: there is no way."""
        start, goal = self.of(one), self.of(other)
        ways: dict[str, frozenset[str]] = {start: frozenset()}
        queue = deque([start])
        while queue:
            at = queue.popleft()
            if at == goal:
                return ways[at]
            for name, ends in SERIES.items():
                near, far = (self.of(end) for end in ends)
                for this, that in ((near, far), (far, near)):
                    if this == at and that not in ways:
                        ways[that] = ways[at] | {name}
                        queue.append(that)
        return None


def check(wiring: Wiring, catalogue: Catalogue, feed: WiringDemand) -> list[BrokenRule]:
    """Every fault of a way of wiring, worst first; none: it may be wired. What is not known is a fault, too."""
    told = list(_ends(wiring, catalogue))
    if any(one.key in ("unknown_end", "nowhere") for one in told):
        return told
    nets = Nets(wiring)
    rules = _module if wiring.kind == "module" else _mains
    told += rules(nets, wiring)
    told += _inlet(nets, wiring, feed) if wiring.kind == "mains" else ()
    told += _sizes(nets, wiring, catalogue, feed)
    told += _fuse_kinds(nets, wiring, catalogue, feed)
    order = {"stop": 0, "fire": 1, "dead": 2}
    unique = list(dict.fromkeys(told))
    return sorted(unique, key=lambda one: order[catalogue.wiring_faults[one.key].bad])


def end_points(catalogue: Catalogue, kind: str) -> dict[str, str]:
    """Every end point of a kind of wiring, with its label."""
    return {
        end: f"{entry.label} {label}"
        for part, entry in catalogue.terminals.items()
        if kind in entry.kinds
        for end, label in points_of(part, entry, kind)
    }


def points_of(part: str, entry: Terminals, kind: str) -> tuple[tuple[str, str], ...]:
    """The end points of a part in a kind of wiring, each with its own label."""
    points = entry.points | (entry.mains_points if kind == "mains" else {})
    return tuple((f"{part}.{point}", label) for point, label in points.items())


def _ends(wiring: Wiring, catalogue: Catalogue) -> Iterator[BrokenRule]:
    known, seen = end_points(catalogue, wiring.kind), set()
    for link in wiring.links:
        one, other = link.ends
        missing = tuple(end for end in link.ends if end not in known)
        if missing:
            yield BrokenRule("unknown_end", missing)
        elif one == other:
            yield BrokenRule("nowhere", (one,))
        elif frozenset(link.ends) in seen:
            yield BrokenRule("twice", (one, other))
        seen.add(frozenset(link.ends))


def _board(nets: Nets) -> Iterator[BrokenRule]:
    """The supply's own terminals, and the board's."""
    if nets.between("supply.plus", "supply.minus") is not None:
        yield BrokenRule("short", ("supply.plus", "supply.minus"))
    fed = (nets.meet("board.in_plus", "supply.plus"), nets.meet("board.in_minus", "supply.minus"))
    crossed = nets.meet("board.in_plus", "supply.minus") or nets.meet("board.in_minus", "supply.plus")
    if crossed:
        yield BrokenRule("board_reversed", ("board.in_plus", "board.in_minus"))
    elif not all(fed):
        yield BrokenRule("board_unfed", ("board.in_plus", "board.in_minus"))


def _tap(nets: Nets) -> Iterator[BrokenRule]:
    """The feed of the board's old bed input, without which its output gives no signal."""
    plus, minus = "board.bed_in_plus", "board.bed_in_minus"
    if nets.meet(plus, "supply.minus") or nets.meet(minus, "supply.plus"):
        yield BrokenRule("tap_reversed", (plus, minus))
    elif nets.between(plus, "supply.plus") is None or nets.between(minus, "supply.minus") is None:
        yield BrokenRule("no_tap", (plus, minus))


def _signal(nets: Nets, part: str) -> Iterator[BrokenRule]:
    plus, minus = f"{part}.signal_plus", f"{part}.signal_minus"
    ways = (nets.between(plus, "board.bed_out_plus"), nets.between(minus, "board.bed_out_minus"))
    if nets.meet(plus, "board.bed_out_minus") or nets.meet(minus, "board.bed_out_plus"):
        yield BrokenRule("signal_reversed", (plus, minus))
    elif nets.meet(plus, "supply.plus") and nets.meet(minus, "supply.minus"):
        yield BrokenRule("signal_always", (plus, minus))
    elif any(way is None for way in ways):
        yield BrokenRule("no_signal", (plus, minus))
    elif any("cutoff" in way for way in ways if way is not None):
        yield BrokenRule("cutoff_in_signal", ("cutoff.a", "cutoff.b"))


def _apart(nets: Nets, part: str, outs: tuple[str, ...], feeds: tuple[str, ...]) -> Iterator[BrokenRule]:
    """What must never meet, whatever else is right: the switch's two sides, and its signal with anything that feeds."""
    for one, other in itertools.product(outs, feeds):
        if nets.between(one, other) is not None:
            yield BrokenRule("switch_bridged", (one, other))
    signals = tuple(f"{part}.signal_{pole}" for pole in ("plus", "minus"))
    for one, other in (*itertools.product(signals, (*outs, "supply.plus", "supply.minus")), signals):
        if nets.between(one, other) is not None:
            yield BrokenRule("signal_meets_power", (one, other))


def _links(nets: Nets, before: frozenset[str] | None, behind: frozenset[str], signal_cut: bool) -> Iterator[BrokenRule]:
    """Fuse and cut-off; before: links between supply and switch; behind: between switch and bed."""
    for name, bridged in (("fuse", "fuse_bridged"), ("cutoff", "cutoff_bridged")):
        if nets.meet(f"{name}.a", f"{name}.b"):
            yield BrokenRule(bridged, (f"{name}.a", f"{name}.b"))
    if before is not None and "fuse" not in before and not nets.meet("fuse.a", "fuse.b"):
        yield BrokenRule("fuse_behind" if "fuse" in behind else "no_fuse", ("fuse.a", "fuse.b"))
    cuts = before is not None and "cutoff" in before | behind
    if before is not None and not cuts and not signal_cut and not nets.meet("cutoff.a", "cutoff.b"):
        yield BrokenRule("no_cutoff", ("cutoff.a", "cutoff.b"))


def _module(nets: Nets, _wiring: Wiring) -> Iterator[BrokenRule]:
    yield from _board(nets)
    yield from _tap(nets)
    signal = list(_signal(nets, "module"))
    yield from signal
    before = nets.between("module.in_plus", "supply.plus")
    if nets.between("module.in_plus", "supply.minus") is not None or nets.meet("module.in_minus", "supply.plus"):
        yield BrokenRule("module_reversed", ("module.in_plus", "module.in_minus"))
        before = None
    elif before is None or not nets.meet("module.in_minus", "supply.minus"):
        yield BrokenRule("module_unfed", ("module.in_plus", "module.in_minus"))
        before = None
    if nets.between("module.out_plus", "module.out_minus") is not None:
        yield BrokenRule("short", ("module.out_plus", "module.out_minus"))
    outs, feeds = ("module.out_plus", "module.out_minus"), ("supply.plus", "supply.minus")
    yield from _apart(nets, "module", outs, feeds)
    behind = yield from _low_bed(nets)
    yield from _links(nets, before, behind, any(one.key == "cutoff_in_signal" for one in signal))


def _low_bed(nets: Nets) -> Generator[BrokenRule, None, frozenset[str]]:
    """The bed on the module's output; returns the links between them."""
    ways: dict[str, dict[str, frozenset[str]]] = {}
    for lead in ("bed.a", "bed.b"):
        goes = {end: nets.between(lead, end) for end in ("module.out_plus", "module.out_minus")}
        ways[lead] = {end: way for end, way in goes.items() if way is not None}
    onto_board = [lead for lead in ways if any(nets.meet(lead, f"board.bed_out_{end}") for end in ("plus", "minus"))]
    supplied = [lead for lead in ways if not ways[lead] and any(
        nets.between(lead, end) is not None for end in ("supply.plus", "supply.minus", "module.in_plus"))]  # fmt: skip
    if len(onto_board) == 2:
        yield BrokenRule("bed_on_board", ("bed.a", "bed.b"))
        return frozenset()
    if supplied:
        yield BrokenRule("bed_always", tuple(supplied))
        return frozenset()
    if nets.meet("bed.a", "bed.b"):
        yield BrokenRule("bed_idle", ("bed.a", "bed.b"))
        return frozenset()
    loose = [lead for lead in ways if not ways[lead]]
    if loose:
        yield BrokenRule("bed_open", tuple(loose))
        return frozenset()
    if {end for ends in ways.values() for end in ends} != {"module.out_plus", "module.out_minus"}:
        yield BrokenRule("bed_idle", ("bed.a", "bed.b"))
    return frozenset().union(*(way for ends in ways.values() for way in ends.values()))


def _mains(nets: Nets, wiring: Wiring) -> Iterator[BrokenRule]:
    yield from _board(nets)
    yield from _tap(nets)
    signal = list(_signal(nets, "switch"))
    yield from signal
    low = ("supply.plus", "supply.minus", "board.in_plus", "board.bed_in_plus", "board.bed_out_plus",
           "board.bed_out_minus", "switch.signal_plus", "switch.signal_minus")  # fmt: skip
    high = ("wall.line", "wall.neutral", "supply.line", "supply.neutral", "switch.line_in", "switch.line_out",
            "bed.a", "bed.b")  # fmt: skip
    for one, other in itertools.product(low, high):
        if nets.between(one, other) is not None:
            yield BrokenRule("mains_meets_low", (one, other))
            break
    if nets.between("wall.line", "wall.neutral") is not None:
        yield BrokenRule("short", ("wall.line", "wall.neutral"))
    carried = [
        end for end in ("wall.line", "wall.neutral", "bed.a", "bed.b") if nets.between("wall.earth", end) is not None
    ]
    if carried:
        yield BrokenRule("earth_carries", ("wall.earth", carried[0]))
    if wiring.metal_bed and not nets.meet("bed.frame", "wall.earth"):
        yield BrokenRule("no_earth", ("bed.frame", "wall.earth"))
    if not wiring.leakage_protected:
        yield BrokenRule("no_leakage_protection", ("wall.line",))
    before = nets.between("switch.line_in", "wall.line")
    if nets.between("switch.line_in", "wall.neutral") is not None and before is None:
        yield BrokenRule("neutral_switched", ("switch.line_in", "wall.neutral"))
        return
    if before is None:
        yield BrokenRule("module_unfed", ("switch.line_in",))
    if nets.between("switch.line_out", "wall.neutral") is not None:
        yield BrokenRule("short", ("switch.line_out", "wall.neutral"))
    yield from _apart(nets, "switch", ("switch.line_out",), ("wall.line", "switch.line_in"))
    behind = yield from _mains_bed(nets)
    yield from _links(nets, before, behind, any(one.key == "cutoff_in_signal" for one in signal))


def _mains_bed(nets: Nets) -> Generator[BrokenRule, None, frozenset[str]]:
    """The bed between switch and neutral; returns the links before it."""
    ways = {lead: nets.between(lead, "switch.line_out") for lead in ("bed.a", "bed.b")}
    backs = {lead: nets.between(lead, "wall.neutral") for lead in ("bed.a", "bed.b")}
    always = [lead for lead in ways if nets.between(lead, "wall.line") is not None]
    if always:
        yield BrokenRule("bed_always", tuple(always))
        return frozenset()
    if nets.meet("bed.a", "bed.b"):
        yield BrokenRule("bed_idle", ("bed.a", "bed.b"))
        return frozenset()
    for one, other in (("bed.a", "bed.b"), ("bed.b", "bed.a")):
        way, back = ways[one], backs[other]
        if way is not None and back is not None:
            for name in ("cutoff", "fuse"):
                if name in back:
                    yield BrokenRule(f"{name}_in_neutral", (f"{name}.a", f"{name}.b"))
            return way
    yield BrokenRule("bed_open", ("bed.a", "bed.b"))
    return frozenset()


def _inlet(nets: Nets, wiring: Wiring, feed: WiringDemand) -> Iterator[BrokenRule]:
    """The supply's own line, neutral and earth, the inlet's fuse and switch, the supply's selector."""
    line = nets.between("supply.line", "wall.line")
    neutral = nets.between("supply.neutral", "wall.neutral")
    if (
        nets.between("supply.line", "wall.neutral") is not None
        or nets.between("supply.neutral", "wall.line") is not None
    ):
        yield BrokenRule("supply_crossed", ("supply.line", "supply.neutral"))
    elif line is None or neutral is None:
        yield BrokenRule("supply_unfed", ("supply.line", "supply.neutral"))
    else:
        if "inlet_fuse" not in line:
            yield BrokenRule("no_inlet_fuse", ("inlet_fuse.a", "inlet_fuse.b"))
        if "inlet_fuse" in neutral:
            yield BrokenRule("fuse_in_neutral", ("inlet_fuse.a", "inlet_fuse.b"))
        if "inlet_line" not in line or "inlet_neutral" not in neutral:
            yield BrokenRule("one_pole", ("inlet_switch.line_in", "inlet_switch.neutral_in"))
    if not nets.meet("supply.earth", "wall.earth"):
        yield BrokenRule("supply_unearthed", ("supply.earth", "wall.earth"))
    if wiring.selector == "unknown":
        yield BrokenRule("selector_unknown", ("supply.line",))
    elif wiring.selector in SELECTED_V:
        low, high = SELECTED_V[wiring.selector]
        if not low <= feed.mains_v <= high:
            yield BrokenRule("selector_wrong", ("supply.line",))


EARTHED = ("wall.earth", "supply.earth", "bed.frame")
TAPS = {"board.bed_in_plus", "board.bed_in_minus"}
SIGNALS = {"signal_plus", "signal_minus"}


def _duty(link: Link, nets: Nets, kind: str) -> str:
    """What a wire is for: earth, signal, tap, mains of the supply, before the bed's fuse, or the bed's own current."""
    ends = set(link.ends)
    points = {end.partition(".")[2] for end in ends}
    if any(nets.meet(end, earth) for end in ends for earth in EARTHED):
        return "earth"
    if ends & TAPS:
        return "tap"
    if points & SIGNALS or any(end.startswith("board.bed_out") for end in ends):
        return "signal"
    if any(end.startswith("board.") for end in ends):
        return "feed"
    if kind == "mains":
        inner = ("supply.line", "supply.neutral")
        return "inlet" if ends & set(inner) else "bed"
    return "source" if ends == {"supply.plus", "fuse.a"} or ends == {"supply.plus", "fuse.b"} else "bed"


def _before_beds_fuse(link: Link, duty: str, *, mains: bool) -> bool:
    """Whether a wire of a mains bed is one that only the inlet's fuse protects."""
    at_inlet = any(end.startswith(("wall.", "inlet_")) for end in link.ends)
    return mains and duty == "bed" and at_inlet and not any(end.startswith("bed.") for end in link.ends)


def _sizes(nets: Nets, wiring: Wiring, catalogue: Catalogue, feed: WiringDemand) -> Iterator[BrokenRule]:
    """Wires, fuses and switch against what flows, in the surroundings that the wires lie in."""
    switch = "module" if wiring.kind == "module" else "switch"
    rated = wiring.rated_a or feed.rated
    if feed.amps <= 0.0:
        yield BrokenRule("load_unknown", ("bed.a", "bed.b"))
    if rated <= 0.0:
        yield BrokenRule("switch_unrated", (f"{switch}.{'in_plus' if switch == 'module' else 'line_in'}",))
    elif feed.amps > FULL_LOAD * rated:
        yield BrokenRule("switch_small", (f"{switch}.{'in_plus' if switch == 'module' else 'line_in'}",))
    mains = wiring.kind == "mains"
    lines = [link.mm2 for link in wiring.links if _duty(link, nets, wiring.kind) in ("bed", "inlet")] if mains else []
    weakest = float("inf")
    for link in wiring.links:
        duty = _duty(link, nets, wiring.kind)
        around = feed.lead if any(end.startswith("bed.") for end in link.ends) else feed.feed
        carries, ends = carried(link.mm2, around, catalogue), tuple(link.ends)
        least = {"bed": "mains" if mains else "bed", "inlet": "mains", "source": "feed"}.get(duty, duty)
        if link.mm2 < least_mm2(least, catalogue) - 1e-9:
            yield BrokenRule("below_least", ends)
        if duty == "earth" and lines and link.mm2 < min(max(lines), EARTH_FULL_MM2) - 1e-9:
            yield BrokenRule("earth_thin", ends)
        if duty == "bed":
            weakest = min(weakest, carries)
        if duty in ("bed", "source") and feed.amps > carries:
            yield BrokenRule("wire_thin", ends)
        if duty in ("feed", "source") and feed.source_a > carries:
            yield BrokenRule("wire_thin", ends)
        if duty == "tap" and feed.source_a > carries:
            yield BrokenRule("tap_thin", ends)
        if (duty == "inlet" or _before_beds_fuse(link, duty, mains=mains)) and carries < wiring.inlet_fuse_a:
            yield BrokenRule("inlet_fuse_large", ("inlet_fuse.a", "inlet_fuse.b"))
        if mains and duty == "bed" and around.insulation.rated_v < feed.mains_v:
            yield BrokenRule("insulation_low", ends)
    if wiring.fuse_a <= 0.0:
        yield BrokenRule("fuse_unrated", ("fuse.a", "fuse.b"))
    else:
        if feed.amps > FUSE_LOAD * wiring.fuse_a:
            yield BrokenRule("fuse_small", ("fuse.a", "fuse.b"))
        if wiring.fuse_a > weakest:
            yield BrokenRule("fuse_large", ("fuse.a", "fuse.b"))
    if mains and wiring.inlet_fuse_a <= 0.0:
        yield BrokenRule("inlet_fuse_unrated", ("inlet_fuse.a", "inlet_fuse.b"))


def _fuse_kinds(nets: Nets, wiring: Wiring, catalogue: Catalogue, feed: WiringDemand) -> Iterator[BrokenRule]:
    """Whether the fuses are made for their volts, and for the short they are to break."""
    mains = wiring.kind == "mains"
    told = [("fuse", wiring.fuse_kind), *([("inlet_fuse", wiring.inlet_fuse_kind)] if mains else [])]
    for name, key in told:
        kind, ends = catalogue.fuse_kinds.get(key), (f"{name}.a", f"{name}.b")
        if kind is None:
            yield BrokenRule("fuse_kind_unknown", ends)
        elif not fuse_made_for(kind, feed.mains_v if mains else feed.volts, mains=mains):
            yield BrokenRule("fuse_kind_wrong", ends)


def proposed(kind: str, catalogue: Catalogue, feed: WiringDemand) -> Wiring:
    """A way of wiring that is right, to begin with.

    That the outlet of a mains bed trips on leakage, and where the supply's selector stands, is for a person to look up.
    """
    mains = kind == "mains"
    fuse = fuse_for(feed.amps)
    inlet = fuse_for(feed.amps + INLET_SPARE_A) if mains else None
    thickest = sizes(catalogue)[-1]
    bed = max(thick_enough("mains" if mains else "bed", feed.amps, inlet or fuse, one, catalogue) or thickest
              for one in (feed.lead, feed.feed))  # fmt: skip
    before = max(feed.source_a, 0.0 if mains else feed.amps)
    source, tap = (thick_enough(duty, amps, None, feed.feed, catalogue) or thickest
                   for duty, amps in (("feed", before), ("tap", feed.source_a)))  # fmt: skip
    thick = {"bed": bed, "inlet": bed, "earth": bed, "source": source, "feed": source,
             "tap": tap, "signal": 0.5}  # fmt: skip
    nets = Nets(Wiring.model_validate({"kind": kind, "links": [{"ends": list(ends)} for ends in RIGHT[kind]]}))
    sort = _fuse_kind(catalogue, feed, mains=mains)
    return Wiring.model_validate({
        "kind": kind, "fuse_a": fuse or 0.0, "fuse_kind": sort, "inlet_fuse_a": inlet or 0.0,
        "inlet_fuse_kind": sort if mains else "unknown",
        "links": [{"ends": list(ends), "mm2": thick[_duty(Link(ends=list(ends)), nets, kind)]} for ends in RIGHT[kind]],
    })  # fmt: skip


INLET_SPARE_A = 2.5  # of a 350 W supply at 230 V beside a mains bed, apparent power included


def _fuse_kind(catalogue: Catalogue, feed: WiringDemand, *, mains: bool) -> str:
    """The first kind of fuse that is made for these volts; unknown where none is."""
    volts = feed.mains_v if mains else feed.volts
    return next((key for key, one in catalogue.fuse_kinds.items() if fuse_made_for(one, volts, mains=mains)), "unknown")


RIGHT = {
    "module": (
        ("supply.plus", "board.in_plus"), ("supply.minus", "board.in_minus"), ("supply.plus", "fuse.a"),
        ("fuse.b", "module.in_plus"), ("supply.minus", "module.in_minus"), ("module.out_plus", "cutoff.a"),
        ("cutoff.b", "bed.a"), ("module.out_minus", "bed.b"), ("board.in_plus", "board.bed_in_plus"),
        ("board.in_minus", "board.bed_in_minus"), ("board.bed_out_plus", "module.signal_plus"),
        ("board.bed_out_minus", "module.signal_minus"),
    ),
    "mains": (
        ("wall.line", "inlet_fuse.a"), ("inlet_fuse.b", "inlet_switch.line_in"),
        ("wall.neutral", "inlet_switch.neutral_in"), ("inlet_switch.line_out", "supply.line"),
        ("inlet_switch.neutral_out", "supply.neutral"),
        ("supply.earth", "wall.earth"), ("supply.plus", "board.in_plus"), ("supply.minus", "board.in_minus"),
        ("inlet_switch.line_out", "fuse.a"), ("fuse.b", "switch.line_in"), ("switch.line_out", "cutoff.a"),
        ("cutoff.b", "bed.a"), ("bed.b", "inlet_switch.neutral_out"), ("bed.frame", "wall.earth"),
        ("board.in_plus", "board.bed_in_plus"), ("board.in_minus", "board.bed_in_minus"),
        ("board.bed_out_plus", "switch.signal_plus"), ("board.bed_out_minus", "switch.signal_minus"),
    ),
}  # fmt: skip

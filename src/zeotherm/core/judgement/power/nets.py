"""A way of wiring checked before anything is wired: which end points meet, and what would come of it.

Wires join end points to nets; fuse and cut-off link two nets each. Every rule asks what of the links lies between two
end points: nothing (one net), some of them, or no way at all. Nets are known by their end points, never by colour.
"""

from __future__ import annotations

import itertools
from collections.abc import Generator, Iterator
from dataclasses import dataclass

from zeotherm.core.catalogue.shelves import Catalogue
from zeotherm.core.judgement.power.sizing import FULL_LOAD, FUSES_A, RULE_A_MM2
from zeotherm.core.machine.wiring import Wiring

SERIES = ("fuse", "cutoff")

FUSE_LOAD = 0.8  # of its rating that a fuse carries for hours
THIN_A_MM2 = 2.0 * RULE_A_MM2  # a wire in the open that gets hot: twice the bench's rule


@dataclass(frozen=True, slots=True)
class Fault:
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
        """The links on the way with the fewest of them; None: there is no way."""
        for count in range(len(SERIES) + 1):
            for chosen in itertools.permutations(SERIES, count):
                if any(self._leads(one, other, chosen, turn) for turn in itertools.product((0, 1), repeat=count)):
                    return frozenset(chosen)
        return None

    def _leads(self, one: str, other: str, chosen: tuple[str, ...], turn: tuple[int, ...]) -> bool:
        at = one
        for name, way in zip(chosen, turn, strict=True):
            near, far = (f"{name}.a", f"{name}.b") if way == 0 else (f"{name}.b", f"{name}.a")
            if not self.meet(at, near):
                return False
            at = far
        return self.meet(at, other)


def check(wiring: Wiring, catalogue: Catalogue, amps: float, rated: float = 0.0) -> list[Fault]:
    """Every fault of a way of wiring, worst first; none: it may be wired.

    amps: of the bed [A]; rated: of the switch's kind [A], where the wiring states none; 0: not known.
    """
    told = list(_ends(wiring, catalogue))
    if any(one.key in ("unknown_end", "nowhere") for one in told):
        return told
    nets = Nets(wiring)
    rules = _module if wiring.kind == "module" else _mains
    told += rules(nets, wiring)
    told += _sizes(nets, wiring, amps, wiring.rated_a or rated)
    order = {"stop": 0, "fire": 1, "dead": 2}
    unique = list(dict.fromkeys(told))
    return sorted(unique, key=lambda one: order[catalogue.wiring_faults[one.key].bad])


def end_points(catalogue: Catalogue, kind: str) -> dict[str, str]:
    """Every end point of a kind of wiring, with its label."""
    return {
        f"{part}.{point}": f"{entry.label} {label}"
        for part, entry in catalogue.terminals.items()
        if kind in entry.kinds
        for point, label in entry.points.items()
    }


def _ends(wiring: Wiring, catalogue: Catalogue) -> Iterator[Fault]:
    known, seen = end_points(catalogue, wiring.kind), set()
    for link in wiring.links:
        one, other = link.ends
        missing = tuple(end for end in link.ends if end not in known)
        if missing:
            yield Fault("unknown_end", missing)
        elif one == other:
            yield Fault("nowhere", (one,))
        elif frozenset(link.ends) in seen:
            yield Fault("twice", (one, other))
        seen.add(frozenset(link.ends))


def _board(nets: Nets) -> Iterator[Fault]:
    """The supply's own terminals, and the board's."""
    if nets.between("supply.plus", "supply.minus") is not None:
        yield Fault("short", ("supply.plus", "supply.minus"))
    fed = (nets.meet("board.in_plus", "supply.plus"), nets.meet("board.in_minus", "supply.minus"))
    crossed = nets.meet("board.in_plus", "supply.minus") or nets.meet("board.in_minus", "supply.plus")
    if crossed:
        yield Fault("board_reversed", ("board.in_plus", "board.in_minus"))
    elif not all(fed):
        yield Fault("board_unfed", ("board.in_plus", "board.in_minus"))


def _tap(nets: Nets) -> Iterator[Fault]:
    """The feed of the board's old bed input, without which its output gives no signal."""
    plus, minus = "board.bed_in_plus", "board.bed_in_minus"
    if nets.meet(plus, "supply.minus") or nets.meet(minus, "supply.plus"):
        yield Fault("tap_reversed", (plus, minus))
    elif nets.between(plus, "supply.plus") is None or nets.between(minus, "supply.minus") is None:
        yield Fault("no_tap", (plus, minus))


def _signal(nets: Nets, part: str) -> Iterator[Fault]:
    plus, minus = f"{part}.signal_plus", f"{part}.signal_minus"
    ways = (nets.between(plus, "board.bed_out_plus"), nets.between(minus, "board.bed_out_minus"))
    if nets.meet(plus, "board.bed_out_minus") or nets.meet(minus, "board.bed_out_plus"):
        yield Fault("signal_reversed", (plus, minus))
    elif nets.meet(plus, "supply.plus") and nets.meet(minus, "supply.minus"):
        yield Fault("signal_always", (plus, minus))
    elif any(way is None for way in ways):
        yield Fault("no_signal", (plus, minus))
    elif any("cutoff" in way for way in ways if way is not None):
        yield Fault("cutoff_in_signal", ("cutoff.a", "cutoff.b"))


def _apart(nets: Nets, part: str, outs: tuple[str, ...], feeds: tuple[str, ...]) -> Iterator[Fault]:
    """What must never meet, whatever else is right: the switch's two sides, and its signal with anything that feeds."""
    for one, other in itertools.product(outs, feeds):
        if nets.between(one, other) is not None:
            yield Fault("switch_bridged", (one, other))
    signals = tuple(f"{part}.signal_{pole}" for pole in ("plus", "minus"))
    for one, other in (*itertools.product(signals, (*outs, "supply.plus", "supply.minus")), signals):
        if nets.between(one, other) is not None:
            yield Fault("signal_meets_power", (one, other))


def _links(nets: Nets, before: frozenset[str] | None, behind: frozenset[str], signal_cut: bool) -> Iterator[Fault]:
    """Fuse and cut-off; before: links between supply and switch; behind: between switch and bed."""
    for name, bridged in (("fuse", "fuse_bridged"), ("cutoff", "cutoff_bridged")):
        if nets.meet(f"{name}.a", f"{name}.b"):
            yield Fault(bridged, (f"{name}.a", f"{name}.b"))
    if before is not None and "fuse" not in before and not nets.meet("fuse.a", "fuse.b"):
        yield Fault("fuse_behind" if "fuse" in behind else "no_fuse", ("fuse.a", "fuse.b"))
    cuts = before is not None and "cutoff" in before | behind
    if before is not None and not cuts and not signal_cut and not nets.meet("cutoff.a", "cutoff.b"):
        yield Fault("no_cutoff", ("cutoff.a", "cutoff.b"))


def _module(nets: Nets, _wiring: Wiring) -> Iterator[Fault]:
    yield from _board(nets)
    yield from _tap(nets)
    signal = list(_signal(nets, "module"))
    yield from signal
    before = nets.between("module.in_plus", "supply.plus")
    if nets.between("module.in_plus", "supply.minus") is not None or nets.meet("module.in_minus", "supply.plus"):
        yield Fault("module_reversed", ("module.in_plus", "module.in_minus"))
        before = None
    elif before is None or not nets.meet("module.in_minus", "supply.minus"):
        yield Fault("module_unfed", ("module.in_plus", "module.in_minus"))
        before = None
    if nets.between("module.out_plus", "module.out_minus") is not None:
        yield Fault("short", ("module.out_plus", "module.out_minus"))
    outs, feeds = ("module.out_plus", "module.out_minus"), ("supply.plus", "supply.minus")
    yield from _apart(nets, "module", outs, feeds)
    behind = yield from _low_bed(nets)
    yield from _links(nets, before, behind, any(one.key == "cutoff_in_signal" for one in signal))


def _low_bed(nets: Nets) -> Generator[Fault, None, frozenset[str]]:
    """The bed on the module's output; returns the links between them."""
    ways: dict[str, dict[str, frozenset[str]]] = {}
    for lead in ("bed.a", "bed.b"):
        goes = {end: nets.between(lead, end) for end in ("module.out_plus", "module.out_minus")}
        ways[lead] = {end: way for end, way in goes.items() if way is not None}
    onto_board = [lead for lead in ways if any(nets.meet(lead, f"board.bed_out_{end}") for end in ("plus", "minus"))]
    supplied = [lead for lead in ways if not ways[lead] and any(
        nets.between(lead, end) is not None for end in ("supply.plus", "supply.minus", "module.in_plus"))]  # fmt: skip
    if len(onto_board) == 2:
        yield Fault("bed_on_board", ("bed.a", "bed.b"))
        return frozenset()
    if supplied:
        yield Fault("bed_always", tuple(supplied))
        return frozenset()
    if nets.meet("bed.a", "bed.b"):
        yield Fault("bed_idle", ("bed.a", "bed.b"))
        return frozenset()
    loose = [lead for lead in ways if not ways[lead]]
    if loose:
        yield Fault("bed_open", tuple(loose))
        return frozenset()
    if {end for ends in ways.values() for end in ends} != {"module.out_plus", "module.out_minus"}:
        yield Fault("bed_idle", ("bed.a", "bed.b"))
    return frozenset().union(*(way for ends in ways.values() for way in ends.values()))


def _mains(nets: Nets, wiring: Wiring) -> Iterator[Fault]:
    yield from _board(nets)
    yield from _tap(nets)
    signal = list(_signal(nets, "switch"))
    yield from signal
    low = ("supply.plus", "supply.minus", "board.in_plus", "board.bed_in_plus", "board.bed_out_plus",
           "board.bed_out_minus", "switch.signal_plus", "switch.signal_minus")  # fmt: skip
    high = ("wall.line", "wall.neutral", "switch.line_in", "switch.line_out", "bed.a", "bed.b")
    for one, other in itertools.product(low, high):
        if nets.between(one, other) is not None:
            yield Fault("mains_meets_low", (one, other))
            break
    if nets.between("wall.line", "wall.neutral") is not None:
        yield Fault("short", ("wall.line", "wall.neutral"))
    carried = [
        end for end in ("wall.line", "wall.neutral", "bed.a", "bed.b") if nets.between("wall.earth", end) is not None
    ]
    if carried:
        yield Fault("earth_carries", ("wall.earth", carried[0]))
    if wiring.metal_bed and not nets.meet("bed.frame", "wall.earth"):
        yield Fault("no_earth", ("bed.frame", "wall.earth"))
    if not wiring.leakage_protected:
        yield Fault("no_leakage_protection", ("wall.line",))
    before = nets.between("switch.line_in", "wall.line")
    if nets.between("switch.line_in", "wall.neutral") is not None and before is None:
        yield Fault("neutral_switched", ("switch.line_in", "wall.neutral"))
        return
    if before is None:
        yield Fault("module_unfed", ("switch.line_in",))
    if nets.between("switch.line_out", "wall.neutral") is not None:
        yield Fault("short", ("switch.line_out", "wall.neutral"))
    yield from _apart(nets, "switch", ("switch.line_out",), ("wall.line", "switch.line_in"))
    behind = yield from _mains_bed(nets)
    yield from _links(nets, before, behind, any(one.key == "cutoff_in_signal" for one in signal))


def _mains_bed(nets: Nets) -> Generator[Fault, None, frozenset[str]]:
    """The bed between switch and neutral; returns the links before it."""
    ways = {lead: nets.between(lead, "switch.line_out") for lead in ("bed.a", "bed.b")}
    backs = {lead: nets.between(lead, "wall.neutral") for lead in ("bed.a", "bed.b")}
    always = [lead for lead in ways if nets.between(lead, "wall.line") is not None]
    if always:
        yield Fault("bed_always", tuple(always))
        return frozenset()
    if nets.meet("bed.a", "bed.b"):
        yield Fault("bed_idle", ("bed.a", "bed.b"))
        return frozenset()
    for one, other in (("bed.a", "bed.b"), ("bed.b", "bed.a")):
        way, back = ways[one], backs[other]
        if way is not None and back is not None:
            return way | back
    yield Fault("bed_open", ("bed.a", "bed.b"))
    return frozenset()


def _sizes(nets: Nets, wiring: Wiring, amps: float, rated: float) -> Iterator[Fault]:
    """Wires, fuse and switch against the bed's current."""
    if amps <= 0.0:
        return
    switch = "module" if wiring.kind == "module" else "switch"
    power = {"fuse.a", "fuse.b", "cutoff.a", "cutoff.b", "bed.a", "bed.b", "wall.line", "wall.neutral", "supply.plus",
             "supply.minus"}  # fmt: skip
    inner = {"in_plus", "in_minus", "out_plus", "out_minus", "line_in", "line_out"}
    power |= {f"{switch}.{point}" for point in inner}
    thinnest = None
    for link in wiring.links:
        if not power.issuperset(link.ends):  # tap and signal carry next to nothing
            continue
        if amps > THIN_A_MM2 * link.mm2:
            yield Fault("wire_thin", tuple(link.ends))
        thinnest = min(link.mm2, thinnest or link.mm2)
    if wiring.fuse_a > 0.0:
        if amps > FUSE_LOAD * wiring.fuse_a:
            yield Fault("fuse_small", ("fuse.a", "fuse.b"))
        if thinnest is not None and wiring.fuse_a > THIN_A_MM2 * thinnest:
            yield Fault("fuse_large", ("fuse.a", "fuse.b"))
    else:
        yield Fault("fuse_unrated", ("fuse.a", "fuse.b"))
    if rated > 0.0 and amps > FULL_LOAD * rated:
        yield Fault("switch_small", (f"{switch}.{'in_plus' if switch == 'module' else 'line_in'}",))


def proposed(kind: str, amps: float) -> Wiring:
    """A way of wiring that is right, to begin with; amps: of the bed [A].

    That the outlet of a mains bed trips on leakage is for a person to confirm.
    """
    thick = next((one for one in (1.0, 1.5, 2.5, 4.0, 6.0, 10.0) if amps <= RULE_A_MM2 * one), 16.0)
    links = [{"ends": list(ends), "mm2": thick if size == "thick" else 0.5} for *ends, size in RIGHT[kind]]
    fuse = next((one for one in FUSES_A if amps <= FUSE_LOAD * one), 0.0)
    return Wiring.model_validate({"kind": kind, "links": links, "fuse_a": fuse})


RIGHT = {
    "module": (
        ("supply.plus", "board.in_plus", "thick"), ("supply.minus", "board.in_minus", "thick"),
        ("supply.plus", "fuse.a", "thick"), ("fuse.b", "module.in_plus", "thick"),
        ("supply.minus", "module.in_minus", "thick"), ("module.out_plus", "cutoff.a", "thick"),
        ("cutoff.b", "bed.a", "thick"), ("module.out_minus", "bed.b", "thick"),
        ("board.in_plus", "board.bed_in_plus", "thin"), ("board.in_minus", "board.bed_in_minus", "thin"),
        ("board.bed_out_plus", "module.signal_plus", "thin"), ("board.bed_out_minus", "module.signal_minus", "thin"),
    ),
    "mains": (
        ("supply.plus", "board.in_plus", "thick"), ("supply.minus", "board.in_minus", "thick"),
        ("wall.line", "fuse.a", "thick"), ("fuse.b", "switch.line_in", "thick"),
        ("switch.line_out", "cutoff.a", "thick"), ("cutoff.b", "bed.a", "thick"), ("bed.b", "wall.neutral", "thick"),
        ("bed.frame", "wall.earth", "thick"), ("board.in_plus", "board.bed_in_plus", "thin"),
        ("board.in_minus", "board.bed_in_minus", "thin"), ("board.bed_out_plus", "switch.signal_plus", "thin"),
        ("board.bed_out_minus", "switch.signal_minus", "thin"),
    ),
}  # fmt: skip

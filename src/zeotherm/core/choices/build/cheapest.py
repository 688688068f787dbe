"""The cheapest build that meets every limit at a chosen confidence, looked for over the shelf in the order of price.

Each part alone is solved first. What several do together is bounded by what each does alone: gains count half as much
again, losses half. Sets that fall short even so are left out; the others are solved, cheapest first, so that the first
one that holds is the cheapest to that measure. The tests hold it against trying everything on small shelves.
"""

from __future__ import annotations

import heapq
import itertools
import math
import statistics
from collections.abc import Callable, Collection, Iterable, Iterator, Mapping
from dataclasses import dataclass, field, replace
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from zeotherm.core.catalogue.shelves import Catalogue
from zeotherm.core.choices.build.judged import HEAT_UP, Built, Row, first_built, fully_built
from zeotherm.core.choices.build.slots import NO_PRICES, Candidate, Prices, candidates, emptied, filled
from zeotherm.core.choices.build.wanted import BuildWish
from zeotherm.core.judgement.margins import Margin
from zeotherm.core.machine.documents import Setup
from zeotherm.core.machine.patches import Patch
from zeotherm.core.parts.whole.run import History, heat_up
from zeotherm.core.solver.axisymmetric import CancelledError

Array = npt.NDArray[np.float64]
Cancelled = Callable[[], bool]
MORE, LESS = 1.5, 0.5  # times its gain, and its loss, that a part may come to beside others
QUICKER = 0.6  # of the time that its watts make of it, that a heat-up may come to with another body
SPARED = 0.7  # of the band's half, that another build may do with
SLACK = 0.15  # of what counts as clear, by which a bound may miss
LITTLE = 0.25  # of what counts as clear, below which a part does little
FELT = 0.02  # of the same, from which a gain counts
MOST_CHANGES = 4  # parts in one build
SELDOM = 2  # turns in which a slot whose parts bring nothing has one
NARROW = 0.02  # chance that a heat-up is late, or in time, from which its own band is marched
MOST_EARLY = 3  # builds that are solved with their bands to have one early that does
MOST_SOLVED = 600  # sets that are solved before the search says so and stops
BODIES = ("hotend", "block", "sleeve", "nozzle")  # slots of what is warmed


@dataclass(frozen=True)
class Search:
    """How far a search has come."""

    base: Built | None = None  # as found
    solved: int = 0
    bound: float = 0.0  # nothing cheaper than this does [the shop's currency]
    early: Built | None = None  # the first that was found to do, which need not be the cheapest
    early_price: float = 0.0
    best: Built | None = None
    price: float = 0.0  # of the best, with its work
    second: Built | None = None  # the next that does
    second_price: float = 0.0
    alone: Mapping[str, Built] = field(default_factory=dict)  # each part by itself, by slot/key
    needed: Mapping[str, Row] = field(default_factory=dict)  # what fails without each part of the best, by slot
    over: bool = False
    proved: bool = False  # whether all that is cheaper was left out or solved

    @property
    def does(self) -> Built | None:
        """The best that is known to do."""
        return self.best or self.early


@dataclass(frozen=True, slots=True)
class Little:
    """A part that by itself does little for the limit that is worst as found, or harms it."""

    label: str
    cost: float
    gain: float  # of that limit's room, in its unit


def little(found: Search) -> tuple[Little, ...]:
    """The dearest part of each slot of which that is so: what is often bought and does not help here."""
    base = found.base
    before = base.tightest if base is not None else None
    if base is None or before is None:
        return ()
    dearest: dict[str, Little] = {}
    for alone in sorted(found.alone.values(), key=lambda one: -(one.cost or 0.0)):
        now = _margins(alone).get(before.key)
        if now is None or not alone.cost or _against(alone) - _against(base):
            continue
        gain = (now.room or 0.0) - (before.room or 0.0)
        if gain < LITTLE * (before.clear_from or 1.0):
            (part,) = alone.bought[:1]
            dearest.setdefault(part.slot, Little(part.label, alone.cost, gain))
    return tuple(dearest.values())


class _Part(NamedTuple):
    one: Candidate
    price: float  # with its work
    most: Array  # what it may bring to each limit's room beside others, (limits,)
    mends: frozenset[str]  # clashes and wrong volts of the machine as found that it ends
    brings: frozenset[str]  # those that it brings
    watts: float  # of the heater, times those as found


class _Goal(NamedTuple):
    """What a set of parts has to bring."""

    limits: tuple[str, ...]
    lacks: Array  # (limits,) room that is wanted over what there is; negative: so much is to spare
    scale: Array  # what counts as clear of each
    clashes: frozenset[str]  # that have to end
    watts: float  # times those as found that the heat-up wants; zero: it is quick enough


class _Asking(NamedTuple):
    found: Setup
    catalogue: Catalogue
    first: Callable[[Patch, Built], Built]
    full: Callable[[frozenset[str], Built], Built]  # by its parts, slot/key, and what was solved of it
    sure: float
    base: Built


def meets(built: Built, sure: float) -> bool:
    """Whether a build with its bands meets every limit with that chance, and nothing about it is known to clash."""
    return bool(built.answers) and built.seconds is not None and all(_holds(one, sure) for one in built.rows)


def search(
    found: Setup, wanted: BuildWish, run: History, known: Collection[str], prices: Prices = NO_PRICES,
    hourly: float = 0.0, tolerances: dict[str, float] | None = None, cancelled: Cancelled = lambda: False,
    offers: Callable[[str], tuple[Candidate, ...]] | None = None, base: Built | None = None,
) -> Iterator[Search]:  # fmt: skip
    """Look for the cheapest build; yields how far it has come, the last one over. A part without a price is left out.

    hourly: what an hour of work costs; offers: what each slot may hold, else all that the shelf has; base: the machine
    as found with its bands, where that is solved already. Raises CancelledError.
    """
    catalogue = run.catalogue

    def first(change: Patch, previous: Built | None) -> Built:
        if cancelled():
            raise CancelledError
        return first_built(found, change, wanted, run, known, prices, tolerances, cancelled, previous)

    as_found = base or fully_built(first({}, None), known, tolerances, cancelled)
    now = Search(base=as_found, solved=1)
    if meets(as_found, wanted.sure):
        yield replace(now, best=as_found, over=True, proved=True)
        return
    yield now
    offered = offers or (lambda slot: candidates(slot, found, found, catalogue, prices))
    sold = {slot: [one for one in offered(slot) if not one.fitted and one.cost is not None and one.change]
            for slot in catalogue.slots}  # fmt: skip
    whole: dict[frozenset[str], Built] = {}  # builds with their bands, by their parts

    def in_full(named: frozenset[str], built: Built) -> Built:
        if named not in whole:
            made = fully_built(built, known, tolerances, cancelled, like=as_found)
            if _narrowly_hot(made):  # the band of its heat-up decides: its own, then, no share of another's
                made = fully_built(built, known, tolerances, cancelled)
            whole[named] = made
        return whole[named]

    asking = _Asking(found, catalogue, first, in_full, wanted.sure, as_found)
    goal = _goal(as_found, wanted.sure)
    alone: dict[str, Built] = {}
    brought: dict[str, float] = {}  # by the best of each slot
    last: list[Candidate] = []
    for few in _in_turn(sold, brought):
        for one in few:
            built = alone[_name(one)] = first(filled({}, one, found, catalogue), as_found)
            if built.answers:
                brought[one.slot] = max(brought.get(one.slot, 0.0), _brings(built, goal, as_found))
            now = replace(now, solved=now.solved + 1, alone=dict(alone))
            yield now
        likely = _likely(now, sold, goal, asking)
        if now.early is None and len(whole) < MOST_EARLY and likely != last:
            now, last = _early(now, likely, hourly, goal, asking), likely
            yield now
    parts: dict[str, list[_Part]] = {slot: [] for slot in sold}
    for slot, its in sold.items():
        for one in its:
            part = _part(one, alone[_name(one)], as_found, goal, hourly)
            if not _clashes_alone(part, alone[_name(one)], slot, catalogue):
                parts[slot].append(part)
    yield from _by_price(now, goal, _worth_trying(parts, goal), asking)


def _narrowly_hot(built: Built) -> bool:
    """Whether a build is hot in time, but not beyond doubt."""
    row = built.row(HEAT_UP)
    margin = row.margin if row is not None else None
    return margin is not None and margin.holds is not None and NARROW < margin.holds < 1.0 - NARROW


def _in_turn(sold: Mapping[str, list[Candidate]], brought: Mapping[str, float]) -> Iterator[list[Candidate]]:
    """Parts of all slots by turns, the cheapest of each first; a slot whose first ones bring nothing waits more."""
    left = {slot: list(its) for slot, its in sold.items() if its}
    for turn in itertools.count():
        hopeful = [slot for slot, its in left.items() if brought.get(slot, 0.0) > 0.0]
        yield [left[slot].pop(0) for slot in (left if turn % SELDOM == 0 else hopeful) or left]
        left = {slot: its for slot, its in left.items() if its}
        if not left:
            return


def _likely(now: Search, sold: Mapping[str, list[Candidate]], goal: _Goal, asking: _Asking) -> list[Candidate]:
    """Of the parts that are solved so far those that bring most of what is lacking, one a slot, the best first."""
    best: list[tuple[float, Candidate]] = []
    for its in sold.values():
        known = ((now.alone[_name(one)], one) for one in its if _name(one) in now.alone)
        brings = [(_brings(alone, goal, asking.base), one) for alone, one in known if alone.answers]
        best += sorted(brings, key=lambda pair: -pair[0])[:1]
    return [one for brings, one in sorted(best, key=lambda pair: -pair[0])[:MOST_CHANGES] if brings > 0.0]


def _early(now: Search, likely: list[Candidate], hourly: float, goal: _Goal, asking: _Asking) -> Search:
    """One build that does, of the likeliest parts; at most one is solved with its bands."""
    picked: list[Candidate] = []
    for one in likely:
        picked.append(one)
        built = asking.first(_change_of(picked, asking), asking.base)
        now = replace(now, solved=now.solved + 1)
        if _falls_short(built, goal, asking):
            continue
        built = asking.full(frozenset(_name(each) for each in picked), built)
        if meets(built, asking.sure):
            return replace(now, early=built, early_price=sum(_price_of(each, hourly) for each in picked))
        break
    return now


def _brings(alone: Built, goal: _Goal, base: Built) -> float:
    """What a part alone brings of what is lacking: clashes of the machine as found that it ends, less those that it
    brings, then room to limits, by what counts as clear of each."""
    by, lacking = _rooms(alone, goal) - _rooms(base, goal), goal.lacks > 0.0
    against, was = _against(alone), _against(base)
    room = float((np.minimum(by, goal.lacks) / goal.scale)[lacking].sum())
    quick = goal.watts > 0.0 and _heater(alone) >= goal.watts * _heater(base)
    return len(was - against) - len(against - was) + room + quick


def _falls_short(built: Built, goal: _Goal, asking: _Asking) -> bool:
    """Whether a build fails already without its bands."""
    if not built.answers or not built.meets_all:
        return True
    if (_rooms(built, goal) - _rooms(asking.base, goal) < goal.lacks).any():
        return True
    return heat_up(built.setup, asking.catalogue) > built.wanted.seconds


def _name(one: Candidate) -> str:
    return f"{one.slot}/{one.key}"


def _price_of(one: Candidate, hourly: float) -> float:
    """With its work."""
    return (one.cost or 0.0) + hourly * one.minutes / 60.0


def _by_price(now: Search, goal: _Goal, parts: dict[str, list[_Part]], asking: _Asking) -> Iterator[Search]:
    """Sets of parts that may do, cheapest first, until two are found that do."""
    tried: dict[frozenset[str], Array] = {}  # rooms of sets that fell short, by their parts
    chosen = frozenset({""})  # parts of the best
    for price, picked in _sets(parts, goal):
        if now.best is None:
            now = replace(now, bound=price)
        if chosen <= _named(picked) or _as_before(picked, tried, goal):
            continue  # more than is needed is no other build
        if len(tried) >= MOST_SOLVED:
            yield replace(now, over=True)
            return
        if len(picked) == 1:
            built = now.alone[_name(picked[0].one)]
        else:
            built = asking.first(_change_of([one.one for one in picked], asking), asking.base)
            now = replace(now, solved=now.solved + 1)
            yield now
        by = _rooms(built, goal) - _rooms(asking.base, goal)
        if not built.answers or not built.meets_all or (by < goal.lacks).any():
            tried[_named(picked)] = by
            continue
        if heat_up(built.setup, asking.catalogue) > built.wanted.seconds:
            tried[_named(picked)] = np.full(len(goal.limits), math.inf)
            continue
        built = asking.full(_named(picked), built)
        if not meets(built, asking.sure):
            tried[_named(picked)] = np.full(len(goal.limits), math.inf)
            continue
        if now.best is not None:
            yield replace(now, second=built, second_price=price, over=True)
            return
        now, chosen = replace(now, best=built, price=price, bound=price, proved=True), _named(picked)
        yield now
        now = replace(now, needed=_needed(built, picked, asking), solved=now.solved + len(picked))
        yield now
    yield replace(now, over=True, proved=True)


def _named(picked: Iterable[_Part]) -> frozenset[str]:
    return frozenset(_name(one.one) for one in picked)


def _rooms(built: Built, goal: _Goal) -> Array:
    """Room to each limit, (limits,); where the model has none, none is asked for."""
    margins = _margins(built)
    return np.array([(margins[key].room or 0.0) if key in margins else 1e3 for key in goal.limits])


def _as_before(picked: list[_Part], tried: Mapping[frozenset[str], Array], goal: _Goal) -> bool:
    """Whether a set falls short because some of its parts did together, and the others do not bring what is lacking."""
    for size in range(1, len(picked)):
        for some in itertools.combinations(picked, size):
            by = tried.get(_named(some))
            if by is None:
                continue
            others = (one.most for one in picked if one not in some)
            if (by + sum(others, np.zeros(len(by))) < goal.lacks).any():
                return True
    return False


def _change_of(picked: list[Candidate], asking: _Asking) -> Patch:
    """The change that a set of parts makes; the hotend first, which takes what was in it along."""
    change: Patch = {}
    for one in sorted(picked, key=lambda each: each.slot != "hotend"):
        change = filled(change, one, asking.found, asking.catalogue)
    return change


def _needed(best: Built, picked: list[_Part], asking: _Asking) -> dict[str, Row]:
    """What fails without each of its parts."""
    found = {}
    for part in picked:
        slot = part.one.slot
        without = asking.first(emptied(best.change, asking.catalogue.slots[slot], asking.catalogue), best)
        if without.answers and without.meets_all:
            without = asking.full(_named(picked) - {_name(part.one)}, without)
        short = next((one for one in without.rows if not _holds(one, asking.sure)), None)
        if short is not None:
            found[slot] = short
    return found


def _goal(base: Built, sure: float) -> _Goal:
    margins = _margins(base)
    half = float(statistics.NormalDist().inv_cdf(sure)) / 1.96  # of a 95 % band
    lacks, scale = [], []
    for one in margins.values():
        clear, band = one.clear_from or 1.0, one.band.down if one.band is not None else 0.0
        lacks.append(SPARED * half * band - (one.room or 0.0) - SLACK * clear)
        scale.append(clear)
    late = base.row(HEAT_UP)
    watts = 0.0
    if late is not None and base.seconds is not None and not _holds(late, sure):  # a time without an end tells no share
        share = base.seconds / base.wanted.seconds if math.isfinite(base.seconds) else 0.0
        watts = max(share, 1.0 + FELT)
    return _Goal(tuple(margins), np.array(lacks), np.array(scale), _against(base), watts)


def _part(one: Candidate, alone: Built, base: Built, goal: _Goal, hourly: float) -> _Part:
    by = _rooms(alone, goal) - _rooms(base, goal)
    watts = _heater(alone) / _heater(base) if alone.answers and base.answers else 1.0
    against, was = _against(alone), _against(base)
    most = np.where(by > 0.0, MORE * by, LESS * by)
    return _Part(one, _price_of(one, hourly), most, was - against, against - was, watts)


def _heater(built: Built) -> float:
    return next(iter(built.answers.values())).solved.resolved.inputs.heater_power


def _margins(built: Built) -> dict[str, Margin]:
    """What the model tells of each limit at rest, with the plastic that leaves it the least room."""
    found: dict[str, Margin] = {}
    for answer in built.answers.values():
        for one in answer.margins:
            if one.room is not None and (one.key not in found or one.room < (found[one.key].room or 0.0)):
                found[one.key] = one
    return found


def _holds(row: Row, sure: float) -> bool:
    margin = row.margin
    return not row.state.bad and (margin is None or margin.holds is None or margin.holds >= sure)


def _against(built: Built) -> frozenset[str]:
    """Clashes, wrong volts and parts that do not go into each other."""
    return frozenset(one.key for one in built.rows if one.margin is None and one.state.bad)


def _clashes_alone(part: _Part, alone: Built, slot: str, catalogue: Catalogue) -> bool:
    """Whether a part brings a clash with what is wanted that no other slot can end."""
    for row in alone.rows:
        if row.key not in part.brings:
            continue
        stands_on = row.clash.rule.stands_on if row.clash is not None else ()
        others = {one for one, about in catalogue.slots.items() if about.at in stands_on} - {slot}
        if row.wrong is not None or (row.clash is not None and not others):
            return True
    return False


def _worth_trying(parts: dict[str, list[_Part]], goal: _Goal) -> dict[str, list[_Part]]:
    """Parts that bring something that is lacking, or that another one takes away; of like ones the cheapest."""
    concern = goal.lacks > 0.0
    while True:
        useful = {slot: [one for one in its if _helps(one, goal, concern)] for slot, its in parts.items()}
        every = [one.most for its in useful.values() for one in its]
        more = concern | (np.min(every, axis=0) < goal.lacks if every else concern)
        if (more == concern).all():
            break
        concern = more
    return {slot: _undominated(its, concern) for slot, its in useful.items()}


def _helps(part: _Part, goal: _Goal, concern: npt.NDArray[np.bool_]) -> bool:
    felt = (part.most > FELT * goal.scale) & concern
    warms = goal.watts > 0.0 and (part.watts > 1.0 + FELT or part.one.slot in BODIES)
    return bool(felt.any() or part.mends or warms)


def _undominated(parts: list[_Part], concern: npt.NDArray[np.bool_]) -> list[_Part]:
    kept: list[_Part] = []
    for part in sorted(parts, key=lambda one: (one.price, -float(one.most[concern].sum()))):
        like = (one for one in kept if (one.most[concern] >= part.most[concern]).all())
        if not any(one.mends >= part.mends and one.brings <= part.brings and one.watts >= part.watts for one in like):
            kept.append(part)
    return kept


def _may_do(picked: list[_Part], goal: _Goal) -> bool:
    """Whether parts may do together, by what each does alone."""
    if (sum((one.most for one in picked), np.zeros(len(goal.limits))) < goal.lacks).any():
        return False
    if not goal.clashes <= frozenset().union(*(one.mends for one in picked)):
        return False
    watts = math.prod(one.watts for one in picked)
    return watts / (QUICKER if any(one.one.slot in BODIES for one in picked) else 1.0) >= goal.watts * (1.0 - FELT)


def _sets(parts: dict[str, list[_Part]], goal: _Goal) -> Iterator[tuple[float, list[_Part]]]:
    """Sets of at most a few parts, one a slot, that may do, cheapest first."""
    slots = [slot for slot, its in parts.items() if its]
    heap: list[tuple[float, tuple[str, ...], tuple[int, ...]]] = []

    def push(of: tuple[str, ...], at: tuple[int, ...]) -> None:
        price = sum(parts[slot][n].price for slot, n in zip(of, at, strict=True))
        heapq.heappush(heap, (price, of, at))

    for size in range(1, min(MOST_CHANGES, len(slots)) + 1):
        for of in itertools.combinations(slots, size):
            if _may_do([_best_of(parts[slot]) for slot in of], goal):
                push(of, (0,) * size)
    while heap:
        price, of, at = heapq.heappop(heap)
        picked = [parts[slot][n] for slot, n in zip(of, at, strict=True)]
        if _may_do(picked, goal):
            yield price, picked
        last = max((n for n, place in enumerate(at) if place), default=0)  # each set comes up along one way
        for n in range(last, len(at)):
            if at[n] + 1 < len(parts[of[n]]):
                push(of, (*at[:n], at[n] + 1, *at[n + 1 :]))


def _best_of(its: list[_Part]) -> _Part:
    """No part of a slot brings more than this one that is made of all of them."""
    mends = frozenset[str]().union(*(one.mends for one in its))
    most = np.max([one.most for one in its], axis=0)
    return its[0]._replace(most=most, mends=mends, watts=max(one.watts for one in its))

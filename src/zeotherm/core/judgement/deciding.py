"""What a fact of a machine may turn out to be, and how far that may move its worst margin.

A number is tried at both ends of where 95 % of such machines have it; a kind by how common each is, as 1.96 times the
root of the mean square of what it takes away, and of what it adds, apart, but never more than the furthest of them.
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Iterator, Sequence

from zeotherm.core.catalogue.knowledge import Fact
from zeotherm.core.catalogue.shelves import Catalogue
from zeotherm.core.catalogue.stations import STATIONS
from zeotherm.core.judgement.bands import Band
from zeotherm.core.judgement.standing import Deciding, Doubtful
from zeotherm.core.machine.documents import Setup, changed_paths, declaration, patched
from zeotherm.core.machine.patches import Patch, patch_at, value_at
from zeotherm.core.machine.quantity import Quantity

TWO_SIDED = 1.96
HARDLY = 0.02  # of the band's half-width: a fact that moves the worst margin by less is left out
KELVINS = {"°C": "K"}  # what a room is told in, where that is not the unit of its station
# how common what was tried is, how far it moves the worst margin, and the limit that is the worst then
Moved = tuple[float, float, str]


def spread(fact: Fact, tried: Sequence[Moved]) -> tuple[float, float]:
    """How far a fact may take the worst margin down and up, 95 %, from what was tried of it.

    >>> number = Fact(label="x", find="y", minutes=1.0, paths=("fan.voltage_v",), within=1.0)
    >>> spread(number, [(0.5, -3.0, "feed"), (0.5, 2.0, "feed")])
    (3.0, 2.0)
    """
    if not tried:
        return 0.0, 0.0
    if not fact.may_be:
        by = [one for _share, one, _limit in tried]
        return max(0.0, *(-one for one in by)), max(0.0, *by)
    whole = sum(one.share for one in fact.may_be)

    def side(way: float) -> float:
        mean = sum(share * max(way * by, 0.0) ** 2 for share, by, _limit in tried) / whole
        return min(TWO_SIDED * math.sqrt(mean), max(0.0, *(way * by for _share, by, _limit in tried)))

    return side(-1.0), side(1.0)


def deciding_of(
    limit: str, own: Band, facts: Iterable[tuple[str, Fact, Sequence[Moved] | None]], catalogue: Catalogue
) -> Deciding:
    """What decides the verdict of a limit, most deciding first; own: the model's band of its room.

    facts: each by its key, with what was tried of it: nothing where what is known rules all of it out; None where none
    of it had an answer. That counts as untried, and so does a fact that does not say what it may be.
    """
    found, untried = [], []
    for key, fact, tried in facts:
        if tried is None or not fact.tells:
            untried.append(key)
        else:
            found.append(Doubtful(key, *spread(fact, tried), _through(limit, tried, catalogue)))
    kept = [one for one in found if one.down > HARDLY * own.down or one.up > HARDLY * own.up]
    return Deciding(limit, tuple(kept), own, tuple(untried)).most_deciding_first()


def _through(limit: str, tried: Sequence[Moved], catalogue: Catalogue) -> str:
    """The limit that is the worst where a fact takes most away, if that is told in another unit."""
    lowest = min(tried, key=lambda one: one[1], default=(0.0, 0.0, limit))
    return lowest[2] if lowest[1] < 0.0 and _unit(lowest[2], catalogue) != _unit(limit, catalogue) else ""


def _unit(limit: str, catalogue: Catalogue) -> str:
    unit = STATIONS[catalogue.limits[limit].station].unit
    return KELVINS.get(unit, unit)


def may_be(setup: Setup, fact: Fact, known: frozenset[str]) -> Iterator[tuple[float, Patch]]:
    """What a fact may turn out to be: how common, and the change of the machine; none that moves what is known."""
    for one in fact.may_be:
        try:
            there = changed_paths(setup, patched(setup, one.change))
        except ValueError:
            continue
        if there and known.isdisjoint(there):
            yield one.share, one.change
    for end in _ends(setup, fact):
        yield 0.5, patch_at(fact.paths[0], end)


def _ends(setup: Setup, fact: Fact) -> Iterator[float]:
    """Both ends of where a number is."""
    path = fact.paths[0]
    item = declaration(path)
    if not isinstance(item, Quantity):
        return
    now = float(value_at(setup, path))
    half = fact.within if fact.within is not None else (fact.within_pct or 0.0) / 100.0 * abs(now)
    for end in fact.between if fact.between is not None else (now - half, now + half):
        inside = min(max(end, item.low), item.high)
        if inside != now:
            yield inside

"""Bands of 95 % about values and rooms, summed from what each doubt does."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from zeotherm.core.judgement.limits import Held

Array = npt.NDArray[np.float64]
Outcome = dict[str, float]  # "value:station" or "room:limit" -> figure


@dataclass(frozen=True, slots=True)
class Band:
    """A 95 % band about a value: down and up, both positive, in its unit."""

    down: float
    up: float

    @property
    def even(self) -> bool:
        """Whether one ± says it."""
        return abs(self.up - self.down) <= 0.15 * max(self.up, self.down) + 0.05


@dataclass(frozen=True)
class Doubted:
    """Bands of the stations' values and of the limits' rooms, and what each room's doubt comes from."""

    values: dict[str, Band]
    rooms: dict[str, Band]
    shares: dict[str, dict[str, float]]  # limit -> input -> share of the room's variance [-]


def outcome(given: object, values: Mapping[str, float | None], limits: Iterable[Held]) -> Outcome:
    """All figures that get a band, under one kind of key."""
    found = {f"value:{key}": value for key, value in values.items() if value is not None}
    for limit in limits:
        value = values.get(limit.limit.station)
        if value is not None:
            found[f"room:{limit.key}"] = limit.room(given, value)
    return found


def limit_doubts(limits: Iterable[Held]) -> dict[str, list[Outcome]]:
    """What the limits' own tolerances do to their rooms, up and down."""
    return {
        f"limit:{one.key}": [{f"room:{one.key}": sign * one.limit.tolerance} for sign in (1.0, -1.0)]
        for one in limits
        if one.limit.tolerance
    }


def summed_doubts(base: Outcome, changes: dict[str, list[Outcome]]) -> Doubted:
    """Rises and falls of every figure as roots of squares, apart, from what each doubt does up and down."""
    names, keys = list(changes), list(base)
    up, down = np.zeros((len(names), len(keys))), np.zeros((len(names), len(keys)))
    for n, sides in enumerate(changes.values()):
        for side in sides:
            by = np.array([side.get(key, 0.0) for key in keys])
            up[n], down[n] = np.maximum(up[n], by), np.maximum(down[n], -by)
    squares = up**2 + down**2
    widths = zip(np.sqrt((down**2).sum(axis=0)).tolist(), np.sqrt((up**2).sum(axis=0)).tolist(), strict=True)
    values: dict[str, Band] = {}
    rooms: dict[str, Band] = {}
    shares: dict[str, dict[str, float]] = {}
    for k, (key, width) in enumerate(zip(keys, widths, strict=True)):
        kind, _, name = key.partition(":")
        if kind == "value":
            values[name] = Band(*width)
            continue
        rooms[name] = Band(*width)
        total = float(squares[:, k].sum()) or 1.0
        shares[name] = dict(zip(names, (squares[:, k] / total).tolist(), strict=True))
    return Doubted(values, rooms, shares)

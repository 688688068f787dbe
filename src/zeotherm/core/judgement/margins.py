"""Margins: room to each limit, its state, and how sure it is that the limit holds."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass
from enum import Enum

from zeotherm.core.catalogue.shelves import Limit
from zeotherm.core.judgement.bands import Band, Doubted
from zeotherm.core.judgement.limits import Held


class State(Enum):
    """How a place stands to its limit."""

    OVER = "over"
    SHORT = "short"
    CLOSE = "close"
    UNKNOWN = "not known"
    CLEAR = "clear"

    @property
    def bad(self) -> bool:
        """Whether the limit is passed."""
        return self in (State.OVER, State.SHORT)


@dataclass(frozen=True, slots=True)
class Margin:
    """One limit at one station."""

    key: str
    station: str
    value: float | None
    limit: float
    kind: str
    clear_from: float
    room: float | None
    band: Band | None  # of the room
    holds: float | None  # probability that the limit holds [-]
    state: State
    breaks: str
    source: str


class Ordered:
    """What has its margins in order, worst first."""

    margins: list[Margin]

    @property
    def worst(self) -> Margin:
        """The margin the verdict speaks of."""
        return self.margins[0]

    def margin(self, key: str) -> Margin | None:
        """One margin by its limit."""
        return next((margin for margin in self.margins if margin.key == key), None)


def probability_positive(room: float, band: Band) -> float:
    """Probability that a quantity is above zero [-], from its value and 95 % band.

    A normal curve with its own width on either side (split normal): P = Φ(room / σ) with σ of the side toward zero.
    """
    width = band.down if room > 0 else band.up
    if width <= 0.0:
        return 1.0 if room > 0 else 0.0
    return 0.5 * (1.0 + math.erf(1.96 * room / width / math.sqrt(2.0)))


def worst_first(found: list[Margin]) -> list[Margin]:
    """Margins by the probability that each holds, then by room over what counts as clear."""
    return sorted(found, key=_rank)


def margins_with(limits: list[Held], values: Mapping[str, float], bands: Doubted | None) -> list[Margin]:
    """Every margin at these values of its station, worst first, where no limit is one of the inputs."""
    return worst_first([margin_at(None, one, values.get(one.limit.station), bands) for one in limits])


def margin_at(given: object, held: Held, value: float | None, bands: Doubted | None) -> Margin:
    """One limit's margin at a value of its station."""
    limit = held.limit
    room = None if value is None else held.room(given, value)
    band = bands.rooms.get(held.key) if bands else None
    holds = probability_positive(room, band) if room is not None and band is not None else None
    clear_from = held.clear_from(given)
    return Margin(
        key=held.key,
        station=limit.station,
        value=value,
        limit=held.at(given),
        kind=limit.kind,
        clear_from=clear_from,
        room=room,
        band=band,
        holds=holds,
        state=_state(room, clear_from, holds, limit),
        breaks=limit.breaks,
        source=held.source,
    )


def _state(room: float | None, clear_from: float, holds: float | None, limit: Limit) -> State:
    if room is None:
        return State.UNKNOWN
    if room < 0.0:
        return State(limit.passed)
    if room < clear_from or (holds is not None and holds < limit.sure):
        return State.CLOSE
    return State.CLEAR


def _rank(margin: Margin) -> tuple[float, float]:
    if margin.room is None:
        return (2.0, 0.0)
    scaled = margin.room / margin.clear_from if margin.clear_from else margin.room
    holds = margin.holds if margin.holds is not None else (0.0 if margin.room < 0 else 1.0)
    return (round(holds, 3), scaled)

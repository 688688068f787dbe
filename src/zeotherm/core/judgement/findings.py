"""What is found about an answer: why, and what would help."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Reason:
    """A departure and the room that setting it right would give back."""

    path: str
    value: float | str
    good: float | str
    gain: float  # in the limit's unit


@dataclass(frozen=True, slots=True)
class Strength:
    """A lever's gain of the worst margin for one step in its better direction."""

    path: str
    to: float | str  # the value one step away
    gain: float  # in the limit's unit; zero or less where no step helps
    enough: float | str | None  # the smallest change that meets every limit on its own

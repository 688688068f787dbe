"""A limit that applies somewhere, and the room to it."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from zeotherm.core.catalogue.shelves import Limit

Array = npt.NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class Held:
    """A limit that applies here."""

    key: str
    limit: Limit
    source: str
    input_name: str  # of the inputs, where the limit is one of them; else empty

    def at(self, given: object) -> float:
        """The limit's value; given: the inputs that it may be one of."""
        if self.input_name:
            return float(getattr(given, self.input_name))
        assert self.limit.value is not None
        return self.limit.value

    def room(self, given: object, value: float) -> float:
        """Room to the limit, positive while it holds, in the limit's unit."""
        return float(self._sign * (self.at(given) - value))

    def rooms(self, given: object, values: Array) -> Array:
        """As `room`, for a series of values."""
        return np.asarray(self._sign * (self.at(given) - values))

    @property
    def _sign(self) -> float:
        return 1.0 if self.limit.kind == "ceiling" else -1.0

    def clear_from(self, given: object) -> float:
        """Room from which the place counts as clear."""
        return max(self.limit.clear, self.limit.clear_share * abs(self.at(given)))


COUNTS_IN = {"printing": ("print",), "job": ("print", "pause"), "hot": ("soak", "print", "pause")}


def counts(limit: Held, kind: str) -> bool:
    """Whether a limit counts in a part of a job: preheat, soak, print, pause or cool."""
    return limit.limit.counts == "always" or kind in COUNTS_IN[limit.limit.counts]

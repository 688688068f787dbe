"""What is known of a part over its course can be looked at at any moment of it."""

from __future__ import annotations

from dataclasses import replace
from typing import Any, Generic, Self, TypeVar

Solved = TypeVar("Solved")  # the part at a moment


class Scrubbed(Generic[Solved]):
    """What is known of a part with a course."""

    answer: Any
    time: float | None

    @property
    def shown(self) -> Solved:
        """The part at the moment that is shown; at rest where none is wished for."""
        assert self.answer is not None
        still: Solved = self.answer.solved
        if self.time is None or self.answer.run is None:
            return still
        moment: Solved = self.answer.run.moment(self.time)
        return moment

    def at(self, time: float | None) -> Self:
        """The same at another moment of its course; None: at rest."""
        if time is None or self.answer is None or self.answer.run is None:
            return replace(self, time=None)  # type: ignore[type-var]
        moment = min(max(time, 0.0), float(self.answer.run.times[-1]))
        return replace(self, time=moment)  # type: ignore[type-var]

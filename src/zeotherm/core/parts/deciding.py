"""Which facts decide the verdict on a part beside the hotend: each that nobody told is tried as it may be, at rest."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from zeotherm.core.catalogue.knowledge import Fact
from zeotherm.core.catalogue.lookup import DoesNotFitError
from zeotherm.core.catalogue.shelves import Catalogue
from zeotherm.core.judgement.bands import Band
from zeotherm.core.judgement.deciding import Moved, deciding_of, may_be
from zeotherm.core.judgement.margins import Margin
from zeotherm.core.judgement.standing import Deciding
from zeotherm.core.machine.documents import Setup, patched
from zeotherm.core.parts.hotend.judge.course import Course
from zeotherm.core.questions import Cancelled, never
from zeotherm.core.solver.axisymmetric import CancelledError
from zeotherm.core.solver.plate import NotSettledError
from zeotherm.core.solver.stepping import TooSmallError

NO_ANSWER = (NotSettledError, DoesNotFitError, TooSmallError, ValueError)


def deciding_at_rest(
    rest: Callable[..., Any], setup: Setup, catalogue: Catalogue, tolerances: dict[str, float], course: Course | None,
    full: Any, facts: tuple[str, ...], known: tuple[str, ...], *, cancelled: Cancelled = never,
) -> Deciding | None:  # fmt: skip
    """What decides the verdict on a part, late in a print in the hours of the machine as it is assumed.

    rest: the part at rest, as `Part.rest` works it out; full: its answer with bands; facts: those that nobody told, by
    key; known: paths that are told, which no fact may move. None where the part has no margin at rest. Raises
    CancelledError.
    """
    told = frozenset(known)
    base = rest(setup, catalogue, tolerances, course, cancelled=cancelled)
    judged = [one for one in base.margins if one.room is not None]
    if not judged:
        return None
    nearest = min(judged, key=_by_clear)
    least = _by_clear(nearest)  # what a fact moves, whichever limit has it
    worst = next((one for one in judged if one.key == full.worst.key), nearest)  # what the verdict speaks of
    clear = worst.clear_from or 1.0

    def tried(fact: Fact) -> list[Moved] | None:
        found, asked = [], False
        for share, change in may_be(setup, fact, told):
            if cancelled():
                raise CancelledError
            asked = True
            try:
                other = rest(patched(setup, change), catalogue, tolerances, course, cancelled=cancelled)
            except NO_ANSWER:
                continue
            rooms = [(_by_clear(one), one.key) for one in other.margins if one.room is not None]
            if rooms:
                there, limit = min(rooms)
                found.append((share, clear * (there - least), limit))
        return found if found or not asked else None

    margin = full.margin(worst.key)
    own = margin.band if margin is not None and margin.band is not None else Band(0.0, 0.0)
    asked = ((key, catalogue.facts[key], tried(catalogue.facts[key])) for key in facts)
    return deciding_of(worst.key, own, asked, catalogue)


def _by_clear(margin: Margin) -> float:
    """Its room over what counts as clear [-]."""
    assert margin.room is not None
    return margin.room / (margin.clear_from or 1.0)

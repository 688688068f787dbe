"""Which facts decide a verdict: each that nobody told is tried as it may be, and the worst margin tells how much hangs
on it.

The hotend is settled once more for each thing a fact may be, in the air of the job's worst moment. What is compared is
the least room of all limits by what counts as clear, for a fact may make another limit the worst. A number is tried at
both ends of where 95 % of such machines have it; a kind by how common each is, as 1.96 times the root of the mean
square of what it takes away, and of what it adds, apart, but never more than the furthest of them.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping

from zeotherm.core.catalogue.knowledge import Fact
from zeotherm.core.judgement.limits import counts
from zeotherm.core.judgement.standing import Deciding, Doubtful
from zeotherm.core.machine.documents import Setup, patched
from zeotherm.core.machine.known import changed_paths
from zeotherm.core.machine.patches import Patch, patch_at, value_at
from zeotherm.core.machine.quantity import Quantity, declared
from zeotherm.core.parts.hotend.judge.answer import Answer
from zeotherm.core.parts.hotend.judge.course import Course
from zeotherm.core.parts.hotend.judge.limits import held
from zeotherm.core.parts.hotend.judge.probe import WhatIf, room
from zeotherm.core.parts.hotend.model.solved import Solved
from zeotherm.core.questions import Cancelled, never
from zeotherm.core.solver.axisymmetric import CancelledError, NotConvergedError

TWO_SIDED = 1.96
HARDLY = 0.02  # of the band's half-width: a fact that moves the worst margin by less is left out


def deciding(
    answer: Answer, course: Course, facts: Mapping[str, Fact], known: frozenset[str], cancelled: Cancelled = never
) -> Deciding | None:
    """What decides the verdict on a hotend at its job's worst moment.

    answer: at that moment, with bands. facts: those that nobody told; known: paths that are told, which no fact may
    move. None on the way up or down, where nothing is settled to compare with. Raises CancelledError.
    """
    time = course.worst_time
    if answer.bands is None or course.run.at(time)[1].kind not in ("soak", "print", "pause"):
        return None
    probe = WhatIf(answer.setup, answer.catalogue, answer.solved, course, time, cancelled)
    worst = next(margin for margin in answer.margins if margin.key == answer.worst.key)
    clear = worst.clear_from or 1.0
    kind = course.run.at(time)[1].kind
    try:
        base = _least(probe.rest, probe, kind)
    except NotConvergedError:
        return None
    found = []
    for key, fact in facts.items():
        down, up = _moves(probe, fact, known, lambda solved: clear * (_least(solved, probe, kind) - base))
        found.append(Doubtful(key, down, up))
    own = answer.bands.rooms[worst.key]
    kept = [one for one in found if one.down > HARDLY * own.down or one.up > HARDLY * own.up]
    return Deciding(worst.key, tuple(kept), own).most_deciding_first()


def _least(solved: Solved, probe: WhatIf, kind: str) -> float:
    """The least room of all limits by what counts as clear [-]."""
    given = solved.resolved.inputs
    limits = [one for one in held(solved.resolved, probe.catalogue) if counts(one, kind)]
    known = [one for one in limits if solved.readout.values.get(one.limit.station) is not None]
    return min(room(solved, one) / (one.clear_from(given) or 1.0) for one in known)


def _moves(probe: WhatIf, fact: Fact, known: frozenset[str], moved: object) -> tuple[float, float]:
    """How far a fact may take the worst margin down and up, 95 %."""
    assert callable(moved)
    changes: list[tuple[float, float]] = []
    for share, change in may_be(probe.setup, fact, known):
        if probe.cancelled():
            raise CancelledError
        solved = probe.with_change(change)
        if solved is not None:
            changes.append((share, moved(solved)))
    if not changes:
        return 0.0, 0.0
    if not fact.may_be:
        by = [one for _share, one in changes]
        return max(0.0, *(-one for one in by)), max(0.0, *by)
    left = sum(one.share for one in fact.may_be)
    return tuple(  # type: ignore[return-value]  # of two
        min(
            TWO_SIDED * math.sqrt(sum(share * max(side * by, 0.0) ** 2 for share, by in changes) / left),
            max(0.0, *(side * by for _share, by in changes)),
        )
        for side in (-1.0, 1.0)
    )


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
    item = declared(Setup)[path]
    if not isinstance(item, Quantity) or (fact.between is None and fact.within is None):
        return
    now = float(value_at(setup, path))
    ends = fact.between if fact.between is not None else (now - fact.within, now + fact.within)  # type: ignore[operator]
    for end in ends:
        inside = min(max(end, item.low), item.high)
        if inside != now:
            yield inside

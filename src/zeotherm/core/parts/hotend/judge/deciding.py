"""Which facts decide the verdict on a hotend: each that nobody told is tried as it may be, settled once more.

In the air of the job's worst moment, replayed where the surroundings change. What is compared is the least room of all
limits by what counts as clear, for a fact may make another limit the worst.
"""

from __future__ import annotations

from collections.abc import Mapping

from zeotherm.core.catalogue.knowledge import Fact
from zeotherm.core.judgement.deciding import Moved, deciding_of, may_be
from zeotherm.core.judgement.limits import counts
from zeotherm.core.judgement.standing import Deciding
from zeotherm.core.parts.hotend.judge.answer import Answer
from zeotherm.core.parts.hotend.judge.course import Course
from zeotherm.core.parts.hotend.judge.limits import held
from zeotherm.core.parts.hotend.judge.probe import WhatIf, room
from zeotherm.core.parts.hotend.model.solved import Solved
from zeotherm.core.questions import Cancelled, never
from zeotherm.core.solver.axisymmetric import CancelledError, NotConvergedError


def deciding(
    answer: Answer, course: Course, facts: Mapping[str, Fact], known: frozenset[str], cancelled: Cancelled = never
) -> Deciding | None:
    """What decides the verdict on a hotend at its job's worst moment.

    answer: at that moment, with bands. facts: those that nobody told; known: paths that are told, which no fact may
    move. None on the way up or down, where nothing is settled to compare with. Raises CancelledError.
    """
    time = course.worst_time
    kind = course.run.at(time)[1].kind
    if answer.bands is None or kind not in ("soak", "print", "pause"):
        return None
    probe = WhatIf(answer.setup, answer.catalogue, answer.solved, course, time, cancelled)
    worst = answer.worst
    clear = worst.clear_from or 1.0
    try:
        base, _limit = _least(probe.rest, probe, kind)
    except NotConvergedError:
        return None

    def tried(fact: Fact) -> list[Moved] | None:
        found, asked = [], False
        for share, change in may_be(probe.setup, fact, known):
            if cancelled():
                raise CancelledError
            solved, asked = probe.with_change(change), True
            if solved is not None:
                least, limit = _least(solved, probe, kind)
                found.append((share, clear * (least - base), limit))
        return found if found or not asked else None

    probe.look_ahead(change for fact in facts.values() for _share, change in may_be(probe.setup, fact, known))
    asked = ((key, fact, tried(fact)) for key, fact in facts.items())
    return deciding_of(worst.key, answer.bands.rooms[worst.key], asked, answer.catalogue)


def _least(solved: Solved, probe: WhatIf, kind: str) -> tuple[float, str]:
    """The least room of all limits by what counts as clear [-], and the limit that has it."""
    given = solved.resolved.inputs
    limits = [one for one in held(solved.resolved, probe.catalogue) if counts(one, kind)]
    known = [one for one in limits if solved.readout.values.get(one.limit.station) is not None]
    return min((room(solved, one) / (one.clear_from(given) or 1.0), one.key) for one in known)

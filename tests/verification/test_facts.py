"""Verdicts on half-known machines: whether their bands hold what the whole description says, and whether the fact that
is named first is the one to find out.

The machines are drawn from what facts may be. Bounds are asked of seeds that nothing was tuned by: 0 to 39 and 100 to
124 were looked at while the shares of `facts.toml` were set.
"""

from __future__ import annotations

import pytest

from tests.machines_known import CATALOGUE, Visit, judged, least, told_of, visit
from zeotherm.core.catalogue.lookup import DoesNotFitError
from zeotherm.core.judgement.standing import Deciding
from zeotherm.core.machine.documents import Job
from zeotherm.core.parts.hotend.judge.course import plan
from zeotherm.core.solver.axisymmetric import NotConvergedError

MACHINES = range(1000, 1200)
ASKED = range(2000, 2040)
LIKELIEST = 6  # facts that are each found out, to see which narrows most


def settled(one: Visit) -> tuple[float, float, Deciding] | None:
    """How far the whole description is off the verdict in the worst limit's unit, and the band; None where a machine
    has no answer, or its worst moment is on the way up or down."""
    try:
        course, answer, deciding = judged(one.job)
        truth = least(plan(one.truth, CATALOGUE))
    except (NotConvergedError, DoesNotFitError):
        return None
    if deciding is None:
        return None
    clear = answer.worst.clear_from or 1.0
    return clear * (truth - least(course)), clear, deciding


@pytest.mark.verify
@pytest.mark.timeout(3000)
def test_the_band_of_a_half_known_machine_holds_what_the_whole_description_says(record):
    found = [one for seed in MACHINES if (one := settled(visit(seed))) is not None]
    inside = sum(-d.now.down <= off <= d.now.up for off, _clear, d in found)
    alone = sum(-d.own.down <= off <= d.own.up for off, _clear, d in found)
    share = inside / len(found)
    record(f"Facts: {len(found)} machines of which half is known", "95 % bands hold the whole description",
           f"{share:.1%} (by the model's own band alone {alone / len(found):.1%})", "90 to 99 %")  # fmt: skip
    assert len(found) >= 0.9 * len(MACHINES)
    assert 0.90 <= share <= 0.99


def once_known(one: Visit, job: Job, keys: tuple[str, ...]) -> Deciding | None:
    """What decides once these are told."""
    try:
        return judged(told_of(one, job, keys))[2]
    except (NotConvergedError, DoesNotFitError):
        return None


@pytest.mark.verify
@pytest.mark.timeout(3000)
def test_the_fact_named_first_narrows_the_band_most_and_three_leave_what_was_said(record):
    """Each of the likeliest facts is told as the machine truly has it, and the verdict worked out anew.

    Compared are bands of one limit: a fact that makes another limit the worst is left out, and so is a machine of which
    the three named first do.
    """
    right, asked, off = 0, 0, []
    for seed in ASKED:
        one = visit(seed)
        start = once_known(one, one.job, ())
        if start is None or not start.first:
            continue
        after = {fact.key: once_known(one, one.job, (fact.key,)) for fact in start.facts[:LIKELIEST]}
        widths = {key: _wide(found) for key, found in after.items() if found is not None and found.limit == start.limit}
        first = start.first[0].key
        if first in widths:
            asked += 1
            right += widths[first] <= 1.05 * min(widths.values())
        there = once_known(one, one.job, tuple(fact.key for fact in start.first))
        if there is not None and there.limit == start.limit:
            off.append(abs(_wide(there) / (start.after.down + start.after.up) - 1.0))
    near = sum(one <= 0.15 for one in off) / len(off)
    record(f"Facts: the one named first, {asked} machines", "each of the six likeliest told as it is",
           f"narrows the band most on {right / asked:.0%}", "85 %")  # fmt: skip
    record(f"Facts: the three named first, {len(off)} machines", "told as they are: the band said, within 15 %",
           f"{near:.0%}; half of them within {sorted(off)[len(off) // 2]:.0%}", "70 %")  # fmt: skip
    assert asked >= 20
    assert right >= 0.85 * asked
    assert near >= 0.7


def _wide(found: Deciding) -> float:
    return found.now.down + found.now.up

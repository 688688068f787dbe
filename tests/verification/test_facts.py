"""Verdicts on half-known machines: whether their bands hold what the whole description says, and whether the fact that is
named first is the one to find out.

The machines are drawn from what facts may be; bounds are asked of seeds that nothing was tuned by (0 to 39 were looked at
while the shares of `facts.toml` were set).
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
@pytest.mark.timeout(1800)
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
@pytest.mark.timeout(2400)
def test_the_fact_named_first_narrows_the_band_most_and_three_leave_what_was_said(record):
    """Each of the likeliest facts is told as the machine has it, and the verdict worked out anew.

    What a fact turns out to be also moves the machine, and so what the others do; the band that was said is of the
    machine as it was assumed. So it is asked of facts told as they were assumed, which changes nothing else.
    """
    right, asked, off = 0, 0, []
    for seed in ASKED:
        one = visit(seed)
        as_assumed = Visit(one.job.found, one.job)
        start = once_known(one, one.job, ())
        if start is None or not start.first:
            continue
        likeliest = [fact.key for fact in start.facts[:LIKELIEST]]
        after = {key: once_known(as_assumed, one.job, (key,)) for key in likeliest}
        widths = {key: found.now.down + found.now.up for key, found in after.items() if found is not None}
        asked += 1
        best = min(widths, key=lambda key: widths[key])
        right += best == start.first[0].key or widths[start.first[0].key] < 1.02 * widths[best]
        there = once_known(as_assumed, one.job, tuple(fact.key for fact in start.first))
        if there is not None:
            said, is_now = start.after.down + start.after.up, there.now.down + there.now.up
            off.append(abs(is_now / said - 1.0))
    record(
        f"Facts: named first on {asked} machines", "the one that narrows the band most", f"{right / asked:.0%}", "90 %"
    )
    record("Facts: band once the first three are known", "what was said it would be", f"{max(off):.1%} at most", "15 %")
    assert asked >= 30
    assert right >= 0.9 * asked
    assert max(off) < 0.15

"""Machines as they come to a bench, drawn from what facts may be, of which a part is told."""

from __future__ import annotations

import random
from dataclasses import dataclass

from zeotherm.core.catalogue import shipped
from zeotherm.core.catalogue.knowledge import Fact
from zeotherm.core.judgement.standing import Deciding, not_told
from zeotherm.core.machine.documents import Job, Setup, patched
from zeotherm.core.machine.patches import Patch, merged, patch_at, sets, value_at
from zeotherm.core.machine.quantity import declared
from zeotherm.core.parts.hotend.judge.answer import Answer
from zeotherm.core.parts.hotend.judge.ask import with_bands
from zeotherm.core.parts.hotend.judge.course import Course, plan
from zeotherm.core.parts.hotend.judge.deciding import deciding
from zeotherm.core.parts.whole.run import check

CATALOGUE = shipped()
SPREAD = 1.96  # half-widths of 95 % in standard deviations
PRINTS = {"schedule": {"print_min": 60.0, "cool_min": 0.0}}


@dataclass(frozen=True)
class Visit:
    """A machine, and what of it is told: the rest is as a new job has it."""

    truth: Setup
    job: Job


def drawn(fact: Fact, setup: Setup, rng: random.Random) -> Patch:
    """One way a fact may turn out."""
    if fact.may_be:
        left = rng.random() * sum(one.share for one in fact.may_be)
        for one in fact.may_be:
            left -= one.share
            if left <= 0.0:
                return one.change
        return fact.may_be[-1].change
    path = fact.paths[0]
    if fact.between is not None:
        middle, half = 0.5 * sum(fact.between), 0.5 * (fact.between[1] - fact.between[0])
    elif fact.within is not None:
        middle, half = float(value_at(setup, path)), fact.within
    else:
        return {}
    item = declared(Setup)[path]
    value = rng.gauss(middle, half / SPREAD)
    return patch_at(path, round(min(max(value, item.low), item.high), 3))  # type: ignore[union-attr]


def visit(seed: int, share: float = 0.5) -> Visit:
    """A machine drawn by its facts, a share of which nobody told."""
    rng = random.Random(seed)
    while True:
        found: Patch = dict(PRINTS)
        if rng.random() < 0.6:
            case = rng.choice(("side_vented", "panelled_frame", "fabric_pop_up", "open_frame"))
            found = merged(found, {"surroundings": {"air_from": "case"}, "case": {"part": case}})
        base = patched(Setup(), found)
        told: Patch = dict(found)
        known = {"surroundings.air_from", "case.part", "schedule.print_min", "schedule.cool_min"}
        for fact in (
            one for one in CATALOGUE.facts.values() if not one.toolhead and not one.further and one.of is None
        ):
            if "air_from" in fact.paths[0]:
                continue
            change = drawn(fact, base, rng)
            try:
                base = patched(base, change)
            except ValueError:
                continue
            if rng.random() >= share and change:
                told = merged(told, change)
                known |= {path for path in declared(Setup) if sets(change, path)}
        job = Job.model_validate({"found": told, "known": {path: {"how": "entered"} for path in sorted(known)}})
        try:
            check(base, CATALOGUE)
            check(job.found, CATALOGUE)
        except ValueError:
            continue
        return Visit(base, job)


def least(course: Course) -> float:
    """The least room of all limits by what counts as clear [-], over the job."""
    given = course.run.printing.resolved.inputs
    return min(
        course.worst[one.key][0] / (one.clear_from(given) or 1.0) for one in course.limits if one.key in course.worst
    )


def judged(job: Job) -> tuple[Course, Answer, Deciding | None]:
    """A job's hours, its worst moment with bands, and what decides."""
    course = plan(job.found, CATALOGUE)
    answer = with_bands(course.answer(course.worst_time))
    return course, answer, deciding(answer, course, not_told(job, "hotend", CATALOGUE), frozenset(job.known))


def told_of(one: Visit, job: Job, keys: tuple[str, ...]) -> Job:
    """The job once these facts are told as they truly are."""
    patch: Patch = {}
    known = {path: how.model_dump() for path, how in job.known.items()}
    for key in keys:
        for path in CATALOGUE.facts[key].paths:
            patch = merged(patch, patch_at(path, value_at(one.truth, path)))
            known[path] = {"how": "entered"}
    found = patched(job.found, patch).model_dump(mode="json")
    return Job.model_validate({"found": found, "known": known})

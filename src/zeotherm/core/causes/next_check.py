"""What to ask and to check next: most told for the least time, cost, danger and taking apart."""

from __future__ import annotations

import math
from collections.abc import Collection
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from zeotherm.core.catalogue.knowledge import Check
from zeotherm.core.catalogue.shelves import Catalogue
from zeotherm.core.causes.ranking import MODEL_DOUBT, TEMPER, Facts, Table
from zeotherm.core.causes.worlds import AS_FOUND, has
from zeotherm.core.guard.fitted import ALL_ENTERED, Assumed
from zeotherm.core.guard.heat import target
from zeotherm.core.judgement.standing import Deciding
from zeotherm.core.judgement.telling import bits_told
from zeotherm.core.machine.documents import Setup

Array = npt.NDArray[np.float64]
ENOUGH = 0.88  # probability of one cause at which asking may stop
LEAST_BITS = 0.02  # a check that tells less is not worth a word
DANGER, APART, COST, SETTING_UP = 1.5, 8.0, 3.0, 3.0  # minutes: a sign, dismantling, a unit of cost, any check
USUAL_FAILURE = 45.0 * 60.0  # s, where nothing is known of when it fails
READING_TOLERANCE = 1.5  # K
OUTLAST = 1.5  # a substitute test lasts this many times the usual time to the failure


@dataclass(frozen=True, slots=True)
class Branch:
    """What one answer would do: how likely it is, and the causes after it."""

    option: str
    probability: float
    first: str  # cause that would lead
    before: float  # its probability now
    after: float


@dataclass(frozen=True)
class Next:
    """A check, or a question, and what it would tell."""

    key: str
    bits: float  # expected information [bit]
    minutes: float
    worth: float  # bits for each minute, with cost, danger and taking apart counted as minutes
    branches: tuple[Branch, ...]
    threshold: float | None = None  # °C that parts the answers of a reading
    outlasts: float | None = None  # s of printing to go past


@dataclass(frozen=True)
class Plan:
    """What to do next, and whether enough is known."""

    checks: tuple[Next, ...]  # most worth first
    questions: tuple[Next, ...]
    why: str  # why enough is known: decided, nothing_left; empty while it is not

    @property
    def enough(self) -> bool:
        """Whether asking may stop."""
        return bool(self.why)


def plan(
    table: Table, facts: Facts, setup: Setup, skipped: Collection[str] = (), decided: str | None = None,
    assumed: Assumed = ALL_ENTERED,
) -> Plan:  # fmt: skip
    """Checks and questions still open, best first; decided: the cause that was settled on; assumed: what nobody entered
    of the machine: no check is offered that a part would not stand which may be there."""
    catalogue = table.catalogue
    logs = table.posterior(facts)
    now = table.by_cause(logs)
    usual = usual_failure(table, facts, logs)
    open_checks = [
        key
        for key, check in catalogue.checks.items()
        if not _done(key, check, facts)
        and key not in skipped
        and has(check.needs, setup, catalogue)
        and (not check.heat or target(catalogue.heat_rules[check.heat], setup, catalogue, assumed=assumed).offered)
    ]
    checks = [_next(table, key, logs, now, usual) for key in open_checks]
    checks = [one for one in checks if one.bits >= LEAST_BITS]
    checks = _no_purchase_first(checks, catalogue)
    checks.sort(key=lambda one: -one.worth)
    questions = [
        _next(table, key, logs, now, usual)
        for key, about in catalogue.questions.items()
        if key not in facts.answers and about.kind == "one"
    ]
    questions.sort(key=lambda one: -one.bits)
    sure = float(now.max()) >= ENOUGH
    telling = bool(checks) or any(one.bits >= LEAST_BITS for one in questions)
    why = "decided" if sure or decided else "" if telling else "nothing_left"
    return Plan(tuple(checks), tuple(questions), why)


def facts_to_find(room: float | None, deciding: Deciding | None, catalogue: Catalogue) -> tuple[Next, ...]:
    """Facts of the machine that are worth finding out, by the same measure as checks: bits for each minute, with danger
    counted as minutes. room: to the worst limit, as the machine is assumed."""
    if room is None or deciding is None:
        return ()
    found = []
    for key, bits in bits_told(room, deciding).items():
        if bits >= LEAST_BITS:
            about = catalogue.facts[key]
            effort = SETTING_UP + about.minutes + DANGER * len(about.signs)
            found.append(Next(key, bits, about.minutes, bits / effort, ()))
    return tuple(sorted(found, key=lambda one: -one.worth))


def usual_failure(table: Table, facts: Facts, logs: Array) -> float:
    """Seconds of printing after which the trouble usually comes: from the worlds that may be, within what was told."""
    low, high = _told_times(table.catalogue, facts)
    weights = np.exp(logs - logs.max())
    half = {index: found.time(0.5) for index, found in table.outcomes.items() if index != AS_FOUND}
    times = [(float(weights[i]), time) for i, time in half.items() if time is not None and low <= time <= high]
    total = sum(weight for weight, _time in times)
    if total <= 1e-9:
        return min(max(USUAL_FAILURE, low), high)
    return sum(weight * time for weight, time in times) / total


def _told_times(catalogue: Catalogue, facts: Facts) -> tuple[float, float]:
    """Between which seconds of printing it fails, as far as that was told."""
    for asked, options in facts.answers.items():
        for option in options:
            about = catalogue.asked[asked].options.get(option) if asked in catalogue.asked else None
            if about is not None and about.from_min is not None:
                return 60.0 * about.from_min, 60.0 * about.until_min if about.until_min is not None else math.inf
    return 0.0, math.inf


def _done(key: str, check: Check, facts: Facts) -> bool:
    return key in facts.answers or (bool(check.reads) and check.reads in facts.readings)


def _no_purchase_first(checks: list[Next], catalogue: Catalogue) -> list[Next]:
    """No part is bought while a check that costs nothing could still speak on the matter."""
    free = [one for one in checks if not catalogue.checks[one.key].buys]
    return free or checks


def _next(table: Table, key: str, logs: Array, now: Array, usual: float) -> Next:
    about = table.catalogue.asked[key]
    threshold = None
    if isinstance(about, Check) and about.reads:
        threshold, shares = _reading_shares(table, about.reads, logs)
    else:
        shares = table.shares(key)
    weights = np.exp(logs - logs.max())
    weights /= weights.sum()
    likely = weights @ shares  # of each answer
    told = TEMPER * np.log(np.maximum(shares.T, 1e-4))
    after = table.by_cause(logs + told)
    bits = max(_entropy(now) - float((likely * np.array([_entropy(one) for one in after])).sum()), 0.0)
    minutes, outlasts = _minutes(about, usual)
    branches = tuple(
        Branch(option, float(likely[i]), table.keys[int(after[i].argmax())],
               float(now[int(after[i].argmax())]), float(after[i].max()))
        for i, option in enumerate(about.options)
    )  # fmt: skip
    return Next(key, bits, minutes, bits / _effort(about, minutes), branches, threshold, outlasts)


def _minutes(about: object, usual: float) -> tuple[float, float | None]:
    if not isinstance(about, Check):
        return 0.3, None
    if not about.outlasts:
        return about.minutes, None
    return about.minutes + OUTLAST * usual / 60.0, OUTLAST * usual


def _effort(about: object, minutes: float) -> float:
    """Minutes, with cost, danger and taking apart counted as minutes."""
    if not isinstance(about, Check):
        return minutes
    extra = DANGER * len(about.signs) + APART * about.dismantles + COST * about.cost
    return SETTING_UP + minutes + extra


def _reading_shares(table: Table, station: str, logs: Array) -> tuple[float | None, Array]:
    """The value that parts a reading's two answers, and their shares in every world."""
    known = [table.reading(index, station, None) for index in range(len(table.worlds))]
    even = np.full((len(known), 2), 0.5)
    if not any(known):
        return None, even
    weights = np.exp(logs - logs.max())
    told = np.array([weights[i] if one else 0.0 for i, one in enumerate(known)])
    if told.sum() <= 1e-12:
        return None, even
    values = np.array([one[0] if one else 0.0 for one in known])
    threshold = round(float((told * values).sum() / told.sum()), 0)
    for index, one in enumerate(known):
        if one is not None:
            width = math.hypot(one[1], READING_TOLERANCE, MODEL_DOUBT) / 1.96
            below = 0.5 * (1.0 + math.erf((threshold - one[0]) / width / math.sqrt(2.0)))
            even[index] = (0.04 + 0.92 * below, 0.96 - 0.92 * below)
    return threshold, even


def _entropy(shares: Array) -> float:
    kept = shares[shares > 1e-12]
    return float(-(kept * np.log2(kept)).sum())

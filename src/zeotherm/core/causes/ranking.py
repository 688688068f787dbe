"""Causes by probability, from what was told, tried and read: Bayes' rule over all worlds of all causes.

A fact's probability in a world comes from the world's simulation where that speaks of it, else from the catalogue, else
it is the fact's base share. One answer in ten may be wrong, and symptoms of one cause hang together, so likelihoods are
mixed with the base share and tempered.
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass, field
from functools import cached_property

import numpy as np
import numpy.typing as npt

from zeotherm.core.catalogue.shelves import Catalogue
from zeotherm.core.causes.outcomes import Outcome
from zeotherm.core.causes.worlds import AS_FOUND, DEPARTURE_BY_CHANCE, DEPARTURE_SEEN, Hypothesis
from zeotherm.core.machine.documents import Job, Reading

Array = npt.NDArray[np.float64]
WRONG = 0.15  # share of answers that say nothing
TEMPER = 0.85  # power of each likelihood: symptoms of one cause are not independent
FLOOR = 0.12  # how likely a trouble is in a world in which the model sees no failure
UNSIMULATED = 0.5  # the same before the world is run
MODEL_DOUBT = 3.0  # K, 95 %, that a reading may be off besides the bands
LEAST_DENSITY = 0.02  # of a reading, against one that is spot on: an instrument may have been held badly
PSEUDO_JOBS = 20.0  # jobs that the catalogue's own priors are worth against the shop's
UNTIMED = 0.17  # share of failures with a clock that are told without one
ALWAYS = 0.2  # least share of troubles of which nobody notices what they come with
RULED_OUT, STRONG = 0.012, 0.3
LEADING, ALIKE, PARTING = 0.12, 1.6, 0.25  # probability; ratio within which facts do not part; what would
UNEXPLAINED_Z, UNEXPLAINED_P = 3.0, 0.09


@dataclass(frozen=True, slots=True)
class Facts:
    """What is known: answers by what was asked, and readings by station."""

    answers: Mapping[str, tuple[str, ...]]
    readings: Mapping[str, Reading] = field(default_factory=dict)

    @classmethod
    def of(cls, job: Job) -> Facts:
        """All that a job knows."""
        return cls({key: tuple(told) for key, told in job.intake.answers.items()}, job.readings)


@dataclass(frozen=True, slots=True)
class Evidence:
    """One fact for or against a cause: `ratio` is its probability under the cause over that under the others."""

    kind: str  # answer, model, reading, departure
    key: str  # question.option, station, path
    ratio: float
    reason: str = ""  # of the catalogue
    predicted: tuple[float, float] | None = None  # 95 % span of a reading [°C]; 80 % span of a failure's time [s]
    share: float | None = None  # probability that the feed stops at all, where it is unlikely


@dataclass(frozen=True)
class Ranked:
    """One cause with its probability and what speaks for and against it."""

    key: str
    probability: float
    prior: float
    shop_jobs: int
    evidence: tuple[Evidence, ...]  # weightiest first
    ruled_out_by: Evidence | None


@dataclass(frozen=True)
class Ranking:
    """All causes, likeliest first, and what does not fit."""

    causes: tuple[Ranked, ...]
    alike: tuple[tuple[str, str, str], ...]  # pairs that the facts do not tell apart, and the check that would
    contradictions: tuple[str, ...]  # ids
    unexplained: tuple[str, ...]  # question.option or station
    told: int
    simulated: int
    to_simulate: int

    @property
    def first(self) -> Ranked:
        """The likeliest."""
        return self.causes[0]


class Table:
    """The probabilities of one machine's worlds, ready to be asked."""

    def __init__(
        self,
        worlds: list[Hypothesis],
        outcomes: Mapping[int, Outcome],
        catalogue: Catalogue,
        shop: Mapping[str, int] | None = None,
    ) -> None:
        self.worlds, self.outcomes, self.catalogue = worlds, outcomes, catalogue
        self.shop = shop or {}
        self.keys = list(dict.fromkeys(world.cause for world in worlds))
        self._of_cause = np.array([[world.cause == key for world in worlds] for key in self.keys], dtype=float)
        self._kept: dict[str, Array] = {}

    @cached_property
    def priors(self) -> dict[str, float]:
        """Probability of each cause before anything is told; the shop's own decided jobs shift it."""
        common = {key: self.catalogue.causes[key].common for key in self.keys}
        total = sum(common.values())
        weighed = {key: PSEUDO_JOBS * value / total + self.shop.get(key, 0) for key, value in common.items()}
        return {key: value / sum(weighed.values()) for key, value in weighed.items()}

    @cached_property
    def start(self) -> Array:
        """Log weights of the worlds before anything is told: prior, share, failing at all, signs found."""
        found = []
        for index, world in enumerate(self.worlds):
            weight = math.log(self.priors[world.cause] * world.share)
            found.append(weight + math.log(self._fails(index)) + self._signs(world))
        return np.array(found)

    def _fails(self, index: int) -> float:
        world = self.worlds[index]
        if world.setup is None or not self.catalogue.causes[world.cause].must_fail:
            return UNSIMULATED
        found = self.outcomes.get(index)
        return UNSIMULATED if found is None else FLOOR + (1.0 - FLOOR) * found.fails

    def _signs(self, world: Hypothesis) -> float:
        """Log ratio of the departures that were found and that this cause would explain."""
        return len(world.signs) * math.log(DEPARTURE_SEEN / DEPARTURE_BY_CHANCE) * TEMPER

    def shares(self, asked: str) -> Array:
        """Probabilities of all answers in all worlds, (worlds, options)."""
        if asked not in self._kept:
            self._kept[asked] = np.array([self._answers(index, asked) for index in range(len(self.worlds))])
        return self._kept[asked]

    def _answers(self, index: int, asked: str) -> Array:
        about = self.catalogue.asked[asked]
        world = self.worlds[index]
        cause = self.catalogue.causes[world.cause]
        base = np.array([option.base for option in about.options.values()])
        said = {**self.catalogue.domains[cause.domain].shows, **cause.shows}
        known = {option: said[f"{asked}.{option}"][0] for option in about.options if f"{asked}.{option}" in said}
        found = self.outcomes.get(index)
        if found is not None and cause.must_fail:
            known = self._simulated(asked, found) or known
        shares = np.array([known.get(option, math.nan) for option in about.options])
        if about.kind == "many":
            return np.where(np.isnan(shares), base, (1.0 - WRONG) * shares + WRONG * base)
        rest = np.isnan(shares)
        left = max(1.0 - float(np.nansum(shares)), 0.0)
        total = float(base[rest].sum())
        shares[rest] = left * base[rest] / total if total > 0.0 else 0.0
        return np.asarray((1.0 - WRONG) * shares / max(float(shares.sum()), 1e-9) + WRONG * base)

    def _simulated(self, asked: str, found: Outcome) -> dict[str, float]:
        """What the simulation says of an answer; nothing where it is silent."""
        if asked in found.cures:
            return {"cured": found.cures[asked]}
        options = self.catalogue.asked[asked].options.items()
        timed = {key: found.between(one.from_min, one.until_min) for key, one in options if one.from_min is not None}
        if timed:
            return {key: (1.0 - UNTIMED) * share for key, share in timed.items()}
        cured = {key: one.weight * found.cures[one.cured_by] for key, one in options if one.cured_by in found.cures}
        if not cured:
            return {}
        nothing_else = max(1.0 - max(cured.values()), ALWAYS)
        return {key: share / (sum(cured.values()) + nothing_else) for key, share in cured.items()}

    def reading(self, index: int, station: str, clock_h: float | None) -> tuple[float, float] | None:
        """What a world predicts at a station: value and 95 % half-width; without a simulation, as the machine found."""
        found = self.outcomes.get(index if self.worlds[index].setup is not None else AS_FOUND)
        return found.reading(station, clock_h) if found is not None else None

    def of_answer(self, asked: str, option: str) -> Array:
        """Tempered log-likelihood of one answer in every world."""
        options = list(self.catalogue.asked[asked].options)
        return np.asarray(TEMPER * np.log(np.maximum(self.shares(asked)[:, options.index(option)], 1e-4)))

    def of_reading(self, station: str, reading: Reading) -> Array:
        """Tempered log-likelihood of a reading in every world, against one that is spot on; zero where unknown."""
        found = np.zeros(len(self.worlds))
        known = []
        for index in range(len(self.worlds)):
            predicted = self.reading(index, station, reading.clock_h)
            if predicted is None:
                continue
            known.append(index)
            width = math.hypot(predicted[1], reading.tolerance, MODEL_DOUBT) / 1.96
            z = (reading.value - predicted[0]) / width
            found[index] = TEMPER * math.log(LEAST_DENSITY + (1.0 - LEAST_DENSITY) * math.exp(-0.5 * z * z))
        if known:  # a world that says nothing of it is neither helped nor hurt
            silent = np.ones(len(found), dtype=bool)
            silent[known] = False
            found[silent] = float(found[known].mean())
        return found

    def facts(self, facts: Facts) -> list[tuple[str, str, Array]]:
        """Every fact with its log-likelihood in every world: kind, key, values."""
        found = [
            ("answer", f"{asked}.{option}", self.of_answer(asked, option))
            for asked, options in facts.answers.items()
            if asked in self.catalogue.asked
            for option in options
            if option in self.catalogue.asked[asked].options
        ]
        if any(world.setup is not None for world in self.worlds):  # else no cause says what would be read
            found += [("reading", key, self.of_reading(key, one)) for key, one in facts.readings.items()]
        return found

    def by_cause(self, logs: Array) -> Array:
        """Probabilities of the causes from log weights of the worlds; (..., worlds) to (..., causes)."""
        weights = np.exp(logs - logs.max(axis=-1, keepdims=True))
        weights /= weights.sum(axis=-1, keepdims=True)
        return np.asarray(weights @ self._of_cause.T)

    def posterior(self, facts: Facts) -> Array:
        """Log weights of the worlds after all facts."""
        return np.asarray(self.start + sum((values for _kind, _key, values in self.facts(facts)), np.zeros(1)))

    def rank(self, facts: Facts) -> Ranking:
        """All causes, likeliest first, with evidence and with what does not fit."""
        every = self.facts(facts)
        logs = self.posterior(facts)
        shares = self.by_cause(logs)
        within = np.exp(logs - logs.max())
        evidence = {key: self._evidence(row, every, within, facts) for row, key in enumerate(self.keys)}
        ranked = [self._ranked(key, float(shares[row]), evidence[key]) for row, key in enumerate(self.keys)]
        ranked.sort(key=lambda one: -one.probability)
        simulated = [i for i, world in enumerate(self.worlds) if world.setup is not None]
        return Ranking(
            tuple(ranked),
            self._alike(ranked, within),
            contradictions(facts, self.catalogue),
            self._unexplained(every, facts),
            len(every),
            sum(1 for index in simulated if index in self.outcomes),
            len(simulated),
        )

    def _mean(self, row: int, values: Array, within: Array) -> float:
        """Mean likelihood of a fact under one cause, over its worlds."""
        weights = within * self._of_cause[row]
        total = float(weights.sum())
        return float((weights * np.exp(values)).sum() / total) if total > 0.0 else 1e-6

    def _others(self, row: int, values: Array, within: Array) -> float:
        weights = within * (1.0 - self._of_cause[row])
        total = float(weights.sum())
        return float((weights * np.exp(values)).sum() / total) if total > 1e-12 else math.exp(float(values.mean()))

    def _evidence(
        self, row: int, every: list[tuple[str, str, Array]], within: Array, facts: Facts
    ) -> tuple[Evidence, ...]:
        key = self.keys[row]
        cause = self.catalogue.causes[key]
        said = {**self.catalogue.domains[cause.domain].shows, **cause.shows}
        first = int(np.argmax(within * self._of_cause[row]))
        found = []
        for kind, name, values in every:
            ratio = self._mean(row, values, within) / max(self._others(row, values, within), 1e-9)
            reason = said[name][1] if name in said and (ratio > 1.0 or self._rarer(name, said[name][0])) else ""
            span = None
            asked = name.split(".")[0]
            if kind == "reading":
                shown = self.reading(first, name, facts.readings[name].clock_h)
                span = (shown[0] - shown[1], shown[0] + shown[1]) if shown else None
            elif first in self.outcomes and cause.must_fail and self._simulated(asked, self.outcomes[first]):
                timed = any(one.from_min is not None for one in self.catalogue.asked[asked].options.values())
                kind, reason, span = "model", "", self.outcomes[first].span if timed else None
            found.append(Evidence(kind, name, ratio, reason, span))
        by_chance = DEPARTURE_SEEN / DEPARTURE_BY_CHANCE
        found += [Evidence("departure", sign.path, by_chance, sign.text) for sign in self.worlds[first].signs]
        if first in self.outcomes and cause.must_fail and self.outcomes[first].fails < 0.3:
            found.append(Evidence("model", "prints_on", self._fails(first), share=self.outcomes[first].fails))
        return tuple(sorted(found, key=lambda one: -abs(math.log(max(one.ratio, 1e-6)))))

    def _rarer(self, name: str, share: float) -> bool:
        """Whether an answer is given more seldom under a cause than at large, so that its reason speaks against."""
        asked, _dot, option = name.partition(".")
        return share < self.catalogue.asked[asked].options[option].base

    def _ranked(self, key: str, share: float, evidence: tuple[Evidence, ...]) -> Ranked:
        against = [one for one in evidence if one.ratio < STRONG]
        ruled = min(against, key=lambda one: one.ratio) if share < RULED_OUT and against else None
        return Ranked(key, share, self.priors[key], self.shop.get(key, 0), evidence, ruled)

    def _alike(self, ranked: list[Ranked], within: Array) -> tuple[tuple[str, str, str], ...]:
        """Pairs among the leading causes that all that is known, but for how common they are, leaves about even."""
        leading = [one for one in ranked[:4] if one.probability > LEADING]
        found = []
        for place, one in enumerate(leading):
            for other in leading[place + 1 :]:
                apart = one.probability / other.probability / (one.prior / other.prior)
                if abs(math.log(apart)) < math.log(ALIKE):
                    rows = self.keys.index(one.key), self.keys.index(other.key)
                    found.append((one.key, other.key, self._parting(rows, within)))
        return tuple(found)

    def _parting(self, rows: tuple[int, int], within: Array) -> str:
        """The check whose answers differ most between two causes; empty where none differs much."""
        weights = [
            within * self._of_cause[row] / max(float((within * self._of_cause[row]).sum()), 1e-12) for row in rows
        ]
        checks = [key for key, check in self.catalogue.checks.items() if not check.reads and not check.buys]
        apart = {key: float(np.abs((weights[0] - weights[1]) @ self.shares(key)).sum()) / 2.0 for key in checks}
        best = max(apart, key=lambda key: apart[key])
        return best if apart[best] > PARTING else ""

    def _unexplained(self, every: list[tuple[str, str, Array]], facts: Facts) -> tuple[str, ...]:
        """Facts that no cause explains."""
        found = []
        for kind, name, values in every:
            if kind == "reading":
                reading = facts.readings[name]
                known = [self.reading(i, name, reading.clock_h) for i in range(len(self.worlds))]
                apart = [
                    abs(reading.value - one[0]) / (math.hypot(one[1], reading.tolerance, MODEL_DOUBT) / 1.96)
                    for one in known
                    if one is not None
                ]
                if apart and min(apart) > UNEXPLAINED_Z:
                    found.append(name)
            elif float(np.exp(values.max() / TEMPER)) < UNEXPLAINED_P:
                found.append(name)
        return tuple(found)


def contradictions(facts: Facts, catalogue: Catalogue) -> tuple[str, ...]:
    """Ids of the pairs of answers that cannot both be so."""
    told = {f"{asked}.{option}" for asked, options in facts.answers.items() for option in options}
    return tuple(key for key, pair in catalogue.contradictions.items() if {pair.one, pair.other} <= told)

"""Made-up troubles with a hidden cause, drawn apart from the code that ranks them.

A machine, a cause in one of its worlds with its numbers moved by up to a tenth, simulated; symptoms from the
catalogue's likelihoods, the odds of each halved or doubled, a fifth of the answers missing, a tenth wrong.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from functools import cached_property
from itertools import cycle

import numpy as np

from zeotherm.answers.causes import worlds_run
from zeotherm.answers.processes import Processes, blocking
from zeotherm.core.catalogue.knowledge import Check
from zeotherm.core.catalogue.shelves import Catalogue
from zeotherm.core.causes.next_check import Plan, plan
from zeotherm.core.causes.outcomes import Outcome, Risk, outcome
from zeotherm.core.causes.ranking import Facts, Table
from zeotherm.core.causes.worlds import AS_FOUND, Hypothesis, departures, hypotheses, sound_machine
from zeotherm.core.machine.documents import Reading, Setup, patched

MISSING, WRONG = 0.2, 0.1
TOLD_WHEN = {"at_once": (0.0, 5.0), "minutes": (5.0, 40.0), "soak": (40.0, None)}  # minutes of printing
PATIENCE = 20  # checks after which anybody gives up
# A fixed order as it might stand in a textbook: from the commonest trouble on, and heat from the fan inwards.
TEXTBOOK = (
    "needle", "cold_pull", "other_spool", "hotter", "slow_flow", "idler", "gear_look", "spool_drag", "bend",
    "fan_turns", "fan_look", "fan_way", "fan_reach", "fan_volts", "substitute_air", "open_case", "shade",
    "short_retract", "coupler", "liner_look", "nozzle_hot", "joint_look", "cold_ohms", "wiggle", "warm_reload",
    "pressure_off", "break_look", "read_block", "read_sink_base", "read_case_air", "read_motor",
)  # fmt: skip


@dataclass(frozen=True)
class Bench:
    """A machine with its worlds run."""

    setup: Setup
    table: Table

    @cached_property
    def sound(self) -> Risk:
        """How the sound machine fails."""
        catalogue = self.table.catalogue
        return outcome(sound_machine(self.setup, catalogue, departures(self.setup, catalogue)), catalogue).risk


@dataclass(frozen=True)
class Case:
    """A trouble: the machine, the hidden cause, and how every question would be answered."""

    bench: Bench
    cause: str
    answers: dict[str, tuple[str, ...]]
    readings: dict[str, Reading]  # that would be taken, by station


@dataclass(frozen=True)
class Solved:
    """How a case went."""

    after_intake: list[str]  # causes, likeliest first
    at_the_end: list[str]
    sure: float  # stated probability of the first at the end
    minutes: float
    checks: int


def machines(catalogue: Catalogue) -> list[Setup]:
    """Machines of different build, sound."""
    vented = {"surroundings": {"air_from": "case"}, "case": {"part": "side_vented", "vents_open_pct": 100.0}}
    panels = {"surroundings": {"air_from": "case"}, "case": {"part": "panelled_frame", "vents_open_pct": 80.0}}
    opened = {"surroundings": {"air_from": "room"}, "case": {"part": "open_frame"}}
    pla = {"filament": "pla", "nozzle_c": 205.0, "flow_mm3_s": 3.0, "retraction_mm": 0.8}
    abs_ = {"filament": "abs", "nozzle_c": 245.0, "flow_mm3_s": 1.5, "retraction_mm": 1.3}
    lined = {"template": "compact_lined", "break_part": "lined_steel"}
    made = [
        {**vented, "printing": {**pla, "flow_mm3_s": 2.5}, "bed": {"target_c": 55.0}, "room": {"mean_c": 30.0}},
        {**vented, "hotend": lined, "printing": {**pla, "retraction_mm": 3.0}, "room": {"mean_c": 30.0}},
        {**opened, "printing": {**pla, "flow_mm3_s": 1.6}, "room": {"mean_c": 32.0}},
        {**panels, "printing": abs_, "bed": {"target_c": 95.0}},
        {**opened, "hotend": lined, "printing": {**pla, "retraction_mm": 4.0}},
        {
            **panels,
            "printing": {**pla, "filament": "petg", "nozzle_c": 235.0, "flow_mm3_s": 1.6},
            "room": {"mean_c": 26.0},
        },
        {
            **vented,
            "hotend": {"break_part": "bimetal"},
            "printing": {**pla, "flow_mm3_s": 2.0},
            "room": {"mean_c": 27.0},
        },
        {**panels, "hotend": lined, "printing": {**pla, "nozzle_c": 225.0}, "bed": {"target_c": 60.0}},
    ]
    base = {"schedule": {"start_h": 9.0, "print_min": 240.0, "cool_min": 0.0, "retractions_per_min": 8.0}}
    return [patched(patched(Setup(), base), change) for change in made]


def benches(setups: list[Setup], catalogue: Catalogue, processes: Processes) -> list[Bench]:
    """The machines, each with all of its causes run."""
    found = []
    for setup in setups:
        worlds = hypotheses(setup, catalogue)
        outcomes = {
            index: one
            for index, one in blocking(worlds_run(processes, setup, catalogue, {}, worlds))
            if isinstance(one, Outcome)
        }
        found.append(Bench(setup, Table(worlds, outcomes, catalogue)))
    return found


def cases(benches_: list[Bench], count: int, seed: int) -> list[Case]:
    """Troubles, machine by machine."""
    random = np.random.default_rng(seed)
    found = []
    for bench in cycle(benches_):
        if len(found) == count:
            break
        found.append(_case(bench, random))
    return found


def _case(bench: Bench, random: np.random.Generator) -> Case:
    table, catalogue = bench.table, bench.table.catalogue
    weights = np.array([table.priors[key] for key in table.keys])
    while True:
        cause = str(random.choice(table.keys, p=weights / weights.sum()))
        if cause == "other":
            continue
        world = _drawn(bench, cause, random)
        if world is None:
            ran = bench.table.outcomes[AS_FOUND]
            return Case(bench, cause, _answers(catalogue, cause, None, random), _readings(catalogue, ran, random))
        ran = outcome(world, catalogue, {}, bench.sound)
        if random.random() < ran.fails or not catalogue.causes[cause].must_fail:
            return Case(bench, cause, _answers(catalogue, cause, ran, random), _readings(catalogue, ran, random))


def _drawn(bench: Bench, cause: str, random: np.random.Generator) -> Setup | None:
    """One of a cause's worlds with the numbers it changes moved by up to a tenth."""
    own: list[Hypothesis] = [one for one in bench.table.worlds if one.cause == cause]
    world = own[int(random.choice(len(own), p=[one.share for one in own]))]
    if world.setup is None:
        return None
    was, now = bench.setup.model_dump(), world.setup.model_dump()

    def moved(old, new):
        if isinstance(new, dict) and isinstance(old, dict):
            return {key: moved(old.get(key), value) for key, value in new.items() if old.get(key) != value}
        if isinstance(new, float) and new > 0.0:
            return round(min(new * (1.0 + random.uniform(-0.1, 0.1)), 97.0 if new > 70.0 else math.inf), 3)
        return new

    change = moved({key: value for key, value in was.items() if key != "schedule"}, now)
    change.pop("schedule", None)
    return patched(world.setup, change)


def _answers(
    catalogue: Catalogue, cause: str, ran: Outcome | None, random: np.random.Generator
) -> dict[str, tuple[str, ...]]:
    """How every question and every check would be answered."""
    about = catalogue.causes[cause]
    shows = {**catalogue.domains[about.domain].shows, **about.shows}
    found = {}
    for key, asked in catalogue.asked.items():
        if isinstance(asked, Check) and asked.reads:
            continue
        options = list(asked.options)
        said = {option: shows[f"{key}.{option}"][0] for option in options if f"{key}.{option}" in shows}
        said = {option: _perturbed(share, random) for option, share in said.items()}
        said = {option: share / max(sum(said.values()), 1.0) for option, share in said.items()}
        said = _of_simulation(key, ran) or said
        base = {option: asked.options[option].base for option in options}
        if asked.kind == "many":
            told = tuple(option for option in options if random.random() < 0.6 * said.get(option, base[option]))
            if told and random.random() > MISSING:
                found[key] = told
            continue
        left = max(1.0 - sum(said.values()), 0.0)
        rest = sum(base[option] for option in options if option not in said)
        shares = np.array([said[o] if o in said else left * base[o] / rest for o in options])
        option = str(random.choice(options, p=shares / shares.sum()))
        if random.random() < WRONG:
            option = str(random.choice([one for one in options if one != option]))
        if isinstance(asked, Check) or random.random() > MISSING:
            found[key] = (option,)
    return found


def _readings(catalogue: Catalogue, ran: Outcome, random: np.random.Generator) -> dict[str, Reading]:
    """What a probe would show, within the doubt of the machine; one in ten is taken at a wrong place."""
    found = {}
    for check in catalogue.checks.values():
        predicted = ran.reading(check.reads, None) if check.reads else None
        if predicted is not None:
            value = predicted[0] + float(random.normal(0.0, math.hypot(0.5 * predicted[1], 2.0) / 1.96))
            value += float(random.choice([-10.0, 10.0])) if random.random() < WRONG else 0.0
            found[check.reads] = Reading(value=value)
    return found


def _perturbed(share: float, random: np.random.Generator) -> float:
    """A likelihood with its odds halved or doubled."""
    odds = share / (1.0 - share) * random.choice([0.5, 2.0])
    return float(odds / (1.0 + odds))


def _of_simulation(key: str, ran: Outcome | None) -> dict[str, float]:
    """What the run itself says: when it failed, and what would have cured it."""
    if ran is None or ran.fails < 0.05:
        return {}
    if key == "when":
        return {
            **{option: 0.85 * ran.between(*minutes) for option, minutes in TOLD_WHEN.items()},
            "no_pattern": 0.1,
            "after_cooling": 0.05,
        }
    return {"cured": ran.cures[key]} if key in ran.cures else {}


def solved(case: Case, textbook: bool = False) -> Solved:
    """Take a case from the first fact to the stop rule, by the next best check or in the textbook's order."""
    table, catalogue = case.bench.table, case.bench.table.catalogue
    told = {key: value for key, value in case.answers.items() if key in catalogue.questions}
    facts = Facts(told)

    def reads(key: str) -> str:
        return catalogue.checks[key].reads

    first = _order(table, facts)
    minutes, checks = 0.0, 0
    order = iter(TEXTBOOK)
    for _ in range(PATIENCE if not textbook else len(TEXTBOOK)):
        now: Plan = plan(table, facts, case.bench.setup)
        if now.enough:
            break
        open_ = {one.key: one for one in now.checks if one.key in case.answers or reads(one.key) in case.readings}
        key = next((key for key in order if key in open_), None) if textbook else next(iter(open_), None)
        if key is None:
            break
        minutes, checks = minutes + open_[key].minutes, checks + 1
        if key in case.answers:
            facts = replace(facts, answers={**facts.answers, key: case.answers[key]})
        else:
            facts = replace(facts, readings={**facts.readings, reads(key): case.readings[reads(key)]})
    shares = table.by_cause(table.posterior(facts))
    return Solved(first, _order(table, facts), float(shares.max()), minutes, checks)


def all_told(case: Case) -> list[str]:
    """Causes, likeliest first, once every question and every check is answered: no order of asking can tell more."""
    return _order(case.bench.table, Facts(case.answers, case.readings))


def _order(table: Table, facts: Facts) -> list[str]:
    shares = table.by_cause(table.posterior(facts))
    return [table.keys[i] for i in np.argsort(-shares)]

"""What the bench knows of doing: procedures step by step, what leads from state to state, and what to check after.

A step is only reached in a machine whose state meets its needs; where it does not, the steps that lead there come
first. So an order that hurts (a plug drawn while the block is hot, a flame near a liner) cannot be written down.
"""

from __future__ import annotations

import itertools
from typing import Annotated, Literal

from pydantic import Field, model_validator

from zeotherm.core.catalogue.entry import Entry
from zeotherm.core.catalogue.knowledge import Need, Sign

Words = Annotated[str, Field(min_length=3)]
Short = Annotated[str, Field(min_length=3, max_length=46)]
NEXT, END, AGAIN = "next", "end", "again"
SPANNER_SHORTS = "spanner_shorts"  # the caution


class StateKind(Entry):
    """One thing about the machine that steps need and change."""

    label: str
    turn: int  # which of several needs is brought about first
    values: dict[str, str]  # value -> how it reads
    first: str  # as it must be taken to be when work begins
    shown: bool = False  # whether a step says how it stands, where it is not as it rests
    rest: str = ""  # as it must be when work is over; none: any


class WorkChoice(Entry):
    """What the bench settles before work: a fact of the machine, or which of two schools to follow."""

    label: str
    kind: Literal["fact", "school"]
    options: dict[str, tuple[Annotated[str, Field(min_length=2)], Words]]  # label, and the reason for it
    usual: str
    shelf: str = ""  # whose entries are options, too
    each: str = ""  # the reason for each of these

    @model_validator(mode="after")
    def _usual_is_there(self) -> WorkChoice:
        if self.usual not in self.options:
            raise ValueError(f"usual is '{self.usual}', which is none of its options")
        return self


class HeatRule(Entry):
    """How hot a step wants the block: the warmer of a figure of the filament and of the print, with what is added."""

    label: str
    why: Words
    of: dict[str, float]  # nozzle, hottest_planned, degrees, or a figure of a filament -> K to add
    least: dict[str, float]  # below this the step does not do what it is for
    bore: Literal["own", "both"] = "own"  # whose plastic: what is printed, or also what ran before
    until: bool = False  # reached from above


class Touch(Entry):
    """What may be touched, by what the surface is made of and how long: temperature [°C] by seconds of contact."""

    label: str
    limits: dict[str, float]
    tolerance: float
    source: str
    confidence: Literal["high", "medium", "low"]


class HeatSource(Entry):
    """A hand-held source of heat: gas or air temperature [°C] and what it hands over [W/m²K]."""

    label: str
    air_c: Annotated[float, Field(gt=0)]
    film_w_m2k: dict[Literal["break", "sink"], Annotated[float, Field(gt=0)]]  # by what it warms
    tolerance: Annotated[float, Field(gt=0, lt=1)]  # of both together
    source: str


class Gate(Entry):
    """What must be so before a step counts as begun or done.

    tick: confirmed by hand. cool: a place is safe to touch, by a contact reading. reach: the block's reading is at
    the step's temperature. hold: a time is over, stated or computed.
    """

    kind: Literal["tick", "cool", "reach", "hold"]
    text: Words
    place: Literal["block", "sink_base", "bed", "loose_nozzle"] = "block"
    surface: str = "metal"  # that a hand will touch
    contact_s: Annotated[float, Field(gt=0)] = 600.0  # for so long
    seconds: Annotated[float, Field(ge=0, le=86400)] = 0.0
    computed: Literal["", "soak", "warm_through"] = ""

    @model_validator(mode="after")
    def _can_open(self) -> Gate:
        if self.kind == "hold" and not self.seconds and not self.computed:
            raise ValueError("a hold needs seconds, or what computes them")
        return self


class Record(Entry):
    """What is noted at a step."""

    key: str
    label: Short
    kind: Literal["number", "text", "photo"] = "number"
    unit: str = ""
    low: float = -1e6
    high: float = 1e6
    required: bool = False
    expected: str = ""
    over: str = ""  # another value of the step that it may be over
    over_by: Annotated[float, Field(ge=0)] = 0.0  # by so much
    guard: Literal["", "nozzle"] = ""  # what its value must pass: what the fitted parts stand of a nozzle's temperature


class Exit(Entry):
    """One way a step ends, and where that leads: next, again, end, step:KEY of the procedure, procedure:KEY."""

    key: str
    label: Short
    to: str = NEXT
    most: Annotated[int, Field(ge=0)] = 0  # how often it may lead back
    gives: dict[str, str] = Field(default_factory=dict)
    fails: bool = False
    hotter: Annotated[float, Field(ge=0, le=20)] = (
        0.0  # by which the next try is hotter, where every part stands it [K]
    )


class Step(Entry):
    """One thing to do."""

    key: str = ""  # within its procedure
    label: Short
    text: Words
    minutes: Annotated[float, Field(gt=0)]
    tools: Annotated[tuple[Words, ...], Field(min_length=1)]
    signs: tuple[Sign, ...]  # none is said by an empty list
    cautions: tuple[str, ...] = ()
    needs: dict[str, str] = Field(default_factory=dict)
    gives: dict[str, str] = Field(default_factory=dict)
    heat: str = ""
    source: str = ""
    body: Literal["", "sink", "break", "nozzle"] = ""
    only: dict[str, str] = Field(default_factory=dict)  # choice -> option for which the step is there
    machine: Need | Literal["metal"] = ""
    uncouples: bool = False  # disconnects or takes apart: wants a photograph first
    gates: Annotated[tuple[Gate, ...], Field(min_length=1)]
    record: Annotated[tuple[Record, ...], Field(min_length=1)]
    exits: Annotated[tuple[Exit, ...], Field(min_length=1)]
    failing: Words
    instead: dict[str, Words] = Field(default_factory=dict)  # state.value -> what to do where the machine stands so
    skipped: tuple[str, ...] = ()  # state.value where it is left out: what puts the machine right does it
    barred: str = ""  # procedure:KEY that is the way where no part stands the step's temperature

    @model_validator(mode="after")
    def _is_whole(self) -> Step:
        if self.source and not self.body:
            raise ValueError("a step with a source of heat says what it warms: body")
        if any(gate.kind == "reach" for gate in self.gates) and not self.heat:
            raise ValueError("a gate 'reach' needs heat: how hot")
        if self.uncouples and not any(one.kind == "photo" for one in self.record):
            raise ValueError("a step that uncouples records a photograph first")
        notes = {one.key for one in self.record}
        if missing := [one.over for one in self.record if one.over and one.over not in notes]:
            raise ValueError(f"a record may be over '{missing[0]}', which the step does not note")
        if len({one.key for one in self.exits}) < len(self.exits):
            raise ValueError("two of its exits have one key")
        return self


class Recheck(Step):
    """A check after the work, called for by what was touched."""

    after: Annotated[tuple[str, ...], Field(min_length=1)]  # states that were changed, or procedure:KEY


class Emergency(Entry):
    """What to do at once, line by line."""

    label: Short
    sign: Sign
    lines: Annotated[tuple[Words, ...], Field(min_length=1)]


class Procedure(Entry):
    """A piece of work."""

    label: Short
    why: Words
    rank: int  # which comes first, of several
    does: tuple[str, ...] = ()  # remedies of the catalogue
    changes: tuple[str, ...] = ()  # numbers or parts of the machine, by path: an option that sets one is its work too
    unless: tuple[str, ...] = ()  # of those options, not one that sets such a path, too: it is other work's
    mends: tuple[str, ...] = ()  # causes
    machine: Need | Literal["metal"] = ""
    refused: dict[str, dict[str, Words]] = Field(default_factory=dict)  # choice -> options that forbid it, and why
    flame: bool = False
    guard: Literal["", "case_heater", "bed_switch"] = (
        ""  # what is looked at in the machine with its taken options, before it is offered
    )
    guard_texts: dict[str, Words] = Field(default_factory=dict)  # why it is refused then, by finding
    parts: tuple[Words, ...] = ()
    prints: tuple[Words, ...] = ()  # to be printed before the machine is taken apart
    steps: Annotated[tuple[Step, ...], Field(min_length=1)]

    @model_validator(mode="after")
    def _ends(self) -> Procedure:
        places = {step.key: index for index, step in enumerate(self.steps)}
        if len(places) < len(self.steps) or "" in places:
            raise ValueError("every one of its steps needs a key of its own")
        onward: dict[int, set[int]] = {}
        for index, step in enumerate(self.steps):
            where = f"steps.{index}, '{step.key}'"
            for one in step.exits:
                kind, _, name = one.to.partition(":")
                if one.to not in (NEXT, END, AGAIN) and kind not in ("step", "procedure"):
                    raise ValueError(f"{where}: exit '{one.key}' leads to '{one.to}', which is no place")
                if kind == "step" and name not in places:
                    raise ValueError(f"{where}: exit '{one.key}' leads to step '{name}', which is not there")
                target = {NEXT: index + 1, AGAIN: index}.get(one.to, len(self.steps))
                target = places[name] if kind == "step" else target
                if target <= index and not one.most:
                    raise ValueError(f"{where}: exit '{one.key}' leads back without end; say how often: most")
                if target > index:
                    onward.setdefault(index, set()).add(target)
            if index not in onward:
                raise ValueError(f"{where}: no exit leads on: a cycle without an exit")
            if step.exits[0].most:
                raise ValueError(f"{where}: its first exit, the one to be expected, leads back")
        return self


def check_procedures(
    procedures: dict[str, Procedure],
    transitions: dict[str, Step],
    rechecks: dict[str, Recheck],
    states: dict[str, StateKind],
    known: dict[str, dict[str, object]],
) -> None:
    """Whether everything that steps name is there; known: shelves by name. Raises ValueError that says where."""
    named = [
        (f"procedures.{key}.steps.{index}, '{step.key}'", step)
        for key, one in procedures.items()
        for index, step in enumerate(one.steps)
    ]
    named += [(f"{shelf}.{key}", step) for shelf, entries in (("transitions", transitions), ("rechecks", rechecks))
              for key, step in entries.items()]  # fmt: skip
    for where, step in named:
        _check_step(where, step, states, known)
    for key, step in transitions.items():
        state, _, value = key.partition(".")
        if step.gives.get(state) != value:
            raise ValueError(f"transitions.{key}: gives does not lead to {state} = '{value}'")
    for key, procedure in procedures.items():
        for choice, options in procedure.refused.items():
            _have(f"procedures.{key}.refused", known, "choices", choice)
            for option in options:
                if option not in getattr(known["choices"][choice], "options", {}):
                    raise ValueError(f"procedures.{key}.refused.{choice}: there is no option '{option}'")
        for shelf, names in (("remedies", procedure.does), ("causes", procedure.mends)):
            for name in names:
                _have(f"procedures.{key}", known, shelf, name)
    _check_escalation(procedures)


def _check_step(where: str, step: Step, states: dict[str, StateKind], known: dict[str, dict[str, object]]) -> None:
    exits = [one.gives for one in step.exits]
    for name, value in itertools.chain(step.needs.items(), step.gives.items(), *(one.items() for one in exits)):
        if name not in states or value not in states[name].values:
            raise ValueError(f"{where}: there is no state {name} = '{value}'")
    for stand in (*step.instead, *step.skipped):
        name, _, value = stand.partition(".")
        if name not in states or value not in states[name].values:
            raise ValueError(f"{where}: there is no state {name} = '{value}'")
    for caution in step.cautions:
        _have(where, known, "cautions", caution)
    _check_tools(where, step)
    told = {getattr(known["cautions"][one], "sign", "") for one in step.cautions}
    if missing := [sign for sign in step.signs if sign not in told]:
        raise ValueError(f"{where}: it can hurt by {missing[0]}, but none of its cautions speaks of that")
    for choice, option in step.only.items():
        _have(where, known, "choices", choice)
        if option not in getattr(known["choices"][choice], "options", {}):
            raise ValueError(f"{where}: {choice} has no option '{option}'")
    for gate in step.gates:
        _have(where, known, "touch", gate.surface)
    if step.heat:
        _have(where, known, "heat_rules", step.heat)
    if step.source:
        _have(where, known, "heat_sources", step.source)
    if all(one.most for one in step.exits):
        raise ValueError(f"{where}: every exit leads back: a cycle without an exit")


def _check_tools(where: str, step: Step) -> None:
    """A spanner beside live heater terminals wants its own caution, whoever wrote the step."""
    live = step.needs.get("power") == "in" and any("spanner" in tool for tool in step.tools)
    if live and SPANNER_SHORTS not in step.cautions:
        raise ValueError(f"{where}: a spanner at a live block wants the caution '{SPANNER_SHORTS}'")


def _have(where: str, known: dict[str, dict[str, object]], shelf: str, name: str) -> None:
    if name not in known[shelf]:
        raise ValueError(f"{where}: nothing on the shelf {shelf} is called '{name}'")


def _check_escalation(procedures: dict[str, Procedure]) -> None:
    """From each procedure those it leads to must not lead back to it."""
    leads = {
        key: {
            to.partition(":")[2]
            for step in work.steps
            for to in (step.barred, *(one.to for one in step.exits))
            if to.startswith("procedure:")
        }
        for key, work in procedures.items()
    }
    for key, others in leads.items():
        for other in others:
            if other not in procedures:
                raise ValueError(f"procedures.{key}: an exit leads to procedure '{other}', which is not there")
        reached, fresh = set(others), set(others)
        while fresh:
            fresh = set().union(*(leads[one] for one in fresh)) - reached
            reached |= fresh
        if key in reached:
            raise ValueError(f"procedures.{key}: leads back to itself through other procedures")

"""The work order: what was done, what is at hand, what is expected to follow.

An order is a walk through its procedures. Steps that are behind tell how the walk went; from there on each step is
taken to end as hoped. Before a step the machine is led to the state it needs, by the transitions of the catalogue:
that, not a list that somebody wrote, is what puts the plug's pull before the plug of a motor.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, field
from typing import Literal

from zeotherm.core.catalogue.procedures import AGAIN, END, NEXT, Exit, Procedure, Recheck, Step
from zeotherm.core.catalogue.shelves import Catalogue
from zeotherm.core.causes.worlds import has
from zeotherm.core.guard.fitted import ALL_ENTERED, Assumed, Possible, possible
from zeotherm.core.guard.heat import LAST_PLASTIC, STEP_ROOM_K, UNKNOWN, Target, has_liner, target
from zeotherm.core.machine.documents import Setup
from zeotherm.core.machine.doing import Doing, DoneStep
from zeotherm.core.parts.enclosure.judge.guarding import heater_guard
from zeotherm.core.parts.power.judge.guarding import switch_guard

GUARDS = {"case_heater": heater_guard, "bed_switch": switch_guard}
MOST_LINES = 400
ROUNDS = 4  # in which the needs of a step must come true together
ANY = "procedure:*"
FIND_OUT = "Find out first: {fact} ({find}). {why}"
PROOF = "check/proof"
Status = Literal["done", "now", "ahead", "barred"]


class NoWayError(ValueError):
    """The needs of a step that no transitions meet together."""


class _StuckError(Exception):
    """A step without which it does not go on is not offered."""


class _OtherWayError(Exception):
    """A step that no fitted part stands, and the procedure that does without it."""

    def __init__(self, name: str) -> None:
        super().__init__(name)
        self.name = name


@dataclass(frozen=True, slots=True)
class OrderLine:
    """One step of the order."""

    key: str  # procedure/step, to/state.value, check/recheck
    step: Step  # in the words for how the machine stands
    work: str  # label of the procedure it is of, or leads to; nothing for what puts the machine right again
    status: Status
    target: Target | None = None
    done: DoneStep | None = None
    bar: Literal["", "cap", "refused"] = ""  # why it is not offered
    bar_text: str = ""  # of a refusal that the catalogue words
    exits: tuple[Exit, ...] = ()  # that may be taken
    stands: tuple[str, ...] = ()  # states.value that it finds the machine in, of those that are to be said


@dataclass(frozen=True)
class Order:
    """A work order as it stands."""

    lines: tuple[OrderLine, ...]
    state: dict[str, str]  # of the machine, before the step at hand
    touched: frozenset[str]  # states that were or will be changed, and procedures as procedure:KEY
    stuck: bool  # a step without which it does not go on is not offered
    strays: tuple[DoneStep, ...]  # done by an order that has been rewritten since

    @property
    def now(self) -> OrderLine | None:
        """The step at hand; none when all is done."""
        return next((line for line in self.lines if line.status == "now"), None)

    @property
    def steps(self) -> list[OrderLine]:
        """The lines that are to be gone through."""
        return [line for line in self.lines if line.status != "barred"]

    @property
    def number(self) -> int:
        """Which of the steps is at hand, from one; one more than there are when all is done."""
        return 1 + sum(line.status == "done" for line in self.lines)

    @property
    def minutes_left(self) -> float:
        """What is still to do, by the steps' usual minutes."""
        return sum(line.step.minutes for line in self.lines if line.status in ("now", "ahead"))

    @property
    def failed(self) -> list[OrderLine]:
        """Re-checks that did not pass."""
        last = {line.key: line for line in self.lines if line.done is not None and line.key.startswith("check/")}
        return [line for line in last.values() if _exit(line.step, line.done.exit).fails]  # type: ignore[union-attr]


def order(
    doing: Doing, setup: Setup, catalogue: Catalogue, planned: Setup | None = None, assumed: Assumed = ALL_ENTERED
) -> Order:
    """The order of a job; raises NoWayError where the catalogue leads nowhere.

    planned: the machine as it will be with what is taken, else as it is. assumed: what nobody entered of it.
    """
    return _Walk(doing, setup, catalogue, planned or setup, assumed).whole()


def last_plastic(doing: Doing, catalogue: Catalogue) -> str:
    """The plastic that ran before, as far as it is known."""
    return settled(LAST_PLASTIC, doing, catalogue) if LAST_PLASTIC in catalogue.choices else UNKNOWN


def settled(choice: str, doing: Doing, catalogue: Catalogue) -> str:
    """The option that was taken, or the usual one."""
    about = catalogue.choices[choice]
    taken = doing.choices.get(choice, about.usual)
    return taken if taken in about.options else about.usual


def choices_of(doing: Doing, catalogue: Catalogue) -> list[str]:
    """The choices that matter to the procedures of an order, and to those they may lead to."""
    reached, fresh = set(), set(doing.procedures) & set(catalogue.procedures)
    while fresh:
        reached |= fresh
        steps = [step for key in fresh for step in catalogue.procedures[key].steps]
        ways = [way for step in steps for way in (step.barred, *(one.to for one in step.exits))]
        fresh = {to.partition(":")[2] for to in ways if to.startswith("procedure:")} - reached
    steps = [step for key in reached for step in catalogue.procedures[key].steps]
    found = {name for key in reached for name in catalogue.procedures[key].refused}
    found |= {name for step in steps for name in step.only}
    rules = {step.heat for step in (*steps, *catalogue.transitions.values()) if step.heat} if reached else set()
    if any(catalogue.heat_rules[one].bore == "both" for one in rules):
        found.add(LAST_PLASTIC)
    return [name for name in catalogue.choices if name in found]


def refusal(
    procedure: Procedure, doing: Doing, setup: Setup, catalogue: Catalogue, planned: Setup | None = None,
    assumed: Assumed = ALL_ENTERED,
) -> str:  # fmt: skip
    """Why a procedure is not for this machine, as the catalogue words it; nothing where it is.

    planned: the machine as it will be with what is taken, else as it is. assumed: what nobody entered of it: what a
    machine that it may be does not stand is withheld until that is found out.
    """
    if procedure.guard:
        finding, figures = GUARDS[procedure.guard](planned or setup, catalogue)
        if finding:
            return procedure.guard_texts[finding].format(**figures)
    if procedure.flame and (why := catalogue.breaks[setup.hotend.break_part].no_flame):
        return why
    if why := procedure.refused.get("tip", {}).get(catalogue.nozzles[setup.hotend.nozzle].tip, ""):
        return why
    for choice, options in procedure.refused.items():
        if why := options.get(settled(choice, doing, catalogue), ""):
            return why
    for one in possible(setup, assumed, catalogue):
        if procedure.flame and (why := catalogue.breaks[one.setup.hotend.break_part].no_flame):
            return _find_out(one, why)
    if procedure.flame and (why := _gentler(procedure, doing, setup, catalogue)):
        return why
    if procedure.machine == "metal" and has_liner(setup, catalogue):
        return "For all-metal hotends: here a liner reaches the hot end."
    for one in possible(setup, assumed, catalogue):
        if procedure.machine == "metal" and has_liner(one.setup, catalogue):
            return _find_out(one, "A liner may reach the hot end.")
    if procedure.machine == "liner" and not has_liner(setup, catalogue):
        return "For hotends with a liner: here there is none."
    return ""


def _find_out(one: Possible, why: str) -> str:
    return FIND_OUT.format(fact=one.fact[:1].lower() + one.fact[1:], find=one.find, why=why)


def _gentler(procedure: Procedure, doing: Doing, setup: Setup, catalogue: Catalogue) -> str:
    """Why no flame is needed: another source of heat takes every plug of it to where it slides; nothing else does."""
    last = last_plastic(doing, catalogue)
    for key, source in catalogue.heat_sources.items():
        aims = [
            target(catalogue.heat_rules[step.heat], setup, catalogue, last=last, body=step.body, source=source)
            for step in procedure.steps
            if step.source and step.source != key
        ]
        own = {catalogue.heat_sources[step.source].air_c for step in procedure.steps if step.source}
        if aims and source.air_c < min(own) and all(aim.offered for aim in aims):
            return f"A {source.label} takes this plug to {aims[0].value:.0f} °C, where it slides: no flame is needed."
    return ""


def fits(procedure: Procedure, setup: Setup, catalogue: Catalogue) -> bool:
    """Whether a procedure makes sense for a machine at all."""
    lined = has_liner(setup, catalogue)
    if procedure.machine in ("metal", "liner"):
        return lined == (procedure.machine == "liner")
    return has(procedure.machine, setup, catalogue)


def initial(setup: Setup, catalogue: Catalogue) -> dict[str, str]:
    """The machine before work, taken to be as bad as it may be."""
    found = {name: kind.first for name, kind in catalogue.states.items()}
    if not has_liner(setup, catalogue):
        found["liner"] = "out"
    return found


@dataclass
class _Walk:
    """One walk through an order."""

    doing: Doing
    setup: Setup
    catalogue: Catalogue
    planned: Setup
    assumed: Assumed
    lines: list[OrderLine] = field(default_factory=list)
    touched: set[str] = field(default_factory=set)

    def whole(self) -> Order:
        self.state = initial(self.setup, self.catalogue)
        self.at_hand: dict[str, str] | None = None
        self.stuck = False  # what leads on is not offered
        self.behind = list(self.doing.done)
        try:
            self._all()
        except _StuckError:  # what would follow is never reached
            self.stuck = True
        return Order(
            tuple(self.lines), self.at_hand or self.state, frozenset(self.touched), self.stuck, tuple(self.behind)
        )

    def _all(self) -> None:
        """The procedures, what puts the machine right again, the checks."""
        for key in self.doing.procedures:
            if key in self.catalogue.procedures:
                self._procedure(key)
        self._put_right(but="power")
        for key, check in self.catalogue.rechecks.items():
            self._recheck(key, check)
        self._put_right()

    def _procedure(self, key: str) -> None:
        work = self.catalogue.procedures[key]
        if why := refusal(work, self.doing, self.setup, self.catalogue, self.planned, self.assumed):
            self.lines.append(OrderLine(f"{key}/", work.steps[0], work.label, "barred", bar="refused", bar_text=why))
            return
        self.touched.add(f"procedure:{key}")
        places = {step.key: index for index, step in enumerate(work.steps)}
        went: dict[tuple[str, str], int] = {}
        at = 0
        while at < len(work.steps):
            step = work.steps[at]
            if not self._is_there(step):
                at += 1
                continue
            try:
                taken = self._take(f"{key}/{step.key}", step, work.label, went)
            except _OtherWayError as way:
                if way.name == key:
                    raise NoWayError(f"{key} needs what no fitted part stands") from None
                self._procedure(way.name)
                return
            if taken is None:  # not offered: as if it had failed, or on to the next
                taken = next((one for one in step.exits if one.fails and not one.most), Exit(key="-", label="---"))
            kind, _, name = taken.to.partition(":")
            if kind == "procedure":
                self._procedure(name)
                return
            at = {NEXT: at + 1, AGAIN: at, END: len(work.steps)}[taken.to] if kind != "step" else places[name]

    def _is_there(self, step: Step) -> bool:
        if step.machine in ("metal", "liner"):
            return has_liner(self.setup, self.catalogue) == (step.machine == "liner")
        if any(f"{name}.{value}" in step.skipped for name, value in self.state.items()):
            return False
        settled_so = all(settled(name, self.doing, self.catalogue) == option for name, option in step.only.items())
        return settled_so and has(step.machine, self.setup, self.catalogue)

    def _recheck(self, key: str, check: Recheck) -> None:
        called = ANY in check.after or any(one in self.touched for one in check.after)
        if called and self.doing.procedures and key not in self.doing.left_out and self._is_there(check):
            self._repeated(f"check/{key}", check, "")

    def _put_right(self, but: str = "") -> None:
        """Lead every state that was changed back to where it rests; but: one that stays for now."""
        for name, kind in self.catalogue.states.items():
            lined = name != "liner" or has_liner(self.setup, self.catalogue)
            if kind.rest and lined and name != but and self.state[name] != kind.rest:
                self._lead(name, kind.rest, 0, "")

    def _lead(self, name: str, value: str, depth: int, work: str) -> None:
        """Bring one state about, with what must be so before it; work: what it is done for."""
        key = f"{name}.{value}"
        if key not in self.catalogue.transitions or depth > len(self.catalogue.states):
            raise NoWayError(f"nothing leads to {key}")
        self._repeated(f"to/{key}", self.catalogue.transitions[key], work, depth)
        self.touched.add(name)

    def _repeated(self, key: str, step: Step, work: str, depth: int = 0) -> None:
        went: dict[tuple[str, str], int] = {}
        while True:
            taken = self._take(key, step, work, went, depth)
            if taken is None or taken.to != AGAIN:
                return

    def _take(self, key: str, step: Step, work: str, went: dict[tuple[str, str], int], depth: int = 0) -> Exit | None:
        """Go through one step; returns how it ended, or is expected to; None: it is not offered."""
        if len(self.lines) > MOST_LINES:
            raise NoWayError("the order has no end")
        more = sum(one.hotter * went.get((key, one.key), 0) for one in step.exits)
        aim = self._target(step, more)
        if aim is not None and not aim.offered:
            self.lines.append(OrderLine(key, step, work, "barred", aim, bar="cap"))
            if step.barred:  # no part stands it: the way that is for that
                raise _OtherWayError(step.barred.partition(":")[2])
            if key.startswith("to/"):  # what follows stands on it
                raise _StuckError
            return None
        self._meet(step, depth, work)
        aim = self._target(step, more)  # a liner that was taken out no longer caps it
        exits = self._exits(key, step, aim, went)
        done = self._next_done(key)
        taken = _exit(step, done.exit) if done is not None else exits[0]
        status: Status = "done" if done is not None else "ahead" if self.at_hand else "now"
        if status == "now":
            self.at_hand = dict(self.state)
        self.lines.append(
            OrderLine(key, self._worded(step), work, status, aim, done, exits=exits, stands=self._stands())
        )
        went[(key, taken.key)] = went.get((key, taken.key), 0) + 1
        changes = {**step.gives, **taken.gives} if taken.to != AGAIN else {}
        self.touched |= {name for name, value in changes.items() if self.state[name] != value}
        self.state.update(changes)
        return taken

    def _exits(self, key: str, step: Step, aim: Target | None, went: dict[tuple[str, str], int]) -> tuple[Exit, ...]:
        """The ways a step may end: no hotter try that a part does not stand, nothing that is refused or used up."""
        free = [one for one in step.exits if not one.most or went.get((key, one.key), 0) < one.most]
        stood = [one for one in free if not one.hotter or (aim is not None and aim.room >= STEP_ROOM_K)]
        open_ = [one for one in stood if not self._refused(one.to)]
        return tuple(open_ or stood or free)

    def _refused(self, to: str) -> bool:
        kind, _, name = to.partition(":")
        works = self.catalogue.procedures
        known = kind == "procedure" and name in works
        if not known:
            return False
        return bool(refusal(works[name], self.doing, self.setup, self.catalogue, self.planned, self.assumed))

    def _worded(self, step: Step) -> Step:
        """A step in the words for how the machine stands."""
        for stand, text in step.instead.items():
            name, _, value = stand.partition(".")
            if self.state[name] == value:
                return step.model_copy(update={"text": text})
        return step

    def _stands(self) -> tuple[str, ...]:
        """What the person at the step must know to be off or loose."""
        kinds = self.catalogue.states
        lined = has_liner(self.setup, self.catalogue)
        return tuple(
            f"{name}.{value}"
            for name, value in self.state.items()
            if kinds[name].shown and value != kinds[name].rest and (name != "liner" or lined)
        )

    def _meet(self, step: Step, depth: int, work: str) -> None:
        for _round in range(ROUNDS):
            missing = [(name, value) for name, value in step.needs.items() if self.state[name] != value]
            missing.sort(key=lambda need: self.catalogue.states[need[0]].turn)
            if not missing:
                return
            for name, value in missing:
                if self.state[name] != value:
                    self._lead(name, value, depth + 1, work)
        raise NoWayError(f"the needs of '{step.label}' do not come true together")

    def _next_done(self, key: str) -> DoneStep | None:
        """The record of a step, as long as the walk goes as it was gone."""
        if self.at_hand is None and self.behind and self.behind[0].step == key:
            return self.behind.pop(0)
        return None

    def _target(self, step: Step, more: float = 0.0) -> Target | None:
        if not step.heat:
            return None
        liner = self.state["liner"] == "in" and step.needs.get("liner") != "out"
        return target(
            self.catalogue.heat_rules[step.heat], self.setup, self.catalogue, liner=liner, planned=self.planned,
            last=last_plastic(self.doing, self.catalogue), more=more, body=step.body,
            source=self.catalogue.heat_sources[step.source] if step.source else None, assumed=self.assumed,
        )  # fmt: skip


def _exit(step: Step, key: str) -> Exit:
    """The exit a step was left by; the first where the catalogue no longer has it."""
    return next((one for one in step.exits if one.key == key), step.exits[0])


def tools(lines: tuple[OrderLine, ...] | list[OrderLine]) -> Iterator[str]:
    """Tools of all steps, each once, in the order they are wanted."""
    yield from dict.fromkeys(tool for line in lines if line.status != "barred" for tool in line.step.tools)

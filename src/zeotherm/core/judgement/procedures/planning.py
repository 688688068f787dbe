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
from zeotherm.core.judgement.causes.worlds import has
from zeotherm.core.judgement.chamber.guarding import heater_guard
from zeotherm.core.judgement.power.guarding import switch_guard
from zeotherm.core.judgement.procedures.targets import Target, has_liner, target
from zeotherm.core.machine.documents import Setup
from zeotherm.core.machine.doing import Doing, DoneStep

GUARDS = {"case_heater": heater_guard, "bed_switch": switch_guard}
MOST_LINES = 400
ROUNDS = 4  # in which the needs of a step must come true together
ANY = "procedure:*"
PROOF = "check/proof"
Status = Literal["done", "now", "ahead", "barred"]


class NoWayError(ValueError):
    """The needs of a step that no transitions meet together."""


@dataclass(frozen=True, slots=True)
class Line:
    """One step of the order."""

    key: str  # procedure/step, to/state.value, check/recheck
    step: Step
    work: str  # label of the procedure it is of, or leads to; nothing for what puts the machine right again
    status: Status
    target: Target | None = None
    done: DoneStep | None = None
    bar: Literal["", "cap", "refused"] = ""  # why it is not offered
    bar_text: str = ""  # of a refusal that the catalogue words
    exits: tuple[Exit, ...] = ()  # that may be taken


@dataclass(frozen=True)
class Order:
    """A work order as it stands."""

    lines: tuple[Line, ...]
    state: dict[str, str]  # of the machine, before the step at hand
    touched: frozenset[str]  # states that were or will be changed, and procedures as procedure:KEY
    stuck: bool  # a step without which it does not go on is not offered
    strays: tuple[DoneStep, ...]  # done by an order that has been rewritten since

    @property
    def now(self) -> Line | None:
        """The step at hand; none when all is done."""
        return next((line for line in self.lines if line.status == "now"), None)

    @property
    def steps(self) -> list[Line]:
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
    def failed(self) -> list[Line]:
        """Re-checks that did not pass."""
        last = {line.key: line for line in self.lines if line.done is not None and line.key.startswith("check/")}
        return [line for line in last.values() if _exit(line.step, line.done.exit).fails]  # type: ignore[union-attr]


def order(doing: Doing, setup: Setup, catalogue: Catalogue, planned: Setup | None = None) -> Order:
    """The order of a job; raises NoWayError where the catalogue leads nowhere.

    planned: the machine as it will be with what is taken, else as it is.
    """
    return _Walk(doing, setup, catalogue, planned or setup).whole()


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
        exits = [one.to for key in fresh for step in catalogue.procedures[key].steps for one in step.exits]
        fresh = {to.partition(":")[2] for to in exits if to.startswith("procedure:")} - reached
    found = {name for key in reached for name in catalogue.procedures[key].refused}
    found |= {name for key in reached for step in catalogue.procedures[key].steps for name in step.only}
    return [name for name in catalogue.choices if name in found]


def refusal(
    procedure: Procedure, doing: Doing, setup: Setup, catalogue: Catalogue, planned: Setup | None = None
) -> str:
    """Why a procedure is not for this machine, as the catalogue words it; nothing where it is.

    planned: the machine as it will be with what is taken, else as it is.
    """
    if procedure.guard:
        finding, figures = GUARDS[procedure.guard](planned or setup, catalogue)
        if finding:
            return procedure.guard_texts[finding].format(**figures)
    for choice, (option, why) in procedure.refused.items():
        if settled(choice, doing, catalogue) == option:
            return why
    if procedure.flame and (why := catalogue.breaks[setup.hotend.break_part].no_flame):
        return why
    if procedure.flame and settled("break_kind", doing, catalogue) == "unknown":
        return "What the break is made of is not known: what is not known counts as brazed or coated."
    if procedure.machine == "metal" and has_liner(setup, catalogue):
        return "For all-metal hotends: here a liner reaches the hot end."
    if procedure.machine == "liner" and not has_liner(setup, catalogue):
        return "For hotends with a liner: here there is none."
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
    lines: list[Line] = field(default_factory=list)
    touched: set[str] = field(default_factory=set)

    def whole(self) -> Order:
        self.state = initial(self.setup, self.catalogue)
        self.at_hand: dict[str, str] | None = None
        self.stuck = False  # what leads on is not offered
        self.behind = list(self.doing.done)
        for key in self.doing.procedures:
            if key in self.catalogue.procedures:
                self._procedure(key)
        self._put_right(but="power")
        for key, check in self.catalogue.rechecks.items():
            self._recheck(key, check)
        self._put_right()
        return Order(
            tuple(self.lines), self.at_hand or self.state, frozenset(self.touched), self.stuck, tuple(self.behind)
        )

    def _procedure(self, key: str) -> None:
        work = self.catalogue.procedures[key]
        if why := refusal(work, self.doing, self.setup, self.catalogue, self.planned):
            self.lines.append(Line(f"{key}/", work.steps[0], work.label, "barred", bar="refused", bar_text=why))
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
            taken = self._take(f"{key}/{step.key}", step, work.label, went)
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
        aim = self._target(step)
        if aim is not None and not aim.offered:
            self.lines.append(Line(key, step, work, "barred", aim, bar="cap"))
            if key.startswith("to/"):  # what follows stands on it
                self.stuck = True
                self.state.update(step.gives)
            return None
        self._meet(step, depth, work)
        aim = self._target(step)  # a liner that was taken out no longer caps it
        exits = tuple(one for one in step.exits if not one.most or went.get((key, one.key), 0) < one.most)
        done = self._next_done(key)
        taken = _exit(step, done.exit) if done is not None else exits[0]
        status: Status = "done" if done is not None else "ahead" if self.at_hand or self.stuck else "now"
        if status == "now":
            self.at_hand = dict(self.state)
        self.lines.append(Line(key, step, work, status, aim, done, exits=exits))
        went[(key, taken.key)] = went.get((key, taken.key), 0) + 1
        changes = {**step.gives, **taken.gives} if taken.to != AGAIN else {}
        self.touched |= {name for name, value in changes.items() if self.state[name] != value}
        self.state.update(changes)
        return taken

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

    def _target(self, step: Step) -> Target | None:
        if not step.heat:
            return None
        liner = self.state["liner"] == "in" and step.needs.get("liner") != "out"
        rule = self.catalogue.heat_rules[step.heat]
        return target(rule, self.setup, self.catalogue, liner=liner, source=bool(step.source))


def _exit(step: Step, key: str) -> Exit:
    """The exit a step was left by; the first where the catalogue no longer has it."""
    return next((one for one in step.exits if one.key == key), step.exits[0])


def tools(lines: tuple[Line, ...] | list[Line]) -> Iterator[str]:
    """Tools of all steps, each once, in the order they are wanted."""
    yield from dict.fromkeys(tool for line in lines if line.status != "barred" for tool in line.step.tools)

"""What the model says of the step at hand: its curve, its soak, its warm-through."""

from __future__ import annotations

import logging
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, replace

from zeotherm.answers.store import Store
from zeotherm.core.catalogue import Catalogue
from zeotherm.core.catalogue.lookup import DoesNotFitError
from zeotherm.core.catalogue.procedures import Step
from zeotherm.core.machine.documents import Job, Setup
from zeotherm.core.machine.measured import Run
from zeotherm.core.questions import Cancelled, Question, Stage
from zeotherm.core.runs.own_pace import block_cooling, own_pace
from zeotherm.core.solver.axisymmetric import NotConvergedError
from zeotherm.core.solver.stepping import TooSmallError
from zeotherm.core.work.gates import Aids
from zeotherm.core.work.planning import OrderLine
from zeotherm.core.work.waits import (
    cooling,
    handling,
    heated,
    loose_body,
    loose_nozzle,
    rough,
    touch_limit,
    warm_through,
)

log = logging.getLogger(__name__)
LOOSE = "loose_nozzle"
ROUGH_SOAK_S = 180.0


@dataclass(frozen=True)
class Wanted:
    """What is to be computed for a step."""

    step: Step
    target_c: float | None  # that it heats to
    start_c: float  # of what cools, before the step
    loose: str  # the body that a gun or a flame warmed last; nothing: the block was heated
    fan: bool  # whether the sink fan runs while it cools
    held_off: bool  # hot with the hotend off its carriage, its fan unplugged

    @property
    def kinds(self) -> set[str]:
        """Kinds of its gates."""
        return {gate.kind for gate in self.step.gates}

    @property
    def place(self) -> str:
        """What cools, where something does."""
        return next((gate.place for gate in self.step.gates if gate.kind == "cool"), "block")


def wanted(job: Job, line: OrderLine, state: Mapping[str, str], catalogue: Catalogue) -> Wanted:
    """What is to be computed for a step: the block was last heated to the target of a step behind, or to print."""
    heats = [one for one in job.doing.done if one.heat_c is not None]
    start = heats[-1].heat_c if heats else None
    warmed = _step_of(heats[-1].step, catalogue) if heats else None
    loose = warmed.body if warmed is not None and warmed.source else ""
    runs = state.get("power") == "in" and state.get("leads") == "on"
    off = state.get("head") == "off" and state.get("power") == "in" and bool(line.step.heat)
    target = line.target.value if line.target is not None else None
    return Wanted(line.step, target, start if start is not None else job.found.printing.nozzle_c, loose, runs, off)


def _step_of(key: str, catalogue: Catalogue) -> Step | None:
    """The step of a procedure by the key it is recorded under."""
    work, _slash, name = key.partition("/")
    steps = catalogue.procedures[work].steps if work in catalogue.procedures else ()
    return next((step for step in steps if step.key == name), None)


def _solved(found: Setup, runs: tuple[Run, ...], want: Wanted, catalogue: Catalogue, *, cancelled: Cancelled) -> Aids:
    """The aids of a step, roughly where the model has no answer."""
    try:
        return _aids(found, runs, want, catalogue, cancelled)
    except (NotConvergedError, TooSmallError, DoesNotFitError) as wrong:
        log.info("no curve for %s: %r", want.step.key, wrong)
        return _roughly(found, want, catalogue)


AIDS = Stage("aids of a step", _solved, kept=24)  # of a setup as found, its runs, what is wanted, a catalogue


def aids(job: Job, line: OrderLine, state: Mapping[str, str], catalogue: Catalogue) -> Question[Aids]:
    """The aids of a job's step: those of another machine, or of the step before, never serve."""
    runs = tuple(job.measured.logged().values())
    return AIDS.of(job.found, runs, wanted(job, line, state, catalogue), catalogue)


def at_hand(store: Store, question: Question[Aids]) -> Callable[[Cancelled], Iterator[Aids]]:
    """A task: the aids of the step at hand."""

    def task(cancelled: Cancelled) -> Iterator[Aids]:
        yield store.ask(question, cancelled)

    return task


def _aids(setup: Setup, runs: tuple[Run, ...], want: Wanted, catalogue: Catalogue, cancelled: Cancelled) -> Aids:
    target = want.target_c
    aids = Aids(goal=_touch(want, catalogue))
    if "cool" in want.kinds:
        if want.place == LOOSE:
            curve = loose_nozzle(setup, catalogue, want.start_c)
        elif want.loose and want.place == "block":
            curve = loose_body(want.loose, setup, catalogue, want.start_c)
        elif want.place == "block":
            curve, _seen = block_cooling(setup, runs, catalogue, want.start_c, fan=want.fan, cancelled=cancelled)
        else:
            curve = cooling(setup, catalogue, want.start_c, fan=want.fan, place=want.place, cancelled=cancelled)
        aids = replace(aids, curve=curve)
    elif "reach" in want.kinds and target is not None:
        curve, soak = heated(setup, catalogue, target, cancelled)
        seen = own_pace(curve, runs)
        if seen is not None:
            curve, soak = heated(setup, catalogue, target, cancelled, pace=seen[0])
        aids = replace(aids, curve=curve, goal=target, soak_s=soak)
    if want.step.source and target is not None:
        reach = {
            name: warm_through(want.step.body, source, setup, catalogue, target)
            for name, source in catalogue.heat_sources.items()
        }
        aids = replace(aids, warm_s=reach[want.step.source], reach=reach)
    if want.held_off and target is not None:
        aids = replace(aids, cold_end=handling(setup, catalogue, target, cancelled))
    return aids


def _touch(want: Wanted, catalogue: Catalogue) -> float:
    """What the step's cooling place may be touched at [°C]."""
    gate = next((one for one in want.step.gates if one.kind == "cool"), None)
    return touch_limit(catalogue, gate.surface, gate.contact_s) if gate is not None else touch_limit(catalogue)


def _roughly(found: Setup, want: Wanted, catalogue: Catalogue) -> Aids:
    """Aids where the model has no answer, so that a probe can still open what waits for it."""
    room, target = found.room.mean_c, want.target_c
    aids = Aids(curve=rough(want.start_c, room), goal=_touch(want, catalogue), rough=True)
    if "cool" not in want.kinds and target is not None:
        aids = replace(aids, curve=rough(room, target), goal=target, soak_s=ROUGH_SOAK_S)
    return aids

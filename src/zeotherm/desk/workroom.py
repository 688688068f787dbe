"""What the model says of the step at hand, computed in the background: its curve, its soak, its warm-through."""

from __future__ import annotations

import logging
from collections.abc import Mapping
from dataclasses import dataclass, replace

from PyQt6.QtCore import QObject

from zeotherm.core.catalogue import Catalogue
from zeotherm.core.catalogue.lookup import DoesNotFitError
from zeotherm.core.catalogue.procedures import Step
from zeotherm.core.judgement.procedures.gates import Aids
from zeotherm.core.judgement.procedures.planning import OrderLine
from zeotherm.core.judgement.procedures.waits import (
    cooling,
    handling,
    heated,
    loose_body,
    loose_nozzle,
    rough,
    touch_limit,
    warm_through,
)
from zeotherm.core.machine.documents import Job
from zeotherm.core.solver.axisymmetric import NotConvergedError
from zeotherm.core.solver.stepping import TooSmallError
from zeotherm.desk.room import AnswerRoom, Kept, name_of
from zeotherm.desk.scheduler import Cancelled, Emit
from zeotherm.shop.own_waits import block_cooling, own_pace

log = logging.getLogger(__name__)
LOOSE = "loose_nozzle"
ROUGH_SOAK_S = 180.0


@dataclass(frozen=True)
class Wanted:
    """What a step's aids depend on."""

    line: OrderLine
    start_c: float  # of what cools, before the step
    loose: str  # the body that a gun or a flame warmed last; nothing: the block was heated
    fan: bool  # whether the sink fan runs while it cools
    held_off: bool  # hot with the hotend off its carriage, its fan unplugged

    @property
    def kinds(self) -> set[str]:
        """Kinds of its gates."""
        return {gate.kind for gate in self.line.step.gates}

    @property
    def place(self) -> str:
        """What cools, where something does."""
        return next((gate.place for gate in self.line.step.gates if gate.kind == "cool"), "block")


@dataclass(frozen=True)
class Ready:
    """The aids of a step, by all that they depend on."""

    name: str
    aids: Aids


def wanted(job: Job, line: OrderLine, state: Mapping[str, str], catalogue: Catalogue) -> Wanted:
    """What is to be computed for a step: the block was last heated to the target of a step behind, or to print."""
    heats = [one for one in job.doing.done if one.heat_c is not None]
    start = heats[-1].heat_c if heats else None
    warmed = _step_of(heats[-1].step, catalogue) if heats else None
    loose = warmed.body if warmed is not None and warmed.source else ""
    runs = state.get("power") == "in" and state.get("leads") == "on"
    off = state.get("head") == "off" and state.get("power") == "in" and bool(line.step.heat)
    return Wanted(line, start if start is not None else job.found.printing.nozzle_c, loose, runs, off)


def _step_of(key: str, catalogue: Catalogue) -> Step | None:
    """The step of a procedure by the key it is recorded under."""
    work, _slash, name = key.partition("/")
    steps = catalogue.procedures[work].steps if work in catalogue.procedures else ()
    return next((step for step in steps if step.key == name), None)


def aids_name(job: Job, line: OrderLine, state: Mapping[str, str], catalogue: Catalogue) -> str:
    """What the aids of a step depend on, as text: aids of another machine, or of the step before, never serve."""
    want = wanted(job, line, state, catalogue)
    target = line.target.value if line.target is not None else None
    runs = [run.digest or run for run in job.measured.runs.values()]
    step = [line.key, want.start_c, want.loose, want.fan, want.held_off, target]
    return name_of(step, runs, catalogue, job.found, line.step)


class WorkRoom(AnswerRoom):
    """Emits `Ready`; what was computed before for the same machine is not computed again."""

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._known: Kept[Ready] = Kept(24)
        self._under_way = ""

    def show(self, job: Job, line: OrderLine, state: Mapping[str, str], catalogue: Catalogue) -> None:
        """Compute the aids of the step at hand."""
        name = aids_name(job, line, state, catalogue)
        known = self._known.get(name)
        if known is not None:
            self.stop()
            self._under_way = ""
            self.changed.emit(known)
            return
        if self.busy and name == self._under_way:
            return
        self._under_way = name
        want = wanted(job, line, state, catalogue)
        self.submit(lambda emit, cancelled: self._work(name, job, want, catalogue, emit, cancelled))

    def _work(self, name: str, job: Job, want: Wanted, catalogue: Catalogue, emit: Emit, cancelled: Cancelled) -> None:
        try:
            aids = _aids(job, want, catalogue, cancelled)
        except (NotConvergedError, TooSmallError, DoesNotFitError) as wrong:
            log.info("no curve for %s: %r", want.line.key, wrong)
            aids = _roughly(job, want, catalogue)
        emit(self._known.keep(name, Ready(name, aids)))


def _aids(job: Job, want: Wanted, catalogue: Catalogue, cancelled: Cancelled) -> Aids:
    setup, line = job.found, want.line
    aids = Aids(goal=_touch(want, catalogue))
    if "cool" in want.kinds:
        if want.place == LOOSE:
            curve = loose_nozzle(setup, catalogue, want.start_c)
        elif want.loose and want.place == "block":
            curve = loose_body(want.loose, setup, catalogue, want.start_c)
        elif want.place == "block":
            curve, _seen = block_cooling(job, catalogue, want.start_c, fan=want.fan, cancelled=cancelled)
        else:
            curve = cooling(setup, catalogue, want.start_c, fan=want.fan, place=want.place, cancelled=cancelled)
        aids = replace(aids, curve=curve)
    elif "reach" in want.kinds and line.target is not None:
        curve, soak = heated(setup, catalogue, line.target.value, cancelled)
        seen = own_pace(curve, job)
        if seen is not None:
            curve, soak = heated(setup, catalogue, line.target.value, cancelled, pace=seen[0])
        aids = replace(aids, curve=curve, goal=line.target.value, soak_s=soak)
    if line.step.source and line.target is not None:
        reach = {
            name: warm_through(line.step.body, source, setup, catalogue, line.target.value)
            for name, source in catalogue.heat_sources.items()
        }
        aids = replace(aids, warm_s=reach[line.step.source], reach=reach)
    if want.held_off and line.target is not None:
        aids = replace(aids, cold_end=handling(setup, catalogue, line.target.value, cancelled))
    return aids


def _touch(want: Wanted, catalogue: Catalogue) -> float:
    """What the step's cooling place may be touched at [°C]."""
    gate = next((one for one in want.line.step.gates if one.kind == "cool"), None)
    return touch_limit(catalogue, gate.surface, gate.contact_s) if gate is not None else touch_limit(catalogue)


def _roughly(job: Job, want: Wanted, catalogue: Catalogue) -> Aids:
    """Aids where the model has no answer, so that a probe can still open what waits for it."""
    room, target = job.found.room.mean_c, want.line.target
    aids = Aids(curve=rough(want.start_c, room), goal=_touch(want, catalogue), rough=True)
    if "cool" not in want.kinds and target is not None:
        aids = replace(aids, curve=rough(room, target.value), goal=target.value, soak_s=ROUGH_SOAK_S)
    return aids

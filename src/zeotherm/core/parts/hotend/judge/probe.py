"""What if: the hotend settled once more with something changed, in the air of one moment."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from functools import cached_property

from zeotherm.core.catalogue.lookup import DoesNotFitError
from zeotherm.core.catalogue.shelves import Catalogue
from zeotherm.core.judgement.limits import Held
from zeotherm.core.machine.documents import Setup, patched
from zeotherm.core.machine.patches import Patch
from zeotherm.core.parts.hotend.judge.course import Course
from zeotherm.core.parts.hotend.model.inputs import HotendAir, resolve
from zeotherm.core.parts.hotend.model.model import build
from zeotherm.core.parts.hotend.model.solved import Solved, solve_hotend
from zeotherm.core.parts.whole.around import Around, resolve_around
from zeotherm.core.parts.whole.replay import Scene, replay
from zeotherm.core.solver.axisymmetric import NotConvergedError

SURROUNDINGS = ("room", "heats", "case", "bed", "carriage", "surroundings")


@dataclass(frozen=True)
class WhatIf:
    """Asks around one answer; course and time: the run it is a moment of, if it is one."""

    setup: Setup
    catalogue: Catalogue
    solved: Solved
    course: Course | None = None
    time: float = 0.0
    cancelled: Callable[[], bool] = lambda: False
    _airs: dict[tuple[Around, float, bool], HotendAir] = field(default_factory=dict, repr=False)  # replayed before

    @cached_property
    def rest(self) -> Solved:
        """The hotend settled in the moment's air. Raises NotConvergedError."""
        return self.solved if self.solved.settled else self._settled(self.setup, self.solved.air, self.idle)

    @cached_property
    def idle(self) -> bool:
        """Whether nothing flows at the moment."""
        return self.course is not None and self.course.run.at(self.time)[1].kind != "print"

    def with_change(self, change: Patch, *, idle: bool | None = None) -> Solved | None:
        """The hotend settled with a change; None where the parts do not fit or nothing settles.

        A change of the surroundings is replayed along the run up to the moment. idle: whether nothing flows, else as
        at the moment.
        """
        try:
            setup = patched(self.setup, change)
            return self._settled(setup, self._air(setup, change), self.idle if idle is None else idle)
        except (NotConvergedError, DoesNotFitError, ValueError):
            return None

    def in_air(self, air: HotendAir) -> Solved | None:
        """The hotend settled in other air; None where nothing settles."""
        try:
            return self._settled(self.setup, air, self.idle)
        except NotConvergedError:
            return None

    def _settled(self, setup: Setup, air: HotendAir, idle: bool) -> Solved:
        return solve_hotend(
            setup, self.catalogue, None, self.solved, self.cancelled, air=air, idle=idle,
            fineness=self.solved.model.fineness,
        )  # fmt: skip

    def _air(self, setup: Setup, change: Patch) -> HotendAir:
        around = resolve_around(setup, self.catalogue).around
        if around.stated is not None:
            return around.stated
        if self.course is None or not any(name in change for name in SURROUNDINGS):
            return self.solved.air
        inputs = resolve(setup, self.catalogue).inputs
        capacity = build(inputs, self.solved.model.fineness).air.capacity
        key = (around, capacity, inputs.loop > 0.0)
        if key not in self._airs:
            self._airs[key] = replay(self.course.run, [Scene(*key)]).airs(self.time)[0]
        return self._airs[key]


def room(solved: Solved, limit: Held) -> float:
    """Room to a limit, zero where its station has no value."""
    value = solved.readout.values.get(limit.limit.station)
    return limit.room(solved.resolved.inputs, value) if value is not None else 0.0

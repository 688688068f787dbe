"""What if: the hotend settled once more with something changed, in the air of one moment."""

from __future__ import annotations

from collections.abc import Callable, Iterable
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

SURROUNDINGS = ("room", "heats", "case", "bed", "carriage", "surroundings", "toolheads")


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

    def look_ahead(self, changes: Iterable[Patch]) -> None:
        """Replay those of several changes that touch the surroundings together, each as if it were alone: a fraction of
        the time of one after the other. What does not fit is left to whoever tries it."""
        if self.course is None:
            return
        wanted: list[tuple[Around, float, bool]] = []
        for change in changes:
            try:
                key = self._scene_of(patched(self.setup, change), change)
            except (NotConvergedError, DoesNotFitError, ValueError):
                continue
            if key is not None and key not in self._airs and key not in wanted:
                wanted.append(key)
        replayed = replay(self.course.run, [Scene(*key) for key in wanted], apart_from_each_other=True)
        self._airs.update(zip(wanted, replayed.airs(self.time), strict=True))

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
        if not any(name in change for name in SURROUNDINGS):
            return self.solved.air
        key = self._scene_of(setup, change)
        if key is None:
            return resolve_around(setup, self.catalogue).around.stated or self.solved.air
        if key not in self._airs:
            assert self.course is not None
            self._airs[key] = replay(self.course.run, [Scene(*key)]).airs(self.time)[0]
        return self._airs[key]

    def _scene_of(self, setup: Setup, change: Patch) -> tuple[Around, float, bool] | None:
        """What is replayed of a change: the surroundings, the air that the fan draws [W/K], whether a loop takes the
        sink's heat; None where it touches nothing about the hotend, or the air is stated, or there is no run."""
        if self.course is None or not any(name in change for name in SURROUNDINGS):
            return None
        around = resolve_around(setup, self.catalogue).around
        if around.stated is not None:
            return None
        inputs = resolve(setup, self.catalogue).inputs
        return around, build(inputs, self.solved.model.fineness).air.capacity, inputs.loop > 0.0


def room(solved: Solved, limit: Held) -> float:
    """Room to a limit, zero where its station has no value."""
    value = solved.readout.values.get(limit.limit.station)
    return limit.room(solved.resolved.inputs, value) if value is not None else 0.0

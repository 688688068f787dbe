"""One call from a setup to a solved hotend."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace

from zeotherm.core.catalogue.shelves import Catalogue
from zeotherm.core.machine.documents import Setup
from zeotherm.core.parts.hotend.model.inputs import HotendAir, Resolved, resolve
from zeotherm.core.parts.hotend.model.model import HotendModel, build, solve
from zeotherm.core.parts.hotend.model.readout import Readout, read
from zeotherm.core.solver import axisymmetric as solver


@dataclass(frozen=True)
class Solved:
    """A hotend in balance, or at one moment of its way: what went in, the field, and what it says."""

    resolved: Resolved
    model: HotendModel
    field: solver.Field
    readout: Readout
    settled: bool = True

    @property
    def air(self) -> HotendAir:
        """What it stands in."""
        given = self.resolved.inputs
        return HotendAir(given.fan_air, given.block_air, given.mount)


def solve_hotend(
    setup: Setup,
    catalogue: Catalogue,
    tolerances: dict[str, float] | None = None,
    previous: Solved | None = None,
    cancelled: Callable[[], bool] = lambda: False,
    *,
    air: HotendAir | None = None,
    idle: bool = False,
    fineness: float = 1.0,
) -> Solved:
    """Solve a setup; previous: a like answer to start from.

    air: what it stands in, else as the setup states; idle: hot, but nothing flows. fineness: of the grid.

    Raises DoesNotFitError (parts that do not go together), NotConvergedError, or CancelledError.
    """
    resolved = resolve(setup, catalogue, tolerances)
    if air is not None:
        resolved = resolved.in_air(air, previous.resolved.airs if previous else {})
    if idle:
        resolved = replace(resolved, inputs=replace(resolved.inputs, flow=0.0, part_fan=0.0))
    model = build(resolved.inputs, fineness)
    field = solve(model, previous.field if previous else None, cancelled)
    return Solved(resolved, model, field, read(model, field))

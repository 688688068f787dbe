"""One call from a setup to a solved hotend."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from zeotherm.core.catalogue.shelves import Catalogue
from zeotherm.core.machine.documents import Setup
from zeotherm.core.solver import axisymmetric as solver
from zeotherm.core.twin.hotend.inputs import Resolved, resolve
from zeotherm.core.twin.hotend.model import HotendModel, build, solve
from zeotherm.core.twin.hotend.readout import Readout, read


@dataclass(frozen=True)
class Solved:
    """A hotend in balance: what went in, the field, and what it says."""

    resolved: Resolved
    model: HotendModel
    field: solver.Field
    readout: Readout


def solve_hotend(
    setup: Setup,
    catalogue: Catalogue,
    tolerances: dict[str, float] | None = None,
    previous: Solved | None = None,
    cancelled: Callable[[], bool] = lambda: False,
) -> Solved:
    """Solve a setup; previous: a like answer to start from.

    Raises DoesNotFitError (parts that do not go together), NotConvergedError, or CancelledError.
    """
    resolved = resolve(setup, catalogue, tolerances)
    model = build(resolved.inputs)
    field = solve(model, previous.field if previous else None, cancelled)
    return Solved(resolved, model, field, read(model, field))

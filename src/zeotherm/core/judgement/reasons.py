"""Why a limit is gone: the setup's departures from a sound machine, each set right alone and solved."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from zeotherm.core.catalogue.shelves import Catalogue, Reference
from zeotherm.core.judgement.limits import Held
from zeotherm.core.machine.documents import Setup, patch_at, patched, value_at
from zeotherm.core.solver.axisymmetric import NotConvergedError
from zeotherm.core.twin.hotend.solved import Solved, solve_hotend


@dataclass(frozen=True, slots=True)
class Reason:
    """A departure and the room that setting it right would give back."""

    path: str
    value: float | str
    good: float | str
    gain: float  # in the limit's unit


def reasons(
    setup: Setup, solved: Solved, limit: Held, catalogue: Catalogue, cancelled: Callable[[], bool] = lambda: False
) -> list[Reason]:
    """Departures that cost this limit room, costliest first."""
    now = _room(solved, limit)
    found = []
    for path, reference in catalogue.references.items():
        value, good = value_at(setup, path), _good(setup, catalogue, path, reference)
        if not _departs(value, good, reference):
            continue
        try:
            righted = solve_hotend(patched(setup, patch_at(path, good)), catalogue, None, solved, cancelled)
        except NotConvergedError:
            continue
        gain = _room(righted, limit) - now
        if gain > 0.02 * limit.clear_from(solved.resolved.inputs):
            found.append(Reason(path, value, good, gain))
    return sorted(found, key=lambda reason: -reason.gain)


def _room(solved: Solved, limit: Held) -> float:
    value = solved.readout.values.get(limit.limit.station)
    return limit.room(solved.resolved.inputs, value) if value is not None else 0.0


def _good(setup: Setup, catalogue: Catalogue, path: str, reference: Reference) -> float | str:
    return catalogue.fans[setup.fan.part].rated_v if path == "fan.voltage_v" else reference.good


def _departs(value: float | str, good: float | str, reference: Reference) -> bool:
    if isinstance(value, str) or isinstance(good, str):
        return value != good
    by = {"above": value - good, "below": good - value, "other": abs(value - good)}[reference.worse]
    return by >= reference.at_least

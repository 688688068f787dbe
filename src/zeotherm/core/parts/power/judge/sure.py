"""How far the figures of a power path may be off, and what each lever gains: solved again with one thing changed."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import fields, replace
from typing import Any

from zeotherm.core.catalogue.lookup import DoesNotFitError
from zeotherm.core.judgement.bands import Outcome, limit_doubts, outcome, summed_doubts
from zeotherm.core.judgement.levers import solved_again
from zeotherm.core.judgement.margins import margins_with
from zeotherm.core.machine.documents import patched
from zeotherm.core.parts.power.judge.answer import AIR_DOUBTS, PowerAnswer, first_power, held_power, late_air, stations
from zeotherm.core.parts.power.judge.changes import with_company
from zeotherm.core.parts.power.model.inputs import PathInputs, with_path_number
from zeotherm.core.parts.power.model.model import FULL, PathAir, PathModel, solve_path
from zeotherm.core.solver.axisymmetric import CancelledError

DOMINANT = frozenset({
    "plug.ohms", "plug.to_air", "plug.to_body", "feed_terminal.ohms", "supply_terminal.ohms", "lead.area", "bed_ohms",
    "volts", "others", "heater_ohms", "heater_plug.ohms", "heater_volts", "switch.cooled", "film",
})  # fmt: skip
Cancelled = Callable[[], bool]


def with_power_bands(
    answer: PowerAnswer, cancelled: Cancelled = lambda: False, names: frozenset[str] | None = None
) -> PowerAnswer:
    """The answer with 95 % bands, its margins ordered by them; names: of the path's doubts that are tried, else all.
    Raises CancelledError."""
    base = outcome(None, answer.values, answer.limits)
    changes: dict[str, list[Outcome]] = {}
    given, around = answer.resolved.inputs, answer.air

    def side(inputs: PathInputs, air: PathAir) -> Outcome:
        if cancelled():
            raise CancelledError
        model = PathModel(inputs)
        start = answer.solved.values if model.count == answer.solved.model.count else None
        solved = solve_path(model, air, duty=answer.solved.duty, start=start)
        full = solve_path(model, air, duty=FULL, start=solved.values if start is not None else None)
        values = stations(solved, full, air, answer.setup.room.mean_c)
        limits = held_power(answer.setup, inputs, answer.catalogue, solved, full, air)
        after = outcome(None, values, limits)
        return {key: after.get(key, value) - value for key, value in base.items()}

    for name, width in answer.resolved.doubts.items():
        if names is not None and name not in names:
            continue
        changes[name] = [side(with_path_number(given, name, sign * width), around) for sign in (1.0, -1.0)]
    for one in fields(PathAir):
        if one.name == "further" and not around.further:
            continue
        changes[f"air:{one.name}"] = [
            side(given, _warmer(around, one.name, sign * AIR_DOUBTS[one.name])) for sign in (1.0, -1.0)
        ]
    changes |= limit_doubts(answer.limits)
    bands = summed_doubts(base, {name: sides for name, sides in changes.items() if any(sides)})
    return replace(answer, bands=bands, margins=margins_with(answer.limits, answer.values, bands))


def _warmer(around: PathAir, name: str, by: float) -> PathAir:
    """The same with one place warmer [K]; all further supplies are one place."""
    if name == "further":
        return replace(around, further=tuple(one + by for one in around.further))
    moved: dict[str, Any] = {name: getattr(around, name) + by}
    return replace(around, **moved)


def with_power_strengths(answer: PowerAnswer, cancelled: Cancelled = lambda: False) -> PowerAnswer:
    """The answer with what every lever gains of the worst margin, strongest first. Raises CancelledError."""
    found = solved_again(answer, "power", lambda path, to: after_change(answer, path, to), cancelled)
    return replace(answer, strengths=found)


def after_change(answer: PowerAnswer, path: str, to: float | str) -> PowerAnswer | None:
    """With one lever moved, in the same case's air; None where that does not fit."""
    setup = patched(answer.setup, with_company(path, to, answer.catalogue))
    air = answer.air if path.startswith("power.") and path != "power.path" else None
    try:
        around = air if air is not None else late_air(setup, answer.catalogue, None)
        return first_power(setup, answer.catalogue, air=around, duty=answer.solved.duty)
    except (DoesNotFitError, ValueError):
        return None


def full_power(answer: PowerAnswer, cancelled: Cancelled = lambda: False) -> PowerAnswer:
    """The answer with bands and strengths. Raises CancelledError."""
    return with_power_strengths(with_power_bands(answer, cancelled), cancelled)

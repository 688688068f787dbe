"""How far an enclosure's figures may be off, and what each lever gains: solved again with one thing changed."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import replace

from zeotherm.core.catalogue.lookup import DoesNotFitError
from zeotherm.core.judgement.bands import Outcome, limit_doubts, outcome, summed_doubts
from zeotherm.core.judgement.levers import solved_again
from zeotherm.core.judgement.margins import margins_with
from zeotherm.core.machine.documents import Setup, patched
from zeotherm.core.machine.patches import patch_at
from zeotherm.core.parts.enclosure.judge.answer import ChamberAnswer, around_of, first_case, own_rise, stations
from zeotherm.core.parts.enclosure.model.inputs import ChamberInputs, with_chamber_number
from zeotherm.core.parts.enclosure.model.model import HIGH, LOW, ChamberModel, EnclosureAround
from zeotherm.core.parts.enclosure.model.solved import NEARLY, solve_chamber
from zeotherm.core.parts.whole.around import occupants_of
from zeotherm.core.parts.whole.run import History
from zeotherm.core.solver.axisymmetric import CancelledError
from zeotherm.core.solver.plate import NotSettledError

AROUND = (("bed_up", 0.25), ("bed_rad_down", 0.25), ("low", 0.2), ("high", 0.3))  # shares that they may be off by, 95 %
ROOM_K = 1.0
NO_AIR = 1e-9  # m³/s
PLACES = frozenset({"within", "apart"})  # doubts of where in its half something is
DOMINANT = frozenset(
    {
        "film",
        "shed",
        "level",
        "wall_factor",
        "gap",
        "vents_open",
        "frame",
        "plume",
        "heater",
        "heater_roofward",
        "exhaust",
        "intake",
        "swept",
    }
)  # of doubts
Cancelled = Callable[[], bool]


def with_case_bands(
    answer: ChamberAnswer, cancelled: Cancelled = lambda: False, names: frozenset[str] | None = None
) -> ChamberAnswer:
    """The answer with 95 % bands, its margins ordered by them; names: of the enclosure's doubts that are tried, else
    all. Raises CancelledError."""
    base = outcome(None, answer.values, answer.limits)
    changes: dict[str, list[Outcome]] = {}

    def side(inputs: ChamberInputs, around: EnclosureAround) -> Outcome:
        if cancelled():
            raise CancelledError
        try:
            solved = solve_chamber(ChamberModel(inputs), around, answer.solved.values, NEARLY)
        except NotSettledError:
            return {}
        after = outcome(None, stations(answer.setup, answer.catalogue, solved), answer.limits)
        return {key: after.get(key, value) - value for key, value in base.items()}

    given, around = answer.resolved.inputs, answer.solved.around
    for name, width in answer.resolved.doubts.items():
        if name in PLACES or (names is not None and name not in names):
            continue
        changes[name] = [
            side(with_chamber_number(given, name, getattr(given, name) + sign * width), around) for sign in (1.0, -1.0)
        ]
    changes |= _at_places(answer, base)
    for told in changes.get("target", ()):  # what is wanted is what the control is set to, whatever it then holds
        told.pop("room:case_wanted", None)
    for name, share in AROUND:
        changes[f"around:{name}"] = [
            side(given, replace(around, **{name: getattr(around, name) * (1.0 + sign * share)})) for sign in (1.0, -1.0)
        ]
    changes["room"] = [side(given, replace(around, room=around.room + sign * ROOM_K)) for sign in (1.0, -1.0)]
    for _kind, one in occupants_of(answer.setup, answer.catalogue):
        width = own_rise(answer.setup, answer.catalogue, one).band
        keys = [f"value:{one.station}", *(f"room:{held.key}" for held in answer.limits
                                          if held.limit.station == one.station)]  # fmt: skip
        changes[f"rise:{one.station}"] = [dict.fromkeys(keys, sign * width) for sign in (1.0, -1.0)]
    changes |= limit_doubts(answer.limits)
    bands = summed_doubts(base, {name: sides for name, sides in changes.items() if any(sides)})
    return replace(answer, bands=bands, margins=margins_with(answer.limits, answer.values, bands))


def _at_places(answer: ChamberAnswer, base: Outcome) -> dict[str, list[Outcome]]:
    """What it does that air at a place is not as warm as its half is, the lower one the less so the more of its air is
    fresh from the room, and that the warmest wall is not so all over; what a control holds at its sensor, it holds."""
    solved, doubts, room = answer.solved, answer.resolved.doubts, answer.solved.around.room
    within, apart, moved = doubts.get("within", 0.0), doubts.get("apart", 0.0), solved.laws.moved
    fresh = moved.through / max(moved.through + moved.between, NO_AIR)
    held = {"value:case_sensor", "room:case_wanted"} if solved.holds else set()
    found: dict[str, list[Outcome]] = {}
    for node, pool in ((LOW, apart * fresh), (HIGH, 0.0)):
        rise = float(solved.values[node]) - room
        by = math.hypot(within * rise, apart * (solved.high - solved.low), pool * rise)
        sides: list[Outcome] = []
        for sign in (1.0, -1.0):
            values = solved.values.copy()
            values[node] += sign * by
            there = stations(answer.setup, answer.catalogue, replace(solved, values=values))
            after = outcome(None, there, answer.limits)
            sides.append({key: after.get(key, value) - value for key, value in base.items() if key not in held})
        found[f"place:{node}"] = sides
    points = {"case_face": within * (answer.values["case_face"] - room)}
    if not solved.holds:
        points["case_sensor"] = math.hypot(within * (solved.reading - room), apart * (solved.high - solved.low))
    for station, by in points.items():
        keys = [f"value:{station}", *(f"room:{one.key}" for one in answer.limits if one.limit.station == station)]
        found[f"place:{station}"] = [dict.fromkeys(keys, sign * by) for sign in (1.0, -1.0)]
    return found


def with_case_strengths(
    answer: ChamberAnswer, run: History | None = None, cancelled: Cancelled = lambda: False
) -> ChamberAnswer:
    """The answer with what every lever gains of the worst margin, strongest first. Raises CancelledError."""
    found = solved_again(answer, "case", lambda path, to: _after(answer, run, path, to), cancelled)
    return replace(answer, strengths=found)


def _after(answer: ChamberAnswer, run: History | None, path: str, to: float | str) -> ChamberAnswer | None:
    """With one lever moved; None where that does not fit or settle."""
    setup: Setup = patched(answer.setup, patch_at(path, to))
    try:
        around = around_of(setup, answer.catalogue, run)
        after = first_case(setup, answer.catalogue, arounds=around)
    except (DoesNotFitError, NotSettledError, ValueError):
        return None
    return after


def full_case(answer: ChamberAnswer, run: History | None = None, cancelled: Cancelled = lambda: False) -> ChamberAnswer:
    """The answer with bands and strengths. Raises CancelledError."""
    return with_case_strengths(with_case_bands(answer, cancelled), run, cancelled)

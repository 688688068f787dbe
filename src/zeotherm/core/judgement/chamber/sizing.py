"""Sizes for an enclosure: watts for a temperature and a time, what a change does, how far to open, where to cut out."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass, replace

from zeotherm.core.judgement.chamber.answer import ChamberAnswer, around_of, first_case, stations
from zeotherm.core.machine.documents import patched
from zeotherm.core.machine.patches import Patch
from zeotherm.core.solver.axisymmetric import CancelledError
from zeotherm.core.twin.chamber.inputs import ChamberInputs
from zeotherm.core.twin.chamber.model import Around, ChamberModel
from zeotherm.core.twin.chamber.solved import run_chamber, solve_chamber
from zeotherm.core.twin.whole.run import Run

MOST_W = 5000.0
HALVINGS = 14
TRIED_M3H = 20.0  # of a fan that is tried
NEAR = 1.0  # K below what is wanted that count as reached
CUTOUT_OVER_K = 10.0  # that a cut-out stands above the set value at least, so that it never cuts in work
CUTOUT_UNDER_K = 5.0  # and below the weakest part
Cancelled = Callable[[], bool]


@dataclass(frozen=True, slots=True)
class Tried:
    """An enclosure with one thing changed, or several: air at the print and the bed's watts, before and after."""

    key: str
    low: float  # °C
    by: float  # K
    bed: float  # W
    bed_by: float
    lost: float  # W by openings and fans


@dataclass(frozen=True, slots=True)
class Heater:
    """A heater for an enclosure."""

    hold: float  # W that hold what is wanted
    band: float  # 95 % half-width of those [W]
    fast: float | None  # W that bring it up within the time; None: no heater does
    within: float  # s
    reached: float  # °C at the print, with the heater that is there now


@dataclass(frozen=True, slots=True)
class CutOut:
    """Where a cut-out of its own may stand."""

    low: float  # °C, above the control's set value
    high: float  # below the weakest part
    weakest: str  # station of that part
    set_to: float  # as fitted; nought: none

    @property
    def possible(self) -> bool:
        """Whether there is room between control and weakest part."""
        return self.high > self.low

    @property
    def blocked(self) -> bool:
        """Whether the one that is fitted lets the weakest part pass its limit."""
        return self.set_to > self.high


def changes_of(answer: ChamberAnswer) -> dict[str, Patch]:
    """What is worth trying on an enclosure, by name."""
    case = answer.setup.case
    found: dict[str, Patch] = {
        "foam": {"case": {"lining": "foam"}},
        "bright": {"case": {"lining": "bright"}},
        "bed": {"bed": {"insulation": "felt", "cover": "whole"}},
    }
    if case.vents_open_pct > 0.0:
        found["shut"] = {"case": {"vents_open_pct": 0.0}}
    found["exhaust"] = {"case": {"exhaust_m3h": TRIED_M3H, "recirculation_m3h": 0.0}}
    found["recirculation"] = {"case": {"exhaust_m3h": 0.0, "recirculation_m3h": TRIED_M3H}}
    return found


def tried(answer: ChamberAnswer, run: Run | None = None, cancelled: Cancelled = lambda: False) -> list[Tried]:
    """Each change alone, and at last those together that keep heat in. Raises CancelledError."""
    found = []
    changes = changes_of(answer)
    together: Patch = {
        "case": {"lining": "foam", "vents_open_pct": 0.0},
        "bed": {"insulation": "felt", "cover": "whole"},
    }
    for key, change in (*changes.items(), ("together", together)):
        if cancelled():
            raise CancelledError
        setup = patched(answer.setup, change)
        after = first_case(setup, answer.catalogue, arounds=around_of(setup, answer.catalogue, run))
        found.append(
            Tried(
                key, after.solved.low, after.solved.low - answer.solved.low, after.solved.bed_watts,
                after.solved.bed_watts - answer.solved.bed_watts, after.solved.lost["air"],
            )
        )  # fmt: skip
    return found


def heater_for(answer: ChamberAnswer, wanted: float, within: float, room: float) -> Heater:
    """Watts of a heater that hold the air at the print at a temperature [°C] in a room [°C], and bring it there within
    a time [s], the bed on from the start; its control's sensor taken at the print.

    Raises NotSettledError.
    """
    given = replace(answer.resolved.inputs, target=wanted, sensor=0.25)
    around = replace(answer.solved.around, room=room)

    def hold(film: float = 0.0, walls: float = 0.0) -> float:
        inputs = replace(given, heater=MOST_W, film=given.film + film, wall_factor=given.wall_factor + walls)
        return solve_chamber(ChamberModel(inputs), around).power

    watts = hold()
    doubts = answer.resolved.doubts
    moved = [hold(film=doubts.get("film", 0.0)), hold(walls=-doubts.get("wall_factor", 0.0))]
    now = solve_chamber(ChamberModel(replace(answer.resolved.inputs, target=wanted)), around)
    return Heater(watts, math.hypot(*(one - watts for one in moved)), _fast(given, around, wanted, within, watts),
                  within, now.low)  # fmt: skip


def _fast(given: ChamberInputs, around: Around, wanted: float, within: float, hold: float) -> float | None:
    def late(watts: float) -> bool:
        inputs = replace(given, heater=watts, target=0.0)
        run = run_chamber(ChamberModel(inputs), lambda _time: around, within)
        return run.moment(within).low < wanted - NEAR

    low, high = max(hold, 1.0), MOST_W
    if late(high):
        return None
    if not late(low):
        return low
    for _halving in range(HALVINGS):
        middle = math.sqrt(low * high)
        low, high = (middle, high) if late(middle) else (low, middle)
    return high


def vents_for(answer: ChamberAnswer, at_most: float) -> float | None:
    """The share of the openings [-] that keeps the air at the print at a temperature at most [°C]; None where they do
    not suffice, nought where it stays below by itself."""

    def low(share: float) -> float:
        inputs = replace(answer.resolved.inputs, vents_open=share)
        return solve_chamber(ChamberModel(inputs), answer.solved.around, answer.solved.values).low

    if low(0.0) <= at_most:
        return 0.0
    if low(1.0) > at_most:
        return None
    less, more = 0.0, 1.0
    for _halving in range(HALVINGS):
        middle = 0.5 * (less + more)
        less, more = (middle, more) if low(middle) > at_most else (less, middle)
    return more


def cut_out(answer: ChamberAnswer) -> CutOut | None:
    """Where a cut-out may stand, by the weakest thing inside; None where there is no heater.

    A part reaches its limit when the air about it has risen by its room; a cut-out sits in that air.
    """
    given = answer.resolved.inputs
    if given.heater <= 0.0 or given.target <= 0.0:
        return None
    hot = max(answer.solved.low, answer.solved.high)
    inside = [one for one in answer.margins if one.kind == "ceiling" and one.room is not None]
    weakest = min(inside, key=lambda one: one.room if one.room is not None else math.inf)
    assert weakest.room is not None
    return CutOut(
        given.target + CUTOUT_OVER_K, hot + weakest.room - CUTOUT_UNDER_K, weakest.station, answer.setup.case.cutout_c
    )


@dataclass(frozen=True, slots=True)
class Gone:
    """What comes of a fault: where the air comes to, the part that passes its limit first, and when."""

    key: str
    low: float  # °C in the end
    high: float
    station: str  # of the part in danger; empty: none
    after: float | None  # s until it passes its limit


def gone_wrong(answer: ChamberAnswer, cancelled: Cancelled = lambda: False) -> list[Gone]:
    """A switch that sticks, a fan that stops, a sensor that falls out, a door that opens. Raises CancelledError."""
    given, found = answer.resolved.inputs, []
    faults = {
        "sticks": replace(given, target=0.0),  # or the sensor falls out: the heater is never told to stop
        "door": replace(given, vent=max(given.vent, 0.4 * given.width * given.height), vents_open=1.0),
    }
    if given.recirculation > 0.0:
        faults["fan"] = replace(given, recirculation=0.0)
    if given.heater <= 0.0:
        faults = {"door": faults["door"]}
    for key, inputs in faults.items():
        if cancelled():
            raise CancelledError
        run = run_chamber(ChamberModel(inputs), lambda _time: answer.solved.around, 4.0 * 3600.0,
                          start=answer.solved.low)  # fmt: skip
        end = run.moment(float(run.times[-1]))
        first: tuple[float, str] | None = None
        for time in run.times[1:]:
            values = stations(answer.setup, answer.catalogue, run.moment(float(time)))
            over = [one.limit.station for one in answer.limits
                    if one.limit.kind == "ceiling" and one.room(None, values[one.limit.station]) < 0.0]  # fmt: skip
            if over:
                first = (float(time), over[0])
                break
        found.append(Gone(key, end.low, end.high, first[1] if first else "", first[0] if first else None))
    return found

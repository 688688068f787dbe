"""Sizes for an enclosure: watts for a temperature and a time, what a change does, how far to open, where to cut out."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, replace

import numpy as np

from zeotherm.core.machine.documents import patched
from zeotherm.core.machine.numbers import doubt_of
from zeotherm.core.machine.patches import Patch
from zeotherm.core.parts.enclosure.judge.answer import ChamberAnswer, around_of, first_case, own_rise, stations
from zeotherm.core.parts.enclosure.model.inputs import ChamberInputs, placed, with_chamber_number
from zeotherm.core.parts.enclosure.model.model import LOW, ChamberModel, EnclosureAround
from zeotherm.core.parts.enclosure.model.solved import NEARLY, run_chamber, solve_chamber
from zeotherm.core.parts.whole.around import occupants_of
from zeotherm.core.parts.whole.run import History
from zeotherm.core.solver.axisymmetric import CancelledError

MOST_W = 5000.0
AT_PRINT = 0.25  # of the height: in the middle of the lower half
CLOSE = 2e-3  # to which a size is found, of its logarithm or of what it may be at most
PROBED = 0.05  # of a size, over which its slope is taken
TRIED_M3H = 20.0  # of a fan that is tried
LONGEST_WAIT = 4.0 * 3600.0  # s
MOST_MIXED = 400.0 / 3600.0  # m³/s
OTHERS_W = 30.0  # motors, boards and fans: estimate, 20 to 50
SUPPLY_EFFICIENCY = 0.88  # estimate, 0.82 to 0.92
NEAR = 1.0  # K below what is wanted that count as reached
CUTOUT_OVER_K = 10.0  # that a cut-out stands above the set value at least, so that it never cuts in work
CUTOUT_UNDER_K = 5.0  # and below the weakest part
ROOM_FOR_CUTOUT_K = CUTOUT_OVER_K + CUTOUT_UNDER_K  # that every part inside has to have, for one to fit between
DOUBTED = (
    "film",
    "shed",
    "wall_factor",
    "gap",
    "frame",
    "plume",
    "heater_roofward",
)  # that decide how warm a case gets
SOON = (*DOUBTED, "content", "content_lag")  # and how soon
OTHERS_DOUBT_W = 15.0
EFFICIENCY_DOUBT = 0.05
RATED_DOUBT = 0.05  # of a heater's watts
Cancelled = Callable[[], bool]


@dataclass(frozen=True, slots=True)
class Tried:
    """An enclosure with one thing changed, or several: air at the print and the bed's watts, before and after."""

    key: str
    low: float  # °C
    by: float  # K
    bed: float  # W
    bed_by: float
    lost: float  # W by openings and fans: what makes up for the room's air that comes in
    changes: float  # of its air by the room's, in an hour
    follows: float  # how far the print's air follows its room [K/K]
    band: float = 0.0  # 95 % half-width of what the air moves by [K]


@dataclass(frozen=True, slots=True)
class Size:
    """A size that was looked for, and its 95 % half-width."""

    value: float
    band: float = 0.0


@dataclass(frozen=True, slots=True)
class Heater:
    """A heater for an enclosure."""

    hold: Size  # W that hold what is wanted
    fast: Size | None  # W that bring it up within the time; None: no heater does
    within: float  # s
    reached: Size  # °C at the print, with the heater that is there now


@dataclass(frozen=True, slots=True)
class CutOut:
    """Where a cut-out of its own may stand."""

    low: float  # °C, above the control's set value
    high: float  # below the weakest part
    weakest: str  # station of that part
    set_to: float  # as fitted; zero: none
    band: float = 0.0  # 95 % half-width of the upper one: of the part's limit and its own rise [K]

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
    air = {"exhaust_m3h": 0.0, "intake_m3h": 0.0, "recirculation_m3h": 0.0}
    found["exhaust"] = {"case": {**air, "exhaust_m3h": TRIED_M3H}}
    found["recirculation"] = {"case": {**air, "recirculation_m3h": TRIED_M3H}}
    return found


def tried(answer: ChamberAnswer, run: History | None = None, cancelled: Cancelled = lambda: False) -> list[Tried]:
    """Each change alone, and at last those together that keep heat in. Raises CancelledError."""
    found, before = [], _moved(answer)
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
                after.solved.bed_watts - answer.solved.bed_watts, after.solved.air_lost,
                3600.0 * after.solved.laws.moved.through / after.resolved.inputs.volume, _follows(after),
                math.hypot(*(a - b for a, b in zip(_moved(after), before, strict=True))),
            )
        )  # fmt: skip
    return found


def _moved(answer: ChamberAnswer) -> list[float]:
    """What each of the `DOUBTED` at its half-width does to the print's air [K]."""
    solved = answer.solved
    return [
        solve_chamber(ChamberModel(inputs), solved.around, solved.values, NEARLY).low - solved.low
        for inputs in doubtful(answer.resolved.inputs, answer.resolved.doubts)
    ]


def doubtful(
    given: ChamberInputs, doubts: Mapping[str, float], names: tuple[str, ...] = DOUBTED
) -> Iterator[ChamberInputs]:
    """The enclosure with each of these doubts at its half-width, one after the other."""
    for name in names:
        if doubts.get(name, 0.0) > 0.0:
            yield with_chamber_number(given, name, getattr(given, name) + doubts[name])


def looked_for(
    lacks: Callable[[float, ChamberInputs], float], given: ChamberInputs, doubts: Mapping[str, float], low: float,
    high: float, names: tuple[str, ...] = DOUBTED,
) -> Size:  # fmt: skip
    """The size between two at which nothing is lacking, by Brent's method; its band by what the doubts make it lack,
    over the slope there. lacks: of unlike sign at the two."""
    from scipy.optimize import brentq

    value = float(brentq(lambda size: lacks(size, given), low, high, xtol=0.1 * CLOSE * (high - low)))
    step = max(PROBED * (value - low), CLOSE * (high - low))
    step = -step if value + step > high else step
    here = lacks(value, given)
    slope = (lacks(value + step, given) - here) / step
    moved = [lacks(value, inputs) - here for inputs in doubtful(given, doubts, names)]
    return Size(value, math.hypot(*moved) / max(abs(slope), 1e-12))


def _follows(answer: ChamberAnswer) -> float:
    """How far the print's air follows its room, by a room one kelvin warmer [K/K]."""
    around = answer.solved.around
    warmer = solve_chamber(answer.solved.model, replace(around, room=around.room + 1.0), answer.solved.values)
    return warmer.low - answer.solved.low


def heater_for(answer: ChamberAnswer, wanted: float, within: float, room: float) -> Heater:
    """Watts of a heater that hold the air at the print at a temperature [°C] in a room [°C], and bring it there within
    a time [s], the bed on from the start; its control's sensor taken at the print.

    Raises NotSettledError.
    """
    given = replace(
        answer.resolved.inputs, target=wanted, sensor=AT_PRINT, second=0.0, heater_cap=0.0, heater_fades=0.0
    )
    around = replace(answer.solved.around, room=room)

    def hold(inputs: ChamberInputs) -> float:
        return solve_chamber(ChamberModel(replace(inputs, heater=MOST_W)), around).power

    def reaches(inputs: ChamberInputs) -> float:
        return solve_chamber(ChamberModel(replace(inputs, target=wanted)), around).low

    doubts, fitted = answer.resolved.doubts, answer.resolved.inputs
    watts = with_band(hold, given, doubts)
    return Heater(
        watts, _fast(given, doubts, around, wanted, within, watts.value), within, with_band(reaches, fitted, doubts)
    )


def with_band(figure: Callable[[ChamberInputs], float], given: ChamberInputs, doubts: Mapping[str, float]) -> Size:
    """A figure of an enclosure, and what its doubts do to it."""
    value = figure(given)
    return Size(value, math.hypot(*(figure(inputs) - value for inputs in doubtful(given, doubts))))


@dataclass(frozen=True, slots=True)
class Placed:
    """A heater at one place with the control's sensor where it is: what the print gets of it."""

    place: str
    low: float  # air at the print [°C]
    band: float  # 95 % half-width of both [K]
    high: float
    power: float  # W
    minutes: Size | None  # until the print is as warm as wanted; None: never


def places_for(
    answer: ChamberAnswer, wanted: float, watts: float, cancelled: Cancelled = lambda: False
) -> list[Placed]:
    """A heater of so many watts at each place, the best first: the one with the print nearest to what is wanted, of
    those alike the one with the cooler roof. Its control's sensor is where it is, at the print where none is fitted.

    Raises CancelledError and NotSettledError.
    """
    found, doubts, around, given = [], answer.resolved.doubts, answer.solved.around, answer.resolved.inputs
    sensor = given.sensor if given.heats else AT_PRINT
    for key, place in answer.catalogue.heater_places.items():
        inputs = replace(
            given, target=wanted, sensor=sensor, heater=watts, heater_units=place.units, second=0.0, heater_cap=0.0,
            heater_fades=0.0, **placed("heater", place),  # type: ignore[arg-type]  # all of them are of numbers
        )  # fmt: skip
        rest = solve_chamber(ChamberModel(inputs), around)
        others = [solve_chamber(ChamberModel(one), around, rest.values, NEARLY) for one in doubtful(inputs, doubts)]
        band = math.hypot(*(max(abs(one.low - rest.low), abs(one.high - rest.high)) for one in others))
        minutes = _minutes(inputs, around, wanted, cancelled) if rest.low >= wanted - NEAR else None
        if minutes is not None:
            tries = (_minutes(one, around, wanted, cancelled) for one in doubtful(inputs, doubts, SOON))
            moved = [one - minutes if one is not None else LONGEST_WAIT / 60.0 - minutes for one in tries]
            found.append(Placed(key, rest.low, band, rest.high, rest.power, Size(minutes, math.hypot(*moved))))
        else:
            found.append(Placed(key, rest.low, band, rest.high, rest.power, None))
    return sorted(found, key=lambda one: (-round(one.low), one.high))


def _minutes(inputs: ChamberInputs, around: EnclosureAround, wanted: float, cancelled: Cancelled) -> float | None:
    """Until the print is as warm as wanted [min]; None: never."""
    run = run_chamber(
        ChamberModel(inputs), lambda _time: around, LONGEST_WAIT, enough=wanted - NEAR, cancelled=cancelled
    )
    low = run.values[-2:, LOW]
    return float(np.interp(wanted - NEAR, low, run.times[-2:])) / 60.0 if low[-1] >= wanted - NEAR else None


def with_heater(answer: ChamberAnswer, wanted: float, watts: float) -> ChamberAnswer:
    """The answer with the air held at a temperature [°C] by what is fitted, or by a heater of so many watts low down
    with its sensor at the print where none is. Raises NotSettledError."""
    change: Patch = {"case": {"target_c": wanted}}
    if not answer.resolved.inputs.heats:
        change = {
            "case": {"target_c": wanted, "heater_w": min(watts, 3000.0), "heater_at": "floor", "sensor_pct": 25.0}
        }
    setup = patched(answer.setup, change)
    return first_case(setup, answer.catalogue, arounds=lambda _time: answer.solved.around)


def mixing_for(answer: ChamberAnswer, wanted: float, spread: float) -> Size | None:
    """Air that a mixing fan has to turn over [m³/s], so that roof and print are at most a spread apart [K] with the air
    at the sensor held at a temperature; zero where they are without, None where no fan that is tried does it."""

    def apart(flow: float, given: ChamberInputs) -> float:
        inputs = replace(given, target=wanted, recirculation=flow)
        solved = solve_chamber(ChamberModel(inputs), answer.solved.around)
        return abs(solved.high - solved.low) - spread

    given = answer.resolved.inputs
    if apart(0.0, given) <= 0.0:
        return Size(0.0)
    if apart(MOST_MIXED, given) > 0.0:
        return None
    return looked_for(apart, given, answer.resolved.doubts, 0.0, MOST_MIXED)


def outlet(answer: ChamberAnswer, heater: float) -> Size:
    """What the outlet carries at most [W]: heater of the case, bed, hotend and electronics at once."""
    setup = answer.setup
    bed = setup.bed.heater_w if setup.bed.target_c > 0.0 else 0.0
    inside = (bed + setup.hotend.heater_power_w + OTHERS_W) / SUPPLY_EFFICIENCY
    widths = (
        (doubt_of(setup, "bed.heater_w", {}) if bed > 0.0 else 0.0) / SUPPLY_EFFICIENCY,
        doubt_of(setup, "hotend.heater_power_w", {}) / SUPPLY_EFFICIENCY,
        OTHERS_DOUBT_W / SUPPLY_EFFICIENCY, inside * EFFICIENCY_DOUBT,
        RATED_DOUBT * heater,
    )  # fmt: skip
    return Size(heater + inside, math.hypot(*widths))


def _fast(
    given: ChamberInputs,
    doubts: Mapping[str, float],
    around: EnclosureAround,
    wanted: float,
    within: float,
    hold: float,
) -> Size | None:
    def lacks(log: float, inputs: ChamberInputs) -> float:
        tried = replace(inputs, heater=math.exp(log), target=math.inf)
        run = run_chamber(ChamberModel(tried), lambda _time: around, within)
        return wanted - NEAR - run.moment(within).low

    low, high = max(hold, 1.0), MOST_W
    if lacks(math.log(high), given) > 0.0:
        return None
    if lacks(math.log(low), given) <= 0.0:
        return Size(low)
    found = looked_for(lacks, given, doubts, math.log(low), math.log(high), SOON)
    watts = math.exp(found.value)
    return Size(watts, watts * found.band)


def vents_for(answer: ChamberAnswer, at_most: float) -> Size | None:
    """The share of the openings [-] that keeps the air at the print at a temperature at most [°C]; None where they do
    not suffice, zero where it stays below by itself."""

    def over(share: float, given: ChamberInputs) -> float:
        model = ChamberModel(replace(given, vents_open=share))
        return solve_chamber(model, answer.solved.around, answer.solved.values).low - at_most

    given = answer.resolved.inputs
    if over(0.0, given) <= 0.0:
        return Size(0.0)
    if over(1.0, given) > 0.0:
        return None
    return looked_for(over, given, answer.resolved.doubts, 0.0, 1.0)


def cut_out(answer: ChamberAnswer) -> CutOut | None:
    """Where a cut-out may stand, by the weakest thing inside; None where there is no heater.

    A part reaches its limit when the air about it has risen by its room; a cut-out sits in that air.
    """
    given = answer.resolved.inputs
    if not given.heats or given.target <= 0.0:
        return None
    hot = max(answer.solved.low, answer.solved.high)
    inside = [one for one in answer.margins if one.kind == "ceiling" and one.room is not None]
    weakest = min(inside, key=lambda one: one.room if one.room is not None else math.inf)
    assert weakest.room is not None
    there = (one for _kind, one in occupants_of(answer.setup, answer.catalogue) if one.station == weakest.station)
    rises = [own_rise(answer.setup, answer.catalogue, one).band for one in there]
    doubt = next(one.limit.tolerance for one in answer.limits if one.key == weakest.key)
    return CutOut(
        given.target + CUTOUT_OVER_K, hot + weakest.room - CUTOUT_UNDER_K, weakest.station, answer.setup.case.cutout_c,
        math.hypot(doubt, *rises),
    )  # fmt: skip


@dataclass(frozen=True, slots=True)
class Gone:
    """What comes of a fault: where the air comes to, the part that passes its limit first, and when."""

    key: str
    low: float  # °C in the end
    high: float
    station: str  # of the part in danger; empty: none
    after: float | None  # s until it passes its limit
    band: float = 0.0  # 95 % half-width of both temperatures [K]


def gone_wrong(answer: ChamberAnswer, cancelled: Cancelled = lambda: False) -> list[Gone]:
    """A switch that sticks, a fan that stops, a sensor that falls out, a door that opens. Raises CancelledError."""
    given, found = answer.resolved.inputs, []
    free = replace(answer, solved=solve_chamber(ChamberModel(replace(given, target=0.0, heater=0.0, second=0.0)),
                                                answer.solved.around))  # fmt: skip
    free = replace(free, resolved=replace(free.resolved, inputs=free.solved.model.inputs))
    share = math.hypot(*_moved(free)) / max(free.solved.low - free.solved.around.room, 1.0)  # of what it rises by
    faults = {
        "sticks": replace(given, target=math.inf),  # or the sensor falls out: the heater is never told to stop
        "door": replace(given, vent=max(given.vent, 0.4 * given.width * given.height), vents_open=1.0),
    }
    if given.recirculation > 0.0:
        faults["fan"] = replace(given, recirculation=0.0)
    if not given.heats:
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
        band = share * max(end.low - end.around.room, 0.0)
        found.append(Gone(key, end.low, end.high, first[1] if first else "", first[0] if first else None, band))
    return found

"""How long to wait: cool to the touch, warm through, soaked before a thread is turned."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, replace

import numpy as np
import numpy.typing as npt

from zeotherm.core.catalogue.fitting import hotend_of, nozzle_emissivity
from zeotherm.core.catalogue.procedures import HeatSource
from zeotherm.core.catalogue.shelves import Catalogue, HotendShape, Material
from zeotherm.core.machine.documents import Setup, patched
from zeotherm.core.machine.patches import Patch
from zeotherm.core.parts.whole.run import History, simulate
from zeotherm.core.physics.convection import natural_film_body
from zeotherm.core.physics.lumped import time_along
from zeotherm.core.physics.radiation import flux_to_surroundings

Array = npt.NDArray[np.float64]
MM = 1e-3
SOAK_K = 2.0  # of what is still to come, at which a part counts as warm through
SOAK_PLACE, SOAK_AIR = "sink_base", "fan_inlet"  # what the block warms last, over its air
IDLE_MIN, FOLLOWED_MIN = 45.0, 200.0  # hot before the heat goes off; followed after it
FILM_DOUBT = 0.25  # 95 %, of the bare block's loss: the spread of published correlations
HEAT_DOUBT = 0.25  # 95 %, of the heat held: cartridge, sensor, screws and leads are not in the section; estimate
START_DOUBT_K = 4.0  # 95 %, of where a wait begins
TRIED = 1.15  # factor by which the block's loss is moved, to see what it does to the rate
LOOSE_STEP_K = 0.5
WARM_STEPS = 60
ROUGH_COOLS_S, ROUGH_WARMS_S, ROUGH_DOUBT = 420.0, 60.0, 0.6
LEVELS = 12  # of a curve, at which two rates are compared


@dataclass(frozen=True)
class CoolingCurve:
    """A place on its way from one temperature to another, as the model expects it."""

    times: Array  # s
    values: Array  # °C, falling or rising all the way
    rate_doubt: float  # 95 % half-width of how fast it goes [-]
    start_doubt: float = START_DOUBT_K  # K
    rate: float = 1.0  # how fast this machine was seen to go, of the model's
    stations: Mapping[str, Array] = field(default_factory=dict)  # every other place, over the same times

    @property
    def rises(self) -> bool:
        """Whether it warms."""
        return bool(self.values[-1] > self.values[0])

    def at(self, time: float) -> float:
        """Temperature at a time of the model [s]."""
        return float(np.interp(time, self.times, self.values))

    def when(self, value: float) -> float | None:
        """Time of the model at which it meets a temperature [s]; None where it never does."""
        sign = 1.0 if self.rises else -1.0
        if sign * value > sign * float(self.values[-1]):
            return None
        return float(np.interp(sign * value, sign * self.values, self.times))

    def slope(self, time: float) -> float:
        """Its slope at a time [K/s], never zero."""
        apart = 0.5 * max(float(np.diff(self.times).min(initial=1.0)), 1.0)
        slope = (self.at(time + apart) - self.at(time - apart)) / (2.0 * apart)
        return slope if abs(slope) > 1e-6 else 1e-6

    def known(self, rate: float, doubt: float) -> CoolingCurve:
        """The same for a machine whose rate was seen before: rate [-] with its 95 % half-width."""
        return replace(self, rate=rate, rate_doubt=doubt)


def on_the_bench(setup: Setup, start_c: float, *, fan: bool, bed: bool = False) -> Setup:
    """The machine as it stands while it is worked on: case open, no sun; the nozzle hot, then off.

    start_c [°C]: of the block when the heat goes off; fan: whether the sink fan runs on; bed: whether the bed was hot,
    at its set value.
    """
    change: Patch = {
        "printing": {"nozzle_c": min(max(start_c, 20.0), 500.0)},
        "schedule": {"soak_min": IDLE_MIN, "print_min": 1.0, "cool_min": FOLLOWED_MIN, "pauses": None,
                     "fan_after": "runs_on" if fan else "stops"},
        "heats": None,
        "faults": None,
        "case": {"part": "open_frame"},
        "bed": {"target_c": setup.bed.target_c if bed else 0.0},
        "surroundings": {"air_from": "case"},
    }  # fmt: skip
    return patched(setup, change)


def cooling(
    setup: Setup, catalogue: Catalogue, start_c: float, *, fan: bool, place: str = "block",
    cancelled: Callable[[], bool] = lambda: False,
) -> CoolingCurve:  # fmt: skip
    """A place of the hotend after the heat is off, from a whole run of the machine on the bench.

    start_c: of the block [°C]; fan: whether the sink fan runs on; place: a station. The doubt of the rate is that of
    the block's loss, by a second run in which it is moved, and of the heat held. Raises what `simulate` raises.
    """
    bench = on_the_bench(setup, start_c, fan=fan, bed=place == "bed")
    usual = _after(simulate(bench, catalogue, cancelled=cancelled), "cool")
    film = bench.corrections.block_film
    moved = patched(bench, {"corrections": {"block_film": min(film * TRIED, 5.0)}})
    other = _after(simulate(moved, catalogue, cancelled=cancelled), "cool")
    times = usual[0]
    values = falling(usual[1][place])
    made = CoolingCurve(times, values, 0.0, stations=usual[1])
    doubt = math.hypot(FILM_DOUBT * _rate_of(made, CoolingCurve(other[0], falling(other[1][place]), 0.0)), HEAT_DOUBT)
    return replace(made, rate_doubt=doubt)


def heated(
    setup: Setup, catalogue: Catalogue, target_c: float, cancelled: Callable[[], bool] = lambda: False, *,
    pace: float = 1.0,
) -> tuple[CoolingCurve, float]:  # fmt: skip
    """The block from switching on to a temperature, and how long the hotend then takes to be warm through [s].

    Warm through: the sink's base, which the block warms last, is within 2 K of where it settles over its air. pace: how
    fast the block was seen to warm, over the model's rate: the power is taken as so much. Arguments and errors as for
    `cooling`.
    """
    bench = on_the_bench(setup, target_c, fan=True)
    paced: Patch = {"hotend": {"heater_power_w": min(max(bench.hotend.heater_power_w * pace, 5.0), 200.0)}}
    run = simulate(patched(bench, paced), catalogue, cancelled=cancelled)
    times, stations = _after(run, "heat")
    curve = CoolingCurve(
        times, np.maximum.accumulate(stations["block"]), math.hypot(HEAT_DOUBT, 0.08), stations=stations
    )
    return curve, settled_after(*_hot(run), SOAK_K)


def settled_after(times: Array, values: Array, within: float) -> float:
    """Time after the first from which a series stays within so many K of its last value."""
    off = np.flatnonzero(np.abs(values - values[-1]) > within)
    if not len(off):
        return 0.0
    last, after = int(off[-1]), min(int(off[-1]) + 1, len(values) - 1)
    one, other = abs(values[last] - values[-1]), abs(values[after] - values[-1])
    share = (one - within) / (one - other) if one > other else 1.0
    return float(times[last] + share * (times[after] - times[last]) - times[0])


def handling(
    setup: Setup, catalogue: Catalogue, target_c: float, cancelled: Callable[[], bool] = lambda: False
) -> CoolingCurve:
    """The sink's base while the block is held hot and the sink fan does not run. As for `cooling`."""
    bench = patched(on_the_bench(setup, target_c, fan=False), {"fan": {"voltage_v": 0.0}})
    times, stations = _after(simulate(bench, catalogue, cancelled=cancelled), "hot")
    return CoolingCurve(times, np.maximum.accumulate(stations["sink_base"]), 0.3, stations=stations)


def rough(start_c: float, end_c: float) -> CoolingCurve:
    """A curve for a machine that the model has no answer for: exponential, its rate good to a factor of two at best.

    start_c, end_c [°C]; an estimate from the masses of usual blocks: 7 min to cool, 1 min to warm.
    """
    scale = ROUGH_COOLS_S if end_c < start_c else ROUGH_WARMS_S
    times = np.linspace(0.0, 9.0 * scale, 400)
    return CoolingCurve(times, end_c + (start_c - end_c) * np.exp(-times / scale), ROUGH_DOUBT)


def loose_nozzle(setup: Setup, catalogue: Catalogue, start_c: float) -> CoolingCurve:
    """The nozzle laid on its side in the open: a lumped body, Bi well below 0.1.

    Natural convection about a compact body and radiation; what the dish takes is left out, so the wait is an upper
    edge. start_c [°C]. Sources as in `physics.convection` and `physics.radiation`.
    """
    shape = hotend_of(setup, catalogue)
    material = catalogue.materials[shape.nozzle_material]
    capacity, area = nozzle_body(shape, material)
    emissivity = nozzle_emissivity(setup, catalogue).value
    return _laid_down(capacity, area, area, emissivity, setup.room.mean_c, start_c, setup)


def _laid_down(
    capacity: float, area: float, outside: float, emissivity: float, room: float, start_c: float, setup: Setup
) -> CoolingCurve:
    values = np.arange(max(start_c, room + 4.0), room + 2.0, -LOOSE_STEP_K)
    middle = 0.5 * (values[1:] + values[:-1])
    film = natural_film_body(middle, room, math.sqrt(outside / math.pi), setup.surroundings.pressure_kpa * 1e3)
    watts = area * film * (middle - room) + outside * flux_to_surroundings(middle, room, emissivity)
    return CoolingCurve(time_along(values, -watts, capacity), values, math.hypot(FILM_DOUBT, HEAT_DOUBT))


def nozzle_body(shape: HotendShape, material: Material) -> tuple[float, float]:
    """Heat [J/K] and surface [m²] of a loose nozzle: thread, hexagon as its inscribed cylinder, cone."""
    thread, hexagon = 0.5 * shape.thread_d * MM, 0.5 * shape.hex_d * MM
    bore = 0.5 * shape.bore_d * MM
    long, high, cone = shape.nozzle_thread * MM, shape.hex * MM, shape.cone * MM
    volume = math.pi * (long * (thread**2 - bore**2) + high * hexagon**2 + cone * hexagon**2 / 3.0)
    slant = math.hypot(cone, hexagon)
    area = 2.0 * math.pi * (thread * long + hexagon * high) + math.pi * hexagon * (slant + hexagon)
    return volume * material.capacity_j_m3k.value, area


def loose_body(name: str, setup: Setup, catalogue: Catalogue, start_c: float) -> CoolingCurve:
    """A sink or a break laid down in the open after it was warmed off the machine. As for `loose_nozzle`."""
    part, room = body(name, setup, catalogue), setup.room.mean_c
    return _laid_down(part.capacity, part.area, part.outside, part.emissivity, room, start_c, setup)


@dataclass(frozen=True, slots=True)
class LoosePart:
    """A part off the machine, as one lump."""

    capacity: float  # J/K
    area: float  # m², washed by air
    outside: float  # m², that sees the room
    emissivity: float


def body(name: str, setup: Setup, catalogue: Catalogue) -> LoosePart:
    """A sink with its break's thread, or a bare break."""
    shape = catalogue.hotends[setup.hotend.template]
    made = catalogue.breaks[setup.hotend.break_part]
    bore, thread = 0.5 * shape.bore_d * MM, 0.5 * shape.sink_thread_d * MM
    neck = bore + made.neck_wall_mm.value * setup.hotend.neck_wall_factor * MM
    parts = ((shape.sink_thread * MM, thread, made.sink_side), (shape.neck * MM, neck, made.neck),
             (0.6 * shape.nozzle_thread * MM, 0.5 * shape.thread_d * MM, made.block_side))  # fmt: skip
    held = sum(
        math.pi * (outer**2 - bore**2) * long * catalogue.materials[metal].capacity_j_m3k.value
        for long, outer, metal in parts
    )
    if name == "break":
        around = sum(2.0 * math.pi * outer * long for long, outer, _metal in parts)
        return LoosePart(held, around, around, catalogue.materials[made.neck].emissivity.value)
    sink = shape.sink
    core, fin, high = 0.5 * sink.core_d * MM, 0.5 * sink.fin_d * MM, sink.height * MM
    fins = sink.fins * math.pi * (fin**2 - core**2)
    volume = math.pi * (core**2 - thread**2) * high + fins * sink.fin_thickness * MM
    metal = catalogue.materials["aluminium_alloy"].capacity_j_m3k.value
    outside = 2.0 * math.pi * fin * (high + fin)
    emissivity = catalogue.assumptions["sink_emissivity"].figure.value
    return LoosePart(volume * metal + held, 2.0 * fins + 2.0 * math.pi * core * high, outside, emissivity)


def warm_through(
    name: str, source: HeatSource, setup: Setup, catalogue: Catalogue, goal_c: float
) -> tuple[float, float, float] | None:
    """How long a gun or flame takes a body to a temperature [s]: earliest, likely, latest; None: it does not reach it.

    name: sink or break; goal_c: the metal's temperature [°C]. A lumped body in a jet that radiates to the room, see
    `physics.lumped`. The band is that of the source.
    """
    room, part = setup.room.mean_c, body(name, setup, catalogue)
    values = np.linspace(room, max(goal_c, room + 1.0), WARM_STEPS)
    middle = 0.5 * (values[1:] + values[:-1])
    watts = source.film_w_m2k["sink" if name == "sink" else "break"] * part.area * (source.air_c - middle)
    watts = watts - part.outside * flux_to_surroundings(middle, room, part.emissivity)
    if np.any(watts <= 0.0):
        return None
    likely = float(time_along(values, watts, part.capacity)[-1])
    return likely * (1.0 - source.tolerance), likely, likely * (1.0 + source.tolerance)


def touch_limit(catalogue: Catalogue, surface: str = "metal", seconds: float = 600.0) -> float:
    """What may be touched for so long [°C]: the limit of the next longer contact that is stated."""
    limits = {float(key): value for key, value in catalogue.touch[surface].limits.items()}
    longer = [key for key in sorted(limits) if key >= seconds]
    return limits[longer[0] if longer else max(limits)]


def falling(values: Array) -> Array:
    """A curve that never rises: what a probe that falls to its limit has behind it."""
    return np.asarray(np.minimum.accumulate(values))


def _after(run: History, kind: str) -> tuple[Array, dict[str, Array]]:
    """Times from zero and stations of the part that cools, heats up or stands hot."""
    first, last = _span(run, kind)
    series = run.series
    inside = np.flatnonzero((run.times >= first - 1e-9) & (run.times <= last + 1e-9))
    return run.times[inside] - first, {key: column[inside] for key, column in series.items()}


def _span(run: History, kind: str) -> tuple[float, float]:
    if kind == "cool":
        return next(one.start for one in run.stretches if one.kind == "cool"), run.end
    if kind == "heat":
        return 0.0, run.stretches[0].end
    return 0.0, next(one.start for one in run.stretches if one.kind == "print")


def _hot(run: History) -> tuple[Array, Array]:
    soaking = next(one for one in run.stretches if one.kind == "soak")
    inside = np.flatnonzero((run.times >= soaking.start - 1e-9) & (run.times <= soaking.end + 1e-9))
    series = run.series
    return run.times[inside], (series[SOAK_PLACE] - series[SOAK_AIR])[inside]


def _rate_of(usual: CoolingCurve, moved: CoolingCurve) -> float:
    """What share of a change of the block's loss goes into the rate [-]."""
    high, low = float(usual.values[0]), float(usual.values[-1])
    levels = np.linspace(high - 0.1 * (high - low), low + 0.15 * (high - low), LEVELS)
    pairs = [(usual.when(level), moved.when(level)) for level in levels]
    ratios = [one / other for one, other in pairs if one and other]
    return abs(float(np.median(ratios)) - 1.0) / (TRIED - 1.0) if ratios else 1.0

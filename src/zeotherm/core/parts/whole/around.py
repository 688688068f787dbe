"""All numbers the surroundings depend on, in SI, with the 95 % half-width of each."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass, replace

from zeotherm.core.catalogue.enclosures import Occupant
from zeotherm.core.catalogue.entry import Figure
from zeotherm.core.catalogue.fitting import described, fed_volts
from zeotherm.core.catalogue.lookup import take
from zeotherm.core.catalogue.shelves import Catalogue
from zeotherm.core.catalogue.stations import STATIONS
from zeotherm.core.machine.documents import Setup
from zeotherm.core.machine.further import COLLECTIONS, further_of
from zeotherm.core.machine.numbers import in_si
from zeotherm.core.machine.patches import value_at
from zeotherm.core.machine.supplies import FIRST
from zeotherm.core.machine.toolheads import station_of
from zeotherm.core.parts.bed.model.equivalent import BedBody, bed_body
from zeotherm.core.parts.bed.model.inputs import resolve_bed
from zeotherm.core.parts.enclosure.model.equivalent import case_body
from zeotherm.core.parts.enclosure.model.inputs import resolve_chamber
from zeotherm.core.parts.enclosure.model.model import EnclosureAround as ChamberAround
from zeotherm.core.parts.hotend.model.inputs import HotendAir
from zeotherm.core.parts.power.model.inputs import further_w, resolve_path
from zeotherm.core.parts.power.model.supply import at_wall
from zeotherm.core.parts.power.model.volts import lost_late, volts_share
from zeotherm.core.parts.whole.standby import DOUBT as STANDBY_DOUBT
from zeotherm.core.parts.whole.standby import Standby, standby
from zeotherm.core.physics.ventilation import daily_course
from zeotherm.core.solver.axisymmetric import NotConvergedError
from zeotherm.core.solver.plate import NotSettledError


@dataclass(frozen=True, slots=True)
class Sun:
    """Heat from outside between two clock hours [W]."""

    into_wall: bool
    watts: float
    from_h: float
    to_h: float


def extra_heat(suns: tuple[Sun, ...], clock_h: float) -> tuple[float, float]:
    """Heat from outside into the wall and into the air at a clock time, as stated [W]."""
    hour = clock_h % 24.0
    shining = [sun for sun in suns if sun.from_h <= hour < sun.to_h]
    wall = sum(sun.watts for sun in shining if sun.into_wall)
    return wall, sum(sun.watts for sun in shining if not sun.into_wall)


@dataclass(frozen=True, slots=True)
class Around:
    """The surroundings of one machine. Temperatures in °C, clock in hours, all else SI."""

    stated: HotendAir | None  # where the air is given, not computed
    heats: tuple[Sun, ...]

    room_mean: float
    room_swing: float
    room_warmest: float
    heat_share: float  # of the stated extra heat that arrives
    air_heat: float
    wall_heat: float
    inner: float  # lower air to wall
    inner_high: float  # upper air to wall
    outer: float
    leak: float
    between: float  # the halves of the case's air
    bed_rises: float  # share of what the bed gives to the air that reaches the upper half
    stands_open: bool
    case_power: float  # of the case's heater
    case_target: float
    case_sensor: float  # share of the upper air in what its sensor reads
    case_heater_high: float  # share of its watts that reaches the upper air
    case_heater_wall: float  # and the walls
    own_low: float  # of supply and controller board inside, where they sit
    own_high: float
    gap: float  # area that never shuts, of the low openings, and of the high ones
    vent_area: float
    vents_open: float
    vent_rise: float
    vent_discharge: float
    bed_power: float
    bed_heat: float
    bed_to_air: float
    bed_to_wall: float
    bed_target: float
    bed_reads_by: float  # K that its sensor stands above it for a watt
    near_bed: float
    from_room: float
    from_roof: float
    fan_rise: float
    carriage_heat: float
    carriage_air: float
    motor_watts: float
    motor_heat: float
    motor_air: float
    motor_carriage: float
    board_watts: float
    board_heat: float
    board_air: float
    board_carriage: float
    standby: Standby  # of the further hotends
    standby_share: float  # of what they are computed to give that they do
    pressure: float

    def room(self, clock_h: float) -> float:
        """The room's air at a clock time [°C]."""
        return float(daily_course(clock_h, self.room_mean, self.room_swing, self.room_warmest))

    def extra(self, clock_h: float) -> tuple[float, float]:
        """Extra heat into the wall and into the air at a clock time [W]."""
        wall, air = extra_heat(self.heats, clock_h)
        return self.heat_share * wall, self.heat_share * air

    @property
    def openings(self) -> float:
        """Area of the low openings, and of the high ones, as they stand [m²]."""
        return self.gap + self.vent_area * self.vents_open

    @property
    def hours_of_note(self) -> list[float]:
        """Clock hours at which heat from outside begins or ends."""
        return sorted({hour for sun in self.heats for hour in (sun.from_h, sun.to_h)})


@dataclass(frozen=True, slots=True)
class ResolvedAround:
    """Surroundings and the doubt of each number, by its name."""

    around: Around
    doubts: dict[str, float]


QUANTITIES: dict[str, tuple[str, float]] = {
    "room_mean": ("room.mean_c", 1.0),
    "room_swing": ("room.swing_k", 1.0),
    "room_warmest": ("room.warmest_h", 1.0),
    "vents_open": ("case.vents_open_pct", 0.01),
    "bed_target": ("bed.target_c", 1.0),
    "motor_watts": ("carriage.motor_w", 1.0),
    "board_watts": ("carriage.board_w", 1.0),
    "pressure": ("surroundings.pressure_kpa", 1e3),
}
ASSUMPTIONS = {
    "near_bed": "near_bed", "carriage_heat": "carriage_heat", "carriage_air": "carriage_air",
    "motor_heat": "motor_heat", "motor_air": "motor_air", "motor_carriage": "motor_carriage",
    "board_heat": "board_heat", "board_air": "board_air", "board_carriage": "board_carriage",
    "vent_discharge": "vent_discharge",
}  # fmt: skip
CASE_DOUBTS = {  # films and layers
    "air_heat": 0.15, "wall_heat": 0.25, "inner": 0.2, "inner_high": 0.2, "outer": 0.2, "leak": 0.25, "between": 0.5,
}  # fmt: skip
HOTEND_SHARE = 0.4  # of its heater's watts that a hotend gives off late in a print: estimate
LOSS_SHARE = 0.12  # of what a supply passes on that it gives off itself: estimate, 0.08 to 0.18
ELECTRONICS_DOUBT = 0.5  # of what both give off
KEPT_WITHIN = {
    "vents_open": (0.0, 1.0), "from_room": (0.0, 1.0), "from_roof": (0.0, 1.0), "near_bed": (0.0, 1.0),
    "vent_area": (0.0, 10.0),
}  # fmt: skip


def resolve_around(setup: Setup, catalogue: Catalogue, tolerances: dict[str, float] | None = None) -> ResolvedAround:
    """Look up case, bed and air source, convert to SI, gather the doubts.

    Raises DoesNotFitError, and NotConvergedError where the case finds no rest.
    """
    take(catalogue, "fan_rules", setup.schedule.fan_after, "schedule.fan_after")
    known = tolerances or {}
    resolved_case = resolve_chamber(setup, catalogue, tolerances)
    resolved_bed = resolve_bed(setup, catalogue, tolerances)
    bed = bed_body(resolved_bed.inputs)
    inside, shares = resolved_case.inputs, resolved_case.doubts
    try:
        case = case_body(inside, late_in_print(setup, bed, catalogue))
    except NotSettledError as wrong:
        raise NotConvergedError(f"the case: {wrong}") from None
    low, high = electronics(setup, bed, catalogue)
    source = take(catalogue, "air_sources", setup.surroundings.air_from, "surroundings.air_from")
    figures: dict[str, tuple[Figure, float]] = {
        "bed_to_air": (catalogue.assumptions["bed_to_air"].figure, bed.to_air),
        "bed_to_wall": (catalogue.assumptions["bed_to_wall"].figure, bed.to_wall),
        "from_room": (source.from_room, 1.0), "from_roof": (source.from_roof, 1.0),
        "fan_rise": (source.rise_k, 1.0),
    }  # fmt: skip
    figures |= {name: (catalogue.assumptions[key].figure, 1.0) for name, key in ASSUMPTIONS.items()}
    values = {name: figure.value * scale for name, (figure, scale) in figures.items()}
    doubts = {name: figure.tolerance * scale for name, (figure, scale) in figures.items()}
    values["bed_power"], values["bed_heat"], values["bed_reads_by"] = bed.power, bed.heat, bed.reads_by
    doubts["bed_power"] = bed.power * resolved_bed.doubts.get("heater", 0.0) / max(resolved_bed.inputs.heater, 1.0)
    doubts["bed_heat"] = bed.heat * resolved_bed.doubts["mass"]
    values |= {
        "air_heat": case.air, "wall_heat": case.wall, "inner": case.inner, "outer": case.outer, "leak": case.leak,
        "inner_high": case.inner_high, "between": case.between, "bed_rises": case.bed_rises,
        "case_power": case.heater, "case_target": inside.target,
        "case_sensor": inside.sensor_weight, "own_low": low, "own_high": high, "gap": 0.5 * inside.gap,
        "vent_area": inside.vent, "vent_rise": inside.rise,
    }  # fmt: skip
    doubts |= {name: share * values[name] for name, share in CASE_DOUBTS.items()}
    doubts |= {"own_low": ELECTRONICS_DOUBT * low, "own_high": ELECTRONICS_DOUBT * high}
    if values["case_power"] > 0.0:
        doubts["case_power"] = math.hypot(shares.get("heater", 0.0), shares.get("second", 0.0))
        doubts["case_target"] = shares["target"]
    doubts |= {"gap": 0.5 * shares.get("gap", 0.0), "vent_area": shares.get("vent", 0.0),
               "vent_rise": shares.get("rise", 0.0)}  # fmt: skip
    told, widths = in_si(setup, QUANTITIES, known)
    values, doubts = values | told, doubts | widths
    heats = setup.heats.values()
    total = sum(heat.watts for heat in heats)
    values["heat_share"] = 1.0
    doubts["heat_share"] = sum(heat.watts * heat.relative_tolerance for heat in heats) / total if total else 0.0
    values["standby_share"], doubts["standby_share"] = 1.0, STANDBY_DOUBT if setup.toolheads else 0.0
    where = setup.surroundings
    around = Around(
        stated=HotendAir(where.fan_air_c, where.block_air_c, where.mount_c) if source.stated else None,
        stands_open=inside.stands_open,
        case_heater_high=case.heater_high,
        case_heater_wall=case.heater_wall,
        heats=_suns(setup),
        standby=standby(setup, catalogue),
        **values,
    )
    doubts.pop("pressure")  # the hotend's own inputs carry it
    return ResolvedAround(around, {name: width for name, width in doubts.items() if width > 0.0})


def held_in(
    setup: Setup, bed: BedBody, own: tuple[float, float], room: float, plate: float, hotend: float,
    sun: tuple[float, float], *, on: bool = True,
) -> ChamberAround:  # fmt: skip
    """What a case holds at one moment: the hotend's heat where the print is, motors and electronics at their height.

    own: what the electronics give off, low and high [W]; temperatures of room and plate [°C]; hotend: its watts; sun:
    extra heat into wall and air [W]; on: whether the machine is switched on.
    """
    low, high = own if on else (0.0, 0.0)
    low += hotend + sun[1] + (setup.carriage.motor_w + setup.carriage.board_w) * on
    return ChamberAround(
        room, plate, bed.up_air, bed.down_air, bed.up_wall, bed.down_wall, bed.size, low, high, sun[0]
    )  # fmt: skip


def electronics(setup: Setup, bed: BedBody, catalogue: Catalogue) -> tuple[float, float]:
    """What supply and controller board give off inside a case, low and high, and the way of the power where it is
    described [W]."""
    warm = (one for key, one in occupants_of(setup, catalogue) if key in ("supply", "board"))
    gives = [(str(value_at(setup, one.at)), own_watts(setup, catalogue, one, bed)) for one in warm]
    if described(setup, catalogue):
        path, plate = resolve_path(setup, catalogue).inputs, max(setup.bed.target_c, setup.room.mean_c)
        lost = lost_late(path, setup.room.mean_c, plate, _held(setup, bed))
        places = {"supply": setup.case.supply_at, "board": setup.case.board_at, "machine": "inside_low"}
        gives += [(places[where], watts) for where, watts in lost.items()]
    low, high = 0.0, 0.0
    for where, watts in gives:
        place = take(catalogue, "places", where, "case.supply_at")
        low += place.inside * (1.0 - place.high) * watts
        high += place.inside * place.high * watts
    return low, high


def own_watts(setup: Setup, catalogue: Catalogue, one: Occupant, bed: BedBody | None = None) -> float:
    """What something in or about a case gives off late in a print [W]; bed: where it is known."""
    if one.own_w is not None:
        return one.own_w.value
    number = one.station.rpartition(".")[0] or FIRST
    return supply_watts(setup, bed or bed_body(resolve_bed(setup, catalogue).inputs), catalogue)[number]


def occupants_of(setup: Setup, catalogue: Catalogue) -> Iterator[tuple[str, Occupant]]:
    """What sits in or about a machine's case, by its kind: every one of a kind by itself."""
    yield from catalogue.occupants.items()
    for kind in COLLECTIONS.values():
        for key, first in catalogue.occupants.items():
            if first.at not in kind.like_first:
                continue
            for number in sorted(further_of(setup, kind.key)):
                station = station_of(number, first.station)
                at = f"{kind.key}.{number}.{kind.like_first[first.at]}"
                name = getattr(further_of(setup, kind.key)[number], "name", "")
                label = f"{number} {name}" if name else STATIONS[station].label
                yield key, first.model_copy(update={"station": station, "at": at, "label": label})


def supply_watts(setup: Setup, bed: BedBody, catalogue: Catalogue) -> dict[str, float]:
    """What each supply gives off late in a print [W], by its number: where the path is described, what its efficiency
    leaves of all that hangs on it, else a share of what its loads take then."""
    held = _held(setup, bed)
    if described(setup, catalogue):
        path = resolve_path(setup, catalogue).inputs
        gives = path.on_supplies(1.0, held / max(volts_share(setup, catalogue), 0.5))
        gives[FIRST] += path.beside
        kinds = {FIRST: (path.supply, path.rating)} | {one.number: (one.kind, one.rating) for one in path.supplies}
        return {key: at_wall(kind, gives[key], rating) - gives[key] for key, (kind, rating) in kinds.items()}
    loads = HOTEND_SHARE * (setup.hotend.heater_power_w + further_w(setup, catalogue, fed_volts(setup, catalogue)))
    own = dict.fromkeys((FIRST, *setup.supplies), 0.0)
    own[FIRST] += loads
    own[setup.power.bed_from] += held
    return {number: LOSS_SHARE * watts for number, watts in own.items()}


def _held(setup: Setup, bed: BedBody) -> float:
    """What the bed takes late in a print [W]."""
    wanted = max(setup.bed.target_c - setup.room.mean_c, 0.0)
    return (bed.to_air + bed.to_wall) * wanted if bed.power > 0.0 else 0.0


def late_in_print(setup: Setup, bed: BedBody, catalogue: Catalogue) -> ChamberAround:
    """What a case holds at the end of the print, with its bed at its set value and the room at its mean."""
    plate = max(setup.bed.target_c - bed.reads_by * 0.5 * bed.power, setup.room.mean_c) if bed.power > 0.0 else None
    plan = setup.schedule
    sun = extra_heat(_suns(setup), plan.start_h + (plan.soak_min + plan.print_min) / 60.0 - 0.01)
    room = setup.room.mean_c
    watts = HOTEND_SHARE * setup.hotend.heater_power_w + standby(setup, catalogue).watts(room, room)
    own = electronics(setup, bed, catalogue)
    return held_in(setup, bed, own, room, room if plate is None else plate, watts, sun)


def _suns(setup: Setup) -> tuple[Sun, ...]:
    return tuple(Sun(heat.into == "wall", heat.watts, heat.from_h, heat.to_h) for heat in setup.heats.values())


def check_around(setup: Setup, catalogue: Catalogue) -> None:
    """Whether the parts around a hotend exist and go together, without what they do. Raises DoesNotFitError."""
    resolve_chamber(setup, catalogue)
    resolve_bed(setup, catalogue, solved=False)
    take(catalogue, "air_sources", setup.surroundings.air_from, "surroundings.air_from")
    take(catalogue, "fan_rules", setup.schedule.fan_after, "schedule.fan_after")


def with_number(around: Around, name: str, value: float) -> Around:
    """The surroundings with one number changed, kept within what is possible."""
    low, high = KEPT_WITHIN.get(name, (float("-inf"), float("inf")))
    before = getattr(around, name)
    if before > 0.0 and not name.startswith(("room", "fan_rise", "vents", "from", "near", "bed_target")):
        low = max(low, 0.15 * before)
    return replace(around, **{name: min(max(value, low), high)})  # type: ignore[arg-type]  # the name is of a number

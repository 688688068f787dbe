"""All numbers the surroundings depend on, in SI, with the 95 % half-width of each."""

from __future__ import annotations

from dataclasses import dataclass, replace

from zeotherm.core.catalogue.shelves import Catalogue, Figure
from zeotherm.core.machine.documents import Setup
from zeotherm.core.machine.numbers import in_si
from zeotherm.core.physics.ventilation import daily_course
from zeotherm.core.twin.bed.equivalent import bed_body
from zeotherm.core.twin.bed.inputs import resolve_bed
from zeotherm.core.twin.hotend.inputs import Air, take


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

    stated: Air | None  # where the air is given, not computed
    heats: tuple[Sun, ...]

    room_mean: float
    room_swing: float
    room_warmest: float
    heat_share: float  # of the stated extra heat that arrives
    air_heat: float
    wall_heat: float
    inner: float
    outer: float
    leak: float
    vent_area: float
    vents_open: float
    vent_rise: float
    vent_discharge: float
    bed_power: float
    bed_heat: float
    bed_to_air: float
    bed_to_wall: float
    bed_target: float
    near_bed: float
    from_room: float
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
    pressure: float

    def room(self, clock_h: float) -> float:
        """The room's air at a clock time [°C]."""
        return float(daily_course(clock_h, self.room_mean, self.room_swing, self.room_warmest))

    def extra(self, clock_h: float) -> tuple[float, float]:
        """Extra heat into the wall and into the air at a clock time [W]."""
        wall, air = extra_heat(self.heats, clock_h)
        return self.heat_share * wall, self.heat_share * air

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
KEPT_WITHIN = {"vents_open": (0.0, 1.0), "from_room": (0.0, 1.0), "near_bed": (0.0, 1.0), "vent_area": (0.0, 10.0)}


def resolve_around(setup: Setup, catalogue: Catalogue, tolerances: dict[str, float] | None = None) -> ResolvedAround:
    """Look up case, bed and air source, convert to SI, gather the doubts. Raises DoesNotFitError."""
    known = tolerances or {}
    case = take(catalogue, "cases", setup.case.part, "case.part")
    resolved_bed = resolve_bed(setup, catalogue, tolerances)
    bed = bed_body(resolved_bed.inputs)
    source = take(catalogue, "air_sources", setup.surroundings.air_from, "surroundings.air_from")
    take(catalogue, "fan_rules", setup.schedule.fan_after, "schedule.fan_after")
    figures: dict[str, tuple[Figure, float]] = {
        "air_heat": (case.air_j_k, 1.0), "wall_heat": (case.wall_j_k, 1.0), "inner": (case.inner_w_k, 1.0),
        "outer": (case.outer_w_k, 1.0), "leak": (case.leak_w_k, 1.0), "vent_area": (case.vent_cm2, 1e-4),
        "vent_rise": (case.rise_mm, 1e-3), "bed_to_air": (catalogue.assumptions["bed_to_air"].figure, bed.to_air),
        "bed_to_wall": (catalogue.assumptions["bed_to_wall"].figure, bed.to_wall),
        "from_room": (source.from_room, 1.0), "fan_rise": (source.rise_k, 1.0),
    }  # fmt: skip
    figures |= {name: (catalogue.assumptions[key].figure, 1.0) for name, key in ASSUMPTIONS.items()}
    values = {name: figure.value * scale for name, (figure, scale) in figures.items()}
    doubts = {name: figure.tolerance * scale for name, (figure, scale) in figures.items()}
    values["bed_power"], values["bed_heat"] = bed.power, bed.heat
    doubts["bed_power"] = bed.power * resolved_bed.doubts.get("heater", 0.0) / max(resolved_bed.inputs.heater, 1.0)
    doubts["bed_heat"] = bed.heat * resolved_bed.doubts["mass"]
    told, widths = in_si(setup, QUANTITIES, known)
    values, doubts = values | told, doubts | widths
    heats = setup.heats.values()
    total = sum(heat.watts for heat in heats)
    values["heat_share"] = 1.0
    doubts["heat_share"] = sum(heat.watts * heat.relative_tolerance for heat in heats) / total if total else 0.0
    where = setup.surroundings
    around = Around(
        stated=Air(where.fan_air_c, where.block_air_c, where.mount_c) if source.stated else None,
        heats=tuple(Sun(heat.into == "wall", heat.watts, heat.from_h, heat.to_h) for heat in heats),
        **values,
    )
    doubts.pop("pressure")  # the hotend's own inputs carry it
    return ResolvedAround(around, {name: width for name, width in doubts.items() if width > 0.0})


def with_number(around: Around, name: str, value: float) -> Around:
    """The surroundings with one number changed, kept within what is possible."""
    low, high = KEPT_WITHIN.get(name, (float("-inf"), float("inf")))
    before = getattr(around, name)
    if before > 0.0 and not name.startswith(("room", "fan_rise", "vents", "from", "near", "bed_target")):
        low = max(low, 0.15 * before)
    return replace(around, **{name: min(max(value, low), high)})  # type: ignore[arg-type]  # the name is of a number

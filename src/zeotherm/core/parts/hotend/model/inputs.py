"""All numbers the hotend's field depends on, in SI, with the 95 % half-width of each."""

from __future__ import annotations

import math
from dataclasses import dataclass, field, replace

from zeotherm.core.catalogue.entry import Figure
from zeotherm.core.catalogue.fitting import block_emissivity, check_nozzle, hotend_of, nozzle_emissivity
from zeotherm.core.catalogue.lookup import DoesNotFitError, take
from zeotherm.core.catalogue.seats import in_one_block
from zeotherm.core.catalogue.shelves import (
    AirSource,
    Break,
    Catalogue,
    Direction,
    Drive,
    FanKind,
    Filament,
    HotendShape,
    Joint,
    Sensor,
    Sleeve,
)
from zeotherm.core.machine.documents import Setup
from zeotherm.core.machine.numbers import doubt_of, in_si
from zeotherm.core.machine.toolheads import others_in_front
from zeotherm.core.parts.hotend.model.shape import levels
from zeotherm.core.parts.power.model.volts import heater_volts
from zeotherm.core.physics.electric import heater_power
from zeotherm.core.physics.jamming import buckling_load

MM = 1e-3
NECK_TOLERANCE_MM = 0.4  # of a neck's length that nobody has measured
COLD_END_C = 45.0  # of further hotends in one block
NECK_SHARE, NECK_DOUBT = 0.75, 0.5  # of k A ΔT / L that a neck draws: fields of five breaks give 0.6 to 1.2


@dataclass(frozen=True, slots=True)
class Inputs:
    """One resolved hotend. Temperatures in °C, all else SI; the fields up to `fan_start_v` carry no doubt."""

    shape: HotendShape
    lined: bool
    fan_flow: tuple[float, ...]  # m³/s
    fan_pressure: tuple[float, ...]  # Pa
    fan_area: float  # m²
    fan_rated_v: float
    fan_start_v: float
    sleeved: bool

    fan_air: float
    block_air: float
    mount: float
    pressure: float
    fan_voltage: float
    fan_strength: float
    guard_blocked: float
    guard_open: float
    guard_loss: float  # of computed [-]
    fan_reach: float
    loop: float
    still_from_block: float
    still_from_nozzle: float
    drawn_from_block: float
    facing_emissivity: float
    fin_entry_loss: float
    fin_film: float
    sink_emissivity: float
    nozzle: float
    sensor_offset: float
    flow: float
    retraction: float
    part_fan: float
    jet: float
    block_film: float
    block_emissivity: float
    nozzle_emissivity: float
    sleeve_thickness: float
    sleeve_conductivity: float
    sleeve_emissivity: float
    neck_wall: float
    neck_length: float
    neck_conductivity: float
    sink_side_conductivity: float
    block_side_conductivity: float
    sink_conductivity: float
    block_conductivity: float
    nozzle_conductivity: float
    tube_conductivity: float
    break_capacity: float
    sink_capacity: float
    block_capacity: float
    nozzle_capacity: float
    tube_capacity: float
    block_extra: float  # J/K of cartridge, screws and sensor, over the metal they replace
    sleeve_heat: float  # J/K of a sleeve that follows the block
    sink_extra: float  # J/K of clamp, screws and fan's frame at the sink
    sink_joint: float
    block_joint: float
    nozzle_seat: float
    tube_fit: float
    liner_seat: float
    mount_conductance: float
    clearance: float
    density: float
    strand_conductivity: float
    insert: float  # times that melt in the nozzle takes up heat as in a plain bore [-]
    capacity_solid: float
    capacity_melt: float
    softening: float
    swelling_span: float
    closing_lead: float
    melting: float
    latent: float
    melt_floor: float
    heater_power: float
    liner_expansion: float
    metal_expansion: float
    liner_preload: float
    liner_short: float
    nozzle_gap: float
    drive: float  # N
    open_path: float  # m of strand that nothing guides between drive and tube or bore
    stiffness: float  # Pa, of the strand
    bowed: float  # what a strand off the spool bears, of a straight one
    feed_slack: float
    orifice: float
    feed_flow: float  # that flows, or will again after a pause
    usual_core: float  # of the strand at the exit, as the plastic is usually printed
    retractions: float  # a minute
    left: float  # s to print as it stands: by its standing the feed is judged
    residue: float  # N that earlier retractions left behind, as stated
    skin_share: float
    friction_metal: float
    friction_tube: float
    shear_scale: float
    melt_scale: float
    residue_rate: float  # N a metre of soft length, a retraction
    soft_free: float
    mount_softening: float
    service: float
    fan_service: float

    @property
    def buckles(self) -> float:
        """Push under which the strand gives way between drive and bore [N]."""
        return self.bowed * float(buckling_load(self.stiffness, MM * self.shape.strand_d, self.open_path))

    @property
    def most_push(self) -> float:
        """What the drive gives and the filament bears [N]."""
        return min(self.drive, self.buckles)

    @property
    def may_buckle(self) -> bool:
        """Whether that may come before the drive slips."""
        return self.buckles < MAY_BUCKLE * self.drive

    def in_air(self, air: HotendAir) -> Inputs:
        """The same hotend in other air."""
        return replace(self, fan_air=air.fan, block_air=air.block, mount=air.mount)


@dataclass(frozen=True, slots=True)
class HotendAir:
    """What a hotend stands in at one moment [°C], or a difference of two such [K]."""

    fan: float
    block: float
    mount: float

    def inputs(self) -> dict[str, float]:
        """By the names of the inputs."""
        return {"fan_air": self.fan, "block_air": self.block, "mount": self.mount}


@dataclass(frozen=True, slots=True)
class Shift:
    """What a doubt of the surroundings, at its half-width, does at one moment [K]: to the air, to stations there."""

    air: HotendAir
    stations: dict[str, float]


@dataclass(frozen=True, slots=True)
class Resolved:
    """Inputs, the doubt of each (by field name, 95 % half-width), and what the limits refer to.

    airs: doubts of the surroundings, where the air is computed.
    """

    inputs: Inputs
    doubts: dict[str, float]
    figures: dict[str, tuple[str, Figure | None]]  # limit path -> (input's name, the figure it came from)
    airs: dict[str, Shift] = field(default_factory=dict)

    @property
    def buckles_width(self) -> float:
        """95 % half-width of the logarithm of the push under which the strand gives way [-]."""
        path, stiff = (self.doubts.get(name, 0.0) / getattr(self.inputs, name) for name in ("open_path", "stiffness"))
        return math.hypot(2.0 * path, stiff, self.doubts.get("bowed", 0.0))

    def in_air(self, air: HotendAir, airs: dict[str, Shift]) -> Resolved:
        """The same in computed air, whose doubts take the place of the stated air's."""
        doubts = {name: width for name, width in self.doubts.items() if name not in air.inputs()}
        return replace(self, inputs=self.inputs.in_air(air), doubts=doubts, airs=airs)


# Quantities of the setup by the input they become: path and scale to SI.
QUANTITIES: dict[str, tuple[str, float]] = {
    "fan_air": ("surroundings.fan_air_c", 1.0),
    "block_air": ("surroundings.block_air_c", 1.0),
    "mount": ("surroundings.mount_c", 1.0),
    "pressure": ("surroundings.pressure_kpa", 1e3),
    "fan_voltage": ("fan.voltage_v", 1.0),
    "guard_blocked": ("fan.guard_blocked_pct", 0.01),
    "fin_film": ("corrections.fin_film", 1.0),
    "block_film": ("corrections.block_film", 1.0),
    "nozzle": ("printing.nozzle_c", 1.0),
    "sensor_offset": ("hotend.sensor_offset_k", 1.0),
    "flow": ("printing.flow_mm3_s", 1e-9),
    "retraction": ("printing.retraction_mm", MM),
    "part_fan": ("printing.part_fan_pct", 0.01),
    "liner_preload": ("hotend.liner_preload_mm", MM),
    "liner_short": ("hotend.liner_short_mm", MM),
    "nozzle_gap": ("hotend.nozzle_gap_mm", MM),
    "orifice": ("hotend.nozzle_mm", MM),
    "open_path": ("hotend.open_path_mm", MM),
    "feed_flow": ("printing.flow_mm3_s", 1e-9),
}
FEED_FACTORS = frozenset({"shear_scale", "melt_scale", "residue_rate", "bowed"})
FACTORED = FEED_FACTORS | {"guard_loss"}  # doubts by a factor, noted as its logarithm
FEEDS = frozenset(  # what the feed alone depends on, not the field
    {"drive", "feed_slack", "orifice", "feed_flow", "skin_share", "friction_metal", "friction_tube", "soft_free",
     "retraction", "open_path", "stiffness", *FEED_FACTORS}
)  # fmt: skip
MAY_BUCKLE = 2.0  # of the drive's push, below which a strand's buckling is looked at
USUAL_CORE_K = 7.0  # by which a strand's core stays below its nozzle, as plastics are usually printed
ASSUMPTIONS: dict[str, tuple[str, float]] = {
    "block_joint": ("block_thread", 1.0),
    "nozzle_seat": ("nozzle_seat", 1.0),
    "tube_fit": ("tube_fit", 1.0),
    "liner_seat": ("liner_seat", 1.0),
    "clearance": ("clearance", MM),
    "block_extra": ("block_extra", 1.0),
    "sink_extra": ("sink_extra", 1.0),
    "closing_lead": ("closing_lead", 1.0),
    "still_from_block": ("still_from_block", 1.0),
    "still_from_nozzle": ("still_from_nozzle", 1.0),
    "facing_emissivity": ("facing_emissivity", 1.0),
    "mount_conductance": ("mount", 1.0),
    "jet": ("jet", 1.0),
    "fin_entry_loss": ("fin_entry_loss", 1.0),
    "guard_open": ("guard_open_share", 1.0),
    "guard_loss": ("guard_loss", 1.0),
    "sink_emissivity": ("sink_emissivity", 1.0),
    "skin_share": ("skin_share", 1.0),
    "friction_metal": ("friction_metal", 1.0),
    "friction_tube": ("friction_tube", 1.0),
    "shear_scale": ("shear_scale", 1.0),
    "melt_scale": ("melt_scale", 1.0),
    "residue_rate": ("residue_rate", 1e3),
    "soft_free": ("soft_free", MM),
    "bowed": ("strand_bowed", 1.0),
}
FILAMENT: dict[str, str] = {
    "density": "density_kg_m3",
    "strand_conductivity": "conductivity_w_mk",
    "capacity_solid": "capacity_solid_j_kgk",
    "capacity_melt": "capacity_melt_j_kgk",
    "softening": "softening_c",
    "swelling_span": "swelling_span_k",
    "melting": "melting_c",
    "latent": "latent_j_kg",
    "melt_floor": "melt_floor_c",
}


def resolve(
    setup: Setup, catalogue: Catalogue, tolerances: dict[str, float] | None = None, *, solved: bool = True
) -> Resolved:
    """Look up every part, convert to SI, gather the doubts.

    tolerances: better known 95 % half-widths by path of the quantity, in its unit; solved: whether the power path is
    solved for the volts that reach the heater, else it is only looked up. Raises DoesNotFitError.
    """
    known = tolerances or {}
    parts = _parts(setup, catalogue)
    shape, fitted = parts.shape, parts.heat_break
    figures: dict[str, tuple[Figure, float]] = {
        name: (catalogue.assumptions[key].figure, scale) for name, (key, scale) in ASSUMPTIONS.items()
    }
    figures |= {name: (getattr(parts.filament, key), 1.0) for name, key in FILAMENT.items()}
    solids = {
        "neck": fitted.neck, "sink_side": fitted.sink_side, "block_side": fitted.block_side,
        "sink": "aluminium_alloy", "block": shape.block_material, "nozzle": shape.nozzle_material, "tube": "ptfe",
    }  # fmt: skip
    materials = {role: take(catalogue, "materials", name, "hotend.break_part") for role, name in solids.items()}
    figures |= {f"{role}_conductivity": (material.conductivity_w_mk, 1.0) for role, material in materials.items()}
    figures |= {
        f"{role}_capacity": (materials["neck" if role == "break" else role].capacity_j_m3k, 1.0)
        for role in ("break", "sink", "block", "nozzle", "tube")
    }
    figures |= {
        "block_emissivity": (block_emissivity(setup, catalogue), 1.0),
        "nozzle_emissivity": (nozzle_emissivity(setup, catalogue), 1.0),
        "liner_expansion": (materials["tube"].expansion_per_k, 1.0),
        "metal_expansion": (materials["neck"].expansion_per_k, 1.0),
        "sink_joint": (parts.joint.conductance_w_m2k, 1.0),
        "sleeve_thickness": (parts.sleeve.thickness_mm, MM),
        "sleeve_conductivity": (parts.sleeve.conductivity_w_mk, 1.0),
        "sleeve_heat": (parts.sleeve.heat_j_k, 1.0),
        "sleeve_emissivity": (parts.sleeve.emissivity, 1.0),
        "fan_reach": (parts.direction.reach, parts.source.reach.value),
        "drawn_from_block": (parts.direction.drawn, 1.0),
        "loop": (parts.source.loop_w_k, 1.0),
        "neck_length": (fitted.neck_length_mm or _usual_neck(shape), MM),
        "drive": (parts.drive.push_n, 1.0),
        "stiffness": (parts.filament.stiffness, 1e6),
        "feed_slack": (parts.drive.slack_mm, MM),
        "mount_softening": (parts.mount.softening_c, 1.0),
        "fan_service": (parts.fan.service_c, 1.0),
    }
    tip = take(catalogue, "nozzles", setup.hotend.nozzle, "hotend.nozzle")
    services = [parts.sensor.service_c, parts.sleeve.service_c, *([tip.service_c] if tip.service_c is not None else [])]
    if tip.insert_gain is not None:
        figures["insert"] = (tip.insert_gain, 1.0)
    weakest = min(services, key=lambda figure: figure.value)
    figures["service"] = (weakest, 1.0)

    values = {name: figure.value * scale for name, (figure, scale) in figures.items()}
    doubts = {name: figure.tolerance * scale for name, (figure, scale) in figures.items()}
    told, widths = in_si(setup, QUANTITIES, known)
    values, doubts = values | told, doubts | widths
    wall = fitted.neck_wall_mm
    values["neck_wall"] = wall.value * setup.hotend.neck_wall_factor * MM
    measured = doubt_of(setup, "hotend.neck_wall_factor", known) * wall.value * MM
    stated = setup.hotend.neck_wall_factor != 1.0 or "hotend.neck_wall_factor" in known
    doubts["neck_wall"] = measured if stated else wall.tolerance * MM
    values.setdefault("insert", 1.0)
    values |= {
        "usual_core": parts.filament.nozzle_c.value - USUAL_CORE_K,
        "retractions": setup.schedule.retractions_per_min,
        "left": setup.schedule.print_min * 60.0,
        "residue": 0.0,
    }
    doubts |= {
        name: math.log(catalogue.assumptions[key].factor)
        for name, (key, _scale) in ASSUMPTIONS.items()
        if name in FACTORED
    }
    values["fan_strength"], doubts["fan_strength"] = 1.0, parts.fan.curve_tolerance
    hotend = setup.hotend
    volts, volts_doubt = heater_volts(setup, catalogue, known, solved=solved)
    arrives = catalogue.assumptions["heater_share"].figure
    values["heater_power"] = arrives.value * heater_power(hotend.heater_power_w, hotend.heater_rated_v, volts)
    rating = doubt_of(setup, "hotend.heater_power_w", known) / hotend.heater_power_w
    doubts["heater_power"] = values["heater_power"] * (rating + 2 * volts_doubt / volts + arrives.tolerance)
    drawn = _drawn_by_necks(setup, catalogue)
    values["heater_power"] = max(values["heater_power"] - drawn, 0.0)
    doubts["heater_power"] += NECK_DOUBT * drawn

    inputs = Inputs(
        shape=shape,
        lined=shape.tube_end == "nozzle",
        fan_flow=tuple(flow / 3600.0 for flow in parts.fan.flow_m3_h),
        fan_pressure=parts.fan.pressure_pa,
        fan_area=0.7 * (parts.fan.size_mm * MM) ** 2,
        fan_rated_v=parts.fan.rated_v,
        fan_start_v=parts.fan.start_v,
        sleeved=parts.sleeve.thickness_mm.value > 0.0,
        **values,
    )
    return Resolved(inputs, {name: width for name, width in doubts.items() if width > 0.0}, {
        "filament.softening_c": ("softening", parts.filament.softening_c),
        "filament.melt_floor_c": ("melt_floor", parts.filament.melt_floor_c),
        "mount_plastic.softening_c": ("mount_softening", parts.mount.softening_c),
        "weakest_service_c": ("service", weakest),
        "fan.service_c": ("fan_service", parts.fan.service_c),
        "heater_available_w": ("heater_power", None),
        "strand_bears_n": ("buckles", parts.filament.stiffness),
    })  # fmt: skip


def _drawn_by_necks(setup: Setup, catalogue: Catalogue) -> float:
    """What the necks of further hotends in the same block draw out of its heater [W]: 0.75 k A (T - T_cold) / L each.

    Fourier's law for a thin tube between a block at the set value and a cold end that is taken to be `COLD_END_C`; its
    ends stand between the two, and strand and liner carry some: the share is that of solved fields, ±50 %.
    """
    drawn = 0.0
    for number, other in others_in_front(setup):
        if in_one_block(setup, number, catalogue):
            given = resolve(other.model_copy(update={"toolheads": {}}), catalogue, solved=False).inputs
            at = levels(given.shape, given.neck_wall, given.neck_length)
            area = math.pi * (at.neck_outer**2 - (at.neck_outer - given.neck_wall) ** 2)
            drawn += (
                NECK_SHARE * given.neck_conductivity * area / given.neck_length * (setup.printing.nozzle_c - COLD_END_C)
            )
    return drawn


def _usual_neck(shape: HotendShape) -> Figure:
    """Length of a neck that nobody has measured [mm]."""
    return Figure(value=shape.neck, tolerance=NECK_TOLERANCE_MM, source="estimate", confidence="medium")


@dataclass(frozen=True, slots=True)
class _Parts:
    shape: HotendShape
    heat_break: Break
    joint: Joint
    sleeve: Sleeve
    sensor: Sensor
    fan: FanKind
    direction: Direction
    source: AirSource
    filament: Filament
    mount: Filament
    drive: Drive


def _parts(setup: Setup, catalogue: Catalogue) -> _Parts:
    hotend = setup.hotend
    check_nozzle(setup, catalogue)
    shape = hotend_of(setup, catalogue)
    fitted = take(catalogue, "breaks", hotend.break_part, "hotend.break_part")
    if fitted.bore != shape.bore:
        wants = ", ".join(part.label for part in catalogue.breaks.values() if part.bore == shape.bore)
        raise DoesNotFitError("hotend.break_part", f"{fitted.label} does not fit {shape.label}. It takes: {wants}.")
    return _Parts(
        shape,
        fitted,
        take(catalogue, "joints", hotend.sink_joint, "hotend.sink_joint"),
        take(catalogue, "sleeves", hotend.sleeve, "hotend.sleeve"),
        take(catalogue, "sensors", hotend.sensor, "hotend.sensor"),
        take(catalogue, "fans", setup.fan.part, "fan.part"),
        take(catalogue, "directions", setup.fan.direction, "fan.direction"),
        take(catalogue, "air_sources", setup.surroundings.air_from, "surroundings.air_from"),
        take(catalogue, "filaments", setup.printing.filament, "printing.filament"),
        take(catalogue, "filaments", setup.surroundings.mount_plastic, "surroundings.mount_plastic"),
        take(catalogue, "drives", hotend.drive, "hotend.drive"),
    )

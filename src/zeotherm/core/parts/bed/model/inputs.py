"""All numbers that a bed's field depends on, in SI, with the 95 % half-width of each."""

from __future__ import annotations

from dataclasses import dataclass, replace

from zeotherm.core.catalogue.entry import Figure, Layer
from zeotherm.core.catalogue.lookup import DoesNotFitError, take
from zeotherm.core.catalogue.shelves import BedShape, Catalogue, Material
from zeotherm.core.machine.documents import Setup
from zeotherm.core.machine.numbers import doubt_of, in_si
from zeotherm.core.parts.hotend.model.inputs import MM
from zeotherm.core.parts.power.model.volts import volts_share

PLATE, HEATER = "plate", "heater"


@dataclass(frozen=True, slots=True)
class Slab:
    """One layer, in SI."""

    name: str
    label: str
    thickness: float
    conductivity: float  # through it
    along: float  # and along
    capacity: float  # J/m³K
    service: Figure | None

    @property
    def resistance(self) -> float:
        """Across it [m²K/W]."""
        return self.thickness / self.conductivity


@dataclass(frozen=True, slots=True)
class BedAir:
    """What a bed stands in at one moment [°C]."""

    above: float
    below: float
    around: float  # what it sees: walls, or the room


@dataclass(frozen=True, slots=True)
class BedInputs:
    """One resolved bed. Temperatures in °C, all else SI; the fields up to `mounts` carry no doubt."""

    shape: BedShape
    slabs: tuple[Slab, ...]  # from the underside up, insulation left out
    insulated: bool
    cover_outer: float
    cover_inner: float
    mounts: int
    insulation_service: Figure

    target: float
    aim: float
    wanted: float
    heater: float  # W when cold, at the volts that arrive
    ohms_per_k: float
    sensor_x: float
    sensor_y: float
    sensor_depth: float
    insulation: float
    insulation_conductivity: float
    insulation_capacity: float
    insulation_emissivity: float
    clearance: float
    sag: float
    lifted: float  # the heater at its wires
    face_emissivity: float
    under_emissivity: float
    film: float
    mass: float
    spread_factor: float  # on the plate's sideways conduction
    up_factor: float  # on the resistance between plate and face
    heater_factor: float  # on the resistance between heater and plate
    draught: float
    covered: float
    cover_resistance: float
    mount: float
    rim_film: float
    pressure: float
    release: float
    room: float

    @property
    def in_room(self) -> BedAir:
        """An open bed in its room."""
        return BedAir(self.room, self.room, self.room)

    @property
    def plate_at(self) -> int:
        """Which slab spreads the heat: the plate, or the heater's board where there is none."""
        return next((n for n, slab in enumerate(self.slabs) if slab.name == PLATE), 0)

    @property
    def has_heater(self) -> bool:
        """Whether a heater lies under the plate, or is the plate."""
        return self.slabs[0].name == HEATER


@dataclass(frozen=True, slots=True)
class ResolvedBed:
    """Inputs, and the doubt of each by its name (95 %)."""

    inputs: BedInputs
    doubts: dict[str, float]


QUANTITIES: dict[str, tuple[str, float]] = {
    "target": ("bed.target_c", 1.0),
    "aim": ("bed.aim_c", 1.0),
    "wanted": ("bed.wanted_min", 60.0),
    "sensor_x": ("bed.sensor_x_mm", MM),
    "sensor_y": ("bed.sensor_y_mm", MM),
    "insulation": ("bed.insulation_mm", MM),
    "clearance": ("bed.clearance_mm", MM),
    "sag": ("bed.sag_mm", MM),
    "lifted": ("bed.lifted_mm", MM),
    "film": ("corrections.bed_film", 1.0),
    "mass": ("corrections.bed_mass", 1.0),
    "draught": ("bed.draught_m_s", 1.0),
    "covered": ("bed.covered_pct", 0.01),
    "pressure": ("surroundings.pressure_kpa", 1e3),
    "room": ("room.mean_c", 1.0),
}
ASSUMPTIONS = {
    "mount": "bed_mount", "rim_film": "bed_rim_film", "cover_resistance": "printed_cover", "release": "bed_release",
}  # fmt: skip
NO_DOUBT = ("wanted", "aim", "clearance", "sag", "release", "pressure", "mount")
SPREAD_DOUBT = 0.08  # of the plate's conduction and thickness together


def resolve_bed(
    setup: Setup, catalogue: Catalogue, tolerances: dict[str, float] | None = None, *, solved: bool = True
) -> ResolvedBed:
    """Look up kind, sheet and insulation, convert to SI, gather the doubts.

    tolerances: better known 95 % half-widths by path, in the path's unit; solved: whether the volts that its power path
    leaves are, else the stated ones serve, as to check that parts fit. Raises DoesNotFitError: an unknown part, a
    sensor off the plate.
    """
    known = tolerances or {}
    bed = setup.bed
    shape: BedShape = take(catalogue, "beds", bed.part, "bed.part")
    kind = take(catalogue, "bed_heaters", shape.heater.kind, "bed.part")
    sheet = take(catalogue, "sheets", bed.sheet, "bed.sheet")
    insulation = take(catalogue, "insulations", bed.insulation, "bed.insulation")
    cover = take(catalogue, "covers", bed.cover, "bed.cover")
    _check_sensor(setup, shape)
    if bed.lifted_mm > 0.0 and shape.heater.wires is None:
        raise DoesNotFitError("bed.lifted_mm", "this heater is one with its board: nothing there can lift off.")
    layers = (*shape.layers, *sheet.layers)
    slabs = tuple(_slab(layer, catalogue.materials[layer.material]) for layer in layers)
    values, doubts = in_si(setup, QUANTITIES, known)
    figures: dict[str, Figure] = {name: catalogue.assumptions[key].figure for name, key in ASSUMPTIONS.items()}
    top, bottom = (catalogue.materials[layers[n].material] for n in (-1, 0))
    figures |= {
        "ohms_per_k": kind.ohms_per_k,
        "face_emissivity": top.emissivity,
        "under_emissivity": bottom.emissivity,
        "insulation_conductivity": insulation.conductivity_w_mk,
        "insulation_capacity": insulation.capacity_j_m3k,
        "insulation_emissivity": insulation.emissivity,
    }
    for name, figure in figures.items():
        values[name], doubts[name] = figure.value, figure.tolerance
    share = volts_share(setup, catalogue, solved=solved) if shape.heater.power_w > 0.0 else 0.0
    values["heater"] = bed.heater_w * share**2
    volts = 2.0 * values["heater"] * doubt_of(setup, "bed.volts_pct", known) / bed.volts_pct
    doubts["heater"] = doubt_of(setup, "bed.heater_w", known) * share**2 + volts
    values["sensor_depth"], doubts["sensor_depth"] = shape.sensor_depth, 0.25
    at = next((n for n, slab in enumerate(slabs) if slab.name == PLATE), 0)
    materials = [catalogue.materials[layer.material] for layer in layers]
    values |= {"spread_factor": 1.0, "up_factor": 1.0, "heater_factor": 1.0}
    doubts |= {
        "spread_factor": SPREAD_DOUBT,
        "up_factor": _relative(slabs[at + 1 :], materials[at + 1 :]),
        "heater_factor": _relative(slabs[:at], materials[:at]),
    }
    insulated = bed.insulation != "none"
    for name in ("insulation", "insulation_conductivity", "insulation_emissivity"):
        doubts[name] *= insulated
    for name in (*NO_DOUBT, "insulation_capacity"):
        doubts.pop(name)
    inputs = BedInputs(
        shape=shape, slabs=slabs, insulated=insulated, cover_outer=cover.outer, cover_inner=cover.inner,
        mounts=shape.mounts, insulation_service=insulation.service_c, **values,
    )  # fmt: skip
    return ResolvedBed(inputs, {name: width for name, width in doubts.items() if width > 0.0})


def _check_sensor(setup: Setup, shape: BedShape) -> None:
    bed = setup.bed
    for path, at, side in (
        ("bed.sensor_x_mm", bed.sensor_x_mm, shape.width_mm),
        ("bed.sensor_y_mm", bed.sensor_y_mm, shape.depth_mm),
    ):
        if abs(at) >= 0.5 * side:
            raise DoesNotFitError(
                path, f"{at:g} mm from the middle is off the plate, which ends {0.5 * side:g} mm from it."
            )
    reach = (bed.sensor_x_mm / shape.width_mm) ** 2 + (bed.sensor_y_mm / shape.depth_mm) ** 2
    if shape.outline == "round" and reach >= 0.25:
        raise DoesNotFitError("bed.sensor_x_mm", "there is no plate at that place: the bed is round.")


def _slab(layer: Layer, material: Material) -> Slab:
    along = material.along_w_mk or material.conductivity_w_mk
    return Slab(
        layer.name, material.label, layer.mm * MM, material.conductivity_w_mk.value, along.value,
        material.capacity_j_m3k.value, material.service_c,
    )  # fmt: skip


def _relative(slabs: tuple[Slab, ...], materials: list[Material]) -> float:
    """Doubt of some layers' resistance together, as a share of it [-]: their conductivities, and 10 % of thickness."""
    whole = sum(slab.resistance for slab in slabs)
    if whole <= 0.0:
        return 0.0
    return float(
        sum(
            slab.resistance / whole * (material.conductivity_w_mk.tolerance / material.conductivity_w_mk.value + 0.1)
            for slab, material in zip(slabs, materials, strict=True)
        )
    )


def with_bed_number(inputs: BedInputs, name: str, value: float) -> BedInputs:
    """The bed with one number changed, kept within what is possible."""
    before = getattr(inputs, name)
    if before > 0.0 and name not in ("target", "room", "sensor_x", "sensor_y"):
        value = max(value, 0.15 * before)
    if name.endswith("emissivity") or name in ("covered", "sensor_depth"):
        value = min(max(value, 0.0), 1.0)
    return replace(inputs, **{name: value})  # type: ignore[arg-type]  # the name is of a number

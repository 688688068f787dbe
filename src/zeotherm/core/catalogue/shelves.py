"""What stands on each shelf, and how it is read."""

from __future__ import annotations

import itertools
import json
from functools import cache, cached_property, lru_cache
from hashlib import blake2b
from importlib.resources import files
from typing import Annotated, Any, Literal

import tomli  # compiled, where the standard library's takes three times as long
from pydantic import Field, JsonValue, model_validator

from zeotherm.core.catalogue.alike import with_likes
from zeotherm.core.catalogue.arrivals import Card, Complaint, FirstReading, FrameKind, MachineKind
from zeotherm.core.catalogue.enclosures import (
    OWN,
    CaseShape,
    HeaterPlace,
    Lining,
    Occupant,
    PanelKind,
    Place,
    Protection,
)
from zeotherm.core.catalogue.entry import Alike, Entry, Figure, Layer, Positive
from zeotherm.core.catalogue.further import with_further
from zeotherm.core.catalogue.knowledge import (
    ANY,
    HOTEND,
    Askable,
    Cause,
    Check,
    Contradiction,
    Domain,
    Fact,
    Instrument,
    IntakeQuestion,
    Reference,
    RemedyComparison,
    Said,
    Sound,
    TroubleKind,
)
from zeotherm.core.catalogue.measuring import Channel, Condition, FigureKind, Kind, Protocol
from zeotherm.core.catalogue.own import OwnKind
from zeotherm.core.catalogue.power import (
    ConductorSize,
    ContactKind,
    ContactState,
    FuseKind,
    Motion,
    PowerPath,
    PowerSource,
    SupplyKind,
    Switch,
    Terminals,
    WireDuty,
    WireInsulation,
    WireMetal,
    WiringFault,
)
from zeotherm.core.catalogue.procedures import (
    Emergency,
    HeatRule,
    HeatSource,
    Procedure,
    Recheck,
    StateKind,
    Step,
    Touch,
    WorkChoice,
    check_procedures,
)
from zeotherm.core.catalogue.toolheads import with_toolheads
from zeotherm.core.machine.patches import merge_patch

RIGID_MPA = 2000.0  # modulus of a rigid plastic
USUAL_K = 15.0  # to either side of a plastic's usual nozzle temperature, where its range is not stated


def _estimate(value: float, tolerance: float) -> Figure:
    return Figure(value=value, tolerance=tolerance, source="estimate", confidence="low")


class Material(Entry):
    """A solid."""

    label: str
    conductivity_w_mk: Positive
    along_w_mk: Positive | None = None  # of a board that conducts better along than through
    capacity_j_m3k: Positive
    expansion_per_k: Figure
    emissivity: Positive
    service_c: Figure | None = None  # of what is held hot for long


class Sold(Entry):
    """What can be bought for a hotend."""

    price: Annotated[float, Field(ge=0)] | None = None  # rough, in the shop's currency; none: not known
    grams: Annotated[float, Field(ge=0)] | None = None  # on the carriage; none: not known


class Drive(Alike, Sold):
    """What pushes the filament."""

    label: str
    push_n: Positive  # before it grinds or skips [N]
    slack_mm: Figure  # of a retraction that its tube swallows


class Filament(Alike):
    """A polymer as strand and melt."""

    label: str
    density_kg_m3: Positive
    conductivity_w_mk: Positive
    capacity_solid_j_kgk: Positive
    capacity_melt_j_kgk: Positive
    softening_c: Figure
    swelling_span_k: Positive
    melting_c: Figure
    latent_j_kg: Figure
    melt_floor_c: Figure
    pull_low_c: Figure  # where a cold strand lets go of the bore: the low and the high end of the practised band
    pull_high_c: Figure
    nozzle_c: Figure  # usual set value
    air_low_c: Figure  # air at the print between which it prints well
    air_high_c: Figure
    print_low_c: Figure | None = None  # usual set values lie between these
    print_high_c: Figure | None = None
    hottest_c: Figure | None = None  # that it stands in the block for some minutes
    release_c: Figure | None = None  # where a plug of it slides along a warm wall
    stiffness_mpa: Positive | None = None  # of the cold strand, in bending
    abrasive: bool = False  # wears metal out
    bore_mm: Annotated[float, Field(ge=0, le=2)] = 0.0  # that it wants at least; zero: any
    compared: bool = False  # shown where many are compared, whatever is printed

    @property
    def usual_range(self) -> tuple[float, float]:
        """Usual set values [°C]; an own plastic that states none is taken to have its middle ±15."""
        low, high = self.print_low_c, self.print_high_c
        middle = self.nozzle_c.value
        return low.value if low else middle - USUAL_K, high.value if high else middle + USUAL_K

    @property
    def hottest(self) -> Figure:
        """What it stands in the block for some minutes; where nobody told, little more than it is printed at."""
        return self.hottest_c or _estimate(self.usual_range[1] + 2.0 * USUAL_K, USUAL_K)

    @property
    def stiffness(self) -> Figure:
        """Of the cold strand in bending [MPa]; where nobody told, that of a rigid plastic, by a factor of two."""
        return self.stiffness_mpa or _estimate(RIGID_MPA, 0.5 * RIGID_MPA)

    @property
    def release(self) -> Figure:
        """Where a plug of it slides: shortly above softening, of one that crystallises shortly below melting."""
        if self.release_c is not None:
            return self.release_c
        crystals = self.latent_j_kg.value > 2.0 * self.latent_j_kg.tolerance
        return _estimate(self.melting_c.value - 10.0 if crystals else self.softening_c.value + 25.0, 12.0)


class Break(Alike, Sold):
    """A heat break by the materials of its three lengths."""

    label: str
    bore: Literal["metal", "liner"]
    sink_side: str
    neck: str
    block_side: str
    neck_wall_mm: Positive
    neck_length_mm: Positive | None = None  # where it is known; none: the hotend's usual
    no_flame: str = ""  # why no flame may touch it


class Joint(Entry):
    """A way to fit a thread."""

    label: str
    conductance_w_m2k: Positive
    offered: bool = True  # whether anybody would fit it so on purpose


class Sleeve(Alike, Sold):
    """A cover of the block."""

    label: str
    thickness_mm: Figure
    conductivity_w_mk: Positive
    emissivity: Figure
    heat_j_k: Figure  # held, of what follows the block
    service_c: Figure


class HeaterBlock(Sold):
    """What a heater block is made of."""

    label: str
    material: str = ""  # none: as the hotend comes
    emissivity: Figure | None = None  # of a coating


class Nozzle(Alike, Sold):
    """A nozzle by the metal of its body and by its tip."""

    label: str
    material: str = ""  # none: as the hotend comes
    emissivity: Figure | None = None  # of a plating
    service_c: Figure | None = None  # of what is set or soldered into it
    bores_mm: tuple[float, float] = (0.1, 2.0)  # that it is made with
    wear: Literal["soft", "medium", "hard"] = "soft"  # how a filled plastic wears it
    long: bool = False  # for a long melt zone
    tip: Literal["plain", "gem", "insert"] = "plain"  # as the choices of work name it
    insert_gain: Figure | None = None  # times that melt in it takes up heat as in a plain bore [-]

    @model_validator(mode="after")
    def _bores_rise(self) -> Nozzle:
        if not 0.0 < self.bores_mm[0] <= self.bores_mm[1]:
            raise ValueError("bores_mm are the smallest and the largest bore, in mm")
        return self


class Sensor(Alike, Sold):
    """A temperature sensor, with its ohms when cold."""

    label: str
    amplifier: str = ""  # what a board needs to read it
    service_c: Figure
    ohms_25: Annotated[float, Field(gt=0)]
    beta_k: float = 0.0  # of a thermistor
    slope_per_k: float = 0.0  # of a metal element, at 25 °C


class FanKind(Alike, Sold):
    """A fan by its curve."""

    label: str
    kind: Literal["axial", "blower"] = "axial"
    amps: Positive | None = None  # at rated voltage
    noise_dba: Positive | None = None  # at a metre, in free air
    tacho: bool = False  # tells its speed by a third wire
    size_mm: Annotated[float, Field(gt=0)]
    rated_v: Annotated[float, Field(gt=0)]
    start_v: Annotated[float, Field(ge=0)]
    flow_m3_h: tuple[float, ...]
    pressure_pa: tuple[float, ...]
    curve_tolerance: Annotated[float, Field(ge=0, lt=1)]
    service_c: Figure

    @model_validator(mode="after")
    def _curve_runs_down(self) -> FanKind:
        rising = all(a < b for a, b in itertools.pairwise(self.flow_m3_h))
        falling = all(a > b for a, b in itertools.pairwise(self.pressure_pa))
        if len(self.flow_m3_h) != len(self.pressure_pa) or len(self.flow_m3_h) < 2 or not (rising and falling):
            raise ValueError("the fan curve needs as many pressures as flows, flows rising, pressures falling")
        return self


class CartridgeKind(Sold):
    """A heater cartridge by what is stamped on it."""

    label: str
    rated_v: Annotated[float, Field(gt=0)]
    power_w: Positive  # at its rated volts


class BuildSlot(Entry):
    """A place in a hotend that takes one part of a shelf."""

    label: str
    shelf: str
    at: str  # path of what is fitted there
    brings: dict[str, JsonValue] = Field(default_factory=dict)  # what else a new part changes: a merge patch
    known_by: tuple[str, ...] = ()  # further paths without which nobody knows what is in it
    remedies: tuple[str, ...] = ()  # further ways to fill it, by their keys
    minutes: Annotated[float, Field(ge=0)]  # to swap what is in it
    limits: tuple[str, ...] = ()  # that speak of it, by their keys


class Direction(Entry):
    """Which way a fan moves the air."""

    label: str
    reach: Positive
    drawn: Figure  # share of what the block gives to its air that the fan draws in


class Patch(Entry):
    """A rectangle of a bed, by its middle from the bed's middle [mm]."""

    x_mm: float
    y_mm: float
    width_mm: Annotated[float, Field(gt=0)]
    depth_mm: Annotated[float, Field(gt=0)]


class BedHeater(Entry):
    """A bed's heater: kind, cold watts at rated voltage, and where there is none."""

    kind: str
    power_w: Annotated[float, Field(ge=0)]
    rated_v: Annotated[float, Field(gt=0)]
    border_mm: Annotated[float, Field(ge=0)]
    voids: tuple[Patch, ...] = ()
    wires: Patch | None = None  # where its wires may lift it off the plate; none: it cannot come off


LOW_VOLTAGE_V = 60.0  # of direct current, up to which a bed is not one for the mains


class BedShape(Alike):
    """A kind of heated bed; its layers from the underside up."""

    label: str
    outline: Literal["rectangle", "round"]
    width_mm: Annotated[float, Field(ge=40, le=1200)]
    depth_mm: Annotated[float, Field(ge=40, le=1200)]
    layers: Annotated[tuple[Layer, ...], Field(min_length=1)]
    heater: BedHeater
    sensor_depth: Annotated[float, Field(ge=0, le=1)]  # 0: in the plate, 1: at the heater
    mounts: Annotated[int, Field(ge=0, le=12)]
    clearance_mm: Annotated[float, Field(ge=0)]
    moves: bool = False
    supply: Literal["low voltage", "mains"]
    switch: str
    sheet: str  # that it comes with

    @model_validator(mode="after")
    def _heater_lies_on_the_bed(self) -> BedShape:
        if 2.0 * self.heater.border_mm >= min(self.width_mm, self.depth_mm):
            raise ValueError(
                f"heater.border_mm is {self.heater.border_mm:g}: nothing is left of the heater on a bed "
                f"of {self.width_mm:g} x {self.depth_mm:g} mm"
            )
        if self.heater.power_w > 0.0 and (self.heater.rated_v > LOW_VOLTAGE_V) != (self.supply == "mains"):
            raise ValueError(f"a heater for {self.heater.rated_v:g} V is not fed by {self.supply}")
        if self.layers[0].name not in ("heater", "plate"):
            raise ValueError("the lowest layer is the heater, or the plate where there is none")
        return self


class HeaterKind(Entry):
    """How a bed heater's resistance grows as it warms."""

    label: str
    ohms_per_k: Figure


class Sheet(Alike):
    """What lies on the plate, from the plate up."""

    label: str
    layers: tuple[Layer, ...]
    flexible: bool = False
    cleaning: str  # what its face bears, and what it does not
    holds: dict[str, str] = Field(default_factory=dict)  # by filament: how it holds on this face


class Insulation(Alike):
    """What can be fitted under a bed."""

    label: str
    conductivity_w_mk: Positive
    capacity_j_m3k: Positive
    emissivity: Positive
    service_c: Figure
    sizes_mm: tuple[float, ...]  # that it is sold in
    price: Annotated[float, Field(ge=0)]  # of a square metre, one centimetre thick
    density_kg_m3: Annotated[float, Field(ge=0)]
    sheet_mm: tuple[float, float]
    fire: str
    handling: str


class Cover(Entry):
    """Which part of an underside is covered: shares of its width and depth, from the middle outward."""

    label: str
    outer: Annotated[float, Field(gt=0, le=1)]
    inner: Annotated[float, Field(ge=0, lt=1)]


class BedControl(Entry):
    """How a bed's heater follows its sensor; none: it holds without fault."""

    label: str
    law: Literal["relay", "proportional", "pid"] | None = None


class AirSource(Entry):
    """Where the sink's fan takes its air."""

    label: str
    from_room: Figure
    from_roof: Figure  # of what is the case's, the share that comes from its upper half, where that is the warmer
    rise_k: Figure
    reach: Positive
    loop_w_k: Figure
    stated: bool = False  # the air's temperature is given, not computed


class FanRule(Entry):
    """What the sink fan does once the heaters are off: on until the block falls to a temperature."""

    label: str
    until_c: float


class Seat(Entry):
    """How a hotend sits to a further one."""

    label: str
    carriage: bool  # both on one
    block: bool  # both in one, with one heater and one sensor


class BlockShape(Entry):
    """The heater block [mm]."""

    width: Annotated[float, Field(gt=0)]
    depth: Annotated[float, Field(gt=0)]
    height: Annotated[float, Field(gt=0)]


class SinkShape(Entry):
    """The finned sink [mm]."""

    height: Annotated[float, Field(gt=0)]
    core_d: Annotated[float, Field(gt=0)]
    fin_d: Annotated[float, Field(gt=0)]
    fins: Annotated[int, Field(gt=1)]
    fin_thickness: Annotated[float, Field(gt=0)]
    first_fin: Annotated[float, Field(ge=0)]
    pitch: Annotated[float, Field(gt=0)]


class HotendShape(Alike, Sold):
    """A hotend's shape [mm]."""

    label: str
    bore: Literal["metal", "liner"]
    strand_d: Annotated[float, Field(gt=0)]
    bore_d: Annotated[float, Field(gt=0)]
    tube_d: Annotated[float, Field(gt=0)]
    cone: Annotated[float, Field(gt=0)]
    hex: Annotated[float, Field(gt=0)]
    hex_d: Annotated[float, Field(gt=0)]
    thread_d: Annotated[float, Field(gt=0)]
    block: BlockShape
    nozzle_thread: Annotated[float, Field(gt=0)]
    neck: Annotated[float, Field(gt=0)]
    sink_thread: Annotated[float, Field(gt=0)]
    sink_thread_d: Annotated[float, Field(gt=0)]
    sink: SinkShape
    tube_end: Literal["nozzle", "neck", "break"]
    block_material: str
    nozzle_material: str
    default_break: str
    no_nozzle: str = ""  # why its nozzle is no part of its own
    long_melt: bool = False  # takes long nozzles
    liquid: bool = False  # cooled by a loop, hardly by its fins

    @model_validator(mode="after")
    def _fits_together(self) -> HotendShape:
        sink, block = self.sink, self.block
        needed = (
            ("strand_d", self.strand_d, "bore_d", self.bore_d), ("bore_d", self.bore_d, "tube_d", self.tube_d),
            ("bore_d", self.bore_d, "thread_d", self.thread_d), ("thread_d", self.thread_d, "hex_d", self.hex_d),
            ("tube_d", self.tube_d, "sink_thread_d", self.sink_thread_d),
            ("sink_thread_d", self.sink_thread_d, "sink.core_d", sink.core_d),
            ("sink.core_d", sink.core_d, "sink.fin_d", sink.fin_d),
            ("thread_d", self.thread_d, "block's width", min(block.width, block.depth)),
            ("sink_thread", self.sink_thread, "sink.height", sink.height),
        )  # fmt: skip
        for name, small, other, large in needed:
            if not small < large:
                raise ValueError(f"{name} is {small:g} mm, which does not go into {other} of {large:g} mm")
        top = sink.first_fin + (sink.fins - 1) * sink.pitch + sink.fin_thickness
        if top > sink.height + 1e-9:
            raise ValueError(f"the sink's fins reach up to {top:g} mm, beyond sink.height of {sink.height:g} mm")
        if sink.pitch <= sink.fin_thickness:
            raise ValueError(f"sink.pitch is {sink.pitch:g} mm, no more than a fin of {sink.fin_thickness:g} mm")
        return self


SURE = 0.95  # chance that a limit holds, from which its place counts as clear


class Limit(Entry):
    """What a station may reach, where that figure comes from, and what breaks beyond it."""

    station: str
    part: str = "hotend"  # its key
    kind: Literal["ceiling", "floor"]
    breaks: str
    figure: str = ""
    offset: float = 0.0  # from that figure
    value: float | None = None
    tolerance: float = 0.0
    source: str = ""
    clear: float = 0.0
    clear_share: float = 0.0
    sure: Annotated[float, Field(gt=0, lt=1)] = SURE  # chance that it holds, from which a place counts as clear
    bore: Literal["metal", "liner", "any"] = "any"
    needs: str = ""  # an input that must be above zero for the limit to mean anything
    passed: Literal["over", "short"] = "over"
    counts: Literal["printing", "job", "hot", "always"] = "always"  # in which part of a job


class Accumulation(Entry):
    """What adds up while a machine prints, until it jams."""

    label: str
    driver: Literal["coupler", "liner_heat"]
    rate: Positive
    factor: Annotated[float, Field(ge=1)]
    critical_mm: Annotated[float, Field(gt=0)]
    mends: str


class FaultKind(Entry):
    """What can go wrong at a time, as a change of the setup."""

    label: str
    change: dict[str, JsonValue]


class Remedy(Entry):
    """A change that a bench makes often, with the parts' cost and the minutes of work."""

    label: str
    change: dict[str, JsonValue]
    cost: Annotated[float, Field(ge=0)]
    minutes: Annotated[float, Field(ge=0)]
    bore: Literal["metal", "liner", "any"] = "any"
    air: Literal["computed", "any"] = "any"


class Lever(Entry):
    """Something the bench can try, and the span of its slider."""

    parts: tuple[str, ...] = ("hotend",)  # whose margins it moves, by key
    when: Literal["stated", "computed", "always"] = "always"
    needs: str = ""  # a choice that must not be "none" for the lever to move anything
    low: float = 0.0
    high: float = 0.0
    advice: bool = True  # whether a bench can do it, so that it may be called enough
    reach: float | None = None  # the furthest change that may be called enough
    better: Literal["up", "down", "either"] = "either"  # which way a bench would ever move it
    path: Literal["described", "unknown", "either"] = "either"  # with which state of the power path it counts


class Assumption(Entry):
    """A figure that every hotend shares unless a job says otherwise."""

    label: str
    figure: Figure
    factor: Annotated[float, Field(ge=1)] = 1.0  # greater or smaller, where it is doubted so


class Clash(Entry):
    """Parts of a hotend that do not go together."""

    brief: str  # in a few words, behind the part's name
    says: str  # a sentence that names figures of `guard.clashes.SHOWN` in braces
    do: str  # what helps
    state: Literal["over", "close", "unknown"]
    as_limit: str = ""  # the limit that says the same once the machine is solved
    when: Annotated[tuple[tuple[str, str, bool | float | str], ...], Field(min_length=1)]
    stands_on: Annotated[tuple[str, ...], Field(min_length=1)]  # paths that must be known for it to be sure


class Caution(Entry):
    """A warning, its sign, and the facts that call for it."""

    sign: Literal["burn", "mains", "fumes", "flame"]
    text: str
    when: str = ""


OF_A_TROUBLE = ("questions", "checks", "causes")  # shelves whose entries are about one trouble


class Catalogue(Entry):
    """Every shelf, each a map by id."""

    materials: dict[str, Material]
    filaments: dict[str, Filament]
    breaks: dict[str, Break]
    joints: dict[str, Joint]
    sleeves: dict[str, Sleeve]
    sensors: dict[str, Sensor]
    blocks: dict[str, HeaterBlock]
    nozzles: dict[str, Nozzle]
    fans: dict[str, FanKind]
    cartridges: dict[str, CartridgeKind]
    slots: dict[str, BuildSlot]
    directions: dict[str, Direction]
    drives: dict[str, Drive]
    cases: dict[str, CaseShape]
    panels: dict[str, PanelKind]
    linings: dict[str, Lining]
    heater_places: dict[str, HeaterPlace]
    places: dict[str, Place]
    occupants: dict[str, Occupant]
    protections: dict[str, Protection]
    beds: dict[str, BedShape]
    bed_heaters: dict[str, HeaterKind]
    sheets: dict[str, Sheet]
    insulations: dict[str, Insulation]
    covers: dict[str, Cover]
    controls: dict[str, BedControl]
    power_paths: dict[str, PowerPath]
    supplies: dict[str, SupplyKind]
    power_sources: dict[str, PowerSource]
    contacts: dict[str, ContactKind]
    contact_states: dict[str, ContactState]
    wire_metals: dict[str, WireMetal]
    wire_insulations: dict[str, WireInsulation]
    wire_sizes: dict[str, ConductorSize]
    wire_duties: dict[str, WireDuty]
    fuse_kinds: dict[str, FuseKind]
    motions: dict[str, Motion]
    switches: dict[str, Switch]
    terminals: dict[str, Terminals]
    wiring_faults: dict[str, WiringFault]
    air_sources: dict[str, AirSource]
    fan_rules: dict[str, FanRule]
    seats: dict[str, Seat]
    own_figures: dict[str, OwnKind]
    hotends: dict[str, HotendShape]
    assumptions: dict[str, Assumption]
    levers: dict[str, Lever]
    remedies: dict[str, Remedy]
    comparisons: dict[str, RemedyComparison]
    channels: dict[str, Channel]
    kinds: dict[str, Kind]
    figures: dict[str, FigureKind]
    conditions: dict[str, Condition]
    protocols: dict[str, Protocol]
    accumulations: dict[str, Accumulation]
    faults: dict[str, FaultKind]
    references: dict[str, Reference]
    limits: dict[str, Limit]
    cautions: dict[str, Caution]
    troubles: dict[str, TroubleKind]
    questions: dict[str, IntakeQuestion]
    checks: dict[str, Check]
    domains: dict[str, Domain]
    causes: dict[str, Cause]
    sound: dict[str, Sound]
    facts: dict[str, Fact]
    instruments: dict[str, Instrument]
    machines: dict[str, MachineKind]
    frames: dict[str, FrameKind]
    cards: dict[str, Card]
    complaints: dict[str, Complaint]
    first_readings: dict[str, FirstReading]
    contradictions: dict[str, Contradiction]
    states: dict[str, StateKind]
    choices: dict[str, WorkChoice]
    heat_rules: dict[str, HeatRule]
    heat_sources: dict[str, HeatSource]
    touch: dict[str, Touch]
    transitions: dict[str, Step]
    rechecks: dict[str, Recheck]
    procedures: dict[str, Procedure]
    emergencies: dict[str, Emergency]
    clashes: dict[str, Clash]

    @model_validator(mode="before")
    @classmethod
    def _of_every_one(cls, data: Any) -> Any:
        """What holds for the first of a kind holds for each that the machine has further."""
        return with_further(with_toolheads(with_likes(data))) if isinstance(data, dict) else data

    @model_validator(mode="before")
    @classmethod
    def _choices_from_shelves(cls, data: Any) -> Any:
        """Options of a choice that are the entries of another shelf, the shop's and the job's own among them."""
        choices = data.get("choices") if isinstance(data, dict) else None
        if not isinstance(choices, dict):
            return data
        made = {}
        for key, about in choices.items():
            entries = data.get(about.get("shelf") or "", {}) if isinstance(about, dict) else {}
            named = {
                name: (str(entry["label"]), about.get("each", ""))
                for name, entry in entries.items()
                if isinstance(entry, dict) and "label" in entry
            } if isinstance(entries, dict) else {}  # fmt: skip
            made[key] = {**about, "options": {**about.get("options", {}), **named}} if named else about
        return {**data, "choices": made}

    @model_validator(mode="after")
    def _procedures_speak_of_what_is_there(self) -> Catalogue:
        shelves = ("cautions", "choices", "heat_rules", "heat_sources", "touch", "remedies", "causes")
        known: dict[str, dict[str, object]] = {name: self.shelf(name) for name in shelves}
        check_procedures(self.procedures, self.transitions, self.rechecks, self.states, known)
        return self

    @model_validator(mode="after")
    def _layers_are_of_what_is_there(self) -> Catalogue:
        made = {f"beds.{key}": bed.layers for key, bed in self.beds.items()}
        made |= {f"sheets.{key}": sheet.layers for key, sheet in self.sheets.items()}
        made |= {f"panels.{key}": panel.layers for key, panel in self.panels.items()}
        made |= {f"linings.{key}": (one.layer,) for key, one in self.linings.items() if one.layer is not None}
        for where, layers in made.items():
            if missing := [layer.material for layer in layers if layer.material not in self.materials]:
                raise ValueError(f"{where}.layers: there is no material '{missing[0]}'")
        for key, panel in self.panels.items():
            if not panel.layers and key != OWN:
                raise ValueError(f"panels.{key}.layers: a panel without layers")
        for key, case in self.cases.items():
            if missing := [one for one in (case.walls, case.window) if one is not None and one not in self.panels]:
                raise ValueError(f"cases.{key}: there is no panel '{missing[0]}'")
        for key, bed in self.beds.items():
            for name, known in ((bed.heater.kind, self.bed_heaters), (bed.sheet, self.sheets)):
                if name not in known:
                    raise ValueError(f"beds.{key}: nothing is called '{name}'")
        return self

    @model_validator(mode="after")
    def _paths_begin_with_what_is_there(self) -> Catalogue:
        for key, path in self.power_paths.items():
            if path.described and path.switch not in self.switches:
                raise ValueError(f"power_paths.{key}.switch: there is no switch '{path.switch}'")
        return self

    @model_validator(mode="after")
    def _causes_speak_of_what_is_asked(self) -> Catalogue:
        for key, domain in self.domains.items():
            self._check_shares(f"domains.{key}", domain.shows)
        for key, cause in self.causes.items():
            if cause.domain not in self.domains:
                raise ValueError(f"causes.{key}.domain: there is no domain '{cause.domain}'")
            self._check_shares(f"causes.{key}", cause.shows)
            if missing := [one for one in cause.remedies if one not in self.remedies]:
                raise ValueError(f"causes.{key}.remedies: there is no remedy '{missing[0]}'")
        return self

    @model_validator(mode="after")
    def _tests_speak_of_what_is_known(self) -> Catalogue:
        for key, channel in self.channels.items():
            if channel.kind not in self.kinds and channel.kind != "time":
                raise ValueError(f"channels.{key}.kind: there is no kind '{channel.kind}'")
        for key, protocol in self.protocols.items():
            for name, known in (("equal", self.conditions), ("cautions", self.cautions)):
                if missing := [one for one in getattr(protocol, name) if one not in known]:
                    raise ValueError(f"protocols.{key}.{name}: nothing is called '{missing[0]}'")
        return self

    @model_validator(mode="after")
    def _answers_speak_of_checks(self) -> Catalogue:
        for key, question in self.questions.items():
            for name, option in question.options.items():
                if option.cured_by and option.cured_by not in self.checks:
                    raise ValueError(f"questions.{key}.options.{name}.cured_by: there is no check '{option.cured_by}'")
        return self

    def _check_shares(self, where: str, shows: dict[str, Said]) -> None:
        totals: dict[str, float] = {}
        for answer, (share, _reason) in shows.items():
            name, _, option = answer.partition(".")
            if name not in self.asked or option not in self.asked[name].options:
                raise ValueError(f"{where}.shows: there is no answer '{answer}'")
            totals[name] = totals.get(name, 0.0) + share
            if self.asked[name].kind == "one" and totals[name] > 0.995:
                raise ValueError(f"{where}.shows: the answers of {name} sum to {totals[name]:.2f}, above 0.99")

    @model_validator(mode="after")
    def _troubles_are_there(self) -> Catalogue:
        for shelf in OF_A_TROUBLE:
            for key, entry in self.shelf(shelf).items():
                if entry.about != ANY and entry.about not in self.troubles:
                    raise ValueError(f"{shelf}.{key}.about: there is no trouble '{entry.about}'")
        for key, complaint in self.complaints.items():
            if complaint.trouble and complaint.trouble not in self.troubles:
                raise ValueError(f"complaints.{key}.trouble: there is no trouble '{complaint.trouble}'")
        return self

    def of_trouble(self, key: str) -> Catalogue:
        """The catalogue with the questions, checks and causes of one trouble alone; of an unknown one those of the
        hotend."""
        known = key if key in self.troubles else HOTEND
        if known not in self._apart:
            every: dict[str, Any] = {name: getattr(self, name) for name in Catalogue.model_fields}
            for shelf in OF_A_TROUBLE:
                every[shelf] = {name: one for name, one in every[shelf].items() if one.about in (known, ANY)}
            self._apart[known] = Catalogue.model_construct(**every)
        return self._apart[known]

    @cached_property
    def _apart(self) -> dict[str, Catalogue]:
        return {}

    @cached_property
    def asked(self) -> dict[str, Askable]:
        """Questions and checks alike, by id."""
        return {**self.questions, **self.checks}

    @cached_property
    def digest(self) -> str:
        """What the catalogue is, in a few characters: what is kept by it is asked anew when anything in it differs."""
        return blake2b(self.model_dump_json().encode(), digest_size=16).hexdigest()

    def with_own(self, patch: dict[str, JsonValue]) -> Catalogue:
        """The catalogue with a job's own entries; raises pydantic's ValidationError where they do not fit."""
        return _with_own(json.dumps(patch, sort_keys=True)) if patch else self

    def with_entry(self, shelf: str, key: str, entry: dict[str, Any]) -> Catalogue:
        """The catalogue in which a shelf has this under a key, to see what would come of it: nothing else is looked at.
        Raises pydantic's ValidationError where the entry makes no sense by itself."""
        every: dict[str, Any] = {name: getattr(self, name) for name in Catalogue.model_fields}
        made = type(next(iter(every[shelf].values()))).model_validate(entry)
        return Catalogue.model_construct(**{**every, shelf: {**every[shelf], key: made}})

    def shelf(self, name: str) -> dict[str, Any]:
        """One shelf by name; raises AttributeError for an unknown one."""
        found: dict[str, Any] = getattr(self, name)
        return found


@lru_cache(maxsize=8)
def _with_own(patch: str) -> Catalogue:
    """The catalogue with own entries, as JSON; every edit of a job asks for its own."""
    return Catalogue.model_validate(merge_patch(_plain(), json.loads(patch)))


@cache
def _shelves() -> dict[str, Any]:
    """Every shelf as it is in its file; whoever adds to it makes another one."""
    return {name: _read(name) for name in Catalogue.model_fields}


def _plain() -> dict[str, Any]:
    found: Any = _shelves()
    for patch in _PLUGGED.values():
        found = merge_patch(found, patch)
    return dict(found)


def _read(name: str) -> dict[str, Any]:
    """One shelf: a file, or a folder with a file for each of its entries."""
    place = files("zeotherm.core.catalogue") / "data"
    if (folder := place / name).is_dir():
        entries = sorted((one for one in folder.iterdir() if one.name.endswith(".toml")), key=lambda one: one.name)
        return {one.name.removesuffix(".toml"): tomli.loads(one.read_text(encoding="utf-8")) for one in entries}
    return tomli.loads((place / f"{name}.toml").read_text(encoding="utf-8"))


@cache
def shipped() -> Catalogue:
    """The catalogue that ships with Zeotherm."""
    return Catalogue.model_validate(_plain())


_PLUGGED: dict[str, dict[str, JsonValue]] = {}  # what parts beyond those that ship bring, by their key


def plug(key: str, patch: dict[str, JsonValue]) -> None:
    """Take up what a part brings: limits, levers; a merge patch. Raises pydantic's ValidationError: it does not fit."""
    Catalogue.model_validate(merge_patch(_plain(), patch))
    _PLUGGED[key] = patch
    _forget()


def unplug(key: str) -> None:
    """Take that out again."""
    if _PLUGGED.pop(key, None) is not None:
        _forget()


def _forget() -> None:
    shipped.cache_clear()
    _with_own.cache_clear()

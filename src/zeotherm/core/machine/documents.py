"""The documents of a job. Frozen: an edit makes a new document."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import AfterValidator, Field, JsonValue, ValidationError, model_validator
from pydantic.fields import FieldInfo

from zeotherm.core.machine.bed import Bed
from zeotherm.core.machine.doing import Doing
from zeotherm.core.machine.frame import Frame
from zeotherm.core.machine.hours import Fault, Schedule
from zeotherm.core.machine.intake import Attachment, Intake
from zeotherm.core.machine.known import Known, told_by_older
from zeotherm.core.machine.measured import Measured
from zeotherm.core.machine.patches import Patch, merged, together
from zeotherm.core.machine.power import Power
from zeotherm.core.machine.quantity import Document, choice, declared, quantity
from zeotherm.core.machine.surroundings import Carriage, Case, ExtraHeat, Room, Surroundings
from zeotherm.core.machine.wiring import Wiring

VERSION = "1.15"


class Hotend(Document):
    """The hotend as it is fitted."""

    template: str = choice(
        "standard_all_metal",
        "Hotend",
        "hotends",
        names=("hotend",),
        help="The kind of hotend: its shape and how far its liner reaches.",
    )
    break_part: str = choice(
        "steel",
        "Break type",
        "breaks",
        names=("break", "heat break"),
        help="Material and wall of the thin neck between the hot and the cold side.",
    )
    sink_joint: str = choice(
        "pasted",
        "Sink joint",
        "joints",
        names=("sink joint", "paste", "joint"),
        help="Thread between break and sink: dry, or with thermal paste on the sink side.",
    )
    sleeve: str = choice(
        "none",
        "Block sleeve",
        "sleeves",
        names=("sleeve", "sock", "wrap"),
        help="What covers the heater block.",
    )
    sensor: str = choice(
        "bead_thermistor",
        "Sensor",
        "sensors",
        names=("sensor",),
        help="Temperature sensor of the block; its ceiling limits the hotend.",
    )
    drive: str = choice(
        "plain",
        "Drive",
        "drives",
        names=("drive", "feed drive", "extruder"),
        help="What pushes the filament, and whether a tube lies between it and the hotend.",
    )
    open_path_mm: float = quantity(
        4.0,
        "Open filament path",
        "mm",
        0.5,
        60,
        step=0.5,
        tolerance=2.0,
        names=("open path", "open filament path"),
        help="Length between the drive gears and the tube or bore in which nothing guides the filament.",
    )
    nozzle_mm: float = quantity(
        0.4,
        "Nozzle size",
        "mm",
        0.1,
        2,
        step=0.1,
        tolerance=0.02,
        names=("nozzle size", "nozzle bore", "orifice"),
        help="Width of the nozzle's hole: a small one takes more push.",
    )
    heater_power_w: float = quantity(
        40.0,
        "Heater rating",
        "W",
        5,
        200,
        step=5,
        relative=0.08,
        names=("heater", "heater power"),
        help="Power printed on the cartridge, at its rated voltage.",
    )
    heater_rated_v: float = quantity(
        24.0,
        "Heater rated voltage",
        "V",
        5,
        48,
        step=12,
        names=("heater volts", "heater voltage"),
        help="Voltage printed on the cartridge. On another supply its power goes with the square.",
    )
    supply_v: float = quantity(
        24.0,
        "Supply voltage",
        "V",
        5,
        48,
        step=12,
        tolerance=0.3,
        names=("supply", "supply voltage"),
        help="Measured at the board's input, under load. Where the power path is described, its own volts count.",
    )
    sensor_offset_k: float = quantity(
        0.0,
        "Sensor reads high by",
        "K",
        -40,
        40,
        step=1,
        tolerance=3.0,
        names=("sensor offset", "offset"),
        help="Reading less true block temperature. A sensor that is badly seated reads low: a negative number.",
    )
    neck_wall_factor: float = quantity(
        1.0,
        "Neck wall, of nominal",
        "x",
        0.3,
        2.5,
        step=0.1,
        relative=0.08,
        names=("neck wall",),
        help="Measured wall of the break's neck over the catalogue's.",
    )
    liner_preload_mm: float = quantity(
        0.10,
        "Liner preload",
        "mm",
        0,
        1,
        step=0.05,
        tolerance=0.03,
        names=("preload", "liner preload"),
        help="How far the liner was compressed when it was seated cold.",
    )
    liner_short_mm: float = quantity(
        0.0,
        "Liner cut short by",
        "mm",
        0,
        5,
        step=0.05,
        tolerance=0.03,
        names=("liner short", "short"),
        help="Length that the liner lacks, by a slanted cut, by shrinking or by creep.",
    )
    nozzle_gap_mm: float = quantity(
        0.0,
        "Gap behind the nozzle",
        "mm",
        0,
        3,
        step=0.05,
        relative=0.2,
        names=("nozzle gap", "cavity"),
        help="Between the nozzle's end and the break or liner it should be tightened against.",
    )


class Fan(Document):
    """The cold-side fan."""

    part: str = choice(
        "axial_30_24v",
        "Sink fan",
        "fans",
        names=("fan part", "fan type"),
        help="Kind of fan on the sink.",
    )
    voltage_v: float = quantity(
        24.0,
        "Fan voltage",
        "V",
        0,
        30,
        step=1,
        tolerance=0.2,
        names=("fan", "fan voltage", "fan volts", "sink fan"),
        help="Measured at the fan's plug while it runs.",
    )
    direction: Literal["push", "pull"] = Field(
        "push",
        description="push blows at the fins, pull draws air from them.",
        json_schema_extra={"label": "Fan direction", "shelf": "directions", "names": ["direction", "fan direction"]},
    )
    guard_blocked_pct: float = quantity(
        0.0,
        "Guard blocked",
        "%",
        0,
        97,
        step=10,
        tolerance=10.0,
        names=("guard", "lint", "guard blocked", "blocked"),
        help="Share of the guard's openings that lint or wires close, judged by eye against the light.",
    )


class Printing(Document):
    """What the machine is asked to do."""

    filament: str = choice("pla", "Filament", "filaments", names=("filament", "plastic"), help="The polymer.")
    nozzle_c: float = quantity(
        205.0,
        "Nozzle temperature",
        "°C",
        20,
        500,
        step=5,
        names=("nozzle", "nozzle temperature"),
        help="Set value of the hotend.",
    )
    flow_mm3_s: float = quantity(
        4.0,
        "Print flow",
        "mm³/s",
        0.05,
        60,
        step=1,
        relative=0.08,
        names=("flow", "print flow"),
        help="Mean flow of plastic over some minutes, travel and retractions included.",
    )
    retraction_mm: float = quantity(
        0.8,
        "Retraction",
        "mm",
        0,
        20,
        step=0.5,
        tolerance=0.1,
        names=("retraction", "retract"),
        help="How far the strand is drawn back at each retraction.",
    )
    part_fan_pct: float = quantity(
        50.0,
        "Part cooling on the block",
        "%",
        0,
        100,
        step=25,
        tolerance=25.0,
        names=("part fan", "part cooling"),
        help="How much of the part fan's stream strikes the block.",
    )


class Corrections(Document):
    """Factors on what the published laws leave open; one until a measured curve says otherwise."""

    fin_film: float = quantity(
        1.0,
        "Fin cooling, of computed",
        "x",
        0.2,
        5,
        step=0.1,
        relative=0.2,
        names=("fin cooling",),
        help="Measured fin cooling over the computed. Covers uneven flow between the fins.",
    )
    block_film: float = quantity(
        1.0,
        "Block loss, of computed",
        "x",
        0.2,
        5,
        step=0.1,
        relative=0.25,
        names=("block loss",),
        help="Measured loss of the bare block over the computed. Covers the spread of published correlations.",
    )
    case_film: float = quantity(
        1.0,
        "Case's films, of computed",
        "x",
        0.2,
        5,
        step=0.1,
        relative=0.2,
        names=("case film", "case loss"),
        help="Measured loss of the case by its air over the computed. Covers the spread of published correlations.",
    )
    case_gap: float = quantity(
        1.0,
        "Case's gaps, of computed",
        "x",
        0.1,
        10,
        step=0.2,
        relative=0.3,
        names=("case gaps", "case leaks"),
        help="Measured leaks of the shut case over those of its kind.",
    )
    case_content: float = quantity(
        1.0,
        "Heat held in the case, of computed",
        "x",
        0.2,
        5,
        step=0.2,
        relative=0.3,
        names=("case content",),
        help="Measured heat capacity of frame and machine inside over that of the case's kind.",
    )
    bed_film: float = quantity(
        1.0,
        "Bed loss to the air, of computed",
        "x",
        0.2,
        5,
        step=0.1,
        relative=0.2,
        names=("bed loss",),
        help="Measured loss of the bed to the air over the computed. Covers the spread of published correlations.",
    )
    bed_mass: float = quantity(
        1.0,
        "Bed heat capacity, of computed",
        "x",
        0.3,
        3,
        step=0.1,
        relative=0.08,
        names=("bed mass",),
        help="Measured heat capacity of the bed's layers over the computed.",
    )


class Setup(Document):
    """Everything the solved field depends on."""

    hotend: Hotend = Hotend()
    fan: Fan = Fan()
    surroundings: Surroundings = Surroundings()
    room: Room = Room()
    heats: dict[str, ExtraHeat] = Field(default_factory=dict, description="Sun and other extra heat, by id.")
    case: Case = Case()
    frame: Frame = Frame()
    bed: Bed = Bed()
    carriage: Carriage = Carriage()
    power: Power = Power()
    printing: Printing = Printing()
    schedule: Schedule = Schedule()
    faults: dict[str, Fault] = Field(default_factory=dict, description="What goes wrong at a time, by id.")
    corrections: Corrections = Corrections()

    def model_post_init(self, _context: Any) -> None:
        """Refuse faults that do not fit, or come when the job is over."""
        longest = self.schedule.longest_min
        for key, fault in self.faults.items():
            if fault.at_min >= longest:
                raise ValueError(
                    f"faults.{key}.at_min is {fault.at_min:g}, but the job is over after {longest:g} min at the latest"
                )
            if any(name in fault.change for name in ("faults", "schedule")):
                raise ValueError(f"faults.{key}.change may not move the schedule or other faults")
            self.with_fault(fault)

    def with_fault(self, fault: Fault) -> Setup:
        """The setup once a fault has come."""
        return patched(self.model_copy(update={"faults": {}}), fault.change)


class Reading(Document):
    """A measured value, pinned to a station."""

    value: Annotated[float, Field(ge=-50, le=600)]
    tolerance: Annotated[float, Field(gt=0, le=50)] = 1.5
    instrument: Annotated[str, Field(max_length=80)] = ""
    clock_h: Annotated[float, Field(ge=0, le=72)] | None = Field(
        None, description="Clock time at which it was read, in hours on from the day the job starts; null: unknown."
    )


class Variant(Document):
    """One option on the board: a named change over the machine as found."""

    label: Annotated[str, Field(min_length=1, max_length=60)]
    change: Patch = Field(description="A JSON merge patch over `found`.")
    cost: Annotated[float, Field(ge=0, le=1e6)] = 0.0
    minutes: Annotated[float, Field(ge=0, le=1e5)] = 0.0


MOST_VARIANTS = 24


def _known_version(text: str) -> str:
    major, _, minor = text.partition(".")
    if not (major.isdigit() and minor.isdigit()):
        raise ValueError(f"should be two numbers like {VERSION}")
    if int(major) > int(VERSION.partition(".")[0]):
        raise ValueError(f"this job was written by a newer Zeotherm (format {text}; this one reads {VERSION})")
    return text


def _older(text: object, minor: int) -> bool:
    """Whether a document's version is of the same major and below a minor one."""
    if not isinstance(text, str):
        return False
    major, _, told = text.partition(".")
    return major == VERSION.partition(".")[0] and told.isdigit() and int(told) < minor


FRAME_BY_PART = {  # before format 1.15
    "round_bed": "towers", "side_vented": "box", "panelled_frame": "box", "closed_production": "box",
}  # fmt: skip
THINNER_ONCE = {"steel": 0.34 / 0.45, "titanium": 0.36 / 0.45}  # walls of format 1.11 over those of today


def _part_of(change: Any, name: str) -> Any:
    """A field of the hotend in a setup or a patch as it is in a file; none where it is not there."""
    hotend = change.get("hotend") if isinstance(change, dict) else None
    return hotend.get(name) if isinstance(hotend, dict) else None


Line = Annotated[str, Field(max_length=200)]


class Job(Document):
    """One repair: the machine as found, the changes on trial, and what was measured."""

    format: Literal["zeotherm-job"] = "zeotherm-job"
    version: Annotated[str, AfterValidator(_known_version)] = VERSION
    number: Annotated[str, Field(min_length=1, max_length=20)] = "0001"
    machine: Line = "New machine"
    place: Line = ""
    complaint: Annotated[str, Field(max_length=2000)] = ""
    found: Setup = Setup()
    trial: Patch = Field(
        default_factory=dict, description="Changes on trial: a JSON merge patch (RFC 7396) over `found`."
    )
    variants: Annotated[dict[str, Variant], Field(max_length=MOST_VARIANTS)] = Field(
        default_factory=dict, description="Options on the board, by id."
    )
    chosen: list[str] = Field(default_factory=list, description="The options taken, by id.")
    currency: Annotated[str, Field(min_length=1, max_length=4)] = "£"
    readings: dict[str, Reading] = Field(default_factory=dict, description="Measured values by station.")
    tolerances: dict[str, Annotated[float, Field(ge=0, le=1e6)]] = Field(
        default_factory=dict, description="Better known 95 % half-widths, by path of the quantity in `found`."
    )
    known: dict[str, Known] = Field(
        default_factory=dict,
        description="How the values in `found` are known, by path; others are assumed.",
    )
    photos: dict[str, Attachment] = Field(
        default_factory=dict, description="Photographs of labels, by the card of the part that they show."
    )
    intake: Intake = Intake()
    measured: Measured = Measured()
    wiring: Wiring = Wiring()
    doing: Doing = Doing()
    catalogue: dict[str, JsonValue] = Field(
        default_factory=dict, description="Own materials and parts: a JSON merge patch over the shipped catalogue."
    )

    @model_validator(mode="before")  # these run from the last to the first: this one when all is brought up to date
    @classmethod
    def _of_today(cls, data: Any) -> Any:
        """A job that was brought up to date is of today's format, or the next reading would do it once more."""
        newest = int(VERSION.partition(".")[2])
        return {**data, "version": VERSION} if isinstance(data, dict) and _older(data.get("version"), newest) else data

    @model_validator(mode="before")
    @classmethod
    def _log_as_run(cls, data: Any) -> Any:
        """Up to format 1.2 a job had one log, which lay over the model."""
        if not isinstance(data, dict) or "log" not in data:
            return data
        log = data["log"]
        rest = {key: value for key, value in data.items() if key != "log"}
        if not isinstance(log, dict):
            return rest
        run = {key: value for key, value in log.items() if key != "name"}
        run |= {"label": "as found", "source": log.get("name", "log")}
        return {**rest, "measured": {"runs": {"log": run}, "laid": "log"}}

    @model_validator(mode="before")
    @classmethod
    def _neck_wall_as_measured(cls, data: Any) -> Any:
        """Up to format 1.11 the walls of steel and titanium necks were listed thinner: a measured one keeps its mm."""
        if not isinstance(data, dict) or not isinstance(data.get("found"), dict) or not _older(data.get("version"), 12):
            return data
        fitted = _part_of(data["found"], "break_part") or "steel"

        def kept(change: Any) -> Any:
            wall, part = _part_of(change, "neck_wall_factor"), _part_of(change, "break_part") or fitted
            if not isinstance(wall, int | float) or wall == 1.0 or part not in THINNER_ONCE:
                return change
            return {**change, "hotend": {**change["hotend"], "neck_wall_factor": wall * THINNER_ONCE[part]}}

        made = {**data, "found": kept(data["found"]), "trial": kept(data.get("trial", {}))}
        if isinstance(options := data.get("variants"), dict):
            made["variants"] = {
                key: {**one, "change": kept(one.get("change"))} if isinstance(one, dict) else one
                for key, one in options.items()
            }
        return made

    @model_validator(mode="before")
    @classmethod
    def _hotend_plug_as_it_was(cls, data: Any) -> Any:
        """Up to format 1.10 a hotend's plug was a large one unless it said otherwise."""
        found = data.get("found") if isinstance(data, dict) else None
        power = found.get("power") if isinstance(found, dict) else None
        if not isinstance(data, dict) or not isinstance(found, dict) or not isinstance(power, dict):
            return data
        if not _older(data.get("version"), 11):
            return data
        plug = power.get("heater_plug", {})
        if not isinstance(plug, dict) or "kind" in plug:
            return data
        return {**data, "found": {**found, "power": {**power, "heater_plug": {"kind": "crimped_plug", **plug}}}}

    @model_validator(mode="before")
    @classmethod
    def _frame_by_its_parts(cls, data: Any) -> Any:
        """Up to format 1.14 nobody said how a machine is built: its bed or its case tells."""
        found = data.get("found") if isinstance(data, dict) else None
        if not isinstance(data, dict) or not isinstance(found, dict) or not _older(data.get("version"), 15):
            return data
        parts = [one.get("part") for key in ("bed", "case") if isinstance(one := found.get(key), dict)]
        told = [kind for part, kind in FRAME_BY_PART.items() if part in parts]
        frame = found.get("frame", {})
        if not told or not isinstance(frame, dict):
            return data
        return {**data, "found": {**found, "frame": {"kind": told[0], **frame}}}

    @model_validator(mode="before")
    @classmethod
    def _known_by_older(cls, data: Any) -> Any:
        """Up to format 1.13 nobody said how a value was known."""
        if not isinstance(data, dict) or "known" in data or not _older(data.get("version"), 14):
            return data
        return {**data, "known": told_by_older(data.get("found"), data.get("tolerances"), Setup())}

    def model_post_init(self, _context: Any) -> None:
        """Refuse a trial or an option that does not fit the setup, and a choice or a fact of what is not there."""
        strange = next((path for path in self.known if path not in declared(Setup)), None)
        if strange is not None:
            raise ValueError(f"known names '{strange}', which no machine has; take it out")
        if self.trial:
            self.setup()
        for key, variant in self.variants.items():
            try:
                patched(self.found, variant.change)
            except ValidationError as wrong:
                fault = wrong.errors(include_url=False)[0]
                where = ".".join(str(step) for step in fault["loc"])
                raise ValueError(f"variants.{key}.change does not fit: {where} {fault['msg'].lower()}") from None
        missing = [key for key in self.chosen if key not in self.variants]
        if missing or len(set(self.chosen)) < len(self.chosen):
            raise ValueError(f"chosen names {missing[0] if missing else 'an option twice'}; take it out")

    def setup(self) -> Setup:
        """The setup with the changes on trial; asked for at every turn of a lever, and made once."""
        if not self.trial:
            return self.found
        known = _Tried.last
        if known is None or known[0] is not self.found or known[1] is not self.trial:
            known = _Tried.last = (self.found, self.trial, patched(self.found, self.trial))
        return known[2]

    def planned(self) -> Setup:
        """The setup as found with the options that were taken."""
        taken = [self.variants[key].change for key in self.chosen]
        return patched(self.found, together(*taken)) if taken else self.found


class _Tried:
    """The last setup with changes on trial, with what it was made of: documents are never changed in place."""

    last: tuple[Setup, Patch, Setup] | None = None


def patched(setup: Setup, patch: Patch) -> Setup:
    """The setup with a merge patch applied; raises pydantic's ValidationError where it does not fit."""
    return Setup.model_validate(merged(setup.model_dump(), patch))


def declare(key: str, kind: type[Document]) -> None:
    """Give a setup a field for a part that plugs in: read, written, patched and told by the schema as any other."""
    Setup.__pydantic_fields__[key] = FieldInfo(
        annotation=kind, default=kind(), description=(kind.__doc__ or "").strip()
    )
    _rebuilt()


def undeclare(key: str) -> None:
    """Take such a field out again."""
    del Setup.__pydantic_fields__[key]
    _rebuilt()


def _rebuilt() -> None:
    for one in (Setup, Job):
        one.model_rebuild(force=True)
    declared.cache_clear()

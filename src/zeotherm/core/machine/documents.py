"""The documents of a job. Frozen: an edit makes a new document."""

from __future__ import annotations

from dataclasses import replace
from typing import Annotated, Any, Literal

from pydantic import AfterValidator, Field, JsonValue, ValidationError, model_validator
from pydantic.fields import FieldInfo

from zeotherm.core.machine.bed import Bed
from zeotherm.core.machine.build import Build
from zeotherm.core.machine.doing import Doing
from zeotherm.core.machine.frame import Frame
from zeotherm.core.machine.further import COLLECTIONS, further_paths, has_further, of_further, strange_number
from zeotherm.core.machine.hotend import Corrections, Fan, Hotend, Printing
from zeotherm.core.machine.hours import Fault, Schedule
from zeotherm.core.machine.intake import Attachment, Intake
from zeotherm.core.machine.known import Known, told_by_older
from zeotherm.core.machine.measured import Measured
from zeotherm.core.machine.patches import Patch, merged, together, value_at
from zeotherm.core.machine.power import Power
from zeotherm.core.machine.quantity import Declared, Document, declared
from zeotherm.core.machine.supplies import FurtherSupply, wrong_feed
from zeotherm.core.machine.surroundings import Carriage, Case, ExtraHeat, PrintedPart, Room, Surroundings
from zeotherm.core.machine.toolheads import (
    COLLECTION,
    FIRST,
    NUMBERS,
    Number,
    Toolhead,
    belongs,
    keys_turned,
    patch_turned,
    plain,
    station_turned,
    turned,
)
from zeotherm.core.machine.wiring import Wiring

VERSION = "1.19"


class Setup(Document):
    """Everything the solved field depends on."""

    toolhead: Number = Field(FIRST, description="The toolhead in front: `hotend`, `fan` and `printing` are its own.")
    hotend: Hotend = Hotend()
    fan: Fan = Fan()
    toolheads: dict[str, Toolhead] = Field(
        default_factory=dict, description="Further toolheads, by number; they stand by while the one in front prints."
    )
    surroundings: Surroundings = Surroundings()
    room: Room = Room()
    heats: dict[str, ExtraHeat] = Field(default_factory=dict, description="Sun and other extra heat, by id.")
    case: Case = Case()
    printed: dict[str, PrintedPart] = Field(
        default_factory=dict, description="Printed parts of other plastics or places than those in `case`, by number."
    )
    frame: Frame = Frame()
    bed: Bed = Bed()
    carriage: Carriage = Carriage()
    power: Power = Power()
    supplies: dict[str, FurtherSupply] = Field(
        default_factory=dict, description="Supplies and rails beside the first one, which `power` describes; by number."
    )
    printing: Printing = Printing()
    schedule: Schedule = Schedule()
    faults: dict[str, Fault] = Field(default_factory=dict, description="What goes wrong at a time, by id.")
    corrections: Corrections = Corrections()

    def model_post_init(self, _context: Any) -> None:
        """Refuse faults that do not fit, or come when the job is over, and a toolhead that is there twice."""
        if strange := [one for one in self.toolheads if one not in NUMBERS]:
            raise ValueError(f"toolheads.{strange[0]}: toolheads are {NUMBERS[0]} to {NUMBERS[-1]}")
        if self.toolhead in self.toolheads:
            raise ValueError(f"toolheads.{self.toolhead} is in front already; take one of them out")
        if wrong := strange_number(self) or wrong_feed(self):
            raise ValueError(wrong)
        longest = self.schedule.longest_min
        for key, fault in self.faults.items():
            if fault.at_min >= longest:
                raise ValueError(
                    f"faults.{key}.at_min is {fault.at_min:g}, but the job is over after {longest:g} min at the latest"
                )
            if any(name in fault.change for name in ("faults", "schedule")):
                raise ValueError(f"faults.{key}.change may not move the schedule or other faults")
            self.with_fault(fault)

    def has(self, path: str) -> bool:
        """Whether it has a value at a path, of its own, of a further toolhead, or of anything else further."""
        head, _dot, rest = path.partition(".")
        if head in COLLECTIONS:
            return has_further(self, path)
        if head == COLLECTION:
            return rest.partition(".")[0] in self.toolheads and belongs(plain(path)) and plain(path) in declared(Setup)
        return path in declared(Setup)

    def paths(self) -> tuple[str, ...]:
        """Paths of all its declared values, those of what it has further last."""
        own = tuple(declared(Setup))
        return (
            *own,
            *further_paths(self),
            *(f"{COLLECTION}.{number}.{path}" for number in self.toolheads for path in own if belongs(path)),
        )

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


class SetAside(Document):
    """What was noted of a toolhead that is not in front: it comes back with it."""

    intake: Intake = Field(Intake(), description="Its answers and meter readings; files are kept with the job.")
    doing: Doing = Doing()
    photos: dict[str, Attachment] = Field(default_factory=dict)
    laid: str | None = Field(None, description="The run that is laid over its model, by id.")
    build: Build = Build()


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
    set_aside: dict[str, SetAside] = Field(
        default_factory=dict, description="What was noted of toolheads that are not in front, by number."
    )
    intake: Intake = Intake()
    measured: Measured = Measured()
    wiring: Wiring = Wiring()
    build: Build = Build()
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
        strange = next((path for path in self.known if not self.found.has(path)), None)
        if strange is not None:
            raise ValueError(f"known names '{strange}', which no machine has; take it out")
        gone = next((number for number in self.set_aside if number not in self.found.toolheads), None)
        if gone is not None:
            raise ValueError(f"set_aside.{gone} is of no toolhead that is not in front; take it out")
        if self.trial:
            self.setup()
        changes = {f"variants.{key}.change": one.change for key, one in self.variants.items()}
        for place, change in {**changes, **({"build.change": self.build.change} if self.build.change else {})}.items():
            try:
                patched(self.found, change)
            except ValidationError as wrong:
                fault = wrong.errors(include_url=False)[0]
                where = ".".join(str(step) for step in fault["loc"])
                raise ValueError(f"{place} does not fit: {where} {fault['msg'].lower()}") from None
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


def job_turned(job: Job, number: str, own_stations: frozenset[str], own_cards: frozenset[str]) -> Job:
    """A job whose machine has another toolhead in front: trial, options, readings, how all is known, and what was
    asked, done and photographed go with it. Runs and attached files stay with the job.

    own_stations, own_cards: places and cards that a toolhead has of its own. Raises NoToolheadError.
    """
    front = job.found.toolhead
    if number == front:
        return job
    mine = SetAside(
        intake=job.intake.model_copy(update={"attachments": []}),
        doing=job.doing,
        photos={card: photo for card, photo in job.photos.items() if card in own_cards},
        laid=job.measured.laid,
        build=job.build,
    )
    aside = {key: one for key, one in job.set_aside.items() if key != number}
    coming = job.set_aside.get(number, SetAside())
    return job.model_copy(
        update={
            "found": turned(job.found, number),
            "trial": patch_turned(job.trial, front, number),
            "variants": {
                key: one.model_copy(update={"change": patch_turned(one.change, front, number)})
                for key, one in job.variants.items()
            },
            "known": keys_turned(job.known, front, number),
            "tolerances": keys_turned(job.tolerances, front, number),
            "readings": {
                station_turned(key, front, number, own_stations): one for key, one in job.readings.items()
            },
            "intake": coming.intake.model_copy(update={"attachments": job.intake.attachments}),
            "doing": coming.doing,
            "build": coming.build,
            "photos": {card: one for card, one in job.photos.items() if card not in own_cards} | coming.photos,
            "measured": job.measured.model_copy(update={"laid": coming.laid}),
            "set_aside": aside if mine == SetAside() else {**aside, front: mine},
        }
    )  # fmt: skip


def declaration(path: str) -> Declared:
    """What is declared of a path, of anything further as well; raises KeyError for one that no machine has."""
    head, _dot, rest = path.partition(".")
    if (further := of_further(path)) is not None:
        _kind, number, found = further
    elif head == COLLECTION:
        number, _dot, own = rest.partition(".")
        found = declared(Setup)[own]
    else:
        return declared(Setup)[path]
    return replace(found, path=path, label=f"{number} {found.label[:1].lower()}{found.label[1:]}")


def changed_paths(before: Setup, after: Setup) -> tuple[str, ...]:
    """Paths at which two setups differ; a toolhead that only one of them has is left out."""
    fields = (name for name in type(before).model_fields if getattr(before, name) != getattr(after, name))
    touched = set(fields)  # documents compare at once, paths one by one
    both = (path for path in before.paths() if path.partition(".")[0] in touched and after.has(path))
    return tuple(path for path in both if value_at(before, path) != value_at(after, path))


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

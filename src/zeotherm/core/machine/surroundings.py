"""What the hotend stands in: air, room, case, carriage, and heat from outside."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import Field, model_validator

from zeotherm.core.machine.quantity import Document, choice, quantity


class Surroundings(Document):
    """The air and what the hotend hangs from."""

    air_from: str = choice(
        "stated",
        "Fan air from",
        "air_sources",
        names=("air from", "fan air from", "duct"),
        help="Where the sink fan takes its air: as stated, out of the case, from the room, by a duct, or a coolant.",
    )
    fan_air_c: float = quantity(
        25.0,
        "Air at the sink fan",
        "°C",
        -20,
        90,
        step=5,
        tolerance=1.5,
        names=("air", "fan air", "case air", "air at the sink fan"),
        help="Temperature of the air the sink fan takes in.",
    )
    block_air_c: float = quantity(
        30.0,
        "Air around the block",
        "°C",
        -20,
        120,
        step=5,
        tolerance=4.0,
        names=("block air",),
        help="Temperature of the air below the carriage.",
    )
    mount_c: float = quantity(
        35.0,
        "Carriage",
        "°C",
        -20,
        120,
        step=5,
        tolerance=5.0,
        names=("mount", "carriage"),
        help="Temperature of the part that the sink is screwed to.",
    )
    mount_plastic: str = choice(
        "petg",
        "Carriage plastic",
        "filaments",
        names=("mount plastic", "carriage plastic"),
        help="What the printed carriage or fan duct is made of.",
    )
    pressure_kpa: float = quantity(
        101.3,
        "Air pressure",
        "kPa",
        50,
        110,
        step=1,
        tolerance=1.5,
        names=("pressure",),
        help="Absolute air pressure: about 101 at the coast, 70 at 3000 m. Thin air cools less.",
    )


class Room(Document):
    """The room's air over the day."""

    mean_c: float = quantity(
        21.0,
        "Room",
        "°C",
        -20,
        50,
        step=5,
        tolerance=1.0,
        names=("room", "room temperature"),
        help="Mean temperature of the room over the day.",
    )
    swing_k: float = quantity(
        1.5,
        "Room swing",
        "K",
        0,
        15,
        step=1,
        tolerance=0.8,
        names=("swing", "room swing"),
        help="How far the room rises above its mean at the warmest hour.",
    )
    warmest_h: float = quantity(
        15.0,
        "Room warmest at",
        "h",
        0,
        24,
        step=1,
        tolerance=1.0,
        names=("warmest", "room warmest at"),
        help="Clock time at which the room is warmest, in hours: 15.5 is half past three.",
    )


SIZES = {  # of the kinds before format 1.6 [mm]
    "open_frame": (400.0, 400.0, 450.0), "side_vented": (370.0, 350.0, 370.0), "bench_locker": (560.0, 520.0, 560.0),
    "panelled_frame": (480.0, 480.0, 520.0),
}  # fmt: skip


class Case(Document):
    """The case or enclosure."""

    part: str = choice(
        "open_frame", "Case", "cases", names=("case", "enclosure"), help="What closes the machine in, if anything."
    )
    vents_open_pct: float = quantity(
        50.0,
        "Vents open",
        "%",
        0,
        100,
        step=25,
        tolerance=10.0,
        names=("vents", "vent", "door", "vents open"),
        help="Share of the case's vents, lid or door that stands open.",
    )
    width_mm: float = quantity(
        400.0,
        "Case width",
        "mm",
        100,
        3000,
        step=20,
        tolerance=5.0,
        names=("case width", "enclosure width"),
        help="Inside, seen from the front.",
    )
    depth_mm: float = quantity(
        400.0,
        "Case depth",
        "mm",
        100,
        3000,
        step=20,
        tolerance=5.0,
        names=("case depth", "enclosure depth"),
        help="Inside, from front to back.",
    )
    height_mm: float = quantity(
        450.0,
        "Case height",
        "mm",
        100,
        3000,
        step=20,
        tolerance=5.0,
        names=("case height", "enclosure height"),
        help="Inside, from floor to roof.",
    )
    lining: str = choice(
        "none",
        "Case lining",
        "linings",
        names=("lining", "case lining"),
        help="What is fitted inside its walls; windows stay as they are.",
    )
    roof_panel: str = choice(
        "own", "Roof of the case", "panels", names=("roof",), help="What the roof or lid is built of."
    )
    front_panel: str = choice(
        "own",
        "Front of the case",
        "panels",
        names=(
            "front panel",
            "door panel",
        ),
        help="What front or door is built of, about its window.",
    )
    sides_panel: str = choice(
        "own", "Sides of the case", "panels", names=("side panels",), help="What the left and right wall are built of."
    )
    back_panel: str = choice(
        "own", "Back of the case", "panels", names=("back panel",), help="What the back wall is built of."
    )
    floor_panel: str = choice(
        "own", "Floor of the case", "panels", names=("floor panel",), help="What the floor is built of."
    )
    exhaust_m3h: float = quantity(
        0.0,
        "Exhaust fan",
        "m³/h",
        0,
        500,
        step=5,
        relative=0.25,
        names=("exhaust", "exhaust fan"),
        help="Air that a fan blows out of the case; as much comes in from the room.",
    )
    intake_m3h: float = quantity(
        0.0,
        "Intake fan",
        "m³/h",
        0,
        500,
        step=5,
        relative=0.25,
        names=("intake", "intake fan"),
        help="Air that a fan blows in from the room; as much goes out: by an exhaust fan, and by gaps and vents.",
    )
    recirculation_m3h: float = quantity(
        0.0,
        "Recirculating fan",
        "m³/h",
        0,
        500,
        step=10,
        relative=0.25,
        names=("recirculation", "recirculating fan", "mixing fan"),
        help="Air that a filter or mixing fan turns over inside.",
    )
    heater_w: float = quantity(
        0.0,
        "Case heater",
        "W",
        0,
        3000,
        step=50,
        relative=0.1,
        names=("case heater", "chamber heater"),
        help="Power of a heater for the case's air; 0 without one.",
    )
    heater_at: str = choice(
        "floor",
        "Case heater's place",
        "heater_places",
        names=("heater place", "case heater at"),
        help="Where the heater gives its heat.",
    )
    heater_cap_c: float = quantity(
        0.0,
        "Case heater's own cap",
        "°C",
        0,
        200,
        step=5,
        tolerance=3.0,
        names=("heater cap", "case heater cap"),
        help="Air at the heater above which its own limit stops it, whatever the control asks; 0: none.",
    )
    heater_fades_c: float = quantity(
        0.0,
        "Case heater fades out at",
        "°C",
        0,
        300,
        step=10,
        tolerance=10.0,
        names=("heater fades", "self-regulating"),
        help="Air at which a self-regulating element gives nothing more, falling evenly from its watts at 20 °C; "
        "0: it gives the same at all times.",
    )
    heater2_w: float = quantity(
        0.0,
        "Second case heater",
        "W",
        0,
        3000,
        step=50,
        relative=0.1,
        names=("second heater", "second case heater"),
        help="Power of a second heater under the same control; 0 without one.",
    )
    heater2_at: str = choice(
        "roof",
        "Second heater's place",
        "heater_places",
        names=("second heater at", "second heater's place"),
        help="Where the second heater gives its heat.",
    )
    heater2_cap_c: float = quantity(
        0.0,
        "Second heater's own cap",
        "°C",
        0,
        200,
        step=5,
        tolerance=3.0,
        names=("second cap", "second heater cap"),
        help="Air at the second heater above which its own limit stops it; 0: none.",
    )
    target_c: float = quantity(
        0.0,
        "Case wanted",
        "°C",
        0,
        150,
        step=5,
        tolerance=1.5,
        names=("case wanted", "chamber", "chamber target"),
        help="Set value of the case's heater; 0 leaves it to itself.",
    )
    sensor_pct: float = quantity(
        50.0,
        "Case sensor's height",
        "%",
        0,
        100,
        step=10,
        tolerance=5.0,
        names=("case sensor", "chamber sensor height"),
        help="How high the control's sensor sits, of the case's height.",
    )
    cutout_c: float = quantity(
        0.0,
        "Case heater's cut-out",
        "°C",
        0,
        200,
        step=5,
        tolerance=5.0,
        names=("cut-out", "cutout", "case cut-out"),
        help="Where a switch of its own, apart from the control, takes the heater off; 0: there is none.",
    )
    door_room_mm: float = quantity(
        0.0,
        "Room before the case",
        "mm",
        0,
        5000,
        step=50,
        tolerance=10.0,
        names=("door room", "room before the case"),
        help="Free before its front, for the door to swing; 0: not measured.",
    )
    printed_count: float = quantity(
        0.0,
        "Printed parts, count",
        "pc",
        0,
        500,
        step=1,
        names=("printed count",),
        help="How many printed brackets and clamps of the machine sit inside; 0: not counted.",
    )
    printed_g: float = quantity(
        0.0,
        "Printed parts, mass",
        "g",
        0,
        20000,
        step=50,
        relative=0.1,
        names=("printed mass",),
        help="What they weigh together; 0: not weighed.",
    )
    bay_m3h: float = quantity(
        0.0,
        "Bay's fan",
        "m³/h",
        0,
        200,
        step=5,
        relative=0.25,
        names=("bay fan", "bay"),
        help="Air from the room that a fan moves through a bay of its own; 0: by its vents alone.",
    )
    supply_at: str = choice(
        "outside", "Supply sits", "places", names=("supply at", "supply sits"), help="Where the power supply sits."
    )
    board_at: str = choice(
        "outside", "Board sits", "places", names=("board at", "board sits"), help="Where the controller board sits."
    )
    display_at: str = choice(
        "outside", "Display sits", "places", names=("display at", "display sits"), help="Where the display sits."
    )
    spool_at: str = choice(
        "outside", "Spool sits", "places", names=("spool at", "spool sits"), help="Where the spool hangs."
    )
    motors_at: str = choice(
        "inside_middle", "Motors sit", "places", names=("motors at", "motors sit"), help="Where the belts' motors sit."
    )
    printed_at: str = choice(
        "inside_high",
        "Printed parts sit",
        "places",
        names=("printed parts at", "printed parts sit"),
        help="Where the highest of the machine's own printed parts sit.",
    )
    printed_plastic: str = choice(
        "petg",
        "Printed parts inside",
        "filaments",
        names=("printed parts", "printed plastic"),
        help="The plastic of the machine's own printed parts inside the case.",
    )

    @model_validator(mode="before")
    @classmethod
    def _before_cases_had_sizes(cls, data: Any) -> Any:
        """Up to format 1.5 a case was its kind."""
        if not isinstance(data, dict) or data.get("part") not in SIZES:
            return data
        sides = zip(("width_mm", "depth_mm", "height_mm"), SIZES[data["part"]], strict=True)
        return {**dict(sides), **data}


PRINTED_PARTS = "printed"
FURTHER_PARTS = ("P2", "P3", "P4", "P5", "P6")
LIKE_FIRST_PART = {"case.printed_plastic": "plastic", "case.printed_at": "at"}


class PrintedPart(Document):
    """A printed part of the machine beside those that `case` speaks of: of another plastic, or at another place."""

    name: Annotated[str, Field(max_length=40)] = Field("", description="What it is: fan duct, bracket, clamp.")
    plastic: str = choice("petg", "Plastic", "filaments", names=("plastic",), help="What it is printed in.")
    at: str = choice("inside_high", "Place", "places", names=("place",), help="Where it sits.")


class Carriage(Document):
    """What else is warm near the cold end."""

    motor_w: float = quantity(
        2.0,
        "Feed motor",
        "W",
        0,
        15,
        step=1,
        relative=0.3,
        names=("motor", "feed motor"),
        help="Heat of the motor on the carriage while it holds or turns; 0 when it sits elsewhere.",
    )
    board_w: float = quantity(
        0.0,
        "Toolhead board",
        "W",
        0,
        15,
        step=1,
        relative=0.3,
        names=("board", "toolhead board"),
        help="Heat of the board on the carriage; 0 without one.",
    )


Clock = Annotated[float, Field(ge=0, le=24)]


class ExtraHeat(Document):
    """Heat that comes from outside between two clock times, every day."""

    label: Annotated[str, Field(min_length=1, max_length=60)]
    into: Literal["wall", "air"] = "wall"
    watts: Annotated[float, Field(ge=0, le=2000)]
    from_h: Clock
    to_h: Clock
    relative_tolerance: Annotated[float, Field(ge=0, le=2)] = 0.25

    def model_post_init(self, _context: Any) -> None:
        """Refuse a span that ends before it begins."""
        if self.to_h <= self.from_h:
            raise ValueError(f"to_h is {self.to_h:g}, not after from_h {self.from_h:g}; split a span at midnight")

"""What the hotend stands in: air, room, case, carriage, and heat from outside."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import Field

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


class Case(Document):
    """The case or enclosure: one volume of air for now."""

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

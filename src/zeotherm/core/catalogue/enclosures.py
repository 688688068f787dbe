"""What the shelves about enclosures hold: kinds, walls, linings, and what sits in and about them."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field, JsonValue, model_validator

from zeotherm.core.catalogue.entry import Entry, Figure, Layer, NotNegative, Positive


class CaseShape(Entry):
    """What closes a machine in: inner size, walls, window, openings, contents. Without walls it stands open."""

    label: str
    width_mm: Annotated[float, Field(ge=100, le=3000)]
    depth_mm: Annotated[float, Field(ge=100, le=3000)]
    height_mm: Annotated[float, Field(ge=100, le=3000)]
    walls: str | None = None
    window: str | None = None
    window_pct: Annotated[float, Field(ge=0, le=100)] = 0.0  # of its front
    open_w_k: Positive | None = None  # of what stands open
    content_j_k: Positive
    gap_cm2: NotNegative
    vent_cm2: NotNegative
    rise_mm: Positive

    @model_validator(mode="after")
    def _walls_or_open(self) -> CaseShape:
        if (self.walls is None) == (self.open_w_k is None):
            raise ValueError("a case has walls, or stands open by open_w_k: one of the two")
        return self


OWN = "own"  # panel that stands for what the case's kind has there


class PanelKind(Entry):
    """What a wall is built of, layers from the inside out."""

    label: str
    layers: tuple[Layer, ...]


class Lining(Entry):
    """What is fitted inside the walls of an enclosure."""

    label: str
    layer: Layer | None = None


class Place(Entry):
    """Where electronics sit: shares of the case's air about them, and of its upper half in that."""

    label: str
    inside: Annotated[float, Field(ge=0, le=1)]
    high: Annotated[float, Field(ge=0, le=1)]
    bay: bool = False  # walls between it and the case, air of its own from the room


class Occupant(Entry):
    """What sits in or about an enclosure; its own watts warm it above the air it sits in, nothing else does."""

    label: str
    station: str
    at: str = ""  # the choice that says where
    high: Annotated[float, Field(ge=0, le=1)] = 0.0
    own_w: Figure | None = None  # that it gives off at work; None: what its load makes it lose
    k_w: Figure  # by which a watt warms it
    near_k: Figure  # by which the air just about it is warmer than its half's


class HeaterPlace(Entry):
    """Where an enclosure's heater stands, as one or as several alike, and what its own fan does there."""

    label: str
    height: Figure  # of the enclosure's, at which it gives its heat [-]
    side_mm: Figure  # of the square that gives it, of each
    units: int = 1
    blown_m3h: Figure | None = None  # by their own fans together, while they heat; None: there is none
    roofward: Figure | None = None  # share that the roof takes before the air mixes; None: none


class Protection(Entry):
    """A way to help a part that gets too warm in a case: what is changed, what it costs, and what it takes care of."""

    label: str
    station: str  # of the part
    kind: str  # move, duct, replace, shield, cool: the first is tried first
    change: dict[str, JsonValue] = Field(default_factory=dict)  # of the setup, where its effect is computed
    cooler_k: Figure | None = None  # what it brings where it is not
    cost: Annotated[float, Field(ge=0)]
    minutes: Annotated[float, Field(ge=0)]
    note: str = ""

"""Wires of a switch that takes the bed off the board: each by its two end points, never by its colour."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from zeotherm.core.machine.quantity import Document

MOST_WIRES = 40
Name = Annotated[str, Field(pattern=r"^[a-z0-9_]+$", max_length=40)]
End = Annotated[str, Field(pattern=r"^[a-z_]+\.[a-z_]+$", max_length=40)]


class Link(Document):
    """One wire between two end points."""

    ends: Annotated[list[End], Field(min_length=2, max_length=2)] = Field(description="Such as supply.plus, fuse.a.")
    mm2: Annotated[float, Field(gt=0, le=50)] = 2.5
    metres: Annotated[float, Field(gt=0, le=30)] = 0.3


class Wiring(Document):
    """The wires as they are to be, checked before anything is wired."""

    kind: Literal["module", "mains"] = "module"
    links: Annotated[list[Link], Field(max_length=MOST_WIRES)] = Field(default_factory=list)
    fuse_a: Annotated[float, Field(ge=0, le=100)] = Field(0.0, description="Rating of the bed's fuse; 0: not known.")
    fuse_kind: Name = Field("unknown", description="Its kind, from the catalogue's fuse_kinds; or unknown.")
    inlet_fuse_a: Annotated[float, Field(ge=0, le=63)] = Field(0.0, description="Of the inlet's fuse; 0: not known.")
    inlet_fuse_kind: Name = Field("unknown", description="Its kind, as the bed's.")
    selector: Literal["unknown", "none", "115", "230"] = Field(
        "unknown", description="Where the supply's mains selector stands; none: it has none, it takes both."
    )
    rated_a: Annotated[float, Field(ge=0, le=200)] = Field(0.0, description="Of the switch; 0: as its kind.")
    metal_bed: bool = Field(True, description="Whether the bed is metal that can be touched.")
    leakage_protected: bool = Field(False, description="Whether the outlet trips on leakage to earth.")

"""What the shelves about power hold: paths, supplies, contacts, wires, switches."""

from __future__ import annotations

import itertools
from typing import Annotated, Literal

from pydantic import Field, model_validator

from zeotherm.core.catalogue.entry import Alike, Entry, NotNegative, Positive

Share = Annotated[float, Field(gt=0, le=1)]


class PowerPath(Entry):
    """By what the bed is switched."""

    label: str
    described: bool = False
    shared_feed: bool = False  # the feed wire carries the other loads, too
    mains: bool = False  # the bed is fed from the wall
    switch: str = ""  # that such a path begins with
    terminals_k: Annotated[float, Field(ge=0, le=1)] = 0.0  # share of the board's rise that its terminals stand in


class ContactKind(Alike):
    """How wires are joined; of one pole."""

    label: str
    milliohm: Positive
    rated_a: Positive
    service_c: Positive
    air_w_k: Positive
    body_w_k: NotNegative  # to what it sits on
    heat_j_k: Annotated[float, Field(gt=0)]
    method: str  # how it is to be made
    rated_v: Annotated[float, Field(gt=0)] = 60.0  # that it is made for; what nobody told is low voltage
    mains: bool = False  # whether it is made for the mains: insulation, covers, creepage
    wrong: bool = False  # made as it must not be
    offered: bool = True  # whether anybody would make it so on purpose
    retorque_h: Annotated[float, Field(ge=0)] = 0.0  # of use after which it is to be tightened; zero: never


class ContactState(Entry):
    """How a contact stands, and how it ages."""

    label: str
    times: Positive  # a sound one's milliohms
    yearly: Positive  # factor on them in a year of use


class WireMetal(Entry):
    """What strands are made of."""

    label: str
    resistivity_ohm_m: Positive
    per_k: Positive
    conductivity_w_mk: Positive
    capacity_j_m3k: Positive
    offered: bool = True  # whether anybody would choose it


class WireInsulation(Entry):
    """Insulation by its class."""

    label: str
    service_c: Positive
    conductivity_w_mk: Positive
    wall_mm: Positive
    cold_c: float  # below which it cracks when it moves
    rated_v: Annotated[float, Field(gt=0)] = 60.0  # what nobody told is low voltage


class ConductorSize(Entry):
    """A cross-section that is sold, and what it carries."""

    mm2: Annotated[float, Field(gt=0)]
    amps_30c: Positive  # for long, two loaded in free air of 30 °C, insulation of the 70 °C class


class WireDuty(Entry):
    """What a wire is for, and the thinnest that the trade uses for it."""

    label: str
    least_mm2: Annotated[float, Field(gt=0)]
    why: str


class FuseKind(Entry):
    """A kind of fuse by what it may break."""

    label: str
    ac_v: Annotated[float, Field(ge=0)]
    dc_v: Annotated[float, Field(ge=0)]
    breaks_a: Annotated[float, Field(ge=0)]


class Motion(Entry):
    """What shaking takes of a contact's rating, and how it hastens its ageing."""

    label: str
    keeps: Share
    ages: Annotated[float, Field(ge=1)]


class Switch(Alike):
    """What switches a bed."""

    label: str
    milliohm: Positive
    per_k: Positive
    drop_v: NotNegative
    own_w: Annotated[float, Field(ge=0)]
    cooled_w_k: Positive
    heat_j_k: Annotated[float, Field(gt=0)]
    rated_a: Positive
    service_c: Positive
    mains: bool  # whether it may switch the mains
    dc_v: Annotated[float, Field(ge=0)] = 0.0  # direct current that it breaks: up to so many volts
    dc_a: Annotated[float, Field(ge=0)] = 0.0  # and amps
    often: bool = True  # whether it may switch several times a minute, for years


class PowerSource(Entry):
    """What may feed a load or a converter."""

    label: str


class SupplyKind(Alike):
    """A kind of supply."""

    label: str
    converts: Literal["", "down", "up"] = ""  # another supply's output to fewer or more volts; else the mains
    efficiency: Annotated[tuple[tuple[float, float], ...], Field(min_length=2)]  # (share of its rating, efficiency)
    efficiency_tolerance: Annotated[float, Field(ge=0, le=0.2)]
    full_to_c: Positive
    hottest_c: Positive
    share_hottest: Positive
    power_factor: Positive  # real over apparent watts at the wall
    idle_w: Annotated[float, Field(ge=0)]
    inrush_a: Positive
    yearly: NotNegative

    @model_validator(mode="after")
    def _curves_make_sense(self) -> SupplyKind:
        shares = [share for share, _value in self.efficiency]
        if not all(a < b for a, b in itertools.pairwise(shares)) or shares[0] <= 0.0:
            raise ValueError("efficiency needs rising shares of the rating, above zero")
        if not all(0.3 < value < 1.0 for _share, value in self.efficiency):
            raise ValueError("an efficiency lies between 0.3 and 1")
        if self.hottest_c.value <= self.full_to_c.value or self.share_hottest.value > 1.0:
            raise ValueError("hottest_c lies above full_to_c, and share_hottest is at most 1")
        return self


class Terminals(Entry):
    """A part that wires end at: its end points with their labels."""

    label: str
    kinds: tuple[Literal["module", "mains"], ...]  # of wiring that have it
    points: dict[str, str]
    mains_points: dict[str, str] = Field(default_factory=dict)  # that count only where mains is wired
    net: Literal["low", "mains", "either"]


class WiringFault(Entry):
    """What can be wrong with a way of wiring, and what comes of it."""

    label: str
    comes: str
    bad: Literal["fire", "dead", "stop"]

"""What the bench knows of measuring: channels, kinds of figures, what must be equal, and guided tests."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from zeotherm.core.catalogue.entry import Entry
from zeotherm.core.catalogue.knowledge import Sign

HalfWidth = Annotated[float, Field(ge=0)]


class Channel(Entry):
    """One thing that can be logged: a station of the machine, or a figure beside it."""

    label: str = ""  # of a station: the station's own
    kind: str
    names: tuple[str, ...]


class Kind(Entry):
    """A kind of measured figure: its unit, bounds, conversions (factor, shift), and an instrument's usual doubt."""

    unit: str
    low: float
    high: float
    offset: HalfWidth  # 95 %, in the unit, the same in every run of the instrument
    relative: HalfWidth  # 95 %, as a share of the value, the same in every run of the instrument
    repeat: HalfWidth  # 95 %, in the unit, from run to run
    units: dict[str, tuple[float, float]]
    channel: str = ""  # that a column is taken for by such a unit alone


class FigureKind(Entry):
    """A figure taken from a run, and its usual scatter between equal runs (95 % half-widths, the wider holds)."""

    label: str
    unit: str
    repeat: HalfWidth
    relative: HalfWidth


class Condition(Entry):
    """What must be equal for two runs to be comparable; an `outcome` is what came of them, read by hand."""

    label: str
    kind: Literal["number", "text", "hash", "proof", "outcome"]
    unit: str = ""
    tolerance: HalfWidth = 0.0
    from_run: str = Field("", alias="from")
    asked: bool = True  # whether it is missed where nobody noted it
    why: str


class ProtocolStep(Entry):
    """One thing to do in a guided test, and how long it is held."""

    text: str
    hold_min: HalfWidth = 0.0
    signs: tuple[Sign, ...] = ()


class Protocol(Entry):
    """A guided test."""

    label: str
    why: str
    steps: tuple[ProtocolStep, ...]
    equal: tuple[str, ...]  # conditions
    figures: tuple[str, ...]  # kinds of figures it is made for
    runs: Annotated[int, Field(ge=1)] = 1
    cautions: tuple[str, ...] = ()

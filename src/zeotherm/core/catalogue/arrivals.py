"""What is brought to a bench: the nearest kinds of machine and their parts, complaints and wishes, the readings that
tell most."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, JsonValue

from zeotherm.core.catalogue.entry import Entry

Code = Annotated[str, Field(pattern=r"^[a-z][0-9]$")]  # typed for it
Group = Literal["hotend", "bed", "enclosure", "wiring", "print", "wish"]


class MachineKind(Entry):
    """A kind of machine that one on the bench may be nearest to. All that it says of a machine is assumed."""

    code: Code
    label: str
    below: str  # what else tells it
    change: dict[str, JsonValue]  # over a new machine
    frame: Literal["open", "cased", "locker", "towers", "none"]  # of the silhouette
    wide_mm: Annotated[float, Field(ge=0)]
    high_mm: Annotated[float, Field(ge=0)]


class FrameKind(Entry):
    """How a machine is built, and how far it reaches beyond its bed where that is not measured."""

    label: str
    shape: Literal["post", "box", "towers"]
    deeper_mm: Annotated[float, Field(ge=0)]  # than its bed
    higher_mm: Annotated[float, Field(ge=0)]  # than its bed is wide


class Card(Entry):
    """A part of a machine as its picture names it, and what is entered on its card."""

    label: str
    part: str  # whose tab has the rest
    says: tuple[str, ...] = ()  # paths of what the label says below the name
    stations: tuple[str, ...] = ()
    paths: Annotated[tuple[str, ...], Field(min_length=1)]
    needs: str = ""  # path that says whether it is there at all
    lacks: tuple[str | float, ...] = ()  # values of it that say it is not
    without: str = ""  # what the label says then
    several: str = ""  # collection whose members it has, too
    adds: tuple[str, str] | None = None  # how it is added where it is not there, as its card says


class Complaint(Entry):
    """What goes wrong, or what is wanted."""

    code: Code
    label: str
    group: Group
    trouble: str = ""  # whose causes are looked at; none: it is a wish
    part: str = "hotend"  # what is opened where no causes are ranked for it
    answers: tuple[str, ...] = ()  # that it gives in the intake: question.option
    first: str = ""  # what to do before anything else


class FirstReading(Entry):
    """A reading that tells much for a minute at the bench."""

    code: Code
    label: str
    unit: str
    line: str  # of the entry line, with {value}
    path: str = ""  # of the machine as found, where that is what it measures
    tells: str

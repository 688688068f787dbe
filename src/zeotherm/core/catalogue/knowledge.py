"""What the bench knows of machines and troubles: what can be found out, asked and checked, and the causes behind."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, JsonValue, model_validator

from zeotherm.core.catalogue.entry import Entry

Share = Annotated[float, Field(gt=0, lt=1)]
Said = tuple[Share, Annotated[str, Field(min_length=3)]]  # a probability, and the reason for it
Need = Literal["", "case", "heat", "liner"]
Sign = Literal["burn", "mains", "fumes", "flame"]


HOTEND, ANY = "hotend", "any"  # troubles: what is asked about where nobody said, and every one


class TroubleKind(Entry):
    """Where a trouble shows: what is asked and which causes are looked at go by it."""

    label: str


class Option(Entry):
    """One answer, and how often it is given whatever the cause."""

    label: str
    base: Share
    names: tuple[str, ...] = ()  # further words for the entry line
    from_min: float | None = None  # minutes of printing between which a failure is answered so; computed for a world
    until_min: float | None = None
    cured_by: str = ""  # a check: it comes only with what that check takes away; computed for a world
    weight: Annotated[float, Field(gt=0, le=1)] = 1.0  # of such a cure
    first: str = ""  # what to do before anything else is asked


class Askable(Entry):
    """What has a few answers. `one`: they exclude each other and their shares sum to one; `many`: each may hold."""

    label: str
    kind: Literal["one", "many"] = "one"
    minutes: Annotated[float, Field(gt=0)] = 0.3
    about: str = HOTEND  # the trouble that it is asked about
    options: dict[str, Option]
    needs: Need = ""  # what the machine must have for it to make sense

    @model_validator(mode="after")
    def _sums_to_one(self) -> Askable:
        total = sum(option.base for option in self.options.values())
        if self.kind == "one" and abs(total - 1.0) > 0.011:
            raise ValueError(f"the base shares of its options sum to {total:.2f}, not 1")
        return self


class IntakeQuestion(Askable):
    """A fact that is known or can be told at once."""


class Check(Askable):
    """Something to do at the bench, and what it costs."""

    how: str
    cost: Annotated[float, Field(ge=0)] = 0.0
    signs: tuple[Sign, ...] = ()
    dismantles: bool = False
    buys: bool = False
    fan: bool = False  # belongs to the fan checks that come early for a fault that takes its time
    simulated: dict[str, JsonValue] | None = None  # a change of the machine: whether it cures is computed
    without_heats: bool = False  # the same without sun or other extra heat
    outlasts: bool = False  # takes as long as the trouble usually takes to come, and half as long again
    reads: str = ""  # a station: the answer is a reading
    heat: str = ""  # a heat rule: how hot it wants the block, as far as every part stands it


class World(Entry):
    """One way in which a cause shows in the machine: paths kept as found, and a change over a sound machine."""

    share: Annotated[float, Field(gt=0, le=1)] = 1.0
    keep: tuple[str, ...] = ()
    change: dict[str, JsonValue] = Field(default_factory=dict)
    adds: dict[str, float] = Field(default_factory=dict)


class Domain(Entry):
    """A kind of cause, and what all of the kind show."""

    label: str
    shows: dict[str, Said] = Field(default_factory=dict)


class Cause(Entry):
    """Why a machine fails."""

    label: str
    domain: str
    about: str = HOTEND  # the trouble that it is a cause of
    common: Annotated[float, Field(gt=0)]  # how common, against the others
    why: str  # for that number
    bore: Literal["metal", "liner", "any"] = "any"
    needs: Need = ""
    worlds: tuple[World, ...] = ()  # what is simulated; none: the symptoms alone speak
    must_fail: bool = True  # the feed stops where this is the cause: a world that prints on speaks against it
    shows: dict[str, Said] = Field(default_factory=dict)  # question.option or check.option -> probability and reason
    refuted_by: str = ""  # in words
    mends: str
    remedies: tuple[str, ...] = ()  # of the catalogue, for the options board
    leaves: str = ""  # said when this cause leads: the trouble is not one of heat

    @model_validator(mode="after")
    def _shares_sum_to_one(self) -> Cause:
        if self.worlds and abs(sum(world.share for world in self.worlds) - 1.0) > 0.011:
            raise ValueError("the shares of its worlds do not sum to 1")
        return self


class Reference(Entry):
    """What a sound machine has in one place; how far a setup is from it is a reason for its trouble."""

    good: float | str  # "rated": as the fitted fan says
    at_least: float = 0.0  # departures smaller than this are not worth a word
    worse: Literal["above", "below", "other"]


class Sound(Reference):
    """What a machine is set to before one cause is put into it."""

    bore: Literal["metal", "liner", "any"] = "any"
    text: str = ""  # how a departure reads


Told = Literal["sink_base", "creeps", "heater", "heat_up", "most_flow", "grams"]  # of what is tried


class RemedyTry(Entry):
    """One of what is compared, as a change of the machine."""

    label: str
    change: dict[str, JsonValue] = Field(default_factory=dict)


class RemedyComparison(Entry):
    """What the trade holds against each other: parts of a kind, or a remedy against none; the usual one first."""

    label: str
    asks: str  # what people want to know
    why: str  # what is behind the answer
    on: dict[str, JsonValue] = Field(default_factory=dict)  # what the manual tries it on, over an ordinary machine
    airs_c: tuple[Annotated[float, Field(ge=5, le=150)], ...] = ()  # at the print; none: as the job has it
    tells: Annotated[tuple[Told, ...], Field(min_length=1)]
    tries: Annotated[tuple[RemedyTry, ...], Field(min_length=2)]


class Contradiction(Entry):
    """Two answers that cannot both be so."""

    one: str
    other: str
    text: str


class MayBe(Entry):
    """What a fact may turn out to be, as a change of the machine, and how common that is."""

    share: Share
    change: dict[str, JsonValue]


class Instrument(Entry):
    """What a value of a machine is measured with, and its 95 % half-width."""

    label: str
    unit: str
    doubt: Annotated[float, Field(ge=0)]  # in that unit
    share: Annotated[float, Field(ge=0, lt=1)]  # of the value, besides

    @model_validator(mode="after")
    def _doubts_something(self) -> Instrument:
        if self.doubt <= 0.0 and self.share <= 0.0:
            raise ValueError("an instrument has a doubt: doubt in its unit, share of the value, or both")
        return self

    def half_width(self, value: float) -> float:
        """Of a reading of it, in its unit, 95 %."""
        return self.doubt + self.share * abs(value)


class Fact(Entry):
    """Something of a machine that somebody can find out, and what it may be until then."""

    label: str
    find: str  # how to find it out, as it stands after a colon
    minutes: Annotated[float, Field(gt=0)]
    part: str = "hotend"  # whose verdict stands on it
    also: tuple[str, ...] = ()  # and whose else
    paths: Annotated[tuple[str, ...], Field(min_length=1)]  # in the machine as found; all of them are told, or none is
    needs: Literal["", "liner", "stated", "computed", "vented"] = ""  # what the machine must have for it to count
    toolhead: str = ""  # number of the further one that it is of; none: of the machine, or the one in front
    of: tuple[str, str] | None = None  # collection and number of what it is of, where that is not the first
    further: bool = False  # whether it counts for further toolheads alone
    between: tuple[float, float] | None = None  # 95 % of such machines lie there
    within: Annotated[float, Field(gt=0)] | None = None  # or so close to what is assumed
    within_pct: Annotated[float, Field(gt=0, lt=100)] | None = None  # or so many per cent of it
    may_be: tuple[MayBe, ...] = ()
    signs: tuple[Sign, ...] = ()

    @property
    def tells(self) -> bool:
        """Whether it says what it may be."""
        return any(self._ways)

    @property
    def _ways(self) -> list[bool]:
        return [one is not None for one in (self.between, self.within, self.within_pct)] + [bool(self.may_be)]

    @model_validator(mode="after")
    def _says_one_thing(self) -> Fact:
        given = self._ways
        if sum(given) > 1 or (self.may_be == () and any(given) and len(self.paths) > 1):
            raise ValueError(
                "a fact has one of between, within, within_pct and may_be, of one number where it is no kind"
            )
        if self.between is not None and self.between[0] >= self.between[1]:
            raise ValueError("the low end of between comes first")
        return self

"""What Explain shows of the whole machine: its picture with a label for each part, and the card of a part, as frozen
view-models."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from functools import cached_property
from typing import Any

from zeotherm.answers.hotend import Found
from zeotherm.core.catalogue.arrivals import Card
from zeotherm.core.catalogue.shelves import Catalogue
from zeotherm.core.catalogue.stations import OF_FURTHER, STATIONS
from zeotherm.core.guard.clashes import clashes
from zeotherm.core.judgement.margins import Margin, State, worst_first
from zeotherm.core.judgement.standing import (
    LEAST_KNOWN_FIRST,
    Deciding,
    Doubtful,
    Standing,
    facts_by_how,
    facts_here,
    how_told,
    standing,
    told_paths,
)
from zeotherm.core.machine.documents import Job, Setup
from zeotherm.core.machine.further import further_of, further_paths
from zeotherm.core.machine.intake import Attachment
from zeotherm.core.machine.known import How, how_known
from zeotherm.core.machine.patches import value_at
from zeotherm.core.machine.quantity import declared
from zeotherm.core.machine.toolheads import COLLECTION, numbers_of, station_of
from zeotherm.core.parts.part import Part, PartFound
from zeotherm.core.parts.registry import PARTS
from zeotherm.core.parts.whole.watts import MachineWatts, watts_at
from zeotherm.desk.parts.whole.shape import MachineShape, shape_of
from zeotherm.desk.viewmodels import (
    LadderView,
    LeverRow,
    MarginRow,
    ladder,
    machine_rows,
    margin_rows,
    marker,
    unsure,
    unsure_rows,
)
from zeotherm.wording import clashes as clash_words
from zeotherm.wording import machine as words
from zeotherm.wording import margins as rooms
from zeotherm.wording import standing as known
from zeotherm.wording.language import _, begun
from zeotherm.wording.numbers import with_unit
from zeotherm.wording.parts import words_of

MOST_OF_A_PART = 3  # places of a part beside the hotend that the ladder shows
SEVERITY = {State.OVER: 0, State.SHORT: 0, State.CLOSE: 1, State.UNKNOWN: 2, State.CLEAR: 3}
HOTEND = "hotend"  # the card that tells what does not go together in it
RANKED = 3  # facts that have their rank in the picture


@dataclass(frozen=True)
class PartSeen:
    """One part beside the hotend, as far as it is answered."""

    part: Part[Any]
    found: PartFound[Any] | None  # None: nothing is known of it yet
    catalogue: Catalogue
    trouble: str = ""  # why there is no answer for the job as it is now

    @property
    def answer(self) -> Any:
        """Of the part; None while there is none, and where the machine has no such part."""
        return self.found.answer if self.found is not None else None

    @property
    def margins(self) -> list[Margin]:
        """Worst first; none where the machine has no such part."""
        return list(self.answer.margins) if self.answer is not None else []

    @property
    def values(self) -> Mapping[str, float]:
        """Its stations at the moment that is shown."""
        return self.found.values if self.found is not None and self.answer is not None else {}

    @cached_property
    def standing(self) -> Standing:
        """What the verdict on it rests on."""
        if self.found is None:
            return Standing()
        return standing(self.found.job, self.part.key, self.catalogue, self.found.deciding)

    def is_of(self, job: Job) -> bool:
        """Whether it is answered for a job as it is."""
        return self.found is not None and not self.trouble and (self.found.job is job or self.found.job == job)


@dataclass(frozen=True)
class WholeFound:
    """What is known of the machine by now: the hotend at the moment that is shown, and its other parts."""

    hotend: Found
    parts: tuple[PartSeen, ...]

    @property
    def job(self) -> Job:
        """The job on the bench."""
        return self.hotend.job

    @property
    def catalogue(self) -> Catalogue:
        """With the job's own entries."""
        return self.hotend.answer.catalogue

    @cached_property
    def waits(self) -> tuple[PartSeen, ...]:
        """Parts that are still being worked out for the job as it is."""
        return tuple(seen for seen in self.parts if not seen.trouble and not seen.is_of(self.job))

    @cached_property
    def fails(self) -> tuple[PartSeen, ...]:
        """Parts that have no answer for the job as it is."""
        return tuple(seen for seen in self.parts if seen.trouble)

    @cached_property
    def not_entered(self) -> tuple[PartSeen, ...]:
        """Parts that are not there as far as is assumed, and of which nobody entered that they are not."""
        return tuple(
            seen for seen in self.parts
            if seen.is_of(self.job) and seen.answer is None and seen.part.may_be(self.job, self.catalogue)
        )  # fmt: skip

    @property
    def lacks(self) -> bool:
        """Whether there is a part of which nothing is known for the job as it is."""
        return bool(self.waits or self.fails or self.not_entered)

    @cached_property
    def current(self) -> WholeFound:
        """The same without what is of the job as it was before."""
        return replace(self, parts=tuple(replace(one, found=None) if one in self.waits else one for one in self.parts))

    @cached_property
    def margins(self) -> list[Margin]:
        """Of all parts, worst first; those of what is not there last."""
        every = [*self.hotend.judged.margins, *(one for seen in self.parts for one in seen.margins)]
        return sorted(worst_first(every), key=lambda one: (one.room is None, SEVERITY[one.state]))

    @cached_property
    def worst_part(self) -> PartSeen | None:
        """The part that the verdict on the machine speaks of: what is past a limit before what is close to one, and
        that before what is too close to call. None: its hotend."""
        place = {one.key: index for index, one in enumerate(self.margins)}
        parts: list[tuple[PartSeen | None, Margin, Standing]] = [
            (None, self.hotend.judged.worst, self.hotend.standing),
            *((seen, seen.margins[0], seen.standing) for seen in self.parts if seen.margins),
        ]

        def urgency(one: tuple[PartSeen | None, Margin, Standing]) -> tuple[int, bool, int]:
            _seen, worst, on = one
            deciding = on.of(worst.key)
            calls = deciding is None or not known.too_close(worst.room, deciding)
            return SEVERITY[worst.state], calls, place[worst.key]

        return min(parts, key=urgency)[0]

    @property
    def lead(self) -> Margin:
        """The margin that the verdict on the machine speaks of."""
        return self.worst_part.margins[0] if self.worst_part is not None else self.hotend.judged.worst

    @cached_property
    def standing(self) -> Standing:
        """What the verdict on the machine stands on."""
        seen = self.worst_part
        return seen.standing if seen is not None else self.hotend.standing

    @cached_property
    def open(self) -> bool:
        """Whether what nobody entered, or what has no answer, may change the verdict on any of its parts."""
        told = (seen.standing.open for seen in self.parts if seen.answer is not None)
        return self.hotend.standing.open or self.lacks or any(told)

    @cached_property
    def values(self) -> dict[str, float]:
        """Stations of all parts at the moment that is shown, as far as they are known."""
        found: dict[str, float] = {}
        for seen in self.parts:
            found |= seen.values
        own = self.hotend.answer.solved.readout.values
        found |= {key: value for key, value in own.items() if value is not None}
        if "bed" not in found and "bed_sensor" in found:  # the hours have no bed where the hotend's air is stated
            found["bed"] = found["bed_sensor"]
        return found


@dataclass(frozen=True, slots=True)
class PartLabel:
    """One part beside the picture."""

    key: str
    label: str
    says: str
    how: How
    rank: int  # among the facts that decide; zero: none of it does
    by: str  # how far its most deciding fact moves the worst margin
    state: State | None  # of its worst margin; None: it has none
    there: bool
    spoken: str
    tip: str


@dataclass(frozen=True, slots=True)
class WholeView:
    """Everything that the picture of a machine paints."""

    shape: MachineShape
    temperatures: Mapping[str, float]  # by station
    labels: tuple[PartLabel, ...]  # most deciding first
    watts: MachineWatts | None
    sentence: str
    facts: tuple[tuple[How, str], ...]  # how many are known so
    spoken: str


@dataclass(frozen=True, slots=True)
class MachineCard:
    """The card of one part of the machine."""

    key: str
    title: str
    aside: str
    how: How
    rows: tuple[LeverRow, ...]
    facts: tuple[tuple[str, str], ...]  # that are assumed: what, and how to find it out
    margins: tuple[MarginRow, ...]
    part: str  # whose tab has the rest
    photo: Attachment | None = None  # of its label


def whole_ladder(whole: WholeFound) -> LadderView:
    """The hotend's ladder with the worst places of the other parts."""
    view = ladder(whole.hotend)
    have = {one.key for one in view.markers}
    more = []
    for seen in whole.parts:
        answer, values = seen.answer, seen.values
        if answer is None:
            continue
        stations = dict.fromkeys(one.station for one in seen.margins)
        keys = [key for key in stations if key in values and key not in have and not _same_place(key, have)]
        made = [marker(key, values[key], answer, whole.job, None) for key in keys]
        more += [one for one in made if one.kind == "ceiling" and STATIONS[one.key].is_temperature][:MOST_OF_A_PART]
    counts = tuple(
        (state, sum(one.state is state for one in whole.margins))
        for state in (State.OVER, State.SHORT, State.CLOSE, State.CLEAR)
    )
    made_of = replace(view, markers=(*view.markers, *more), counts=counts)
    return unsure(made_of) if whole.open else made_of


def _same_place(key: str, have: set[str]) -> bool:
    """Whether the hours of the machine have that air already."""
    return {"case_low": "case_air", "case_high": "case_roof"}.get(key, "") in have


def whole_margins(whole: WholeFound) -> tuple[MarginRow, ...]:
    """Margins of all parts, worst first."""
    return _rows(whole.margins, whole)


def _rows(margins: list[Margin], whole: WholeFound) -> tuple[MarginRow, ...]:
    rows = margin_rows(_Judged(margins))
    return unsure_rows(rows) if whole.open else rows


@dataclass(frozen=True)
class _Judged:
    """Margins as an answer has them."""

    margins: list[Margin]

    @property
    def worst(self) -> Margin:
        return self.margins[0]

    @property
    def strengths(self) -> list[Any]:
        return []


def whole_view(whole: WholeFound) -> WholeView:
    """The picture of a machine at the moment that is shown."""
    job, catalogue, found = whole.job, whole.catalogue, whole.hotend
    setup = job.setup()
    course = found.course
    watts = watts_at(course.run, found.time, found.answer.solved) if course is not None else None
    closed = catalogue.cases[setup.case.part].walls is not None
    if watts is not None:
        sentence = words.balance(watts, closed=closed)
    elif course is None:
        sentence = _("The hours of the job are being worked out.")
    else:
        sentence = words.NO_WATTS
    counts = facts_by_how(job, catalogue)
    return WholeView(
        shape=shape_of(setup, catalogue),
        temperatures=whole.values,
        labels=part_labels(whole),
        watts=watts,
        sentence=sentence,
        facts=tuple((how, words.HOW_MANY[how].format(count=count)) for how, count in counts.items() if count),
        spoken=f"{sentence} {words.counted(counts)}.",
    )


def cards_of(setup: Setup, catalogue: Catalogue) -> dict[str, Card]:
    """Every card, with one for each part that plugs in: all that it declares; and with all of each further supply."""
    cards = dict(catalogue.cards)
    on_a_card = {path for card in cards.values() for path in card.paths}
    for part in PARTS.values():
        own = tuple(path for path in declared(Setup) if path.startswith(f"{part.key}.") and path not in on_a_card)
        if own:
            cards[part.key] = Card(label=words_of(part).LABEL, part=part.key, says=own[:1], paths=own,
                                   stations=tuple(part.stations))  # fmt: skip
    return {key: _with_its(card, setup) if card.several else card for key, card in cards.items()}


def _with_its(card: Card, setup: Setup) -> Card:
    """The card of what a machine has several of, with all of each."""
    own = tuple(path for path in further_paths(setup) if path.startswith(f"{card.several}."))
    numbers = sorted(further_of(setup, card.several))
    places = tuple(station_of(number, place) for number in numbers for place in OF_FURTHER[card.several])
    paths = own + card.paths if card.needs == card.several else card.paths + own
    return card.model_copy(update={"paths": paths, "stations": card.stations + places})


def part_labels(whole: WholeFound) -> tuple[PartLabel, ...]:
    """A label for each card, those first that have what decides."""
    catalogue = whole.catalogue
    worst, deciding = whole.lead, whole.standing.of(whole.lead.key)
    made = [_label(key, card, whole, worst, deciding) for key, card in cards_of(whole.job.setup(), catalogue).items()]
    return tuple(sorted(made, key=lambda one: (one.rank == 0, one.rank, not one.there)))


def _label(key: str, card: Card, whole: WholeFound, worst: Margin, deciding: Deciding | None) -> PartLabel:
    job, catalogue = whole.job, whole.catalogue
    setup = job.setup()
    there = _there(card, setup)
    says = _says(card, setup, catalogue) if there else card.without
    how = card_known(card, job, catalogue)
    rank, most = _decides(card, deciding, catalogue)
    by = known.moves(most, known.unit_of(worst), catalogue) if most is not None else ""
    margins = [one for one in whole.margins if one.station in card.stations and one.room is not None]
    state = margins[0].state if margins else None
    if state is State.CLEAR and whole.open:
        state = State.UNKNOWN
    spoken = [f"{card.label}: {says}" if says else card.label, known.HOW_KNOWN[how]]
    spoken += [_("moves {part} by {by}").format(part=rooms.label(worst).lower(), by=by)] if by else []
    spoken += [rooms.spoken(one) for one in margins[:1]]
    return PartLabel(key, card.label, says, how, rank, by, state, there, ", ".join(spoken), ". ".join(spoken))


def _says(card: Card, setup: Setup, catalogue: Catalogue) -> str:
    """What a label says below its name; of what stands open nothing is inside or outside. Of several it says which."""
    if card.needs and isinstance(value_at(setup, card.needs), dict):
        return ", ".join(numbers_of(setup) if card.needs == COLLECTION else sorted(further_of(setup, card.needs)))
    closed = catalogue.cases[setup.case.part].walls is not None
    told = [
        words.value_text(setup, path, catalogue, brief=True)
        for path in card.says
        if closed or getattr(declared(Setup)[path], "shelf", "") != "places"
    ]
    told += sorted(further_of(setup, card.several)) if card.several else []
    return ", ".join([*told[:1], *(begun(one) for one in told[1:])])


def _there(card: Card, setup: Setup) -> bool:
    needed = value_at(setup, card.needs) if card.needs else None
    return bool(needed) if isinstance(needed, dict) else needed is None or needed not in card.lacks


def card_known(card: Card, job: Job, catalogue: Catalogue) -> How:
    """How a part is known: as the least known of its facts; where it has none, as what its label says."""
    paths = set(card.paths)
    facts = [fact for fact in facts_here(job.setup(), catalogue).values() if not paths.isdisjoint(fact.paths)]
    ways = [how_told(job, fact) for fact in facts] or [how_known(job.known, path) for path in card.says]
    return min(ways, key=LEAST_KNOWN_FIRST.index) if ways else "assumed"


def _decides(card: Card, deciding: Deciding | None, catalogue: Catalogue) -> tuple[int, Doubtful | None]:
    """The rank of a card's most deciding fact, zero for none, and that fact."""
    if deciding is None:
        return 0, None
    for rank, one in enumerate(deciding.first[:RANKED], 1):
        if set(catalogue.facts[one.key].paths) & set(card.paths):
            return rank, one
    return 0, None


def card_view(key: str, whole: WholeFound, job: Job) -> MachineCard:
    """The card of one part; job: as it is by now, answered or not. KeyError for one that there is not."""
    catalogue = whole.catalogue
    setup = job.setup()
    card = cards_of(setup, catalogue)[key]
    worst, deciding = whole.lead, whole.standing.of(whole.lead.key)
    facts: list[tuple[str, str]] = []
    ways: list[How] = []
    by_key = {one.key: one for one in deciding.facts} if deciding is not None else {}
    for name, fact in facts_here(setup, catalogue).items():
        if set(card.paths).isdisjoint(fact.paths):
            continue
        how = how_told(job, fact)
        told = _("{find} ({minutes})").format(find=fact.find, minutes=known.minutes(fact.minutes))
        if name in by_key:
            told = _("{by}: {find} ({minutes})").format(
                by=known.moves(by_key[name], known.unit_of(worst), catalogue), find=fact.find,
                minutes=known.minutes(fact.minutes),
            )  # fmt: skip
        ways.append(how)
        if how == "assumed":
            facts.append((fact.label, told))
    counts = {how: ways.count(how) for how in LEAST_KNOWN_FIRST}
    if key == HOTEND:
        facts += [
            (clash_words.head(one), clash_words.sentence(one)) for one in clashes(setup, catalogue, told_paths(job))
        ]
    adds = card.adds if not _there(card, setup) else None
    facts += [adds] if adds is not None else []
    rows = machine_rows(job, catalogue, card.paths) if adds is None else ()
    margins = [one for one in whole.margins if one.station in card.stations and one.room is not None]
    return MachineCard(
        key, card.label, words.counted(counts) if ways else "", card_known(card, job, catalogue), rows, tuple(facts),
        _rows(margins, whole), card.part, job.photos.get(key),
    )  # fmt: skip


def air_tags(whole: WholeFound) -> tuple[str, str]:
    """Air under the roof and at the print in words; nothing where nobody knows it."""
    values = whole.values
    high, low = values.get("case_roof"), values.get("case_air")
    return (
        _("{value} under the roof").format(value=with_unit(high, "°C", 0)) if high is not None else "",
        _("{value} at the print").format(value=with_unit(low, "°C", 0)) if low is not None else "",
    )

"""What the list of deciding facts paints: the band now and then, each fact by how far it moves the worst margin."""

from __future__ import annotations

from dataclasses import dataclass

from zeotherm.answers.hotend import Found
from zeotherm.core.catalogue.shelves import Catalogue
from zeotherm.core.judgement.bands import Band
from zeotherm.core.judgement.margins import Margin, Ordered
from zeotherm.core.judgement.standing import Deciding, Standing
from zeotherm.core.machine.documents import declaration
from zeotherm.wording import margins as words
from zeotherm.wording import numbers
from zeotherm.wording import standing as known
from zeotherm.wording.language import _, begun

DECIDE = _("Facts that decide")
LISTED = 3  # facts of a part that are named


@dataclass(frozen=True, slots=True)
class FactRow:
    """One fact that nobody told."""

    key: str
    rank: int
    label: str
    find: str
    by: str  # how far it moves the worst margin
    minutes: str
    bar: float  # share of the most deciding one's length; zero: none is drawn
    sought: str  # what finds it among all of the machine
    spoken: str
    tip: str


@dataclass(frozen=True, slots=True)
class BandLane:
    """The room to the limit with its band, on a line whose post is the limit; the room counts to the left."""

    label: str
    word: str
    low: float  # room at the low end of the band, as shares of half the line
    room: float
    high: float


@dataclass(frozen=True, slots=True)
class FactsView:
    """Everything the list paints."""

    head: str
    aside: str
    lanes: tuple[BandLane, ...]
    rows: tuple[FactRow, ...]
    rest: str  # what is folded, or all there is to say


def left_open(found: Found) -> bool:
    """Whether what nobody entered may move the hotend's margins: none of them is clear then."""
    return found.standing.open


def facts_view(found: Found) -> FactsView | None:
    """The facts that decide the verdict on a job's hotend; None where nothing is assumed."""
    on, judged = found.standing, found.judged
    if not on.assumed or not judged.margins:
        return None
    view = deciding_view(judged, on, found.answer.catalogue)
    if view is None:
        waits = _("{assumed} Which of them decide is being worked out.").format(assumed=known.assumed(on))
        return FactsView(DECIDE, "", (), (), known.assumed(on) if found.decided else waits)
    return view


def deciding_view(judged: Ordered, on: Standing, catalogue: Catalogue) -> FactsView | None:
    """The facts that decide a verdict; None where that is not reckoned."""
    deciding = on.deciding
    margin = judged.margin(deciding.limit) if deciding is not None else None
    if deciding is None or margin is None or margin.room is None:
        return None
    if not deciding.decide and on.open:
        return None
    if not deciding.decide:
        text = _("{assumed} {nothing}").format(assumed=known.assumed(on), nothing=known.NOTHING_DECIDES)
        return FactsView(DECIDE, "", (), (), text)
    aside = _("moves {part} by").format(part=begun(words.label(margin)))
    lanes = _lanes(margin, deciding, catalogue)
    return FactsView(DECIDE, aside, lanes, _rows(margin, deciding, catalogue), _rest(margin, on, deciding, catalogue))


def assumed_view(on: Standing, catalogue: Catalogue) -> FactsView | None:
    """The facts of a part that nobody entered, quickest to find out first; None where all are known."""
    if not on.assumed:
        return None
    quickest = sorted(on.assumed, key=lambda key: catalogue.facts[key].minutes)
    rows = []
    for index, key in enumerate(quickest[:LISTED]):
        fact = catalogue.facts[key]
        told = _("{fact}: {find} ({minutes})").format(
            fact=fact.label, find=fact.find, minutes=known.minutes(fact.minutes)
        )
        sought = declaration(fact.paths[0]).label
        rows.append(
            FactRow(key, index + 1, fact.label, fact.find, "", known.minutes(fact.minutes), 0.0, sought, told, told)
        )
    left = len(quickest) - len(rows)
    rest = _("One more is assumed.") if left == 1 else _("{count} more are assumed.").format(count=left)
    return FactsView(_("Assumed, quickest to find out"), "", (), tuple(rows), rest if left else "")


def _lanes(worst: Margin, deciding: Deciding, catalogue: Catalogue) -> tuple[BandLane, ...]:
    """Now, and once the first are known. What may make another limit the worst takes the bracket past the post."""
    room, unit, clear = worst.room or 0.0, known.unit_of(worst), worst.clear_from or 1.0
    first = tuple(one.key for one in deciding.first)
    spent = known.minutes(sum(catalogue.facts[key].minutes for key in first))
    ends = []
    for told in ((), first):
        own, whole = known.band_of(deciding, told), deciding.without(told)
        past = -0.5 * clear if whole.down > room > 0.0 else room - own.down
        ends.append((own, whole, min(room - own.down, past), room + own.up))
    scale = max(max(abs(low), abs(high)) for _own, _whole, low, high in ends) or 1.0
    labels = (_("Now {band}"), _("After {minutes}: {band}"))
    lanes = []
    for label, (own, whole, low, high) in zip(labels, ends, strict=True):
        close = -whole.up < room < whole.down
        word = _("too close to call") if close else _("holds") if room > 0.0 else _("does not hold")
        text = label.format(band=numbers.band(own, unit), minutes=spent)
        lanes.append(BandLane(text, word, low / scale, room / scale, high / scale))
    return tuple(lanes)


def _rows(worst: Margin, deciding: Deciding, catalogue: Catalogue) -> tuple[FactRow, ...]:
    about, unit = catalogue.facts, known.unit_of(worst)
    most = max((one.width for one in deciding.first if not one.through), default=1.0)
    rows = []
    for index, one in enumerate(deciding.first):
        fact = about[one.key]
        spoken = known.ask(one, catalogue, unit)
        by, sought = known.moves(one, unit, catalogue), declaration(fact.paths[0]).label
        bar = 0.0 if one.through else one.width / most
        rows.append(
            FactRow(one.key, index + 1, fact.label, fact.find, by, known.minutes(fact.minutes), bar,
                    sought, spoken, spoken)
        )  # fmt: skip
    return tuple(rows)


def _rest(worst: Margin, on: Standing, deciding: Deciding, catalogue: Catalogue) -> str:
    """Those that are not listed, in one line."""
    first = {one.key for one in deciding.first}
    left = [key for key in on.assumed if key not in first]
    if not left:
        return ""
    about = catalogue.facts
    others, own = known.band_of(deciding, tuple(first)), deciding.own
    wide = Band(max(others.down**2 - own.down**2, 0.0) ** 0.5, max(others.up**2 - own.up**2, 0.0) ** 0.5)
    together = numbers.band(wide, known.unit_of(worst))
    spent = known.minutes(sum(about[key].minutes for key in left))
    if len(left) == 1:
        return _("One more matters less: {band}, {minutes}").format(band=together, minutes=spent)
    return _("{count} more matter less: together {band}, {minutes}").format(
        count=len(left), band=together, minutes=spent
    )

"""What a verdict stands on, in words: what is assumed, which facts decide, and how to find them out."""

from __future__ import annotations

from collections.abc import Sequence

from zeotherm.core.catalogue.shelves import Catalogue
from zeotherm.core.catalogue.stations import STATIONS
from zeotherm.core.judgement.bands import Band
from zeotherm.core.judgement.margins import Margin
from zeotherm.core.judgement.standing import Deciding, Doubtful, Standing
from zeotherm.wording import margins as rooms
from zeotherm.wording import numbers
from zeotherm.wording.language import _, begun

HOW_KNOWN = {"assumed": _("assumed"), "entered": _("entered"), "measured": _("measured"), "fitted": _("fitted")}
DECIDE = {
    1: _("Too close to call: one fact decides"),
    2: _("Too close to call: two facts decide"),
    3: _("Too close to call: three facts decide"),
}
ONE_WAY = 0.02  # of the wider side: a fact that moves a margin less the other way moves it one way alone
NOTHING_DECIDES = _("Nothing left to find out changes the answer.")


def unit_of(margin: Margin) -> str:
    """The unit of a margin's room."""
    return numbers.difference_unit(STATIONS[margin.station].unit)


def too_close(room: float | None, deciding: Deciding) -> bool:
    """Whether the facts that nobody told may turn a verdict over."""
    now = deciding.now
    return room is not None and bool(deciding.decide) and -now.up < room < now.down


def open_headline(deciding: Deciding) -> str:
    """'Too close to call: three facts decide'."""
    return DECIDE[len(deciding.first)]


def open_reason(worst: Margin, deciding: Deciding, catalogue: Catalogue) -> str:
    """'Neck bore 3.4 K room, ±6.2 K: most of it hangs on sink fan and vents. Cavity may be worst: that hangs on ...'"""
    names = {one.key: begun(catalogue.facts[one.key].label) for one in deciding.first}
    moving = [names[one.key] for one in deciding.first if not one.through]
    told = open_brief(worst, deciding)
    if moving:
        told = _("{part} {room}, {band}: most of it hangs on {facts}.").format(
            part=rooms.label(worst), room=rooms.room(worst), band=numbers.band(band_of(deciding), unit_of(worst)),
            facts=listed(moving),
        )  # fmt: skip
    for limit in dict.fromkeys(one.through for one in deciding.first if one.through):
        facts = listed([names[one.key] for one in deciding.first if one.through == limit])
        told += " " + _("{part} may be worst: that hangs on {facts}.").format(
            part=rooms.name_of(limit, catalogue), facts=facts
        )
    return told


def band_of(deciding: Deciding, known: tuple[str, ...] = ()) -> Band:
    """The band of the worst margin itself, once these are known; what would make another limit the worst has no place
    in its unit."""
    return deciding.without(known, other_limits=False)


def open_brief(worst: Margin, deciding: Deciding) -> str:
    """The same where there is little room."""
    return _("{part} {room}, {band}.").format(
        part=rooms.label(worst), room=rooms.room(worst), band=numbers.band(band_of(deciding), unit_of(worst))
    )


def listed(names: Sequence[str]) -> str:
    """One, two or three names as they stand in a sentence."""
    if len(names) == 1:
        return names[0]
    if len(names) == 2:
        return _("{one} and {two}").format(one=names[0], two=names[1])
    return _("{one}, {two} and {three}").format(one=names[0], two=names[1], three=names[2])


def as_far_as_known(headline: str) -> str:
    """A verdict that stands on facts nobody told."""
    return _("As far as known: {told}").format(told=begun(headline))


def assumed(on: Standing) -> str:
    """How much of it is assumed, and whether that matters."""
    count = len(on.assumed)
    if on.deciding is None or (on.open and not on.deciding.decide):  # nobody knows what hangs on one that was not tried
        return _("One fact is assumed.") if count == 1 else _("{count} facts are assumed.").format(count=count)
    decide = len(on.deciding.decide)
    if decide == 0:
        return (
            _("One fact is assumed; it does not matter here.")
            if count == 1
            else (_("{count} facts are assumed; none of them matters here.").format(count=count))
        )
    if decide == 1:
        return _("{count} facts are assumed; one of them decides.").format(count=count)
    return _("{count} facts are assumed; {decide} of them decide.").format(count=count, decide=decide)


def assumed_short(on: Standing) -> str:
    """'9 facts assumed', where there is little room."""
    count = len(on.assumed)
    return _("1 fact assumed") if count == 1 else _("{count} facts assumed").format(count=count)


def moves(one: Doubtful, unit: str, catalogue: Catalogue) -> str:
    """How far a fact may move the worst margin: '±4.1 K', or one way alone; or what may be the worst instead."""
    if one.through:
        return _("{part} may be worst").format(part=begun(rooms.name_of(one.through, catalogue)))
    band = Band(one.down, one.up)
    for less, more, sign in ((one.up, one.down, numbers.MINUS), (one.down, one.up, "+")):
        if less < ONE_WAY * more:
            return f"{sign}{numbers.plain(more, 0 if more >= 20.0 else numbers.DECIMALS.get(unit, 1))} {unit}"
    return numbers.band(band, unit)


def minutes(value: float) -> str:
    """How long finding out takes."""
    return _("under 1 min") if value < 1.0 else _("{minutes} min").format(minutes=numbers.plain(value, 0))


def ask(one: Doubtful, catalogue: Catalogue, unit: str) -> str:
    """A fact as it is to be found out: 'Sink fan, ±4.1 K: read the label on the fan's hub (1 min)'."""
    fact = catalogue.facts[one.key]
    return _("{fact}, {by}: {find} ({minutes})").format(
        fact=fact.label, by=moves(one, unit, catalogue), find=fact.find, minutes=minutes(fact.minutes)
    )


def would_be(deciding: Deciding, catalogue: Catalogue, unit: str) -> str:
    """What is left once the first facts are known: 'After 9 min: ±2.4 K instead of ±6.2 K'."""
    spent = sum(catalogue.facts[one.key].minutes for one in deciding.first)
    return _("After {minutes}: {after} instead of {now}").format(
        minutes=minutes(spent), now=numbers.band(band_of(deciding), unit),
        after=numbers.band(band_of(deciding, tuple(one.key for one in deciding.first)), unit),
    )  # fmt: skip

"""The card of a machine in words."""

from __future__ import annotations

import math
from typing import Any

from zeotherm.core.catalogue.shelves import Catalogue
from zeotherm.core.choices.machine_card import CardLine
from zeotherm.core.judgement.standing import Standing
from zeotherm.core.machine.documents import Setup
from zeotherm.core.parts.power.judge.voltage import mismatches
from zeotherm.wording import clashes, voltage
from zeotherm.wording.language import _
from zeotherm.wording.numbers import plain
from zeotherm.wording.standing import listed
from zeotherm.wording.verdict import passed

TITLE = _("What this machine prints, by the air at its heatsink fan")
HEADS = (_("Filament"), _("Nozzle"), _("Air at the print"), _("Keep the fan's air below"), _("As the machine stands"))
HOW = _(
    "Measure the air a finger's width in front of the heatsink fan, half an hour into a print. "
    "At or above the figure the feed may jam, or the fan wear out."
)


def head(lines: tuple[CardLine, ...]) -> str:
    """What the fan breathes now, and what it stands itself."""
    if not lines:
        return ""
    text = _(
        "Late in its job the heatsink fan breathes {air} °C; the fan itself is rated to {most} °C. "
        "The air at the print is {print} °C."
    )
    one = lines[0]
    return text.format(air=plain(one.fan_now, 0), most=plain(one.fan_stands, 0), print=plain(one.air_now, 0))


def assumed(on: Standing, catalogue: Catalogue) -> str:
    """What the card stands on that nobody entered; nothing where all is known."""
    facts = [catalogue.facts[key].label for key in on.assumed if key in catalogue.facts]
    if not facts:
        return ""
    return _("Nobody entered: {facts}. Enter them and print the card again before you go by it.").format(
        facts=listed(facts)
    )


def wrong(setup: Setup, catalogue: Catalogue) -> str:
    """A part on the wrong voltage, before anything else; nothing where there is none. Raises DoesNotFitError."""
    found = mismatches(setup, catalogue)
    return f"{voltage.head(found[0])}. {voltage.comes(found[0])}" if found else ""


def title(setup: Setup) -> str:
    """What the card is called: of a machine with several toolheads, the one that it is of."""
    return f"{TITLE} ({setup.toolhead})" if setup.toolheads else TITLE


def below(one: CardLine) -> str:
    """Below which the fan's air is to be kept."""
    if one.barred or one.never:
        return _("do not print")
    return f"{plain(float(math.floor(one.keeps_below)), 0)} °C"


def stands(one: CardLine) -> str:
    """How a filament stands on the machine."""
    if one.cap is not None:
        return _("{part} is rated to {most} °C; {nozzle} °C is wanted.").format(
            part=one.cap.part, most=plain(one.cap.value, 0), nozzle=plain(one.nozzle, 0)
        )
    over = [told for told in one.clashes if told.rule.state == "over"]
    if over:
        return clashes.sentence(over[0])
    if not one.reached:
        return _("The heater does not reach {nozzle} °C.").format(nozzle=plain(one.nozzle, 0))
    if one.passed:
        return f"{passed(one.passed[0])}."
    if one.never:
        return _("The cold end is too warm for it in any air.")
    return " ".join([_feeds(one), *([_("Too cool at the print: it may warp and split.")] if one.cool else []),
                     *(clashes.sentence(other) for other in one.clashes)])  # fmt: skip


def _feeds(one: CardLine) -> str:
    now = plain(one.fan_now, 0)
    if one.holds:
        return _("Feeds.")
    if one.fan_now >= one.fan_stands:
        return _("{air} °C is too warm for the fan itself.").format(air=now)
    if one.fan_from is not None and one.fan_now < one.fan_from:
        return _("May jam: {air} °C at the fan is too close.").format(air=now)
    return _("Jams: {air} °C at the fan is too warm.").format(air=now)


def air(one: CardLine) -> str:
    """What air it wants at the print."""
    return _("{low} to {high} °C").format(low=plain(one.air[0], 0), high=plain(one.air[1], 0))


def rows(lines: tuple[CardLine, ...], catalogue: Catalogue) -> list[tuple[str, ...]]:
    """Every filament by the heads' columns."""
    return [
        (catalogue.filaments[one.filament].label, f"{plain(one.nozzle, 0)} °C", air(one), below(one), stands(one))
        for one in lines
    ]


def as_data(one: CardLine) -> dict[str, Any]:
    """One of them as plain data."""
    return {
        "filament": one.filament, "nozzle_c": one.nozzle, "air_c": list(one.air), "reached": one.reached,
        "air_now_c": one.air_now, "fan_now_c": one.fan_now, "fan_stands_c": one.fan_stands,
        "fan_from_c": one.fan_from, "band_k": one.band, "keep_below_c": None if one.barred else one.keeps_below,
        "barred": one.barred, "holds": one.holds, "text": stands(one),
    }  # fmt: skip

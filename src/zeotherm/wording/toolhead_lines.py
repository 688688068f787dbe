"""What an entry line says of toolheads: that there is one more, which is in front, or something about one of them."""

from __future__ import annotations

import re
from dataclasses import dataclass
from typing import Literal

from zeotherm.core.machine.documents import Setup
from zeotherm.core.machine.patches import Patch
from zeotherm.core.machine.toolheads import NUMBERS, numbers_of
from zeotherm.wording.language import _

ABOUT = re.compile(r"t ?([0-9])\b[:,]?\s*(.*)", re.IGNORECASE)
TURNS = re.compile(
    r"(?:turn to|switch to|activate|show|tool|toolhead|hotend) t?([0-9])$|make t([0-9]) active$", re.IGNORECASE
)
ADDS = re.compile(r"(?:add|with|fit)(?: a)? (?:tool |toolhead |hotend )?t?([0-9])$", re.IGNORECASE)
DROPS = re.compile(r"(?:take out|remove|without|forget|no) (?:tool |toolhead |hotend )?t?([0-9])$", re.IGNORECASE)
NEXT = re.compile(
    r"(?:add |with |fit )?(?:a |an )?(?:second|another|third|fourth|further|twin|dual|double|two)"
    r" (?:hotend|toolhead|extruder|print ?head)s?(?P<how> .*)?$|(?P<idex>idex|independent carriages)$", re.IGNORECASE,
)  # fmt: skip
SEATS = {  # how the hotends sit to each other, by words that say so
    "shared_block": re.compile(r"\b(?:one|same|shared|single)( heater)? block|shared nozzle\b", re.IGNORECASE),
    "own_carriage": re.compile(
        r"\b(?:own|separate|independent|second|two) carriages?|docked|tool ?changer\b", re.IGNORECASE
    ),
    "same_carriage": re.compile(r"\b(?:one|same|shared|single) carriage|side by side\b", re.IGNORECASE),
}
Does = Literal["add", "turn", "take out"]


@dataclass(frozen=True, slots=True)
class ToolheadChange:
    """Add a toolhead, put one in front, or take one out."""

    number: str
    does: Does
    text: str
    change: Patch  # what is said of it besides, as a merge patch over it


@dataclass(frozen=True, slots=True)
class AboutToolhead:
    """A line about a toolhead that is not in front."""

    number: str
    line: str


def toolhead_line(line: str, setup: Setup) -> ToolheadChange | AboutToolhead | str | None:
    """What a line says of toolheads; text: what is wrong with it. None where it is about something else."""
    for pattern, does in ((TURNS, "turn"), (ADDS, "add"), (DROPS, "take out")):
        if found := pattern.match(line):
            number = next(one for one in found.groups() if one)
            return _change(f"T{number}", does, setup)  # type: ignore[arg-type]  # one of the three
    if found := NEXT.match(line):
        free = next((one for one in NUMBERS if one not in numbers_of(setup)), None)
        if free is None:
            return _("There are four toolheads already.")
        how = "own carriage" if found.group("idex") else found.group("how") or ""
        seat = next((key for key, words in SEATS.items() if words.search(how)), None)
        if how.strip() and seat is None:
            return None
        return _change(free, "add", setup, seat)
    if found := ABOUT.match(line):
        number, rest = f"T{found.group(1)}", found.group(2).strip()
        if not rest:
            return _change(number, "turn", setup)
        return _missing(number, setup) or AboutToolhead(number, rest)
    return None


def _missing(number: str, setup: Setup) -> str:
    """What to do where there is no such toolhead; nothing where there is."""
    if number in numbers_of(setup):
        return ""
    if number not in NUMBERS:
        return _("Toolheads are {first} to {last}.").format(first=NUMBERS[0], last=NUMBERS[-1])
    return _("There is no {number}. Type: add {number}").format(number=number)


def _change(number: str, does: Does, setup: Setup, seat: str | None = None) -> ToolheadChange | str:
    if does == "add":
        if number in numbers_of(setup):
            return _("There is a {number} already.").format(number=number)
        if number not in NUMBERS:
            return _("Toolheads are {first} to {last}.").format(first=NUMBERS[0], last=NUMBERS[-1])
        text = _("Adds toolhead {number} as a copy of {front}").format(number=number, front=setup.toolhead)
        return ToolheadChange(number, does, text, {"hotend": {"beside": seat}} if seat else {})
    if missing := _missing(number, setup):
        return missing
    if does == "turn":
        return ToolheadChange(number, does, _("{number} active").format(number=number), {})
    if number == setup.toolhead:
        return _("{number} is active. Switch to another one first.").format(number=number)
    return ToolheadChange(number, does, _("Removes {number}").format(number=number), {})

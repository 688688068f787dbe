"""What an entry line does with what a machine has several of: adds one, tells something of one, or takes one out."""

from __future__ import annotations

import re
from dataclasses import dataclass
from typing import Literal

from zeotherm.core.catalogue.shelves import Catalogue
from zeotherm.core.machine.documents import Setup, declaration
from zeotherm.core.machine.further import further_of
from zeotherm.core.machine.patches import Patch, merged, patch_at
from zeotherm.core.machine.quantity import Choice, Quantity
from zeotherm.core.machine.surroundings import FURTHER_PARTS, PRINTED_PARTS
from zeotherm.wording.language import _
from zeotherm.wording.numbers import with_unit

PLACES = {  # by words that say so, in this order
    "inside_high": re.compile(r"\b(?:inside,? high|at the (?:roof|top)|under the roof|up high|high)\b", re.IGNORECASE),
    "inside_low": re.compile(r"\b(?:inside,? low|at the (?:floor|bottom)|down low|low)\b", re.IGNORECASE),
    "inside_middle": re.compile(r"\b(?:inside,? halfway up|halfway up|half way up)\b", re.IGNORECASE),
    "bay": re.compile(r"\b(?:in )?(?:a |its own )?bay\b", re.IGNORECASE),
    "outside": re.compile(r"\boutside\b", re.IGNORECASE),
}
PRINTED = re.compile(
    r"(?:add |with |fit )?(?:a |an )?(?P<more>(?:second|another|third|further|more) printed parts?\b"
    r"|printed (?!parts?\b))[:,]?\s*(?P<rest>.*)",
    re.IGNORECASE,
)
ABOUT_PART = re.compile(
    r"(?P<adds>(?:add|with|fit)(?: a)? (?:printed part )?)?p ?([0-9])\b[:,]?\s*(?P<rest>.*)", re.IGNORECASE
)
DROPS_PART = re.compile(r"(?:take out|remove|without|forget|no) (?:printed part )?p ?([0-9])$", re.IGNORECASE)
CODE = re.compile(r"[A-Z]{2}|\d")  # of a plastic that is on no shelf, not of a name
IDLE = re.compile(r"\b(?:is|are|in|of|from|printed|made|part|the|a|an|at)\b|[,;:]", re.IGNORECASE)
MOST_NAME = 40
Does = Literal["add", "tell", "take out"]


@dataclass(frozen=True, slots=True)
class FurtherChange:
    """Add one of several, say something of one, or take one out."""

    kind: str  # collection of a setup
    number: str
    does: Does
    text: str
    change: Patch  # over the setup
    told: tuple[str, ...]  # paths that it enters


def take(pattern: re.Pattern[str], text: str) -> tuple[re.Match[str] | None, str]:
    """What a pattern finds in a text, and the text without it."""
    found = pattern.search(text)
    return found, text if found is None else f"{text[: found.start()]} {text[found.end() :]}"


def first_of(patterns: dict[str, re.Pattern[str]], text: str) -> tuple[str, str]:
    """The first of some patterns that a text has, by its key, and the text without it; nothing where it has none."""
    for key, pattern in patterns.items():
        found, rest = take(pattern, text)
        if found is not None:
            return key, rest
    return "", text


def taken_out(kind: str, number: str) -> FurtherChange:
    """One less."""
    return FurtherChange(
        kind, number, "take out", _("Removes {number}").format(number=number), {kind: {number: None}}, ()
    )


def told_of(
    kind: str, number: str, head: str, values: dict[str, float | str], catalogue: Catalogue, plain: Patch | None = None
) -> FurtherChange | str:
    """A change by the paths that a line tells; head: what is said first where it is one more, nothing where it is not;
    plain: what else it sets there. Text: what is out of its bounds."""
    patch: Patch = {kind: {number: plain or {}}} if head or plain else {}
    texts = []
    for path, value in values.items():
        item = declaration(path)
        if isinstance(item, Quantity) and not item.low <= float(value) <= item.high:
            return _("{label} goes from {low} to {high}.").format(
                label=item.label, low=with_unit(item.low, item.unit, 0), high=with_unit(item.high, item.unit, 0)
            )
        patch = merged(patch, patch_at(path, value))
        shown = catalogue.shelf(item.shelf)[str(value)].label if isinstance(item, Choice) else with_unit(
            float(value), item.unit, 0 if float(value) % 1 == 0 else None
        )  # fmt: skip
        texts.append(f"{item.label}: {shown}")
    text = "; ".join(texts)
    if head:
        text = f"{head}: {text}" if text else head
    return FurtherChange(kind, number, "add" if head else "tell", text, patch, tuple(values))


def printed_line(line: str, setup: Setup, catalogue: Catalogue) -> FurtherChange | str | None:
    """What a line says of further printed parts; text: what is wrong with it. None where it is about something else."""
    there = further_of(setup, PRINTED_PARTS)
    if found := DROPS_PART.match(line):
        number = f"P{found.group(1)}"
        return taken_out(PRINTED_PARTS, number) if number in there else _no_part(number)
    if found := ABOUT_PART.match(line):
        number, rest = f"P{found.group(2)}", found.group("rest")
        if number not in there and not found.group("adds"):
            return _no_part(number)
        if number in there and found.group("adds"):
            return _("There is a {number} already.").format(number=number)
        return _part(number, rest, setup, catalogue) if number in FURTHER_PARTS else _no_part(number)
    if found := PRINTED.match(line):
        free = next((one for one in FURTHER_PARTS if one not in there), None)
        if free is None:
            return _("There are six kinds of printed parts already.")
        made = _part(free, found.group("rest"), setup, catalogue)
        named = found.group("more").lower().startswith("printed ")
        return None if named and isinstance(made, FurtherChange) and not made.told else made
    return None


def _no_part(number: str) -> str:
    if number not in FURTHER_PARTS:
        return _("Further printed parts are numbered {first} to {last}.").format(
            first=FURTHER_PARTS[0], last=FURTHER_PARTS[-1]
        )
    return _("There is no {number}. Type: add {number} fan duct, PLA, inside low").format(number=number)


def _part(number: str, rest: str, setup: Setup, catalogue: Catalogue) -> FurtherChange | str:
    place, rest = first_of(PLACES, rest)
    plastics = {
        key: re.compile(
            rf"(?<![\w-]){re.escape(one.label)}(?![\w-])|(?<![\w-]){re.escape(key)}(?![\w-])", re.IGNORECASE
        )
        for key, one in sorted(catalogue.filaments.items(), key=lambda item: -len(item[1].label))
    }
    plastic, rest = first_of(plastics, rest)
    name = " ".join(IDLE.sub(" ", rest).split())
    if CODE.search(name) or len(name) > MOST_NAME:
        return _("'{words}' is not clear. Type a printed part like this: printed fan duct, PLA, inside low").format(
            words=name
        )
    values: dict[str, float | str] = {}
    if plastic:
        values[f"{PRINTED_PARTS}.{number}.plastic"] = plastic
    if place:
        values[f"{PRINTED_PARTS}.{number}.at"] = place
    new = number not in further_of(setup, PRINTED_PARTS)
    if not new and not values and not name:
        return _("Say more about {number}: its plastic, its place or its name, such as: {number} PLA").format(
            number=number
        )
    what = f"{number}, {name}" if name else number
    head = _("Adds printed part {what}").format(what=what) if new else ""
    made = told_of(PRINTED_PARTS, number, head, values, catalogue, {"name": name} if name else None)
    if isinstance(made, FurtherChange) and not made.text:
        return FurtherChange(made.kind, number, made.does, what, made.change, made.told)
    return made

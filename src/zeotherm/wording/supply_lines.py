"""What an entry line says of further supplies and rails: that there is one more, or something about one of them."""

from __future__ import annotations

import re

from zeotherm.core.catalogue.shelves import Catalogue
from zeotherm.core.machine.documents import Setup
from zeotherm.core.machine.supplies import FIRST, FURTHER, MAINS, SUPPLIES, load_path
from zeotherm.core.parts.power.judge.changes import supply_fed
from zeotherm.wording.further_lines import PLACES, FurtherChange, first_of, take, taken_out, told_of
from zeotherm.wording.language import _
from zeotherm.wording.units import NUMBER, read_number

ABOUT = re.compile(r"s ?([0-9])\b[:,]?\s*(.*)", re.IGNORECASE)
ADDS = re.compile(r"(?:add|with|fit)(?: a)? (?:supply |power supply )?s([0-9])\b[:,]?\s*(.*)", re.IGNORECASE)
DROPS = re.compile(r"(?:take out|remove|without|forget|no) (?:supply |power supply )?s([0-9])$", re.IGNORECASE)
NEXT = re.compile(
    r"(?:add |with |fit )?(?:a |an )?(?:(?:second|another|third|further|extra|two|dual) (?:power )?suppl(?:y|ies)"
    r"|(?P<rail>(?:[\d.,]+ ?v(?:olts?)? )?(?:rail|(?:step[ -]?down|step[ -]?up|buck|boost)(?: converter)?|converter)))"
    r"\b[:,]?\s*(?P<rest>.*)", re.IGNORECASE,
)  # fmt: skip
LOADS = {  # what may hang on one, by words that say so, in this order: a bed light is a light
    "lights": re.compile(r"\b(?:bed )?lights?\b|\bdisplay\b|\bcamera\b|\bhost\b|\bcomputer\b|\bled\b", re.IGNORECASE),
    "bed": re.compile(r"\b(?:the |for )?bed\b", re.IGNORECASE),
    "motors": re.compile(r"\bmotors?\b|\bsteppers?\b|\bdrivers?\b", re.IGNORECASE),
    "fans": re.compile(r"\bfans?\b", re.IGNORECASE),
}
LOAD_WORDS = {
    "bed": _("the bed"), "motors": _("the motors"), "fans": _("the fans"), "lights": _("lights and display"),
}  # fmt: skip
KINDS = {  # by words that say so
    "step_down": re.compile(r"\b(?:step[ -]?down|buck)\b(?: converter)?", re.IGNORECASE),
    "step_up": re.compile(r"\b(?:step[ -]?up|boost)\b(?: converter)?", re.IGNORECASE),
    "boxed_fanless": re.compile(r"\b(?:fanless|without (?:a )?fan)\b", re.IGNORECASE),
    "boxed_fan": re.compile(r"\bwith (?:a )?fan\b", re.IGNORECASE),
    "brick": re.compile(r"\bbrick\b", re.IGNORECASE),
}
INSIDE = {"inside_low": re.compile(r"\binside\b", re.IGNORECASE)}
FED_BY = re.compile(r"\b(?:fed by|fed from|from|on|off) (?:the )?(s[1-4]|mains|outlet|wall)\b", re.IGNORECASE)
FIGURES = {"out_v": r"v(?:olts?|dc)?", "supply_w": r"w(?:atts?)?", "years": r"y(?:ea)?rs?(?: old)?"}
FIGURE = f"(?:{NUMBER.pattern})"
AMPS = re.compile(rf"({FIGURE}) ?a(?:mps?)?\b", re.IGNORECASE)
SELECTOR = re.compile(r"\bselector(?: at| on| set to)? ?(115|230)(?: ?v)?\b", re.IGNORECASE)
IDLE_WORDS = re.compile(
    r"\b(?:for|feeds|and|the|a|an|supply|power|converter|rail|of|one|at|is|makes|it|boxed)\b|[,;:]", re.IGNORECASE
)


def supply_line(line: str, setup: Setup, catalogue: Catalogue) -> FurtherChange | str | None:
    """What a line says of further supplies; text: what is wrong with it. None where it is about something else."""
    if found := DROPS.match(line):
        return _taken_out(f"S{found.group(1)}", setup)
    if found := ADDS.match(line):
        return _added(f"S{found.group(1)}", found.group(2), setup, catalogue)
    if found := ABOUT.match(line):
        number, rest = f"S{found.group(1)}", found.group(2).strip()
        if number == FIRST:
            return None if rest else _("S1 is the board's supply. Describe it like this: supply rating 350 W")
        if number not in setup.supplies:
            return _missing(number)
        return _told(number, rest, setup, catalogue)
    if found := NEXT.match(line):
        free = next((one for one in FURTHER if one not in setup.supplies), None)
        if free is None:
            return _("There are four supplies already.")
        return _added(free, f"{found.group('rail') or ''} {found.group('rest')}", setup, catalogue)
    return None


def _missing(number: str) -> str:
    if number not in FURTHER:
        return _("Further supplies are numbered {first} to {last}.").format(first=FURTHER[0], last=FURTHER[-1])
    return _("There is no {number}. Type: add {number} 24 V 350 W").format(number=number)


def _taken_out(number: str, setup: Setup) -> FurtherChange | str:
    return taken_out(SUPPLIES, number) if number in setup.supplies else _missing(number)


def _added(number: str, rest: str, setup: Setup, catalogue: Catalogue) -> FurtherChange | str:
    if number not in FURTHER:
        return _missing(number)
    if number in setup.supplies:
        return _("There is an {number} already.").format(number=number)
    values = _read(rest, setup.power.out_v)
    if isinstance(values, str):
        return values
    rail = re.search(r"\brail\b|\bconverter\b", rest, re.IGNORECASE) is not None
    if rail and "supply" not in values:
        values.setdefault("fed_by", FIRST)
    return _change(number, values, setup, catalogue)


def _told(number: str, rest: str, setup: Setup, catalogue: Catalogue) -> FurtherChange | str:
    values = _read(rest, setup.supplies[number].out_v)
    if isinstance(values, str):
        return values
    if not values:
        return _("Say more about {number}, such as: {number} 24 V 350 W for the bed").format(number=number)
    return _change(number, values, setup, catalogue)


def _read(rest: str, volts: float) -> dict[str, float | str] | str:
    """What is said of a supply, by its field, or by a load with an empty value; text: what is not understood."""
    values = dict[str, float | str]()
    selector, left = take(SELECTOR, rest)
    if selector is not None:
        values["selector_v"] = float(selector.group(1))
    fed, left = take(FED_BY, left)
    if fed is not None:
        said = fed.group(1).upper()
        values["fed_by"] = said if said.startswith("S") else MAINS
    for patterns, field in ((KINDS, "supply"), (PLACES, "supply_at"), (INSIDE, "supply_at")):
        key, left = first_of(patterns, left)
        if key:
            values[field] = key
    for field, unit in FIGURES.items():
        figure, left = take(re.compile(rf"({FIGURE}) ?{unit}\b", re.IGNORECASE), left)
        if figure is not None:
            values[field] = read_number(figure.group(1))
    amps, left = take(AMPS, left)
    if amps is not None:
        values["supply_w"] = read_number(amps.group(1)) * float(values.get("out_v", volts))
    for load, pattern in LOADS.items():
        its, left = take(pattern, left)
        if its is not None:
            values[load] = ""
    odd = IDLE_WORDS.sub(" ", left).split()
    if odd:
        return _("'{words}' is not clear. Type a supply like this: S2 24 V 350 W for the bed").format(
            words=" ".join(odd)
        )
    return values


def _change(number: str, values: dict[str, float | str], setup: Setup, catalogue: Catalogue) -> FurtherChange | str:
    there = setup.supplies.get(number)
    source = values.get("fed_by")
    if source == number:
        return _("{number} cannot feed itself.").format(number=number)
    if source is not None and source not in (MAINS, FIRST, *setup.supplies):
        return _missing(str(source))
    values = supply_fed(setup, number, values, catalogue)
    by_path = {
        load_path(field) if field in LOADS else f"{SUPPLIES}.{number}.{field}": number if field in LOADS else value
        for field, value in values.items()
    }
    head = _("Adds supply {number}").format(number=number) if there is None else ""
    return told_of(SUPPLIES, number, head, by_path, catalogue)

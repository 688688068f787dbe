"""The entry line: `fan 9.1 V`, `break bimetal`, `sink base 54.1`, `air -5 K`, `forget sink base`."""

from __future__ import annotations

import difflib
import re
from collections.abc import Iterator
from dataclasses import dataclass
from functools import cache
from typing import Any

from zeotherm.core.catalogue.shelves import Catalogue
from zeotherm.core.machine.documents import Reading, Setup, value_at
from zeotherm.core.machine.quantity import Choice, Declared, Quantity, declared
from zeotherm.core.twin.stations import STATIONS, Station
from zeotherm.wording.language import _
from zeotherm.wording.numbers import difference_unit, with_unit
from zeotherm.wording.units import NUMBER, NotANumberError, convert, read_number

PLUS_MINUS = "±"
READING_BOUNDS = {"°C": (-50.0, 600.0), "W": (0.0, 600.0)}


@dataclass(frozen=True, slots=True)
class SetValue:
    """Put a value at a path of the setup."""

    path: str
    value: float | str
    text: str


@dataclass(frozen=True, slots=True)
class Read:
    """Pin a measured value to a station; None takes it away."""

    station: str
    value: float | None
    tolerance: float | None  # 95 % half-width; None: the usual one
    text: str


@dataclass(frozen=True, slots=True)
class Unclear:
    """What is missing or wrong, and what to do."""

    text: str


Understood = SetValue | Read | Unclear


@cache
def _vocabulary() -> dict[str, Declared | Station]:
    """Every name a part is known by, in lower case; settings win over readings of the same name."""
    words: dict[str, Declared | Station] = {}
    for station in STATIONS.values():
        if station.readable:
            words |= {name.lower(): station for name in (station.label, *station.names)}
    for item in declared(Setup).values():
        words |= {name.lower(): item for name in (item.label, *item.names)}
    return words


def names() -> list[str]:
    """All names, for completion."""
    return sorted(_vocabulary())


def complete(text: str) -> str | None:
    """The one name that the typed letters begin, if there is one."""
    typed = text.strip().lower()
    hits = {id(item): name for name, item in sorted(_vocabulary().items(), reverse=True) if name.startswith(typed)}
    return next(iter(hits.values())) if typed and len(hits) == 1 else None


def understand(text: str, setup: Setup, catalogue: Catalogue) -> Understood:
    """What a line means for this setup. Never raises: what is unclear is said in `Unclear`."""
    line = " ".join(text.split())
    if not line:
        return Unclear(_("Type a part and a value, such as: fan 9.1 V"))
    if line.lower().startswith("forget "):
        return _forget(line[7:])
    part = next(_parts_at_start(line), None)
    if part is None:
        return Unclear(_unknown_part(line))
    item, rest = part
    try:
        if isinstance(item, Choice):
            return _choose(item, rest, catalogue.fitting(item.shelf, setup.hotend.template))
        return _measure(item, rest) if isinstance(item, Station) else _set(item, rest, setup)
    except NotANumberError as wrong:
        return Unclear(str(wrong))


def _parts_at_start(line: str) -> Iterator[tuple[Declared | Station, str]]:
    """Parts that the line may begin with, longest name first; then the one that its words abbreviate."""
    lower = line.lower()
    for name in sorted(_vocabulary(), key=len, reverse=True):
        if (
            lower == name
            or lower.startswith(name + " ")
            or re.match(re.escape(name) + r"[\d+\-\N{MINUS SIGN}.,]", lower)
        ):
            yield _vocabulary()[name], line[len(name) :].strip()
            return
    words = re.split(r"\s(?=[\d+\-\N{MINUS SIGN}.,])", line, maxsplit=1)
    whole = complete(words[0])
    if whole:
        yield _vocabulary()[whole], words[1] if len(words) > 1 else ""


def _unknown_part(line: str) -> str:
    words = re.split(r"\s(?=[\d+\-\N{MINUS SIGN}])", line, maxsplit=1)[0]
    if NUMBER.match(words):
        return _("{value} of what? Put the part first, such as: fan {value}").format(value=line)
    near = difflib.get_close_matches(words.lower(), names(), n=1, cutoff=0.55)
    begun = [name for name in names() if name.startswith(words.lower())]
    if begun:
        return _("Go on: {names}").format(names=", ".join(begun[:4]))
    hint = _(" Did you mean {name}?").format(name=near[0]) if near else ""
    return _("No part is called '{words}'.").format(words=words) + hint


def _number_and_unit(rest: str) -> tuple[float, str]:
    """Value, and unit as typed."""
    found = NUMBER.match(rest)
    if not found:
        raise NotANumberError(_("'{text}' is no number.").format(text=rest))
    number = found.group().rstrip()
    return read_number(number), rest[found.end() :].strip()


def _set(item: Quantity, rest: str, setup: Setup) -> Understood:
    now = float(value_at(setup, item.path))
    if not rest:
        return Unclear(
            _("{label} is {value}. Type a new value.").format(label=item.label, value=with_unit(now, item.unit))
        )
    value, unit = _number_and_unit(rest)
    if unit.lower() == "k" and item.unit == "°C":
        value += now
    else:
        value = convert(value, unit, item.unit)
    if not item.low <= value <= item.high:
        return Unclear(_outside(item.label, value, item.low, item.high, item.unit))
    return SetValue(item.path, value, f"{item.label}: {with_unit(value, item.unit, _places(value))}")


def _measure(station: Station, rest: str) -> Understood:
    if not rest:
        return Unclear(_("{label}: type the reading in {unit}.").format(label=station.label, unit=station.unit))
    figure, doubted, doubt_text = rest.replace("+/-", PLUS_MINUS).replace("+-", PLUS_MINUS).partition(PLUS_MINUS)
    value = convert(*_number_and_unit(figure.strip()), station.unit)
    low, high = READING_BOUNDS[station.unit]
    if not low <= value <= high:
        return Unclear(_outside(station.label, value, low, high, station.unit))
    unit = difference_unit(station.unit)
    tolerance = convert(*_number_and_unit(doubt_text.strip()), unit) if doubted else Reading(value=value).tolerance
    if not 0.0 < tolerance <= 50.0:
        return Unclear(_("A doubt goes from above 0 to 50 {unit}.").format(unit=unit))
    shown, doubt = with_unit(value, station.unit), with_unit(tolerance, unit)
    text = _("{label} measured: {value} ±{doubt}").format(label=station.label, value=shown, doubt=doubt)
    return Read(station.key, value, tolerance, text)


def _choose(item: Choice, rest: str, shelf: dict[str, Any]) -> Understood:
    labels = {key: entry.label for key, entry in shelf.items()}
    wanted = rest.lower()
    options = ", ".join(labels.values())
    if not wanted:
        return Unclear(_("{label}: {options}").format(label=item.label, options=options))
    exact = [key for key, label in labels.items() if wanted in (key, label.lower())]
    begun = [key for key, label in labels.items() if key.startswith(wanted) or label.lower().startswith(wanted)]
    hits = exact or begun
    if len(hits) != 1:
        return Unclear(
            _("{label} has no '{wanted}'. Choose: {options}").format(label=item.label, wanted=rest, options=options)
        )
    return SetValue(item.path, hits[0], f"{item.label}: {labels[hits[0]]}")


def _forget(rest: str) -> Understood:
    item = _vocabulary().get(rest.lower())
    if not isinstance(item, Station):
        item = next((station for station in STATIONS.values() if station.label.lower() == rest.lower()), None)
    if item is None:
        return Unclear(_("No reading is called '{words}'.").format(words=rest))
    return Read(item.key, None, None, _("Forget the reading at {label}").format(label=item.label))


def _outside(label: str, value: float, low: float, high: float, unit: str) -> str:
    return _("{label} goes from {low} to {high}; {value} is outside.").format(
        label=label, low=with_unit(low, unit, _places(low)), high=with_unit(high, unit, _places(high)),
        value=with_unit(value, unit, _places(value)),
    )  # fmt: skip


def _places(value: float) -> int:
    """Decimals that show a value as it was typed, three at most."""
    return next((places for places in range(4) if abs(value - round(value, places)) < 1e-9), 3)

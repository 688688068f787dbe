"""What is told of the parts of a shelf, and a part that is on none: like one that is, with figures read off it."""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass
from typing import TYPE_CHECKING, Annotated, Any, Literal, get_args

from pydantic import Field

from zeotherm.core.catalogue.entry import Entry

if TYPE_CHECKING:
    from zeotherm.core.catalogue.shelves import Catalogue

LONGEST_NAME = 60
Source = Literal["data sheet range", "own measurement", "estimate"]  # that a figure of an own part may have
SOURCES: tuple[Source, ...] = get_args(Source)
CONFIDENCE = {"data sheet range": "medium", "own measurement": "medium", "estimate": "low"}
SAME = 1e-9
NOT_PARTS = ("none", "own")  # keys of what is no part: nothing fitted, or as the other part comes
BY_RULE_C, BY_RULE = 10.0, 0.1  # K, or a share of it: half-width of a figure that the other part does not state


class OwnFigure(Entry):
    """One figure that is told of such a part."""

    at: str  # dotted, in the entry
    label: str
    unit: str
    low: float
    high: float
    head: str = ""  # of its column, where the shelf is listed; none: it has none
    doubt: str = ""  # where the entry has the half-width of a curve, as a share
    without: str = ""  # what is taken where an entry does not state it; none: every one does


class OwnKind(Entry):
    """What is told of parts of one shelf."""

    label: str
    plural: str
    group: Literal["Hotend", "Bed", "Enclosure", "Electronics"]
    figures: Annotated[tuple[OwnFigure, ...], Field(min_length=1)]
    rising: tuple[tuple[str, str], ...] = ()  # figures of which the second may not lie below the first


@dataclass(frozen=True, slots=True)
class Stated:
    """A figure as an entry has it, or as it is told; no value: not known."""

    value: float | None
    half: float | None = None  # 95 % half-width, in the unit; none: not stated
    source: str = ""  # none: not stated


class NoSuchPartError(ValueError):
    """A part that cannot be made so, and why."""


def parts_on(catalogue: Catalogue, shelf: str) -> dict[str, Any]:
    """What can be put on a shelf, by key."""
    return {key: entry for key, entry in catalogue.shelf(shelf).items() if key not in NOT_PARTS}


def told_of(entry: Any, figure: OwnFigure) -> float | None:
    """What an entry has for a figure: of a curve the largest; none where it does not say."""
    return stated(entry, figure).value


def stated(entry: Any, figure: OwnFigure) -> Stated:
    """The same with its half-width and where it comes from."""
    found = _at(entry, figure.at)
    if isinstance(found, tuple):
        largest = float(max(found))
        return Stated(largest, _at(entry, figure.doubt) * largest if figure.doubt else None)
    if hasattr(found, "value"):
        return Stated(float(found.value), float(found.tolerance), found.source)
    return Stated(float(found) if found is not None else None)


def _at(entry: Any, place: str) -> Any:
    for step in place.split("."):
        entry = getattr(entry, step)
    return entry


def made_like(catalogue: Catalogue, shelf: str, like: str, name: str, told: Mapping[str, Stated]) -> tuple[str, Any]:
    """Key and entry of a part that is like one of its shelf, but for its name and what is told of it by `OwnFigure.at`.

    A half-width that is not told goes with its figure as a share, of a temperature it stays. Raises NoSuchPartError.
    """
    kind, entries = catalogue.own_figures.get(shelf), catalogue.shelf(shelf)
    if kind is None or like not in entries:
        raise NoSuchPartError(f"nothing is called '{like}' among the {shelf}")
    text = _name(name, entries)
    key = f"own_{re.sub(r'[^a-z0-9]+', '_', text.lower()).strip('_') or kind.label.replace(' ', '_')}"[:50]
    if key in entries:
        raise NoSuchPartError(f"the name is too much like '{entries[key].label}'")
    return key, {**_with_told(kind, entries[like], told), "label": text}


def made_anew(catalogue: Catalogue, shelf: str, key: str, name: str, told: Mapping[str, Stated]) -> Any:
    """An entry with what is told of it, under the key that it has. Raises NoSuchPartError."""
    kind, entries = catalogue.own_figures[shelf], catalogue.shelf(shelf)
    others = {other: entry for other, entry in entries.items() if other != key}
    label = name if name == entries[key].label else _name(name, others)
    return {**_with_told(kind, entries[key], told), "label": label}


def _name(name: str, others: Mapping[str, Any]) -> str:
    text = " ".join(name.split())
    if not text:
        raise NoSuchPartError("type a name, as its label has it")
    if len(text) > LONGEST_NAME:
        raise NoSuchPartError(f"a name has at most {LONGEST_NAME} letters")
    if any(text.lower() == str(one.label).lower() for one in others.values()):
        raise NoSuchPartError(f"there is a '{text}' already")
    return text


def _with_told(kind: OwnKind, like: Any, told: Mapping[str, Stated]) -> dict[str, Any]:
    made: dict[str, Any] = like.model_dump(mode="json")
    by_place = {figure.at: figure for figure in kind.figures}
    for at, new in told.items():
        if at not in by_place:
            raise NoSuchPartError(f"no figure is called '{at}'; there are {', '.join(by_place)}")
        figure = by_place[at]
        if new.value is None:
            if not figure.without:
                raise NoSuchPartError(f"{figure.label} must be a figure: nothing can be solved without it")
            _place(made, at)[at.rpartition(".")[2]] = None
            continue
        if not figure.low <= new.value <= figure.high:
            raise NoSuchPartError(
                f"{figure.label} goes from {figure.low:g} to {figure.high:g} {figure.unit}; {new.value:g} is outside"
            )
        if new.half is not None and not 0.0 <= new.half <= figure.high - figure.low:
            raise NoSuchPartError(f"{figure.label}: ±{new.half:g} {figure.unit} is no tolerance for it")
        if new.source and new.source not in SOURCES:
            raise NoSuchPartError(f"{figure.label}: '{new.source}' is no source; there are {', '.join(SOURCES)}")
        before = stated(like, figure)
        if new.half is not None and not takes_half(before):
            raise NoSuchPartError(f"{figure.label} has no tolerance on this shelf; leave it out")
        if not _same(new, before):
            _put(made, figure, new, before)
    for low, high in kind.rising:
        one, other = (told.get(at, stated(like, by_place[at])).value for at in (low, high))
        if one is not None and other is not None and one > other:
            raise NoSuchPartError(
                f"{by_place[low].label} ({one:g}) is above {by_place[high].label.lower()} ({other:g})"
            )
    return made


def _same(new: Stated, before: Stated) -> bool:
    """Whether nothing is told that the entry does not say."""
    if new.value is None or before.value is None or abs(new.value - before.value) > SAME * max(abs(before.value), 1.0):
        return False
    if new.source and before.source and new.source != before.source:
        return False
    return new.half is None or (before.half is not None and abs(new.half - before.half) <= SAME * max(new.half, 1.0))


def takes_half(known: Stated) -> bool:
    """Whether a figure may have a tolerance: one that is stated as a plain number has no place for it."""
    return known.half is not None or known.value is None


def takes_source(known: Stated) -> bool:
    """Whether it may say where it comes from."""
    return bool(known.source) or known.value is None


def _place(made: dict[str, Any], at: str) -> dict[str, Any]:
    for step in at.split(".")[:-1]:
        made = made[step]
    return made


def _put(made: dict[str, Any], figure: OwnFigure, new: Stated, before: Stated) -> None:
    place, last, value = _place(made, figure.at), figure.at.rpartition(".")[2], new.value
    assert value is not None
    was, share = place[last], value / before.value if before.value else 1.0
    if isinstance(was, list):
        place[last] = [round(one * share, 6) for one in was]
        if new.half is not None and figure.doubt:
            _place(made, figure.doubt)[figure.doubt.rpartition(".")[2]] = round(new.half / value, 9)
    elif isinstance(was, dict):
        width = was["tolerance"] if figure.unit == "°C" else was["tolerance"] * abs(share)
        place[last] = _figure(new, width)
    elif was is None:
        by_rule = BY_RULE_C if figure.unit == "°C" else BY_RULE * abs(value)
        place[last] = {**_figure(new, by_rule), **({} if new.half is not None else {"confidence": "low"})}
    else:
        place[last] = value


def _figure(new: Stated, width: float) -> dict[str, Any]:
    half, source = new.half if new.half is not None else width, new.source or SOURCES[0]
    return {"value": new.value, "tolerance": round(half, 9), "source": source, "confidence": CONFIDENCE[source]}

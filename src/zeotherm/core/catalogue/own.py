"""A part that is on no shelf: like one that is, with the figures that somebody can read off it."""

from __future__ import annotations

import re
from collections.abc import Mapping
from typing import TYPE_CHECKING, Annotated, Any

from pydantic import Field

from zeotherm.core.catalogue.entry import Entry

if TYPE_CHECKING:
    from zeotherm.core.catalogue.shelves import Catalogue

LONGEST_NAME = 60
SOURCE, CONFIDENCE = "data sheet range", "medium"  # of a figure that was read off a part
SAME = 1e-9


class OwnFigure(Entry):
    """One figure that is told of such a part."""

    at: str  # dotted, in the entry
    label: str
    unit: str
    low: float
    high: float


class OwnKind(Entry):
    """What is told of parts of one shelf."""

    label: str
    figures: Annotated[tuple[OwnFigure, ...], Field(min_length=1)]
    rising: tuple[tuple[str, str], ...] = ()  # figures of which the second may not lie below the first


class NoSuchPartError(ValueError):
    """A part that cannot be made so, and why."""


def told_of(entry: Any, figure: OwnFigure) -> float | None:
    """What an entry has for a figure: of a curve the largest; none where it does not say."""
    found = entry
    for step in figure.at.split("."):
        found = getattr(found, step)
    if isinstance(found, tuple):
        return float(max(found))
    value = getattr(found, "value", found)
    return float(value) if value is not None else None


def made_like(catalogue: Catalogue, shelf: str, like: str, name: str, told: Mapping[str, float]) -> tuple[str, Any]:
    """Key and entry of a part that is like one of its shelf, but for its name and what is told of it by `OwnFigure.at`.

    A figure's half-width goes with it as a share, of a temperature it stays. Raises NoSuchPartError.
    """
    kind, entries = catalogue.own_figures.get(shelf), catalogue.shelf(shelf)
    if kind is None or like not in entries:
        raise NoSuchPartError(f"nothing is called '{like}' among the {shelf}")
    text = " ".join(name.split())
    if not text:
        raise NoSuchPartError("type a name, as its label has it")
    if len(text) > LONGEST_NAME:
        raise NoSuchPartError(f"a name has at most {LONGEST_NAME} letters")
    if any(text.lower() == str(one.label).lower() for one in entries.values()):
        raise NoSuchPartError(f"there is a '{text}' already")
    key = f"own_{re.sub(r'[^a-z0-9]+', '_', text.lower()).strip('_') or kind.label.replace(' ', '_')}"[:50]
    if key in entries:
        raise NoSuchPartError(f"the name is too much like '{entries[key].label}'")
    made: dict[str, Any] = entries[like].model_dump(mode="json")
    made["label"] = text
    by_place = {figure.at: figure for figure in kind.figures}
    for at, value in told.items():
        if at not in by_place:
            raise NoSuchPartError(f"no figure is called '{at}'; there are {', '.join(by_place)}")
        figure = by_place[at]
        if not figure.low <= value <= figure.high:
            raise NoSuchPartError(
                f"{figure.label} goes from {figure.low:g} to {figure.high:g} {figure.unit}; {value:g} is outside"
            )
        before = told_of(entries[like], figure)
        if before is None or abs(value - before) > SAME * max(abs(before), 1.0):
            _put(made, figure, value, before)
    for low, high in kind.rising:
        one, other = (told.get(at, told_of(entries[like], by_place[at])) for at in (low, high))
        if one is not None and other is not None and one > other:
            raise NoSuchPartError(
                f"{by_place[low].label} ({one:g}) is above {by_place[high].label.lower()} ({other:g})"
            )
    return key, made


def _put(made: dict[str, Any], figure: OwnFigure, value: float, before: float | None) -> None:
    *way, last = figure.at.split(".")
    place = made
    for step in way:
        place = place[step]
    was, share = place[last], value / before if before else 1.0
    if isinstance(was, list):
        place[last] = [round(one * share, 6) for one in was]
    elif isinstance(was, dict):
        width = was["tolerance"] if figure.unit == "°C" else was["tolerance"] * abs(share)
        place[last] = {"value": value, "tolerance": round(width, 9), "source": SOURCE, "confidence": CONFIDENCE}
    elif was is None:
        width = 10.0 if figure.unit == "°C" else 0.1 * abs(value)
        place[last] = {"value": value, "tolerance": width, "source": SOURCE, "confidence": "low"}
    else:
        place[last] = value

"""Limits and facts of a further toolhead: those of a hotend, once for each number it may have."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from zeotherm.core.catalogue.stations import OF_A_TOOLHEAD
from zeotherm.core.machine.toolheads import COLLECTION, MOVES, NUMBERS, belongs, station_of

PARTS = ("hotend", "power")  # whose limits hold for a toolhead, where they are of its own places


def with_toolheads(plain: dict[str, Any]) -> dict[str, Any]:
    """A catalogue as it is read, with what holds for further toolheads; what is wrong with it is left as it is."""
    limits, facts = plain.get("limits"), plain.get("facts")
    if not isinstance(limits, dict) or not isinstance(facts, dict):
        return plain
    return {
        **plain,
        "limits": {**limits, **dict(_limits(limits))},
        "facts": {**{key: _counts_too(fact) for key, fact in facts.items()}, **dict(_facts(facts))},
    }


def _part_of(entry: Any) -> str:
    """Of which part a limit or a fact is, as it is read."""
    return str(entry.get("part", "hotend")) if isinstance(entry, dict) else ""


def _limits(limits: dict[str, Any]) -> Iterator[tuple[str, Any]]:
    for number in NUMBERS:
        for key, limit in limits.items():
            if _part_of(limit) in PARTS and limit.get("station") in OF_A_TOOLHEAD:
                own = {**limit, "part": COLLECTION, "station": station_of(number, limit["station"])}
                yield station_of(number, key), own


def _counts_too(fact: Any) -> Any:
    """A fact that the verdict on the toolhead in front stands on and that is not its own: it counts for all of them."""
    counts = _part_of(fact) == "hotend" or (isinstance(fact, dict) and "hotend" in fact.get("also", ()))
    if not counts or _own(fact) or COLLECTION in fact.get("also", ()):
        return fact
    return {**fact, "also": [*fact.get("also", ()), COLLECTION]}


def _facts(facts: dict[str, Any]) -> Iterator[tuple[str, Any]]:
    for number in NUMBERS:
        for key, fact in facts.items():
            if _part_of(fact) != "hotend" or not _own(fact):
                continue
            label = str(fact.get("label", ""))
            own = {
                **fact, "label": f"{number}: {label[:1].lower()}{label[1:]}", "part": COLLECTION, "toolhead": number,
                "paths": [f"{COLLECTION}.{number}.{path}" for path in fact["paths"]],
                "signs": [],
            }  # fmt: skip
            if "may_be" in fact:
                own["may_be"] = [{**one, "change": {COLLECTION: {number: one["change"]}}} for one in fact["may_be"]]
            yield station_of(number, key), own


def _own(fact: dict[str, Any]) -> bool:
    """Whether all that a fact tells belongs to a toolhead."""
    paths = fact.get("paths", ())
    changes = (one.get("change", {}) for one in fact.get("may_be", ()) if isinstance(one, dict))
    return bool(paths) and all(map(belongs, paths)) and all(part in MOVES for change in changes for part in change)

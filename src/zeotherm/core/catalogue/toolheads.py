"""Limits and facts of a further toolhead: those of a hotend, once for each number it may have."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from zeotherm.core.catalogue.stations import OF_A_HOTEND, TOOLHEADS, station_of

PART = "toolheads"  # whose limits and facts they are
OWN = ("hotend.", "fan.", "printing.", "corrections.fin_film", "corrections.block_film")  # of each toolhead

OF_ALL = "hotend.supply_v"  # of a hotend, but of every one the same


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


def of_hotend(entry: Any) -> bool:
    """Whether a limit or a fact is of a hotend, as it is read."""
    return isinstance(entry, dict) and entry.get("part", "hotend") == "hotend"


def _limits(limits: dict[str, Any]) -> Iterator[tuple[str, Any]]:
    for number in TOOLHEADS:
        for key, limit in limits.items():
            if of_hotend(limit) and limit.get("station") in OF_A_HOTEND:
                own = {**limit, "part": PART, "station": station_of(number, limit["station"])}
                yield station_of(number, key), own


def _counts_too(fact: Any) -> Any:
    """A fact that the verdict on the toolhead in front stands on and that is not its own: it counts for all of them."""
    counts = of_hotend(fact) or (isinstance(fact, dict) and "hotend" in fact.get("also", ()))
    if not counts or _own(fact) or PART in fact.get("also", ()):
        return fact
    return {**fact, "also": [*fact.get("also", ()), PART]}


def _facts(facts: dict[str, Any]) -> Iterator[tuple[str, Any]]:
    for number in TOOLHEADS:
        for key, fact in facts.items():
            if not of_hotend(fact) or not _own(fact):
                continue
            label = str(fact.get("label", ""))
            own = {
                **fact, "label": f"{number}: {label[:1].lower()}{label[1:]}", "part": PART, "toolhead": number,
                "paths": [f"{PART}.{number}.{path}" for path in fact["paths"]],
                "signs": [],
            }  # fmt: skip
            if "may_be" in fact:
                own["may_be"] = [{**one, "change": {PART: {number: one["change"]}}} for one in fact["may_be"]]
            yield station_of(number, key), own


def _own(fact: dict[str, Any]) -> bool:
    """Whether all that a fact tells belongs to a toolhead."""
    paths = fact.get("paths", ())
    changes = (one.get("change", {}) for one in fact.get("may_be", ()) if isinstance(one, dict))
    told = all(f"{part}.".startswith(OWN) for change in changes for part in change)
    return bool(paths) and told and all(str(path).startswith(OWN) and path != OF_ALL for path in paths)

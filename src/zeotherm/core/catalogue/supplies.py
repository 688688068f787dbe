"""Limits and facts of a further supply: those of the first one, once for each number it may have."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from zeotherm.core.catalogue.stations import OF_A_SUPPLY
from zeotherm.core.machine.supplies import FURTHER, LIKE_FIRST, SUPPLIES
from zeotherm.core.machine.toolheads import station_of


def with_supplies(plain: dict[str, Any]) -> dict[str, Any]:
    """A catalogue as it is read, with what holds for further supplies; what is wrong with it is left as it is."""
    limits, facts = plain.get("limits"), plain.get("facts")
    if not isinstance(limits, dict) or not isinstance(facts, dict):
        return plain
    return {**plain, "limits": {**limits, **dict(_limits(limits))}, "facts": {**facts, **dict(_facts(facts))}}


def _limits(limits: dict[str, Any]) -> Iterator[tuple[str, Any]]:
    for number in FURTHER:
        for key, limit in limits.items():
            if isinstance(limit, dict) and limit.get("station") in OF_A_SUPPLY:
                yield station_of(number, key), {**limit, "station": station_of(number, limit["station"])}


def _facts(facts: dict[str, Any]) -> Iterator[tuple[str, Any]]:
    for number in FURTHER:
        for key, fact in facts.items():
            if not isinstance(fact, dict) or not _own(fact):
                continue
            label = str(fact.get("label", ""))
            own = {
                **fact, "label": f"{number}: {label[:1].lower()}{label[1:]}", "supply": number, "signs": [],
                "paths": [_path(number, path) for path in fact["paths"]],
            }  # fmt: skip
            if "may_be" in fact:
                own["may_be"] = [{**one, "change": _change(number, one["change"])} for one in fact["may_be"]]
            yield station_of(number, key), own


def _own(fact: dict[str, Any]) -> bool:
    """Whether all that a fact tells is of a supply."""
    return bool(fact.get("paths")) and all(path in LIKE_FIRST for path in fact["paths"])


def _path(number: str, path: str) -> str:
    return f"{SUPPLIES}.{number}.{LIKE_FIRST[path]}"


def _change(number: str, change: dict[str, Any]) -> dict[str, Any]:
    """What the first supply may be, as a change of a further one."""
    told = {LIKE_FIRST[f"{part}.{name}"]: value for part, its in change.items() for name, value in its.items()}
    return {SUPPLIES: {number: told}}

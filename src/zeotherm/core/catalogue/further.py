"""Limits, facts and ways to help of what a machine has several of: those of the first, once for each number."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import Any

from zeotherm.core.catalogue.stations import OF_FURTHER
from zeotherm.core.machine.further import COLLECTIONS, Collection
from zeotherm.core.machine.patches import Patch, merged, patch_at
from zeotherm.core.machine.toolheads import station_of

Made = Iterator[tuple[str, Any]]


def with_further(plain: dict[str, Any]) -> dict[str, Any]:
    """A catalogue as it is read, with what holds for further ones; what is wrong with it is left as it is."""
    shelves: dict[str, Callable[[Collection, str, str, Any], Made]] = {
        "limits": _limit, "facts": _fact, "protections": _protection,
    }  # fmt: skip
    found = dict(plain)
    for shelf, derived in shelves.items():
        its = plain.get(shelf)
        if isinstance(its, dict):
            more = {
                name: entry
                for kind in COLLECTIONS.values()
                for number in kind.numbers
                for key, one in its.items()
                if isinstance(one, dict)
                for name, entry in derived(kind, number, key, one)
            }
            found[shelf] = {**its, **more}
    return found


def _limit(kind: Collection, number: str, key: str, limit: Any) -> Made:
    if limit.get("station") in OF_FURTHER[kind.key]:
        yield station_of(number, key), {**limit, "station": station_of(number, limit["station"])}


def _fact(kind: Collection, number: str, key: str, fact: Any) -> Made:
    paths = fact.get("paths") or ()
    if not paths or any(path not in kind.like_first for path in paths):
        return
    label = str(fact.get("label", ""))
    own = {
        **fact, "label": f"{number}: {label[:1].lower()}{label[1:]}", "of": [kind.key, number], "signs": [],
        "paths": [_path(kind, number, path) for path in paths],
    }  # fmt: skip
    if "may_be" in fact:
        own["may_be"] = [{**one, "change": _change(kind, number, one["change"])} for one in fact["may_be"]]
    yield station_of(number, key), own


def _protection(kind: Collection, number: str, key: str, one: Any) -> Made:
    if one.get("station") in OF_FURTHER[kind.key]:
        own = {"station": station_of(number, one["station"]), "change": _change(kind, number, one.get("change", {}))}
        yield station_of(number, key), {**one, **own}


def _path(kind: Collection, number: str, path: str) -> str:
    own = kind.like_first.get(path)
    return f"{kind.key}.{number}.{own}" if own is not None else path


def _change(kind: Collection, number: str, change: dict[str, Any]) -> Patch:
    """What is changed of the first one, as a change of a further one; what is the machine's own stays."""
    found: Patch = {}
    for part, its in change.items():
        for name, value in its.items():
            found = merged(found, patch_at(_path(kind, number, f"{part}.{name}"), value))
    return found

"""JSON merge patches: how every change, trial, option and fault is written down."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from typing import Any

from pydantic import BaseModel, JsonValue

Patch = dict[str, JsonValue]


class ClashError(ValueError):
    """Two changes of one set that want different values at one place."""

    def __init__(self, path: str, one: JsonValue, other: JsonValue) -> None:
        super().__init__(f"{path} would be {one} and {other} at once")
        self.path, self.one, self.other = path, one, other

    def __reduce__(self) -> tuple[Any, ...]:
        return type(self), (self.path, self.one, self.other)  # so that it comes whole out of a worker process


def merge_patch(target: JsonValue, patch: JsonValue) -> JsonValue:
    """Apply a JSON merge patch, RFC 7396, section 2; a null deletes. Returns a new value."""
    if not isinstance(patch, dict):
        return patch
    merged = dict(target) if isinstance(target, dict) else {}
    for key, value in patch.items():
        if value is None:
            merged.pop(key, None)
        else:
            merged[key] = merge_patch(merged.get(key), value)
    return merged


def merged(target: Patch, patch: Patch) -> Patch:
    """A merge patch applied to an object."""
    found = merge_patch(target, patch)
    assert isinstance(found, dict)
    return found


def composed(one: Patch, other: Patch) -> Patch:
    """One patch that does what two do after each other; unlike a merged document it keeps the nulls that delete."""
    found = dict(one)
    for key, value in other.items():
        before = found.get(key)
        found[key] = composed(before, value) if isinstance(before, dict) and isinstance(value, dict) else value
    return found


def difference(source: Patch, target: Patch) -> Patch:
    """The smallest merge patch that makes `target` of `source`."""
    found: Patch = {key: None for key in source if key not in target}
    for key, value in target.items():
        before = source.get(key)
        if isinstance(value, dict) and isinstance(before, dict):
            inner = difference(before, value)
            if inner:
                found[key] = inner
        elif value != before:
            found[key] = value
    return found


def together(*patches: Patch) -> Patch:
    """Several patches as one; raises ClashError where two of them want different values at one place."""
    whole: Patch = {}
    for patch in patches:
        whole = _joined(whole, patch, "")
    return whole


def _joined(one: Patch, other: Patch, where: str) -> Patch:
    found = dict(one)
    for key, value in other.items():
        path = f"{where}{key}"
        before = found.get(key)
        if key not in found or before == value:
            found[key] = value
        elif isinstance(before, dict) and isinstance(value, dict):
            found[key] = _joined(before, value, f"{path}.")
        else:
            raise ClashError(path, before, value)
    return found


def patch_at(path: str, value: JsonValue) -> Patch:
    """A merge patch that sets one dotted path."""
    patch: JsonValue = value
    for key in reversed(path.split(".")):
        patch = {key: patch}
    assert isinstance(patch, dict)
    return patch


def sets(patch: Patch, path: str) -> bool:
    """Whether a merge patch sets or deletes one dotted path.

    >>> sets({"bed": {"insulation": "felt"}}, "bed.insulation"), sets({"bed": {}}, "bed.insulation")
    (True, False)
    """
    head, _dot, name = path.rpartition(".")
    inner = patch_value(patch, head) if head else patch
    return isinstance(inner, dict) and name in inner


def patch_value(patch: Patch, path: str) -> JsonValue:
    """What a merge patch sets at one dotted path; None where it sets nothing there, or deletes it.

    >>> patch_value({"bed": {"insulation": "felt"}}, "bed.insulation")
    'felt'
    """
    value: JsonValue = patch
    for key in path.split("."):
        if not isinstance(value, dict):
            return None
        value = value.get(key)
    return value


def value_at(document: BaseModel, path: str) -> Any:
    """The value at a dotted path, into collections by id; raises AttributeError or KeyError where there is none."""
    found: Any = document
    for key in path.split("."):
        found = found[key] if isinstance(found, Mapping) else getattr(found, key)
    return found


def is_part(one: Patch, whole: Patch) -> bool:
    """Whether a patch is part of a whole one; one that changes nothing is part of none.

    >>> is_part({"fan": {"voltage_v": 12.0}}, {"fan": {"part": "large", "voltage_v": 12.0}}), is_part({}, {})
    (True, False)
    """
    for key, value in one.items():
        other = whole.get(key)
        if isinstance(value, dict) and isinstance(other, dict):
            if not is_part(value, other):
                return False
        elif other != value:
            return False
    return bool(one)


def patched_paths(patch: Patch, head: str = "") -> list[str]:
    """Dotted paths of what a patch sets.

    >>> patched_paths({"fan": {"part": "large", "voltage_v": 12.0}})
    ['fan.part', 'fan.voltage_v']
    """
    found = []
    for key, value in patch.items():
        found += patched_paths(value, f"{head}{key}.") if isinstance(value, dict) else [f"{head}{key}"]
    return found


def without(patch: Patch, paths: Collection[str], head: str = "") -> Patch:
    """A patch that leaves some dotted paths as they are.

    >>> without({"fan": {"part": "large", "voltage_v": 12.0}}, ["fan.part"])
    {'fan': {'voltage_v': 12.0}}
    """
    kept: Patch = {}
    for key, value in patch.items():
        if isinstance(value, dict):
            inner = without(value, paths, f"{head}{key}.")
            if inner:
                kept[key] = inner
        elif f"{head}{key}" not in paths:
            kept[key] = value
    return kept

"""Entries that are like another one of their shelf, but for the figures that they state themselves."""

from __future__ import annotations

from typing import Any

from zeotherm.core.machine.patches import merge_patch

LIKE = "like"
OF_ONE = ("compared",)  # what no other entry takes over


def with_likes(plain: dict[str, Any]) -> dict[str, Any]:
    """A catalogue as it is read, with every entry that is `like` another one filled up by it.

    Raises ValueError: an entry is like one that is not there, or like itself by way of others.
    """
    return {
        shelf: {key: _whole(shelf, key, entries, ()) for key in entries} if _has_likes(entries) else entries
        for shelf, entries in plain.items()
    }


def _has_likes(entries: Any) -> bool:
    return isinstance(entries, dict) and any(isinstance(one, dict) and one.get(LIKE) for one in entries.values())


def _whole(shelf: str, key: str, entries: dict[str, Any], seen: tuple[str, ...]) -> Any:
    entry = entries[key]
    like = entry.get(LIKE) if isinstance(entry, dict) else None
    if not like:
        return entry
    if like not in entries:
        raise ValueError(f"{shelf}.{key}.like: there is no '{like}'")
    if like in (*seen, key):
        raise ValueError(f"{shelf}.{key}.like: it is like itself by way of '{like}'")
    base = _whole(shelf, like, entries, (*seen, key))
    return merge_patch({name: value for name, value in base.items() if name not in OF_ONE}, entry)

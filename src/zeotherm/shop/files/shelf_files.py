"""The shop's own parts: one JSON file beside the workshop, and the same shelf as JSON or CSV to hand on and take in."""

from __future__ import annotations

import csv
import io
import json
import math
import re
from collections.abc import Mapping
from dataclasses import dataclass
from pathlib import Path
from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field, ValidationError

from zeotherm.core.catalogue import Catalogue, shipped
from zeotherm.core.catalogue.own import (
    SOURCES,
    NoSuchPartError,
    OwnFigure,
    Stated,
    made_anew,
    made_like,
    parts_on,
    stated,
)
from zeotherm.core.machine.patches import Patch
from zeotherm.shop.errors import ShopError
from zeotherm.shop.files.job_files import explain, parsed, write_text
from zeotherm.shop.files.reading import utf8_of

NAME = "parts.json"
LARGEST = 4_000_000  # bytes
KEY = re.compile(r"[a-z][a-z0-9_]*")


class Drawer(BaseModel):
    """What the shop has of a part."""

    model_config = ConfigDict(extra="forbid", frozen=True, allow_inf_nan=False)
    price: Annotated[float, Field(ge=0, le=1e6)] | None = None
    count: Annotated[int, Field(ge=0, le=1_000_000)] | None = None


class Shelf(BaseModel):
    """Parts of a shop's own, whole, and what it has of each part, by shelf and key."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)
    format: Literal["zeotherm-shelf"] = "zeotherm-shelf"
    version: Literal["1.0"] = "1.0"
    parts: dict[str, dict[str, Any]] = Field(default_factory=dict)
    drawer: dict[str, dict[str, Drawer]] = Field(default_factory=dict)

    def with_part(self, shelf: str, key: str, entry: dict[str, Any] | None) -> Shelf:
        """With a part under a key, or without it and what the drawer has of it."""
        parts = {name: dict(entries) for name, entries in self.parts.items()}
        drawer = {name: dict(kept) for name, kept in self.drawer.items()}
        if entry is None:
            parts.get(shelf, {}).pop(key, None)
            drawer.get(shelf, {}).pop(key, None)
        else:
            parts.setdefault(shelf, {})[key] = entry
        return self.model_copy(update={"parts": _filled(parts), "drawer": _filled(drawer)})

    def with_drawer(self, shelf: str, key: str, kept: Drawer) -> Shelf:
        """With what the shop has of a part."""
        drawer = {name: dict(one) for name, one in self.drawer.items()}
        if kept == Drawer():
            drawer.get(shelf, {}).pop(key, None)
        else:
            drawer.setdefault(shelf, {})[key] = kept
        return self.model_copy(update={"drawer": _filled(drawer)})

    @property
    def prices(self) -> tuple[tuple[tuple[str, str], float], ...]:
        """What the shop pays for parts, by shelf and key, in order."""
        kept = ((shelf, key, one.price) for shelf, its in self.drawer.items() for key, one in its.items())
        return tuple(sorted(((shelf, key), price) for shelf, key, price in kept if price is not None))

    def kept(self, shelf: str, key: str) -> Drawer:
        """What the shop has of a part; nothing told where it has not said."""
        return self.drawer.get(shelf, {}).get(key, Drawer())


def _filled(shelves: dict[str, dict[str, Any]]) -> dict[str, dict[str, Any]]:
    return {name: entries for name, entries in shelves.items() if entries}


@dataclass(frozen=True, slots=True)
class TakenIn:
    """A shelf with what a file brought, and what of it was left out, in words."""

    shelf: Shelf
    new: int
    left_out: tuple[str, ...] = ()


def schema() -> dict[str, Any]:
    """JSON schema of a shelf file; its entries as their shelf has them."""
    made = {"$schema": "https://json-schema.org/draft/2020-12/schema", **Shelf.model_json_schema()}
    entries = Catalogue.model_json_schema()
    kinds = {name: entries["properties"][name] for name in shipped().own_figures}
    used, wanted = dict[str, Any](), list(_named(kinds))
    while wanted:
        name = wanted.pop()
        if name not in used:
            used[name] = entries["$defs"][name]
            wanted += _named(used[name])
    made["$defs"] = {**made.get("$defs", {}), **used}
    made["properties"]["parts"] = {"type": "object", "properties": kinds, "additionalProperties": False}
    return made


def _named(part: Any) -> list[str]:
    """Definitions that a part of a schema names."""
    if isinstance(part, dict):
        own = [part["$ref"].rpartition("/")[2]] if isinstance(part.get("$ref"), str) else []
        return own + [name for value in part.values() for name in _named(value)]
    return [name for one in part for name in _named(one)] if isinstance(part, list) else []


def beside(workshop: Path) -> Path:
    """Where the shop's own parts stand."""
    return workshop.parent / NAME


def read_shelf(path: Path) -> Shelf:
    """A shelf file; an empty one where there is none. Raises ShopError that names part and field."""
    if not path.exists():
        return Shelf()
    return loads(utf8_of(path, LARGEST), path.name)


def loads(text: str, name: str = "this text") -> Shelf:
    """A shelf from JSON text. Raises ShopError."""
    data = parsed(text, name, "shelf")
    try:
        shelf = Shelf.model_validate(data)
    except ValidationError as wrong:
        raise ShopError(f"{name}: {explain(wrong, data)}") from None
    catalogue = shipped()
    for kind, entries in shelf.parts.items():
        if kind not in catalogue.own_figures:
            raise ShopError(f"{name}: parts.{kind} is no shelf; there are {', '.join(catalogue.own_figures)}.")
        for key in entries:
            if not KEY.fullmatch(key):
                raise ShopError(f"{name}: parts.{kind}: '{key}' is no key; a key has small letters, digits and _.")
            if key in catalogue.shelf(kind):
                raise ShopError(
                    f"{name}: parts.{kind}.{key} is a shipped part. Give yours a key of its own: own_{key}."
                )
    try:
        own = catalogue.with_own(parts_of(shelf))
    except ValidationError as wrong:
        raise ShopError(f"{name}: parts.{explain(wrong, {})}") from None
    for kind in shelf.parts:
        labels = [str(one.label).lower() for one in own.shelf(kind).values()]
        if twice := next((one for one in labels if labels.count(one) > 1), ""):
            raise ShopError(f"{name}: parts.{kind} has two parts called '{twice}'. Give one of them another name.")
    return shelf


def dumps(shelf: Shelf) -> str:
    """A shelf as JSON text, stable in its order."""
    return json.dumps(shelf.model_dump(mode="json", exclude_none=True), indent=2, ensure_ascii=False) + "\n"


def write_shelf(path: Path, shelf: Shelf) -> None:
    """Write a shelf file whole or not at all. Raises ShopError."""
    write_text(path, dumps(shelf))


# tables


def columns(figures: tuple[OwnFigure, ...]) -> list[str]:
    """Heads of a table: of each figure its value, its half-width and its source."""
    heads = ["shelf", "key", "name", "most like"]
    for one in figures:
        unit = f" [{one.unit}]" if one.unit else ""
        heads += [f"{one.at}{unit}", f"{one.at} ±", f"{one.at} source"]
    return [*heads, "price", "count"]


def as_csv(kind: str, catalogue: Catalogue, shelf: Shelf, *, own_only: bool = False) -> str:
    """One shelf as a table with a row a part. Raises ShopError for a shelf that is none."""
    about = _kind(kind, catalogue)
    out = io.StringIO()
    table = csv.writer(out, lineterminator="\n")
    table.writerow(columns(about.figures))
    for key, entry in parts_on(catalogue, kind).items():
        if own_only and key not in shelf.parts.get(kind, {}):
            continue
        row: list[object] = [kind, key, entry.label, getattr(entry, "like", "")]
        for figure in about.figures:
            known = stated(entry, figure)
            row += [_shown(known.value, 9), _shown(known.half, 6), known.source if known.value is not None else ""]
        kept = shelf.kept(kind, key)
        table.writerow([*row, _shown(kept.price, 9), _shown(kept.count, 9)])
    return out.getvalue()


def _shown(value: float | None, digits: int) -> str:
    return "" if value is None else f"{value:.{digits}g}"


def _kind(kind: str, catalogue: Catalogue) -> Any:
    if kind not in catalogue.own_figures:
        raise ShopError(f"There is no shelf '{kind}'; there are {', '.join(catalogue.own_figures)}.")
    return catalogue.own_figures[kind]


def taken_in(path: Path, shelf: Shelf) -> TakenIn:
    """A shop's shelf with what a file brings, JSON or CSV by its content; a part that is there already stays as it is,
    and is told. Raises ShopError: the file is wrong, and nothing of it is taken."""
    text = utf8_of(path, LARGEST)
    if text.lstrip().startswith(("{", "[")) or not text.strip():
        return _merged(shelf, loads(text, path.name))
    return _from_table(text, path.name, shelf)


def _merged(shelf: Shelf, brought: Shelf) -> TakenIn:
    new, left = 0, list[str]()
    for kind, entries in brought.parts.items():
        for key, entry in entries.items():
            there = shelf.parts.get(kind, {}).get(key)
            if there is None:
                shelf, new = shelf.with_part(kind, key, entry), new + 1
            elif _plain(there) != _plain(entry):
                left.append(_stays(str(entry.get("label", key))))
    for kind, drawer in brought.drawer.items():
        for key, kept in drawer.items():
            if shelf.kept(kind, key) == Drawer():
                shelf = shelf.with_drawer(kind, key, kept)
    loads(dumps(shelf), "The shelf")  # names that clash, say
    return TakenIn(shelf, new, tuple(left))


def _plain(entry: Mapping[str, Any]) -> str:
    return json.dumps({key: value for key, value in entry.items() if value is not None}, sort_keys=True)


def _from_table(text: str, name: str, shelf: Shelf) -> TakenIn:
    try:
        rows = list(csv.reader(io.StringIO(text), strict=True, delimiter=_separator(text)))
    except csv.Error as wrong:
        raise ShopError(f"{name} is no table: {wrong}. Export a shelf to see how one is made.") from None
    heads = [head.strip() for head in rows[0]] if rows else []
    if "shelf" not in heads or "name" not in heads:
        raise ShopError(
            f"{name}, line 1: columns 'shelf' and 'name' are missing. Export a shelf to see how it is made."
        )
    new, left = 0, list[str]()
    catalogue = shipped().with_own(parts_of(shelf))
    for number, row in enumerate(rows[1:], 2):
        cells = dict(zip(heads, (cell.strip() for cell in row), strict=False))
        if not any(cells.values()):
            continue
        try:
            kind, key, entry = _row(cells, catalogue)
            drawer = _drawer(cells)
            if key not in catalogue.shelf(kind):
                catalogue, shelf, new = (
                    catalogue.with_entry(kind, key, entry),
                    shelf.with_part(kind, key, entry),
                    new + 1,
                )
            elif entry is not None:
                left.append(_stays(catalogue.shelf(kind)[key].label))
        except ValidationError as wrong:
            raise ShopError(f"{name}, line {number}: {explain(wrong, {})} Nothing was taken in.") from None
        except (NoSuchPartError, ShopError) as wrong:
            raise ShopError(f"{name}, line {number}: {str(wrong).removesuffix('.')}. Nothing was taken in.") from None
        if drawer != Drawer() and shelf.kept(kind, key) == Drawer():
            shelf = shelf.with_drawer(kind, key, drawer)
    loads(dumps(shelf), name)
    return TakenIn(shelf, new, tuple(left))


def _stays(label: str) -> str:
    return f"{label} is there already, with other figures: it stays as it was"


def _separator(text: str) -> str:
    head = text.splitlines()[0]
    return max(",;\t", key=head.count)


def _row(cells: Mapping[str, str], catalogue: Catalogue) -> tuple[str, str, Any]:
    """Shelf, key and entry of a row; none where it says what is there already."""
    kind, name = cells.get("shelf", ""), cells.get("name", "")
    told = _told(cells, _kind(kind, catalogue).figures)
    key, like, entries = cells.get("key", ""), cells.get("most like", ""), catalogue.shelf(kind)
    if key in entries:
        entry = made_anew(catalogue, kind, key, name, told)
        return kind, key, None if entry == entries[key].model_dump(mode="json") else entry
    if key and not KEY.fullmatch(key):
        raise ShopError(f"'{key}' is no key; a key has small letters, digits and _")
    if like not in entries:
        raise ShopError(f"'{like}' under 'most like' is no key of the {kind}; export the shelf to see its keys")
    made_key, entry = made_like(catalogue, kind, like, name, told)
    return kind, key or made_key, entry


def _told(cells: Mapping[str, str], figures: tuple[OwnFigure, ...]) -> dict[str, Stated]:
    found = {}
    for one in figures:
        head = next((head for head in cells if head.split(" [")[0] == one.at), None)
        if head is not None and cells[head]:
            half, source = cells.get(f"{one.at} ±", ""), cells.get(f"{one.at} source", "")
            value = _number(cells[head], head)
            found[one.at] = Stated(value, _number(half, f"{one.at} ±") if half else None,
                                   source if source in SOURCES else "")  # fmt: skip
    return found


def _drawer(cells: Mapping[str, str]) -> Drawer:
    price, count = cells.get("price", ""), cells.get("count", "")
    many = _number(count, "count") if count else None
    if many is not None and many != int(many):
        raise ShopError(f"count: {count} is no whole number of parts")
    try:
        return Drawer(price=_number(price, "price") if price else None, count=None if many is None else int(many))
    except ValidationError as wrong:
        raise ShopError(explain(wrong, {})) from None


def _number(text: str, what: str) -> float:
    """A number with a decimal point, as is written here, or with a decimal comma."""
    try:
        value = float(text.replace(",", ".") if "." not in text else text)
    except ValueError:
        raise ShopError(f"{what}: '{text}' is no number") from None
    if not math.isfinite(value):
        raise ShopError(f"{what}: '{text}' is no number that can be counted with")
    return value


def parts_of(shelf: Shelf) -> Patch:
    """The own parts as a patch over the catalogue."""
    return {name: dict(entries) for name, entries in shelf.parts.items()}

"""What the shelf's lists paint: kinds and entries, made from the catalogue and the shop's own shelf."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from zeotherm.core.catalogue import Catalogue
from zeotherm.core.catalogue.fitting import fitted_at
from zeotherm.core.catalogue.own import OwnFigure, OwnKind, parts_on, stated
from zeotherm.core.machine.documents import Setup
from zeotherm.shop.files.shelf_files import Drawer, Shelf
from zeotherm.wording import shelf as words
from zeotherm.wording.language import _

MOST_COLUMNS = 5


@dataclass(frozen=True, slots=True)
class KindRow:
    """One shelf."""

    key: str
    label: str
    count: int
    own: int
    group: str  # that it begins; none: it follows in the same one
    spoken: str


@dataclass(frozen=True, slots=True)
class EntryRow:
    """One part of a shelf; each of its columns as value and tolerance."""

    key: str
    label: str
    below: str
    cells: tuple[tuple[str, str], ...]
    own: bool
    fitted: bool
    spoken: str


@dataclass(frozen=True, slots=True)
class EntriesView:
    """One shelf."""

    title: str
    aside: str
    heads: tuple[tuple[str, str], ...]  # of the columns, with their units
    rows: tuple[EntryRow, ...]
    chosen: str


def kinds(catalogue: Catalogue, shelf: Shelf) -> tuple[KindRow, ...]:
    """Every shelf, group by group."""
    found, group = [], ""
    for key, about in catalogue.own_figures.items():
        count, own = len(parts_on(catalogue, key)), len(shelf.parts.get(key, {}))
        spoken = _("{label}, {count} parts").format(label=about.plural, count=count)
        found.append(KindRow(key, about.plural, count, own, about.group if about.group != group else "", spoken))
        group = about.group
    return tuple(found)


def columns(kind: OwnKind) -> tuple[OwnFigure, ...]:
    """The figures that are listed."""
    return tuple(one for one in kind.figures if one.head)[:MOST_COLUMNS]


def entries(catalogue: Catalogue, kind: str, shelf: Shelf, setup: Setup, chosen: str) -> EntriesView:
    """The parts of a shelf in the catalogue's order, the shop's own after the part each was made from."""
    about = catalogue.own_figures[kind]
    shown, own = columns(about), shelf.parts.get(kind, {})
    parts = parts_on(catalogue, kind)
    rows = tuple(
        _row(key, parts[key], shown, shelf.kept(kind, key), own=key in own,
             fitted=bool(fitted_at(setup, kind, key)))
        for key in (*(key for key in parts if key in own), *(key for key in parts if key not in own))
    )  # fmt: skip
    aside = (
        _("{count} parts, {own} of them own").format(count=len(rows), own=len(own))
        if own
        else _("{count} parts").format(count=len(rows))
    )
    return EntriesView(about.plural, aside, tuple((one.head, one.unit) for one in shown), rows, chosen)


def _row(key: str, entry: Any, shown: tuple[OwnFigure, ...], kept: Drawer, *, own: bool, fitted: bool) -> EntryRow:
    known = [stated(entry, one) for one in shown]
    cells = tuple(
        ("" if one.value is None else words.value(one), words.half(one, figure) if one.value is not None else "")
        for one, figure in zip(known, shown, strict=True)
    )
    told = [_("own")] if own else []
    told += [_("in this machine")] if fitted else []
    told += [_("{count} in the drawer").format(count=kept.count)] if kept.count is not None else []
    figures = ", ".join(
        f"{figure.label} {words.with_half(one, figure)}" for one, figure in zip(known, shown, strict=True)
    )
    below = ", ".join(told)
    return EntryRow(key, entry.label, below, cells, own, fitted, f"{entry.label}, {below}: {figures}")

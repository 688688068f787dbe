"""Further supplies and rails of a machine, by number: what feeds each, and which loads hang on it.

The machine's own paths speak of its first supply, which feeds the board and with it the hotends. What hangs on another
one says so by its number.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from typing import TYPE_CHECKING

from zeotherm.core.machine.power import Power
from zeotherm.core.machine.quantity import choice, some_of
from zeotherm.core.machine.surroundings import Case

if TYPE_CHECKING:
    from zeotherm.core.machine.documents import Setup

SUPPLIES = "supplies"
MAINS, FIRST = "mains", "S1"
FURTHER = ("S2", "S3", "S4")
LOADS = ("bed", "motors", "fans", "lights")  # that may hang on a further one: `power.bed_from` and so on
OWN = ("out_v", "supply_w", "supply", "years", "selector_v")  # as the first one has them in `power`
LIKE_FIRST = {f"power.{name}": name for name in OWN} | {"case.supply_at": "supply_at"}

_OwnFields = some_of(Power, OWN, "SupplyFields", "What a supply has wherever it is.")
_Place = some_of(Case, ("supply_at",), "SupplyPlace", "Where a supply sits.")


class FurtherSupply(_Place, _OwnFields):  # type: ignore[valid-type,misc]  # made above
    """A supply beside the first one, or a converter that makes a rail of another one's output."""

    fed_by: str = choice(
        MAINS,
        "Fed by",
        "power_sources",
        names=("fed by",),
        help="The outlet, or the supply whose output it converts.",
    )


def load_path(load: str) -> str:
    """The path that says which supply feeds a load.

    >>> load_path("bed")
    'power.bed_from'
    """
    return f"power.{load}_from"


def feeds(setup: Setup, number: str) -> tuple[str, ...]:
    """The loads that hang on a supply, of `LOADS`, and the supplies that it feeds, by number."""
    loads = [load for load in LOADS if getattr(setup.power, f"{load}_from") == number]
    return (*loads, *(key for key, one in setup.supplies.items() if one.fed_by == number))


def wrong_feed(setup: Setup) -> str:
    """What is wrong with what feeds what, and what to do; nothing where every load and supply is fed."""
    there = (FIRST, *setup.supplies)
    for number, one in setup.supplies.items():
        if one.fed_by not in (MAINS, *there):
            return f"supplies.{number}.fed_by names {one.fed_by}, which is not there; add it or name another one"
    for load in LOADS:
        source = getattr(setup.power, f"{load}_from")
        if source not in there:
            return f"{load_path(load)} names {source}, which is not there; add it or name another one"
    fed_by = {number: one.fed_by for number, one in setup.supplies.items()}
    for number in fed_by:
        if number in _up(fed_by, number):
            return f"supplies.{number} feeds itself by way of {fed_by[number]}; say what feeds it from the outlet"
    return ""


def _up(fed_by: Mapping[str, str], number: str) -> Iterator[str]:
    """What feeds a supply, what feeds that, and so on, each once."""
    seen: list[str] = []
    while (number := fed_by.get(number, "")) and number not in seen:
        seen.append(number)
        yield number

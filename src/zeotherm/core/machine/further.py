"""What a machine has several of beside the first: further supplies and printed parts, each kept by its number.

The machine's own paths speak of the first one of a kind; a further one has the same fields below its number:
`supplies.S2.out_v` is what `power.out_v` is of the first supply.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any

from zeotherm.core.machine.quantity import Declared, Document, declared
from zeotherm.core.machine.supplies import FURTHER, LIKE_FIRST, SUPPLIES, FurtherSupply
from zeotherm.core.machine.surroundings import FURTHER_PARTS, LIKE_FIRST_PART, PRINTED_PARTS, PrintedPart

if TYPE_CHECKING:
    from zeotherm.core.machine.documents import Setup


@dataclass(frozen=True, slots=True)
class Collection:
    """One kind of which a machine may have several."""

    key: str  # field of a setup
    numbers: tuple[str, ...]
    model: type[Document]
    like_first: Mapping[str, str]  # path of the first one: field of a further one


COLLECTIONS = {
    one.key: one
    for one in (
        Collection(SUPPLIES, FURTHER, FurtherSupply, LIKE_FIRST),
        Collection(PRINTED_PARTS, FURTHER_PARTS, PrintedPart, LIKE_FIRST_PART),
    )
}


def of_further(path: str) -> tuple[Collection, str, Declared] | None:
    """Which collection a path is below, the number, and what is declared there; None for any other path. Raises
    KeyError for a field that there is not.

    >>> of_further("supplies.S2.out_v")[1]
    'S2'
    """
    key, _dot, rest = path.partition(".")
    if key not in COLLECTIONS:
        return None
    number, _dot, own = rest.partition(".")
    return COLLECTIONS[key], number, declared(COLLECTIONS[key].model)[own]


def further_of(setup: Setup, key: str) -> Mapping[str, Any]:
    """Those of a kind that a machine has beside the first, by number."""
    found: Mapping[str, Any] = getattr(setup, key)
    return found


def has_further(setup: Setup, path: str) -> bool:
    """Whether a machine has a value at a path below a collection."""
    key, _dot, rest = path.partition(".")
    number, _dot, own = rest.partition(".")
    return number in further_of(setup, key) and own in declared(COLLECTIONS[key].model)


def further_paths(setup: Setup) -> Iterator[str]:
    """Paths of all values of what a machine has further."""
    for key, one in COLLECTIONS.items():
        for number in sorted(further_of(setup, key)):
            yield from (f"{key}.{number}.{path}" for path in declared(one.model))


def strange_number(setup: Setup) -> str:
    """What is wrong with the number of something further; nothing where all are as they are counted."""
    for key, one in COLLECTIONS.items():
        strange = next((number for number in further_of(setup, key) if number not in one.numbers), None)
        if strange is not None:
            return f"{key}.{strange}: their numbers are {one.numbers[0]} to {one.numbers[-1]}"
    return ""

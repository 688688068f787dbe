"""How the hotends of one machine sit to each other."""

from __future__ import annotations

from zeotherm.core.catalogue.lookup import take
from zeotherm.core.catalogue.shelves import Catalogue, Seat
from zeotherm.core.machine.documents import Setup


def seats(setup: Setup, catalogue: Catalogue) -> dict[str, Seat]:
    """What is said of each toolhead's seat, by number. Raises DoesNotFitError."""
    told: dict[str, tuple[str, str]] = {setup.toolhead: ("hotend.beside", setup.hotend.beside)}
    told |= {
        number: (f"toolheads.{number}.hotend.beside", one.hotend.beside) for number, one in setup.toolheads.items()
    }
    return {number: take(catalogue, "seats", key, path) for number, (path, key) in told.items()}


def in_one_block(setup: Setup, number: str, catalogue: Catalogue) -> bool:
    """Whether a further toolhead hangs in the block of the one in front: both say so, or one of them alone of all."""
    said = {one for one, seat in seats(setup, catalogue).items() if seat.block}
    both = {setup.toolhead, number}
    return both <= said if len(said) > 1 else bool(said & both)


def on_one_carriage(setup: Setup, number: str, catalogue: Catalogue) -> bool:
    """Whether a further toolhead rides on the carriage of the one in front: none of both says otherwise."""
    told = seats(setup, catalogue)
    return told[setup.toolhead].carriage and told[number].carriage

"""Numbers of a setup in SI, each with its doubt."""

from __future__ import annotations

from collections.abc import Mapping

from zeotherm.core.machine.documents import Setup, declaration
from zeotherm.core.machine.patches import value_at
from zeotherm.core.machine.quantity import Quantity


def doubt_of(setup: Setup, path: str, known: Mapping[str, float]) -> float:
    """95 % half-width of the number at a path, in its own unit; known: better ones, by path."""
    quantity = declaration(path)
    assert isinstance(quantity, Quantity)
    return known.get(path, quantity.doubt(float(value_at(setup, path))))


def in_si(
    setup: Setup, table: Mapping[str, tuple[str, float]], known: Mapping[str, float]
) -> tuple[dict[str, float], dict[str, float]]:
    """Values and half-widths by name; table: path and scale to SI of each name."""
    values = {name: float(value_at(setup, path)) * scale for name, (path, scale) in table.items()}
    return values, {name: doubt_of(setup, path, known) * scale for name, (path, scale) in table.items()}

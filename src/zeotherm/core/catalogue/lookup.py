"""Entries of the catalogue by their keys, as a setup names them."""

from __future__ import annotations

from typing import Any

from zeotherm.core.catalogue.shelves import Catalogue


class DoesNotFitError(ValueError):
    """Parts that do not go together, or a part the catalogue lacks: `path` in the setup and what to do."""

    def __init__(self, path: str, message: str) -> None:
        super().__init__(message)
        self.path = path

    def __reduce__(self) -> tuple[Any, ...]:
        return type(self), (self.path, str(self))  # so that it comes whole out of a worker process


def take(catalogue: Catalogue, shelf: str, key: str, path: str) -> Any:
    """An entry of a shelf; raises DoesNotFitError, which names the path in the setup, where there is none."""
    entries = catalogue.shelf(shelf)
    if key not in entries:
        raise DoesNotFitError(path, f"'{key}' is not among the {shelf}: {', '.join(entries)}.")
    return entries[key]

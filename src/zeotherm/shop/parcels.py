"""What goes to another process and comes back, without the catalogue that both sides hold: it is most of the bytes."""

from __future__ import annotations

import io
import pickle
from functools import lru_cache
from typing import Any

from zeotherm.core.catalogue.shelves import Catalogue

CATALOGUE = "catalogue"


class _Packer(pickle.Pickler):
    def __init__(self, file: io.BytesIO, catalogue: Catalogue) -> None:
        super().__init__(file, pickle.HIGHEST_PROTOCOL)
        self._catalogue = catalogue

    def persistent_id(self, thing: Any) -> str | None:
        return CATALOGUE if thing is self._catalogue else None


class _Unpacker(pickle.Unpickler):
    def __init__(self, file: io.BytesIO, catalogue: Catalogue) -> None:
        super().__init__(file)
        self._catalogue = catalogue

    def persistent_load(self, name: Any) -> Catalogue:
        if name != CATALOGUE:
            raise pickle.UnpicklingError(f"nothing is known of {name!r}")
        return self._catalogue


def packed(thing: Any, catalogue: Catalogue) -> bytes:
    """Anything that can be pickled, with this catalogue left out wherever it is meant."""
    file = io.BytesIO()
    _Packer(file, catalogue).dump(thing)
    return file.getvalue()


def unpacked(data: bytes, catalogue: Catalogue) -> Any:
    """What was packed, with this side's catalogue in its places; from a process of our own only."""
    return _Unpacker(io.BytesIO(data), catalogue).load()


@lru_cache(2)
def shelf(data: bytes) -> Catalogue:
    """A catalogue of its own bytes; one that came before is the same thing again."""
    found: Catalogue = pickle.loads(data)
    return found

"""What goes to another process and comes back, without the catalogue that both sides hold: it is most of the bytes."""

from __future__ import annotations

import io
import pickle
from functools import lru_cache
from typing import Any

from zeotherm.core.catalogue.shelves import Catalogue


def _the_catalogue() -> Catalogue:
    """Stands in a parcel for the catalogue of whoever unpacks it."""
    raise pickle.UnpicklingError("a parcel without a catalogue at hand")


class _Packer(pickle.Pickler):
    def __init__(self, file: io.BytesIO, catalogue: Catalogue) -> None:
        super().__init__(file, pickle.HIGHEST_PROTOCOL)
        self._catalogue = catalogue

    def reducer_override(self, thing: Any) -> Any:
        """Asked of objects alone; `persistent_id`, asked of every number and word, takes as long as all the rest."""
        return (_the_catalogue, ()) if thing is self._catalogue else NotImplemented


class _Unpacker(pickle.Unpickler):
    def __init__(self, file: io.BytesIO, catalogue: Catalogue) -> None:
        super().__init__(file)
        self._catalogue = catalogue

    def find_class(self, module: str, name: str) -> Any:
        return self._own if (module, name) == (__name__, _the_catalogue.__name__) else super().find_class(module, name)

    def _own(self) -> Catalogue:
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

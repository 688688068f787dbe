"""Questions: a stage of the reckoning with all that it is given. A stage sees nothing else, and the key is made of it.

So an answer cannot be taken for that of another machine, catalogue, tolerance or run: what could change it is given,
and what is given counts.
"""

from __future__ import annotations

import json
import weakref
from collections.abc import Callable
from dataclasses import dataclass, fields, is_dataclass
from functools import cached_property
from hashlib import blake2b
from typing import Any, Generic, TypeVar

from pydantic import BaseModel

from zeotherm.core.catalogue import Catalogue

T = TypeVar("T")
Cancelled = Callable[[], bool]
KEPT = 12  # answers of a stage


def never() -> bool:
    """For who cannot be called off."""
    return False


@dataclass(frozen=True)
class Stage(Generic[T]):
    """One step of the reckoning. work: takes what it is given, and `cancelled`; kept: so many answers, the latest."""

    name: str
    work: Callable[..., T]
    kept: int = KEPT

    def of(self, *given: Any) -> Question[T]:
        """The question what the stage says of this. Other questions among it are answered first."""
        return Question(self, given)


@dataclass(frozen=True)
class Question(Generic[T]):
    """A stage with what it is given: documents, the catalogue, plain values, other questions."""

    stage: Stage[T]
    given: tuple[Any, ...]

    @cached_property
    def key(self) -> str:
        """What the answer is of, in a few characters, from all that the stage is given.

        Raises TypeError for what cannot be told so.
        """
        told = json.dumps([self.stage.name, *(_plain(one) for one in self.given)], sort_keys=True)
        return blake2b(told.encode(), digest_size=20).hexdigest()


@dataclass
class Start(Generic[T]):
    """What the next place of a lever begins from while it is dragged: it decides how soon, not what; never kept."""

    like: T | None = None


def _plain(one: object) -> object:
    if isinstance(one, Question):
        return {"answer": one.key}
    if isinstance(one, Catalogue):
        return {"catalogue": one.digest}
    if isinstance(one, BaseModel):
        return _digest(one)
    if is_dataclass(one) and not isinstance(one, type):
        return {each.name: _plain(getattr(one, each.name)) for each in fields(one)}
    if isinstance(one, dict):
        return {str(key): _plain(value) for key, value in one.items()}
    if isinstance(one, list | tuple):
        return [_plain(each) for each in one]
    if isinstance(one, frozenset):
        return sorted(str(each) for each in one)
    if one is None or isinstance(one, str | int | float | bool):
        return one
    raise TypeError(f"a question cannot be told by a {type(one).__name__}")


_digests: dict[int, tuple[weakref.ref[BaseModel], str]] = {}  # of documents that are still held, by id


def _digest(document: BaseModel) -> str:
    """A document by what it holds; documents do not change, so each is read once."""
    known = _digests.get(id(document))
    if known is None or known[0]() is not document:
        mine = id(document)
        told = blake2b(document.model_dump_json().encode(), digest_size=20).hexdigest()
        known = _digests[mine] = (weakref.ref(document, lambda _gone: _digests.pop(mine, None)), told)
    return known[1]

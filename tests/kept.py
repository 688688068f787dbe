"""Answers that a test run has found once serve all of it, by the same keys as the product's own.

Windows and commands of a test process share one store, and the processes of a run share a folder that ends with it; so
the demo is solved once. What a stage would say anew is what is tested elsewhere, by tests that reckon `alone`.
"""

from __future__ import annotations

import os
import pickle
import tempfile
from pathlib import Path
from typing import Any, TypeVar

from zeotherm.answers.parcels import packed, unpacked
from zeotherm.answers.store import Store
from zeotherm.core.catalogue import Catalogue
from zeotherm.core.questions import Cancelled, Question, never

T = TypeVar("T")
PLACE = "ZEOTHERM_TEST_ANSWERS"
UNPICKLED = (pickle.PicklingError, AttributeError, TypeError)  # what is made of closures stays in its own process


class SharedStore(Store):
    """A store whose answers lie in a folder of the run, too."""

    def __init__(self, folder: Path) -> None:
        super().__init__(5)
        self._folder = folder

    def knows(self, question: Question[Any]) -> bool:
        return super().knows(question) or self._fetched(question)

    def ask(self, question: Question[T], cancelled: Cancelled = never) -> T:
        self.knows(question)
        return super().ask(question, cancelled)

    def keep(self, question: Question[T], answer: T) -> T:
        fresh = not super().knows(question)
        answer = super().keep(question, answer)
        catalogue = _catalogue_of(question)
        if fresh and catalogue is not None and not self._file(question).exists():
            try:
                content = packed(answer, catalogue)
            except UNPICKLED:
                return answer
            with tempfile.NamedTemporaryFile(dir=self._folder, delete=False) as file:
                file.write(content)
            os.replace(file.name, self._file(question))
        return answer

    def _file(self, question: Question[Any]) -> Path:
        return self._folder / question.key

    def _fetched(self, question: Question[Any]) -> bool:
        """Whether another process of the run has answered it, which is then taken over."""
        catalogue = _catalogue_of(question)
        if catalogue is None or not self._file(question).exists():
            return False
        super().keep(question, unpacked(self._file(question).read_bytes(), catalogue))
        return True


def _catalogue_of(question: Question[Any]) -> Catalogue | None:
    """The one catalogue that a question, or what it needs, is given."""
    for one in question.given:
        if isinstance(one, Catalogue):
            return one
        found = _catalogue_of(one) if isinstance(one, Question) else None
        if found is not None:
            return found
    return None


def _folder() -> Path:
    """Of this run: made by its first process, which those that it begins have the name from."""
    if PLACE not in os.environ:
        os.environ[PLACE] = tempfile.mkdtemp(prefix="zeotherm-answers-")
    return Path(os.environ[PLACE])


MINE = PLACE not in os.environ  # whether this process began the run, and ends it
FOLDER = _folder()
STORE = SharedStore(FOLDER)

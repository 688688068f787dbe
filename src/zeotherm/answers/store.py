"""The store: every answer that was found, by its question. Whoever asks the same is told the same."""

from __future__ import annotations

import threading
from collections import OrderedDict
from concurrent.futures import Future
from typing import Any, TypeVar

from zeotherm.core.questions import Cancelled, Question, never

T = TypeVar("T")


class Store:
    """Answers by the keys of their questions, the latest of each stage. Asked and filled from any thread.

    room: for how many times as many answers as a stage says.
    """

    def __init__(self, room: int = 1) -> None:
        self._room = room
        self._kept: dict[str, OrderedDict[str, Any]] = {}
        self._under_way: dict[str, Future[None]] = {}
        self._lock = threading.Lock()

    def knows(self, question: Question[Any]) -> bool:
        """Whether the answer is at hand."""
        with self._lock:
            return question.key in self._kept.get(question.stage.name, ())

    def under_way(self, question: Question[Any]) -> Future[None] | None:
        """What is done once somebody else's reckoning of the same is over; None: nobody is at it."""
        with self._lock:
            return self._under_way.get(question.key)

    def ask(self, question: Question[T], cancelled: Cancelled = never) -> T:
        """The answer, reckoned if it is not at hand. Raises what its stage raises, CancelledError among it."""
        with self._lock:
            kept = self._kept.setdefault(question.stage.name, OrderedDict())
            if question.key in kept:
                kept.move_to_end(question.key)
                known: T = kept[question.key]
                return known
            over = self._under_way.setdefault(question.key, Future())
        try:
            return self.keep(question, question.stage.work(*self.given(question, cancelled), cancelled=cancelled))
        finally:
            with self._lock:
                self._under_way.pop(question.key, None)
            if not over.done():
                over.set_result(None)

    def given(self, question: Question[Any], cancelled: Cancelled = never) -> tuple[Any, ...]:
        """What a question's stage is given, the answers of other questions in their places."""
        return tuple(self.ask(one, cancelled) if isinstance(one, Question) else one for one in question.given)

    def keep(self, question: Question[T], answer: T) -> T:
        """Keep an answer that was reckoned; the first of two that were reckoned beside each other stays."""
        with self._lock:
            kept = self._kept.setdefault(question.stage.name, OrderedDict())
            answer = kept.setdefault(question.key, answer)
            while len(kept) > self._room * question.stage.kept:
                kept.popitem(last=False)
        return answer

"""What the words of a part of a machine are: each part has a module of them, named by its registry entry."""

from __future__ import annotations

from importlib import import_module
from typing import Any, Protocol, cast

from zeotherm.core.judgement.standing import Standing, standing
from zeotherm.core.machine.documents import Job
from zeotherm.core.parts.part import Part, PartFound
from zeotherm.wording import margins as rooms
from zeotherm.wording.results import margin_as_data
from zeotherm.wording.verdict import Verdict, standing_on


class PartWords(Protocol):
    """A part in words."""

    LABEL: str  # of its tab and its section
    EMPTY: str  # over the ladder where the machine has no such part
    COMMAND: str  # what its command prints, for the help
    NEEDS: str  # what a job lacks that has no such part, and what to set
    ASKED: tuple[str, ...]  # what is said beside the answer that the command tells

    @staticmethod
    def verdict(answer: Any) -> Verdict:
        """What is wrong with it, in one sentence, and why."""
        ...

    @staticmethod
    def nothing() -> Verdict:
        """Where the machine has no such part."""
        ...

    @staticmethod
    def head(found: Any) -> list[str]:
        """What its command tells before the limits."""
        ...

    @staticmethod
    def tail(found: Any) -> list[str]:
        """And after them."""
        ...

    @staticmethod
    def as_data(found: Any) -> dict[str, Any]:
        """What it has beyond what every part has, as plain data."""
        ...


def words_of(part: Part[Any]) -> PartWords:
    """The words of a part."""
    return cast(PartWords, import_module(f"{part.home}.wording.{part.module}"))


def verdict_on(words: PartWords, answer: Any, on: Standing) -> Verdict:
    """The verdict on a part by what it stands on."""
    return standing_on(words.verdict(answer), answer.worst, on, answer.catalogue)


def printed(part: Part[Any], found: PartFound[Any]) -> list[str]:
    """A part of a job as its command prints it."""
    words, answer = words_of(part), found.answer
    assert answer is not None
    told = verdict_on(words, answer, standing(found.job, part.key, answer.catalogue, found.deciding))
    limits = [
        f"{rooms.label(margin):18} {rooms.value(margin):>10}  {rooms.room(margin)} {rooms.band(margin)}"
        for margin in answer.margins
        if margin.room is not None
    ]
    return [told.headline, told.reason, *words.head(found), *limits, *words.tail(found)]


def as_data(part: Part[Any], job: Job, found: PartFound[Any]) -> dict[str, Any]:
    """A part of a job as plain data; numbers carry their unit in their name or a field beside them."""
    words, answer = words_of(part), found.answer
    assert answer is not None
    on = standing(job, part.key, answer.catalogue, found.deciding)
    told = verdict_on(words, answer, on)
    return {
        "job": job.number,
        "machine": job.machine,
        "verdict": {"headline": told.headline, "reason": told.reason, "state": told.state.value},
        "assumed": list(on.assumed),
        "stations": dict(answer.values),
        **words.as_data(found),
        "margins": [margin_as_data(margin) for margin in answer.margins],
    }

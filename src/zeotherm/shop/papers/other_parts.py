"""What the report says of the machine beside its hotend: bed, case and power path, each late in the print."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any

from zeotherm.answers.beside import NOT_JUDGED
from zeotherm.core.judgement.margins import State
from zeotherm.core.judgement.standing import standing
from zeotherm.core.machine.documents import Job
from zeotherm.core.parts.registry import PARTS
from zeotherm.wording.language import _
from zeotherm.wording.parts import verdict_on, words_of
from zeotherm.wording.verdict import Verdict


@dataclass(frozen=True, slots=True)
class OtherPart:
    """One part: its name, its verdict, its stations."""

    label: str
    told: Verdict
    values: Mapping[str, float] = field(default_factory=dict)


def other_parts(job: Job, found: Mapping[str, Any]) -> list[OtherPart]:
    """The parts that were asked about, each by its answer, or why it has none: none is left out."""
    return [_told(key, job, answer) for key, answer in found.items()]


def _told(key: str, job: Job, answer: Any) -> OtherPart:
    words = words_of(PARTS[key])
    if isinstance(answer, Exception):
        inside = _("the model failed on this; the log says more")
        why = _("Not judged: {why}").format(why=answer if isinstance(answer, NOT_JUDGED) else inside)
        return OtherPart(words.LABEL, Verdict(why.rstrip("."), "", State.UNKNOWN))
    on = standing(job, key, answer.catalogue)
    return OtherPart(words.LABEL, verdict_on(words, answer, on), answer.values)

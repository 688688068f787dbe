"""What the report says of the machine beside its hotend: bed, case and power path, each late in the print."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import Any

from zeotherm.answers.beside import NOT_JUDGED
from zeotherm.core.judgement.margins import State
from zeotherm.wording import bed, power
from zeotherm.wording import enclosure as chamber
from zeotherm.wording.language import _
from zeotherm.wording.verdict import Verdict

WORDS: Mapping[str, tuple[str, Callable[[Any], Verdict]]] = {
    "bed": (_("Bed"), bed.verdict), "case": (_("Case"), chamber.verdict), "power": (_("Power"), power.verdict),
}  # fmt: skip


@dataclass(frozen=True, slots=True)
class OtherPart:
    """One part: its name, its verdict, its stations."""

    label: str
    told: Verdict
    values: Mapping[str, float] = field(default_factory=dict)


def other_parts(found: Mapping[str, Any]) -> list[OtherPart]:
    """The parts that were asked about, each by its answer, or why it has none: none is left out."""
    return [_told(*WORDS[key], answer) for key, answer in found.items()]


def _told(label: str, verdict: Callable[[Any], Verdict], answer: Any) -> OtherPart:
    if isinstance(answer, Exception):
        inside = _("the model failed on this; the log says more")
        why = _("Not judged: {why}").format(why=answer if isinstance(answer, NOT_JUDGED) else inside)
        return OtherPart(label, Verdict(why.rstrip("."), "", State.UNKNOWN))
    return OtherPart(label, verdict(answer), answer.values)

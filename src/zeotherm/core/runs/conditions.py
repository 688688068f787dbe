"""What must be equal for two runs to be comparable: what each was, and where they differ."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from enum import Enum

import numpy as np

from zeotherm.core.catalogue import Catalogue
from zeotherm.core.catalogue.measuring import Condition
from zeotherm.core.runs.figures import AlignedRun
from zeotherm.core.runs.phases import idle_watts

Known = float | str
HELD_SHARE = 0.5  # of the heated stretch, its end, over which a target counts as held


class Match(Enum):
    """How the runs stand to one condition."""

    EQUAL = "equal"
    DIFFERS = "differs"
    ON_PURPOSE = "on_purpose"
    UNKNOWN = "unknown"
    OUTCOME = "outcome"  # no condition, but what came of the run


@dataclass(frozen=True, slots=True)
class Compared:
    """One condition over the runs."""

    key: str
    values: tuple[Known | None, ...]
    match: Match


def told_by(run: AlignedRun, rule: str) -> float | None:
    """A condition that a run tells by itself; None where it does not."""
    what, _, names = rule.partition(":")
    if what == "idle":
        found = idle_watts(run.series, run.on)
        return None if found is None else found[0]
    for channel in names.split(","):
        value = _TELLERS[what](run, channel) if what in _TELLERS else None
        if value is not None:
            return value
    return None


def _mean(run: AlignedRun, channel: str) -> float | None:
    part = run.trace(channel)
    return float(part.values.mean()) if part is not None else None


def _first(run: AlignedRun, channel: str) -> float | None:
    """Before switching on, or the first samples."""
    part = run.trace(channel, -np.inf, run.on + 1.0)
    part = part if part is not None and len(part.values) >= 3 else run.trace(channel)
    return float(np.median(part.values[:5])) if part is not None else None


def _held(run: AlignedRun, channel: str) -> float | None:
    part = run.trace(channel, run.on + (1.0 - HELD_SHARE) * (run.off - run.on), run.off)
    return float(np.median(part.values)) if part is not None else None


_TELLERS = {"mean": _mean, "first": _first, "held": _held}


def of_run(run: AlignedRun, noted: Mapping[str, Known]) -> dict[str, Known | None]:
    """Every condition of a run: what was noted, else what its traces tell, else None."""
    return {
        key: noted.get(key, told_by(run, condition.from_run) if condition.from_run else None)
        for key, condition in run.catalogue.conditions.items()
    }


def compared(
    runs: Sequence[Mapping[str, Known | None]], catalogue: Catalogue, purpose: Sequence[str] = (),
    wanted: Sequence[str] = (),
) -> list[Compared]:  # fmt: skip
    """Every condition over the runs.

    purpose: those that differ because they were changed; wanted: those that a test asks for, all when empty. What
    differs is told whether it was asked for or not.
    """
    found = [
        Compared(key, values, _match(condition, values, key in purpose))
        for key, condition in catalogue.conditions.items()
        for values in [tuple(run.get(key) for run in runs)]
        if condition.asked or key in wanted or any(value is not None for value in values)
    ]
    differ = (Match.DIFFERS, Match.ON_PURPOSE)
    return [one for one in found if not wanted or one.key in wanted or one.match in differ]


def _match(condition: Condition, values: tuple[Known | None, ...], purpose: bool) -> Match:
    if condition.kind == "outcome":
        return Match.OUTCOME
    if purpose:
        return Match.ON_PURPOSE
    if any(value is None for value in values):
        return Match.UNKNOWN
    if condition.kind in ("proof", "number"):
        numbers = [_number(value) for value in values]
        if not all(math.isfinite(number) for number in numbers):
            return Match.UNKNOWN
        if condition.kind == "proof":
            equal = all(abs(number - 100.0) <= condition.tolerance for number in numbers)
        else:
            equal = max(numbers) - min(numbers) <= condition.tolerance
        return Match.EQUAL if equal else Match.DIFFERS
    return Match.EQUAL if len({str(value).strip().lower() for value in values}) == 1 else Match.DIFFERS


def _number(value: Known | None) -> float:
    """A noted number; nan where a file says words instead."""
    try:
        return float(value) if value is not None else math.nan
    except ValueError:
        return math.nan

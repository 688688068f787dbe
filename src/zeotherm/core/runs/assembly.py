"""From a job's runs to their comparison: lined up, grouped by label, held against each other."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from zeotherm.core.catalogue import Catalogue
from zeotherm.core.machine.measured import LiningUp, Measured, Run
from zeotherm.core.runs.alignment import (
    REACH,
    AlignedBy,
    Origin,
    automatic,
    by_first_row,
    by_level,
    by_likeness,
)
from zeotherm.core.runs.comparison import Comparison, ComparisonPlan, Group, compare
from zeotherm.core.runs.figures import AlignedRun as OnClock
from zeotherm.core.runs.figures import Doubt
from zeotherm.core.runs.phases import phases
from zeotherm.core.runs.series import Series


@dataclass(frozen=True)
class Assembled:
    """Runs on one clock, and what is said of them."""

    origins: Mapping[str, Origin]  # by run
    runs: Mapping[str, OnClock]
    comparison: Comparison


def assembled(
    measured: Measured, series: Mapping[str, Series], catalogue: Catalogue, at: float | None = None
) -> Assembled | None:
    """The shown runs of a job, compared. series: all rows of each; at: when levels are taken [s]; None without runs."""
    shown = measured.shown()
    if not shown:
        return None
    found = lined_up([series[key] for key in shown], measured.line_up)
    origins = {key: _origin(run, origin) for (key, run), origin in zip(shown.items(), found, strict=True)}
    runs = {key: on_clock(run, series[key], origins[key], catalogue) for key, run in shown.items()}
    protocol = catalogue.protocols.get(measured.protocol or "")
    setup = ComparisonPlan(
        normalise=measured.normalise, same_instruments=measured.same_instruments,
        tariff=measured.tariff, at=at, purpose=tuple(measured.purpose),
        wanted=protocol.equal if protocol is not None else (),
    )  # fmt: skip
    labels = dict.fromkeys(run.label for run in shown.values())
    groups = [
        Group(label, tuple(runs[key] for key in keys), tuple(shown[key].conditions for key in keys))
        for label in labels
        for keys in [[key for key, run in shown.items() if run.label == label]]
    ]
    return Assembled(origins, runs, compare(groups, catalogue, setup))


def lined_up(runs: list[Series], how: LiningUp) -> list[Origin]:
    """An origin for each run as was asked; automatically for those where that cannot be told."""
    found = automatic(runs)
    if how.way == "first_row":
        return [by_first_row(series) for series in runs]
    if how.way == "level":
        levels = [by_level(series, how.channel, how.level_c) for series in runs]
        return [level or origin for level, origin in zip(levels, found, strict=True)]
    if how.way == "likeness":
        alike = [by_likeness(series, runs[0], found[0].zero, how.channel, REACH) for series in runs[1:]]
        return [found[0], *(like or origin for like, origin in zip(alike, found[1:], strict=True))]
    return found


def _origin(run: Run, found: Origin) -> Origin:
    return found if run.zero_s is None else Origin(run.zero_s, 0.0, AlignedBy.GIVEN, "")


def on_clock(run: Run, series: Series, origin: Origin, catalogue: Catalogue) -> OnClock:
    """A run with its zero in place, and the heated stretch of it."""
    moved = series.moved(-origin.zero)
    heated = phases(moved)
    doubts = {key: Doubt(one.offset, one.relative, one.repeat) for key, one in run.doubts.items()}
    return OnClock(moved, heated.on.time, heated.off, heated.on.doubt, doubts, catalogue)

"""What the Measure view paints: curves, figures, conditions. All words come from `wording`."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from zeotherm.answers.hotend import Found
from zeotherm.answers.runs import HeldRuns
from zeotherm.core.catalogue import Catalogue
from zeotherm.core.catalogue.stations import STATIONS
from zeotherm.core.machine.documents import Job
from zeotherm.core.parts.hotend.judge.course import Course
from zeotherm.core.runs.assembly import Assembled
from zeotherm.core.runs.comparison import ComparedFigure, Comparison
from zeotherm.core.runs.conditions import Match
from zeotherm.wording import numbers
from zeotherm.wording import runs as words
from zeotherm.wording.language import _
from zeotherm.wording.verdict import Verdict

Array = npt.NDArray[np.float64]
TOKENS = ("b", "accent", "meas", "soft", "ink")  # of kinds of run, in order; a badge with a number goes with each
USUAL = ("sink_base", "case_air", "bed", "block")
MOST_SHOWN = 2  # channels in one panel


@dataclass(frozen=True)
class RunCurve:
    """One channel of one run, on the common clock."""

    number: int  # of its kind of run, from one
    token: str
    times: Array  # s
    values: Array


@dataclass(frozen=True)
class RunPanel:
    """One channel over all runs."""

    channel: str
    label: str
    unit: str
    curves: tuple[RunCurve, ...]
    ends: tuple[float, ...]  # the levels that are compared, first and last kind of run
    change: str  # '−11.0 K'
    band: str  # '± 1.0 K'
    real: bool
    limit: float | None
    limit_text: str
    model: tuple[Array, Array] | None  # s, value
    model_band: tuple[Array, Array, Array] | None  # s, lowest, highest of its 95 % band, once it is known


@dataclass(frozen=True, slots=True)
class FigureRow:
    """One figure in the table."""

    key: str
    channel: str
    label: str
    values: tuple[str, ...]
    change: str
    real: bool | None  # None: nothing to compare
    verdict: str
    tip: str
    spoken: str


@dataclass(frozen=True, slots=True)
class ConditionRow:
    """One condition over the runs."""

    key: str
    label: str
    text: str
    match: Match
    tip: str
    spoken: str


@dataclass(frozen=True)
class RunsView:
    """All of it."""

    verdict: Verdict
    brief: str
    legend: tuple[tuple[int, str, str], ...]  # number, token, label of each kind of run
    panels: dict[str, RunPanel]
    usual: tuple[str, ...]  # channels that are drawn unless others are chosen
    figures: tuple[FigureRow, ...]
    conditions: tuple[ConditionRow, ...]
    matched: str
    lined_up: tuple[str, ...]
    notes: tuple[str, ...]
    foot: str
    begin: float  # s
    end: float
    at: float


def runs_view(held: HeldRuns, found: Found | None) -> RunsView:
    """Everything that the view shows of a job's runs."""
    job, catalogue = held.job, held.catalogue
    measured = job.measured
    comparison = held.found.comparison if held.found is not None else None
    told = words.verdict(comparison, catalogue, job.currency)
    brief = words.brief(len(measured.runs), len(measured.pictures), len(job.readings))
    foot = words.next_step(comparison, catalogue)
    if held.found is None or comparison is None:
        return RunsView(told, brief, (), {}, (), (), (), "", (), _heard(job), foot, 0.0, 1.0, 0.0)
    panels = _panels(held.found, catalogue, found)
    starts = [float(run.series.time[0]) for run in held.found.runs.values()]
    ends = [float(run.series.time[-1]) for run in held.found.runs.values()]
    labels = {key: measured.runs[key].label for key in held.found.origins}
    notes = tuple(
        f"{measured.runs[key].source}: {words.note(code)}"
        for key in held.found.origins
        for code in measured.runs[key].notes
    )
    averaged = _("{name}: means of its rows, the rest is in another workshop")
    notes += tuple(
        averaged.format(name=measured.runs[key].source) for key in held.found.origins if _is_averaged(held, key)
    )
    return RunsView(
        verdict=told, brief=brief,
        legend=tuple((index + 1, TOKENS[index % len(TOKENS)], _legend(comparison, index))
                     for index in range(len(comparison.groups))),
        panels=panels, usual=_usual(comparison, panels), figures=_figures(comparison, catalogue, job.currency),
        conditions=tuple(_conditions(comparison, catalogue)), matched=words.matched(comparison),
        lined_up=tuple(words.lined_up(held.found.origins, labels, catalogue)),
        notes=_heard(job) + notes,
        foot=foot, begin=min(starts), end=max(ends), at=comparison.at,
    )  # fmt: skip


def _heard(job: Job) -> tuple[str, ...]:
    """What was heard of fans."""
    return tuple(f"{one.source}: {words.heard(one)}" for one in job.measured.heard)


def _is_averaged(held: HeldRuns, key: str) -> bool:
    assert held.found is not None
    return held.found.runs[key].series.rows < held.job.measured.runs[key].rows


def _legend(comparison: Comparison, index: int) -> str:
    group = comparison.groups[index]
    return group.label if len(group.runs) == 1 else _("{label}, {count} runs").format(
        label=group.label, count=len(group.runs)
    )  # fmt: skip


def _panels(found: Assembled, catalogue: Catalogue, answered: Found | None) -> dict[str, RunPanel]:
    """A panel for each channel of any run, in the catalogue's order."""
    comparison = found.comparison
    known = {key for run in found.runs.values() for key in run.series.values}
    levels = {row.channel: row for row in comparison.rows if row.kind in ("steady", "steady_power")}
    course = None
    if answered is not None:
        course = answered.course_found or (answered.course if not answered.job.trial else None)
    return {
        key: _panel(key, found, catalogue, levels.get(key), course, answered)
        for key in [*(one for one in catalogue.channels if one in known)]
    }


def _panel(
    key: str,
    found: Assembled,
    catalogue: Catalogue,
    row: ComparedFigure | None,
    course: Course | None,
    answered: Found | None,
) -> RunPanel:
    curves = []
    for index, group in enumerate(found.comparison.groups):
        for run in group.runs:
            trace = run.series.trace(key)
            if trace is not None:
                curves.append(RunCurve(index + 1, TOKENS[index % len(TOKENS)], trace.time, trace.values))
    unit = catalogue.kinds[catalogue.channels[key].kind].unit
    change = row.change if row is not None else None
    size, half, shown = words.size_and_half(change, row, "") if row is not None and change else ("", "", "")
    means = [mean for mean in row.means if mean is not None] if row is not None else []
    limit = _limit(key, answered)
    model = (course.run.times, course.series[key]) if course is not None and key in course.series else None
    return RunPanel(
        channel=key, label=words.channel(key, catalogue), unit=unit, curves=tuple(curves),
        ends=(means[0].estimate.value, means[-1].estimate.value) if change is not None and len(means) > 1 else (),
        change=f"{size} {shown}".strip(), band=f"± {half} {shown}".strip() if half else "",
        real=change.real if change is not None else False, limit=limit[0] if limit else None,
        limit_text=limit[1] if limit else "", model=model, model_band=_band(key, course, answered),
    )  # fmt: skip


def _band(key: str, course: Course | None, answered: Found | None) -> tuple[Array, Array, Array] | None:
    """The 95 % band of the model's curve, where it was worked out for the machine as found."""
    if course is None or answered is None or answered.sure is None or course is not answered.course:
        return None
    return answered.sure.span(course, key) if key in answered.sure.down else None


def _limit(key: str, answered: Found | None) -> tuple[float, str] | None:
    """The limit at a station, where the model knows one in °C."""
    if answered is None:
        return None
    for margin in answered.judged.margins:
        if margin.station == key and STATIONS[key].is_temperature and margin.kind != "floor":
            return margin.limit, _("limit {limit} °C").format(limit=numbers.plain(margin.limit, 0))
    return None


def _usual(comparison: Comparison, panels: dict[str, RunPanel]) -> tuple[str, ...]:
    """The channels whose levels changed most surely, else the ones that matter most often."""
    changed = [row.channel for row in comparison.rows if row.kind == "steady" and row.change and row.change.real]
    order = [*changed, *(key for key in USUAL if key in panels), *panels]
    temperatures = [key for key in dict.fromkeys(order) if key in panels and panels[key].unit == "°C"]
    return tuple(temperatures[:MOST_SHOWN])


def _figures(comparison: Comparison, catalogue: Catalogue, currency: str) -> tuple[FigureRow, ...]:
    rows = []
    for index, row in enumerate(comparison.rows):
        label = words.label(row, catalogue)
        single = len(row.means) == 1  # no change beside it: the figure's own band belongs into its cell
        values = tuple((words.banded if single else words.value)(mean, row, currency) for mean in row.means)
        change = words.change(row.change, row, currency) if len(row.means) > 1 else ""
        verdict = words.real(row.change) if len(row.means) > 1 else ""
        tips = [words.value_band(mean, row, currency) for mean in row.means]
        tip = "\n".join([label, *(f"{group.label}: {tip}" for group, tip in zip(comparison.groups, tips, strict=True))])
        if saved := words.saving(row):
            tip += "\n" + saved
        if row.normalised:
            tip += "\n" + _("told for the first run's room and start")
            label += " *"
        rows.append(
            FigureRow(f"{index}", row.channel, label, values, change,
                      row.change.real if row.change is not None else None, verdict, tip,
                      f"{label}, {', '.join(values)}" + (f", {change}, {verdict}" if change else ""))
        )  # fmt: skip
    return tuple(rows)


def _conditions(comparison: Comparison, catalogue: Catalogue) -> Sequence[ConditionRow]:
    rows = []
    order = {Match.DIFFERS: 0, Match.ON_PURPOSE: 1, Match.UNKNOWN: 3, Match.EQUAL: 2, Match.OUTCOME: 4}
    for one in sorted(comparison.conditions, key=lambda each: order[each.match]):
        about = catalogue.conditions[one.key]
        text = words.condition(one, catalogue)
        tip = f"{about.label}: {text}, {words.MATCH[one.match]}. {about.why}"
        rows.append(ConditionRow(one.key, about.label, text, one.match, tip, tip))
    return rows

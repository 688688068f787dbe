"""Edits of what was measured: each makes a new job; refused in words."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from typing import Any

import numpy as np
from pydantic import BaseModel, ValidationError

from zeotherm.core.catalogue.measuring import Condition
from zeotherm.core.judgement.bands import Band
from zeotherm.core.machine.documents import Job
from zeotherm.core.machine.measured import FORECAST, LOG_ROWS, MOST_RUNS, Heard, Measured, Picture, Run, RunDoubt
from zeotherm.core.parts.hotend.judge.course import Course
from zeotherm.shop.editing.edits import RefusedError
from zeotherm.shop.files.job_files import explain
from zeotherm.wording import units
from zeotherm.wording.language import _

Noted = float | str


def with_measured(job: Job, **changes: Any) -> Job:
    """The job with fields of its measured part changed. Raises RefusedError."""
    return job.model_copy(update={"measured": _made(Measured, job.measured, changes)})


def _made(kind: type[BaseModel], one: BaseModel, changes: dict[str, Any]) -> Any:
    """A document with changes, validated where it was changed only. Raises RefusedError."""
    try:
        return kind(**{**{name: getattr(one, name) for name in kind.model_fields}, **changes})
    except ValidationError as wrong:
        raise RefusedError(explain(wrong, {})) from None


def _free(taken: dict[str, Any], stem: str) -> str:
    return next(f"{stem}{number}" for number in range(1, MOST_RUNS + 2) if f"{stem}{number}" not in taken)


def with_run(job: Job, run: Run) -> Job:
    """The job with one more run; the first lies over the model. Raises RefusedError."""
    runs = job.measured.runs
    if len(runs) >= MOST_RUNS:
        raise RefusedError(_("A job keeps up to {most} runs. Take one off first.").format(most=MOST_RUNS))
    key = _free(runs, "run")
    return with_measured(job, runs={**runs, key: run}, laid=job.measured.laid or key)


def with_forecast(job: Job, course: Course, channels: Collection[str], bands: Mapping[str, Band]) -> Job:
    """The job with what the model says of its machine locked as a run, to lie beside the run that is made after.

    channels: what a run may have; the air at the print counts as the air near the bed, too. bands: of the stations,
    taken as what differs from run to run. What lies over the model stays as it was. Raises RefusedError.
    """
    series = dict(course.series)
    if "case_air" in series:
        series["near_bed"] = series["case_air"]
    if "case_air" in bands:
        bands = {**bands, "near_bed": bands["case_air"]}
    kept = np.unique(np.linspace(0, len(course.run.times) - 1, min(LOG_ROWS, len(course.run.times))).astype(int))
    values: dict[str, list[float | None]] = {
        name: [round(float(one), 2) if np.isfinite(one) else None for one in series[name][kept]]
        for name in channels
        if name in series
    }
    what = _("with the trial") if job.trial else _("as found")
    run = Run(
        label=_("Forecast {what}").format(what=what), source=FORECAST, rows=len(kept),
        start_h=job.setup().schedule.start_h,
        time_s=[round(float(one), 2) for one in course.run.times[kept]], values=values, zero_s=0.0,
        doubts={name: RunDoubt(offset=0.0, relative=0.0, repeat=round(max(bands[name].down, bands[name].up), 2))
                for name in values if name in bands},
        notes=[_("What the model said before the change was made, locked.")],
    )  # fmt: skip
    return with_measured(with_run(job, run), laid=job.measured.laid)


def changed_run(job: Job, key: str, **changes: Any) -> Job:
    """The job with a run's label, zero, doubts or other words changed. Raises RefusedError."""
    runs = job.measured.runs
    if key not in runs:
        raise RefusedError(_("There is no run '{key}'.").format(key=key))
    return with_measured(job, runs={**runs, key: _made(Run, runs[key], changes)})


def without_run(job: Job, key: str) -> Job:
    """The job without a run; undo brings it back."""
    measured = job.measured
    runs = {one: run for one, run in measured.runs.items() if one != key}
    hidden = [one for one in measured.hidden if one != key]
    return with_measured(job, runs=runs, hidden=hidden, laid=None if measured.laid == key else measured.laid)


def laid(job: Job, key: str | None) -> Job:
    """The job with a run laid over the model, or none. Raises RefusedError."""
    return with_measured(job, laid=key)


def shown(job: Job, key: str, show: bool) -> Job:
    """The job with a run compared, or kept out of the comparison. Raises RefusedError."""
    hidden = [one for one in job.measured.hidden if one != key]
    return with_measured(job, hidden=hidden if show else [*hidden, key])


def noted(job: Job, key: str, name: str, condition: Condition, text: str) -> Job:
    """The job with a condition of a run noted as typed; an empty text forgets it. Raises RefusedError."""
    if key not in job.measured.runs:
        raise RefusedError(_("There is no run '{key}'.").format(key=key))
    conditions = dict(job.measured.runs[key].conditions)
    if text.strip():
        conditions[name] = condition_value(condition, text)
    else:
        conditions.pop(name, None)
    return changed_run(job, key, conditions=conditions)


def condition_value(condition: Condition, text: str) -> Noted:
    """What was typed for a condition: a number in its unit, or words. Raises RefusedError."""
    if condition.kind in ("text", "hash"):
        return text.strip()[:120]
    found = units.NUMBER.search(text)
    if found is None:
        raise RefusedError(_("{label}: '{text}' is no number.").format(label=condition.label, text=text.strip()))
    unit = (text[: found.start()] + text[found.end() :]).strip()
    try:
        value = units.read_number(found.group())
        return units.convert(value, unit, condition.unit) if unit != condition.unit else value
    except units.NotANumberError as wrong:
        raise RefusedError(f"{condition.label}: {wrong}") from None


def on_purpose(job: Job, name: str) -> Job:
    """The job with a condition that differs on purpose, or no longer."""
    purpose = job.measured.purpose
    return with_measured(job, purpose=[one for one in purpose if one != name] if name in purpose else [*purpose, name])


def with_picture(job: Job, picture: Picture) -> Job:
    """The job with one more thermal picture. Raises RefusedError."""
    pictures = job.measured.pictures
    if len(pictures) >= MOST_RUNS:
        raise RefusedError(_("A job keeps up to {most} pictures. Take one off first.").format(most=MOST_RUNS))
    return with_measured(job, pictures={**pictures, _free(pictures, "picture"): picture})


def changed_picture(job: Job, key: str, **changes: Any) -> Job:
    """The job with a picture's label, emissivity, mirrored temperature or regions changed. Raises RefusedError."""
    pictures = job.measured.pictures
    if key not in pictures:
        raise RefusedError(_("There is no picture '{key}'.").format(key=key))
    return with_measured(job, pictures={**pictures, key: _made(Picture, pictures[key], changes)})


def without_picture(job: Job, key: str) -> Job:
    """The job without a picture; undo brings it back."""
    return with_measured(job, pictures={one: kept for one, kept in job.measured.pictures.items() if one != key})


def with_heard(job: Job, heard: Heard) -> Job:
    """The job with one more fan heard; the same recording again takes the place of the last. Raises RefusedError."""
    others = [one for one in job.measured.heard if one.source != heard.source]
    return with_measured(job, heard=[*others, heard])


def ticked(job: Job, step: int) -> Job:
    """The job with a step of the guided test done, or open again."""
    done = job.measured.ticked
    return with_measured(job, ticked=[one for one in done if one != step] if step in done else sorted([*done, step]))


def following(job: Job, protocol: str | None) -> Job:
    """The job with another guided test, begun afresh, or none."""
    return with_measured(job, protocol=protocol, ticked=[])

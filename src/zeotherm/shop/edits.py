"""Edits of a job: what the entry line, the levers and the command line do to it."""

from __future__ import annotations

import json
from typing import Any

from pydantic import JsonValue, ValidationError

from zeotherm.core.catalogue import shipped
from zeotherm.core.machine.documents import Job, Reading, Setup, merge_patch, patch_at, patched, value_at
from zeotherm.core.machine.quantity import declared
from zeotherm.core.twin.hotend.inputs import DoesNotFitError, resolve
from zeotherm.shop.job_files import explain
from zeotherm.wording.entry import Read, SetValue, Unclear, understand
from zeotherm.wording.language import _


class RefusedError(ValueError):
    """An edit that cannot be made, and why."""


def with_value(job: Job, path: str, value: float | str) -> Job:
    """The job with a value on trial; back at the value found, the trial forgets it. Raises RefusedError."""
    trial: JsonValue = merge_patch(job.trial, patch_at(path, value))
    assert isinstance(trial, dict)
    if path == "hotend.template":
        trial = _with_fitting_break(job, trial)
    return _checked(job, {"trial": without_found(job.found, trial)})


def as_found(job: Job, path: str | None = None) -> Job:
    """The job without the trial, or without one path of it. Raises RefusedError."""
    if path is None:
        return _checked(job, {"trial": {}})
    return with_value(job, path, value_at(job.found, path))


def accept_trial(job: Job) -> Job:
    """The job with the values on trial taken as found. Raises RefusedError."""
    return _checked(job, {"found": job.setup().model_dump(mode="json"), "trial": {}})


def with_reading(job: Job, station: str, value: float | None, tolerance: float | None = None) -> Job:
    """The job with a reading pinned, or taken away; tolerance: 95 % half-width. Raises RefusedError."""
    readings: dict[str, Any] = {key: reading.model_dump() for key, reading in job.readings.items() if key != station}
    if value is not None:
        known = Reading(value=value) if tolerance is None else Reading(value=value, tolerance=tolerance)
        readings[station] = known.model_dump()
    return _checked(job, {"readings": readings})


def apply_line(job: Job, line: str) -> tuple[Job, str]:
    """The job after an entry line, and what was understood. Raises RefusedError."""
    meant = understand(line, job.setup(), shipped().with_own(job.catalogue))
    if isinstance(meant, Unclear):
        raise RefusedError(meant.text)
    if isinstance(meant, Read):
        return with_reading(job, meant.station, meant.value, meant.tolerance), meant.text
    assert isinstance(meant, SetValue)
    return with_value(job, meant.path, meant.value), meant.text


def without_found(found: Setup, trial: dict[str, JsonValue]) -> dict[str, JsonValue]:
    """The part of a trial that differs from what was found."""
    tried = patched(found, trial)
    kept: JsonValue = {}
    for path in declared(Setup):
        if value_at(tried, path) != value_at(found, path):
            kept = merge_patch(kept, patch_at(path, value_at(tried, path)))
    assert isinstance(kept, dict)
    return kept


def _with_fitting_break(job: Job, trial: dict[str, JsonValue]) -> dict[str, JsonValue]:
    """A hotend of another bore comes with its own break."""
    catalogue = shipped().with_own(job.catalogue)
    setup = patched(job.found, trial)
    shape = catalogue.hotends.get(setup.hotend.template)
    fitted = catalogue.breaks.get(setup.hotend.break_part)
    if shape is None or (fitted is not None and fitted.bore == shape.bore):
        return trial
    merged = merge_patch(trial, patch_at("hotend.break_part", shape.default_break))
    assert isinstance(merged, dict)
    return merged


def _checked(job: Job, changes: dict[str, Any]) -> Job:
    data = {**job.model_dump(mode="json"), **changes}
    try:
        changed = Job.model_validate_json(json.dumps(data))
        resolve(changed.setup(), shipped().with_own(changed.catalogue), changed.tolerances)
    except ValidationError as wrong:
        raise RefusedError(explain(wrong, data)) from None
    except DoesNotFitError as wrong:
        raise RefusedError(_("{label}: {why}").format(label=declared(Setup)[wrong.path].label, why=wrong)) from None
    return changed

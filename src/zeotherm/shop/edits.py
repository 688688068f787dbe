"""Edits of a job: what the entry line, the levers and the command line do to it."""

from __future__ import annotations

import itertools
import json
from typing import Any

from pydantic import ValidationError

from zeotherm.core.catalogue import shipped
from zeotherm.core.machine.documents import Job, Log, Reading, Setup, Variant, patched
from zeotherm.core.machine.patches import ClashError, Patch, difference, merged, patch_at, together, value_at
from zeotherm.core.machine.quantity import declared
from zeotherm.core.twin.hotend.inputs import DoesNotFitError
from zeotherm.shop.job_files import check_parts, explain
from zeotherm.wording.entry import Change, Read, SetValue, Unclear, fault_at, understand
from zeotherm.wording.language import _

LABEL = 60  # characters of an option's name
FAN_AIR, AIR_FROM = "surroundings.fan_air_c", "surroundings.air_from"


class RefusedError(ValueError):
    """An edit that cannot be made, and why."""


def with_value(job: Job, path: str, value: float | str) -> Job:
    """The job with a value on trial; back at the value found, the trial forgets it. Raises RefusedError."""
    trial = merged(job.trial, patch_at(path, value))
    if path == "hotend.template":
        trial = _with_fitting_break(job, trial)
    if path == FAN_AIR:  # who states the air's temperature takes its source away
        trial = merged(trial, patch_at(AIR_FROM, _stated_source(job)))
    return _checked(job, {"trial": without_found(job.found, trial)})


def with_patch(job: Job, patch: Patch) -> Job:
    """The job with a merge patch on trial; a null takes away what was found, too. Raises RefusedError."""
    try:
        target = merged(job.setup().model_dump(mode="json"), patch)
        return _checked(job, {"trial": difference(job.found.model_dump(mode="json"), target)})
    except ValidationError as wrong:
        raise RefusedError(explain(wrong, {})) from None


def as_found(job: Job, path: str | None = None) -> Job:
    """The job without the trial, or without one path of it. Raises RefusedError."""
    if path is None:
        return _checked(job, {"trial": {}})
    trial = merged(job.trial, patch_at(path, value_at(job.found, path)))
    if path == FAN_AIR:
        trial = merged(trial, patch_at(AIR_FROM, job.found.surroundings.air_from))
    return _checked(job, {"trial": without_found(job.found, trial)})


def accept_trial(job: Job) -> Job:
    """The job with the values on trial taken as found. Raises RefusedError."""
    return _checked(job, {"found": job.setup().model_dump(mode="json"), "trial": {}})


def with_reading(
    job: Job, station: str, value: float | None, tolerance: float | None = None, clock_h: float | None = None
) -> Job:
    """The job with a reading pinned, or taken away. Raises RefusedError.

    tolerance: 95 % half-width; clock_h: when it was read, in hours on from the day the job starts.
    """
    readings: dict[str, Any] = {key: reading.model_dump() for key, reading in job.readings.items() if key != station}
    if value is not None:
        known = Reading(value=value, clock_h=clock_h)
        if tolerance is not None:
            known = known.model_copy(update={"tolerance": tolerance})
        readings[station] = known.model_dump()
    return _checked(job, {"readings": readings})


def apply_line(job: Job, line: str, clock_h: float | None = None) -> tuple[Job, str]:
    """The job after an entry line, and what was understood; clock_h: the time of a reading. Raises RefusedError."""
    meant = understand(line, job.setup(), shipped().with_own(job.catalogue))
    if isinstance(meant, Unclear):
        raise RefusedError(meant.text)
    if isinstance(meant, Read):
        return with_reading(job, meant.station, meant.value, meant.tolerance, clock_h), meant.text
    if isinstance(meant, Change):
        return with_patch(job, meant.patch), meant.text
    return with_value(job, meant.path, meant.value), meant.text


def with_fault(job: Job, key: str, minute: float) -> Job:
    """The job with one of the catalogue's faults on trial, so many minutes after switching on. Raises RefusedError."""
    meant = fault_at(key, minute, job.setup(), shipped().with_own(job.catalogue))
    if not isinstance(meant, Change):
        raise RefusedError(meant.text)
    return with_patch(job, meant.patch)


def with_log(job: Job, log: Log | None) -> Job:
    """The job with a measured run beside it, or without. Raises RefusedError."""
    return _checked(job, {"log": log.model_dump(mode="json") if log is not None else None})


# options


def with_variant(job: Job, key: str, variant: Variant | None) -> Job:
    """The job with an option put on the board, changed, or taken off it. Raises RefusedError."""
    kept = {name: one.model_dump(mode="json") for name, one in job.variants.items() if name != key or variant}
    if variant is not None:
        kept[key] = variant.model_dump(mode="json")
    return _checked(job, {"variants": kept, "chosen": [name for name in job.chosen if name in kept]})


def trial_as_variant(job: Job) -> Job:
    """The trial as an option of its own, named by what it changes; the trial ends. Raises RefusedError."""
    if not job.trial:
        raise RefusedError(_("Nothing is on trial: move a lever first."))
    changed = [
        item.label for path, item in declared(Setup).items() if value_at(job.found, path) != value_at(job.setup(), path)
    ]
    label = ", ".join(changed) or _("Changed schedule")
    made = Variant(label=label if len(label) <= LABEL else label[: LABEL - 1] + "…", change=job.trial)
    return _checked(with_variant(job, _new_key(job), made), {"trial": {}})


def line_as_variant(job: Job, line: str) -> Job:
    """An option made of what an entry line says. Raises RefusedError."""
    meant = understand(line, job.found, shipped().with_own(job.catalogue))
    if not isinstance(meant, SetValue | Change):
        raise RefusedError(meant.text if isinstance(meant, Unclear) else _("A reading is no option."))
    changed = apply_line(job.model_copy(update={"trial": {}}), line)[0]
    if not changed.trial:
        raise RefusedError(_("The machine was found so: {text}").format(text=meant.text))
    return with_variant(job, _new_key(job), Variant(label=meant.text[:LABEL], change=changed.trial))


def toggled(job: Job, key: str) -> Job:
    """The job with an option taken into the set, or out of it; options that clash refuse. Raises RefusedError."""
    chosen = [name for name in job.chosen if name != key] if key in job.chosen else [*job.chosen, key]
    return with_chosen(job, chosen)


def with_chosen(job: Job, chosen: list[str]) -> Job:
    """The job with a set of options taken; options that clash refuse. Raises RefusedError."""
    try:
        together(*(job.variants[name].change for name in chosen))
    except ClashError as wrong:
        label = declared(Setup)[wrong.path].label if wrong.path in declared(Setup) else wrong.path
        raise RefusedError(
            _("These options clash: {label} would be {one} and {other} at once. Leave one out.").format(
                label=label, one=wrong.one, other=wrong.other
            )
        ) from None
    return _checked(job, {"chosen": chosen})


def _new_key(job: Job) -> str:
    return next(f"own_{number}" for number in itertools.count(1) if f"own_{number}" not in job.variants)


def without_found(found: Setup, trial: Patch) -> Patch:
    """The part of a trial that differs from what was found."""
    return difference(found.model_dump(mode="json"), patched(found, trial).model_dump(mode="json"))


def _with_fitting_break(job: Job, trial: Patch) -> Patch:
    """A hotend of another bore comes with its own break."""
    catalogue = shipped().with_own(job.catalogue)
    setup = patched(job.found, trial)
    shape = catalogue.hotends.get(setup.hotend.template)
    fitted = catalogue.breaks.get(setup.hotend.break_part)
    if shape is None or (fitted is not None and fitted.bore == shape.bore):
        return trial
    return merged(trial, patch_at("hotend.break_part", shape.default_break))


def _stated_source(job: Job) -> str:
    sources = shipped().with_own(job.catalogue).air_sources
    return next(key for key, source in sources.items() if source.stated)


def _checked(job: Job, changes: dict[str, Any]) -> Job:
    beside: set[str] = set() if "log" in changes else {"log"}  # long, and unchanged: not validated again
    data = {**job.model_dump(mode="json", exclude=beside), **changes}
    try:
        changed = Job.model_validate_json(json.dumps(data))
        if beside:
            changed = changed.model_copy(update={"log": job.log})
        check_parts(changed, job)
    except ValidationError as wrong:
        raise RefusedError(explain(wrong, data)) from None
    except DoesNotFitError as wrong:
        raise RefusedError(_("{label}: {why}").format(label=declared(Setup)[wrong.path].label, why=wrong)) from None
    return changed

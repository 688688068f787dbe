"""Edits of the work on a machine: each makes a new job; refused in words. Times come in as stamps, spans as seconds."""

from __future__ import annotations

import json
import math
from collections.abc import Sequence
from typing import Any

from pydantic import ValidationError
from pydantic_core import to_jsonable_python

from zeotherm.core.catalogue import Catalogue
from zeotherm.core.catalogue.procedures import Record, Step
from zeotherm.core.guard.fitted import assumed_of
from zeotherm.core.guard.heat import nozzle_cap
from zeotherm.core.machine.documents import Job
from zeotherm.core.machine.doing import Doing, DoneStep, HoldReading, OpenStep, Way
from zeotherm.core.machine.intake import Attachment
from zeotherm.core.work.gates import GateState, missing_records, stops_exit
from zeotherm.core.work.holding import COLDEST, HOTTEST
from zeotherm.core.work.planning import PROOF, NoWayError, Order, OrderLine, order
from zeotherm.core.work.proving import Proof, in_order
from zeotherm.shop.editing.edits import RefusedError
from zeotherm.shop.files.job_files import explain
from zeotherm.wording import units, work
from zeotherm.wording.language import _

LEAST_REASON = 8  # characters of a reason that is one


def with_doing(job: Job, **changes: Any) -> Job:
    """The job with fields of its work changed. Raises RefusedError."""
    try:
        made = Doing.model_validate_json(
            json.dumps({**job.doing.model_dump(mode="json"), **to_jsonable_python(changes)})
        )
    except ValidationError as wrong:
        raise RefusedError(explain(wrong, {})) from None
    return job.model_copy(update={"doing": made})


def order_of(job: Job, catalogue: Catalogue) -> Order:
    """The order of a job. Raises RefusedError where the catalogue's own steps lead nowhere."""
    try:
        return order(job.doing, job.found, catalogue, job.planned(), assumed_of(job))
    except NoWayError as wrong:
        raise RefusedError(_("This order leads nowhere: {why}.").format(why=wrong)) from None


def with_procedure(job: Job, key: str, catalogue: Catalogue) -> Job:
    """The job with a procedure put on its order, or taken off while nothing of it is done. Raises RefusedError."""
    doing = job.doing
    if key not in catalogue.procedures:
        raise RefusedError(_("Nothing in the catalogue is called '{name}'.").format(name=key))
    if key not in doing.procedures:
        changed = with_doing(job, procedures=[*doing.procedures, key], closed=None)
        if not doing.done:
            changed = with_doing(changed, procedures=in_order(changed.doing.procedures, catalogue))
        order_of(changed, catalogue)
        return changed
    if any(one.step.startswith(f"{key}/") for one in doing.done):
        raise RefusedError(_("'{label}' is begun: finish it, or note why it fails.").format(
            label=catalogue.procedures[key].label))  # fmt: skip
    return with_doing(job, procedures=[one for one in doing.procedures if one != key], open=None)


def with_choice(job: Job, choice: str, option: str, catalogue: Catalogue) -> Job:
    """The job with a fact or a school settled. Raises RefusedError."""
    about = catalogue.choices.get(choice)
    if about is None or option not in about.options:
        raise RefusedError(_("Nothing in the catalogue is called '{name}'.").format(name=f"{choice}.{option}"))
    return with_doing(job, choices={**job.doing.choices, choice: option}, open=None)


def written(job: Job, stamp: str, procedures: list[str], catalogue: Catalogue) -> Job:
    """The job with its order written down, its choices kept as they stand. Raises RefusedError."""
    if not procedures:
        raise RefusedError(_("Nothing is to be done yet: take options on Choose, or put procedures on the order."))
    kept = {name: job.doing.choices.get(name, about.usual) for name, about in catalogue.choices.items()}
    changed = with_doing(job, procedures=procedures, choices=kept, written=stamp, closed=None)
    order_of(changed, catalogue)
    return changed


def failed_after(job: Job, minutes: float | None) -> Job:
    """The job with how long it printed before it failed, as told. Raises RefusedError."""
    return with_doing(job, failed_after_min=minutes)


# the step at hand


def begun(job: Job, line: OrderLine, stamp: str) -> Job:
    """The job with its step at hand opened, as it stands if it is open. Raises RefusedError."""
    if job.doing.open is not None and job.doing.open.step == line.key:
        return job
    return with_doing(job, open=OpenStep(step=line.key, begun=stamp))


def _open(job: Job) -> OpenStep:
    if job.doing.open is None:
        raise RefusedError(_("No step is open."))
    return job.doing.open


def _changed(job: Job, **changes: Any) -> Job:
    opened = _open(job)
    return with_doing(job, open={**opened.model_dump(mode="json"), **changes})


def ticked(job: Job, index: int) -> Job:
    """The job with a gate confirmed, or no longer. Raises RefusedError."""
    ticks = _open(job).ticks
    return _changed(job, ticks=[one for one in ticks if one != index] if index in ticks else sorted([*ticks, index]))


def held_from(job: Job, stamp: str, before_s: float = 0.0) -> Job:
    """The job with the hold of its step begun; before_s: since when the heat was off by then. Readings begin anew."""
    if not (math.isfinite(before_s) and 0.0 <= before_s <= 1e6):
        raise RefusedError(
            _("Off for {minutes:g} min? Give minutes between 0 and 10000.").format(minutes=before_s / 60)
        )
    return _changed(job, held_from=stamp, before_s=before_s, readings=[])


def with_hold_reading(job: Job, value: float, after_s: float, way: Way, tolerance: float | None = None) -> Job:
    """The job with a temperature read while its step is held. Raises RefusedError for one that no probe shows."""
    if not (math.isfinite(value) and COLDEST <= value <= HOTTEST):
        raise RefusedError(_("{value:g} °C cannot be: look at the probe and its unit, and type it again.").format(
            value=value))  # fmt: skip
    opened = _open(job)
    doubt = tolerance if tolerance is not None else 2.0
    made = HoldReading(after_s=round(max(after_s, 0.0), 1), value=value, tolerance=doubt, way=way)
    kept = [one for one in opened.readings if one.after_s <= made.after_s]
    return _changed(job, readings=[one.model_dump() for one in (*kept, made)])


def noted(job: Job, step: Step, key: str, text: str, catalogue: Catalogue) -> Job:
    """The job with a value of its step noted as typed; nothing typed takes it back. Raises RefusedError, also for a
    temperature that a fitted part does not stand."""
    record = next((one for one in step.record if one.key == key), None)
    if record is None:
        raise RefusedError(_("This step notes nothing called '{name}'.").format(name=key))
    values = {one: value for one, value in _open(job).values.items() if one != key}
    if text.strip():
        values[key] = text.strip()[:500] if record.kind == "text" else _number(record, text)
        if record.guard == "nozzle":
            cap = nozzle_cap(job.planned(), catalogue, assumed_of(job))
            if float(values[key]) > cap.value:
                raise RefusedError(work.over_cap(record, float(values[key]), cap))
    return _changed(job, values=values)


def _number(record: Record, text: str) -> float:
    try:
        value = units.number_in(text, record.unit)
    except units.NotANumberError as wrong:
        raise RefusedError(_("{label}: {why}").format(label=record.label, why=wrong)) from None
    if not record.low <= value <= record.high:
        raise RefusedError(work.out_of_bounds(record, value))
    return value


def with_photo(job: Job, key: str, photo: Attachment) -> Job:
    """The job with a photograph of its step. Raises RefusedError."""
    photos = {name: one.model_dump() for name, one in _open(job).photos.items()}
    return _changed(job, photos={**photos, key: photo.model_dump()})


def left(
    job: Job,
    line: OrderLine,
    exit_key: str,
    stamp: str,
    states: Sequence[GateState],
    catalogue: Catalogue,
    asked: Proof,
) -> Job:
    """The job with its step at hand done by one of its exits. Raises RefusedError, and says what is missing.

    states: of its gates; asked: how long a proof run must be.
    """
    opened = _open(job)
    taken = next((one for one in line.exits if one.key == exit_key), None)
    if taken is None or opened.step != line.key:
        raise RefusedError(_("'{label}' cannot be left that way.").format(label=line.step.label))
    closed = [one for one in states if stops_exit(one, taken, line)]
    if closed:
        raise RefusedError(work.held(closed[0]))
    if not taken.fails:
        if missing := missing_records(line.step, opened):
            raise RefusedError(_("Note first: {label}.").format(label=missing[0].label.lower()))
        _check_counts(job, opened)
        _check_over(line.step, opened)
        minutes = opened.values.get("minutes")
        if line.key == PROOF and isinstance(minutes, float | int) and minutes < asked.minutes:
            raise RefusedError(work.proof_too_short(minutes, asked))
    done = DoneStep(
        **opened.model_dump(), ended=stamp, exit=exit_key, heat_c=line.target.value if line.target is not None else None
    )
    changed = with_doing(job, done=[*job.doing.done, done], open=None)
    after = order_of(changed, catalogue)
    finished = after.now is None and not after.stuck and not after.failed
    return with_doing(changed, closed=stamp) if finished else changed


def _check_counts(job: Job, opened: OpenStep) -> None:
    """What was put on the tray comes off it."""
    if "screws_in" not in opened.values:
        return
    out = sum(float(one.values.get("screws_out", 0)) for one in job.doing.done)
    back = sum(float(one.values.get("screws_in", 0)) for one in job.doing.done) + float(opened.values["screws_in"])
    if back != out:
        raise RefusedError(_("{out:.0f} screws came out, {back:.0f} are back. Find the difference first.").format(
            out=out, back=back))  # fmt: skip


def _check_over(step: Step, opened: OpenStep) -> None:
    """What may be over another value by so much only, as earth over its own lead."""
    for record in step.record:
        value, base = opened.values.get(record.key), opened.values.get(record.over)
        if isinstance(value, float | int) and isinstance(base, float | int) and value > base + record.over_by + 1e-9:
            raise RefusedError(work.too_far_over(record, value, base + record.over_by))


def left_out(job: Job, check: str, reason: str) -> Job:
    """The job without one of its re-checks, and why; an empty reason puts it back. Raises RefusedError."""
    kept = {key: why for key, why in job.doing.left_out.items() if key != check}
    if not reason.strip():
        return with_doing(job, left_out=kept, open=None)
    if len(reason.strip()) < LEAST_REASON:
        raise RefusedError(_("Say in a few words why it is left out."))
    return with_doing(job, left_out={**kept, check: reason.strip()[:200]}, open=None)

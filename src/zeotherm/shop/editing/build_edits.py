"""Edits of the hotend that is put together: what is wanted of it, and parts into its slots, typed or chosen."""

from __future__ import annotations

from typing import Any

from pydantic import ValidationError

from zeotherm.core.catalogue import Catalogue
from zeotherm.core.choices.build.slots import candidates, filled
from zeotherm.core.machine.build import Build
from zeotherm.core.machine.documents import Job, patched
from zeotherm.core.machine.patches import Patch, merged, patch_at
from zeotherm.shop.editing.edits import RefusedError
from zeotherm.shop.files.job_files import explain
from zeotherm.wording.entry import SetSeveral, SetValue, Unclear, understand
from zeotherm.wording.language import _

WISHES = {  # what is asked of a build by a value of the machine
    "printing.nozzle_c": "nozzle_c", "printing.flow_mm3_s": "flow_mm3_s", "printing.part_fan_pct": "part_fan_pct",
    "surroundings.fan_air_c": "air_c", "case.target_c": "air_c",
}  # fmt: skip
PLASTIC = "printing.filament"


def with_build(job: Job, **wanted: Any) -> Job:
    """The job with something else wanted of its build, or other parts in it. Raises RefusedError."""
    data = {**job.build.model_dump(), **wanted}
    try:
        build = Build.model_validate(data)
        patched(job.found, build.change)
    except ValidationError as wrong:
        raise RefusedError(explain(wrong, data)) from None
    return job.model_copy(update={"build": build})


def line_as_build(job: Job, line: str, catalogue: Catalogue) -> Job:
    """The job with what an entry line says in its build: parts in their slots, figures as what is wanted. Raises
    RefusedError."""
    meant = understand(line, patched(job.found, job.build.change), catalogue)
    if not isinstance(meant, SetValue | SetSeveral):
        raise RefusedError(meant.text if isinstance(meant, Unclear) else _("That is nothing of a hotend."))
    wanted: dict[str, Any] = {}
    change = job.build.change
    for one in meant.values if isinstance(meant, SetSeveral) else (meant,):
        if one.path in WISHES:
            wanted[WISHES[one.path]] = one.value
        elif one.path == PLASTIC:
            wanted["plastics"] = [*(key for key in job.build.plastics if key != one.value), one.value]
        else:
            change = _with_value(change, one, job, catalogue)
    return with_build(job, **wanted, change=change)


def _with_value(change: Patch, one: SetValue, job: Job, catalogue: Catalogue) -> Patch:
    """A build with a part in its slot, or with a figure of a part, as the size of a nozzle."""
    slot = next((key for key, about in catalogue.slots.items() if about.at == one.path), None)
    if slot is not None and isinstance(one.value, str):
        offers = candidates(slot, job.found, patched(job.found, change), catalogue, {})
        part = next((each for each in offers if each.key == one.value), None)
        if part is None:
            raise RefusedError(_("{text} does not go into this hotend.").format(text=one.text))
        return filled(change, part, job.found, catalogue)
    if not one.path.startswith(("hotend.", "fan.")):
        raise RefusedError(_("{text} is nothing of a hotend: it belongs to the machine.").format(text=one.text))
    return merged(change, patch_at(one.path, one.value))

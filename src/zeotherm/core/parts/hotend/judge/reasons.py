"""Why a limit is gone: the setup's departures from a sound machine, each set right alone and solved."""

from __future__ import annotations

from dataclasses import replace

from zeotherm.core.judgement.departures import departs, good_of
from zeotherm.core.judgement.findings import Reason
from zeotherm.core.judgement.limits import Held
from zeotherm.core.machine.patches import patch_at, value_at
from zeotherm.core.parts.hotend.judge.probe import WhatIf, room
from zeotherm.core.parts.hotend.model.solved import Solved

FAN_AIR = "surroundings.fan_air_c"


def reasons(probe: WhatIf, limit: Held) -> list[Reason]:
    """Departures that cost this limit room, costliest first."""
    catalogue = probe.catalogue
    now = room(probe.rest, limit)
    found = []
    for path, reference in catalogue.references.items():
        value, good = _value(probe, path), good_of(reference, probe.setup, catalogue)
        if not departs(value, good, reference):
            continue
        righted = _righted(probe, path, good)
        if righted is None:
            continue
        found.append(Reason(path, value, good, room(righted, limit) - now))
    found += _heats(probe, limit, now)
    least = 0.02 * limit.clear_from(probe.solved.resolved.inputs)
    found = [reason for reason in found if reason.gain > least]
    return sorted(found, key=lambda reason: -reason.gain)


def _heats(probe: WhatIf, limit: Held, now: float) -> list[Reason]:
    """Heat from outside, each taken away alone; where the air is computed."""
    found = []
    for key, heat in probe.setup.heats.items():
        without = probe.with_change({"heats": {key: None}}) if probe.course is not None else None
        if without is not None:
            found.append(Reason(f"heats.{key}", heat.label, "", room(without, limit) - now))
    return found


def _value(probe: WhatIf, path: str) -> float | str:
    """What stands at a path; the fan's air as it is at the moment, stated or computed."""
    return probe.solved.air.fan if path == FAN_AIR else value_at(probe.setup, path)


def _righted(probe: WhatIf, path: str, good: float | str) -> Solved | None:
    if path == FAN_AIR:
        return probe.in_air(replace(probe.solved.air, fan=float(good)))
    return probe.with_change(patch_at(path, good))

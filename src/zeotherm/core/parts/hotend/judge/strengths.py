"""How much each lever gains before it is pulled, and what would be enough on its own."""

from __future__ import annotations

import math

from zeotherm.core.catalogue.shelves import Lever
from zeotherm.core.judgement.findings import Strength
from zeotherm.core.judgement.levers import levers_of, steps_of
from zeotherm.core.judgement.limits import Held
from zeotherm.core.machine.documents import Setup
from zeotherm.core.machine.patches import patch_at, value_at
from zeotherm.core.machine.quantity import Choice, declared
from zeotherm.core.parts.hotend.judge.probe import WhatIf, room
from zeotherm.core.parts.hotend.model.solved import Solved
from zeotherm.core.solver.axisymmetric import CancelledError

HALVINGS = 5


def strengths(probe: WhatIf, worst: Held, limits: list[Held]) -> list[Strength]:
    """Every lever's gain, strongest first. Raises CancelledError when the probe's caller no longer wants it."""
    now = room(probe.rest, worst)
    found, levers = [], levers_of(probe.setup, probe.catalogue)
    steps = ((path, to) for path, lever in levers.items() for to in steps_of(probe.setup, probe.catalogue, path, lever))
    probe.look_ahead(patch_at(path, to) for path, to in steps)
    for path, lever in levers.items():
        if probe.cancelled():
            raise CancelledError
        gains = [(room(solved, worst) - now, to, solved) for to, solved in _steps(probe, path, lever)]
        if not gains:
            continue
        gain, best, _solved = max(gains, key=lambda one: one[0])
        enough: float | str | None = None
        if gain > 0.0 and lever.advice:
            if isinstance(declared(Setup)[path], Choice):
                suffice = [(by, to) for by, to, solved in gains if _meets_all(probe, path, to, solved, limits)]
                enough = min(suffice)[1] if suffice else None
            else:
                enough = _enough(probe, path, lever, float(best), limits)
        found.append(Strength(path, best, gain, enough))
    return sorted(found, key=lambda one: -one.gain)


def _steps(probe: WhatIf, path: str, lever: Lever) -> list[tuple[float | str, Solved]]:
    """The values one step away, each settled."""
    tried = [(to, probe.with_change(patch_at(path, to))) for to in steps_of(probe.setup, probe.catalogue, path, lever)]
    return [(to, solved) for to, solved in tried if solved is not None]


def _meets_all(probe: WhatIf, path: str, value: float | str, solved: Solved, limits: list[Held]) -> bool:
    """Whether every limit of the moment holds; of a pause, also those of printing once it goes on."""
    if not all(room(solved, limit) >= 0.0 for limit in limits):
        return False
    if not probe.idle or probe.course is None:
        return True
    printing = probe.with_change(patch_at(path, value), idle=False)
    return printing is not None and all(room(printing, limit) >= 0.0 for limit in probe.course.limits)


def _enough(probe: WhatIf, path: str, lever: Lever, to: float, limits: list[Held]) -> float | None:
    """The smallest change along one lever that meets every limit, to about a thirtieth of its way."""
    start = float(value_at(probe.setup, path))
    far_end = lever.high if to > start else lever.low
    reach = lever.reach if lever.reach is not None else abs(far_end - start)
    end = start + math.copysign(min(reach, abs(far_end - start)), far_end - start)
    far = probe.with_change(patch_at(path, end))
    if far is None or not _meets_all(probe, path, end, far, limits):
        return None
    low, high = start, end
    for _ in range(HALVINGS):
        middle = 0.5 * (low + high)
        tried = probe.with_change(patch_at(path, middle))
        holds = tried is not None and _meets_all(probe, path, middle, tried, limits)
        low, high = (low, middle) if holds else (middle, high)
    return high

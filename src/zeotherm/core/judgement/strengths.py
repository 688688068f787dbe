"""How much each lever gains before it is pulled, what would be enough on its own, and which reading would tell most."""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import Protocol

from zeotherm.core.catalogue.shelves import Catalogue, Lever
from zeotherm.core.judgement.bands import Bands
from zeotherm.core.judgement.findings import NextReading, Strength
from zeotherm.core.judgement.limits import Held
from zeotherm.core.judgement.margins import Margin, Ordered
from zeotherm.core.judgement.probe import WhatIf, room
from zeotherm.core.machine.documents import Setup
from zeotherm.core.machine.patches import patch_at, value_at
from zeotherm.core.machine.quantity import Choice, Quantity, declared
from zeotherm.core.solver.axisymmetric import CancelledError
from zeotherm.core.twin.hotend.solved import Solved
from zeotherm.core.twin.stations import STATIONS

HALVINGS = 5
READING_DOUBT = 1.5  # K, 95 % half-width of an ordinary reading
WORTH_READING = 0.9  # a reading must bring the band to this share of it to be worth a word


class Judged(Protocol):
    """An answer of one part of a machine."""

    @property
    def setup(self) -> Setup:
        """What it is of."""
        ...

    @property
    def catalogue(self) -> Catalogue:
        """What its parts are looked up in."""
        ...

    @property
    def worst(self) -> Margin:
        """The margin that counts."""
        ...


def levers_of(setup: Setup, catalogue: Catalogue, part: str = "hotend") -> dict[str, Lever]:
    """The levers that count for a setup and one of its parts, by path."""
    stated = catalogue.air_sources[setup.surroundings.air_from].stated
    unfit = "computed" if stated else "stated"
    described = "described" if catalogue.power_paths[setup.power.path].described else "unknown"
    return {
        path: lever
        for path, lever in catalogue.levers.items()
        if (lever.when != unfit or part != "hotend")
        and part in lever.parts
        and lever.path in ("either", described)
        and not (lever.needs and value_at(setup, lever.needs) == "none")
    }


def steps_of(setup: Setup, catalogue: Catalogue, path: str, lever: Lever) -> list[float | str]:
    """Where one step takes a lever: up and down within its span, or to each other choice."""
    item, value = declared(Setup)[path], value_at(setup, path)
    if isinstance(item, Quantity):
        signs = {"up": (1.0,), "down": (-1.0,), "either": (1.0, -1.0)}[lever.better]
        wishes: list[float | str] = [min(max(value + sign * item.step, lever.low), lever.high) for sign in signs]
        return [to for to in wishes if not math.isclose(float(to), float(value))]
    fits = catalogue.offering(item.shelf, setup.hotend.template, str(value))
    return [key for key in fits if key != value and not getattr(fits[key], "stated", False)]


def solved_again(
    answer: Judged, part: str, after: Callable[[str, float | str], Ordered | None], cancelled: Callable[[], bool]
) -> list[Strength]:
    """What every lever of a part gains of the worst margin, strongest first; after: with one lever moved, None where
    that does not fit. Raises CancelledError."""
    worst, found = answer.worst, []
    for path, lever in levers_of(answer.setup, answer.catalogue, part).items():
        gains = []
        for to in steps_of(answer.setup, answer.catalogue, path, lever):
            if cancelled():
                raise CancelledError
            moved = after(path, to)
            margin = moved.margin(worst.key) if moved is not None else None
            if moved is None or margin is None or margin.room is None or worst.room is None:
                continue
            gains.append((margin.room - worst.room, to, all(not one.state.bad for one in moved.margins)))
        if not gains:
            continue
        gain, best, _all = max(gains, key=lambda one: one[0])
        suffice = [(by, to) for by, to, holds in gains if by > 0.0 and holds]
        enough = min(suffice, key=lambda one: one[0])[1] if suffice and lever.advice else None
        found.append(Strength(path, best, gain, enough))
    return sorted(found, key=lambda one: -one.gain)


def strengths(probe: WhatIf, worst: Held, limits: list[Held]) -> list[Strength]:
    """Every lever's gain, strongest first. Raises CancelledError when the probe's caller no longer wants it."""
    now = room(probe.rest, worst)
    found = []
    for path, lever in levers_of(probe.setup, probe.catalogue).items():
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


def next_reading(bands: Bands, worst: str, taken: set[str]) -> NextReading | None:
    """The reading that would narrow a limit's room most, to first order; taken: stations read already.

    Room and station move with the same doubts z: of the room's variance a reading leaves 1 - ρ², with ρ the
    correlation of the room with what the reading shows, its own doubt included (linear least squares).
    """
    room_of = {name: sides[0].get(f"room:{worst}", 0.0) for name, sides in bands.changes.items()}
    total = math.hypot(*room_of.values())
    best: NextReading | None = None
    for key, station in STATIONS.items():
        if not station.readable or not station.is_temperature or key in taken:
            continue
        shown = {name: sides[0].get(f"value:{key}", 0.0) for name, sides in bands.changes.items()}
        variance = sum(by * by for by in shown.values()) + READING_DOUBT**2
        shared = sum(room_of[name] * shown[name] for name in room_of)
        left = math.sqrt(max(total**2 - shared**2 / variance, 0.0))
        if left < WORTH_READING * total and (best is None or left < best.after):
            best = NextReading(key, total, left)
    return best

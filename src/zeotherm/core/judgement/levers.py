"""The levers of a part, one step of each, and what that gains where all is solved again."""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import Protocol

from zeotherm.core.catalogue.fitting import offering
from zeotherm.core.catalogue.shelves import Catalogue, Lever
from zeotherm.core.judgement.findings import Strength
from zeotherm.core.judgement.margins import Margin, Ordered
from zeotherm.core.machine.documents import Setup
from zeotherm.core.machine.patches import value_at
from zeotherm.core.machine.quantity import Quantity, declared
from zeotherm.core.solver.axisymmetric import CancelledError


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
    fits = offering(item, setup, catalogue)
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

"""What every cause does to a machine that is sound otherwise: to its cold end, the air that jams it, and its hours."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator
from dataclasses import dataclass

import numpy as np

from zeotherm.core.catalogue.shelves import Catalogue
from zeotherm.core.causes.worlds import departures, hypotheses, sound_machine
from zeotherm.core.machine.documents import Setup
from zeotherm.core.parts.hotend.judge.course import plan


@dataclass(frozen=True, slots=True)
class Effect:
    """One way in which a cause shows; the sound machine has no cause."""

    cause: str
    setup: Setup
    base: float  # of the sink, warmest while printing [°C]
    soft_mm: float  # of strand above the neck, most while printing
    jams_above: float  # air at the fan in which this print just does not jam [°C]
    hours: float  # of printing until it jams, by the stated numbers; infinite: not by going on so
    worst: str  # the limit with the least room


def effects(setup: Setup, catalogue: Catalogue, cancelled: Callable[[], bool] = lambda: False) -> Iterator[Effect]:
    """The sound machine, then every world of every cause that is simulated, one by one.

    Raises DoesNotFitError, NotConvergedError or CancelledError.
    """
    yield _effect("", sound_machine(setup, catalogue, departures(setup, catalogue)), catalogue, cancelled)
    for one in hypotheses(setup, catalogue):
        if one.setup is not None:
            yield _effect(one.cause, one.setup, catalogue, cancelled)


def _effect(cause: str, setup: Setup, catalogue: Catalogue, cancelled: Callable[[], bool]) -> Effect:
    course = plan(setup, catalogue, None, cancelled)
    printing, series = course.printing_marks, course.series
    found = course.jams()
    room = series["jam_room"][printing]
    counted = np.flatnonzero(np.isfinite(room))
    last = int(counted[-1]) if len(counted) else -1
    return Effect(
        cause, setup, float(series["sink_base"][printing].max()), float(series["soft_length"][printing].max()),
        float(series["fan_inlet"][printing][last] + room[last]),
        (found.stated - found.start) / 3600.0 if math.isfinite(found.stated) else math.inf, course.worst_key,
    )  # fmt: skip

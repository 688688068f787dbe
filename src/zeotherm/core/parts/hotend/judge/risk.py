"""How likely a job's feed stops by a time: soft filament, a liner's gap, a core that leaves half melted."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Protocol

import numpy as np

from zeotherm.core.judgement.margins import probability_positive
from zeotherm.core.parts.hotend.judge.bands import Bands
from zeotherm.core.parts.hotend.judge.course import RESIDUE, STARTING, Course, Failure
from zeotherm.core.parts.hotend.judge.jams import Jams

DRIVERS = {"coupler": "seat", "liner_heat": "liner_end"}
WORTH_COUNTING = 0.05  # probability of being past a limit
BEYOND = 1.6  # lengths of the job: where a failure is taken to come that does not come within it
STOPS = {  # limits that stop the feed some time after they are passed [s]: tenth, half, ninth; estimates
    "exit_core": (30.0, 90.0, 300.0),
}


class Failing(Protocol):
    """One way to fail."""

    @property
    def limit(self) -> str:
        """The limit that drives it."""
        ...

    def by(self, time: float) -> float:
        """Probability that it has come by a time of printing [s]."""
        ...


@dataclass(frozen=True, slots=True)
class FailureWay:
    """One way to fail by quantiles of its time, s of printing."""

    tenth: float
    half: float
    ninth: float
    limit: str
    most: float = 1.0

    def by(self, time: float) -> float:
        """Probability that it has come by a time: straight in the time's logarithm between the quantiles."""
        points = [self.tenth / 3.0, self.tenth, self.half, self.ninth, 3.0 * self.ninth]
        logs = np.maximum.accumulate(np.log(np.maximum(points, 1.0)) + np.arange(len(points)) * 1e-9)
        return self.most * float(np.interp(math.log(max(time, 1.0)), logs, [0.0, 0.1, 0.5, 0.9, 1.0]))


@dataclass(frozen=True, slots=True)
class Jamming:
    """Soft filament in the cold end, by its draws."""

    jams: Jams
    limit: str = "feed"

    def by(self, time: float) -> float:
        """Share of the draws that have jammed by a time of printing [s]."""
        return 1.0 - self.jams.chance(time / 3600.0)


@dataclass(frozen=True)
class Risk:
    """Several ways to fail, each independent of the others."""

    ways: tuple[Failing, ...]

    def by(self, time: float) -> float:
        """Probability of a failure by a time of printing [s]."""
        return 1.0 - math.prod(1.0 - way.by(time) for way in self.ways)


def risk_of(course: Course, sure: Bands) -> Risk:
    """All ways in which a job's feed may stop; sure: bands at its worst moment."""
    start = course.run.printing_from or 0.0
    ways: list[Failing] = [_of_failure(course, one, start) for one in course.failures(sure) if one.key != RESIDUE]
    jams = course.jams(sure)
    ways.append(Jamming(jams))
    for key, after in STOPS.items():
        worst, band = course.worst.get(key), sure.rooms.get(key)
        likely = 1.0 - probability_positive(worst[0], band) if worst is not None and band is not None else 0.0
        if likely > WORTH_COUNTING:
            begin = max(_passed(course, key) - start - STARTING, 0.0)
            ways.append(FailureWay(begin + after[0], begin + after[1], begin + after[2], key, likely))
    return Risk(tuple(ways))


def _passed(course: Course, key: str) -> float:
    """When a limit is passed for the first time; where it never is, when it has the least room [s]."""
    beyond = np.flatnonzero(course.rooms[key] < 0.0)
    return float(course.run.times[beyond[0]]) if len(beyond) else course.worst[key][1]


def _of_failure(course: Course, failure: Failure, start: float) -> FailureWay:
    end = course.run.end - start
    assert failure.earliest is not None
    tenth = max(failure.earliest - start, 20.0)
    half = max(failure.likely - start, tenth) if failure.likely is not None else max(BEYOND * end, 2.0 * tenth)
    ninth = max(failure.latest - start, half) if failure.latest is not None else max(BEYOND * end, 2.0 * half)
    driver = course.run.catalogue.accumulations[failure.key].driver
    return FailureWay(tenth, half, ninth, DRIVERS[driver])

"""How sure a run is, hour by hour: bands of the stations, and the probability that each limit holds."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from zeotherm.core.parts.hotend.judge.bands import bands
from zeotherm.core.parts.hotend.judge.course import STARTING, Course
from zeotherm.core.parts.hotend.judge.limits import margins

Array = npt.NDArray[np.float64]
MOMENTS = 10  # over what is printed, pauses included; the worst moment besides


@dataclass(frozen=True)
class OverTime:
    """Bands at some moments of a run; between them they are straight."""

    times: Array  # s
    down: dict[str, Array]  # station -> 95 % half-width below [unit of the station]
    up: dict[str, Array]
    holds: dict[str, Array]  # limit -> probability that it holds [-]; nan where it does not count

    def span(self, course: Course, key: str) -> tuple[Array, Array, Array]:
        """Times [s], and the lower and upper edge of a station's band at the run's marks between them."""
        run = course.run
        inside = (run.times >= self.times[0]) & (run.times <= self.times[-1])
        times, values = run.times[inside], course.series[key][inside]
        down, up = (np.interp(times, self.times, side[key]) for side in (self.down, self.up))
        return times, values - down, values + up


def over_time(course: Course, cancelled: Callable[[], bool] = lambda: False) -> OverTime:
    """Bands of first order at moments of the print, from the tolerances of all that went in. Raises CancelledError."""
    found = []
    times = _moments(course)
    for time in times:
        answer = course.answer(float(time))
        found.append((answer, bands(answer.solved, answer.limits, cancelled, in_full=0)))
    stations = set.intersection(*(set(sure.values) for _answer, sure in found))
    holds = {limit.key: np.full(len(times), np.nan) for limit in course.limits}
    for index, (answer, sure) in enumerate(found):
        for margin in margins(answer.solved, answer.limits, sure):
            if margin.holds is not None and margin.key in holds:
                holds[margin.key][index] = margin.holds
    return OverTime(
        times,
        {key: np.array([sure.values[key].down for _answer, sure in found]) for key in stations},
        {key: np.array([sure.values[key].up for _answer, sure in found]) for key in stations},
        holds,
    )


def _moments(course: Course) -> Array:
    """Times within the print, from its first settled minutes to its end, with the worst among them [s]."""
    printing = [stretch for stretch in course.run.stretches if stretch.kind in ("print", "pause")]
    if not printing:
        return np.array([course.worst_time])
    begin, end = printing[0].start, printing[-1].end
    begin = min(begin + STARTING, end)
    return np.unique(np.clip([*np.linspace(begin, end, MOMENTS), course.worst_time], begin, end))

"""Everything that the heating of an enclosure is sized by, in one answer."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace

from zeotherm.core.guard.fitted import ALL_ENTERED, Assumed
from zeotherm.core.machine.documents import patched
from zeotherm.core.parts.enclosure.judge.answer import ChamberAnswer
from zeotherm.core.parts.enclosure.judge.control_lines import ControlLine, control_lines
from zeotherm.core.parts.enclosure.judge.fitting import FitCheck, fits
from zeotherm.core.parts.enclosure.judge.protecting import Protected, protected
from zeotherm.core.parts.enclosure.judge.sizing import (
    CutOut,
    Gone,
    Heater,
    Placed,
    Size,
    cut_out,
    gone_wrong,
    heater_for,
    mixing_for,
    outlet,
    places_for,
    vents_for,
    with_heater,
)
from zeotherm.core.parts.whole.run import History

MOST_ONE_W = 300.0  # of one heater with its fan: data sheet range, 100 to 400
SPARE = 1.15  # of a heater over what it has to give in the coldest room
NOTHING = Size(0.0)
SOAKS = 2.0  # time constants after which a passive case counts as soaked
Cancelled = Callable[[], bool]


@dataclass(frozen=True)
class SizedEnclosure:
    """What is known by now; all of it once `done`."""

    heater: Heater
    watts: float  # of the heater that is fitted, or proposed [W]
    fits: tuple[FitCheck, ...]
    parts: Protected
    places: tuple[Placed, ...] = ()
    mixing: Size | None = None  # m³/s
    vents: Size | None = None
    cut: CutOut | None = None
    cut_helped: CutOut | None = None  # once what lacks is helped
    gone: tuple[Gone, ...] = ()
    outlet: Size = NOTHING  # W
    lines: tuple[ControlLine, ...] = ()
    done: bool = False

    @property
    def count(self) -> int:
        """Heaters that the watts are split over, so that none is larger than is usual for one with its fan."""
        return max(math.ceil(self.watts / MOST_ONE_W), 1)


def sizing(
    answer: ChamberAnswer, run: History, wanted: float, within: float, coldest: float, spread: float,
    assumed: Assumed = ALL_ENTERED, cancelled: Cancelled = lambda: False,
) -> Iterator[SizedEnclosure]:  # fmt: skip
    """Sizes as they become known: a heater for a temperature at the print [°C] within a time [s] from the coldest room
    [°C], print and roof at most a spread apart [K].

    assumed: what nobody entered, as for `bed_cap`. Raises NotSettledError and CancelledError.
    """
    heater = heater_for(answer, wanted, within, coldest)
    fitted = answer.resolved.inputs.rated
    watts = fitted if fitted > 0.0 else SPARE * max(heater.hold.value, heater.fast.value if heater.fast else 0.0)
    found = SizedEnclosure(heater, watts, tuple(fits(answer.setup)), protected(answer, wanted, run, cancelled))
    yield found
    heated = with_heater(answer, wanted, watts) if watts > 0.0 else answer
    places = tuple(places_for(answer, wanted, watts, cancelled))
    there = next((one.minutes for one in places if one.minutes is not None), None)
    seconds = 60.0 * there.value if there is not None else answer.settles_in * SOAKS
    reached = wanted if there is not None else places[0].low
    weakest = found.parts.weakest
    lacking = weakest.station if weakest is not None and weakest.lacks else ""
    found = replace(
        found, places=places, mixing=mixing_for(heated, wanted, spread), vents=vents_for(answer, wanted),
        cut=cut_out(heated), outlet=outlet(answer, watts),
        lines=tuple(control_lines(heated, wanted, reached, seconds, lacking, assumed)),
    )  # fmt: skip
    if found.parts.change:
        better = replace(answer, setup=patched(answer.setup, found.parts.change))
        found = replace(found, cut_helped=cut_out(with_heater(better, wanted, watts)))
    yield found
    yield replace(found, gone=tuple(gone_wrong(heated, cancelled)), done=True)


def size_case(
    answer: ChamberAnswer, run: History, wanted: float, within: float, coldest: float, spread: float
) -> SizedEnclosure:
    """The last of `sizing`."""
    *_before, last = sizing(answer, run, wanted, within, coldest, spread)
    return last

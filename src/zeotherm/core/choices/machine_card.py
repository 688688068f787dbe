"""The card of a machine: each filament against the air at its sink's fan, and what keeps one off it."""

from __future__ import annotations

import math
from collections.abc import Callable, Collection
from dataclasses import dataclass

from zeotherm.core.catalogue.lookup import DoesNotFitError, take
from zeotherm.core.catalogue.shelves import Catalogue
from zeotherm.core.guard.clashes import ClashFound, clashes
from zeotherm.core.guard.fitted import Assumed
from zeotherm.core.guard.heat import Cap, nozzle_cap
from zeotherm.core.judgement.margins import Margin
from zeotherm.core.machine.documents import Setup
from zeotherm.core.parts.enclosure.judge.warmth import LEAST_C, airs_late, compared, creeps_from, printing
from zeotherm.core.parts.hotend.judge.answer import Answer
from zeotherm.core.parts.hotend.judge.ask import first_answer
from zeotherm.core.parts.hotend.model.inputs import HotendAir
from zeotherm.core.parts.whole.network import AIR
from zeotherm.core.parts.whole.run import History
from zeotherm.core.solver.axisymmetric import NotConvergedError

COLD_END = ("feed", "sink_base")  # limits that the air at the fan is told for


@dataclass(frozen=True, slots=True)
class CardLine:
    """One filament on a machine."""

    filament: str
    nozzle: float  # °C
    air: tuple[float, float]  # at the print, between which it prints well [°C]
    reached: bool  # whether the heater reaches its nozzle temperature, so that it was solved
    fan_from: float | None  # air at the sink's fan from which its cold end creeps [°C]; None: from none, or barred
    band: float  # 95 % half-width of that [K]
    fan_now: float  # late in the machine's job, as it stands [°C]
    fan_stands: float  # the air that the fan itself is rated to, lower edge [°C]
    air_now: float  # at the print, late in the machine's job [°C]
    passed: tuple[Margin, ...]  # limits of the hotend that it passes in that, but for the cold end's
    cap: Cap | None  # the part that does not stand its nozzle temperature
    clashes: tuple[ClashFound, ...]  # what does not go together with it, and may not

    @property
    def barred(self) -> bool:
        """Whether it is not to be printed as the machine is fitted."""
        return (
            not self.reached
            or bool(self.passed)
            or self.cap is not None
            or any(one.rule.state == "over" for one in self.clashes)
        )

    @property
    def keeps_below(self) -> float:
        """The fan's air is to be kept below this [°C]: the lower edge of the band, and what the fan itself stands."""
        return min(self.fan_stands, math.inf if self.fan_from is None else self.fan_from - self.band)

    @property
    def cool(self) -> bool:
        """Whether the air at the print is cooler than it wants."""
        return self.air_now < self.air[0]

    @property
    def holds(self) -> bool:
        """Whether the air at the fan is surely cool enough for it as the machine stands."""
        return self.fan_now < self.keeps_below

    @property
    def sound(self) -> bool:
        """Whether nothing speaks against it as the machine stands."""
        return self.holds and not self.cool and not self.barred and not self.clashes

    @property
    def never(self) -> bool:
        """Whether its cold end creeps in the coolest air that was tried."""
        return self.fan_from is not None and self.fan_from <= LEAST_C


def machine_card(
    setup: Setup, catalogue: Catalogue, run: History, tolerances: dict[str, float], assumed: Assumed,
    known: Collection[str], besides: Collection[str] = (), cancelled: Callable[[], bool] = lambda: False,
) -> tuple[CardLine, ...]:  # fmt: skip
    """Each filament that a machine is compared by, and those besides, in ever warmer air at the sink's fan: its own
    first. With the fan's air goes by as much what block and mount stand in.

    assumed: what nobody entered, as the guard goes by it; known: paths that somebody told. Every filament has a line,
    whatever keeps it off the machine. Raises CancelledError.
    """
    now, fan = airs_late(setup, run), take(catalogue, "fans", setup.fan.part, "fan.part")

    def at(fan: float) -> HotendAir:
        by = fan - now.fan
        return HotendAir(fan, now.block + by, now.mount + by)

    found = []
    for key in compared(setup, catalogue, besides):
        one, trial = catalogue.filaments[key], printing(setup, key, catalogue)
        nozzle, cap = trial.printing.nozzle_c, nozzle_cap(trial, catalogue, assumed)
        reached, creeps, band = True, None, 0.0
        passed: tuple[Margin, ...] = ()
        try:  # of what is barred nobody asks how warm its air may be
            if nozzle <= cap.value:
                passed = _passed(first_answer(trial, catalogue, tolerances, cancelled=cancelled, air=now))
            if nozzle <= cap.value and not passed:
                creeps, band = creeps_from(trial, catalogue, at, tolerances, cancelled)
        except (DoesNotFitError, NotConvergedError):
            reached = False
        found.append(
            CardLine(
                key, nozzle, (one.air_low_c.value, one.air_high_c.value), reached, creeps, band, now.fan,
                fan.service_c.value - fan.service_c.tolerance, _air_at_the_print(run), passed,
                cap if nozzle > cap.value else None, clashes(trial, catalogue, known),
            )
        )  # fmt: skip
    return tuple(found)


def _passed(answer: Answer) -> tuple[Margin, ...]:
    return tuple(one for one in answer.margins if one.state.bad and one.key not in COLD_END)


def _air_at_the_print(run: History) -> float:
    """Late in a print [°C]; where the air is stated, what it is at the block."""
    stated = run.around.around.stated
    return stated.block if stated is not None else float(run.bodies(max(run.off - 1.0, 0.0))[AIR])

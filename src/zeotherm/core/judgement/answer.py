"""Everything the bench asks of one setup: first the field and its margins, then how sure, why, and how fast."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field

from zeotherm.core.catalogue.shelves import Catalogue
from zeotherm.core.judgement.bands import Bands, bands
from zeotherm.core.judgement.capacity import melt_ceiling
from zeotherm.core.judgement.limits import Held, held
from zeotherm.core.judgement.margins import Margin, State, margins
from zeotherm.core.judgement.reasons import Reason, reasons
from zeotherm.core.machine.documents import Setup
from zeotherm.core.twin.hotend.solved import Solved, solve_hotend


@dataclass(frozen=True)
class Answer:
    """What the model says of a setup."""

    setup: Setup
    catalogue: Catalogue
    solved: Solved
    limits: list[Held]
    margins: list[Margin]
    bands: Bands | None = None
    reasons: list[Reason] = field(default_factory=list)
    ceiling: float | None = None  # flow at which the exit core falls to its floor [m³/s]

    @property
    def complete(self) -> bool:
        """Whether bands, reasons and ceiling are there."""
        return self.bands is not None

    @property
    def worst(self) -> Margin:
        """The margin the verdict speaks of."""
        return self.margins[0]

    def margin(self, key: str) -> Margin | None:
        """One margin by its limit."""
        return next((margin for margin in self.margins if margin.key == key), None)

    def count(self, state: State) -> int:
        """Margins in a state."""
        return sum(margin.state is state for margin in self.margins)

    @property
    def facts(self) -> set[str]:
        """What cautions look for."""
        given = self.solved.resolved.inputs
        hotend = self.setup.hotend
        liner = self.margin("liner_end")
        found = {
            "liner_over": liner is not None and liner.state in (State.OVER, State.CLOSE),
            "heater_voltage_mismatch": abs(hotend.supply_v / hotend.heater_rated_v - 1.0) > 0.15,
            "sensor_reads_low": given.sensor_offset <= -3.0,
            "fibre_sleeve": hotend.sleeve == "fibre",
        }
        return {name for name, true in found.items() if true}


def first_answer(
    setup: Setup,
    catalogue: Catalogue,
    tolerances: dict[str, float] | None = None,
    previous: Answer | None = None,
    cancelled: Callable[[], bool] = lambda: False,
) -> Answer:
    """The field and its margins, without bands. Raises DoesNotFitError, NotConvergedError or CancelledError."""
    solved = solve_hotend(setup, catalogue, tolerances, previous.solved if previous else None, cancelled)
    limits = held(solved.resolved, catalogue)
    return Answer(setup, catalogue, solved, limits, margins(solved, limits, None))


def full_answer(answer: Answer, cancelled: Callable[[], bool] = lambda: False) -> Answer:
    """The answer with bands, reasons and melt ceiling. Raises CancelledError."""
    found = bands(answer.solved, answer.limits, cancelled)
    ranked = margins(answer.solved, answer.limits, found)
    worst = next(limit for limit in answer.limits if limit.key == ranked[0].key)
    why = reasons(answer.setup, answer.solved, worst, answer.catalogue, cancelled)
    ceiling = melt_ceiling(answer.solved, cancelled)
    return Answer(
        answer.setup, answer.catalogue, answer.solved, answer.limits, ranked, found, why, ceiling
    )  # fmt: skip


def cautions(answer: Answer) -> dict[str, str]:
    """Cautions that this setup calls for, by key: sign and text are in the catalogue."""
    return {
        key: caution.text
        for key, caution in answer.catalogue.cautions.items()
        if not caution.when or caution.when in answer.facts
    }

"""What the model says of one setup, at rest or at one moment of its job."""

from __future__ import annotations

from dataclasses import dataclass, field
from functools import cached_property

from zeotherm.core.catalogue.shelves import Catalogue
from zeotherm.core.guard.cautions import machine_facts
from zeotherm.core.judgement.findings import Reason, Strength
from zeotherm.core.judgement.limits import Held
from zeotherm.core.judgement.margins import Margin, Ordered, State
from zeotherm.core.machine.documents import Setup
from zeotherm.core.parts.hotend.judge.bands import Bands
from zeotherm.core.parts.hotend.model.solved import Solved
from zeotherm.core.parts.power.judge.voltage import Mismatch, mismatches


@dataclass(frozen=True)
class Answer(Ordered):
    """What the model says of a setup."""

    setup: Setup
    catalogue: Catalogue
    solved: Solved
    limits: list[Held]
    margins: list[Margin]
    bands: Bands | None = None
    reasons: list[Reason] = field(default_factory=list)
    ceiling: float | None = None  # flow at which the exit core falls to its floor [m³/s]
    strengths: list[Strength] = field(default_factory=list)

    @property
    def complete(self) -> bool:
        """Whether bands, reasons and ceiling are there."""
        return self.bands is not None

    def count(self, state: State) -> int:
        """Margins in a state."""
        return sum(margin.state is state for margin in self.margins)

    @cached_property
    def wrong(self) -> tuple[Mismatch, ...]:
        """Parts that get other volts than they are made for, worst first."""
        return mismatches(self.setup, self.catalogue)

    @property
    def facts(self) -> set[str]:
        """What cautions look for."""
        given = self.solved.resolved.inputs
        hotend = self.setup.hotend
        liner = self.margin("liner_end")
        found = {
            "liner_over": liner is not None and liner.state in (State.OVER, State.CLOSE),
            "heater_voltage_mismatch": any(one.part == "heater" for one in self.wrong),
            "voltage_mismatch": any(one.part != "heater" for one in self.wrong),
            "sensor_reads_low": given.sensor_offset <= -3.0,
            "fibre_sleeve": hotend.sleeve == "fibre",
        }
        return {name for name, true in found.items() if true} | machine_facts(self.setup)


def cautions(answer: Answer) -> dict[str, str]:
    """Cautions that this setup calls for, by key: sign and text are in the catalogue."""
    return called_for(answer.catalogue, answer.facts, always=True)


def called_for(catalogue: Catalogue, facts: set[str], *, always: bool = False) -> dict[str, str]:
    """Cautions that these facts call for, by key; always: those that need no facts, too."""
    return {
        key: caution.text
        for key, caution in catalogue.cautions.items()
        if (always and not caution.when) or caution.when in facts
    }

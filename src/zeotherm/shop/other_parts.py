"""What the report says of the machine beside its hotend: bed, case and power path, each late in the print."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field

from zeotherm.core.catalogue import Catalogue
from zeotherm.core.catalogue.lookup import DoesNotFitError
from zeotherm.core.judgement.bed.answer import airs_of, first_bed, heated
from zeotherm.core.judgement.chamber.answer import around_of, encloses, first_case
from zeotherm.core.judgement.margins import State
from zeotherm.core.judgement.power.answer import first_power, late_air, worst_duty
from zeotherm.core.machine.documents import Setup
from zeotherm.core.solver.plate import NotSettledError
from zeotherm.core.solver.stepping import TooSmallError
from zeotherm.core.twin.bed.model import FEW
from zeotherm.core.twin.power.inputs import described
from zeotherm.core.twin.whole.run import History
from zeotherm.wording import bed, chamber, power
from zeotherm.wording.language import _
from zeotherm.wording.verdict import Verdict


@dataclass(frozen=True, slots=True)
class OtherPart:
    """One part: its name, its verdict, its stations."""

    label: str
    told: Verdict
    values: Mapping[str, float] = field(default_factory=dict)


def other_parts(setup: Setup, catalogue: Catalogue, run: History | None) -> list[OtherPart]:
    """The parts that the machine has, in what they stand in; one that finds no rest says so."""

    def of_bed() -> tuple[Verdict, Mapping[str, float]]:
        told = first_bed(setup, catalogue, airs=airs_of(run) if run is not None else None, cells=FEW)
        return bed.verdict(told), told.readout.values

    def of_case() -> tuple[Verdict, Mapping[str, float]]:
        case = first_case(setup, catalogue, arounds=around_of(setup, catalogue, run))
        return chamber.verdict(case), case.values

    def of_power() -> tuple[Verdict, Mapping[str, float]]:
        path = first_power(setup, catalogue, air=late_air(setup, catalogue, run), duty=worst_duty(run))
        return power.verdict(path), path.values

    parts: list[tuple[str, bool, Callable[[], tuple[Verdict, Mapping[str, float]]]]] = [
        (_("Bed"), heated(setup, catalogue), of_bed),
        (_("Case"), encloses(setup, catalogue), of_case),
        (_("Power"), described(setup, catalogue), of_power),
    ]
    return [_told(label, solve) for label, there, solve in parts if there]


def _told(label: str, solve: Callable[[], tuple[Verdict, Mapping[str, float]]]) -> OtherPart:
    try:
        return OtherPart(label, *solve())
    except (NotSettledError, TooSmallError, DoesNotFitError) as wrong:
        why = _("Not judged: {why}").format(why=wrong)
        return OtherPart(label, Verdict(why.rstrip("."), "", State.UNKNOWN))

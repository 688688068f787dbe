"""What the report says of the machine beside its hotend: bed, case and power path, each late in the print."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from zeotherm.core.catalogue import Catalogue
from zeotherm.core.catalogue.lookup import DoesNotFitError
from zeotherm.core.judgement.bed.answer import airs_of, first_bed, heated
from zeotherm.core.judgement.chamber.answer import around_of, encloses, first_case
from zeotherm.core.judgement.power.answer import first_power, late_air, worst_duty
from zeotherm.core.machine.documents import Setup
from zeotherm.core.solver.plate import NotSettledError
from zeotherm.core.twin.bed.model import FEW
from zeotherm.core.twin.power.inputs import described
from zeotherm.core.twin.whole.run import Run
from zeotherm.wording import bed, chamber, power
from zeotherm.wording.language import _
from zeotherm.wording.verdict import Verdict


@dataclass(frozen=True, slots=True)
class OtherPart:
    """One part: its name, its verdict, its stations."""

    label: str
    told: Verdict
    values: Mapping[str, float]


def other_parts(setup: Setup, catalogue: Catalogue, run: Run | None) -> list[OtherPart]:
    """The parts that the machine has, in what they stand in; one that finds no rest is left out."""
    found = []
    try:
        if heated(setup, catalogue):
            told = first_bed(setup, catalogue, airs=airs_of(run) if run is not None else None, cells=FEW)
            found.append(OtherPart(_("Bed"), bed.verdict(told), told.readout.values))
        if encloses(setup, catalogue):
            case = first_case(setup, catalogue, arounds=around_of(setup, catalogue, run))
            found.append(OtherPart(_("Case"), chamber.verdict(case), case.values))
        if described(setup, catalogue):
            air, duty = late_air(setup, catalogue, run), worst_duty(run)
            path = first_power(setup, catalogue, air=air, duty=duty)
            found.append(OtherPart(_("Power"), power.verdict(path), path.values))
    except (NotSettledError, DoesNotFitError):
        pass
    return found

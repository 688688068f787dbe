"""Parts whose rated voltage is not the one they get."""

from __future__ import annotations

from dataclasses import dataclass, replace

from zeotherm.core.catalogue.fitting import described, fed_volts
from zeotherm.core.catalogue.lookup import take
from zeotherm.core.catalogue.seats import in_one_block
from zeotherm.core.catalogue.shelves import Catalogue
from zeotherm.core.machine.documents import Setup
from zeotherm.core.machine.supplies import MAINS
from zeotherm.core.machine.toolheads import others_in_front
from zeotherm.core.parts.power.model.inputs import bed_fed_at
from zeotherm.core.physics.electric import heater_power

FITS = (0.8, 1.25)  # of its rated watts that count as the right voltage
ABOVE = {"fan": 1.32, "supply": 1.4}  # of the square of volts that a fan stands at most, and a supply's input
LOWERED = ("fan", "bed")  # that may get less on purpose, or by what a lead takes: another limit speaks of it
BURNS = 1.6  # times its rated watts from which a heater burns out or burns what it is in


@dataclass(frozen=True, slots=True)
class Mismatch:
    """A part that gets another voltage than it is rated for."""

    part: str  # heater, fan, bed, supply
    rated_v: float
    gets_v: float
    rated_w: float  # zero: not known
    times: float  # its rated watts
    of: str = ""  # number of the further toolhead that it is on, or of the further supply that it is

    @property
    def burns(self) -> bool:
        """Whether it gets more than it stands."""
        return self.times >= BURNS


def power_times(rated_v: float, gets_v: float) -> float:
    """Watts of a resistive part over its rated ones: the square of the volts' share [-].

    >>> power_times(24, 12), power_times(12, 24)
    (0.25, 4.0)
    """
    return heater_power(1.0, rated_v, gets_v)


def matrix(volts: tuple[float, ...]) -> dict[tuple[float, float], float]:
    """Every part's voltage on every supply: times its rated watts, by (rated, supplied)."""
    return {(rated, gets): power_times(rated, gets) for rated in volts for gets in volts}


def mismatches(setup: Setup, catalogue: Catalogue) -> tuple[Mismatch, ...]:
    """Parts of a machine that get other volts than they are made for, worst first; whether or not its power path is
    described. Raises DoesNotFitError."""
    wrong = _wrong_in_front(setup, catalogue) + _wrong_selectors(setup)
    for number, other in others_in_front(setup):
        has = ("fan",) if in_one_block(setup, number, catalogue) else ("heater", "fan")
        wrong += [replace(one, of=number) for one in _wrong_in_front(other, catalogue) if one.part in has]
    return tuple(sorted(wrong, key=lambda one: -one.times))


def _wrong_selectors(setup: Setup) -> list[Mismatch]:
    """Supplies on the mains whose selector stands elsewhere."""
    mains = setup.power.mains_v
    set_to = {"": setup.power.selector_v} | {
        number: float(one.selector_v) for number, one in setup.supplies.items() if one.fed_by == MAINS
    }
    found = [Mismatch("supply", volts, mains, 0.0, power_times(volts, mains), number)
             for number, volts in set_to.items() if volts > 0.0]  # fmt: skip
    return [one for one in found if not _fits(one)]


def _fits(one: Mismatch) -> bool:
    """Whether a part stands what it gets, and works on it."""
    most = ABOVE.get(one.part, FITS[1])
    return one.times <= most and (one.times >= FITS[0] or one.part in LOWERED)


def _wrong_in_front(setup: Setup, catalogue: Catalogue) -> list[Mismatch]:
    """Those of the machine and of the toolhead in front."""
    bed = take(catalogue, "beds", setup.bed.part, "bed.part")
    fan = take(catalogue, "fans", setup.fan.part, "fan.part")
    told = [("heater", setup.hotend.heater_rated_v, fed_volts(setup, catalogue), setup.hotend.heater_power_w)]
    told.append(("fan", fan.rated_v, setup.fan.voltage_v, 0.0))
    if bed.heater.power_w > 0.0:
        mains = catalogue.power_paths[setup.power.path].mains
        gets = setup.power.mains_v if mains else bed_fed_at(setup)
        gets = gets if described(setup, catalogue) else 0.01 * setup.bed.volts_pct * bed.heater.rated_v
        told.append(("bed", bed.heater.rated_v, gets, setup.bed.heater_w))
    found = [Mismatch(part, rated, gets, watts, power_times(rated, gets)) for part, rated, gets, watts in told]
    return [one for one in found if not _fits(one)]

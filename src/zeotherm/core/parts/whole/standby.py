"""What further hotends give off while another one prints: each solved by itself, hot and still, in usual air."""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import lru_cache

from zeotherm.core.catalogue.lookup import DoesNotFitError
from zeotherm.core.catalogue.seats import in_one_block, on_one_carriage
from zeotherm.core.catalogue.shelves import Catalogue
from zeotherm.core.machine.documents import Setup
from zeotherm.core.machine.toolheads import others_in_front
from zeotherm.core.parts.hotend.model.inputs import HotendAir, Inputs, Resolved, resolve
from zeotherm.core.parts.hotend.model.model import build, solve
from zeotherm.core.parts.hotend.model.readout import read

USUAL = HotendAir(30.0, 30.0, 30.0)  # °C in which it is solved; what it gives per kelvin hardly hangs on it
FINENESS = 0.5
COLDEST_K = 5.0  # over that air, from which a hotend counts as heated
AMPLE_W = 200.0  # that hold any hotend
DOUBT = 0.25  # of what it gives off: films and seats, as those of the one in front


@dataclass(frozen=True, slots=True)
class Standby:
    """What hotends that stand by give to the enclosure's air and to the carriage: W/K, and watts at 0 °C there."""

    air: float = 0.0
    air_at_zero: float = 0.0
    carriage: float = 0.0
    carriage_at_zero: float = 0.0

    def and_also(self, to_air: float, to_carriage: float, held: float) -> Standby:
        """With one more that is held at a temperature [°C]; what it gives to each [W/K]."""
        return Standby(
            self.air + to_air, self.air_at_zero + to_air * held,
            self.carriage + to_carriage, self.carriage_at_zero + to_carriage * held,
        )  # fmt: skip

    def watts(self, air: float, carriage: float) -> float:
        """All of it, to air and carriage as warm as this [°C], in W."""
        return self.air_at_zero - self.air * air + self.carriage_at_zero - self.carriage * carriage


def standby(setup: Setup, catalogue: Catalogue) -> Standby:
    """What the further hotends of a machine give off while the one in front prints. Raises DoesNotFitError, and
    NotConvergedError.

    Linear about the air in which each is solved: its films' own change with it is within `DOUBT` up to 60 °C.
    """
    found = Standby()
    for number, resolved in resolved_others(setup, catalogue):
        shared, rides = in_one_block(setup, number, catalogue), on_one_carriage(setup, number, catalogue)
        held = held_at(setup, number, catalogue)
        if held < USUAL.block + COLDEST_K:
            continue
        block, sink, mount = _gives(_still(resolved.inputs, held))
        to_air = sink + (0.0 if shared else block) + (0.0 if rides else mount)
        found = found.and_also(to_air, mount if rides else 0.0, held)
    return found


def held_at(setup: Setup, number: str, catalogue: Catalogue) -> float:
    """What a further hotend is held at while the one in front prints [°C]: its standby temperature, or that of the
    block which both hang in."""
    shared = in_one_block(setup, number, catalogue)
    return setup.printing.nozzle_c if shared else setup.toolheads[number].printing.idle_c


def resolved_others(setup: Setup, catalogue: Catalogue) -> list[tuple[str, Resolved]]:
    """The further hotends of a machine, by number. Raises DoesNotFitError, which names the toolhead."""
    found = []
    for number, other in others_in_front(setup):
        try:
            found.append((number, resolve(other, catalogue, solved=False)))
        except DoesNotFitError as wrong:
            raise DoesNotFitError(f"toolheads.{number}.{wrong.path}", f"{number}: {wrong}") from None
    return found


def _still(given: Inputs, held: float) -> Inputs:
    """A hotend that is held at a temperature [°C], by its own heater or by that of its block, while nothing is asked of
    it."""
    return replace(
        given.in_air(USUAL), nozzle=held, heater_power=AMPLE_W, sensor_offset=0.0, flow=0.0, part_fan=0.0,
        retractions=0.0, residue=0.0,
    )  # fmt: skip


@lru_cache(maxsize=32)
def _gives(given: Inputs) -> tuple[float, float, float]:
    """What a still hotend gives off over its block, its cold side, and its mount, per kelvin over the air [W/K]."""
    model = build(given, FINENESS)
    watts = read(model, solve(model)).watts
    over = given.nozzle - USUAL.fan
    return (
        (watts.off_block + watts.off_nozzle) / over,
        (watts.into_fan_air + watts.off_sink + watts.into_filament) / over,
        watts.into_mount / over,
    )

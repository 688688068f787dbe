"""What a hotend is wanted for, with what the job tells where nobody asked for anything."""

from __future__ import annotations

from dataclasses import dataclass

from zeotherm.core.catalogue.shelves import Catalogue
from zeotherm.core.machine.build import Build
from zeotherm.core.machine.documents import Setup, patched
from zeotherm.core.machine.patches import Patch

LEAST_SHARE = 0.5  # of the most flow, that the least of a print is where nobody said


@dataclass(frozen=True, slots=True)
class BuildWish:
    """What a hotend is to do."""

    plastics: tuple[str, ...]  # keys; at least one
    nozzle: float  # °C
    flow: float  # at most [mm³/s]
    least_flow: float  # of a print [mm³/s]
    seconds: float  # from the room's temperature to the nozzle's
    air: float  # the warmest at the print [°C]
    part_fan: float  # %
    sure: float  # chance with which each limit is to hold [-]
    air_entered: bool  # that air was asked for; else it is what the job makes of it

    def hottest(self, catalogue: Catalogue) -> str:
        """The plastic that is usually printed hottest."""
        return max(self.plastics, key=lambda one: catalogue.filaments[one].usual_range[1])

    def nozzle_for(self, plastic: str, catalogue: Catalogue) -> float:
        """What one of its plastics is printed at [°C]: the hottest as wanted, others within what is usual for them."""
        if plastic == self.hottest(catalogue):
            return self.nozzle
        low, high = catalogue.filaments[plastic].usual_range
        return min(max(self.nozzle, low), high)

    def at_others(self, catalogue: Catalogue) -> dict[str, float]:
        """Plastics that are solved at another temperature than is wanted, by key [°C]."""
        found = {one: self.nozzle_for(one, catalogue) for one in self.plastics}
        return {one: nozzle for one, nozzle in found.items() if nozzle != self.nozzle}

    def for_plastic(self, plastic: str, catalogue: Catalogue) -> Patch:
        """What a machine is set to with one of its plastics."""
        return {"printing": {
            "filament": plastic, "nozzle_c": self.nozzle_for(plastic, catalogue), "flow_mm3_s": self.flow,
            "part_fan_pct": self.part_fan,
        }}  # fmt: skip


def wanted_of(build: Build, setup: Setup, air: float, catalogue: Catalogue) -> BuildWish:
    """What is wanted, as it was asked for, else as the machine is set; air: at the print, late in the job [°C].
    A plastic that the shelf does not have is left out."""
    printing = setup.printing
    plastics = tuple(one for one in build.plastics if one in catalogue.filaments) or (printing.filament,)
    usual = max(catalogue.filaments[one].nozzle_c.value for one in plastics)
    set_to = printing.nozzle_c if plastics == (printing.filament,) else max(usual, printing.nozzle_c)
    flow = build.flow_mm3_s if build.flow_mm3_s is not None else printing.flow_mm3_s
    least = build.flow_least_mm3_s if build.flow_least_mm3_s is not None else LEAST_SHARE * flow
    return BuildWish(
        plastics,
        build.nozzle_c if build.nozzle_c is not None else set_to,
        flow,
        min(least, flow),
        build.hot_within_s,
        build.air_c if build.air_c is not None else air,
        build.part_fan_pct if build.part_fan_pct is not None else printing.part_fan_pct,
        0.01 * build.sure_pct,
        build.air_c is not None,
    )


def wanted_setup(setup: Setup, wanted: BuildWish, plastic: str, catalogue: Catalogue) -> Setup:
    """A machine as it prints one of the plastics that are wanted."""
    return patched(setup, wanted.for_plastic(plastic, catalogue))

"""What the trade holds against each other, and the ordinary machine that it is tried on where none is given."""

from __future__ import annotations

from dataclasses import dataclass

from zeotherm.core.catalogue.shelves import Catalogue
from zeotherm.core.choices.build.cold_side import ColdSide
from zeotherm.core.choices.build.judged import Built
from zeotherm.core.machine.documents import Job, Setup, patched
from zeotherm.core.machine.patches import Patch, merged

ORDINARY: Patch = {  # what is tried on where no machine is given: all-metal, PLA, air that is stated at the fan
    "printing": {"filament": "pla", "nozzle_c": 205.0, "flow_mm3_s": 4.0, "retraction_mm": 0.8},
    "schedule": {"retractions_per_min": 6.0},
    "surroundings": {"air_from": "stated", "fan_air_c": 25.0, "block_air_c": 30.0, "mount_c": 28.0},
    "bed": {"target_c": 0.0},
}


@dataclass(frozen=True, slots=True)
class RemedyTried:
    """One of what is compared, in one air."""

    label: str
    air: float  # at the print [°C]
    built: Built  # with its bands; without an answer where the parts do not go into each other
    cold: ColdSide | None  # what cools it; none: not asked for, or no answer


def ordinary(key: str, catalogue: Catalogue) -> Job:
    """A job on the machine that a comparison is tried on where none is given."""
    on: Patch = dict(catalogue.comparisons[key].on)
    return Job(found=patched(Setup(), merged(ORDINARY, on)))

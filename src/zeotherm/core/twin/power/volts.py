"""What of its rated volts reaches a bed."""

from __future__ import annotations

import math
from functools import lru_cache

from zeotherm.core.catalogue.shelves import Catalogue
from zeotherm.core.machine.documents import Setup
from zeotherm.core.twin.power.inputs import PathInputs, described, resolve_path
from zeotherm.core.twin.power.model import PathAir, PathModel, SolvedPath, solve_path


@lru_cache(maxsize=64)
def in_room(inputs: PathInputs, room: float, bed: float) -> SolvedPath:
    """A path at rest with its bed on, everything about it as warm as its room [°C], its tabs on a warm bed [°C]."""
    return solve_path(PathModel(inputs), PathAir(room, room, room, room, room, bed))


def volts_share(setup: Setup, catalogue: Catalogue) -> float:
    """Volts at a bed while it is on, over its rated ones [-]: by its power path where that is described, else as the
    job states them. Raises DoesNotFitError."""
    stated = 0.01 * setup.bed.volts_pct
    if not described(setup, catalogue):
        return stated
    inputs = resolve_path(setup, catalogue).inputs
    if not math.isfinite(inputs.bed_ohms):
        return stated
    return in_room(inputs, setup.room.mean_c, max(setup.bed.target_c, setup.room.mean_c)).bed_volts / inputs.bed_rated_v

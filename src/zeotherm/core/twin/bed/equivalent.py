"""A bed as one body among the others: what the whole machine's network takes of it."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from zeotherm.core.physics.radiation import flux_to_surroundings
from zeotherm.core.twin.bed.inputs import BedAir, BedInputs
from zeotherm.core.twin.bed.model import BedModel

REFERENCE_C = 25.0  # of the air in which its conductances are taken
LEAST_C = 45.0  # and of a bed that is off or barely warm
TURNS = 6
FEW = 4  # cells: the plate is taken as even, so that more would tell nothing


@dataclass(frozen=True, slots=True)
class BedBody:
    """An even bed at its set value."""

    power: float  # that its heater can give [W]
    heat: float  # capacity [J/K]
    to_air: float  # by both faces, rim and mounts [W/K]
    to_wall: float  # by radiation [W/K]


@lru_cache(maxsize=256)
def bed_body(inputs: BedInputs) -> BedBody:
    """A bed's conductances to air and walls, its heat and its power.

    Taken of an even plate at its set value in air of `REFERENCE_C`; the field's own watts differ by the drop to its
    rim, which the verification record states.
    """
    at_c = max(inputs.target, LEAST_C)
    air = BedAir(REFERENCE_C, REFERENCE_C, REFERENCE_C)
    model = BedModel(inputs, air, FEW)
    plate = np.full(model.grid.inside.shape, at_c)
    films = model.films(at_c, at_c)
    for _turn in range(TURNS):
        at = model.through(plate, 0.0, films)
        films = model.films(float(at.face.mean()), float(at.lower.mean()))
    area, rise = model.grid.whole, at_c - REFERENCE_C
    covered = model.covered
    under = inputs.under_emissivity + covered * (inputs.insulation_emissivity - inputs.under_emissivity)
    radiated = flux_to_surroundings(at.face, REFERENCE_C, inputs.face_emissivity)
    radiated = radiated + under * flux_to_surroundings(at.lower, REFERENCE_C, 1.0)
    wall = float(radiated[model.grid.inside].mean()) * area / rise
    both = float((at.up + at.down)[model.grid.inside].mean()) * area / rise
    rim = float(model.plate.edge.sum()) + float((model.mounts * model.grid.area).sum())
    return BedBody(
        power=model.available(np.full_like(plate, at_c)) if inputs.heater > 0.0 else 0.0,
        heat=float(model.capacity.sum()),
        to_air=max(both - wall, 0.0) + rim,
        to_wall=wall,
    )

"""A bed as one body among the others: what the whole machine's network takes of it."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
import numpy.typing as npt

from zeotherm.core.parts.bed.model.inputs import BedAir, BedInputs
from zeotherm.core.parts.bed.model.model import FEW, BedModel
from zeotherm.core.physics.radiation import flux_to_surroundings
from zeotherm.core.solver.plate import Elimination

Array = npt.NDArray[np.float64]
REFERENCE_C = 25.0  # of the air in which its conductances are taken
LEAST_C = 45.0  # and of a bed that is off or barely warm
TURNS = 6
EVEN = 4  # cells: the plate is taken as even, so that more would tell nothing


@dataclass(frozen=True, slots=True)
class BedBody:
    """An even bed at its set value."""

    power: float  # that its heater can give [W]
    heat: float  # capacity [J/K]
    up_air: float  # by its face, to the air above [W/K]
    down_air: float  # by its underside, rim and mounts
    up_wall: float  # by radiation of its face
    down_wall: float  # and of its underside
    size: float  # side of a square of its area [m]
    reads_by: float  # that its sensor stands above it for a watt of its heater [K/W]

    @property
    def to_air(self) -> float:
        """By both faces, rim and mounts [W/K]."""
        return self.up_air + self.down_air

    @property
    def to_wall(self) -> float:
        """By radiation [W/K]."""
        return self.up_wall + self.down_wall


@lru_cache(maxsize=256)
def bed_body(inputs: BedInputs) -> BedBody:
    """A bed's conductances to air and walls, its heat and its power.

    Taken of an even plate at its set value in air of `REFERENCE_C`; the field's own watts differ by the drop to its
    rim, which the verification record states.
    """
    at_c = max(inputs.target, LEAST_C)
    air = BedAir(REFERENCE_C, REFERENCE_C, REFERENCE_C)
    model = BedModel(inputs, air, EVEN)
    plate = np.full(model.grid.inside.shape, at_c)
    films = model.films(at_c, at_c)
    for _turn in range(TURNS):
        at = model.through(plate, 0.0, films)
        films = model.films(float(at.face.mean()), float(at.lower.mean()))
    area, rise = model.grid.whole, at_c - REFERENCE_C
    covered = model.covered
    under = inputs.under_emissivity + covered * (inputs.insulation_emissivity - inputs.under_emissivity)
    inside = model.grid.inside

    def a_kelvin(flux: Array) -> float:
        return float(flux[inside].mean()) * area / rise

    up_wall = a_kelvin(flux_to_surroundings(at.face, REFERENCE_C, inputs.face_emissivity))
    down_wall = a_kelvin(under * flux_to_surroundings(at.lower, REFERENCE_C, 1.0))
    rim = float(model.plate.edge.sum()) + float((model.mounts * model.grid.area).sum())
    return BedBody(
        power=model.available(np.full_like(plate, at_c)) if inputs.heater > 0.0 else 0.0,
        heat=float(model.capacity.sum()),
        up_air=max(a_kelvin(at.up) - up_wall, 0.0),
        down_air=max(a_kelvin(at.down) - down_wall, 0.0) + rim,
        up_wall=up_wall,
        down_wall=down_wall,
        size=math.sqrt(area),
        reads_by=_reads_by(model),
    )


def _reads_by(model: BedModel) -> float:
    """What a watt of the heater lifts the sensor above the mean of the plate [K/W]: by the layers between them, and by
    the plate's own drop to its rim, at the films of its set value."""
    fine = BedModel(model.inputs, model.air, FEW)
    if not fine.grid.heated.any():
        return 0.0
    at_c = max(model.inputs.target, LEAST_C)
    films = fine.films(at_c, at_c)
    inside = fine.grid.inside
    at = fine.through(np.full(inside.shape, at_c), 0.0, films)
    lost = (at.up + at.down) / (at_c - REFERENCE_C)  # a kelvin above the air, as a whole
    loss = np.where(inside, (lost + fine.mounts) * fine.grid.area + fine.plate.edge, 0.0)
    answer = Elimination(fine.plate, loss).solve(fine.pattern * fine.grid.area)
    whole = float((loss * (at_c - REFERENCE_C)).sum())
    passed = fine.pattern - at.down / whole  # by the heater up to the plate
    reading = fine.reading(answer, answer + fine.heater_resistance * passed)
    return reading - float(answer[inside].mean())

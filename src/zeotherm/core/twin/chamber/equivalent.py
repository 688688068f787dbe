"""An enclosure as air and wall among the machine's other bodies."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from zeotherm.core.physics.air import air as air_at
from zeotherm.core.physics.radiation import film_between
from zeotherm.core.twin.chamber.inputs import ChamberInputs
from zeotherm.core.twin.chamber.model import FACES, Around, ChamberModel
from zeotherm.core.twin.chamber.solved import solve_chamber

ROOM_C, AIR_C, WALL_C = 22.0, 37.0, 31.0  # at which its films are taken
FRAME = 0.5  # of what the walls see that is frame and machine at the temperature of the air: an estimate
OPEN_INNER, OPEN_OUTER = 2.0, 6.0  # W/K, of the frame about an open machine: estimates


@dataclass(frozen=True, slots=True)
class CaseBody:
    """Air and wall of an enclosure."""

    air: float  # J/K
    wall: float
    inner: float  # W/K, air to wall
    outer: float  # wall to room
    leak: float  # by fans, and by what stands open


@lru_cache(maxsize=256)
def case_body(inputs: ChamberInputs) -> CaseBody:
    """An enclosure's heat and conductances, its air taken as one and its walls as one.

    Walls at `WALL_C` between air of `AIR_C` and a room of `ROOM_C`; half of the radiation inside counts with the film
    of the air, since frame and machine that the walls see are as warm as it. Openings are left to the network's own
    law.
    """
    state = air_at(AIR_C, inputs.pressure)
    per_flow = float(state.density * state.heat_capacity)
    air = inputs.volume * per_flow
    leak = per_flow * inputs.exhaust + inputs.open_loss
    if inputs.stands_open:
        return CaseBody(air, inputs.content, OPEN_INNER, OPEN_OUTER, leak)
    model = ChamberModel(inputs)
    values = np.full(model.count, AIR_C)
    values[FACES:] = WALL_C
    at, black = model.arrays, model.radiant[0] + model.radiant[1]
    laws = model.laws(values, Around(ROOM_C))
    films = model.inner_films(values[FACES::2], AIR_C, AIR_C)
    film = np.where(at.high < 1.0, films[0], films[1])
    inner = float((at.areas * film + FRAME * black * film_between(WALL_C, AIR_C)).sum())
    out = laws.to_room[FACES + 1 :: 2]
    outer = float((at.through * out / (at.through + out)).sum())
    return CaseBody(air, inputs.content + sum(wall.capacity for wall in inputs.walls), inner, outer, leak)


@lru_cache(maxsize=256)
def heater_watts(inputs: ChamberInputs, around: Around) -> float:
    """What an enclosure's heater gives at rest, held by its control [W]; nought without one. Raises NotSettledError."""
    if inputs.stands_open or inputs.heater <= 0.0:
        return 0.0
    return solve_chamber(ChamberModel(inputs), around).power

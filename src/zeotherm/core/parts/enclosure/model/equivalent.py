"""An enclosure among the machine's other bodies: its air in two halves, its walls as one."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from zeotherm.core.parts.enclosure.model.inputs import ChamberInputs
from zeotherm.core.parts.enclosure.model.model import (
    FACES,
    FRAME_HIGH,
    FRAME_LOW,
    HIGH,
    LOW,
    ChamberModel,
    EnclosureAround,
    Laws,
)
from zeotherm.core.parts.enclosure.model.solved import solve_chamber
from zeotherm.core.physics.air import air as air_at

OPEN_C = 30.0  # of the air about an open machine
OPEN_INNER, OPEN_OUTER, OPEN_BETWEEN = (
    1.0,
    6.0,
    2000.0,
)  # W/K, of the frame and the air about an open machine: estimates
LEAST = 0.3  # W/K
LEAST_K = 0.5  # between bodies whose conductance is told by what flows


@dataclass(frozen=True, slots=True)
class CaseBody:
    """Air in two halves and walls of an enclosure."""

    air: float  # J/K, both halves
    wall: float
    inner: float  # W/K, lower air to wall
    inner_high: float  # upper air to wall
    outer: float  # wall to room
    leak: float  # what fans add, or all of what stands open: in low, up, and out high
    between: float  # air that the halves exchange
    bed_rises: float  # share of what a bed gives to the air that reaches the upper half [-]
    heater: float  # that its heaters give at most [W]
    heater_high: float  # share of that which reaches the upper air [-]
    heater_wall: float  # and the walls


@lru_cache(maxsize=256)
def case_body(inputs: ChamberInputs, around: EnclosureAround) -> CaseBody:
    """An enclosure's heat and conductances as it comes to rest, its walls taken as one; around: what it holds late in a
    print.

    Each conductance is what flows there at rest by the kelvin between its bodies, so that both come to rest alike; the
    wall is as warm as the mean of its faces. Openings are left to the network's own law. Raises NotSettledError.
    """
    state = air_at(OPEN_C, inputs.pressure)
    per_flow = float(state.density * state.heat_capacity)
    if inputs.stands_open:
        return CaseBody(
            inputs.volume * per_flow, inputs.content, OPEN_INNER, OPEN_INNER, OPEN_OUTER, inputs.open_loss,
            OPEN_BETWEEN, 0.5, 0.0, 0.0, 0.0,
        )  # fmt: skip
    model = ChamberModel(inputs)
    rest = solve_chamber(model, around)
    values, laws, moved = rest.values, rest.laws, rest.laws.moved
    areas = model.arrays.areas
    faces = values[FACES:]
    wall = float((areas * 0.5 * (faces[::2] + faces[1::2])).sum() / areas.sum())
    lost = float((laws.to_room[FACES + 1 :: 2] * (faces[1::2] - around.room)).sum())
    gives = model.heater_gives(values)
    whole = max(float(gives.sum()), 1e-9)
    roofward = inputs.roofward * float(gives[1]) / whole
    high_up = float(gives[1] + moved.lifted * gives[0]) / whole - roofward
    low, high = (
        _by_kelvin(_to_walls(values, laws, nodes), float(values[nodes[0]]) - wall)
        for nodes in ((LOW, FRAME_LOW), (HIGH, FRAME_HIGH))
    )
    return CaseBody(
        air=inputs.volume * per_flow,
        wall=inputs.content + sum(one.capacity for one in inputs.walls),
        inner=low,
        inner_high=high,
        outer=_by_kelvin(lost, wall - around.room),
        leak=moved.per_flow * (moved.through - moved.stack),
        between=max(moved.per_flow * moved.between, LEAST),
        bed_rises=moved.rises,
        heater=float(gives.sum()) if inputs.target > 0.0 else 0.0,
        heater_high=high_up,
        heater_wall=roofward,
    )


def _to_walls(values: np.ndarray, laws: Laws, nodes: tuple[int, int]) -> float:
    """What one half of the air gives to the walls, and to the frame, which radiates to them [W]."""
    (air, frame), matrix = nodes, laws.matrix
    faces = matrix[air, FACES:] * (values[air] - values[FACES:])
    own = float(faces.sum() + matrix[air, frame] * (values[air] - values[frame]))
    if air == HIGH:
        return own
    fallen = laws.moved.per_flow * laws.moved.between - matrix[LOW, HIGH]  # W/K of what falls from the upper half
    return own + float(fallen * (values[HIGH] - values[LOW]))


def _by_kelvin(watts: float, apart: float) -> float:
    return max(watts / apart, LEAST) if abs(apart) > LEAST_K else 10.0 * LEAST

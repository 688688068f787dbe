"""The flow beyond which the strand's core leaves the nozzle too cold."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import replace

from zeotherm.core.parts.hotend.model.model import solve, with_input
from zeotherm.core.parts.hotend.model.solved import Solved
from zeotherm.core.solver.axisymmetric import NotConvergedError

AMPLE_W = 1e3
MELT_DOUBT = 0.2  # of the flow that a nozzle melts, at 95 %: residence and wall contact; estimate
TRIES = 12
CLOSE_ENOUGH = 0.01  # of the flow


def melt_ceiling(solved: Solved, cancelled: Callable[[], bool] = lambda: False) -> float | None:
    """Flow at which the exit core falls to the polymer's melt floor [m³/s]; None where no flow is slow enough.

    The exit core falls as flow rises, so the flow is bracketed and halved in its logarithm.
    """
    given = solved.resolved.inputs

    def core(flow: float) -> float:
        model = solved.model.like(with_input(given, "flow", flow))
        return float(solve(model, solved.field, cancelled).temperature[-1, 0])

    low, high = 0.2e-9, 80e-9
    now = solved.readout.values["exit_core"]
    if now is not None and low < given.flow < high:
        low, high = (given.flow, high) if now > given.melt_floor else (low, given.flow)
    try:
        if core(low) < given.melt_floor:
            return None
        for _ in range(TRIES):
            middle = math.sqrt(low * high)
            low, high = (middle, high) if core(middle) > given.melt_floor else (low, middle)
            if high / low < 1 + CLOSE_ENOUGH:
                break
    except NotConvergedError:
        return None
    return math.sqrt(low * high)


def with_ample_heater(solved: Solved) -> Solved:
    """The same with a heater that holds whatever is asked: what a nozzle melts, whatever the watts."""
    inputs = replace(solved.resolved.inputs, heater_power=AMPLE_W)
    return replace(solved, resolved=replace(solved.resolved, inputs=inputs), model=solved.model.like(inputs))

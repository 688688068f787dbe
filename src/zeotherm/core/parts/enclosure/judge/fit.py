"""What a logged warm-up tells of an enclosure: the loss of its walls, its leaks, the heat held by what stands in it."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace

import numpy as np
import numpy.typing as npt

from zeotherm.core.judgement.estimate import POINTS, Fit, Predicted, estimate
from zeotherm.core.machine.documents import Setup, patched
from zeotherm.core.parts.enclosure.model.inputs import ChamberInputs, ResolvedChamber, with_chamber_number
from zeotherm.core.parts.enclosure.model.model import ChamberModel
from zeotherm.core.parts.enclosure.model.solved import Arounds, run_chamber
from zeotherm.core.solver.axisymmetric import CancelledError

Array = npt.NDArray[np.float64]
UNKNOWNS = ("film", "gap", "content")
READING_K = 0.8  # standard deviation of model and probe together
LEAST_RISE_K, LEAST_S = 4.0, 600.0  # that a log has to hold
Cancelled = Callable[[], bool]
CaseFit = Fit[ChamberInputs]


@dataclass(frozen=True)
class MeasuredCase:
    """A case's warm-up as it was logged."""

    times: Array  # s since the bed came on
    air: Array  # °C, at the print
    room: Array | None  # °C, on the same times; None: not logged
    clock_h: float | None = None  # when the bed came on; None: not logged
    bed: tuple[Array, Array] | None = None  # seconds, and what its sensor read then [°C]; None: not logged


def clocked(setup: Setup, measured: MeasuredCase) -> Setup:
    """The setup with its job begun when the log's bed came on, so that sun and room go with it."""
    if measured.clock_h is None:
        return setup
    return patched(setup, {"schedule": {"start_h": round(measured.clock_h % 24.0, 4)}})


def fit_case(
    resolved: ResolvedChamber,
    arounds: Arounds,
    measured: MeasuredCase,
    off: float | None = None,
    cancelled: Cancelled = lambda: False,
) -> CaseFit:
    """The unknowns of an enclosure from the air at the print over a run.

    arounds: what it holds over the machine's own run, whose bed came on at zero, or was as the log has it; a room
    that was logged takes the place of its room. off: when everything was switched off [s]. Raises ValueError where the
    log tells nothing of a case, and CancelledError.
    """
    start, end = float(measured.air[0]), float(measured.times[-1])
    if end < LEAST_S or float(measured.air.max()) < start + LEAST_RISE_K:
        raise ValueError("the log holds no warm-up of the case: its air has to rise by 4 K, over ten minutes at least")
    inputs = resolved.inputs
    at = np.linspace(0.0, end, POINTS)
    held = arounds
    if measured.room is not None:
        times, room = measured.times, measured.room
        held = lambda time: replace(arounds(time), room=float(np.interp(time, times, room)))  # noqa: E731

    def predicted(values: Mapping[str, float]) -> Predicted[None]:
        if cancelled():
            raise CancelledError
        model = ChamberModel(_with(inputs, values))
        run = run_chamber(model, held, end, start=start, off=off)
        lows = np.array([run.moment(float(time)).low for time in at])
        return Predicted(lows, (at, lows), None)

    believed = {name: (getattr(inputs, name), resolved.doubts[name]) for name in UNKNOWNS if name in resolved.doubts}
    seen = np.interp(at, measured.times, measured.air)
    found, before, misfit, curve = estimate(predicted, seen, believed, READING_K)
    return Fit(_with(inputs, {one.name: one.after for one in found}), found, before, misfit, curve)


def _with(inputs: ChamberInputs, values: Mapping[str, float]) -> ChamberInputs:
    for name, value in values.items():
        inputs = with_chamber_number(inputs, name, value)
    return inputs

"""What a solved hotend says at its stations, and where its watts go."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from zeotherm.core.physics.air import VALID_C
from zeotherm.core.solver import axisymmetric as solver
from zeotherm.core.twin.hotend.inputs import Inputs
from zeotherm.core.twin.hotend.model import PARTS, HotendModel, needed_power

Array = npt.NDArray[np.float64]
ROOM_TEMPERATURE = 20.0  # °C, at which liners are cut and seated


@dataclass(frozen=True, slots=True)
class Watts:
    """Where the heater's power goes [W]; each flow from its own law."""

    heater: float
    up_break: float
    into_filament: float
    off_block: float
    off_nozzle: float
    into_fan_air: float
    off_sink: float
    into_mount: float

    @property
    def leaving(self) -> tuple[float, ...]:
        """All that leaves the hotend, or enters it where negative."""
        return (
            self.into_filament, self.off_block, self.off_nozzle, self.into_fan_air, self.off_sink, self.into_mount,
        )  # fmt: skip

    @property
    def closure(self) -> float:
        """Heat that the balance loses, as a share of all that enters [-]."""
        entering = self.heater - sum(min(flow, 0.0) for flow in self.leaving)
        return abs(self.heater - sum(self.leaving)) / max(entering, 1e-3)


@dataclass(frozen=True)
class Readout:
    """Values by station (None where there is no such thing), watts, and the softening front."""

    values: dict[str, float | None]
    watts: Watts
    front: float | None  # height of the softening front above the tip [m]; None: softens nowhere
    overshoot: float  # temperature above the hottest source-held cell [K]
    extrapolated: tuple[str, ...]  # laws used beyond their range


def read(model: HotendModel, field: solver.Field) -> Readout:
    """Stations, watts and front of a solved field."""
    temperature = field.temperature
    front = softening_front(model, temperature)
    watts = _watts(model, field)
    needed = needed_power(model, field)
    values = _values(model, temperature, front, watts, needed)
    return Readout(values, watts, front, _overshoot(model, temperature), _extrapolated(model, temperature))


def values_of(model: HotendModel, temperature: Array, power: float, lacking: float) -> dict[str, float | None]:
    """The stations alone, for a field that need not be in balance; lacking: watts the heater falls short by."""
    watts = _watts(model, solver.Field(temperature, power, False, 0.0, 0, 0))
    return _values(model, temperature, softening_front(model, temperature), watts, power + lacking)


def softening_front(model: HotendModel, temperature: Array) -> float | None:
    """Height above the tip where the strand's skin first reaches softening on its way down [m]."""
    grid = model.layout.grid
    skin = temperature[:, grid.moving]
    soft = np.flatnonzero(skin >= model.given.softening)
    if not len(soft):
        return None
    row = int(soft[0])
    if row == 0:
        return grid.top
    span = skin[row] - skin[row - 1]
    share = (model.given.softening - skin[row - 1]) / span
    return float(grid.height[row - 1] + share * (grid.height[row] - grid.height[row - 1]))


def bore_wall(model: HotendModel, temperature: Array) -> Array:
    """Temperature of the bore's surface in each row [°C]."""
    skin = model.layout.grid.moving
    heat = solver.gap_heat(model.problem, temperature)
    return np.asarray(temperature[:, skin + 1] + heat * model.problem.gap.wall)


def bore_at_neck_top(model: HotendModel, temperature: Array) -> float:
    """Temperature of the bore's surface at the top of the thin neck [°C].

    Between the rows above and below, weighted by their conductances, so that a change of metal there does no harm.
    """
    grid, column = model.layout.grid, model.layout.grid.moving + 1
    above = int(np.flatnonzero(grid.height > model.layout.at.neck_top)[-1])
    wall = bore_wall(model, temperature)[above : above + 2]
    weight = model.conductivity[above : above + 2, column] / grid.thickness[above : above + 2]
    return float(wall @ weight / weight.sum())


def _values(
    model: HotendModel, temperature: Array, front: float | None, watts: Watts, needed: float
) -> dict[str, float | None]:
    given, at, grid = model.given, model.layout.at, model.layout.grid
    part = model.layout.part
    sink = part == PARTS.index("sink")
    block = part == PARTS.index("block")
    tube = np.flatnonzero((part == PARTS.index("tube")).any(axis=1))[-1]
    above_neck = int(np.flatnonzero(grid.height > at.neck_top)[-1])
    tip = part == PARTS.index("nozzle")
    hexagon = tip & (grid.height < at.block_bottom)[:, None] & (grid.height > at.cone)[:, None]
    margin = at.neck_top - (front if front is not None else 0.0)
    warm_air = model.air.capacity > 1e-3
    return {
        "block": _mean(temperature, block),
        "nozzle": _mean(temperature, hexagon),
        "exit_core": float(temperature[-1, 0]),
        "bore": bore_at_neck_top(model, temperature),
        "sink_base": float(temperature[above_neck, np.flatnonzero(sink[above_neck])[-1]]),
        "sink_top": _mean(temperature[:1], sink[:1]),
        "liner_end": float(temperature[tube, part[tube] == PARTS.index("tube")].max()),
        "fan_inlet": given.fan_air,
        "fan_outlet": given.fan_air + watts.into_fan_air / model.air.capacity if warm_air else None,
        "creep_margin": margin * 1e3,
        "creep_after_retraction": (margin - given.retraction) * 1e3,
        "liner_seat": liner_seat(model, temperature) * 1e3 if given.lined else None,
        "heater_watts": needed,
    }


def liner_seat(model: HotendModel, temperature: Array) -> float:
    """What is left of the liner's compression at temperature [m]; below nought a cavity opens behind it.

    preload - length lacking + growth of the liner over that of the metal around it, ΔL = ∫α(T - T₀)dz, between the
    liner's seat and the sink's top where it is clamped.
    """
    given, grid = model.given, model.layout.grid
    tube = model.layout.part == PARTS.index("tube")
    rows = tube.any(axis=1)
    liner = np.where(tube, temperature, 0.0).sum(axis=1)[rows] / tube.sum(axis=1)[rows]
    outside = model.layout.grid.radius > model.layout.at.tube
    metal = np.where(outside & model.layout.active & (model.layout.part != PARTS.index("air")), temperature, 0.0)
    count = (metal != 0.0).sum(axis=1)[rows]
    around = metal.sum(axis=1)[rows] / np.maximum(count, 1)
    thickness = grid.thickness[rows]
    growth = given.liner_expansion * float(((liner - ROOM_TEMPERATURE) * thickness).sum())
    frame = given.metal_expansion * float(((around - ROOM_TEMPERATURE) * thickness).sum())
    return given.liner_preload - given.liner_short + growth - frame


def _extrapolated(model: HotendModel, temperature: Array) -> tuple[str, ...]:
    """Keys of the laws that were used beyond their range; the words are in `wording`."""
    active = temperature[model.layout.active]
    beyond = {
        "fins": not model.air.laminar,
        "air": bool(active.max() > VALID_C[1] or active.min() < VALID_C[0]),
    }
    return tuple(law for law, outside in beyond.items() if outside)


def _watts(model: HotendModel, field: solver.Field) -> Watts:
    flat = field.temperature.reshape(-1)
    carried = solver.stream_heat(model.problem, field.temperature).sum(axis=1)
    to_air = model.fins.to_fan_air(flat[model.fins.cells])
    return Watts(
        heater=field.power,
        up_break=_up_break(model, field.temperature),
        into_filament=float(carried[-1] - carried[0]),
        off_block=float(model.hot["block"].flow(flat[model.hot["block"].cells])[0].sum()),
        off_nozzle=float(model.hot["nozzle"].flow(flat[model.hot["nozzle"].cells])[0].sum()),
        into_fan_air=to_air,
        off_sink=float(model.fins.flow(flat[model.fins.cells])[0].sum()) - to_air,
        into_mount=float(model.mount.flow(flat[model.mount.cells])[0].sum()),
    )


def _up_break(model: HotendModel, temperature: Array) -> float:
    """Watts that the neck, and a liner in it, conduct upwards at the neck's middle."""
    layout = model.layout
    middle = 0.5 * (layout.at.block_top + layout.at.neck_top)
    row = int(np.argmin(np.abs(layout.grid.top - layout.grid.faces[1:-1] - middle)))
    flux = model.problem.axial[row] * (temperature[row + 1] - temperature[row])
    solid = np.isin(layout.part[row], (PARTS.index("break"), PARTS.index("tube")))
    return float(flux[solid].sum())


def _mean(temperature: Array, mask: npt.NDArray[np.bool_]) -> float:
    return float(temperature[mask].mean())


def _overshoot(model: HotendModel, temperature: Array) -> float:
    """How far the strand rises above the hottest solid or sinks below the coolest surroundings [K]."""
    given: Inputs = model.given
    strand = temperature[:, : model.layout.grid.moving + 1]
    solids = temperature[:, model.layout.grid.moving + 1 :][model.layout.active[:, model.layout.grid.moving + 1 :]]
    coolest = min(given.fan_air, given.block_air, given.mount)
    return float(max(strand.max() - solids.max(), coolest - strand.min(), 0.0))

"""What a solved hotend says at its stations, and where its watts go."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
import numpy.typing as npt

from zeotherm.core.parts.hotend.model.feeding import feed_stations, feeds_of
from zeotherm.core.parts.hotend.model.inputs import Inputs
from zeotherm.core.parts.hotend.model.model import HotendModel, needed_power
from zeotherm.core.physics.air import VALID_C
from zeotherm.core.solver import axisymmetric as solver

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
    taken_up: float = 0.0  # warms the hotend itself; zero in a steady state

    @property
    def leaving(self) -> tuple[float, ...]:
        """All that leaves the hotend, or enters it where negative."""
        return (
            self.into_filament, self.off_block, self.off_nozzle, self.into_fan_air, self.off_sink, self.into_mount,
            self.taken_up,
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
    return read_with(model, field, _watts(model, field), needed_power(model, field))


def read_moment(model: HotendModel, field: solver.Field, taken_up: float, needed: float | None) -> Readout:
    """Stations, watts and front of a field on its way; taken_up: watts that warm it; needed: those its set value needs.

    While the block is on its way to a set value, or off, nobody can say what holding would need.
    """
    return read_with(model, field, replace(_watts(model, field), taken_up=taken_up), needed)


def read_with(model: HotendModel, field: solver.Field, watts: Watts, needed: float | None) -> Readout:
    """The readout from a field and its watts; needed: watts that holding the set value asks for, where known."""
    temperature = field.temperature
    front = float(softening_front(model, temperature))
    values = _values(model, temperature, watts.into_fan_air, needed)
    return Readout(
        values, watts, None if np.isnan(front) else front, _overshoot(model, temperature),
        _extrapolated(model, temperature),
    )  # fmt: skip


def values_of(
    model: HotendModel, temperature: Array, needed: float | None, *, fed: bool = True
) -> dict[str, float | None]:
    """The stations alone, for a field that need not be in balance; needed: watts that its set value needs; fed: with
    those of the feed."""
    into_fan_air = model.fins.to_fan_air(temperature.reshape(-1)[model.fins.cells])
    return _values(model, temperature, into_fan_air, needed, fed=fed)


def fed_values(models: Sequence[HotendModel], temperatures: Sequence[Array]) -> list[dict[str, float]]:
    """Stations of the feed of hotends of one layout, all at once."""
    walls = [bore_wall(model, field) for model, field in zip(models, temperatures, strict=True)]
    return feeds_of(models, temperatures, walls)


def softening_front(model: HotendModel, temperature: Array) -> Array:
    """Height above the tip where the strand's skin first reaches softening on its way down [m]; nan: nowhere.

    temperature (..., rows, columns); the result has the leading shape.
    """
    grid = model.layout.grid
    skin = temperature[..., grid.moving].reshape(-1, temperature.shape[-2])
    soft = skin >= model.given.softening
    row, each = soft.argmax(axis=1), np.arange(len(skin))
    above = np.maximum(row - 1, 0)
    low, high = skin[each, above], skin[each, row]
    share = (model.given.softening - low) / np.where(high == low, 1.0, high - low)
    height = grid.height[above] + share * (grid.height[row] - grid.height[above])
    height[row == 0] = grid.top
    height[~soft[each, row]] = np.nan
    return np.asarray(height.reshape(temperature.shape[:-2]))


def bore_wall(model: HotendModel, temperature: Array) -> Array:
    """Temperature of the bore's surface in each row [°C]; temperature (..., rows, columns)."""
    skin = model.layout.grid.moving
    heat = solver.gap_heat(model.problem, temperature)
    return np.asarray(temperature[..., skin + 1] + heat * model.problem.gap.wall)


def bore_at_neck_top(model: HotendModel, bore: Array) -> Array:
    """Temperature of the bore's surface at the top of the thin neck [°C]; bore: its surface (..., rows).

    Between the rows above and below, weighted by their conductances, so that a change of metal there does no harm.
    """
    grid, column = model.layout.grid, model.layout.grid.moving + 1
    above = model.layout.places.above_neck
    wall = bore[..., above : above + 2]
    weight = model.conductivity[above : above + 2, column] / grid.thickness[above : above + 2]
    return np.asarray(wall @ weight / weight.sum())


def liner_end(model: HotendModel, temperature: Array) -> Array:
    """Hottest place on the end face of the tube or liner [°C]; temperature (..., rows, columns)."""
    grid, row, columns = model.layout.grid, model.layout.places.tube_end, model.layout.places.tube_columns
    area = np.pi * (grid.outer[columns] ** 2 - grid.inner[columns] ** 2)
    half = 0.5 * grid.thickness[row] / (model.conductivity[row, columns] * area)
    inside = temperature[..., row, columns]
    flux = model.problem.body.axial[row, columns] * (temperature[..., row + 1, columns] - inside)
    return np.asarray((inside + flux * half).max(axis=-1))


def places(model: HotendModel, temperature: Array, *, fed: bool = True) -> dict[str, Array]:
    """Stations that the field alone tells, by key; temperature (..., rows, columns), each of the leading shape.

    fed: with those of the feed.
    """
    given, here = model.given, model.layout.places
    block, nozzle, sink_top = np.moveaxis(temperature.reshape(*temperature.shape[:-2], -1) @ here.means, -1, 0)
    front = softening_front(model, temperature)
    wall = bore_wall(model, temperature)
    margin = model.layout.at.neck_top - np.where(np.isnan(front), 0.0, front)
    found = {
        "block": block,
        "nozzle": nozzle,
        "exit_core": temperature[..., -1, 0],
        "bore": bore_at_neck_top(model, wall),
        "sink_base": temperature[..., here.above_neck, here.core],
        "sink_top": sink_top,
        "liner_end": liner_end(model, temperature),
        "creep_margin": margin * 1e3,
        "creep_after_retraction": (margin - given.retraction) * 1e3,
    }
    if given.lined:
        found["liner_seat"] = liner_seat(model, temperature) * 1e3
    if fed:
        found |= feed_stations(model, temperature, wall)
    found["cavity"] = cavity(model, temperature) * 1e9
    return found


def _values(
    model: HotendModel, temperature: Array, into_fan_air: float, needed: float | None, *, fed: bool = True
) -> dict[str, float | None]:
    given = model.given
    warm_air = model.air.capacity > 1e-3
    plain = places(model, temperature, fed=False)
    found: dict[str, float | None] = {key: float(value) for key, value in plain.items()}
    found |= fed_values([model], [temperature])[0] if fed else {}
    return {
        **found,
        "liner_seat": found.get("liner_seat"),
        "fan_inlet": given.fan_air,
        "fan_outlet": given.fan_air + model.fins.plume.into_fan() + into_fan_air / model.air.capacity
        if warm_air
        else None,
        "heater_watts": needed,
    }


def liner_seat(model: HotendModel, temperature: Array) -> Array:
    """What is left of the liner's compression at temperature [m]; below zero a cavity opens behind it.

    preload - length lacking + growth of the liner over that of the metal around it, ΔL = ∫α(T - T₀)dz, between the
    liner's seat and the sink's top where it is clamped. temperature (..., rows, columns).
    """
    given, layout = model.given, model.layout
    tube, outside = layout.cells_of["tube"], layout.places.around_tube
    rows = tube.any(axis=1)
    thickness = layout.grid.thickness[rows]

    def growth(mask: npt.NDArray[np.bool_], expansion: float) -> Array:
        mean = (temperature * mask).sum(axis=-1)[..., rows] / np.maximum(mask.sum(axis=1), 1)[rows]
        return np.asarray(expansion * ((mean - ROOM_TEMPERATURE) @ thickness))

    return (
        given.liner_preload
        - given.liner_short
        - given.nozzle_gap
        + growth(tube, given.liner_expansion)
        - growth(outside, given.metal_expansion)
    )


def cavity(model: HotendModel, temperature: Array) -> Array:
    """Volume behind the nozzle that fills with melt, beside the bore [m³]; temperature (..., rows, columns).

    A ring about the bore, as long as the gap: out to the thread where break and nozzle should meet; out to the liner's
    own surface where a liner should stand on the nozzle, by what its seat lacks at temperature. By geometry.
    """
    at = model.layout.at
    if model.given.lined:
        gap = np.maximum(-liner_seat(model, temperature), 0.0)
        return np.asarray(np.pi * (at.tube**2 - at.bore**2) * gap)
    whole = np.pi * (at.thread**2 - at.bore**2) * model.given.nozzle_gap
    return np.full(temperature.shape[:-2], whole)


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
    here = model.layout.places
    flux = model.problem.body.axial[here.neck] * (temperature[here.neck + 1] - temperature[here.neck])
    return float(flux[here.neck_columns].sum())


def _overshoot(model: HotendModel, temperature: Array) -> float:
    """How far the strand rises above the hottest solid or sinks below the coolest surroundings [K]."""
    given: Inputs = model.given
    strand = temperature[:, : model.layout.grid.moving + 1]
    solids = temperature[:, model.layout.grid.moving + 1 :][model.layout.active[:, model.layout.grid.moving + 1 :]]
    coolest = min(given.fan_air, given.block_air, given.mount)
    return float(max(strand.max() - solids.max(), coolest - strand.min(), 0.0))

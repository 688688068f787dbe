"""Air through the sink: what the fan moves, what it takes from each fin, what is left when it stands."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
import numpy.typing as npt

from zeotherm.core.parts.hotend.model.inputs import Inputs
from zeotherm.core.parts.hotend.model.shape import Levels
from zeotherm.core.physics.air import Air, air
from zeotherm.core.physics.conduction import annular_fin_area, annular_fin_efficiency
from zeotherm.core.physics.convection import channel_effectiveness, natural_film_wall, nusselt_parallel_plates
from zeotherm.core.physics.fan import channel_pressure_drop, operating_flow, screen_loss, speed_ratio
from zeotherm.core.physics.radiation import flux_and_slope

Array = npt.NDArray[np.float64]
LAMINAR_LIMIT = 2300.0
SWEPT_M_S = 0.5  # between the fins, at which half of what stands about the sink is swept away; estimate


@dataclass(frozen=True, slots=True)
class SinkAir:
    """The state of the air at the sink."""

    flow: float  # through fan and guard [m³/s]
    velocity: float  # between the fins [m/s]
    reynolds: float
    film: float  # forced coefficient on the fins [W/m²K]
    capacity: float  # of the air that passes the fins [W/K]
    per_fin: float  # forced conductance of one fin and the bare core beside it [W/K]
    fin_share: float  # of `per_fin` that enters at the fin's root [-]
    inlet: float
    still: float  # how far the air about the sink stands [-]: one without a stream, zero in a strong one
    envelope: float  # outer surface of the whole sink [m²]
    height: float
    emissivity: float
    pressure: float

    @property
    def laminar(self) -> bool:
        """Whether the laws of laminar flow between the fins hold."""
        return self.reynolds < LAMINAR_LIMIT

    def still_flow(self, root: Array, around: float) -> tuple[Array, Array]:
        """Flux by natural convection and radiation of the sink's outer surface [W/m²] and its slope [W/m²K].

        root: temperature of the sink, around: of the air that stands about it [°C]. The air between fins that stand
        close and level hardly moves by itself, so only the outer surface counts; within about 30 %.
        """
        film = natural_film_wall(root, around, self.height, self.pressure)
        radiated, slope = flux_and_slope(root, self.inlet, self.emissivity)
        return film * (root - around) + radiated, 1.25 * film + slope


@dataclass(frozen=True, slots=True)
class _Duct:
    """Fan, guard and passage: all that the flow depends on."""

    fan_flow: tuple[float, ...]
    fan_pressure: tuple[float, ...]
    fan_area: float
    speed: float
    guard: float
    guard_loss: float  # of computed [-]
    reach: float
    passage: float
    spacing: float
    length: float
    entry_loss: float
    temperature: float
    pressure: float


@lru_cache(maxsize=256)
def _flow(duct: _Duct) -> float:
    """Flow at which fan and resistance meet [m³/s]; asked for again and again with the same fan."""
    state = air(duct.temperature, duct.pressure)
    loss = duct.guard_loss * screen_loss(duct.guard)

    def resistance(flow: float) -> float:
        through_guard = 0.5 * float(state.density) * (flow / duct.fan_area) ** 2 * loss
        velocity = duct.reach * flow / duct.passage
        return through_guard + channel_pressure_drop(velocity, duct.spacing, duct.length, duct.entry_loss, state)

    return operating_flow(duct.fan_flow, duct.fan_pressure, duct.speed, float(state.density), resistance)


def sink_air(given: Inputs, at: Levels) -> SinkAir:
    """Fan, guard and fins in balance, and the conductance that follows."""
    state = air(given.fan_air, given.pressure)
    shape = given.shape.sink
    spacing = (shape.pitch - shape.fin_thickness) * 1e-3
    length = 2 * at.fin
    passage = shape.fins * spacing * 2 * (at.fin - at.core)
    flow = _flow(
        _Duct(
            fan_flow=given.fan_flow,
            fan_pressure=given.fan_pressure,
            fan_area=given.fan_area,
            speed=speed_ratio(given.fan_voltage, given.fan_rated_v, given.fan_start_v) * given.fan_strength,
            guard=max(given.guard_open * (1.0 - given.guard_blocked), 0.005),
            guard_loss=given.guard_loss,
            reach=given.fan_reach,
            passage=passage,
            spacing=spacing,
            length=length,
            entry_loss=given.fin_entry_loss,
            temperature=given.fan_air,
            pressure=given.pressure,
        )
    )
    velocity = given.fan_reach * flow / passage
    reynolds = float(state.density) * velocity * 2 * spacing / float(state.viscosity)
    film = given.fin_film * _film(reynolds, spacing, length, state)
    capacity = float(state.density * state.heat_capacity) * given.fan_reach * flow
    fin, bare = _fin_and_core(given, at, film, spacing)
    transfer = film * (fin + bare)
    per_fin = channel_effectiveness(transfer, capacity / shape.fins) * capacity / shape.fins
    if given.loop > 0.0:  # a coolant takes the fan's place
        per_fin, flow, velocity, reynolds, capacity = given.loop / shape.fins, 0.0, 0.0, 0.0, 0.0
    return SinkAir(
        flow=flow,
        velocity=velocity,
        reynolds=reynolds,
        film=film,
        capacity=capacity,
        per_fin=per_fin,
        fin_share=fin / (fin + bare),
        inlet=given.fan_air,
        still=1.0 / (1.0 + (velocity / SWEPT_M_S) ** 2),
        envelope=2 * np.pi * at.fin * (at.sink_top - at.neck_top),
        height=at.sink_top - at.neck_top,
        emissivity=given.sink_emissivity,
        pressure=given.pressure,
    )


def _film(reynolds: float, spacing: float, length: float, state: Air) -> float:
    if reynolds <= 0.0:
        return 0.0
    prandtl = float(state.prandtl)
    nusselt = nusselt_parallel_plates(length / (2 * spacing * reynolds * prandtl), prandtl)
    return nusselt * float(state.conductivity) / (2 * spacing)


def _fin_and_core(given: Inputs, at: Levels, film: float, spacing: float) -> tuple[float, float]:
    """Effective areas of one fin (with its efficiency) and of the bare core beside it [m²]."""
    efficiency = float(
        annular_fin_efficiency(at.core, at.fin, at.fin_thickness, max(film, 1e-6), given.sink_conductivity)
    )
    return efficiency * annular_fin_area(at.core, at.fin, at.fin_thickness), 2 * np.pi * at.core * spacing

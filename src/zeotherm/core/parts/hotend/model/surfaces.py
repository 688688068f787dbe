"""How the hotend's surfaces give heat to what surrounds them."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
import numpy.typing as npt

from zeotherm.core.parts.hotend.model.sink_air import SinkAir
from zeotherm.core.physics.convection import natural_film_body
from zeotherm.core.physics.radiation import flux_and_slope

Array = npt.NDArray[np.float64]
Cells = npt.NDArray[np.intp]
SLEEVE_CORRECTIONS = 4


@dataclass(frozen=True)
class HotSurface:
    """A hot part in still or blown air, bare or under a sleeve."""

    cells: Cells
    area: Array  # (cells,) [m²]
    ambient: float  # °C
    diameter: float  # of the sphere of equal surface [m]
    pressure: float
    film_factor: float
    jet: float  # W/m²K
    emissivity: float
    sleeve: float  # thickness over conductivity [m²K/W]; zero when bare

    def in_air(self, ambient: float) -> HotSurface:
        """The same in other air [°C]."""
        return replace(self, ambient=ambient)

    def convected(self, temperature: float) -> float:
        """Watts that the whole surface gives to still air by convection at a temperature within [°C]; no jet."""
        still, inside = replace(self, jet=0.0), np.array([temperature])
        flux, _slope = still._through_sleeve(inside) if self.sleeve > 0.0 else still._off(inside)
        outer = inside - flux * self.sleeve
        film = self.film_factor * natural_film_body(outer, self.ambient, self.diameter, self.pressure)
        return float(self.area.sum() * (film * (outer - self.ambient))[0])

    def flow(self, temperature: Array) -> tuple[Array, Array]:
        """Watts out of each cell and their slope [W/K]."""
        flux, slope = self._through_sleeve(temperature) if self.sleeve > 0.0 else self._off(temperature)
        return self.area * flux, self.area * slope

    def _off(self, surface: Array) -> tuple[Array, Array]:
        film = self.film_factor * natural_film_body(surface, self.ambient, self.diameter, self.pressure)
        radiated, slope = flux_and_slope(surface, self.ambient, self.emissivity)
        return (film + self.jet) * (surface - self.ambient) + radiated, 1.2 * film + self.jet + slope

    def _through_sleeve(self, inner: Array) -> tuple[Array, Array]:
        outer = self.ambient + 0.6 * (inner - self.ambient)
        for _ in range(SLEEVE_CORRECTIONS):
            flux, slope = self._off(outer)
            outer = outer + ((inner - outer) / self.sleeve - flux) / (1.0 / self.sleeve + slope)
        flux, slope = self._off(outer)
        return (inner - outer) / self.sleeve, slope / (1.0 + slope * self.sleeve)


@dataclass(frozen=True, slots=True)
class Plume:
    """What the hot block does to the sink above it, as long as no stream sweeps it away.

    Still air about the sink is warmed by a share of the block's air's excess and of the block's own; a fan that pulls
    draws a share of what the block gives to its air; the lowest fin sees the block's top. Engineering estimates with
    wide doubts (`assumptions.toml`, `directions.toml`), set by what a sink comes to with a dead fan.
    """

    hot: float  # the block [°C]
    block_air: float  # °C
    still: float  # see `SinkAir`
    near_block: float  # share of the block's air's excess over the fan's [-]
    near_nozzle: float  # share of the block's own [-]
    drawn: float  # rise of the fan's air by a kelvin of the block over its air [-]
    seen: Array  # (cells,) of the sink's core, face toward the block [m²]
    emissivity: float  # of both faces as one [-]
    conductance: float  # through the air between them [W/m²K]

    def into_fan(self) -> float:
        """Rise of the fan's air before it meets the fins [K]."""
        return self.drawn * (self.hot - self.block_air)

    def about(self, inlet: float) -> float:
        """Temperature of the still air about the sink [°C]; inlet: of the fan's air."""
        warmed = self.near_block * (self.block_air - inlet) + self.near_nozzle * (self.hot - inlet)
        return inlet + self.still * warmed

    def across(self, temperature: Array) -> tuple[Array, Array]:
        """Flux from the lowest fin to the block [W/m²] and its slope [W/m²K]."""
        radiated, slope = flux_and_slope(temperature, self.hot, self.emissivity)
        return radiated + self.conductance * (temperature - self.hot), slope + self.conductance


@dataclass(frozen=True)
class FinnedSurface:
    """The sink's core: fins and bare core in the fan's air, what still air takes, what the block gives back."""

    cells: Cells
    forced: Array  # (cells,) conductance to the fan's air [W/K]
    still: Array  # (cells,) share of the envelope's surface [m²]
    air: SinkAir
    plume: Plume

    def in_air(self, inlet: float, gain: float, hot: float, block_air: float) -> FinnedSurface:
        """The same in other air [°C], its film changed by a factor, above a block at another temperature [°C]."""
        plume = replace(self.plume, hot=hot, block_air=block_air)
        return replace(self, forced=self.forced * gain, air=replace(self.air, inlet=inlet), plume=plume)

    def flow(self, temperature: Array) -> tuple[Array, Array]:
        """Watts out of each cell and their slope [W/K]."""
        flux, slope = self.air.still_flow(temperature, self.plume.about(self.air.inlet))
        across, by = self.plume.across(temperature)
        return (
            self._blown(temperature) + self.still * flux + self.plume.seen * across,
            self.forced + self.still * slope + self.plume.seen * by,
        )

    def to_fan_air(self, temperature: Array) -> float:
        """Watts that the fan's air carries away."""
        return float(self._blown(temperature).sum())

    def _blown(self, temperature: Array) -> Array:
        return self.forced * (temperature - self.air.inlet - self.plume.into_fan())


@dataclass(frozen=True)
class FixedConductance:
    """Cells tied to a body of known temperature."""

    cells: Cells
    conductance: Array  # (cells,) [W/K]
    ambient: float

    def in_air(self, ambient: float) -> FixedConductance:
        """The same tied to another temperature [°C]."""
        return replace(self, ambient=ambient)

    def flow(self, temperature: Array) -> tuple[Array, Array]:
        """Watts out of each cell and their slope [W/K]."""
        return self.conductance * (temperature - self.ambient), self.conductance

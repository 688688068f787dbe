"""How the hotend's surfaces give heat to what surrounds them."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
import numpy.typing as npt

from zeotherm.core.physics.convection import natural_film_body
from zeotherm.core.physics.radiation import flux_and_slope
from zeotherm.core.twin.hotend.sink_air import SinkAir

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
    sleeve: float  # thickness over conductivity [m²K/W]; nought when bare

    def in_air(self, ambient: float) -> HotSurface:
        """The same in other air [°C]."""
        return replace(self, ambient=ambient)

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


@dataclass(frozen=True)
class FinnedSurface:
    """The sink's core: fins and bare core in the fan's air, and what still air takes."""

    cells: Cells
    forced: Array  # (cells,) conductance to the fan's air [W/K]
    still: Array  # (cells,) share of the envelope's surface [m²]
    air: SinkAir

    def in_air(self, inlet: float, gain: float) -> FinnedSurface:
        """The same in other air [°C], its film changed by a factor."""
        return replace(self, forced=self.forced * gain, air=replace(self.air, inlet=inlet))

    def flow(self, temperature: Array) -> tuple[Array, Array]:
        """Watts out of each cell and their slope [W/K]."""
        flux, slope = self.air.still_flow(temperature)
        blown = self.forced * (temperature - self.air.inlet)
        return blown + self.still * flux, self.forced + self.still * slope

    def to_fan_air(self, temperature: Array) -> float:
        """Watts that the fan's air carries away."""
        return float((self.forced * (temperature - self.air.inlet)).sum())


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

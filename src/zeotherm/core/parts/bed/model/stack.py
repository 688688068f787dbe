"""Through the thickness of a bed: from its plate up to the air, and by its heater down to what is below."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, Protocol

import numpy as np
import numpy.typing as npt

from zeotherm.core.physics.radiation import flux_and_slope

Array = npt.NDArray[np.float64]
Values = Any  # a float or an array of the plate's shape
TURNS, HEATER_TURNS = 2, 2  # of Newton's rule, from a start that takes the mean conductance for the slope
NEAR = 1e-2  # K of a correction by Newton's rule that leaves the next one nothing to do: errors go with its square
MOVED = 0.02  # K, of the heater, likewise: a flux off by 3e-8 W/m²
LEAST_K = 0.5  # of a difference that a mean conductance is taken of


@dataclass(frozen=True, slots=True)
class Side:
    """One side of a plate: a resistance, then a face in air that it also radiates from.

    resistance: up to the face [m²K/W]; film [W/m²K]; emissivity [-]; air, around [°C]. Each a number or of the plate's
    shape.
    """

    resistance: Values
    film: Values
    emissivity: Values
    air: float
    around: float

    def flux(self, inside: Array) -> tuple[Array, Array, Array]:
        """What leaves by this side [W/m²], its slope [W/m²K], and the face's temperature [°C], shape of inside.

        inside: temperature under the resistance. The face is where (inside - face)/R = h (face - air) + εσ(face⁴ -
        around⁴); found by Newton's rule.
        """
        r = self.resistance
        out, slope = self._outward(inside)
        by = inside - self.air
        rough = np.where(np.abs(by) > LEAST_K, out / np.where(np.abs(by) > LEAST_K, by, 1.0), slope)
        face = self.air + by / (1.0 + r * rough)
        for _turn in range(TURNS):
            out, slope = self._outward(face)
            by = (face - inside + r * out) / (1.0 + r * slope)
            face = face - by
            if by.min() > -NEAR and by.max() < NEAR:
                return out - slope * by, slope / (1.0 + r * slope), face
        out, slope = self._outward(face)
        return out, slope / (1.0 + r * slope), face

    def _outward(self, face: Array) -> tuple[Array, Array]:
        radiated, slope = flux_and_slope(face, self.around, self.emissivity)
        return self.film * (face - self.air) + radiated, self.film + slope


class Outward(Protocol):
    """Anything by which heat leaves downward."""

    def flux(self, inside: Array) -> tuple[Array, Array, Array]:
        """As `Side.flux`."""
        ...


@dataclass(frozen=True, slots=True)
class HeatedUnderside:
    """The underside where a heater lies between plate and underside.

    inner: between plate and heater [m²K/W], a number or of the plate's shape; watts: put in by the heater [W/m²], of
    the plate's shape.
    """

    inner: Values
    under: Outward
    watts: Array

    def flux(self, plate: Array) -> tuple[Array, Array, Array, Array]:
        """What leaves downward [W/m²], its slope by the plate's temperature, the heater's and the lower face's
        temperature [°C].

        The heater stands where what it does not lose downward goes up into the plate: heater = plate + (q - down) R.
        """
        if np.max(self.inner) <= 0.0:
            down, slope, face = self.under.flux(plate)
            return down, slope, plate, face
        heater = plate + self.watts * self.inner
        for _turn in range(HEATER_TURNS):
            down, slope, face = self.under.flux(heater)
            stiff = 1.0 + slope * self.inner
            by = (heater - plate - (self.watts - down) * self.inner) / stiff
            heater = heater - by
            if max(-by.min(), by.max()) < MOVED:  # its law is straight over so little
                return down - slope * by, slope / stiff, heater, face - by
        down, slope, face = self.under.flux(heater)
        return down, slope / (1.0 + slope * self.inner), heater, face

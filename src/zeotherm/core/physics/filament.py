"""Heat that a polymer takes up on its way from strand to melt."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

Array = npt.NDArray[np.float64]

CAPACITY_WIDTH = 8.0  # K, width of the step in heat capacity at the softening point
MELTING_WIDTH = 5.0  # K, width of the melting peak


def cubic_step(x: Array) -> Array:
    """From zero to one between x = 0 and 1, level at both ends [-].

    >>> cubic_step(np.array([-1.0, 0.25, 0.5, 2.0])).tolist()
    [0.0, 0.15625, 0.5, 1.0]
    """
    x = np.minimum(np.maximum(x, 0.0), 1.0)
    return np.asarray(x * x * (3.0 - 2.0 * x))


def logistic(x: Array) -> Array:
    """1 / (1 + exp(-x)) without overflow [-].

    >>> logistic(np.array([-1000.0, 0.0, 1.0])).round(4).tolist()
    [0.0, 0.5, 0.7311]
    """
    return 0.5 * (1.0 + np.tanh(0.5 * x))


@dataclass(frozen=True, slots=True)
class Enthalpy:
    """Specific enthalpy of a polymer against temperature.

    solid, melt: heat capacity below and above softening [J/kgK]; softening, melting [°C]; latent: heat of fusion,
    zero for an amorphous polymer [J/kg]. The step in capacity and the melting are logistics: smooth stand-ins for a
    calorimeter trace (shape after van Krevelen, Properties of Polymers, 4th ed., ch. 5).
    """

    solid: float
    melt: float
    softening: float
    melting: float
    latent: float

    def __call__(self, temperature: Array) -> Array:
        """Enthalpy above 0 °C [J/kg], of the shape of temperature [°C]. Rises strictly."""
        above = (temperature - self.softening) / CAPACITY_WIDTH
        sensible = np.abs(above)  # from here on logaddexp(0, above) in place, several times faster
        np.negative(sensible, sensible)
        np.exp(sensible, sensible)
        np.log1p(sensible, sensible)
        sensible += np.maximum(above, 0.0)
        sensible *= CAPACITY_WIDTH * (self.melt - self.solid)
        sensible += self.solid * temperature
        if self.latent == 0.0:
            return sensible
        return sensible + self.latent * logistic((temperature - self.melting) / MELTING_WIDTH)

    def capacity(self, temperature: Array) -> Array:
        """Derivative of the enthalpy, the apparent heat capacity [J/kgK]."""
        sensible = self.solid + (self.melt - self.solid) * logistic((temperature - self.softening) / CAPACITY_WIDTH)
        if self.latent == 0.0:
            return sensible
        molten = logistic((temperature - self.melting) / MELTING_WIDTH)
        return sensible + self.latent * molten * (1.0 - molten) / MELTING_WIDTH


def touching_share(mean: Array, softening: float, span: float) -> tuple[Array, Array]:
    """How far a strand has swollen onto its bore [-], and the derivative by its temperature [1/K].

    mean: of the strand's section, its outer parts the more [°C], since a soft skin on a stiff core swells little, but a
    drive presses it onto the wall; softening: where it begins to give way [°C]; span: from there to a bore filled with
    melt [K]. Zero below softening (strand in air), one above softening + span (melt on the wall), a cubic step
    between. Engineering estimate: the span over which the stiffness of a polymer falls from glass to rubber (van
    Krevelen, Properties of Polymers, 4th ed., ch. 13), for a strand under the drive's force.

    >>> [one.round(4).tolist() for one in touching_share(np.array([50.0, 65.0, 100.0]), 60.0, 20.0)]
    [[0.0, 0.1562, 1.0], [0.0, 0.0562, 0.0]]
    """
    x = np.minimum(np.maximum((mean - softening) / span, 0.0), 1.0)
    return cubic_step(x), 6.0 * x * (1.0 - x) / span

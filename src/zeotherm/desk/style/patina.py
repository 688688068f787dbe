"""Temperature as height on the ladder and as colour, one and the same in every picture."""

from __future__ import annotations

from dataclasses import dataclass
from enum import Enum
from functools import cache

import numpy as np
import numpy.typing as npt
from PyQt6.QtGui import QColor

Array = npt.NDArray[np.float64]

# Sea, slate, clay, copper, straw: equal steps of lightness from knots in OKLab, at 0, 10 ... 100 % of the ladder.
STOPS = (
    "#003B54", "#005261", "#24666A", "#54766D", "#857D66", "#B2805C", "#DC8254", "#F29954", "#FBB75F", "#FFD684",
    "#FEF1B3",
)  # fmt: skip
ENTRIES = 256
FINE = 4096  # places along the temperatures at which heights and colours are tabulated


def _table() -> npt.NDArray[np.uint32]:
    stops = np.array([QColor(stop).getRgb()[:3] for stop in STOPS], dtype=float)
    place = np.linspace(0, len(STOPS) - 1, ENTRIES)
    channels = [
        np.interp(place, range(len(STOPS)), stops[:, channel]).round().astype(np.uint32) for channel in range(3)
    ]
    return np.asarray(0xFF000000 | (channels[0] << 16) | (channels[1] << 8) | channels[2], dtype=np.uint32)


TABLE = _table()


@dataclass(frozen=True)
class Scale:
    """A span of the ladder: knots of temperature and of height share, and the ticks to write."""

    name: str
    temperatures: tuple[float, ...]
    shares: tuple[float, ...]
    ticks: tuple[int, ...]

    @property
    def low(self) -> float:
        """Foot of the ladder [°C]."""
        return self.temperatures[0]

    @property
    def high(self) -> float:
        """Top of the ladder [°C]."""
        return self.temperatures[-1]

    def share(self, temperature: float) -> float:
        """Height of a temperature, 0 to 1; beyond the span it stays at the end."""
        heights = _listed_heights(self.temperatures, self.shares)
        place = (temperature - self.low) * (FINE - 1) / (self.high - self.low)
        at = min(max(place, 0.0), FINE - 1.0)
        left = min(int(at), FINE - 2)
        return heights[left] + (at - left) * (heights[left + 1] - heights[left])

    def argb(self, temperature: Array) -> npt.NDArray[np.uint32]:
        """Colours of temperatures, of the same shape."""
        colours = _colours(self.temperatures, self.shares)
        place = (temperature - self.low) * ((len(colours) - 1) / (self.high - self.low))
        return colours[np.clip(place, 0, len(colours) - 1).astype(np.int32)]

    def colour(self, temperature: float) -> QColor:
        """Colour of one temperature."""
        colours = _colours(self.temperatures, self.shares)
        place = (temperature - self.low) * ((len(colours) - 1) / (self.high - self.low))
        return QColor.fromRgb(int(colours[int(min(max(place, 0), len(colours) - 1))]))


@cache
def _heights(temperatures: tuple[float, ...], shares: tuple[float, ...]) -> Array:
    """The monotone cubic through the knots (Fritsch & Carlson 1980), tabulated evenly in temperature."""
    x, y = np.array(temperatures, dtype=float), np.array(shares)
    step, rise = np.diff(x), np.diff(y) / np.diff(x)
    slope = np.empty_like(x)
    slope[0], slope[-1] = rise[0], rise[-1]
    weight_one, weight_two = 2 * step[1:] + step[:-1], step[1:] + 2 * step[:-1]
    slope[1:-1] = (weight_one + weight_two) / (weight_one / rise[:-1] + weight_two / rise[1:])
    at = np.linspace(x[0], x[-1], FINE)
    k = np.clip(np.searchsorted(x, at, side="right") - 1, 0, len(step) - 1)
    t = (at - x[k]) / step[k]
    start = y[k] * (1 + 2 * t) * (1 - t) ** 2 + slope[k] * step[k] * t * (1 - t) ** 2
    return np.asarray(start + y[k + 1] * t**2 * (3 - 2 * t) + slope[k + 1] * step[k] * t**2 * (t - 1))


@cache
def _listed_heights(temperatures: tuple[float, ...], shares: tuple[float, ...]) -> list[float]:
    """`_heights` to be read one by one."""
    return [float(one) for one in _heights(temperatures, shares)]


@cache
def _colours(temperatures: tuple[float, ...], shares: tuple[float, ...]) -> npt.NDArray[np.uint32]:
    """The colour at each of the tabulated temperatures."""
    index = np.clip(_heights(temperatures, shares) * (ENTRIES - 1), 0, ENTRIES - 1).astype(np.intp)
    return TABLE[index]


class Span(Enum):
    """The spans that the buttons under the ladder choose."""

    FULL = Scale(
        "Full", (15, 40, 60, 80, 100, 150, 200, 250, 320), (0, 0.16, 0.35, 0.53, 0.65, 0.785, 0.87, 0.935, 1.0),
        (20, 30, 40, 50, 60, 70, 80, 100, 120, 150, 200, 250, 300),
    )  # fmt: skip
    COOL = Scale(
        "Cool",
        (5, 40, 60, 80, 100, 130),
        (0, 0.25, 0.48, 0.69, 0.845, 1.0),
        (10, 20, 30, 40, 50, 60, 70, 80, 90, 100, 120),
    )

    @property
    def label(self) -> str:
        """What its button says."""
        return f"{self.value.name} {self.value.low:.0f}\N{EN DASH}{self.value.high:.0f}"

"""Unknowns of a model estimated from a curve, with what was believed of them before.

Least squares with what was believed before as further observations (Bayesian; Gelman et al., Bayesian Data Analysis,
3rd ed., section 14.8): what a curve does not tell stays where it was, with the band that it had. Gauss-Newton steps by
finite differences. Readings of one run are not independent of each other: all of them together count as `WORTH`.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Generic, TypeVar

import numpy as np
import numpy.typing as npt

from zeotherm.core.judgement.bands import Band

Array = npt.NDArray[np.float64]
Inputs = TypeVar("Inputs")
Extra = TypeVar("Extra")
WORTH, POINTS = 8, 40  # independent readings that a curve counts as, and the points it is read at
TURNS, MOVED, STEP = 6, 2e-3, 0.02
LEAST, MOST = 0.3, 3.0  # shares of what was believed that are tried


@dataclass(frozen=True, slots=True)
class Fitted:
    """One unknown, before and after."""

    name: str
    before: float
    after: float
    band_before: float  # 95 % half-width
    band: Band


@dataclass(frozen=True)
class Fit(Generic[Inputs]):
    """What a curve tells of a model."""

    inputs: Inputs
    found: tuple[Fitted, ...]
    misfit_before: float  # root mean square, K
    misfit: float
    curve: tuple[Array, Array]  # of the fitted model: s, °C

    def value(self, name: str) -> float:
        """One of the unknowns."""
        return next(one.after for one in self.found if one.name == name)


@dataclass(frozen=True)
class Predicted(Generic[Extra]):
    """What a model says with some unknowns."""

    at: Array  # where the curve is read [K or °C]
    curve: tuple[Array, Array]
    extra: Extra


def estimate(
    predicted: Callable[[Mapping[str, float]], Predicted[Extra]],
    seen: Array,
    believed: Mapping[str, tuple[float, float]],
    deviation: float,
    told: Callable[[Extra], list[float]] = lambda _extra: [],
) -> tuple[tuple[Fitted, ...], float, float, tuple[Array, Array]]:
    """Unknowns, misfit before and after [K], and the fitted curve.

    predicted: the model by values of the unknowns; seen: readings at the same points; believed: value and 95 %
    half-width of each unknown; deviation: of model and sensor together [K]; told: further observations, each as its
    miss in standard deviations.
    """
    names = list(believed)
    scales = np.array([believed[name][0] for name in names])
    widths = np.array([believed[name][1] for name in names]) / 1.96 / scales
    weight = math.sqrt(WORTH / len(seen)) / deviation

    def solved(shares: Array) -> Predicted[Extra]:
        return predicted(dict(zip(names, (shares * scales).tolist(), strict=True)))

    def off(shares: Array, at: Predicted[Extra]) -> Array:
        return np.concatenate([weight * (at.at - seen), (shares - 1.0) / widths, np.array(told(at.extra))])

    shares = np.ones(len(names))
    now = solved(shares)
    before = float(np.sqrt(np.mean((now.at - seen) ** 2)))
    slopes = np.zeros((len(off(shares, now)), len(names)))
    for _turn in range(TURNS):
        missed = off(shares, now)
        for n in range(len(names)):
            moved = shares.copy()
            moved[n] += STEP
            slopes[:, n] = (off(moved, solved(moved)) - missed) / STEP
        step = np.linalg.lstsq(slopes, -missed, rcond=None)[0]
        shares = np.clip(shares + np.clip(step, -0.3, 0.3), LEAST, MOST)
        now = solved(shares)
        if float(np.abs(step).max()) < MOVED:
            break
    spread = 1.96 * np.sqrt(np.diag(np.linalg.inv(slopes.T @ slopes)))
    found = tuple(
        Fitted(name, float(scale), float(share * scale), float(1.96 * width * scale),
               Band(float(by * scale), float(by * scale)))
        for name, share, scale, width, by in zip(names, shares, scales, widths, spread, strict=True)
    )  # fmt: skip
    return found, before, float(np.sqrt(np.mean((now.at - seen) ** 2))), now.curve

"""A thin plate over its plane: heat is put in where the heater lies, spreads sideways, leaves by both faces and rim.

Cells of one size on a rectangle, of any outline within it. A full rectangle with one loss everywhere and a rim that
loses nothing is solved exactly by a cosine transform; a small one by elimination within its band; any other by
conjugate gradients, preconditioned by one cycle over ever coarser grids. Losses that depend on the temperature are
taken anew by Newton's rule.

Coarse grids join cells two by two (Braess, Computing 55 (1995) 379): links between the fours are half the sum of those
they hold, since a jump over a four's width is half as steep.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import cached_property

import numpy as np
import numpy.typing as npt
from scipy.linalg import cho_solve_banded, cholesky_banded

Array = npt.NDArray[np.float64]
Mask = npt.NDArray[np.bool_]
Law = Callable[[Array], tuple[Array, Array]]  # temperature -> watts off a square metre, and their slope
TOLERANCE = 1e-5  # K, of the last correction
MOST_STEPS, MOST_TURNS = 200, 12
FIRST_NEAR, NEAR = 0.02, 1e-3  # K of the first correction, and of later ones as a share of the one before
DAMPED = 0.8  # of a smoothing step
COARSEST = 6  # cells, along either side
LINKED = 0.5  # of the links that a coarse link holds
SMALL = 2500  # cells that elimination solves sooner than conjugate gradients


class NotSettledError(ArithmeticError):
    """The field did not settle: a loss that falls as the plate warms, or nothing that holds its temperature."""


@dataclass(frozen=True)
class Plate:
    """The plate itself: what does not change with its temperature.

    width, depth: of the rectangle [m]; inside: which cells are plate, (rows, columns); spread: conductivity times
    thickness summed over its layers [W/K]; rim: conductance of its edge to the air [W/mK]. Raises ValueError.
    """

    width: float
    depth: float
    inside: Mask
    spread: float
    rim: float = 0.0

    def __post_init__(self) -> None:
        sound = all(one > 0.0 for one in (self.width, self.depth, self.spread)) and self.rim >= 0.0
        if not sound or not self.inside.any():
            raise ValueError(
                "a plate has a width, a depth, cells and a spread above zero, and a rim that takes none in"
            )

    @property
    def size(self) -> tuple[float, float]:
        """Of a cell, along and across [m]."""
        rows, columns = self.inside.shape
        return self.width / columns, self.depth / rows

    @property
    def area(self) -> float:
        """Of a cell [m²]."""
        along, across = self.size
        return along * across

    @cached_property
    def links(self) -> tuple[Array, Array]:
        """Conductance between neighbours along and across [W/K]; zero where one of them is no plate."""
        along, across = self.size
        inside = self.inside
        return (
            np.asarray(self.spread * across / along * (inside[:, 1:] & inside[:, :-1]), dtype=np.float64),
            np.asarray(self.spread * along / across * (inside[1:] & inside[:-1]), dtype=np.float64),
        )

    @cached_property
    def edge(self) -> Array:
        """Conductance from each cell's middle over its rim to the air [W/K]: half a cell of plate, then the rim."""
        along, across = self.size
        around = np.pad(self.inside, 1)
        free = [around[1:-1, :-2], around[1:-1, 2:], around[:-2, 1:-1], around[2:, 1:-1]]
        sides = (
            (across, along),
            (across, along),
            (along, across),
            (along, across),
        )  # its length, and the cell behind it
        given = [self.rim * long / (1.0 + 0.5 * self.rim * deep / self.spread) for long, deep in sides]
        return np.asarray(sum(one * (self.inside & ~side) for one, side in zip(given, free, strict=True)))

    def spreading(self, values: Array) -> Array:
        """Heat that leaves each cell sideways [W]; values: temperatures [K]."""
        return _spreading(*self.links, values)

    @cached_property
    def waves(self) -> Array:
        """What the full rectangle's sideways conductance is for each wave of a cosine transform [W/K]."""
        rows, columns = self.inside.shape
        along, across = self.size
        x = 2.0 - 2.0 * np.cos(np.pi * np.arange(columns) / columns)
        y = 2.0 - 2.0 * np.cos(np.pi * np.arange(rows) / rows)
        return np.asarray(self.spread * (across / along * x[None, :] + along / across * y[:, None]))


@dataclass(frozen=True)
class PlateField:
    """A settled plate."""

    temperature: Array  # °C, (rows, columns); nan where there is no plate
    put_in: float  # W
    off_faces: float
    off_rim: float
    steps: int  # of conjugate gradients, in all

    @property
    def closure(self) -> float:
        """Heat that the balance loses, as a share of what goes in [-]."""
        return abs(self.put_in - self.off_faces - self.off_rim) / max(abs(self.put_in), 1e-12)


def settle(
    plate: Plate, source: Array, law: Law, air: float, start: Array | None = None, tolerance: float = TOLERANCE
) -> PlateField:
    """The plate in balance.

    source: put in per area, (rows, columns) [W/m²]; law: what leaves both faces per area at a temperature, and its
    slope; air: at the rim [°C]; start: a field to begin with; tolerance [K]. Raises NotSettledError.
    """
    inside = plate.inside
    given = np.where(inside, source, 0.0) * plate.area
    rim = plate.edge
    now = np.full(inside.shape, air + 1.0) if start is None else np.where(inside, np.nan_to_num(start, nan=air), air)
    steps, moved = 0, FIRST_NEAR / NEAR
    for _turn in range(MOST_TURNS):
        off, slope = law(now)
        loss = np.where(inside, slope * plate.area + rim, 0.0)
        if not (float(loss.min()) >= 0.0 and float(loss.max()) > 0.0):
            raise NotSettledError("the loss of the plate falls as it warms, or there is none")
        grid = _Grid(*plate.links, loss)
        wrong = np.where(inside, given - off * plate.area - rim * (now - air), 0.0) - plate.spreading(now)
        if float(np.abs(wrong).max()) <= tolerance * float(loss[inside].min()):  # a loss that is straight: at once
            break
        near = max(tolerance, NEAR * moved)  # no nearer than the loss has been followed
        step, taken = _correction(plate, grid, wrong, near)
        steps += taken
        now = now + step
        moved = min(moved, float(np.abs(step).max()))
        if moved < 10.0 * tolerance and near <= tolerance:
            break
    else:
        raise NotSettledError("the plate's temperature does not settle")
    off = law(now)[0]
    faces, edge = float((off * plate.area)[inside].sum()), float((rim * (now - air))[inside].sum())
    return PlateField(np.where(inside, now, np.nan), float(given.sum()), faces, edge, steps)


def _correction(plate: Plate, grid: _Grid, wrong: Array, tolerance: float) -> tuple[Array, int]:
    """The correction that takes a field's imbalance [W] away, and the steps it took."""
    if plate.inside.all() and np.ptp(grid.loss) <= 1e-12 * float(grid.loss.max()):
        from scipy.fft import dctn, idctn

        return np.asarray(idctn(dctn(wrong) / (plate.waves + float(grid.loss.flat[0])))), 0
    if wrong.size <= SMALL:
        return Elimination(plate, grid.loss).solve(wrong), 1
    found = np.zeros_like(wrong)
    left, near = wrong, grid.cycle(wrong)
    along, worth = near, float(np.vdot(wrong, near))
    for step in range(1, MOST_STEPS + 1):
        if worth <= 0.0:
            return found, step
        pushed = grid.balance(along)
        length = worth / float(np.vdot(along, pushed))
        found = found + length * along
        if float(np.abs(length * along).max()) < 0.3 * tolerance:
            return found, step
        left = left - length * pushed
        near = grid.cycle(left)
        before, worth = worth, float(np.vdot(left, near))
        along = near + worth / before * along
    raise NotSettledError(f"no balance of the plate within {MOST_STEPS} steps")


class Elimination:
    """The linear balance of a plate, factorised: a band as wide as its shorter side (Cholesky)."""

    def __init__(self, plate: Plate, loss: Array) -> None:
        """loss: conductance of each cell to what is around [W/K], above zero where there is plate."""
        along, across = plate.links
        self._turned = plate.inside.shape[1] > plate.inside.shape[0]  # the shorter side runs fastest
        if self._turned:
            along, across, loss = across.T, along.T, loss.T
        rows, columns = loss.shape
        near = np.zeros((rows, columns))
        near[:, :-1] = along
        far = np.zeros((rows, columns))
        far[:-1] = across
        diagonal = loss + near + far
        diagonal[:, 1:] += along
        diagonal[1:] += across
        band = np.zeros((columns + 1, rows * columns))
        band[0] = np.where(diagonal > 0.0, diagonal, 1.0).ravel()
        band[1] -= near.ravel()
        band[columns] -= far.ravel()
        self._shape = (rows, columns)
        self._factor = cholesky_banded(band, overwrite_ab=True, lower=True, check_finite=False)

    def solve(self, watts: Array) -> Array:
        """Temperatures above what is around that balance these watts [K]; shape of the plate."""
        given = watts.T if self._turned else watts
        found = cho_solve_banded((self._factor, True), given.ravel(), check_finite=False).reshape(self._shape)
        return np.asarray(found.T if self._turned else found)


class _Grid:
    """The linear balance of a plate on one grid, and the coarser grid below it."""

    def __init__(self, along: Array, across: Array, loss: Array) -> None:
        self.along, self.across, self.loss = along, across, loss
        diagonal = loss.copy()
        for links, one, other in ((along, np.s_[:, :-1], np.s_[:, 1:]), (across, np.s_[:-1], np.s_[1:])):
            diagonal[one] += links
            diagonal[other] += links
        self._diagonal = diagonal

    @cached_property
    def plate(self) -> Mask:
        """Which cells are plate."""
        return np.asarray(self._diagonal > 0.0)

    @cached_property
    def smooth(self) -> Array:
        """What a smoothing step makes of an imbalance [K/W]."""
        return np.asarray(np.where(self.plate, DAMPED / np.where(self.plate, self._diagonal, 1.0), 0.0))

    @cached_property
    def coarser(self) -> _Grid | None:
        """Cells joined two by two; of the links, those that lead from one four to the next."""
        if max(self.loss.shape) <= COARSEST:
            return None
        along, across = np.zeros_like(self.loss), np.zeros_like(self.loss)
        along[:, 1:-1:2] = self.along[:, 1::2][:, : along[:, 1:-1:2].shape[1]]
        across[1:-1:2] = self.across[1::2][: across[1:-1:2].shape[0]]
        return _Grid(LINKED * _fours(along)[:, :-1], LINKED * _fours(across)[:-1], _fours(self.loss))

    def balance(self, values: Array) -> Array:
        """Heat that leaves each cell [W]."""
        return self.loss * values + _spreading(self.along, self.across, values)

    def cycle(self, watts: Array) -> Array:
        """Nearly the temperatures that balance these watts; symmetric, as conjugate gradients want it."""
        if self.coarser is None:
            return np.asarray((self._inverse @ watts.ravel()).reshape(watts.shape))
        found = self.smooth * watts
        found = found + self.smooth * (watts - self.balance(found))
        below = self.coarser.cycle(_fours(watts - self.balance(found)))
        rows, columns = watts.shape
        found = found + self.plate * np.repeat(np.repeat(below, 2, axis=0), 2, axis=1)[:rows, :columns]
        for _turn in range(2):
            found = found + self.smooth * (watts - self.balance(found))
        return found

    @cached_property
    def _inverse(self) -> Array:
        """Of the whole balance, where there are few cells."""
        count = self.loss.size
        columns = [self.balance(unit.reshape(self.loss.shape)).ravel() for unit in np.eye(count)]
        return np.asarray(np.linalg.inv(np.array(columns).T + np.diag(~self.plate.ravel()).astype(float)))


def _spreading(along: Array, across: Array, values: Array) -> Array:
    """Heat that leaves each cell sideways [W], over links along and across [W/K]."""
    left = np.zeros_like(values)
    flow = along * (values[:, 1:] - values[:, :-1])
    left[:, :-1] -= flow
    left[:, 1:] += flow
    flow = across * (values[1:] - values[:-1])
    left[:-1] -= flow
    left[1:] += flow
    return left


def _fours(cells: Array) -> Array:
    """Sums of two by two cells; a last odd row or column stands for itself."""
    rows, columns = (side + side % 2 for side in cells.shape)
    whole = np.zeros((rows, columns))
    whole[: cells.shape[0], : cells.shape[1]] = cells
    return np.asarray(whole.reshape(rows // 2, 2, columns // 2, 2).sum(axis=(1, 3)))

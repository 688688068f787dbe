"""Heat flow in an axisymmetric body with a moving core, a closing gap and a controlled source.

Finite volumes on a tensor grid, row by row along the axis from the inlet (row 0) to the outlet. The innermost
columns move with the stream; the column after them is the stream's skin, without volume; between the skin and the
next column lies a gap whose conductance depends on the stream's mean temperature in that row. All other faces
conduct linearly. The balance is steady, or that of one implicit stage in time (`Inertia`).
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field, fields, replace
from functools import cached_property, lru_cache, partial
from typing import NamedTuple, Protocol

import numpy as np
import numpy.typing as npt
from scipy.linalg import lapack

Array = npt.NDArray[np.float64]


class Exchange(Protocol):
    """Heat that leaves some cells to an outside the solver does not know."""

    @property
    def cells(self) -> npt.NDArray[np.intp] | slice:
        """Flat indices, each once."""
        ...

    def flow(self, temperature: Array) -> tuple[Array, Array]:
        """Watts out of each cell and their derivative [W/K]; temperature of each cell [°C]."""
        ...


class EnthalpyLaw(Protocol):
    """Specific enthalpy [J/kg] and its derivative, the heat capacity [J/kgK]."""

    def __call__(self, temperature: Array) -> Array:
        """Specific enthalpy [J/kg]."""
        ...

    def capacity(self, temperature: Array) -> Array:
        """Heat capacity [J/kgK]."""
        ...


@dataclass(frozen=True)
class Stream:
    """The moving core: `shares` of the mass flow for the first columns, inlet to outlet."""

    mass_flow: float  # kg/s
    shares: Array  # (columns,), sums to one
    inlet: float  # °C
    enthalpy: EnthalpyLaw


@dataclass(frozen=True)
class Gap:
    """The face between the stream's skin and the wall."""

    column: int  # of the skin
    open: Array  # (rows,) conductance with the stream stiff [W/K]
    touching: Array  # (rows,) conductance with the stream soft [W/K]
    wall: Array  # (rows,) resistance from the face to the wall's cell [K/W]
    weights: Array  # (columns,) of the stream in the mean that decides whether it touches, sums to one
    state: Callable[[Array], tuple[Array, Array]]  # that mean [°C] -> share touching, derivative

    @cached_property
    def _closes_by(self) -> Array:
        return self.touching - self.open

    def conductance(self, mean: Array) -> tuple[Array, Array]:
        """Conductance skin to wall cell [W/K] and its derivative by the stream's mean temperature [W/K²]."""
        share, slope = self.state(mean)
        film = self.open + share * self._closes_by
        conductance = film / (1.0 + film * self.wall)
        return conductance, (conductance / film) ** 2 * self._closes_by * slope

    def carries(self, mean: Array) -> Array:
        """`conductance` without its derivative [W/K]."""
        film = self.open + self.state(mean)[0] * self._closes_by
        return np.asarray(film / (1.0 + film * self.wall))


@dataclass(frozen=True)
class Control:
    """A source of one shape whose power holds the sensor at its target as far as its limit allows."""

    shape: Array  # (rows, columns), sums to one
    sensor: Array  # (rows, columns), sums to one
    target: float  # °C
    limit: float  # W


@dataclass(frozen=True, eq=False)  # one is the same as itself alone, so that `conducting` can be kept for it
class Body:
    """What conducts, whatever flows through it: the grid, and the conductances between its cells."""

    z: Array  # (rows,) cell centres along the axis, rising from inlet to outlet [m]
    z_faces: Array  # (rows + 1,)
    active: npt.NDArray[np.bool_]  # (rows, columns)
    radial: Array  # (rows, columns) to the next column outward [W/K]; zero in the gap's column and the last
    axial: Array  # (rows, columns) to the next row [W/K]; zero in the last

    @cached_property
    def spacing(self) -> Spacing:
        """Distances along the stream."""
        return spacing(self.z, self.z_faces)

    @cached_property
    def counts(self) -> Array:
        """One where a cell is active, else zero, (cells,)."""
        return self.active.reshape(-1).astype(np.float64)

    @cached_property
    def paths(self) -> tuple[tuple[int, Array], tuple[int, Array]]:
        """Conductances to the cell so many places on [W/K], flat: short and strided arrays cost most of the time."""
        columns = self.radial.shape[1]
        return (1, self.radial.reshape(-1)[:-1]), (columns, self.axial.reshape(-1)[:-columns])

    def __getstate__(self) -> dict[str, Array]:
        """To another process without what it can make itself."""
        return {one.name: getattr(self, one.name) for one in fields(self)}


@lru_cache(maxsize=8)
def conducting(body: Body, lower: int) -> Array:
    """The matrix of conduction in LAPACK's bands, (2 lower + columns + 1, cells); idle cells stand alone.

    lower: rows that the matrix it is completed to reaches below its diagonal. Shared: not to be changed.
    """
    cells, middle = body.radial.size, lower + body.radial.shape[1]
    made = np.zeros((lower + middle + 1, cells), order="F")
    for places, conductance in body.paths:
        carries = conductance * body.counts[:-places] * body.counts[places:]
        made[middle, :-places] += carries
        made[middle, places:] += carries
        made[middle - places, places:] = -carries
        made[middle + places, :-places] = -carries
    made[middle] += 1.0 - body.counts
    return made


@dataclass(frozen=True)
class Problem:
    """All that the steady field depends on."""

    body: Body
    gap: Gap
    stream: Stream
    control: Control
    exchanges: Sequence[Exchange]


@dataclass(frozen=True)
class Storage:
    """Heat that the cells hold: solids by their capacity, the stream by its mass and enthalpy."""

    capacity: Array  # (rows, columns) [J/K], zero in the stream and its skin
    mass: Array  # (rows, stream columns) [kg]
    enthalpy: EnthalpyLaw

    def heat(self, temperature: Array) -> Array:
        """Heat held by each cell above 0 °C [J], (rows, columns)."""
        held = self.capacity * temperature
        moving = self.mass.shape[1]
        held[:, :moving] += self.mass * self.enthalpy(np.ascontiguousarray(temperature[:, :moving]))
        return held

    def slope(self, temperature: Array) -> Array:
        """Derivative of the heat held [J/K], (rows, columns)."""
        slope = self.capacity.copy()
        moving = self.mass.shape[1]
        slope[:, :moving] += self.mass * self.enthalpy.capacity(np.ascontiguousarray(temperature[:, :moving]))
        return slope


@dataclass(frozen=True)
class Inertia:
    """What an implicit stage in time adds to the balance: heat that the cells take up, at a rate.

    The stage solves (heat(T) - before) / width = push + what enters each cell.
    """

    storage: Storage
    before: Array  # heat held at the start of the step [J], (rows, columns)
    push: Array  # rates of earlier stages [W], (rows, columns)
    width: float  # s

    def taken_up(self, held: Array) -> Array:
        """Watts that go into each cell's own heat, less those of earlier stages [W]; held: that heat [J]."""
        return (held - self.before) / self.width - self.push


@dataclass(frozen=True)
class Factor:
    """A factorised Jacobian, kept for cheap corrections."""

    lu: Array
    pivots: npt.NDArray[np.int32]
    lower: int
    upper: int
    shape: Array  # of the source, (rows, columns)

    @cached_property
    def source_response(self) -> Array:
        """Temperature by source power, (cells,) [K/W]."""
        return self.solve(self.shape.reshape(-1))

    def solve(self, right: Array) -> Array:
        """Solution for one right-hand side, both (cells,)."""
        solution, _ = lapack.dgbtrs(self.lu, self.lower, self.upper, right, self.pivots)
        return np.asarray(solution)


@dataclass(frozen=True)
class Field:
    """A solved temperature field."""

    temperature: Array  # (rows, columns) [°C]
    power: float  # W
    saturated: bool  # the source is at its limit and the sensor below target
    imbalance: float  # sum of the absolute cell residuals over the throughput [-]
    iterations: int
    factorisations: int
    factor: Factor | None = field(repr=False, compare=False, default=None)
    held: Array | None = field(repr=False, compare=False, default=None)  # heat of each cell, within a stage [J]


class NotConvergedError(ArithmeticError):
    """The field did not settle."""


class CancelledError(Exception):
    """The caller no longer wants the answer."""


# The limited slope adds second order to the upwind face value. Van Albada's limiter is smooth, with its own small
# constant for where the profile is flat, so that Newton's method converges fast: van Albada, van Leer & Roberts,
# Astron. Astrophys. 108 (1982) 76, eq. 30.
FLAT = 2000.0**2  # (K/m)²: slopes well below 2 K/mm are not limited


@dataclass(frozen=True)
class StreamFaces:
    """Stream temperatures at the lower face of each row, and their derivatives by three rows of cells."""

    value: Array  # (rows, columns) [°C]
    before: Array  # by the cell above [-]
    here: Array
    after: Array  # by the cell below


class Spacing(NamedTuple):
    """Distances of a stream's rows [m], each (rows, 1): to the row before, to the next, to the face behind."""

    before: Array
    after: Array
    reach: Array


def spacing(z: Array, z_faces: Array) -> Spacing:
    """Distances of rows at z (rows,) between faces (rows + 1,) [m]."""
    before = np.empty((len(z), 1))
    before[0, 0] = z[0] - z_faces[0]
    before[1:, 0] = z[1:] - z[:-1]
    return Spacing(before, np.append(before[1:], [[1.0]], axis=0), (z_faces[1:] - z)[:, None])


def stream_faces(temperature: Array, inlet: float, apart: Spacing, slopes: bool = True) -> StreamFaces:
    """Face values by a limited linear reconstruction: second order where smooth, bounded at extremes.

    temperature (rows, columns), inlet scalar [°C]; slopes: whether the derivatives are wanted too, else they are the
    value's.
    """
    to_before, to_after, reach = apart
    behind = np.empty_like(temperature)
    behind[0] = temperature[0] - inlet
    np.subtract(temperature[1:], temperature[:-1], out=behind[1:])
    behind /= to_before
    ahead = np.empty_like(behind)
    ahead[:-1] = behind[1:]
    ahead[-1] = behind[-1]
    aa, bb = behind**2 + FLAT, ahead**2 + FLAT
    total = aa + bb
    slope = (bb * behind + aa * ahead) / total
    if not slopes:
        value = temperature + slope * reach
        return StreamFaces(value, value, value, value)
    by_behind = (bb + 2 * behind * (ahead - slope)) / total
    by_ahead = (aa + 2 * ahead * (behind - slope)) / total
    by_behind[-1] += by_ahead[-1]
    by_ahead[-1] = 0.0
    return StreamFaces(
        value=temperature + slope * reach,
        before=-by_behind * reach / to_before,
        here=1.0 + reach * (by_behind / to_before - by_ahead / to_after),
        after=by_ahead * reach / to_after,
    )


def _faces(problem: Problem, temperature: Array, slopes: bool) -> StreamFaces:
    stream = problem.stream
    moving = np.ascontiguousarray(temperature[:, : len(stream.shares)])
    return stream_faces(moving, stream.inlet, problem.body.spacing, slopes)


def stream_heat(problem: Problem, temperature: Array) -> Array:
    """Enthalpy flow through each axial face of each stream column [W], (rows + 1, columns)."""
    stream = problem.stream
    if stream.mass_flow == 0.0:
        return np.zeros((len(temperature) + 1, len(stream.shares)))
    faces = np.empty((len(temperature) + 1, len(stream.shares)))
    faces[0] = stream.inlet
    faces[1:] = _faces(problem, temperature, slopes=False).value
    return stream.mass_flow * stream.shares * stream.enthalpy(faces)


def stream_gain(problem: Problem, temperature: Array) -> float:
    """What the stream carries out more than it brings in [W]."""
    stream = problem.stream
    if stream.mass_flow == 0.0:
        return 0.0
    moving, apart = len(stream.shares), problem.body.spacing
    ends = np.full((2, moving), stream.inlet)
    near = stream_faces(temperature[-2:, :moving], stream.inlet, Spacing(*(one[-2:] for one in apart)), slopes=False)
    ends[1] = near.value[-1]  # the first of the two does not know what lies before it
    into, out = (stream.mass_flow * stream.shares * stream.enthalpy(ends)).sum(axis=1)
    return float(out - into)


def stream_mean(problem: Problem, temperature: Array) -> Array:
    """Mean temperature of the stream in each row, by the gap's weights [°C], (..., rows)."""
    return np.asarray(temperature[..., : len(problem.gap.weights)] @ problem.gap.weights)


def gap_heat(problem: Problem, temperature: Array) -> Array:
    """Heat from the skin to the wall in each row [W], (..., rows)."""
    column = problem.gap.column
    conductance = problem.gap.carries(stream_mean(problem, temperature))
    return np.asarray(conductance * (temperature[..., column] - temperature[..., column + 1]))


def residual(problem: Problem, temperature: Array, power: float) -> Array:
    """Heat that leaves each cell less what enters it [W], (rows, columns); zero when solved."""
    skin, out = problem.gap.column, -power * problem.control.shape
    flat, t = out.reshape(-1), temperature.reshape(-1)
    for places, conductance in problem.body.paths:
        flow = t[:-places] - t[places:]
        flow *= conductance
        flat[:-places] += flow
        flat[places:] -= flow
    over_gap = gap_heat(problem, temperature)
    out[:, skin] += over_gap
    out[:, skin + 1] -= over_gap
    if problem.stream.mass_flow > 0.0:
        carried = stream_heat(problem, temperature)
        out[:, : carried.shape[1]] += carried[1:] - carried[:-1]
    for exchange in problem.exchanges:
        flat[exchange.cells] += exchange.flow(t[exchange.cells])[0]
    flat *= problem.body.counts
    return out


def factorise(problem: Problem, temperature: Array, inertia: Inertia | None = None) -> Factor:
    """LU factors of the residual's exact Jacobian, banded with the short axis fastest."""
    stream, skin, columns = problem.stream, problem.gap.column, temperature.shape[1]
    moving, flows = len(stream.shares), stream.mass_flow > 0.0
    # the limiter reaches to the cell before last, which widens the band
    lower = max(2 * columns if flows else columns, skin + 1)
    middle = lower + columns
    bands = conducting(problem.body, lower).copy(order="F")
    entry = bands.T.reshape(*temperature.shape, -1)  # of a cell's column of the matrix; `middle`: of its own row
    diagonal, flat = bands[middle], temperature.reshape(-1)
    if inertia is not None:
        diagonal += inertia.storage.slope(temperature).reshape(-1) / inertia.width
    for exchange in problem.exchanges:
        diagonal[exchange.cells] += exchange.flow(flat[exchange.cells])[1]

    conductance, slope = problem.gap.conductance(stream_mean(problem, temperature))
    entry[:, skin, middle] += conductance
    entry[:, skin + 1, middle - 1] -= conductance
    entry[:, skin, middle + 1] -= conductance
    entry[:, skin + 1, middle] += conductance
    by_mean = (slope * (temperature[:, skin] - temperature[:, skin + 1]))[:, None] * problem.gap.weights
    inner = np.arange(moving)
    entry[:, inner, middle + skin - inner] += by_mean
    entry[:, inner, middle + skin + 1 - inner] -= by_mean

    if flows:
        faces = _faces(problem, temperature, slopes=True)
        carried = stream.mass_flow * stream.shares * stream.enthalpy.capacity(faces.value)
        before, here, after = carried * faces.before, carried * faces.here, carried * faces.after
        here[1:] -= after[:-1]
        before[1:] -= (carried * faces.here)[:-1]
        entry[:, :moving, middle] += here
        entry[:-1, :moving, middle + columns] += before[1:]
        entry[1:, :moving, middle - columns] += after[:-1]
        entry[:-2, :moving, middle + 2 * columns] -= (carried * faces.before)[1:-1]
    return _factorise_bands(bands, lower, columns, problem.control.shape)


def _factorise_bands(bands: Array, lower: int, upper: int, shape: Array) -> Factor:
    """LU factors of a matrix in LAPACK's bands, which they take the place of."""
    lu, pivots, info = lapack.dgbtrf(bands, lower, upper, overwrite_ab=True)
    if info != 0 or not np.isfinite(lu[lower + upper]).all():
        raise NotConvergedError("the heat balance has no unique solution: a part is cut off from everything else")
    return Factor(lu, pivots, lower, upper, shape)


LEAST_THROUGHPUT = 1.0  # W, so that a cold body has a meaningful imbalance
MAX_STEP = 60.0  # K, the longest correction taken whole
SLOW = 0.15  # a correction that leaves more than this share of the imbalance asks for a fresh factor
SWITCHES = 4  # of the control between held, full and off, before it counts as unsettled
LAGGED_ROUNDS = 80
GOOD_ENOUGH = 5e-7  # imbalance at which corrections that circle a kink of the gap's law are let be


def solve(
    problem: Problem,
    start: Field,
    *,
    tolerance: float = 1e-7,
    limit: int = 40,
    inertia: Inertia | None = None,
    cancelled: Callable[[], bool] = lambda: False,
) -> Field:
    """Steady field, or that of one stage in time, by Newton corrections that keep their factor while it serves.

    start: first guess; its factor is tried before a new one is made. tolerance: on `Field.imbalance`. limit: on the
    corrections for each state of the control. inertia: none for the steady field. The controlled power is solved with
    the field, T = a + b·P at every correction; where that asks for more than the source has, or for less than nothing,
    the power stays at its bound. Raises NotConvergedError, or CancelledError when `cancelled` says so.
    """
    limit_power = problem.control.limit
    fixed = limit_power if start.saturated or limit_power == 0.0 else 0.0 if start.power <= 0.0 else None
    field = start if fixed is None else replace(start, power=fixed)
    for _ in range(SWITCHES):
        field = _balanced(problem, field, fixed, tolerance, limit, inertia, cancelled)
        now = _wanted_power(problem.control, field, fixed)
        if now == fixed:
            return field
        fixed = now
        field = replace(field, power=field.power if fixed is None else fixed)
    raise NotConvergedError("the control finds no rest between held, full and off")


def solve_lagging(
    problem: Problem, start: Field, *, tolerance: float = 1e-7, cancelled: Callable[[], bool] = lambda: False
) -> Field:
    """As `solve`, for starts far from the answer: the gap follows the field one round late.

    Begun with the gap open everywhere, each round can only close it further, since a closer wall warms the stream: the
    rounds climb to the coldest of the steady states, the one a stream reaches that arrives cold.
    """
    share = np.zeros(len(problem.body.z))
    field = start
    for _ in range(LAGGED_ROUNDS):
        frozen = replace(problem, gap=replace(problem.gap, state=partial(_frozen, share)))
        field = solve(frozen, field, tolerance=max(tolerance, 1e-6), cancelled=cancelled)
        after, _slope = problem.gap.state(stream_mean(problem, field.temperature))
        settled = float(np.abs(after - share).max()) < 2e-3
        share = after
        if settled:
            break
    return solve(problem, replace(field, factor=None), tolerance=tolerance, cancelled=cancelled)


def _frozen(share: Array, mean: Array) -> tuple[Array, Array]:
    """A gap that does not follow the stream."""
    return share, np.zeros_like(mean)


def _wanted_power(control: Control, field: Field, fixed: float | None) -> float | None:
    """The power the control should be fixed at; None where it holds its target."""
    miss = control.target - float(np.vdot(control.sensor, field.temperature))
    if fixed is None:
        return control.limit if field.power > control.limit else 0.0 if field.power < 0.0 else None
    holds = miss >= -1e-7 if fixed > 0.0 else miss <= 1e-7
    return fixed if holds or control.limit == 0.0 else None


def _balanced(
    problem: Problem,
    start: Field,
    fixed: float | None,
    tolerance: float,
    limit: int,
    inertia: Inertia | None,
    cancelled: Callable[[], bool],
) -> Field:
    """The field in balance with the power free to hold the target, or fixed."""
    temperature, power, control = start.temperature, start.power, problem.control
    factor = start.factor if start.factor is not None and start.factor.lu.shape[1] == temperature.size else None
    fresh, factorisations, last = False, 0, np.inf
    wrong, held = _wrong(problem, temperature, power, inertia)
    for iteration in range(limit):
        if cancelled():
            raise CancelledError
        miss = control.target - float(np.vdot(control.sensor, temperature))
        imbalance = _imbalance(wrong, power)
        if imbalance < tolerance and (fixed is not None or abs(miss) < 1e-7):
            saturated = fixed is not None and fixed > 0.0
            return Field(temperature, power, saturated, imbalance, iteration, factorisations, factor, held)
        if factor is None or (not fresh and imbalance > SLOW * last):
            factor, fresh = factorise(problem, temperature, inertia), True
            factorisations += 1
        else:
            fresh = False
        step = factor.solve(-wrong.reshape(-1)).reshape(temperature.shape)
        step_power = 0.0
        if fixed is None:
            response = factor.source_response.reshape(temperature.shape)
            step_power = (miss - float(np.vdot(control.sensor, step))) / float(np.vdot(control.sensor, response))
            step = step + step_power * response
        last = imbalance
        temperature, power, wrong, held = _advance(problem, temperature, power, step, step_power, imbalance, inertia)
    if imbalance < GOOD_ENOUGH:
        saturated = fixed is not None and fixed > 0.0
        return Field(temperature, power, saturated, imbalance, limit, factorisations, factor, held)
    raise NotConvergedError(f"no balance within {limit} corrections; {imbalance:.1e} of the heat is unaccounted for")


def _wrong(problem: Problem, temperature: Array, power: float, inertia: Inertia | None) -> tuple[Array, Array | None]:
    """What each cell's balance lacks [W], steady or within a stage, and the heat it holds there [J]."""
    wrong = residual(problem, temperature, power)
    if inertia is None:
        return wrong, None
    held = inertia.storage.heat(temperature)
    wrong += inertia.taken_up(held)
    wrong.reshape(-1)[:] *= problem.body.counts
    return wrong, held


def _imbalance(wrong: Array, power: float) -> float:
    return float(np.abs(wrong).sum()) / max(abs(power), LEAST_THROUGHPUT)


def _advance(
    problem: Problem,
    temperature: Array,
    power: float,
    step: Array,
    step_power: float,
    imbalance: float,
    inertia: Inertia | None,
) -> tuple[Array, float, Array, Array | None]:
    """The corrected state with what it lacks and holds, the step shortened while it makes the balance much worse."""
    scale = min(1.0, MAX_STEP / max(float(np.abs(step).max()), 1e-12))
    for _ in range(5):
        trial = temperature + scale * step
        trial_power = power + scale * step_power
        wrong, held = _wrong(problem, trial, trial_power, inertia)
        if _imbalance(wrong, trial_power) < 2.0 * imbalance or imbalance < 1e-3:
            break
        scale *= 0.5
    return trial, trial_power, wrong, held

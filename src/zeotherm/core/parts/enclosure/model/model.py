"""The laws of an enclosure: its air in a lower and an upper half, the surfaces about them, and what moves between.

Nodes: lower air, upper air, two radiant means (of what the bed's underside sees and of what its face sees), frame and
machine in the lower and in the upper half, then the inner and the outer face of each wall. Frame and machine follow the
air they stand in and radiate to the walls. Each half of the air is one temperature; the plumes of bed and heaters, what
falls along cooler walls, fans, openings and instability carry air between them. Air that falls brings what the wall
took from it to the lower half. A heater under the roof without a fan gives a share to the roof before its air mixes.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import cached_property
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from zeotherm.core.parts.enclosure.model.inputs import ChamberInputs
from zeotherm.core.physics.air import air as air_at
from zeotherm.core.physics.convection import (
    film_state,
    forced_film_plate,
    nusselt_plate_down,
    nusselt_plate_up,
    nusselt_vertical_plate,
)
from zeotherm.core.physics.radiation import film_between, to_mean
from zeotherm.core.physics.ventilation import (
    exchange_of_unstable_air,
    falling_flow,
    plume_flow,
    stack_conductance,
    stack_strength,
    superposed,
)

Array = npt.NDArray[np.float64]
LOW, HIGH, BELOW, ABOVE, FRAME_LOW, FRAME_HIGH, FACES = range(7)
LEAST_K = 0.2  # at which films are taken
SOFT = 0.2  # of a plume's own rise over which it is stopped by warmer air, and K besides
CAP_K = 2.0  # over which a heater's own limit stops it
RATED_C = 20.0  # air at which a self-regulating element gives its watts
HEATER_HEAT = 0.5  # J/K that a heater holds for a watt of its rating: estimate, 0.3 to 1
MEAN_C = 40.0  # at which the heat of the air is taken


@dataclass(frozen=True, slots=True)
class EnclosureAround:
    """What reaches an enclosure at one moment. Temperatures in °C, watts, conductances in W/K."""

    room: float
    bed: float = 20.0  # its plate
    bed_up: float = 0.0  # to the air above it
    bed_down: float = 0.0  # to the air below it
    bed_rad_up: float = 0.0
    bed_rad_down: float = 0.0
    bed_size: float = 0.2  # side of the square of its area [m]
    low: float = 0.0  # watts into the lower air
    high: float = 0.0
    on_walls: float = 0.0  # sun, on all outer faces


class Heated(NamedTuple):
    """What the heaters of an enclosure do at one moment."""

    low: float = 0.0  # W into the lower half
    high: float = 0.0
    on: bool = False  # whether their control is on

    @property
    def watts(self) -> float:
        """Of all [W]."""
        return self.low + self.high


@dataclass(frozen=True, slots=True)
class Moved:
    """Air that moves [m³/s]."""

    between: float  # the halves, one up and one down
    through: float  # in low, up, and out high
    stack: float  # that the openings would pass without fans
    leaky: float  # of what goes through, by the openings
    rises: float  # share of the bed's plume that reaches the upper half [-]
    per_flow: float  # that air carries a kelvin [J/m³K]
    falls: float = 0.0  # share of what upright walls take of the upper half that falls into the lower [-]
    lifted: float = 0.0  # share of what heaters give low that reaches the upper half [-]


@dataclass(frozen=True)
class Arrays:
    """Walls of an enclosure, number by number."""

    areas: Array  # m²
    high: Array  # share in the upper half [-]
    through: Array  # W/K
    outside: Array  # emissivity [-]
    flat: dict[str, npt.NDArray[np.intp]]  # which are floor, which roof
    upright: Array  # 1 for those that are neither, else 0
    inner: npt.NDArray[np.intp]  # nodes of their inner faces
    level: npt.NDArray[np.intp]  # floor and roof
    floors: npt.NDArray[np.bool_]  # which of these are floor
    lengths: Array  # that natural convection goes by [m]
    shares: Array  # of all their area [-]


@dataclass(frozen=True)
class Laws:
    """What flows into each node, linear about its present temperatures: matrix @ T + given [W]."""

    matrix: Array
    given: Array
    to_room: Array  # W/K of each node, by its outer film; of the upper air by what leaves with it
    moved: Moved


@dataclass(frozen=True)
class ChamberModel:
    """One enclosure that is closed in."""

    inputs: ChamberInputs

    @property
    def count(self) -> int:
        """Nodes."""
        return FACES + 2 * len(self.inputs.walls)

    @cached_property
    def arrays(self) -> Arrays:
        """Its walls, number by number."""
        walls = self.inputs.walls
        areas = np.array([wall.area for wall in walls])
        resistances = np.array([wall.resistance for wall in walls])
        flat = {name: np.array([n for n, wall in enumerate(walls) if wall.name == name], dtype=np.intp)
                for name in ("floor", "roof")}  # fmt: skip
        upright = np.array([float(wall.name not in flat) for wall in walls])
        wide, deep = self.inputs.width, self.inputs.depth
        level = wide * deep / (2.0 * (wide + deep))  # area over perimeter
        return Arrays(
            areas, np.array([wall.high for wall in walls]), areas / (self.inputs.wall_factor * resistances),
            np.array([wall.outside for wall in walls]), flat, upright, FACES + 2 * np.arange(len(walls)),
            np.concatenate(list(flat.values())), np.repeat([True, False], [len(one) for one in flat.values()]),
            np.where(upright > 0.0, self.inputs.height, level), areas / areas.sum(),
        )  # fmt: skip

    @cached_property
    def heat(self) -> Array:
        """Heat capacity of each node [J/K]: a wall's halves at its faces, heaters with the air they heat."""
        given = self.inputs
        state = air_at(MEAN_C, given.pressure)
        half, frame = 0.5 * given.volume * float(state.density * state.heat_capacity), 0.5 * given.content
        faces = [0.5 * wall.capacity for wall in given.walls for _side in range(2)]
        low, high = (half + HEATER_HEAT * given.rated_in(high=where) for where in (False, True))
        return np.array([low, high, 0.0, 0.0, frame, frame, *faces])

    @cached_property
    def radiant(self) -> tuple[Array, Array]:
        """Black areas of the walls toward what the bed's underside sees, and toward what its face sees [m²]."""
        walls = self.inputs.walls
        areas, high = np.array([wall.area for wall in walls]), np.array([wall.high for wall in walls])
        emissivities = np.array([wall.inside for wall in walls])
        return to_mean(areas * (1.0 - high), emissivities), to_mean(areas * high, emissivities)

    @cached_property
    def seen(self) -> tuple[float, float]:
        """Black areas of frame and machine toward what the bed's underside sees, and toward what its face sees [m²]."""
        below, above = (self.inputs.frame * float(black.sum()) for black in self.radiant)
        return below, above

    def heater_gives(self, values: Array) -> Array:
        """What the heaters can give to the lower and to the upper air at most [W]: by a self-regulating element's curve
        and by their own caps, each falling as its air warms."""
        given = self.inputs
        watts = np.zeros(2)
        for rated, place, cap, fades in ((given.heater, given.heater_from, given.heater_cap, given.heater_fades),
                                         (given.second, given.second_from, given.second_cap, 0.0)):  # fmt: skip
            air = float(values[HIGH if place.high else LOW])
            fade = max((fades - air) / (fades - RATED_C), 0.0) if fades else 1.0
            under = min(max((cap - air) / CAP_K, 0.0), 1.0) if cap else 1.0
            watts[int(place.high)] += rated * fade * under
        return watts

    def turned_over(self, heated: Heated) -> float:
        """Air that fans turn over inside [m³/s]: a recirculating one's, and heaters' own while their control is on."""
        own = sum(place.blown for _watts, place in self.inputs.heaters) if heated.on else 0.0
        return self.inputs.recirculation + own

    def reading(self, values: Array) -> float:
        """What the control's sensor reads [°C]."""
        by = self.inputs.sensor_weight
        return float((1.0 - by) * values[LOW] + by * values[HIGH])

    def laws(self, values: Array, around: EnclosureAround, heated: Heated) -> Laws:
        """Everything between the nodes at their temperatures [°C]."""
        count = self.count
        matrix, sources, to_room = np.zeros((count, count)), np.zeros(count), np.zeros(count)
        flat, step = matrix.reshape(-1), count + 1
        diagonal = flat[::step]
        at, faces = self.arrays, values[FACES:]
        inner, outer = slice(FACES, None, 2), slice(FACES + 1, None, 2)
        films = self.inner_films(faces[::2], float(values[LOW]), float(values[HIGH]), self.turned_over(heated))
        above = at.areas * at.high * films[1]
        upright = at.upright * above
        moved = self.moved(values, around, heated, upright)
        for node, conductances in (
            (LOW, at.areas * (1.0 - at.high) * films[0]),
            (HIGH, above),
            (BELOW, self.radiant[0] * film_between(faces[::2], float(values[BELOW]))),
            (ABOVE, self.radiant[1] * film_between(faces[::2], float(values[ABOVE]))),
        ):
            matrix[inner, node] = conductances
            matrix[node, inner] = conductances
            diagonal[node] -= conductances.sum()
            diagonal[inner] -= conductances
        fallen = upright * moved.falls  # as if the lower air had given it
        whole = float(fallen.sum())
        matrix[HIGH, inner] -= fallen
        matrix[LOW, inner] += fallen
        diagonal[HIGH] += whole
        matrix[LOW, HIGH] -= whole
        for air, frame, mean, black in ((LOW, FRAME_LOW, BELOW, self.seen[0]), (HIGH, FRAME_HIGH, ABOVE, self.seen[1])):
            _link(matrix, frame, mean, black * film_between(float(values[frame]), float(values[mean])))
            _link(matrix, air, frame, 0.5 * self.inputs.content / self.inputs.content_lag)
        flat[FACES * step + 1 :: 2 * step][: len(at.through)] = at.through
        flat[(FACES + 1) * step - 1 :: 2 * step] = at.through
        diagonal[inner] -= at.through
        diagonal[outer] -= at.through
        to_room[outer] = at.areas * self.outer_films(faces[1::2], around.room)
        sources[outer] += around.on_walls * at.shares
        _link(matrix, LOW, HIGH, moved.per_flow * moved.between)
        through = moved.per_flow * moved.through
        diagonal[LOW] -= through
        sources[LOW] += through * around.room
        matrix[HIGH, LOW] += through
        diagonal[HIGH] -= through
        diagonal -= to_room
        sources += to_room * around.room
        to_room[HIGH] += through
        for node, up, down in ((HIGH, around.bed_up * moved.rises, 0.0),
                               (LOW, around.bed_up * (1.0 - moved.rises), around.bed_down)):  # fmt: skip
            matrix[node, LOW] -= up + down
            sources[node] += (up + down) * around.bed
        for node, radiated in ((ABOVE, around.bed_rad_up), (BELOW, around.bed_rad_down)):
            diagonal[node] -= radiated
            sources[node] += radiated * around.bed
        sources[LOW] += around.low
        sources[HIGH] += around.high
        return Laws(matrix, sources, to_room, moved)

    def moved(self, values: Array, around: EnclosureAround, heated: Heated, upright: Array) -> Moved:
        """Air that moves at the nodes' temperatures; upright: of the upper air, to each upright wall [W/K]."""
        given = self.inputs
        low, high = float(values[LOW]), float(values[HIGH])
        mean = 0.5 * (low + high)
        state = air_at(mean, given.pressure)
        per_flow = float(state.density * state.heat_capacity)
        strength = stack_strength(around.room, given.openings, given.rise, given.discharge, given.pressure)
        carried, _slope = stack_conductance(mean, around.room, strength)
        stack = float(carried) / per_flow
        through, leaky = superposed(stack, given.swept * given.exhaust, given.swept * given.intake)
        watts = around.bed_up * (around.bed - low)
        half = 0.5 * given.height
        plume = given.plume * plume_flow(watts, around.bed_size, half, low, given.pressure)
        rises = _rises(watts, per_flow * plume, high - low)
        from_heaters, lifted = self._off_heaters(heated.low, low, high - low, per_flow)
        turns = exchange_of_unstable_air(low - high, given.width * given.depth, mean)
        falling, falls = self._along_walls(values, upright, high - low, per_flow)
        between = plume * rises + from_heaters + falling + turns + given.mixing * self.turned_over(heated)
        return Moved(between, through, stack, leaky, rises, per_flow, falls, lifted)

    def _along_walls(self, values: Array, upright: Array, apart: float, per_flow: float) -> tuple[float, float]:
        """Air that cooler upright walls send down into the lower half [m³/s], and the share of what they take of the
        upper air that goes with it [-]."""
        given, whole = self.inputs, float(upright.sum())
        if whole <= 0.0:
            return 0.0, 0.0
        cooler = float(values[HIGH]) - float(upright @ values[FACES::2]) / whole
        if cooler <= 0.0:
            return 0.0, 0.0
        around = 2.0 * (given.width + given.depth)
        flow = given.plume * around * falling_flow(cooler, 0.5 * given.height)
        falls = _rises(whole * cooler, per_flow * flow, apart)
        return flow * falls, falls

    def _off_heaters(self, watts: float, low: float, apart: float, per_flow: float) -> tuple[float, float]:
        """Air that the plumes of heaters that stand low carry into the upper half [m³/s], and the share of their watts
        that goes with it [-]; a plume for each of several."""
        given = self.inputs
        rated = given.rated_in(high=False)
        if watts <= 0.0 or rated <= 0.0:
            return 0.0, 0.0
        carried, lifted = 0.0, 0.0
        for own, place in given.heaters:
            if not place.high:
                each, lift = watts * own / rated / place.units, (0.5 - place.height) * given.height
                flow = given.plume * place.units * plume_flow(each, place.side, lift, low, given.pressure)
                rises = _rises(each * place.units, per_flow * flow, apart)
                carried, lifted = carried + flow * rises, lifted + rises * own / rated
        return carried, lifted

    def inner_films(self, faces: Array, low: float, high: float, turned: float) -> tuple[Array, Array]:
        """Coefficients of the lower and of the upper air on each wall's inner face [W/m²K], by nature and by what fans
        turn over [m³/s]."""
        given, airs = self.inputs, np.array([[low], [high]])
        films = self._by_nature(faces, airs, "floor")
        if turned > 0.0:
            speed, mean = turned / (given.width * given.depth), float(faces.mean())
            forced = [forced_film_plate(speed, given.height, 0.5 * (mean + air), given.pressure) for air in (low, high)]
            films = np.cbrt(films**3 + np.array(forced)[:, None] ** 3)
        films = given.film * films
        return films[0], films[1]

    def outer_films(self, shells: Array, room: float) -> Array:
        """Coefficients of air and radiation on each wall's outer face [W/m²K]; of a floor on its bench, half."""
        given, at = self.inputs, self.arrays
        films = given.shed * given.film * self._by_nature(shells, np.array([room]), "roof")
        films = films + at.outside * film_between(shells, room)
        films[at.flat["floor"]] *= 0.5
        return np.asarray(films)

    def _by_nature(self, faces: Array, airs: Array, upward: str) -> Array:
        """Natural convection at each wall [W/m²K], of the shape of faces - airs; upward: which of the level ones has
        its air above it."""
        at = self.arrays
        apart = faces - airs
        apart = np.copysign(np.maximum(np.abs(apart), LEAST_K), apart)
        ra, pr, conductivity = film_state(airs + apart, airs, at.lengths, self.inputs.pressure)
        number = nusselt_vertical_plate(ra, pr)
        level, by = ra[..., at.level], pr[..., at.level]
        above = (apart[..., at.level] > 0.0) == (at.floors if upward == "floor" else ~at.floors)
        numbers = np.asarray(np.where(above, nusselt_plate_up(level, by), nusselt_plate_down(level, by)), np.float64)
        number[..., at.level] = self.inputs.level * numbers
        return np.asarray(number * conductivity / at.lengths)


def _rises(watts: float, carries: float, apart: float) -> float:
    """Share of a plume that goes on into air so much warmer than that it came from [K]: most while its own rise is
    more; carries: by its air [W/K]."""
    if carries <= 0.0:
        return 0.0
    own = watts / carries
    return 1.0 / (1.0 + math.exp(min((apart - own) / (SOFT * own + SOFT), 60.0)))


def _link(matrix: Array, one: int, other: int, conductance: float) -> None:
    matrix[one, other] += conductance
    matrix[other, one] += conductance
    matrix[one, one] -= conductance
    matrix[other, other] -= conductance

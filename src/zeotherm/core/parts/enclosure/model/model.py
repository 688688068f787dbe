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
    natural_film_wall,
    nusselt_plate_down,
    nusselt_plate_up,
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
    upright: npt.NDArray[np.bool_]  # which are neither
    inner: npt.NDArray[np.intp]  # nodes of their inner faces
    every: npt.NDArray[np.intp]  # all nodes


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
        return Arrays(
            areas, np.array([wall.high for wall in walls]), areas / (self.inputs.wall_factor * resistances),
            np.array([wall.outside for wall in walls]), flat, np.array([wall.name not in flat for wall in walls]),
            FACES + 2 * np.arange(len(walls)), np.arange(self.count),
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
        at, faces = self.arrays, values[FACES:]
        inner, outer = slice(FACES, None, 2), slice(FACES + 1, None, 2)
        films = self.inner_films(faces[::2], float(values[LOW]), float(values[HIGH]), self.turned_over(heated))
        above = at.areas * at.high * films[1]
        moved = self.moved(values, around, heated, np.where(at.upright, above, 0.0))
        for node, conductances in (
            (LOW, at.areas * (1.0 - at.high) * films[0]),
            (HIGH, above),
            (BELOW, self.radiant[0] * film_between(faces[::2], float(values[BELOW]))),
            (ABOVE, self.radiant[1] * film_between(faces[::2], float(values[ABOVE]))),
        ):
            matrix[inner, node] += conductances
            matrix[node, inner] += conductances
            matrix[node, node] -= float(conductances.sum())
            matrix[at.inner, at.inner] -= conductances
        fallen = np.where(at.upright, above, 0.0) * moved.falls  # as if the lower air had given it
        matrix[HIGH, inner] -= fallen
        matrix[LOW, inner] += fallen
        matrix[HIGH, HIGH] += float(fallen.sum())
        matrix[LOW, HIGH] -= float(fallen.sum())
        for air, frame, mean, black in ((LOW, FRAME_LOW, BELOW, self.radiant[0]),
                                        (HIGH, FRAME_HIGH, ABOVE, self.radiant[1])):  # fmt: skip
            seen = self.inputs.frame * float(black.sum())
            _link(matrix, frame, mean, seen * float(film_between(float(values[frame]), float(values[mean]))))
            _link(matrix, air, frame, 0.5 * self.inputs.content / self.inputs.content_lag)
        matrix[at.inner, at.inner + 1] += at.through
        matrix[at.inner + 1, at.inner] += at.through
        matrix[at.inner, at.inner] -= at.through
        matrix[at.inner + 1, at.inner + 1] -= at.through
        to_room[outer] = at.areas * self.outer_films(faces[1::2], around.room)
        sources[outer] += around.on_walls * at.areas / at.areas.sum()
        _link(matrix, LOW, HIGH, moved.per_flow * moved.between)
        through = moved.per_flow * moved.through
        matrix[LOW, LOW] -= through
        sources[LOW] += through * around.room
        matrix[HIGH, LOW] += through
        matrix[HIGH, HIGH] -= through
        matrix[at.every, at.every] -= to_room
        sources += to_room * around.room
        to_room[HIGH] += through
        for node, up, down in ((HIGH, around.bed_up * moved.rises, 0.0),
                               (LOW, around.bed_up * (1.0 - moved.rises), around.bed_down)):  # fmt: skip
            matrix[node, LOW] -= up + down
            sources[node] += (up + down) * around.bed
        for node, radiated in ((ABOVE, around.bed_rad_up), (BELOW, around.bed_rad_down)):
            matrix[node, node] -= radiated
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
        given, found = self.inputs, []
        for air, name in ((low, "floor"), (high, "roof")):
            free = self._upright(faces, air)
            for n in self.arrays.flat[name]:
                free[n] = self._flat(float(faces[n]), air, upward=(faces[n] > air) == (name == "floor"))
            if turned > 0.0:
                speed = turned / (given.width * given.depth)
                forced = forced_film_plate(speed, given.height, 0.5 * (float(faces.mean()) + air), given.pressure)
                free = np.cbrt(free**3 + forced**3)
            found.append(given.film * free)
        return found[0], found[1]

    def outer_films(self, shells: Array, room: float) -> Array:
        """Coefficients of air and radiation on each wall's outer face [W/m²K]; of a floor on its bench, half."""
        given, at = self.inputs, self.arrays
        free = self._upright(shells, room)
        for name in ("floor", "roof"):
            for n in at.flat[name]:
                free[n] = self._flat(float(shells[n]), room, upward=(shells[n] > room) == (name == "roof"))
        films = given.shed * given.film * free + at.outside * film_between(shells, room)
        films[at.flat["floor"]] *= 0.5
        return np.asarray(films)

    def _upright(self, faces: Array, air: float) -> Array:
        apart = faces - air
        apart = np.where(np.abs(apart) < LEAST_K, np.copysign(LEAST_K, apart), apart)
        return np.array(natural_film_wall(air + apart, air, self.inputs.height, self.inputs.pressure))

    def _flat(self, face: float, air: float, *, upward: bool) -> float:
        given = self.inputs
        length = given.width * given.depth / (2.0 * (given.width + given.depth))
        apart = air + math.copysign(max(abs(face - air), LEAST_K), face - air)
        ra, pr, conductivity = film_state(apart, air, length, given.pressure)
        number = nusselt_plate_up(ra, pr) if upward else nusselt_plate_down(ra, pr)
        return float(given.level * number * conductivity / length)


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

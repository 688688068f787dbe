"""A bed at rest: its field over the plane, held by its thermostat or at full power."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import cached_property

import numpy as np
import numpy.typing as npt

from zeotherm.core.parts.bed.model.inputs import BedAir, BedInputs
from zeotherm.core.parts.bed.model.shape import PlateGrid, grid, heated_at, mount_places
from zeotherm.core.parts.bed.model.stack import HeatedUnderside, Side, Values
from zeotherm.core.physics.air import Number
from zeotherm.core.physics.air import air as air_at
from zeotherm.core.physics.convection import (
    film_state,
    forced_film_plate,
    mixed_film,
    natural_film_wall,
    nusselt_plate_down,
    nusselt_plate_up,
)
from zeotherm.core.physics.radiation import slope_to_surroundings
from zeotherm.core.solver.plate import Elimination, Law, NotSettledError, Plate, PlateField, settle

Array = npt.NDArray[np.float64]
CELLS = 40  # along the longer side: watts within 0.1 %, the corner's drop within 3 % of a grid four times as fine
FEW = 12  # for what is asked many times: what a change does is far less in doubt than what there is
TURNS = 16
SLACKER = 0.88  # of the sensor's answer to a watt that is left where the films grow with it
SETTLED = 1e-3  # K, of the sensor
FIELD = 1e-4  # K
FILM_SETTLED = 1e-3
LEAST_STEP = 0.2  # K above the air at which films are taken
COLD_C = 20.0  # at which a heater's ohms are stated
RIM_LEAST_K, RIM_GREY = 20.0, 0.5  # over the air at which a rim's film is taken at least; its emissivity
GREY = 0.8  # emissivity between a lifted heater and its plate


@dataclass(frozen=True, slots=True)
class Films:
    """Coefficients of the air above and below [W/m²K]."""

    up: float
    down: float


@dataclass(frozen=True)
class BedModel:
    """One bed in its air, on one grid."""

    inputs: BedInputs
    air: BedAir
    cells: int = CELLS

    @cached_property
    def grid(self) -> PlateGrid:
        """Its cells."""
        return grid(self.inputs.shape, self.cells)

    @cached_property
    def plate(self) -> Plate:
        """The spreading layer: every slab's k·t summed, what is under it included."""
        given, on = self.inputs, self.grid
        spread = sum(slab.along * slab.thickness for slab in given.slabs) * given.spread_factor
        return Plate(on.width, on.depth, on.inside, spread, self.rim)

    @cached_property
    def rim(self) -> float:
        """What the rim sheds for a kelvin over the air [W/mK], at the set value: natural convection of a wall no higher
        than the bed is thick, several times as strong as on a tall one, and radiation."""
        given, air = self.inputs, self.air.below
        height, at = sum(slab.thickness for slab in given.slabs), max(given.target, air + RIM_LEAST_K)
        film = float(natural_film_wall(at, air, height, given.pressure))
        film += float(slope_to_surroundings(0.5 * (at + air), RIM_GREY))
        shorter = 0.25 * np.pi if given.shape.outline == "round" else 1.0  # than the steps of its cells
        return float(given.rim_film * height * film * shorter)

    @cached_property
    def up_resistance(self) -> float:
        """Between plate and print face [m²K/W]."""
        at = self.inputs.plate_at
        above = sum(slab.resistance for slab in self.inputs.slabs[at + 1 :])
        return self.inputs.up_factor * above + 0.5 * self.inputs.slabs[at].resistance

    @cached_property
    def heater_resistance(self) -> Values:
        """Between plate and the middle of the heater [m²K/W]; zero where the heater is the plate, of the plate's
        shape where the heater is lifted off."""
        at, slabs = self.inputs.plate_at, self.inputs.slabs
        if at == 0:
            return 0.0
        between = 0.5 * slabs[0].resistance + sum(slab.resistance for slab in slabs[1:at])
        return self.inputs.heater_factor * between + 0.5 * slabs[at].resistance + self.lift

    @cached_property
    def heater_lag(self) -> float:
        """Time constant with which a heater under its plate passes on its watts, by its own heat [s]; zero where it
        is the plate."""
        slab = self.inputs.slabs[0]
        own = slab.capacity * slab.thickness * self.inputs.mass
        return own * float(np.min(self.heater_resistance)) if self.inputs.plate_at > 0 else 0.0

    @cached_property
    def lift(self) -> Values:
        """Of the air where wires lift the heater off, still and between black faces [m²K/W]; zero where it lies flat.

        Where a cell is lifted in part, its share counts as resistance: heat finds the way around within the plate.
        """
        wires = self.inputs.shape.heater.wires
        if self.inputs.lifted <= 0.0 or wires is None:
            return 0.0
        at = max(self.inputs.target, COLD_C)
        carried = air_at(at, self.inputs.pressure).conductivity / self.inputs.lifted
        return self.grid.share_of(wires) / (carried + slope_to_surroundings(at, GREY))

    @cached_property
    def capacity(self) -> Array:
        """Heat capacity of each cell [J/K]: all slabs, and half of the insulation below."""
        given, on = self.inputs, self.grid
        slabs = sum(slab.capacity * slab.thickness for slab in given.slabs)
        below = 0.5 * given.insulation * given.insulation_capacity * self.covered
        return np.asarray((given.mass * slabs + below) * on.area * on.inside)

    @cached_property
    def covered(self) -> Array:
        """Share of each cell that the insulation covers [-]."""
        given = self.inputs
        if not given.insulated:
            return np.zeros(self.grid.inside.shape)
        return self.grid.covered(given.cover_outer, given.cover_inner)

    @cached_property
    def pattern(self) -> Array:
        """What one watt of the heater puts into each cell, by area [1/m²]."""
        heated = self.grid.heated
        return np.asarray(heated / (heated.sum() * self.grid.area)) if heated.sum() > 0.0 else heated

    @cached_property
    def mounts(self) -> Array:
        """Conductance of the mounts from each cell, by area [W/m²K]."""
        found = np.zeros(self.grid.inside.shape)
        for x, y in mount_places(self.inputs.shape):
            found += self.grid.weights(x, y) * self.inputs.mount
        return np.asarray(found / self.grid.area)

    @cached_property
    def sensor(self) -> Array:
        """Weights that read the field at the sensor."""
        return self.grid.weights(self.inputs.sensor_x, self.inputs.sensor_y)

    @cached_property
    def length(self) -> float:
        """Area over perimeter [m]."""
        shape = self.inputs.shape
        if shape.outline == "round":
            return 0.25 * 1e-3 * float(np.sqrt(shape.width_mm * shape.depth_mm))
        return 0.5e-3 * shape.width_mm * shape.depth_mm / (shape.width_mm + shape.depth_mm)

    def films(self, face: float, under: float) -> Films:
        """Coefficients at mean temperatures of the print face and of the lower face [°C]."""
        given = self.inputs
        up = self._natural(face, self.air.above, nusselt_plate_up if face > self.air.above else nusselt_plate_down)
        down = self._natural(under, self.air.below, nusselt_plate_down if under > self.air.below else nusselt_plate_up)
        if given.draught > 0.0:
            along = 1e-3 * min(given.shape.width_mm, given.shape.depth_mm)
            forced = forced_film_plate(given.draught, along, 0.5 * (face + self.air.above), given.pressure)
            up = mixed_film(up, forced)
        return Films(given.film * up, given.film * down)

    def _natural(self, surface: float, ambient: float, law: Callable[[Number, Number], Number]) -> float:
        by = max(abs(surface - ambient), LEAST_STEP)
        ra, pr, conductivity = film_state(ambient + by, ambient, self.length, self.inputs.pressure)
        return float(law(ra, pr) * conductivity / self.length)

    def through(self, plate: Array, power: float, films: Films) -> Through:
        """Fluxes, slopes and temperatures through the thickness at a field of the plate; power of the heater [W]."""
        given, air = self.inputs, self.air
        resistance = self.up_resistance
        top = Side(resistance, films.up, given.face_emissivity, air.above, air.around)
        up, slope_up, face = top.flux(plate)
        if given.covered > 0.0:
            below = Side(resistance + given.cover_resistance, films.up, given.face_emissivity, air.above, air.around)
            part_up, part_slope, _part = below.flux(plate)
            up = up + given.covered * (part_up - up)
            slope_up = slope_up + given.covered * (part_slope - slope_up)
        outward = 0.5 * given.slabs[0].resistance
        bare = Side(outward, films.down, given.under_emissivity, air.below, air.around)
        covered = Side(
            outward + given.insulation / given.insulation_conductivity, films.down, given.insulation_emissivity,
            air.below, air.around,
        )  # fmt: skip
        under = Under(bare, covered, self.covered)
        down, slope_down, heater, lower = HeatedUnderside(self.heater_resistance, under, power * self.pattern).flux(
            plate
        )
        return Through(up, slope_up, face, down, slope_down, heater, lower)

    def law(self, power: float, films: Films) -> Law:
        """What leaves both faces and the mounts, for the plate's solver."""

        def leaving(plate: Array) -> tuple[Array, Array]:
            at = self.through(plate, power, films)
            return at.up + at.down + self.mounts * (plate - self.air.below), at.slope_up + at.slope_down + self.mounts

        return leaving

    def reading(self, plate: Array, heater: Array) -> float:
        """What the sensor reads [°C]."""
        near = self.sensor > 0.0
        weights = self.sensor[near]
        over = float((weights * (heater[near] - plate[near])).sum()) * self.sensor_heated
        return float((weights * plate[near]).sum()) + self.inputs.sensor_depth * over

    @cached_property
    def sensor_heated(self) -> float:
        """How much more heater lies over the sensor than over the cells that read it [-]: none where it sits in a void,
        however much of its cells the void fills."""
        given, on = self.inputs, self.grid
        share = float((self.sensor * on.heated).sum())
        return heated_at(given.shape, given.sensor_x, given.sensor_y) / share if share > 0.0 else 0.0

    def available(self, heater: Array) -> float:
        """Power of the heater at a field of its temperature [W]: its ohms grow as it warms."""
        heated = self.grid.heated
        if self.inputs.heater <= 0.0 or heated.sum() <= 0.0:
            return 0.0
        mean = float((heated * np.nan_to_num(heater)).sum() / heated.sum())
        return self.inputs.heater / (1.0 + self.inputs.ohms_per_k * (mean - COLD_C))


@dataclass(frozen=True, slots=True)
class Under:
    """An underside of which a share is covered, cell by cell."""

    bare: Side
    cover: Side
    share: Array

    def flux(self, inside: Array) -> tuple[Array, Array, Array]:
        """As `Side.flux`; the face's temperature is that of the cover where there is one."""
        if self.share.min() >= 1.0:
            return self.cover.flux(inside)
        out, slope, face = self.bare.flux(inside)
        if not self.share.any():
            return out, slope, face
        other, other_slope, other_face = self.cover.flux(inside)
        by = self.share
        return out + by * (other - out), slope + by * (other_slope - slope), np.where(by > 0.5, other_face, face)


@dataclass(frozen=True, slots=True)
class Through:
    """Fluxes [W/m²], slopes by the plate's temperature [W/m²K] and temperatures [°C], of the plate's shape."""

    up: Array
    slope_up: Array
    face: Array
    down: Array
    slope_down: Array
    heater: Array
    lower: Array


@dataclass(frozen=True)
class SolvedBed:
    """A bed at one moment or at rest."""

    model: BedModel
    plate: Array  # °C, (rows, columns); nan where there is none
    power: float  # of the heater [W]
    films: Films
    holds: bool  # whether the thermostat holds its set value
    field: PlateField | None = None  # at rest

    @cached_property
    def through(self) -> Through:
        """Everything through the thickness."""
        return self.model.through(np.nan_to_num(self.plate, nan=self.model.air.above), self.power, self.films)

    @cached_property
    def available(self) -> float:
        """What the heater could give as warm as it is [W]."""
        return self.model.available(self.through.heater)


def solve_bed(
    model: BedModel, start: SolvedBed | None = None, *, power: float | None = None, settled: float = SETTLED
) -> SolvedBed:
    """The bed at rest; start: a like one to begin with; power: fixed, else as its thermostat asks, within its heater;
    settled: how near to its set value the sensor is to come [K].

    Raises NotSettledError.
    """
    given, air = model.inputs, model.air
    fixed = power is not None or given.target <= air.above or given.heater <= 0.0
    watts = power if power is not None else 0.0
    if start is not None and start.plate.shape == model.grid.inside.shape:
        plate, films = np.nan_to_num(start.plate, nan=air.above), start.films
        if not fixed:
            was = start.model.inputs.target - start.model.air.above
            by = (given.target - air.above) / was if start.holds and was > 1.0 else 1.0
            plate, watts = air.above + by * (plate - start.model.air.above), max(by * start.power, 1.0)
    else:
        guess = given.target if not fixed else air.above + 20.0
        plate, films = np.full(model.grid.inside.shape, guess), model.films(guess, guess)
        if not fixed:
            watts = _first_power(model, guess, films)
    watts = min(watts, given.heater) if power is None else watts
    tried: list[tuple[float, float]] = []
    linear, nearly, same = 0.0, FIELD * settled / SETTLED, FILM_SETTLED * max(settled / SETTLED, 1.0) ** 0.5
    for _turn in range(TURNS):
        field = settle(model.plate, watts * model.pattern, model.law(watts, films), air.below, plate, nearly)
        plate = np.nan_to_num(field.temperature, nan=air.above)
        at = model.through(plate, watts, films)
        inside = model.grid.inside
        fresh = model.films(float(at.face[inside].mean()), float(at.lower[inside].mean()))
        moved = max(abs(fresh.up / films.up - 1.0), abs(fresh.down / films.down - 1.0))
        used, films = films, fresh
        most = model.available(at.heater) if power is None else watts
        if fixed:
            if moved < same:
                return SolvedBed(model, field.temperature, watts, used, False, field)
            continue
        miss = given.target - model.reading(plate, at.heater)
        at_most = watts >= most - 1e-6 and miss > 0.0
        if moved < same and (abs(miss) < settled or (at_most and abs(watts - most) < 1e-4 * most)):
            return SolvedBed(model, field.temperature, watts, used, not at_most, field)
        tried.append((watts, miss))
        linear = linear or _watts_a_kelvin(model, at)
        slope = linear
        if len(tried) > 1 and abs(tried[-2][1] - miss) > SETTLED:
            by_secant = (watts - tried[-2][0]) / (tried[-2][1] - miss)
            slope = by_secant if 0.7 * linear < by_secant < 1.4 * linear else linear
        watts = min(max(watts + slope * miss, 0.0), most)
    raise NotSettledError("the bed's thermostat finds no power that holds its set value")


def _first_power(model: BedModel, at: float, films: Films) -> float:
    even = model.through(np.full(model.grid.inside.shape, at), 0.0, films)
    return float(((even.up + even.down) * model.grid.inside).sum() * model.grid.area)


def _watts_a_kelvin(model: BedModel, at: Through) -> float:
    """Watts that move the sensor by a kelvin, from the field's own linear answer."""
    loss = np.where(model.grid.inside, (at.slope_up + at.slope_down) * model.grid.area + model.plate.edge, 0.0)
    answer = Elimination(model.plate, loss).solve(model.pattern * model.grid.area)
    inner = model.heater_resistance * model.pattern
    return 1.0 / (SLACKER * model.reading(answer, answer + inner))

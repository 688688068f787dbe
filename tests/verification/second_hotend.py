"""A second model of the hotend, of other build and by other published laws; shares numbers with `twin`, no code.

Where `twin` resolves a section in rings and rows with the strand's own profile, this takes a block of one temperature
and above it six at each height: core and skin of the strand, tube, the break as far out as its neck, the rest of its
threads, sink. It takes from `twin` the numbers that a machine comes down to, not one of its laws:
fins by Teertstra, Yovanovich & Culham (2000) and Schmidt's efficiency (1949); flow between them by Muzychka &
Yovanovich (2009); guard by Weisbach's contraction; block by Yovanovich's cuboid (1987); sink's outside by McAdams;
the strand's gap by a straight ramp; properties of air by Sutherland.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
from scipy.optimize import brentq
from scipy.sparse import csr_matrix
from scipy.sparse.linalg import spsolve

from zeotherm.core.parts.hotend.model.inputs import Inputs

Array = npt.NDArray[np.float64]
SIGMA, KELVIN, GRAVITY, GAS = 5.670e-8, 273.15, 9.81, 287.06
DEVELOPING = 0.67  # of the loss at the fins' entry, what the stream's development takes
CORE, SKIN, TUBE, NECK, SHELL, SINK = PARTS = range(6)
HALF = math.sqrt(0.5)  # of the strand's radius, about half its section
SPAN_K, PEAK_K = 16.0, 12.0  # over which a polymer's heat capacity steps, and melts
ROW = 0.2e-3  # m
TURNS, SETTLED_K = 900, 1e-4


@dataclass(frozen=True)
class AirAt:
    """Air at one temperature and pressure."""

    density: float
    capacity: float
    conductivity: float
    viscosity: float
    expansion: float

    @property
    def prandtl(self) -> float:
        return self.viscosity * self.capacity / self.conductivity

    def rayleigh(self, apart: float, length: float) -> float:
        spread = self.viscosity / self.density * self.conductivity / (self.density * self.capacity)
        return GRAVITY * self.expansion * abs(apart) * length**3 / spread


def air_at(celsius: float, pressure: float) -> AirAt:
    """Sutherland's laws of viscosity and conductivity, an ideal gas, the heat capacity as it is at 60 °C."""
    t = celsius + KELVIN
    viscosity = 1.716e-5 * (t / 273.15) ** 1.5 * (273.15 + 110.4) / (t + 110.4)
    conductivity = 0.02414 * (t / 273.15) ** 1.5 * (273.15 + 194.0) / (t + 194.0)
    return AirAt(pressure / (GAS * t), 1008.0, conductivity, viscosity, 1.0 / t)


@dataclass(frozen=True)
class Fanned:
    """Fan, guard and fins in balance."""

    velocity: float  # between the fins [m/s]
    capacity: float  # of the air that passes them [W/K]
    conductance: float  # of all fins, by the air as it comes in [W/K]


def fanned(given: Inputs) -> Fanned:
    """What the fan moves, and what the fins give to it."""
    sink, air = given.shape.sink, air_at(given.fan_air, given.pressure)
    spacing, length = 1e-3 * (sink.pitch - sink.fin_thickness), 1e-3 * sink.fin_d
    passage = sink.fins * spacing * 1e-3 * (sink.fin_d - sink.core_d)
    turned = 0.0 if given.fan_voltage < given.fan_start_v else given.fan_voltage / given.fan_rated_v
    speed = given.fan_strength * min(max((turned - 0.15) / 0.85, 0.0), 1.15)
    free = max(given.guard_open * (1.0 - given.guard_blocked), 0.005)
    contraction = 0.63 + 0.37 * free**3
    guard = given.guard_loss * (1.0 / (contraction * free) - 1.0) ** 2

    def short(flow: float) -> float:
        velocity = given.fan_reach * flow / passage
        through = 0.5 * air.density * (flow / given.fan_area) ** 2 * guard
        if velocity > 0.0:
            reynolds = air.density * velocity * 2.0 * spacing / air.viscosity
            entry = 3.44 / math.sqrt(length / (2.0 * spacing * reynolds))
            friction = math.hypot(24.0, entry) / reynolds  # Fanning's
            through += 0.5 * air.density * velocity**2 * (
                given.fin_entry_loss - DEVELOPING + 4.0 * friction * length / (2.0 * spacing)
            )  # fmt: skip
        by_curve = float(np.interp(flow / speed, given.fan_flow, given.fan_pressure))
        return speed**2 * air.density / 1.2 * by_curve - through

    if speed <= 0.0 or given.loop > 0.0:
        return Fanned(0.0, 0.0, given.loop)
    flow = float(brentq(short, 1e-9, given.fan_flow[-1] * speed))
    velocity = given.fan_reach * flow / passage
    reynolds = air.density * velocity * spacing / air.viscosity * spacing / length
    full = 0.5 * reynolds * air.prandtl
    young = 0.664 * math.sqrt(reynolds) * air.prandtl ** (1 / 3) * math.sqrt(1.0 + 3.65 / math.sqrt(reynolds))
    film = given.fin_film * (full**-3 + young**-3) ** (-1 / 3) * air.conductivity / spacing
    root, tip = 0.5e-3 * sink.core_d, 0.5e-3 * sink.fin_d
    reach = (tip / root - 1.0) * (1.0 + 0.35 * math.log(tip / root))
    steep = root * reach * math.sqrt(2.0 * film / (given.sink_conductivity * 1e-3 * sink.fin_thickness))
    efficiency = math.tanh(steep) / steep
    each = efficiency * 2.0 * math.pi * (tip**2 - root**2) + 2.0 * math.pi * root * spacing
    capacity = air.density * air.capacity * given.fan_reach * flow
    return Fanned(velocity, capacity, sink.fins * film * each)


@dataclass(frozen=True)
class Hot:
    """A hot part in air of its own: conductance by convection, and its watts."""

    convected: float
    watts: float


def off_hot(given: Inputs, area: float, inside: float, emissivity: float, sleeve: float, size: float) -> Hot:
    """Watts off a surface [m²], inside at a temperature [°C]; sleeve [m²K/W]; size: root of all surface [m]."""
    jet = given.jet * math.sqrt(given.part_fan)

    def fluxes(outer: float) -> tuple[float, float]:
        air = air_at(0.5 * (outer + given.block_air), given.pressure)
        nusselt = 3.388 + 0.54 * air.rayleigh(outer - given.block_air, size) ** 0.25
        film = given.block_film * nusselt * air.conductivity / size
        radiated = emissivity * SIGMA * ((outer + KELVIN) ** 4 - (given.block_air + KELVIN) ** 4)
        convected = film * (outer - given.block_air)
        return convected, convected + radiated + jet * (outer - given.block_air)

    outer = inside
    if sleeve > 0.0:
        outer = float(brentq(lambda at: (inside - at) / sleeve - fluxes(at)[1], given.block_air + 0.01, inside))
    convected, flux = fluxes(outer)
    return Hot(area * convected, area * flux)


def second(given: Inputs) -> dict[str, float]:
    """What this model says of a hotend at rest, by station. Raises RuntimeError where it does not settle."""
    return _Ladder(given).read()


class _Ladder:
    """Rings of one temperature at every height, joined by resistances."""

    def __init__(self, given: Inputs) -> None:
        self.given, shape = given, given.shape
        below = 1e-3 * (shape.cone + shape.hex + shape.block.height)
        self.neck = given.neck_length
        faces = np.linspace(self.neck + 1e-3 * shape.sink.height, -below, round((below + self.neck) / ROW) + 131)
        self.z, self.dz = 0.5 * (faces[1:] + faces[:-1]), float(faces[0] - faces[1])
        nozzle_top = 1e-3 * (shape.cone + shape.hex + shape.nozzle_thread) - below
        break_top = self.neck + 1e-3 * shape.sink_thread
        tube_end = {"nozzle": nozzle_top, "neck": self.neck + 1.5e-3, "break": break_top}[shape.tube_end]
        self.sunk, self.hot = self.z > self.neck, self.z < 0.0
        broken, tube = (self.z > nozzle_top) & (self.z < break_top), self.z > tube_end
        always = np.ones(len(self.z), bool)
        self.there = np.array([always, always, tube, broken, broken & (self.sunk | self.hot), self.sunk])
        self.bare = ~(tube | broken)  # the strand runs in the nozzle
        self.block = given.nozzle - given.sensor_offset
        self._lay_rings(tube)
        self.fans = fanned(given)
        self._lose_heat()
        self.number = np.cumsum(self.there.reshape(-1)).reshape(self.there.shape) - 1
        self.fixed = self._radial() + self._axial()
        self.ties = self._to_block()

    def _lay_rings(self, tube: npt.NDArray[np.bool_]) -> None:
        """Inner and outer radius and conductivity of every part at every height."""
        given, shape = self.given, self.given.shape
        strand, bore, pipe = (0.5e-3 * each for each in (shape.strand_d, shape.bore_d, shape.tube_d))
        thread = np.where(self.hot, 0.5e-3 * shape.thread_d, 0.5e-3 * shape.sink_thread_d)
        run = np.where(tube, pipe, bore)  # what the tube, or the strand, runs in
        neck = run + given.neck_wall
        bound = np.where(self.there[SHELL], thread, np.where(self.there[NECK], neck, run))
        every = np.ones(len(self.z))
        self.inner = np.array([0.0 * every, HALF * strand * every, bore * every, run, neck, bound])
        self.outer = np.array([HALF * strand * every, strand * every, pipe * every, neck, thread,
                               0.5e-3 * shape.sink.core_d * every])  # fmt: skip
        threads = np.where(self.hot, given.block_side_conductivity, given.sink_side_conductivity)
        self.conductivity = np.array([
            given.strand_conductivity * every, given.strand_conductivity * every, given.tube_conductivity * every,
            np.where(self.there[SHELL], threads, given.neck_conductivity), threads, given.sink_conductivity * every,
        ])  # fmt: skip
        self.middle = np.sqrt(np.maximum(self.inner, 0.5 * self.outer[:1]) * self.outer)
        self.middle[CORE] = self.outer[CORE] * math.exp(-0.25)  # at a quarter of 1/(2πk), as of a parabola

    def _lose_heat(self) -> None:
        """Watts off block and nozzle, and what of them the fan draws in."""
        given, shape = self.given, self.given.shape
        side = 2e-6 * (shape.block.width + shape.block.depth) * shape.block.height
        ends = 2e-6 * shape.block.width * shape.block.depth
        hidden = 0.25e-6 * math.pi * (shape.sink.core_d**2 + shape.hex_d**2)  # under the sink, and by the nozzle
        sleeve = given.sleeve_thickness / given.sleeve_conductivity if given.sleeved else 0.0
        emissivity = given.sleeve_emissivity if given.sleeved else given.block_emissivity
        size = math.sqrt(side + ends)
        block = off_hot(given, side + ends - hidden, self.block, emissivity, sleeve, size)
        cone = math.pi * 0.55e-3 * shape.hex_d * math.hypot(1e-3 * shape.cone, 0.4e-3 * shape.hex_d)
        tip = math.pi * 1e-6 * shape.hex_d * shape.hex + cone
        self.lost = block.watts + off_hot(given, tip, self.block, given.nozzle_emissivity, 0.0, size).watts
        blown = self.fans.capacity
        self.inlet = given.fan_air
        if blown > 1e-3:
            self.inlet += given.drawn_from_block * block.convected / blown
        self.still = 1.0 / (1.0 + (self.fans.velocity / 0.5) ** 2)
        self.about = given.fan_air + self.still * (
            given.still_from_block * (given.block_air - given.fan_air)
            + given.still_from_nozzle * (self.block - given.fan_air)
        )

    def _resist(self, part: int, frm: Array, to: Array) -> Array:
        """Between two radii of a part, by row [K/W]."""
        return np.asarray(np.log(to / frm) / (2.0 * math.pi * self.conductivity[part] * self.dz))

    def _out(self, part: int) -> Array:
        return self._resist(part, self.middle[part], self.outer[part])

    def _in(self, part: int) -> Array:
        return self._resist(part, self.inner[part], self.middle[part])

    def _radial(self) -> list[tuple[Array, Array, Array]]:
        """Links outward but for the strand's gap: nodes, nodes, W/K."""
        contact = {(TUBE, NECK): self.given.tube_fit, (TUBE, SINK): self.given.tube_fit, (NECK, SHELL): math.inf,
                   (SHELL, SINK): self.given.sink_joint, (CORE, SKIN): math.inf}  # fmt: skip
        found = []
        for (one, other), by in contact.items():
            between = self.there[one + 1 : other].any(axis=0)
            rows = np.flatnonzero(self.there[one] & self.there[other] & ~between)
            face = 1.0 / (by * 2.0 * math.pi * self.outer[one] * self.dz)
            through = 1.0 / (self._out(one) + face + self._in(other))
            found.append((self.number[one, rows], self.number[other, rows], through[rows]))
        return found

    def _axial(self) -> list[tuple[Array, Array, Array]]:
        """Links upward within a part."""
        found = []
        for part in (TUBE, NECK, SHELL, SINK):
            area = math.pi * (self.outer[part] ** 2 - self.inner[part] ** 2)
            half = 0.5 * self.dz / (self.conductivity[part] * area)
            rows = np.flatnonzero(self.there[part][1:] & self.there[part][:-1])
            by = 1.0 / (half[rows] + half[rows + 1])
            found.append((self.number[part, rows], self.number[part, rows + 1], by))
        return found

    def _to_block(self) -> list[tuple[int, float]]:
        """Nodes tied to the block [W/K]."""
        given, shape, dz = self.given, self.given.shape, self.dz
        threads = np.flatnonzero(self.hot & self.there[SHELL])
        face = 1.0 / (given.block_joint * math.pi * 1e-3 * shape.thread_d * dz)
        by = 1.0 / (self._out(SHELL) + face)
        found = [(int(self.number[SHELL, n]), float(by[n])) for n in threads]
        behind = given.nozzle_gap / given.strand_conductivity
        for part, seat in ((NECK, given.nozzle_seat), (SHELL, given.nozzle_seat), (TUBE, given.liner_seat)):
            last = int(np.flatnonzero(self.there[part] & self.hot)[-1]) if (self.there[part] & self.hot).any() else -1
            if last >= 0:
                area = math.pi * (self.outer[part, last] ** 2 - self.inner[part, last] ** 2)
                half = 0.5 * dz / self.conductivity[part, last]
                found.append((int(self.number[part, last]), area / (1.0 / seat + behind + half)))
        film = 0.5 * (self.block + given.fan_air)
        across, radiant = air_at(film, given.pressure).conductivity, 4.0 * SIGMA * (film + KELVIN) ** 3
        core, fin = 0.5e-3 * shape.sink.core_d, 0.5e-3 * shape.sink.fin_d
        lowest = int(np.flatnonzero(self.sunk)[-1])
        bottom = math.pi * (core**2 - (0.5e-3 * shape.tube_d) ** 2)
        found.append((int(self.number[SINK, lowest]), bottom * (across / self.neck + 0.11 * radiant)))
        gap = self.neck + 1e-3 * shape.sink.first_fin
        reach = min(fin, 1e-3 * math.sqrt(shape.block.width * shape.block.depth / math.pi))
        face = math.pi * max(reach**2 - core**2, 0.0)
        root = int(np.argmin(np.abs(self.z - gap)))
        seen = face * (self.still * across / gap + given.facing_emissivity * radiant)
        return [*found, (int(self.number[SINK, root]), seen)]

    def read(self) -> dict[str, float]:
        """Every station, once nothing moves any more."""
        profile = np.interp(self.z, [0.0, self.neck], [self.block, self.given.fan_air + 15.0])
        temperature, apart = np.tile(profile, (len(PARTS), 1)), math.inf
        for turn in range(TURNS):
            after, watts = self._turn(temperature)
            apart = float(np.abs(after - temperature).max())
            if apart < SETTLED_K:
                return self._stations(after, watts)
            keep = 0.5 if turn < 60 else 0.75
            temperature = keep * temperature + (1.0 - keep) * after
        raise RuntimeError(f"moved by {apart:g} K in the last turn")

    def _turn(self, temperature: Array) -> tuple[Array, float]:
        """Every temperature with the laws as they are at the last ones, and the block's watts into what touches it."""
        given, count = self.given, int(self.there.sum())
        right, diagonal = np.zeros(count), np.zeros(count)
        rows, columns, values = [], [], []
        gap = self._gap(temperature)
        links = list(self.fixed)
        for wall in (TUBE, NECK):
            here = self.there[wall] & ~self.there[SKIN + 1 : wall].any(axis=0)
            links.append((self.number[SKIN, here], self.number[wall, here], 1.0 / (1.0 / gap + self._in(wall))[here]))
        for one, other, by in links:
            np.add.at(diagonal, one, by)
            np.add.at(diagonal, other, by)
            rows += [one, other]
            columns += [other, one]
            values += [-by, -by]
        ties = [(self.number[SKIN, self.bare], gap[self.bare], self.block)]
        ties += [(np.array([node]), np.array([by]), self.block) for node, by in self.ties]
        ties += self._into_air(temperature[SINK, self.sunk])
        for part in (CORE, SKIN):
            carried = 0.5 * given.flow * given.density * self._capacity(temperature[part])
            diagonal[self.number[part]] += carried
            right[self.number[part, 0]] += carried[0] * given.fan_air
            rows.append(self.number[part, 1:])
            columns.append(self.number[part, :-1])
            values.append(-carried[1:])
        for node, by, to in ties:
            np.add.at(diagonal, node, by)
            np.add.at(right, node, by * to)
        every = np.arange(count)
        entries = (
            np.concatenate([*values, diagonal]),
            (np.concatenate([*rows, every]), np.concatenate([*columns, every])),
        )
        solved = spsolve(csr_matrix(entries, shape=(count, count)), right)
        after = np.where(self.there, solved[np.clip(self.number, 0, count - 1)], temperature)
        into = sum(by * (self.block - solved[node]) for node, by in self.ties)
        return after, into + float((gap * (self.block - after[SKIN]))[self.bare].sum())

    def _into_air(self, sink: Array) -> list[tuple[Array, Array, float]]:
        """What takes the sink's heat: nodes, W/K, °C."""
        given, nodes = self.given, self.number[SINK, self.sunk]
        outer, height = math.pi * 1e-3 * given.shape.sink.fin_d * self.dz, 1e-3 * given.shape.sink.height
        film = 1.42 * (np.maximum(np.abs(sink - self.about), 0.2) / height) ** 0.25
        one, other = sink + KELVIN, given.fan_air + KELVIN
        radiant = given.sink_emissivity * SIGMA * (one**2 + other**2) * (one + other)
        return [
            (nodes, np.full(len(nodes), self.fans.conductance / len(nodes)), self.inlet),
            (nodes, outer * film * math.sqrt(given.pressure / 101325.0), self.about),
            (nodes, outer * radiant, given.fan_air),
            (nodes[:1], np.array([given.mount_conductance]), given.mount),
        ]

    def _gap(self, temperature: Array) -> Array:
        """Conductance between the strand's skin and its bore in each row [W/K]."""
        given = self.given
        closed = temperature[[CORE, SKIN]].mean(axis=0) - given.softening + given.closing_lead
        closed = np.clip(closed / given.swelling_span, 0.0, 1.0)
        air = air_at(0.5 * (given.fan_air + given.softening), given.pressure).conductivity
        wide = math.log(1.0 + 2e3 * given.clearance / given.shape.strand_d) / (2.0 * math.pi * self.dz)
        across = (closed * given.strand_conductivity + (1.0 - closed) * air) / wide
        return np.asarray(1.0 / (1.0 / across + self._out(SKIN)))

    def _capacity(self, strand: Array) -> Array:
        given = self.given
        molten = np.clip((strand - given.softening) / SPAN_K + 0.5, 0.0, 1.0)
        peak = np.maximum(1.0 - np.abs(strand - given.melting) / PEAK_K, 0.0) / PEAK_K
        sensible = given.capacity_solid + molten * (given.capacity_melt - given.capacity_solid)
        return np.asarray(sensible + given.latent * peak)

    def _at_neck_top(self, bore: Array) -> float:
        """Between the rows above and below, each by what it conducts."""
        above = int(np.flatnonzero(self.sunk)[-1])
        part = TUBE if self.there[TUBE, above] else NECK
        return float(np.average(bore[above : above + 2], weights=self.conductivity[part, above : above + 2]))

    def _stations(self, temperature: Array, into: float) -> dict[str, float]:
        given, gap = self.given, self._gap(temperature)
        wall = np.where(self.bare, self.block, np.where(self.there[TUBE], temperature[TUBE], temperature[NECK]))
        beside = np.where(self.bare, 0.0, np.where(self.there[TUBE], self._in(TUBE), self._in(NECK)))
        heat = (wall - temperature[SKIN]) / (1.0 / gap + beside)
        skin, bore = temperature[SKIN] + heat * self._out(SKIN), wall - heat * beside
        soft = int(np.argmax(skin >= given.softening)) if (skin >= given.softening).any() else len(skin) - 1
        front = self.z[soft]
        if soft:
            front += self.dz * (skin[soft] - given.softening) / (skin[soft] - skin[soft - 1])
        sink = temperature[SINK, self.sunk]
        values = {
            "heater_watts": self.lost + into,
            "sink_base": float(sink[-1]),
            "sink_top": float(sink[0]),
            "bore": self._at_neck_top(bore),
            "creep_margin": 1e3 * (self.neck - float(front)),
        }
        if given.lined:
            last = int(np.flatnonzero(self.there[TUBE])[-1])
            face = 1.0 / (given.tube_fit * 2.0 * math.pi * self.outer[TUBE, last] * self.dz)
            out, on = self._out(TUBE)[last], self._in(NECK)[last]
            there = temperature[:, last]
            values["liner_end"] = float(there[TUBE] + (there[NECK] - there[TUBE]) * out / (out + face + on))
        if self.fans.capacity > 1e-3:
            taken = self.fans.conductance * float(sink.mean() - self.inlet)
            values["fan_outlet"] = self.inlet + taken / self.fans.capacity
        return values

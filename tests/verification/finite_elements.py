"""The hotend's continuum solved again by finite elements, sharing nothing with the finite volumes but the laws.

Quadratic elements on a mesh of its own for each part; parts meet in contact conductances; film laws at Gauss points.
"""

from __future__ import annotations

import itertools
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from functools import partial

import numpy as np
import skfem
from scipy.sparse import coo_matrix, lil_matrix
from scipy.sparse.linalg import splu

from zeotherm.core.parts.hotend.model.model import OUTWARD, PARTS, HotendModel, by_part, contact_conductances
from zeotherm.core.physics.air import air
from zeotherm.core.physics.filament import Enthalpy, touching_share

BONDED = 3e6  # W/m²K, stands for a face without resistance
# Where two solids in poor contact meet in the air, an air node bonded to both would short their contact: the air's own
# faces are let through well (its conductivity over a cell is 400 W/m²K) but not without end.
TO_AIR = 1.5e4
GAUSS = ((-np.sqrt(0.6), 5 / 9), (0.0, 8 / 9), (np.sqrt(0.6), 5 / 9))


def _shape(x: float) -> np.ndarray:
    return np.array([0.5 * x * (x - 1), (1 - x) * (1 + x), 0.5 * x * (x + 1)])


@dataclass
class Piece:
    """One ring with its mesh and its first unknown."""

    name: str
    part: str
    basis: skfem.CellBasis
    first: int
    conductivity: float
    box: tuple[float, float, float, float]

    def at(self, x: float, y: float) -> int:
        return self.first + self._index[_key(x, y)]

    def __post_init__(self) -> None:
        self._index = {_key(x, y): dof for dof, (x, y) in enumerate(self.basis.doflocs.T)}


def _key(x: float, y: float) -> tuple[int, int]:
    return round(x * 1e10), round(y * 1e10)


def _lines(edges: np.ndarray, low: float, high: float, size: float) -> np.ndarray:
    """Mesh lines between two edges, on every given edge, no cell larger than size."""
    inside = edges[(edges > low + 1e-9) & (edges < high - 1e-9)]
    marks = np.concatenate([[low], inside, [high]])
    parts = [np.linspace(a, b, max(1, int(np.ceil((b - a) / size))) + 1)[:-1] for a, b in itertools.pairwise(marks)]
    return np.append(np.concatenate(parts), high)


def _along(levels: np.ndarray, share: np.ndarray, z: float) -> float:
    return float(np.interp(z, levels, share))


def _within(lines: np.ndarray, low: float, high: float) -> np.ndarray:
    return lines[(lines > low - 1e-9) & (lines < high + 1e-9)]


class FiniteElements:
    """Assembles and solves; z is the height above the tip."""

    def __init__(self, model: HotendModel, size: float = 0.22e-3, strand_cells: int = 10) -> None:
        self.model, self.given, self.at = model, model.given, model.layout.at
        grid, solids = model.layout.grid, model.layout.solids
        heights = np.unique(np.round(np.concatenate([[r.bottom, r.top] for r in solids]), 9))
        fins = [f for fin in self.at.fins for f in (fin, fin + self.at.fin_thickness)]
        marks = (*self.at.heater[:2], *self.at.sensor[:2])
        self.z_edges = np.unique(np.round(np.concatenate([heights, fins, marks]), 9))
        radii = [r for ring in solids for r in (ring.inner, ring.outer)]
        self.r_edges = np.unique(np.round([*radii, self.at.heater[2], self.at.sensor[2]], 9))
        self.size = size
        by_name = {ring.name: float(model.conductivity[model.layout.solid == i][0]) for i, ring in enumerate(solids)}
        self.pieces: list[Piece] = []
        self.count = 0
        fine = _lines(self.r_edges, self.at.bore, self.at.sink_thread, size)
        self.r_lines = np.concatenate(
            [fine[:-1], _lines(self.r_edges, self.at.sink_thread, self.r_edges[-1], 2 * size)]
        )
        self.z_lines = self._all_heights(grid.top)
        for ring in solids:
            self._add(
                ring.name,
                ring.part,
                _within(self.r_lines, ring.inner, ring.outer),
                _within(self.z_lines, ring.bottom, ring.top),
                by_name[ring.name],
            )
        radius = np.round(self.at.strand * np.linspace(0, 1, strand_cells + 1) ** 0.75, 7)
        self.strand = self._add("strand", "strand", radius, self.z_lines, self.given.strand_conductivity)
        self.law = Enthalpy(
            self.given.capacity_solid,
            self.given.capacity_melt,
            self.given.softening,
            self.given.melting,
            self.given.latent,
        )
        self.fixed = self._conduction() + self._contacts()

    def _all_heights(self, top: float) -> np.ndarray:
        fine = self.size * 0.5
        lines = _lines(self.z_edges, 0.0, top, self.size)
        near = (lines[:-1] > self.at.block_top - 4e-3) & (lines[1:] < self.at.neck_top + 3e-3)
        extra = [
            np.linspace(a, b, max(2, int(np.ceil((b - a) / fine))) + 1)[1:-1]
            for a, b, keep in zip(lines, lines[1:], near, strict=False)
            if keep
        ]
        return np.unique(np.round(np.concatenate([lines, *extra]), 9))

    def _add(self, name: str, part: str, r: np.ndarray, z: np.ndarray, conductivity: float) -> Piece:
        mesh = skfem.MeshQuad.init_tensor(r, z)
        basis = skfem.CellBasis(mesh, skfem.ElementQuad2())
        piece = Piece(name, part, basis, self.count, conductivity, (r[0], r[-1], z[0], z[-1]))
        self.count += basis.N
        self.pieces.append(piece)
        return piece

    def _conduction(self) -> coo_matrix:
        @skfem.BilinearForm
        def form(u, v, w):
            return 2 * np.pi * w.x[0] * w.k * (u.grad[0] * v.grad[0] + u.grad[1] * v.grad[1])

        total = lil_matrix((self.count, self.count)).tocsr()
        for piece in self.pieces:
            matrix = form.assemble(piece.basis, k=piece.conductivity).tocoo()
            total = (
                total
                + coo_matrix(
                    (matrix.data, (matrix.row + piece.first, matrix.col + piece.first)), (self.count, self.count)
                ).tocsr()
            )
        return total

    def _edges(
        self, piece: Piece, fixed: int, value: float, low: float, high: float
    ) -> Iterator[tuple[list[int], np.ndarray]]:
        """Boundary edges of a piece on a line: unknowns of the three nodes, and their places."""
        mesh = piece.basis.mesh
        along = 1 - fixed
        for facet in mesh.boundary_facets():
            ends = mesh.p[:, mesh.facets[:, facet]]
            if (
                np.allclose(ends[fixed], value, atol=1e-10)
                and ends[along].min() >= low - 1e-10
                and ends[along].max() <= high + 1e-10
            ):
                ends = ends[:, np.argsort(ends[along])]
                places = np.stack([ends[:, 0], ends.mean(axis=1), ends[:, 1]])
                yield [piece.at(*place) for place in places], places

    def _contacts(self) -> coo_matrix:
        rows, columns, values = [], [], []
        table = by_part(contact_conductances(self.given))

        def join(
            one: list[int], other: list[int], places: np.ndarray, strength: Callable[[float, float], float]
        ) -> None:
            length = np.linalg.norm(places[2] - places[0])
            block = np.zeros((3, 3))
            for x, weight in GAUSS:
                n = _shape(x)
                block += weight * length / 2 * strength(*(n @ places)) * np.outer(n, n)
            for a, row_sign in ((one, 1), (other, -1)):
                for b, column_sign in ((one, 1), (other, -1)):
                    for i in range(3):
                        for j in range(3):
                            rows.append(a[i])
                            columns.append(b[j])
                            values.append(row_sign * column_sign * block[i, j])

        solids = [piece for piece in self.pieces if piece is not self.strand]
        for one in solids:
            for other in solids:
                most = TO_AIR if "air" in (one.part, other.part) else BONDED
                conductance = min(table[PARTS.index(one.part), PARTS.index(other.part)], most)
                for fixed in (0, 1):
                    upper, lower = (1, 0) if fixed == 0 else (3, 2)
                    if abs(one.box[upper] - other.box[lower]) > 1e-9:
                        continue
                    along = (2, 3) if fixed == 0 else (0, 1)
                    low, high = max(one.box[along[0]], other.box[along[0]]), min(one.box[along[1]], other.box[along[1]])
                    if high - low < 1e-9:
                        continue
                    for unknowns, places in self._edges(one, fixed, one.box[upper], low, high):
                        partner = [other.at(*place) for place in places]
                        join(unknowns, partner, places, lambda r, _z, h=conductance: 2 * np.pi * r * h)
        return coo_matrix((values, (rows, columns)), (self.count, self.count)).tocsr()

    # what changes from iteration to iteration

    def _advection(self, t: np.ndarray) -> tuple[coo_matrix, np.ndarray]:
        flux = self.given.flow * self.given.density / (np.pi * self.at.strand**2)
        piece = self.strand
        own = t[piece.first : piece.first + piece.basis.N]

        @skfem.BilinearForm
        def form(u, v, w):
            return -2 * np.pi * w.x[0] * flux * self.law.capacity(np.asarray(w.t)) * u.grad[1] * v

        matrix = form.assemble(piece.basis, t=piece.basis.interpolate(own)).tocoo()
        rows, columns, values = list(matrix.row + piece.first), list(matrix.col + piece.first), list(matrix.data)
        right = np.zeros(self.count)
        for unknowns, places in self._edges(piece, 1, piece.box[3], piece.box[0], piece.box[1]):
            length = np.linalg.norm(places[2] - places[0])
            for x, weight in GAUSS:
                n = _shape(x)
                r = (n @ places)[0]
                capacity = float(self.law.capacity(np.array([self.given.fan_air]))[0])
                factor = weight * length / 2 * 2 * np.pi * r * flux * capacity
                for i in range(3):
                    right[unknowns[i]] += factor * n[i] * self.given.fan_air
                    for j in range(3):
                        rows.append(unknowns[i])
                        columns.append(unknowns[j])
                        values.append(factor * n[i] * n[j])
        return coo_matrix((values, (rows, columns)), (self.count, self.count)).tocsr(), right

    def section_mean(self, t: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
        """Heights of the strand's node rows, and the mean of each section, weighted by a power of the radius."""
        places = self.strand.basis.doflocs
        own = t[self.strand.first : self.strand.first + self.strand.basis.N]
        lines = np.unique(np.round(self.strand.basis.mesh.p[0], 10))
        levels = np.unique(np.round(self.strand.basis.mesh.p[1], 9))
        value = {_key(x, y): own[i] for i, (x, y) in enumerate(places.T)}
        mean = []
        for z in levels:
            total = 0.0
            for a, b in itertools.pairwise(lines):
                nodes = np.array([value[_key(a, z)], value[_key((a + b) / 2, z)], value[_key(b, z)]])
                for x, weight in GAUSS:
                    n = _shape(x)
                    total += weight * (b - a) / 2 * (n @ nodes) * (n @ [a, (a + b) / 2, b]) ** (OUTWARD + 1)
            mean.append((OUTWARD + 2) * total / self.at.strand ** (OUTWARD + 2))
        return levels, np.array(mean)

    @property
    def closes_from(self) -> float:
        """Mean temperature of a section from which the gap closes [°C]."""
        return self.given.softening - self.given.closing_lead

    def _gap(self, share: Callable[[float], float]) -> coo_matrix:
        given, strand = self.given, self.at.strand
        still = float(air(0.5 * (given.fan_air + given.softening), given.pressure).conductivity)
        ring = np.log((strand + given.clearance) / strand)
        rows, columns, values = [], [], []
        walls = [p for p in self.pieces if p is not self.strand and abs(p.box[0] - self.at.bore) < 1e-9]
        for wall in walls:
            for unknowns, places in self._edges(wall, 0, self.at.bore, wall.box[2], wall.box[3]):
                skin = [self.strand.at(strand, z) for z in places[:, 1]]
                length = places[2, 1] - places[0, 1]
                block = np.zeros((3, 3))
                for x, weight in GAUSS:
                    n = _shape(x)
                    z = float(n @ places[:, 1])
                    k = still + share(z) * (given.strand_conductivity - still)
                    block += weight * length / 2 * 2 * np.pi * k / ring * np.outer(n, n)
                for a, row_sign in ((unknowns, 1), (skin, -1)):
                    for b, column_sign in ((unknowns, 1), (skin, -1)):
                        for i in range(3):
                            for j in range(3):
                                rows.append(a[i])
                                columns.append(b[j])
                                values.append(row_sign * column_sign * block[i, j])
        return coo_matrix((values, (rows, columns)), (self.count, self.count)).tocsr()

    def _films(self, t: np.ndarray) -> tuple[coo_matrix, np.ndarray]:
        """Linearised losses through every outer face."""
        rows, columns, values = [], [], []
        right = np.zeros(self.count)
        at = self.at
        side = at.block_side / (2 * np.pi * at.block_radius * (at.block_top - at.block_bottom))

        def lose(unknowns: list[int], places: np.ndarray, law: Callable, weight_of: Callable[[float], float]) -> None:
            length = np.linalg.norm(places[2] - places[0])
            for x, weight in GAUSS:
                n = _shape(x)
                factor = weight * length / 2 * weight_of((n @ places)[0])
                here = float(n @ t[unknowns])
                flux, slope = law(here, float((n @ places)[1]))
                for i in range(3):
                    right[unknowns[i]] -= factor * n[i] * (flux - slope * here)
                    for j in range(3):
                        rows.append(unknowns[i])
                        columns.append(unknowns[j])
                        values.append(factor * n[i] * n[j] * slope)

        for unknowns, places, part, on_side in self._outer_faces():
            if part in ("block", "nozzle"):
                surface = self.model.hot[part]

                def law(temperature, _z, s=surface):
                    return tuple(
                        float(v[0]) for v in (s._through_sleeve if s.sleeve > 0 else s._off)(np.array([temperature]))
                    )

                scale = side if part == "block" and on_side else 1.0
                lose(unknowns, places, law, lambda r, scale=scale: 2 * np.pi * r * scale)
            elif part == "sink" and on_side:
                lose(unknowns, places, self._fin_law, lambda r: 1.0)
            elif part == "sink":
                top = np.pi * (at.core**2 - at.tube**2)
                conductance = self.given.mount_conductance / top

                def law(temperature, _z, g=conductance):
                    return (g * (temperature - self.given.mount), g)

                lose(unknowns, places, law, lambda r: 2 * np.pi * r)
        return coo_matrix((values, (rows, columns)), (self.count, self.count)).tocsr(), right

    def _fin_law(self, temperature: float, z: float) -> tuple[float, float]:
        """Loss per metre of the core's height."""
        at, blown = self.at, self.model.air
        pitch = at.fins[1] - at.fins[0]
        forced = 0.0
        for fin in at.fins:
            if fin < z < fin + at.fin_thickness:
                forced = blown.per_fin * blown.fin_share / at.fin_thickness
            elif fin + at.fin_thickness < z < min(fin + pitch, at.sink_top):
                forced = blown.per_fin * (1 - blown.fin_share) / (pitch - at.fin_thickness)
        plume = self.model.fins.plume
        flux, slope = blown.still_flow(np.array([temperature]), plume.about(blown.inlet))
        across, by = plume.across(np.array([temperature]))
        lowest = at.fins[0] < z < at.fins[0] + at.fin_thickness
        face = np.pi * (min(at.fin, at.block_radius) ** 2 - at.core**2) / at.fin_thickness if lowest else 0.0
        still = blown.envelope / (at.sink_top - at.neck_top)
        return (
            forced * (temperature - blown.inlet - plume.into_fan()) + still * float(flux[0]) + face * float(across[0]),
            forced + still * float(slope[0]) + face * float(by[0]),
        )

    def _outer_faces(self) -> Iterator[tuple[list[int], np.ndarray, str, bool]]:
        solids = [piece for piece in self.pieces if piece is not self.strand]
        for piece in solids:
            if piece.part not in ("block", "nozzle", "sink"):
                continue
            for fixed, value, on_side in ((0, piece.box[1], True), (1, piece.box[2], False), (1, piece.box[3], False)):
                for unknowns, places in self._edges(
                    piece, fixed, value, *(piece.box[2:] if fixed == 0 else piece.box[:2])
                ):
                    middle = places[1].copy()
                    middle[fixed] += 1e-6 if on_side or value == piece.box[3] else -1e-6
                    if not any(_inside(other.box, middle) for other in solids):
                        if piece.part == "sink" and not on_side and value < self.at.sink_top - 1e-9:
                            continue
                        yield unknowns, places, piece.part, on_side

    def _region(self, low: float, high: float, inner: float) -> np.ndarray:
        """Integral of the test functions over a ring of the block, divided by its volume."""
        block = next(piece for piece in self.pieces if piece.part == "block")

        @skfem.LinearForm
        def form(v, w):
            inside = (w.x[1] > low) & (w.x[1] < high) & (w.x[0] > inner)
            return 2 * np.pi * w.x[0] * inside * v

        right = np.zeros(self.count)
        right[block.first : block.first + block.basis.N] = form.assemble(block.basis)
        return right / right.sum()

    def solve(self, tolerance: float = 2e-4) -> FiniteElements:
        """Iterate films, gap and heat capacity to rest; the heater's power is solved with the field."""
        source, sensor = self._region(*self.at.heater), self._region(*self.at.sensor)
        locations = np.concatenate([piece.basis.doflocs[1] for piece in self.pieces])
        t = np.interp(locations, [self.at.block_top, self.at.neck_top], [self.given.nozzle, self.given.fan_air + 20])
        share = np.zeros(2)
        levels = np.array([0.0, 1.0])
        for _ in range(120):
            moved, inlet = self._advection(t)
            films, lost = self._films(t)
            gap = self._gap(partial(_along, levels, share))
            factor = splu((self.fixed + moved + films + gap).tocsc())
            plain, response = factor.solve(inlet + lost), factor.solve(source)
            self.power = (self.model.problem.control.target - sensor @ plain) / (sensor @ response)
            after = plain + self.power * response
            change = np.abs(after - t).max()
            t = after
            levels, mean = self.section_mean(t)
            wanted = touching_share(mean, self.closes_from, self.given.swelling_span)[0]
            share = wanted if len(share) != len(wanted) else 0.5 * share + 0.5 * wanted
            if change < tolerance:
                break
        self.temperature = t
        return self

    # readings

    def bore(self) -> float:
        wall = next(
            p
            for p in self.pieces
            if (abs(p.box[0] - self.at.bore) < 1e-9 and abs(p.box[2] - self.at.neck_top) < 1e-9)
            or (p.part == "tube" and p.box[2] < self.at.neck_top)
        )
        return float(self.temperature[wall.at(self.at.bore, round(self.at.neck_top, 9))])

    def margin(self) -> float:
        levels = np.unique(np.round(self.strand.basis.mesh.p[1], 9))[::-1]
        skin = np.array([self.temperature[self.strand.at(self.at.strand, z)] for z in levels])
        row = int(np.flatnonzero(skin >= self.given.softening)[0])
        share = (self.given.softening - skin[row - 1]) / (skin[row] - skin[row - 1])
        return (self.at.neck_top - (levels[row - 1] + share * (levels[row] - levels[row - 1]))) * 1e3

    def sample(self, part: str, r: np.ndarray, z: np.ndarray) -> np.ndarray:
        """Temperatures at places inside one part."""
        out = np.full(len(r), np.nan)
        for piece in self.pieces:
            if piece.part != part:
                continue
            inside = (r >= piece.box[0]) & (r <= piece.box[1]) & (z >= piece.box[2]) & (z <= piece.box[3])
            if inside.any():
                own = self.temperature[piece.first : piece.first + piece.basis.N]
                out[inside] = piece.basis.probes(np.array([r[inside], z[inside]])) @ own
        return out


def _inside(box: tuple[float, float, float, float], place: np.ndarray) -> bool:
    return box[0] < place[0] < box[1] and box[2] < place[1] < box[3]

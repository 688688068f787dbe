"""A plate's balance solved otherwise: its cells as one sparse matrix, and a bed resolved through its thickness."""

from __future__ import annotations

import itertools
from dataclasses import dataclass

import numpy as np
import skfem
from scipy.sparse import csc_matrix, diags
from scipy.sparse.linalg import splu

from zeotherm.core.parts.bed.model.model import BedModel, Films
from zeotherm.core.solver.plate import Law, Plate

SIGMA = 5.670374419e-8
SYMMETRIC = {"SymmetricMode": True}


def eliminated(plate: Plate, source: np.ndarray, law: Law, air: float, turns: int = 12) -> np.ndarray:
    """The plate in balance by Newton's rule and a sparse factor each turn [°C], (rows, columns)."""
    sideways, given = matrix(plate), np.where(plate.inside, source, 0.0).ravel() * plate.area
    on = plate.inside.ravel()
    rim = plate.edge.ravel()
    now = np.full(on.size, air + 1.0)
    for _turn in range(turns):
        off, slope = (part.ravel() for part in law(now.reshape(plate.inside.shape)))
        loss = np.where(on, slope * plate.area + rim, 1.0)
        wrong = np.where(on, given - off * plate.area - rim * (now - air) - sideways @ now, 0.0)
        step = splu(csc_matrix(sideways + diags(loss))).solve(wrong)
        now = now + step
        if np.abs(step).max() < 1e-4:
            break
    return np.where(plate.inside, now.reshape(plate.inside.shape), np.nan)


def matrix(plate: Plate) -> csc_matrix:
    """Sideways conduction between the plate's cells [W/K]."""
    index = np.arange(plate.inside.size).reshape(plate.inside.shape)
    along, across = plate.links
    one = np.concatenate([index[:, :-1].ravel(), index[:-1].ravel()])
    other = np.concatenate([index[:, 1:].ravel(), index[1:].ravel()])
    links = np.concatenate([along.ravel(), across.ravel()])
    rows, columns = np.concatenate([one, other, one, other]), np.concatenate([other, one, one, other])
    return csc_matrix((np.concatenate([-links, -links, links, links]), (rows, columns)), shape=(index.size,) * 2)


def radiating(film: float, emissivity: float, air: float) -> Law:
    """A film and grey radiation to the room, off both faces."""

    def law(temperature: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
        kelvin = temperature + 273.15
        off = film * (temperature - air) + emissivity * SIGMA * (kelvin**4 - (air + 273.15) ** 4)
        return off, film + 4.0 * emissivity * SIGMA * kelvin**3

    return law


def straight(film: float | np.ndarray, air: float) -> Law:
    """A film alone."""
    return lambda temperature: (film * (temperature - air), np.broadcast_to(film, temperature.shape))


def rounded(cells: int, void: bool = True) -> np.ndarray:
    """A round plate with a hole for a screw and a slot, in its square."""
    y, x = np.mgrid[0:cells, 0:cells] - (cells - 1) / 2.0
    disc = x**2 + y**2 < (0.495 * cells) ** 2
    slot = (np.abs(x + 0.2 * cells) < 0.04 * cells) & (np.abs(y + 0.1 * cells) < 0.06 * cells)
    return disc & ~slot if void else disc


@dataclass(frozen=True)
class Solid:
    """A quarter of a rectangular bed, resolved through its thickness [°C]: nodes on x, y and z from its middle."""

    basis: skfem.CellBasis
    field: np.ndarray

    def at(self, x: float, y: float, z: float) -> float:
        """The temperature at a place [m from the middle, and from the underside]."""
        return float((self.basis.probes(np.array([[abs(x)], [abs(y)], [z]])) @ self.field)[0])


def solid(model: BedModel, films: Films, watts: float, cells: int = 26, layers: int = 3) -> Solid:
    """A bed of the model's layers in three dimensions, by trilinear elements closer to the rim.

    Heat is made in the heater's layer under the heated part; films and grey radiation on both faces, the rim's film as
    the model has it.
    """
    given, shape, air = model.inputs, model.inputs.shape, model.air
    half = 0.5e-3 * np.array([shape.width_mm, shape.depth_mm])
    reach = half - 1e-3 * shape.heater.border_mm
    closer = np.sin(0.5 * np.pi * np.linspace(0.0, 1.0, cells + 1))
    x, y = (np.append(far * closer, np.linspace(far, end, cells // 4 + 1)[1:])
            for far, end in zip(reach, half, strict=True))  # fmt: skip
    tops = np.cumsum([0.0, *(slab.thickness for slab in given.slabs)])
    z = np.unique(np.concatenate([np.linspace(a, b, layers + 1) for a, b in itertools.pairwise(tops)]))
    mesh = skfem.MeshHex.init_tensor(x, y, z)
    mesh = mesh.with_boundaries({
        "up": lambda x: np.isclose(x[2], tops[-1]), "down": lambda x: np.isclose(x[2], 0.0),
        "rim": lambda x: np.isclose(x[0], half[0]) | np.isclose(x[1], half[1]),
    })  # fmt: skip
    basis = skfem.Basis(mesh, skfem.ElementHex1())
    volume = 4.0 * reach[0] * reach[1] * tops[1]

    def slab_at(height: np.ndarray, name: str) -> np.ndarray:
        which = np.clip(np.searchsorted(tops, height, side="right") - 1, 0, len(given.slabs) - 1)
        return np.array([getattr(slab, name) for slab in given.slabs])[which]

    @skfem.BilinearForm
    def conduction(u, v, w):
        along, through = slab_at(w.x[2], "along"), slab_at(w.x[2], "conductivity")
        return along * (u.grad[0] * v.grad[0] + u.grad[1] * v.grad[1]) + through * u.grad[2] * v.grad[2]

    @skfem.LinearForm
    def made(v, w):
        return watts / volume * ((w.x[0] < reach[0]) & (w.x[1] < reach[1]) & (w.x[2] < tops[1])) * v

    @skfem.BilinearForm
    def sheds(u, v, w):
        return (w.film + w.emissivity * SIGMA * 4.0 * (w.now + 273.15) ** 3) * u * v

    @skfem.LinearForm
    def shed(v, w):
        kelvin = w.now + 273.15
        slope = w.emissivity * SIGMA * 4.0 * kelvin**3
        return (w.film * w.air + slope * w.now - w.emissivity * SIGMA * (kelvin**4 - (air.around + 273.15) ** 4)) * v

    matrix, source = conduction.assemble(basis), made.assemble(basis)
    rim = model.rim / float(tops[-1])
    sides = [
        ("up", films.up, given.face_emissivity, air.above),
        ("down", films.down, given.under_emissivity, air.below),
        ("rim", rim, 0.0, air.below),
    ]
    faces = {name: basis.boundary(name) for name, *_rest in sides}
    now = np.full(basis.N, 60.0)
    for _turn in range(6):
        whole, right = matrix.copy(), source.copy()
        for name, film, emissivity, ambient in sides:
            given_at = {"film": film, "emissivity": emissivity, "air": ambient, "now": faces[name].interpolate(now)}
            whole = whole + sheds.assemble(faces[name], **given_at)
            right = right + shed.assemble(faces[name], **given_at)
        factor = splu(csc_matrix(whole), permc_spec="MMD_AT_PLUS_A", diag_pivot_thresh=0.0, options=SYMMETRIC)
        before, now = now, factor.solve(right)
        if np.abs(now - before).max() < 1e-2:
            break
    return Solid(basis, now)

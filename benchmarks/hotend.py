"""The steady hotend against a general finite-element library, and what a band costs."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
import skfem
from scipy.sparse.linalg import splu

from benchmarks.timing import interleaved
from zeotherm.core.catalogue import shipped
from zeotherm.core.machine.documents import Setup, patched
from zeotherm.core.machine.patches import patch_at
from zeotherm.core.parts.hotend.judge.ask import first_answer, full_answer
from zeotherm.core.parts.hotend.model.model import HotendModel
from zeotherm.core.parts.hotend.model.solved import solve_hotend
from zeotherm.shop.files.job_files import read_job
from zeotherm.shop.places import demo_jobs

LEVERS = {
    "surroundings.fan_air_c": -2.0, "fan.voltage_v": -1.0, "printing.nozzle_c": 5.0, "printing.flow_mm3_s": 0.5,
}  # fmt: skip


class LinearElements:
    """The same field once more: bilinear elements on the same grid, one linear system, nothing iterated."""

    def __init__(self, model: HotendModel) -> None:
        grid = model.layout.grid
        radii = np.unique(np.round(np.concatenate([grid.inner, grid.outer]), 9))
        mesh = skfem.MeshQuad.init_tensor(radii, np.sort(np.round(grid.top - grid.faces, 9)))
        middle = mesh.p[:, mesh.t].mean(axis=1)
        row = np.clip(np.searchsorted(grid.faces, grid.top - middle[1]) - 1, 0, len(grid.depth) - 1)
        column = np.clip(np.searchsorted(grid.outer, middle[0]), 0, len(grid.radius) - 1)
        keep = model.layout.active[row, column]
        self.k = model.conductivity[row, column][keep]
        self.flux = np.where(column[keep] < grid.moving, model.given.flow * model.given.density * 1800.0, 0.0)
        self.flux /= np.pi * model.layout.at.strand**2
        self.source = np.where(model.problem.control.shape[row, column][keep] > 0, 1.0, 0.0)
        self.mesh = mesh.restrict(np.flatnonzero(keep))

    def solve(self) -> np.ndarray:
        """Assemble and solve once."""
        basis = skfem.CellBasis(self.mesh, skfem.ElementQuad1())
        cells = skfem.CellBasis(self.mesh, skfem.ElementQuad0(), quadrature=basis.quadrature)

        @skfem.BilinearForm
        def heat(u, v, w):
            conducted = w.k * (u.grad[0] * v.grad[0] + u.grad[1] * v.grad[1])
            return w.x[0] * (conducted - w.flux * u.grad[1] * v)

        @skfem.BilinearForm
        def film(u, v, w):
            return w.x[0] * 20.0 * u * v

        @skfem.LinearForm
        def load(v, w):
            return w.x[0] * w.source * v

        k, flux, source = (cells.interpolate(field) for field in (self.k, self.flux, self.source))
        edge = skfem.FacetBasis(self.mesh, skfem.ElementQuad1())
        matrix = heat.assemble(basis, k=k, flux=flux) + film.assemble(edge)
        return splu(matrix.tocsc()).solve(load.assemble(basis, source=source))


def run() -> Iterator[str]:
    jobs = {job.machine.split(",")[0]: job for job in map(read_job, demo_jobs())}
    for machine in ("Curlew", "Gannet"):
        setup = jobs[machine].setup()
        start = solve_hotend(setup, shipped())
        elements = LinearElements(start.model)
        yield f"{machine}: {int(start.model.layout.active.sum())} unknowns; elements {elements.mesh.nvertices}"
        for path, by in LEVERS.items():
            one, other = interleaved(15, *_pair(setup, path, by, start, elements))
            yield (
                f"  after {path} {by:+g}: {one * 1e3:.1f} ms warm; one linear solve by scikit-fem "
                f"{other * 1e3:.1f} ms; "
                f"{other / one:.1f} times faster"
            )
        (cold,) = interleaved(9, lambda setup=setup: solve_hotend(setup, shipped()))
        first = first_answer(setup, shipped())
        (whole,) = interleaved(5, lambda first=first: full_answer(first))
        yield f"  cold start {cold * 1e3:.1f} ms; bands, reasons and melt ceiling {whole * 1e3:.0f} ms more"
        yield f"  after the lever: imbalance {start.field.imbalance:.0e}, closure {start.readout.watts.closure:.0e}"


def _pair(setup: Setup, path: str, by: float, start, elements: LinearElements):
    now = setup
    for part in path.split("."):
        now = getattr(now, part)
    changed = patched(setup, patch_at(path, now + by))
    return (lambda: solve_hotend(changed, shipped(), None, start), elements.solve)

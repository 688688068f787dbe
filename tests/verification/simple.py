"""Small problems for the axisymmetric solver, with exact solutions."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from zeotherm.core.solver import axisymmetric as solver


@dataclass(frozen=True)
class Tied:
    """Cells tied to a temperature."""

    cells: np.ndarray
    conductance: np.ndarray
    ambient: float

    def flow(self, temperature):
        return self.conductance * (temperature - self.ambient), np.asarray(self.conductance)


@dataclass(frozen=True)
class Linear:
    """Constant heat capacity."""

    capacity_rate: float = 1.0

    def __call__(self, temperature):
        return self.capacity_rate * temperature

    def capacity(self, temperature):
        return np.full_like(temperature, self.capacity_rate)


def solved(
    z_faces, radial, axial, exchanges, *, moving=1, mass_flow=0.0, inlet=0.0, shares=None, gap=None, active=None
):
    """Solve a problem without a source; the skin's column is `moving`."""
    rows, columns = axial.shape[0] + 1, axial.shape[1]
    z = 0.5 * (z_faces[1:] + z_faces[:-1])
    nothing = np.full(rows, 1e-12)
    shares = np.ones(moving) / moving if shares is None else shares
    problem = solver.Problem(
        body=solver.Body(
            z=z,
            z_faces=z_faces,
            active=np.ones((rows, columns), dtype=bool) if active is None else active,
            radial=np.pad(radial, ((0, 0), (0, 1))),
            axial=np.pad(axial, ((0, 1), (0, 0))),
        ),
        gap=solver.Gap(moving, *(gap or (nothing, nothing)), np.zeros(rows), shares, lambda t: (0.0 * t, 0.0 * t)),
        stream=solver.Stream(mass_flow, shares, inlet, Linear()),
        control=solver.Control(
            np.full((rows, columns), 1 / (rows * columns)), np.full((rows, columns), 1 / (rows * columns)), 1e6, 0.0
        ),
        exchanges=exchanges,
    )
    start = solver.Field(np.full((rows, columns), 20.0), 0.0, True, 1.0, 0, 0)
    return solver.solve(problem, start, tolerance=1e-8).temperature


def order(errors: list[float]) -> float:
    """Observed order from errors of meshes that halve."""
    return float(np.log2(errors[-2] / errors[-1]))

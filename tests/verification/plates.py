"""A plate's balance as one sparse matrix, solved by elimination: the same cells, another solver."""

from __future__ import annotations

import numpy as np
from scipy.sparse import csc_matrix, diags
from scipy.sparse.linalg import splu

from zeotherm.core.solver.plate import Law, Plate

SIGMA = 5.670374419e-8


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

"""The plate's field against elimination of the same cells."""

from __future__ import annotations

from collections.abc import Iterator
from functools import partial

import numpy as np
from tests.verification.plates import eliminated, radiating, rounded, straight

from benchmarks.timing import interleaved
from zeotherm.core.solver.plate import Plate, settle

AIR, SPREAD, CELLS = 20.0, 0.48, 100
FULL = np.ones((CELLS, CELLS), dtype=bool)
CASES = {  # what: plate, law, turns of Newton's rule that elimination needs
    "uniform": (Plate(0.3, 0.3, FULL, SPREAD), straight(18.0, AIR), 1),
    "square, rim, radiation": (Plate(0.3, 0.3, FULL, SPREAD, 0.05), radiating(8.0, 0.9, AIR), 12),
    "round, voids, radiation": (Plate(0.3, 0.3, rounded(CELLS), SPREAD, 0.05), radiating(8.0, 0.9, AIR), 12),
}


def run() -> Iterator[str]:
    source = np.zeros((CELLS, CELLS))
    source[8:-8, 8:-8] = 1500.0
    for name, (plate, law, turns) in CASES.items():
        apart = _apart(plate, source, law, turns)
        one, other = interleaved(15, partial(settle, plate, source, law, AIR),
                                 partial(eliminated, plate, source, law, AIR, turns))  # fmt: skip
        start = settle(plate, source, law, AIR).temperature
        (warm,) = interleaved(15, partial(settle, plate, 1.02 * source, law, AIR, start))
        yield (
            f"{name}: {one * 1e3:.1f} ms; elimination {other * 1e3:.0f} ms; {other / one:.1f} times faster; "
            f"{apart:.0e} K apart; after a lever {warm * 1e3:.1f} ms"
        )


def _apart(plate: Plate, source: np.ndarray, law, turns: int) -> float:
    field = settle(plate, source, law, AIR).temperature
    return float(np.nanmax(np.abs(field - eliminated(plate, source, law, AIR, turns))))

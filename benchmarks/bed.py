"""The plate's field against elimination of the same cells; a bed's hour; a lever of the bed dragged in the window."""

from __future__ import annotations

from collections.abc import Iterator
from functools import partial

import numpy as np
from tests.verification.plates import eliminated, radiating, rounded, straight

from benchmarks.dragging import dragged
from benchmarks.timing import interleaved
from zeotherm.core.catalogue import shipped
from zeotherm.core.machine.documents import Setup, patched
from zeotherm.core.parts.bed.model.in_time import run_bed
from zeotherm.core.parts.bed.model.inputs import resolve_bed
from zeotherm.core.parts.bed.model.model import BedModel
from zeotherm.core.solver.plate import Plate, settle

AIR, SPREAD, CELLS = 20.0, 0.48, 100
FULL = np.ones((CELLS, CELLS), dtype=bool)
CASES = {  # what: plate, law, turns of Newton's rule that elimination needs
    "uniform": (Plate(0.3, 0.3, FULL, SPREAD), straight(18.0, AIR), 1),
    "square, rim, radiation": (Plate(0.3, 0.3, FULL, SPREAD, 0.05), radiating(8.0, 0.9, AIR), 12),
    "round, voids, radiation": (Plate(0.3, 0.3, rounded(CELLS), SPREAD, 0.05), radiating(8.0, 0.9, AIR), 12),
}


def run() -> Iterator[str]:
    yield from _plates()
    yield from _hours()
    yield dragged("bed", "Dunlin", "bed.target_c", 60.0, 0.2)


def _hours() -> Iterator[str]:
    """Warm-up and hold of one hour, at the working grid."""
    catalogue = shipped()
    for insulation in ("none", "felt"):
        setup = patched(Setup(), {"bed": {"part": "wide_bed", "heater_w": 450.0, "target_c": 75.0,
                                          "insulation": insulation}})  # fmt: skip
        given = resolve_bed(setup, catalogue).inputs
        model = BedModel(given, given.in_room)
        (spent,) = interleaved(7, partial(run_bed, model, 3360.0))
        closure = run_bed(model, 3360.0).closure
        yield f"an hour of a bed, insulation {insulation}: {spent * 1e3:.0f} ms; closure {closure:.0e}"


def _plates() -> Iterator[str]:
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

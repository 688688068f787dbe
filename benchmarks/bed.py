"""The plate's field against elimination of the same cells; a bed's hour; a lever of the bed dragged in the window."""

from __future__ import annotations

import os
import subprocess
import sys
import tempfile
from collections.abc import Iterator
from functools import partial
from pathlib import Path

import numpy as np
from tests.verification.plates import eliminated, radiating, rounded, straight

from benchmarks.timing import interleaved
from zeotherm.core.catalogue import shipped
from zeotherm.core.machine.documents import Setup, patched
from zeotherm.core.solver.plate import Plate, settle
from zeotherm.core.twin.bed.in_time import run_bed
from zeotherm.core.twin.bed.inputs import resolve_bed
from zeotherm.core.twin.bed.model import BedModel

AIR, SPREAD, CELLS = 20.0, 0.48, 100
FULL = np.ones((CELLS, CELLS), dtype=bool)
CASES = {  # what: plate, law, turns of Newton's rule that elimination needs
    "uniform": (Plate(0.3, 0.3, FULL, SPREAD), straight(18.0, AIR), 1),
    "square, rim, radiation": (Plate(0.3, 0.3, FULL, SPREAD, 0.05), radiating(8.0, 0.9, AIR), 12),
    "round, voids, radiation": (Plate(0.3, 0.3, rounded(CELLS), SPREAD, 0.05), radiating(8.0, 0.9, AIR), 12),
}


DRAG = """
import sys, time
from pathlib import Path
from PyQt6.QtCore import QEventLoop, QTimer
from PyQt6.QtWidgets import QApplication
application = QApplication([])
sys.setswitchinterval(0.0005)
from zeotherm.desk.application import make_window
window = make_window(Path(sys.argv[1]), demo=True, theme_name="light")
window.show()
window.bench.prefer("Dunlin")
window.bench.open_job(window.bench.key)
teller, board = window.explain.bed, window.explain.board
window.explain.turn_to("bed")
loop, painted = QEventLoop(), {}
original = board.paintEvent


def paint(event):
    original(event)
    found = teller.found
    if found is not None and found.answer is not None and found.job.setup().bed.target_c == painted.get("wanted"):
        painted["at"] = time.perf_counter()
        loop.quit()


board.paintEvent = paint
while teller.found is None or teller.found.answer is None or not teller.found.answer.strengths:
    application.processEvents()
    time.sleep(0.01)
slider = window.explain.levers.line("bed.target_c").slider
spent = []
for step in range(120):
    painted["wanted"] = 60.0 + 0.2 * step
    QTimer.singleShot(5000, loop.quit)
    start = time.perf_counter()
    slider.moved.emit(painted["wanted"], True)
    loop.exec()
    spent.append(painted["at"] - start)
    painted["wanted"] = None
    QTimer.singleShot(15, loop.quit)
    loop.exec()
spent.sort()
print(spent[len(spent) // 2], spent[int(0.95 * len(spent))])
window.close()
"""


def run() -> Iterator[str]:
    yield from _plates()
    yield from _hours()
    yield _dragged()


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


def _dragged() -> str:
    with tempfile.TemporaryDirectory() as folder:
        done = subprocess.run(
            [sys.executable, "-c", DRAG, str(Path(folder) / "bench.zeotherm")], capture_output=True, text=True,
            env=os.environ | {"QT_QPA_PLATFORM": "offscreen"}, check=True,
        )  # fmt: skip
    middle, slow = (float(one) * 1e3 for one in done.stdout.split())
    return f"a lever of the bed, dragged, to its picture: {middle:.0f} ms, 95th percentile {slow:.0f} ms"


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

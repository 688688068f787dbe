"""A lever that is dragged in the window, and how soon its part of the machine is painted anew."""

from __future__ import annotations

import os
import subprocess
import sys
import tempfile
from pathlib import Path

DRAG = """
import sys, time
from pathlib import Path
from PyQt6.QtCore import QEventLoop, QTimer
from PyQt6.QtWidgets import QApplication
application = QApplication([])
sys.setswitchinterval(0.0005)
from zeotherm.core.machine.patches import value_at
from zeotherm.desk.application import make_window
window = make_window(Path(sys.argv[1]), demo=True, theme_name="light")
window.show()
part, machine, path, first, by = sys.argv[2], sys.argv[3], sys.argv[4], float(sys.argv[5]), float(sys.argv[6])
window.bench.prefer(machine)
window.bench.open_job(window.bench.key)
explain = window.explain
tellers = {"bed": explain.of("bed"), "case": explain.of("case"), "power": explain.of("power")}
teller = tellers[part]
explain.turn_to(part)
board = explain.picture
loop, painted = QEventLoop(), {}
original = board.paintEvent


def paint(event):
    original(event)
    found = teller.found
    if found is not None and found.answer is not None and value_at(found.job.setup(), path) == painted.get("wanted"):
        painted["at"] = time.perf_counter()
        loop.quit()


board.paintEvent = paint
while teller.found is None or teller.found.answer is None or not teller.found.answer.strengths:
    application.processEvents()
    time.sleep(0.01)
late = QTimer(singleShot=True, interval=5000)
late.timeout.connect(loop.quit)
slider = explain.levers.line(path).slider
spent = []
for step in range(120):
    painted["wanted"] = first + by * step
    late.start()
    start = time.perf_counter()
    slider.moved.emit(painted["wanted"], True)
    loop.exec()
    late.stop()
    spent.append(painted["at"] - start)
    painted["wanted"] = None
    QTimer.singleShot(15, loop.quit)
    loop.exec()
spent.sort()
print(spent[len(spent) // 2], spent[int(0.95 * len(spent))])
window.close()
"""


def dragged(part: str, machine: str, path: str, first: float, by: float) -> str:
    """120 steps of a lever, one after the other: median and 95th percentile from the hand to the picture."""
    with tempfile.TemporaryDirectory() as folder:
        place = str(Path(folder) / "bench.zeotherm")
        done = subprocess.run(
            [sys.executable, "-c", DRAG, place, part, machine, path, str(first), str(by)], capture_output=True,
            text=True, env=os.environ | {"QT_QPA_PLATFORM": "offscreen"}, check=True,
        )  # fmt: skip
    middle, slow = (float(one) * 1e3 for one in done.stdout.split())
    return f"a lever of the {part}, dragged, to its picture: {middle:.0f} ms, 95th percentile {slow:.0f} ms"

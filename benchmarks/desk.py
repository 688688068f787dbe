"""The window: start-up, lever to repaint, memory. Offscreen, on the demo workshop."""

from __future__ import annotations

import compileall
import os
import subprocess
import sys
import tempfile
from collections.abc import Iterator
from pathlib import Path
from statistics import median

START = """
import sys, time
from pathlib import Path
from PyQt6.QtCore import QTimer
from PyQt6.QtWidgets import QApplication
application = QApplication([])
sys.setswitchinterval(0.0005)
from zeotherm.desk.start import Opening
begun = Opening(Path(sys.argv[1]), demo=True)
begun.begin()
if begun.last is not None:
    begun.last.grab()
    print(time.time() - float(sys.argv[2]))


def opened():
    begun.window.grab()
    assert begun.window.bench.found is not None
    print(time.time() - float(sys.argv[2]))
    close()


def close():
    if sys.argv[3] == "wait" and not begun.window.bench.found.complete:
        QTimer.singleShot(50, close)
        return
    begun.window.close()
    application.quit()


begun.opened.connect(opened)
application.exec()
"""

DRAG = """
import resource, sys, time
from pathlib import Path
from PyQt6.QtCore import QEventLoop, QTimer
from PyQt6.QtWidgets import QApplication
application = QApplication([])
sys.setswitchinterval(0.0005)
from zeotherm.desk.application import make_window
window = make_window(Path(sys.argv[1]), demo=True, theme_name="light")
window.show()
part = sys.argv[2]
teller = window.explain.of(part)
window.explain.turn_to(part)
picture = teller.board
loop, painted = QEventLoop(), {}
original = picture.paintEvent


def paint(event):
    original(event)
    painted["at"], painted["air"] = time.perf_counter(), window.bench.found.job.setup().fan.guard_blocked_pct
    if painted["air"] == painted.get("wanted") or window.bench.found.time == painted.get("moment"):
        loop.quit()


def rest(milliseconds):
    QTimer.singleShot(milliseconds, loop.quit)
    loop.exec()


picture.paintEvent = paint
while not window.bench.found.complete:
    application.processEvents()
    time.sleep(0.01)
if part == "machine":
    teller.open_card("heatsink_fan")
levers = teller.card.levers if part == "machine" else window.explain.levers
slider = levers.line("fan.guard_blocked_pct").slider
spent, frames = [], []
for step in range(120):
    painted["wanted"] = 90.0 - 0.5 * step
    start = time.perf_counter()
    slider.moved.emit(painted["wanted"], True)
    QTimer.singleShot(5000, loop.quit)
    loop.exec()
    spent.append(painted["at"] - start)
    painted["wanted"] = None
    begin = time.perf_counter()
    getattr(picture, "refresh", picture.update)()
    picture.grab()
    frames.append(time.perf_counter() - begin)
    rest(15)
while not (window.bench.found.complete and window.bench.found.job == window.bench.job):
    application.processEvents()
    time.sleep(0.01)
scrubs = []
for step in range(100):
    begin = time.perf_counter()
    painted["moment"] = 1200.0 + 160.0 * step
    window.bench.scrub(painted["moment"])
    QTimer.singleShot(5000, loop.quit)
    loop.exec()
    scrubs.append(time.perf_counter() - begin)
spent.sort()
frames.sort()
scrubs.sort()
peak = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
print(spent[60], spent[114], spent[-1], frames[60], scrubs[50], scrubs[95], peak)
window.close()
"""


AHEAD = """
import sys, time
from pathlib import Path
from PyQt6.QtWidgets import QApplication
from zeotherm.desk.application import make_window

if __name__ == "__main__":  # processes begin here, too
    application = QApplication([])
    sys.setswitchinterval(0.0005)
    window = make_window(Path(sys.argv[1]), demo=True, theme_name="light")
    window.show()

    def until(done):
        start = time.perf_counter()
        while not done():
            application.processEvents()
            time.sleep(0.001)
        return time.perf_counter() - start

    until(lambda: window.bench.found.complete)
    window.choose.prepare()
    prepared = until(lambda: not window.choose.asked.busy)
    told = []
    window.choose.asked.changed.connect(told.append)
    start = time.perf_counter()
    window.show_choose()
    until(lambda: told and told[-1].searched)
    window.choose.board.grab()
    print(prepared, time.perf_counter() - start, len(told[0].columns))
    window.close()
"""


def run() -> Iterator[str]:
    source = Path(__file__).parent.parent / "src"
    compileall.compile_dir(source, quiet=2)
    place = {**os.environ, "QT_QPA_PLATFORM": "offscreen"}
    with tempfile.TemporaryDirectory() as folder:
        place["ZEOTHERM_CACHE"] = folder
        workshop = Path(folder) / "start.zeotherm"
        first = _start(workshop, place, "wait")[-1]
        starts = [_start(workshop, place, "") for _ in range(7)]
        bare = median(_bare(place) for _ in range(7))
        shown, opened = (median(one[n] for one in starts) for n in (0, 1))
        yield (
            f"start to the last answer, painted and marked as such: {shown:.2f} s ({shown / bare:.1f} times a bare Qt "
            f"window with NumPy, {bare:.2f} s); to the window, answered anew: {opened:.2f} s, {opened / bare:.1f} times"
        )
        yield f"the very first start, with the demo to fill: {first:.2f} s"
        for part in ("hotend", "machine"):
            yield from _dragged(part, Path(folder) / f"drag-{part}.zeotherm", place)
        script = Path(folder) / "ahead.py"
        script.write_text(AHEAD)
        ahead, shown, columns = map(float, _told(script, Path(folder) / "ahead.zeotherm", place))
        yield (
            f"Choose, solved ahead in {ahead:.1f} s with its search, processes begun: {columns:.0f} columns painted "
            f"{1e3 * shown:.0f} ms after F5"
        )


def _dragged(part: str, workshop: Path, place: dict[str, str]) -> Iterator[str]:
    """A lever, a frame, a scrub, in the picture of the hotend or of the whole machine."""
    told = subprocess.run(
        [sys.executable, "-c", DRAG, str(workshop), part], env=place, capture_output=True, text=True, check=True
    )
    *seconds, peak = map(float, told.stdout.split())
    half, most, worst, frame, scrub, scrub_most = (1e3 * one for one in seconds)
    yield f"{part}, lever to repaint: median {half:.0f} ms, 95th percentile {most:.0f} ms, worst {worst:.0f} ms"
    yield f"{part}, one frame of the picture: {frame:.1f} ms"
    often = 1e3 / scrub
    yield f"{part}, scrub to repaint: median {scrub:.0f} ms, 95th percentile {scrub_most:.0f} ms, {often:.0f} a second"
    yield f"{part}, peak memory: {peak:.0f} MB"


def _told(script: Path, workshop: Path, place: dict[str, str]) -> list[str]:
    told = subprocess.run(
        [sys.executable, str(script), str(workshop)], env=place, capture_output=True, text=True, check=True
    )
    return told.stdout.split()


def _start(workshop: Path, place: dict[str, str], until: str) -> list[float]:
    """Seconds to the picture of last time, where there is one, and to the window."""
    import time

    told = subprocess.run(
        [sys.executable, "-c", START, str(workshop), str(time.time()), until],
        env=place,
        capture_output=True,
        text=True,
        check=True,
    )
    return [float(one) for one in told.stdout.split()]


def _bare(place: dict[str, str]) -> float:
    import time

    code = (
        "import sys, time, numpy; from PyQt6.QtWidgets import QApplication, QWidget;"
        "a = QApplication([]); w = QWidget();"
        "w.show(); w.grab(); print(time.time() - float(sys.argv[1]))"
    )
    told = subprocess.run(
        [sys.executable, "-c", code, str(time.time())], env=place, capture_output=True, text=True, check=True
    )
    return float(told.stdout)

"""The window's turns in seeded random use: how long the longest of them hold it up, and what they are.

A turn is one event that Qt hands to the window's thread, with all that it sets off. Offscreen, on the demo workshop.
"""

from __future__ import annotations

import os
import subprocess
import sys
import tempfile
from collections.abc import Iterator
from pathlib import Path

SECONDS, SEED = 240.0, 7
LONG_MS = 100.0

USE = """
import os, random, sys, time
from collections import Counter
from pathlib import Path
from PyQt6.QtCore import QEvent, QEventLoop, Qt, QTimer
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication


class Timed(QApplication):
    turns, depth, long, doing = [], 0, Counter(), ""

    def notify(self, receiver, event):
        Timed.depth += 1
        begin = time.perf_counter()
        try:
            return super().notify(receiver, event)
        finally:
            Timed.depth -= 1
            spent = 1e3 * (time.perf_counter() - begin)
            if not Timed.depth:
                Timed.turns.append(spent)
                if spent > LONG:
                    name = f"{Timed.doing}: {type(receiver).__name__} {QEvent.Type(event.type()).name}"
                    Timed.long[name] = max(Timed.long[name], round(spent))


if __name__ == "__main__":  # processes begin here, too
    LONG, seconds = float(sys.argv[2]), float(sys.argv[3])
    draw = random.Random(int(sys.argv[4]))
    application = Timed([])
    sys.setswitchinterval(0.0005)
    from zeotherm.desk.application import make_window

    window = make_window(Path(sys.argv[1]), demo=True, theme_name="light")
    window.processes.stand_behind()
    window.bench.answered.connect(window.get_ready)
    window.show()
    loop = QEventLoop()

    def rest(milliseconds):
        QTimer.singleShot(milliseconds, loop.quit)
        loop.exec()

    rest(4000)
    Timed.turns.clear()
    Timed.long.clear()
    LINES = ("guard 40 %", "fan 11 V", "fan 9.1 V", "vents 60 %", "retraction 0.6", "room 27", "nozzle 215",
             "guard 15 %")
    KEYS = {Qt.Key.Key_F2: "Intake", Qt.Key.Key_F3: "Measure", Qt.Key.Key_F4: "Explain", Qt.Key.Key_F5: "Choose",
            Qt.Key.Key_F6: "Do", Qt.Key.Key_Tab: "Tab", Qt.Key.Key_PageDown: "next", Qt.Key.Key_F12: "light or dark"}
    CTRL = {Qt.Key.Key_B: "bed", Qt.Key.Key_E: "case", Qt.Key.Key_W: "power", Qt.Key.Key_Z: "undo",
            Qt.Key.Key_J: "jobs", Qt.Key.Key_P: "report"}

    def drag():
        line = draw.choice([one for one in window.explain.levers._order if one.slider.isVisible()] or [None])
        if line is not None:
            low, high = line.slider.value_at(0), line.slider.value_at(line.slider.width())
            for _step in range(12):
                line.slider.moved.emit(low + draw.random() * (high - low), True)
                rest(16)
            line.slider.moved.emit(0.5 * (low + high), False)

    def scrub():
        if window.explain.strip.view is not None:
            for _step in range(12):
                window.explain.scrub(draw.random() * window.explain.strip.view.end)
                rest(16)

    end = time.monotonic() + seconds
    while time.monotonic() < end:
        what = draw.choice(["line", "key", "key", "ctrl", "drag", "drag", "scrub"])
        if what == "line":
            Timed.doing = draw.choice(LINES)
            QTimer.singleShot(0, lambda: window._enter(Timed.doing))
        elif what == "key":
            key, Timed.doing = draw.choice(list(KEYS.items()))
            QTimer.singleShot(0, lambda key=key: QTest.keyClick(window, key))
        elif what == "ctrl":
            key, Timed.doing = draw.choice(list(CTRL.items()))
            QTimer.singleShot(0, lambda key=key: QTest.keyClick(window, key, Qt.KeyboardModifier.ControlModifier))
        else:
            Timed.doing = what
            window.show_explain()
            drag() if what == "drag" else scrub()
        rest(draw.choice([50, 200, 800, 2000]))
    turns = sorted(Timed.turns)
    within = sum(one <= LONG for one in turns) / len(turns)
    print(len(turns), within, turns[int(0.999 * len(turns))], turns[-1])
    for name, count in Timed.long.most_common(12):
        print(f"{count} ms, {name}")
    sys.stdout.flush()
    window.close()
    os._exit(0)  # Qt's own end, with `notify` in Python, is not what is timed
"""


def run() -> Iterator[str]:
    with tempfile.TemporaryDirectory() as folder:
        script = Path(folder) / "use.py"
        script.write_text(USE, encoding="utf-8")
        words = [str(script), str(Path(folder) / "turns.zeotherm"), str(LONG_MS), str(SECONDS), str(SEED)]
        told = subprocess.run(
            [sys.executable, *words], env={**os.environ, "QT_QPA_PLATFORM": "offscreen"}, capture_output=True,
            text=True, check=True,
        ).stdout.splitlines()  # fmt: skip
    count, within, most, worst = (float(one) for one in told[0].split())
    yield (
        f"{SECONDS:.0f} s of random use: {count:.0f} turns, {100 * within:.2f} % within {LONG_MS:.0f} ms; "
        f"99.9 % within {most:.0f} ms, the longest {worst:.0f} ms"
    )
    for line in told[1:]:
        yield f"longer than {LONG_MS:.0f} ms, at most {line}"

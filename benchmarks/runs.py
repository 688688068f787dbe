"""What is measured: a million rows against the standard library, comparing, and panning five runs of 100 000 points."""

from __future__ import annotations

import csv
import os
import subprocess
import sys
import tempfile
import time
from collections.abc import Iterator
from pathlib import Path
from statistics import median

import numpy as np

from zeotherm.core.catalogue import shipped
from zeotherm.core.machine.measured import Measured, Run
from zeotherm.core.runs.assembly import assembled
from zeotherm.core.runs.series import Series
from zeotherm.shop.files.series_files import read_series

ROWS = 1_000_000
PAN = """
import sys, time
import numpy as np
from PyQt6.QtCore import QPointF, QRectF
from PyQt6.QtGui import QImage, QPainter, QPolygonF
from PyQt6.QtWidgets import QApplication
application = QApplication([])
from zeotherm.desk import theme
theme.load_fonts()
from zeotherm.core.judgement.margins import State
from zeotherm.desk.views.measure.runs_shown import RunCurve, RunPanel, RunsView
from zeotherm.desk.views.measure.run_plot import RunPlot
from zeotherm.wording.verdict import Verdict
rng = np.random.default_rng(1)
times = np.arange(100_000.0)
curves = tuple(RunCurve(n + 1, token, times, 60 + 5 * n + 9 * np.sin(times / 4000 + n) + rng.normal(0, 0.4, 100_000))
               for n, token in enumerate(("b", "accent", "meas", "soft", "ink")))
panel = RunPanel("bed", "Bed", "C", curves, (), "", "", False, None, "", None, None)
view = RunsView(Verdict("", "", State.UNKNOWN), "", tuple((n + 1, one.token, "run") for n, one in enumerate(curves)),
                {"bed": panel}, ("bed",), (), (), "", (), (), "", 0.0, 1e5, 5e4)
plot = RunPlot()
plot.resize(690, 360)
plot.show_view(view, ("bed",))
plot.show()
image = QImage(plot.size(), QImage.Format.Format_RGB32)


def frame():
    begin = time.perf_counter()
    plot.render(image)
    return time.perf_counter() - begin


whole = [frame() for _n in range(20)]
pans = []
for n in range(80):
    plot.look_at(20_000.0 + 250.0 * n, 70_000.0 + 250.0 * n)
    pans.append(frame())
plain = []
for n in range(3):
    painter = QPainter(image)
    begin = time.perf_counter()
    for one in curves:
        painter.setPen(theme.tokens()[one.token])
        painter.drawPolyline(QPolygonF([QPointF(x * 690 / 1e5, 300 - 2 * y) for x, y in zip(one.times, one.values)]))
    plain.append(time.perf_counter() - begin)
    painter.end()
print(np.median(pans) * 1e3, np.percentile(pans, 95) * 1e3, np.median(whole) * 1e3, np.median(plain) * 1e3)
"""


def run() -> Iterator[str]:
    """Lines of figures."""
    yield from _import()
    yield from _compare()
    yield from _pan()


def _import() -> Iterator[str]:
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "long.csv"
        with path.open("w") as file:
            file.write("time,hotend,bed,case,power\n")
            file.writelines(
                f"{n},{200 + n % 9 / 10},{60 + n % 7 / 10},{30 + n % 97 / 10},{80 + n % 60}\n" for n in range(ROWS)
            )
        ours, theirs = [], []
        for _again in range(3):
            begin = time.perf_counter()
            read = read_series(path, shipped())
            ours.append(time.perf_counter() - begin)
            begin = time.perf_counter()
            with path.open(newline="") as file:
                rows = csv.reader(file)
                next(rows)
                total = [sum(column) for column in zip(*([float(cell) for cell in row] for row in rows), strict=True)]
            theirs.append(time.perf_counter() - begin)
        same = abs(float(read.series.values["bed"].sum()) / total[2] - 1.0)
        yield (f"a million rows of five columns: {median(ours):.2f} s with roles, checks and drop-outs; the standard "
               f"library's reader with float(): {median(theirs):.2f} s, {median(theirs) / median(ours):.1f} times; "
               f"sums equal to {same:.0e}")  # fmt: skip


def _compare() -> Iterator[str]:
    for rows in (2_000, 100_000):
        runs = {}
        for number in range(5):
            at = np.linspace(0.0, 18_000.0, rows)
            rng = np.random.default_rng(number)
            bed = np.minimum(20 + 110 * (1 - np.exp(-np.clip(at - 120, 0, None) / 500)), 60) + rng.normal(0, 0.2, rows)
            power = np.where(at < 120, 6.0, 90.0) + rng.normal(0, 1, rows)
            runs[str(number)] = Series(at, {"bed": bed, "case_air": bed * 0.3 + 10, "power": power}, None)
        notes = {key: Run(label=key, rows=rows, time_s=[0.0], values={}) for key in runs}
        spent = []
        for _again in range(5):
            begin = time.perf_counter()
            assembled(Measured(runs=notes), runs, shipped())
            spent.append(time.perf_counter() - begin)
        yield f"five runs of {rows} rows lined up and compared: {median(spent) * 1e3:.0f} ms, in the background"


def _pan() -> Iterator[str]:
    environment = {**os.environ, "QT_QPA_PLATFORM": "offscreen"}
    found = subprocess.run([sys.executable, "-c", PAN], capture_output=True, text=True, check=True, env=environment)
    pan, slow, whole, plain = (float(word) for word in found.stdout.split())
    yield (f"panning five runs of 100 000 points: {pan:.1f} ms a frame, 95th percentile {slow:.1f} ms "
           f"({1e3 / slow:.0f} a second); all of them in sight {whole:.1f} ms; every point drawn {plain:.0f} ms, "
           f"{plain / whole:.0f} times")  # fmt: skip

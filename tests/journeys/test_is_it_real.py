"""From two loggers' files to a figure that may be quoted: through the real window, with wrong entries on the way."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest

from tests.desk.test_measure import answer, compared, drop, said, take
from tests.window import settle, type_line
from zeotherm.core.judgement.margins import State
from zeotherm.core.runs.conditions import Match
from zeotherm.shop.practice.virtual_printer import Setting, as_csv, day

BEFORE = Setting(print_min=40.0, cool_min=4.0, idle_min=2.0, logged_s=5.0, start_h=9.0, chance=1.0)


def log(folder: Path, name: str, seed: int, setting: Setting) -> Path:
    path = folder / name
    path.write_text(as_csv(day(seed, setting)))
    return path


def test_is_the_difference_real(qtbot, open_window, tmp_path):
    window = open_window()
    bench, page = window.bench, window.measure

    # a new job on the bench, in Measure: nothing yet
    QTest.keyClick(window, Qt.Key.Key_N, Qt.KeyboardModifier.ControlModifier)
    type_line(qtbot, window, "m0")
    QTest.keyClick(window.arriving.tiles["none"], Qt.Key.Key_Return)
    QTest.keyClick(window, Qt.Key.Key_F3)
    compared(qtbot, window)
    assert page.view.verdict.headline == "Nothing measured yet"

    # the machine as it is, twice; a broken file in between is refused and changes nothing
    drop(window, log(tmp_path, "one.csv", 1, BEFORE))
    qtbot.waitUntil(lambda: len(bench.job.measured.runs) == 1, timeout=30_000)
    assert "Not understood: feeding" in said(window)
    broken = tmp_path / "broken.csv"
    broken.write_text("clock;bed [C]\n9:00:00;20\n9:00:10;hot\n")
    drop(window, broken)
    qtbot.waitUntil(lambda: "line 3, bed [C]: 'hot' is no number" in said(window), timeout=30_000)
    drop(window, log(tmp_path, "two.csv", 2, BEFORE))
    qtbot.waitUntil(lambda: len(bench.job.measured.runs) == 2, timeout=30_000)
    for key in ("run1", "run2"):
        answer(qtbot, lambda key=key: page.asks.run(key).exec(), lambda one: take(one, label="as it came"))
    compared(qtbot, window)
    assert len(page.view.legend) == 1
    assert "one kind of run" in page.view.verdict.headline

    # the guard cleaned; lined up although it was logged from another moment
    drop(window, log(tmp_path, "after.csv", 3, replace(BEFORE, lint=0.4, idle_min=5.5)))
    qtbot.waitUntil(lambda: len(bench.job.measured.runs) == 3, timeout=30_000)
    compared(qtbot, window)
    assert "moved 3 min" in page.lined.text()
    top = page.view.figures[0]
    assert top.label.startswith("Sink base")
    assert top.real is True
    assert page.view.verdict.headline.startswith("After: sink base falls")

    # what is not noted is asked for; one thing changed on purpose makes the change its own
    for name, text in (("filament", "PLA"), ("program", "same"), ("lid", "shut"), ("sink_fan", "")):
        values = dict.fromkeys(bench.job.measured.runs, text)
        if name == "sink_fan":
            values = {"run1": "lint", "run2": "lint", "run3": "clean", "purpose": "yes"}
        answer(
            qtbot, lambda name=name: page.asks.condition(name).exec(), lambda one, values=values: take(one, **values)
        )
    compared(qtbot, window)
    assert next(one for one in page.view.conditions if one.key == "sink_fan").match is Match.ON_PURPOSE
    assert "on purpose in sink fan" in page.view.verdict.reason
    assert page.view.verdict.state is State.CLEAR

    # a reading typed while here is pinned as anywhere, and shows beside the runs
    type_line(qtbot, window, "sink base 41.2")
    assert "Sink base: 41.2 °C" in page.readings.text()
    QTest.keyClick(window, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    settle(qtbot, window)
    assert "41.2" not in page.readings.text()

    # a job file carries its runs; imported, they are compared from what it kept
    target = tmp_path / "job.json"
    bench.export_job(target)
    change = page.view.figures[0].change
    window.import_file(target)
    settle(qtbot, window)
    QTest.keyClick(window, Qt.Key.Key_F3)
    compared(qtbot, window)
    assert page.view.figures[0].change == change

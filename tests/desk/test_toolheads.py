"""Several toolheads in the window: typed, turned to, looked at side by side, and taken out."""

from __future__ import annotations

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest

from tests.window import open_window, put_on_bench, settle, type_line
from zeotherm.core.judgement.margins import State

__all__ = ["open_window"]


@pytest.fixture
def window(open_window, qtbot):
    opened = open_window()
    put_on_bench(opened, "Gannet")
    settle(qtbot, opened)
    return opened


def test_from_a_line_to_both_side_by_side(qtbot, window):
    explain, bench = window.explain, window.bench
    assert not explain.tabs["toolheads"].isVisible()
    for line in ("T1 nozzle 0.6 mm", "take out T0"):
        type_line(qtbot, window, line)
        assert not bench.job.found.toolheads
        window.spine.entry.field.clear()
    assert "add T1" in bench.understood("T1 nozzle 0.6 mm").text
    for line in ("two hotends on one carriage", "T1 nozzle 0.6 mm", "T1 standby 160 °C"):
        type_line(qtbot, window, line)
    further = bench.job.found.toolheads["T1"]
    assert (further.hotend.nozzle_mm, further.printing.idle_c) == (0.6, 160.0)
    assert {"toolheads.T1.hotend.nozzle_mm", "toolheads.T1.printing.idle_c"} <= set(bench.job.known)
    assert explain.tabs["toolheads"].isVisible()
    assert explain.tabs["hotend"].text() == "Hotend T0"
    explain.turn_to("toolheads")
    teller = explain.of("toolheads")
    qtbot.waitUntil(lambda: teller.found is not None and teller.found.deciding is not None, timeout=240_000)
    view = teller.board.view
    assert [one.number for one in view.columns] == ["T1"]
    assert [what for what, _answer in view.columns[0].shown][1] == "Standby, 160 °C"
    assert view.columns[0].state is State.OVER  # a liner at 252 °C, as in front
    assert not explain.levers.isVisible()
    assert all(row.label.startswith("T1: ") for row in explain.facts.view.rows[:1])


def test_another_in_front_is_the_same_machine(qtbot, window):
    bench, explain = window.bench, window.explain
    type_line(qtbot, window, "add T1")
    type_line(qtbot, window, "T1 nozzle 0.8 mm")
    before = bench.job
    explain.turn_to("toolheads")
    settle(qtbot, window)
    board = explain.of("toolheads").board
    qtbot.waitUntil(lambda: board.chosen == "T1", timeout=240_000)
    middle = board.button(board.boxes()[0]).center().toPoint()
    qtbot.mouseClick(board, Qt.MouseButton.LeftButton, pos=middle)
    assert bench.job.found.toolhead == "T1"
    assert bench.job.found.hotend.nozzle_mm == 0.8
    assert explain.tabs["hotend"].text() == "Hotend T1"
    window.bench.next_in_front()
    assert bench.job == before
    board.setFocus()
    qtbot.waitUntil(lambda: board.chosen == "T1", timeout=240_000)
    QTest.keyClick(board, Qt.Key.Key_Delete)
    assert not bench.job.found.toolheads
    assert explain.part == "hotend"
    bench.undo()
    assert bench.job == before


def test_every_toolhead_has_its_place_in_the_picture_and_the_report(qtbot, window):
    type_line(qtbot, window, "idex")
    window.explain.turn_to("machine")
    machine = window.explain.machine
    qtbot.waitUntil(lambda: machine.whole is not None and not machine.whole.waits
                    and machine.whole.job == window.bench.job, timeout=240_000)  # fmt: skip
    assert {one.station for one in machine.board.view.shape.solids} >= {"T1.block", "T1.sink_base"}
    assert machine.board.view.temperatures["T1.block"] == pytest.approx(150.0, abs=1.0)
    label = next(one for one in machine.board.view.labels if one.key == "toolheads")
    assert label.says == "T0, T1"
    assert label.there
    window.show_report()
    qtbot.waitUntil(lambda: "T1: " in window.report.page.toPlainText(), timeout=240_000)

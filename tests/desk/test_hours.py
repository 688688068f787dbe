"""Time strip, strengths, board, logs and the machine's dialog, in the real window."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from PyQt6.QtCore import QMimeData, QPoint, QPointF, Qt, QUrl
from PyQt6.QtGui import QDropEvent
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QPushButton

from tests.window import settle
from zeotherm.core.judgement.margins import State
from zeotherm.desk.timeview import strip
from zeotherm.shop.editing import run_edits
from zeotherm.shop.practice.virtual_printer import as_csv, day

LEFT = Qt.MouseButton.LeftButton


def drop(window, path: Path) -> None:
    mime = QMimeData()
    mime.setUrls([QUrl.fromLocalFile(str(path))])
    window.dropEvent(QDropEvent(QPointF(50, 50), Qt.DropAction.CopyAction, mime, LEFT, Qt.KeyboardModifier.NoModifier))


def test_scrubbing_moves_ladder_picture_and_margins_together(qtbot, open_window):
    window = open_window()
    bench, explain = window.bench, window.explain
    worst = bench.found
    headline = explain.verdict.accessibleName()
    assert explain.ladder._view.title.startswith("At 14:3")
    QTest.mouseClick(explain.strip, LEFT, pos=QPoint(int(explain.strip.x_of(2.0 * 3600.0)), 80))
    settle(qtbot, window)
    assert bench.found.time == pytest.approx(7200.0, abs=60.0)
    assert explain.ladder._view.title.startswith("At 11:30")
    assert bench.found.answer.solved.readout.values["bore"] < worst.answer.solved.readout.values["bore"] - 5
    assert bench.found.answer.margin("feed").room > 0
    assert explain.verdict.accessibleName() == headline
    settle(qtbot, window)
    assert bench.found.answer.bands is not None
    before = bench.found.time
    QTest.keyClick(explain.strip, Qt.Key.Key_Right)
    assert explain.strip.view.now == pytest.approx(before + 60.0), "the post goes with the key, the rest follows"
    QTest.keyClick(explain.strip, Qt.Key.Key_Left, Qt.KeyboardModifier.ShiftModifier)
    settle(qtbot, window)
    assert bench.found.time == pytest.approx(before - 540.0)
    assert "neck bore" in explain.strip.accessibleDescription()
    QTest.keyClick(explain.strip, Qt.Key.Key_Backspace)
    settle(qtbot, window)
    assert bench.found.time == worst.time


def test_the_strip_tells_what_happens_and_folds(qtbot, open_window):
    window = open_window()
    view = strip(window.bench.found)
    assert view.sentence.startswith("Jam about 12:5")
    assert view.filling is not None  # residue, from nothing in the morning until it stops the feed
    early, late = (float(np.interp(time, view.filling.times, view.filling.shares)) for time in (3600.0, view.jam[2]))
    assert early < 0.05
    assert late > 0.95
    assert "residue takes" in view.spoken
    assert [tick.text for tick in view.ticks if tick.alarm]
    early, late, likely = view.jam
    assert early < likely < late
    assert len(view.dots) >= 3
    tall = window.explain.strip.height()
    QTest.keyClick(window, Qt.Key.Key_F9)
    assert window.explain.strip.height() < tall / 2
    QTest.keyClick(window, Qt.Key.Key_F9)
    assert window.explain.strip.height() == tall


def test_levers_stand_by_their_strength(qtbot, open_window):
    window = open_window()
    gains = [line.row.gain for line in window.explain.levers._order]
    assert gains == sorted(gains, reverse=True)
    assert gains[0] > 5
    advice = window.explain.levers._advice.accessibleName()
    assert "Enough on its own: " in advice


def test_a_fault_comes_at_the_moment_shown(qtbot, open_window):
    window = open_window()
    window.bench.scrub(3600.0)
    assert window.bench.fault("fan_stops")
    settle(qtbot, window)
    fault = window.bench.job.setup().faults["fan_stops"]
    assert fault.at_min == pytest.approx(60.0, abs=0.1)
    assert any(one.kind == "fault" for one in window.bench.found.course.events)
    assert window.bench.found.course_found is not None
    window.bench.undo()
    settle(qtbot, window)
    assert not window.bench.job.setup().faults


def test_a_log_is_dropped_on_the_window(qtbot, open_window, tmp_path):
    window = open_window()
    for key in list(window.bench.job.measured.runs):
        window.measure.measuring.do(run_edits.without_run, key, label="run taken off")
    settle(qtbot, window)
    assert window.bench.job.measured.laid is None
    path = tmp_path / "probes.csv"
    path.write_text(as_csv(day()))
    drop(window, path)
    qtbot.waitUntil(lambda: window.bench.job.measured.laid is not None, timeout=30_000)
    settle(qtbot, window)
    assert window.bench.job.measured.runs[window.bench.job.measured.laid].source == "probes.csv"
    assert "Not understood: feeding" in window.spine.entry.hint.toolTip()
    assert "less model" in window.explain.foot.text()
    assert "the model" in window.explain.foot.toolTip()
    bad = tmp_path / "bad.csv"
    bad.write_text("time,bed\n0,20\n9,21\n12,warm\n")
    job = window.bench.job
    drop(window, bad)
    qtbot.waitUntil(lambda: "line 4" in window.spine.entry.hint.toolTip(), timeout=30_000)
    assert window.bench.job == job


def test_every_number_is_in_the_machine_dialog(qtbot, open_window):
    window = open_window()
    QTest.keyClick(window, Qt.Key.Key_F, Qt.KeyboardModifier.ControlModifier)
    dialog = window.machine
    field = dialog.levers.line("schedule.start_h").field
    assert field.text() == "9:30"
    field.setFocus()
    field.selectAll()
    QTest.keyClicks(field, "12:30")
    QTest.keyClick(field, Qt.Key.Key_Return)
    assert window.bench.job.setup().schedule.start_h == 12.5
    field.selectAll()
    QTest.keyClicks(field, "9 V")
    QTest.keyClick(field, Qt.Key.Key_Return)
    assert field.property("wrong") is True
    assert dialog.timed.count() == 1
    button = dialog.timed.itemAt(0).widget().findChild(QPushButton)
    assert button.accessibleName() == "Take away Sun on the case: 165 W, 11:54 to 15:42"
    QTest.mouseClick(button, LEFT)
    assert window.bench.job.setup().heats == {}
    settle(qtbot, window)
    dialog.close()


def test_a_board_prepared_ahead_is_there_at_once(qtbot, open_window):
    window = open_window()
    told, job = [], window.bench.job
    window.choose.asked.changed.connect(told.append)
    window.get_ready(window.bench.found)
    qtbot.waitUntil(lambda: not window.choose.asked.busy, timeout=120_000)
    assert told == []  # nobody has asked
    assert window.bench.job == job  # nor is anything laid
    window.get_ready(window.bench.found)
    assert not window.choose.asked.busy  # once is enough

    QTest.keyClick(window, Qt.Key.Key_F5)
    qtbot.waitUntil(lambda: bool(told) and told[-1].searched, timeout=5_000)
    assert len(told[0].columns) == len(window.bench.job.variants) + 1 >= 6
    assert told[-1].cheapest is not None

    window.show_explain()
    window.bench.set_value("fan.voltage_v", 22.0)
    window.bench.accept_trial()
    settle(qtbot, window)
    window.get_ready(window.bench.found)
    assert window.choose.asked.busy
    window.show_intake()  # which asks the same processes
    window.get_ready(window.bench.found)
    assert not window.choose.asked.busy


def test_a_board_opened_while_it_is_prepared_goes_on(qtbot, open_window, monkeypatch):
    window = open_window()
    told, asked, ask = [], [], window.choose.asked.ask
    monkeypatch.setattr(window.choose.asked, "ask", lambda task: asked.append(task) or ask(task))
    window.choose.asked.changed.connect(told.append)
    window.get_ready(window.bench.found)
    qtbot.waitUntil(lambda: bool(asked), timeout=60_000)
    QTest.keyClick(window, Qt.Key.Key_F5)
    qtbot.waitUntil(lambda: bool(told) and told[-1].searched, timeout=120_000)
    assert len(asked) == 1  # nothing was begun again
    assert len(told[-1].columns) == len(window.bench.job.variants) + 1 >= 6


def test_the_board_is_solved_and_chosen_from(qtbot, open_window):
    window = open_window()
    told = []
    window.choose.asked.changed.connect(told.append)
    QTest.keyClick(window, Qt.Key.Key_F5)
    qtbot.waitUntil(lambda: bool(told) and told[-1].searched, timeout=60_000)
    columns = told[-1].columns
    assert len(columns) >= 6
    assert told[-1].cheapest is not None
    assert told[-1].cheapest.passes
    assert "Every limit met" in window.choose.verdict.accessibleDescription()
    assert any("jam" in row.accessibleName() or "sure" in row.accessibleName() for row in window.choose.board.rows())

    row = next(one for one in window.choose.board.rows() if one.key == "clean_guard")
    row.setFocus()
    QTest.keyClick(row, Qt.Key.Key_Space)
    assert window.bench.job.chosen == ["clean_guard"]
    sure = columns[("clean_guard",)].sure
    said = f"{100.0 * sure:.0f} % sure"
    qtbot.waitUntil(lambda: said in window.choose.verdict.accessibleDescription(), timeout=30_000)
    QTest.mouseClick(window.choose.take, LEFT)
    assert window.bench.job.chosen == list(told[-1].cheapest.keys)
    qtbot.waitUntil(lambda: window.choose.change is not None, timeout=60_000)
    before, after = window.choose.change
    assert before.sure < after.sure

    QTest.keyClicks(QApplication.focusWidget(), "r")
    QTest.keyClicks(window.spine.entry.field, "etraction 0.3")
    QTest.keyClick(window.spine.entry.field, Qt.Key.Key_Return)
    assert "Retraction: 0.3 mm" in [one.label for one in window.bench.job.variants.values()]
    qtbot.waitUntil(lambda: not window.choose.asked.busy, timeout=60_000)

    QTest.keyClick(window, Qt.Key.Key_P, Qt.KeyboardModifier.ControlModifier)
    qtbot.waitUntil(lambda: "Before and after" in window.report.page.toPlainText(), timeout=60_000)
    assert "with the set" in window.report.page.toPlainText()


def test_the_window_does_not_wait_for_a_run(qtbot, open_window):
    """A lever answers at once in the air of before, marked so; the run follows."""
    window = open_window()
    window.bench.set_value("fan.guard_blocked_pct", 20.0)
    qtbot.waitUntil(lambda: window.bench.found.job == window.bench.job, timeout=20_000)
    first = window.bench.found
    settle(qtbot, window)
    assert first.about
    assert not window.bench.found.about
    known = first.answer.solved.readout.values["bore"]
    assert window.bench.found.answer.solved.readout.values["bore"] == pytest.approx(known, abs=1.0)
    assert window.bench.found.worst.worst.state in (State.OVER, State.CLOSE)
    assert np.isfinite(window.bench.found.course.run.closure)

"""Do in the real window: the order written, its waits, wrong entries, keys, the page for smoke and runaway."""

from __future__ import annotations

from pathlib import Path

import pytest
from PyQt6.QtCore import Qt, QTimer
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QInputDialog

from tests.bench import at_hand, drop, note, photograph, read, said, tick_all
from tests.clocks import Clocks
from tests.window import put_on_bench, settle
from zeotherm.core.judgement.margins import State
from zeotherm.core.solver.axisymmetric import NotConvergedError
from zeotherm.core.work.gates import Why
from zeotherm.desk.style import theme
from zeotherm.shop.files.own_entries import WORK
from zeotherm.shop.practice.probes import VirtualProbe


@pytest.fixture
def clocks() -> Clocks:
    return Clocks()


@pytest.fixture
def work(qtbot, open_window, clocks):
    """The view with a fan to be cleaned."""
    window = open_window(settled=False)
    window.do.working.clock = clocks.bench()
    QTest.keyClick(window, Qt.Key.Key_F6)
    window.do.plan.checks["fan_cleaning"].click()
    window.do.verdict.button.click()
    at_hand(qtbot, window)
    return window


def whys(window) -> list[Why]:
    return [state.why for state in window.do.working.gates(window.do.order.now)]


def test_what_is_to_be_done_is_laid_out_before_it_is_written(qtbot, open_window):
    window = open_window(settled=False)
    window.show_do()
    assert "Nothing is ordered yet" in window.do.verdict.accessibleName()
    assert not window.do.verdict.button.isEnabled()
    window.do.plan.checks["break_change"].click()
    assert window.do.verdict.button.isEnabled()
    assert [row.key for row in window.do.list.rows()], "its steps can be looked over"
    assert "two spanners" in window.do.side.parts.text()
    assert "new break" in window.do.side.parts.text()
    assert window.bench.job.doing.written is None
    window.do.plan.checks["break_change"].click()
    assert not window.do.list.rows()


def test_a_refused_procedure_says_why(qtbot, open_window):
    window = open_window(settled=False)
    window.show_do()
    assert not window.do.plan.checks["flame"].isEnabled()
    window.do.plan.checks["cold_pull"].click()
    box = window.do.plan.boxes["tip"]
    box.setCurrentIndex(box.findData("gem"))
    box.activated.emit(box.currentIndex())
    assert window.do.order.lines[0].status == "barred"
    assert "gem" in window.do.list.rows()[0].accessibleName()


def test_the_hold_waits_for_a_probe(qtbot, work, clocks):
    assert work.do.order.now.key == "to/block.cool"
    assert not work.do.card.exits["cool"].isEnabled()
    tick_all(work)
    assert whys(work) == [Why.OPEN, Why.NO_READING]
    clocks.go(3000.0)
    work.do._tick_along()
    assert not work.do.card.exits["cool"].isEnabled(), "the forecast alone opens nothing"
    read(work, "24", "camera")
    assert "camera" in work.do.verdict.accessibleDescription()
    assert not work.do.card.exits["cool"].isEnabled()
    read(work, "24")
    assert whys(work) == [Why.OPEN, Why.OPEN]
    assert work.do.verdict.button.text() == "Cool to the touch"
    clocks.go(200.0)
    work.do._tick_along()
    assert whys(work)[1] is Why.STALE
    assert "read again" in work.do.verdict.accessibleDescription()


def test_a_wait_is_told_with_its_band(qtbot, work, clocks):
    tick_all(work)
    clocks.go(120.0)
    read(work, "150")
    button = work.do.verdict.button
    assert button.text().startswith("Held, ")
    assert not button.isEnabled()
    view = work.do.card.view.hold
    assert view.value == 150.0
    assert "(" in view.below
    assert " to " in view.below
    marker = next(row for row in work.do.ladder.rows() if row.key == "block")
    assert "150 degrees" in marker.accessibleName()
    assert work.do.ladder._view.title == "Touch limit 48 °C, cooling"


def test_wrong_readings_are_told_where_they_are_typed(qtbot, work, clocks):
    tick_all(work)
    for typed, told in [("lots", "no number"), ("900", "cannot be"), ("12 V", "a voltage"), ("-80", "cannot be")]:
        read(work, typed)
        assert told in said(work)
        assert work.bench.job.doing.open.readings == []
        assert work.do.card.reading.text() == typed, "what was typed stays to be corrected"
    clocks.go(60.0)
    read(work, "30")
    assert whys(work)[1] is Why.TOO_LOW
    assert "press the probe" in work.do.verdict.accessibleDescription()
    clocks.go(240.0)
    read(work, "232")
    assert "Pull the plug" in work.do.verdict.accessibleDescription()
    work.do.card.before.setText("a while")
    work.do.card.begin.click()
    assert "no number" in said(work)
    work.do.card.before.setText("5 h")
    work.do.card.begin.click()
    read(work, "19")
    assert work.do.card.exits["cool"].isEnabled(), "a machine that is cold already goes on at once"


def test_the_entry_line_logs_a_reading(qtbot, work, clocks):
    tick_all(work)
    clocks.go(100.0)
    work.activateWindow()
    work.do.setFocus()
    qtbot.waitUntil(lambda: QApplication.focusWidget() is work.do, timeout=30_000)
    QTest.keyClicks(work.do, "1")
    field = work.spine.entry.field
    QTest.keyClicks(field, "55")
    QTest.keyClick(field, Qt.Key.Key_Return)
    assert work.bench.job.doing.open.readings[-1].value == 155.0
    assert field.text() == ""


def test_a_clock_that_is_set_moves_no_wait_and_one_set_back_holds_it(qtbot, work, clocks):
    tick_all(work)
    clocks.go(600.0)
    before = work.do.working.now_s(work.do.order.now)
    clocks.wall = clocks.wall.replace(hour=7)
    work.do._tick_along()
    assert "set back by 3 h" in said(work)
    assert work.do.working.now_s(work.do.order.now) == before
    clocks.wall = clocks.wall.replace(hour=10)
    clocks.go(300.0)
    work.do.working.clock = clocks.bench()  # a new sitting
    clocks.wall = clocks.wall.replace(hour=8)
    work.do._tick_along()
    assert whys(work)[1] is Why.CLOCK
    assert "set back" in work.do.verdict.accessibleDescription()
    read(work, "30")
    assert "Begin the wait anew" in said(work)
    work.do.card.before.setText("60 min")
    work.do.card.begin.click()
    read(work, "30")
    assert work.do.card.exits["cool"].isEnabled()


def test_a_probe_feeds_the_hold_and_its_loss_is_told(qtbot, work, clocks):
    tick_all(work)
    working = work.do.working
    working.connect_probe(lambda: VirtualProbe(lambda: clocks.steady))
    for _reading in range(5):
        clocks.go(20.0)
        working.poll()
    values = [one.value for one in work.bench.job.doing.open.readings]
    assert len(values) == 5
    assert values == sorted(values, reverse=True)
    work.bench.undo()
    assert len(work.bench.job.doing.open.readings) < 5, "a feed is one edit, not one a second"

    class Silent:
        name = "probe"
        way = "probe"

        def read(self) -> None:
            return None

        def close(self) -> None:
            pass

    working.connect_probe(Silent)
    clocks.go(9.0)
    working.poll()
    assert "measure by hand" in work.do.probe_line.text()
    working.disconnect_probe()


def test_every_port_is_offered_at_every_speed(work, monkeypatch):
    monkeypatch.setattr("zeotherm.desk.views.do.asks.ports", lambda: [Path("/dev/ttyUSB0")])
    work.do.asks.fill_probes()
    texts = [one.text() for one in work.do.asks.probes.actions()]
    assert texts[1:] == ["/dev/ttyUSB0 at 9600 baud", "/dev/ttyUSB0 at 115200 baud"]


def test_a_missing_photograph_keeps_the_step(qtbot, work, clocks, tmp_path):
    tick_all(work)
    clocks.go(1500.0)
    read(work, "30")
    work.do.leave("cool")
    at_hand(qtbot, work)
    tick_all(work)
    work.do.leave("out")
    assert at_hand(qtbot, work) == "to/duct.off"
    tick_all(work)
    note(work, "screws_out", "99")
    assert "outside 0 to 40" in said(work)
    assert "Refused" in work.do.card.marks["screws_out"].text()
    note(work, "screws_out", "4")
    work.do.leave("off")
    assert "photograph" in said(work)
    drop(work, photograph(tmp_path, "duct"))
    assert work.bench.job.doing.open.photos["photo"].name == "duct.png"
    work.do.leave("off")
    assert work.bench.job.doing.done[-1].values == {"screws_out": 4.0}
    assert "Step 8 puts it back" in work.do.foot.text() or "puts it back" in work.do.foot.text()


def test_steps_can_be_looked_at_but_not_skipped(qtbot, work):
    QTest.keyClick(work.do, Qt.Key.Key_Right)
    view = work.do.card.view
    assert view.key == "to/power.out"
    assert not view.live
    assert not any(button.isVisible() for button in work.do.card.exits.values())
    assert not any(check.isEnabled() for check in work.do.card.ticks.values())
    assert work.do.verdict.button.text() == "Back to step 1"
    work.do.verdict.button.click()
    assert work.do.card.view.live
    QTest.keyClick(work.do, Qt.Key.Key_Left)
    assert work.do.card.view.key == "to/block.cool"
    work.do.leave("nonsense")
    assert work.bench.job.doing.done == []


def test_undo_takes_a_tick_back(qtbot, work):
    tick_all(work)
    assert work.do.card.ticks[0].isChecked()
    work.bench.undo()
    assert not work.do.card.ticks[0].isChecked()


def test_a_recheck_is_left_out_with_a_reason(qtbot, work, monkeypatch):
    monkeypatch.setattr(QInputDialog, "getText", lambda *_about: ("no", True))
    work.do.asks.reason("fan_blows")
    assert "few words" in said(work)
    monkeypatch.setattr(QInputDialog, "getText", lambda *_about: ("the fan is tested elsewhere", True))
    work.do.asks.reason("fan_blows")
    assert work.bench.job.doing.left_out == {"fan_blows": "the fan is tested elsewhere"}
    assert "Left out" in work.do.side.parts.text()


def test_smoke_is_one_key_away_from_everywhere(qtbot, work):
    for show in (work.show_intake, work.show_explain, work.show_do, work.show_report, work.show_jobs):
        show()
        work.activateWindow()
        shown = work.stack.currentWidget()
        QTest.keyClick(work, Qt.Key.Key_F1)
        assert work.stack.currentWidget() is work.emergency
        assert work.emergency.blocks["runaway"].isVisible()
        QTest.keyClick(work.emergency.back, Qt.Key.Key_Escape)
        assert work.stack.currentWidget() is shown
    work.list_machine()
    QTest.keyClick(work.machine, Qt.Key.Key_F1)
    assert work.stack.currentWidget() is work.emergency
    work.emergency.back.click()
    QTimer.singleShot(50, lambda: QTest.keyClick(QApplication.activeModalWidget(), Qt.Key.Key_F1))
    work.describe()
    assert work.stack.currentWidget() is work.emergency, "a dialog that stood in the way is gone"
    work.emergency.back.click()
    work.spine.alarm.click()
    work.emergency.back.click()
    assert work.stack.currentWidget() is work.jobs
    text = " ".join(label.accessibleName() for label in work.emergency.blocks.values())
    assert "Pull the plug" in text
    assert "Never widen or switch off a protection" in text


def test_an_order_that_leads_above_a_part_stops_with_the_reason(qtbot, open_window):
    window = open_window(settled=False)
    put_on_bench(window, "Gannet")
    window.bench.enter_fact("filament pc")
    settle(qtbot, window)
    window.show_do()
    window.do.plan.checks["nozzle_change"].click()
    window.do.verdict.button.click()
    assert window.do.verdict.accessibleName() == "This order cannot go on"
    assert "PTFE liner" in window.do.verdict.accessibleDescription()
    assert window.spine.do._state is State.OVER


def test_own_procedures_are_offered_and_wrong_ones_named(qtbot, open_window):
    window = open_window(settled=False)
    path = window.bench.own_file(WORK)
    whole = """[procedures.polish]
label = "Polish the sign"
why = "it is ours"
rank = 3
[[procedures.polish.steps]]
key = "rub"
label = "Rub it"
text = "Rub it well."
minutes = 2
tools = ["cloth"]
signs = []
gates = [{ kind = "tick", text = "It is dusty" }]
record = [{ key = "n", label = "Note", kind = "text" }]
exits = [{ key = "done", label = "Shines" }]
failing = "Leave it."
"""
    path.write_text(whole)
    window.bench.read_own_entries()
    window.show_do()
    assert "polish" in window.do.plan.checks
    path.write_text(whole.replace('tools = ["cloth"]', "tools = []"))
    window.bench.read_own_entries()
    assert "line 10" in said(window)
    assert "Rub it" in said(window)
    assert "polish" not in window.bench.catalogue.procedures


def test_light_dark_and_narrow_show_the_same(qtbot, work):
    before = work.do.card.text.text(), work.do.verdict.accessibleName()
    work.toggle_theme()
    assert (work.do.card.text.text(), work.do.verdict.accessibleName()) == before
    assert theme.tokens().name == "dark"
    work.resize(1024, 700)
    qtbot.waitUntil(lambda: work.do.drawer.isVisible(), timeout=20_000)
    work.do.drawer.click()
    assert work.do.side.isVisible()
    assert not work.do.card.isVisible()
    work.do.drawer.click()
    assert work.do.card.isVisible()


def test_closing_in_mid_step_keeps_everything(qtbot, work, open_window, clocks):
    tick_all(work)
    clocks.go(120.0)
    read(work, "151")
    work.close()
    again = open_window(settled=False)
    again.do.working.clock = clocks.bench()
    again.show_do()
    at_hand(qtbot, again)
    assert again.do.order.now.key == "to/block.cool"
    assert again.do.card.ticks[0].isChecked()
    assert again.bench.job.doing.open.readings[-1].value == 151.0


def test_enter_goes_where_the_arrow_points_once_it_is_open(qtbot, work, clocks):
    tick_all(work)
    work.activateWindow()
    work.do.setFocus()
    QTest.keyClick(work.do, Qt.Key.Key_Return)
    assert work.bench.job.doing.done == [], "held"
    clocks.go(1500.0)
    read(work, "30")
    work.do.setFocus()
    qtbot.waitUntil(lambda: QApplication.focusWidget() is work.do, timeout=30_000)
    QTest.keyClick(work.do, Qt.Key.Key_Return)
    assert [one.exit for one in work.bench.job.doing.done] == ["cool"]
    at_hand(qtbot, work)
    tick_all(work)
    button = work.do.card.exits["out"]
    button.setFocus()
    QTest.keyClick(button, Qt.Key.Key_Space)
    assert work.do.card.view.key == "to/duct.off"
    assert work.do.card.view.live, "the step at hand is shown, not a row that the focus wandered to"


def test_without_an_answer_of_the_model_a_rough_curve_serves(qtbot, open_window, clocks, monkeypatch):
    def fails(*_about: object, **_more: object) -> None:
        raise NotConvergedError("nothing")

    monkeypatch.setattr("zeotherm.answers.work.block_cooling", fails)
    window = open_window(settled=False, alone=True)
    window.do.working.clock = clocks.bench()
    window.show_do()
    window.do.plan.checks["fan_cleaning"].click()
    window.do.verdict.button.click()
    at_hand(qtbot, window)
    assert "rough one" in window.do.card.wait.text()
    tick_all(window)
    clocks.go(900.0)
    read(window, "41")
    assert window.do.card.exits["cool"].isEnabled()


def test_aids_of_another_machine_never_serve(qtbot, work):
    line = work.do.order.now
    assert work.do.working.aids(line) is not None
    work.bench.enter_fact("sleeve silicone")
    assert work.do.working.aids(work.do.order.now) is None, "another machine: it is computed anew"
    at_hand(qtbot, work)
    put_on_bench(work, "Dunlin")
    work.show_do()
    work.do.plan.checks["fan_cleaning"].click()
    work.do.verdict.button.click()
    assert work.do.order.now.key == "to/block.cool"
    assert work.do.working.aids(work.do.order.now) is None
    at_hand(qtbot, work)
    assert work.do.working.aids(work.do.order.now).curve.values[0] > 220.0

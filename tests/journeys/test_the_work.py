"""The work in the real window: Curlew mended and proved; a cold pull; a break half taken out and taken up again."""

from __future__ import annotations

from pathlib import Path

import pytest
from PyQt6.QtCore import QSize, Qt
from PyQt6.QtPdf import QPdfDocument
from PyQt6.QtTest import QTest

from tests.bench import at_hand, do_step, note, read, said, tick_all
from tests.clocks import Clocks
from tests.window import settle
from zeotherm.core.judgement.margins import State

NOTES = {"screws_out": "4", "screws_in": "4", "minutes": "5 h", "gap": "0.5", "preload": "0.3", "bore": "0.4"}


@pytest.fixture
def clocks() -> Clocks:
    return Clocks()


def searched(qtbot, window) -> None:
    """Wait until the board has its cheapest set."""

    def done() -> bool:
        solved = window.choose._solved
        return solved is not None and solved.searched and window.choose.take.isEnabled()

    qtbot.waitUntil(done, timeout=60_000)


def test_curlews_set_through_the_order_to_a_closed_job(qtbot, open_window, clocks, tmp_path):
    window = open_window()
    window.do.working.clock = clocks.bench()
    QTest.keyClick(window, Qt.Key.Key_F5)
    searched(qtbot, window)
    window.choose.take.click()
    assert sorted(window.bench.job.chosen) == ["clean_guard", "open_vents"]
    window.bench.choose(["clean_guard", "duct"])  # the guard is dirty anyway
    window.choose.verdict.button.click()
    assert window.stack.currentWidget() is window.do
    assert window.do.plan.checks["fan_cleaning"].isChecked()
    assert window.do.plan.checks["fan_duct"].isChecked()
    assert "197 min" in window.do.plan.failed.text()
    window.do.verdict.button.click()
    assert "Print before you begin" in window.do.side.parts.text()

    path = tmp_path / "order.pdf"
    window.papers.order(path, window.do.working.proof)
    text = pdf_text(path)
    for line in window.do.order.steps:
        assert line.step.label in text
    assert text.count("[") >= 20
    assert "4 h 56 min" in text

    keys = []
    while window.do.order.now is not None:
        keys.append(do_step(qtbot, window, clocks, tmp_path, **NOTES))
        assert len(keys) < 40
    assert keys.index("to/power.out") < keys.index("to/duct.off") < keys.index("fan_cleaning/clean")
    assert keys.index("to/duct.fitted") < keys.index("to/power.in") < keys.index("check/fan_blows")
    assert keys[-1] == "check/proof"
    job = window.bench.job
    assert job.doing.closed is not None
    assert window.do.verdict.accessibleName() == "The work is done and proved"
    assert window.spine.do._state is State.CLEAR
    assert "ran 5 h 00 min without a stop" in window.do.side.sheet.text()
    assert len([one for one in job.doing.done if one.photos]) >= 1
    window.do.verdict.button.click()
    assert window.stack.currentWidget() is window.report


def test_a_cold_pull_with_a_second_pull(qtbot, open_window, clocks, tmp_path):
    window = open_window(settled=False)
    window.do.working.clock = clocks.bench()
    window.show_do()
    window.do.plan.checks["cold_pull"].click()
    window.do.verdict.button.click()
    assert do_step(qtbot, window, clocks, tmp_path) == "cold_pull/idler"
    assert "230" in window.do.card.target.text()
    for exit_key in ("dirty", ""):
        assert do_step(qtbot, window, clocks, tmp_path) == "cold_pull/fill_own"
        assert do_step(qtbot, window, clocks, tmp_path) == "cold_pull/set"
        at_hand(qtbot, window)
        tick_all(window)
        clocks.go(60.0)
        read(window, "60", "console")
        assert not window.do.card.exits["cast"].isEnabled(), "not yet at the release point"
        assert "90 °C to pull" in window.do.card.target.text()
        assert do_step(qtbot, window, clocks, tmp_path, exit_key, released="91") == "cold_pull/pull_low"
    done = [one for one in window.bench.job.doing.done if one.step == "cold_pull/pull_low"]
    assert [one.exit for one in done] == ["dirty", "cast"]
    assert [one.values["released"] for one in done] == [91.0, 91.0]
    assert window.do.order.now.key == "check/proof"


def test_a_break_half_taken_out_is_taken_up_again_the_next_day(qtbot, open_window, clocks, tmp_path):
    window = open_window(settled=False)
    window.do.working.clock = clocks.bench()
    window.show_do()
    window.do.plan.checks["break_change"].click()
    window.do.verdict.button.click()
    while at_hand(qtbot, window) != "to/break.out":
        do_step(qtbot, window, clocks, tmp_path, **NOTES, adjuster="third notch")
    tick_all(window)
    done = [one.step for one in window.bench.job.doing.done]
    assert done.index("to/nozzle.out") < done.index("to/power.out") < done.index("to/head.off")
    window.close()

    clocks.go(20.0 * 3600.0)
    again = open_window(settled=False)
    again.do.working.clock = clocks.bench()
    QTest.keyClick(again, Qt.Key.Key_F6)
    assert at_hand(qtbot, again) == "to/break.out"
    assert all(check.isChecked() for check in again.do.card.ticks.values())
    assert again.bench.job.doing.done[-1].step == done[-1]
    for _back in range(6):
        again.do.step_by(-1)
        if "third notch" in again.do.card.ended.text():
            break
    assert "third notch" in again.do.card.ended.text()
    again.do.verdict.button.click()
    assert "Mains plug is out and tagged" in again.do.foot.text()
    while (key := at_hand(qtbot, again)) != "check/hot_tighten":
        do_step(qtbot, again, clocks, tmp_path, **NOTES, shown="17.5", room="17", values="24 / 1.9 / 75")
        assert len(again.bench.job.doing.done) < 60, key
    tick_all(again)
    clocks.go(120.0)
    read(again, "190", "console")
    assert not again.do.card.exits["pass"].isEnabled(), "colder than it will print"
    read(again, "210", "console")
    assert "soak" in str([state.gate.computed for state in again.do.working.gates(again.do.order.now)])
    assert not again.do.card.exits["pass"].isEnabled(), "at temperature, but not a minute yet"
    clocks.go(200.0)
    read(again, "210", "console")
    again.do.card.exits["pass"].click()
    assert again.bench.job.doing.done[-1].step == "check/hot_tighten", said(again)
    while again.do.order.now is not None:
        do_step(qtbot, again, clocks, tmp_path, **NOTES, offset="-1.25", values="24 / 1.9 / 75")
    assert again.bench.job.doing.closed is not None


def test_a_repair_that_fails_its_proof_stays_open(qtbot, open_window, clocks, tmp_path):
    window = open_window(settled=False)
    window.do.working.clock = clocks.bench()
    window.show_do()
    window.do.plan.checks["vents"].click()
    window.do.plan.failed.setText("2 h")
    window.do.plan.failed.editingFinished.emit()
    window.do.verdict.button.click()
    do_step(qtbot, window, clocks, tmp_path, open="80")
    tick_all(window)
    note(window, "minutes", "2 h")
    window.do.leave("pass")
    assert "short of the 3 h 00 min" in said(window)
    window.do.leave("fail")
    assert window.bench.job.doing.closed is None
    assert window.do.verdict.accessibleName() == "Done, but not mended"
    assert window.size() == QSize(1280, 800)
    settle(qtbot, window)


def pdf_text(path: Path) -> str:
    """The text of every page, in one line."""
    pdf = QPdfDocument(None)
    assert pdf.load(str(path)) == QPdfDocument.Error.None_
    text = " ".join(pdf.getAllText(page).text() for page in range(pdf.pageCount()))
    pdf.close()
    return " ".join(text.split())

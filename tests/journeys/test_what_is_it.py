"""From the first fact to the decided cause, in the real window."""

from __future__ import annotations

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest

from tests.window import put_on_bench, settle, type_line
from zeotherm.desk.window import Window

MOST_CHECKS = 12


@pytest.fixture
def intake(open_window, qtbot):
    """Opens Intake on the job of one machine."""

    def opened(machine: str) -> Window:
        window = open_window()
        put_on_bench(window, machine)
        settle(qtbot, window)
        QTest.keyClick(window, Qt.Key.Key_F2)
        qtbot.waitUntil(lambda: ranked(window), timeout=30_000)
        return window

    return opened


def ranked(window: Window) -> bool:
    known = window.intake.diagnosis
    return known is not None and known.job == window.bench.job


def wait(qtbot, window: Window) -> None:
    qtbot.waitUntil(lambda: ranked(window), timeout=30_000)


def simulated(qtbot, window: Window) -> None:
    qtbot.waitUntil(lambda: ranked(window) and not window.intake.asked.busy, timeout=60_000)


def touch(qtbot, window: Window, *keys: str) -> None:
    for key in keys:
        row = next(row for row in window.intake.chips.rows() if row.key == key)
        QTest.mouseClick(row, Qt.MouseButton.LeftButton)
        wait(qtbot, window)


def first(window: Window) -> str:
    return window.intake.diagnosis.ranking.first.key


def follow(qtbot, window: Window, truth: dict[str, str]) -> list[str]:
    """Do the proposed checks until enough is known; what nobody can tell is left out."""
    done = []
    card = window.intake.card
    while not window.intake.diagnosis.plan.enough and window.intake.diagnosis.plan.checks and len(done) < MOST_CHECKS:
        key = window.intake.diagnosis.plan.checks[0].key
        done.append(key)
        answer = next((one for one in card.answers if one.isVisible() and one.key == truth.get(key)), None)
        if answer is not None and answer.isEnabled():
            QTest.mouseClick(answer, Qt.MouseButton.LeftButton)
        else:
            QTest.mouseClick(card.skip, Qt.MouseButton.LeftButton)
        wait(qtbot, window)
    return done


def test_curlew_from_the_first_fact_to_the_sun(intake, qtbot):
    window = intake("Curlew")
    assert window.spine.intake.isChecked()
    type_line(qtbot, window, "forget fan air in")
    type_line(qtbot, window, "forget sink base")
    QTest.keyClick(window, Qt.Key.Key_F2)
    touch(qtbot, window, "goes_wrong.nothing", "when.soak")
    simulated(qtbot, window)
    assert first(window) == "sun_room"
    before = window.intake.diagnosis.ranking.first.probability
    touch(qtbot, window, "depends.hour")
    assert window.intake.diagnosis.ranking.first.probability > before
    follow(qtbot, window, {"fan_turns": "turns", "fan_look": "lint", "shade": "cured"})
    assert first(window) == "sun_room"
    QTest.mouseClick(window.intake.settle, Qt.MouseButton.LeftButton)
    wait(qtbot, window)
    assert window.bench.job.intake.decided == "sun_room"
    assert {"open_vents", "duct"} <= set(window.bench.job.variants)
    assert window.intake.verdict.accessibleName().startswith("Decided")
    QTest.keyClick(window, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    wait(qtbot, window)
    assert window.bench.job.intake.decided is None


def test_a_clog_is_found_at_the_needle(intake, qtbot):
    window = intake("Dunlin")
    touch(qtbot, window, "goes_wrong.thin", "when.at_once", "strand.curls", "hand_feed.hard", "plug.burnt")
    done = follow(
        qtbot, window, {"needle": "frees", "slow_flow": "same", "hotter": "same", "cold_pull": "dirty", "bend": "bends"}
    )
    assert "needle" in done
    assert first(window) == "clog"


def test_a_gap_at_the_liner_is_found(intake, qtbot):
    window = intake("Gannet")
    touch(
        qtbot, window, "goes_wrong.nothing", "when.soak", "plug.bulb", "hand_feed.hard", "changed.nozzle",
        "tried.other_filament",
    )  # fmt: skip
    done = follow(
        qtbot,
        window,
        {
            "coupler": "firm", "liner_look": "gap", "fan_turns": "turns", "fan_look": "clean", "nozzle_hot": "tight",
            "fan_reach": "all",
        },
    )  # fmt: skip
    assert "liner_look" in done
    assert first(window) == "liner_gap"
    assert "new_liner" in window.bench.catalogue.causes["liner_gap"].remedies


def test_a_setting_leaves_the_heat_with_a_clear_word(intake, qtbot):
    window = intake("Curlew")
    QTest.keyClick(window, Qt.Key.Key_N, Qt.KeyboardModifier.ControlModifier)
    type_line(qtbot, window, "m0")
    QTest.keyClick(window.arriving.tiles["none"], Qt.Key.Key_Return)
    settle(qtbot, window)
    QTest.keyClick(window, Qt.Key.Key_F2)
    wait(qtbot, window)
    assert window.intake.verdict.accessibleName() == "Nothing known yet: what goes wrong?"
    for line in ("bad corners", "hand feed free", "new settings"):
        type_line(qtbot, window, line)
        QTest.keyClick(window, Qt.Key.Key_F2)
        wait(qtbot, window)
    follow(qtbot, window, {"pressure_off": "cured"})
    assert first(window) == "pressure_lead"
    assert "not heat" in window.intake.verdict.accessibleDescription()


def test_facts_that_cannot_both_be_so_are_said(intake, qtbot):
    window = intake("Dunlin")
    touch(qtbot, window, "goes_wrong.nothing", "hand_feed.free")
    assert window.intake.verdict.accessibleName() == "Two answers cannot both be so"
    touch(qtbot, window, "hand_feed.free")
    assert window.intake.verdict.accessibleName() != "Two answers cannot both be so"


def test_wrong_ohms_are_refused_at_the_field_and_right_ones_speak(intake, qtbot):
    window = intake("Dunlin")
    field = window.intake.ohms.fields["heater"]
    field.setText("many")
    QTest.keyClick(field, Qt.Key.Key_Return)
    assert "no resistance" in window.intake.ohms.findings["heater"].text()
    field.setText("3.7")
    QTest.keyClick(field, Qt.Key.Key_Return)
    wait(qtbot, window)
    assert "12 V heater: do not switch on" in window.intake.ohms.findings["heater"].text()
    assert window.bench.job.intake.answers["cold_ohms"] == ["heater_off"]
    assert window.intake.verdict.accessibleName() == "Heater reads that of 12 V: do not switch on"


def test_keys_alone_tell_a_fact_and_escape_stops_the_worlds(intake, qtbot):
    window = intake("Dunlin")
    QTest.keyClick(window.focusWidget(), Qt.Key.Key_Return)  # asks what would tell most
    rows = {row.key: row for row in window.intake.chips.rows()}
    assert rows["goes_wrong.nothing"].hasFocus()
    QTest.keyClick(rows["goes_wrong.nothing"], Qt.Key.Key_Down)
    QTest.keyClick(rows["goes_wrong.thin"], Qt.Key.Key_Space)
    wait(qtbot, window)
    assert window.bench.job.intake.answers == {"goes_wrong": ["thin"]}
    thin = next(row for row in window.intake.chips.rows() if row.key == "goes_wrong.thin")
    running = window.intake.asked.busy  # on a quick machine they may be over
    QTest.keyClick(thin, Qt.Key.Key_Escape)
    qtbot.waitUntil(lambda: not window.intake.asked.busy, timeout=30_000)
    assert window.stack.currentWidget() is (window.intake if running else window.explain)

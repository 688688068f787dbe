"""What comes in, told in the window: two touches to a first answer, by mouse, by keys and by codes."""

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from tests.window import settle, type_line
from zeotherm.desk.application import make_window
from zeotherm.desk.style import theme


@pytest.fixture
def window(qtbot, open_window):
    shown = open_window()
    shown.new_job()
    return shown


def test_two_touches_give_a_first_answer(qtbot, window):
    page = window.arriving
    assert not page.verdict.button.isEnabled()
    qtbot.mouseClick(page.chips["bed_slow"], Qt.MouseButton.LeftButton)
    qtbot.mouseClick(page.tiles["lined_tube"], Qt.MouseButton.LeftButton)
    assert "facts are assumed" in page.so_far.text()
    qtbot.mouseClick(page.verdict.button, Qt.MouseButton.LeftButton)
    settle(qtbot, window)
    assert window.shown == "intake"
    assert window.bench.job.intake.trouble == "bed"
    assert window.bench.job.intake.answers == {"bed_wrong": ["slow"]}
    assert window.bench.job.complaint == "Slow to heat"
    assert window.bench.job.found.bed.part == "middle_bed"
    assert window.bench.job.known == {}


def test_codes_and_enter_do_the_same_and_lead_to_the_causes(qtbot, window):
    window.arriving.setFocus()
    QTest.keyClicks(window.spine.entry.field, "h2 m5 r1 9.1")
    assert "Jams after 1 h; Nearest: cased, vents, small; " in window.spine.entry.hint.toolTip()
    QTest.keyClick(window.spine.entry.field, Qt.Key.Key_Return)
    assert window.arriving.tiles["cased_small"].isChecked()
    assert window.arriving.fields["fan_volts"].text() == "9.1"
    window.arriving.chips["leaks"].setFocus()
    QTest.keyClick(QApplication.focusWidget(), Qt.Key.Key_Return)
    settle(qtbot, window)
    assert window.shown == "intake"
    assert window.bench.job.intake.answers == {"goes_wrong": ["nothing"], "when": ["soak"]}
    assert window.bench.job.known["fan.voltage_v"].how == "measured"


def test_a_browned_plug_says_what_to_do_before_anything_else(qtbot, window):
    qtbot.mouseClick(window.arriving.chips["plug_browned"], Qt.MouseButton.LeftButton)
    assert window.arriving.verdict.accessibleName() == "Switch off and unplug"
    window.arriving.begin()
    assert window.shown == "intake"
    assert window.bench.job.intake.trouble == "wiring"
    assert window.spine.entry.hint.toolTip().startswith("Switch off and unplug.")
    settle(qtbot, window)


def test_a_wrong_reading_and_a_wrong_code_are_said_and_nothing_is_lost(qtbot, window):
    page = window.arriving
    qtbot.mouseClick(page.chips["leaks"], Qt.MouseButton.LeftButton)
    field = page.fields["fan_volts"]
    field.setFocus()
    QTest.keyClicks(field, "nine")
    page.chips["leaks"].setFocus()
    assert field.property("wrong")
    assert "'nine' is no number" in window.spine.entry.hint.toolTip()
    page.begin()
    assert "Correct the reading" in window.spine.entry.hint.toolTip()
    assert window.shown == "arriving"
    type_line(qtbot, window, "h2 x9")
    assert "'x9' is no code of this page" in window.spine.entry.hint.toolTip()
    assert page.arrival.complaints == ("leaks",)
    before = window.bench.job
    window.show_explain()
    assert window.bench.job == before  # nothing was begun


def test_a_machine_of_the_shop_is_picked_by_name(qtbot, window):
    page = window.arriving
    qtbot.waitUntil(lambda: page.known.count() >= 4, timeout=30_000)
    page.known.setCurrentIndex(page.known.findText("Dunlin, sail loft"))
    page.known.activated.emit(page.known.currentIndex())
    assert "Dunlin, sail loft, as this shop knows it" in page.so_far.text()
    page.begin()
    settle(qtbot, window)
    assert window.bench.job.machine == "Dunlin, sail loft"
    assert window.bench.job.found.bed.part != "small_bed"
    assert window.bench.job.known


def test_a_fresh_workshop_begins_with_what_comes_in(qtbot, tmp_path):
    window = make_window(tmp_path / "new.zeotherm", demo=False, theme_name="light")
    try:
        window.show()
        qtbot.waitExposed(window)
        assert window.shown == "arriving"
        assert window.bench.blank
        first = window.bench.key
        window.arriving.enter("q1 m4")
        window.arriving.begin()
        settle(qtbot, window)
        assert window.bench.key == first  # in place of the job of which nothing was told
        assert window.bench.job.complaint == "Thin flow"
        theme.choose("dark")
        window.arriving.refresh()
        window.arriving.grab()
    finally:
        theme.choose("light")
        window.close()

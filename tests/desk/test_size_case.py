"""Choose, Size the case, in the window."""

from __future__ import annotations

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtGui import QGuiApplication
from PyQt6.QtTest import QTest

from tests.window import put_on_bench
from zeotherm.core.judgement.margins import State
from zeotherm.desk.parts.enclosure.size import SizeCase
from zeotherm.desk.window import Window

pytestmark = pytest.mark.timeout(600)  # every size of a case, beside other tests


def sized(qtbot, window: Window, machine: str = "Gannet") -> SizeCase:
    """The page, everything on it known."""
    put_on_bench(window, machine)
    window.show_choose()
    window.choose.turn_to("case")
    page = window.choose.sized["case"]
    qtbot.waitUntil(lambda: page.found is not None and page.found.done and not page.asked.busy, timeout=240_000)
    return page


def test_the_page_from_filaments_to_lines(qtbot, open_window, tmp_path):
    window = open_window()
    page = sized(qtbot, window)
    rows = {row.key: row for row in page.chart.view.rows}
    assert rows["petg"].state is State.CLEAR
    assert rows["abs"].state is State.SHORT
    assert "creeps from" in rows["petg"].said
    assert "on this machine" in page.chart.rows()[0].accessibleName()
    assert page.chart.view.weakest_said.startswith("Supply")
    assert "Holding 50 °C" in page.texts["heater"].accessibleName()
    assert "Move the supply outside" in page.texts["parts"].accessibleName()
    assert "to spare" in page.texts["fit"].accessibleName()
    assert "supply's air" in window.choose.verdict.accessibleName()
    assert page.chart.grab().toImage().width() > 300

    # the lines go to the clipboard, the panels to a file, a wrong ending is refused
    page.copy.click()
    copied = QGuiApplication.clipboard().text()
    assert "no line for 50 °C, too hot for: supply's air" in copied
    assert "M191" not in copied
    page.write_outline(tmp_path / "panels.svg")
    assert (tmp_path / "panels.svg").stat().st_size > 2000
    page.write_outline(tmp_path / "panels.pdf")
    assert ".dxf or .svg" in page.trouble.text()

    # wrong wishes say what would do, and nothing is solved again
    before = page.found
    for typed, told in (("900", "20 to 120 °C"), ("warm", "20 to 120 °C")):
        page.fields["wanted_c"].setText(typed)
        QTest.keyClick(page.fields["wanted_c"], Qt.Key.Key_Return)
        assert told in page.trouble.text()
    assert page.found is before

    # another wish, and both heater and help on the board, the cut-out set where it fits then
    page.fields["wanted_c"].setText("45")
    QTest.keyClick(page.fields["wanted_c"], Qt.Key.Key_Return)
    qtbot.waitUntil(lambda: page.found.wish.wanted_c == 45.0 and page.found.done, timeout=60_000)
    page.help.click()
    page.put.click()
    variants = window.bench.job.variants
    heater = next(one for key, one in variants.items() if key.startswith("case_heater"))
    assert variants["supply_out"].change == {"case": {"supply_at": "outside"}}
    cut = page.found.sized.cut_helped
    assert cut.low < heater.change["case"]["cutout_c"] < cut.high
    changes = [str(one.change) for one in variants.values()]
    assert len(changes) == len(set(changes))


def test_a_machine_that_stands_open_has_no_case_to_size(qtbot, open_window):
    window = open_window()
    put_on_bench(window, "Dunlin")
    window.show_choose()
    window.choose.turn_to("case")
    page = window.choose.sized["case"]
    qtbot.waitUntil(lambda: "Nothing encloses" in page.trouble.text(), timeout=30_000)
    assert not page.put.isEnabled()
    page.copy_lines()
    page.put_on_board()
    page.write_outline(None)  # type: ignore[arg-type]  # nothing to write
    assert page.case is None


@pytest.mark.parametrize("dark", [False, True])
def test_a_trial_moves_the_wish_along(qtbot, open_window, dark):
    window = open_window()
    if dark:
        window.toggle_theme()
    page = sized(qtbot, window)
    window.bench.enter("case wanted 60")
    qtbot.waitUntil(lambda: page.fields["wanted_c"].text() == "60", timeout=10_000)
    qtbot.waitUntil(lambda: page.found is not None and page.found.wish.wanted_c == 60.0 and page.found.done,
                    timeout=240_000)  # fmt: skip
    assert "no line for 60 °C" in page.texts["lines"].accessibleName()
    QTest.keyClick(window.choose, Qt.Key.Key_Tab, Qt.KeyboardModifier.ControlModifier)

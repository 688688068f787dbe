"""The entry line finds places by words where a line is no value: cards, facts, commands, pages, runs, jobs."""

from __future__ import annotations

import pytest
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtTest import QTest


@pytest.fixture
def window(qtbot, open_window):
    return open_window()


def typed(window, text):
    field = window.spine.entry.field
    field.setFocus()
    field.clear()
    QTest.keyClicks(field, text)
    return window.spine.entry.found


def found(window, text):
    return [(one.label, one.aside) for one in typed(window, text).places]


def test_words_find_cards_facts_commands_pages_and_runs(window):
    assert ("Bed lead", "card") in found(window, "bed lead")
    assert ("Light or dark", "command, F12") in found(window, "dark")
    assert ("Power and wiring", "manual") in found(window, "wiring")
    assert any(aside == "fact" for _label, aside in found(window, "neck"))
    run = next(iter(window.bench.job.measured.runs.values())).label
    assert (run, "run") in found(window, run)


def test_a_job_is_found_by_its_name_and_opened(qtbot, window):
    list_ = typed(window, "gannet")
    qtbot.waitUntil(lambda: any(one.aside == "job 0407" for one in typed(window, "gannet").places), timeout=30_000)
    before = window.bench.job.number
    QTest.keyClick(window.spine.entry.field, Qt.Key.Key_Down)
    assert list_.chosen.label == "Gannet, boat-yard"
    QTest.keyClick(window.spine.entry.field, Qt.Key.Key_Return)
    assert window.bench.job.number == "0407" != before
    assert window.spine.entry.field.text() == ""


def test_down_chooses_enter_goes_and_nothing_chosen_is_entered_as_a_line(window):
    list_ = typed(window, "bed lead")
    assert list_.isVisible()
    assert list_.chosen is None
    QTest.keyClick(window.spine.entry.field, Qt.Key.Key_Return)  # no value: said, and nothing goes anywhere
    assert window.explain.part == "hotend"
    QTest.keyClick(window.spine.entry.field, Qt.Key.Key_Down)
    QTest.keyClick(window.spine.entry.field, Qt.Key.Key_Return)
    assert window.explain.part == "machine"
    assert window.explain.machine.card.view.key == "bed_lead"
    assert not list_.isVisible()


def test_a_press_goes_there_too(window):
    list_ = typed(window, "when something")
    QTest.mouseClick(list_, Qt.MouseButton.LeftButton, pos=QPoint(20, 12))
    assert window.manual.isVisible()
    assert window.manual.page.toPlainText().startswith("When something is wrong")


@pytest.mark.parametrize("text", ["fan 9.1 V", "x", "", "no such place at all", "%%%", "zz" * 80])
def test_nothing_is_offered_for_values_and_for_what_there_is_not(window, text):
    assert found(window, text) == []
    assert not window.spine.entry.found.isVisible()


def test_escape_clears_the_line_and_its_list(window):
    list_ = typed(window, "bed")
    assert list_.isVisible()
    QTest.keyClick(window.spine.entry.field, Qt.Key.Key_Escape)
    assert not list_.isVisible()
    assert window.spine.entry.field.text() == ""

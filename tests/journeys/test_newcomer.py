"""A newcomer who knows what is printed on ten different machines: a first answer at once, a description in a minute."""

from __future__ import annotations

import time

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from tests.journeys.sheets import SHEETS
from zeotherm.core.machine.patches import value_at

FIRST_ACTIONS, FIRST_SECONDS = 12, 60.0
ALL_ACTIONS = 60
TRIED = ("exhaust 20 m3/h",)  # what the nearest machine does not have goes on trial


class Hand:
    """Does one thing after the other in a window, and counts: a press, a key that is not text, a line of text."""

    def __init__(self, qtbot, window) -> None:
        self.qtbot, self.window, self.actions = qtbot, window, 0

    def press(self, widget) -> None:
        self.qtbot.mouseClick(widget, Qt.MouseButton.LeftButton)
        self.actions += 1

    def enter(self, line: str) -> None:
        """A line and Enter: the first letter goes to the entry line from wherever the focus is."""
        window = self.window
        window.activateWindow()
        shown = window.explain.picture if window.shown == "explain" else window.stack.currentWidget()
        shown.setFocus()
        self.qtbot.waitUntil(lambda: QApplication.focusWidget() is not None, timeout=30_000)
        QTest.keyClicks(QApplication.focusWidget(), line[0])
        window.spine.entry.field.setText(line)
        QTest.keyClick(window.spine.entry.field, Qt.Key.Key_Return)
        self.actions += 2


def answered(window):
    """Number of the job that the view which is shown has its first answer of."""
    found = window.intake.diagnosis if window.shown == "intake" else window.bench.found
    return found.job.number if found is not None else ""


def test_ten_machines_are_described_by_what_their_labels_say(qtbot, open_window):
    window = open_window(settled=False)
    told = {}
    for name, sheet in SHEETS.items():
        window.new_job()
        hand, begun = Hand(qtbot, window), time.monotonic()
        hand.press(window.arriving.chips[sheet.complaint])
        hand.press(window.arriving.tiles[sheet.nearest])
        hand.press(window.arriving.verdict.button)
        number = window.bench.job.number
        qtbot.waitUntil(lambda number=number: answered(window) == number, timeout=60_000)
        first, seconds = hand.actions, time.monotonic() - begun
        window.show_explain()
        for line, means in sheet.lines.items():
            hand.enter(line)
            job = window.bench.job
            for path, value in means.items():
                found = value_at(job.setup(), path)
                assert found == (pytest.approx(value, rel=0.01) if isinstance(value, float) else value), (name, line)
                assert path in job.known or line in TRIED, (name, line, path)
        told[name] = (first, seconds, hand.actions)
        assert window.bench.job.complaint
    assert all(first <= FIRST_ACTIONS for first, _seconds, _all in told.values()), told
    assert all(seconds <= FIRST_SECONDS for _first, seconds, _all in told.values()), told
    assert all(actions <= ALL_ACTIONS for _first, _seconds, actions in told.values()), told

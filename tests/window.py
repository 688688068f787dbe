"""A real window on a demo workshop of its own."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from pathlib import Path

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from zeotherm.desk.application import make_window
from zeotherm.desk.window import Window


@pytest.fixture
def open_window(qtbot, tmp_path: Path) -> Iterator[Callable[..., Window]]:
    """Opens windows on one workshop file; what is still open at the end is closed."""
    opened: list[Window] = []

    def open_one(*, settled: bool = True) -> Window:
        window = make_window(tmp_path / "demo.zeotherm", demo=True, theme_name="light")
        opened.append(window)
        window.resize(1280, 800)
        window.show()
        qtbot.waitExposed(window)
        window.activateWindow()
        qtbot.waitUntil(window.isActiveWindow, timeout=30_000)
        if settled:
            settle(qtbot, window)
        return window

    yield open_one
    for window in opened:
        window.close()
        window.deleteLater()


def settle(qtbot, window: Window) -> None:
    """Wait until the job on the bench is answered in full."""

    def done() -> bool:
        found = window.bench.found
        return found is not None and found.job == window.bench.job and found.complete

    qtbot.waitUntil(done, timeout=60_000)


def type_line(qtbot, window: Window, text: str) -> None:
    """Type as a person does: the first letter anywhere, then Enter."""
    shown = window.explain.picture if window.explain.isVisible() else window.stack.currentWidget()
    window.activateWindow()  # a dialog that was closed may have had the focus
    shown.setFocus()
    qtbot.waitUntil(lambda: QApplication.focusWidget() is not None, timeout=30_000)
    QTest.keyClicks(QApplication.focusWidget(), text[0])
    assert window.spine.entry.field.hasFocus()
    QTest.keyClicks(window.spine.entry.field, text[1:])
    QTest.keyClick(window.spine.entry.field, Qt.Key.Key_Return)
    settle(qtbot, window)

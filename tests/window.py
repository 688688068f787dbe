"""A real window on a demo workshop of its own.

What one window has found the next need not find again (`tests.kept`); a test that is about solving itself opens its
window `alone`.
"""

from __future__ import annotations

import contextlib
import threading
from collections.abc import Callable, Iterator
from pathlib import Path

import psutil
import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from tests.kept import STORE
from zeotherm.answers.hotend import moment_of
from zeotherm.desk.application import make_window
from zeotherm.desk.window import Window


@pytest.fixture
def open_window(qtbot, tmp_path: Path) -> Iterator[Callable[..., Window]]:
    """Opens windows on one workshop file; what is still open at the end is closed, and nothing of it may be left."""
    opened: list[Window] = []
    threads, processes = set(threading.enumerate()), set(_children())

    def open_one(*, settled: bool = True, alone: bool = False, part: str = "hotend") -> Window:
        store = None if alone else STORE
        window = make_window(tmp_path / "demo.zeotherm", demo=True, theme_name="light", store=store)
        opened.append(window)
        window.resize(1280, 800)
        window.explain.turn_to(part)
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
    left = [one.name for one in threading.enumerate() if one not in threads and one.is_alive()]
    left += [" ".join(one.cmdline()) for one in _children() if one not in processes]
    left += [type(one).__name__ for one in QApplication.topLevelWidgets() if one.isVisible()]
    assert not left, f"left behind: {left}"


def _children() -> list[psutil.Process]:
    """Processes of this one that work; not the one that keeps count of what they share."""
    found = []
    for one in psutil.Process().children(recursive=True):
        with contextlib.suppress(psutil.NoSuchProcess):
            if one.status() != psutil.STATUS_ZOMBIE and "resource_tracker" not in " ".join(one.cmdline()):
                found.append(one)
    return found


def put_on_bench(window: Window, machine: str) -> None:
    """Open the job of a machine."""
    window.bench.prefer(machine)
    window.bench.open_job(window.bench.key)


def settle(qtbot, window: Window, *, in_full: bool = True) -> None:
    """Wait until the job on the bench is answered: in full, or by its hours, without bands and what would help."""

    def done() -> bool:
        found, bench = window.bench.found, window.bench
        if found is None or found.job != bench.job or not (found.complete if in_full else found.course):
            return False
        return found.course is None or found.time == moment_of(found.course, bench.wish)

    qtbot.waitUntil(done, timeout=240_000)


def type_line(qtbot, window: Window, text: str, *, in_full: bool = False) -> None:
    """Type as a person does: the first letter anywhere, then Enter; who looks at bands waits until it is answered in
    full."""
    shown = window.explain.picture if window.explain.isVisible() else window.stack.currentWidget()
    window.activateWindow()  # a dialog that was closed may have had the focus
    shown.setFocus()
    qtbot.waitUntil(lambda: QApplication.focusWidget() is not None, timeout=30_000)
    QTest.keyClicks(QApplication.focusWidget(), text[0])
    assert window.spine.entry.field.hasFocus()
    QTest.keyClicks(window.spine.entry.field, text[1:])
    QTest.keyClick(window.spine.entry.field, Qt.Key.Key_Return)
    settle(qtbot, window, in_full=in_full)

"""A real window on a demo workshop of its own."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from pathlib import Path

import pytest

from zeotherm.desk.application import make_window
from zeotherm.desk.window import Window


@pytest.fixture
def open_window(qtbot, tmp_path: Path) -> Iterator[Callable[[], Window]]:
    """Opens windows on one workshop file; what is still open at the end is closed."""
    opened: list[Window] = []

    def open_one() -> Window:
        window = make_window(tmp_path / "demo.zeotherm", demo=True, theme_name="light")
        opened.append(window)
        window.resize(1280, 800)
        window.show()
        qtbot.waitExposed(window)
        window.activateWindow()
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

    qtbot.waitUntil(done, timeout=15_000)

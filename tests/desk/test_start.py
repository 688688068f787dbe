"""The start: what was shown last stands there at once, says so, and gives way to the window once that is answered."""

from __future__ import annotations

import os
import subprocess
import sys
import time
from concurrent.futures import Future, ThreadPoolExecutor

import pytest
from PyQt6.QtCore import QTimer
from PyQt6.QtGui import QImage
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QLabel

from zeotherm.desk.bridge import awaited
from zeotherm.desk.last_view import LastView, keep_view
from zeotherm.desk.start import Opening
from zeotherm.shop.errors import ShopError
from zeotherm.shop.places import last_view_file


@pytest.fixture
def kept(qtbot, tmp_path):
    """A workshop whose window was closed with a verdict."""
    shown = QLabel("jams")
    qtbot.addWidget(shown)
    shown.resize(640, 480)
    path = tmp_path / "demo.zeotherm"
    keep_view(shown, "This print jams", path)
    return path


class _DoneInTime(Future):
    """A future that is done just as the patience ends, after it was asked whether it is."""

    def done(self):
        was = super().done()
        if not was:
            self.set_result("done")
        return was


def test_what_is_done_just_as_the_patience_ends_is_heard_of(qtbot):
    waited = _DoneInTime()
    assert awaited(waited) == "done"


def test_who_waits_for_the_file_goes_on_being_painted(qtbot):
    beats = []
    timer = QTimer()
    timer.timeout.connect(lambda: beats.append(1))
    timer.start(5)
    with ThreadPoolExecutor(1) as pool:
        assert awaited(pool.submit(lambda: time.sleep(0.3) or "kept")) == "kept"
        with pytest.raises(ShopError, match="full"):
            awaited(pool.submit(_refuse))
    assert len(beats) > 10


def _refuse():
    time.sleep(0.05)
    raise ShopError("the disk is full")


def test_what_was_shown_is_said_to_be_of_that_day(kept, qtbot):
    last = LastView.of(kept)
    qtbot.addWidget(last)
    assert last.accessibleDescription() == "This print jams"
    assert last.said.startswith("Last shown 20")
    assert last.said.endswith("Solving again: do not act on it yet.")
    assert (last.width(), last.height()) == (640, 480)
    foot = last.grab().toImage().pixelColor(4, 470).name()
    assert foot == "#026b72"  # the strip that says so lies over the picture


def test_no_picture_no_view(kept, tmp_path):
    assert LastView.of(tmp_path / "other.zeotherm") is None
    place = last_view_file(kept)
    for content in (b"", b"no picture", place.read_bytes()[:200]):
        place.write_bytes(content)
        assert LastView.of(kept) is None
    QImage(9_000, 2, QImage.Format.Format_RGB32).save(str(place), "PNG")
    assert LastView.of(kept) is None


def test_a_cache_that_cannot_be_written_loses_nothing(qtbot, tmp_path, monkeypatch, caplog):
    (tmp_path / "file").write_text("")
    monkeypatch.setenv("ZEOTHERM_CACHE", str(tmp_path / "file"))
    shown = QLabel("jams")
    qtbot.addWidget(shown)
    keep_view(shown, "told", tmp_path / "demo.zeotherm")
    assert "the last view was not kept" in caplog.text


def test_it_gives_way_to_the_answered_window(kept, qtbot):
    begun = Opening(kept, demo=True)
    with qtbot.waitSignal(begun.opened, timeout=60_000):
        begun.begin()
        assert begun.last.isVisible()
    assert begun.window.isVisible()
    assert begun.window.bench.found is not None
    assert not begun.last.isVisible()
    begun.window.close()
    assert LastView.of(kept).accessibleDescription() == "This print jams"  # not solved in full: what was kept stays


def test_a_window_that_is_closed_keeps_what_it_showed(open_window, qtbot):
    window = open_window()
    qtbot.waitUntil(lambda: window.bench.found.complete, timeout=90_000)
    told, wide = window.explain.verdict.accessibleName(), window.width()
    window.close()
    again = LastView.of(window.bench.path)
    qtbot.addWidget(again)
    assert (again.accessibleDescription(), again.width()) == (told, wide)


def test_who_closes_it_is_not_shown_the_window(kept, qtbot):
    begun = Opening(kept, demo=True)
    begun.begin()
    begun.last.close()
    QTest.qWait(300)
    qtbot.waitUntil(lambda: not begun._loading.busy, timeout=30_000)
    QApplication.processEvents()
    assert begun.window is None


def test_a_workshop_that_cannot_be_used_ends_it_in_one_sentence(tmp_path):
    (tmp_path / "no.zeotherm").mkdir()
    code = "import sys, pathlib, zeotherm.desk.start as s; sys.exit(s.run(pathlib.Path(sys.argv[1]), demo=False))"
    done = subprocess.run(
        [sys.executable, "-c", code, str(tmp_path / "no.zeotherm")], capture_output=True, text=True, timeout=60,
        env={**os.environ, "ZEOTHERM_CACHE": str(tmp_path / "cache")}, check=False,
    )  # fmt: skip
    assert done.returncode == 1
    assert done.stderr.startswith("zeotherm: ")
    assert "Traceback" not in done.stderr


def test_what_is_wrong_inside_ends_the_start_in_one_sentence(tmp_path):
    code = (
        "import sys, pathlib, zeotherm.desk.start as s, zeotherm.desk.application as a; a.make_window = None;"
        "sys.exit(s.run(pathlib.Path(sys.argv[1]), demo=True))"
    )
    done = subprocess.run(
        [sys.executable, "-c", code, str(tmp_path / "demo.zeotherm")], capture_output=True, text=True, timeout=60,
        env={**os.environ, "ZEOTHERM_CACHE": str(tmp_path / "cache")}, check=False,
    )  # fmt: skip
    assert done.returncode == 1
    assert "something went wrong inside (TypeError)" in done.stderr
    assert "Traceback" not in done.stderr

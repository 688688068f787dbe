"""A window that is asked to end closes in order."""

from __future__ import annotations

import os
import signal
import subprocess
import sys
import time
from pathlib import Path

import psutil

from zeotherm.shop.workshops.workshop import Workshop


def test_a_window_that_is_terminated_closes_in_order_with_its_processes(tmp_path):
    environment = os.environ | {"QT_QPA_PLATFORM": "offscreen", "ZEOTHERM_DATA": str(tmp_path / "d"),
                                "ZEOTHERM_STATE": str(tmp_path / "s"), "TMPDIR": str(tmp_path)}  # fmt: skip
    window = subprocess.Popen([sys.executable, "-m", "zeotherm", "demo"], env=environment)
    file = tmp_path / "d" / "demo.zeotherm"
    end = time.monotonic() + 60.0
    while not shown(file) and time.monotonic() < end:
        time.sleep(0.1)
    children = psutil.Process(window.pid).children(recursive=True)
    os.kill(window.pid, signal.SIGTERM)
    assert window.wait(30.0) == 0
    _gone, alive = psutil.wait_procs(children, 10.0)
    assert not alive
    assert not list(tmp_path.glob("zeotherm-*")), "its folder is gone with it"
    opened = Workshop(file)
    assert len(opened.jobs()) == 3
    assert opened.note("geometry"), "what a closing window remembers"
    opened.close()


def shown(file: Path) -> bool:
    """Whether the window is up: its folder for opened files is there, and a moment has passed."""
    if not list(file.parent.parent.glob("zeotherm-*")):
        return False
    time.sleep(2.0)
    return True

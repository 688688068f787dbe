"""One jamming hotend, explained: the whole way through the real window."""

from __future__ import annotations

import json
import os
import shutil
import subprocess
import sys
import time
from pathlib import Path

import pytest
from click.testing import CliRunner
from PyQt6.QtCore import QPoint, QPointF, Qt
from PyQt6.QtPdf import QPdfDocument
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from tests.window import settle, type_line
from zeotherm.cli import main
from zeotherm.core.judgement.margins import State
from zeotherm.desk.parts.hotend.pins import shown_flags

LEFT = Qt.MouseButton.LeftButton


def values(window) -> dict:
    return window.bench.found.answer.solved.readout.values


def test_the_whole_way(qtbot, open_window, tmp_path: Path):
    window = open_window()
    bench, explain = window.bench, window.explain

    # 1, 2: what is too hot, in a sentence, on the ladder, and at any place of the picture
    assert bench.job.machine.startswith("Curlew")
    assert explain.verdict.accessibleName().startswith("This print jams: the cold end is ")
    assert explain.verdict.accessibleName().endswith(" K too warm")
    assert any(row.accessibleName().startswith("Neck bore, 8") for row in explain.ladder.rows())
    section = explain.of("hotend").board.section
    place = section.point(0.5 * section.at.block_radius, 0.5 * (section.at.block_bottom + section.at.block_top))
    QTest.mouseMove(explain.of("hotend").board, QPoint(int(place.x()), int(place.y())))
    qtbot.waitUntil(lambda: "heater block" in explain.foot.text())
    assert "±" in explain.sure.text()
    reading = section.read(QPointF(section.axis, section.y(section.at.sink_top - 1e-3)))
    assert reading.part == "filament"
    assert abs(reading.temperature - values(window)["sink_top"]) < 25

    # 3: levers by mouse, by key, by list, by typing; undo and redo
    before = dict(values(window))
    slider = explain.levers.line("case.vents_open_pct").slider
    start, target = int(slider.x_of(0.0)), int(slider.x_of(80.0))
    QTest.mousePress(slider, LEFT, pos=QPoint(start, 15))
    for x in range(start, target, 8):
        slider.moved.emit(slider.value_at(x), True)
        qtbot.wait(5)
    QTest.mouseRelease(slider, LEFT, pos=QPoint(target, 15))
    settle(qtbot, window)
    assert bench.job.setup().case.vents_open_pct == pytest.approx(80.0, abs=2.5)
    assert values(window)["bore"] < before["bore"] - 2
    assert values(window)["jam_room"] > before["jam_room"] + 1.0
    assert bench.found.as_found is not None
    QTest.keyClick(window, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    settle(qtbot, window)
    assert values(window)["bore"] == pytest.approx(before["bore"], abs=1e-3)
    QTest.keyClick(window, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier)
    settle(qtbot, window)
    assert bench.job.setup().case.vents_open_pct == pytest.approx(80.0, abs=2.5)

    explain.levers.line("printing.retraction_mm").slider.setFocus()
    QTest.keyClick(QApplication.focusWidget(), Qt.Key.Key_Plus)
    settle(qtbot, window)
    assert bench.job.setup().printing.retraction_mm == pytest.approx(1.3)
    QTest.keyClick(QApplication.focusWidget(), Qt.Key.Key_Delete)
    settle(qtbot, window)
    assert bench.job.setup().printing.retraction_mm == pytest.approx(0.8)

    drop = explain.levers.line("hotend.break_part").drop
    drop.setFocus()
    QTest.keyClick(drop, Qt.Key.Key_End)
    settle(qtbot, window)
    assert bench.job.setup().hotend.break_part == "bimetal_titanium"  # the last of its list
    type_line(qtbot, window, "fan 14.5 V")
    assert bench.job.setup().fan.voltage_v == 14.5

    field = explain.levers.line("printing.nozzle_c").field
    field.setFocus()
    field.selectAll()
    QTest.keyClicks(field, "9 V")
    QTest.keyClick(field, Qt.Key.Key_Return)
    assert field.property("wrong") is True
    assert bench.job.setup().printing.nozzle_c == 200.0
    field.selectAll()
    QTest.keyClicks(field, "196,5")
    QTest.keyClick(field, Qt.Key.Key_Return)
    settle(qtbot, window)
    assert bench.job.setup().printing.nozzle_c == 196.5

    # 4: a reading, pinned in blue beside the model's value
    type_line(qtbot, window, "sink top 51,2")
    flag = next(flag for flag in shown_flags(bench.found) if flag.station == "sink_top")
    assert flag.measured == "51.2"
    assert flag.model.startswith("found ")

    # 5: the report
    QTest.keyClick(window, Qt.Key.Key_P, Qt.KeyboardModifier.ControlModifier)
    qtbot.waitUntil(lambda: window.stack.currentWidget() is window.report)
    window.papers.report(tmp_path / "report.html")
    window.papers.report(tmp_path / "report.pdf")
    qtbot.waitUntil((tmp_path / "report.pdf").exists, timeout=30_000)
    page = (tmp_path / "report.html").read_text(encoding="utf-8")
    pdf = QPdfDocument(None)
    assert pdf.load(str(tmp_path / "report.pdf")) == QPdfDocument.Error.None_
    assert pdf.pageCount() == 1
    text = pdf.getAllText(0).text()
    pdf.close()
    headline = explain.verdict.accessibleName()
    for wanted in (headline, "Feed", "51.2", "Cautions", "95 % band"):
        assert wanted in page, wanted
        assert wanted in text, wanted
    QTest.keyClick(QApplication.focusWidget(), Qt.Key.Key_Escape)
    assert window.stack.currentWidget() is explain

    # 6: export, close, open again: every edit is there; import without loss
    job = bench.job
    bench.export_job(tmp_path / "job.json")
    window.close()
    again = open_window()
    assert again.bench.job == job
    again.import_file(tmp_path / "job.json")
    settle(qtbot, again)
    assert again.bench.job == job

    # 7: the same without a screen
    told = json.loads(CliRunner().invoke(main, ["solve", str(tmp_path / "job.json"), "--json"]).stdout)
    assert told["verdict"]["headline"] == again.explain.verdict.accessibleName()
    assert told["stations"]["bore"]["value"] == pytest.approx(values(again)["bore"], abs=1e-3)


def test_jobs_by_keyboard(qtbot, open_window):
    window = open_window()
    QTest.keyClick(window, Qt.Key.Key_J, Qt.KeyboardModifier.ControlModifier)
    qtbot.waitUntil(lambda: len(window.jobs.list.rows()) == 3, timeout=45_000)
    window.jobs.list.focus_row(window.jobs.list.rows()[0].key)
    names = [row.accessibleName() for row in window.jobs.list.rows()]
    assert any(name.startswith("Gannet") for name in names)
    gannet = next(row for row in window.jobs.list.rows() if row.accessibleName().startswith("Gannet"))
    gannet.setFocus()
    QTest.keyClick(gannet, Qt.Key.Key_Return)
    settle(qtbot, window)
    assert window.bench.job.machine.startswith("Gannet")
    assert window.stack.currentWidget() is window.explain
    assert window.bench.found.answer.margin("liner_end").state is State.OVER


HERE = Path(__file__).parent
ON_SCREEN = ("test_the_hours.py", "test_what_is_it.py::test_keys_alone_tell_a_fact_and_escape_stops_the_worlds")
ALL_OF_IT = ("test_jamming_hotend.py",)


@pytest.mark.skipif(os.environ.get("ZEOTHERM_ON_SCREEN") == "1", reason="this is the run on the virtual screen")
@pytest.mark.parametrize("journeys", [ON_SCREEN, pytest.param(ALL_OF_IT, marks=pytest.mark.verify)])
def test_the_same_on_a_virtual_screen(tmp_path: Path, journeys: tuple[str, ...]):
    """The journey through the hours and a fact told by keys alone, and this one, again with a real X window."""
    server = shutil.which("Xvfb")
    assert server, "Xvfb is missing; ./run test installs it"
    reader, writer = os.pipe()
    screen = subprocess.Popen(
        [server, "-displayfd", str(writer), "-screen", "0", "1400x900x24"],
        pass_fds=[writer],
        stdout=subprocess.DEVNULL,
        stderr=subprocess.DEVNULL,
    )
    os.close(writer)
    try:
        with os.fdopen(reader) as told:
            display = told.readline().strip()
        time.sleep(0.2)
        place = {**os.environ, "DISPLAY": f":{display}", "QT_QPA_PLATFORM": "xcb", "ZEOTHERM_ON_SCREEN": "1"}
        place.pop("WAYLAND_DISPLAY", None)
        found = subprocess.run(
            [sys.executable, "-m", "pytest", "-p", "no:cacheprovider", *(str(HERE / name) for name in journeys)],
            env=place,
            capture_output=True,
            text=True,
            timeout=480,
            cwd=Path(__file__).parents[2],
            check=False,
        )
    finally:
        screen.terminate()
        screen.wait()
    assert found.returncode == 0, found.stdout[-3000:]
    assert "2 passed" in found.stdout

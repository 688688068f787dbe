"""The Measure view in the real window: import, compare, correct, note, picture, test."""

from __future__ import annotations

import json
from pathlib import Path

import numpy as np
import pytest
from PyQt6.QtCore import QMimeData, QPointF, Qt, QTimer, QUrl
from PyQt6.QtGui import QDropEvent, QGuiApplication
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QCheckBox, QLabel, QLineEdit

from tests.shop.test_run_files import false_colour
from zeotherm.core.judgement.margins import State
from zeotherm.core.machine.documents import Job
from zeotherm.core.runs.conditions import Match
from zeotherm.desk.views.ask import Ask
from zeotherm.desk.views.measure.curves import polyline, thinned
from zeotherm.shop.editing import run_edits
from zeotherm.shop.files.sound_files import write_sound
from zeotherm.shop.practice.virtual_printer import fan_sound, thermal_picture

LEFT = Qt.MouseButton.LeftButton


@pytest.fixture
def measure(qtbot, open_window):
    """The view with the demo's runs compared."""
    window = open_window()
    QTest.keyClick(window, Qt.Key.Key_F3)
    compared(qtbot, window)
    return window


def compared(qtbot, window) -> None:
    """Wait until the job's runs are compared."""

    def done() -> bool:
        page = window.measure
        return (
            page.held is not None and page.held.job.measured == window.bench.job.measured and not page.asked.busy
            and not page.measuring.busy
        )  # fmt: skip

    qtbot.waitUntil(done, timeout=60_000)


def drop(window, path: Path) -> None:
    mime = QMimeData()
    mime.setUrls([QUrl.fromLocalFile(str(path))])
    window.dropEvent(QDropEvent(QPointF(50, 50), Qt.DropAction.CopyAction, mime, LEFT, Qt.KeyboardModifier.NoModifier))


def said(window) -> str:
    return window.spine.entry.hint.toolTip()


def answer(qtbot, opened, fill) -> None:
    """Fill a dialog once it is up, and accept it; what fails in it fails the test, not the dialog's loop."""
    failed: list[BaseException] = []

    def act() -> None:
        dialog = QApplication.activeModalWidget()
        if not isinstance(dialog, Ask):
            QTimer.singleShot(20, act)
            return
        try:
            fill(dialog)
        except BaseException as wrong:
            failed.append(wrong)
        finally:
            dialog.reject()

    QTimer.singleShot(20, act)
    opened()
    if failed:
        raise failed[0]


def take(dialog: Ask, **values: str) -> None:
    for key, text in values.items():
        made = dialog.inputs[key]
        if isinstance(made, QLineEdit):
            made.setText(text)
        elif isinstance(made, QCheckBox):
            made.setChecked(text == "yes")
        else:
            made.setCurrentIndex(made.findData(text))
    dialog._take()


def test_the_demos_runs_are_compared_as_the_view_comes_up(measure):
    page = measure.measure
    view = page.view
    assert view.verdict.headline.startswith("Guard clean, vents open: sink base falls 12.")
    assert view.verdict.state is State.CLOSE  # two things were changed at once
    assert "theirs together" in view.verdict.reason
    assert measure.spine.measure.accessibleDescription() == "2 runs, 2 pictures, 2 readings"
    assert view.figures[0].real is True
    assert any(row.verdict == "too close to call" for row in view.figures)
    assert "moved 1 min" in page.lined.text()
    assert page.plot.channels[0] == "sink_base"
    assert all(row.accessibleName() for row in page.table.rows())


def test_levels_are_taken_where_the_cursor_stands(qtbot, measure):
    page = measure.measure
    before = page.view.figures[0].change
    QTest.mouseClick(page.plot, LEFT, Qt.KeyboardModifier.NoModifier, page.plot._plot().center().toPoint())
    qtbot.waitUntil(lambda: page.view.figures[0].change != before and not page.asked.busy, timeout=30_000)
    at = page.view.at
    QTest.keyClick(page.plot, Qt.Key.Key_Right)
    qtbot.waitUntil(lambda: page.view.at == pytest.approx(at + 60.0) and not page.asked.busy, timeout=30_000)
    QTest.keyClick(page.plot, Qt.Key.Key_End)
    qtbot.waitUntil(lambda: page.view.figures[0].change == before, timeout=30_000)


def test_the_plot_pans_zooms_and_comes_back(measure):
    plot = measure.measure.plot
    whole = plot.sight
    QTest.keyClick(plot, Qt.Key.Key_Plus)
    near = plot.sight
    assert near[1] - near[0] < whole[1] - whole[0]
    QTest.keyClick(plot, Qt.Key.Key_Left, Qt.KeyboardModifier.ControlModifier)
    assert plot.sight[0] < near[0]
    QTest.keyClick(plot, Qt.Key.Key_Home)
    assert plot.sight == whole


def test_a_figure_brings_its_channel_into_the_plot(measure):
    page = measure.measure
    row = next(one for one in page.table.rows() if "Bed duty" in one.accessibleName())
    row.setFocus()
    assert page.plot.channels == ("duty_bed",)
    QTest.keyClick(row, Qt.Key.Key_C, Qt.KeyboardModifier.ControlModifier)
    text = QGuiApplication.clipboard().text()
    assert text.startswith("Figures\tas found\tguard clean, vents open\tChange\tIs it real?")


def test_a_condition_is_noted_and_a_wrong_one_stays_open(qtbot, measure):
    page = measure.measure
    row = next(one for one in page.conditions.rows() if one.key == "room")

    def wrong_then_right(dialog: Ask) -> None:
        take(dialog, run1="warm")
        assert dialog.isVisible()
        assert "is no number" in dialog.trouble.text()
        take(dialog, run1="16.5", run2="68 F")

    answer(qtbot, lambda: page.conditions.activated.emit(row.key), wrong_then_right)
    compared(qtbot, measure)
    told = next(one for one in page.view.conditions if one.key == "room")
    assert told.match is Match.DIFFERS
    assert "16.5 / 20" in told.text
    assert "Unequal: room air" in page.view.verdict.reason
    measure.bench.undo()
    measure.bench.undo()
    compared(qtbot, measure)
    assert next(one for one in page.view.conditions if one.key == "room").match is Match.EQUAL


def test_as_if_in_one_room_is_marked_and_undone(qtbot, measure):
    page = measure.measure
    page.normal.click()
    compared(qtbot, measure)
    assert any(row.label.endswith("*") for row in page.view.figures)
    measure.bench.undo()
    compared(qtbot, measure)
    assert not page.normal.isChecked()


def test_a_logger_of_any_layout_is_taken_and_corrected(qtbot, measure, tmp_path):
    page = measure.measure
    path = tmp_path / "odd.csv"
    rows = "".join(f"{5 * n},{18 + min(n, 140) * 0.3:.1f},{20 + n % 3}\n" for n in range(400))
    path.write_text("secs,probe x,probe y\n" + rows)
    job, asked = measure.bench.job, []
    drop(measure, path)
    answer(qtbot, lambda: qtbot.waitUntil(lambda: bool(asked), timeout=30_000), lambda one: asked.append([*one.inputs]))
    assert {"column secs", "column probe x", "column probe y"} <= set(asked[0])
    assert "no column is known" in said(measure) or "no column is a time" in said(measure)
    assert measure.bench.job == job
    path.write_text("time,bed,probe y\n" + rows)
    drop(measure, path)
    qtbot.waitUntil(lambda: len(measure.bench.job.measured.runs) == 3, timeout=30_000)
    assert "Not understood: probe y" in said(measure)
    answer(qtbot, lambda: page.asks.columns().exec(), lambda dialog: take(dialog, **{"column probe y": "room"}))
    qtbot.waitUntil(lambda: "room" in list(measure.bench.job.measured.runs.values())[-1].values, timeout=30_000)
    assert len(measure.bench.job.measured.runs) == 3
    again = tmp_path / "again.csv"
    again.write_text(path.read_text())
    drop(measure, again)
    qtbot.waitUntil(lambda: len(measure.bench.job.measured.runs) == 4, timeout=30_000)
    assert "room" in list(measure.bench.job.measured.runs.values())[-1].values


def test_runs_are_hidden_laid_named_doubted_written_and_taken_off(qtbot, measure, tmp_path):
    page, bench = measure.measure, measure.bench
    names = {one.text(): one for one in page.menus.of_run("run2").actions()}
    names["Leave it out of the comparison"].trigger()
    compared(qtbot, measure)
    assert len(page.view.legend) == 1
    bench.undo()
    {one.text(): one for one in page.menus.of_run("run2").actions()}["Lay it over the model"].trigger()
    assert bench.job.measured.laid == "run2"
    answer(qtbot, lambda: page.asks.run("run2").exec(), lambda one: take(one, label="as found", zero="170"))
    compared(qtbot, measure)
    assert page.view.legend[0][2] == "as found, 2 runs"
    assert "set by hand" in page.lined.text()
    bench.undo()

    def doubt(dialog: Ask) -> None:
        take(dialog, sink_base="a bit")
        assert "type offset" in dialog.trouble.text()
        take(dialog, sink_base="0.5; 0 %; 3")

    compared(qtbot, measure)
    before = page.view.figures[0].change
    answer(qtbot, lambda: page.asks.doubts("run1", page.menus.usual_doubt).exec(), doubt)
    compared(qtbot, measure)
    assert page.view.figures[0].change != before
    page.measuring.export_run("run1", tmp_path / "one.json")
    data = json.loads((tmp_path / "one.json").read_text())
    assert data["label"] == "as found"
    assert len(data["time_s"]) == bench.job.measured.runs["run1"].rows
    page.measuring.do(run_edits.without_run, "run2", label="run taken off")
    compared(qtbot, measure)
    assert list(bench.job.measured.runs) == ["run1"]
    bench.undo()
    assert list(bench.job.measured.runs) == ["run1", "run2"]


def test_thermal_pictures_are_read_corrected_and_compared(qtbot, measure, tmp_path):
    from PIL import Image

    page = measure.measure
    page.turn_to("pictures")
    assert len(page.board.rows()) == 2
    path = tmp_path / "camera.png"
    field = thermal_picture(60.0, 20.0, width=160, height=120)
    Image.fromarray(false_colour(field, 15.0, 70.0)).save(path)

    def scale(dialog: Ask) -> None:
        take(dialog, low="70", high="15")

    answer(qtbot, lambda: drop(measure, path) or qtbot.wait(400), scale)
    qtbot.waitUntil(lambda: "hot end must be higher" in said(measure), timeout=30_000)
    answer(qtbot, lambda: drop(measure, path) or qtbot.wait(400), lambda one: take(one, low="15", high="70"))
    qtbot.waitUntil(lambda: len(measure.bench.job.measured.pictures) == 3, timeout=30_000)
    key = list(measure.bench.job.measured.pictures)[-1]

    def surface(dialog: Ask) -> None:
        take(dialog, emissivity="0.1")
        assert "emissivity" in dialog.trouble.text()
        take(dialog, emissivity="0.9", regions="bed 8 8 70")
        assert "four figures" in dialog.trouble.text()
        take(dialog, regions="bed 8 8 70 90; plug 2 80 10 95")

    answer(qtbot, lambda: page.asks.picture(key).exec(), surface)
    kept = measure.bench.job.measured.pictures[key]
    assert set(kept.regions) == {"bed", "plug"}
    page.measuring.do(run_edits.without_picture, key, label="picture taken off")
    assert len(measure.bench.job.measured.pictures) == 2


def test_a_guided_test_is_followed(qtbot, measure):
    page = measure.measure
    for _page in range(3):
        QTest.keyClick(page, Qt.Key.Key_Tab, Qt.KeyboardModifier.ControlModifier)
    assert page.tabs["test"].isChecked()
    page.card.box.setCurrentIndex(page.card.box.findData("fan_off"))
    page.card.box.activated.emit(page.card.box.currentIndex())
    compared(qtbot, measure)
    assert measure.bench.job.measured.protocol == "fan_off"
    assert "unplug" in page.card.cautions.text()
    page.card.copy.click()
    assert "3. Stop the fan by its control" in QGuiApplication.clipboard().text()
    assert len(page.card.checks) == 4
    QTest.keyClick(page.card.checks[0], Qt.Key.Key_Space)
    assert measure.bench.job.measured.ticked == [0]
    hold = page.card.holds[1]
    hold._seconds = 0.3
    with qtbot.waitSignal(hold.over, timeout=20_000):
        hold.click()
    assert hold.text().startswith("Held")
    assert {one.key for one in page.view.conditions} >= {"room", "nozzle", "filament", "lid", "sink_fan"}


def test_a_fans_sound_and_a_part_program(qtbot, measure, tmp_path):
    write_sound(tmp_path / "fan.wav", fan_sound(4200.0, 7), 16000)

    def blades(dialog: Ask) -> None:
        take(dialog, blades="some")
        assert "whole number" in dialog.trouble.text()
        take(dialog, blades="7")

    answer(qtbot, lambda: drop(measure, tmp_path / "fan.wav"), blades)
    qtbot.waitUntil(lambda: "blade-pass tone" in said(measure), timeout=30_000)
    assert "not that air comes through" in said(measure)
    assert measure.bench.job.measured.heard[0].blades == 7
    compared(qtbot, measure)
    assert "fan.wav: 4200" in measure.measure.notes.text()
    program = tmp_path / "part.gcode"
    program.write_text("M104 S210\nM140 S55\n" + "G1 X100 E4 F1200\nG1 E3.2 F1800\nG1 E4 F1800\nG92 X0 E0\n" * 400)
    heard = []

    def print_it(dialog: Ask) -> None:
        heard.append(dialog.findChildren(QLabel)[0].text())
        dialog._take()

    answer(qtbot, lambda: drop(measure, program) or qtbot.wait(600), print_it)
    assert "Lasts about" in heard[0]
    setup = measure.bench.job.setup()
    assert setup.printing.nozzle_c == 210.0
    assert setup.bed.target_c == 55.0
    assert setup.schedule.print_min == pytest.approx(34, abs=4)
    assert len(measure.bench.job.measured.runs["run1"].conditions["program"]) == 64


def test_a_new_job_says_what_to_bring(qtbot, measure):
    measure.bench.begin(Job())
    compared(qtbot, measure)
    page = measure.measure
    assert page.view.verdict.headline == "Nothing measured yet"
    assert page.view.foot.startswith("Next: import a run")
    page.plot.grab()
    page.board.grab()


def test_thinning_keeps_every_peak_and_lines_need_no_loop():
    times = np.arange(100_000.0)
    values = np.zeros(100_000)
    values[[777, 54_321]] = (5.0, -4.0)
    at, shown = thinned(times, values, 0.0, 1e5, 600)
    assert len(at) < 5000
    assert shown.max() == 5.0
    assert shown.min() == -4.0
    line = polyline(np.array([1.0, 2.0]), np.array([3.0, 4.0]))
    assert [(point.x(), point.y()) for point in line] == [(1.0, 3.0), (2.0, 4.0)]


def test_esc_stops_a_long_file(qtbot, measure, tmp_path):
    path = tmp_path / "long.csv"
    path.write_text("time,bed\n" + "".join(f"{n},{20 + n % 90}\n" for n in range(400_000)))
    job = measure.bench.job
    drop(measure, path)
    assert measure.measure.measuring.busy
    measure.measure.plot.setFocus()
    QTest.keyClick(measure.measure.plot, Qt.Key.Key_Escape)
    assert "Stopped" in said(measure)
    qtbot.wait(300)
    assert measure.bench.job == job


def test_a_plug_meters_own_file_is_joined_to_its_run(qtbot, measure, tmp_path):
    page, bench = measure.measure, measure.bench
    bench.begin(Job())
    probes, meter = tmp_path / "probes.csv", tmp_path / "meter.csv"
    probes.write_text(
        "clock,bed\n" + "".join(f"9:{n // 6:02d}:{n % 6 * 10:02d},{20 + min(n, 40)}\n" for n in range(300))
    )
    meter.write_text(
        "clock,W\n" + "".join(f"9:{n // 60:02d}:{n % 60:02d},{6 if n < 100 else 80}\n" for n in range(2900))
    )
    for number, path in enumerate((probes, meter), start=1):
        drop(measure, path)
        qtbot.waitUntil(lambda number=number: len(bench.job.measured.runs) == number, timeout=30_000)
    compared(qtbot, measure)
    join = page.menus.of_run("run1").actions()[-1]
    assert join.text().startswith("Join meter")
    join.trigger()
    qtbot.waitUntil(lambda: len(bench.job.measured.runs) == 1, timeout=30_000)
    compared(qtbot, measure)
    kept = bench.job.measured.runs["run1"]
    assert set(kept.values) == {"bed", "power"}
    assert kept.source == "probes.csv + meter.csv"
    assert any(row.label.startswith("Energy") for row in page.view.figures)
    bench.undo()
    assert len(bench.job.measured.runs) == 2


def test_runs_are_lined_up_as_asked(qtbot, measure):
    page = measure.measure

    def by_level(dialog: Ask) -> None:
        take(dialog, way="level", level_c="much")
        assert "no number" in dialog.trouble.text()
        take(dialog, channel="bed", level_c="30")

    answer(qtbot, lambda: page.asks.line_up().exec(), by_level)
    compared(qtbot, measure)
    assert "bed passing 30 °C" in page.lined.text()
    answer(qtbot, lambda: page.asks.line_up().exec(), lambda one: take(one, way="first_row"))
    compared(qtbot, measure)
    assert "the first row" in page.lined.text()


def test_the_time_between_a_consoles_reports_is_corrected(qtbot, measure, tmp_path):
    page, bench = measure.measure, measure.bench
    path = tmp_path / "console.log"
    path.write_text("".join(f"ok T:{20 + n} /200.0 B:{20 + n / 4:.2f} /60.0 @:127 B@:127\n" for n in range(100)))
    drop(measure, path)
    qtbot.waitUntil(lambda: len(bench.job.measured.runs) == 3, timeout=30_000)
    assert "a report every 2 s taken" in said(measure)
    compared(qtbot, measure)

    def other(dialog: Ask) -> None:
        take(dialog, every="0")
        assert "0.01 to 3600" in dialog.trouble.text()
        take(dialog, every="5")

    answer(qtbot, lambda: page.asks.run("run3").exec(), other)
    qtbot.waitUntil(lambda: bench.job.measured.runs["run3"].time_s[-1] == 495.0, timeout=30_000)
    assert "every:5" in bench.job.measured.runs["run3"].notes

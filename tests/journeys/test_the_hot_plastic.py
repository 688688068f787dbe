"""A lined hotend that is asked for a hot plastic, and a stranger's fan typed from its label, in the real window."""

from __future__ import annotations

from pathlib import Path

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from tests.bench import said
from tests.desk.test_build import known, page_of, typed
from tests.journeys.test_the_work import pdf_text
from tests.window import put_on_bench, settle, type_line
from zeotherm.core.judgement.margins import State
from zeotherm.shop.files.shelf_files import Drawer

pytestmark = pytest.mark.timeout(600)


def test_from_a_liner_that_ends_it_to_the_steps_of_another_hotend(qtbot, open_window, tmp_path: Path):
    window = open_window(settled=False)
    put_on_bench(window, "Gannet")
    settle(qtbot, window, in_full=False)
    bench, page = window.bench, page_of(window, "build")
    known(qtbot, page, lambda: bench.job)

    # polycarbonate at 265 °C: the liner ends it, and no cure that leaves it in will do
    page.wanted.want("pc")
    page.wanted.want("petg")  # no longer
    typed(page, "nozzle_c", "hot")
    assert "a number from 150 to 480" in page.trouble.text()
    assert page.wanted.fields["nozzle_c"].text() == "hot"
    typed(page, "nozzle_c", "265")
    known(qtbot, page, lambda: bench.job)
    assert page.found.wanted.plastics == ("pc",)
    assert "liner's end" in window.choose.verdict.accessibleName()
    assert page.found.built.row("liner_end").state is State.OVER

    page.look_for()
    qtbot.waitUntil(lambda: page.search is not None and page.search.does is not None, timeout=240_000)
    qtbot.waitUntil(lambda: page.search.over, timeout=240_000)
    best = page.search.best
    hotend = bench.catalogue.hotends[best.setup.hotend.template]
    assert hotend.bore == "metal"
    assert "hotend" in page.search.needed
    assert "Without the hotend" in page.strip.toolTip()
    page.take.click()
    known(qtbot, page, lambda: bench.job)
    assert not any(one.state.bad for one in page.found.built.rows)

    # its sheet, then the board, the order, and its first steps
    window.papers.build(tmp_path / "build.pdf", page.found)
    sheet = pdf_text(tmp_path / "build.pdf")
    for text in (hotend.label, "Fit another hotend", "Unload the filament hot", "First heat, watched", "Mains."):
        assert text in sheet
    QTest.keyClick(page, Qt.Key.Key_U, Qt.KeyboardModifier.ControlModifier)
    assert bench.job.variants["build"].change == best.change
    bench.choose(["build"])
    window.choose.verdict.button.click()
    assert window.stack.currentWidget() is window.do
    assert window.do.plan.checks["hotend_change"].isChecked()
    assert not window.do.plan.checks["own_change"].isChecked()
    window.do.verdict.button.click()
    steps = [line.step.label for line in window.do.order.steps]
    assert steps.index("Unload the filament hot") < steps.index("Take the hotend off the carriage")
    assert steps.index("Build the new hotend on the bench") < steps.index("Put the hotend back on the carriage")


def test_a_strangers_fan_by_its_label_into_a_slot(qtbot, open_window):
    window = open_window(settled=False)
    put_on_bench(window, "Curlew")
    settle(qtbot, window, in_full=False)
    bench = window.bench
    window.show_shelf()
    window.shelf.turn_to("fans")
    shelf = window.shelf
    qtbot.waitUntil(lambda: shelf.found is not None and shelf.found.done, timeout=240_000)
    shelf.open("axial_40_24v")
    qtbot.waitUntil(lambda: shelf.found is not None and shelf.found.done and not shelf.asked.busy, timeout=240_000)
    type_line(qtbot, window, "flow lots")
    assert "lots" in said(window)
    window.spine.entry.field.clear()  # what was wrong is still there to be mended
    type_line(qtbot, window, "flow 9")
    qtbot.waitUntil(lambda: shelf.found is not None and shelf.found.done and not shelf.asked.busy, timeout=240_000)
    assert shelf.editor.name.text() == "40 mm axial, 24 V, own", said(window)
    shelf.editor.keep_wanted.emit("Fan off a stranger's printer")
    key = "own_fan_off_a_stranger_s_printer"
    assert list(bench.shelf.parts["fans"]) == [key]
    bench.put_shelf(bench.shelf.with_drawer("fans", key, Drawer(price=0.0, count=1)))

    page = page_of(window, "build")
    known(qtbot, page, lambda: bench.job)
    page.activate("cooling")
    known(qtbot, page, lambda: bench.job)
    line = next(one for one in page.slots._lines if one.key == f"cooling/{key}")
    assert line.part == "Fan off a stranger's printer"
    page.activate(f"cooling/{key}")
    known(qtbot, page, lambda: bench.job)
    assert page.found.built.cost == 0.0
    assert bench.job.catalogue["fans"].keys() == {key}, "the job is whole wherever it is opened"
    page.copy_parts()
    assert QApplication.clipboard().text().splitlines()[1] == "Heatsink fan\tFan off a stranger's printer\t£0\t1"

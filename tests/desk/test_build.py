"""A hotend put together in the window: by keys, from Curlew's jam to a chosen set, its parts and its window."""

from __future__ import annotations

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from tests.window import open_window, put_on_bench, settle
from zeotherm.core.choices.build.cheapest import Search
from zeotherm.core.judgement.margins import State
from zeotherm.core.work.proving import suggested
from zeotherm.desk.window import Window

__all__ = ["open_window"]


def page_of(window: Window, key: str):
    """A page of Choose, turned to."""
    window.show_choose()
    window.choose.turn_to(key)
    window.choose.stand_back()
    return window.choose.sized[key]


def known(qtbot, page, job) -> None:
    """Wait until the page has all that it asked for."""

    def done() -> bool:
        found = page.found
        return found is not None and found.job.build == job().build and not page.asked.busy

    qtbot.waitUntil(done, timeout=120_000)


def typed(page, field: str, text: str) -> None:
    """Type into one of the fields of what is wanted."""
    box = page.wanted.fields[field]
    box.setFocus()
    box.selectAll()
    QTest.keyClicks(box, text)
    QTest.keyClick(box, Qt.Key.Key_Return)


@pytest.fixture
def curlew(qtbot, open_window) -> Window:
    """Curlew on the bench, answered by its hours."""
    window = open_window(settled=False)
    put_on_bench(window, "Curlew")
    settle(qtbot, window, in_full=False)
    return window


def test_from_a_jam_to_the_cheapest_build_on_the_board(qtbot, curlew, tmp_path):
    window, bench = curlew, curlew.bench
    page = page_of(window, "build")
    known(qtbot, page, lambda: bench.job)
    assert window.choose.verdict.accessibleName().startswith("This print jams")
    assert page.found.wanted.plastics == ("pla",)
    assert {line.key for line in page.slots._lines} == set(bench.catalogue.slots)

    # the heatsink fan's shelf by keys: Enter opens it, Down walks it, Enter puts one in
    page.slots.focus_row("cooling")
    QTest.keyClick(QApplication.focusWidget(), Qt.Key.Key_Return)
    known(qtbot, page, lambda: bench.job)
    parts = [line for line in page.slots._lines if line.is_part]
    assert len(parts) == len(page.found.shelf) > 10
    twelve = next(line for line in parts if line.key == "cooling/axial_30_12v")
    assert twelve.state is State.OVER
    assert "4" in twelve.figure
    page.slots.focus_row("cooling/axial_40_24v")
    QTest.keyClick(QApplication.focusWidget(), Qt.Key.Key_Return)
    known(qtbot, page, lambda: bench.job)
    assert bench.job.build.change["fan"]["part"] == "axial_40_24v"
    assert not bench.job.trial
    slot = next(line for line in page.slots._lines if line.key == "cooling")
    assert (slot.part, slot.changed) == ("40 mm axial, 24 V", True)
    assert page.found.built.cost == 6.0
    forty = page.found.built

    # Escape shuts the shelf, Delete leaves the slot as found
    QTest.keyClick(page.slots, Qt.Key.Key_Escape)
    known(qtbot, page, lambda: bench.job)
    assert not any(line.is_part for line in page.slots._lines)
    page.slots.focus_row("cooling")
    QTest.keyClick(QApplication.focusWidget(), Qt.Key.Key_Delete)
    known(qtbot, page, lambda: bench.job)
    assert bench.job.build.change == {}

    # wrong entries are said, and nothing is lost
    before = bench.job
    typed(page, "nozzle_c", "9000")
    assert "150 to 480" in page.trouble.text()
    assert bench.job == before
    typed(page, "nozzle_c", "hot")
    assert page.wanted.fields["nozzle_c"].text() == "hot"
    page.wanted.fields["nozzle_c"].setModified(True)
    typed(page, "nozzle_c", "205")
    known(qtbot, page, lambda: bench.job)
    assert not page.trouble.text()
    assert bench.job.build.nozzle_c == 205.0
    for plastic in ("petg", "abs", "pc", "peek"):
        page.wanted.want(plastic)
    assert "At most 4" in page.trouble.text()
    bench.build("as before", plastics=[], nozzle_c=None)

    # typed anywhere: a part into its slot, a figure as what is wanted
    assert window.spine.entry.field.placeholderText() == "Type a part: break bimetal"
    assert bench.build_line("break bimetal")
    assert bench.job.build.change["hotend"]["break_part"] == "bimetal"
    bench.build("as before", change={})

    # the cheapest that meets every limit: taken, and on the board as one option
    known(qtbot, page, lambda: bench.job)
    page.look_for()
    qtbot.waitUntil(lambda: page.search is not None, timeout=120_000)
    assert page.look.text() == "Stop looking"
    page.step_back()
    assert not page.searching.busy
    page._take_search(Search(best=forty, price=6.0, over=True, proved=True))  # as the search of the core tells it
    told = page.strip.text()
    assert told.startswith("Cheapest that meets every limit with a chance of 80 % each: 40 mm axial, 24 V. Parts £6, ")
    assert "Still to look up: cartridge, heater block, nozzle." in told
    page.take_cheapest()
    known(qtbot, page, lambda: bench.job)
    assert bench.job.build.change == page.found.built.change != {}
    page.copy_parts()
    lines = QApplication.clipboard().text().splitlines()
    assert lines == ["slot\tpart\tprice\tin the drawer", "Heatsink fan\t40 mm axial, 24 V\t£6\tnot known"]
    QTest.keyClick(page, Qt.Key.Key_U, Qt.KeyboardModifier.ControlModifier)
    variant = bench.job.variants["build"]
    assert variant.change == bench.job.build.change
    assert variant.minutes == page.found.built.minutes

    # its sheet, with the work that fits it
    window.papers.build(tmp_path / "sheet.html", page.found)
    sheet = (tmp_path / "sheet.html").read_text(encoding="utf-8")
    for text in ("<td>40 mm axial, 24 V</td><td>£6</td>", "Work: Replace the sink fan", "Still to look up: cartridge",
                 "Fit it, blowing at the fins", "Proof run", "No protection is ever bypassed"):  # fmt: skip
        assert text in sheet
    window.papers.build(tmp_path / "sheet.odt", page.found)
    assert "ends in neither" in window.spine.entry.hint.toolTip()

    # as found again by undo: nothing of it was lost on the way
    bench.choose(["build"])
    assert bench.job.planned() != bench.job.found
    assert suggested(bench.job, bench.catalogue) == ["fan_replacement"]


def test_the_window_by_arrows_and_its_lines_on_the_clipboard(qtbot, open_window):
    window = open_window(settled=False)
    put_on_bench(window, "Gannet")
    settle(qtbot, window, in_full=False)
    bench = window.bench
    page = page_of(window, "window")
    known(qtbot, page, lambda: bench.job)
    assert "PTFE liner" in window.choose.verdict.accessibleName()
    assert page.ladder_view is not None

    # a widening is picked by keys, shown dashed, and put on the board
    best = next(one for one in page.found.window.widenings if one.slot)
    page.wider.focus_row(best.label)
    QTest.keyClick(QApplication.focusWidget(), Qt.Key.Key_Return)
    assert page.chosen == best
    QTest.keyClick(page, Qt.Key.Key_U, Qt.KeyboardModifier.ControlModifier)
    assert bench.job.variants["window"].change == best.change
    known(qtbot, page, lambda: bench.job)

    # arrows move the job's point
    page.chart.setFocus()
    was = page.found.wanted.nozzle
    QTest.keyClick(page.chart, Qt.Key.Key_Down)
    assert bench.job.build.nozzle_c == was - 1.0
    known(qtbot, page, lambda: bench.job)
    QTest.keyClick(page.chart, Qt.Key.Key_Right)
    assert bench.job.build.flow_mm3_s == pytest.approx(page.found.wanted.flow + 0.5)
    known(qtbot, page, lambda: bench.job)

    # settings to copy: no line hotter than the liner is rated to, and both profiles side by side
    page.copy_lines()
    lines = QApplication.clipboard().text().splitlines()
    assert lines[0].startswith("; Not a program")
    assert "M83" in lines[1]
    assert any(line.startswith("M104 S") for line in lines)
    hottest = max(float(line.split("S")[1].split()[0]) for line in lines if line.startswith(("M104", "M109")))
    assert hottest <= page.found.window.ceiling.value
    page.copy_profiles()
    assert QApplication.clipboard().text().startswith("setting\tas the job is set\tproposed")
    typed(page, "flow_mm3_s", "-1")
    assert "60 mm³/s" in page.trouble.text()

    # another plastic here leaves those that the build is wanted for
    bench.build("plastics", plastics=["petg", "abs"])
    page.wanted.want("abs")
    assert bench.job.build.plastics == ["abs", "petg"]

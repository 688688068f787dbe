"""The parts shelf in the window: looked at, a figure typed, an own part kept, fitted, changed, and handed on."""

from __future__ import annotations

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest

from tests.window import put_on_bench, settle, type_line
from zeotherm.core.judgement.margins import State
from zeotherm.desk.views.shelf.shown import columns
from zeotherm.desk.window import Window
from zeotherm.shop.files import shelf_files
from zeotherm.shop.files.shelf_files import Drawer

pytestmark = pytest.mark.timeout(600)
FAN = "axial_30_24v"  # Curlew's


@pytest.fixture
def window(qtbot, open_window) -> Window:
    opened = open_window()
    put_on_bench(opened, "Curlew")
    settle(qtbot, opened)
    return opened


def known(qtbot, window: Window) -> None:
    """Wait until what the open part decides is known."""
    page = window.shelf
    qtbot.waitUntil(lambda: page.found is not None and page.found.done and not page.asked.busy, timeout=240_000)


def opened(qtbot, window: Window, kind: str = "fans"):
    QTest.keyClick(window.explain.picture, Qt.Key.Key_L, Qt.KeyboardModifier.ControlModifier
                   | Qt.KeyboardModifier.ShiftModifier)  # fmt: skip
    window.shelf.turn_to(kind)
    known(qtbot, window)
    return window.shelf


def test_the_part_of_the_machine_is_open_and_says_what_it_decides(qtbot, window):
    page = opened(qtbot, window)
    assert (window.shown, page.kind, page.key) == ("shelf", "fans", FAN)
    assert "Curlew" in page.verdict.accessibleName()
    assert "feed" in page.editor.stakes.text()
    assert page.editor.users.text().count("Curlew") == 1
    assert page.editor.curve.isVisible()
    rows = [row.key for row in page.table.rows()]
    assert set(rows) == set(window.bench.catalogue.fans)
    assert len(page.kinds.rows()) == len(window.bench.catalogue.own_figures)
    page.table.focus_row(FAN)
    QTest.keyClick(next(row for row in page.table.rows() if row.key == FAN), Qt.Key.Key_Down)
    known(qtbot, window)
    assert page.key == rows[rows.index(FAN) + 1]
    assert "Not fitted in any machine of the shop" in page.verdict.accessibleName()
    page.open("axial_30_12v")
    known(qtbot, window)
    assert "Not in the machine on the bench" in page.verdict.accessibleName()  # Gannet has one
    page.open(rows[-1])
    known(qtbot, window)
    assert "Not fitted in any machine of the shop" in page.verdict.accessibleName()


@pytest.mark.parametrize("kind", ["filaments", "breaks", "beds", "supplies", "contacts"])
def test_every_shelf_is_listed_with_its_figures(qtbot, window, kind):
    page = opened(qtbot, window, kind)
    about = window.bench.catalogue.own_figures[kind]
    assert set(page.editor.lines) == {one.at for one in about.figures}
    assert columns(about)
    assert page.editor.curve.isVisible() is (kind == "fans")
    assert not page.editor.wrong.text()


def test_from_a_typed_figure_to_an_own_part_in_the_machine(qtbot, window, tmp_path):
    page, bench = opened(qtbot, window), window.bench
    before = page.found.users[0].worst
    assert "30 mm axial" in window._understood("flow 9").text
    type_line(qtbot, window, "flow 9")
    known(qtbot, window)
    change = page.found.users[0].change
    assert change.before.key == before.key
    assert change.moved > 0.0  # more air
    assert page.editor.name.text() == "30 mm axial, 24 V, own"
    assert bench.job.catalogue == {}
    page.editor.name.setText("Strong thirty")
    qtbot.mouseClick(page.editor.keep, Qt.MouseButton.LeftButton)
    known(qtbot, window)
    key = page.key
    assert list(bench.shelf.parts["fans"]) == [key] == ["own_strong_thirty"]
    assert shelf_files.read_shelf(shelf_files.beside(bench.path)).parts == bench.shelf.parts
    assert bench.job.catalogue == {}  # it has none yet
    qtbot.mouseClick(page.editor.fit, Qt.MouseButton.LeftButton)
    settle(qtbot, window)
    assert bench.job.setup().fan.part == key
    assert set(bench.job.catalogue["fans"]) == {key}
    known(qtbot, window)
    assert page.found.users[0].worst.room == pytest.approx(change.after.room, abs=0.02)

    page.editor.type_figure("flow_m3_h", "10")
    page.editor.keep_wanted.emit("Stronger thirty")
    settle(qtbot, window)
    assert bench.catalogue.fans[key].label == "Stronger thirty"
    assert max(bench.catalogue.with_own(bench.job.catalogue).fans[key].flow_m3_h) == pytest.approx(10.0)

    assert page.editor.aside.text() == "own"
    bench.put_shelf(bench.shelf.with_part("fans", key, {**bench.shelf.parts["fans"][key], "size_mm": 31.0}))
    assert page.editor.aside.text() == "own; this job has other figures"

    page.editor.count.setText("3")
    page.editor.price.setText("4,50")
    page.editor.price.editingFinished.emit()
    assert bench.shelf.kept("fans", key) == Drawer(price=4.5, count=3)
    assert "3 in the drawer" in next(row.accessibleName() for row in page.table.rows() if row.key == key)

    for name, own in (("ours.json", True), ("fans.csv", False)):
        page.export(tmp_path / name, own=own)
    qtbot.mouseClick(page.editor.drop, Qt.MouseButton.LeftButton)
    assert not bench.shelf.parts
    assert key in bench.catalogue.fans  # the job carries it
    assert page.editor.aside.text() == "carried by this job"
    window.show_explain()
    window.import_file(tmp_path / "ours.json")  # dropped anywhere
    assert window.shown == "shelf"
    assert list(bench.shelf.parts["fans"]) == [key]
    qtbot.mouseClick(page.editor.drop, Qt.MouseButton.LeftButton)
    bench.keep_part("fans", "axial_40_24v", "Meanwhile", {})
    qtbot.mouseClick(page.put_back, Qt.MouseButton.LeftButton)
    assert set(bench.shelf.parts["fans"]) == {key, "own_meanwhile"}  # what came since stays
    assert bench.shelf.kept("fans", key) == Drawer(price=4.5, count=3)
    page.import_shelf(tmp_path / "fans.csv")
    assert "0 new parts" in window.spine.entry.hint.toolTip()


def test_what_is_typed_is_still_there_after_a_look_at_another_part(qtbot, window):
    page = opened(qtbot, window)
    page.editor.type_figure("flow_m3_h", "9")
    page.table.focus_row(FAN)
    page.open("axial_40_24v")
    assert page.editor.lines["flow_m3_h"].value.text() == "14"
    page.open(FAN)
    assert page.editor.lines["flow_m3_h"].value.text() == "9"
    known(qtbot, window)
    assert page.found.users[0].change.moved > 0.0
    page.leave()
    assert page.editor.lines["flow_m3_h"].value.text() == "6.4"


@pytest.mark.parametrize(
    ("at", "text", "said"),
    [
        ("flow_m3_h", "900", "goes from 0.5 to 200"),
        ("flow_m3_h", "fast", "no number"),
        ("flow_m3_h", "", "nothing can be solved without it"),
        ("service_c", "60 V", "V is a voltage"),
        ("start_v", "30", "above rated volts"),
    ],
)
def test_a_wrong_figure_is_said_at_its_place_and_nothing_is_kept(qtbot, window, at, text, said):
    page = opened(qtbot, window)
    page.editor.type_figure(at, text)
    assert said in page.editor.wrong.text()
    page.keep("A")
    assert not window.bench.shelf.parts
    qtbot.mouseClick(page.editor.back, Qt.MouseButton.LeftButton)
    assert not page.editor.wrong.text()
    known(qtbot, window)
    assert page.verdict.accessibleName()


def test_a_name_that_is_taken_and_a_file_that_is_wrong(qtbot, window, tmp_path):
    page = opened(qtbot, window)
    page.editor.type_figure("flow_m3_h", "9")
    page.keep("40 mm axial, 24 V")
    assert "There is a '40 mm axial, 24 V' already" in page.editor.wrong.text()
    page.editor.count.setText("-1")
    page.editor.count.editingFinished.emit()
    assert "In the drawer" in page.editor.wrong.text()
    wrong = tmp_path / "wrong.json"
    wrong.write_text("{}", encoding="utf-8")
    page.import_shelf(wrong)
    assert "is no Zeotherm shelf" in window.spine.entry.hint.toolTip()
    assert not window.bench.shelf.parts
    known(qtbot, window)
    page.table.focus_row(page.key)
    QTest.keyClick(next(row for row in page.table.rows() if row.key == page.key), Qt.Key.Key_Escape)
    assert window.shown == "explain"


def test_a_damaged_shelf_is_told_and_the_shipped_parts_are_used(qtbot, open_window):
    first = open_window()
    path = shelf_files.beside(first.bench.path)
    path.write_text('{"format": "zeotherm-shelf", "parts": {"fans": {"own_a": {"label"', encoding="utf-8")
    told = []
    first.bench.told.connect(told.append)
    first.bench.read_own_entries()
    assert any("seems cut off" in one and "shipped parts are used" in one for one in told)
    assert not first.bench.shelf.parts
    assert path.read_text(encoding="utf-8").startswith('{"format"')


def test_narrow_the_shelves_are_a_drop_field(qtbot, window):
    page = opened(qtbot, window)
    assert not page.drop.isVisible()
    window.resize(1024, 700)
    qtbot.waitUntil(page.drop.isVisible, timeout=5000)
    page.drop.setCurrentIndex(page.drop.findData("breaks"))
    page.drop.activated.emit(page.drop.currentIndex())
    assert page.kind == "breaks"
    known(qtbot, window)
    assert page.found.users[0].worst.state in State


def test_the_card_of_the_machine_is_solved_beside_the_window_and_written(qtbot, window, tmp_path):
    page, hint = tmp_path / "card.html", window.spine.entry.hint
    window.papers.card(page)
    assert window.papers.card_asked.busy
    assert "Esc stops it" in hint.toolTip()
    QTest.keyClick(window.explain.picture, Qt.Key.Key_Escape)
    assert not window.papers.card_asked.busy
    assert not page.exists()
    window.papers.card(page)
    qtbot.waitUntil(page.exists, timeout=240_000)
    text = page.read_text(encoding="utf-8")
    assert "Curlew" in text
    assert "Keep the fan" in text
    window.papers.card(tmp_path / "card.docx")
    qtbot.waitUntil(lambda: "neither .html nor .pdf" in hint.toolTip(), timeout=240_000)

"""The window keeps what was entered, says what is wrong, and can be used without a mouse or eyes."""

from __future__ import annotations

import logging
import threading
from concurrent.futures import Future
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from PyQt6.QtCore import QMimeData, QPointF, QSize, Qt, QUrl
from PyQt6.QtGui import QDropEvent
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from tests.window import put_on_bench, settle, type_line
from zeotherm.answers import hotend
from zeotherm.core.judgement.margins import State
from zeotherm.core.machine.documents import Job
from zeotherm.core.solver.axisymmetric import NotConvergedError
from zeotherm.desk.mishap import Mishap
from zeotherm.desk.style import theme
from zeotherm.desk.views.preferences import Preferences
from zeotherm.desk.window import USUAL, fitting
from zeotherm.shop.errors import ShopError
from zeotherm.shop.workshops.workshop import Workshop


def test_a_bad_import_leaves_the_open_job(qtbot, open_window, tmp_path: Path):
    window = open_window()
    job = window.bench.job
    bad = tmp_path / "bad.json"
    bad.write_text('{"format": "zeotherm-job", "found": {"fan": {"voltage_v": "nine"}}}')
    mime = QMimeData()
    mime.setUrls([QUrl.fromLocalFile(str(bad))])
    drop = QDropEvent(
        QPointF(50, 50), Qt.DropAction.CopyAction, mime, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
    )
    window.dropEvent(drop)
    assert 'found.fan.voltage_v is "nine"' in window.spine.entry.hint.toolTip()
    assert window.bench.job == job


def test_a_solver_that_fails_keeps_the_last_answer(qtbot, open_window, monkeypatch):
    window = open_window()
    before = window.bench.found

    def fail(*_args, **_words):
        raise NotConvergedError("no balance")

    monkeypatch.setattr(hotend, "first_answer", fail)
    window.bench.set_value("fan.voltage_v", 12.0)
    qtbot.waitUntil(lambda: "last good one" in window.explain.verdict.accessibleDescription())
    assert window.bench.found is before
    assert window.explain.of("hotend").board._stale
    monkeypatch.undo()
    window.bench.undo()
    qtbot.waitUntil(lambda: "last good" not in window.explain.verdict.accessibleDescription())
    assert not window.explain.of("hotend").board._stale


def test_an_uncaught_exception_is_logged_and_told(qtbot, open_window, caplog):
    window = open_window()
    mishap = Mishap()
    told = []
    mishap.happened.connect(told.append)
    with caplog.at_level(logging.ERROR, logger="zeotherm"):
        mishap.catch(RuntimeError, RuntimeError("boom"), None)
    assert "RuntimeError" in told[0]
    assert "Every edit is kept" in told[0]
    assert "boom" in caplog.text
    assert window.bench.job is not None


def test_the_entry_line_tells_before_enter(qtbot, open_window):
    window = open_window()
    entry = window.spine.entry
    entry.field.setText("fan 9,1")
    assert entry.hint.text() == "Fan voltage: 9.1 V"
    entry.field.setText("tent, door shut")
    assert entry.hint.toolTip() == "Case: Pop-up fabric tent; Vents open: 0 %"
    entry.field.setText("sink base 9.1 V")
    assert "V is a voltage" in entry.hint.toolTip()
    before = window.bench.job
    QTest.keyClick(entry.field, Qt.Key.Key_Return)
    assert window.bench.job == before
    assert entry.field.text() == "sink base 9.1 V"
    entry.field.setText("retr")
    QTest.keyClick(entry.field, Qt.Key.Key_Tab)
    assert entry.field.text().startswith("retract")
    QTest.keyClick(entry.field, Qt.Key.Key_Escape)
    assert entry.field.text() == ""


def test_the_spine_tells_of_options_before_they_are_solved(qtbot, open_window):
    window = open_window(settled=False)
    assert window.spine.choose.accessibleDescription() == "No options yet"
    for line, told in (("fan 11 V", "1 option"), ("bimetal break with paste", "2 options")):
        window.bench.offer_line(line)
        assert window.spine.choose.accessibleDescription() == told
    window.bench.begin(Job())
    assert window.spine.choose.accessibleDescription() == "No options yet"


def test_what_does_not_fit_below_the_entry_line_is_told_in_full_over_the_view(qtbot, open_window):
    window = open_window()
    window.resize(1024, 700)
    entry = window.spine.entry
    window.bench.enter("fan 999 V")
    assert entry.hint.text().endswith("…")
    assert entry.whole.isVisible()
    assert entry.whole.text() == "Fan voltage goes from 0 V to 30 V; 999 V is outside."
    place = entry.whole.geometry()
    assert window.rect().contains(place)
    assert place.top() >= window.spine.height() - 1
    QTest.mouseClick(entry.whole, Qt.MouseButton.LeftButton)
    assert not entry.whole.isVisible()
    entry.field.setText("fan 999 V")
    assert entry.whole.isVisible()
    entry.field.setText("fan 9")
    assert not entry.whole.isVisible()


@pytest.mark.parametrize("machine", ["Curlew", "Gannet", "Dunlin"])
def test_the_ladders_names_are_whole_at_the_least_width(qtbot, open_window, machine):
    window = open_window()
    window.resize(1024, 700)
    put_on_bench(window, machine)
    settle(qtbot, window)
    ladder = window.explain.ladder
    markers = [marker for marker, _y, _label_y in ladder._labels]
    assert len(markers) >= 8
    assert [marker.label for marker in markers if ladder._fitting(marker) != marker.label] == []


def test_painted_rows_have_names_and_take_the_focus(qtbot, open_window):
    window = open_window()
    for widget in (window.explain.ladder, window.explain.margins):
        rows = widget.rows()
        assert len(rows) >= 5
        for row in rows:
            assert "limit" in row.accessibleName()
        rows[0].setFocus()
        QTest.keyClick(rows[0], Qt.Key.Key_Down)
        assert rows[1].hasFocus()
    picture = window.explain.of("hotend").board
    picture.setFocus()
    QTest.keyClick(picture, Qt.Key.Key_Up)
    assert "°C" in picture.accessibleDescription()


def test_every_control_is_reached_by_tab(qtbot, open_window):
    window = open_window()
    window.spine.entry.field.setFocus()
    seen = set()
    for _ in range(80):
        QTest.keyClick(QApplication.focusWidget(), Qt.Key.Key_Tab)
        seen.add(QApplication.focusWidget())
    levers = window.explain.levers
    wanted = {
        window.explain.of("hotend").board,
        window.explain.verdict.button,
        window.spine.job,
        levers.line("fan.voltage_v").field,
        levers.line("hotend.break_part").drop,
        window.explain.margins.rows()[0],
        window.explain.ladder.rows()[0],
    }
    assert wanted <= seen


def test_theme_and_span_follow_their_keys(qtbot, open_window):
    window = open_window()
    assert theme.tokens().name == "light"
    QTest.keyClick(window, Qt.Key.Key_F12)
    assert theme.tokens().name == "dark"
    QTest.keyClick(window, Qt.Key.Key_F12)
    assert theme.tokens().name == "light"
    assert window.explain.ladder.scale.name == "Full"
    QTest.keyClick(window, Qt.Key.Key_F8)
    assert window.explain.ladder.scale.name == "Cool"


def test_undo_says_what_in_words(qtbot, open_window):
    window = open_window()
    window.bench.undo()
    assert window.spine.entry.hint.toolTip() == "Nothing to undo."
    window.bench.set_value("fan.voltage_v", 12.0)
    window.bench.undo()
    assert window.spine.entry.hint.toolTip() == "Undone: Fan voltage"
    assert window.bench.job.trial == {}


def test_a_new_job_and_its_words(qtbot, open_window):
    window = open_window()
    window.new_job()
    type_line(qtbot, window, "m4")
    window.arriving.begin()
    settle(qtbot, window)
    assert window.bench.job.number == "0414"
    window.bench.rename("Sandpiper", "net shed", "squeals")
    assert window.spine.job.text() == "Sandpiper"
    window.bench.rename("x" * 300, "", "")
    assert "machine" in window.spine.entry.hint.toolTip()
    assert window.bench.job.machine == "Sandpiper"


def test_a_workshop_that_cannot_be_written_is_told(qtbot, open_window):
    window = open_window()
    window.bench._keeper.ask(lambda workshop: workshop._file.base.execute("PRAGMA query_only = ON").close())
    before = window.bench.job
    window.bench.set_value("fan.voltage_v", 12.0)
    qtbot.waitUntil(lambda: "could not be written" in window.spine.entry.hint.toolTip(), timeout=20_000)
    assert window.bench.job == before
    window.bench._keeper.ask(lambda workshop: workshop._file.base.execute("PRAGMA query_only = OFF").close())
    window.bench.set_value("fan.voltage_v", 12.0)
    qtbot.waitUntil(lambda: not window.isWindowModified(), timeout=20_000)
    assert window.bench.job != before


def test_an_edit_is_shown_at_once_and_written_behind_it(qtbot, open_window):
    window = open_window()
    bench, gate, told = window.bench, threading.Event(), []
    bench.writing_changed.connect(told.append)
    bench._keeper.do(lambda _workshop: gate.wait(20.0))  # a slow disk
    before = bench.job
    assert bench.enter("guard 40 %")
    assert bench.enter("fan 11 V")
    assert bench.job != before, "shown"
    assert window.isWindowModified()
    assert True in told
    assert False not in told
    gate.set()
    qtbot.waitUntil(lambda: not window.isWindowModified(), timeout=20_000)
    assert bench._keeper.ask(lambda workshop: workshop.job(bench.key)) == bench.job
    bench.undo()
    bench.undo()
    assert bench.job == before


def test_a_write_that_fails_at_once_is_heard_of_after_the_job_is_shown(qtbot, open_window, monkeypatch):
    window = open_window()
    bench, before = window.bench, window.bench.job

    def at_once(_work):
        receipt = Future()
        receipt.set_exception(ShopError("The disk is full."))
        return receipt

    monkeypatch.setattr(bench._keeper, "do", at_once)
    assert bench.enter("guard 40 %")
    qtbot.waitUntil(lambda: bench.job == before, timeout=20_000)
    monkeypatch.undo()


def test_closing_waits_for_the_file_and_tells_what_it_did_not_take(qtbot, open_window, monkeypatch):
    window = open_window()
    bench, path = window.bench, window.bench._keeper.path
    with monkeypatch.context() as full:
        full.setattr(Workshop, "edit", no_room)
        assert bench.enter("guard 40 %")
        assert not window.close()
        assert "The disk is full. Close again" in window.spine.entry.hint.toolTip()
    qtbot.waitUntil(lambda: not window.isWindowModified(), timeout=20_000)
    gate = threading.Event()
    bench._keeper.do(lambda _workshop: gate.wait(20.0))
    assert bench.enter("guard 35 %")
    wanted = bench.job
    threading.Timer(0.2, gate.set).start()
    assert window.close()
    again = Workshop(path)
    assert again.job(bench.key) == wanted
    again.close()


def test_an_edit_that_failed_is_told_though_another_job_is_edited_since(qtbot, open_window, monkeypatch):
    window = open_window()
    bench, said = window.bench, []
    bench.told.connect(said.append)
    first = bench.key
    other = next(key for key in bench._keeper.ask(Workshop.keys) if key != first)
    edit = Workshop.edit
    full = lambda workshop, key, *about, **more: (no_room if key == first else edit)(workshop, key, *about, **more)  # noqa: E731
    monkeypatch.setattr(Workshop, "edit", full)
    assert bench.enter("guard 40 %")
    bench.open_job(other)
    assert bench.enter("fan 11 V")
    qtbot.waitUntil(lambda: not window.isWindowModified(), timeout=20_000)
    assert "The disk is full." in said
    assert bench.job.setup().fan.voltage_v == 11.0, "the other job keeps its edit"


def no_room(*_given: object, **_more: object) -> None:
    raise ShopError("The disk is full.")


@pytest.mark.parametrize("size", [(1280, 800), (1024, 700), (1600, 1000)])
def test_no_lever_or_margin_is_cut(qtbot, open_window, size):
    window = open_window()
    window.resize(*size)
    side = window.explain._side
    qtbot.waitUntil(lambda: side.widget().width() <= side.viewport().width(), timeout=10_000)
    for line in window.explain.levers._lines.values():
        assert line.geometry().right() <= side.viewport().width()
    assert window.explain.verdict.button.geometry().right() <= window.explain.verdict.width()


def test_levers_that_no_model_can_use_are_marked_unknown(qtbot, open_window):
    window = open_window()
    window.bench.set_value("fan.voltage_v", 0.0)
    settle(qtbot, window)
    outlet = window.bench.found.answer.margin("fan_outlet")
    assert outlet.room is None
    assert outlet.state is State.UNKNOWN


@pytest.mark.parametrize("width", [1024, 1280, 1600])
def test_no_word_over_the_options_board_is_cut(qtbot, open_window, width):
    window = open_window()
    window.resize(width, 800)
    window.show_choose()
    choose = window.choose
    QTest.qWait(50)
    buttons = [*choose.tabs.values(), choose.add, choose.keep, choose.take, choose.off]
    assert all(button.width() >= button.sizeHint().width() for button in buttons)
    assert choose.keep.accessibleName() == "Keep the trial as an option"


def test_a_levers_long_name_ends_in_an_ellipsis_and_is_told_whole(qtbot, open_window):
    window = open_window()
    put_on_bench(window, "Dunlin")
    window.explain.turn_to("power")
    found = window.explain.of("power")
    qtbot.waitUntil(lambda: found.found is not None and bool(found.found.answer.strengths), timeout=60_000)
    QTest.qWait(50)
    line = window.explain.levers.line("power.heater_lead.mm2")
    assert "…" in line._name.text()
    assert line.toolTip().startswith("Hotend lead, cross-section: ")


def test_faults_that_a_machine_cannot_show_are_not_offered(qtbot, open_window):
    window = open_window()
    faults = next(one.menu() for one in window.menu.actions() if one.text() == "A fault at this moment")
    offered = {}
    for machine in ("Curlew", "Dunlin"):
        put_on_bench(window, machine)
        faults.aboutToShow.emit()
        offered[machine] = {item.text() for item in faults.actions() if item.isVisible()}
    assert offered["Dunlin"] - offered["Curlew"] == {"Bed's plug works loose"}


def test_the_hour_beside_the_moment_that_is_shown_gives_way(qtbot, open_window):
    window = open_window()
    strip = window.explain.strip
    view = strip.view
    for now in np.linspace(0.0, view.end, 9):
        _text, box = strip._now_box(replace(view, now=float(now)))
        post = strip.x_of(float(now))
        assert box.left() > post or box.right() < post
        assert 0.0 <= box.left() <= box.right() <= strip.width()


def test_a_drag_is_written_when_the_hand_rests(qtbot, open_window):
    window = open_window()
    bench, path = window.bench, "fan.voltage_v"
    written = lambda: bench._keeper.ask(lambda workshop: workshop.job(bench.key))  # noqa: E731
    before = bench.job
    for volts in (20.0, 18.0, 16.0):
        bench.set_value(path, volts, dragging=True)
    assert bench.job.setup().fan.voltage_v == 16.0
    assert written() == before, "nothing is written while it moves"
    bench.set_value(path, 15.0)
    assert written() == bench.job, "let go"
    bench.undo()
    assert bench.job == before, "one edit"
    bench.set_value(path, 12.0, dragging=True)
    qtbot.waitUntil(lambda: written() == bench.job, timeout=20_000)
    bench.set_value(path, 11.0, dragging=True)
    bench.set_value(path, 11.0)
    assert written().setup().fan.voltage_v == 11.0
    bench.undo()
    assert bench.job == before, "a drag that rested is still one edit"
    bench.set_value(path, 9.0, dragging=True)
    assert bench.enter("guard 40 %")
    bench.undo()
    assert bench.job.setup().fan.voltage_v == 9.0, "what was dragged is an edit before the next"


def test_a_drag_that_cannot_be_written_goes_back(qtbot, open_window, monkeypatch):
    window = open_window()
    bench, said = window.bench, []
    bench.told.connect(said.append)
    before = bench.job
    monkeypatch.setattr(Workshop, "edit", no_room)
    bench.set_value("fan.voltage_v", 20.0, dragging=True)
    bench.set_value("fan.voltage_v", 19.0)
    qtbot.waitUntil(lambda: bool(said), timeout=20_000)
    assert said == ["The disk is full."]
    assert bench.job == before
    monkeypatch.undo()
    settle(qtbot, window)


def test_what_windows_share_is_what_one_alone_finds(qtbot, open_window):
    window = open_window()
    shared = window.bench.found.worst
    window.close()
    alone = open_window(alone=True).bench.found.worst
    assert shared is not alone
    assert shared.solved.readout.values == alone.solved.readout.values
    assert shared.bands.rooms == alone.bands.rooms
    assert [one.enough for one in shared.strengths] == [one.enough for one in alone.strengths]


@pytest.mark.parametrize(("screen", "size"), [
    ((1366, 768), (1280, 728)), ((1280, 800), (1280, 760)), ((1920, 1080), (1280, 800)), ((800, 600), (1024, 700)),
])  # fmt: skip
def test_a_window_fits_the_screen_that_it_opens_on(screen, size):
    assert fitting(QSize(*USUAL), QSize(*screen)) == QSize(*size)


def test_the_menu_is_there_to_see_in_groups_and_opens_by_button_and_key(qtbot, open_window, monkeypatch):
    window = open_window(settled=False)
    groups = [one.text() for one in window.menu.actions()]
    assert groups == ["Job", "Machine", "Edit", "Go to", "Look", "Shop", "A fault at this moment", "Help"]
    assert window.spine.menu.isVisible()
    opened = []
    monkeypatch.setattr(window.menu, "popup", opened.append)  # a window without a screen cannot hold the keyboard
    QTest.mouseClick(window.spine.menu, Qt.MouseButton.LeftButton)
    QTest.keyClick(window.explain.picture, Qt.Key.Key_F10)
    assert len(opened) == 2
    assert opened[0] == opened[1]
    window.resize(1024, 700)
    window.spine.grab()
    assert window.spine.menu.geometry().right() <= window.width()


def test_preferences_are_kept_and_followed(qtbot, open_window, monkeypatch):
    window = open_window(settled=False)
    seen = []

    def answer(dialog):
        seen.append(dialog.chosen)
        dialog.look.setCurrentIndex(dialog.look.findData("dark"))
        dialog.text.setCurrentIndex(dialog.text.findData(1.2))
        dialog.currency.setText("  ")
        dialog.keep()
        assert "Type a currency" in dialog.wrong.text()
        dialog.currency.setText("kr")
        for field, wrong, said in (
            (dialog.tariff, "dear", "Electricity: 'dear' is no number"), (dialog.hourly, "-3", "Work goes from 0"),
        ):  # fmt: skip
            before = field.text()
            field.setText(wrong)
            dialog.keep()
            assert said in dialog.wrong.text()
            field.setText(before)
        dialog.tariff.setText("0,42")
        dialog.hourly.setText("36")
        dialog.keep()
        return dialog.result()

    monkeypatch.setattr(Preferences, "exec", answer)
    try:
        window.prefer()
        assert (seen[0].currency, seen[0].tariff, seen[0].hourly) == ("£", 0.3, 0.0)
        assert (window.bench.tariff, window.bench.hourly) == (0.42, 36.0)
        assert theme.tokens().name == "dark"
        assert window.bench.note("text") == "1.2"
        assert window.bench.job.currency == "kr"
        window.new_job()
        window.arriving.enter("m4")
        window.arriving.begin()
        assert window.bench.job.currency == "kr"
        window.bench.set_note("theme", "system")
        monkeypatch.setattr("zeotherm.desk.window._system_theme", lambda: "light")
        window._wear_as_chosen()  # as when the system turns light
        assert theme.tokens().name == "light"
    finally:
        theme.choose("light")

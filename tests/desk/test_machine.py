"""The whole machine in Explain: its picture, its verdict, the cards of its parts."""

from __future__ import annotations

import itertools

import pytest
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QImage
from PyQt6.QtTest import QTest

from tests.window import put_on_bench, settle
from zeotherm.core.judgement.margins import State
from zeotherm.core.machine.known import how_known
from zeotherm.core.solver.plate import NotSettledError
from zeotherm.desk.parts.whole.shown import whole_margins
from zeotherm.desk.views.own_part import OwnPart
from zeotherm.shop.editing.edits import with_value
from zeotherm.wording.machine import lacking
from zeotherm.wording.verdict import Verdict, with_lacking


@pytest.fixture
def window(qtbot, open_window):
    found = open_window(part="machine")
    answered(qtbot, found)
    return found


def answered(qtbot, window):
    """Wait until every part of the machine on the bench is answered, and what decides its verdict is known."""
    machine = window.explain.machine

    def done() -> bool:
        whole = machine.whole
        if whole is None or whole.hotend.job != window.bench.job or not whole.hotend.complete or machine.busy:
            return False
        return len(whole.parts) == 3 and not whole.waits

    qtbot.waitUntil(done, timeout=240_000)
    qtbot.wait(20)


def turn_to_job(qtbot, window, name):
    put_on_bench(window, name)
    settle(qtbot, window)
    answered(qtbot, window)


def begin(qtbot, window, line):
    window.new_job()
    window.arriving.enter(line)
    window.arriving.begin()
    window.explain.turn_to("machine")
    settle(qtbot, window)
    answered(qtbot, window)


def key(window, name):
    QTest.keyClick(window.focusWidget(), name)


def labels(window):
    return {one.label.key: one for one in window.explain.machine.board.labels}


def test_it_is_what_one_sees_first(window):
    assert window.explain.part == "machine"
    assert window.explain.picture is window.explain.machine.board
    assert not window.explain.levers.isVisible()
    assert window.explain.strip.folded
    window.explain.fold_strip()
    assert not window.explain.strip.folded
    window.explain.turn_to("bed")
    assert window.explain.levers.isVisible()
    assert not window.explain.strip.folded


def test_every_part_has_its_label_and_none_lies_over_another(qtbot, window):
    for job, size in itertools.product(("Curlew", "Gannet", "Dunlin"), ((1280, 800), (1024, 700))):
        if window.bench.job.machine.partition(",")[0] != job:
            turn_to_job(qtbot, window, job)
        window.resize(*size)
        qtbot.wait(30)
        board = window.explain.machine.board
        placed = board.labels
        assert {one.label.key for one in placed} == set(window.bench.catalogue.cards)
        for one in placed:
            assert QRectF(board.rect()).contains(one.frame), one
        for one, other in itertools.combinations(placed, 2):
            both = one.frame.intersected(other.frame)
            assert both.width() <= 0.5 or both.height() <= 0.5, (one.label.key, other.label.key)


def test_the_verdict_is_that_of_its_worst_part(qtbot, window):
    turn_to_job(qtbot, window, "Dunlin")
    machine, explain = window.explain.machine, window.explain
    lines = {one.key: one for one in machine.lines._lines}
    whole = machine.whole
    assert whole is not None
    worst = whole.worst_part.part.key if whole.worst_part is not None else "hotend"
    assert explain.verdict.accessibleName().startswith(lines[worst].headline)
    assert lines[worst].state.bad
    assert set(lines) == {"hotend", "bed", "case", "power"}
    assert machine.brief()[0] in window.spine.explain.accessibleDescription()
    QTest.keyClick(machine.lines.rows()[1], Qt.Key.Key_Return)
    assert explain.part == "bed"


def test_a_part_without_an_answer_leaves_the_machine_open(qtbot, window):
    machine, explain = window.explain.machine, window.explain
    whole = machine.whole
    assert [one.part.key for one in whole.not_entered] == ["power"]
    assert State.CLEAR not in {one.state for one in machine.board.view.labels}
    assert State.CLEAR not in {row.state for row in whole_margins(whole)}
    assert explain.verdict.accessibleDescription().endswith("Not entered: power.")
    works = Verdict("Works; feed has the least room", "Feed 20 K.", State.CLEAR)
    told = with_lacking(works, lacking(["Bed"], [], ["Power"]))
    assert told.headline == "As far as known: works; feed has the least room"
    assert told.reason == "Feed 20 K. Not answered yet: bed. Not entered: power."
    assert told.state is State.UNKNOWN
    bed = next(one for one in explain.parts if one.part == "bed")
    bed.asked.failed.emit(NotSettledError("it swings"))
    assert [one.part.key for one in machine.whole.fails] == ["bed"]
    line = next(one for one in machine.lines._lines if one.key == "bed")
    assert line.state is State.UNKNOWN
    assert line.headline.startswith("No answer")
    assert "No answer: bed." in explain.verdict.accessibleDescription()
    assert machine.whole.current.lacks
    bed.solve()
    qtbot.waitUntil(lambda: not machine.whole.fails, timeout=60_000)
    window.bench.set_known("bed.heater_w", "entered")
    job = window.bench.job
    assert bed.of.may_be(job, window.bench.catalogue)
    assert not bed.of.may_be(with_value(job, "bed.target_c", 0.0), window.bench.catalogue)


def test_a_new_machine_has_nothing_clear_and_ranks_what_decides(qtbot, window):
    begin(qtbot, window, "m8")
    machine = window.explain.machine
    whole = machine.whole
    assert whole is not None
    assert whole.open
    view = machine.board.view
    assert view is not None
    assert State.CLEAR not in {one.state for one in view.labels}
    assert all(one.how == "assumed" for one in view.labels if one.there)
    ranks = [one.rank for one in view.labels if one.rank]
    assert ranks
    assert ranks == sorted(ranks)
    assert all(one.by for one in view.labels if one.rank)
    assert all(state is not State.CLEAR or count == 0 for state, count in window.explain.ladder._view.counts)


@pytest.mark.parametrize("name", ["Curlew", "Gannet", "Dunlin"])
def test_a_demo_with_its_facts_taken_away_has_nothing_clear(qtbot, window, name):
    turn_to_job(qtbot, window, name)
    window.bench.edit(lambda job: job.model_copy(update={"known": {}, "tolerances": {}, "readings": {}}), "forgotten")
    settle(qtbot, window)
    answered(qtbot, window)
    machine, explain = window.explain.machine, window.explain
    assert machine.whole is not None
    assert machine.whole.open
    assert State.CLEAR not in {one.state for one in machine.board.view.labels}
    assert State.CLEAR not in {one.state for one in machine.lines._lines}
    told = f"{explain.verdict.accessibleName()} {explain.verdict.accessibleDescription()}".lower()
    assert "clear" not in told
    assert "nothing needs" not in told
    assert "works" not in told or "as far as known" in told or "too close" in told


def test_up_and_down_walk_the_parts_enter_opens_a_card_escape_closes_it(qtbot, window):
    begin(qtbot, window, "m4")
    board, machine = window.explain.machine.board, window.explain.machine
    board.setFocus()
    key(window, Qt.Key.Key_Down)
    first = board.focused()
    assert first == board.view.labels[0].key  # the most deciding
    key(window, Qt.Key.Key_Down)
    second = board.focused()
    assert second not in ("", first)
    key(window, Qt.Key.Key_Return)
    assert machine.card.isVisible()
    assert machine.card.view.key == second
    assert not window.explain.facts.isVisible()
    assert not window.explain.margins.isVisible()
    key(window, Qt.Key.Key_Escape)
    assert not machine.card.isVisible()
    assert window.explain.margins.isVisible()
    assert board.focused() == second


def test_what_is_typed_on_a_card_is_entered_and_can_be_taken_back(qtbot, window):
    begin(qtbot, window, "m4")
    machine = window.explain.machine
    machine.open_card("heatsink_fan")
    line = machine.card.levers.line("fan.voltage_v")
    line.field.setFocus()
    line.field.selectAll()
    QTest.keyClicks(line.field, "9.1")
    QTest.keyClick(line.field, Qt.Key.Key_Return)
    assert window.bench.job.found.fan.voltage_v == 9.1
    assert how_known(window.bench.job.known, "fan.voltage_v") == "entered"
    settle(qtbot, window)
    answered(qtbot, window)
    assert machine.card.isVisible()
    assert machine.card.levers.line("fan.voltage_v").known_by.then == "assumed"
    QTest.mouseClick(machine.card.levers.line("fan.voltage_v").known_by, Qt.MouseButton.LeftButton)
    assert how_known(window.bench.job.known, "fan.voltage_v") == "assumed"


def test_what_was_measured_says_with_what(qtbot, window):
    begin(qtbot, window, "m4")
    machine = window.explain.machine
    machine.open_card("heatsink_fan")
    mark = machine.card.levers.line("fan.voltage_v").known_by
    menu = mark.instrument_menu()
    assert [one.text() for one in menu.actions()] == ["Measured: multimeter, volts"]
    menu.actions()[0].trigger()
    assert how_known(window.bench.job.known, "fan.voltage_v") == "measured"
    assert "Multimeter, volts" in mark.toolTip()
    assert machine.card.levers.line("fan.part").known_by.instrument_menu().isEmpty()
    window.bench.undo()
    assert "fan.voltage_v" not in window.bench.job.known


@pytest.mark.parametrize("text", ["plenty", "900", "12 kg", ""])
def test_a_wrong_value_on_a_card_is_said_and_nothing_is_lost(qtbot, window, text):
    machine, was = window.explain.machine, window.bench.job
    machine.open_card("heatsink_fan")
    line = machine.card.levers.line("fan.voltage_v")
    line.field.setFocus()
    line.field.selectAll()
    QTest.keyClicks(line.field, text) if text else QTest.keyClick(line.field, Qt.Key.Key_Delete)
    QTest.keyClick(line.field, Qt.Key.Key_Return)
    assert window.bench.job == was
    assert machine.card.levers._trouble.isVisible()


def test_more_figures_unfold(window):
    machine = window.explain.machine
    machine.open_card("bed")
    card = machine.card
    paths = window.bench.catalogue.cards["bed"].paths
    assert card.levers.shown == list(paths[:7])
    QTest.mouseClick(card.fold, Qt.MouseButton.LeftButton)
    assert card.levers.shown == list(paths)
    machine.open_card("frame")
    assert len(card.levers.shown) == 7
    assert not card.fold.isVisible()


def test_a_fact_that_decides_leads_to_its_card_from_any_tab(qtbot, window):
    begin(qtbot, window, "m4")
    window.explain.turn_to("hotend")
    row = window.explain.facts.view.rows[0]
    window.explain.facts.activated.emit(row.key)
    assert window.explain.part == "machine"
    card = window.explain.machine.card
    assert card.isVisible()
    assert set(window.bench.catalogue.facts[row.key].paths) <= set(card.levers.shown)


def test_pressing_a_part_in_the_picture_opens_its_card(window):
    machine = window.explain.machine
    sheet, shape = machine.board._sheet, machine.board.view.shape
    spool = sheet.box(next(one.box for one in shape.solids if one.card == "spool")).center()
    QTest.mouseClick(machine.board, Qt.MouseButton.LeftButton, pos=QPointF(spool.x() + 4, spool.y() + 4).toPoint())
    assert machine.card.view.key == "spool"
    QTest.mouseClick(machine.board, Qt.MouseButton.LeftButton, pos=sheet.inset.center().toPoint())
    assert machine.card.view.key == "hotend"
    QTest.mouseClick(machine.card.more, Qt.MouseButton.LeftButton)
    assert window.explain.part == "hotend"
    assert not machine.card.isVisible()
    assert window.explain.margins.isVisible()


def test_the_picture_follows_the_moment(qtbot, window):
    machine = window.explain.machine
    late = machine.board.view
    window.explain.scrub(120.0)
    qtbot.waitUntil(lambda: window.bench.found.time == 120.0, timeout=60_000)
    qtbot.wait(20)
    soon = machine.board.view
    assert soon.temperatures["case_air"] < late.temperatures["case_air"]
    assert soon.watts.warms > late.watts.warms
    assert soon.sentence != late.sentence


def test_where_the_air_is_stated_nothing_is_said_of_watts(qtbot, window):
    begin(qtbot, window, "m0")
    view = window.explain.machine.board.view
    assert view.watts is None
    assert "stated" in view.sentence


def test_a_part_that_is_not_there_says_so_and_can_be_entered(qtbot, window):
    begin(qtbot, window, "m4")
    found = labels(window)
    assert found["enclosure"].label.says == "none"
    assert not found["enclosure"].label.there
    machine = window.explain.machine
    machine.open_card("enclosure")
    drop = machine.card.levers.line("case.part").drop
    drop.setCurrentIndex(drop.findData("bench_locker"))
    drop.activated.emit(drop.currentIndex())
    assert window.bench.job.found.case.part == "bench_locker"
    settle(qtbot, window)
    answered(qtbot, window)
    assert labels(window)["enclosure"].label.there
    assert machine.board.view.shape.enclosure is not None


def picture(path, size=(640, 480)):
    image = QImage(*size, QImage.Format.Format_RGB32)
    image.fill(0x336699)
    assert image.save(str(path))
    return path


def test_a_photograph_of_a_label_stands_on_its_card(qtbot, window, tmp_path):
    machine = window.explain.machine
    machine.open_card("heatsink_fan")
    photo = machine.card.photo
    assert not photo.look.isVisible()
    window.import_file(picture(tmp_path / "fan label.png"))  # as if it was dropped on the window
    assert window.bench.job.photos["heatsink_fan"].name == "fan label.png"
    qtbot.waitUntil(lambda: not photo.picture.pixmap().isNull(), timeout=30_000)
    assert photo.picture.pixmap().width() <= 96
    machine.open_card("spool")
    assert not photo.look.isVisible()
    assert "spool" not in window.bench.job.photos
    machine.open_card("heatsink_fan")
    assert photo.look.isVisible()
    QTest.mouseClick(photo.off, Qt.MouseButton.LeftButton)
    assert window.bench.job.photos == {}
    window.bench.undo()
    assert "heatsink_fan" in window.bench.job.photos


def test_what_is_no_photograph_or_too_large_is_said_and_nothing_is_lost(qtbot, window, tmp_path):
    machine, told = window.explain.machine, []
    window.bench.told.connect(told.append)
    machine.open_card("supply")
    large = tmp_path / "large.png"
    with large.open("wb") as file:
        file.truncate(200_000_000)
    window.import_file(large)
    assert "large.png" in told[-1]
    assert window.bench.job.photos == {}
    window.bench.photograph("supply", tmp_path / "not there.png")
    assert "not there.png" in told[-1]
    broken = tmp_path / "broken.png"
    broken.write_bytes(b"no picture at all")
    window.bench.photograph("supply", broken)
    qtbot.waitUntil(lambda: machine.card.photo.picture.text() == "no preview", timeout=30_000)
    assert window.bench.job.photos["supply"].size == 17  # kept all the same


def test_a_part_that_is_on_no_shelf_is_made_on_its_card(qtbot, window, monkeypatch):
    opened: list[OwnPart] = []
    monkeypatch.setattr(OwnPart, "exec", lambda dialog: opened.append(dialog))
    machine, before = window.explain.machine, window.bench.job
    machine.open_card("heatsink_fan")
    drop = machine.card.levers.line("fan.part").drop
    last = drop.count() - 1
    assert drop.itemText(last) == "Not on the shelf: make one"
    drop.setCurrentIndex(last)
    drop.activated.emit(last)
    assert drop.currentData() == before.setup().fan.part
    dialog = opened[0]
    dialog.name.setText("Loud 50")
    for at, text, said in (("size_mm", "wide", "'wide' is no number"), ("size_mm", "500", "500 is outside")):
        dialog.fields[at].setText(text)
        dialog.fields[at].setModified(True)
        dialog.make()
        assert said in dialog.wrong.text()
        assert window.bench.job == before
    dialog.fields["size_mm"].setText("50")
    dialog.fields["size_mm"].setModified(True)
    dialog.make()
    assert window.bench.job.setup().fan.part == "own_loud_50"
    assert window.bench.catalogue.fans["own_loud_50"].size_mm == 50.0
    window.bench.undo()
    assert window.bench.job == before

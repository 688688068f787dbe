"""The board's words and shapes from solved columns, without a window's help."""

from __future__ import annotations

import pytest
from PyQt6.QtCore import QPoint

from tests.boards import columns as columns_of
from zeotherm.answers.board import SolvedBoard
from zeotherm.answers.processes import Processes
from zeotherm.core.catalogue import shipped
from zeotherm.core.choices.board import column, offered
from zeotherm.core.judgement.margins import State
from zeotherm.core.judgement.standing import ALL_KNOWN
from zeotherm.core.solver.axisymmetric import NotConvergedError
from zeotherm.desk.style import theme
from zeotherm.desk.views.choose.board import Board
from zeotherm.desk.views.choose.shown import board
from zeotherm.shop.editing.edits import with_chosen, with_variant


@pytest.fixture(scope="module")
def solved(demo):
    job = demo("Curlew")
    for key, variant in offered(job.found, shipped()).items():
        if key in ("clean_guard", "duct", "silicone_sleeve"):
            job = with_variant(job, key, variant)
    wanted = [(), ("clean_guard",), ("duct",), ("clean_guard", "duct")]
    columns = {keys: column(job.found, job.variants, keys, shipped(), {}) for keys in wanted}
    return job, columns


def test_what_is_not_solved_yet_is_pending(solved):
    job, columns = solved
    view = board(SolvedBoard(job, {(): columns[()]}, {}, None, False, ALL_KNOWN))
    assert [one.pending for one in view.columns] == [False, True, True, True]
    assert view.verdict.headline == "Looking for the cheapest set"
    assert view.chosen is None
    nothing = board(SolvedBoard(job, {}, {}, None, False, ALL_KNOWN))
    assert nothing.limits == ()
    assert nothing.verdict.state is State.UNKNOWN


def test_the_suggested_set_stands_at_the_right(solved):
    job, columns = solved
    both = columns[("clean_guard", "duct")]
    view = board(SolvedBoard(job, columns, {}, both, True, ALL_KNOWN))
    assert view.chosen_head == "Suggested set"
    assert view.chosen.title == "B + C"
    assert view.verdict.headline == "£9 and 35 minutes: clean the fan guard + fan duct from outside"
    priced = board(SolvedBoard(job, columns, {}, both, True, ALL_KNOWN, 48.0))
    assert priced.verdict.headline.startswith("£37 with 35 minutes of work: ")
    assert view.verdict.state is State.CLEAR
    heads = [head for head, _text, _state in view.notes]
    assert "Given up" not in heads  # a few watt-hours are not worth a word
    assert "Alone it would do" in heads
    assert view.foot.startswith("With the set: every limit holds throughout")


def test_a_set_taken_that_is_not_enough_says_what_is_left(solved):
    job, columns = solved
    taken = with_chosen(job, ["silicone_sleeve"])
    sleeve = column(job.found, job.variants, ("silicone_sleeve",), shipped(), {})
    view = board(
        SolvedBoard(taken, {**columns, sleeve.keys: sleeve}, {}, columns[("clean_guard", "duct")], True, ALL_KNOWN)
    )
    assert view.chosen_head == "Set taken"
    assert view.verdict.state.bad
    assert view.verdict.reason.startswith("Not enough: ")
    assert any(head == "Cheapest that meets every limit" for head, _text, _state in view.notes)
    assert [one.taken for one in view.columns] == [False, False, False, True]


def test_no_set_and_a_failed_column_are_said(solved):
    job, columns = solved
    view = board(
        SolvedBoard(job, {(): columns[()]}, {("duct",): NotConvergedError("no balance")}, None, True, ALL_KNOWN)
    )
    assert view.verdict.headline == "No set on the board meets every limit"
    duct = next(one for one in view.columns if one.key == "duct")
    assert not duct.pending
    assert "No answer" in duct.spoken


def test_cells_carry_their_state_and_side(solved):
    job, columns = solved
    view = board(SolvedBoard(job, columns, {}, None, True, ALL_KNOWN))
    found, _clean, duct, _sleeve = view.columns
    worst = [label for label, _unit in view.limits].index("Feed")
    assert found.cells[worst].state is State.SHORT
    assert found.cells[worst].bar < 0 < duct.cells[worst].bar
    assert found.figures[2] == "–"
    assert duct.figures[2] == "£9"
    assert "sure" in duct.spoken


@pytest.mark.parametrize("width", [780, 1036, 1600])
def test_the_board_uses_the_width_there_is(qtbot, solved, width):
    job, columns = solved
    theme.load_fonts()
    widget = Board()
    qtbot.addWidget(widget)
    widget.set_room(width, width < 900)
    widget.show_view(board(SolvedBoard(job, columns, {}, columns[("clean_guard", "duct")], True, ALL_KNOWN)))
    widget.resize(widget.sizeHint())
    assert widget.sizeHint().width() <= width
    assert not widget.grab().isNull()
    rows = widget.rows()
    assert [row.key for row in rows] == ["", "clean_guard", "duct", "silicone_sleeve"]
    assert all(row.geometry().right() < width for row in rows)
    told = []
    widget.pressed.connect(lambda key, place: told.append((key, place)))
    from PyQt6.QtCore import Qt
    from PyQt6.QtTest import QTest

    QTest.mouseClick(rows[1], Qt.MouseButton.LeftButton, pos=QPoint(12, 10))
    assert told[0][0] == "clean_guard"


def test_processes_solve_beside_each_other_and_can_be_called_off(solved):
    from zeotherm.core.solver.axisymmetric import CancelledError

    job, columns = solved
    processes = Processes()
    try:
        found = columns_of(processes, job.found, job.variants, shipped(), [("clean_guard",), ("duct",)])
        for keys, one in found.items():
            assert one.margins["feed"].room == pytest.approx(columns[keys].margins["feed"].room, abs=1e-9)
        with pytest.raises(CancelledError):
            columns_of(processes, job.found, job.variants, shipped(), [("clean_guard", "duct")], lambda: True)
    finally:
        processes.close()

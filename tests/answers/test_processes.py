"""Worker processes: two lanes that leave each other alone."""

from __future__ import annotations

import pickle
import subprocess
import sys
import time
from concurrent.futures import wait
from dataclasses import replace

import psutil
import pytest

from tests.boards import columns, questions
from zeotherm.answers.causes import worlds_run
from zeotherm.answers.executor import Until
from zeotherm.answers.processes import BOARD, Processes, blocking
from zeotherm.core.catalogue import shipped
from zeotherm.core.causes.outcomes import Outcome
from zeotherm.core.causes.worlds import AS_FOUND, hypotheses
from zeotherm.core.choices.board import Column, column
from zeotherm.core.machine.documents import Setup, Variant, patched
from zeotherm.core.machine.patches import ClashError
from zeotherm.core.solver.axisymmetric import CancelledError, conducting

SHORT = patched(Setup(), {"schedule": {"print_min": 30.0, "cool_min": 0.0}})


@pytest.fixture(scope="module")
def processes():
    """Two processes."""
    found = Processes()
    yield found
    found.close()


def test_a_board_leaves_the_causes_under_way_alone(processes):
    worlds = [one for one in hypotheses(SHORT, shipped()) if one.cause in ("fan_dead", "wet")]
    results = blocking(worlds_run(processes, SHORT, shipped(), {}, worlds))
    first, one = next(results)
    assert first == AS_FOUND
    assert isinstance(one, Outcome)
    board = columns(processes, SHORT, {}, shipped(), [()])
    assert isinstance(board[()], Column)
    rest = dict(results)
    assert [worlds[index].cause for index in rest] == ["fan_dead"]
    assert rest[0].fails > 0.9


def test_known_worlds_are_not_run_again(processes, monkeypatch):
    worlds = [one for one in hypotheses(SHORT, shipped()) if one.cause == "fan_dead"]
    first = dict(blocking(worlds_run(processes, SHORT, shipped(), {}, worlds)))
    monkeypatch.setattr(processes, "_send", lambda *given: pytest.fail("asked again"))
    again = dict(blocking(worlds_run(processes, SHORT, shipped(), {}, worlds)))
    assert list(again) == [AS_FOUND, 0]
    assert all(again[key] is first[key] for key in again)


def test_cancelled_worlds_stop(processes):
    worlds = hypotheses(SHORT, shipped())
    with pytest.raises(CancelledError):
        dict(blocking(worlds_run(processes, SHORT, shipped(), {}, worlds, lambda: True)))


def test_a_column_comes_back_as_it_was_judged_without_what_only_that_needed(processes):
    back = columns(processes, SHORT, {}, shipped(), [()])[()]
    here = column(SHORT, {}, (), shipped())
    assert back.sure == here.sure
    assert back.margins == here.margins
    assert (back.answer.bands.rooms, back.answer.bands.shares) == (here.answer.bands.rooms, here.answer.bands.shares)
    assert (len(back.answer.bands.changes), len(here.answer.bands.changes) > 20) == (0, True)
    again = [one.course.answer(one.course.worst_time).margins for one in (back, here)]
    assert again[0] == again[1]


def test_a_column_that_does_not_fit_says_so_and_the_next_is_solved(processes):
    odd = Variant(label="Wrong break", change={"hotend": {"break_part": "lined_steel"}})
    high, low = (
        Variant(label=label, change={"fan": {"voltage_v": volts}}) for label, volts in (("High", 24.0), ("Low", 9.0))
    )
    variants = {"odd": odd, "high": high, "low": low}
    found = columns(processes, SHORT, variants, shipped(), [("odd",), ("high", "low"), ()])
    assert "does not fit" in str(found[("odd",)])
    assert isinstance(found[("high", "low")], ClashError)
    assert isinstance(found[()], Column)


def test_a_column_travels_without_what_its_reader_can_make(processes):
    solved = columns(processes, SHORT, {}, shipped(), [()])[()]
    system = solved.course.run.printing.system
    body = system.model.problem.body
    assert set(vars(body)) == {"z", "z_faces", "active", "radial", "axial"}
    assert conducting(body, 40).shape == (2 * 40 + body.radial.shape[1] + 1, body.radial.size)
    assert len(pickle.dumps(body)) < 2 * (body.radial.nbytes + body.axial.nbytes)


def test_a_process_that_died_is_replaced():
    processes = Processes()
    try:
        low = {"low": Variant(label="Low", change={"fan": {"voltage_v": 12.0}})}
        assert isinstance(columns(processes, SHORT, {}, shipped(), [()])[()], Column)
        for process in list(processes._pool._processes.values()):
            process.kill()
        found = columns(processes, SHORT, low, shipped(), [("low",)])
        assert isinstance(found[("low",)], Column), "at once, by another try"
    finally:
        processes.close()


def test_a_process_that_dies_at_its_work_costs_no_column():
    processes = Processes()
    try:
        low = {"low": Variant(label="Low", change={"fan": {"voltage_v": 12.0}})}
        steps = processes.each(BOARD, shipped(), questions(SHORT, low, shipped(), [(), ("low",)]))
        assert isinstance(next(steps), Until)
        for process in list(processes._pool._processes.values()):
            process.kill()
        found = dict(blocking(steps))
        assert len(found) == 2
        assert all(isinstance(one, Column) for one in found.values())
    finally:
        processes.close()


def test_what_is_let_go_is_called_off_in_the_processes_too(processes):
    long = patched(SHORT, {"schedule": {"print_min": 600.0}})
    steps = processes.each(BOARD, shipped(), questions(long, {}, shipped(), [()]))
    sent = next(steps)
    steps.close()
    wait(sent.futures, timeout=30.0)
    assert all(one.cancelled() or isinstance(one.exception(), CancelledError) for one in sent.futures)


ORPHANED = """
import os, sys
from zeotherm.answers.board import COLUMN
from zeotherm.answers.processes import BOARD, Processes, blocking
from zeotherm.core.catalogue import shipped
from zeotherm.core.choices.board import Subjects
from zeotherm.core.machine.documents import Setup, patched
if __name__ == "__main__":
    processes = Processes()
    short = patched(Setup(), {"schedule": {"print_min": 5.0, "cool_min": 0.0}})
    asked = COLUMN.of(short, {}, Subjects(), shipped(), {})
    dict(blocking(processes.each(BOARD, shipped(), {0: asked})))
    print(*[process.pid for process in processes._pool._processes.values()], flush=True)
    sys.stdin.read()
"""


def test_processes_end_by_themselves_once_their_parent_is_killed(tmp_path):
    script = tmp_path / "parent.py"
    script.write_text(ORPHANED)
    parent = subprocess.Popen([sys.executable, str(script)], stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True)
    numbers = [int(one) for one in parent.stdout.readline().split()]
    assert numbers
    parent.kill()
    parent.wait()
    parent.stdin.close()
    parent.stdout.close()
    end = time.monotonic() + 20.0
    while any(runs(one) for one in numbers) and time.monotonic() < end:
        time.sleep(0.1)
    assert not [one for one in numbers if runs(one)]


def runs(process: int) -> bool:
    return psutil.pid_exists(process) and psutil.Process(process).status() != psutil.STATUS_ZOMBIE


def test_a_world_without_an_answer_is_told_with_its_reason(processes):
    broken = replace(hypotheses(SHORT, shipped())[0], setup=patched(SHORT, {"hotend": {"break_part": "lined_steel"}}))
    results = dict(blocking(worlds_run(processes, SHORT, shipped(), {}, [broken])))
    assert isinstance(results[0], Exception)
    assert "does not fit" in str(results[0])

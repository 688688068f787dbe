"""Worker processes: two lanes that leave each other alone."""

from __future__ import annotations

import pickle
import subprocess
import sys
import time
from dataclasses import replace

import psutil
import pytest

from zeotherm.core.catalogue import shipped
from zeotherm.core.judgement.board import Column, column
from zeotherm.core.judgement.causes.outcomes import Outcome
from zeotherm.core.judgement.causes.worlds import AS_FOUND, hypotheses
from zeotherm.core.machine.documents import Setup, Variant, patched
from zeotherm.core.machine.patches import ClashError
from zeotherm.core.solver.axisymmetric import CancelledError, conducting
from zeotherm.shop.workers import BoardTask, Machine, Workers

SHORT = patched(Setup(), {"schedule": {"print_min": 30.0, "cool_min": 0.0}})


@pytest.fixture(scope="module")
def workers():
    """Two processes."""
    found = Workers()
    yield found
    found.close()


def test_a_board_leaves_the_causes_under_way_alone(workers):
    worlds = [one for one in hypotheses(SHORT, shipped()) if one.cause in ("fan_dead", "wet")]
    results = workers.outcomes(Machine(SHORT, shipped(), {}), worlds, lambda: False)
    first, one = next(results)
    assert first == AS_FOUND
    assert isinstance(one, Outcome)
    board = dict(workers.columns(BoardTask(SHORT, {}, shipped(), {}), [()], lambda: False))
    assert isinstance(board[()], Column)
    rest = dict(results)
    assert [worlds[index].cause for index in rest] == ["fan_dead"]
    assert rest[0].fails > 0.9


def test_known_worlds_are_not_run_again(workers):
    worlds = [one for one in hypotheses(SHORT, shipped()) if one.cause == "fan_dead"]
    assert list(dict(workers.outcomes(Machine(SHORT, shipped(), {}), worlds, lambda: False, {0}))) == [AS_FOUND]


def test_cancelled_worlds_stop(workers):
    worlds = hypotheses(SHORT, shipped())
    with pytest.raises(CancelledError):
        dict(workers.outcomes(Machine(SHORT, shipped(), {}), worlds, lambda: True))


def test_a_column_comes_back_as_it_was_judged_without_what_only_that_needed(workers):
    back = dict(workers.columns(BoardTask(SHORT, {}, shipped(), {}), [()], lambda: False))[()]
    here = column(SHORT, {}, (), shipped())
    assert back.sure == here.sure
    assert back.margins == here.margins
    assert (back.answer.bands.rooms, back.answer.bands.shares) == (here.answer.bands.rooms, here.answer.bands.shares)
    assert (len(back.answer.bands.changes), len(here.answer.bands.changes) > 20) == (0, True)
    again = [one.course.answer(one.course.worst_time).margins for one in (back, here)]
    assert again[0] == again[1]


def test_a_column_that_does_not_fit_says_so_and_the_next_is_solved(workers):
    odd = Variant(label="Wrong break", change={"hotend": {"break_part": "lined_steel"}})
    high, low = (
        Variant(label=label, change={"fan": {"voltage_v": volts}}) for label, volts in (("High", 24.0), ("Low", 9.0))
    )
    variants = {"odd": odd, "high": high, "low": low}
    found = dict(
        workers.columns(BoardTask(SHORT, variants, shipped(), {}), [("odd",), ("high", "low"), ()], lambda: False)
    )
    assert "does not fit" in str(found[("odd",)])
    assert isinstance(found[("high", "low")], ClashError)
    assert isinstance(found[()], Column)


def test_a_column_travels_without_what_its_reader_can_make(workers):
    solved = dict(workers.columns(BoardTask(SHORT, {}, shipped(), {}), [()], lambda: False))[()]
    system = solved.course.run.printing.system
    body = system.model.problem.body
    assert set(vars(body)) == {"z", "z_faces", "active", "radial", "axial"}
    assert conducting(body, 40).shape == (2 * 40 + body.radial.shape[1] + 1, body.radial.size)
    assert len(pickle.dumps(body)) < 2 * (body.radial.nbytes + body.axial.nbytes)


def test_a_process_that_died_is_replaced():
    workers = Workers()
    try:
        asked = BoardTask(SHORT, {}, shipped(), {})
        assert isinstance(dict(workers.columns(asked, [()], lambda: False))[()], Column)
        for process in list(workers._pool._processes.values()):
            process.kill()
        assert isinstance(dict(workers.columns(asked, [()], lambda: False))[()], Column), "at once, by another try"
    finally:
        workers.close()


def test_a_process_that_dies_at_its_work_costs_no_column():
    workers, killed = Workers(), []

    def kill_once() -> bool:
        pool = workers._pool
        if pool is not None and pool._processes and not killed:
            killed.append([process.pid for process in pool._processes.values()])
            for process in list(pool._processes.values()):
                process.kill()
        return False

    try:
        variants = {"low": Variant(label="Low", change={"fan": {"voltage_v": 12.0}})}
        found = dict(workers.columns(BoardTask(SHORT, variants, shipped(), {}), [(), ("low",)], kill_once))
        assert killed
        assert all(isinstance(one, Column) for one in found.values())
        assert len(found) == 2
    finally:
        workers.close()


ORPHANED = """
import os, sys
from zeotherm.core.catalogue import shipped
from zeotherm.core.machine.documents import Setup, patched
from zeotherm.shop.workers import BoardTask, Workers
if __name__ == "__main__":
    workers = Workers()
    short = patched(Setup(), {"schedule": {"print_min": 5.0, "cool_min": 0.0}})
    dict(workers.columns(BoardTask(short, {}, shipped(), {}), [()], lambda: False))
    print(*[process.pid for process in workers._pool._processes.values()], flush=True)
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


def test_a_world_without_an_answer_is_told_with_its_reason(workers):
    broken = replace(hypotheses(SHORT, shipped())[0], setup=patched(SHORT, {"hotend": {"break_part": "lined_steel"}}))
    results = dict(workers.outcomes(Machine(SHORT, shipped(), {}), [broken], lambda: False))
    assert isinstance(results[0], Exception)
    assert "does not fit" in str(results[0])

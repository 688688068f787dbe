"""One thread, the most urgent first, the latest of a lane, and nothing that wakes up to look."""

from __future__ import annotations

import threading
import time
from concurrent.futures import Future

import pytest

from zeotherm.answers.executor import REST, REST_SECONDS, Executor, Rank, Until
from zeotherm.core.solver.axisymmetric import CancelledError

LONG = 20.0  # s that nothing here takes


@pytest.fixture
def executor():
    made = Executor()
    yield made
    made.close()
    assert made._thread is None or not made._thread.is_alive()


class Heard:
    """What a lane told, in order, and when it was through."""

    def __init__(self) -> None:
        self.all, self._idle = [], threading.Semaphore(0)

    def __call__(self, number, kind, what):
        self.all.append((number, kind, what))
        if kind == "idle":
            self._idle.release()

    def wait(self):
        assert self._idle.acquire(timeout=LONG)
        return [what for _number, kind, what in self.all if kind != "idle"]


def waits(gate: threading.Event, cancelled):
    """As a long stage: asks whether it is still wanted until a gate opens."""
    while not gate.is_set():
        if cancelled():
            raise CancelledError
        time.sleep(0.001)


def test_the_latest_of_a_lane_counts(executor):
    heard, begun, gate = Heard(), threading.Event(), threading.Event()
    lane = executor.lane(heard)

    def slow(cancelled):
        begun.set()
        waits(gate, cancelled)
        yield "stale"

    first = lane.ask(slow)
    assert begun.wait(LONG)
    second = lane.ask(lambda cancelled: iter(["fresh"]))
    heard.wait()
    heard.wait()
    assert (first, second) == (1, 2)
    assert [one for one in heard.all if one[0] == second] == [(2, "told", "fresh"), (2, "idle", None)]
    assert "stale" not in [what for _number, _kind, what in heard.all]


def test_what_is_more_urgent_goes_first_in_the_midst_of_a_stage(executor):
    order, begun, done = [], threading.Event(), threading.Event()
    low, high = Heard(), Heard()

    def long(cancelled):
        begun.set()
        waits(done, cancelled)
        order.append("list")
        yield None

    def short(cancelled):
        order.append("shown")
        done.set()
        yield None

    executor.lane(low, Rank.LIST).ask(long)
    assert begun.wait(LONG)
    executor.lane(high, Rank.SHOWN).ask(short)
    high.wait()
    low.wait()
    assert order == ["shown", "list"]


def test_equals_take_turns_between_what_they_tell(executor):
    told, heards = [], (Heard(), Heard())

    def task(name):
        def steps(cancelled):
            for _step in range(3):
                told.append(name)
                yield name

        return steps

    lanes = [executor.lane(heard, Rank.ASKED) for heard in heards]
    gate = threading.Event()

    def hold(cancelled):
        gate.wait(LONG)
        yield None

    holding = Heard()
    executor.lane(holding, Rank.SHOWN).ask(hold)
    for lane, name in zip(lanes, "ab", strict=True):
        lane.ask(task(name))
    gate.set()
    for heard in heards:
        heard.wait()
    assert told == ["a", "b"] * 3


def test_what_nobody_looks_at_waits_while_a_hand_moves(executor):
    shown, ahead = Heard(), Heard()
    executor.hand_moves()
    executor.lane(ahead, Rank.AHEAD).ask(lambda cancelled: iter([time.monotonic()]))
    executor.lane(shown, Rank.SHOWN).ask(lambda cancelled: iter([time.monotonic()]))
    start = time.monotonic()
    for _move in range(10):
        executor.hand_moves()
        time.sleep(0.01)
    assert shown.wait()[0] < start + 0.1
    assert ahead.wait()[0] > start + 0.1


def test_a_stage_that_nobody_looks_at_stands_still_while_a_hand_moves(executor):
    asked, moving, heard = [], threading.Event(), Heard()

    def stage(cancelled):
        cancelled()
        moving.set()
        time.sleep(0.02)
        assert not cancelled()
        asked.append(time.monotonic())
        yield None

    executor.lane(heard, Rank.AHEAD).ask(stage)
    assert moving.wait(LONG)
    executor.hand_moves()
    moved = time.monotonic()
    heard.wait()
    assert asked[0] >= moved + 0.9 * REST_SECONDS


def test_a_task_rests_until_nobody_asks_anew(executor):
    heard = Heard()
    lane, went_on = executor.lane(heard, Rank.SHOWN), []

    def task(cancelled):
        yield "about"
        yield REST
        went_on.append(1)
        yield "all"

    for _move in range(5):
        lane.ask(task)
        time.sleep(0.02)
    while not went_on:
        time.sleep(0.005)
    assert [what for number, _kind, what in heard.all if number == 5][:1] == ["about"]
    assert len(went_on) == 1


def test_a_task_that_rested_goes_on_in_the_midst_of_a_less_urgent_stage(executor):
    rested, stage, shown, low = threading.Event(), threading.Event(), Heard(), Heard()

    def rests(cancelled):
        yield "about"
        yield REST
        rested.set()
        yield "all"

    def long(cancelled):
        stage.set()
        waits(rested, cancelled)
        yield None

    executor.lane(low, Rank.LIST).ask(long)
    assert stage.wait(LONG)
    executor.lane(shown, Rank.SHOWN).ask(rests)  # all of its steps, not only the first
    assert rested.wait(LONG), "with nothing asked meanwhile"
    shown.wait()
    low.wait()


def test_other_lanes_go_on_while_a_task_waits_for_a_process(executor):
    future: Future[int] = Future()
    waiting, other = Heard(), Heard()

    def board(cancelled):
        yield Until((future,))
        yield future.result()

    executor.lane(waiting, Rank.SHOWN).ask(board)
    executor.lane(other, Rank.LIST).ask(lambda cancelled: iter(["meanwhile"]))
    assert other.wait() == ["meanwhile"]
    assert not waiting.all
    future.set_result(7)
    assert waiting.wait() == [7]


def test_a_task_that_waits_is_let_go_at_once(executor):
    let_go, heard = threading.Event(), Heard()

    def board(cancelled):
        try:
            yield Until((Future(),))
        finally:
            let_go.set()

    lane = executor.lane(heard)
    lane.ask(board)
    time.sleep(0.02)
    lane.stop()
    assert let_go.wait(LONG)
    assert not [kind for _number, kind, _what in heard.all if kind == "told"]


def test_a_task_that_fails_is_told_and_the_next_goes_on(executor):
    heard = Heard()
    lane = executor.lane(heard)

    def broken(cancelled):
        yield "about"
        raise ValueError("no")

    lane.ask(broken)
    told = heard.wait()
    assert told[0] == "about"
    assert isinstance(told[1], ValueError)
    lane.ask(lambda cancelled: iter(["again"]))
    assert heard.wait()[-1] == "again"


def test_who_cannot_hear_holds_up_nobody_else(executor, caplog):
    def deaf(number, kind, what):
        raise RuntimeError("wrapped object has been deleted")

    heard, begun, lost = Heard(), threading.Event(), threading.Event()

    def stage(cancelled):
        begun.set()
        waits(lost, cancelled)
        yield "told"

    def unheard(cancelled):
        lost.set()
        yield "lost"

    executor.lane(heard, Rank.LIST).ask(stage)
    assert begun.wait(LONG)
    executor.lane(deaf, Rank.SHOWN).ask(unheard)
    assert heard.wait() == ["told"]
    assert "could not be told" in caplog.text


def test_nobody_wakes_up_to_look(executor):
    """With nothing asked, and with a task that waits, the thread takes no processor time at all."""
    heard = Heard()
    executor.lane(heard).ask(lambda cancelled: iter([Until((Future(),))]))
    time.sleep(0.05)
    clock = time.pthread_getcpuclockid(executor._thread.ident)
    before = time.clock_gettime(clock)
    time.sleep(0.3)
    assert time.clock_gettime(clock) == before


def test_what_is_under_way_ends_with_the_executor():
    made, begun, heard = Executor(), threading.Event(), Heard()

    def endless(cancelled):
        begun.set()
        while not cancelled():
            time.sleep(0.001)
        raise CancelledError
        yield

    made.lane(heard).ask(endless)
    assert begun.wait(LONG)
    made.close()
    assert not made._thread.is_alive()

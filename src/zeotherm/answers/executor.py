"""The executor: one thread for all that is reckoned in the background, the most urgent first.

What is asked belongs to a lane, where the latest counts. A task is a generator: it yields what it has found by now, and
where it may wait; and wherever it asks whether it is still wanted, whatever is more urgent goes first. Nothing here
wakes up to look: the thread sleeps until somebody asks, a hand rests, or another process has answered.
"""

from __future__ import annotations

import itertools
import logging
import math
import threading
import time
from collections.abc import Callable, Iterator
from concurrent.futures import Future
from dataclasses import dataclass
from enum import Enum, IntEnum
from typing import Any

from zeotherm.core.questions import Cancelled
from zeotherm.core.solver.axisymmetric import CancelledError

log = logging.getLogger(__name__)
REST_SECONDS = 0.12  # after which a hand that moved a lever counts as resting


class Rank(IntEnum):
    """How urgent a lane is; what is not shown waits while a hand moves."""

    SHOWN = 0  # what a hand is at
    ASKED = 1  # a page that somebody waits for
    BOARD = 2
    AHEAD = 3  # what nobody looks at yet
    LIST = 4


class Rest(Enum):
    """Yielded by a task: it goes on once nobody has asked anew in its lane for a moment."""

    REST = "rest"


REST = Rest.REST


@dataclass(frozen=True)
class Until:
    """Yielded by a task: it goes on once one of these is done."""

    futures: tuple[Future[Any], ...]

    @property
    def over(self) -> bool:
        """Whether one is."""
        return any(one.done() for one in self.futures)


Task = Callable[[Cancelled], Iterator[Any]]
Hear = Callable[[int, str, Any], None]  # number of what was asked; "told", "failed" or "idle"; and what


@dataclass
class _UnderWay:
    """A task that was begun."""

    number: int
    steps: Iterator[Any]
    until: Until | None = None
    rests_until: float = -math.inf
    running: bool = False


@dataclass(eq=False)
class Lane:
    """Where one thing is asked after the other, and the latest counts. hear: told in the executor's thread."""

    executor: Executor
    hear: Hear
    rank: Rank = Rank.ASKED
    number: int = 0  # of what was asked last
    _asked: Task | None = None
    _under_way: _UnderWay | None = None
    _turn: int = 0  # of when it went on last

    def ask(self, task: Task) -> int:
        """Go about this; whatever was under way is no longer wanted. Returns its number."""
        return self.executor.enter(self, task)

    def stop(self) -> int:
        """What is under way is no longer wanted. Returns a number that nothing will come of."""
        return self.executor.enter(self, None)

    def matters(self, rank: Rank) -> None:
        """How urgent it is from now on."""
        self.rank = rank
        self.executor.look_again()


class Executor:
    """One thread, begun when first needed, and its lanes."""

    def __init__(self) -> None:
        self._wake = threading.Condition()
        self._lanes: list[Lane] = []
        self._turns = itertools.count()
        self._ended = False
        self._hand_rests = -math.inf
        self._look_at = math.inf  # when a lane that rests, or gave way to the hand, is due
        self._news = False  # whether anything was asked or done since the lanes were last looked through
        self._thread: threading.Thread | None = None

    def lane(self, hear: Hear, rank: Rank = Rank.ASKED) -> Lane:
        """A lane of its own."""
        made = Lane(self, hear, rank)
        with self._wake:
            self._lanes.append(made)
        return made

    def enter(self, lane: Lane, task: Task | None) -> int:
        """Put a task into a lane, in place of what is there; None: nothing."""
        with self._wake:
            lane.number += 1
            lane._asked = task
            if self._thread is None and task is not None and not self._ended:
                self._thread = threading.Thread(target=self._run, name="answers", daemon=True)
                self._thread.start()
            self._stir()
            return lane.number

    def hand_moves(self) -> None:
        """A hand is at a lever or a scrubber: what nobody looks at gives way until it rests."""
        self._hand_rests = time.monotonic() + REST_SECONDS

    def look_again(self) -> None:
        """Something that decides whose turn it is has changed."""
        self._stir()

    def close(self) -> None:
        """Drop what is under way and end the thread."""
        with self._wake:
            self._ended = True
            self._stir()
        if self._thread is not None:
            self._thread.join(timeout=10.0)

    # in the thread

    def _run(self) -> None:
        while (lane := self._next()) is not None:
            self._advance(lane)
        for lane in self._lanes:
            self._drop(lane)

    def _stir(self, _done: Future[Any] | None = None) -> None:
        with self._wake:
            self._news = True
            self._wake.notify_all()

    def _due(self, lane: Lane) -> float:
        """When a lane can go on; infinite while it cannot."""
        at = lane._under_way
        if at is None:
            ready = -math.inf if lane._asked is not None else math.inf
        elif at.running:
            return math.inf
        elif at.number != lane.number:
            return -math.inf  # to be dropped
        elif at.until is not None and not at.until.over:
            return math.inf
        else:
            ready = at.rests_until
        return max(ready, self._hand_rests) if lane.rank > Rank.SHOWN else ready

    def _next(self, above: Rank | None = None) -> Lane | None:
        """The lane that goes on, once there is one; None: the end. above: of those more urgent than that, if there is
        one now."""
        with self._wake:
            while not self._ended:
                self._news = False
                now, due = time.monotonic(), [(self._due(lane), lane) for lane in self._lanes]
                self._look_at = min((at for at, _lane in due if at > now), default=math.inf)
                ready = [lane for at, lane in due if at <= now and (above is None or lane.rank < above)]
                if ready:
                    return min(ready, key=lambda lane: (lane.rank, lane._turn))
                if above is not None:
                    return None
                self._wake.wait(None if math.isinf(self._look_at) else self._look_at - now)
            return None

    def _advance(self, lane: Lane) -> None:
        """One step of a lane's task: as far as it has something to tell, or waits."""
        at = self._begun(lane)
        if at is None:
            return
        at.running = True
        try:
            step = next(at.steps)
        except StopIteration:
            self._end(lane, at)
        except CancelledError:
            self._end(lane, at)
        except Exception as wrong:
            log.info("a task ended: %r", wrong)
            self._tell(lane, at.number, "failed", wrong)
            self._end(lane, at)
        else:
            if step is REST:
                at.rests_until = time.monotonic() + REST_SECONDS
            elif isinstance(step, Until):
                at.until = step
                for future in step.futures:
                    future.add_done_callback(self._stir)
            else:
                self._tell(lane, at.number, "told", step)
        finally:
            at.running = False

    def _begun(self, lane: Lane) -> _UnderWay | None:
        """What a lane goes on with: what was under way, or what was asked since; None: nothing."""
        with self._wake:
            stale = lane._under_way is not None and lane._under_way.number != lane.number
        if stale:
            self._drop(lane)
        with self._wake:
            lane._turn = next(self._turns)
            if lane._under_way is None:
                task, lane._asked = lane._asked, None
                if task is None:
                    return None
                number = lane.number
                lane._under_way = _UnderWay(number, task(lambda: self._unwanted(lane, number)))
            lane._under_way.until = None
            return lane._under_way

    def _end(self, lane: Lane, at: _UnderWay) -> None:
        with self._wake:
            lane._under_way = None
        self._tell(lane, at.number, "idle", None)

    def _tell(self, lane: Lane, number: int, kind: str, what: Any) -> None:
        """Tell whoever asked; one that cannot hear any more holds up nobody else."""
        try:
            lane.hear(number, kind, what)
        except Exception:
            log.exception("what was found could not be told")

    def _drop(self, lane: Lane) -> None:
        """Let a task go that is no longer wanted."""
        with self._wake:
            at, lane._under_way = lane._under_way, None
        if at is not None:
            close = getattr(at.steps, "close", None)
            if close is not None:
                close()

    def _unwanted(self, lane: Lane, number: int) -> bool:
        """Asked by a task: whether it is to end. What is more urgent goes first, and a hand that moves."""
        while not self._ended and lane.number == number:
            if self._news or time.monotonic() >= self._look_at:
                urgent = self._next(lane.rank)
                if urgent is not None:
                    self._advance(urgent)
                    self._news = True  # it may go on at once
                    continue
            waits = self._hand_rests - time.monotonic() if lane.rank > Rank.SHOWN else 0.0
            if waits <= 0.0:
                return False
            with self._wake:
                if not self._news:
                    self._wake.wait(waits)
        return True

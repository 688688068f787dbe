"""The bench's clock: what time it is, and how long it has been, whatever is done to the computer's clock meanwhile."""

from __future__ import annotations

import time
from collections.abc import Callable
from datetime import datetime

FORM = "%Y-%m-%dT%H:%M:%S"
BACK = 2.0  # s by which a clock may go back and be called the same


def _since_boot() -> float:
    """Seconds that no one can set; sleep of the computer counts."""
    return time.clock_gettime(time.CLOCK_BOOTTIME) if hasattr(time, "CLOCK_BOOTTIME") else time.monotonic()


class BenchClock:
    """Local time for stamps, and spans that a clock set back does not shorten or lengthen."""

    def __init__(self, wall: Callable[[], datetime] = datetime.now, steady: Callable[[], float] = _since_boot) -> None:
        self._wall, self._steady = wall, steady
        self._marks: dict[str, float] = {}  # stamps of this session, by the steady clock
        self._asked = wall(), steady()

    def stamp(self) -> str:
        """Now, as it is written down; of this session its steady time is remembered."""
        text = self._wall().strftime(FORM)
        self._marks[text] = self._steady()
        return text

    def steady(self) -> float:
        """Seconds that no one can set [s]."""
        return self._steady()

    def jump(self) -> float:
        """Seconds by which the clock was set since this was last asked; zero where it was left alone [s]."""
        (wall, steady), self._asked = self._asked, (self._wall(), self._steady())
        apart = (self._asked[0] - wall).total_seconds() - (self._asked[1] - steady)
        return apart if abs(apart) > BACK else 0.0

    def since(self, stamp: str) -> float | None:
        """Seconds since a stamp; None where the clock stands before it: it was set back since."""
        if stamp in self._marks:
            return self._steady() - self._marks[stamp]
        seconds = (self._wall() - datetime.strptime(stamp, FORM)).total_seconds()
        return None if seconds < -BACK else max(seconds, 0.0)

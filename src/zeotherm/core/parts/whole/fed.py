"""How a cold end feeds through a whole job: the residue that retractions leave, and what the drive has left."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from zeotherm.core.parts.hotend.model.feeding import MINUTE, ColdEnd, Feeder, Number, cold_end, feeder, feeding, guided
from zeotherm.core.parts.hotend.model.model import HotendModel
from zeotherm.core.parts.hotend.model.readout import bore_wall

Array = npt.NDArray[np.float64]
WARMER = np.linspace(-70.0, 110.0, 91)  # K of the whole job's air at which it is looked at
STANDS = {"print", "pause"}
SETTLES = 120.0  # s at the begin of a print in which what stood is purged and nothing counts yet
AT_EASE_N = 1e6  # room of a drive that pushes nothing


class Piece(NamedTuple):
    """Middle and end of every step of one stretch: times [s], the cold end then, and what the feed hangs on."""

    marks: npt.NDArray[np.intp]  # of the run, at the ends
    times: Array  # two a mark
    pushes: npt.NDArray[np.bool_]  # whether filament is pushed then, and the print has settled
    of: Feeder
    end: ColdEnd


class Fed(NamedTuple):
    """The feed over a job, (times, cases) each."""

    times: Array  # (times,) [s]
    room: Array  # N that the drive has left, residue not counted
    drawn_up: Array  # residue, by its rate [m]
    growth: Array  # of that, in a minute [m]
    rate: Number  # N/m


@dataclass(frozen=True)
class Feed:
    """The cold ends of a run, from the first line to the last."""

    pieces: Sequence[Piece]

    def over(self, warmer: Array, change: Callable[[Feeder], Feeder] = lambda of: of, every: int = 1) -> Fed:
        """The feed with all its air warmer by so much [K], (cases,), and other numbers; every: nth look."""
        rate: Number = 0.0
        times: list[Array] = []
        rooms: list[Array] = []
        growths: list[Array] = []
        for piece in self.pieces:
            of, end = change(piece.of), piece.end
            kept = np.unique(np.append(np.arange(0, len(piece.times), every), len(piece.times) - 1))
            found = feeding(of, end.at(kept), np.broadcast_to(warmer, (len(kept), len(warmer))))
            times.append(piece.times[kept])
            rooms.append(np.where(piece.pushes[kept, None], found.room, AT_EASE_N))
            growths.append(found.growth)
            rate = of.residue_rate
        if not times:
            empty = np.zeros((0, len(warmer)))
            return Fed(np.zeros(0), empty, empty, empty, rate)
        time, growth = np.concatenate(times), np.concatenate(growths)
        steps = 0.5 * (growth[1:] + growth[:-1]) * np.diff(time)[:, None] / MINUTE
        drawn = np.vstack([np.zeros((1, growth.shape[1])), np.cumsum(steps, axis=0)])
        return Fed(time, np.concatenate(rooms), drawn, growth, rate)

    @cached_property
    def stated(self) -> Fed:
        """At the stated numbers, in the air as it is."""
        return self.over(np.zeros(1))

    @cached_property
    def warmer_to_jam(self) -> Array:
        """By how much the whole job's air might have been warmer until it had jammed by each time [K], (times,).

        Falls with time. Linear between looks 2 K apart; within -70 and 110 K.
        """
        found = self.over(WARMER, guided)
        left = np.minimum.accumulate(found.room - found.rate * found.drawn_up, axis=0)
        after = np.clip((left > 0.0).sum(axis=1), 1, len(WARMER) - 1)
        each = np.arange(len(left))
        one, other = left[each, after - 1], left[each, after]
        share = np.clip(one / np.where(one == other, 1.0, one - other), 0.0, 1.0)
        return np.asarray(WARMER[after - 1] + share * (WARMER[after] - WARMER[after - 1]))

    @cached_property
    def filled(self) -> Array:
        """What residue takes of all that the drive has left for it, by the stated numbers, over the times of `stated`
        [-]: none to one, where the feed stops. While nothing is pushed it is what it last was."""
        found = self.stated
        room, residue = found.room[:, 0], found.rate * found.drawn_up[:, 0]
        shares = np.where(room > residue, residue / np.maximum(room, 1e-9), 1.0)
        pushed = np.flatnonzero(room < AT_EASE_N)
        if not len(pushed):
            return np.zeros(len(found.times))
        last = np.searchsorted(pushed, np.arange(len(shares)), side="right") - 1
        return np.asarray(np.where(last >= 0, shares[pushed[np.maximum(last, 0)]], 0.0))

    def residue(self, time: float) -> float:
        """Push that residue takes at a time, by the stated numbers [N]."""
        found = self.stated
        if not len(found.times):
            return 0.0
        return float(found.rate * np.interp(time, found.times, found.drawn_up[:, 0]))

    def standing(self, time: float) -> float:
        """Seconds of standing as at a time that come to what its whole job has come to by then; see `Inputs.left`."""
        times = self.stated.times
        if not len(times):
            return 0.0
        at = int(np.clip(np.searchsorted(times, time), 0, len(times) - 1))
        piece, look = self._piece_at(at)
        there = feeding(guided(piece.of), piece.end.at(np.array([look])), self.warmer_to_jam[at : at + 1])
        room, growth = float(there.room[0]), float(there.growth[0])
        if growth <= 0.0 or room <= 0.0 or not piece.pushes[look]:
            return float(times[at] - times[0])
        return room / (float(piece.of.residue_rate) * growth) * MINUTE

    def _piece_at(self, at: int) -> tuple[Piece, int]:
        """Which piece a look lies in, and where."""
        for piece in self.pieces:
            if at < len(piece.times):
                return piece, at
            at -= len(piece.times)
        raise IndexError("no piece of the job lies there")


def piece_of(
    model: HotendModel, marks: npt.NDArray[np.intp], times: Array, pushes: npt.NDArray[np.bool_], fields: Array
) -> Piece:
    """The cold ends of a stretch; pushes (times,): whether filament is; fields (times, rows, columns)."""
    return Piece(marks, times, pushes, feeder(model.given), cold_end(model, fields, bore_wall(model, fields)))

"""A whole job judged: room to every limit over time, what happens when, and when feeding stops."""

from __future__ import annotations

import itertools
from collections.abc import Callable
from dataclasses import dataclass
from functools import cached_property

import numpy as np
import numpy.typing as npt

from zeotherm.core.catalogue.shelves import Accumulation, Catalogue
from zeotherm.core.judgement.bands import Band, Doubted
from zeotherm.core.judgement.limits import Held, counts
from zeotherm.core.machine.documents import Setup
from zeotherm.core.parts.hotend.judge.answer import Answer
from zeotherm.core.parts.hotend.judge.jams import Jams, Plug, jams, plug
from zeotherm.core.parts.hotend.judge.limits import held, margins
from zeotherm.core.parts.whole.replay import Replayed, doubts_of_air, shifts_at
from zeotherm.core.parts.whole.run import History, simulate

Array = npt.NDArray[np.float64]
MINUTE = 60.0
STARTING = 120.0  # s in which a print settles; what happens within does not count
SOFT_HOT_K = 240.0  # °C at which the rate of a liner's creep is stated
RESIDUE = "residue"  # soft filament that retractions leave behind
EARLY, LATE = 0.1, 0.9  # shares of the draws within which four times out of five lie
EDGE = 1.282 / 1.960 / 2.0**0.5  # of a 95 % half-width, see `Course.failures`
PLUG_STICKS = {"clear": 0.2, "may_stick": 0.04}  # chance to stick, from which a plug is cleared, or watched
SHOWN_BACK = 3.0  # K by which a peak after switch-off must stand above the print to be worth a word


@dataclass(frozen=True, slots=True)
class Event:
    """Something that happens at a time [s]: of what kind, to what, and a value that goes with it."""

    time: float
    kind: str  # printing, off, end, fault, heat_on, heat_off, passed, regained, soak_back, not_reached, fan_off, plug
    subject: str = ""
    value: float | None = None


@dataclass(frozen=True, slots=True)
class Failure:
    """When something that adds up stops the feed [s]; None: not within the job."""

    key: str
    earliest: float | None
    likely: float | None
    latest: float | None


@dataclass(frozen=True)
class Course:
    """The run of a setup, judged."""

    run: History
    series: dict[str, Array]
    limits: list[Held]
    rooms: dict[str, Array]  # by limit, over the run's marks; nan where the limit does not count

    @property
    def setup(self) -> Setup:
        """The setup at the start."""
        return self.run.setup

    @cached_property
    def worst(self) -> dict[str, tuple[float, float]]:
        """Each limit's least room and its time [s]."""
        found = {}
        for key, room in self.rooms.items():
            if np.isfinite(room).any():
                at = int(np.nanargmin(room))
                found[key] = (float(room[at]), float(self.run.times[at]))
        return found

    @cached_property
    def worst_key(self) -> str:
        """The limit with the least room for what counts as clear."""
        given = self.run.printing.resolved.inputs
        clear = {limit.key: limit.clear_from(given) or 1.0 for limit in self.limits}
        return min(self.worst, key=lambda key: self.worst[key][0] / clear[key])

    @property
    def worst_time(self) -> float:
        """When the worst limit has the least room [s]."""
        return self.worst[self.worst_key][1]

    @cached_property
    def printing_marks(self) -> npt.NDArray[np.bool_]:
        """Which of the run's marks lie in the print."""
        return np.array([self.run.stretches[mark.stretch].kind == "print" for mark in self.run.marks])

    @cached_property
    def _doubts(self) -> tuple[list[str], Replayed]:
        return doubts_of_air(self.run)

    def answer(self, time: float, *, doubts: bool = True) -> Answer:
        """The hotend at one moment, with its margins, without bands; doubts: ready for them."""
        names, replayed = self._doubts if doubts else ([], None)
        solved = self.run.moment(time, shifts_at(names, replayed, time) if replayed is not None and names else {})
        _values, stretch, _mark = self.run.at(time)
        limits = [limit for limit in held(solved.resolved, self.run.catalogue) if counts(limit, stretch.kind)]
        return Answer(stretch.setup, self.run.catalogue, solved, limits, margins(solved, limits, None))

    @cached_property
    def events(self) -> list[Event]:
        """What happens when, in order."""
        run = self.run
        found = [Event(fault.at_min * MINUTE, "fault", fault.label) for fault in self.setup.faults.values()]
        if run.not_reached:
            found.append(Event(run.printing.start, "not_reached"))
        if run.printing_from is not None:
            found.append(Event(run.printing_from, "printing"))
        cooling = [stretch for stretch in run.stretches if stretch.kind == "cool"]
        if cooling:
            found.append(Event(cooling[0].start, "off"))
            found += [Event(stretch.start, "fan_off") for stretch in cooling if not stretch.fan_runs][:1]
        found += self._heats() + self._crossings() + self._soak_back()
        if self.plug is not None:
            found.append(Event(self.plug.time, "plug", self.plug_needs, self.plug.length))
        return sorted(found, key=lambda event: event.time)

    @cached_property
    def plug(self) -> Plug | None:
        """What the job leaves frozen in the cold end."""
        return plug(self.run)

    @property
    def plug_needs(self) -> str:
        """What the next start needs of it: `pushes_out`, `may_stick` or `clear`; nothing without a plug."""
        if self.plug is None:
            return ""
        return next((key for key, least in PLUG_STICKS.items() if self.plug.sticks >= least), "pushes_out")

    def _heats(self) -> list[Event]:
        found = []
        for heat in self.setup.heats.values():
            for day in range(2):
                for hour, kind in ((heat.from_h, "heat_on"), (heat.to_h, "heat_off")):
                    time = (hour + 24 * day - self.setup.schedule.start_h) * 3600.0
                    if 0.0 < time < self.run.end:
                        found.append(Event(time, kind, heat.label))
        return found

    def _crossings(self) -> list[Event]:
        found = []
        times = self.run.times
        for key, room in self.rooms.items():
            known = np.flatnonzero(np.isfinite(room))
            for before, after in itertools.pairwise(known):
                one, other = room[before], room[after]
                if (one >= 0.0) != (other >= 0.0) and after == before + 1:
                    share = one / (one - other)
                    time = times[before] + share * (times[after] - times[before])
                    found.append(Event(float(time), "passed" if other < 0.0 else "regained", key))
            if len(known) and room[known[0]] < 0.0:
                found.append(Event(float(times[known[0]]), "passed", key))
        return found

    def _soak_back(self) -> list[Event]:
        """The cold end's peak after switch-off, where it stands above what the print had."""
        index = np.array([self.run.stretches[mark.stretch].kind == "cool" for mark in self.run.marks])
        base = self.series["sink_base"]
        if not index.any() or index.all():
            return []
        at = np.flatnonzero(index)[int(np.argmax(base[index]))]
        if base[at] < base[~index][-1] + SHOWN_BACK:
            return []
        return [Event(float(self.run.times[at]), "soak_back", "sink_base", float(base[at]))]

    def reckon(self, bands: Doubted | None = None) -> None:
        """Find all that is told of the hours now, so that whoever tells it need not; bands: of the worst moment."""
        _ = self.events, self.failures(bands), self.run.feed.filled

    def jams(self, bands: Doubted | None = None) -> Jams:
        """When the feed jams, over all that is doubtful; bands: of the worst moment."""
        if id(bands) not in self._jams:
            self._jams[id(bands)] = (bands, jams(self.run, bands))
        return self._jams[id(bands)][1]

    @cached_property
    def _jams(self) -> dict[int, tuple[Doubted | None, Jams]]:
        return {}

    def failures(self, bands: Doubted | None = None) -> list[Failure]:
        """When each thing that adds up stops the feed, soonest first; the span holds four times out of five.

        bands: of the worst moment. A liner's rate and room are independent: each is pushed to its own 80 % edge over
        the root of two, so that both together stand at the edge of 80 %.
        """
        found = [self._of_jams(self.jams(bands))]
        if self.run.printing.resolved.inputs.lined:
            rooms = bands.rooms if bands is not None else {}
            found += [self._failure(key, item, rooms) for key, item in self.run.catalogue.accumulations.items()]
        return sorted(
            (one for one in found if one.earliest is not None),
            key=lambda one: (one.likely or np.inf, one.earliest or np.inf),
        )

    def _of_jams(self, found: Jams) -> Failure:
        """As far as it comes within the job; what is stated decides whether it is likely."""

        def within(time: float) -> float | None:
            return time if time <= found.end else None

        likely = within(found.stated)
        earliest = within(min(found.quantile(EARLY), found.stated))
        return Failure(RESIDUE, earliest, likely, within(max(found.quantile(LATE), found.stated)))

    def _failure(self, key: str, item: Accumulation, bands: dict[str, Band]) -> Failure:
        room = bands.get({"coupler": "seat", "liner_heat": "liner_end"}[item.driver], Band(0.0, 0.0))
        return Failure(
            key,
            self._jam(item, item.rate.value * item.factor**EDGE, -EDGE * room.down),
            self._jam(item, item.rate.value, 0.0),
            self._jam(item, item.rate.value / item.factor**EDGE, EDGE * room.up),
        )

    def _jam(self, item: Accumulation, rate: float, shift: float) -> float | None:
        """When growth at a rate reaches its end [s]; shift: added to the room that drives it."""
        printing = self.printing_marks
        driven = DRIVERS[item.driver](self, shift) * printing
        times = self.run.times
        grown = np.concatenate([[0.0], np.cumsum(0.5 * (driven[1:] + driven[:-1]) * np.diff(times) / MINUTE)]) * rate
        seat = self.series["liner_seat"]
        limit = item.critical_mm + float(np.nanmin(seat[printing])) + (shift if item.driver == "coupler" else 0.0)
        past = np.flatnonzero(grown >= limit)
        if not len(past):
            return None
        at = int(past[0])
        if at == 0 or grown[at] == grown[at - 1]:
            return float(times[at])
        share = (limit - grown[at - 1]) / (grown[at] - grown[at - 1])
        return float(times[at - 1] + share * (times[at] - times[at - 1]))


def _coupler(course: Course, _shift: float) -> Array:
    """Millimetres of retraction in a minute that work at the coupler."""
    pulled = course.setup.schedule.retractions_per_min * course.setup.printing.retraction_mm
    return np.full(len(course.run.marks), pulled)


def _liner_heat(course: Course, shift: float) -> Array:
    """Creep of the liner over that at its stated temperature: twofold for every 10 K."""
    over = course.series["liner_end"] - shift - SOFT_HOT_K
    return np.asarray(2.0 ** (np.minimum(over, 80.0) / 10.0))


DRIVERS: dict[str, Callable[[Course, float], Array]] = {
    "coupler": _coupler, "liner_heat": _liner_heat,
}  # fmt: skip


def run_of(course: Course | None) -> History | None:
    """The run of hours that may not be known."""
    return course.run if course is not None else None


def course_of(run: History) -> Course:
    """Judge a run."""
    series = {**run.series, "heater_watts": np.array([mark.heater if mark.holds else np.nan for mark in run.marks])}
    resolved = run.printing.resolved
    limits = held(resolved, run.catalogue)
    kinds = [run.stretches[mark.stretch].kind for mark in run.marks]
    starting = _starting(run)
    rooms = {}
    for limit in limits:
        values = series.get(limit.limit.station)
        if values is None:
            continue
        counted = np.array([counts(limit, kind) for kind in kinds])
        if limit.limit.counts != "always":
            counted &= ~starting
        rooms[limit.key] = np.where(counted, limit.rooms(resolved.inputs, values), np.nan)
    return Course(run, series, limits, rooms)


def _starting(run: History) -> npt.NDArray[np.bool_]:
    """Where filament has flowed, or rested, for so short a time that nothing has settled yet."""
    found = np.zeros(len(run.marks), dtype=bool)
    begun, kind = 0.0, ""
    for index, mark in enumerate(run.marks):
        stretch = run.stretches[mark.stretch]
        if stretch.kind != kind:
            begun, kind = stretch.start, stretch.kind
        found[index] = mark.time < begun + STARTING
    return found


def plan(
    setup: Setup,
    catalogue: Catalogue,
    tolerances: dict[str, float] | None = None,
    cancelled: Callable[[], bool] = lambda: False,
) -> Course:
    """Run a setup's whole job and judge it. Raises DoesNotFitError, NotConvergedError or CancelledError."""
    return course_of(simulate(setup, catalogue, tolerances, cancelled=cancelled))

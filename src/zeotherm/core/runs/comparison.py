"""Runs held against each other: each figure of every kind of run, what changed, and whether that is real."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from functools import partial

import numpy as np

from zeotherm.core.catalogue import Catalogue
from zeotherm.core.runs import figures, normalising
from zeotherm.core.runs.conditions import Compared, Known, Match, compared, of_run
from zeotherm.core.runs.estimates import Z95, Change, Estimate, Mean, change, over_runs
from zeotherm.core.runs.figures import AlignedRun
from zeotherm.core.runs.phases import idle_watts
from zeotherm.core.runs.settling import settle

HEATED = ("block", "bed")
SLOW = ("case_air", "near_bed", "electronics")
OVER = (("sink_base", "fan_inlet"), ("case_air", "room"), ("near_bed", "room"), ("electronics", "case_air"),
        ("electronics", "near_bed"), ("board", "case_air"), ("motor", "case_air"))  # fmt: skip
LAST = 0.08  # of the common stretch over which a level is taken
LEAST_LAST = 90.0  # s
SAME_LENGTH = 0.02
SKIPPED = 0.1  # of the common stretch, its beginning, that a slow channel's exponential leaves out
ROOM_DOUBT = 0.15  # K, standard deviation of a noted room
NEVER_LEVELS = ("target", "room")
REMOVED = "idle"  # of an energy: that idle power was taken off


@dataclass(frozen=True, slots=True)
class ComparisonPlan:
    """How runs are to be compared."""

    normalise: bool = False  # to the first run's room and start
    tariff: float | None = None  # money a kWh
    at: float | None = None  # s on the common clock at which levels are taken; None: the end of what all runs have
    purpose: tuple[str, ...] = ()  # conditions that differ because they were changed
    wanted: tuple[str, ...] = ()  # conditions to be looked at; all when empty
    same_instruments: bool = True


@dataclass(frozen=True)
class Group:
    """Runs of one machine under equal conditions."""

    label: str
    runs: tuple[AlignedRun, ...]
    noted: tuple[Mapping[str, Known], ...]


@dataclass(frozen=True)
class ComparedFigure:
    """One figure over the groups."""

    kind: str  # of the catalogue's figures
    channel: str
    other: str
    target: float | None
    at: float | None  # s on the common clock
    unit: str
    means: tuple[Mean | None, ...]
    changes: tuple[Change | None, ...]  # each group less the first
    normalised: bool = False

    @property
    def change(self) -> Change | None:
        """Of the last group."""
        return self.changes[-1] if len(self.changes) > 1 else None


@dataclass(frozen=True)
class Comparison:
    """Everything that is said of a set of runs."""

    groups: tuple[Group, ...]
    rows: tuple[ComparedFigure, ...]
    conditions: tuple[Compared, ...]
    end: float  # s, of what all runs have
    at: float  # s at which levels are taken
    setup: ComparisonPlan

    @property
    def unequal(self) -> list[Compared]:
        """Conditions that differ and were not meant to."""
        return [one for one in self.conditions if one.match is Match.DIFFERS]

    @property
    def unknown(self) -> list[Compared]:
        """Conditions that were not noted for every run."""
        return [one for one in self.conditions if one.match is Match.UNKNOWN]

    @property
    def one_cause(self) -> bool:
        """Whether a change may be laid to one thing."""
        purpose = sum(one.match is Match.ON_PURPOSE for one in self.conditions)
        return purpose + len(self.unequal) <= 1


@dataclass(frozen=True, slots=True)
class _Ambience:
    """Room and start of a run; None where they are not known."""

    room: float | None
    start: float | None
    idle: tuple[float, float] | None = None  # W, with its standard deviation


def compare(groups: Sequence[Group], catalogue: Catalogue, setup: ComparisonPlan | None = None) -> Comparison:
    """Compare groups of runs, all on the common clock. At least one group, each with at least one run."""
    setup = setup or ComparisonPlan()
    runs = [run for group in groups for run in group.runs]
    told = [of_run(run, noted) for group in groups for run, noted in zip(group.runs, group.noted, strict=True)]
    end = min(min(run.off, float(run.series.time[-1])) for run in runs)
    at = end if setup.at is None else min(max(setup.at, 0.0), max(float(run.series.time[-1]) for run in runs))
    rows = _Table(tuple(groups), told, catalogue, setup, end, at).rows()
    return Comparison(
        tuple(groups), rows, tuple(compared(told, catalogue, setup.purpose, setup.wanted)), end, at, setup
    )


Maker = Callable[[AlignedRun, _Ambience, _Ambience], Estimate | None]  # a run, where it was, where it is to be told for


def _of(law: Callable[..., Estimate | None], *about: object) -> Maker:
    """A maker of a figure that does not hang on room and start."""
    return lambda run, _here, _there: law(run, *about)


class _Table:
    """Makes the rows of a comparison."""

    def __init__(self, groups: tuple[Group, ...], told: list[dict[str, Known | None]], catalogue: Catalogue,
                 setup: ComparisonPlan, end: float, at: float) -> None:  # fmt: skip
        self._groups, self._catalogue, self._setup = groups, catalogue, setup
        self._end, self._at = end, at
        self._begin = at - max(LAST * at, LEAST_LAST)
        self._told = told
        self._runs = [run for group in groups for run in group.runs]
        self._ambience = [
            _Ambience(_known(one.get("room")), _known(one.get("start")), idle)
            for one, idle in zip(told, self._idles(), strict=True)
        ]

    def _idles(self) -> list[tuple[float, float] | None]:
        """Idle power of each run: noted, else as its meter told before switching on, else as of the other runs.

        None for all where no run tells it, so that never one run has it removed and another not.
        """
        noted = self._catalogue.conditions["idle"].tolerance / Z95
        found = [
            (value, noted) if "idle" in mine and (value := _known(mine["idle"])) is not None
            else idle_watts(run.series, run.on)
            for run, mine in zip(self._runs, [one for group in self._groups for one in group.noted], strict=True)
        ]  # fmt: skip
        known = [one for one in found if one is not None]
        if not known:
            return [None for _run in found]
        others = sum(one[0] for one in known) / len(known), noted
        return [one or others for one in found]

    def rows(self) -> tuple[ComparedFigure, ...]:
        """Levels by how sure their change is, then what belongs to warming up, holding, and the wall."""
        levels = sorted((row for row in self._levels() if row is not None), key=_sureness)
        others = [*self._warming(), *self._slow(), *self._over(), *self._holding(), *self._wall()]
        return (*levels, *(row for row in others if row is not None), *self._outcomes())

    def _shared(self) -> list[str]:
        keys = [key for key in self._runs[0].series.values if all(key in run.series.values for run in self._runs)]
        return [key for key in keys if self._runs[0].kind(key).unit == "°C" and not key.startswith(NEVER_LEVELS)]

    def _levels(self) -> list[ComparedFigure | None]:
        return [
            self._row(
                "steady",
                channel,
                partial(self._level, channel),
                at=self._at,
                instrument=True,
                room=0.0 if self._is_held(channel) else 1.0,
            )
            for channel in self._shared()
        ]

    def _is_held(self, channel: str) -> bool:
        return channel in HEATED and held_at(self._runs[0], channel) is not None

    def _level(self, channel: str, run: AlignedRun, here: _Ambience, there: _Ambience) -> Estimate | None:
        value = figures.level(run, channel, self._begin, self._at)
        if (
            value is None
            or self._is_held(channel)
            or not self._setup.normalise
            or here.room is None
            or there.room is None
        ):
            return value
        return normalising.level_in(value, here.room, there.room, ROOM_DOUBT)

    def _warming(self) -> list[ComparedFigure | None]:
        made = []
        for channel in HEATED:
            target = held_at(self._runs[0], channel) if channel in self._shared() else None
            if target is None:
                continue
            made += [
                self._row("to_target", channel, partial(self._to_target, channel, target), target=target, start=target),
                self._row("rate", channel, _of(figures.rate, channel, target), target=target),
                self._row("overshoot", channel, _of(figures.overshoot, channel, target, self._end), target=target),
            ]
        return made

    def _to_target(
        self, channel: str, target: float, run: AlignedRun, here: _Ambience, there: _Ambience
    ) -> Estimate | None:
        took = figures.to_target(run, channel, target)
        if took is None or not self._setup.normalise:
            return took
        own = run.trace(channel, run.on, run.on + 60.0 * took.value)
        curve = settle(own) if own is not None else None
        if curve is None or here.room is None or there.room is None or there.start is None or here.start is None:
            return took
        reached = target - figures.WITHIN
        return normalising.minutes_from(took, curve, reached, here.start, here.room, there.start, there.room) or took

    def _slow(self) -> list[ComparedFigure | None]:
        return [
            self._row(kind, channel, partial(self._settled, channel, index), room=room)
            for channel in SLOW
            if channel in self._shared()
            for index, kind, room in ((1, "end_value", 1.0), (2, "time_constant", 0.0))
        ]

    def _settled(self, channel: str, index: int, run: AlignedRun, here: _Ambience, there: _Ambience) -> Estimate | None:
        found = figures.end_value(run, channel, run.on + SKIPPED * (self._end - run.on), self._end)
        if found is None:
            return None
        value = (found[1], found[2])[index - 1]
        if index == 2 or not self._setup.normalise or here.room is None or there.room is None:
            return value
        return normalising.level_in(value, here.room, there.room, ROOM_DOUBT)

    def _over(self) -> list[ComparedFigure | None]:
        known = [key for key in self._runs[0].series.values if all(key in run.series.values for run in self._runs)]
        return [
            self._row("rise", channel, _of(figures.rise, channel, other, self._begin, self._at), other=other,
                      at=self._at)
            for channel, other in OVER
            if channel in known and other in known
        ]  # fmt: skip

    def _holding(self) -> list[ComparedFigure | None]:
        half = 0.5 * self._end
        made = [
            self._row(kind, channel, _of(figures.level, channel, half, self._end))
            for kind, channel in (("duty", "duty_bed"), ("duty", "duty_block"), ("steady_power", "power"))
        ]
        held = [one for one in HEATED if one in self._shared() and held_at(self._runs[0], one) is not None]
        return made + [self._row("ripple", one, _of(figures.ripple, one, half, self._end)) for one in held]

    def _wall(self) -> list[ComparedFigure | None]:
        if not all("power" in run.series.values for run in self._runs):
            return []
        lengths = [run.off - run.on for run in self._runs]
        whole = max(lengths) - min(lengths) <= SAME_LENGTH * max(lengths)
        at = None if whole else self._end

        def spent(run: AlignedRun) -> tuple[float, float]:
            return run.on, run.off if whole else self._end

        def used(run: AlignedRun, here: _Ambience, _there: _Ambience) -> Estimate | None:
            return figures.energy(run, *spent(run), here.idle)

        idle = REMOVED if self._ambience[0].idle is not None else ""
        made = [
            self._row("energy", "power", used, at=at, other=idle),
            self._row("energy_per_hour", "power", partial(_per_hour, used, spent), at=at, other=idle),
            self._row("energy_per_kh", "power", partial(_per_kelvin_hour, used, spent), at=at, other=idle),
            self._row("counted", "energy", lambda run, _here, _there: figures.counted(run, *spent(run)), at=at),
        ]
        if self._setup.tariff is not None:
            made.append(self._row("cost", "power", partial(_costs, used, self._setup.tariff), at=at, other=idle))
        return [
            *made,
            self._row("peak_power", "power", lambda run, _here, _there: figures.peak(run, "power", run.on, run.off)),
            self._row("idle", "power", _of(_idle)),
            self._row("duration", "", _of(_duration)),
        ]

    def _outcomes(self) -> list[ComparedFigure]:
        """What was read by hand of each run, where it was."""
        made = []
        for key, about in self._catalogue.conditions.items():
            values = iter([_known(one.get(key)) for one in self._told])
            groups = [[value for _run, value in zip(group.runs, values, strict=False)] for group in self._groups]
            if about.kind != "outcome" or not any(value is not None for group in groups for value in group):
                continue
            doubt = about.tolerance / Z95
            means = tuple(
                over_runs([Estimate(value, 0.0) for value in known], doubt) if known else None
                for known in ([value for value in group if value is not None] for group in groups)
            )
            made.append(ComparedFigure("outcome", key, "", None, None, about.unit, means, self._changes(means)))
        return made

    def _changes(self, means: Sequence[Mean | None]) -> tuple[Change | None, ...]:
        """Each kind of run less the first."""
        base = means[0]
        return tuple(
            None
            if base is None or mean is None or index == 0
            else change(base, mean, same_instruments=self._setup.same_instruments)
            for index, mean in enumerate(means)
        )

    def _row(
        self, kind: str, channel: str, make: Maker, *, other: str = "", target: float | None = None,
        at: float | None = None, instrument: bool = False, room: float = 0.0, start: float = 0.0,
    ) -> ComparedFigure | None:  # fmt: skip
        """A row; room: how far the figure moves with each K of it; start: the target that a start's K is a share of."""
        about = self._catalogue.figures[kind]
        means, at_run = [], 0
        there = self._ambience[0]
        for group in self._groups:
            found = []
            for run in group.runs:
                estimate = make(run, self._ambience[at_run], there)
                if estimate is not None and np.isfinite(estimate.value):
                    found.append(self._with_ambience(estimate, self._ambience[at_run], there, room, start))
                at_run += 1
            means.append(over_runs(found, self._usual(found, about.repeat, about.relative, channel, instrument))
                         if found else None)  # fmt: skip
        if all(mean is None for mean in means):
            return None
        unit = self._runs[0].kind(channel).unit if kind == "steady" and channel else about.unit
        normal = self._setup.normalise and bool(room or start)
        return ComparedFigure(kind, channel, other, target, at, unit, tuple(means), self._changes(means), normal)

    def _usual(
        self, found: Sequence[Estimate], repeat: float, relative: float, channel: str, instrument: bool
    ) -> float:
        value = max(abs(one.value) for one in found)
        own = self._runs[0].doubt(channel).repeat if instrument else 0.0
        return math.hypot(max(repeat, relative * value), own) / Z95

    def _with_ambience(
        self, estimate: Estimate, here: _Ambience, there: _Ambience, room: float, start: float
    ) -> Estimate:
        """What an unequal or unknown room and start may have moved, as doubt; zero for what was normalised."""
        usual = self._catalogue.conditions
        moved = 0.0
        if room:
            moved += room * _apart(here.room, there.room, usual["room"].tolerance, self._setup.normalise)
        if start:
            off = _apart(here.start, there.start, usual["start"].tolerance, self._setup.normalise)
            moved += off / max(start - (there.start if there.start is not None else 20.0), 5.0) * estimate.value
        return replace(estimate, scatter=math.hypot(estimate.scatter, moved / Z95)) if moved else estimate


def _apart(here: float | None, there: float | None, tolerance: float, normalise: bool) -> float:
    if here is None or there is None:
        return tolerance
    return 0.0 if normalise else abs(here - there)


def _known(value: Known | None) -> float | None:
    return float(value) if isinstance(value, int | float) else None


def held_at(run: AlignedRun, channel: str) -> float | None:
    """What a part is held at: its target channel, else the level it holds, to the nearest degree; None for neither."""
    stated = run.trace(f"target_{channel}", run.on, run.off)
    if stated is not None and float(np.median(stated.values)) > 25.0:
        return float(np.median(stated.values))
    part = run.trace(channel, run.on + 0.5 * (run.off - run.on), run.off)
    if part is None or len(part.values) < 6:
        return None
    level, spread = (
        float(np.median(part.values)),
        float(np.percentile(part.values, 90) - np.percentile(part.values, 10)),
    )
    held = spread < max(2.5, 0.02 * level) and level > 35.0
    return float(round(level)) if held else None


def _idle(run: AlignedRun) -> Estimate | None:
    found = idle_watts(run.series, run.on)
    return None if found is None else Estimate(found[0], found[1], run.doubt("power").offset / Z95)


Spent = Callable[[AlignedRun], tuple[float, float]]


def _per_hour(used: Maker, spent: Spent, run: AlignedRun, here: _Ambience, there: _Ambience) -> Estimate | None:
    """Mean watts of a job, so that jobs of unequal length can be told apart."""
    begin, end = spent(run)
    energy = used(run, here, there)
    return None if energy is None else figures.ratio(energy, Estimate((end - begin) / 3600.0, 0.0), 1000.0)


def _per_kelvin_hour(used: Maker, spent: Spent, run: AlignedRun, here: _Ambience, there: _Ambience) -> Estimate | None:
    """Watt-hours for each kelvin and hour that the bed stood over the room: what is left of bed and room taken out."""
    energy, stood = used(run, here, there), figures.kelvin_hours(run, "bed", "room", *spent(run))
    return None if energy is None or stood is None else figures.ratio(energy, stood, 1000.0)


def _duration(run: AlignedRun) -> Estimate:
    interval = float(np.median(np.diff(run.series.time))) if run.series.rows > 1 else 0.0
    return Estimate((run.off - run.on) / 60.0, interval / 60.0)


def _costs(used: Maker, tariff: float, run: AlignedRun, here: _Ambience, there: _Ambience) -> Estimate | None:
    energy = used(run, here, there)
    return None if energy is None else figures.cost(energy, tariff)


def _sureness(row: ComparedFigure) -> float:
    return -abs(row.change.value) / max(row.change.half, 1e-9) if row.change is not None else 0.0

"""What the time strip paints: curves, limit, events, the span in which feeding stops, the moment shown."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Any

import numpy as np
import numpy.typing as npt

from zeotherm.answers.hotend import Found
from zeotherm.core.catalogue.stations import STATIONS
from zeotherm.core.judgement.margins import State
from zeotherm.core.machine.documents import Job
from zeotherm.core.machine.measured import Run
from zeotherm.core.parts.hotend.judge.course import Course
from zeotherm.core.runs.series import as_series, differences, on_run
from zeotherm.desk.factsview import left_open
from zeotherm.wording import course as words
from zeotherm.wording import numbers
from zeotherm.wording.language import _

Array = npt.NDArray[np.float64]
CURVES = (  # station, token of its colour, whether dashed
    ("bore", "over", False),
    ("sink_base", "close", False),
    ("fan_inlet", "soft", True),
)
LEAST_FILLED = 0.03  # of what the drive has left, from which residue is drawn
ALARMS = ("passed", "not_reached", "fault")


@dataclass(frozen=True, slots=True)
class StationCurve:
    """One station over the job."""

    label: str
    token: str
    dashed: bool
    times: Array  # s
    values: Array


@dataclass(frozen=True, slots=True)
class Tick:
    """Something that happens."""

    time: float
    text: str
    alarm: bool


@dataclass(frozen=True, slots=True)
class Ribbon:
    """The 95 % band of a curve."""

    token: str
    times: Array  # s
    low: Array
    high: Array


@dataclass(frozen=True, slots=True)
class Filling:
    """What retractions leave behind, as a share of what the drive has left for it: at one the feed stops."""

    label: str
    times: Array  # s
    shares: Array  # 0 to 1


@dataclass(frozen=True)
class StripView:
    """The whole strip."""

    sentence: str
    state: State
    curves: tuple[StationCurve, ...]
    ribbon: Ribbon | None  # about the first curve, once it is known
    was: tuple[StationCurve, ...]  # as found, while something is on trial
    dots: tuple[StationCurve, ...]  # measured
    limit: float
    limit_text: str
    ticks: tuple[Tick, ...]
    phases: tuple[tuple[str, float, float], ...]  # kind, start, end
    jam: tuple[float, float, float | None] | None  # earliest, latest, likely
    jam_text: str
    start_h: float
    end: float
    now: float
    spoken: str
    log: tuple[str, str]  # how the log stands to the model, in short and in full
    made_of: tuple[Any, ...]  # what all but the moment depends on
    minutes: bool = False  # since switching on, rather than by the clock
    unit: str = "°C"  # of all its curves
    filling: Filling | None = None


def strip(found: Found, last: StripView | None = None) -> StripView | None:
    """The strip of a job that was run; last: the one shown before, which serves while only the moment moves."""
    course = found.course
    if course is None:
        return None
    judged, job = found.judged, found.job
    made_of = (course, judged, found.course_found, found.sure, laid_run(job), tuple(job.readings.items()),
               left_open(found))  # fmt: skip
    if last is None or not _same(made_of, last.made_of):
        last = _whole_strip(found, course, made_of)
    here = ", ".join(
        f"{STATIONS[key].label.lower()} {numbers.with_unit(value, '°C')}"
        for key, _token, _dashed in CURVES
        if (value := found.answer.solved.readout.values.get(key)) is not None
    )
    return replace(
        last, now=found.time, spoken=f"{numbers.clock(course.run.clock(found.time))}, {here}{_filled(last, found.time)}"
    )


def _filled(view: StripView, time: float) -> str:
    if view.filling is None:
        return ""
    share = float(np.interp(time, view.filling.times, view.filling.shares))
    return ", " + _("residue takes {share} of what the drive has left").format(
        share=numbers.with_unit(100.0 * share, "%", 0)
    )


def _same(one: tuple[Any, ...], other: tuple[Any, ...]) -> bool:
    """Runs and answers by identity, log and readings by value."""
    return all(a is b for a, b in zip(one[:4], other[:4], strict=True)) and one[4:] == other[4:]


def _hangs(found: Found) -> bool:
    """Whether what would be clear hangs on what nobody entered."""
    return left_open(found) and found.judged.worst.state is State.CLEAR


def _whole_strip(found: Found, course: Course, made_of: tuple[Any, ...]) -> StripView:
    """All of the strip but the moment."""
    run, judged = course.run, found.judged
    failures = course.failures(judged.bands)
    jam = None
    if failures:
        first = failures[0]
        assert first.earliest is not None
        jam = (first.earliest, first.latest if first.latest is not None else run.end, first.likely)
    filament = run.catalogue.filaments[course.setup.printing.filament].label
    return StripView(
        sentence=words.outlook(course, judged, found.standing),
        state=judged.worst.state if judged.margins and not _hangs(found) else State.UNKNOWN,
        curves=_curves(course),
        ribbon=_ribbon(found, course),
        was=_curves(found.course_found)[:1] if found.course_found is not None else (),
        dots=_dots(found),
        limit=run.printing.resolved.inputs.softening,
        limit_text=_("{filament} softens").format(filament=filament),
        ticks=tuple(
            Tick(one.time, f"{numbers.clock(run.clock(one.time))} {words.event(one)}", one.kind in ALARMS)
            for one in course.events
        ),
        phases=tuple((stretch.kind, stretch.start, stretch.end) for stretch in run.stretches),
        jam=jam,
        jam_text=_("{what}, 4 in 5").format(what=words.ACCUMULATES[failures[0].key]) if failures else "",
        start_h=run.clock(0.0),
        end=run.end,
        now=0.0,
        spoken="",
        log=_log_sentences(found),
        made_of=made_of,
        filling=_filling(course),
    )


def _filling(course: Course) -> Filling | None:
    """Residue over the job; nothing where none comes together."""
    shares = course.run.feed.filled
    if not len(shares) or float(shares.max()) < LEAST_FILLED:
        return None
    return Filling(_("Residue"), course.run.feed.stated.times, shares)


def _curves(course: Course) -> tuple[StationCurve, ...]:
    times = course.run.times
    return tuple(
        StationCurve(STATIONS[key].label, token, dashed, times, course.series[key]) for key, token, dashed in CURVES
    )


def _ribbon(found: Found, course: Course) -> Ribbon | None:
    key, token, _dashed = CURVES[0]
    if found.sure is None or key not in found.sure.down:
        return None
    return Ribbon(token, *found.sure.span(course, key))


def _dots(found: Found) -> tuple[StationCurve, ...]:
    """Readings with a time, and the log, of the stations that are drawn."""
    course, run = found.course, laid_run(found.job)
    assert course is not None
    made = []
    if run is not None:
        series = as_series(run)
        times = on_run(series, course)
        made += [StationCurve(STATIONS[key].label, "meas", False, times, series.values[key])
                 for key, _token, _dashed in CURVES if key in series.values]  # fmt: skip
    for key, reading in found.job.readings.items():
        if reading.clock_h is not None and key in course.series:
            time = (reading.clock_h - course.run.clock(0.0)) * 3600.0
            made.append(StationCurve(STATIONS[key].label, "meas", False, np.array([time]), np.array([reading.value])))
    return tuple(made)


def _log_sentences(found: Found) -> tuple[str, str]:
    """How the log stands to the model of the machine as found, in short and in full; nothing without a log or a run."""
    course, run = found.course_found or (found.course if not found.job.trial else None), laid_run(found.job)
    if run is None or course is None:
        return "", ""
    apart = differences(as_series(run), course)
    return words.log_brief(run.source, apart), words.log(run.source, apart, course)


def laid_run(job: Job) -> Run | None:
    """The run that lies over the model."""
    return job.measured.runs.get(job.measured.laid or "")

"""What the time strip paints: curves, limit, events, the span in which feeding stops, the moment shown."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from zeotherm.core.judgement.course import Course
from zeotherm.core.judgement.margins import State
from zeotherm.core.runs.series import differences, on_run
from zeotherm.core.twin.stations import STATIONS
from zeotherm.desk.bench import Found
from zeotherm.shop.series_files import as_series
from zeotherm.wording import course as words
from zeotherm.wording import numbers
from zeotherm.wording.language import _

Array = npt.NDArray[np.float64]
CURVES = (  # station, token of its colour, whether dashed
    ("bore", "over", False),
    ("sink_base", "close", False),
    ("fan_inlet", "soft", True),
)
ALARMS = ("passed", "not_reached", "fault")


@dataclass(frozen=True, slots=True)
class Curve:
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


@dataclass(frozen=True)
class StripView:
    """The whole strip."""

    sentence: str
    state: State
    curves: tuple[Curve, ...]
    was: tuple[Curve, ...]  # as found, while something is on trial
    dots: tuple[Curve, ...]  # measured
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


def strip(found: Found) -> StripView | None:
    """The strip of a job that was run."""
    course = found.course
    if course is None:
        return None
    run, judged = course.run, found.judged
    given = run.printing.resolved.inputs
    failures = course.failures(judged.bands.rooms if judged.bands else None)
    jam = None
    if failures:
        first = failures[0]
        assert first.earliest is not None
        jam = (first.earliest, first.latest if first.latest is not None else run.end, first.likely)
    sentence = words.outlook(course, judged)
    here = ", ".join(
        f"{STATIONS[key].label.lower()} {numbers.with_unit(value, '°C')}"
        for key, _token, _dashed in CURVES
        if (value := found.answer.solved.readout.values.get(key)) is not None
    )
    return StripView(
        sentence=sentence,
        state=judged.worst.state if judged.margins else State.UNKNOWN,
        curves=_curves(course),
        was=_curves(found.course_found)[:1] if found.course_found is not None else (),
        dots=_dots(found),
        limit=given.softening,
        limit_text=_("{filament} softens").format(
            filament=run.catalogue.filaments[course.setup.printing.filament].label
        ),
        ticks=tuple(
            Tick(one.time, f"{numbers.clock(run.clock(one.time))} {words.event(one)}", one.kind in ALARMS)
            for one in course.events
        ),
        phases=tuple((stretch.kind, stretch.start, stretch.end) for stretch in run.stretches),
        jam=jam,
        jam_text=_("{what}, 4 in 5").format(what=words.ACCUMULATES[failures[0].key]) if failures else "",
        start_h=run.clock(0.0),
        end=run.end,
        now=found.time,
        spoken=f"{numbers.clock(run.clock(found.time))}, {here}",
    )


def _curves(course: Course) -> tuple[Curve, ...]:
    times = course.run.times
    return tuple(Curve(STATIONS[key].label, token, dashed, times, course.series[key]) for key, token, dashed in CURVES)


def _dots(found: Found) -> tuple[Curve, ...]:
    """Readings with a time, and the log, of the stations that are drawn."""
    course, log = found.course, found.job.log
    assert course is not None
    made = []
    if log is not None:
        series = as_series(log)
        times = on_run(series, course)
        made += [Curve(STATIONS[key].label, "meas", False, times, series.values[key])
                 for key, _token, _dashed in CURVES if key in series.values]  # fmt: skip
    for key, reading in found.job.readings.items():
        if reading.clock_h is not None and key in course.series:
            time = (reading.clock_h - course.run.clock(0.0)) * 3600.0
            made.append(Curve(STATIONS[key].label, "meas", False, np.array([time]), np.array([reading.value])))
    return tuple(made)


def log_sentence(found: Found) -> str:
    """How the log stands to the model of the machine as found; nothing without a log or a run."""
    course = found.course_found or (found.course if not found.job.trial else None)
    if found.job.log is None or course is None:
        return ""
    return words.log(found.job.log.name, differences(as_series(found.job.log), course), course)

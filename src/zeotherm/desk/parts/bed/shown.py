"""What Explain shows of a bed: ladder, picture and time strip, as frozen view-models."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
import numpy.typing as npt

from zeotherm.core.catalogue.stations import STATIONS
from zeotherm.core.judgement.margins import State
from zeotherm.core.machine.documents import Job
from zeotherm.core.machine.measured import Run
from zeotherm.core.parts.bed.judge.answer import BedAnswer
from zeotherm.core.parts.bed.model.model import SolvedBed
from zeotherm.core.parts.bed.model.readout import EVEN, BedReadout, place
from zeotherm.core.parts.bed.model.shape import PlateGrid
from zeotherm.core.parts.bed.part import BedFound
from zeotherm.core.runs.series import as_series
from zeotherm.core.runs.warm_up import warm_up_of
from zeotherm.desk.timeview import StationCurve, StripView, Tick, laid_run
from zeotherm.desk.viewmodels import LadderView, part_ladder
from zeotherm.wording import bed as words
from zeotherm.wording import numbers
from zeotherm.wording.language import _

Array = npt.NDArray[np.float64]
ON_LADDER = (
    "bed_centre", "bed_edge", "bed_corner", "bed_sensor", "bed_heater", "bed_magnet", "bed_insulation", "bed_under",
)  # fmt: skip
WARM_UP_SHOWN = 3.0  # times the warm-up that the strip shows of it
LEAST_SHOWN = 1200.0  # s
CURVES = (("bed_sensor", "soft", True), ("bed_centre", "ink", False), ("bed_corner", "over", False))
POINTS = 121  # of the profile


@dataclass(frozen=True, slots=True)
class LayerView:
    """One layer of the section."""

    name: str
    label: str
    mm: float
    warm: float  # °C, in its middle, at the middle of the bed
    cold: float  # and at the rim
    reach: float  # mm from the rim at which it begins; zero: it reaches the rim


@dataclass(frozen=True, slots=True)
class InterfaceRow:
    """Where two layers meet, at the middle of the bed."""

    label: str
    value: float
    limit: float | None
    state: State
    spoken: str


@dataclass(frozen=True, slots=True)
class Pin:
    """A place of the print face."""

    label: str
    x: float  # mm from the middle
    y: float
    value: float
    measured: float | None
    state: State


@dataclass(frozen=True, slots=True)
class Lifted:
    """A patch of the bed under which its heater is lifted off [mm, from the middle], and how warm it gets."""

    x: float
    y: float
    width: float
    depth: float
    label: str


@dataclass(frozen=True)
class BedPictureView:
    """Everything that the bed's picture paints."""

    title: str
    face: Array  # °C, rows from the front; nan where there is none
    width_mm: float
    depth_mm: float
    aim: float
    even: float
    layers: tuple[LayerView, ...]  # from the top down
    room_mm: float  # under the heater
    border_mm: float
    up: float  # W
    down: float
    rim: float
    air_c: float
    interfaces: tuple[InterfaceRow, ...]
    pins: tuple[Pin, ...]
    share: float  # of the face within `even` of `aim`
    share_was: float | None
    profile: tuple[Array, Array]  # from corner to corner: mm, °C
    insulated: bool
    lifted: Lifted | None  # where the heater is off its plate
    foot: str
    aside: str
    spoken: str


def bed_ladder(found: BedFound) -> LadderView:
    """The ladder of a bed."""
    was = found.as_found.readout.values if found.as_found is not None else {}
    values = found.shown.values
    return part_ladder(_("Late in the print"), found.judged, found.job, found.time, values, was, ON_LADDER)


def bed_picture(found: BedFound) -> BedPictureView:
    """The picture of a bed at the moment that is shown."""
    answer = found.answer
    assert answer is not None
    solved = answer.solved if found.time is None or answer.run is None else answer.run.moment(found.time)
    readout, given = found.shown, answer.resolved.inputs
    shape = given.shape
    face = np.where(solved.model.grid.inside, solved.through.face, np.nan)
    share = round(100 * readout.share)
    spoken = _("{share} % of the print face is within {even} K of {aim} °C; middle {centre}, coldest corner {corner}")
    return BedPictureView(
        title=_("Print face, {width} x {depth} mm").format(
            width=numbers.plain(shape.width_mm, 0), depth=numbers.plain(shape.depth_mm, 0)
        ),
        face=face,
        width_mm=shape.width_mm,
        depth_mm=shape.depth_mm,
        aim=given.aim,
        even=EVEN,
        layers=_layers(solved, readout),
        room_mm=1e3 * given.clearance,
        border_mm=shape.heater.border_mm,
        up=readout.watts.up,
        down=readout.watts.down,
        rim=readout.watts.rim + readout.watts.mounts,
        air_c=solved.model.air.above,
        interfaces=_interfaces(answer, readout),
        pins=_pins(found.judged, readout, found.job),
        share=readout.share,
        share_was=found.as_found.readout.share if found.as_found is not None and found.time is None else None,
        profile=_profile(solved),
        insulated=given.insulated,
        lifted=_lifted(answer, solved),
        foot=words.balance(answer),
        aside=words.sensor_offset(answer),
        spoken=spoken.format(
            share=share, even=numbers.plain(EVEN, 0), aim=numbers.plain(given.aim, 0),
            centre=numbers.plain(readout.values["bed_centre"]), corner=numbers.plain(readout.values["bed_corner"]),
        ),
    )  # fmt: skip


def _lifted(answer: BedAnswer, solved: SolvedBed) -> Lifted | None:
    wires, given = answer.resolved.inputs.shape.heater.wires, answer.resolved.inputs
    if wires is None or given.lifted <= 0.0:
        return None
    under = solved.model.grid.share_of(wires) > 0.0
    hottest = numbers.with_unit(float(solved.through.heater[under].max()), "°C", 0)
    label = _("lifted {mm} mm: heater {hot}").format(mm=numbers.plain(1e3 * given.lifted), hot=hottest)
    return Lifted(wires.x_mm, wires.y_mm, wires.width_mm, wires.depth_mm, label)


def _layers(solved: SolvedBed, readout: BedReadout) -> tuple[LayerView, ...]:
    given = solved.model.inputs
    border = given.shape.heater.border_mm
    drop = readout.values["bed_centre"] - readout.values["bed_edge"]
    meets = {one.below: one.temperature for one in readout.interfaces}
    made = []
    for slab in reversed(given.slabs):
        warm = meets.get(slab.name, readout.values["bed_centre"])
        reach = border if slab.name in ("heater", "glue") and given.plate_at > 0 else 0.0
        made.append(LayerView(slab.name, words.layer(slab.name), 1e3 * slab.thickness, warm, warm - drop, reach))
    if given.insulated:
        warm = 0.5 * (meets.get("insulation", given.room) + readout.values["bed_under"])
        reach = 0.0 if given.cover_outer >= 1.0 else 0.5 * (1.0 - given.cover_outer) * given.shape.width_mm
        made.append(
            LayerView("insulation", words.layer("insulation"), 1e3 * given.insulation, warm, warm - drop, reach)
        )
    return tuple(made)


def _interfaces(answer: BedAnswer, readout: BedReadout) -> tuple[InterfaceRow, ...]:
    services = {slab.name: slab.service.value for slab in answer.resolved.inputs.slabs if slab.service is not None}
    if answer.resolved.inputs.insulated:
        services["insulation"] = answer.resolved.inputs.insulation_service.value
    made = []
    for one in readout.interfaces:
        known = [services[name] for name in (one.below, one.above) if name in services]
        limit = min(known) if known else None
        room = limit - one.temperature if limit is not None else None
        state = (
            State.UNKNOWN if room is None else State.OVER if room < 0.0 else State.CLOSE if room < 5.0 else State.CLEAR
        )
        text = words.interface(one)
        spoken = f"{text}, {numbers.with_unit(one.temperature, '°C')}"
        spoken += f", {_('limit')} {numbers.with_unit(limit, '°C', 0)}" if limit is not None else ""
        made.append(InterfaceRow(text, one.temperature, limit, state, spoken))
    return tuple(made)


def _pins(answer: BedAnswer, readout: BedReadout, job: Job) -> tuple[Pin, ...]:
    where = {"bed_centre": "centre", "bed_edge": readout.edge, "bed_corner": readout.corner}
    made = []
    for key, name in where.items():
        x, y = place(answer.solved.model, name)
        states = [one.state for one in answer.margins if one.station == key]
        state = next((one for one in states if one.bad), states[0] if states else State.UNKNOWN)
        read = job.readings.get(key)
        made.append(
            Pin(words.PLACES[name].capitalize(), 1e3 * x, 1e3 * y, readout.values[key],
                read.value if read is not None else None, state)
        )  # fmt: skip
    return tuple(made)


def _profile(solved: SolvedBed) -> tuple[Array, Array]:
    """From the front left corner to the back right one."""
    x, y = place(solved.model, "back right")
    ways = np.linspace(-1.0, 1.0, POINTS)
    inside = solved.model.grid.inside
    face = np.where(inside, solved.through.face, 0.0).ravel()
    return ways * 1e3 * float(np.hypot(x, y)), _diagonal(solved.model.grid, x, y) @ face


@lru_cache(maxsize=16)
def _diagonal(on: PlateGrid, x: float, y: float) -> Array:
    """Weights of a grid's cells along its diagonal, (points, cells)."""
    return np.array([on.weights(way * x, way * y).ravel() for way in np.linspace(-1.0, 1.0, POINTS)])


def bed_strip(found: BedFound, *, whole: bool) -> StripView | None:
    """The course of a bed: its warm-up, or the whole print and its cool-down."""
    answer = found.answer
    if answer is None or answer.course is None or answer.run is None:
        return None
    course, inputs = answer.course, answer.resolved.inputs
    end = float(course.times[-1])
    if not whole:
        known = [one for one in (course.ready, course.sensor_warm, inputs.wanted) if one is not None]
        end = min(end, max(WARM_UP_SHOWN * max(known), LEAST_SHOWN))
    kept = course.times <= end
    curves = tuple(
        StationCurve(STATIONS[key].label, token, dashed, *_until(course.times, course.series[key], kept, end))
        for key, token, dashed in CURVES
    )
    if answer.controlled is not None:
        under = answer.controlled
        kept = under.times <= end
        reads = _until(under.times, under.reads, kept, min(end, float(under.times[-1])))
        curves = (*curves, StationCurve(_("Controlled"), "accent", False, *reads))
    ticks = [Tick(inputs.wanted, _("wanted {time}").format(time=words.minutes(inputs.wanted)), False)]
    if course.sensor_warm is not None:
        ticks.append(Tick(course.sensor_warm, _("sensor {time}").format(time=words.minutes(course.sensor_warm)), False))
    if course.ready is not None:
        late = course.ready > inputs.wanted
        ticks.append(Tick(course.ready, _("ready {time}").format(time=words.minutes(course.ready)), late))
    if whole:
        ticks.append(Tick(answer.run.off, _("off"), False))
        if course.release is not None:
            after = words.minutes(course.release)
            ticks.append(Tick(answer.run.off + course.release, _("lets go after {time}").format(time=after), False))
    warm = course.sensor_warm or answer.run.off
    phases = (("preheat", 0.0, min(warm, end)), ("print", min(warm, end), min(answer.run.off, end)))
    time = found.time if found.time is not None else min(answer.run.off, end)
    start = answer.setup.schedule.start_h
    spoken = ", ".join(
        f"{STATIONS[key].label} {numbers.with_unit(found.shown.values.get(key), '°C')}" for key, _t, _d in CURVES
    )
    return StripView(
        sentence=words.outlook(answer),
        state=answer.worst.state,
        curves=curves,
        ribbon=None,
        was=(),
        dots=_dots(found.job, end),
        limit=inputs.aim - EVEN,
        limit_text=_("face wanted"),
        ticks=tuple(one for one in ticks if one.time <= end),
        phases=(*phases, ("cool", min(answer.run.off, end), end)),
        jam=None,
        jam_text="",
        start_h=start,
        end=end,
        now=min(time, end),
        spoken=f"{words.minutes(time)}, {spoken}",
        log=("", ""),
        made_of=(id(answer), whole, laid_run(found.job)),
        minutes=True,
    )


def _until(times: Array, values: Array, kept: npt.NDArray[np.bool_], end: float) -> tuple[Array, Array]:
    """A curve up to a time, with its value there."""
    last = float(np.interp(end, times, values))
    return np.append(times[kept], end), np.append(values[kept], last)


def _dots(job: Job, end: float) -> tuple[StationCurve, ...]:
    """The bed's column of the run that lies over the model, from when its heater came on."""
    run: Run | None = laid_run(job)
    if run is None or "bed" not in run.values:
        return ()
    try:
        seen = warm_up_of(as_series(run), job.found.room.mean_c, job.found.bed.target_c)
    except ValueError:
        return ()
    kept = seen.times <= end
    return (StationCurve(_("bed, measured"), "meas", False, seen.times[kept], seen.bed[kept]),)

"""What Explain shows of an enclosure: ladder, picture and time strip, as frozen view-models."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from zeotherm.core.judgement.margins import State
from zeotherm.core.machine.patches import value_at
from zeotherm.core.parts.enclosure.judge.answer import ChamberAnswer
from zeotherm.core.parts.enclosure.part import CaseFound
from zeotherm.core.parts.whole.around import occupants_of
from zeotherm.desk.timeview import StationCurve, StripView, Tick
from zeotherm.desk.viewmodels import LadderView, part_ladder
from zeotherm.wording import enclosure as words
from zeotherm.wording import numbers
from zeotherm.wording.bed import minutes
from zeotherm.wording.language import _

ON_LADDER = (
    "case_low", "case_high", "case_sensor", "case_face", "case_board", "case_supply", "case_display", "case_spool",
    "case_printed", "case_motor",
)  # fmt: skip
CURVES = (("case_low", _("Print air"), "ink", False), ("case_high", _("Roof air"), "over", False),
          ("case_face", _("Wall"), "soft", True))  # fmt: skip
BESIDE = 0.06  # of the case's height between one pin and that of the next of its kind
POINTS = 160  # of a course that are drawn


@dataclass(frozen=True, slots=True)
class Pinned:
    """Something in or about an enclosure: where it sits [shares of the inside], and how it stands."""

    key: str
    label: str
    x: float  # beyond 1: outside
    y: float  # up from the floor
    value: float
    state: State
    measured: float | None


@dataclass(frozen=True, slots=True)
class CasePictureView:
    """Everything that the picture of an enclosure paints."""

    title: str
    width_mm: float
    height_mm: float
    low: float  # °C
    high: float
    walls: dict[str, tuple[float, float]]  # inner and outer face by name [°C]
    lost: tuple[tuple[str, str, float], ...]  # way, its words, watts; most first
    radiated: float  # W, that the walls take by radiation
    bed: float  # °C
    bed_mm: float
    bed_watts: float
    heater: float  # W
    heater_high: bool
    heater_units: int  # that share its watts
    has_heater: bool
    sensor: float  # its height [-]
    reading: float
    wanted: float  # zero: nothing is wanted
    room: float
    between: float  # m³/h from one half to the other
    through: float  # in and out
    changes: float  # of its air by the room's, in an hour
    machine_mm: tuple[float, float, float]  # width, height, cable loop; zero where not measured
    lined: bool
    pins: tuple[Pinned, ...]
    spoken: str


def case_ladder(found: CaseFound) -> LadderView:
    """The ladder of an enclosure."""
    assert found.answer is not None
    was = found.as_found.values if found.as_found is not None else {}
    return part_ladder(_("Where it comes to"), found.answer, found.job, found.time, found.values, was, ON_LADDER)


def case_picture(found: CaseFound) -> CasePictureView:
    """The picture of an enclosure at the moment that is shown."""
    answer, solved = found.answer, found.shown
    assert answer is not None
    given, setup = answer.resolved.inputs, answer.setup
    kind = answer.catalogue.cases[setup.case.part]
    bed = answer.catalogue.beds[setup.bed.part]
    lost = sorted(solved.lost.items(), key=lambda one: -one[1])
    moved = solved.laws.moved
    spoken = _("{low} at the print, {high} under the roof, {watts} W enter")
    return CasePictureView(
        title=_("{kind}, {width} x {depth} x {height} mm inside").format(
            kind=kind.label, width=numbers.plain(setup.case.width_mm, 0), depth=numbers.plain(setup.case.depth_mm, 0),
            height=numbers.plain(setup.case.height_mm, 0),
        ),
        width_mm=setup.case.width_mm,
        height_mm=setup.case.height_mm,
        low=solved.low,
        high=solved.high,
        walls={wall.name: (solved.face(wall.name), solved.face(wall.name, outer=True)) for wall in given.walls},
        lost=tuple((name, words.WALLS[name], watts) for name, watts in lost),
        radiated=solved.radiated,
        bed=solved.around.bed,
        bed_mm=bed.width_mm,
        bed_watts=solved.bed_watts,
        heater=solved.power,
        heater_high=given.heater_from.high,
        heater_units=given.heater_from.units,
        has_heater=given.heats,
        sensor=given.sensor,
        reading=solved.reading,
        wanted=given.target,
        room=solved.around.room,
        between=3600.0 * moved.between,
        through=3600.0 * moved.through,
        changes=3600.0 * moved.through / given.volume,
        machine_mm=(setup.frame.width_mm, setup.frame.height_mm, setup.frame.loop_mm),
        lined=setup.case.lining != "none",
        pins=_pins(found),
        spoken=spoken.format(
            low=numbers.with_unit(solved.low, "°C"), high=numbers.with_unit(solved.high, "°C"),
            watts=numbers.plain(solved.given, 0),
        ),
    )  # fmt: skip


def _pins(found: CaseFound) -> tuple[Pinned, ...]:
    answer, values = found.answer, found.values
    assert answer is not None
    heights = {
        "case_supply": 0.07,
        "case_board": 0.24,
        "case_display": 0.38,
        "case_spool": 0.86,
        "case_printed": 0.62,
        "case_motor": 0.42,
    }
    made = []
    for _kind, one in occupants_of(answer.setup, answer.catalogue):
        margin = next((each for each in answer.margins if each.station == one.station), None)
        read = found.job.readings.get(one.station)
        inside, high = True, one.high
        if one.at:
            place = answer.catalogue.places[str(value_at(answer.setup, one.at))]
            inside, high = place.inside > 0.5, place.high
        number, _dot, kind = one.station.rpartition(".")
        own = heights[kind] + (BESIDE * (int(number[1:]) - 1) if number else 0.0)
        y = own if high < 0.5 or not one.at else max(own, 0.6)
        made.append(
            Pinned(one.station, one.label, 0.84 if inside else 1.25, y, values[one.station],
                   margin.state if margin is not None else State.UNKNOWN, read.value if read is not None else None)
        )  # fmt: skip
    return tuple(made)


def case_strip(found: CaseFound) -> StripView | None:
    """The course of an enclosure: preheat, print, cool-down."""
    answer = found.answer
    if answer is None or answer.run is None:
        return None
    run = answer.run
    times = np.unique(np.concatenate([run.times, np.linspace(0.0, float(run.times[-1]), POINTS)]))
    moments = [run.moment(float(time)) for time in times]
    series = {
        "case_low": [one.low for one in moments],
        "case_high": [one.high for one in moments],
        "case_face": [max(one.face(wall.name) for wall in one.model.inputs.walls) for one in moments],
    }
    end = float(times[-1])
    ticks = [Tick(answer.off, _("off"), False)]
    if answer.safe_to_open is not None and answer.safe_to_open > 0.0:
        ticks.append(Tick(answer.off + answer.safe_to_open, _("may be opened"), False))
    ticks += [Tick(60.0 * one.at_min, one.label, True) for one in answer.setup.faults.values() if "case" in one.change]
    wanted = answer.resolved.inputs.target
    time = found.time if found.time is not None else answer.off
    return StripView(
        sentence=outlook(answer),
        state=answer.worst.state,
        curves=tuple(StationCurve(label, token, dashed, times, np.array(series[key]))
                     for key, label, token, dashed in CURVES),
        ribbon=None,
        was=(),
        dots=(),
        limit=wanted if wanted > 0.0 else next(one.limit for one in answer.margins if one.key == "case_supply"),
        limit_text=_("case wanted") if wanted > 0.0 else _("supplies give less from here"),
        ticks=tuple(ticks),
        phases=(("print", 0.0, answer.off), ("cool", answer.off, end)),
        jam=None,
        jam_text="",
        start_h=answer.setup.schedule.start_h,
        end=end,
        now=min(time, end),
        spoken=f"{minutes(time)}, {numbers.with_unit(found.values['case_low'], '°C')}",
        log=("", ""),
        made_of=(id(answer), found.job.number),
    )  # fmt: skip


def outlook(answer: ChamberAnswer) -> str:
    """The course in one sentence."""
    assert answer.run is not None
    late = answer.run.moment(answer.off)
    text = _("Air at the print {low} when it is switched off, {rest} where it would come to").format(
        low=numbers.with_unit(late.low, "°C"), rest=words.rests(answer)
    )
    if answer.safe_to_open is None:
        return text + _("; still warm at the end of the course.")
    if answer.safe_to_open <= 0.0:
        return text + _("; may be opened at once.")
    return text + _("; may be opened after {time}.").format(time=minutes(answer.safe_to_open))

"""What Explain shows of a power path: ladder, strip of power, time strip, as frozen view-models."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from zeotherm.core.judgement.margins import Margin, State
from zeotherm.core.machine.supplies import FIRST
from zeotherm.core.parts.power.judge.answer import PowerAnswer, SupplyLoad
from zeotherm.core.parts.power.model.in_time import PathRun
from zeotherm.core.parts.power.model.inputs import WIRES, PathInputs
from zeotherm.core.parts.power.model.model import FEED, HOTEND, PARTS
from zeotherm.core.parts.power.model.supply import BEYOND_K
from zeotherm.core.parts.power.part import PowerFound
from zeotherm.desk.timeview import StationCurve, StripView, Tick
from zeotherm.desk.viewmodels import LadderView, part_ladder
from zeotherm.wording import margins as rooms
from zeotherm.wording import numbers
from zeotherm.wording import power as words
from zeotherm.wording.bed import minutes
from zeotherm.wording.language import _

ON_LADDER = ("power_inlet", "power_supply_terminal", "power_feed", "power_feed_terminal", "power_switch", "power_plug",
             "power_lead", "power_tabs", "power_heater_plug")  # fmt: skip
CURVES = (("plug", _("Bed plug"), "over", False), ("feed_terminal", _("Feed terminal"), "ink", False),
          ("lead", _("Bed lead"), "close", False))  # fmt: skip
DERATING_POINTS = 40


@dataclass(frozen=True, slots=True)
class PartView:
    """One part of the path, from the supply on."""

    key: str
    kind: str  # contact, wire, switch
    label: str
    short: str  # where its branch is named already
    milliohm: float  # of one pole of a contact, of a wire there and back
    lost: float  # V while the bed is on
    amps: float
    watts: float  # that pass it
    warm: tuple[float, ...]  # °C, along it
    limit: float | None
    state: State
    measured: float | None
    told: str  # milliohms by a reading
    good: float  # mΩ of a sound contact


@dataclass(frozen=True, slots=True)
class PowerPictureView:
    """Everything that the picture of a power path paints."""

    title: str
    source: str  # supply, or wall
    supply: str  # the one whose curve is shown
    source_text: str
    source_c: float
    mains: bool
    apart: bool  # the hotend is fed by another supply than the bed
    parts: tuple[PartView, ...]
    others: tuple[tuple[str, float, float], ...]  # label, A, W
    hotend: tuple[PartView, ...]  # parts of the way to the hotend
    hotend_text: tuple[str, str]
    hotend_c: float
    branch_at: str  # part behind which hotend and others leave; empty: at the supply
    bed_text: str
    bed_c: float
    bed_volts: float
    lost: float  # V
    lost_w: float
    asked: float  # W
    gives: float
    inlet: float
    derating: tuple[tuple[float, float], ...]  # °C, W
    supply_state: State
    fuse: str
    wall: str
    wall_w: float
    others_v: float  # left where the others leave
    by_watts: bool
    spoken: str


def power_ladder(found: PowerFound) -> LadderView:
    """The ladder of a power path."""
    assert found.answer is not None
    was = found.as_found.values if found.as_found is not None else {}
    return part_ladder(_("At its worst current"), found.answer, found.job, found.time, found.values, was, ON_LADDER)


def power_picture(found: PowerFound, *, by_watts: bool = False) -> PowerPictureView:
    """The picture of a power path at the moment that is shown."""
    answer, solved = found.answer, found.shown
    assert answer is not None
    full, given, setup = answer.full, answer.resolved.inputs, answer.setup
    on_feed = sum(full.lost(name) for name in FEED) if given.shares_feed else 0.0
    shown = answer.tightest
    load = _margin(answer, answer.tightest.place("power_load"))
    several = len(answer.supplies) > 1
    source = _("Wall") if given.kind.mains else given.bed_on if several else _("Supply")
    fed = next(one for one in answer.supplies if one.number == given.bed_on)
    feed = full.amps.feed
    worst = answer.worst
    return PowerPictureView(
        title=_("{path}; {supply}, {rating} W").format(
            path=given.kind.label, rating=numbers.plain(fed.rating, 0),
            supply=f"{fed.number} {fed.kind.label.lower()}" if several else fed.kind.label.lower(),
        ),
        source=source,
        source_text=f"{numbers.with_unit(given.volts, 'V')}, {numbers.with_unit(feed, 'A')}",
        supply=shown.number if several else "",
        source_c=fed.inlet if not given.kind.mains else setup.room.mean_c,
        mains=given.kind.mains,
        apart=given.kind.mains or given.bed_on != FIRST,
        parts=_parts(found, PARTS, given.volts),
        others=_others(answer),
        hotend=_parts(found, HOTEND, given.heater_volts - on_feed),
        hotend_text=(
            _("Hotend {watts} W").format(watts=numbers.plain(full.heater_watts, 0)),
            f"{numbers.with_unit(full.heater_volts, 'V')}, {numbers.with_unit(full.amps.heater, 'A')}",
        ),
        hotend_c=solved.air.carriage,
        branch_at="feed_terminal" if given.shares_feed else "",
        bed_text=_("Bed {watts} W, {amps}").format(
            watts=numbers.plain(full.bed_watts, 0), amps=numbers.with_unit(full.amps.bed, "A")
        )
        if given.heated
        else _("No heated bed"),
        bed_c=solved.air.bed,
        bed_volts=full.bed_volts,
        lost=given.volts - full.bed_volts,
        lost_w=full.path_watts,
        asked=shown.asked,
        gives=shown.gives,
        inlet=shown.inlet,
        derating=_derating(shown),
        supply_state=load.state if load is not None else State.UNKNOWN,
        fuse=_fuses(given),
        wall=_("wall {watts}, {amps} of {rated}").format(
            watts=words.at_the_wall(answer),
            amps=numbers.plain(answer.values["power_outlet"]), rated=numbers.with_unit(given.outlet, "A", 0),
        ),
        wall_w=answer.values["power_wall"],
        others_v=given.heater_volts - on_feed,
        by_watts=by_watts,
        spoken=_("{volts} left at the bed, {label} {room}").format(
            volts=numbers.with_unit(full.bed_volts, "V"), label=words.label(worst).lower(),
            room=rooms.room(worst),
        ),
    )  # fmt: skip


def _parts(found: PowerFound, names: tuple[str, ...], volts: float) -> tuple[PartView, ...]:
    """Parts along a current that begins with so many volts."""
    answer, solved = found.answer, found.shown
    assert answer is not None
    full, given, left = answer.full, answer.resolved.inputs, volts
    told = dict(reversed(found.told))  # a probe's or camera's reading before a picture's
    parts = []
    for name in names:
        amps, lost = full.amps.through(name), full.lost(name)
        left -= lost
        margin = _margin(answer, f"power_{name}")
        carried = _margin(answer, f"power_{name}_amps")
        state = margin.state if margin is not None else State.UNKNOWN
        if carried is not None and carried.state in (State.OVER, State.CLOSE) and not state.bad:
            state = carried.state
        read = found.job.readings.get(f"power_{name}")
        kind, good = "contact", 0.0
        warm: tuple[float, ...]
        if name == "switch":
            kind, warm, ohms = "switch", (solved.switch_c,), solved.switch_ohms
        elif name in WIRES:
            kind, warm, ohms = "wire", tuple(float(one) for one in solved.wire(name)), 2.0 * solved.wire_ohms(name)
        else:
            warm, ohms = (solved.contact(name),), solved.contact_ohms(name)
            good = getattr(given, name).good
        parts.append(
            PartView(name, kind, _part_label(answer, name), words.SHORT.get(name, ""), 1e3 * ohms, lost, amps,
                     amps * left, warm, margin.limit if margin is not None else None,
                     state, read.value if read is not None else None,
                     numbers.plain(told[name].milliohm) if name in told else "", 1e3 * good)
        )  # fmt: skip
    return tuple(parts)


def _fuses(given: PathInputs) -> str:
    """The fuses that are known of."""
    told = [(_("bed fuse {amps}"), given.fuse), (_("board fuse {amps}"), given.board_fuse)]
    known = [text.format(amps=numbers.with_unit(amps, "A", 0)) for text, amps in told if amps > 0.0]
    return ", ".join(known) or _("no fuse known")


def _margin(answer: PowerAnswer, station: str) -> Margin | None:
    return next((one for one in answer.margins if one.station == station), None)


def _part_label(answer: PowerAnswer, name: str) -> str:
    if name in WIRES:
        return f"{words.PARTS[name]} {getattr(answer.setup.power, name).mm2:g} mm²"
    return words.PARTS[name]


def _others(answer: PowerAnswer) -> tuple[tuple[str, float, float], ...]:
    """What else the board's feed carries, most first: what another supply feeds is not on it."""
    given, power = answer.resolved.inputs, answer.setup.power
    motors, fans = (
        watts if source == FIRST else 0.0
        for watts, source in ((power.motors_w, power.motors_from), (power.fans_w, power.fans_from))
    )
    rest = _("Board, lights") if power.lights_from == FIRST and power.lights_w > 0.0 else _("Board")
    told = [(_("Motors"), motors), (_("Fans"), fans), (rest, given.others - motors - fans)]
    made = ((label, watts / max(power.out_v, 1.0), watts) for label, watts in told if watts > 0.05)
    return tuple(sorted(made, key=lambda one: -one[2]))


def _derating(one: SupplyLoad) -> tuple[tuple[float, float], ...]:
    """What a supply gives by its inlet."""
    low = min(one.inlet, 20.0) - 5.0
    high = max(one.kind.hottest_c.value + BEYOND_K, one.inlet + 5.0)
    return tuple((float(inlet), one.gives_at(float(inlet))) for inlet in np.linspace(low, high, DERATING_POINTS))


def power_strip(found: PowerFound, *, by_watts: bool = False) -> StripView | None:
    """The course of a power path, temperatures or watts: warm-up, print, cool-down."""
    answer = found.answer
    if answer is None or answer.run is None:
        return None
    return _watts_strip(found, answer, answer.run) if by_watts else _warmth_strip(found, answer, answer.run)


def _watts_strip(found: PowerFound, answer: PowerAnswer, run: PathRun) -> StripView | None:
    """What the tightest supply is asked for and gives."""
    loads = answer.loads
    if loads is None:
        return None
    gives, load = float(loads.gives.min()), _margin(answer, answer.tightest.place("power_load"))
    over = np.flatnonzero(loads.together > loads.gives)
    ticks = (Tick(float(run.times[over[0]]), _("more than it gives"), True),) if len(over) else ()
    curves = (
        (loads.together, _("All at once"), "over", True),
        (loads.mean, _("On the mean"), "ink", False),
        (
            loads.gives,
            _("{supply} gives").format(supply=answer.tightest.number)
            if len(answer.supplies) > 1
            else _("Supply gives"),
            "accent",
            False,
        ),
        (loads.lost, _("Lost in wires"), "close", False),
    )
    return _strip(
        found, answer, words.loads(answer, loads, run.times), load.state if load is not None else State.UNKNOWN,
        tuple(StationCurve(label, token, dashed, run.times, values) for values, label, token, dashed in curves),
        gives, _("supply gives at least"), ticks, "W",
        lambda time: numbers.with_unit(float(np.interp(time, run.times, loads.mean)), "W", 0),
    )  # fmt: skip


def _warmth_strip(found: PowerFound, answer: PowerAnswer, run: PathRun) -> StripView:
    """How warm plug, terminal and lead are."""
    limit = _margin(answer, "power_plug")
    ticks = []
    if limit is not None:
        over = np.flatnonzero(run.series("plug") > limit.limit)
        if len(over):
            ticks.append(Tick(float(run.times[over[0]]), _("plug passes its limit"), True))
    if run.burnt_at is not None:
        ticks.append(Tick(run.burnt_at, _("runs away"), True))
    return _strip(
        found, answer, outlook(answer), answer.worst.state,
        tuple(StationCurve(label, token, dashed, run.times, run.series(key)) for key, label, token, dashed in CURVES),
        limit.limit if limit is not None else 0.0, _("plug stands"), tuple(ticks), "°C",
        lambda _time: numbers.with_unit(found.values["power_plug"], "°C"),
    )  # fmt: skip


def _strip(
    found: PowerFound, answer: PowerAnswer, sentence: str, state: State, curves: tuple[StationCurve, ...], limit: float,
    limit_text: str, ticks: tuple[Tick, ...], unit: str, spoken: Callable[[float], str],
) -> StripView:  # fmt: skip
    """The strip over a path's job, of either kind."""
    assert answer.run is not None
    end = float(answer.run.times[-1])
    off = (Tick(answer.off, _("off"), False),) if answer.off <= end else ()
    faults = answer.setup.faults.values()
    ticks += tuple(Tick(60.0 * one.at_min, one.label, True) for one in faults if "power" in one.change)
    time = found.time if found.time is not None else min(answer.off, end)
    return StripView(
        sentence=sentence, state=state, curves=curves, ribbon=None, was=(), dots=(), limit=limit,
        limit_text=limit_text, ticks=(*off, *ticks),
        phases=(("print", 0.0, min(answer.off, end)), ("cool", min(answer.off, end), end)),
        jam=None, jam_text="", start_h=answer.setup.schedule.start_h, end=end, now=min(time, end),
        spoken=f"{minutes(time)}, {spoken(time)}", log=("", ""), made_of=(id(answer), found.job.number, unit),
        unit=unit,
    )  # fmt: skip


def outlook(answer: PowerAnswer) -> str:
    """The course in one sentence."""
    run = answer.run
    assert run is not None
    if run.burnt_at is not None:
        return _("Runs away: beyond what anything stands after {time}.").format(time=minutes(run.burnt_at))
    plug = run.series("plug")
    at = int(plug.argmax())
    return _("Plug warmest at {warm} after {time}; over the job it follows what the bed draws.").format(
        warm=numbers.with_unit(float(plug[at]), "°C"), time=minutes(float(run.times[at]))
    )

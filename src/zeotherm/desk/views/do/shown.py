"""What the work order's widgets paint: frozen view-models. All words come from `wording`."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

import numpy as np

from zeotherm.core.catalogue import Catalogue
from zeotherm.core.catalogue.procedures import Exit, Record
from zeotherm.core.catalogue.shelves import Caution
from zeotherm.core.catalogue.stations import STATIONS
from zeotherm.core.causes.ohms import cold_ohms
from zeotherm.core.guard.cautions import cautions_of
from zeotherm.core.guard.fitted import assumed_of
from zeotherm.core.guard.heat import window
from zeotherm.core.judgement.margins import State
from zeotherm.core.machine.documents import Job, Setup
from zeotherm.core.machine.doing import DoneStep, HoldReading
from zeotherm.core.machine.intake import Ohms
from zeotherm.core.work.gates import Aids, GateState, Why, stops_exit
from zeotherm.core.work.holding import Forecast, forecast
from zeotherm.core.work.planning import Order, OrderLine, choices_of, settled, tools
from zeotherm.core.work.proving import (
    Proof,
    liner_gap,
    most_drawn,
    needed_preload,
    offered,
    prime_line,
    temperature_window,
)
from zeotherm.core.work.waits import touch_limit
from zeotherm.desk.viewmodels import LadderView, Marker
from zeotherm.wording import numbers, work
from zeotherm.wording.language import _

CLOSE_K = 5.0  # below a touch limit that counts as close
SHOWN = ("block", "nozzle", "bore", "sink_base", "sink_top", "bed", "motor", "carriage", "fan_inlet")


@dataclass(frozen=True, slots=True)
class StepRow:
    """One step in the list."""

    key: str  # its place in the order
    number: str
    label: str
    aside: str  # minutes, or when it was done
    below: str  # how it ended, or why it is not offered
    status: str
    signs: tuple[str, ...]
    head: str  # of the work that begins with it
    spoken: str


@dataclass(frozen=True)
class HoldView:
    """A hold, painted as its curve."""

    forecast: Forecast
    goal: float
    now_s: float
    readings: tuple[tuple[HoldReading, bool], ...]  # whether each counts
    met: float  # the level that counts as the goal met
    left: str
    below: str
    words: str  # until when
    value: float | None  # last reading that counts
    touch: bool  # whether the goal is a touch limit, below which it is safe
    source: str  # of a touch limit
    ahead: bool  # whether the wait is for the curve itself, and may be drawn on it


@dataclass(frozen=True)
class CardView:
    """The step that is shown."""

    key: str
    label: str
    text: str
    target: str
    wait: str  # of a source of heat, or of a cold end held hot
    cautions: tuple[tuple[str, str], ...]  # sign, text
    gates: tuple[tuple[int, str, bool], ...]  # of ticks: index, text, whether it is ticked
    waits: tuple[tuple[str, bool], ...]  # of all other gates: in words, whether open
    records: tuple[Record, ...]
    expected: Mapping[str, str]
    values: Mapping[str, str]
    photos: Mapping[str, str]
    exits: tuple[tuple[str, str, bool, str], ...]  # key, label, whether it may be taken, why not
    failing: str
    tools: tuple[str, ...]
    minutes: float
    live: bool  # the step at hand, not one that is looked at
    ended: str = ""
    hold: HoldView | None = None
    timed: bool = False  # a wait that is begun by hand
    begun: bool = False
    began_back: bool = False  # the clock stands before the last entry
    check: str = ""  # of a re-check that may be left out for a reason
    cap: float | None = None  # what the weakest part stands, of a step that heats the block


@dataclass(frozen=True)
class SideView:
    """What stands beside the steps."""

    parts: tuple[tuple[str, str], ...]
    cost: str
    prints: tuple[str, ...]
    tools: tuple[str, ...]
    proof: str
    choices: tuple[str, ...]
    left_out: tuple[str, ...]
    sheet: tuple[tuple[str, str], ...] = field(default=())  # head, text of the customer's sheet


@dataclass(frozen=True)
class PlanView:
    """What may be put on an order that is not written yet."""

    works: tuple[tuple[str, str, str, bool, str], ...]  # key, label, why, whether it is on the order, why it is refused
    choices: tuple[tuple[str, str, tuple[tuple[str, str], ...], str], ...]  # key, label, options, the one taken


def rows(order: Order, catalogue: Catalogue, *, written: bool = True) -> tuple[StepRow, ...]:
    """The steps of an order; of one that is not written, none is at hand."""
    found, number, shown_head = [], 0, ""
    for index, line in enumerate(order.lines):
        barred, head = line.status == "barred", work.part(line)
        number += not barred
        label = line.work if barred and line.bar == "refused" else line.step.label
        aside = work.minutes(line.step.minutes) if line.done is None else line.done.ended[11:16]
        below = work.bar(line, catalogue) if barred else work.ended(line)
        status = "ahead" if line.status == "now" and not written else line.status
        shown = "" if barred else str(number)
        spoken = f"{shown} {label}, {_STATUS[status]}. {below}".strip()
        signs = () if barred else line.step.signs
        begins = head if head and head != shown_head else ""
        found.append(StepRow(str(index), shown, label, "" if barred else aside, below, status, signs, begins, spoken))
        shown_head = head or shown_head
    return tuple(found)


_STATUS = {"done": _("done"), "now": _("now"), "ahead": _("to do"), "barred": _("not offered")}


def card(
    order: Order, index: int, job: Job, catalogue: Catalogue, states: list[GateState], aids: Aids, now_s: float | None,
    expected: Mapping[str, str],
) -> CardView:  # fmt: skip
    """One step of an order; states: of its gates, where it is the one at hand."""
    line = order.lines[index]
    step, live = line.step, line.status == "now"
    opened = job.doing.open if live and job.doing.open is not None and job.doing.open.step == line.key else line.done
    ticks = opened.ticks if opened is not None else []
    closed = [state for state in states if not state.open]
    target = work.target(line.target, step, catalogue) if line.target is not None and not step.source else ""
    why = work.bar(line, catalogue) if line.status == "barred" else ""
    return CardView(
        key=line.key,
        label=step.label,
        text=why or work.text(line, catalogue),
        target=target,
        wait=_wait(line, aids, catalogue) if live else "",
        cautions=_by_sign(cautions_of(step, job.found, catalogue)),
        gates=tuple((i, one.text, i in ticks) for i, one in enumerate(step.gates) if one.kind == "tick"),
        waits=tuple((_gate(state), state.open) for state in states if state.gate.kind != "tick"),
        records=step.record,
        expected={one.key: expected.get(one.expected, one.expected) for one in step.record},
        values={key: _shown(value) for key, value in (opened.values if opened is not None else {}).items()},
        photos={key: one.name for key, one in (opened.photos if opened is not None else {}).items()},
        exits=tuple(_exit(one, line, closed, live) for one in line.exits) if line.status != "barred" else (),
        failing=step.failing,
        tools=step.tools,
        minutes=step.minutes,
        live=live,
        ended=work.ended(line) if isinstance(opened, DoneStep) else "",
        hold=_hold(states, aids, opened.readings if opened is not None else [], now_s, catalogue) if live else None,
        timed=any(one.kind == "hold" for one in step.gates) and not any(one.kind == "reach" for one in step.gates),
        begun=opened is not None and opened.held_from is not None,
        began_back=live and any(state.why is Why.CLOCK for state in states),
        check=line.key.removeprefix("check/") if line.key.startswith("check/") and live else "",
        cap=line.target.cap.value if line.target is not None and line.target.cap is not None else None,
    )


def _by_sign(cautions: list[Caution]) -> tuple[tuple[str, str], ...]:
    """Cautions of one sign in one place, in the order they are named."""
    signs = dict.fromkeys(one.sign for one in cautions)
    return tuple((sign, " ".join(one.text for one in cautions if one.sign == sign)) for sign in signs)


def _exit(one: Exit, line: OrderLine, closed: list[GateState], live: bool) -> tuple[str, str, bool, str]:
    stops = [state for state in closed if stops_exit(state, one, line)]
    return one.key, one.label, live and not stops, work.held(stops[0]) if stops else ""


def _shown(value: float | str) -> str:
    return value if isinstance(value, str) else f"{value:g}"


def _gate(state: GateState) -> str:
    return state.gate.text if state.open else _("Held {text}").format(text=state.gate.text)


def _wait(line: OrderLine, aids: Aids, catalogue: Catalogue) -> str:
    told = [_("The model has no answer for this machine: the curve is a rough one.")] if aids.rough else []
    if line.step.source and line.target is not None:
        told.append(work.reach(line.target.value, aids.reach, catalogue))
    if aids.cold_end is not None:
        when = forecast(aids.cold_end).when(touch_limit(catalogue))
        if when is not None:
            told.append(
                _("With its fan unplugged the sink is too hot to hold after about {time}: stand or glove.").format(
                    time=work.between(when)
                )
            )
    return " ".join(told)


def _hold(
    states: list[GateState], aids: Aids, readings: list[HoldReading], now_s: float | None, catalogue: Catalogue
) -> HoldView | None:
    """The wait of a step: for a reading, then for the time that follows it."""
    state = next((one for one in states if one.held is not None), None)
    if state is None or state.held is None or aids.curve is None:
        return None
    good = [said.value == "good" for said in state.held.said]
    last, touch = state.held.last, not aids.curve.rises
    after = next((one for one in states if one.gate.kind == "hold" and not one.open and one.left is not None), None)
    shown = after if state.open and after is not None else state
    left = work.span(shown.left[1]) if shown.left is not None else "0:00" if shown.open else ""
    return HoldView(
        forecast=state.held.forecast,
        goal=state.held.goal,
        now_s=now_s or 0.0,
        readings=tuple(zip(readings, good, strict=True)),
        met=state.held.met,
        left=left,
        below=work.between(shown.left) if shown.left is not None else "",
        words=shown.gate.text,
        value=last.value if last is not None else None,
        touch=touch,
        source=work.touch_source(catalogue, state.gate.surface, state.gate.contact_s) if touch else "",
        ahead=shown is state,
    )


def ladder_of_hold(view: HoldView, title: str) -> LadderView:
    """Every place by the forecast, against what may be touched."""
    along = max(view.forecast.lag + view.forecast.rate * view.now_s, 0.0)
    markers = []
    for key in SHOWN:
        column = view.forecast.curve.stations.get(key)
        if column is None:
            continue
        value = float(np.interp(along, view.forecast.curve.times, column))
        measured = key == "block" and view.value is not None
        value = view.value if measured and view.value is not None else value
        state = State.OVER if value > view.goal else State.CLOSE if value > view.goal - CLOSE_K else State.CLEAR
        label = STATIONS[key].label
        told = _("{label}, {value:.0f} degrees, may be touched below {goal:.0f}").format(
            label=label, value=value, goal=view.goal
        )
        markers.append(Marker(key, label, value, view.goal, "ceiling", state, measured, None, told))
    if not markers:  # a part off the machine
        value = view.value if view.value is not None else view.forecast.at(view.now_s)[1]
        state = State.OVER if value > view.goal else State.CLEAR
        told = _("The part, {value:.0f} degrees").format(value=value)
        markers.append(Marker("part", _("The part"), value, view.goal, "ceiling", state, False, None, told))
    counts = tuple((one, sum(m.state is one for m in markers)) for one in (State.OVER, State.CLOSE, State.CLEAR))
    return LadderView(title, tuple(markers), None, counts)


def ladder_of_last(job: Job, view: CardView) -> LadderView:
    """What was read last, where no wait tells more: a step that heats against what its weakest part stands."""
    if view.hold is not None and view.hold.value is not None:
        state = State.OVER if view.cap is not None and view.hold.value > view.cap else State.CLEAR
        told = _("Block, {value:.0f} degrees").format(value=view.hold.value)
        marker = Marker("block", STATIONS["block"].label, view.hold.value, view.cap, "ceiling", state, True, None, told)
        return LadderView(_("Heating, and what it stands"), (marker,), None, ((state, 1),))
    last = next((one for one in reversed(job.doing.done) if one.readings), None)
    if last is None:
        return LadderView(_("Nothing read yet"), (), None, ((State.CLEAR, 0),))
    value = last.readings[-1].value
    told = _("Block, {value:.0f} degrees, read at {clock}").format(value=value, clock=last.ended[11:16])
    marker = Marker("block", STATIONS["block"].label, value, None, "ceiling", State.CLEAR, True, None, told)
    return LadderView(_("Last read, at {clock}").format(clock=last.ended[11:16]), (marker,), None, ((State.CLEAR, 1),))


def side(job: Job, order: Order, picked: list[str], catalogue: Catalogue, asked: Proof) -> SideView:
    """Parts, tools, what must be printed first, what has to be shown, and the customer's sheet so far.

    picked: procedures on the order, written or not.
    """
    works = [catalogue.procedures[key] for key in picked if key in catalogue.procedures]
    doing = job.doing.model_copy(update={"procedures": picked})
    taken = [job.variants[key] for key in job.chosen if key in job.variants]
    parts = [(one.label, f"{job.currency}{one.cost:.2f}") for one in taken]
    parts += [(part, "") for one in works for part in one.parts]
    return SideView(
        parts=tuple(dict.fromkeys(parts)),
        cost=f"{job.currency}{sum(one.cost for one in taken):.2f}" if taken else "",
        prints=tuple(dict.fromkeys(text for one in works for text in one.prints)),
        tools=tuple(tools(order.lines)),
        proof=work.proof(asked),
        choices=tuple(work.choice(key, doing, catalogue, why=False) for key in choices_of(doing, catalogue)),
        left_out=tuple(f"{catalogue.rechecks[key].label}: {why}" for key, why in job.doing.left_out.items()
                       if key in catalogue.rechecks),
        sheet=sheet(job, order, catalogue, asked),
    )  # fmt: skip


def sheet(job: Job, order: Order, catalogue: Catalogue, asked: Proof) -> tuple[tuple[str, str], ...]:
    """What the customer will read, as far as it is known: cause, what was done, what is still to be shown."""
    cause = catalogue.causes.get(job.intake.decided or "")
    done = [line for line in order.lines if line.done is not None]
    worked = [line.step.label for line in done if line.work and not line.key.startswith("to/")]
    checks = [line for line in order.lines if line.key.startswith("check/")]
    passed = [line.step.label.lower() for line in checks if line.done is not None]
    proof_line = next((line for line in checks if line.key == "check/proof"), None)
    proved = _("{asked} to run").format(asked=work.minutes(asked.minutes))
    if proof_line is not None and proof_line.done is not None:
        ran = proof_line.done.values.get("minutes")
        proved = work.ended(proof_line)
        if isinstance(ran, float | int):
            proved = _("ran {ran} without a stop").format(ran=work.minutes(ran))
    return (
        (_("What was wrong"), cause.label if cause is not None else _("not settled yet")),
        (_("What we did"), ", ".join(dict.fromkeys(worked)) if worked else _("not yet")),
        (_("Checked after"), ", ".join(passed) if passed else _("not yet")),
        (_("Proof run"), proved),
        (_("Time"), work.minutes(sum(line.step.minutes for line in order.steps))),
    )


def plan_view(job: Job, catalogue: Catalogue, picked: list[str]) -> PlanView:
    """What may be put on an order; picked: what is on it by now."""
    works = sorted(
        (
            (key, catalogue.procedures[key].label, catalogue.procedures[key].why, key in picked, why)
            for key, why in offered(job, catalogue).items()
        ),
        key=lambda one: not one[3],
    )
    doing = job.doing.model_copy(update={"procedures": picked})
    choices = tuple(
        (
            key,
            catalogue.choices[key].label,
            tuple((name, f"{label}: {why}") for name, (label, why) in catalogue.choices[key].options.items()),
            settled(key, doing, catalogue),
        )
        for key in choices_of(doing, catalogue)
    )
    return PlanView(tuple(works), choices)


def expected(
    job: Job, values: Mapping[str, float | None], front_mm: float | None, catalogue: Catalogue, asked: Proof
) -> dict[str, str]:
    """What is expected where something is read, by the name a record asks it by.

    values: the model's, by station; front_mm: how far above the tip the strand is soft.
    """
    found = {"proof": _("at least {minutes:.0f}").format(minutes=asked.minutes)}
    hotend, printing = job.found.hotend, job.found.printing
    seat, room = values.get("liner_seat"), values.get("jam_room")
    if seat is not None:
        need = needed_preload(seat, hotend.liner_preload_mm, hotend.liner_short_mm, hotend.nozzle_gap_mm)
        found["computed"] = _("at least {need}").format(need=numbers.with_unit(need, "mm", 2))
    if room is not None:
        found["retraction"] = work.retraction(printing.retraction_mm, room)
    found |= _cold_ohms(job.planned(), catalogue)
    angle = liner_gap(catalogue.hotends[hotend.template].tube_d, 1.0)
    found["angle"] = _("up to 1: one degree leaves {gap}").format(gap=numbers.with_unit(angle, "mm", 2))
    if front_mm is not None:
        drawn, shape = front_mm + 1.0, catalogue.hotends[hotend.template]
        most = most_drawn(shape, settled("drive", job.doing, catalogue))
        found["withdraw"] = work.prime(drawn, prime_line(drawn, shape.strand_d), most)
    core, bore, air = (values.get(key) for key in ("exit_core", "bore", "fan_inlet"))
    if core is not None and bore is not None and air is not None and room is not None:
        filament = catalogue.filaments[printing.filament]
        melts, stiff = temperature_window(printing.nozzle_c, core, filament.melt_floor_c.value, bore, room, air)
        found["window"] = work.window(window(job.found, catalogue, melts, stiff, assumed_of(job)), printing.nozzle_c)
    return found


def _cold_ohms(planned: Setup, catalogue: Catalogue) -> dict[str, str]:
    """What heater and sensor of the machine as planned are stamped with, and what a meter shows across them cold."""
    found = {
        "heater_volts": numbers.with_unit(planned.hotend.heater_rated_v, "V", 0),
        "heater_watts": numbers.with_unit(planned.hotend.heater_power_w, "W", 0),
    }
    for one in cold_ohms(planned, catalogue, Ohms()):
        if one.expected is not None:
            found[f"{one.what}_ohms"] = _("{low} to {high}").format(
                low=numbers.ohms(one.low), high=numbers.ohms(one.high)
            )
    return found

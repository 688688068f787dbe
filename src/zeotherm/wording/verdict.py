"""The verdict: one sentence of what is wrong, one of why."""

from __future__ import annotations

from dataclasses import dataclass, replace

from zeotherm.core.catalogue.fitting import fed_volts
from zeotherm.core.catalogue.shelves import Catalogue
from zeotherm.core.judgement.findings import Reason
from zeotherm.core.judgement.margins import Margin, State
from zeotherm.core.judgement.standing import Standing
from zeotherm.core.parts.hotend.judge.answer import Answer
from zeotherm.core.parts.power.judge.voltage import Mismatch
from zeotherm.wording import margins as words
from zeotherm.wording import voltage
from zeotherm.wording.language import _, begun
from zeotherm.wording.numbers import plain
from zeotherm.wording.standing import (
    as_far_as_known,
    assumed,
    assumed_short,
    open_brief,
    open_headline,
    open_reason,
    too_close,
)

# What is wrong, by limit, once the limit is passed. {room} is the amount with its unit.
PASSED = {
    "feed": _("This print jams: the cold end is {room} too warm"),
    "strand": _("The filament buckles at the drive: push {room} too high"),
    "sink_base": _("The cold end is {room} too warm for this filament"),
    "sink_top": _("The sink's top is {room} too hot for its carriage"),
    "liner_end": _("The liner's end is {room} too hot"),
    "seat": _("The liner has left its seat by {room}"),
    "cavity": _("A cavity behind the nozzle holds {room} too much"),
    "block": _("The block is {room} above what its parts stand"),
    "fan_inlet": _("The sink fan breathes air {room} too hot"),
    "fan_outlet": _("The fan's outlet air is {room} too hot for its duct"),
    "exit_core": _("This flow is beyond the melt zone: core {room} short"),
    "heater": _("The heater lacks {room} for this set value"),
    "carriage": _("The carriage is {room} past softening"),
    "motor": _("The feed motor is {room} too hot"),
    "board": _("The toolhead board is {room} too hot"),
}
# Reasons by the path that departs from a sound machine.
WHY = {
    "surroundings.fan_air_c": _("{value} °C air at the sink fan"),
    "fan.guard_blocked_pct": _("guard {value} % blocked"),
    "fan.voltage_v": _("fan on {value} V"),
    "fan.direction": _("fan pulls instead of pushing"),
    "hotend.sink_joint": _("dry sink joint"),
    "hotend.liner_short_mm": _("liner {value} mm short"),
    "hotend.nozzle_gap_mm": _("nozzle {value} mm off its seat"),
    "printing.nozzle_c": _("nozzle at {value} °C"),
}
# Laws that were used beyond their range, in words.
BEYOND = {
    "fins": _("The air between the fins is no longer laminar: fin cooling is an estimate"),
    "air": _("Air beyond −40 to 500 °C: its properties are an estimate"),
}
LINER = ("liner_end", "seat")


@dataclass(frozen=True, slots=True)
class Verdict:
    """The sentence, the reason below it, and the state they carry."""

    headline: str
    reason: str
    state: State
    brief: str = ""  # the reason where there is little room


def lead(answer: Answer) -> Margin:
    """The margin that the headline speaks of; of a lined hotend its liner, where that is past a limit."""
    worst = answer.worst
    for key in LINER:
        margin = answer.margin(key)
        if margin is not None and margin.state.bad and answer.solved.resolved.inputs.lined:
            return margin
    return worst


def verdict(answer: Answer, on: Standing) -> Verdict:
    """What is wrong or decided, in at most 60 characters, and why; on: what it stands on."""
    if answer.wrong:
        return _wrong_voltage(answer, answer.wrong[0])
    return standing_on(_as_assumed(answer), answer.worst, on, answer.catalogue)


def standing_on(told: Verdict, worst: Margin, on: Standing, catalogue: Catalogue) -> Verdict:
    """A verdict by what it stands on: what nobody told is never clear, and may leave it open; worst: its margin."""
    if not on.assumed:
        return told
    deciding = on.of(worst.key)
    if deciding is not None and too_close(worst.room, deciding):
        reason, brief = open_reason(worst, deciding, catalogue), open_brief(worst, deciding)
        return Verdict(open_headline(deciding), reason, State.UNKNOWN, brief)
    reason = _("{reason} {assumed}").format(reason=told.reason, assumed=assumed(on))
    told = replace(told, reason=reason)
    return _as_far_as_known(told) if on.open else told


def with_lacking(told: Verdict, lacking: str) -> Verdict:
    """A verdict on a machine of which some part has no answer; lacking: which, as a sentence, nothing: none."""
    return _as_far_as_known(replace(told, reason=f"{told.reason} {lacking}".strip())) if lacking else told


def _as_far_as_known(told: Verdict) -> Verdict:
    """What is clear only by what is known."""
    if told.state is not State.CLEAR:
        return told
    return replace(told, headline=as_far_as_known(told.headline), state=State.UNKNOWN)


def passed(one: Margin) -> str:
    """What is wrong with a limit of the hotend that is passed."""
    return PASSED[one.key].format(room=words.room(one).rsplit(" ", 1)[0])


def _as_assumed(answer: Answer) -> Verdict:
    """The verdict if every fact is as it is assumed."""
    told = lead(answer)
    if told.state.bad:
        headline = passed(told)
    elif told.state is State.CLOSE:
        headline = _("Close: {label} has {room}").format(label=begun(words.label(told)), room=words.room(told))
    else:
        headline = _("Works; {label} has the least room").format(label=begun(words.label(told)))
    return Verdict(headline, _reason(answer, told, 3), told.state, _reason(answer, told, 1))


def _wrong_voltage(answer: Answer, one: Mismatch) -> Verdict:
    """Before anything else: a part that gets other volts than it is made for."""
    if one.part != "heater" or one.of:
        return Verdict(voltage.head(one), voltage.comes(one), State.OVER, voltage.comes(one))
    hotend = answer.setup.hotend
    headline = _("Wrong-voltage heater: {watts} W instead of {rated} W").format(
        watts=plain(one.times * hotend.heater_power_w, 0), rated=plain(hotend.heater_power_w, 0)
    )
    reason = _("{rated} V cartridge on {supply} V: do not switch on until the right cartridge is fitted.").format(
        rated=plain(hotend.heater_rated_v, 0), supply=plain(fed_volts(answer.setup, answer.catalogue), 0)
    )
    return Verdict(headline, reason, State.OVER, reason)


def short(answer: Answer, on: Standing) -> str:
    """The answer in a few words, for the spine and the job list."""
    if answer.wrong:
        return _("Wrong voltage: {part}").format(part=begun(voltage.name_of(answer.wrong[0])))
    if _too_close(answer.worst, on):
        return assumed_short(on)
    return _room_of(lead(answer))


def short_of(worst: Margin, on: Standing) -> str:
    """The same of any part, by its worst margin; what decides need not be reckoned for it."""
    unsure = on.open and on.deciding is None and not worst.state.bad
    return assumed_short(on) if unsure or _too_close(worst, on) else _room_of(worst)


def _too_close(worst: Margin, on: Standing) -> bool:
    deciding = on.of(worst.key)
    return deciding is not None and too_close(worst.room, deciding)


def _room_of(margin: Margin) -> str:
    return f"{words.label(margin)} {words.room(margin)}"


def _reason(answer: Answer, told: Margin, most: int) -> str:
    figure = f"{words.label(told)} {words.room(told)}"
    sure = f" ({words.band(told)})" if told.band else ""
    if answer.solved.field.saturated:
        return _("The heater runs flat out and the block stays below its set value. ") + f"{figure}{sure}."
    if not told.state.bad:
        return f"{figure}{sure}; {words.sure(told)}."
    if told.key == "exit_core" and answer.ceiling is not None:
        return (
            _("Melts evenly up to about {flow} mm³/s. ").format(flow=plain(answer.ceiling * 1e9)) + f"{figure}{sure}."
        )
    because = [reason_text(reason) for reason in answer.reasons[:most]]
    text = ", ".join(because)
    return f"{text[:1].upper()}{text[1:]}: {begun(figure)}{sure}." if because else f"{figure}{sure}: {told.breaks}."


def reason_text(reason: Reason) -> str:
    """One departure in words."""
    value = reason.value
    if reason.path not in WHY:  # extra heat goes by its own name
        return begun(str(value))
    return WHY[reason.path].format(value=plain(value, 1 if value % 1 else 0) if isinstance(value, float) else value)

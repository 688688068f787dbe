"""An enclosure in words: what it comes to and why, what a change does, how it is heated safely."""

from __future__ import annotations

import math
from typing import Any

from zeotherm.core.catalogue.stations import STATIONS
from zeotherm.core.judgement.margins import State
from zeotherm.core.parts.enclosure.judge.answer import ChamberAnswer, own_rise
from zeotherm.core.parts.enclosure.judge.sizing import TRIED_M3H, CutOut, Gone, Heater, Size, Tried
from zeotherm.core.parts.enclosure.part import CaseFound
from zeotherm.core.parts.whole.around import occupants_of
from zeotherm.wording import margins as words
from zeotherm.wording.bed import minutes
from zeotherm.wording.course import duration
from zeotherm.wording.language import _, begun
from zeotherm.wording.numbers import give_or_take, plain, signed, with_unit
from zeotherm.wording.verdict import Verdict

LABEL, EMPTY = _("Case"), _("No case")
COMMAND = "Print how warm a job's case gets, what that does to all in it, and what a change would do."
NEEDS = "nothing encloses this machine. Set case.part."
ASKED = ("tried",)
WALLS = {
    "floor": _("floor"), "roof": _("roof"), "left": _("left wall"), "right": _("right wall"), "front": _("front"),
    "back": _("back wall"), "window": _("window"), "gaps": _("gaps"), "vents": _("vents and door"),
    "exhaust": _("exhaust fan"), "intake": _("pushed-out air"),
}  # fmt: skip
CHANGES = {
    "foam": _("Lining the walls with 10 mm of foam"),
    "bright": _("A bright film inside the walls"),
    "bed": _("Insulating under the bed"),
    "shut": _("Shutting what stands open"),
    "exhaust": _("An exhaust fan of {flow} m³/h"),
    "recirculation": _("Turning {flow} m³/h over inside instead"),
    "together": _("Foam, shut and the bed insulated, together"),
}
FAULTS = {
    "sticks": _("Switch sticks, or the sensor falls out"),
    "fan": _("Recirculating fan stops"),
    "door": _("Door opens"),
}
PASSED = {
    "case_wanted": _("The print stands {room} colder than the case is wanted"),
    "case_supply": _("The supply's air is {room} too warm"),
    "case_board": _("The board gets {room} too hot"),
    "case_display": _("The display gets {room} too warm"),
    "case_spool": _("The spool gets {room} too warm"),
    "case_printed": _("Printed parts inside get {room} too warm"),
    "case_motor": _("The motors get {room} too hot"),
    "case_motor_mount": _("The motors get {room} too hot for their printed mounts"),
    "case_face": _("A wall's inside gets {room} too hot for what it is made of"),
}
OF_FURTHER = {
    "case_supply": _("The air at {number} is {room} too warm"),
    "case_printed": _("Printed part {number} gets {room} too warm"),
}
LAYERED = 3.0  # K between the halves that are worth a word


def nothing() -> Verdict:
    """Where nothing encloses the machine."""
    return Verdict(_("Nothing encloses this machine"), _("Choose a case to see what it would come to."), State.UNKNOWN)


def verdict(answer: ChamberAnswer) -> Verdict:
    """What is wrong with the enclosure, in one sentence, and why."""
    told = answer.worst
    if told.state.bad:
        number, _dot, place = told.key.rpartition(".")
        text = OF_FURTHER[place] if number else PASSED[told.key]
        headline = text.format(number=number, room=words.room(told).rsplit(" ", 1)[0])
    elif told.state is State.CLOSE:
        headline = _("Close: {label} has {room}").format(label=begun(words.label(told)), room=words.room(told))
    else:
        headline = _("The case comes to {low}; everything in it stands that").format(low=rests(answer))
    return Verdict(headline, reason(answer), told.state)


def reason(answer: ChamberAnswer) -> str:
    """Where the heat comes from and goes, and whether the air is layered."""
    solved = answer.solved
    most, watts = max(solved.lost.items(), key=lambda one: one[1])
    text = _("{given} W enter, {bed} W of them by the bed; most leave by {way} ({watts} W).").format(
        given=plain(solved.given, 0), bed=plain(solved.bed_watts, 0), way=WALLS[most], watts=plain(watts, 0)
    )
    if abs(solved.high - solved.low) > LAYERED:
        text += " " + _("Air is layered: {low} at the print, {high} under the roof, the sensor claims {reads}.").format(
            low=with_unit(solved.low, "°C"), high=with_unit(solved.high, "°C"), reads=with_unit(solved.reading, "°C")
        )
    return text


def settles(answer: ChamberAnswer) -> str:
    """How soon, and why preheating does not change where it ends."""
    text = _("It settles at {low} with a time constant of {tau}: preheating moves when, not where.")
    lag = answer.settles_in
    return text.format(tau=duration(lag) if math.isfinite(lag) else minutes(lag), low=rests(answer))


def rests(answer: ChamberAnswer) -> str:
    """Where the air at the print comes to, with its band once that is known."""
    band = answer.bands.values.get("case_low") if answer.bands is not None else None
    if band is None:
        return with_unit(answer.solved.low, "°C")
    return f"{plain(answer.solved.low)} ±{plain(max(band.down, band.up))} °C"


def losses(answer: ChamberAnswer) -> list[str]:
    """Where heat leaves, most first."""
    lost = sorted(answer.solved.lost.items(), key=lambda one: -one[1])
    return [f"{begun(WALLS[name])} {plain(watts, 0)} W" for name, watts in lost]


def own_warmth(answer: ChamberAnswer) -> list[str]:
    """What warms itself above the air it stands in, and with how many watts of its own."""
    found = []
    for _kind, one in occupants_of(answer.setup, answer.catalogue):
        rise = own_rise(answer.setup, answer.catalogue, one)
        if rise.watts > 0.0:
            text = _("{label}: {rise} above the air around it, from its own {watts} W.")
            found.append(text.format(
                label=one.label, rise=give_or_take(rise.value, rise.band, "K"), watts=plain(rise.watts, 0)
            ))  # fmt: skip
    return found


def tried(one: Tried) -> str:
    """A change in words."""
    watts = f"{'+' if one.bed_by >= 0.5 else ''}{with_unit(one.bed_by, 'W', 0)}"
    text = _("{what}: air {by}, bed {bed}").format(
        what=CHANGES[one.key].format(flow=plain(TRIED_M3H, 0)), by=_by(one), bed=watts
    )
    if one.key in ("exhaust", "recirculation"):
        text += _(
            "; {changes} changes of air an hour take {lost} W, it follows its room by {follows} K a kelvin"
        ).format(changes=plain(one.changes, 0), lost=plain(one.lost, 0), follows=plain(one.follows, 2))
    return text + "."


def _by(one: Tried) -> str:
    if one.band <= 0.0:
        return signed(one.by, "K")
    return f"{signed(one.by, '').strip()} ±{plain(one.band)} K"


def heater(one: Heater, wanted: float) -> str:
    """Watts for what is wanted."""
    text = _("Holding {wanted} at the print takes {hold}").format(
        wanted=with_unit(wanted, "°C", 0), hold=give_or_take(one.hold.value, one.hold.band, "W")
    )
    if one.fast is None:
        text += _("; no heater brings it there within {time}.").format(time=minutes(one.within))
    else:
        text += _(", bringing it there within {time} {fast}.").format(
            time=minutes(one.within), fast=give_or_take(one.fast.value, one.fast.band, "W")
        )
    if one.reached.value < wanted - 1.0:
        reached = give_or_take(one.reached.value, one.reached.band, "°C")
        text += " " + _("As it is fitted it comes to {reached}.").format(reached=reached)
    return text


def cut_out(one: CutOut) -> str:
    """Where a cut-out belongs, or why none can."""
    weakest = begun(STATIONS[one.weakest].label)
    if one.blocked:
        return _("Blocked: a cut-out at {set} lets {weakest} pass the limit; {high} at most.").format(
            set=with_unit(one.set_to, "°C", 0), weakest=weakest, high=give_or_take(one.high, one.band, "°C")
        )
    if not one.possible:
        return _("No place for a cut-out: above {low} it never cuts in work, {weakest} wants it below {high}. "
                 "Move, shield or replace that first.").format(
            low=with_unit(one.low, "°C", 0), weakest=weakest, high=give_or_take(one.high, one.band, "°C")
        )  # fmt: skip
    text = _("A cut-out of its own, apart from the control, between {low} and {high} ({weakest}).").format(
        low=with_unit(one.low, "°C", 0), high=give_or_take(one.high, one.band, "°C"), weakest=weakest
    )
    return text if one.set_to > 0.0 else text + " " + _("None is fitted: sizing is shown, the work is not offered.")


def gone(one: Gone) -> str:
    """What comes of a fault."""
    text = _("{fault}: {low} at the print, {high} under the roof").format(
        fault=FAULTS[one.key], low=with_unit(one.low, "°C", 0), high=with_unit(one.high, "°C", 0)
    )
    text += f" (±{plain(one.band, 0)} K)" if one.band >= 0.5 else ""
    if one.after is None:
        return text + "."
    if one.after < 1.0:
        return text + _("; {part}: past the limit already.").format(part=begun(STATIONS[one.station].label))
    return text + _("; {part}: past the limit after {time}.").format(
        part=begun(STATIONS[one.station].label), time=minutes(one.after)
    )


def vents(share: Size | None, at_most: float) -> str:
    """How far to open for a temperature at most."""
    limit = with_unit(at_most, "°C", 0)
    if share is None:
        return _("Wide open it still stands above {limit}.").format(limit=limit)
    if share.value <= 0.0:
        return _("It stays below {limit} shut.").format(limit=limit)
    told = give_or_take(math.ceil(100 * share.value), 100.0 * share.band, "%")
    return _("Open {share} to stay below {limit}.").format(share=told, limit=limit)


def head(found: CaseFound) -> list[str]:
    """What the command line tells before the limits."""
    answer = found.answer
    assert answer is not None
    opened = _("It may be opened {time} after switching off.")
    safe = answer.safe_to_open
    return [settles(answer), *([opened.format(time=minutes(safe))] if safe is not None else [])]


def tail(found: CaseFound) -> list[str]:
    """And after them."""
    answer = found.answer
    assert answer is not None
    return [*own_warmth(answer), *losses(answer), *(tried(one) for one in found.tried)]


def as_data(found: CaseFound) -> dict[str, Any]:
    """What an enclosure has beyond what every part has; numbers carry their unit in their name."""
    answer = found.answer
    assert answer is not None
    solved = answer.solved
    return {
        "heater_w": solved.power,
        "bed_w": solved.bed_watts,
        "lost_w": solved.lost,
        "time_constant_s": answer.settles_in,
        "safe_to_open_s": answer.safe_to_open,
        "energy_closure": answer.run.closure if answer.run is not None else None,
        "tried": [
            {"key": one.key, "air_c": one.low, "air_by_k": one.by, "bed_w": one.bed, "bed_by_w": one.bed_by,
             "changes_an_hour": one.changes, "air_w": one.lost, "follows_room": one.follows, "text": tried(one)}
            for one in found.tried
        ],
    }  # fmt: skip

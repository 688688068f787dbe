"""A power path in words: what is too hot, how many volts are left, what suffices, and what is wired wrongly."""

from __future__ import annotations

import math
from datetime import date, timedelta
from typing import Any

from zeotherm.core.catalogue.stations import STATIONS
from zeotherm.core.judgement.margins import Margin, State
from zeotherm.core.machine.supplies import MAINS
from zeotherm.core.parts.power.judge.ageing import Lasting, RunsAway, retorque_hours, retorque_jobs, runs_away
from zeotherm.core.parts.power.judge.answer import Array, Loads, PowerAnswer, lost_in_supplies, lost_watts
from zeotherm.core.parts.power.judge.readings import AtWall, ContactReading
from zeotherm.core.parts.power.model.model import BRANCH
from zeotherm.core.parts.power.part import PowerFound
from zeotherm.wording import margins as words
from zeotherm.wording import voltage
from zeotherm.wording.bed import minutes
from zeotherm.wording.language import _, begun
from zeotherm.wording.numbers import give_or_take, plain, with_unit
from zeotherm.wording.verdict import Verdict

LABEL, EMPTY = _("Power"), _("Not described")
COMMAND = "Print what a job's power path carries and loses, how warm it gets, and what is short."
NEEDS = "its power path is not described. Set power.path."
ASKED = ("lasting",)
FARTHEST_DAYS = 3650

PARTS = {
    "supply_terminal": _("Supply terminal"), "feed": _("Feed wire"), "feed_terminal": _("Feed terminal"),
    "switch": _("Bed switch"), "plug": _("Bed plug"), "lead": _("Bed lead"), "tabs": _("Bed tabs"),
    "heater_terminal": _("Hotend terminal"), "heater_lead": _("Hotend lead"), "heater_plug": _("Hotend plug"),
}  # fmt: skip
WIRES = {"feed": _("Feed"), "lead": _("Bed lead"), "heater_lead": _("Hotend lead")}
SHORT = {"heater_terminal": _("Terminal"), "heater_lead": _("Lead"), "heater_plug": _("Plug")}  # of the hotend's
PASSED = {
    "power_supply_terminal": _("The supply's terminal gets {room} too hot"),
    "power_feed": _("The feed wire gets {room} too hot for its insulation"),
    "power_feed_terminal": _("The feed's terminal gets {room} too hot"),
    "power_switch": _("The bed's switch gets {room} too hot"),
    "power_plug": _("The bed's plug gets {room} too hot"),
    "power_lead": _("The bed's lead gets {room} too hot for its insulation"),
    "power_tabs": _("The bed's tabs get {room} too hot"),
    "power_heater_terminal": _("The hotend's terminal gets {room} too hot"),
    "power_heater_lead": _("The hotend's lead gets {room} too hot for its insulation"),
    "power_heater_plug": _("The hotend's plug gets {room} too hot"),
    "power_heater_volts": _("The hotend gets {room} too little"),
    "power_heater_plug_amps": _("The hotend's plug carries {room} more than it is good for where it sits"),
    "power_inlet": _("The air at the supply is {room} too warm for its load"),
    "power_load": _("The supply is overloaded by {room}"),
    "power_bed_volts": _("The bed gets {room} too little"),
    "power_plug_amps": _("The bed's plug carries {room} more than it is good for where it sits"),
    "power_switch_amps": _("The bed's switch carries {room} more than it is good for"),
    "power_fuse": _("The bed's fuse carries {room} more than it may for hours"),
    "power_fuse_wire": _("The bed's fuse is {room} larger than what its wire carries"),
    "power_outlet": _("The outlet carries {room} more than it may for hours"),
    "power_output": _("The fan output carries {room} more than it may"),
    "power_board_fuse": _("The board's fuse carries {room} more than it may for hours"),
    "power_board_fuse_wire": _("The board's fuse is {room} larger than what its feed carries"),
    "power_board_amps": _("The board takes {room} more than its input may carry"),
    "power_heater_output": _("The hotend's output carries {room} more than it may"),
}
OF_FURTHER = {
    "power_inlet": _("The air at {number} is {room} too warm for its load"),
    "power_load": _("{number} is overloaded by {room}"),
}


def nothing() -> Verdict:
    """Where nothing is known of the power path."""
    return Verdict(
        _("The power path is not described"),
        _("Choose by what the bed is switched, below: supply, wires and joints then start from what is usual."),
        State.UNKNOWN,
    )


def verdict(answer: PowerAnswer) -> Verdict:
    """What is wrong with the power path, in one sentence, and why."""
    if answer.wrong and (answer.wrong[0].burns or not answer.worst.state.bad):
        return Verdict(voltage.head(answer.wrong[0]), voltage.comes(answer.wrong[0]), State.OVER)
    away = runs_away(answer)
    if away is not None:
        head = _("{part} runs away: it finds no rest").format(part=PARTS[away.part])
        return Verdict(head, f"{away_after(away)} {reason(answer)}", State.OVER)
    told = answer.worst
    if told.state.bad:
        number, _dot, place = told.key.rpartition(".")
        text = OF_FURTHER[place] if number else PASSED[told.key]
        headline = text.format(number=number, room=words.room(told).rsplit(" ", 1)[0])
    elif told.state is State.CLOSE:
        headline = _("Close: {label} has {room}").format(label=begun(words.label(told)), room=words.room(told))
    else:
        headline = _("Every wire and joint stays cool; {volts} left at the bed").format(
            volts=with_unit(answer.full.bed_volts, "V")
        )
    return Verdict(headline, reason(answer), told.state)


def reason(answer: PowerAnswer) -> str:
    """The warmest joint with its milliohms and watts, what is lost, what the supply is asked for and gives."""
    full, solved = answer.full, answer.solved
    worst = max(("supply_terminal", "feed_terminal", "plug"), key=solved.contact)
    amps, ohms = solved.amps.mean(worst), solved.contact_ohms(worst)
    text = _("{part}: {mohm} mΩ, {watts} W, {warm}.").format(
        part=PARTS[worst],
        mohm=plain(1e3 * ohms),
        watts=plain(amps**2 * ohms),
        warm=_("no rest") if solved.runs_away else with_unit(solved.contact(worst), "°C", 0),
    )
    if not math.isfinite(answer.resolved.inputs.bed_ohms):
        return _("No heated bed: nothing large is carried.")
    text += " " + _("{lost} V lost, {volts} left at the bed.").format(
        lost=plain(full.model.inputs.volts - full.bed_volts, 2), volts=with_unit(full.bed_volts, "V")
    )
    supply = answer.tightest
    text += " " + _("{supply} delivers up to {gives} W at {inlet}; the load is {asked} W.").format(
        supply=supply.number if len(answer.supplies) > 1 else _("The supply"),
        inlet=with_unit(supply.inlet, "°C", 0), gives=plain(supply.gives, 0), asked=plain(supply.asked, 0),
    )  # fmt: skip
    if answer.unfused:
        text += " " + _("The bed's own path has no fuse.")
    return text


def part_line(answer: PowerAnswer, name: str) -> str:
    """One part of the path: ohms, volts lost, temperature."""
    full, solved = answer.full, answer.solved
    lost = with_unit(full.lost(name), "V", 2)
    if name == "switch":
        return f"{PARTS[name]}: {plain(1e3 * solved.switch_ohms)} mΩ, {lost}, {with_unit(solved.switch_c, '°C', 0)}"
    if name in WIRES:
        return f"{PARTS[name]}: {plain(2e3 * solved.wire_ohms(name))} mΩ, {lost}, " + with_unit(
            float(solved.wire(name).max()), "°C", 0
        )
    warm = with_unit(solved.contact(name), "°C", 0)
    return f"{PARTS[name]}: {plain(1e3 * solved.contact_ohms(name))} mΩ, {lost}, {warm}"


def told(one: ContactReading, place: str) -> str:
    """A contact by a reading."""
    text = _("{place}: {mohm} mΩ (−{down}/+{up}), {watts} W at {amps}").format(
        place=place, mohm=plain(one.milliohm), down=plain(one.down), up=plain(one.up), watts=plain(one.watts, 2),
        amps=with_unit(one.amps, "A"),
    )  # fmt: skip
    if one.good <= 0.0:
        return text + "."
    text += _("; a sound one has {good}").format(good=plain(one.good))
    if one.milliohm - one.down > 2.0 * one.good:
        return text + _(". Replace it.")
    if one.milliohm + one.up < 2.0 * one.good:
        return text + _(". It passes.")
    return text + _(". Too close to call: read it again under full load.")


def at_wall(one: AtWall) -> str:
    """The plug-in meter's reading."""
    text = _("{watts} W real, {va} VA apparent, power factor {factor}").format(
        watts=plain(one.watts, 0), va=plain(one.apparent, 0), factor=plain(one.factor, 2)
    )
    if one.efficiency is None or one.lost is None:
        return text + "."
    return text + _("; efficiency {share} %, {lost} W stay in the supply.").format(
        share=plain(100 * one.efficiency, 0), lost=plain(one.lost, 0)
    )


def at_the_wall(answer: PowerAnswer) -> str:
    """Watts at the wall while everything warms up, with their band once it is known."""
    watts = answer.values["power_wall"]
    return give_or_take(watts, watts * _share(answer, "power_wall"), "W")


def wall(answer: PowerAnswer) -> str:
    """What a meter at the wall should show while everything warms up, and the outlet's load."""
    values = answer.values
    inrush = answer.resolved.inputs.supply.inrush_a
    text = _("At the wall {watts} while everything warms up; the outlet carries {amps} of {rated}, "
             "for a moment at switching on {inrush} ±{doubt} A.")  # fmt: skip
    return text.format(
        inrush=plain(inrush.value, 0), doubt=plain(inrush.tolerance, 0),
        watts=at_the_wall(answer), amps=with_unit(values["power_outlet"], "A"),
        rated=with_unit(answer.resolved.inputs.outlet, "A", 0),
    )  # fmt: skip


def supplies(answer: PowerAnswer) -> list[str]:
    """Each supply where there are several: what it is, what feeds it, what it gives and is asked for."""
    if len(answer.supplies) == 1:
        return []
    sources, setup = answer.catalogue.power_sources, answer.setup
    text = _(
        "{number}: {kind}, {rating} W, fed by {source}. It delivers up to {gives} W at {inlet}; the load is {asked} W."
    )
    return [
        text.format(
            number=one.number, kind=begun(one.kind.label), rating=plain(one.rating, 0),
            source=begun(sources[MAINS if one.on_mains else setup.supplies[one.number].fed_by].label),
            gives=plain(one.gives, 0), inlet=with_unit(one.inlet, "°C", 0), asked=plain(one.asked, 0),
        )
        for one in answer.supplies
    ]  # fmt: skip


def label(margin: Margin) -> str:
    """The place a margin speaks of."""
    return STATIONS[margin.station].label


def away_after(one: RunsAway) -> str:
    """How soon what runs away is at what it stands."""
    limit = with_unit(one.limit, "°C", 0)
    if one.after is None:
        return _("It stands {limit}.").format(limit=limit)
    return _("From cold it is at the {limit} it stands after {time}.").format(limit=limit, time=minutes(one.after))


def lasts(one: Lasting | None) -> str:
    """The joint that comes to its limit first as it ages."""
    if one is None:
        return _("As its joints age, none is near its limit.")
    return _(
        "{part} is at its limit at {limit} mΩ, {times} times today's {now}: measure it again at each visit."
    ).format(part=PARTS[one.contact], limit=plain(one.limit, 0), times=plain(one.times), now=plain(one.milliohm))


def retorque(answer: PowerAnswer, today: date) -> str:
    """When screws are to be tightened; a date by one job like this a day."""
    hours, jobs = retorque_hours(answer), retorque_jobs(answer)
    if hours is None or jobs is None:
        return _("Nothing of the path is screwed.")
    text = _("Tighten its screws again after a day, then every {hours} h of use: with one such job a day by {date}.")
    by = today + timedelta(days=min(math.floor(jobs), FARTHEST_DAYS))
    return text.format(hours=plain(hours, 0), date=by.isoformat())


def stays(answer: PowerAnswer) -> str:
    """What is lost late in the print, and where."""
    if answer.run is None:
        return ""
    now = answer.run.moment(max(answer.off - 60.0, 0.0))
    lost, (supply, doubt) = lost_watts(now), lost_in_supplies(now)
    doubt += supply * _share(answer, answer.tightest.place("power_load"))
    where = _("the supplies") if answer.setup.supplies else _("the supply")
    text = _("Late in the print {lost} stay in wires and joints, {supply} in {where}; they warm what is beside them.")
    return text.format(
        where=where, lost=give_or_take(lost, lost * _share(answer, "power_lost"), "W", 1),
        supply=give_or_take(supply, doubt if answer.bands is not None else 0.0, "W", 1),
    )  # fmt: skip


def _share(answer: PowerAnswer, key: str) -> float:
    """Half-width of a figure's band over the figure, at rest; zero while it is not known."""
    band = answer.bands.values.get(key) if answer.bands is not None else None
    value = answer.values.get(key, 0.0)
    return max(band.down, band.up) / value if band is not None and value > 0.0 else 0.0


def wall_read(watts: float, answer: PowerAnswer) -> str:
    """A reading at the wall beside what the model would have there."""
    share = answer.asked / watts if watts > 0.0 else 0.0
    return _("{read} W read at the wall, {model} W by the model with everything on: efficiency {share} %.").format(
        read=plain(watts, 0), model=plain(answer.values["power_wall"], 0), share=plain(100 * share, 0)
    )


def loads(answer: PowerAnswer, one: Loads, times: Array) -> str:
    """A supply's hours: the most at once with its band, the worst hour, what it gives then."""
    at = int(one.together.argmax())
    most, (hour, start) = float(one.together[at]), one.worst_hour(times)
    share = _share(answer, "power_load")
    text = _(
        "At most {most} at once, {when}. The worst hour, {begun}, averages {hour}. "
        "Throughout, {supply} can deliver at least {gives} W."
    )
    return text.format(
        supply=answer.tightest.number if len(answer.supplies) > 1 else _("the supply"),
        most=give_or_take(most, share * most, "W"), when=_after(float(times[at])), begun=_after(start),
        hour=give_or_take(hour, share * hour, "W"), gives=plain(float(one.gives.min()), 0),
    )  # fmt: skip


def _after(time: float) -> str:
    return _("{time} after switching on").format(time=minutes(time)) if time >= 30.0 else _("at switching on")


def foot(answer: PowerAnswer, *, by_watts: bool) -> str:
    """What the strip's width and colour mean, and what is lost on the way."""
    width = _("Width: watts") if by_watts else _("Width: amps")
    full = answer.full
    return _("{width}, colour: temperature. On the way {volts}, {watts} W of {asked} W.").format(
        width=width, volts=with_unit(full.model.inputs.volts - full.bed_volts, "V", 2), watts=plain(full.path_watts),
        asked=plain(full.bed_watts + full.path_watts, 0),
    )  # fmt: skip


def head(found: PowerFound) -> list[str]:
    """What the command line tells before the limits."""
    answer = found.answer
    assert answer is not None
    wrong = [voltage.comes(one) for one in answer.wrong]
    lines = [*wrong, *(part_line(answer, name) for name in BRANCH), *supplies(answer), wall(answer), stays(answer)]
    return [*lines, retorque(answer, date.today()), lasts(found.lasting)]


def tail(_found: PowerFound) -> list[str]:
    """And after them."""
    return []


def as_data(found: PowerFound) -> dict[str, Any]:
    """What a power path has beyond what every part has; numbers carry their unit in their name."""
    answer = found.answer
    assert answer is not None
    solved, full = answer.solved, answer.full
    return {
        "runs_away": solved.runs_away,
        "parts": [{"part": name, "lost_v": full.lost(name), "text": part_line(answer, name)} for name in BRANCH],
        "bed_v": full.bed_volts,
        "bed_a": full.amps.bed,
        "feed_a": full.amps.feed,
        "hotend_v": full.heater_volts,
        "hotend_a": full.amps.heater,
        "path_w": full.path_watts,
        "supply_asked_w": answer.asked,
        "supply_gives_w": answer.gives,
        "supplies": [
            {"number": one.number, "inlet_c": one.inlet, "asked_w": one.asked, "gives_w": one.gives}
            for one in answer.supplies
        ],
        "loads": _loads(answer),
        "wrong_voltage": [
            {"part": one.part, "of": one.of, "rated_v": one.rated_v, "gets_v": one.gets_v,
             "times": one.times, "text": voltage.comes(one)}
            for one in answer.wrong
        ],
        "energy_closure": answer.run.closure if answer.run is not None else None,
    }  # fmt: skip


def _loads(answer: PowerAnswer) -> dict[str, Any] | None:
    """What the supply is asked for and gives over the job."""
    if answer.loads is None or answer.run is None:
        return None
    loads, times = answer.loads, answer.run.times
    hour, start = loads.worst_hour(times)
    return {"supply": answer.tightest.number, "times_s": times.tolist(),
            "mean_w": loads.mean.tolist(), "together_w": loads.together.tolist(),
            "gives_w": loads.gives.tolist(), "lost_w": loads.lost.tolist(), "worst_hour_w": hour,
            "worst_hour_from_s": start}  # fmt: skip


def told_as_data(one: ContactReading) -> dict[str, float]:
    """A contact by a reading, as plain data."""
    return {"milliohm": one.milliohm, "down": one.down, "up": one.up, "w": one.watts, "a": one.amps,
            "sound_milliohm": one.good}  # fmt: skip

"""A hotend that is being put together, in words."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from typing import Any

from zeotherm.core.catalogue.shelves import Catalogue
from zeotherm.core.catalogue.stations import STATIONS
from zeotherm.core.choices.build.cheapest import MOST_CHANGES, Search, little
from zeotherm.core.choices.build.cold_side import ColdSide
from zeotherm.core.choices.build.judged import HEAT_UP, MOST_FLOW, Built, Row
from zeotherm.core.choices.build.slots import Candidate
from zeotherm.core.choices.build.wanted import BuildWish
from zeotherm.core.choices.build.watts import LEAST_W, MOST_W, WattsPicture
from zeotherm.core.judgement.margins import Margin, State
from zeotherm.core.parts.power.judge.voltage import Mismatch
from zeotherm.wording import clashes as clash_words
from zeotherm.wording import margins as words
from zeotherm.wording.language import _, begun
from zeotherm.wording.numbers import difference_unit, give_or_take, plain, signed, with_unit
from zeotherm.wording.verdict import PASSED, Verdict

HEADLINES = PASSED | {  # of what falls short, where a build has a sentence of its own
    HEAT_UP: _("Hot in {value}, {wanted} is wanted"),
    MOST_FLOW: _("The nozzle melts {value}, {wanted} is wanted"),
}
LABELS = {"heater": _("Heater"), "feed": _("Feed"), "block": _("Sensor and sleeve"), HEAT_UP: _("Heat-up")}
PARTS = {"heater": _("Cartridge"), "fan": _("Fan")}  # whose volts are compared
NOT_KNOWN = _("not known")
MOST_LISTED = 4  # things still to look up, by name; the rest are counted
LATER = _("Carriage, motor and toolhead board are judged over the whole job: put it on the board.")


def label(row: Row, catalogue: Catalogue) -> str:
    """What a row speaks of."""
    if row.margin is not None:
        return LABELS.get(row.key) or words.label(row.margin)
    if row.wrong is not None:
        return volts_of(row.wrong)
    return str(catalogue.slots[row.slot].label) if row.slot else _("Hotend")


def volts_of(one: Mismatch) -> str:
    """'Fan 12 V on 24 V'."""
    return _("{part} {rated} on {gets}").format(
        part=PARTS[one.part], rated=with_unit(one.rated_v, "V", 0), gets=with_unit(one.gets_v, "V", 0)
    )


def times(one: float) -> str:
    """'×4', '÷4'."""
    if abs(one - 1.0) < 0.06:
        return "×1"
    if one > 1.0:
        return f"×{plain(one, 0 if abs(one - round(one)) < 0.05 else 1)}"
    return f"÷{plain(1.0 / one, 0 if abs(1.0 / one - round(1.0 / one)) < 0.05 else 1)}"


def amount(row: Row) -> str:
    """The row's figure in a few words."""
    if row.margin is not None:
        return room(row.margin)
    if row.clash is not None:
        return str(row.clash.rule.brief)
    if row.wrong is not None:
        return _("{times} its watts").format(times=times(row.wrong.times))
    return _("does not fit") if row.refusal else _("not reached")


def room(margin: Margin) -> str:
    """Room to a limit; of a heat-up in seconds, of a flow in its unit."""
    if margin.key == HEAT_UP and margin.room is not None:
        seconds = with_unit(abs(margin.room), "s", 0)
        return (
            _("{seconds} to spare").format(seconds=seconds)
            if margin.room >= 0.0
            else _("{seconds} late").format(seconds=seconds)
        )
    return words.room(margin)


def sentence(row: Row, catalogue: Catalogue) -> str:
    """The row in full, with what helps where something is known to."""
    if row.clash is not None:
        return clash_words.sentence(row.clash)
    if row.refusal:
        return row.refusal
    if row.margin is not None:
        margin = row.margin
        template = _("{label}: {value}, limit {limit}, {room} {band}.") if words.band(margin) else _(
            "{label}: {value}, limit {limit}, {room}.")  # fmt: skip
        text = template.format(
            label=label(row, catalogue), value=value(margin), limit=limit(margin), room=room(margin),
            band=words.band(margin),
        )  # fmt: skip
        if not row.of_several:
            return text
        worst = _("Worst with {plastic}.").format(plastic=catalogue.filaments[row.plastic].label)
        return f"{text} {worst}"
    return _("{label}: {amount}.").format(label=label(row, catalogue), amount=amount(row))


def value(margin: Margin) -> str:
    """The value with its unit; seconds whole."""
    return with_unit(margin.value, "s", 0) if margin.key == HEAT_UP else words.value(margin)


def limit(margin: Margin) -> str:
    """The limit with its unit; seconds whole."""
    return with_unit(margin.limit, "s", 0) if margin.key == HEAT_UP else words.limit(margin)


def headline(row: Row, catalogue: Catalogue) -> str:
    """What falls short, as a headline."""
    margin = row.margin
    if margin is not None and margin.state.bad and row.key in HEADLINES:
        shown = words.room(margin).rpartition(" ")[0]
        return HEADLINES[row.key].format(room=shown, value=value(margin), wanted=limit(margin))
    if row.key == HEAT_UP or row.key == "heater":
        return _("The heater does not reach this temperature")
    if margin is not None and not margin.state.bad:
        return _("{label}: only {amount}").format(label=label(row, catalogue), amount=amount(row))
    return _("{label}: {amount}").format(label=label(row, catalogue), amount=amount(row))


def open_points(built: Built, catalogue: Catalogue) -> str:
    """What is still to be looked up before a build is sure; nothing where all is known."""
    asks = [
        _("{label} {amount}").format(label=begun(label(row, catalogue)), amount=amount(row))
        for row in built.rows
        if row.clash is not None and row.state is State.UNKNOWN and not row.clash.unknown
    ]
    return to_look_up([*asks, *(begun(one) for one in built.open)])


def to_look_up(names: Sequence[str]) -> str:
    """What nobody entered, the first by name; nothing where all is known."""
    if not names:
        return ""
    listed, more = ", ".join(begun(one) for one in names[:MOST_LISTED]), len(names) - MOST_LISTED
    if more > 0:
        return _("Still to look up: {names} and {count} more.").format(names=listed, count=more)
    return _("Still to look up: {names}.").format(names=listed)


def verdict(built: Built, catalogue: Catalogue) -> Verdict:
    """What comes of a build, in one sentence, and what is left to settle."""
    bad = [one for one in built.rows if one.state.bad]
    close = [one for one in built.rows if one.state is State.CLOSE]
    missing = len(built.open)
    if bad:
        return Verdict(headline(bad[0], catalogue), _rest(len(bad) - 1, len(close), missing), State.OVER)
    if built.seconds is None:
        return Verdict(_("No limit is exceeded so far"), _("Bands, heat-up and flow are being solved."), State.UNKNOWN)
    if left := open_points(built, catalogue):
        return Verdict(_("No known limit is exceeded"), left, State.UNKNOWN)
    if close:
        return Verdict(
            _("Every limit is met, {count} with little room").format(count=len(close)),
            sentence(close[0], catalogue),
            State.CLOSE,
        )
    return Verdict(_("This build meets every limit"), LATER, State.CLEAR)


def _rest(over: int, close: int, unknown: int) -> str:
    lines = []
    if over:
        lines.append(_("{count} more over a limit.").format(count=over))
    if close:
        lines.append(_("{count} with little room.").format(count=close))
    if unknown:
        lines.append(
            _("One thing is not entered.")
            if unknown == 1
            else _("{count} things are not entered.").format(count=unknown)
        )
    return " ".join(lines) or _("No other limit is exceeded.")


def sum_of(built: Built, currency: str) -> str:
    """'£31 of parts, 20 min, 312 g on the carriage.'"""
    cost = NOT_KNOWN if built.cost is None else f"{currency}{plain(built.cost, 0)}"
    grams = NOT_KNOWN if built.grams is None else with_unit(built.grams, "g", 0)
    return _("Parts {cost}, {minutes} min to fit, {grams} on the carriage.").format(
        cost=cost, minutes=plain(built.minutes, 0), grams=grams
    )


def offer(one: Candidate, currency: str) -> str:
    """What a part costs, or that it is there."""
    if one.fitted:
        return _("fitted")
    return NOT_KNOWN if one.cost is None else f"{currency}{plain(one.cost, 0)}"


def parts_of(
    built: Built,
    catalogue: Catalogue,
    currency: str,
    kept: Callable[[str, str], int | None] = lambda _shelf, _key: None,
) -> list[tuple[str, str, str, str]]:
    """What a build puts in, by slot, with its price and what the drawer has, below the heads of the columns; kept: how
    many, by shelf and key."""
    lines = [(_("slot"), _("part"), _("price"), _("in the drawer"))]
    for one in built.bought:
        slot = catalogue.slots[one.slot]
        count = kept(slot.shelf, one.key)
        lines.append((slot.label, one.label, offer(one, currency), NOT_KNOWN if count is None else str(count)))
    return lines


def named(built: Built, catalogue: Catalogue) -> str:
    """What a build puts in, in one breath."""
    return ", ".join(begun(one.label) for one in built.bought)


def found(searched: Search, catalogue: Catalogue, currency: str) -> str:
    """How a search for the cheapest build came out."""
    best = searched.best
    if best is None:
        if not searched.over and searched.early is not None:
            return _("This does, a cheaper one is looked for: {parts}. {price}. {count} builds solved.").format(
                parts=named(searched.early, catalogue), price=_priced(searched.early, currency), count=searched.solved
            )
        if not searched.over:
            return _("Looking: nothing cheaper than {price} does. {count} builds solved.").format(
                price=f"{currency}{plain(searched.bound, 0)}", count=searched.solved
            )
        if searched.proved:
            return _("No build with up to {most} new parts meets every limit. {count} were solved.").format(
                most=MOST_CHANGES, count=searched.solved)  # fmt: skip
        return _("None of {count} builds meets every limit; the search stopped there.").format(count=searched.solved)
    left, chance = open_points(best, catalogue), plain(100.0 * best.wanted.sure, 0)
    if not best.change:
        text = _("What is fitted meets every limit with a chance of {chance} % each: nothing has to be bought.")
        return f"{text.format(chance=chance)} {left}".rstrip()
    text = _("Cheapest that meets every limit with a chance of {chance} % each: {parts}. {price}.").format(
        chance=chance, parts=named(best, catalogue), price=_priced(best, currency)
    )
    if searched.second is not None:
        text += " " + _("Next: {parts}. {price}.").format(
            parts=named(searched.second, catalogue), price=_priced(searched.second, currency)
        )
    return f"{text} {left}".rstrip()


def _priced(built: Built, currency: str) -> str:
    """'Parts £6, 20 min to fit'."""
    cost = NOT_KNOWN if built.cost is None else f"{currency}{plain(built.cost, 0)}"
    return _("Parts {cost}, {minutes} min to fit").format(cost=cost, minutes=plain(built.minutes, 0))


def needed(searched: Search, catalogue: Catalogue) -> list[str]:
    """What fails without each part of the cheapest build: what its money buys."""
    return [
        _("Without the {slot}: {what}").format(slot=begun(catalogue.slots[slot].label), what=headline(row, catalogue))
        for slot, row in searched.needed.items()
    ]


def little_of(searched: Search, currency: str, most: int = 6) -> list[str]:
    """What is often bought and does not help here, with the number that says so."""
    base = searched.base
    worst = base.tightest if base is not None else None
    if worst is None:
        return []
    unit = difference_unit(STATIONS[worst.station].unit)
    return [
        _("{part}, {price}: {gain} for the {limit}").format(
            part=one.label, price=f"{currency}{plain(one.cost, 0)}", gain=signed(one.gain, unit),
            limit=begun(LABELS.get(worst.key) or words.label(worst)),
        )
        for one in little(searched)[:most]
    ]  # fmt: skip


def watts(picture: WattsPicture) -> str:
    """What the watts' picture says."""
    lines = [
        _("The heat-up takes {watts}.").format(watts=_watts(picture.for_time)),
        _("This nozzle does not melt the flow.") if picture.for_flow is None else
        _("The flow takes {watts}.").format(watts=_watts(picture.for_flow)),
        _("The rule of thumb says {watts}.").format(watts=with_unit(picture.rule, "W", 0)),
    ]  # fmt: skip
    return " ".join(lines)


def _watts(one: float | None) -> str:
    """Watts that surely do, rounded up; at an end of the picture so much is said."""
    if one is None or one > MOST_W:
        return _("more than {watts}").format(watts=with_unit(MOST_W, "W", 0))
    if one <= LEAST_W:
        return _("{watts} or less").format(watts=with_unit(LEAST_W, "W", 0))
    return with_unit(math.ceil(one), "W", 0)


def cold(side: ColdSide, air: float, catalogue: Catalogue) -> str:
    """What cools a build, and the air at which it stops working."""
    plastic = catalogue.filaments[side.plastic].label
    stops = _("{plastic} did not creep in any air tried.").format(plastic=plastic) if side.stops_at is None else _(
        "{plastic} creeps from {air} at the print.").format(
        plastic=plastic, air=give_or_take(side.stops_at, side.band, "°C"))  # fmt: skip
    if side.liquid:
        return stops
    flow, warm = give_or_take(side.flow, side.flow_band, "m³/h", 1), with_unit(air, "°C", 0)
    if side.wants is None:
        return f"{stops} " + _("The fins get {flow}; no flow is enough at {air}.").format(flow=flow, air=warm)
    wants = with_unit(side.wants, "m³/h", 1)
    if side.surely is None:
        return f"{stops} " + _("The fins get {flow}; {wants} would just do at {air}, and no flow is sure to.").format(
            flow=flow, wants=wants, air=warm)  # fmt: skip
    surely = with_unit(side.surely, "m³/h", 1)
    return f"{stops} " + _("The fins get {flow}; {wants} would just do at {air}, {surely} is sure to.").format(
        flow=flow, wants=wants, air=warm, surely=surely)  # fmt: skip


def others(wanted: BuildWish, catalogue: Catalogue) -> str:
    """Plastics that are solved at another temperature than is wanted; nothing where all are solved at it."""
    listed = ", ".join(
        _("{plastic} at {nozzle}").format(plastic=catalogue.filaments[one].label, nozzle=with_unit(nozzle, "°C", 0))
        for one, nozzle in wanted.at_others(catalogue).items()
    )
    return _("Each at its own usual temperature: {plastics}.").format(plastics=listed) if listed else ""


def wish(wanted: BuildWish, catalogue: Catalogue) -> str:
    """What a build is wanted for."""
    template = _(
        "{plastics} at {nozzle} and up to {flow}; hot within {seconds}, in {air} at the print, part fan {fan}."
    )
    return template.format(
        plastics=", ".join(catalogue.filaments[one].label for one in wanted.plastics),
        nozzle=with_unit(wanted.nozzle, "°C", 0), flow=with_unit(wanted.flow, "mm³/s", 1),
        seconds=with_unit(wanted.seconds, "s", 0), air=with_unit(wanted.air, "°C", 0),
        fan=with_unit(wanted.part_fan, "%", 0),
    )  # fmt: skip


def as_data(built: Built, catalogue: Catalogue) -> dict[str, Any]:
    """A build as plain data."""
    return {
        "change": built.change,
        "plastics": list(built.wanted.plastics),
        "nozzle_c": built.wanted.nozzle, "flow_mm3_s": built.wanted.flow, "air_c": built.wanted.air,
        "slots": {one.slot: {"part": one.label, "state": one.state.value, "chosen": one.chosen, "known": one.known}
                  for one in built.slots},
        "rows": [_row_as_data(one, catalogue) for one in built.rows],
        "not_entered": list(built.open),
        "cost": built.cost, "minutes": built.minutes, "grams": built.grams,
        "heat_up_s": built.seconds if built.seconds is not None and math.isfinite(built.seconds) else None,
        "melts_mm3_s": None if built.melts is None else built.melts * 1e9,
    }  # fmt: skip


def _row_as_data(row: Row, catalogue: Catalogue) -> dict[str, Any]:
    margin = row.margin
    data: dict[str, Any] = {"key": row.key, "slot": row.slot, "state": row.state.value, "plastic": row.plastic,
                            "text": sentence(row, catalogue)}  # fmt: skip
    if margin is not None:
        data |= {"value": margin.value, "limit": margin.limit, "room": margin.room, "holds": margin.holds}
        if margin.band is not None:
            data["band"] = {"down": margin.band.down, "up": margin.band.up}
    return data

"""The heating of an enclosure in words: filaments, heater, air, parts to help, lines for the controller."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from zeotherm.core.catalogue.shelves import Catalogue
from zeotherm.core.catalogue.stations import STATIONS
from zeotherm.core.parts.enclosure.judge.control_lines import ControlLine
from zeotherm.core.parts.enclosure.judge.fitting import FitCheck
from zeotherm.core.parts.enclosure.judge.leads import DOUBT_MM, OUTSIDE_MM, SLACK_MM, Lead
from zeotherm.core.parts.enclosure.judge.panels import Panel
from zeotherm.core.parts.enclosure.judge.protecting import LIFE_BASE_C, TOOLHEAD_DOUBT_K, Helped, Protected
from zeotherm.core.parts.enclosure.judge.sized import MOST_ONE_W, SizedEnclosure
from zeotherm.core.parts.enclosure.judge.sizing import Placed, Size
from zeotherm.core.parts.enclosure.judge.warmth import Warmth
from zeotherm.wording.bed import minutes
from zeotherm.wording.enclosure import WALLS, gone
from zeotherm.wording.language import _
from zeotherm.wording.numbers import give_or_take, plain, with_unit

WAYS = {"width": _("Across"), "depth": _("Front to back"), "height": _("Up"), "door": _("Door")}
PARTS = {
    "frame.width_mm": _("machine"), "frame.depth_mm": _("machine"), "frame.height_mm": _("machine"),
    "frame.sweep_mm": _("bed's sweep"), "frame.behind_mm": _("plugs behind"), "frame.loop_mm": _("cable loop"),
    "gap": _("air about it"), "case.width_mm": _("leaf"),
}  # fmt: skip
LINES = {
    "bed": _("bed on at once: it warms the case, too"), "set": _("case to {value} °C, printing goes on meanwhile"),
    "wait": _("wait until the case is there, about {time}"),
    "never": _("no waiting: with this heater the print's air comes to {value} °C at most"),
    "soak": _("no heater: soak for {time}, it comes to {value} °C"), "bed_wait": _("wait for the bed"),
    "cap": _("first heater's own cap {value} °C: set it at the heater, not here"),
    "second_cap": _("second heater's own cap {value} °C: set it at the heater, not here"),
    "bed_over": _("bed left off: its {what} stands {value} °C at most"),
    "held": _("no line for {value} °C, too hot for: {what}; move or cool that part first"),
    "off": _("at the end of the program: off; open when it is cool"),
}  # fmt: skip


def wants(one: Warmth) -> str:
    """How warm a filament wants it."""
    return _("wants {low} to {high} °C").format(low=plain(one.wants[0].value, 0), high=plain(one.wants[1].value, 0))


def creeps(one: Warmth) -> str:
    """Where its cold end creeps."""
    if one.creeps_from is None:
        return _("creeps in no air that was tried")
    return _("creeps from {limit} ±{band} °C").format(limit=plain(one.creeps_from, 0), band=plain(one.band, 0))


def filament(one: Warmth, catalogue: Catalogue) -> str:
    """A filament in one sentence."""
    label = catalogue.filaments[one.filament].label
    text = _("{label} at {nozzle} °C: {wants}, {creeps} on this machine").format(
        label=label, nozzle=plain(one.nozzle, 0), wants=wants(one), creeps=creeps(one)
    )
    if not one.possible:
        return text + _("; no air suits both: the cold end wants cooler air of its own.")
    if not one.holds:
        return text + _("; the case is too warm for it now.")
    if not one.warm_enough:
        return text + _("; the case is too cool for it now.")
    return text + "."


def fit(one: FitCheck) -> str:
    """How a machine fits in one way."""
    made = " + ".join(f"{PARTS[name]} {plain(mm, 0)}" for name, mm in one.parts)
    text = _("{way}: {made} = {needs} mm").format(way=WAYS[one.way], made=made, needs=plain(one.needs, 0))
    if one.spare is None:
        return text + _("; room before it not measured")
    if one.spare < 0.0:
        return text + _("; {lack} short").format(lack=give_or_take(-one.spare, one.band, "mm"))
    return text + _("; {spare} to spare").format(spare=give_or_take(one.spare, one.band, "mm"))


LEADS = {
    "heater": _("heater"), "second": _("second heater"), "sensor": _("its sensor"), "cutout": _("cut-out"),
    "fan": _("fan"), "bed": _("bed"), "motor": _("farthest motor"),
}  # fmt: skip


def leads(found: list[Lead]) -> str:
    """How long each lead has to be."""
    listed = ", ".join(f"{LEADS[one.key]} {plain(1e-3 * one.length)} m" for one in found)
    text = _(
        "Leads by the opening at the back, ±{doubt} m, {slack} mm of slack and {outside} mm outside in each: {list}."
    )
    return text.format(
        doubt=plain(1e-3 * DOUBT_MM, 2), slack=plain(SLACK_MM, 0), outside=plain(OUTSIDE_MM, 0), list=listed
    )


HOLES = {
    "screw": _("screw holes"), "vent": _("vent holes"), "leads": _("opening for leads"), "fan": _("fan opening"),
    "fan_screw": _("fan's screws"),
}  # fmt: skip


def panel(one: Panel) -> str:
    """A panel with its hole list."""
    text = _("{name} {width} x {height} mm").format(
        name=WALLS[one.name], width=plain(one.width, 0), height=plain(one.height, 0)
    )
    listed = [f"{one.count(kind)} {label}" for kind, label in HOLES.items() if one.count(kind)]
    if one.opening is not None:
        listed.append(_("window opening {width} x {height} mm").format(
            width=plain(one.opening[0], 0), height=plain(one.opening[1], 0)))  # fmt: skip
    return f"{text}: {', '.join(listed)}"


def unmeasured() -> str:
    """Where the machine's size is not known."""
    return _("The machine is not measured: type its width, depth, height, sweep and loop to check that it fits.")


def placed(one: Placed, catalogue: Catalogue, wanted: float) -> str:
    """A heater at a place."""
    label = catalogue.heater_places[one.place].label
    text = _("{label}: {low} at the print, {high} under the roof").format(
        label=label, low=give_or_take(one.low, one.band, "°C"), high=with_unit(one.high, "°C", 0)
    )
    if one.minutes is None:
        return text + _("; the print is never at {wanted}.").format(wanted=with_unit(wanted, "°C", 0))
    return text + _("; there after {time}.").format(time=give_or_take(one.minutes.value, one.minutes.band, "min"))


def count(watts: float, heaters: int) -> str:
    """How many heaters, and how large each."""
    each = plain(watts / heaters, 0)
    if heaters == 1:
        return _("One heater of {each} W or more.").format(each=each)
    return _(
        "{heaters} heaters of {each} W or more each, spread out, none larger than {most} W (data sheet range)."
    ).format(heaters=heaters, each=each, most=plain(MOST_ONE_W, 0))


def mixing(flow: Size | None, spread: float) -> str:
    """Air to turn over for a spread."""
    apart = with_unit(spread, "K", 0)
    if flow is None:
        return _("No mixing fan brings print and roof within {apart}: heat lower.").format(apart=apart)
    if flow.value <= 0.0:
        return _("Print and roof stay within {apart} without a mixing fan.").format(apart=apart)
    return _("A mixing fan of {flow} brings print and roof within {apart}.").format(
        flow=give_or_take(3600.0 * flow.value, 3600.0 * flow.band, "m³/h", 1 if flow.value < 2e-3 else 0), apart=apart
    )


def outlet(watts: Size) -> str:
    """What the outlet carries."""
    return _(
        "The outlet carries {watts} at most: {one} A at 230 V, {other} A at 120 V, all else on it besides."
    ).format(
        watts=give_or_take(watts.value, watts.band, "W"), one=plain(watts.value / 230.0),
        other=plain(watts.value / 120.0),
    )  # fmt: skip


def helped(one: Helped, currency: str) -> list[str]:
    """A part that does not stand it, and what would help, cheapest that suffices first."""
    room = one.margin.room or 0.0
    text = (
        _("{part} {value}, {room} over the limit:")
        if one.lacks
        else _("{part} {value}, {room} room: too near the limit for a heater's cut-out:")
    )
    part = STATIONS[one.station].label
    width = max(one.margin.band.down, one.margin.band.up) if one.margin.band is not None else 0.0
    lines = [text.format(part=part, value=with_unit(one.value, "°C", 0), room=give_or_take(abs(room), width, "K"))]
    for way in one.ways:
        reached = _("{room} room").format(room=give_or_take(way.room, way.band, "K")) if way.enough else _("not enough")
        text = _("{label}: {reached}, {cost}, {time} min").format(
            label=way.protection.label, reached=reached,
            cost=f"{currency}{plain(way.protection.cost, 0)}", time=plain(way.protection.minutes, 0),
        )  # fmt: skip
        lines.append("– " + text + (f". {way.protection.note}" if way.protection.note and way.enough else ""))
    if not one.ways:
        lines.append("– " + _("no usual way: less heat, or another part."))
    return lines


def parts(one: Protected, currency: str, count: float = 0.0, grams: float = 0.0) -> list[str]:
    """Everything inside at the temperature wanted."""
    lines = [line for part in one.parts for line in helped(part, currency)]
    if not one.parts:
        lines.append(_("Everything inside stands {wanted} at the print.").format(wanted=with_unit(one.wanted, "°C", 0)))
    if count > 0.0 and any(part.station.rpartition(".")[2] in ("case_printed", "case_motor") for part in one.parts):
        text = (
            _("To print anew: {count} parts, {grams} g in all.") if grams > 0.0 else _("To print anew: {count} parts.")
        )
        lines.append(text.format(count=plain(count, 0), grams=plain(grams, 0)))
    lines.append(
        _("Controller board: x{likely} of its life at {base} °C, {least} to {most} (halved every 10 K).").format(
            **{name: plain(life, 2) for name, life in zip(("least", "likely", "most"), one.life, strict=True)},
            base=plain(LIFE_BASE_C, 0),
        )
    )
    if one.toolhead_c is not None:
        lines.append(
            _("Toolhead board about {value} without a fan; {flow} m³/h over it keep it at 80 °C.").format(
                value=give_or_take(one.toolhead_c, TOOLHEAD_DOUBT_K, "°C"), flow=plain(one.toolhead_m3h)
            )
        )
    lines.append(_("Motors: above 60 °C they burn the hand, whatever their rating."))
    return lines


def prints_it(one: Warmth, catalogue: Catalogue, machine: str = "") -> str:
    """Whether a machine, as it stands, can print a plastic for these parts; else this one."""
    label, name = catalogue.filaments[one.filament].label, machine or _("This machine")
    if one.holds and one.warm_enough:
        return _("{name} can print {label} as it stands.").format(name=name, label=label)
    air = with_unit(one.air, "°C", 0)
    why = (
        _("its air, {air}, is too cool").format(air=air)
        if one.holds
        else _("its cold end creeps in its air, {air}").format(air=air)
    )
    text = _("{name} cannot print {label} well as it stands: {why}.").format(name=name, label=label, why=why)
    return text if machine else text + " " + _("Have it printed on another.")


def control_line(one: ControlLine) -> str:
    """A line for the controller, with its comment."""
    what = STATIONS[one.what].label.lower() if one.what in STATIONS else one.what
    time = minutes(one.value if one.why != "soak" else 0.0)
    comment = LINES[one.why].format(value=plain(one.value, 0), time=time, what=what)
    if one.why == "soak":
        comment = LINES["soak"].format(value=plain(one.value, 0), time=minutes(float(one.command.partition("S")[2])))
    return one.written(comment)


def sizes_as_data(found: SizedEnclosure, catalogue: Catalogue) -> dict[str, Any]:
    """Sizes of an enclosure as plain data."""
    heater, cut, parts = found.heater, found.cut, found.parts
    return {
        **_size("hold_w", heater.hold),
        **_size("fast_w", heater.fast),
        **_size("reached_c", heater.reached),
        "within_s": heater.within,
        "proposed_w": found.watts,
        "heaters": found.count,
        **_size("outlet_w", found.outlet),
        **_size("open_share", found.vents),
        **_size("mixing_m3h", found.mixing, 3600.0),
        "places": [
            {"place": one.place, "label": catalogue.heater_places[one.place].label, "print_c": one.low,
             "roof_c": one.high, "c_band": one.band, "w": one.power, **_size("minutes", one.minutes)}
            for one in found.places
        ],
        "cut_out": None
        if cut is None
        else {"low_c": cut.low, "high_c": cut.high, "high_c_band": cut.band,
              "weakest": cut.weakest, "possible": cut.possible, "blocked": cut.blocked},
        "parts": [
            {"part": one.station, "c": one.value, "over_k": -(one.margin.room or 0.0),
             "ways": [{"key": way.key, "label": way.protection.label, "room_k": way.room, "room_k_band": way.band,
                       "enough": way.enough, "cost": way.protection.cost,
                       "minutes": way.protection.minutes} for way in one.ways]}
            for one in parts.parts
        ],
        "board_life": dict(zip(("least", "likely", "most"), parts.life, strict=True)),
        "faults": [
            {"key": one.key, "low_c": one.low, "high_c": one.high, "part": one.station or None, "after_s": one.after,
             "text": gone(one)}
            for one in found.gone
        ],
        "fit": [
            {"way": one.way, "needs_mm": one.needs, "has_mm": one.has, "spare_mm": one.spare,
             "mm_band": one.band}
            for one in found.fits
        ],
        "lines": [control_line(one) for one in found.lines],
    }  # fmt: skip


def _size(name: str, one: Size | None, scale: float = 1.0) -> dict[str, float | None]:
    """A size and its 95 % half-width under their names."""
    if one is None:
        return {name: None, f"{name}_band": None}
    return {name: scale * one.value, f"{name}_band": scale * one.band}


def warmths_as_data(found: Sequence[Warmth], catalogue: Catalogue) -> list[dict[str, Any]]:
    """How warm each filament may be kept, as plain data."""
    return [
        {"filament": one.filament, "nozzle_c": one.nozzle, "wants_c": [one.wants[0].value, one.wants[1].value],
         "creeps_from_c": one.creeps_from, "band_k": one.band, "air_c": one.air, "holds": one.holds,
         "text": filament(one, catalogue)}
        for one in found
    ]  # fmt: skip

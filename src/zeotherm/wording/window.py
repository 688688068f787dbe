"""The window of temperature against flow, in words."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from zeotherm.core.catalogue.shelves import Catalogue
from zeotherm.core.choices.window import NEVER, PrintingWindow, Widening
from zeotherm.core.guard.heat import Cap
from zeotherm.core.judgement.margins import State
from zeotherm.wording.build import to_look_up
from zeotherm.wording.language import _, begun, begun_large
from zeotherm.wording.numbers import give_or_take, plain, with_unit
from zeotherm.wording.verdict import Verdict

SIDES = {
    "up": _("{room} below {part}"), "down": _("{room} above the coldest that prints"),
    "left": _("{room} above where it creeps"), "right": _("{room} below what the nozzle melts"),
}  # fmt: skip
OUTSIDE = {
    "up": _("{nozzle} is {room} too hot: {part}, {ceiling}"),
    "down": _("{nozzle} is {room} too cold for {flow}"),
    "left": _("The cold end creeps below {least}; the job goes down to {flow}"),
    "right": _("The nozzle melts {most} at {nozzle}; the job wants {flow}"),
}
STRIP = _("Room: up {up}, down {down}, {left} above where it creeps, {right} below what the nozzle melts.")
STRIP_NO_CREEP = _("Room: up {up}, down {down}, {right} below what the nozzle melts. It creeps at no flow.")
STRIP_ANY_FLOW = _("Room: up {up}, down {down}, {right} below what the nozzle melts. It creeps at any flow.")
ANY_FLOW = _("The cold end creeps at any flow in this air")


def unit(side: str) -> tuple[str, int]:
    """Unit of a side's room, and its decimals."""
    return ("K", 0) if side in ("up", "down") else ("mm³/s", 1)


def amount(side: str, room: float) -> str:
    """A room with its unit."""
    return with_unit(abs(room), *unit(side))


def banded(side: str, window: PrintingWindow) -> str:
    """The room on a side with its sign, and its 95 % half-width."""
    assert window.room is not None
    value = window.room.of(side)
    text = give_or_take(abs(value), window.doubt(side), *unit(side))
    return f"−{text}" if value < 0.0 else text


def part(cap: Cap) -> str:
    """The part that ends it, as it stands in a sentence."""
    return begun(cap.part)


def verdict(window: PrintingWindow, catalogue: Catalogue, unknown: Sequence[str] = ()) -> Verdict:
    """Whether the job fits its window, and by what; unknown: what it stands on that nobody entered."""
    room = window.room
    label = catalogue.filaments[window.plastic].label
    if room is None:
        return Verdict(_("The window is being solved"), "", State.UNKNOWN)
    flow = with_unit(window.flows[1], "mm³/s")
    nozzle = with_unit(window.nozzle, "°C", 0)
    side = room.tightest
    if window.empty:
        return Verdict(_("No temperature prints {label} at these flows").format(label=label), empty(window), State.OVER)
    if not room.fits:
        return Verdict(outside(window, side), middle(window), State.OVER)
    side = next(iter(window.close), side)
    where = SIDES[side].format(room=banded(side, window), part=part(window.ceiling))
    headline = _("{nozzle} at {flow} fits: {where}").format(nozzle=nozzle, flow=flow, where=where)
    if left := to_look_up(unknown):
        return Verdict(headline, " ".join((left, middle(window))).strip(), State.UNKNOWN)
    return Verdict(headline, middle(window), State.CLOSE if window.close else State.CLEAR)


def outside(window: PrintingWindow, side: str) -> str:
    """How the job lies outside on a side."""
    room = window.room
    assert room is not None
    if side == "left" and room.left <= -0.5 * NEVER:
        return ANY_FLOW
    return OUTSIDE[side].format(
        nozzle=with_unit(window.nozzle, "°C", 0), room=amount(side, room.of(side)), part=part(window.ceiling),
        ceiling=with_unit(window.ceiling.value, "°C", 0), least=with_unit(window.flows[0] - room.left, "mm³/s"),
        most=with_unit(window.flows[1] + room.right, "mm³/s"),
        flow=with_unit(window.flows[0] if side == "left" else window.flows[1], "mm³/s"),
    )  # fmt: skip


def empty(window: PrintingWindow) -> str:
    """What an empty window means."""
    inside = [one for one in window.edges if one.nozzle <= window.ceiling.value]
    if not any(one.most >= window.flows[1] for one in inside):
        most = max((one.most for one in inside), default=0.0)
        return _("The nozzle melts {most} at most below {ceiling}: less flow, or a longer melt zone.").format(
            most=with_unit(most, "mm³/s"), ceiling=with_unit(window.ceiling.value, "°C", 0))  # fmt: skip
    return _("Wherever it melts, the cold end creeps: cooler air at the fan, more fan, or a better heat break.")


def middle(window: PrintingWindow) -> str:
    """Where the middle of the window is, and what widens it most."""
    lines = []
    if window.middle is not None and not window.empty:
        lines.append(_("The middle of the window is {middle}.").format(middle=with_unit(window.middle, "°C", 0)))
    best = next((one for one in window.widenings if one.slot), None)
    if best is not None:
        lines.append(_("{label} gives {gain}.").format(label=begun_large(name(best)), gain=gain(best, window)))
    return " ".join(lines)


def name(one: Widening) -> str:
    """A change in a few words."""
    return one.label if one.slot else _("nozzle {nozzle}").format(nozzle=with_unit(float(one.label), "°C", 0))


def gain(one: Widening, window: PrintingWindow) -> str:
    """What it brings on the tightest side."""
    assert window.room is not None
    side = window.room.tightest
    if side == "left" and one.room.left > 0.5 * NEVER:
        return _("no creep")
    if side == "left" and window.room.left < -0.5 * NEVER:
        return _("from {least}").format(least=with_unit(window.flows[0] - one.room.left, "mm³/s"))
    return f"+{amount(side, one.gain)}"


def price(one: Widening, currency: str) -> str:
    """What it costs in money and minutes."""
    if not one.slot:
        return f"{currency}0"
    cost = _("price not known") if one.cost is None else f"{currency}{plain(one.cost, 0)}"
    return _("{cost}, {minutes} min").format(cost=cost, minutes=plain(one.minutes, 0))


def strip(window: PrintingWindow) -> str:
    """All four sides in one sentence."""
    room = window.room
    if room is None:
        return ""
    template = STRIP_ANY_FLOW if room.left < -0.5 * NEVER else STRIP_NO_CREEP if room.left > 0.5 * NEVER else STRIP
    return template.format(**{side: banded(side, window) for side in SIDES})


def as_data(window: PrintingWindow) -> dict[str, Any]:
    """A window as plain data."""
    room = window.room
    return {
        "plastic": window.plastic, "nozzle_c": window.nozzle, "flows_mm3_s": list(window.flows), "air_c": window.air,
        "ceilings": [{"part": one.part, "c": one.value, "source": one.source} for one in window.ceilings],
        "edges": [{"nozzle_c": one.nozzle, "most_mm3_s": one.most,
                   "least_mm3_s": one.least if one.least < NEVER else None} for one in window.edges],
        "room": None if room is None else {
            "up_k": room.up, "down_k": room.down, "left_mm3_s": room.left if abs(room.left) < 0.5 * NEVER else None,
            "right_mm3_s": room.right,
        },
        "room_95": None if room is None else {
            "down_k": window.doubt("down"), "left_mm3_s": window.doubt("left"), "right_mm3_s": window.doubt("right"),
        },
        "middle_c": window.middle, "empty": window.empty, "tightest": None if room is None else room.tightest,
        "widenings": [{"change": one.change, "label": name(one), "cost": one.cost, "minutes": one.minutes,
                       "gain": one.gain} for one in window.widenings],
    }  # fmt: skip

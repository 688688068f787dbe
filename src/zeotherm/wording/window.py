"""The window of temperature against flow, in words."""

from __future__ import annotations

from typing import Any

from zeotherm.core.catalogue.shelves import Catalogue
from zeotherm.core.choices.window import NEVER, PrintingWindow, SideRoom, Widening
from zeotherm.core.guard.heat import Cap
from zeotherm.core.judgement.margins import State
from zeotherm.wording.language import _, begun, begun_large
from zeotherm.wording.numbers import plain, with_unit
from zeotherm.wording.verdict import Verdict

NO_FLOW = 0.05  # mm³/s, below which nothing is looked for
CLOSE_K, CLOSE_FLOW = 5.0, 0.5  # of room, below which a side counts as close
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
ANY_FLOW = _("The cold end creeps at any flow in this air")


def amount(side: str, room: float) -> str:
    """A room with its unit."""
    return with_unit(abs(room), "K", 0) if side in ("up", "down") else with_unit(abs(room), "mm³/s", 1)


def part(cap: Cap) -> str:
    """The part that ends it, as it stands in a sentence."""
    return begun(cap.part)


def verdict(window: PrintingWindow, catalogue: Catalogue) -> Verdict:
    """Whether the job fits its window, and by what."""
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
    told = SIDES[side].format(room=amount(side, room.of(side)), part=part(window.ceiling))
    close = room.of(side) < (CLOSE_K if side in ("up", "down") else CLOSE_FLOW)
    headline = _("{nozzle} at {flow} fits: {told}").format(nozzle=nozzle, flow=flow, told=told)
    return Verdict(headline, middle(window), State.CLOSE if close else State.CLEAR)


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
    told = []
    if window.middle is not None and not window.empty:
        told.append(_("The middle of the window is {middle}.").format(middle=with_unit(window.middle, "°C", 0)))
    best = next((one for one in window.widenings if one.slot), None)
    if best is not None:
        told.append(_("{label} gives {gain}.").format(label=begun_large(name(best)), gain=gain(best, window)))
    return " ".join(told)


def name(one: Widening) -> str:
    """A change in a few words."""
    return one.label if one.slot else _("nozzle {nozzle}").format(nozzle=with_unit(float(one.label), "°C", 0))


def gain(one: Widening, window: PrintingWindow) -> str:
    """What it brings on the tightest side."""
    assert window.room is not None
    side = window.room.tightest
    if side == "left" and window.room.left <= -0.5 * NEVER:
        least = window.flows[0] - one.room.left
        return _("no creep") if least <= NO_FLOW else _("from {least}").format(least=with_unit(least, "mm³/s"))
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
    creeps = _("{left} to the creep").format(left=_signed("left", room))
    if room.left <= -0.5 * NEVER:
        creeps = _("it creeps at any flow")
    elif window.flows[0] - room.left <= NO_FLOW:
        creeps = _("no creep at any flow")
    return _("Up {up}, down {down}, {creeps}, {right} to what melts.").format(
        up=_signed("up", room), down=_signed("down", room), creeps=creeps, right=_signed("right", room)
    )


def _signed(side: str, room: SideRoom) -> str:
    value = room.of(side)
    return f"{'−' if value < 0 else ''}{amount(side, value)}"


def as_data(window: PrintingWindow) -> dict[str, Any]:
    """A window as plain data."""
    room = window.room
    return {
        "plastic": window.plastic, "nozzle_c": window.nozzle, "flows_mm3_s": list(window.flows), "air_c": window.air,
        "ceilings": [{"part": one.part, "c": one.value, "source": one.source} for one in window.ceilings],
        "edges": [{"nozzle_c": one.nozzle, "most_mm3_s": one.most,
                   "least_mm3_s": one.least if one.least < NEVER else None} for one in window.edges],
        "room": None if room is None else {
            "up_k": room.up, "down_k": room.down, "left_mm3_s": room.left if room.left > -0.5 * NEVER else None,
            "right_mm3_s": room.right,
        },
        "middle_c": window.middle, "empty": window.empty, "tightest": None if room is None else room.tightest,
        "widenings": [{"change": one.change, "label": name(one), "cost": one.cost, "minutes": one.minutes,
                       "gain": one.gain} for one in window.widenings],
    }  # fmt: skip

"""What the sizing page paints: a row a material, the curve of one, and what else is sized, in words."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from zeotherm.answers.bed_sizes import SizeFound
from zeotherm.core.judgement.margins import State
from zeotherm.core.parts.bed.judge.sizing import HOT_PAD, SPARE, SizedInsulation
from zeotherm.wording import bed_sizes as words
from zeotherm.wording.language import _
from zeotherm.wording.numbers import plain

Array = npt.NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class SizeRow:
    """One material."""

    key: str
    label: str
    size: str
    saves: str
    money: str
    pays: str
    state: State  # over: too hot for it; short: too thick; clear: may be fitted
    blocked: str  # why, with the number; nothing where it may
    spoken: str


@dataclass(frozen=True)
class CurveView:
    """Watts to hold over the thickness of one material."""

    label: str
    mm: Array
    watts: Array
    sizes: tuple[tuple[float, bool], ...]  # mm that is sold, and whether it may be fitted
    fits_mm: float  # the room below, less sag
    half_mm: float  # that saves half of what the thickest does
    best_mm: float | None
    warm_c: float
    limit_c: float
    marginal: str
    spoken: str


@dataclass(frozen=True)
class SizingView:
    """The whole page."""

    rows: tuple[SizeRow, ...]
    curve: CurveView | None
    chosen: str
    insulation: tuple[str, ...]  # cut list, fire, handling
    heater: tuple[str, ...]
    supply: tuple[str, ...]


def sizing_view(found: SizeFound) -> SizingView:
    """Everything that the page shows."""
    currency = found.job.currency
    rows = tuple(_row(one, found, currency) for one in found.rows)
    return SizingView(rows, _curve(found), found.wish.material, _insulation(found), _heater(found), _supply(found))


def _row(one: SizedInsulation, found: SizeFound, currency: str) -> SizeRow:
    label = found.catalogue.insulations[one.material].label
    told = words.sized(one, label, currency)
    state = State.OVER if one.too_hot else State.SHORT if one.too_thick else State.CLEAR
    mm = f"{plain(1e3 * one.thickness, 0)} mm"
    if not one.allowed:
        return SizeRow(one.material, label, mm, "", "", "", state, told.partition("blocked. ")[2] or told, told)
    saves = f"{plain(one.saved_watts, 0)} ±{plain(one.band, 0)} W"
    if one.saved_s is not None:
        saves += f", {plain(one.saved_s, 0)} s"
    money = f"{currency}{plain(one.saved_money, 2)} {_('a month')}"
    return SizeRow(one.material, label, mm, saves, money, words.pays(one.payback_months), state, "", told)


def _curve(found: SizeFound) -> CurveView | None:
    curve, shown = found.curve, found.shown
    if curve is None or shown is None:
        return None
    entry = found.catalogue.insulations[curve.material]
    fits = 1e3 * curve.fits
    cool = not shown.too_hot
    sizes = tuple((mm, cool and mm <= fits - 1e3 * SPARE) for mm in entry.sizes_mm)
    best = 1e3 * shown.thickness if shown.allowed else None
    at = 1e-3 * (best if best is not None else 5.0)
    marginal = _("one millimetre more saves {watts} W there").format(watts=plain(curve.marginal(at)))
    spoken = _("{label}: {bare} W bare, half of the good by {half} mm, room for {fits} mm").format(
        label=entry.label, bare=plain(float(curve.watts[0]), 0), half=plain(1e3 * curve.half), fits=plain(fits, 0)
    )
    return CurveView(
        entry.label, 1e3 * curve.thickness, curve.watts, sizes, fits, 1e3 * curve.half, best, shown.warm_side,
        shown.limit, marginal, spoken,
    )  # fmt: skip


def _insulation(found: SizeFound) -> tuple[str, ...]:
    shown, cut = found.shown, found.cut
    if shown is None or cut is None:
        return ()
    entry = found.catalogue.insulations[shown.material]
    text = _("Cut {width} x {depth} mm with {holes} holes: {sheets} sheet(s), {tape} m of polyimide tape, 50 mm wide, "
             "in doubled loops and over every edge; {cost}")  # fmt: skip
    lines = [
        text.format(
            width=plain(cut.outline.width, 0), depth=plain(cut.outline.depth, 0), holes=cut.holes, sheets=cut.sheets,
            tape=plain(cut.tape_m), cost=f"{found.job.currency}{plain(shown.cost, 2)}",
        ),
        _("Fire: {fire} A short flame test is no rating.").format(fire=entry.fire),
        _("Handling: {handling}").format(handling=entry.handling),
    ]  # fmt: skip
    return tuple(lines)


def _heater(found: SizeFound) -> tuple[str, ...]:
    if not found.done:
        return (_("Sizing the heater ..."),)
    wish = found.wish
    if found.heater_w is None:
        first = _("No pad that is made has this bed ready in {minutes} min.").format(minutes=plain(wish.minutes, 0))
    else:
        first = _("Ready in {minutes} min from {room} °C: {watts} ±{band} W when cold, {density} W/cm².").format(
            minutes=plain(wish.minutes, 0), room=plain(wish.coldest_c, 0), watts=plain(found.heater_w, 0),
            band=plain(found.heater_band_w, 0), density=plain(found.feeds[0].density, 2),
        )  # fmt: skip
    if found.feeds[0].density > HOT_PAD:
        first += " " + _("That is more than pads are made for: {most} W/cm².").format(most=plain(HOT_PAD))
    reach = _(
        "The heater that is fitted brings the sensor to {reached} ±{band} °C at most in a room of {room} °C."
    ).format(
        reached=plain(found.reachable_c or 0.0, 0), band=plain(found.reachable_band_k, 0), room=plain(wish.coldest_c, 0)
    )
    grows = _("The stack grows by {mm} mm as it warms: set the nozzle's height hot, and check it after any change.")
    return (first, reach, grows.format(mm=plain(found.grows_mm, 3)))


def _supply(found: SizeFound) -> tuple[str, ...]:
    if found.staged is None:
        return ()
    return (
        words.staged(found.staged),
        *(words.feed(one) for one in found.feeds),
        _(
            "Low voltage: no shock, but amps that heat every bad joint, heavy leads and supply. "
            "Mains: relieves the supply and warms fast, wants earth on the plate, leakage protection "
            "and a cut-off of its own, fitted by licensed persons under local codes."
        ),
    )

"""Sizes of changes of a bed, in words."""

from __future__ import annotations

import math
from typing import Any

import numpy as np

from zeotherm.core.parts.bed.judge.sizing import BedFeed, SizedInsulation, StagedPreheat
from zeotherm.core.parts.bed.judge.tuning import Tuned
from zeotherm.core.parts.bed.model.controlled import Controlled
from zeotherm.wording.bed import minutes
from zeotherm.wording.language import _
from zeotherm.wording.numbers import plain, with_unit


def sized(one: SizedInsulation, label: str, currency: str) -> str:
    """One insulation in words: what it saves, or why it may not be fitted."""
    if one.too_hot:
        return _("{label}: blocked. Its warm side comes to {warm}, it stands {limit} ±{doubt} K.").format(
            label=label, warm=with_unit(one.warm_side, "°C", 0), limit=with_unit(one.limit, "°C", 0),
            doubt=plain(one.doubt, 0),
        )  # fmt: skip
    if one.too_thick:
        return _("{label}: blocked. {mm} mm and its sag want {short} mm more room than there is.").format(
            label=label, mm=plain(1e3 * one.thickness, 0), short=plain(-1e3 * one.spare)
        )
    saved = _("no time") if one.saved_s is None else _("{seconds} s").format(seconds=plain(one.saved_s, 0))
    text = _("{label} {mm} mm saves {watts} ±{band} W, {seconds} of the warm-up, {kwh} ±{off} kWh a print; "
             "{money} a month, {pays}.")  # fmt: skip
    share = one.band / one.saved_watts if one.saved_watts > 0.0 else 0.0
    return text.format(
        label=label, mm=plain(1e3 * one.thickness, 0), watts=plain(one.saved_watts, 0), seconds=saved,
        band=plain(one.band, 0), off=plain(share * abs(one.saved_joules) / 3.6e6, 2),
        kwh=plain(one.saved_joules / 3.6e6, 2), money=f"{currency}{plain(one.saved_money, 2)}",
        pays=pays(one.payback_months),
    )  # fmt: skip


def controller(one: Tuned) -> str:
    """The values that a relay test on the model proposes, as a console takes them."""
    return _("Controller, by a relay test on the model: {line}").format(line=one.line)


def tuned(one: Tuned, course: Controlled) -> list[str]:
    """What a relay test on the model tells, the line to enter, and how the bed then holds."""
    low, high = course.swing
    ripple = max(high - course.target, course.target - low)
    return [
        _("About its set value the relay swings the bed by ±{swing} K every {period} s.").format(
            swing=plain(one.swing, 2), period=plain(one.period, 0)
        ),
        _("Proposed (gains in steps of 255 a kelvin): {line}, then M500 to keep it.").format(line=one.line),
        _("With these it passes its set value by {over} K at most and then holds within {ripple} K.").format(
            over=plain(course.over, 1), ripple=plain(ripple, 1)
        ),
        _("Values from a model: watch the first warm-up, leave every thermal protection on."),
    ]


def pays(months: float) -> str:
    """When a cost is paid back."""
    if math.isinf(months):
        return _("never pays for itself")
    if months < 1.0:
        return _("pays within a month")
    if months < 1.5:
        return _("pays after a month")
    return _("pays after {months} months").format(months=plain(months, 0))


def staged(one: StagedPreheat) -> str:
    """How a preheat fits the supply, and the time that costs."""
    if one.mains:
        head = _("The bed runs on mains and takes nothing from the supply.")
        rest = (
            _("Everything else draws {peak} W of the {supply} W it can give: no staging needed.")
            if one.together
            else _("Everything else draws {peak} W, more than the {supply} W it can give.")
        )
        return head + " " + rest.format(peak=plain(one.peak, 0), supply=plain(one.supply, 0))
    if one.together:
        text = _("Bed and hotend together draw {peak} W at most; the supply gives {supply} W: no staging needed.")
        return text.format(peak=plain(one.peak, 0), supply=plain(one.supply, 0))
    head = _("Together they would draw {peak} W; the supply gives {supply} W.").format(
        peak=plain(one.peak, 0), supply=plain(one.supply, 0)
    )
    if one.bed_first is None:
        return head + " " + _("Even the bed alone does not come up on what is left.")
    band = minutes(one.band) if one.band is not None else None
    first = (
        _("Bed first, hotend after: ready in {first} ±{band}") if band else
        _("Bed first, hotend after: ready in {first} at best; with a little more loss, never")
    )  # fmt: skip
    text = head + " " + first.format(first=minutes(one.bed_first), band=band)
    if one.throttled is None:
        return text + _("; with the hotend on there is not enough left for the bed.")
    more = one.throttled - one.bed_first
    return text + _("; both at once with the bed held to {watts} W: {throttled}, {more} longer.").format(
        watts=plain(one.throttled_to, 0), throttled=minutes(one.throttled), more=minutes(more)
    )


def feed(one: BedFeed) -> str:
    """One way to feed a bed."""
    if one.mains:
        return _("Mains pad, {volts} V: {amps} A, {outlet} W from the outlet, nothing from the printer's supply; "
                 "{density} W/cm².").format(
            volts=plain(one.volts, 0), amps=plain(one.amps), outlet=plain(one.from_outlet, 0),
            density=plain(one.density, 2),
        )  # fmt: skip
    return _("Low voltage, {volts} V: {amps} A, {outlet} W from the outlet, {supply} W of the printer's supply; "
             "{density} W/cm².").format(
        volts=plain(one.volts, 0), amps=plain(one.amps), outlet=plain(one.from_outlet, 0),
        supply=plain(one.supply_watts, 0), density=plain(one.density, 2),
    )  # fmt: skip


def sizes_as_data(rows: list[SizedInsulation]) -> list[dict[str, Any]]:
    """Insulations at one size each."""
    return [
        {
            "material": one.material,
            "thickness_mm": 1e3 * one.thickness,
            "allowed": one.allowed,
            "too_hot": one.too_hot,
            "too_thick": one.too_thick,
            "warm_side_c": one.warm_side,
            "limit_c": one.limit,
            "spare_mm": 1e3 * one.spare,
            "saved_w": one.saved_watts,
            "saved_w_band": one.band,
            "saved_s": one.saved_s,
            "saved_kwh_a_print": one.saved_joules / 3.6e6,
            "saved_a_month": one.saved_money,
            "cost": one.cost,
            "payback_months": one.payback_months if np.isfinite(one.payback_months) else None,
        }
        for one in rows
    ]

"""What a curve tells of a bed or a case, in words."""

from __future__ import annotations

from typing import Any

from zeotherm.core.judgement.estimate import Fit, Fitted
from zeotherm.wording.language import _
from zeotherm.wording.numbers import plain

BED = {"heater": (_("Heater"), "W", 0, 1.0), "mass": (_("Heat capacity, of computed"), "", 2, 1.0),
       "film": (_("Loss to the air, of computed"), "", 2, 1.0)}  # fmt: skip
CASE = {"film": (_("Loss by its air, of computed"), "", 2, 1.0), "gap": (_("Gaps that never shut"), "cm²", 0, 1e4),
        "content": (_("Heat held inside"), "kJ/K", 1, 1e-3)}  # fmt: skip
Words = dict[str, tuple[str, str, int, float]]  # label, unit, places, scale from SI


def fitted(one: Fitted, words: Words) -> str:
    """One unknown before and after a fit: 'Heater 286 ±23 W, by its curve 291 ±9 W'."""
    label, unit, places, scale = words[one.name]
    text = _("{label} {before} ±{wide}{unit}, by its curve {after} ±{band}{unit}")
    return text.format(
        label=label, before=plain(one.before * scale, places), wide=plain(one.band_before * scale, places),
        after=plain(one.after * scale, places), band=plain(one.band.up * scale, places),
        unit=f" {unit}" if unit else "",
    )  # fmt: skip


def misfit(fit: Fit[Any]) -> str:
    """How far the curve lies off, before and after."""
    return _("The curve lies {after} K off, {before} K before.").format(
        after=plain(fit.misfit), before=plain(fit.misfit_before)
    )

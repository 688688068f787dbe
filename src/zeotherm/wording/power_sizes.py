"""Sizes of a power path and its wiring, in words."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Any

from zeotherm.core.catalogue.knowledge import Fact
from zeotherm.core.catalogue.shelves import Catalogue
from zeotherm.core.machine.wiring import Wiring
from zeotherm.core.parts.power.judge.nets import BrokenRule, end_points
from zeotherm.core.parts.power.judge.readings import Survey
from zeotherm.core.parts.power.judge.sizing import (
    FuseSize,
    Output,
    PartSize,
    PowerSizes,
    StagedWarmUp,
    SupplySize,
    WireSize,
)
from zeotherm.core.physics.wiring import nearest_gauge
from zeotherm.wording.language import _, begun
from zeotherm.wording.numbers import give_or_take, plain, with_unit
from zeotherm.wording.power import WIRES

OUTPUTS = {"bed": _("bed"), "hotend": _("hotend"), "fans": _("fans")}


def survey(one: Survey) -> str:
    """Two surveys of one place."""
    text = _("{before} mK/A² before, {after} mK/A² after: {times} ±{doubt} times").format(
        before=plain(1e3 * one.before, 0), after=plain(1e3 * one.after, 0), times=plain(one.times, 2),
        doubt=plain(one.doubt, 2),
    )  # fmt: skip
    real = one.times + one.doubt < 1.0
    return text + (_("; cooler for sure.") if real else _("; too close to call."))


def supply(one: SupplySize) -> str:
    """Watts of a supply."""
    text = _("All at once {asked}. Rule of thumb {rule} W; in its air and at five years or its age {model}").format(
        asked=give_or_take(one.asked, one.asked_band, "W"), rule=plain(one.rule, 0),
        model=give_or_take(one.model, one.band, "W"),
    )  # fmt: skip
    if one.offered is None:
        return text + _(": none is sold that large; cool its air, or split the loads.")
    return text + _(": take {offered} W.").format(offered=plain(one.offered, 0))


def staged(one: StagedWarmUp) -> str:
    """A warm-up that the present supply suffices for."""
    text = _("Bed first, then hotend: {watts} W at most").format(watts=plain(one.one_by_one, 0))
    text += _(", which the supply gives") if one.fits else _(", still more than the supply gives")
    text += _("; it costs {minutes} min.").format(minutes=plain(one.minutes, 0))
    if one.throttled is None:
        return text + " " + _("Held back, the bed would not come to its set value.")
    if one.throttled >= 1.0:
        return text + " " + _("Both at once fit, too.")
    longer = plain(one.throttled_minutes, 0) if one.throttled_minutes is not None else "?"
    return (
        text
        + " "
        + _("Or the bed at {share} % of its watts: {minutes} min longer.").format(
            share=plain(100 * one.throttled, 0), minutes=longer
        )
    )


def size(mm2: float) -> str:
    """A cross-section, in both ways of saying it."""
    return _("{mm2} mm² ({gauge} AWG)").format(mm2=f"{mm2:g}", gauge=nearest_gauge(1e-6 * mm2))


def wire(one: WireSize) -> str:
    """A wire's size."""
    nothing = _("none that is sold")
    drop = size(one.by_drop) if one.by_drop is not None else nothing
    warm = size(one.by_warmth) if one.by_warmth is not None else nothing
    behind = _(" behind a fuse of {fuse}").format(fuse=amps(one.fuse)) if one.fuse else ""
    text = _("{wire}, {amps} over {metres}: {drop} by drop, {warm} by warmth in {air}{behind}, at least {least} mm²; "
             "rule of thumb {rule}; it has {has}.")  # fmt: skip
    return text.format(
        wire=WIRES[one.name], amps=with_unit(one.amps, "A"), metres=with_unit(one.metres, "m"), drop=drop, warm=warm,
        rule=size(one.rule), has=size(round(one.has, 2)), air=with_unit(one.air, "°C", 0), behind=behind,
        least=f"{one.least:g}",
    )  # fmt: skip


def amps(value: float) -> str:
    """A rating in amperes: 10 A, 7.5 A."""
    return with_unit(value, "A", 1 if value % 1 else 0)


def fuse(one: FuseSize) -> str:
    """A fuse between load and wire."""
    text = _("Fuse: the bed takes {load}, the wire carries {carries}").format(
        load=with_unit(one.load, "A"), carries=with_unit(one.carries, "A", 0)
    )
    if one.offered is None:
        return text + _("; no fuse fits between: a thicker wire first.")
    text += _("; take {offered}").format(offered=with_unit(one.offered, "A", 1 if one.offered % 1 else 0))
    has = _("none is noted") if one.has <= 0.0 else _("it has {has}").format(has=with_unit(one.has, "A", 0))
    return text + f" ({has})."


def part_size(one: PartSize, catalogue: Catalogue, shelf: str) -> str:
    """A contact or a switch, whether it fits."""
    entry = catalogue.shelf(shelf)[one.key]
    fits = _("fits") if one.fits else _("does not fit") if one.made else _("not made for it")
    if not math.isfinite(one.load):
        return _("{label}: not made for it.").format(label=entry.label)
    text = _("{label}: {load} % of its rating there, {watts} W, {warm}; {fits}").format(
        label=entry.label, load=plain(100 * one.load, 0), watts=plain(one.watts, 2),
        warm=give_or_take(one.warm, one.band, "°C"), fits=fits,
    )  # fmt: skip
    if one.sink is None:
        return text + "."
    if one.sink <= 0.0:
        return text + _("; its air is too warm for any heatsink.")
    return text + _(", on a heatsink of {sink} K/W at most besides.").format(sink=plain(one.sink, 1))


def enter_first(facts: Sequence[Fact]) -> str:
    """That nothing is to be bought by sizes for what nobody has entered, and how to find it out."""
    if not facts:
        return ""
    told = "; ".join(_("{fact}: {find}").format(fact=one.label, find=one.find) for one in facts)
    return _("These sizes are for an assumed bed: do not buy or wire by them yet. Enter first: {facts}.").format(
        facts=told
    )


def output(one: Output) -> str:
    """A load on the board."""
    text = _("{load} on the board: {amps} of {rated}, {share} %").format(
        load=begun(OUTPUTS[one.key]), amps=with_unit(one.amps, "A"), rated=with_unit(one.rated, "A"),
        share=plain(100 * one.load, 0),
    )  # fmt: skip
    return text + (_("; move it to a switch of its own.") if one.load > 0.8 else ".")


def fault(one: BrokenRule, catalogue: Catalogue, kind: str) -> str:
    """What is wrong with a way of wiring, where, and what would come of it."""
    entry, ends = catalogue.wiring_faults[one.key], end_points(catalogue, kind)
    where = ", ".join(ends.get(end, end) for end in one.ends)
    return f"{entry.label} ({where}). {entry.comes}"


def wiring(faults: list[BrokenRule], catalogue: Catalogue) -> str:
    """The verdict on a way of wiring."""
    if not faults:
        return _("Nothing is wrong with it. Wire it with the mains lead out, and check every end point again.")
    burns = sum(catalogue.wiring_faults[one.key].bad == "fire" for one in faults)
    if burns:
        return _("Blocked: {count} of {all} faults can burn or kill.").format(count=burns, all=len(faults))
    return _("Not yet: {all} to put right.").format(all=len(faults))


def sizes_as_data(found: PowerSizes, catalogue: Catalogue) -> dict[str, Any]:
    """Sizes of a power path as plain data."""
    supply, fuse = found.supply, found.fuse
    return {
        "supply": {"asked_w": supply.asked, "asked_w_band": supply.asked_band, "rule_w": supply.rule,
                   "model_w": supply.model, "model_w_band": supply.band, "offered_w": supply.offered},
        "staged": {"at_once_w": found.staged.at_once, "one_by_one_w": found.staged.one_by_one,
                   "fits": found.staged.fits, "minutes": found.staged.minutes, "bed_share": found.staged.throttled,
                   "bed_share_minutes": found.staged.throttled_minutes},
        "wires": [{"wire": one.name, "a": one.amps, "m": one.metres, "by_drop_mm2": one.by_drop,
                   "by_warmth_mm2": one.by_warmth, "rule_mm2": one.rule, "has_mm2": one.has} for one in found.wires],
        "fuse": {"load_a": fuse.load, "wire_carries_a": fuse.carries, "offered_a": fuse.offered, "has_a": fuse.has},
        "contacts": [{"kind": one.key, "load": one.load, "w": one.watts, "c": one.warm, "c_band": one.band,
                      "fits": one.fits, "text": part_size(one, catalogue, "contacts")} for one in found.contacts],
        "switches": [{"kind": one.key, "load": one.load, "w": one.watts, "c": one.warm, "c_band": one.band,
                      "fits": one.fits, "heatsink_k_w": one.sink,
                      "text": part_size(one, catalogue, "switches")} for one in found.switches],
        "outputs": [{"load": one.key, "a": one.amps, "rated_a": one.rated, "share": one.load}
                    for one in found.outputs],
    }  # fmt: skip


def wiring_as_data(wiring: Wiring, faults: list[BrokenRule], catalogue: Catalogue) -> dict[str, Any]:
    """A way of wiring and its faults as plain data."""
    return {
        "wiring": wiring.model_dump(),
        "faults": [{"fault": one.key, "ends": list(one.ends), "bad": catalogue.wiring_faults[one.key].bad,
                    "text": fault(one, catalogue, wiring.kind)} for one in faults],
        "may_be_wired": not faults,
    }  # fmt: skip

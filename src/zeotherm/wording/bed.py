"""A bed in words: what is wrong and why, its layers, its places, and the surprises that were computed."""

from __future__ import annotations

import math
from typing import Any

from zeotherm.core.judgement.findings import Strength
from zeotherm.core.judgement.margins import State
from zeotherm.core.machine.documents import Setup
from zeotherm.core.machine.quantity import Choice, declared
from zeotherm.core.parts.bed.judge.answer import BedAnswer
from zeotherm.core.parts.bed.judge.rivals import Rival
from zeotherm.core.parts.bed.model.controlled import Controlled
from zeotherm.core.parts.bed.model.readout import EVEN, Interface
from zeotherm.core.parts.bed.part import BedFound
from zeotherm.wording import margins as words
from zeotherm.wording.language import _, begun
from zeotherm.wording.numbers import plain, signed, with_unit
from zeotherm.wording.verdict import Verdict

LABEL, EMPTY = _("Bed"), _("No heated bed")
COMMAND = "Print how warm, even and quick a job's bed is, against every limit, and what would help."
NEEDS = "no heated bed in it. Set bed.part, bed.heater_w and bed.target_c."
ASKED = ("rivals",)
MINUTE = 60.0
LAYERS = {
    "heater": _("Heater"), "glue": _("Glue"), "plate": _("Plate"), "magnet glue": _("Magnet glue"),
    "magnet": _("Magnet sheet"), "gap": _("Air gap"), "steel": _("Steel sheet"), "face": _("Face film"),
    "face glue": _("Film glue"), "glass": _("Glass"), "insulation": _("Insulation"), "air": _("air"),
}  # fmt: skip
PLACES = {
    "left": _("left edge"), "right": _("right edge"), "front": _("front edge"), "back": _("back edge"),
    "front left": _("front left"), "front right": _("front right"), "back left": _("back left"),
    "back right": _("back right"), "centre": _("middle"),
}  # fmt: skip
UNEVEN = ("bed_corner", "bed_edge", "bed_centre_low", "bed_centre_high")
PASSED = {
    "bed_ready": _("The bed is ready {room} later than it is wanted"),
    "bed_watts": _("The heater lacks {room}: the bed never gets there"),
    "bed_heater": _("The bed heater is {room} too hot for what it is made of"),
    "bed_glue": _("The glue under the plate is {room} too hot"),
    "bed_magnet": _("The magnet sheet is {room} too hot"),
    "bed_magnet_glue": _("The magnet's glue is {room} too hot"),
    "bed_face": _("The face film is {room} too hot"),
    "bed_face_glue": _("The film's glue is {room} too hot"),
    "bed_insulation": _("The insulation is {room} hotter than it stands"),
    "bed_clearance": _("The insulation is {room} too thick for the room below"),
}
RIVALS = {
    "drop_middle": _("Insulating the middle alone: corner drop {before} to {after} K, {way}"),
    "drop_border": _("Then the border as well: corner drop {before} to {after} K, {way}"),
    "drop_whole": _("The whole underside at once: corner drop {before} to {after} K, {way}"),
    "peak": _("Peak power {before} to {after} W: insulation leaves it as it was"),
    "hold": _("Power to hold {before} to {after} W: that is what insulation saves"),
    "case": _("A shut case with the bed alone: {before} to {after} K above the room; less heat leaves the bed"),
}


def layer(name: str) -> str:
    """A layer by its name."""
    return LAYERS.get(name, name)


def nothing() -> Verdict:
    """Where there is none, or it is off."""
    return Verdict(_("No heated bed here"), _("Choose the kind of bed, or set its temperature."), State.UNKNOWN)


def verdict(answer: BedAnswer) -> Verdict:
    """What is wrong with the bed, in one sentence, and why."""
    told = answer.worst
    known = sorted((m for m in answer.margins if m.room is not None), key=lambda m: not m.state.bad)
    told = known[0] if known else told
    missing = answer.course is not None and answer.course.ready is None
    if missing and not answer.solved.holds:
        reached = answer.readout.values["bed_sensor"]
        return Verdict(
            _("This bed never reaches {target}").format(target=with_unit(answer.resolved.inputs.target, "°C", 0)),
            _("Flat out at {watts} its sensor comes to {reached}; give it watts, or lose fewer.").format(
                watts=with_unit(answer.solved.power, "W", 0), reached=with_unit(reached, "°C")
            ),
            State.SHORT,
        )
    if told.state.bad and told.key in UNEVEN:
        share = answer.readout.share
        headline = _("Only {share} % of the face is within {even} K of {aim} °C").format(
            share=round(100 * share), even=plain(EVEN, 0), aim=plain(answer.resolved.inputs.aim, 0)
        )
    elif told.state.bad:
        headline = PASSED[told.key].format(room=words.room(told).rsplit(" ", 1)[0])
    elif told.state is State.CLOSE:
        headline = _("Close: {label} has {room}").format(label=begun(words.label(told)), room=words.room(told))
    else:
        headline = _("The bed is warm and even enough; thinnest is {label}").format(label=begun(words.label(told)))
    return Verdict(headline, _reason(answer), told.state, _reason(answer, brief=True))


def _reason(answer: BedAnswer, *, brief: bool = False) -> str:
    watts, values = answer.readout.watts, answer.readout.values
    border = answer.resolved.inputs.shape.heater.border_mm
    under = _("through the insulation") if answer.resolved.inputs.insulated else _("through the bare underside")
    down = _("{watts} W leave {under}").format(watts=plain(watts.down, 0), under=under)
    drop = _("the {corner} corner is {drop} K below the middle").format(
        corner=PLACES[answer.readout.corner], drop=plain(values["bed_centre"] - values["bed_corner"])
    )
    if brief:
        return f"{down}; {drop}."
    rim = _("the outer {border} mm has no heater").format(border=plain(border, 0))
    return f"{down}, {rim}: {drop}."


def elsewhere(answer: BedAnswer | None) -> str:
    """What another picture of the same job should know of the bed; nothing where all holds."""
    if answer is None:
        return ""
    bad = [f"{begun(words.label(one))} {words.room(one)}" for one in answer.margins if one.state.bad]
    return _("Elsewhere: {what} (bed)").format(what=", ".join(bad[:2])) if bad else ""


def interface(one: Interface) -> str:
    """The top of a layer, by its name; the print face above all, the underside below."""
    if one.above == "air":
        return _("Print face")
    return _("Underside") if one.below == "air" else layer(one.below)


def sheet(answer: BedAnswer) -> str:
    """How the job's filament holds on the sheet that lies there, and what that face bears."""
    catalogue, bed = answer.catalogue, answer.setup.bed
    lies, name = catalogue.sheets[bed.sheet], answer.setup.printing.filament
    spool = catalogue.filaments[name].label
    held = lies.holds.get(name) or lies.holds.get(catalogue.filaments[name].like)
    text = _("{spool} on {sheet}: {held}.") if held else _("{spool} on {sheet}: no word on how it holds.")
    return text.format(spool=spool, sheet=begun(lies.label), held=held) + f" {lies.cleaning}"


def balance(answer: BedAnswer) -> str:
    """What the heater gives, of what it could."""
    watts = answer.readout.watts
    return _("In {power} W of {most} W it could").format(
        power=plain(watts.heater, 0), most=plain(answer.solved.available, 0)
    )


def sensor_offset(answer: BedAnswer) -> str:
    """How far the sensor stands from the print face."""
    by = answer.readout.values["bed_sensor"] - answer.readout.values["bed_centre"]
    return _("Sensor {sensor}: {by} above the middle of the face").format(
        sensor=with_unit(answer.readout.values["bed_sensor"], "°C"), by=signed(by, "K")
    )


def outlook(answer: BedAnswer) -> str:
    """The course in one sentence."""
    course, inputs = answer.course, answer.resolved.inputs
    if course is None:
        return _("The bed's course is being run ...")
    if course.sensor_warm is None:
        return _("Full on for two hours, the sensor does not come to {target}.").format(
            target=with_unit(inputs.target, "°C", 0)
        )
    text = _("The sensor is satisfied after {sensor}").format(sensor=minutes(course.sensor_warm))
    if course.ready is not None:
        text += _(", the face is ready after {ready}, wanted within {wanted}").format(
            ready=minutes(course.ready), wanted=minutes(inputs.wanted)
        )
    if course.release is not None:
        text += _("; prints let go {release} after switching off").format(release=minutes(course.release))
    return text + "."


def minutes(seconds: float) -> str:
    """A span in minutes and seconds: '9 min 30 s', '20 s'; from an hour on in minutes; one without an end: 'never'."""
    if not math.isfinite(seconds):
        return _("never")
    whole = round(seconds)
    if 0 < whole < 60:
        return f"{whole} s"
    return f"{whole // 60} min {whole % 60:02d} s" if abs(whole) < 3600 else f"{round(whole / 60)} min"


def enough(answer: BedAnswer) -> str:
    """Which levers are enough on their own, smallest change first."""
    sets = [_lever(one, answer) for one in answer.strengths if one.enough is not None]
    if not answer.worst.state.bad:
        return ""
    if not sets:
        return _("No single step is enough")
    return _("Enough on its own: {what}").format(what=_(" or ").join(sets[:3]))


def _lever(one: Strength, answer: BedAnswer) -> str:
    item = declared(Setup)[one.path]
    if isinstance(item, Choice):
        entry = answer.catalogue.shelf(item.shelf)[str(one.enough)]
        return f"{begun(item.label)} {begun(entry.label)}"
    return f"{begun(item.label)} {with_unit(float(one.enough or 0.0), item.unit)}"


def rival(one: Rival) -> str:
    """A comparison in words."""
    way = _("more even") if one.change < -0.2 else _("less even") if one.change > 0.2 else _("the same")
    places = 0 if one.unit == "W" else 1
    return RIVALS[one.key].format(before=plain(one.before, places), after=plain(one.after, places), way=way)


def controlled(course: Controlled) -> str:
    """How a bed goes under its controller, in one sentence."""
    if course.reached is None:
        return _("Under its control the sensor does not come near {target}.").format(
            target=with_unit(course.target, "°C", 0)
        )
    low, high = course.swing
    if course.controller.law == "proportional":
        return _("Held in proportion the sensor stays at {low}, {miss} K below the set value.").format(
            low=with_unit(low, "°C"), miss=plain(course.target - low)
        )
    text = _("Under its control the bed passes the set value by {over} K").format(over=plain(course.over))
    if course.period is not None:
        return text + _(
            ", is switched every {period} s, the sensor swings {low} to {high} °C, the face ±{face} K."
        ).format(period=plain(course.period, 0), low=plain(low), high=plain(high), face=plain(course.face_swing, 2))
    miss = max(abs(high - course.target), abs(low - course.target))
    return text + _(" and then holds within {miss} K.").format(miss=plain(miss, 1))


def head(found: BedFound) -> list[str]:
    """What the command line tells before the limits."""
    answer = found.answer
    assert answer is not None
    lines = [outlook(answer), f"{balance(answer)}. {sensor_offset(answer)}."]
    return lines + [f"  {interface(one):16} {one.temperature:6.1f} °C" for one in answer.readout.interfaces]


def tail(found: BedFound) -> list[str]:
    """And after them."""
    answer = found.answer
    assert answer is not None
    ruled = [controlled(answer.controlled)] if answer.controlled is not None else []
    return [enough(answer), *ruled, *(rival(one) for one in found.rivals)]


def as_data(found: BedFound) -> dict[str, Any]:
    """What a bed has beyond what every part has; numbers carry their unit in their name or a field beside them."""
    answer = found.answer
    assert answer is not None
    course, watts = answer.course, answer.readout.watts
    return {
        "coldest": {"edge": answer.readout.edge, "corner": answer.readout.corner},
        "share_within_2_k": answer.readout.share,
        "watts": {name: getattr(watts, name) for name in watts.__slots__},
        "available_w": answer.solved.available,
        "interfaces": [
            {"label": interface(one), "below": one.below, "above": one.above, "temperature_c": one.temperature}
            for one in answer.readout.interfaces
        ],
        "strengths": [
            {"path": one.path, "to": one.to, "gain": one.gain, "enough": one.enough} for one in answer.strengths
        ],
        "course": None
        if course is None
        else {
            "text": outlook(answer),
            "sensor_warm_s": course.sensor_warm,
            "ready_s": course.ready,
            "release_s": course.release,
            "peak_w": course.peak,
            "energy_kwh": course.joules / 3.6e6,
            "energy_closure": answer.run.closure if answer.run is not None else None,
        },
        "controlled": None if answer.controlled is None else _controlled_as_data(answer.controlled),
        "compared": [
            {"key": one.key, "before": one.before, "after": one.after, "text": rival(one)} for one in found.rivals
        ],
    }


def _controlled_as_data(course: Controlled) -> dict[str, Any]:
    low, high = course.swing
    return {
        "law": course.controller.law,
        "text": controlled(course),
        "reached_s": course.reached,
        "over_k": course.over,
        "lowest_c": low,
        "highest_c": high,
        "face_swing_k": course.face_swing,
        "period_s": course.period,
    }

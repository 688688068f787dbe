"""Settings in words, as lines for a controller, and two profiles side by side."""

from __future__ import annotations

import math
from dataclasses import dataclass

from zeotherm.core.choices.settings import Settings
from zeotherm.core.machine.hotend import Printing
from zeotherm.wording.language import _
from zeotherm.wording.numbers import plain, with_unit


@dataclass(frozen=True, slots=True)
class SettingLine:
    """One setting: its name, what it is, and its lines for a controller."""

    key: str
    label: str
    text: str
    lines: tuple[str, ...]


def lines_of(one: Settings) -> tuple[SettingLine, ...]:
    """Every setting, with lines that have a comment each."""
    area = 0.25 * math.pi * one.strand_mm**2
    ramp = ", ".join(plain(100.0 * share, 0) for share in one.fan)
    prime_mm_min = 60.0 * one.prime_flow / area
    fan = _("{ramp} % on layers 1 to {count}").format(ramp=ramp, count=len(one.fan)) if len(one.fan) > 1 else _(
        "off")  # fmt: skip
    if one.fan[-1] < one.fan_wanted - 0.01:
        fan = _("{fan}; more is not held by the heater").format(fan=fan)
    unload = with_unit(one.unload, "°C", 0) if one.unload_offered else _("no temperature does it here")
    return (
        SettingLine("first", _("First two layers"), _("{first} °C, then {then}").format(
            first=plain(one.first, 0), then=plain(one.then, 0)) if one.first != one.then else
            with_unit(one.then, "°C", 0),
            (f"M104 S{one.first:.0f} ; {_('nozzle for the first two layers')}",
             f"M104 S{one.then:.0f} ; {_('nozzle from layer 3 on')}")),
        SettingLine("retraction", _("Retraction"), _("{mm} mm at most, {speed} mm/s").format(
            mm=plain(one.retraction, 1), speed=plain(one.speed, 0)),
            (f"G1 E-{one.retraction:.1f} F{60.0 * one.speed:.0f} ; {_('retraction, no longer than this')}",)),
        SettingLine("flow", _("Flow, at most"), with_unit(one.flow, "mm³/s"),
            (f"; {_('flow, at most: {flow}').format(flow=with_unit(one.flow, 'mm³/s'))}",)),
        SettingLine("part_fan", _("Part fan"), fan, tuple(
            f"M106 S{255.0 * share:.0f} ; {_('part fan on layer {layer}').format(layer=layer)}"
            for layer, share in enumerate(one.fan, 1))),
        SettingLine("fan", _("Heatsink fan"), _("full from {on} °C up, off below {off}").format(
            on=plain(one.fan_on, 0), off=plain(one.fan_off, 0)),
            (f"; {_('heatsink fan: full from {on} °C up').format(on=plain(one.fan_on, 0))}",)),
        SettingLine("end", _("End of print"), _("draw back {mm} mm at once").format(mm=plain(one.draw_back, 1))
            if one.draw_back > 0.0 else _("leave the filament in place"),
            (f"G1 E-{one.draw_back:.1f} F2400 ; {_('end of print: back a little before the heater goes off')}",)
            if one.draw_back > 0.0 else ()),
        SettingLine("start", _("Next start"), _("prime {mm} mm at {flow}").format(
            mm=plain(one.prime, 0), flow=with_unit(one.prime_flow, "mm³/s", 0)),
            (f"G1 E{one.prime:.0f} F{prime_mm_min:.0f} ; {_('next start: back into the nozzle, and prime')}",)),
        SettingLine("unload", _("To unload"), unload,
            (f"M109 S{one.unload:.0f} ; {_('to unload: wait until it is reached')}",) if one.unload_offered else ()),
        SettingLine("purge", _("After another plastic"), _("purge {mm} mm").format(mm=plain(one.purge, 0)),
            (f"G1 E{one.purge:.0f} F{prime_mm_min:.0f} ; {_('purge until its colour is gone')}",)),
    )  # fmt: skip


HEAD = (
    _("Not a program: put each line where its comment says."),
    _("Filament lengths are relative: M83 has to be in force there, and M82 again after it where a file counts so."),
)


def as_text(one: Settings) -> str:
    """All lines, to copy; what they are not comes first."""
    return "\n".join((*(f"; {line}" for line in HEAD), *(line for each in lines_of(one) for line in each.lines)))


def compared(was: Printing, one: Settings) -> list[tuple[str, str, str]]:
    """Name, as the job is set, as proposed; line by line."""
    unknown = _("not stated")
    before = {
        "first": _("{first} °C, then {then}").format(first=plain(was.nozzle_c, 0), then=plain(was.nozzle_c, 0)),
        "retraction": with_unit(was.retraction_mm, "mm"), "flow": with_unit(was.flow_mm3_s, "mm³/s"),
        "part_fan": with_unit(was.part_fan_pct, "%"),
    }  # fmt: skip
    return [(line.label, before.get(line.key, unknown), line.text) for line in lines_of(one)]

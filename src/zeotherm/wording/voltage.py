"""Parts that get other volts than they are made for, in words: before anything else is said."""

from __future__ import annotations

from zeotherm.core.parts.power.judge.voltage import Mismatch
from zeotherm.wording.language import _
from zeotherm.wording.numbers import plain, with_unit

PARTS = {
    "heater": _("The heater cartridge"), "fan": _("The sink fan"), "bed": _("The bed's heater"),
    "supply": _("The supply"),
}  # fmt: skip


def head(one: Mismatch) -> str:
    """A wrong voltage, loudly."""
    return _("Wrong voltage: {part} is for {rated}, it gets {gets}").format(
        part=PARTS[one.part].lower(), rated=with_unit(one.rated_v, "V", 0), gets=with_unit(one.gets_v, "V", 0)
    )


def comes(one: Mismatch) -> str:
    """What a wrong voltage would do."""
    times = _("{times} times its watts").format(times=plain(one.times, 2 if one.times < 1 else 1))
    if one.part == "fan":
        return _("{part} turns too fast and burns out: fit one of the right voltage.").format(part=PARTS[one.part])
    if one.part == "supply":
        if one.burns:
            return _("{part} bursts at switching on: plug out, and set its selector.").format(part=PARTS[one.part])
        return _("{part} does not start: plug out, and set its selector.").format(part=PARTS[one.part])
    if one.rated_w > 0.0:
        times += f", {plain(one.times * one.rated_w, 0)} W"
    if one.burns:
        return _("{part} would make {times}: it burns out, and what it is in burns. Do not switch on.").format(
            part=PARTS[one.part], times=times
        )
    return _("{part} makes only {times}: it never gets warm.").format(part=PARTS[one.part], times=times)

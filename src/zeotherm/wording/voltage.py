"""Parts that get other volts than they are made for, in words: before anything else is said."""

from __future__ import annotations

from zeotherm.core.parts.power.judge.voltage import Mismatch
from zeotherm.wording.language import _, begun
from zeotherm.wording.numbers import plain, with_unit

PARTS = {
    "heater": _("The heater cartridge"), "fan": _("The sink fan"), "bed": _("The bed's heater"),
    "supply": _("The supply"),
}  # fmt: skip


OF_FURTHER = {
    "heater": _("{number}'s heater cartridge"), "fan": _("{number}'s heatsink fan"), "supply": _("Supply {number}"),
}  # fmt: skip


def name_of(one: Mismatch) -> str:
    """The part, as a sentence begins with it."""
    return OF_FURTHER[one.part].format(number=one.of) if one.of else PARTS[one.part]


def head(one: Mismatch) -> str:
    """A wrong voltage, loudly."""
    return _("Wrong voltage: {part} is for {rated}, it gets {gets}").format(
        part=begun(name_of(one)), rated=with_unit(one.rated_v, "V", 0), gets=with_unit(one.gets_v, "V", 0)
    )


def brief(one: Mismatch) -> str:
    """What a wrong voltage does to a heater, in two words."""
    if one.burns:
        return _("burns out")
    return _("gets hotter than rated") if one.times > 1.0 else _("never gets warm")


def comes(one: Mismatch) -> str:
    """What a wrong voltage would do."""
    times = _("{times} times its watts").format(times=plain(one.times, 2 if one.times < 1 else 1))
    if one.part == "fan":
        return _("{part} turns too fast and burns out: fit one of the right voltage.").format(part=name_of(one))
    if one.part == "supply":
        if one.burns:
            return _("{part} bursts at switching on: plug out, and set its selector.").format(part=name_of(one))
        return _("{part} does not start: plug out, and set its selector.").format(part=name_of(one))
    if one.rated_w > 0.0:
        times += f", {plain(one.times * one.rated_w, 0)} W"
    if one.burns:
        return _("{part} would make {times}: it burns out, and what it is in burns. Do not switch on.").format(
            part=name_of(one), times=times
        )
    return _("{part} makes only {times}: it never gets warm.").format(part=name_of(one), times=times)

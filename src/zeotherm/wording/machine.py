"""The whole machine in words: what enters and what leaves it, what is stated of each part."""

from __future__ import annotations

from collections.abc import Sequence

from zeotherm.core.catalogue.shelves import Catalogue
from zeotherm.core.machine.documents import Setup, declaration
from zeotherm.core.machine.known import How
from zeotherm.core.machine.patches import value_at
from zeotherm.core.machine.quantity import Choice
from zeotherm.core.parts.whole.watts import MachineWatts
from zeotherm.wording.language import _, begun
from zeotherm.wording.numbers import plain, with_unit

TITLE = _("Machine")
IN = {
    "bed": _("bed"), "hotend": _("hotend"), "standby": _("other hotends"), "case": _("enclosure heater"),
    "motor": _("extruder motor"), "carriage_board": _("toolhead board"), "electronics": _("supply and board"),
    "sun": _("sun"),
}  # fmt: skip
OUT = {
    "walls": _("walls"), "openings": _("vents and gaps"), "fan": _("heatsink fan's air"),
    "coolant": _("coolant"),
}  # fmt: skip
HOW_MANY = {
    "assumed": _("{count} assumed"), "entered": _("{count} entered"), "measured": _("{count} measured"),
    "fitted": _("{count} fitted"),
}  # fmt: skip
NO_WATTS = _("The hotend's air is a stated value here, so the watts between the parts are not computed.")
LEAST = 0.5  # W that are worth a word
STEADY = 0.05  # of what enters, below which nothing is said of what warms up


def value_text(setup: Setup, path: str, catalogue: Catalogue, *, brief: bool = False) -> str:
    """A value of a setup by its path: a part by its name, a number with its unit; brief: a whole one without ".0"."""
    item, value = declaration(path), value_at(setup, path)
    if isinstance(item, Choice):
        return str(catalogue.shelf(item.shelf)[str(value)].label)
    places = 0 if brief and float(value) % 1 == 0 else None
    return with_unit(float(value), item.unit, places)


def balance(watts: MachineWatts, *, closed: bool) -> str:
    """'In 122 W: bed 78, hotend 19. Out: walls 60, vents and gaps 40; 22 W warm the machine.' closed: whether anything
    encloses it; what stands open gives it all to the room."""
    given = [_listed(watts.enters[name], words) for name, words in IN.items() if watts.enters[name] >= LEAST]
    text = _("In {watts} W").format(watts=plain(watts.given, 0))
    text = _("{text}: {parts}.").format(text=text, parts=", ".join(given)) if given else f"{text}."
    if closed:
        lost = [_listed(watts.leaves[name], words) for name, words in OUT.items() if abs(watts.leaves[name]) >= LEAST]
        if lost:
            text += " " + _("Out: {parts}.").format(parts=", ".join(lost))
    if watts.warms > max(STEADY * watts.given, LEAST):
        text += " " + _("{watts} W still go into warming up.").format(watts=plain(watts.warms, 0))
    elif watts.warms < -max(STEADY * watts.given, LEAST):
        text += " " + _("Cooling down, {watts} W.").format(watts=plain(-watts.warms, 0))
    return text


def lacking(waits: Sequence[str], fails: Sequence[str], not_entered: Sequence[str]) -> str:
    """Which parts of a machine have no answer, and why, by their names; nothing where all have one."""
    cases = (
        (_("Not answered yet: {parts}."), waits),
        (_("No answer: {parts}."), fails),
        (_("Not entered: {parts}."), not_entered),
    )
    return " ".join(text.format(parts=", ".join(map(begun, parts))) for text, parts in cases if parts)


def _listed(watts: float, words: str) -> str:
    return _("{part} {watts}").format(part=words, watts=plain(watts, 0))


def counted(counts: dict[How, int]) -> str:
    """'24 facts: 9 assumed, 8 entered, 5 measured, 2 fitted'."""
    total = sum(counts.values())
    parts = [HOW_MANY[how].format(count=count) for how, count in counts.items() if count]
    head = _("1 fact") if total == 1 else _("{count} facts").format(count=total)
    return _("{facts}: {parts}").format(facts=head, parts=", ".join(parts)) if parts else head

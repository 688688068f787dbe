"""Further toolheads in words."""

from __future__ import annotations

from typing import Any

from zeotherm.core.catalogue.seats import in_one_block
from zeotherm.core.catalogue.stations import OF_ITS_WAY
from zeotherm.core.judgement.margins import Margin, State, worst_first
from zeotherm.core.judgement.standing import ALL_KNOWN
from zeotherm.core.machine.toolheads import turned
from zeotherm.core.parts.toolheads.judge import FurtherToolhead, ToolheadsAnswer
from zeotherm.wording import margins as rooms
from zeotherm.wording import voltage
from zeotherm.wording.language import _, begun
from zeotherm.wording.numbers import with_unit
from zeotherm.wording.power import PASSED
from zeotherm.wording.results import margin_as_data
from zeotherm.wording.verdict import Verdict
from zeotherm.wording.verdict import verdict as hotend_verdict

LABEL, EMPTY = _("Toolheads"), _("This machine has one toolhead")
COMMAND = _("Print how warm the other toolheads of a job's machine get, printing and on standby.")
NEEDS = _("only one toolhead in it. Add one with: zeotherm set JOB.json add T1.")
ASKED = ()
WIRING = OF_ITS_WAY  # limits of the way to its heater have the names of their places


def verdict(answer: ToolheadsAnswer) -> Verdict:
    """The worst of them, by its own verdict; a wrong voltage before anything else."""
    if answer.wrong:
        return Verdict(voltage.head(answer.wrong[0]), voltage.comes(answer.wrong[0]), State.OVER)
    margin = answer.worst
    one, does = answer.of(margin)
    if margin.key.partition(".")[2] in WIRING:
        return _of_wiring(one, margin, answer)
    own = one.prints if does == "prints" or one.stands_by is None else one.stands_by
    told = hotend_verdict(own, ALL_KNOWN)
    where = (
        _("{number} printing: {verdict}")
        if does == "prints"
        else _("{number} on standby at {held}: {verdict}")
    ).format(number=one.number, held=with_unit(one.held_c, "°C", 0), verdict=begun(told.headline))  # fmt: skip
    return Verdict(where, told.reason, margin.state, told.brief)


def _of_wiring(one: FurtherToolhead, worst: Margin, answer: ToolheadsAnswer) -> Verdict:
    """Where its wiring is the worst, of which a hotend's own verdict is silent: what melts before what lacks volts."""
    its = [
        each
        for each in answer.margins
        if each.key.startswith(f"{one.number}.") and each.key.partition(".")[2] in WIRING
    ]
    bad = sorted((each for each in its if each.state.bad), key=lambda each: each.state is not State.OVER)
    lead, *others = bad or [worst]
    figures = "; ".join(f"{rooms.label(each)} {rooms.room(each)}" for each in (lead, *others))
    if not bad:
        return Verdict(_("Close: {figure}").format(figure=figures) if lead.state is State.CLOSE else figures,
                       f"{figures}; {rooms.sure(lead)}.", lead.state)  # fmt: skip
    head = PASSED[lead.key.partition(".")[2]].format(room=rooms.room(lead).rsplit(" ", 1)[0])
    return Verdict(f"{one.number}: {begun(head)}", f"{figures}: {lead.breaks}.", lead.state)


def nothing() -> Verdict:
    """Where there is one toolhead."""
    return Verdict(
        EMPTY, _("Is there another hotend? Type: add T1. It starts as a copy of this one."),
        State.UNKNOWN,
    )  # fmt: skip


def head(found: Any) -> list[str]:
    """What each prints, and what it does meanwhile."""
    return [does(one, found.answer) for one in found.answer.each]


def does(one: FurtherToolhead, answer: ToolheadsAnswer) -> str:
    """'T1: PETG at 235 °C; on standby at 150 °C while T0 prints.'"""
    setup = turned(answer.setup, one.number)
    front, plastic = answer.setup.toolhead, answer.catalogue.filaments[setup.printing.filament].label
    told = {"number": one.number, "plastic": plastic, "nozzle": with_unit(setup.printing.nozzle_c, "°C", 0),
            "held": with_unit(one.held_c, "°C", 0), "front": front}  # fmt: skip
    if in_one_block(answer.setup, one.number, answer.catalogue):
        return _("{number}: {plastic} at {nozzle}; shares {front}'s block, at {held} while {front} prints.").format(
            **told
        )
    if one.stands_by is None:
        return _("{number}: {plastic} at {nozzle}; heater off while {front} prints.").format(**told)
    return _("{number}: {plastic} at {nozzle}; on standby at {held} while {front} prints.").format(**told)


def printing(one: FurtherToolhead) -> str:
    """'Printing, 235 °C'."""
    return _("Printing, {nozzle}").format(nozzle=with_unit(one.prints.setup.printing.nozzle_c, "°C", 0))


def standing_by(one: FurtherToolhead) -> str:
    """'Standby, 170 °C'."""
    return _("Standby, {held}").format(held=with_unit(one.held_c, "°C", 0))


def worst(one: FurtherToolhead) -> str:
    """'Sink base 2.9 K room on standby', of one toolhead."""
    margin = worst_first([margin for _what, margins in one.judged for margin in margins])[0]
    found = one.worst_of(margin.key)
    what = found[0] if found is not None else "prints"
    text = _("{part} {room} while printing") if what == "prints" else _("{part} {room} on standby")
    return text.format(part=rooms.label(margin), room=rooms.room(margin))


def tail(found: Any) -> list[str]:
    """In which air all of it is."""
    return [foot(found.answer)]


def foot(answer: ToolheadsAnswer) -> str:
    """The same as one sentence."""
    front = answer.setup.toolhead
    return _("Late in a print, in the air around {front}. Make one active to run its own hours.").format(front=front)


def as_data(found: Any) -> dict[str, Any]:
    """Each by its number."""
    return {
        "in_front": found.answer.setup.toolhead,
        "toolheads": [
            {
                "number": one.number,
                "held_c": one.held_c,
                "printing": [margin_as_data(margin) for margin in one.prints.margins],
                "standing_by": [margin_as_data(margin) for margin in one.stands_by.margins] if one.stands_by else None,
            }
            for one in found.answer.each
        ],
    }

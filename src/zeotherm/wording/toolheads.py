"""Further toolheads in words."""

from __future__ import annotations

from typing import Any

from zeotherm.core.catalogue.seats import in_one_block
from zeotherm.core.judgement.margins import State, worst_first
from zeotherm.core.judgement.standing import ALL_KNOWN
from zeotherm.core.machine.toolheads import turned
from zeotherm.core.parts.toolheads.judge import FurtherToolhead, ToolheadsAnswer
from zeotherm.wording import margins as rooms
from zeotherm.wording.language import _, begun
from zeotherm.wording.numbers import with_unit
from zeotherm.wording.results import margin_as_data
from zeotherm.wording.verdict import Verdict
from zeotherm.wording.verdict import verdict as hotend_verdict

LABEL, EMPTY = _("Toolheads"), _("This machine has one toolhead")
COMMAND = _("Print what the further toolheads of a job's machine come to, printing and standing by.")
NEEDS = _("only one toolhead in it. Add one with: zeotherm set JOB.json add T1.")
ASKED = ()


def verdict(answer: ToolheadsAnswer) -> Verdict:
    """The worst of them, by its own verdict."""
    one, does = answer.of(answer.worst)
    own = one.prints if does == "prints" or one.stands_by is None else one.stands_by
    told = hotend_verdict(own, ALL_KNOWN)
    where = (
        _("{number} printing: {told}")
        if does == "prints"
        else _("{number} standing by at {held}: {told}")
    ).format(number=one.number, held=with_unit(one.held_c, "°C", 0), told=begun(told.headline))  # fmt: skip
    return Verdict(where, told.reason, answer.worst.state, told.brief)


def nothing() -> Verdict:
    """Where there is one toolhead."""
    return Verdict(
        EMPTY, _("Has it a further hotend? Type: add T1. It is like the one there is until more is known."),
        State.UNKNOWN,
    )  # fmt: skip


def head(found: Any) -> list[str]:
    """What each prints, and what it does meanwhile."""
    return [does(one, found.answer) for one in found.answer.each]


def does(one: FurtherToolhead, answer: ToolheadsAnswer) -> str:
    """'T1: PETG at 235 °C; stands by at 150 °C while T0 prints.'"""
    setup = turned(answer.setup, one.number)
    front, plastic = answer.setup.toolhead, answer.catalogue.filaments[setup.printing.filament].label
    told = {"number": one.number, "plastic": plastic, "nozzle": with_unit(setup.printing.nozzle_c, "°C", 0),
            "held": with_unit(one.held_c, "°C", 0), "front": front}  # fmt: skip
    if in_one_block(answer.setup, one.number, answer.catalogue):
        return _("{number}: {plastic} at {nozzle}; hangs in {front}'s block, at {held} while {front} prints.").format(
            **told
        )
    if one.stands_by is None:
        return _("{number}: {plastic} at {nozzle}; its heater is off while {front} prints.").format(**told)
    return _("{number}: {plastic} at {nozzle}; stands by at {held} while {front} prints.").format(**told)


def printing(one: FurtherToolhead) -> str:
    """'Printing, 235 °C'."""
    return _("Printing, {nozzle}").format(nozzle=with_unit(one.prints.setup.printing.nozzle_c, "°C", 0))


def standing_by(one: FurtherToolhead) -> str:
    """'Standing by, 170 °C'."""
    return _("Standing by, {held}").format(held=with_unit(one.held_c, "°C", 0))


def worst(one: FurtherToolhead) -> str:
    """'Sink base 2.9 K room while it stands by', of one toolhead."""
    margin = worst_first([margin for _what, answer in one.judged for margin in answer.margins])[0]
    found = one.worst_of(margin.key)
    what = found[0] if found is not None else "prints"
    text = _("{part} {room} while it prints") if what == "prints" else _("{part} {room} while it stands by")
    return text.format(part=rooms.label(margin), room=rooms.room(margin))


def tail(_found: Any) -> list[str]:
    """What was asked of them."""
    return [_("Late in a print, in the air that the machine then has. Put one in front for its own hours.")]


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

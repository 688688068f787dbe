"""A filament dryer in words."""

from __future__ import annotations

from zeotherm.core.judgement.margins import State
from zeotherm.wording.margins import room
from zeotherm.wording.numbers import with_unit
from zeotherm.wording.verdict import Verdict

LABEL, EMPTY = "Dryer", "No dryer"
COMMAND = "Print how warm a job's dryer gets."
NEEDS = "no dryer in it. Set dryer.heater_w."
ASKED = ()


def verdict(answer) -> Verdict:
    worst = answer.worst
    text = f"The dryer is {with_unit(answer.solved, '°C')}; spool {room(worst)}"
    return Verdict(text, f"{room(worst)} to where the spool softens.", worst.state)


def nothing() -> Verdict:
    return Verdict("No dryer here", "Set its watts.", State.UNKNOWN)


def head(found) -> list[str]:
    return [f"Its heater is {found.answer.setup.dryer.heater_w:.0f} W."]


def tail(_found) -> list[str]:
    return []


def as_data(found) -> dict:
    return {"heater_w": found.answer.setup.dryer.heater_w}

"""How far a joint may age, and when its screw is to be tightened again."""

from __future__ import annotations

from dataclasses import dataclass

from zeotherm.core.parts.power.judge.answer import PowerAnswer
from zeotherm.core.parts.power.judge.readings import ohms_for
from zeotherm.core.parts.power.model.in_time import PathMoment, time_to
from zeotherm.core.parts.power.model.inputs import CONTACTS, WIRES
from zeotherm.core.parts.power.model.model import FULL

MOST_TIMES = 30.0


@dataclass(frozen=True, slots=True)
class Lasting:
    """Of the joint that comes to its limit first: how many times today's milliohms take it there.

    How fast milliohms grow follows the joint's load, its shaking and its air, which nobody has measured for a printer:
    so there are no years here, but what to measure again.
    """

    contact: str
    milliohm: float  # today's
    limit: float  # milliohms at which it is as warm as its plastic stands
    times: float


def lasting(answer: PowerAnswer) -> Lasting | None:
    """The joint that comes to its limit first as its milliohms grow; None: none within `MOST_TIMES` times.

    The limit is where the model has the joint as warm as its plastic stands.
    """
    found = []
    for name in CONTACTS:
        margin = answer.margin(f"power_{name}")
        if margin is None or margin.room is None:
            continue
        now = getattr(answer.resolved.inputs, name).ohms
        most = ohms_for(answer, answer.resolved.inputs, answer.air, name, margin.limit)
        if most is not None:
            found.append(Lasting(name, 1e3 * now, 1e3 * most, max(most / now, 1.0)))
    first = min(found, key=lambda one: one.times, default=None)
    return first if first is not None and first.times < MOST_TIMES else None


@dataclass(frozen=True, slots=True)
class RunsAway:
    """The part that finds no rest, what it stands [°C], and after which time at full current it is there [s]."""

    part: str
    limit: float
    after: float | None


def runs_away(answer: PowerAnswer) -> RunsAway | None:
    """What runs away and how soon, from the air's temperature with the bed on; None: everything comes to rest."""
    solved = answer.solved
    if not solved.runs_away:
        return None
    warm = {name: solved.contact(name) for name in CONTACTS}
    warm |= {name: float(solved.wire(name).max()) for name in WIRES} | {"switch": solved.switch_c}
    part = max(warm, key=lambda name: warm[name])
    margin = answer.margin(f"power_{part}")
    if part == "switch" or margin is None:
        return RunsAway(part, solved.model.inputs.switch.service, None)
    now = PathMoment(answer.air, FULL)
    return RunsAway(part, margin.limit, time_to(solved.model, now, part, margin.limit))


def retorque_jobs(answer: PowerAnswer) -> float | None:
    """Jobs like this one after which a screw of the path is to be tightened again; None: nothing is screwed."""
    plan, hours = answer.setup.schedule, retorque_hours(answer)
    return hours / max((plan.soak_min + plan.print_min) / 60.0, 0.1) if hours is not None else None


def retorque_hours(answer: PowerAnswer) -> float | None:
    """Hours of use after which a screw of the path is to be tightened again; None: nothing is screwed."""
    kinds = (answer.catalogue.contacts[getattr(answer.setup.power, name).kind] for name in CONTACTS)
    hours = [kind.retorque_h for kind in kinds if kind.retorque_h > 0.0]
    return min(hours) if hours else None

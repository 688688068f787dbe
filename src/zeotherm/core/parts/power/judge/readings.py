"""What readings on a power path tell: milliohms from a drop or from a warmth, efficiency from the wall's meter."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass, replace

from zeotherm.core.machine.documents import Reading
from zeotherm.core.parts.power.judge.answer import PowerAnswer
from zeotherm.core.parts.power.model.inputs import CONTACTS, WIRE_AT, PathInputs, with_path_number
from zeotherm.core.parts.power.model.model import CEILING, STANDS_IN, PathAir, PathModel, solve_path
from zeotherm.core.physics.wiring import warm_resistance

LEAST_OHMS, MOST_OHMS = 2e-5, 1.0
CLOSE = 2e-4  # of its logarithm to which a resistance is found
LAWS_DOUBT = 0.12  # 95 % of what the laws themselves give, as a share: films, and what is not at rest
LEAST_AMPS = 0.5  # below which a drop tells little
MATTERS = ("to_air", "to_body")
AMPS_DOUBT = 0.03  # of the current through a joint where it is the model's


@dataclass(frozen=True, slots=True)
class ContactReading:
    """A contact's worse pole by a reading: milliohms and watts there, each with its 95 % half-widths."""

    milliohm: float
    down: float
    up: float
    watts: float
    amps: float
    good: float  # milliohms of a sound one


def from_drop(volts: float, amps: float, volts_doubt: float, amps_doubt: float, good: float = 0.0) -> ContactReading:
    """A contact by the volts across its pole and the amps through it; doubts: 95 % half-widths; good: of a sound one
    [Ω]. Raises ValueError: no current, or a drop of the wrong sign.

    >>> told = from_drop(0.240, 12.0, 0.001, 0.2)
    >>> round(told.milliohm, 1), round(told.watts, 2)
    (20.0, 2.88)
    """
    if not math.isfinite(volts) or not math.isfinite(amps) or amps < LEAST_AMPS:
        raise ValueError(f"a drop tells something from {LEAST_AMPS:g} A on: read it with the bed on")
    if volts < 0.0:
        raise ValueError("the drop is negative: swap the probes, and hold both on the same pole")
    ohms = volts / amps
    width = math.hypot(volts_doubt / amps, ohms * amps_doubt / amps)
    return ContactReading(1e3 * ohms, 1e3 * min(width, ohms), 1e3 * width, volts * amps, amps, 1e3 * good)


def from_warmth(answer: PowerAnswer, contact: str, reading: float, doubt: float) -> ContactReading:
    """A contact by its temperature [°C] while the path carries what the answer says: milliohms that the model needs for
    it, the band from the reading's doubt, from what cools the contact, and from the air. Raises ValueError: cooler than
    without any contact resistance, or hotter than anything stands."""
    given, air = answer.resolved.inputs, answer.air
    best = ohms_for(answer, given, air, contact, reading)
    if best is None:
        where = "cooler than its wires alone make it" if reading < 100.0 else "hotter than the model follows"
        raise ValueError(f"{reading:g} °C there is {where}: check current, air and emissivity")
    ups: list[float] = []
    downs: list[float] = []
    tried = [(given, air, reading + sign * doubt) for sign in (1.0, -1.0)]
    for name in MATTERS:
        width = answer.resolved.doubts.get(f"{contact}.{name}", 0.0)
        tried += [(with_path_number(given, f"{contact}.{name}", sign * width), air, reading) for sign in (1.0, -1.0)]
    tried += [(with_path_number(given, "film", sign * 0.2), air, reading) for sign in (1.0, -1.0)]
    side = STANDS_IN[WIRE_AT[contact]][0]
    tried += [(given, replace(air, **{name: getattr(air, name) + sign * by}), reading)
              for name, by in (("terminals", 8.0), (side, 2.0)) for sign in (1.0, -1.0)]  # fmt: skip
    for inputs, around, warm in tried:
        found = ohms_for(answer, inputs, around, contact, warm)
        by = (found if found is not None else LEAST_OHMS) - best
        (ups if by > 0.0 else downs).append(abs(by))
    solved = answer.solved
    amps, mean = solved.amps.through(contact), solved.amps.mean(contact)
    told = getattr(given, contact)
    now = 1e3 * float(warm_resistance(best, reading, told.per_k))  # as warm as it is, as a meter would have it
    scale, own = now / best, LAWS_DOUBT * best
    down, up = (scale * math.hypot(*sides, own) for sides in (downs, ups))
    return ContactReading(now, min(down, now), up, 1e-3 * mean**2 * now, amps, 1e3 * told.good)


def ohms_for(answer: PowerAnswer, given: PathInputs, air: PathAir, contact: str, warm: float) -> float | None:
    """Ohms of a contact that make it so warm [°C], by Brent's method on their logarithm; None: none do."""

    def at(ohms: float) -> float:
        told = replace(getattr(given, contact), ohms=ohms)
        model = PathModel(replace(given, **{contact: told}))
        solved = solve_path(model, air, duty=answer.solved.duty)
        return CEILING if solved.runs_away else solved.contact(contact)

    from scipy.optimize import brentq

    if warm >= CEILING or not at(LEAST_OHMS) <= warm <= at(MOST_OHMS):
        return None
    found = brentq(lambda log: at(math.exp(log)) - warm, math.log(LEAST_OHMS), math.log(MOST_OHMS), xtol=CLOSE)
    return math.exp(float(found))


@dataclass(frozen=True, slots=True)
class AtWall:
    """What the plug-in meter tells of a supply."""

    watts: float  # real
    apparent: float  # VA
    factor: float
    efficiency: float | None  # where what it gives is known
    lost: float | None  # W


def at_wall(volts: float, amps: float, watts: float, gives: float | None = None) -> AtWall:
    """Real and apparent power at the wall [V, A, W], and the efficiency where what the supply gives is known [W].

    Raises ValueError: more real than apparent power by over a twentieth, which no load does: the columns are swapped.
    """
    apparent = volts * amps
    if watts > 1.05 * apparent:
        raise ValueError(f"{watts:g} W of {apparent:.0f} VA cannot be: watts and amps are not of the same moment")
    factor = watts / apparent if apparent > 0.0 else 0.0
    if gives is None or watts <= 0.0:
        return AtWall(watts, apparent, min(factor, 1.0), None, None)
    return AtWall(watts, apparent, min(factor, 1.0), gives / watts, watts - gives)


@dataclass(frozen=True, slots=True)
class Survey:
    """Two surveys of one place under load, before and after."""

    before: float  # K per ampere squared
    after: float
    times: float  # after over before
    doubt: float  # 95 % of times


def compare(before: tuple[float, float, float], after: tuple[float, float, float], doubt_k: float = 2.0) -> Survey:
    """Rise over ambient per ampere squared, before and after; each (°C, ambient °C, A); doubt_k: of each rise [K].

    A rise goes with the current's square, so surveys under unlike loads compare. Raises ValueError without current.
    """
    rises = [(warm - ambient, amps) for warm, ambient, amps in (before, after)]
    if any(amps < LEAST_AMPS for _rise, amps in rises):
        raise ValueError("a survey needs a load: switch bed and hotend on together, from cold")
    first, second = (rise / amps**2 for rise, amps in rises)
    times = second / first if first else math.inf
    shares = [doubt_k / max(abs(rise), doubt_k) for rise, _amps in rises]
    return Survey(first, second, times, abs(times) * math.hypot(*shares))


@dataclass(frozen=True, slots=True)
class Seen:
    """A contact as a thermal picture shows it."""

    contact: str
    warm: float  # °C
    doubt: float  # 95 % half-width [K]
    picture: str  # what it is called


@dataclass(frozen=True)
class ReadContacts:
    """What readings tell of contacts, by name, and why others tell nothing."""

    told: tuple[tuple[str, ContactReading], ...] = ()
    refused: tuple[str, ...] = ()


def read_contacts(answer: PowerAnswer, readings: Mapping[str, Reading], seen: tuple[Seen, ...]) -> ReadContacts:
    """Contacts by what a probe read on them, by what thermal pictures show, and the plug by the drop across it; by
    station, as °C and V."""
    told: list[tuple[str, ContactReading]] = []
    refused: list[str] = []
    probed = {name: readings[f"power_{name}"] for name in CONTACTS if f"power_{name}" in readings}
    read = [Seen(name, by.value, by.tolerance, "") for name, by in probed.items()]
    for one in (*read, *seen):
        try:
            told.append((one.contact, from_warmth(answer, one.contact, one.warm, one.doubt)))
        except ValueError as wrong:
            refused.append(f"{one.picture}: {wrong}" if one.picture else str(wrong))
    drop = readings.get("power_plug_drop")
    if drop is not None:
        amps, good = answer.full.amps.bed, answer.resolved.inputs.plug.good
        try:
            told.append(("plug", from_drop(drop.value, amps, drop.tolerance, AMPS_DOUBT * amps, good)))
        except ValueError as wrong:
            refused.append(str(wrong))
    return ReadContacts(tuple(told), tuple(refused))

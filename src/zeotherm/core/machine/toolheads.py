"""Several toolheads on one machine: one is in front, the others are kept by their number, and any may be turned to.

All of a setup's own paths speak of the toolhead in front, so whatever is asked of a machine can be asked of each of its
toolheads: by turning to it. Turning moves what belongs to a toolhead and changes nothing of the machine.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from typing import TYPE_CHECKING, Any, Literal, TypeVar, get_args

from zeotherm.core.machine.hotend import Corrections, Fan, Hotend, Printing
from zeotherm.core.machine.patches import Patch
from zeotherm.core.machine.power import Power
from zeotherm.core.machine.quantity import Document, some_of

if TYPE_CHECKING:
    from zeotherm.core.machine.documents import Setup

Number = Literal["T0", "T1", "T2", "T3"]  # as controllers count them
NUMBERS: tuple[str, ...] = get_args(Number)
FIRST: Number = "T0"
COLLECTION = "toolheads"
OWN_POWER = ("heater_terminal", "heater_lead", "heater_plug", "heater_output_a")
OWN_CORRECTIONS = ("fin_film", "block_film")
MOVES = (  # paths of a setup that belong to a toolhead
    "hotend", "fan", "printing", *(f"power.{name}" for name in OWN_POWER),
    *(f"corrections.{name}" for name in OWN_CORRECTIONS),
)  # fmt: skip
OF_ALL = "supply_v"  # of a hotend: what feeds every one of them
V = TypeVar("V")


ToolheadPower = some_of(Power, OWN_POWER, "ToolheadPower", "The way of a further toolhead's heater to its output.")
ToolheadCorrections = some_of(
    Corrections, OWN_CORRECTIONS, "ToolheadCorrections", "What measured curves correct of a further toolhead."
)


class Toolhead(Document):
    """A toolhead that is not in front, by the same paths as the one that is."""

    hotend: Hotend = Hotend()
    fan: Fan = Fan()
    printing: Printing = Printing()
    power: ToolheadPower = ToolheadPower()  # type: ignore[valid-type]  # made above
    corrections: ToolheadCorrections = ToolheadCorrections()  # type: ignore[valid-type]


class NoToolheadError(ValueError):
    """A toolhead that the machine has not, or has already, or cannot do without."""


def numbers_of(setup: Setup) -> tuple[str, ...]:
    """The toolheads of a machine, by number: with the one in front."""
    return tuple(sorted({setup.toolhead, *setup.toolheads}))


def belongs(path: str) -> bool:
    """Whether a path of a setup belongs to its toolhead.

    >>> belongs("hotend.nozzle_mm"), belongs("power.heater_lead.mm2"), belongs("power.lead.mm2")
    (True, True, False)
    """
    return path != f"hotend.{OF_ALL}" and any(path == one or path.startswith(f"{one}.") for one in MOVES)


def plain(path: str) -> str:
    """The path of a further toolhead's value as it is where that one is in front; any other path as it is.

    >>> plain("toolheads.T1.hotend.nozzle_mm")
    'hotend.nozzle_mm'
    """
    head, _dot, rest = path.partition(".")
    return rest.partition(".")[2] if head == COLLECTION else path


def turned(setup: Setup, number: str) -> Setup:
    """The same machine with another of its toolheads in front. Raises NoToolheadError for one that it has not."""
    if number == setup.toolhead:
        return setup
    last = _Turned.last
    if last is not None and last[0] is setup and number in last[1]:
        return last[1][number]
    if number not in setup.toolheads:
        raise NoToolheadError(f"there is no {number}; the machine has {', '.join(numbers_of(setup))}")
    raw = patch_turned(setup.model_dump(), setup.toolhead, number)
    made = type(setup).model_validate({**raw, "toolhead": number})
    kept = last[1] if last is not None and last[0] is setup else {}
    _Turned.last = (setup, {**kept, number: made})
    return made


class _Turned:
    """The last setup that was turned, with what was made of it: documents are never changed in place."""

    last: tuple[Setup, dict[str, Setup]] | None = None


def others_in_front(setup: Setup) -> Iterator[tuple[str, Setup]]:
    """Each further toolhead of a machine: its number, and the machine with that one in front."""
    for number in sorted(setup.toolheads):
        yield number, turned(setup, number)


def patch_turned(patch: Mapping[str, Any], front: str, number: str) -> Patch:
    """A setup, or a patch over one, as it reads once `number` is in front instead of `front`; faults in it as well."""
    made = dict(patch)
    if made.get("faults"):
        made["faults"] = {key: _fault_turned(fault, front, number) for key, fault in made["faults"].items()}
    others = dict(made.pop(COLLECTION, None) or {})
    coming = others.pop(number, {})
    if coming is None:
        raise NoToolheadError(f"{number} is to be taken out; it cannot be turned to")
    going: dict[str, Any] = {}
    for path in MOVES:
        part, _dot, name = path.partition(".")
        if not name:
            if part in made:
                going[part] = made.pop(part)
        elif isinstance(made.get(part), dict) and name in made[part]:
            made[part] = dict(made[part])
            going.setdefault(part, {})[name] = made[part].pop(name)
            if not made[part]:
                del made[part]
    for part, told in coming.items():
        shared = part in ("power", "corrections") and isinstance(told, dict)
        made[part] = {**(made.get(part) or {}), **told} if shared else told
    if isinstance(going.get("hotend"), dict) and OF_ALL in going["hotend"]:
        going["hotend"] = dict(going["hotend"])
        made["hotend"] = {**(made.get("hotend") or {}), OF_ALL: going["hotend"].pop(OF_ALL)}
        going = {part: told for part, told in going.items() if told != {}}
    if going:
        others[front] = going
    if others:
        made[COLLECTION] = others
    return made


def _fault_turned(fault: Any, front: str, number: str) -> Any:
    """A fault, or a patch over one: none, where it is taken away."""
    if not isinstance(fault, dict) or "change" not in fault:
        return fault
    return {**fault, "change": patch_turned(fault["change"], front, number)}


def keys_turned(told: Mapping[str, V], front: str, number: str) -> dict[str, V]:
    """What is kept by path, or by a station's key, once `number` is in front instead of `front`."""
    coming = f"{COLLECTION}.{number}."
    return {
        path.removeprefix(coming) if path.startswith(coming)
        else f"{COLLECTION}.{front}.{path}" if belongs(path) else path: value
        for path, value in told.items()
    }  # fmt: skip


def station_of(number: str, station: str) -> str:
    """A place of a further toolhead, by its key: 'T1.bore'."""
    return f"{number}.{station}"


def station_turned(key: str, front: str, number: str, own: frozenset[str]) -> str:
    """A station's key once `number` is in front instead of `front`; own: places that a toolhead has of its own."""
    if key.startswith(f"{number}."):
        return key.removeprefix(f"{number}.")
    return station_of(front, key) if key in own else key


def setup_with(setup: Setup, number: str) -> Setup:
    """The machine with one more toolhead, like the one in front until more is known of it. Raises NoToolheadError."""
    if number not in NUMBERS:
        raise NoToolheadError(f"toolheads are {NUMBERS[0]} to {NUMBERS[-1]}, as the controller counts them")
    if number in numbers_of(setup):
        raise NoToolheadError(f"there is a {number} already")
    raw = setup.model_dump()
    others = raw.pop(COLLECTION)
    like = patch_turned(raw, number, setup.toolhead)[COLLECTION]
    return type(setup).model_validate({**setup.model_dump(), COLLECTION: {**others, **like}})  # type: ignore[dict-item]

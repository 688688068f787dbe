"""What a part program asks of the machine: temperatures, time, flow and retractions."""

from __future__ import annotations

import math
import re
from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass, field

import numpy as np

from zeotherm.core.machine.patches import Patch

WORD = re.compile(r"([A-Z])\s*([+-]?(?:\d+\.?\d*|\.\d+))")
ACCELERATION = 1000.0  # mm/s², where the program states none: an estimate
FEED = 25.0  # mm/s before the program states any
LEAST_MOVE = 1e-6
LARGEST_NUMBER = 1e7
LOOK = 20_000  # lines between two looks at whether the answer is still wanted
BEGINS = re.compile(r"\s*(?:N\s*\d{1,9}\s*)?([GMT])\s*(\d{1,6}(?:\.\d{1,3})?)(?![\d._])")
SPEAKS = {16, 20, 23, 28, 30, 32, 36, 110, 111, 115, 117, 118, 928}  # M codes whose rest is a name or a message
HOT_CODES = {104: "nozzle", 109: "nozzle", 140: "bed", 190: "bed", 141: "case", 191: "case"}


@dataclass(frozen=True, slots=True)
class Retractions:
    """How the strand is drawn back."""

    count: int
    length_mm: float  # median
    longest_mm: float
    per_min: float


@dataclass(frozen=True, slots=True)
class Program:
    """What a part program tells."""

    digest: str  # of the file's bytes
    seconds: float  # of moves and waits, heating left out
    nozzle_c: tuple[float, float]  # first layer, then most of the time; zero: never set
    bed_c: tuple[float, float]
    case_c: float
    volume_mm3: float  # of filament pushed, retractions left out
    mean_flow: float  # mm³/s over the whole time
    most_flow: float  # mm³/s, exceeded for a twentieth of the time of pushing
    retractions: Retractions
    layers: int
    fan_from_layer: int | None  # at which the part fan first runs
    strange: tuple[str, ...]  # what was passed over, with its line


@dataclass
class _State:
    """Where the machine is while the program is read."""

    position: dict[str, float] = field(default_factory=lambda: {"X": 0.0, "Y": 0.0, "Z": 0.0, "E": 0.0})
    relative: bool = False
    relative_e: bool = False
    inches: bool = False
    feed: float = FEED
    acceleration: float = ACCELERATION
    time: float = 0.0
    pushed: float = 0.0  # mm of filament
    drawn: float = 0.0  # mm it is drawn back now
    layer_z: float = -math.inf
    layers: int = 0
    fan_layer: int | None = None
    tool: int = 0
    by_tool: dict[int, float] = field(default_factory=dict)  # mm of filament pushed by each
    held: dict[tuple[str, int], list[tuple[float, float]]] = field(default_factory=dict)  # by heater and tool
    pulls: list[float] = field(default_factory=list)
    flows: list[tuple[float, float]] = field(default_factory=list)  # mm/s of filament, s
    strange: list[str] = field(default_factory=list)


def read_program(
    lines: Iterable[str], digest: str, diameter_mm: float = 1.75, cancelled: Callable[[], bool] = lambda: False
) -> Program:
    """Read plain G-code.

    Understood: G0 to G3, G4, G10/G11, G20/G21, G28, G90 to G92, M82/M83, M104/M109/M140/M190/M141/M191, M106/M107,
    M204, M221-like factors left alone; anything else is passed over. A move takes the time of a trapezoid from rest to
    rest at the stated feed and acceleration (upper bound at corners) or its length over the feed (lower bound): their
    mean is used, good to about ±15 %. diameter_mm: of the filament. Raises ValueError for a program without moves.
    """
    state = _State()
    for number, raw in enumerate(lines, start=1):
        if number % LOOK == 0 and cancelled():
            break
        _line(state, raw, number)
    if state.time <= 0.0:
        raise ValueError("there are no moves in it")
    area = math.pi * (diameter_mm / 2.0) ** 2
    return Program(
        digest=digest, seconds=state.time, nozzle_c=_temperatures(state, "nozzle"), bed_c=_temperatures(state, "bed"),
        case_c=_temperatures(state, "case")[1], volume_mm3=state.pushed * area,
        mean_flow=state.pushed * area / state.time, most_flow=_most_flow(state.flows) * area,
        retractions=_retractions(state), layers=state.layers, fan_from_layer=state.fan_layer,
        strange=tuple(state.strange[:5]),
    )  # fmt: skip


def as_job(program: Program) -> Patch:
    """The program as what a job is asked to do: a merge patch over the machine as found."""
    printing: dict[str, object] = {"flow_mm3_s": round(min(max(program.mean_flow, 0.05), 60.0), 3)}
    if program.nozzle_c[1] > 0.0:
        printing["nozzle_c"] = program.nozzle_c[1]
    if program.retractions.count:
        printing["retraction_mm"] = round(min(program.retractions.length_mm, 20.0), 3)
    patch: Patch = {
        "printing": printing,  # type: ignore[dict-item]
        "schedule": {
            "print_min": round(max(program.seconds / 60.0, 1.0), 1),
            "retractions_per_min": round(program.retractions.per_min, 1),
        },
    }
    if program.bed_c[1] > 0.0:
        patch["bed"] = {"target_c": program.bed_c[1]}
    return patch


def _line(state: _State, raw: str, number: int) -> None:
    code = raw.split(";", 1)[0].upper()
    if "(" in code:
        code = re.sub(r"\([^)]*\)", " ", code)
    begins = BEGINS.match(code)
    if begins is None:  # a name or a macro, whatever it looks like further on
        return
    letter, value = begins.group(1), float(begins.group(2))
    if letter == "T":
        state.tool = int(value)
        return
    if letter == "M" and value in SPEAKS:
        return
    rest = {}
    for key, text in WORD.findall(code[begins.end() :]):
        amount = float(text)
        if not abs(amount) < LARGEST_NUMBER:
            state.strange.append(f"line {number}: {key} is no number that a machine could take")
            return
        rest[key] = amount
    doer = _DOERS.get((letter, int(value))) if value == int(value) else None
    if doer is not None:
        doer(state, rest)
    elif letter == "M" and int(value) in HOT_CODES:
        _heat(state, HOT_CODES[int(value)], rest, number)


def _heat(state: _State, what: str, words: dict[str, float], number: int) -> None:
    wanted = words.get("S", words.get("R"))
    if wanted is None:
        return
    if not 0.0 <= wanted <= 600.0:
        state.strange.append(f"line {number}: {what} {wanted:g} °C")
        return
    tool = int(words.get("T", state.tool)) if what == "nozzle" else 0
    state.held.setdefault((what, tool), []).append((state.time, wanted))


def _move(state: _State, words: dict[str, float]) -> None:
    scale = 25.4 if state.inches else 1.0
    if words.get("F", 0.0) > 0.0:
        state.feed = words["F"] * scale / 60.0
    apart = {}
    for axis in "XYZE":
        if axis not in words:
            continue
        relative = state.relative_e if axis == "E" else state.relative
        target = words[axis] * scale + (state.position[axis] if relative else 0.0)
        apart[axis] = target - state.position[axis]
        state.position[axis] = target
    way = math.hypot(apart.get("X", 0.0), apart.get("Y", 0.0), apart.get("Z", 0.0))
    if "I" in words or "J" in words:
        way = max(way, _arc(apart, words, scale))
    strand = apart.get("E", 0.0)
    took = _duration(way if way > LEAST_MOVE else abs(strand), state)
    state.time += took
    _strand(state, strand, way, took)


def _arc(apart: dict[str, float], words: dict[str, float], scale: float) -> float:
    """Length of an arc about a centre given from its start; the shorter way round."""
    radius = math.hypot(words.get("I", 0.0), words.get("J", 0.0)) * scale
    chord = math.hypot(apart.get("X", 0.0), apart.get("Y", 0.0))
    if radius <= 0.0:
        return chord
    if chord < LEAST_MOVE:
        return 2.0 * math.pi * radius
    return 2.0 * radius * math.asin(min(1.0, chord / (2.0 * radius)))


def _duration(way: float, state: _State) -> float:
    if way <= LEAST_MOVE:
        return 0.0
    feed = max(state.feed, 0.01)
    fastest = way / feed
    ramp = feed * feed / state.acceleration
    slowest = fastest + feed / state.acceleration if way >= ramp else 2.0 * math.sqrt(way / state.acceleration)
    return 0.5 * (fastest + slowest)


def _strand(state: _State, strand: float, way: float, took: float) -> None:
    if strand < -LEAST_MOVE:
        if state.drawn < LEAST_MOVE:
            state.pulls.append(0.0)
        state.drawn -= strand
        state.pulls[-1] = max(state.pulls[-1], state.drawn)
        return
    if strand <= LEAST_MOVE:
        return
    back = min(state.drawn, strand)
    state.drawn -= back
    fresh = strand - back
    if fresh > LEAST_MOVE:
        state.pushed += fresh
        state.by_tool[state.tool] = state.by_tool.get(state.tool, 0.0) + fresh
        if way > LEAST_MOVE and took > 0.0:
            state.flows.append((fresh / took, took))
            if state.position["Z"] > state.layer_z + 1e-4:
                state.layer_z = state.position["Z"]
                state.layers += 1


def _set(name: str, value: bool) -> Callable[[_State, dict[str, float]], None]:
    def do(state: _State, _words: dict[str, float]) -> None:
        setattr(state, name, value)
        if name == "relative":
            state.relative_e = value

    return do


def _place(state: _State, words: dict[str, float]) -> None:
    scale = 25.4 if state.inches else 1.0
    for axis in words.keys() & state.position.keys():
        state.position[axis] = words[axis] * scale


def _home(state: _State, words: dict[str, float]) -> None:
    for axis in (words.keys() & set("XYZ")) or set("XYZ"):
        state.position[axis] = 0.0


def _wait(state: _State, words: dict[str, float]) -> None:
    state.time += min(words.get("S", 0.0) + words.get("P", 0.0) / 1000.0, 86400.0)


def _fan(state: _State, words: dict[str, float]) -> None:
    if state.fan_layer is None and words.get("S", 255.0) > 0.0:
        state.fan_layer = state.layers


def _accelerate(state: _State, words: dict[str, float]) -> None:
    for key in ("S", "P"):
        if words.get(key, 0.0) > 1.0:
            state.acceleration = words[key]
            return


def _pull(state: _State, words: dict[str, float]) -> None:
    if not words.keys() & {"L", "P", "S"} or words.get("S") == 1.0:
        _strand(state, -1.0, 0.0, 0.0)


def _unpull(state: _State, _words: dict[str, float]) -> None:
    state.drawn = 0.0


_DOERS: dict[tuple[str, int], Callable[[_State, dict[str, float]], None]] = {
    ("G", 0): _move, ("G", 1): _move, ("G", 2): _move, ("G", 3): _move, ("G", 4): _wait, ("G", 10): _pull,
    ("G", 11): _unpull, ("G", 20): _set("inches", True), ("G", 21): _set("inches", False), ("G", 28): _home,
    ("G", 90): _set("relative", False), ("G", 91): _set("relative", True), ("G", 92): _place,
    ("M", 82): _set("relative_e", False), ("M", 83): _set("relative_e", True), ("M", 106): _fan,
    ("M", 204): _accelerate,
}  # fmt: skip


def _temperatures(state: _State, what: str) -> tuple[float, float]:
    """First set value above cold, and the one that is held longest; of the tool that pushes most."""
    used = max(state.by_tool, key=lambda tool: state.by_tool[tool], default=0) if what == "nozzle" else 0
    steps = state.held.get((what, used), [])
    if not steps:
        return 0.0, 0.0
    ends = [time for time, _value in steps[1:]] + [state.time]
    held: dict[float, float] = {}
    for (begin, value), end in zip(steps, ends, strict=True):
        held[value] = held.get(value, 0.0) + end - begin
    warm = {value: took for value, took in held.items() if value > 30.0}
    if not warm:
        return 0.0, 0.0
    first = next(value for _time, value in steps if value > 30.0)
    return first, max(warm, key=lambda value: warm[value])


def _most_flow(flows: list[tuple[float, float]]) -> float:
    if not flows:
        return 0.0
    speeds, times = (np.array(column) for column in zip(*flows, strict=True))
    order = np.argsort(speeds)
    along = np.cumsum(times[order])
    return float(speeds[order][int(np.searchsorted(along, 0.95 * along[-1]))])


def _retractions(state: _State) -> Retractions:
    pulls = np.array([pull for pull in state.pulls if pull > 0.02])
    if not len(pulls):
        return Retractions(0, 0.0, 0.0, 0.0)
    return Retractions(len(pulls), float(np.median(pulls)), float(pulls.max()), len(pulls) / state.time * 60.0)


def lines_of(text: str) -> Iterator[str]:
    """The lines of a program."""
    return iter(text.splitlines())

"""What sits in an enclosure at the temperature wanted of it, and what would help each part that cannot stand it.

Ways are computed where they change the enclosure, and told by their estimate where they do not.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass

from zeotherm.core.catalogue.enclosures import Protection
from zeotherm.core.judgement.bands import Band
from zeotherm.core.judgement.margins import Margin
from zeotherm.core.machine.documents import patched
from zeotherm.core.machine.patches import Patch, merged, patch_value
from zeotherm.core.machine.surroundings import FURTHER_PARTS, PRINTED_PARTS
from zeotherm.core.parts.enclosure.judge.answer import ChamberAnswer, around_of, first_case
from zeotherm.core.parts.enclosure.judge.sizing import ROOM_FOR_CUTOUT_K
from zeotherm.core.parts.enclosure.judge.sure import DOMINANT, with_case_bands
from zeotherm.core.parts.whole.run import History
from zeotherm.core.physics.air import air as air_at
from zeotherm.core.solver.axisymmetric import CancelledError

AMPLE_W = 3000.0  # of a heater that is supposed where none that suffices is fitted
LIFE_BASE_C = 40.0  # at which a board's life counts as one: stated beside every factor
LIFE_HALVES_K = 10.0  # Arrhenius rule of thumb for capacitors, valid about 40 to 105 °C
TOOLHEAD_C = 80.0  # of drivers and capacitors on a toolhead's board, data sheet range
TOOLHEAD_RISE_K, TOOLHEAD_DOUBT_K = 25.0, 5.0  # above its air without a fan of its own: estimate
KINDS = ("move", "duct", "cool", "replace", "shield")  # in the order in which they are tried
Cancelled = Callable[[], bool]


@dataclass(frozen=True, slots=True)
class HelpWay:
    """One way to help a part."""

    key: str
    protection: Protection
    room: float  # K to its limit with it
    band: float  # 95 % half-width [K]

    @property
    def enough(self) -> bool:
        """Whether the part stands it then, with room for the heater's cut-out."""
        return self.room >= ROOM_FOR_CUTOUT_K


@dataclass(frozen=True, slots=True)
class Helped:
    """A part at the temperature wanted, and its ways, cheapest that suffices first."""

    station: str
    value: float  # °C
    margin: Margin
    ways: tuple[HelpWay, ...]

    @property
    def lacks(self) -> bool:
        """Whether it passes its limit, not only comes too near for a cut-out."""
        return self.margin.room is not None and self.margin.room < 0.0

    @property
    def way(self) -> HelpWay | None:
        """The cheapest that suffices and changes the machine; None where there is none."""
        return next((one for one in self.ways if one.enough and one.protection.change), None)


@dataclass(frozen=True, slots=True)
class Protected:
    """Everything inside at one temperature of the air at the print."""

    wanted: float  # °C
    parts: tuple[Helped, ...]  # that do not stand it with room for a cut-out, least room first
    stand: tuple[str, ...]  # stations that do
    life: tuple[float, float, float]  # of the board, of that at `LIFE_BASE_C` [-]: least, likely, most
    toolhead_c: float | None  # of the toolhead's board without a fan, ±`TOOLHEAD_DOUBT_K`; None: there is none
    toolhead_m3h: float  # air that would keep it at its limit

    @property
    def change(self) -> Patch:
        """The cheapest way that suffices of every part, where it changes the enclosure, together."""
        whole: Patch = {}
        for part in self.parts:
            way = part.way
            whole = merged(whole, way.protection.change) if way is not None else whole
        return whole

    @property
    def weakest(self) -> Helped | None:
        """The part that lacks most."""
        return self.parts[0] if self.parts else None


def protected(
    answer: ChamberAnswer, wanted: float, run: History | None = None, cancelled: Cancelled = lambda: False
) -> Protected:
    """Everything inside with the air at the print held at a temperature [°C], by a heater that suffices.

    Raises CancelledError and NotSettledError.
    """
    held: Patch = {"case": {"heater_w": AMPLE_W, "heater2_w": 0.0, "heater_cap_c": 0.0, "heater_fades_c": 0.0,
                     "target_c": wanted, "sensor_pct": 25.0}}  # fmt: skip
    wished = patched(answer.setup, held)

    def at(protection: Protection | None) -> ChamberAnswer:
        if cancelled():
            raise CancelledError
        setup = patched(wished, protection.change) if protection is not None else wished
        found = first_case(setup, answer.catalogue, arounds=around_of(setup, answer.catalogue, run))
        return with_case_bands(found, cancelled, DOMINANT)

    base = at(None)
    parts, stand = [], []
    for margin in base.margins:
        if margin.kind != "ceiling" or margin.room is None:
            continue
        if margin.room >= ROOM_FOR_CUTOUT_K:
            stand.append(margin.station)
            continue
        ways = [
            HelpWay(key, one, *_room(one, margin, at(one) if one.change else base))
            for key, one in answer.catalogue.protections.items()
            if one.station == margin.station
        ]
        ways.sort(key=lambda way: (not way.enough, way.protection.cost, KINDS.index(way.protection.kind)))
        parts.append(Helped(margin.station, base.values[margin.station], margin, tuple(ways)))
    parts.sort(key=lambda one: one.margin.room if one.margin.room is not None else 0.0)
    board = answer.setup.carriage.board_w
    air = base.solved.low
    state = air_at(air, answer.resolved.inputs.pressure)
    spare = max(TOOLHEAD_C - air, 1.0)
    at_board = base.values["case_board"]
    width = base.bands.values["case_board"] if base.bands is not None else Band(0.0, 0.0)
    return Protected(
        wanted, tuple(parts), tuple(stand),
        (life_factor(at_board + width.up), life_factor(at_board), life_factor(at_board - width.down)),
        air + TOOLHEAD_RISE_K if board > 0.0 else None,
        3600.0 * board / (float(state.density * state.heat_capacity) * spare),
    )  # fmt: skip


def _room(one: Protection, margin: Margin, after: ChamberAnswer) -> tuple[float, float]:
    """Room of a part with a way, and its half-width [K]."""
    now = after.margin(margin.key)
    told = now if now is not None and now.room is not None else margin
    assert told.room is not None
    widths = [max(told.band.down, told.band.up)] if told.band is not None else []
    if one.cooler_k is None:
        return told.room, math.hypot(*widths)
    return told.room + one.cooler_k.value, math.hypot(*widths, one.cooler_k.tolerance)


def life_factor(board: float) -> float:
    """Life of a board at a temperature [°C] over that at `LIFE_BASE_C` [-]: halved by every `LIFE_HALVES_K`."""
    return float(2.0 ** ((LIFE_BASE_C - board) / LIFE_HALVES_K))


def printed_anew(found: Protected) -> set[str]:
    """Plastics that the cheapest ways would print parts anew in."""
    changes = [part.way.protection.change for part in found.parts if part.way is not None]
    paths = ["case.printed_plastic", *(f"{PRINTED_PARTS}.{number}.plastic" for number in FURTHER_PARTS)]
    found_in = (patch_value(change, path) for change in changes for path in paths)
    return {str(one) for one in found_in if one is not None}

"""The cold side of a build: where its fan and its fins meet, the air at which it stops working, the flow it wants."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import NamedTuple

from zeotherm.core.catalogue.shelves import Catalogue
from zeotherm.core.choices.build.wanted import BuildWish, wanted_setup
from zeotherm.core.machine.documents import Setup
from zeotherm.core.parts.enclosure.judge.warmth import FINENESS, airs_of, creeps_from
from zeotherm.core.parts.hotend.judge.bands import moved
from zeotherm.core.parts.hotend.model.inputs import HotendAir, Inputs, resolve
from zeotherm.core.parts.hotend.model.model import build, solve
from zeotherm.core.parts.hotend.model.readout import read
from zeotherm.core.parts.whole.run import History
from zeotherm.core.solver.axisymmetric import CancelledError, NotConvergedError

Cancelled = Callable[[], bool]
LEAST, MOST = 0.05, 12.0  # of the fan's own curve, between which a flow is looked for
TURNS = 40
WITHIN = 1e-3  # of the flow
TO_M3_H = 3600.0
SLOWS = (("fan_strength", -1.0), ("guard_blocked", 1.0))  # doubts that make the flow less, and which way
LEAST_BAND_K = 2.0  # where no band of the air is known


@dataclass(frozen=True, slots=True)
class ColdSide:
    """What cools a build, for the plastic whose cold end is the first to creep."""

    plastic: str
    flow: float  # through fan, guard and fins as fitted [m³/h]
    flow_band: float  # 95 % half-width of that, by the fan's curve and its guard [m³/h]
    stops_at: float | None  # air at the print from which its cold end creeps [°C]; none: from none that was tried
    band: float  # 95 % half-width of that [K]
    wants: float | None  # flow at which it would creep just from the air that is wanted [m³/h]; none: no flow does
    surely: float | None  # the same from an air warmer by the band; none: no flow does
    liquid: bool  # a loop cools it, and the flow says nothing


def cold_side(
    setup: Setup, wanted: BuildWish, run: History, tolerances: dict[str, float] | None = None,
    cancelled: Cancelled = lambda: False,
) -> ColdSide:  # fmt: skip
    """Of a build in a machine's hours. Raises CancelledError, DoesNotFitError, NotConvergedError."""
    catalogue = run.catalogue
    found: list[tuple[float, str, float]] = []
    for plastic in wanted.plastics:
        trial = wanted_setup(setup, wanted, plastic, catalogue)
        air, band = creeps_from(trial, catalogue, airs_of(trial, run), tolerances, cancelled)
        found.append((math.inf if air is None else air, plastic, band))
    stops, plastic, band = min(found)
    trial = wanted_setup(setup, wanted, plastic, catalogue)
    air_there = airs_of(trial, run)(wanted.air)
    resolved = resolve(trial, catalogue, tolerances)
    given = resolved.inputs.in_air(air_there)
    flow = _flow(given)
    off = math.hypot(*(flow - _flow(moved(given, name, sign * resolved.doubts.get(name, 0.0))) for name, sign in SLOWS))
    loop = given.loop > 0.0
    by = max(band, LEAST_BAND_K)
    warmer = HotendAir(air_there.fan + by, air_there.block + by, air_there.mount + by)
    wants, surely = (
        None if loop else flow_for(trial, catalogue, air, tolerances, cancelled) for air in (air_there, warmer)
    )
    return ColdSide(
        plastic, flow, off, None if math.isinf(stops) else stops, band, wants.flow if wants else None,
        surely.flow if surely else None, loop,
    )  # fmt: skip


def _flow(given: Inputs) -> float:
    """Through a hotend's fins [m³/h]."""
    return build(given, FINENESS).air.flow * TO_M3_H


class FlowWanted(NamedTuple):
    """A flow through the fins [m³/h], and the fan that gives it: so many times the fitted one's flow, and the pressure
    that goes with it."""

    flow: float
    scale: float


def flow_for(
    setup: Setup, catalogue: Catalogue, air: HotendAir, tolerances: dict[str, float] | None = None,
    cancelled: Cancelled = lambda: False,
) -> FlowWanted | None:  # fmt: skip
    """Flow through the fins at which a cold end creeps just from this air, by the fan that is fitted, its curve scaled;
    zero where it does without a stream, none where no flow helps."""
    given = resolve(setup, catalogue, tolerances).inputs.in_air(air)
    field = None

    def at(scale: float) -> tuple[float, float]:
        """Room and flow with a fan of so many times its flow, and the pressure that goes with it."""
        nonlocal field
        if cancelled():
            raise CancelledError
        larger = replace(given, fan_flow=tuple(scale * one for one in given.fan_flow),
                         fan_pressure=tuple(scale**2 * one for one in given.fan_pressure))  # fmt: skip
        model = build(larger, FINENESS)
        field = solve(model, field, cancelled)
        room = read(model, field).values["jam_room"]
        return (1.0 if room is None else room), model.air.flow * TO_M3_H

    try:
        if at(LEAST)[0] >= 0.0:
            return FlowWanted(0.0, LEAST)
        if at(MOST)[0] < 0.0:
            return None
        low, high = LEAST, MOST
        for _ in range(TURNS):
            middle = math.sqrt(low * high)
            low, high = (low, middle) if at(middle)[0] >= 0.0 else (middle, high)
            if high / low < 1.0 + WITHIN:
                break
        return FlowWanted(at(high)[1], high)
    except NotConvergedError:
        return None

"""What wires, fuses, contacts and switches may be used for: one rule for sizes, for the check on paper and for options.

A wire carries the least of what a published table gives it in its air, bundle and metal, and of what the model of its
warmth gives it. It is never thinner than its duty asks, and never thinner than the fuse before it saves.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from zeotherm.core.catalogue.power import ContactKind, FuseKind, Switch, WireInsulation, WireMetal
from zeotherm.core.catalogue.shelves import Catalogue
from zeotherm.core.machine.documents import Setup

FUSES_A = (1.0, 2.0, 3.0, 5.0, 7.5, 10.0, 15.0, 20.0, 25.0, 30.0, 40.0, 50.0)
FUSE_LOAD = 0.8  # of its rating that a fuse carries for hours without ageing
FULL_LOAD = 0.8  # of a contact's or switch's rating that is used
COOL_K = 10.0  # below what a contact or switch stands that it is chosen for
TABLE_C, TABLE_CLASS_C = 30.0, 70.0  # air and insulation class that the table of sizes holds for
ENDS_C = 90.0  # that a conductor may have where it ends in ordinary terminals, whatever its insulation stands
EARTH_FULL_MM2 = 16.0  # up to which protective earth is as thick as the line
# Factor by how many loaded pairs lie together, touching: of published tables for bundles in air.
BUNDLES = ((1.0, 1.0), (2.0, 0.80), (3.0, 0.70), (4.0, 0.65), (5.0, 0.60), (6.0, 0.57), (9.0, 0.50), (12.0, 0.45),
           (16.0, 0.41), (20.0, 0.38), (30.0, 0.33))  # fmt: skip
COPPER_OHM_M = 1.7241e-8


@dataclass(frozen=True, slots=True)
class WireSite:
    """What a wire lies in: its insulation and metal, how many loaded wires lie together, the warmest air of its job."""

    insulation: WireInsulation
    metal: WireMetal
    bundle: float
    air_c: float


def around_of(setup: Setup, catalogue: Catalogue, wire: str, air_c: float) -> WireSite:
    """What a wire of the power path lies in; wire: feed, lead or heater_lead; air_c: the warmest of its job [°C]."""
    told = getattr(setup.power, wire)
    return WireSite(catalogue.wire_insulations[told.insulation], catalogue.wire_metals[told.metal], told.bundle, air_c)


def sizes(catalogue: Catalogue) -> tuple[float, ...]:
    """Cross-sections that are sold [mm²], thinnest first."""
    return tuple(sorted(one.mm2 for one in catalogue.wire_sizes.values()))


def carried(mm2: float, around: WireSite, catalogue: Catalogue) -> float:
    """What a wire carries for long by the published table [A], in its air, bundle, insulation and metal.

    The table's current times √((ϑ - ϑ_air) / (70 - 30)), with ϑ what the insulation stands or its ends may have, but
    at most as it stands in the table: a better insulation or cooler air makes no room for a larger fuse; times the
    bundle's factor, times √(ρ_copper / ρ). Between sizes by the logarithms; below the thinnest zero, beyond the
    thickest as the square root of the size, which is on the safe side.
    """
    table = sorted((one.mm2, one.amps_30c.value) for one in catalogue.wire_sizes.values())
    areas, amps = np.array([one for one, _a in table]), np.array([a for _one, a in table])
    if mm2 < areas[0] * (1.0 - 1e-9):
        return 0.0
    at = float(np.exp(np.interp(math.log(mm2), np.log(areas), np.log(amps))))
    if mm2 > areas[-1]:
        at = float(amps[-1]) * math.sqrt(mm2 / areas[-1])
    warm = min(around.insulation.service_c.value, ENDS_C) - around.air_c
    if warm <= 0.0:
        return 0.0
    pairs = max(around.bundle / 2.0, 1.0)
    bundle = float(np.interp(pairs, [one for one, _f in BUNDLES], [f for _one, f in BUNDLES]))
    metal = math.sqrt(COPPER_OHM_M / max(around.metal.resistivity_ohm_m.value, COPPER_OHM_M))
    return at * min(math.sqrt(warm / (TABLE_CLASS_C - TABLE_C)), 1.0) * bundle * metal


def least_mm2(duty: str, catalogue: Catalogue) -> float:
    """The thinnest wire that the trade uses for a duty [mm²]: mains, earth, bed, feed, heater, tap or signal."""
    return catalogue.wire_duties[duty].least_mm2


def fuse_beside(amps: float, carries: float) -> float | None:
    """The smallest fuse that carries a load for hours and opens before its wire burns [A]; None: there is no room."""
    return next((one for one in FUSES_A if FUSE_LOAD * one >= amps and one <= carries), None)


def fuse_for(amps: float) -> float | None:
    """The smallest fuse that carries a load for hours [A]; None: none is made that large."""
    return next((one for one in FUSES_A if FUSE_LOAD * one >= amps), None)


def thick_enough(
    duty: str,
    amps: float,
    fuse: float | None,
    around: WireSite,
    catalogue: Catalogue,
    model: dict[float, float] | None = None,
) -> float | None:
    """The thinnest wire for a load behind its fuse [mm²]; None: none that is sold.

    model: what each size carries by its warmth [A], where that is known.
    """
    wanted = max(amps, fuse or 0.0)
    for mm2 in sizes(catalogue):
        by_model = model.get(mm2, math.inf) if model is not None else math.inf
        if mm2 >= least_mm2(duty, catalogue) and min(carried(mm2, around, catalogue), by_model) >= wanted:
            return mm2
    return None


def contact_made_for(kind: ContactKind, volts: float, *, mains: bool) -> bool:
    """Whether a kind of contact is made for such volts, and made rightly."""
    return not kind.wrong and kind.rated_v >= volts and (kind.mains or not mains)


def switch_made_for(kind: Switch, volts: float, *, mains: bool, often: bool) -> bool:
    """Whether a switch breaks such a current, and may do it as often as its control asks; often: several times a
    minute, as a proportional control does."""
    if mains != kind.mains and (mains or kind.drop_v.value > 0.0):
        return False
    return (mains or kind.dc_v >= volts) and (kind.often or not often)


def switch_rated(kind: Switch, *, mains: bool) -> float:
    """What a switch carries and breaks [A]: of direct current by its own rating."""
    return kind.rated_a.value if mains else min(kind.rated_a.value, kind.dc_a)


def fuse_made_for(kind: FuseKind, volts: float, *, mains: bool) -> bool:
    """Whether a kind of fuse breaks a short at such volts: alternating by its own rating, direct by its own."""
    return (kind.ac_v if mains else kind.dc_v) >= volts and kind.breaks_a >= (MAINS_SHORT_A if mains else LOW_SHORT_A)


MAINS_SHORT_A = 1500.0  # that a short at an outlet may draw: usual upper edge in dwellings, estimate
LOW_SHORT_A = 200.0  # that a supply's capacitors may drive into a short: estimate

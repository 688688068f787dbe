"""What a run would have shown from another start and in another room."""

from __future__ import annotations

import math

from zeotherm.core.runs.estimates import Estimate
from zeotherm.core.runs.settling import Settling


def minutes_from(
    took: Estimate, curve: Settling, target: float, start: float, room: float, other_start: float, other_room: float
) -> Estimate | None:
    """Minutes to a target from another start in another room.

    took: as measured [min]; curve: of the warm-up itself; the rest °C. A first-order plant with constant power climbs
    from T0 to T in τ ln((E - T0) / (E - T)); its end E moves with the room. The measured time is multiplied by the
    ratio of the two, so that what the plant leaves the law by falls out to first order. Valid while the heater is at
    full power and losses go with the difference to the room. None where either end is not above the target.
    """
    here, there = curve.end, curve.end - room + other_room
    if min(here, there) <= target + 0.5 or start >= target or other_start >= target:
        return None
    ratio = math.log((there - other_start) / (there - target)) / math.log((here - start) / (here - target))
    doubt = abs(ratio - 1.0) * 0.25  # a quarter of the correction, for the law's own error
    return Estimate(took.value * ratio, math.hypot(took.scatter * ratio, took.value * doubt), took.offset, took.gain)


def level_in(value: Estimate, room: float, other_room: float, room_doubt: float) -> Estimate:
    """A settled temperature in another room: its rise over the room kept (linear losses). room_doubt: sd [K]."""
    moved = other_room - room
    scatter = math.hypot(value.scatter, room_doubt, 0.1 * moved)
    return Estimate(value.value + moved, scatter, value.offset, value.gain)

"""Leads that leave an enclosure by one opening low at the back: how long each has to be, along walls and edges."""

from __future__ import annotations

from dataclasses import dataclass

from zeotherm.core.machine.documents import Setup
from zeotherm.core.parts.enclosure.judge.panels import EDGE_MM, LEADS_MM

SLACK_MM = 150.0  # in each lead
OUTSIDE_MM = 600.0  # from the opening to what stands outside: an estimate, 300 to 1000
DOUBT_MM = 150.0  # 95 % half-width of a way along walls and edges
Point = tuple[float, float, float]  # right of the middle, behind the front, above the floor [mm]


@dataclass(frozen=True, slots=True)
class Lead:
    """One lead: what it is for, and how long it has to be, slack and the way outside with it [mm]."""

    key: str  # heater, second, sensor, cutout, fan, bed, motor
    length: float


def lead_schedule(setup: Setup) -> list[Lead]:
    """Every lead that has to leave the case, longest first; nothing of what is not fitted or stays inside.

    Ways go along walls and edges: the sum of their three sides.
    """
    case = setup.case
    wide, deep, high = case.width_mm, case.depth_mm, case.height_mm
    heights = {"floor": EDGE_MM, "roof": high - EDGE_MM}
    ends: dict[str, Point] = {}
    if case.heater_w > 0.0:
        ends["heater"] = (0.0, 0.5 * deep, heights.get(case.heater_at, 0.5 * high))
    if case.heater2_w > 0.0:
        ends["second"] = (0.0, 0.5 * deep, heights.get(case.heater2_at, 0.5 * high))
    if case.heater_w + case.heater2_w > 0.0:
        ends["sensor"] = (-0.5 * wide, 0.5 * deep, 0.01 * case.sensor_pct * high)
        ends["cutout"] = (0.0, 0.5 * deep, high - EDGE_MM)
    if case.exhaust_m3h + case.intake_m3h + case.recirculation_m3h > 0.0:
        ends["fan"] = (0.0, deep, high - EDGE_MM)
    if setup.bed.target_c > 0.0 and not case.supply_at.startswith("inside"):
        ends["bed"] = (0.0, 0.5 * deep, 0.25 * high)
    if not case.board_at.startswith("inside"):
        ends["motor"] = (-0.5 * wide, 0.0, high - EDGE_MM)  # the farthest
    out: Point = (0.5 * wide - 2.0 * LEADS_MM, deep, LEADS_MM + EDGE_MM)
    found = [
        Lead(key, sum(abs(a - b) for a, b in zip(end, out, strict=True)) + SLACK_MM + OUTSIDE_MM)
        for key, end in ends.items()
    ]
    return sorted(found, key=lambda one: -one.length)

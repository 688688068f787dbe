"""Surprises explained by computing both ways: what covering part of a bed does, what insulation leaves as it was."""

from __future__ import annotations

from dataclasses import dataclass

from zeotherm.core.catalogue.shelves import Catalogue
from zeotherm.core.machine.documents import Setup, patched
from zeotherm.core.parts.bed.judge.sure import BedFigures
from zeotherm.core.parts.bed.model.equivalent import bed_body
from zeotherm.core.parts.bed.model.in_time import run_bed
from zeotherm.core.parts.bed.model.inputs import BedInputs, resolve_bed
from zeotherm.core.parts.bed.model.model import FEW, BedModel, solve_bed
from zeotherm.core.parts.bed.model.readout import read_bed
from zeotherm.core.parts.enclosure.model.equivalent import case_body
from zeotherm.core.parts.enclosure.model.inputs import resolve_chamber
from zeotherm.core.parts.enclosure.model.model import EnclosureAround

GAP_PER_M2 = 400.0  # W/K that a gap lets out, half of it low and half high, where the case is some 15 K warm

TYPICAL, TYPICAL_MM = "felt", 8.0


@dataclass(frozen=True, slots=True)
class Rival:
    """One figure computed before and after a change."""

    key: str
    unit: str
    before: float
    after: float

    @property
    def change(self) -> float:
        """After less before."""
        return self.after - self.before


def rivals(setup: Setup, catalogue: Catalogue, asked: BedFigures) -> list[Rival]:
    """Small comparisons about insulating this bed, each both ways.

    What is fitted counts as the change, or a typical felt where nothing is. Raises DoesNotFitError, NotSettledError.
    """
    fitted = setup.bed.insulation != "none"
    what: dict[str, str | float] = (
        {"insulation": setup.bed.insulation, "insulation_mm": setup.bed.insulation_mm}
        if fitted
        else {"insulation": TYPICAL, "insulation_mm": TYPICAL_MM}
    )

    def inputs(change: dict[str, str | float]) -> BedInputs:
        return resolve_bed(patched(setup, {"bed": dict(change)}), catalogue).inputs

    bare, middle, whole = (
        inputs({"insulation": "none"}), inputs({**what, "cover": "centre"}), inputs({**what, "cover": "whole"}),
    )  # fmt: skip
    drops = [_drop(one, asked) for one in (bare, middle, whole)]
    peaks = [float(run_bed(BedModel(one, asked.start, FEW), 60.0).powers.max()) for one in (bare, whole)]
    holds = [solve_bed(BedModel(one, asked.late, FEW)).power for one in (bare, whole)]
    found = [
        Rival("drop_middle", "K", drops[0], drops[1]),
        Rival("drop_border", "K", drops[1], drops[2]),
        Rival("drop_whole", "K", drops[0], drops[2]),
        Rival("peak", "W", peaks[0], peaks[1]),
        Rival("hold", "W", holds[0], holds[1]),
    ]
    shut = resolve_chamber(setup, catalogue).inputs
    if not shut.stands_open:
        case = case_body(shut, EnclosureAround(bare.room))
        ways = (case.inner + case.inner_high, case.outer, case.leak + GAP_PER_M2 * shut.gap)
        rises = [_passive_rise(one, *ways) for one in (bare, whole)]
        found.append(Rival("case", "K", rises[0], rises[1]))
    return found


def _drop(inputs: BedInputs, asked: BedFigures) -> float:
    """From the middle of the face to its coldest corner [K]."""
    values = read_bed(solve_bed(BedModel(inputs, asked.late, FEW))).values
    return values["bed_centre"] - values["bed_corner"]


def _passive_rise(inputs: BedInputs, inner: float, outer: float, leak: float) -> float:
    """How far a shut case's air stands above the room that the bed alone warms [K].

    Two nodes at rest: bed to air and walls, air to walls and by leaks to the room, walls to the room [W/K].
    """
    body = bed_body(inputs)
    rise = inputs.target - inputs.room
    # air: to_air (rise - a) = inner (a - w) + leak a; wall: to_wall (rise - w) + inner (a - w) = outer w
    a11, a12 = body.to_air + inner + leak, -inner
    a21, a22 = -inner, body.to_wall + inner + outer
    b1, b2 = body.to_air * rise, body.to_wall * rise
    return (b1 * a22 - a12 * b2) / (a11 * a22 - a12 * a21)

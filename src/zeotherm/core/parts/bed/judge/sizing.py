"""How large: insulation by thickness, a heater for a time, a staged preheat, mains or low voltage, and the money."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np
import numpy.typing as npt

from zeotherm.core.catalogue.shelves import Catalogue, Insulation
from zeotherm.core.machine.documents import Setup, patched
from zeotherm.core.machine.patches import Patch
from zeotherm.core.parts.bed.judge.sure import BedFigures
from zeotherm.core.parts.bed.model.in_time import run_bed
from zeotherm.core.parts.bed.model.inputs import BedInputs, resolve_bed, with_bed_number
from zeotherm.core.parts.bed.model.model import FEW, BedModel, solve_bed
from zeotherm.core.parts.bed.model.readout import course_of, read_bed
from zeotherm.core.solver.axisymmetric import CancelledError

Array = npt.NDArray[np.float64]
Cancelled = Callable[[], bool]
KWH = 3.6e6
HALF_OF_THE_GOOD = 0.5
CURVE_MM = (0.0, 1.0, 2.0, 3.0, 4.0, 5.0, 6.0, 8.0, 10.0, 12.0, 15.0, 20.0, 25.0, 30.0)
HALVINGS = 12
AFTER_S = 900.0  # at the set value that are followed; from then on the bed is at rest
MOST_WATTS = 20.0  # W/cm² beyond which no pad is made
HOT_PAD = 1.2  # W/cm²: the most that silicone pads are made for, data sheet range
SPARE = 1e-3  # m that is left under an insulation of the best thickness: the doubt of a clearance read with a rule
SPREAD = 8  # points of a thickness by which a slope is taken
SAVING_HANGS_ON = ("film", "target", "under_emissivity", "insulation", "insulation_conductivity")
EFFICIENCY = 0.88  # of a low-voltage supply, data sheet range 0.82 to 0.92


@dataclass(frozen=True, slots=True)
class Costs:
    """What energy costs here and how often the machine prints."""

    tariff: float  # money a kWh
    prints_a_month: float
    print_s: float  # of one print, soak and print together [s]


@dataclass(frozen=True, slots=True)
class SizedInsulation:
    """One thickness of one insulation under a bed."""

    material: str
    thickness: float  # m
    watts: float  # to hold [W]
    saved_watts: float
    band: float  # of what is saved, 95 % half-width [W]
    ready: float | None  # s
    saved_s: float | None  # of the warm-up, negative where it takes longer
    saved_joules: float  # a print, warm-up included
    saved_money: float  # a month
    cost: float
    payback_months: float  # infinite where nothing is saved
    warm_side: float  # °C, of the insulation
    limit: float  # of its material [°C]
    doubt: float  # of that limit [K]
    spare: float  # room left under it [m]

    @property
    def too_hot(self) -> bool:
        """Whether its temperature class, less its own doubt, is below what it will stand in."""
        return self.warm_side > self.limit - self.doubt

    @property
    def too_thick(self) -> bool:
        """Whether it does not fit under the bed."""
        return self.spare < 0.0

    @property
    def allowed(self) -> bool:
        """Whether it may be fitted."""
        return not (self.too_hot or self.too_thick)


@dataclass(frozen=True)
class ThicknessCurve:
    """One material over its thickness."""

    material: str
    thickness: Array  # m
    watts: Array  # to hold [W]
    fits: float  # the thickest that goes under the bed [m]

    def marginal(self, at: float) -> float:
        """Watts that one more millimetre saves at a thickness [W/mm]."""
        step = 1e-4 * SPREAD
        low, high = np.interp([max(at - step, 0.0), at + step], self.thickness, self.watts)
        return float((low - high) / (1e3 * (min(at, step) + step)))

    @property
    def half(self) -> float:
        """The thickness that saves half of what the thickest saves [m]."""
        goal = self.watts[0] - HALF_OF_THE_GOOD * (self.watts[0] - self.watts[-1])
        return float(np.interp(-goal, -self.watts, self.thickness))


class Sizer:
    """Sizes changes of one bed; asks its twin on a grid of few cells."""

    def __init__(self, setup: Setup, catalogue: Catalogue, asked: BedFigures, costs: Costs) -> None:
        self.setup, self.catalogue, self.asked, self.costs = setup, catalogue, asked, costs
        self.bare = self._inputs({"insulation": "none"})
        self._base = self._figures(self.bare)
        self._doubts = resolve_bed(setup, catalogue).doubts

    def _inputs(self, bed: dict[str, float | str]) -> BedInputs:
        return resolve_bed(patched(self.setup, {"bed": dict(bed)}), self.catalogue).inputs

    def _figures(self, inputs: BedInputs) -> tuple[float, float, float | None, float]:
        """Watts to hold, warm side of the insulation, seconds until ready, joules of one print."""
        solved = solve_bed(BedModel(inputs, self.asked.late, FEW))
        warm = read_bed(solved).values.get("bed_insulation", math.nan)
        run = run_bed(BedModel(inputs, self.asked.start, FEW), AFTER_S)
        held = max(self.costs.print_s - AFTER_S, 0.0)
        return solved.power, warm, course_of(run).ready, run.joules["heater"] + solved.power * held

    def _band(self, inputs: BedInputs, watts: float, doubts: dict[str, float]) -> float:
        """95 % half-width of what an insulation saves [W]: every doubt moves the bare bed and the insulated one."""
        total = 0.0
        for name in SAVING_HANGS_ON:
            width = doubts[name]
            after = [
                solve_bed(BedModel(with_bed_number(one, name, getattr(one, name) + width), self.asked.late, FEW)).power
                for one in (self.bare, inputs)
            ]
            total += (after[0] - after[1] - (self._base[0] - watts)) ** 2
        return math.sqrt(total)

    def heater_band(self, watts: float, coldest: float) -> float:
        """95 % half-width of the watts that have a bed ready in a time [W], to first order in loss and capacity."""
        start = replace(self.asked.start, above=coldest, below=coldest, around=coldest)
        given = with_bed_number(self._inputs({}), "heater", watts)

        def ready(inputs: BedInputs) -> float:
            found = course_of(run_bed(BedModel(inputs, start, FEW), AFTER_S)).ready
            return found if found is not None else math.inf

        now = ready(given)
        faster = now - ready(with_bed_number(given, "heater", 1.1 * watts))
        later = [ready(with_bed_number(given, name, 1.0 + self._doubts[name])) - now for name in ("mass", "film")]
        return 0.1 * watts * math.hypot(*later) / faster if 0.0 < faster < math.inf else math.inf

    def reachable_band(self, coldest: float) -> float:
        """95 % half-width of `reachable` [K]: by loss and by the heater."""
        now, inputs = self.reachable(coldest), self._inputs({})
        moved = [
            with_bed_number(inputs, name, getattr(inputs, name) + self._doubts[name]) for name in ("film", "heater")
        ]
        return math.hypot(*(self._full_on(one, coldest) - now for one in moved))

    def sized(self, material: str, thickness: float, cover: str = "whole") -> SizedInsulation:
        """One thickness [m] of one material. Raises DoesNotFitError and NotSettledError."""
        fitted: Patch = {"bed": {"insulation": material, "insulation_mm": 1e3 * thickness, "cover": cover}}
        resolved = resolve_bed(patched(self.setup, fitted), self.catalogue)
        inputs = resolved.inputs
        watts, warm, ready, joules = self._figures(inputs)
        base_watts, _warm, base_ready, base_joules = self._base
        entry: Insulation = self.catalogue.insulations[material]
        area = covered_area(inputs)
        cost = entry.price * area * thickness / 0.01
        month = (base_joules - joules) / KWH * self.costs.tariff * self.costs.prints_a_month
        return SizedInsulation(
            material, thickness, watts, base_watts - watts, self._band(inputs, watts, resolved.doubts), ready,
            base_ready - ready if base_ready is not None and ready is not None else None,
            base_joules - joules, month, cost, payback(cost, month), warm, entry.service_c.value,
            entry.service_c.tolerance, inputs.clearance - thickness - inputs.sag,
        )  # fmt: skip

    def curve(self, material: str, cancelled: Cancelled = lambda: False) -> ThicknessCurve:
        """Watts over thickness of one material; the slope is that of its series resistances."""
        found = []
        for mm in CURVE_MM:
            if cancelled():
                raise CancelledError
            inputs = self.bare if mm == 0.0 else self._inputs({"insulation": material, "insulation_mm": mm})
            found.append(solve_bed(BedModel(inputs, self.asked.late, FEW)).power)
        fits = max(self.bare.clearance - self.bare.sag, 0.0)
        return ThicknessCurve(material, 1e-3 * np.array(CURVE_MM), np.array(found), fits)

    def best(self, material: str) -> SizedInsulation | None:
        """The thickest size of a material that is sold, fits and stands its place; None where none does."""
        fitting = [1e-3 * mm for mm in self.catalogue.insulations[material].sizes_mm]
        room = self.bare.clearance - self.bare.sag - SPARE
        for thickness in sorted((one for one in fitting if one <= room), reverse=True):
            found = self.sized(material, thickness)
            return found if found.allowed else None
        return None

    def watts_for(self, seconds: float, coldest: float) -> float | None:
        """Cold watts of a heater that has the bed ready in a time [s] in a room [°C]; None where none does."""
        start = replace(self.asked.start, above=coldest, below=coldest, around=coldest)
        inputs = self._inputs({})

        def late(watts: float) -> bool:
            model = BedModel(with_bed_number(inputs, "heater", watts), start, FEW)
            ready = course_of(run_bed(model, AFTER_S, longest=2.0 * seconds + 60.0)).ready
            return ready is None or ready > seconds

        shape = inputs.shape
        low, high = 1.0, MOST_WATTS * 1e-2 * shape.width_mm * shape.depth_mm
        if late(high):
            return None
        for _halving in range(HALVINGS):
            middle = math.sqrt(low * high)
            low, high = (middle, high) if late(middle) else (low, middle)
        return high

    def reachable(self, coldest: float) -> float:
        """What the sensor comes to with the heater full on, in a room [°C]."""
        return self._full_on(self._inputs({}), coldest)

    def _full_on(self, inputs: BedInputs, coldest: float) -> float:
        air = replace(self.asked.late, above=coldest, below=coldest, around=coldest)
        watts = inputs.heater
        for _turn in range(6):
            solved = solve_bed(BedModel(inputs, air, FEW), power=watts)
            watts = solved.available
        return read_bed(solved).values["bed_sensor"]

    def staged(self, supply_w: float, others_w: float, hotend_w: float) -> StagedPreheat:
        """A preheat that one supply stands: bed first, then hotend; or both at once with the bed throttled.

        supply_w: that the supply gives for long; others_w: board, fans, motors at rest; hotend_w: its heater, all in W.
        A mains bed takes nothing from that supply.
        """
        inputs = self._inputs({})
        spare = supply_w - others_w
        mains = inputs.shape.supply == "mains"

        def ready(watts: float, doubt: str = "") -> float | None:
            if watts <= 0.0:
                return None
            given = with_bed_number(inputs, "heater", watts)
            if doubt:
                given = with_bed_number(given, doubt, getattr(given, doubt) * (1.0 + self._doubts[doubt]))
            return course_of(run_bed(BedModel(given, self.asked.start, FEW), AFTER_S)).ready

        most = inputs.heater if mains else min(inputs.heater, spare)
        left = inputs.heater if mains else max(spare - hotend_w, 0.0)
        full = ready(most)
        later = [ready(most, name) for name in ("mass", "film")] if full is not None else []
        known = full is not None and all(one is not None for one in later)
        band = math.hypot(*(one - full for one in later if one is not None and full is not None)) if known else None
        throttled = ready(min(inputs.heater, left))
        asked = (0.0 if mains else inputs.heater) + hotend_w + others_w
        return StagedPreheat(asked <= supply_w, asked, supply_w, full, throttled, left, band, mains)


@dataclass(frozen=True, slots=True)
class StagedPreheat:
    """A preheat within one supply."""

    together: bool  # bed and hotend may be switched on at once
    peak: float  # of both at once [W]
    supply: float
    bed_first: float | None  # s until the bed is ready, hotend off meanwhile
    throttled: float | None  # s with the hotend on beside it
    throttled_to: float  # W left for the bed then
    band: float | None = 0.0  # 95 % half-width of those times, by capacity and loss [s]; None: it may never come up
    mains: bool = False  # the bed is fed by the mains, beside the supply


@dataclass(frozen=True, slots=True)
class BedFeed:
    """A way to feed a bed."""

    mains: bool
    volts: float
    watts: float
    amps: float
    from_outlet: float  # W drawn there for those watts
    supply_watts: float  # that the machine's supply must give for the bed
    density: float  # W/cm²


def feeds(inputs: BedInputs, watts: float, mains_v: float = 230.0) -> tuple[BedFeed, BedFeed]:
    """A low-voltage and a mains pad of the same watts, side by side."""
    area = heated_area(inputs)
    low = inputs.shape.heater.rated_v if inputs.shape.supply == "low voltage" else 24.0
    density = 1e-4 * watts / area if area > 0.0 else 0.0
    return (
        BedFeed(False, low, watts, watts / low, watts / EFFICIENCY, watts, density),
        BedFeed(True, mains_v, watts, watts / mains_v, watts, 0.0, density),
    )


def heated_area(inputs: BedInputs) -> float:
    """Area of the heater [m²]."""
    on = BedModel(inputs, inputs.in_room, FEW).grid
    return float(on.heated.sum()) * on.area


def covered_area(inputs: BedInputs) -> float:
    """Area of the underside that the insulation covers [m²]."""
    model = BedModel(inputs, inputs.in_room, FEW)
    return float(model.covered.sum()) * model.grid.area


def payback(cost: float, a_month: float) -> float:
    """Months until a saving has paid a cost; infinite where nothing is saved.

    >>> payback(12.0, 3.0), payback(12.0, 0.0)
    (4.0, inf)
    """
    return cost / a_month if a_month > 0.0 else math.inf


def expansion(inputs: BedInputs, catalogue: Catalogue, setup: Setup, cold: float, hot: float) -> float:
    """How much the stack grows upward between two temperatures [m]: Σ α t ΔT over its layers."""
    kind = catalogue.beds[setup.bed.part]
    layers = (*kind.layers, *catalogue.sheets[setup.bed.sheet].layers)
    grown = sum(
        catalogue.materials[layer.material].expansion_per_k.value * 1e-3 * layer.mm
        for layer in layers
        if layer.material != "trapped_air"
    )
    return grown * (hot - cold)

"""Sizes of changes of the bed: every insulation, the curve of one, heater and preheat."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace

from zeotherm.answers.executor import Until
from zeotherm.answers.hotend import answered_hours
from zeotherm.answers.store import Store
from zeotherm.core.catalogue import Catalogue
from zeotherm.core.machine.documents import Job, patched
from zeotherm.core.parts.bed.judge.answer import BedAnswer
from zeotherm.core.parts.bed.judge.cutting import CutList, cut_list
from zeotherm.core.parts.bed.judge.sizing import (
    BedFeed,
    Costs,
    SizedInsulation,
    Sizer,
    StagedPreheat,
    ThicknessCurve,
    expansion,
    feeds,
)
from zeotherm.core.parts.bed.judge.sure import asked_of
from zeotherm.core.parts.bed.part import PART, bed_airs
from zeotherm.core.parts.hotend.judge.course import Course
from zeotherm.core.questions import Cancelled, Stage

LEAST_MM = 5.0  # that is shown of a material of which no size may be fitted


@dataclass(frozen=True)
class Wish:
    """What the sizes are asked for."""

    minutes: float = 8.0  # until the bed is ready
    coldest_c: float = 5.0
    supply_w: float = 350.0
    others_w: float = 30.0
    prints_a_month: float = 20.0
    tariff: float = 0.30
    material: str = ""  # whose curve is shown; nothing: the one that saves most of those allowed


@dataclass(frozen=True)
class SizeFound:
    """What is known by now; all of it once `done`."""

    job: Job
    wish: Wish
    catalogue: Catalogue
    rows: tuple[SizedInsulation, ...] = ()  # each material at its best allowed size, or as it is blocked
    curve: ThicknessCurve | None = None
    cut: CutList | None = None
    heater_w: float | None = None  # for the time wished
    heater_band_w: float = 0.0  # 95 % half-width
    reachable_c: float | None = None
    reachable_band_k: float = 0.0
    staged: StagedPreheat | None = None
    feeds: tuple[BedFeed, ...] = ()
    grows_mm: float = 0.0  # of the stack from the coldest room to its set value
    done: bool = False

    @property
    def shown(self) -> SizedInsulation | None:
        """The row of the material whose curve is shown."""
        return next((one for one in self.rows if one.material == self.wish.material), None)


def best_of(rows: tuple[SizedInsulation, ...]) -> str:
    """The allowed material that saves most; else the first."""
    allowed = [one for one in rows if one.allowed]
    return max(allowed, key=lambda one: one.saved_watts).material if allowed else rows[0].material if rows else ""


def _sizer(rest: BedAnswer, course: Course | None, costs: Costs, *, cancelled: Cancelled) -> Sizer:
    return Sizer(rest.setup, rest.catalogue, asked_of(rest, bed_airs(course)), costs)


def _row(sizer: Sizer, material: str, *, cancelled: Cancelled) -> SizedInsulation:
    """The thickest size that may be fitted; else the thinnest that is sold, with why not."""
    sizes = sizer.catalogue.insulations[material].sizes_mm
    return sizer.best(material) or sizer.sized(material, 1e-3 * (min(sizes) if sizes else LEAST_MM))


def _curve(sizer: Sizer, material: str, *, cancelled: Cancelled) -> ThicknessCurve:
    return sizer.curve(material, cancelled)


def _heater(sizer: Sizer, within_s: float, coldest: float, *, cancelled: Cancelled) -> tuple[float | None, float]:
    """Watts that have the bed ready in a time, None where none do, and their 95 % half-width."""
    watts = sizer.watts_for(within_s, coldest)
    return watts, sizer.heater_band(watts or 1.0, coldest)


def _reach(sizer: Sizer, coldest: float, *, cancelled: Cancelled) -> tuple[float, float]:
    """What the heater reaches [°C], and its 95 % half-width [K]."""
    return sizer.reachable(coldest), sizer.reachable_band(coldest)


def _staged(sizer: Sizer, supply_w: float, others_w: float, hotend_w: float, *, cancelled: Cancelled) -> StagedPreheat:
    return sizer.staged(supply_w, others_w, hotend_w)


SIZER = Stage("bed's sizer", _sizer, kept=4)  # of the bed at rest, in hours or None, at costs
ROW = Stage("bed under an insulation", _row, kept=48)  # of a sizer and a material
CURVE = Stage("bed over an insulation's thickness", _curve)
HEATER = Stage("bed's heater", _heater)  # of a sizer, a time [s], the coldest room [°C]
REACH = Stage("bed's reach", _reach)
STAGED = Stage("bed's preheat", _staged)


def bed_sizes(
    store: Store, job: Job, catalogue: Catalogue, wish: Wish
) -> Callable[[Cancelled], Iterator[SizeFound | Until]]:
    """A task: sizes of a job's bed, as they are known, in what its machine's hours put about it."""
    setup = job.setup()
    plan = setup.schedule
    costs = Costs(wish.tariff, wish.prints_a_month, 60.0 * (plan.soak_min + plan.print_min))

    def task(cancelled: Cancelled) -> Iterator[SizeFound | Until]:
        course = yield from answered_hours(store, setup, job, catalogue, cancelled)
        asked = SIZER.of(PART.at_rest(setup, job, catalogue, course), course, costs)
        found = SizeFound(job, wish, catalogue)
        for material in catalogue.insulations:
            if material != "none":
                found = replace(found, rows=(*found.rows, store.ask(ROW.of(asked, material), cancelled)))
                yield found
        told = replace(wish, material=wish.material or best_of(found.rows))
        found = replace(found, wish=told, curve=store.ask(CURVE.of(asked, told.material), cancelled))
        shown = found.shown
        if shown is not None:
            fitted = patched(setup, {"bed": {"insulation": shown.material, "insulation_mm": 1e3 * shown.thickness}})
            found = replace(found, cut=cut_list(catalogue.beds[setup.bed.part], fitted.bed, catalogue))
        yield found
        coldest, sizer = wish.coldest_c, store.ask(asked, cancelled)
        heater, heater_band = store.ask(HEATER.of(asked, 60.0 * wish.minutes, coldest), cancelled)
        reach, reach_band = store.ask(REACH.of(asked, coldest), cancelled)
        supply = (wish.supply_w, wish.others_w, setup.hotend.heater_power_w)
        yield replace(
            found, heater_w=heater, heater_band_w=heater_band, reachable_c=reach, reachable_band_k=reach_band,
            staged=store.ask(STAGED.of(asked, *supply), cancelled),
            feeds=feeds(sizer.bare, heater or sizer.bare.heater),
            grows_mm=1e3 * expansion(sizer.bare, catalogue, setup, coldest, setup.bed.target_c), done=True,
        )  # fmt: skip

    return task

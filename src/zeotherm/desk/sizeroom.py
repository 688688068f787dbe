"""Sizes changes of the bed in the background: every insulation, the curve of one, heater and preheat."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import TypeVar, cast

from PyQt6.QtCore import QObject

from zeotherm.core.catalogue import Catalogue
from zeotherm.core.judgement.bed.answer import BedAnswer
from zeotherm.core.judgement.bed.cutting import CutList, cut_list
from zeotherm.core.judgement.bed.sizing import (
    BedFeed,
    Costs,
    SizedInsulation,
    Sizer,
    StagedPreheat,
    ThicknessCurve,
    expansion,
    feeds,
)
from zeotherm.core.judgement.bed.sure import asked_of
from zeotherm.core.machine.documents import Job, patched
from zeotherm.core.twin.whole.run import History
from zeotherm.desk.plateroom import bed_airs
from zeotherm.desk.room import AnswerRoom, name_of
from zeotherm.desk.scheduler import Cancelled, Emit

Kind = TypeVar("Kind")
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


class SizeRoom(AnswerRoom):
    """Emits `SizeFound` as it grows; what was sized of the same bed before is not sized again."""

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._known: dict[tuple[object, ...], object] = {}
        self._of = ""

    def show(self, job: Job, catalogue: Catalogue, answer: BedAnswer, run: History | None, wish: Wish) -> None:
        """Size the bed of a job; run: its machine's, where that is known."""
        self.submit(lambda emit, cancelled: self._work(job, catalogue, answer, run, wish, emit, cancelled))

    def _once(self, name: tuple[object, ...], made: Callable[[], Kind]) -> Kind:
        """What was made of this name before, or make it."""
        if name not in self._known:
            self._known[name] = made()
        return cast(Kind, self._known[name])

    def _work(
        self, job: Job, catalogue: Catalogue, answer: BedAnswer, run: History | None, wish: Wish, emit: Emit,
        cancelled: Cancelled,
    ) -> None:  # fmt: skip
        setup = job.setup()
        bed = name_of(setup, job.tolerances, catalogue, run, wish.tariff, wish.prints_a_month)
        if bed != self._of:
            self._of, self._known = bed, {}
        hours = setup.schedule
        costs = Costs(wish.tariff, wish.prints_a_month, 60.0 * (hours.soak_min + hours.print_min))
        asked = asked_of(answer, bed_airs(run))
        sizer = self._once(("sizer",), lambda: Sizer(setup, catalogue, asked, costs))
        found = SizeFound(job, wish, catalogue)
        for material in catalogue.insulations:
            if cancelled():
                return
            if material != "none":
                row = self._once(("row", material), lambda material=material: _row(sizer, material))  # type: ignore[misc]
                found = replace(found, rows=(*found.rows, row))
                emit(found)
        wish = replace(wish, material=wish.material or best_of(found.rows))
        curve = self._once(("curve", wish.material), lambda: sizer.curve(wish.material, cancelled))
        found = replace(found, wish=wish, curve=curve)
        shown = found.shown
        if shown is not None:
            fitted = patched(setup, {"bed": {"insulation": shown.material, "insulation_mm": 1e3 * shown.thickness}})
            found = replace(found, cut=cut_list(catalogue.beds[setup.bed.part], fitted.bed, catalogue))
        emit(found)
        within, coldest = wish.minutes, wish.coldest_c
        heater = self._once(("heater", within, coldest), lambda: sizer.watts_for(60.0 * within, coldest))
        if cancelled():
            return
        supply = (wish.supply_w, wish.others_w, setup.hotend.heater_power_w)
        found = replace(
            found,
            heater_w=heater,
            heater_band_w=self._once(("band", within, coldest), lambda: sizer.heater_band(heater or 1.0, coldest)),
            reachable_c=self._once(("reach", coldest), lambda: sizer.reachable(coldest)),
            reachable_band_k=self._once(("reach band", coldest), lambda: sizer.reachable_band(coldest)),
            staged=self._once(("staged", *supply), lambda: sizer.staged(*supply)),
            feeds=feeds(sizer.bare, heater or sizer.bare.heater),
            grows_mm=1e3 * expansion(sizer.bare, catalogue, setup, coldest, setup.bed.target_c),
            done=True,
        )
        emit(found)


def _row(sizer: Sizer, material: str) -> SizedInsulation:
    """The thickest size that may be fitted; else the thinnest that is sold, with why not."""
    sizes = sizer.catalogue.insulations[material].sizes_mm
    return sizer.best(material) or sizer.sized(material, 1e-3 * (min(sizes) if sizes else LEAST_MM))

"""Sizes the heating of an enclosure in the background: filaments, heater, air, parts to help, what goes wrong."""

from __future__ import annotations

from dataclasses import dataclass, replace

from PyQt6.QtCore import QObject

from zeotherm.core.catalogue import Catalogue, shipped
from zeotherm.core.judgement.chamber.answer import ChamberAnswer, around_of, first_case
from zeotherm.core.judgement.chamber.protecting import printed_anew
from zeotherm.core.judgement.chamber.sized import SizedEnclosure, sizing
from zeotherm.core.judgement.chamber.warmth import Warmth, on_machine, warmths
from zeotherm.core.machine.documents import Job
from zeotherm.core.twin.whole.run import History
from zeotherm.desk.room import AnswerRoom, Kept, name_of
from zeotherm.desk.scheduler import Cancelled, Emit


@dataclass(frozen=True)
class CaseWish:
    """What the heating of an enclosure is asked for."""

    wanted_c: float = 50.0
    minutes: float = 45.0
    coldest_c: float = 15.0
    spread_k: float = 5.0  # between print and roof


@dataclass(frozen=True)
class CaseSizeFound:
    """What is known by now."""

    job: Job
    wish: CaseWish
    catalogue: Catalogue
    answer: ChamberAnswer
    sized: SizedEnclosure | None = None
    filaments: tuple[Warmth, ...] = ()
    elsewhere: tuple[tuple[str, Warmth], ...] = ()  # plastics to print anew on the shop's other machines

    @property
    def done(self) -> bool:
        """Whether all of it is known."""
        return self.sized is not None and self.sized.done


class CaseSizeRoom(AnswerRoom):
    """Emits `CaseSizeFound` as it grows."""

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._warm: Kept[tuple[Warmth, ...]] = Kept()
        self._sized: Kept[SizedEnclosure] = Kept()
        self._others: Kept[tuple[Warmth, ...]] = Kept()  # one, or none where that machine cannot

    def show(self, job: Job, catalogue: Catalogue, run: History, wish: CaseWish, others: tuple[Job, ...] = ()) -> None:
        """Size the enclosure of a job whose machine ran so; others: the shop's other machines, that may print parts."""
        self.submit(lambda emit, cancelled: self._work(job, catalogue, run, wish, others, emit, cancelled))

    def _work(
        self, job: Job, catalogue: Catalogue, run: History, wish: CaseWish, others: tuple[Job, ...], emit: Emit,
        cancelled: Cancelled,
    ) -> None:  # fmt: skip
        setup = job.setup()
        answer = first_case(setup, catalogue, job.tolerances, arounds=around_of(setup, catalogue, run))
        found = CaseSizeFound(job, wish, catalogue, answer)
        name = name_of(setup, job.tolerances, catalogue, run)
        warm = self._warm.get(name)
        if warm is None:
            warms = warmths(setup, catalogue, run, answer.solved.low, job.tolerances, cancelled)
            warm = self._warm.keep(name, tuple(warms))
        found = replace(found, filaments=warm)
        emit(found)
        asked = (wish.wanted_c, 60.0 * wish.minutes, wish.coldest_c, wish.spread_k)
        size = name_of(setup, job.tolerances, catalogue, run, asked)
        known = self._sized.get(size)
        for sized in sizing(answer, run, *asked, cancelled) if known is None else (known,):
            found = replace(found, sized=sized)
            emit(found)
        assert found.sized is not None
        self._sized.keep(size, found.sized)
        for plastic in sorted(printed_anew(found.sized.parts)):
            for other in others:
                told = tuple((other.machine, one) for one in self._printed_on(other, plastic, cancelled))
                found = replace(found, elsewhere=(*found.elsewhere, *told))
                emit(found)

    def _printed_on(self, other: Job, plastic: str, cancelled: Cancelled) -> tuple[Warmth, ...]:
        """A plastic on another machine; none: it cannot, or nothing is known of it."""
        name = name_of(plastic, other.setup(), other.catalogue, other.tolerances)
        known = self._others.get(name)
        if known is not None:
            return known
        warm = on_machine(other, shipped(), plastic, cancelled)
        return self._others.keep(name, (warm,) if warm is not None else ())

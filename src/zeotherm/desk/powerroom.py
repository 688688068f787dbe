"""Solves the power path of the job on the bench: at rest, then its course, then how sure and what would help."""

from __future__ import annotations

from dataclasses import dataclass, replace

from PyQt6.QtCore import QObject

from zeotherm.core.catalogue import Catalogue
from zeotherm.core.judgement.power.ageing import Lasting, lasting
from zeotherm.core.judgement.power.answer import (
    PowerAnswer,
    first_power,
    late_air,
    stations,
    with_power_course,
    worst_duty,
)
from zeotherm.core.judgement.power.readings import ContactReading, from_drop, from_warmth
from zeotherm.core.judgement.power.sure import full_power
from zeotherm.core.machine.documents import Job
from zeotherm.core.twin.power.inputs import CONTACTS, described
from zeotherm.core.twin.power.model import Duty, SolvedPath
from zeotherm.core.twin.whole.run import History
from zeotherm.desk.room import AnswerRoom, Kept, Scrubbed, name_of
from zeotherm.desk.scheduler import Cancelled, Emit, rest
from zeotherm.shop.picture_files import spots_of
from zeotherm.wording.power import PARTS

AMPS_DOUBT = 0.03  # of the current through a joint where it is the model's


@dataclass(frozen=True)
class PowerFound(Scrubbed):
    """What the model says of the power path of the job on the bench."""

    job: Job
    answer: PowerAnswer | None  # None: it is not described
    as_found: PowerAnswer | None = None  # while something is on trial
    told: tuple[tuple[str, ContactReading], ...] = ()  # what readings tell of contacts
    refused: tuple[str, ...] = ()  # and why others tell nothing
    lasting: Lasting | None = None  # the joint that comes to its limit first as it ages, once bands are known
    time: float | None = None  # of the moment that is shown [s]; None: at rest, at its worst current

    @property
    def shown(self) -> SolvedPath:
        """The path at the moment that is shown."""
        assert self.answer is not None
        if self.time is None or self.answer.run is None:
            return self.answer.solved
        return self.answer.run.moment(self.time)

    @property
    def values(self) -> dict[str, float]:
        """Stations at the moment that is shown."""
        assert self.answer is not None
        if self.time is None:
            return self.answer.values
        shown = self.shown
        return stations(shown, self.answer.full, shown.air, self.answer.setup.room.mean_c)


class PowerRoom(AnswerRoom):
    """Emits the power path as it is known, as `PowerFound`; what was solved before is not solved again."""

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._known: Kept[PowerFound] = Kept()
        self._found: Kept[PowerAnswer] = Kept(2)
        self._last: PowerAnswer | None = None

    def show(self, job: Job, catalogue: Catalogue, run: History | None) -> None:
        """Solve the power path of a job; run: its machine's, where that is known."""
        self.submit(lambda emit, cancelled: self._work(job, catalogue, run, emit, cancelled))

    def _work(self, job: Job, catalogue: Catalogue, run: History | None, emit: Emit, cancelled: Cancelled) -> None:
        setup = job.setup()
        told = {key: reading.model_dump() for key, reading in job.readings.items() if key.startswith("power_")}
        seen = dict(job.measured.pictures)
        name = name_of(setup, job.found if job.trial else None, job.tolerances, catalogue, run, told, seen)
        known = self._known.get(name)
        if known is not None:
            emit(replace(known, job=job))
            return
        if not described(setup, catalogue):
            emit(PowerFound(job, None))
            return
        air, duty = late_air(setup, catalogue, run), worst_duty(run)
        answer = self._last = first_power(setup, catalogue, job.tolerances, air=air, duty=duty, like=self._last)
        found = PowerFound(job, answer)
        emit(found)
        rest(cancelled)
        if job.trial and described(job.found, catalogue):
            found = replace(found, as_found=self._before(job, catalogue, run, duty))
            emit(found)
        if run is not None:
            found = replace(found, answer=with_power_course(answer, run, cancelled))
            emit(found)
        rest(cancelled)
        found = _with_readings(found)
        emit(found)
        assert found.answer is not None
        found = replace(found, answer=full_power(found.answer, cancelled), lasting=lasting(found.answer))
        emit(self._known.keep(name, found))

    def _before(self, job: Job, catalogue: Catalogue, run: History | None, duty: Duty | None) -> PowerAnswer:
        """The path as it was found, in the run's air; solved once while levers move."""
        name = name_of(job.found, job.tolerances, catalogue, run)
        known = self._found.get(name)
        if known is not None:
            return known
        air = late_air(job.found, catalogue, run)
        answer = first_power(job.found, catalogue, job.tolerances, air=air, duty=duty)
        return self._found.keep(name, answer)


def _with_readings(found: PowerFound) -> PowerFound:
    """What the readings tell of the contacts of the machine as it was found."""
    answer = found.as_found or found.answer
    assert answer is not None
    told: list[tuple[str, ContactReading]] = []
    refused: list[str] = []
    for name in CONTACTS:
        reading = found.job.readings.get(f"power_{name}")
        if reading is None:
            continue
        try:
            told.append((name, from_warmth(answer, name, reading.value, reading.tolerance)))
        except ValueError as wrong:
            refused.append(str(wrong))
    for picture in found.job.measured.pictures.values():
        for region, warm in spots_of(picture).items():
            seen = next((key for key in CONTACTS if PARTS[key].lower() == region.strip().lower()), None)
            if seen is None:
                continue
            try:
                told.append((seen, from_warmth(answer, seen, warm, picture.camera_doubt)))
            except ValueError as wrong:
                refused.append(f"{picture.label}: {wrong}")
    drop = found.job.readings.get("power_plug_drop")
    if drop is not None:
        amps, good = answer.full.amps.bed, answer.resolved.inputs.plug.good
        try:
            told.append(("plug", from_drop(drop.value, amps, drop.tolerance, AMPS_DOUBT * amps, good)))
        except ValueError as wrong:
            refused.append(str(wrong))
    return replace(found, told=tuple(told), refused=tuple(refused))

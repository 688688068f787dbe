"""A hotend put together: at once, with its bands, a whole shelf, the cheapest; against the whole job on the board."""

from __future__ import annotations

import random
import time
from collections.abc import Iterator

from benchmarks.timing import interleaved
from zeotherm.core.catalogue import Catalogue, shipped
from zeotherm.core.choices.board import Subjects, judged_column
from zeotherm.core.choices.build.cheapest import search
from zeotherm.core.choices.build.judged import first_built, fully_built
from zeotherm.core.choices.build.slots import Candidate, candidates, filled
from zeotherm.core.choices.build.wanted import wanted_of
from zeotherm.core.machine.build import Build
from zeotherm.core.machine.documents import Job
from zeotherm.core.parts.enclosure.judge.warmth import air_late
from zeotherm.core.parts.hotend.judge.course import course_of
from zeotherm.core.parts.whole.run import simulate
from zeotherm.shop.files.job_files import read_job
from zeotherm.shop.places import demo_jobs

REPEATS = 5
MOST = 1000  # parts: the whole shelf


def run() -> Iterator[str]:
    """Yield its lines."""
    job = next(one for one in map(read_job, demo_jobs()) if one.machine.startswith("Curlew"))
    catalogue = shipped().with_own(job.catalogue)
    hours = simulate(job.found, catalogue)
    wanted = wanted_of(Build(), job.found, air_late(hours), catalogue)
    known = frozenset(job.known)
    base = first_built(job.found, {}, wanted, hours, known)
    fan = next(one for one in candidates("cooling", job.found, job.found, catalogue, {}) if one.key == "axial_40_24v")
    change = filled({}, fan, job.found, catalogue)
    at_once, full, column = interleaved(
        REPEATS,
        lambda: first_built(job.found, change, wanted, hours, known, previous=base),
        lambda: fully_built(base, known),
        lambda: judged_column(course_of(simulate(job.found, catalogue)), {}, Subjects()),
    )
    yield f"a build at once {1e3 * at_once:.0f} ms, with bands, flow and heat-up {full:.2f} s"
    yield f"the whole job on the board {column:.2f} s: {column / at_once:.0f} times a build at once"
    found = fully_built(base, known)
    for count in (60, MOST):
        chosen = _some(job, catalogue, count)
        begun, early, first, last = time.perf_counter(), None, None, None
        for last in search(job.found, wanted, hours, known, hourly=30.0, offers=chosen.__getitem__, base=found):
            now = time.perf_counter() - begun
            early = now if early is None and last.does is not None else early
            first = now if first is None and last.best is not None else first
        whole = time.perf_counter() - begun
        if last is not None and first is not None:
            yield f"of {len(last.alone)} parts: one that does after {early:.1f} s, the cheapest after {first:.1f} s"
            yield f"with its runner-up {whole:.1f} s, {last.solved} solved, {1e3 * whole / last.solved:.0f} ms each"


def _some(job: Job, catalogue: Catalogue, count: int) -> dict[str, tuple[Candidate, ...]]:
    """Parts of every slot, so many of all."""
    every = [(slot, one) for slot in catalogue.slots for one in candidates(slot, job.found, job.found, catalogue, {})
             if one.change and one.cost is not None]  # fmt: skip
    kept = random.Random(1).sample(every, min(count, len(every)))
    return {slot: tuple(one for of, one in every if of == slot and (of, one) in kept) for slot in catalogue.slots}

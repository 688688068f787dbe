"""Hours of the machine against a general solver at equal error, and what the board and the scrubber cost."""

from __future__ import annotations

import itertools
from collections.abc import Iterator
from statistics import median
from time import perf_counter

import numpy as np
from tests.boards import questions, warm_up
from tests.verification.odes import Equation, by_general_solver, saturated

from benchmarks.timing import interleaved
from zeotherm.answers.board import CHEAPEST
from zeotherm.answers.processes import BOARD, Processes, blocking, processes
from zeotherm.answers.store import Store
from zeotherm.core.catalogue import shipped
from zeotherm.core.choices.board import offered
from zeotherm.core.machine.documents import patched
from zeotherm.core.machine.toolheads import setup_with
from zeotherm.core.parts.hotend.judge.ask import full_answer
from zeotherm.core.parts.hotend.judge.course import plan
from zeotherm.core.parts.hotend.model.readout import places
from zeotherm.core.parts.toolheads.judge import first_toolheads, sure_toolheads
from zeotherm.core.parts.whole.network import BODIES
from zeotherm.core.parts.whole.run import simulate
from zeotherm.core.solver.stepping import TimeStep, march, within_step
from zeotherm.shop.files.job_files import read_job
from zeotherm.shop.places import demo_jobs

STATIONS = ("block", "bore", "sink_base", "sink_top")
WANTED = 0.05  # K


def run() -> Iterator[str]:
    setup = next(read_job(path) for path in demo_jobs() if "curlew" in path.name).found
    yield from _against("from cold, 3 h, no sun", patched(setup, {"heats": None}), 3.0)
    yield from _against("from cold, 6 h, sun from noon", setup, 6.0)
    yield from _jobs()
    yield from _twin(setup)
    yield from _scrub(setup)
    yield from _board(setup)


def _against(what: str, setup, hours: float) -> Iterator[str]:
    """Both from one start, each at the loosest setting that keeps every station within 0.05 K of a tight run."""
    times = np.linspace(0.0, hours * 3600.0, 60)

    def ours(tolerance: float):
        system = saturated(setup, 12.4, 6.0, 0.5, tolerance)
        kept = [(0.0, begin, begin)]
        start = perf_counter()

        def keep(step: TimeStep) -> None:
            kept.append((step.start + step.length, step.end.values, step.middle))

        for stop_from, stop in _parts(system, times[-1]):
            march(system, kept[-1][1], stop_from, stop, longest=900.0, accepted=keep)
        spent = perf_counter() - start
        ends = np.array([one[0] for one in kept])
        found = []
        for time in times:
            at = max(int(np.searchsorted(ends, time - 1e-6)), 1)
            share = (time - ends[at - 1]) / (ends[at] - ends[at - 1])
            found.append(
                _stations(system, system.split(within_step(kept[at - 1][1], kept[at][2], kept[at][1], share))[0])
            )
        return spent, np.array(found), len(kept)

    def theirs(rtol: float):
        equation = Equation(saturated(setup, 12.4, 6.0, 0.5, 1.0))
        start = perf_counter()
        solved = by_general_solver(equation, begin, times, rtol, 100.0 * rtol)
        spent = perf_counter() - start
        return spent, np.array([_stations(equation.system, equation.unpack(y)[0]) for y in solved.y.T]), equation.calls

    first = saturated(setup, 12.4, 6.0, 0.5, 0.1)
    begin = np.full(first.shape[0] * first.shape[1] + len(BODIES), first.network.around.room(first.start_h))
    _spent, best, _calls = theirs(1e-7)
    mine = next(one for one in (ours(t) for t in (0.4, 0.2, 0.1, 0.05, 0.02, 0.01)) if _off(one[1], best) < WANTED)
    library = next(one for one in (theirs(t) for t in (3e-3, 1e-3, 3e-4, 1e-4, 3e-5)) if _off(one[1], best) < WANTED)
    yield (
        f"{what}: {1e3 * mine[0]:.0f} ms, {mine[2]} steps, off by {_off(mine[1], best):.3f} K; solve_ivp BDF with "
        f"sparsity {1e3 * library[0]:.0f} ms, {library[2]} calls, off by {_off(library[1], best):.3f} K: "
        f"{library[0] / mine[0]:.1f} times faster"
    )


def _parts(system, end: float) -> list[tuple[float, float]]:
    """Between the hours at which the sun comes and goes."""
    hours = [(hour - system.start_h) * 3600.0 for hour in system.network.around.hours_of_note]
    marks = [0.0, *(time for time in sorted(hours) if 0.0 < time < end), end]
    return list(itertools.pairwise(marks))


def _stations(system, temperature) -> list[float]:
    found = places(system.model, temperature)
    return [float(found[key]) for key in STATIONS]


def _off(one: np.ndarray, other: np.ndarray) -> float:
    return float(np.abs(one - other).max())


def _jobs() -> Iterator[str]:
    for path in demo_jobs():
        job = read_job(path)
        spent = []
        for _ in range(5):
            start = perf_counter()
            found = simulate(job.found, shipped(), job.tolerances)
            spent.append(perf_counter() - start)
        yield (
            f"{job.machine}: whole job of {found.end / 3600:.1f} h, {len(found.marks)} steps, "
            f"{median(spent):.2f} s; closure {found.closure:.0e}"
        )


def _twin(setup) -> Iterator[str]:
    """A machine's hours and its worst moment in full, with one hotend and with two that are judged both."""
    two = setup_with(setup, "T1")

    def judged(one) -> None:
        course = plan(one, shipped())
        full_answer(course.answer(course.worst_time), course=course, time=course.worst_time)
        if one.toolheads:
            sure_toolheads(first_toolheads(one, shipped(), {}, course))

    alone, twin = interleaved(3, lambda: judged(setup), lambda: judged(two))
    yield f"two hotends, hours and both judged: {twin:.2f} s; {twin / alone:.2f} times one ({alone:.2f} s)"


def _scrub(setup) -> Iterator[str]:
    course = plan(setup, shipped())
    course.answer(0.5 * course.run.end)
    spent = []
    for time in np.linspace(600.0, course.run.end - 600.0, 120):
        start = perf_counter()
        course.answer(float(time))
        spent.append(perf_counter() - start)
    yield f"one moment of a run, with margins: median {1e3 * median(spent):.1f} ms"


def _board(setup) -> Iterator[str]:
    variants = dict(list(offered(setup, shipped()).items())[:7])
    pool = Processes(Store())
    try:
        warm_up(pool)
        start = perf_counter()
        arrived = []
        wanted = [(), *((key,) for key in variants)]
        asked = questions(setup, variants, shipped(), wanted)
        for _keys, _column in blocking(pool.each(BOARD, shipped(), asked)):
            arrived.append(perf_counter() - start)
        first, last = arrived[0], arrived[-1]
        yield f"board of 8, whole jobs, {processes()} processes: first column {first:.2f} s, all {last:.2f} s"
        start = perf_counter()
        search = CHEAPEST.of(setup, variants, asked[()], shipped(), {})
        found = dict(blocking(pool.each(BOARD, shipped(), {0: search})))[0]
        names = " + ".join(found.keys) if found else "none"
        yield f"cheapest set among them: {perf_counter() - start:.1f} s ({names})"
    finally:
        pool.close()

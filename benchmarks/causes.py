"""Intake: how soon the first ranking stands, what an answer costs, how long the worlds of a machine take."""

from __future__ import annotations

from collections.abc import Iterator
from statistics import median
from time import perf_counter

from tests.boards import warm_up

from zeotherm.answers.causes import worlds_run
from zeotherm.answers.processes import Processes, blocking
from zeotherm.core.catalogue import shipped
from zeotherm.core.causes.next_check import plan
from zeotherm.core.causes.outcomes import Outcome
from zeotherm.core.causes.ranking import Facts, Table
from zeotherm.core.causes.worlds import hypotheses
from zeotherm.shop.files.job_files import read_job
from zeotherm.shop.places import demo_jobs

ANSWERS = {"goes_wrong": ("nothing",), "when": ("soak",), "depends": ("hour",), "plug": ("bulb",), "gear": ("ground",)}


def run() -> Iterator[str]:
    job = next(read_job(path) for path in demo_jobs() if "curlew" in path.name)
    catalogue = shipped()
    start = perf_counter()
    worlds = hypotheses(job.found, catalogue)
    table = Table(worlds, {}, catalogue)
    table.rank(Facts({}, job.readings))
    plan(table, Facts({}, job.readings), job.found)
    yield f"first ranking of {len(table.keys)} causes in {len(worlds)} worlds: {1e3 * (perf_counter() - start):.0f} ms"
    processes = Processes()
    try:
        warm_up(processes)
        start = perf_counter()
        results = dict(blocking(worlds_run(processes, job.found, catalogue, job.tolerances, worlds)))
        outcomes = {index: one for index, one in results.items() if isinstance(one, Outcome)}
        yield f"{len(outcomes)} worlds run over whole jobs, {processes()} processes: {perf_counter() - start:.1f} s"
    finally:
        processes.close()
    table = Table(worlds, outcomes, catalogue)
    spent, told = [], {}
    for key, option in ANSWERS.items():
        told = {**told, key: option}
        start = perf_counter()
        facts = Facts(told, job.readings)
        table.rank(facts)
        plan(table, facts, job.found)
        spent.append(perf_counter() - start)
    yield f"ranking and next check after an answer: median {1e3 * median(spent):.0f} ms, most {1e3 * max(spent):.0f} ms"

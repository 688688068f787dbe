"""Processes that write a workshop file and are killed at any moment: nothing that one was told is kept may be missing.

python -m tests.kills WHAT FILE [EDITS] is such a process: it writes behind what goes on, as the window does, and prints
a number for each edit that was acknowledged.
"""

from __future__ import annotations

import math
import os
import random
import signal
import sqlite3
import subprocess
import sys
import tempfile
import threading
import time
from collections import Counter, deque
from collections.abc import Callable
from concurrent.futures import Future
from pathlib import Path

from tests.boards import columns
from zeotherm.answers.processes import Processes
from zeotherm.core.catalogue import shipped
from zeotherm.core.machine.documents import Job, Setup, Variant, patched
from zeotherm.core.machine.measured import Measured, Run
from zeotherm.shop.editing import edits
from zeotherm.shop.editing.run_edits import with_run
from zeotherm.shop.files.series_files import as_run, read_series
from zeotherm.shop.places import demo_jobs
from zeotherm.shop.workshops.keeper import Keeper
from zeotherm.shop.workshops.workshop import Workshop, open_or_make

BEHIND = 3  # edits that may be on their way into the file, as behind a window
TURNS = 290  # of a number that an edit keeps, before it begins again
OLD_LAYOUT = """
CREATE TABLE jobs (id INTEGER PRIMARY KEY, cursor INTEGER NOT NULL) STRICT;
CREATE TABLE edits (job INTEGER NOT NULL REFERENCES jobs(id) ON DELETE CASCADE, step INTEGER NOT NULL,
    label TEXT NOT NULL, document TEXT NOT NULL, PRIMARY KEY (job, step)) STRICT, WITHOUT ROWID;
CREATE TABLE notes (key TEXT PRIMARY KEY, value TEXT NOT NULL) STRICT, WITHOUT ROWID;
CREATE TABLE attached (digest TEXT PRIMARY KEY, content BLOB NOT NULL) STRICT;
PRAGMA user_version = 1001;
"""


def older(path: Path) -> None:
    """A file of an older layout with one job."""
    base = sqlite3.connect(path)
    base.executescript(OLD_LAYOUT)
    base.execute("INSERT INTO jobs VALUES (1, 0)")
    base.execute("INSERT INTO edits VALUES (1, 0, '', ?)", (Job(machine="Old one").model_dump_json(),))
    base.commit()
    base.close()


def demo(workshop: Workshop) -> None:
    """What a new workshop is filled with: whole or not at all."""
    workshop.add(Job(machine="Demo one"))
    workshop.keep(b"x" * 50_000)
    workshop.add(Job(machine="Demo two"))


# an edit keeps the number, and the number is read from the job


def _with_volts(job: Job, number: int) -> Job:
    return edits.with_value(job, "fan.voltage_v", number / 10)


def _volts(job: Job) -> int:
    return round(job.setup().fan.voltage_v * 10)


LOG: list[Run] = []


def _with_import(job: Job, number: int) -> Job:
    if not LOG:
        path = demo_jobs()[1].parent / "2-curlew-run1.csv"
        LOG.append(as_run(read_series(path, shipped()), path.name))
    whole = LOG[0].model_copy(update={"label": f"Run {number}"})
    return with_run(job.model_copy(update={"measured": Measured()}), whole)


def _imported(job: Job) -> int:
    [run] = job.measured.runs.values()
    assert len(run.time_s) > 100, "its rows are there"
    return int(run.label.split()[1])


DOING: dict[str, tuple[Callable[[Job, int], Job], Callable[[Job], int]]] = {
    "edits": (_with_volts, _volts),
    "imports": (_with_import, _imported),
    "migration": (_with_volts, _volts),
    "board": (_with_volts, _volts),
}


def solve_boards() -> None:
    """Board after board, by worker processes."""
    processes = Processes()
    short = patched(Setup(), {"schedule": {"print_min": 5.0, "cool_min": 0.0}})
    variants = {"low": Variant(label="Low", change={"fan": {"voltage_v": 12.0}})}
    while True:
        columns(processes, short, variants, shipped(), [(), ("low",)])


def work(what: str, path: Path, edits_wanted: float) -> None:
    """Open or make the file, add a job, edit it."""
    if what == "board":
        threading.Thread(target=solve_boards, daemon=True).start()
    keeper = Keeper(path, demo)
    print("open", flush=True)
    key = keeper.ask(lambda workshop: workshop.add(Job()))
    job, made, behind = keeper.ask(lambda workshop: workshop.job(key)), 0, deque[Future[None]]()
    while made < edits_wanted:
        made += 1
        number = made % TURNS
        job = DOING[what][0](job, number)
        receipt = keeper.do(lambda workshop, job=job: workshop.edit(key, job, "edit"))
        receipt.add_done_callback(
            lambda done, number=number: print(number, flush=True) if not done.exception() else None
        )
        behind.append(receipt)
        if len(behind) > BEHIND:
            behind.popleft().result()
    keeper.close()


# killing


def killed(what: str, path: Path, after_lines: int, wait_s: float) -> int:
    """Kill one such process; returns how many edits it was told are kept, all of which must be there."""
    if what == "migration":
        older(path)
    child = subprocess.Popen([sys.executable, "-m", "tests.kills", what, str(path)], stdout=subprocess.PIPE, text=True)
    assert child.stdout is not None
    told = [child.stdout.readline() for _ in range(after_lines)]
    time.sleep(wait_s)
    os.kill(child.pid, signal.SIGKILL)
    with child.stdout:
        told += child.stdout.readlines()
    child.wait()
    numbers = [int(line) for line in told if line.strip().isdigit() and line.endswith("\n")]
    opened = open_or_make(path, None)
    try:
        jobs = opened.jobs()
        assert not opened.troubles
        assert not opened.look_over(), "every row bears its digest"
        made = [one.machine for _key, one in jobs]
        assert made.count("Old one") == (what == "migration")
        assert len([name for name in made if name.startswith("Demo")]) in (0, 2), "filled whole or not at all"
        if numbers:
            kept = DOING[what][1](jobs[-1][1])
            assert kept in (numbers[-1], (numbers[-1] + 1) % TURNS), "what was acknowledged, or one more"
    finally:
        opened.close()
    return len(numbers)


def kill_many(kills: int, seed: int) -> Counter[str]:
    """Kill at random moments of first starts, migrations, edits, imports and boards; counts by what was done."""
    chance = random.Random(seed)
    counts: Counter[str] = Counter()
    with tempfile.TemporaryDirectory() as folder:
        for number in range(kills):
            what = chance.choice(list(DOING))
            path = Path(folder) / f"{number}.zeotherm"
            told = killed(what, path, chance.choice([0, 0, 1, 2, 5, 30]), chance.uniform(0.0, 0.6))
            counts[what if told else "first start"] += 1
            counts["acknowledged"] += told
            path.unlink(missing_ok=True)
    return counts


if __name__ == "__main__":
    work(sys.argv[1], Path(sys.argv[2]), float(sys.argv[3]) if len(sys.argv) > 3 else math.inf)

"""Fresh places and settings for every test; figures of the verification are kept for docs/verification.md."""

from __future__ import annotations

import os
import shutil
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import pytest

from tests.kept import FOLDER, MINE, STORE

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
RECORD = pytest.StashKey[list[tuple[int, list[str]]]]()  # where its test stands among all, and its cells
PAGE = Path(__file__).parent.parent / "docs" / "verification.md"
HEAD = """# Verification

Every model is held against something that does not share its code: an analytic solution, a conservation law, a limit,
or an independent library. The figures below were written by `./run verify --record`, from the tests in
`tests/verification`; the tests fail when a bound is passed.

| what | against | found | bound |
|---|---|---|---|
"""
FOOT = """
## How to read it

- *Order* is the observed order of convergence: by how many powers of two the error falls when every cell is halved.
- The finite-element solution (`tests/verification/finite_elements.py`) has its own mesh for every part, quadratic
  elements, its own treatment of contacts, gap, advection and films, and its own iteration. It shares the material
  figures and the film laws, which are verified by themselves against `ht`, `fluids` and exact solutions.
- Where two solids in poor contact meet the air the temperature jumps at a point. An air node bonded to both would short
  the contact there, and did so in a first version (0.5 K at the neck, 5 K at the corner itself); the elements now let
  heat through the air's faces well, but not without end.
- Hidden causes: drawn by `tests/verification/cases.py` apart from the ranking. The machines stand in rooms of
  26 to 32 °C since verdicts agree with the bench: in cool rooms few of them jam. How true a stated probability is:

  ![Stated against right](calibration.svg)
- Pairs of runs: `tests/verification/virtual_pairs.py`; the truth is the same machine without chance, noise or rounding,
  by the same figures. The usual scatters are estimates, a little wider than the virtual printer's chance.
- Readers of foreign files: `python -m tests.fuzz_readers FILES SEED` cuts, splices and flips sound files. A run of
  roughly 400 000 files on the readers of 0.15 (seeds 101 and 202, stopped) found four causes of a crash in logs, which
  are mended. A million files of 0.16 (seeds 303 and 404): 405 091 read, 31 752 asked about, 563 157 refused in
  words, 9 176 rows told as left out, **no crash and no hang**. By the clock 23 of them took more than five seconds,
  while the run was halted or the machine at its limit; by the processor's time, which is asked since, none of another
  40 000 (seed 505) did.
- Bands are checked against 500 solves with every doubtful input drawn from a normal distribution.
"""


def pytest_addoption(parser: pytest.Parser) -> None:
    parser.addoption("--record", action="store_true", help="write docs/verification.md from this run")


def pytest_unconfigure(config: pytest.Config) -> None:
    if MINE:
        shutil.rmtree(FOLDER, ignore_errors=True)


@pytest.fixture
def shared_answers(monkeypatch: pytest.MonkeyPatch) -> None:
    """Commands ask the store that the whole test run shares."""
    monkeypatch.setattr("zeotherm.answers.store.Store", lambda: STORE)


def pytest_configure(config: pytest.Config) -> None:
    config.stash[RECORD] = []
    config.pluginmanager.register(FromWorkers())


@pytest.fixture
def record(request: pytest.FixtureRequest) -> Callable[[str, str, str, str], None]:
    """Keep one line of the verification: what, against, found, bound."""
    at = request.session.items.index(request.node)
    return lambda *line: request.config.stash[RECORD].append((at, list(line)))


class FromWorkers:
    """What every process of a run has recorded."""

    @pytest.hookimpl(optionalhook=True)
    def pytest_testnodedown(self, node: Any, error: object) -> None:
        """Take over what one of them has."""
        node.config.stash[RECORD] += map(tuple, getattr(node, "workeroutput", {}).get("record", []))


def pytest_sessionfinish(session: pytest.Session, exitstatus: int) -> None:
    if hasattr(session.config, "workeroutput"):
        session.config.workeroutput["record"] = session.config.stash[RECORD]
        return
    lines = [line for _at, line in sorted(session.config.stash[RECORD], key=lambda one: one[0])]
    if session.config.getoption("--record") and exitstatus != pytest.ExitCode.OK:
        print(f"\n{PAGE.name} is not written: a bound was passed, or a test failed.")
    elif session.config.getoption("--record") and lines:
        rows = "".join(f"| {' | '.join(line)} |\n" for line in lines)
        PAGE.write_text(HEAD + rows + FOOT, encoding="utf-8")


@pytest.fixture(autouse=True)
def _own_places(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Iterator[None]:
    monkeypatch.setenv("ZEOTHERM_DATA", str(tmp_path / "data"))
    monkeypatch.setenv("ZEOTHERM_STATE", str(tmp_path / "state"))
    monkeypatch.setenv("ZEOTHERM_CACHE", str(tmp_path / "cache"))
    return


@pytest.fixture(scope="session")
def demo() -> Callable[[str], object]:
    """A job of the demo workshop by its machine."""
    from zeotherm.shop.files.job_files import read_job
    from zeotherm.shop.places import demo_jobs

    jobs = {job.machine.split(",")[0]: job for job in map(read_job, demo_jobs())}
    return lambda machine: jobs[machine]

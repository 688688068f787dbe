"""What the tests notice: fifty one-sign changes to code, each held against the tests nearest to it.

    python -m tests.survey COSMIC_RAY [SEED]

COSMIC_RAY: the program of that name, a well-known tool that makes and applies the changes; it is no part of the locked
environment. Works in a copy of the last commit and takes a quarter of an hour; not run by any other command. Lines of
decorators, imports and types are left out: what they change shows nowhere.
"""

from __future__ import annotations

import json
import random
import re
import sqlite3
import subprocess
import sys
import tempfile
from pathlib import Path

HERE = Path(__file__).parents[1]
EACH = 10
BENCH = "tests/golden/test_bench.py::test_the_bench_reckons_as_before"
AREAS = {  # where a sign is changed, and the tests nearest to it
    "physics": ("core/physics", "src/zeotherm/core/physics tests/verification/test_laws.py "
                "tests/verification/test_analytic.py tests/verification/test_jamming.py"),
    "wiring check": ("core/parts/power/judge/nets.py", f"{BENCH}[wirings] tests/core/test_nets.py"),
    "figures": ("core/runs/figures.py", f"{BENCH}[runs] tests/core/test_runs.py tests/verification/test_runs.py"),
    "tables": ("shop/files/tables.py", f"{BENCH}[tables] tests/shop/test_run_files.py tests/shop/test_series_files.py "
               "tests/shop/test_dialects.py tests/verification/test_runs.py"),
    "procedures": ("core/work", f"{BENCH}[orders] {BENCH}[waits] tests/core/test_procedures.py "
                   "tests/core/test_waits.py tests/core/test_guard.py"),
}  # fmt: skip
SIGNS = re.compile(r"Binary|Comparison|Number|Unary|AddNot|AndWithOr|OrWithAnd|TrueWithFalse|FalseWithTrue")
NO_SIGNS = re.compile(r"Bit|Shift|IsNot|_Is_|_Is$")
LEFT_OUT = re.compile(r"\s*(@|from |import |assert |\"\"\"|#)|.*: (float|int|str|bool|tuple|dict|list)\b.*=|.*TypeVar")


def main() -> int:
    tool, seed = sys.argv[1], int(sys.argv[2]) if len(sys.argv) > 2 else 1
    chance, noticed, survived = random.Random(seed), 0, []
    with tempfile.TemporaryDirectory() as folder:
        copy = Path(folder) / "copy"
        subprocess.run(["git", "clone", "-q", str(HERE), str(copy)], check=True)
        for area, (place, tests) in AREAS.items():
            for outcome, where, what in surveyed(tool, copy, f"src/zeotherm/{place}", tests, chance):
                noticed += outcome
                if not outcome:
                    survived.append(f"{area}: {where}\n{what}")
    print(f"{noticed} of {noticed + len(survived)} noticed.")
    print("\n".join(survived))
    return 0


def surveyed(tool: str, copy: Path, place: str, tests: str, chance: random.Random) -> list[tuple[bool, str, str]]:
    """Changes drawn in one place: whether each was noticed, where it is, what it changed."""
    config, session = copy / "survey.toml", copy / "survey.sqlite"
    python = f"env PYTHONPATH={copy / 'src'}:{copy} QT_QPA_PLATFORM=offscreen OPENBLAS_NUM_THREADS=1 {sys.executable}"
    command = f"{python} -m pytest -x -q -p no:cacheprovider -m 'not verify' {tests}"
    config.write_text(
        f"[cosmic-ray]\nmodule-path = {json.dumps([place])}\ntimeout = 400.0\nexcluded-modules = []\n"
        f"test-command = {json.dumps(command)}\n[cosmic-ray.distributor]\nname = 'local'\n"
    )
    session.unlink(missing_ok=True)
    subprocess.run([tool, "init", str(config), str(session)], cwd=copy, check=True, capture_output=True)
    with sqlite3.connect(session) as changes:
        lines: dict[tuple[str, int], list[str]] = {}
        rows = changes.execute(
            "select job_id, operator_name, module_path, start_pos_row from mutation_specs"
        ).fetchall()
        for job, operator, module, row in rows:
            text = (copy / module).read_text(encoding="utf-8").splitlines()[row - 1]
            if SIGNS.search(operator) and not NO_SIGNS.search(operator) and not LEFT_OUT.match(text):
                lines.setdefault((module, row), []).append(job)
        kept = {chance.choice(lines[one]) for one in chance.sample(sorted(lines), min(EACH, len(lines)))}
        for job, *_rest in rows:
            if job not in kept:
                changes.execute("delete from mutation_specs where job_id = ?", (job,))
                changes.execute("delete from work_items where job_id = ?", (job,))
    subprocess.run([tool, "exec", str(config), str(session)], cwd=copy, check=True, capture_output=True)
    with sqlite3.connect(session) as changes:
        told = changes.execute(
            "select r.test_outcome, m.module_path || ':' || m.start_pos_row, r.diff from mutation_specs m "
            "join work_results r on m.job_id = r.job_id"
        ).fetchall()
    return [("SURVIVED" not in str(outcome), where, _signs(diff)) for outcome, where, diff in told]


def _signs(diff: str) -> str:
    return "\n".join(line for line in diff.splitlines() if re.match(r"[-+](?![-+])", line))


if __name__ == "__main__":
    sys.exit(main())

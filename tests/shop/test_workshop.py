"""The workshop file: nothing acknowledged is lost, a damaged row leaves the rest whole, foreign files stay alone."""

from __future__ import annotations

import hashlib
import os
import random
import resource
import signal
import sqlite3
import stat
import subprocess
import sys
from collections.abc import Iterator
from pathlib import Path

import pytest

from tests.kills import DOING, kill_many, killed, older
from zeotherm.cli import main
from zeotherm.core.machine.documents import Job
from zeotherm.core.machine.measured import Measured, Run
from zeotherm.shop.editing import edits
from zeotherm.shop.errors import ShopError
from zeotherm.shop.leftovers import clean_leftovers, own_prefix
from zeotherm.shop.workshops.workshop import LAYOUT, Workshop
from zeotherm.shop.workshops.workshop_file import OURS


@pytest.fixture
def path(tmp_path: Path) -> Path:
    return tmp_path / "w.zeotherm"


@pytest.fixture
def workshop(path: Path) -> Iterator[Workshop]:
    opened = Workshop(path)
    yield opened
    opened.close()


def volts(job: Job) -> float:
    return job.setup().fan.voltage_v


def at(job: Job, value: float) -> Job:
    return edits.with_value(job, "fan.voltage_v", value)


def filled(path: Path, values: tuple[float, ...] = (20.0, 18.0, 16.0)) -> int:
    opened = Workshop(path)
    key = opened.add(Job())
    for value in values:
        opened.edit(key, at(opened.job(key), value), f"fan {value}")
    opened.close()
    return key


def changed(path: Path, statement: str, *values: object) -> None:
    base = sqlite3.connect(path)
    base.execute(statement, values)
    base.commit()
    base.close()


# edits


def test_edits_undo_and_redo_across_openings(path):
    key = filled(path)
    again = Workshop(path)
    assert volts(again.job(key)) == 16.0
    assert again.undo(key) == "fan 16.0"
    assert volts(again.job(key)) == 18.0
    assert again.redo(key) == "fan 16.0"
    assert again.redo(key) is None
    again.undo(key)
    again.edit(key, at(again.job(key), 5.0), "fan 5")
    assert again.redo(key) is None
    again.close()


def test_a_drag_is_one_edit(workshop):
    key = workshop.add(Job())
    for index, value in enumerate((23.0, 22.0, 21.0, 20.0)):
        workshop.edit(key, at(workshop.job(key), value), "drag", amend=index > 0)
    assert volts(workshop.job(key)) == 20.0
    assert workshop.undo(key) == "drag"
    assert volts(workshop.job(key)) == 24.0


def test_a_missing_job_is_told(workshop):
    with pytest.raises(ShopError, match="Job 99"):
        workshop.job(99)


# processes that are killed


@pytest.mark.parametrize("what", DOING)
def test_a_killed_process_loses_no_edit(path, what):
    assert killed(what, path, 25, 0.0) > 15


@pytest.mark.parametrize("wait", [0.0, 0.05, 0.4, 0.8])
def test_a_process_killed_at_its_first_start_leaves_a_file_that_opens(path, wait):
    killed("edits", path, 0, wait)


@pytest.mark.verify
def test_two_hundred_kills_lose_nothing():
    assert kill_many(200, 5)["acknowledged"] > 500


def test_leftovers_of_killed_processes_are_cleaned(tmp_path, monkeypatch):
    monkeypatch.setattr("tempfile.gettempdir", lambda: str(tmp_path))
    gone, mine, other = tmp_path / "zeotherm-999999999-a", tmp_path / f"{own_prefix()}b", tmp_path / "zeotherm-notes"
    for folder in (gone, mine, other):
        folder.mkdir()
    assert clean_leftovers() == [gone]
    assert mine.exists()
    assert other.exists()


# a disk that is full


def test_a_full_disk_is_told_and_loses_nothing(workshop):
    key = workshop.add(Job())
    base = workshop._file.base
    pages = base.execute("PRAGMA page_count").fetchone()[0]
    base.execute(f"PRAGMA max_page_count = {pages}")
    with pytest.raises(ShopError, match="Free some space"):
        workshop.edit(key, at(workshop.job(key), 9.0), "x" * 400_000)
    assert volts(workshop.job(key)) == 24.0


def test_a_commit_that_fails_keeps_nothing_of_it_and_every_other_job_opens(path, demo):
    """The disk is full at the commit itself: rows of a run that were put aside in it are put aside again later."""
    key, other = filled(path), None
    opened = Workshop(path)
    other = opened.add(Job(machine="Other"))
    times = [float(n) for n in range(1500)]
    run = Run(label="r", source="f", rows=1500, time_s=times, values={"bed": [20.0 + n for n in range(1500)]})
    job = opened.job(key)
    with_run = job.model_copy(update={"measured": Measured(runs={"r": run})})
    before = resource.getrlimit(resource.RLIMIT_FSIZE)
    used = max(Path(f"{path}{side}").stat().st_size for side in ("", "-wal"))
    old = signal.signal(signal.SIGXFSZ, signal.SIG_IGN)
    resource.setrlimit(resource.RLIMIT_FSIZE, (used, before[1]))
    try:
        with pytest.raises(ShopError, match=r"(space|disk)"):
            opened.edit(key, with_run, "run taken in")
    finally:
        resource.setrlimit(resource.RLIMIT_FSIZE, before)
        signal.signal(signal.SIGXFSZ, old)
    assert [one.machine for _key, one in opened.jobs()] == ["New machine", "Other"]
    opened.edit(key, with_run, "run taken in")
    opened.edit(other, at(opened.job(other), 9.0), "fan 9")
    opened.close()
    again = Workshop(path)
    assert again.job(key).measured.runs["r"].values["bed"][-1] == 1519.0
    assert not again.troubles
    again.close()


# damage


def test_one_damaged_edit_is_told_and_set_aside_and_the_rest_works(path, tmp_path):
    key, other = filled(path), filled(path, (9.0,))
    changed(path, "UPDATE edits SET document = replace(document, '16.0', '61.0') WHERE job = ? AND step = 3", key)
    opened = Workshop(path)
    assert [volts(job) for _key, job in opened.jobs()] == [18.0, 9.0], "the last whole edit before it"
    assert [one.job for one in opened.troubles] == [key]
    assert any("Damaged" in text for text in opened.news())
    opened.edit(key, at(opened.job(key), 12.0), "fan 12")
    assert volts(opened.job(key)) == 12.0
    kept = dict(opened.damaged_rows())
    assert any(b"61.0" in content for content in kept.values()), "what is left of it can be exported"
    assert volts(opened.job(other)) == 9.0
    opened.close()


def test_flipped_bits_never_go_unnoticed_or_lock_the_workshop(path):
    chance = random.Random(4)
    filled(path)
    filled(path, (9.0, 8.0))
    whole = path.read_bytes()
    told = 0
    for _try in range(60):
        data = bytearray(whole)
        for _bit in range(chance.choice([1, 3, 20])):
            data[chance.randrange(4096, len(data))] ^= 1 << chance.randrange(8)
        path.write_bytes(bytes(data))
        for side in ("-wal", "-shm"):
            Path(f"{path}{side}").unlink(missing_ok=True)
        try:
            opened = Workshop(path)
        except ShopError:
            told += 1
            continue
        try:
            found = opened.jobs()
            for _key, job in found:
                assert volts(job) in (24.0, 20.0, 18.0, 16.0, 9.0, 8.0)
            told += bool(opened.troubles)
        except ShopError:
            told += 1
        finally:
            opened.close()
    assert told > 0


def test_a_run_whose_rows_are_damaged_is_left_out_alone(path):
    key = filled(path)
    opened = Workshop(path)
    runs = {name: Run(label=name, source="f", rows=2, time_s=[0.0, 1.0], values={"bed": [20.0, value]})
            for name, value in (("a", 30.0), ("b", 40.0))}  # fmt: skip
    measured = Measured(runs=runs, laid="a", hidden=["a"])
    opened.edit(key, opened.job(key).model_copy(update={"measured": measured}), "runs")
    opened.close()
    long = hashlib.sha256(b'{"time_s": [0.0, 1.0], "values": {"bed": [20.0, 30.0]}}').hexdigest()
    changed(path, "UPDATE attached SET content = x'00' WHERE digest = ?", long)
    again = Workshop(path)
    job = again.job(key)
    assert list(job.measured.runs) == ["b"]
    assert any("a of job" in one.what for one in again.troubles)
    again.close()


def test_a_truncated_file_is_told(path):
    filled(path)
    path.write_bytes(path.read_bytes()[:5000])
    with pytest.raises(ShopError, match=r"workshop-check|no workshop file|could not"):
        Workshop(path).jobs()


def test_the_command_looks_at_every_row_and_exports(path, tmp_path):
    from click.testing import CliRunner

    key = filled(path)
    whole = CliRunner().invoke(main, ["workshop-check", str(path)])
    assert whole.exit_code == 0
    assert "1 jobs, 0 damaged" in whole.output
    changed(path, "UPDATE edits SET document = 'x' WHERE job = ? AND step = 1", key)
    found = CliRunner().invoke(main, ["workshop-check", str(path), "--export", str(tmp_path / "out")])
    assert found.exit_code == 2
    assert "edit 1 of job 1" in found.output
    assert [one.read_text() for one in (tmp_path / "out").iterdir()] == ["x"]
    assert "not there" in CliRunner().invoke(main, ["workshop-check", str(tmp_path / "none")]).output


# other windows, other files


def test_a_second_window_reads_and_says_so(path):
    key = filled(path)
    first, second = Workshop(path), Workshop(path)
    assert not first.reading
    assert second.reading
    assert any("another window" in text for text in second.news())
    assert volts(second.job(key)) == 16.0
    with pytest.raises(ShopError, match="another window"):
        second.edit(key, at(second.job(key), 5.0), "fan 5")
    second.set_note("theme", "dark")
    first.edit(key, at(first.job(key), 6.0), "fan 6")
    assert volts(second.job(key)) == 6.0, "what the first one writes is seen"
    first.close()
    second.close()
    third = Workshop(path)
    assert not third.reading
    third.close()


def test_two_windows_at_the_first_start_make_one_whole_file(path):
    two = [subprocess.Popen([sys.executable, "-m", "tests.kills", "edits", str(path), "3"], stdout=subprocess.PIPE,
                            stderr=subprocess.PIPE, text=True) for _child in range(2)]  # fmt: skip
    for child in two:
        child.communicate()
    opened = Workshop(path)
    demos = [one for _key, one in opened.jobs() if one.machine.startswith("Demo")]
    assert len(demos) == 2
    opened.close()


def test_a_folder_that_may_not_be_written_is_opened_for_reading(path):
    key = filled(path)
    script = (
        "import os, sys, encodings.ascii\nfrom pathlib import Path\n"
        "from zeotherm.shop.workshops.workshop import Workshop\n"
        "import zeotherm.core.parts.hotend.judge.ask; os.setuid(65534); w = Workshop(Path(sys.argv[1]))\n"
        "print(w.reading, w.job(int(sys.argv[2])).number)\n"
    )
    if os.getuid() != 0:
        pytest.skip("only the superuser may become nobody")
    for folder in (path.parent, *path.parent.parents):
        if str(folder).startswith("/tmp/"):
            folder.chmod(0o755)
    path.chmod(0o644)
    sides = [Path(f"{path}{side}") for side in ("-wal", "-shm")]
    found = subprocess.run(
        [sys.executable, "-c", script, str(path), str(key)], capture_output=True, text=True, check=False
    )
    assert not any(side.exists() and side.stat().st_uid == 65534 for side in sides)
    assert found.stdout.strip() == "True 0001" or "could not be" in found.stderr, found.stderr


def test_a_file_that_is_removed_while_it_is_open_is_written_anew(path):
    key = filled(path)
    opened = Workshop(path)
    path.unlink()
    opened.edit(key, at(opened.job(key), 7.0), "fan 7")
    assert any("saved again" in text for text in opened.news())
    opened.close()
    again = Workshop(path)
    assert volts(again.job(key)) == 7.0
    assert again.undo(key) == "fan 7"
    again.close()


def test_a_file_that_is_replaced_while_it_is_open_is_left_alone(path, tmp_path):
    key = filled(path)
    opened = Workshop(path)
    other = b"somebody else's"
    path.unlink()
    path.write_bytes(other)
    opened.edit(key, at(opened.job(key), 7.0), "fan 7")
    assert path.read_bytes() == other
    assert opened.path.name == "w-kept.zeotherm"
    assert volts(opened.job(key)) == 7.0
    opened.close()


def test_files_that_are_no_workshop_are_never_altered(tmp_path):
    text = tmp_path / "text.zeotherm"
    text.write_text("this is no database, though it is long enough to be looked at " * 40)
    foreign = tmp_path / "foreign.zeotherm"
    base = sqlite3.connect(foreign)
    base.execute("CREATE TABLE songs (name TEXT)")
    base.commit()
    base.close()
    alike = tmp_path / "alike.zeotherm"
    base = sqlite3.connect(alike)
    base.execute("CREATE TABLE jobs (id INTEGER PRIMARY KEY)")
    base.execute("CREATE TABLE staff (id INTEGER PRIMARY KEY)")
    base.commit()
    base.close()
    newer = tmp_path / "newer.zeotherm"
    base = sqlite3.connect(newer)
    base.execute("PRAGMA user_version = 9000")
    base.execute(f"PRAGMA application_id = {OURS}")
    base.close()
    for file, told in ((text, "Choose another file"), (foreign, "no workshop"), (alike, "no workshop"),
                       (newer, "newer version of Zeotherm")):  # fmt: skip
        before = file.read_bytes()
        with pytest.raises(ShopError, match=told):
            Workshop(file)
        assert file.read_bytes() == before
        assert not [one for one in tmp_path.iterdir() if one.name.startswith(file.name) and one != file
                    and not one.name.endswith(".lock")]  # fmt: skip
    with pytest.raises(ShopError, match="could not be opened"):
        Workshop(Path("/proc/none/w.zeotherm"))


# older layouts, permissions


def test_a_file_of_an_older_layout_is_copied_before_it_is_brought_up_to_date(path):
    older(path)
    opened = Workshop(path)
    assert opened.job(1).machine == "Old one"
    copy = path.with_name("w.before-1.2.zeotherm")
    assert any(copy.name in text for text in opened.news())
    opened.close()
    for file in (path, copy):
        assert stat.S_IMODE(file.stat().st_mode) == 0o600
    old = sqlite3.connect(copy)
    assert old.execute("PRAGMA user_version").fetchone()[0] == 1001
    old.close()
    again = Workshop(path)
    assert not again.news(), "once"
    assert again._file.base.execute("PRAGMA user_version").fetchone()[0] == LAYOUT
    again.close()


def test_workshop_and_log_are_read_by_their_owner_only(path, workshop, monkeypatch, tmp_path):
    workshop.add(Job())
    for side in ("", "-wal", "-shm", ".lock"):
        assert stat.S_IMODE(Path(f"{path}{side}").stat().st_mode) == 0o600, side


def test_a_clock_that_is_set_back_or_forward_keeps_every_edit(path):
    key = filled(path)
    for seconds in (0.0, 4e9):
        os.utime(path, (seconds, seconds))
        opened = Workshop(path)
        assert volts(opened.job(key)) == 16.0
        opened.close()

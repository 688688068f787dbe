"""What nobody should type, and what every command says to it: one sentence, no traceback, nothing written."""

from __future__ import annotations

import json
import os
from pathlib import Path

import pytest
from click.testing import CliRunner

from tests.test_cli import CURLEW, run
from zeotherm.cli import main
from zeotherm.shop.files.job_files import dumps, read_job
from zeotherm.shop.places import file_stem

pytestmark = pytest.mark.usefixtures("shared_answers")


def told(*words: str) -> str:
    """What a command says that is refused; it ends with 1 or 2 and by no exception of its own."""
    found = run(*words)
    assert found.exit_code in (1, 2), found.output
    assert isinstance(found.exception, SystemExit), found.exception
    assert "Traceback" not in found.output
    return found.output


def changed(tmp_path: Path, *path_and_value: object) -> str:
    """A demo job's file with one value put in its place, by the keys to it."""
    data = json.loads(Path(CURLEW).read_text(encoding="utf-8"))
    *path, last, value = path_and_value
    inner = data
    for key in path:
        inner = inner.setdefault(key, {}) if isinstance(inner, dict) else inner[key]
    inner[last] = value
    file = tmp_path / "changed.json"
    file.write_text(json.dumps(data), encoding="utf-8", errors="surrogatepass")
    return str(file)


@pytest.mark.parametrize(
    ("path", "value", "names"),
    [
        (("found", "bed", "part"), {}, "part"),
        (("found", "hotend", "template"), ["standard_all_metal"], "template"),
        (("found", "printing", "nozzle_c"), float("nan"), "NaN is no number"),
        (("found", "printing", "nozzle_c"), float("inf"), "Infinity is no number"),
        (("found", "room", "mean_c"), "warm", "mean_c"),
        (("notes",), 7, "notes"),
        (("machine",), "\ud800", ""),
        (("measured", "tariff"), 1e308, "tariff"),
        (("tolerances", "fan.guard_blocked_pct"), -3.0, "guard_blocked_pct"),
    ],
)
def test_a_job_with_one_wrong_value_names_it(tmp_path: Path, path, value, names):
    for command in ("check", "solve"):
        assert names in told(command, changed(tmp_path, *path, value))


@pytest.mark.parametrize("text", ["", "[]", "7", "null", "{", '{"format": 3}', "\x00\x01", "[" * 5000])
def test_a_file_that_is_no_job_is_said_to_be_none(tmp_path: Path, text):
    file = tmp_path / "job.json"
    file.write_text(text, encoding="utf-8")
    assert "job.json" in told("check", str(file))


def test_a_name_that_is_no_text_is_told_in_print(tmp_path: Path):
    file = os.fsdecode(os.fsencode(tmp_path) + b"/log-\xff\xfe.csv")
    Path(file).write_text("time_s,board\n0,20\n1,21\n2,22\n", encoding="utf-8")
    for words in (
        ("convert", file, "-o", str(tmp_path / "out.csv")),
        ("runs", file),
        ("check", file),
        ("log", CURLEW, file),
    ):
        run(*words).output.encode("utf-8")
    (tmp_path / "out.csv").read_text(encoding="utf-8").encode("utf-8")


@pytest.mark.parametrize(
    ("words", "names"),
    [
        (("runs", "no.csv", "--tariff", "nan"), "tariff"),
        (("runs", "no.csv", "--at", "-1"), "--at"),
        (("picture", "no.csv", "--bar", "inf,0,1,1"), "--bar"),
        (("picture", "no.csv", "--bar", "1,2"), "--bar"),
        (("picture", "no.csv", "--scale", "20,nan"), "--scale"),
        (("virtual-day", "out.csv", "--seed", "-1"), "--seed"),
        (("bed-size", CURLEW, "--supply", "nan"), "--supply"),
        (("cooldown", CURLEW, "--to", "nan"), ""),
        (("power-reading", CURLEW, "plug", "--drop", "inf", "--amps", "1"), "--drop"),
    ],
)
def test_an_option_that_is_no_number_is_refused_by_name(words, names):
    assert names in told(*words)


def test_more_runs_than_a_comparison_holds_are_refused(tmp_path: Path):
    files = []
    for index in range(25):
        file = tmp_path / f"run{index}.csv"
        file.write_text("time_s,board\n" + "".join(f"{10 * row},{20 + row}\n" for row in range(60)), encoding="utf-8")
        files.append(str(file))
    assert "24" in told("runs", *files)


@pytest.mark.parametrize("value", ["1e308", "nan", "-inf", "[bold]x[/bold]", "\ud800"])
def test_a_condition_that_cannot_be_is_refused(tmp_path: Path, value):
    for name in "ab":
        text = "time_s,board\n" + "".join(f"{10 * row},{20 + row}\n" for row in range(60))
        (tmp_path / f"{name}.csv").write_text(text, encoding="utf-8")
    told("runs", str(tmp_path / "a.csv"), str(tmp_path / "b.csv"), "--note", f"room={value}/22")


def test_markup_is_printed_as_it_was_written(tmp_path: Path):
    job = read_job(Path(CURLEW))
    file = tmp_path / "marked.json"
    marked = job.model_copy(update={"machine": "[red]Curlew[/red] [/]", "complaint": "[link=x]"})
    file.write_text(dumps(marked), encoding="utf-8")
    for command in ("solve", "run", "causes", "order", "check", "bed", "chamber", "power", "compare"):
        words = (command, str(file), *((str(tmp_path / "run.csv"),) if command == "run" else ()))
        found = run(*words)
        assert found.exception is None or isinstance(found.exception, SystemExit), (command, found.exception)
    assert "[red]Curlew[/red] [/]" in run("check", str(file)).output


OWN_SHAPES = [
    ({"strand_d": 2.5}, "strand_d"), ({"bore_d": 9.0}, "bore_d"), ({"sink": {"fins": 40}}, "fins"),
    ({"sink": {"fin_thickness": 9.0}}, "beyond sink.height"), ({"sink": {"core_d": 90.0}}, "core_d"),
    ({"label": 3}, "label"),
]  # fmt: skip


@pytest.mark.parametrize(("change", "names"), OWN_SHAPES)
def test_an_own_hotend_that_cannot_be_made_is_refused(tmp_path: Path, change, names):
    from zeotherm.core.catalogue import shipped

    shape = shipped().hotends["standard_all_metal"].model_dump(mode="json")
    for key, value in change.items():
        shape[key] = {**shape[key], **value} if isinstance(value, dict) else value
    assert names in told("check", changed(tmp_path, "catalogue", "hotends", "own", shape))


@pytest.mark.parametrize("off_mm", [0.0, 0.005, 0.015, 0.02, 0.03])
def test_a_block_that_ends_at_its_core_is_solved(tmp_path: Path, off_mm):
    from zeotherm.core.catalogue import shipped

    shape = shipped().hotends["standard_all_metal"].model_dump(mode="json")
    shape["block"]["width"] = shape["block"]["depth"] = shape["thread_d"] + 1e-3 + off_mm
    file = changed(tmp_path, "catalogue", "hotends", "own", shape)
    found = run("solve", file)
    assert found.exception is None or isinstance(found.exception, SystemExit), found.exception


def test_check_own_on_a_pipe_says_so(tmp_path: Path):
    pipe = tmp_path / "pipe.toml"
    os.mkfifo(pipe)
    assert "pipe.toml" in told("check-own", str(pipe))
    told("check-own", "/dev/zero")


def test_a_mains_bed_is_sized(tmp_path: Path):
    file = changed(tmp_path, "found", "bed", {"part": "large_mains_bed", "heater_w": 800.0})
    found = run("bed-size", file)
    assert found.exit_code == 0, found.output
    assert "takes nothing from the supply" in found.output


@pytest.mark.parametrize(
    ("words", "stem"),
    [("../../../etc/x", "etc-x"), ("a/b\\c:d", "a-b-c-d"), ("", "job"), ("..", "job"), ("Möwe 4", "Möwe-4")],
)
def test_a_proposed_name_has_no_path_in_it(words, stem):
    assert file_stem(words) == stem


def test_every_command_takes_every_kind_of_file_without_a_traceback(tmp_path: Path):
    odd = tmp_path / "odd.bin"
    odd.write_bytes(bytes(range(256)) * 40)
    empty = tmp_path / "empty.csv"
    empty.write_bytes(b"")
    for name, command in main.commands.items():
        if name in ("desk", "demo", "schema", "procedures", "workshop-check", "virtual-day"):
            continue
        needed = sum(parameter.required for parameter in command.params)
        for file in (odd, empty, tmp_path, tmp_path / "nowhere.json"):
            found = CliRunner().invoke(main, [name, *[str(file)] * max(needed, 1)])
            assert found.exception is None or isinstance(found.exception, SystemExit), (
                name,
                file.name,
                found.exception,
            )

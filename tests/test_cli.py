"""The command line: the same answers without a screen."""

from __future__ import annotations

import json
from pathlib import Path

import pytest
from click.testing import CliRunner

from zeotherm.cli import main
from zeotherm.shop.places import demo_jobs

CURLEW = next(str(path) for path in demo_jobs() if "curlew" in path.name)


def run(*words: str):
    return CliRunner().invoke(main, list(words))


def test_solve_gives_everything_as_json():
    found = run("solve", CURLEW, "--json")
    assert found.exit_code == 0
    data = json.loads(found.stdout)
    assert {"verdict", "stations", "margins", "watts", "solver", "cautions"} <= set(data)
    assert data["solver"]["energy_closure"] < 1e-6
    assert data["stations"]["sink_base"]["measured"] == 46.8
    assert data["course"]["energy_closure"] < 1e-6
    assert any(event["what"].startswith("retraction draws") for event in data["course"]["events"])
    assert data["strengths"][0]["gain"] > 0
    assert all(margin["source"] and margin["breaks"] for margin in data["margins"])
    assert all(margin["band"] for margin in data["margins"] if margin["room"] is not None)


def test_solve_prints_a_table():
    found = run("solve", CURLEW)
    assert found.exit_code == 0
    assert "too high" in found.stdout
    assert "jam about" in found.stdout
    assert "Neck bore" in found.stdout


def test_schema_accepts_the_demo():
    schema = json.loads(run("schema").stdout)
    assert set(json.loads(Path(CURLEW).read_text())) <= set(schema["properties"])


def test_check_and_set(tmp_path: Path):
    copy = tmp_path / "job.json"
    copy.write_text(Path(CURLEW).read_text())
    assert run("check", str(copy)).exit_code == 0
    assert run("set", str(copy), "fan", "12", "V").exit_code == 0
    assert json.loads(copy.read_text())["trial"] == {"fan": {"voltage_v": 12.0}}
    before = copy.read_text()
    refused = run("set", str(copy), "fan", "99", "V")
    assert refused.exit_code == 1
    assert "goes from" in refused.stderr
    assert copy.read_text() == before


@pytest.mark.parametrize("ending", [".html", ".pdf"])
def test_report_is_written(tmp_path: Path, ending, qapp):
    target = tmp_path / f"report{ending}"
    found = run("report", CURLEW, "-o", str(target))
    assert found.exit_code == 0, found.output
    data = target.read_bytes()
    assert data.startswith(b"%PDF" if ending == ".pdf" else b"<!DOCTYPE html>")


def test_errors_are_one_sentence_on_standard_error(tmp_path: Path):
    found = run("solve", str(tmp_path / "none.json"))
    assert found.exit_code == 1
    assert found.stderr.startswith("zeotherm: There is no file")
    assert found.stdout == ""
    assert run("solve").exit_code == 2
    assert run("report", CURLEW, "-o", str(tmp_path / "x.txt")).exit_code == 2
    assert run("--version").exit_code == 0

"""Jobs as files: nothing is lost, and what is wrong is told in one sentence."""

from __future__ import annotations

import json
import os
from pathlib import Path

import pytest

from zeotherm.core.machine.documents import Job
from zeotherm.shop.errors import ShopError
from zeotherm.shop.files import job_files


def damaged(change) -> str:
    data = Job().model_dump(mode="json")
    change(data)
    return json.dumps(data)


def test_a_job_comes_back_as_it_was(tmp_path, demo):
    for machine in ("Curlew", "Gannet", "Dunlin"):
        path = tmp_path / f"{machine}.json"
        job_files.write_text(path, job_files.dumps(demo(machine)))
        assert job_files.read_job(path) == demo(machine)


def test_the_schema_describes_units_and_bounds():
    schema = job_files.schema()
    volts = schema["$defs"]["Fan"]["properties"]["voltage_v"]
    assert (volts["unit"], volts["minimum"], volts["maximum"]) == ("V", 0, 30)
    assert schema["additionalProperties"] is False


FAULTS = [
    (
        lambda d: d["found"]["fan"].pop("voltage_v") and d["found"]["fan"].update(voltag_v=9.0),
        "Did you mean voltage_v?",
    ),
    (lambda d: d["found"]["fan"].update(voltage_v="nine"), 'found.fan.voltage_v is "nine"'),
    (lambda d: d["found"]["printing"].update(flow_mm3_s=-1.0), "greater than or equal to 0.05"),
    (lambda d: d["found"]["printing"].update(nozzle_c=1e308), "less than or equal to 500"),
    (lambda d: d.update(version="2.0"), "newer Zeotherm"),
    (lambda d: d.update(version="new"), "two numbers"),
    (lambda d: d.pop("format"), "no Zeotherm job"),
    (lambda d: d["found"]["hotend"].update(break_part="lined_steel"), "does not fit"),
    (lambda d: d.update(readings={"moon": {"value": 3.0}}), "no place that can be read"),
    (lambda d: d.update(readings={"sink_base": {"value": 9e9}}), "readings.sink_base.value"),
    (lambda d: d.update(catalogue={"materials": {"brass": {"conductivity_w_mk": {"value": -3.0}}}}), "greater than 0"),
    (lambda d: d.update(trial={"fan": {"voltage_v": 99.0}}), "voltage_v"),
    (lambda d: d.update(surprise=1), "surprise is not a known field"),
]


@pytest.mark.parametrize(("change", "says"), FAULTS, ids=[says[:24] for _change, says in FAULTS])
def test_faults_are_told_with_their_field(change, says):
    with pytest.raises(ShopError) as told:
        job_files.loads(damaged(change), "bad.json")
    assert says in str(told.value)
    assert "\n" not in str(told.value)
    assert str(told.value).startswith("bad.json")


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("", "is empty"),
        ("   ", "is empty"),
        ('{"format": "zeotherm-job", "found": {"fan"', "cut off"),
        ("[]", "no Zeotherm job"),
        ('{"format": "zeotherm-job", "number": NaN}', "NaN is no number"),
        ("[" * 100_000, "nested too deep"),
        ('{"format": "zeotherm-job", "x": Infinity}', "Infinity is no number"),
        (
            '{"format": "zeotherm-job", "found": {"fan": {"voltage_v": 12, "voltage_v": 24}}}',
            "is there twice",
        ),
    ],
)
def test_texts_that_are_no_job(text, says):
    with pytest.raises(ShopError, match=says):
        job_files.loads(text, "bad.json")


def test_files_that_cannot_be_read(tmp_path: Path, monkeypatch):
    with pytest.raises(ShopError, match="is a folder"):
        job_files.read_job(tmp_path)
    with pytest.raises(ShopError, match="no file"):
        job_files.read_job(tmp_path / "none.json")
    binary = tmp_path / "binary.json"
    binary.write_bytes(b"\xff\xfe\x00\x01")
    with pytest.raises(ShopError, match="no text"):
        job_files.read_job(binary)
    huge = tmp_path / "huge.json"
    with huge.open("wb") as file:
        file.truncate(200_000_000)
    with pytest.raises(ShopError, match="200 MB"):
        job_files.read_job(huge)
    monkeypatch.setattr(os, "open", lambda *_a, **_k: (_ for _ in ()).throw(PermissionError(13, "denied")))
    with pytest.raises(ShopError, match="may not be read"):
        job_files.read_job(binary)


def test_a_full_disk_leaves_the_old_file(tmp_path: Path, monkeypatch):
    path = tmp_path / "job.json"
    job_files.write_text(path, "old")

    def full(_handle):
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(os, "fsync", full)
    with pytest.raises(ShopError, match="No space left"):
        job_files.write_text(path, "new")
    assert path.read_text() == "old"
    assert [item.name for item in tmp_path.iterdir()] == ["job.json"]

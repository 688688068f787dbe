"""The stand-in for a power path and its instruments, against the model that shares nothing with it."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

import pytest

import zeotherm.shop.practice.virtual_path
from zeotherm.core.catalogue import shipped
from zeotherm.core.parts.power.judge.answer import first_power
from zeotherm.core.parts.power.judge.readings import from_drop, from_warmth
from zeotherm.core.runs.thermal_picture import spots_of
from zeotherm.shop.files.picture_files import as_document, read_picture
from zeotherm.shop.practice.virtual_path import PathSetting, plug_picture, survey


def test_it_imports_nothing_of_the_model():
    text = Path(zeotherm.shop.practice.virtual_path.__file__).read_text(encoding="utf-8")
    assert "zeotherm" not in text


def test_the_demos_readings_are_its_own(demo):
    read, kept = survey(PathSetting()), demo("Dunlin").readings
    told = {key: one.value for key, one in kept.items()}
    assert told["power_plug"] == read.plug_c
    assert told["power_plug_drop"] == read.drop_v
    assert told["power_wall"] == read.wall_w


@pytest.mark.parametrize("springs", [(0.046, 0.043, 0.049, 0.15), (0.03, 0.028, 0.033, 0.031), (0.09, 0.08, 0.2, 0.3)])
def test_meter_and_camera_find_its_milliohms(demo, springs):
    job = demo("Dunlin")
    read = survey(replace(PathSetting(), springs=springs))
    answer = first_power(job.found, shipped())
    drop = from_drop(read.drop_v, read.amps, 0.002, 0.02 * read.amps)
    assert abs(drop.milliohm - read.true_milliohm) < drop.up
    warm = from_warmth(answer, "plug", read.plug_c, 2.0)
    assert -warm.down < read.true_milliohm - warm.milliohm < warm.up


def test_a_thermal_picture_of_the_plug_tells_its_milliohms(demo, tmp_path):
    setting = PathSetting()
    lines = [",".join(f"{value:.1f}" for value in row) for row in plug_picture(setting)]
    head = ["# label: plug under load", "# region bed plug: 25 35 50 65", "# emissivity: 0.93",
            f"# mirrors: {setting.room}"]  # fmt: skip
    path = tmp_path / "plug.csv"
    path.write_text("\n".join([*head, *lines]) + "\n", encoding="utf-8")
    warm = spots_of(as_document(read_picture(path), path.name))["bed plug"]
    read = survey(setting)
    assert abs(warm - read.plug_c) < 2.0
    told = from_warmth(first_power(demo("Dunlin").found, shipped()), "plug", warm, 2.0)
    assert -told.down < read.true_milliohm - told.milliohm < told.up

"""What is typed of a hotend that is put together: parts into slots, figures as what is wanted, the rest refused."""

from __future__ import annotations

import pytest

from zeotherm.core.catalogue import shipped
from zeotherm.core.machine.documents import Job
from zeotherm.shop.editing import edits
from zeotherm.shop.editing.build_edits import line_as_build, with_build
from zeotherm.shop.editing.edits import RefusedError
from zeotherm.shop.errors import ShopError
from zeotherm.shop.files import job_files

CATALOGUE = shipped()


def after(line: str, job: Job | None = None) -> Job:
    return line_as_build(job or Job(), line, CATALOGUE)


def test_a_part_goes_into_its_slot_and_brings_what_goes_with_it():
    build = after("break bimetal").build
    assert build.change["hotend"] == {"break_part": "bimetal", "neck_wall_factor": 1.0, "sink_joint": "pasted"}
    assert after("fan 40 mm 24 V").build.change["fan"]["part"] == "axial_40_24v"
    assert after("sensor platinum").build.change["hotend"]["sensor"].startswith("platinum")


def test_a_figure_is_what_is_wanted_or_one_of_a_part():
    assert after("nozzle 255").build.nozzle_c == 255.0
    assert after("flow 12").build.flow_mm3_s == 12.0
    assert after("PETG").build.plastics == ["petg"]
    assert after("ABS", after("PETG")).build.plastics == ["petg", "abs"]
    assert after("nozzle 0.6 mm").build.change["hotend"]["nozzle_mm"] == 0.6


@pytest.mark.parametrize("line", ["bed 60", "sink base 54.1", "hinges", "fan duct 12 parsecs"])
def test_what_is_nothing_of_a_hotend_is_refused_in_words(line):
    with pytest.raises(RefusedError, match=r"\w"):
        after(line)


def test_nothing_wrong_is_kept_and_the_build_goes_to_a_file_and_back():
    with pytest.raises(RefusedError, match="480"):
        with_build(Job(), nozzle_c=900.0)
    with pytest.raises(RefusedError):
        with_build(Job(), change={"hotend": {"nozzle_mm": -1.0}})
    job = after("break bimetal", with_build(Job(), plastics=["petg"], air_c=50.0))
    assert job_files.loads(job_files.dumps(job)).build == job.build
    assert job_files.loads(job_files.dumps(Job())).build == Job().build


def test_a_build_goes_aside_with_its_toolhead_and_carries_its_own_parts():
    two = Job.model_validate({"found": {"toolheads": {"T1": {}}}})
    built = after("break bimetal", two)
    turned = edits.with_in_front(built, "T1")
    assert turned.build == Job().build
    assert edits.with_in_front(turned, two.found.toolhead).build == built.build
    parts = {"fans": {"own_loud": {"label": "Fan from the drawer"}, "own_other": {"label": "Another"}}}
    built = with_build(edits.with_parts(Job(), parts), change={"fan": {"part": "own_loud"}})
    assert list(edits.with_used_parts(built, parts).catalogue["fans"]) == ["own_loud"]


def test_a_file_with_a_build_that_is_no_change_of_a_machine_says_where():
    text = job_files.dumps(after("nozzle 0.6 mm")).replace('"nozzle_mm": 0.6', '"nozzle_mm": -1.0')
    assert "-1.0" in text
    with pytest.raises(ShopError, match=r"build\.change"):
        job_files.loads(text)

"""The shop's own parts as files: written and read again, handed on as tables, and wrong ones refused at their place."""

from __future__ import annotations

import csv
import io
import json
import re

import pytest

from zeotherm.core.catalogue import shipped
from zeotherm.core.catalogue.own import Stated, made_like, parts_on
from zeotherm.core.machine.documents import Job, patched
from zeotherm.shop.editing import edits
from zeotherm.shop.errors import ShopError
from zeotherm.shop.files import shelf_files
from zeotherm.shop.files.shelf_files import Drawer, Shelf

CATALOGUE = shipped()
KEY, LOUD = made_like(CATALOGUE, "fans", "axial_40_24v", "Loud 50", {"flow_m3_h": Stated(21.0, 1.0)})
SHELF = Shelf().with_part("fans", KEY, LOUD).with_drawer("fans", KEY, Drawer(price=4.5, count=3))


def test_a_shelf_comes_back_as_it_was(tmp_path):
    path = tmp_path / "parts.json"
    assert shelf_files.read_shelf(path) == Shelf()
    shelf_files.write_shelf(path, SHELF)
    again = shelf_files.read_shelf(path)
    assert shelf_files.dumps(again) == shelf_files.dumps(SHELF)
    assert again.kept("fans", KEY) == Drawer(price=4.5, count=3)
    assert SHELF.with_part("fans", KEY, None) == Shelf()


def test_the_schema_has_every_shelf_and_all_that_it_names():
    schema = shelf_files.schema()
    assert set(schema["properties"]["parts"]["properties"]) == set(CATALOGUE.own_figures)
    assert schema["$defs"]["FanKind"]["properties"]["rated_v"]["exclusiveMinimum"] == 0
    named = set(re.findall(r'"#/\$defs/(\w+)"', json.dumps(schema)))
    assert named <= set(schema["$defs"])


@pytest.mark.parametrize("kind", list(CATALOGUE.own_figures))
def test_every_shelf_is_a_table_that_brings_nothing_new(tmp_path, kind):
    text = shelf_files.as_csv(kind, CATALOGUE, Shelf())
    rows = list(csv.DictReader(io.StringIO(text)))
    assert [row["key"] for row in rows] == list(parts_on(CATALOGUE, kind))
    path = tmp_path / f"{kind}.csv"
    path.write_text(text, encoding="utf-8")
    found = shelf_files.taken_in(path, Shelf())
    assert (found.shelf, found.new, found.left_out) == (Shelf(), 0, ())


def test_own_parts_go_out_and_in_as_a_table(tmp_path):
    own = CATALOGUE.with_own(shelf_files.parts_of(SHELF))
    text = shelf_files.as_csv("fans", own, SHELF, own_only=True)
    path = tmp_path / "ours.csv"
    path.write_text(text.replace("Loud 50,,", "Loud 50,axial_40_24v,").replace(",", ";"), encoding="utf-8")
    found = shelf_files.taken_in(path, Shelf())
    assert found.new == 1
    made = CATALOGUE.with_own(shelf_files.parts_of(found.shelf)).fans[KEY]
    assert made.flow_m3_h[-1] == pytest.approx(21.0)
    assert made.curve_tolerance == pytest.approx(1.0 / 21.0, rel=1e-4)
    assert found.shelf.kept("fans", KEY) == Drawer(price=4.5, count=3)


def test_what_is_there_already_stays_and_is_told(tmp_path):
    other = {**LOUD, "rated_v": 12.0, "start_v": 5.0}
    path = tmp_path / "theirs.json"
    path.write_text(shelf_files.dumps(Shelf().with_part("fans", KEY, other)), encoding="utf-8")
    found = shelf_files.taken_in(path, SHELF)
    assert (found.shelf, found.new) == (SHELF, 0)
    assert found.left_out == ("Loud 50 is there already, with other figures: it stays as it was",)
    assert shelf_files.taken_in(path, Shelf()).new == 1


def changed(**parts: object) -> str:
    return json.dumps({"format": "zeotherm-shelf", "version": "1.0", **parts})


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("", "is empty"),
        ('{"format": "zeotherm-job"}', "is no Zeotherm shelf"),
        (changed(parts={"wheels": {}}), "parts.wheels is no shelf; there are filaments"),
        (changed(parts={"fans": {"axial_40_24v": LOUD}}), "parts.fans.axial_40_24v is a shipped part"),
        (changed(parts={"fans": {"own_a": {**LOUD, "rated_v": 0.0}}}), "fans.own_a.rated_v"),
        (changed(parts={"fans": {"own_a": LOUD, "own_b": LOUD}}), "two parts called 'loud 50'"),
        (changed(drawer={"fans": {"own_a": {"count": -1}}}), "drawer.fans.own_a.count"),
        (changed(shelf={}), "shelf is not a known field"),
        (",,\n,,\n", "columns 'shelf' and 'name' are missing"),
        ("shelf,name,most like,key\nfans,A,axial_40_24v,My key\n", "line 2: 'My key' is no key"),
        ("shelf,name,most like\n\n,,\nfans,A,axial_99\n", "line 4: 'axial_99'"),
        ("shelf,name,most like,count\nfans,A,axial_40_24v,2.5\n", "count: 2.5 is no whole number"),
        ("shelf,name,most like,rated_v ±,rated_v\nfans,A,axial_40_24v,1,24\n", "Rated volts has no tolerance"),
        (changed(parts={"fans": {"own-a": LOUD}}), "parts.fans: 'own-a' is no key"),
        ("shelf,key\nfans,a\n", "columns 'shelf' and 'name' are missing"),
        ("shelf,name,most like\nwheels,A,b\n", "line 2: There is no shelf 'wheels'"),
        ("shelf,name,most like\nfans,A,axial_99\n", "'axial_99' under 'most like' is no key of the fans"),
        ("shelf,name,most like,flow_m3_h\nfans,A,axial_40_24v,900\n", "line 2: Free flow goes from 0.5 to 200"),
        ("shelf,name,most like,flow_m3_h\nfans,A,axial_40_24v,fast\n", "flow_m3_h: 'fast' is no number"),
        ("shelf,name,most like,count\nfans,A,axial_40_24v,-2\n", "count"),
        ('shelf,name\nfans,"A\n', "is no table"),
    ],
)
def test_a_wrong_file_is_refused_and_nothing_is_taken(tmp_path, text, says):
    path = tmp_path / "wrong.file"
    path.write_text(text, encoding="utf-8")
    with pytest.raises(ShopError) as refused:
        shelf_files.taken_in(path, SHELF)
    assert says in str(refused.value)
    assert str(refused.value).endswith(".")


def test_a_job_carries_the_parts_that_it_speaks_of():
    parts = shelf_files.parts_of(SHELF.with_part("fans", "own_other", {**LOUD, "label": "Another"}))
    job = edits.with_parts(Job(), parts)
    assert edits.with_used_parts(job, parts) == Job()
    fitted = edits.with_used_parts(edits.with_part(job, "fan.part", KEY), parts)
    assert set(fitted.catalogue["fans"]) == {KEY}
    assert edits.with_used_parts(edits.with_parts(fitted, parts), parts) == fitted
    tried = edits.with_used_parts(edits.with_parts(Job(trial={"fan": {"part": KEY}}), parts), parts)
    assert set(tried.catalogue["fans"]) == {KEY}
    newer = {**LOUD, "rated_v": 12.0, "start_v": 5.0}
    assert edits.with_entry(fitted, "fans", KEY, newer).catalogue["fans"][KEY] == newer
    assert edits.with_entry(Job(), "fans", KEY, newer) == Job()
    assert patched(fitted.found, {}) == fitted.found

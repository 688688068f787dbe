"""The numbers stay what they are, unless somebody means to change them."""

from __future__ import annotations

import json

import pytest

from tests.golden.answers import FILE, Told, answers, demo, of_hours
from zeotherm.core.catalogue import shipped
from zeotherm.core.machine.documents import Setup, patched

KEPT = json.loads(FILE.read_text())
FIRST = 12  # machines that every run of the tests asks; the others are asked by ./run verify
ANYWHERE, HERE = 1e-6, 1e-9  # to which numbers are the same on any processor, and on the one that wrote them


def same(found: Told, kept: Told, to: float) -> None:
    assert set(found) == set(kept)
    off = {name: (found[name], kept[name]) for name in kept
           if found[name] != pytest.approx(kept[name], rel=to, abs=to)}  # fmt: skip
    assert not off


@pytest.mark.parametrize("name", sorted(KEPT["demo"]))
def test_the_demo_answers_as_before(name):
    setup = dict(demo())[name]
    same(answers(setup, shipped()) | of_hours(setup, shipped()), KEPT["demo"][name], ANYWHERE)


def test_machines_of_every_kind_answer_as_before():
    for one in KEPT["machines"][:FIRST]:
        same(answers(patched(Setup(), one["machine"]), shipped()), one["answers"], ANYWHERE)


@pytest.mark.verify
def test_all_of_them_answer_as_before():
    for one in KEPT["machines"]:
        same(answers(patched(Setup(), one["machine"]), shipped()), one["answers"], HERE)

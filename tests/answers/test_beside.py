"""What stands beside the hotend: every part that is there has its section, whatever goes wrong with it."""

from __future__ import annotations

import itertools
from dataclasses import replace

import pytest

from tests.all_known import all_known
from zeotherm.answers import beside
from zeotherm.answers.beside import parts_beside
from zeotherm.answers.processes import answer_of
from zeotherm.answers.store import Store
from zeotherm.core.catalogue import shipped
from zeotherm.core.catalogue.lookup import DoesNotFitError
from zeotherm.core.judgement.margins import State
from zeotherm.core.machine.documents import Job, patched
from zeotherm.core.parts.part import Part
from zeotherm.core.parts.registry import PARTS
from zeotherm.core.questions import Stage
from zeotherm.core.solver.axisymmetric import CancelledError
from zeotherm.core.solver.plate import NotSettledError
from zeotherm.shop.papers.other_parts import other_parts
from zeotherm.wording.parts import words_of
from zeotherm.wording.verdict import Verdict

WRONG = (
    NotSettledError("no rest"),
    DoesNotFitError("bed.part", "does not fit"),
    ValueError("inside"),
    RuntimeError("x"),
)


def failing(wrong: Exception, key: str = "bed") -> Part:
    """A part that is there and has no answer."""

    def work(*_given, cancelled):
        raise wrong

    stage = Stage(f"failing {wrong!r}", work)
    return replace(PARTS[key], present=lambda _setup, _catalogue: True, rest=stage)


def test_every_part_that_can_be_there_has_its_words():
    for part in PARTS.values():
        words = words_of(part)
        assert words.LABEL
        assert words.NEEDS.endswith(".")
        assert words.nothing().state is State.UNKNOWN
        assert set(words.ASKED) <= {one.name for one in part.asides}


@pytest.mark.parametrize("wrong", WRONG, ids=lambda one: type(one).__name__)
@pytest.mark.parametrize("parts", [some for n in (1, 2, 3) for some in itertools.combinations(PARTS, n)], ids="+".join)
def test_a_part_that_fails_leaves_its_section_and_the_others(parts, wrong, monkeypatch):
    job, catalogue = all_known(Job(found=patched(Job().found, {"bed": {"target_c": 0.0}}))), shipped()
    there = {key: failing(wrong, key) if key in parts else one for key, one in PARTS.items()}
    present = {key for key, one in there.items() if one.present(job.setup(), catalogue)}
    monkeypatch.setattr(beside, "PARTS", there)
    monkeypatch.setattr(beside, "answered_hours", no_hours)
    found = answer_of(parts_beside(Store(), job, catalogue))
    assert set(found) == present >= set(parts)
    told = other_parts(job, found)
    assert [one.label for one in told] == [words_of(PARTS[key]).LABEL for key in found]
    for key, one in zip(found, told, strict=True):
        assert (one.told.state is State.UNKNOWN) == (key in parts)
        assert (one.told.headline.startswith("Not judged: ")) == (key in parts)


def no_hours(*_given):
    return None
    yield


def test_who_no_longer_wants_it_is_no_failure_of_a_part(monkeypatch):
    monkeypatch.setattr(beside, "PARTS", {"bed": failing(CancelledError())})
    monkeypatch.setattr(beside, "answered_hours", no_hours)
    with pytest.raises(CancelledError):
        answer_of(parts_beside(Store(), Job(), shipped()))


def test_what_is_wrong_inside_is_not_printed(monkeypatch):
    monkeypatch.setattr(beside, "PARTS", {"bed": failing(ValueError("index 3 is out of bounds"))})
    monkeypatch.setattr(beside, "answered_hours", no_hours)
    [told] = other_parts(Job(), answer_of(parts_beside(Store(), Job(), shipped())))
    assert told.told == Verdict("Not judged: the model failed on this; the log says more", "", State.UNKNOWN)

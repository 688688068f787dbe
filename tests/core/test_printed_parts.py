"""Printed parts one by one: each of its own plastic, at its own place, judged by its own limit."""

from __future__ import annotations

import pytest
from pydantic import ValidationError

from tests.all_known import all_known
from zeotherm.core.catalogue import shipped
from zeotherm.core.judgement.margins import State
from zeotherm.core.judgement.standing import not_told
from zeotherm.core.machine.documents import Job, Setup, changed_paths, declaration, patched
from zeotherm.core.machine.patches import patch_value, sets
from zeotherm.core.parts.enclosure.judge.answer import first_case
from zeotherm.core.parts.enclosure.judge.protecting import printed_anew, protected
from zeotherm.core.parts.enclosure.judge.sure import with_case_bands
from zeotherm.shop.editing.edits import RefusedError, line_as_fact, said
from zeotherm.wording.enclosure import own_warmth, verdict

CATALOGUE = shipped()
CASED = {"surroundings": {"air_from": "case"}, "bed": {"target_c": 90.0},
         "case": {"part": "side_vented", "vents_open_pct": 0.0, "printed_plastic": "pc", "heater_w": 500.0,
                  "heater_at": "roof", "target_c": 60.0}}  # fmt: skip

SUN = {"sun": {"label": "Sun", "into": "air", "watts": 250.0, "from_h": 0.0, "to_h": 24.0}}


def cased(**printed) -> Setup:
    return patched(Setup(), {**CASED, "printed": printed})


def test_each_has_its_own_limit_and_place():
    low, high = ({"plastic": "abs", "at": at} for at in ("inside_low", "inside_high"))
    answer = with_case_bands(first_case(cased(P2=low, P3=high, P4={"plastic": "pla", "at": "outside"}), CATALOGUE))
    values, by_key = answer.values, {one.key: one for one in answer.margins}
    assert values["P2.case_printed"] < values["P3.case_printed"] - 1.0
    assert values["P4.case_printed"] == pytest.approx(25.0, abs=3.0)
    first, second = by_key["case_printed"], by_key["P2.case_printed"]
    assert first.limit - second.limit == pytest.approx(
        CATALOGUE.filaments["pc"].softening_c.value - CATALOGUE.filaments["abs"].softening_c.value
    )
    assert by_key["P3.case_printed"].band.down > 0.0
    assert not [key for key in by_key if key.startswith(("P5", "S"))]


def test_the_softest_leads_and_is_helped_by_its_number():
    duct = {"name": "fan duct", "plastic": "pla", "at": "inside_high"}
    answer = first_case(patched(cased(P2=duct), {"case": {"target_c": 0.0}, "heats": SUN}), CATALOGUE)
    assert answer.worst.key == "P2.case_printed"
    assert answer.worst.state is State.OVER
    assert verdict(answer).headline.startswith("Printed part P2 gets")
    assert not any("fan duct" in line for line in own_warmth(answer))  # it makes no heat of its own
    found = protected(answer, 60.0)
    weak = next(one for one in found.parts if one.station == "P2.case_printed")
    assert "P2.printed_asa" in [one.key for one in weak.ways]
    assert patch_value(weak.way.protection.change, "printed.P2.plastic") in printed_anew(found)
    helped = patched(answer.setup, weak.way.protection.change)
    assert changed_paths(answer.setup, helped) == ("printed.P2.plastic",)


def test_nobody_told_of_its_plastic_is_never_sound():
    job = all_known(Job(found=cased(P2={})))
    left = job.model_copy(
        update={"known": {path: one for path, one in job.known.items() if not path.startswith("printed.")}}
    )
    assert list(not_told(left, "case", CATALOGUE)) == ["P2.printed_parts"]
    fact = CATALOGUE.facts["P2.printed_parts"]
    assert {patched(job.found, one.change).printed["P2"].plastic for one in fact.may_be} == {"petg", "abs", "pla", "pc"}


@pytest.mark.parametrize(
    ("line", "name", "plastic", "at"),
    [
        ("second printed part PLA inside low", "", "pla", "inside_low"),
        ("printed fan duct, PLA, at the roof", "fan duct", "pla", "inside_high"),
        ("printed bracket is ABS", "bracket", "abs", "inside_high"),
        ("add P2 tool holder PC outside", "tool holder", "pc", "outside"),
        ("another printed part", "", "petg", "inside_high"),
    ],
)
def test_one_more_is_said_in_plain_words(line, name, plastic, at):
    one = line_as_fact(Job(), line).found.printed["P2"]
    assert (one.name, one.plastic, one.at) == (name, plastic, at)


def test_told_corrected_and_taken_out():
    job = said(said(Job(), "printed fan duct, PLA"), "P2 ABS inside low")
    assert (job.found.printed["P2"].plastic, job.found.printed["P2"].name) == ("abs", "fan duct")
    assert set(job.known) == {"printed.P2.plastic", "printed.P2.at"}
    assert declaration("printed.P2.plastic").label == "P2 plastic"
    gone = said(job, "without P2")
    assert not gone.found.printed
    assert not gone.known


@pytest.mark.parametrize(
    ("line", "why"),
    [
        ("P2 PLA", "There is no P2"),
        ("P9 PLA", "Further printed parts are numbered P2 to P6."),
        ("printed mount of PC-XZ", "is not clear"),
        ("printed nonsense", "No part is called"),
        ("without P3", "There is no P3"),
    ],
)
def test_what_is_not_clear_is_told_and_nothing_changes(line, why):
    with pytest.raises(RefusedError, match=why):
        said(Job(), line)


def test_a_number_that_there_is_not_is_refused():
    with pytest.raises(ValidationError, match=r"printed\.P1: their numbers are P2 to P6"):
        patched(Setup(), {"printed": {"P1": {}}})
    five = Job(found=patched(Setup(), {"printed": {f"P{n}": {} for n in range(2, 7)}}))
    with pytest.raises(RefusedError, match="six kinds of printed parts already"):
        said(five, "another printed part")


def test_what_a_patch_sets():
    patch = {"bed": {"insulation": None}, "printed": {"P2": {"plastic": "asa"}}}
    assert sets(patch, "bed.insulation")
    assert patch_value(patch, "bed.insulation") is None
    assert not sets(patch, "printed.P3.plastic")
    assert not sets(patch, "bed.insulation.deeper")

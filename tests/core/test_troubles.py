"""Troubles of any part: what is asked about each, what every bench knows of their causes, and what comes before all."""

from __future__ import annotations

import re
from pathlib import Path

import pytest

from zeotherm.core.catalogue import shipped
from zeotherm.core.catalogue.knowledge import ANY
from zeotherm.core.causes.next_check import plan
from zeotherm.core.causes.ranking import Facts, Table
from zeotherm.core.causes.worlds import hypotheses
from zeotherm.core.machine.documents import Job, Setup
from zeotherm.shop.editing import edits
from zeotherm.shop.editing.edits import RefusedError
from zeotherm.shop.files import job_files

CATALOGUE = shipped()
TROUBLES = tuple(key for key in CATALOGUE.troubles if key != "hotend")
LINES = (Path(__file__).parent / "troubles.txt").read_text(encoding="utf-8").splitlines()
FACTS = [tuple(part.strip() for part in line.split("|")) for line in LINES if not line.startswith("#")]


def table(trouble: str) -> Table:
    about = CATALOGUE.of_trouble(trouble)
    return Table(hypotheses(Setup(), about), {}, about)


def told(answers: str) -> Facts:
    return Facts({asked: (option,) for asked, _dot, option in (one.partition(".") for one in answers.split())})


@pytest.mark.parametrize(("trouble", "answers", "first", "why"), FACTS, ids=[one[2] for one in FACTS])
def test_what_every_bench_knows(trouble, answers, first, why):
    assert table(trouble).rank(told(answers)).first.key == first, why


@pytest.mark.parametrize("trouble", TROUBLES)
def test_every_cause_leads_when_all_speaks_for_it(trouble):
    found = table(trouble)
    for key, cause in found.catalogue.causes.items():
        best: dict[str, tuple[float, str]] = {}
        for answer, (share, _reason) in cause.shows.items():
            asked, _dot, option = answer.partition(".")
            if found.catalogue.asked[asked].kind == "one" and share > best.get(asked, (0.3, ""))[0]:
                best[asked] = (share, option)
        if best:
            facts = Facts({asked: (option,) for asked, (_share, option) in best.items()})
            assert found.rank(facts).first.key == key, key


def test_causes_are_many_and_each_number_has_its_reason():
    assert len(CATALOGUE.causes) >= 60
    for key, cause in CATALOGUE.causes.items():
        assert cause.why, key
        assert cause.mends, key
        assert all(len(reason) > 3 for _share, reason in cause.shows.values()), key
    for trouble in CATALOGUE.troubles:
        about = CATALOGUE.of_trouble(trouble)
        assert about is CATALOGUE.of_trouble(trouble)
        assert {one.about for one in (*about.causes.values(), *about.asked.values())} <= {trouble, ANY}
        assert "other" in about.causes, "no list is complete"
    assert CATALOGUE.of_trouble("attic") is CATALOGUE.of_trouble("hotend")


@pytest.mark.parametrize("trouble", CATALOGUE.troubles)
def test_smoke_a_browned_plug_and_a_tripped_protection_come_before_any_question(trouble):
    for asked, about in CATALOGUE.of_trouble(trouble).asked.items():
        for key, option in about.options.items():
            hurts = re.search(r"[Ss]mells(?! at)|[Bb]rowned(?!, narrowed)|[Tt]rips|clicks off", option.label)
            if hurts:
                assert "unplug" in option.first.lower(), f"{asked}.{key}: {option.label}"


def test_no_check_asks_for_hands_at_live_mains():
    for key, check in CATALOGUE.checks.items():
        if check.about == "hotend":
            continue
        how = check.how.lower()
        if re.search(r"(meter across|terminal|ferrule|its plug|the plug\b|wires?\b|leads?\b)", how):
            assert re.search(r"plug out|unplugged|switched off|from outside|plug-in meter|machine cold", how), key
        assert not re.search(r"open the supply|remove the cover|live wire|probe the mains", how), key
        if "mains" in check.signs:
            assert re.search(r"plug out|unplugged|switched off", how), key


@pytest.mark.parametrize("trouble", TROUBLES)
def test_a_check_is_proposed_and_asking_stops(trouble):
    found = table(trouble)
    first = next(iter(found.catalogue.questions))
    facts = Facts({first: (next(iter(found.catalogue.questions[first].options)),)})
    assert plan(found, facts, Setup()).checks
    answers = {asked: (next(iter(about.options)),) for asked, about in found.catalogue.asked.items()}
    assert plan(found, Facts(answers), Setup()).enough


def test_a_trouble_is_said_and_follows_what_is_told():
    job = edits.with_trouble(Job(), "bed")
    assert job.intake.trouble == "bed"
    job = edits.with_answer(job, "wire_wrong", "browned")
    assert job.intake.trouble == "wiring"
    assert edits.with_answer(job, "wire_wrong", "browned").intake.answers == {}
    with pytest.raises(RefusedError, match="attic"):
        edits.with_trouble(job, "attic")
    kept = job_files.loads(job_files.dumps(job))
    assert kept.intake == job.intake
    strange = job_files.loads(job_files.dumps(job).replace('"trouble": "wiring"', '"trouble": "attic"'))
    assert "intake.trouble is 'attic'" in "; ".join(job_files.unknown_answers(strange, CATALOGUE))

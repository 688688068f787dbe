"""What a verdict stands on: facts that nobody told, what decides, and that unknown is never sound."""

import itertools
import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.machines_known import least
from zeotherm.answers.hotend import hours
from zeotherm.answers.store import Store
from zeotherm.core.catalogue import shipped
from zeotherm.core.catalogue.knowledge import Fact
from zeotherm.core.causes.next_check import facts_to_find
from zeotherm.core.judgement.bands import Band
from zeotherm.core.judgement.deciding import deciding_of, may_be
from zeotherm.core.judgement.limits import Held
from zeotherm.core.judgement.margins import State, margin_at, probability_positive
from zeotherm.core.judgement.standing import (
    ALL_KNOWN,
    Deciding,
    Doubtful,
    Standing,
    counts_for,
    not_told,
    standing,
)
from zeotherm.core.judgement.telling import bits_told, entropy
from zeotherm.core.machine.documents import Job, Setup, changed_paths, declaration, patched
from zeotherm.core.machine.known import Known, how_known, told_by_older
from zeotherm.core.machine.patches import sets
from zeotherm.core.machine.quantity import Quantity
from zeotherm.core.machine.toolheads import setup_with
from zeotherm.core.parts.hotend.judge.ask import full_answer
from zeotherm.core.parts.hotend.judge.course import plan
from zeotherm.core.parts.hotend.judge.deciding import deciding
from zeotherm.core.parts.registry import PARTS
from zeotherm.shop.files.job_files import read_job
from zeotherm.shop.places import demo_jobs
from zeotherm.wording.parts import verdict_on, words_of
from zeotherm.wording.standing import assumed, open_reason

CATALOGUE = shipped()
SIDES = st.floats(0.0, 50.0)


def decided(job: Job) -> tuple[Deciding | None, float]:
    """What decides a job's verdict, and the room that it speaks of."""
    course = plan(job.setup(), CATALOGUE)
    answer = full_answer(course.answer(course.worst_time), course=course, time=course.worst_time)
    assert answer.worst.room is not None
    return deciding(answer, course, not_told(job, "hotend", CATALOGUE), frozenset(job.known)), answer.worst.room


def known(*paths: str) -> dict:
    return {path: {"how": "entered"} for path in paths}


# the list of facts


NOT_THERE = ("T0", "T2", "T3", "S3", "S4", "P3", "P4", "P5", "P6")  # on the machine that facts are tried on


@pytest.mark.parametrize("key", [one for one in CATALOGUE.facts if one[:2] not in NOT_THERE])
def test_every_fact_speaks_of_what_a_machine_has(key):
    fact = CATALOGUE.facts[key]
    twin = setup_with(patched(Setup(), {"supplies": {"S2": {}}, "printed": {"P2": {}}}), "T1")
    assert all(twin.has(path) for path in fact.paths)
    assert {fact.part, *fact.also} <= {"hotend", *PARTS}
    changes = [one.change for one in fact.may_be]
    assert all(any(sets(change, path) for path in fact.paths) for change in changes)
    for change in changes:
        patched(twin, change)  # raises where it does not fit
    item = declaration(fact.paths[0])
    if fact.between is not None or fact.within is not None or fact.within_pct is not None:
        assert isinstance(item, Quantity)
    if fact.between is not None:
        assert item.low <= fact.between[0] < fact.between[1] <= item.high


@pytest.mark.parametrize("wrong", [
    {"between": (1.0, 2.0), "within": 3.0}, {"between": (2.0, 1.0)}, {"within": 1.0, "paths": ("fan.part", "bed.part")},
])  # fmt: skip
def test_a_fact_that_says_two_things_is_refused(wrong):
    with pytest.raises(ValueError, match=r"one of between|comes first"):
        Fact.model_validate({"label": "x", "find": "look", "minutes": 1.0, "paths": ("fan.part",), **wrong})


def test_what_a_fact_needs_says_whether_it_counts():
    lined = patched(Setup(), {"hotend": {"template": "compact_lined", "break_part": "lined_steel"}})
    cased = patched(Setup(), {"surroundings": {"air_from": "case"}, "case": {"part": "side_vented"}})
    assert not counts_for(CATALOGUE.facts["liner_preload"], "hotend", Setup(), CATALOGUE)
    assert counts_for(CATALOGUE.facts["liner_preload"], "hotend", lined, CATALOGUE)
    assert counts_for(CATALOGUE.facts["fan_air"], "hotend", Setup(), CATALOGUE)
    assert not counts_for(CATALOGUE.facts["fan_air"], "hotend", cased, CATALOGUE)
    assert counts_for(CATALOGUE.facts["vents"], "hotend", cased, CATALOGUE)
    assert counts_for(CATALOGUE.facts["bed_set"], "hotend", cased, CATALOGUE)  # it warms the case
    assert not counts_for(CATALOGUE.facts["sink_fan"], "bed", cased, CATALOGUE)


# what is known


def test_a_value_is_assumed_until_somebody_enters_it():
    job = Job.model_validate({"known": {"fan.voltage_v": {"how": "measured", "about": "multimeter"}}})
    assert how_known(job.known, "fan.voltage_v") == "measured"
    assert how_known(job.known, "fan.part") == "assumed"
    facts = not_told(job, "hotend", CATALOGUE)
    assert "sink_fan" in facts
    assert "sink_fan_volts" not in facts


def test_what_is_on_trial_counts_as_entered():
    job = Job.model_validate({"trial": {"fan": {"part": "axial_40_24v"}}})
    assert "sink_fan" not in not_told(job, "hotend", CATALOGUE)


def test_an_older_job_knows_what_differs_from_a_default():
    found = {"fan": {"voltage_v": 9.1, "part": "axial_30_24v"}, "corrections": {"fin_film": 0.8}}
    older = {"version": "1.13", "found": found, "tolerances": {"fan.voltage_v": 0.1, "hotend.nozzle_mm": 0.01}}
    job = Job.model_validate(older)
    how = {path: one.how for path, one in job.known.items()}
    assert how == {"fan.voltage_v": "measured", "corrections.fin_film": "fitted", "hotend.nozzle_mm": "measured"}
    assert Job.model_validate(job.model_dump(mode="json")) == job
    assert Job.model_validate({**older, "version": "1.14"}).known == {}
    assert told_by_older("nonsense", None, Setup()) == {}


def test_a_job_that_knows_what_no_machine_has_is_refused():
    with pytest.raises(ValueError, match=r"known names 'fan\.colour', which no machine has"):
        Job.model_validate({"known": known("fan.colour")})


def test_changed_paths_are_those_that_differ():
    other = patched(Setup(), {"fan": {"voltage_v": 9.0}, "bed": {"sheet": "glass"}})
    assert changed_paths(Setup(), other) == ("fan.voltage_v", "bed.sheet")
    assert changed_paths(other, other) == ()


# what decides


@given(st.lists(st.tuples(SIDES, SIDES), min_size=1, max_size=8), SIDES, SIDES)
def test_knowing_a_fact_never_widens_the_band_and_all_of_them_leave_the_models(sides, down, up):
    facts = tuple(Doubtful(str(n), *pair) for n, pair in enumerate(sides))
    known_by = Deciding("feed", facts, Band(down, up))
    assert known_by.now.down == pytest.approx(math.hypot(down, *(one.down for one in facts)))
    bands = [known_by.without(tuple(one.key for one in facts[:count])) for count in range(len(facts) + 1)]
    assert all(b.down <= a.down + 1e-9 and b.up <= a.up + 1e-9 for a, b in itertools.pairwise(bands))
    assert (bands[-1].down, bands[-1].up) == pytest.approx((down, up))
    assert known_by.first == known_by.decide[:3]
    assert all(one in known_by.facts for one in known_by.decide)


def test_a_verdict_is_open_until_nothing_that_is_assumed_decides():
    small = Deciding("feed", (Doubtful("vents", 0.5, 0.5),), Band(5.0, 5.0))
    large = Deciding("feed", (Doubtful("vents", 9.0, 0.5),), Band(5.0, 5.0))
    assert not ALL_KNOWN.open
    assert Standing(("vents",)).open  # not reckoned
    assert not Standing(("vents",), small).open
    assert Standing(("vents",), large).open
    assert Standing(("vents",), large).of("bore") is None


def test_a_fact_of_which_nothing_could_be_tried_never_counts_as_sound():
    own, size, fan = Band(5.0, 5.0), CATALOGUE.facts["enclosure_size"], CATALOGUE.facts["sink_fan"]
    for facts in ([("enclosure_size", size, [])], [("sink_fan", fan, None)]):
        found = deciding_of("feed", own, facts, CATALOGUE)
        assert found.untried == (facts[0][0],)
        assert found.decide == ()
        assert Standing((facts[0][0],), found).open
        assert "matters" not in assumed(Standing((facts[0][0],), found))
    ruled_out = deciding_of("feed", own, [("sink_fan", fan, [])], CATALOGUE)  # by what is known
    assert not Standing(("sink_fan",), ruled_out).open


def test_an_empty_job_stands_on_what_is_assumed_and_is_too_close_to_call():
    job = Job()
    found, room = decided(job)
    assert found is not None
    assert len(standing(job, "hotend", CATALOGUE).assumed) > 20
    assert len(found.first) == 3
    assert found.now.down > room > 0.0  # it would be sound as assumed, and may fail
    assert found.after.down < 0.7 * found.now.down


@pytest.mark.parametrize("path", demo_jobs(), ids=lambda path: path.stem)
def test_a_demo_with_its_facts_taken_away_is_open_for_every_part(path):
    job = read_job(path).model_copy(update={"known": {}, "trial": {}})
    found, _room = decided(job)
    assert found is not None
    assert found.decide
    for key, part in PARTS.items():
        if part.present(job.found, CATALOGUE):
            assert standing(job, key, CATALOGUE).open


@pytest.mark.parametrize(("machine", "part", "fact"), [
    ("gannet", "power", "bed_plug"), ("gannet", "case", "vents"), ("curlew", "bed", "bed_set"),
])  # fmt: skip
def test_the_facts_of_any_part_are_tried_and_a_told_one_decides_no_more(machine, part, fact):
    path = next(path for path in demo_jobs() if machine in path.stem)
    bare = read_job(path).model_copy(update={"known": {}, "trial": {}})
    store, of = Store(), PARTS[part]

    def deciding_of(job):
        return store.ask(of.deciding(job.found, job, CATALOGUE, hours(job.found, job, CATALOGUE)))

    first = deciding_of(bare)
    assert fact in [one.key for one in first.decide]
    assert all(one.through != first.limit for one in first.facts)
    told = bare.model_copy(update={"known": {path: Known() for path in CATALOGUE.facts[fact].paths}})
    after = deciding_of(told)
    assert fact not in [one.key for one in after.facts]
    assert after.now.down + after.now.up < first.now.down + first.now.up


def test_a_known_fact_moves_nothing_and_rules_out_what_contradicts_it():
    fan = CATALOGUE.facts["sink_fan"]
    assert len(list(may_be(Setup(), fan, frozenset()))) == 2
    left = [change for _share, change in may_be(Setup(), fan, frozenset({"fan.voltage_v"}))]
    assert left == [{"fan": {"part": "axial_40_24v"}}]  # the 12 V fan would need other volts
    ends = [change["fan"]["guard_blocked_pct"] for _s, change in may_be(Setup(), CATALOGUE.facts["sink_fan_guard"],
                                                                        frozenset())]  # fmt: skip
    assert ends == [60.0]  # nothing shut is what is assumed


def test_the_fact_that_decides_is_the_one_that_was_hidden():
    """A machine of which all is known but its warm air: the air decides, by what the model gives for it."""
    told = [fact for key, fact in CATALOGUE.facts.items() if key != "fan_air" and not fact.toolhead and fact.of is None]
    paths = [path for fact in told for path in fact.paths]
    job = Job.model_validate({"known": known(*paths)})
    found, _room = decided(job)
    assert found is not None
    assert [one.key for one in found.facts] == ["fan_air"]
    assert found.now.down == pytest.approx(math.hypot(found.own.down, found.facts[0].down))
    course = plan(job.found, CATALOGUE)
    margin = course.answer(course.worst_time).margin(found.limit)
    assert margin is not None
    warm = plan(patched(job.found, {"surroundings": {"fan_air_c": 42.0}}), CATALOGUE)
    by_hours = margin.clear_from * (least(course) - least(warm))
    assert found.facts[0].down == pytest.approx(by_hours, rel=0.1)


def test_what_decides_of_a_part_is_told_of_the_limit_that_its_verdict_speaks_of():
    kind = shipped().machines["all_metal_direct"]
    job = Job(found=patched(Setup(), kind.change))
    setup, part = job.setup(), PARTS["bed"]
    store = Store()
    answer = store.ask(part.in_full(setup, job, shipped(), None))
    deciding = store.ask(part.deciding(setup, job, shipped(), None))
    assert deciding.limit == answer.worst.key
    on = standing(job, "bed", shipped(), deciding)
    told = verdict_on(words_of(part), answer, on)
    assert told.state is State.UNKNOWN
    assert told.headline.startswith(("Too close to call", "As far as known"))


def test_a_fact_that_may_make_another_limit_the_worst_is_not_said_to_move_the_one_there_is():
    held = Held("board", CATALOGUE.limits["board"], "a test", "")
    worst = margin_at(None, held, 61.0, None)
    moving, other = Doubtful("vents", 4.0, 4.0), Doubtful("nozzle_gap", 9.0, 0.0, "cavity")
    for facts in ((moving,), (other,), (moving, other)):
        told = open_reason(worst, Deciding("board", facts, Band(1.0, 1.0)), CATALOGUE)
        assert told.startswith("Toolhead board 24.0 K room, ")
        assert ("most of it hangs on" in told) == (moving in facts)
        assert ("Cavity may be worst: that hangs on" in told) == (other in facts)


def test_what_a_fact_tells_is_what_drawing_it_many_times_tells():
    """Against 40 000 draws of two facts: the entropy that is left once one of them is known."""
    deciding = Deciding("sink_base", (Doubtful("a", 4.0, 4.0), Doubtful("b", 1.0, 2.0)), Band(2.0, 2.0))
    room, rng = 2.5, np.random.default_rng(5)
    told = bits_told(room, deciding)
    for one in deciding.facts:
        left = deciding.without((one.key,))
        z = rng.standard_normal(40_000)
        rooms = room + np.where(z > 0.0, one.up, one.down) * z / 1.96
        after = np.mean([entropy(probability_positive(float(each), left)) for each in rooms])
        now = entropy(probability_positive(room, deciding.now))
        assert told[one.key] == pytest.approx(now - after, abs=0.01)
    assert told["a"] > 4.0 * told["b"] > 0.0
    sure = bits_told(60.0, deciding)
    assert max(sure.values()) < 1e-6
    assert facts_to_find(60.0, deciding, CATALOGUE) == facts_to_find(None, deciding, CATALOGUE) == ()
